"""The colour ladder: one voice moves rung by rung; walks inside a chord."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QVBoxLayout,
)

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.grip_edits import stand_in
from yellow_hinge.tasks.grips.own_grip import NO_NAME
from yellow_hinge.tasks.swaps.colour_ladder import FORMS, Ladder, LadderDesk, Rung, Walk
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import Pitch, pitch_for_key
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.ui import kit
from yellow_hinge.ui.cards import Cards, write
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given
from yellow_hinge.ui.quiet import QuietList
from yellow_hinge.ui.theme import color, fitting_font, font, scaled
from yellow_hinge.ui.words import Label, Words

_ROW, _RAILS = 30, (66.0, 132.0)
#: Mud from which it is said (as for grips).
_AUDIBLE_MUD = 40
_REACH_WORDS = {"easy": "", "wide": "wide for the hand", "out": "out of reach: do not force it"}


class LadderFace(ChordFace):
    """A chord's ladder and its walks. Rungs that are marked, in their order, make a walk."""

    acts = frozenset(("take_whole", "across", "turn", "mark"))

    def __init__(self, given: Given) -> None:
        super().__init__(given)
        document = given.document
        self._commands = given.commands
        self._desk = Desk(document, LadderDesk)
        self.form, self.voice = FORMS[0], -1
        self.ladder: Ladder | None = None
        self.walks: tuple[Walk, ...] = ()
        self.place = 0
        self.marks: list[int] = []
        self.model = Rungs(self)
        self._build()

    def _build(self) -> None:
        layout = kit.column(self)
        self.words = Words()
        layout.addWidget(self.words)
        bar = QHBoxLayout()
        tip = "One note of the grip moves; the others are held"
        self.voice_box = kit.choice("The voice that moves", tip, self._voice_chosen)
        tip = "As the grip has them, close within an octave, or spread (drop 2)"
        self.form_box = kit.choice(
            "How the voices lie", tip, self._form_chosen, zip(FORMS, FORMS, strict=True)
        )
        for words, box in (("Voice that moves", self.voice_box), ("Lies", self.form_box)):
            bar.addWidget(Label(words))
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            bar.addWidget(box)
        bar.addStretch(1)
        layout.addLayout(bar)
        sides = QHBoxLayout()
        self.list = QuietList()
        self.model.show_in(self.list, "The rungs of the ladder, the highest first")
        self.list.clicked.connect(lambda index: self.go_to(self._rung_of(index.row())))
        sides.addWidget(self.list, 3)
        right = QVBoxLayout()
        right.addWidget(kit.heading("Walks inside the chord, in counts"))
        self.walk_list = kit.named(QListWidget(), "Walks inside the chord")
        self.walk_list.setWordWrap(True)
        self.walk_list.currentRowChanged.connect(lambda _: self._show_walk())
        right.addWidget(self.walk_list, 1)
        self.walk_words = Words()
        right.addWidget(self.walk_words)
        for one in ("hear-walk", "take-walk"):
            right.addWidget(kit.button(self._commands, one))
        sides.addLayout(right, 2)
        layout.addLayout(sides, 1)
        self.sum = Words()
        layout.addWidget(self.sum)

    # --- looking ---

    def show_chord(self, index: int) -> None:
        if index != self.index:
            self.marks, self.voice = [], -1
        super().show_chord(index)

    def look(self) -> None:
        song, index, desk, form, voice = self.document.song, self.index, self._desk(), self.form, self.voice
        if not 0 <= index < len(song.slots):
            self._take_in((None, ()))
            return
        self.worker.start(lambda *_: (desk.look(song, index, form, voice), desk.walks(song, index)))

    def _take_in(self, result: Any) -> None:
        before = self.ladder
        self.ladder, self.walks = result
        if self.ladder is not None:
            self.voice = self.ladder.voice
            if before is None or before.voices != self.ladder.voices or before.voice != self.ladder.voice:
                self.place, self.marks = self.ladder.start, []
            self.place = min(self.place, len(self.ladder.rungs) - 1)
        self.show_all()

    def _voice_chosen(self) -> None:
        self.voice = self.voice_box.currentIndex()
        self.look()

    def _form_chosen(self) -> None:
        self.form = self.form_box.currentData()
        self.look()

    def _rung_of(self, line: int) -> int:
        """The list has the highest rung first."""
        return len(self.model.lines) - 1 - line

    def show_all(self) -> None:
        """Everything from what was found and chosen."""
        ladder = self.ladder
        self.voice_box.clear()
        if ladder is None:
            self.model.take(())
            self.words.setText("Nothing sounds here: choose a chord that is voiced.")
            self.sum.setText("")
        else:
            marks = {place: number for number, place in enumerate(self.marks, 1)}
            self.model.take([(rung, marks.get(place, 0)) for place, rung in enumerate(ladder.rungs)][::-1])
            self.list.setCurrentIndex(self.model.index(len(ladder.rungs) - 1 - self.place))
            self.list.scrollTo(self.list.currentIndex())
            count = len(ladder.voices)
            voices = ((f"{self.note(key)}, {_voice_words(number, count)}", number)
                      for number, key in enumerate(ladder.voices))  # fmt: skip
            self.voice_box.offer(voices, ladder.voice)
            held = " ".join(self.note(key) for n, key in enumerate(ladder.voices) if n != ladder.voice)
            moves = self.note(ladder.voices[ladder.voice])
            how = "Up and Down climb, comma and full stop choose the voice."
            self.words.setText(f"{held} held; {moves} moves. {how}")
            self._show_sum(ladder)
        self._show_walks()
        self.changed.emit()

    def note(self, key: int, made: ChordSymbol | None = None) -> str:
        """A key as the chord that it makes spells it, else as the place does."""
        assert self.ladder is not None
        slot = self.ladder.song.slots[self.ladder.index]  # the document may have another song by now
        for chord in (made, slot.chord):
            label = None if chord is None else chord.label_of(key % 12)
            if chord is not None and label is not None:
                return Pitch(key, chord.root.degree(label)).pretty
        return pitch_for_key(key, slot.key.prefers_flats).pretty

    def _show_sum(self, ladder: Ladder) -> None:
        rung = ladder.rungs[self.place]
        reach = _REACH_WORDS[rung.reach]
        words = [
            NO_NAME.capitalize()
            if rung.reading == NO_NAME
            else f"{rung.chord.pretty}: {pretty_accidentals(rung.reading)}"
            if rung.step
            else f"{rung.chord.pretty} as it is"
        ]
        words += [reach] if reach else []
        if len(self.marks) > 1:
            names = ", ".join(rung_name(ladder.rungs[place]) for place in self.marks)
            words.append(f"Marked walk: {names}")
        self.sum.setText(f"{'. '.join(words)}.{self.kept_words()}")

    def _show_walks(self) -> None:
        at = max(0, self.walk_list.currentRow())
        kit.fill(self.walk_list, (walk.words[:1].upper() + walk.words[1:] for walk in self.walks), at)
        self._show_walk()

    def _show_walk(self) -> None:
        walk = self.walk
        if walk is None:
            self.walk_words.setText("A chord of two counts or more can walk.")
            return
        stands = [stand for _, stands in walk.rows for stand in stands]
        names = [stand.chord.pretty for stand in stands]
        tops = [self.note(max(stand.voicing.keys), stand.chord) for stand in stands]
        self.walk_words.setText(f"{', '.join(names)}; on top {' '.join(tops)}.")

    def can(self, act: str) -> bool:
        return self.walk is not None if act.endswith("_walk") else super().can(act)

    @property
    def walk(self) -> Walk | None:
        """The chosen walk."""
        number = self.walk_list.currentRow()
        return self.walks[number] if 0 <= number < len(self.walks) else None

    # --- acting ---

    def go_to(self, place: int) -> None:
        """Another rung."""
        if self.ladder is not None:
            self.place = max(0, min(len(self.ladder.rungs) - 1, place))
            self.show_all()

    def step(self, direction: int) -> None:
        self.go_to(self.place - direction)

    def across(self, direction: int) -> None:
        if self.ladder is not None:
            self.voice = (self.ladder.voice + direction) % len(self.ladder.voices)
            self.look()

    def turn(self) -> None:
        self.form_box.setCurrentIndex((self.form_box.currentIndex() + 1) % len(FORMS))
        self._form_chosen()

    def mark(self) -> None:
        if self.ladder is not None:
            if self.place in self.marks:
                self.marks.remove(self.place)
            else:
                self.marks.append(self.place)
            self.show_all()

    @property
    def ready(self) -> bool:
        return self.ladder is not None

    def edit(self, whole: bool) -> Edit | None:
        """The rung as a swap; or the marked rungs, in their order, as a walk through the chord."""
        ladder, song = self.ladder, self.document.song
        if ladder is None or ladder.song is not song:
            return None
        places = self.marks if whole and len(self.marks) > 1 else [self.place]
        name = ladder.rungs[places[-1]].chord.pretty
        label = f"Walk to {name}" if len(places) > 1 else f"Swap for {name}"
        return stand_in(song, {ladder.index: ladder.stands(places)}, label)

    def walk_edit(self) -> Edit | None:
        """The chosen walk in place."""
        walk, ladder = self.walk, self.ladder
        if walk is None or ladder is None or ladder.song is not self.document.song:
            return None
        return stand_in(self.document.song, dict(walk.rows), f"Walk {walk.words}")

    def audition(self) -> None:
        """The chord as it is, then the chosen rung: two in turn. Marked rungs are heard as their walk."""
        ladder = self.ladder
        if ladder is None or ladder.song is not self.document.song:
            return
        if len(self.marks) > 1:
            super().audition()
            return
        edit = stand_in(ladder.song, {ladder.index: ladder.stands([ladder.start, self.place])}, "")
        place = ladder.song.slots[ladder.index].place
        own = [slot.index for slot in edit.song.slots if slot.place == place]
        self.hear.emit(Sounding(edit.song, own[0], own[-1]))

    def hear_walk(self) -> None:
        """The chosen walk between its neighbours."""
        edit, walk = self.walk_edit(), self.walk
        if edit is not None and walk is not None:
            self.hear.emit(self._around(edit.song, len(walk.rows)))

    def take_walk(self) -> None:
        """Put the chosen walk in place."""
        edit = self.walk_edit()
        if edit is not None:
            self.document.apply(edit)


