"""The right hand held over another bass: a drawing of the basses, what each makes, lines that go down."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QWidget

from yellow_hinge.motion.figures import more_words
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.grip_edits import Stand, stand_in
from yellow_hinge.tasks.swaps.held_hand import RUNS, HeldDesk, HeldHand, Run
from yellow_hinge.theory.pitch import Pitch
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui import kit
from yellow_hinge.ui.access import Painted
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given
from yellow_hinge.ui.theme import color, fitting_font, font, scaled
from yellow_hinge.ui.words import Label, Words

_COUNTS = {1: "this chord", 2: "this chord in two", 3: "this chord in three", 4: "this chord in four"}
#: So many places have room for everything that is to be said of a bass.
_WIDE_UP_TO = 2
_TOP, _END_WIDTH, _FOOT, _GAP = 62, 64, 6, 44


def run_words(run: Run) -> str:
    """How long the hand is held."""
    return f"{run.chords} chords" if run.chords > 1 else _COUNTS[run.counts]


def step_words(step: int | None) -> str:
    """A step of the bass: "down 2", "stays"; empty where there is no neighbour."""
    if step is None:
        return ""
    return "same" if step == 0 else f"{'up' if step > 0 else 'down'} {abs(step)}"


class HeldFace(ChordFace):
    """One bass a place of the run is chosen; the line through them is drawn, heard and taken."""

    acts = frozenset(("take_whole", "across", "turn", "mark"))

    def __init__(self, given: Given) -> None:
        super().__init__(given)
        document = given.document
        self._desk = Desk(document, HeldDesk)
        self.run = RUNS[0]
        self.looked: HeldHand | None = None
        self.places: tuple[int, ...] = ()
        self.spot = 0
        self.more = 0
        self._build()

    def _build(self) -> None:
        layout = kit.column(self)
        top = QHBoxLayout()
        self.words = Words()
        self.run_box = kit.choice(
            "How long the hand is held", "Over one chord, its counts, or the chords that follow",
            self._run_chosen, ((run_words(run), run) for run in RUNS),
        )  # fmt: skip
        top.addWidget(self.words, 1)
        kit.add_all(top, (Label("Held through"), self.run_box))
        layout.addLayout(top)
        self.drawing = BassStairs()
        self.drawing.chosen.connect(self.choose)
        layout.addWidget(self.drawing, 3)
        self.lines_heading = kit.heading("Lines that walk down under the hand (M: the next one)")
        layout.addWidget(self.lines_heading)
        self.lines = kit.named(QListWidget(), "Lines that walk down under the hand")
        self.lines.setWordWrap(True)
        self.lines.currentRowChanged.connect(self._line_chosen)
        layout.addWidget(self.lines, 2)
        self.sum = Words()
        layout.addWidget(self.sum)

    # --- looking ---

    def look(self) -> None:
        song, index, run, desk = self.document.song, self.index, self.run, self._desk()
        if not 0 <= index < len(song.slots):
            self._take_in(None)
            return
        self.worker.start(lambda *_: desk.look(song, index, run))

    def _take_in(self, result: Any) -> None:
        self.looked = result
        if result is not None:
            self.spot = min(self.spot, len(result.spots) - 1)
            self.places = result.now
        self.show_all()

    def _run_chosen(self) -> None:
        self.run, self.spot = self.run_box.currentData(), 0
        self.look()

    def show_all(self) -> None:
        """Everything from what was found and chosen."""
        looked = self.looked
        if looked is None:
            self.words.setText("No right hand sounds here: choose a chord that is voiced, with a right hand.")
            self.drawing.show_hand(None, (), 0)
            self.sum.setText("")
        else:
            self._show_lines(looked)
            self.more = self._desk().more(looked, self.places)
            self.drawing.show_hand(looked, self.places, self.spot)
            self._show_words(looked)
        long = looked is not None and len(looked.spots) > 1
        self.lines.setVisible(long)
        self.lines_heading.setVisible(long)
        self.changed.emit()

    def _show_lines(self, looked: HeldHand) -> None:
        said = []
        for line in looked.descents:
            row = looked.line(line.places)
            notes = " ".join(bass.bass.pretty for bass in row)
            chords = ", ".join(bass.chord.pretty for bass in row)
            said.append(f"{notes} ({more_words(line.more)} effort): {chords}")
        own = [line.places for line in looked.descents]
        none = ["None starts from the bass that is there or the one before."]
        kit.fill(self.lines, said or none, own.index(self.places) if self.places in own else -1)

    def _show_words(self, looked: HeldHand) -> None:
        notes = " ".join(pitch.pretty for pitch in held_pitches(looked))
        self.words.setText(f"The right hand holds {notes}. Up and Down choose a bass; comma, full stop: "
                           "the place.")  # fmt: skip
        row = looked.line(self.places)
        chords = ", ".join(bass.chord.pretty for bass in row)
        reading = pretty_accidentals(row[self.spot].reading)
        self.sum.setText(
            f"{chords}: {more_words(self.more)} half steps of effort around here, against what sounds now. "
            f"{reading[:1].upper()}{reading[1:]}.{self.kept_words(whole=True)}"
        )

    # --- acting ---

    def choose(self, spot: int, place: int) -> None:
        """A bass for a place of the run."""
        if self.looked is None or not 0 <= spot < len(self.looked.spots):
            return
        place = max(0, min(len(self.looked.spots[spot].basses) - 1, place))
        self.spot = spot
        self.places = (*self.places[:spot], place, *self.places[spot + 1 :])
        self.show_all()

    def _line_chosen(self, number: int) -> None:
        if self.looked is not None and 0 <= number < len(self.looked.descents):
            self.places = self.looked.descents[number].places
            self.show_all()

    def step(self, direction: int) -> None:
        if self.looked is not None:
            self.choose(self.spot, self.places[self.spot] + direction)

    def across(self, direction: int) -> None:
        if self.looked is not None:
            self.spot = max(0, min(len(self.looked.spots) - 1, self.spot + direction))
            self.show_all()

    def turn(self) -> None:
        self.run_box.setCurrentIndex((self.run_box.currentIndex() + 1) % self.run_box.count())
        self._run_chosen()

    def mark(self) -> None:
        """The next line that walks down."""
        if self.looked is not None and self.looked.descents:
            self._line_chosen((self.lines.currentRow() + 1) % len(self.looked.descents))

    @property
    def ready(self) -> bool:
        return self.looked is not None

    def edit(self, whole: bool) -> Edit | None:
        looked, song = self.looked, self.document.song
        if looked is None or looked.song is not song:
            return None
        rows: dict[int, list[Stand]] = {}
        for number, (spot, bass) in enumerate(zip(looked.spots, looked.line(self.places), strict=True)):
            row = rows.setdefault(spot.index, [])
            if whole or number == self.spot:
                row.append(Stand(bass.chord, spot.beats, bass.voicing))
            elif len(looked.spots) > len({spot.index for spot in looked.spots}):
                row.append(self._as_it_is(spot.index, spot.beats))
        chosen = {index: row for index, row in rows.items() if row}
        words = looked.line(self.places)[self.spot].bass.pretty
        label = f"Bass line under a held hand, {len(looked.spots)} steps" if whole else f"{words} in the bass"
        return stand_in(song, chosen, label)

    def _as_it_is(self, index: int, beats: Any) -> Stand:
        """A count of a chord that keeps what it has."""
        song = self.document.song
        chord, voicing = song.slots[index].chord, song.voicing(index)
        assert chord is not None and voicing is not None
        return Stand(chord, beats, voicing)

    def audition(self) -> None:
        edit = self.edit(whole=True)
        if edit is not None:
            self.hear.emit(self._around(edit.song, self.run.chords))


def held_pitches(looked: HeldHand) -> tuple[Pitch, ...]:
    """The notes of the held hand as its chord spells them, low to high."""
    index = looked.spots[0].index
    voicing, chord = looked.song.voicing(index), looked.song.slots[index].chord
    assert voicing is not None and chord is not None
    return voicing.right.pitches(chord)


def _end() -> int:
    """The width of what stands before and behind the run."""
    return scaled(_END_WIDTH)


def _top() -> int:
    """The height of what is held."""
    return scaled(_TOP)


class BassStairs(Painted):
    """The held hand as bars over the run; below, each bass at its height, and the line through the chosen
    ones from the bass before to the bass after."""

    chosen = Signal(int, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._looked: HeldHand | None = None
        self._places: tuple[int, ...] = ()
        self._spot = 0
        self.setAccessibleName("The held hand and the bass line under it")
        self.setToolTip("Yellow bars: the notes that are held. Click a bass to put it under them.")

    def minimumSizeHint(self) -> QSize:
        return QSize(scaled(300), scaled(290))

    def show_hand(self, looked: HeldHand | None, places: tuple[int, ...], spot: int) -> None:
        self._looked, self._places, self._spot = looked, places, spot
        if looked is not None:
            bass = looked.spots[spot].basses[places[spot]]
            self.setAccessibleDescription(
                f"{bass.bass.pretty}: {bass.chord.pretty}. {self._said(looked, spot, places[spot])}"
            )
        self.update()

    def _box(self, spot: int, place: int) -> QRectF:
        assert self._looked is not None
        width = (self.width() - 2 * _end() + scaled(_GAP)) / len(self._looked.spots)
        row = (self.height() - _top() - _FOOT) / 12
        return QRectF(_end() + spot * width, _top() + place * row + 1, width - scaled(_GAP), row - 2)

    def _height(self, key: int) -> float:
        """Where a key lies on the same scale as the boxes, kept within the drawing."""
        assert self._looked is not None
        top = self._looked.spots[0].basses[0].key
        row = (self.height() - _top() - _FOOT) / 12
        return min(self.height() - 10.0, max(_top() - 4.0, _top() + (top - key + 0.5) * row))

    def paint(self, painter: QPainter, _: QRect) -> None:
        if self._looked is not None:
            self._paint_held(painter, self._looked)
            self._paint_line(painter, self._looked)
            for spot in range(len(self._looked.spots)):
                for place in range(12):
                    self._paint_bass(painter, self._looked, spot, place)

    def _paint_held(self, painter: QPainter, looked: HeldHand) -> None:
        pitches = held_pitches(looked)
        step = min(scaled(14.0), (_top() - scaled(14)) / max(1, len(pitches)))
        for number, pitch in enumerate(reversed(pitches)):
            y = 6 + number * step
            painter.setPen(QPen(color("held"), 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawLine(QPointF(_end(), y), QPointF(self.width() - _end(), y))
            painter.setPen(color("ink"))
            painter.setFont(font(0.8))
            place = QRectF(0, y - scaled(8), _end() - 6, scaled(16))
            painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, pitch.pretty)

    def _paint_line(self, painter: QPainter, looked: HeldHand) -> None:
        boxes = [self._box(spot, place) for spot, place in enumerate(self._places)]
        starts = [QPointF(box.right(), box.center().y()) for box in boxes]
        ends = [QPointF(box.left(), box.center().y()) for box in boxes]
        if looked.before is not None:
            starts.insert(0, QPointF(14, self._height(looked.before)))
        if looked.after is not None:
            ends.append(QPointF(self.width() - 14, self._height(looked.after)))
        painter.setPen(QPen(color("left"), 2.4))
        for start, end in zip(starts, ends[looked.before is None :], strict=False):
            painter.drawLine(start, end)
        painter.setFont(font(0.78))
        for key, x, words in (
            (looked.before, 0.0, "before"), (looked.after, self.width() - _end(), "after"),
        ):  # fmt: skip
            if key is not None:
                y = self._height(key)
                painter.setPen(color("muted"))
                flag = Qt.AlignmentFlag.AlignCenter
                place = QRectF(x, min(y + 4, self.height() - scaled(17)), _end(), scaled(14))
                near = boxes[0] if words == "before" else boxes[-1]
                if near.center().y() > y:  # the line goes down from here: the word stands above it
                    place.moveTop(y - scaled(18))
                painter.drawText(place, flag, words)

    def _paint_bass(self, painter: QPainter, looked: HeldHand, spot: int, place: int) -> None:
        bass, box = looked.spots[spot].basses[place], self._box(spot, place)
        chosen, now = self._places[spot] == place, looked.spots[spot].now == bass.key
        here = chosen and spot == self._spot
        style = Qt.PenStyle.DotLine if now and not chosen else Qt.PenStyle.SolidLine
        edge = "ink" if here else "left" if chosen else "muted" if now else "line"
        painter.setPen(QPen(color(edge), 2.2 if chosen else 1, style))
        painter.setBrush(color("left_soft" if chosen else "raised"))
        painter.drawRoundedRect(box, 4, 4)
        note = QRectF(box.x() + 6, box.y(), scaled(30), box.height())
        painter.setPen(color("wrong" if bass.clashes else "ink"))
        painter.setFont(font(0.82, bold=chosen))
        painter.drawText(note, Qt.AlignmentFlag.AlignVCenter, bass.bass.pretty)
        rest = box.adjusted(scaled(36), 0, -6, 0)
        wide = len(looked.spots) <= _WIDE_UP_TO
        name = QRectF(rest.x(), rest.y(), rest.width() * (0.32 if wide else 1), rest.height())
        words = bass.chord.pretty + ("  clash" if bass.clashes and not wide else "")
        painter.setFont(fitting_font(words, 0.82, name.width(), bold=chosen))
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, words)
        if wide:
            rest.setLeft(name.right())
            said = self._said(looked, spot, place)
            painter.setFont(fitting_font(said, 0.82, rest.width(), bold=False))
            painter.setPen(color("wrong" if bass.clashes else "muted"))
            painter.drawText(rest, Qt.AlignmentFlag.AlignVCenter, said)

    def _said(self, looked: HeldHand, spot: int, place: int) -> str:
        """Steps in and out, the tune's verdict and the effort."""
        into, out = looked.steps((*self._places[:spot], place, *self._places[spot + 1 :]), spot)
        parts = [f"{step_words(into)} from the last"] if into is not None else []
        parts += [f"{step_words(out)} to the next"] if out is not None else []
        now = " (now)" if looked.spots[spot].now == looked.spots[spot].basses[place].key else ""
        effort = f"effort {more_words(looked.singles[spot][place])}{now}"
        return "  ·  ".join([*parts, looked.spots[spot].basses[place].melody, effort])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._looked is None:
            return
        for spot in range(len(self._looked.spots)):
            for place in range(12):
                if self._box(spot, place).contains(event.position()):
                    self.chosen.emit(spot, place)
                    return