def _voice_words(number: int, count: int) -> str:
    if number == count - 1:
        return "the top voice"
    return "the lowest voice" if number == 0 else "an inner voice"


def rung_name(rung: Rung) -> str:
    """What its chord is called, if anything: the chart's name would say what does not sound."""
    return NO_NAME if rung.reading == NO_NAME else rung.chord.pretty


def rung_words(rung: Rung) -> str:
    """How far it lies from the start, how it lies in the hand and how low and close it sounds."""
    step = f"{'up' if rung.step > 0 else 'down'} {abs(rung.step)}" if rung.step else "as it is"
    words = [step]
    words += [_REACH_WORDS[rung.reach]] if rung.reach != "easy" else []
    words += [f"muddy ({rung.mud / 100:.1f})"] if rung.mud >= _AUDIBLE_MUD else []
    return ", ".join(words)


class Rungs(Cards):
    """The rungs between two rails, the highest first: the note that moves on each, beside it the chord it
    makes. A line is a rung and its number among the marked ones (0: it is not marked)."""

    high = _ROW

    def __init__(self, face: LadderFace) -> None:
        super().__init__()
        self._face = face

    def words(self, line: tuple[Rung, int]) -> str:
        rung, mark = line
        marked = f", {mark} of the walk" if mark else ""
        return f"{rung.chord.pretty}, {rung_words(rung)}{marked}"

    def tip(self, line: tuple[Rung, int]) -> str:
        return line[0].reading

    def draw(self, painter: QPainter, box: QRectF, line: tuple[Rung, int], chosen: bool) -> None:
        rails = [scaled(x) for x in _RAILS]
        rung, mark = line
        painter.setPen(QPen(color("muted"), 2))
        for x in rails:
            painter.drawLine(QPointF(box.x() + x, box.top()), QPointF(box.x() + x, box.bottom()))
        middle = box.center().y()
        painter.setPen(QPen(color("ink" if chosen else "muted"), 5 if chosen else 2))
        painter.drawLine(QPointF(box.x() + rails[0], middle), QPointF(box.x() + rails[1], middle))
        left = QRectF(box.x(), box.y(), rails[0] - 10, box.height())
        note = self._face.note(rung.key, rung.chord)
        write(painter, left, note, "ink", font(0.92, bold=chosen), right=True)
        if mark:
            painter.setBrush(color("raised"))
            painter.drawEllipse(QPointF(box.x() + sum(rails) / 2, middle), scaled(9), scaled(9))
            round_ = QRectF(box.x() + rails[0], box.y(), rails[1] - rails[0], box.height())
            painter.drawText(round_, Qt.AlignmentFlag.AlignCenter, str(mark))
        right = QRectF(box.x() + rails[1] + 12, box.y(), box.width() - rails[1] - 18, box.height())
        name = QRectF(right.x(), right.y(), right.width() * 0.46, right.height())
        called, words = rung_name(rung), rung_words(rung)
        ink = "muted" if called == NO_NAME else "ink"
        write(painter, name, called, ink, fitting_font(called, 1.0, name.width(), bold=chosen))
        rest = right.adjusted(name.width() + 6, 0, 0, 0)
        ink = "wrong" if rung.reach == "out" else "muted"
        write(painter, rest, words, ink, fitting_font(words, 0.85, rest.width(), bold=False))
