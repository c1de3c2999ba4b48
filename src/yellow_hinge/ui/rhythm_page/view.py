"""The Rhythm page: the counting strip, what is said of it below, and patterns, feel or lines at the side."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import BadInput, YellowHingeError
from yellow_hinge.rhythm.patterns import HANDS, Pattern
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.groove_edits import set_riff, set_riffs, set_texture, use_pattern
from yellow_hinge.tasks.rhythm.checks import Remark, check_rhythm
from yellow_hinge.tasks.rhythm.line_desk import propose_line
from yellow_hinge.tasks.rhythm.riff_text import read_riff_text
from yellow_hinge.tasks.rhythm.small_notes import leave_small_notes, take_small_notes
from yellow_hinge.tasks.settings.patterns import free_id, keep_pattern, own_patterns
from yellow_hinge.tasks.takes.arc import laid_arc, levels_of, shaped_arc, without_arc
from yellow_hinge.ui.arc_view import ArcView
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.face_row import FaceRow
from yellow_hinge.ui.page import Face, Page, Sounding
from yellow_hinge.ui.quiet import QuietScroll
from yellow_hinge.ui.rhythm_page.feel_side import FeelSide
from yellow_hinge.ui.rhythm_page.line_side import LineSide
from yellow_hinge.ui.rhythm_page.page_commands import FACES, page_commands
from yellow_hinge.ui.rhythm_page.pattern_side import PatternSide
from yellow_hinge.ui.rhythm_page.state import RhythmState
from yellow_hinge.ui.rhythm_page.strip import HEIGHT, StripView
from yellow_hinge.ui.theme import Theme, scaled
from yellow_hinge.ui.words import OneLine, Words
from yellow_hinge.ui.worker import Deliver, Progress, Worker

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys

_SIDE_WIDTH = 330
#: What is said below is worked out for so many chords around the chosen one.
_AROUND = 24


class RhythmPage(Page):
    """The page."""

    name = "Rhythm"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = RhythmState()
        self.face = FACES[0]
        self.remarks: list[Remark] = []
        super().__init__(document, parent)
        self._held: frozenset[int] = frozenset()
        self.worker = Worker(self)
        self.worker.done.connect(self._take_remarks)
        self.worker.failed.connect(lambda error: self.said.emit(error.problems))
        try:
            self.state.own = dict(own_patterns())
        except YellowHingeError as error:
            self.trouble = error.problems
        else:
            self.trouble = ()
        self._build()
        self.refresh()

    def make_commands(self) -> Sequence[Command]:
        return page_commands(self)

    def any_chord(self) -> bool:
        return bool(self.state.song.slots)

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        head = QHBoxLayout()
        self.title = OneLine("title")
        head.addWidget(self.title, 1)
        for command in ("hear", "other", "simpler"):
            head.addWidget(self.commands.bind(QPushButton(), command))
        middle.addLayout(head)
        self.strip = StripView(self.state)
        self.strip.chosen.connect(self.choose)
        self.strip.struck.connect(self._struck)
        self.area = QuietScroll()
        self.area.setWidgetResizable(True)
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidget(self.strip)
        self.area.setFixedHeight(scaled(HEIGHT + 14))
        middle.addWidget(self.area)
        self.words = Words()
        self.words.setToolTip("What one counts aloud over the chosen chord, and where each hand strikes")
        middle.addWidget(self.words)
        self.cycle = OneLine("quiet")
        self.cycle.setToolTip("What is struck at the cursor, and what the keys . and , make of it")
        middle.addWidget(self.cycle)
        self.arc = ArcView()
        self.arc.drawn.connect(self.draw_arc)
        middle.addWidget(self.arc)
        self.compared = Words()
        self.compared.hide()
        middle.addWidget(self.compared)
        self.heading = QLabel()
        self.heading.setObjectName("heading")
        middle.addWidget(self.heading)
        self.list = QListWidget()
        self.list.setAccessibleName("What to look at in the rhythm")
        self.list.setWordWrap(True)
        self.list.itemActivated.connect(lambda _: self._go_to_remark())
        self.list.itemClicked.connect(lambda _: self._go_to_remark())
        self.list.setMinimumHeight(48)
        middle.addWidget(self.list, 1)
        middle.addStretch(0)
        layout.addLayout(middle, 1)
        layout.addWidget(self._build_side())

    def _build_side(self) -> QWidget:
        self.side_panel = QWidget()
        self.side_panel.setObjectName("panel")
        self.fit_text()
        layout = QVBoxLayout(self.side_panel)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.addWidget(FaceRow(self.commands, (f"face-{face.id}" for face in FACES)))
        self.side = QStackedWidget()
        self.patterns = PatternSide(self.state, self.commands)
        self.patterns.wanted.connect(self.use)
        self.patterns.scoped.connect(self.show_all)
        self.patterns.follow.connect(self._follow_around)
        self.patterns.keep.connect(self.keep_mine)
        self.side.addWidget(self.patterns)
        layout.addWidget(self.side, 1)
        return self.side_panel

    @cached_property
    def feel(self) -> FeelSide:
        """Pedal, touch, swing and endings, made when it is first wanted."""
        panel = FeelSide(self.state)
        panel.changed.connect(self.document.apply)
        self.side.addWidget(panel)
        return panel

    @cached_property
    def lines(self) -> LineSide:
        """Riffs, lines and small notes, made when it is first wanted."""
        panel = LineSide(self.state, self.commands)
        panel.typed.connect(self.keep_riff)
        self.side.addWidget(panel)
        return panel

    # --- showing ---

    @property
    def focus(self) -> QWidget:
        return self.strip

    def fit_text(self) -> None:
        self.side_panel.setFixedWidth(scaled(_SIDE_WIDTH))
        if hasattr(self, "area"):
            self.area.setFixedHeight(scaled(HEIGHT + 14))

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.strip.theme = self.arc.theme = theme
        self.patterns.set_theme(theme)
        self.strip.update()
        self.arc.update()

    def entered(self) -> None:
        if self.trouble:
            self.said.emit(self.trouble)
        if self.document.chosen != self.state.index:
            self.state.choose(self.document.chosen, Fraction(0))
        self.show_all()
        self._follow_cursor()

    def close_page(self) -> None:
        self.worker.close()

    def refresh(self) -> None:
        """Take over the document as it is now."""
        self.state.take(self.document.song)
        if self.state.song.slots and self.document.chosen != self.state.index:
            self.state.choose(self.document.chosen, Fraction(0))
        self._look()
        self.show_all()

    def show_all(self) -> None:
        """Everything from the state."""
        song = self.state.song
        self.title.setText(song.title or "Untitled")
        self.words.setText(
            " ".join(filter(None, (self.state.words(), self.state.aloud())))
            or "Type a chart on the Song page first."
        )
        self.cycle.setText(self.state.cycle())
        self.cycle.setVisible(self.any_chord())
        self.arc.take(song)
        self.arc.setVisible(self.any_chord())
        self.strip.say_chosen(self.words.text())
        self.strip.grow()
        panel = self.patterns if self.face.id == "patterns" else getattr(self, self.face.id)
        self.side.setCurrentWidget(panel)
        panel.refresh()
        self._show_remarks()
        self.commands.refresh()

    def show_face(self, face: Face) -> None:
        """Another face of the side, or the first one again."""
        self.face = FACES[0] if face is self.face else face
        self.show_all()

    def shows(self, face: Face) -> bool:
        return self.face is face

    def _follow_cursor(self) -> None:
        if self.any_chord():
            x = int(self.strip.x_of(self.state.index, self.state.place))
            self.area.ensureVisible(scaled(x), 10, 160, 0)

    # --- what is said of it ---

    def _look(self) -> None:
        song = self.state.song
        if not song.slots or not self.isVisible():
            return
        first = max(0, self.state.index - _AROUND)
        slots = range(first, min(len(song.slots), first + 2 * _AROUND))

        def run(_: Progress, __: Deliver) -> object:
            return song, check_rhythm(song, slots)

        self.worker.start(run)

    def _take_remarks(self, found: tuple[object, list[Remark]]) -> None:
        song, remarks = found
        if song is self.state.song:
            self.remarks = remarks
            self._show_remarks()
            self.commands.refresh()

    def _show_remarks(self) -> None:
        song = self.state.song
        here = [one for one in self.remarks if one.slot < len(song.slots)]
        self.heading.setText(f"To look at ({len(here)})")
        self.heading.setVisible(bool(here))
        self.list.clear()
        for one in here:
            slot = song.slots[one.slot]
            symbol = "" if slot.chord is None else slot.chord.pretty
            simpler = self._name_of(one.simpler)
            way = f". Would do: {simpler}" if simpler else ""
            self.list.addItem(f"Bar {slot.bar}, {symbol}: {one.words}{way}")
        self.list.setVisible(bool(here))

    def _name_of(self, name: str) -> str:
        known = {one.id: one for one in self.state.listed()}
        other = {one.id: one for hand in HANDS for one in self._listed_for(hand)}
        found = {**other, **known}.get(name)
        return "" if found is None else found.name

    def _listed_for(self, hand: str) -> list[Pattern]:
        now = self.state.hand
        self.state.hand = "left" if hand == "left" else "right"
        found = self.state.listed()
        self.state.hand = now
        return found

    def _go_to_remark(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.remarks):
            one = self.remarks[row]
            if one.hand in HANDS:
                self.state.to_lane("left" if one.hand == "left" else "right")
            self._to(one.slot, Fraction(0))

    def _remark_here(self) -> Remark | None:
        own = [one for one in self.remarks if one.slot == self.state.index and one.simpler]
        return next((one for one in own if one.hand == self.state.hand), own[0] if own else None)

    def can_simplify(self) -> bool:
        return self._remark_here() is not None

    def simpler(self) -> None:
        """The simpler pattern that would do on the chosen chord."""
        one = self._remark_here()
        if one is None:
            return
        hand = "left" if one.hand == "left" else "right"
        known = {each.id: each for each in self._listed_for(hand)}
        if one.simpler in known:
            self.state.other = None
            slot = self.state.slot
            own = self.state.is_own(known[one.simpler])
            self._apply(use_pattern(self.state.song, slot.at, hand, known[one.simpler], own, slot.take))

    # --- walking ---

    def _to(self, index: int, place: Fraction) -> None:
        self.state.choose(index, place)
        self._moved()

    def _moved(self) -> None:
        self.document.chosen = self.state.index
        self.show_all()
        self._follow_cursor()

    def choose(self, index: int, place: Fraction, lane: str) -> None:
        """The cursor to where was clicked."""
        self.strip.setFocus()
        self.state.to_lane(lane)  # type: ignore[arg-type]
        self._to(index, place)

    def step(self, direction: int) -> None:
        self.state.step(direction)
        self._moved()

    def step_chord(self, direction: int) -> None:
        self.state.step_chord(direction)
        self._moved()

    def step_lane(self, direction: int) -> None:
        self.state.step_lane(direction)
        self._moved()

    def go_to_chord(self, index: int) -> None:
        """The first chord (0) or the last one (-1)."""
        self._to(index % len(self.state.song.slots), Fraction(0))

    def switch_hand(self) -> None:
        """Patterns are for the other hand."""
        self.state.to_lane("left" if self.state.hand == "right" else "right")
        self._moved()

    # --- changing ---

    def _apply(self, edit: Edit | None) -> None:
        if edit is not None:
            self.document.apply(edit)

    def draw_arc(self, levels: tuple[int, ...]) -> None:
        """The arc as it was drawn: a take for each of its levels, voiced together, one step to undo."""
        laid = laid_arc(self.state.song, levels, self.document.library)
        self._apply(Edit(laid, "Arc " + " ".join(map(str, levels))))

    def shape_arc(self, kind: str) -> None:
        """One of the arcs that ship."""
        self.draw_arc(shaped_arc(self.state.song, kind))

    def go_to_arc(self) -> None:
        """The keyboard to the arc."""
        self.arc.setFocus()

    def has_arc(self) -> bool:
        return any(level is not None for level in levels_of(self.state.song))

    def drop_arc(self) -> None:
        """The take again of which the arc was made."""
        self._apply(Edit(without_arc(self.state.song), "No arc"))

    def compare(self, whole: bool) -> None:
        """Mark the bar (or the round) at the cursor, or say what it has otherwise than the marked one."""
        self.compared.setText(self.state.compared(self.document.row.held, whole))
        self.compared.show()

    def next_way(self) -> None:
        """Plainly, rolled, shaken, crushed or slid into, in turn."""
        self._apply_and_hear(self.state.next_way())

    def _apply_and_hear(self, edit: Edit | None) -> None:
        if edit is not None:
            self.document.apply(edit)
            self.audition()

    def use(self, pattern: Pattern) -> None:
        """The hand plays a pattern, heard at once."""
        if self.any_chord():
            self._apply_and_hear(self.state.use(pattern))

    def hear_other(self) -> None:
        """The pattern before, in its place."""
        self._apply_and_hear(self.state.heard_before())

    def _follow_around(self) -> None:
        """Nothing is said for the stretch any more."""
        label = f"{self.state.hand.capitalize()} hand as around it"
        self._apply(set_texture(self.state.song, self.state.where, label, {self.state.hand: None}))

    def _struck(self, _: int, __: Fraction, ___: str, rung: int) -> None:
        if self.state.lane in HANDS:
            self._apply_and_hear(self.state.toggle_stroke(None if rung < 0 else rung))
        else:
            self.toggle()

    def toggle(self) -> None:
        """A stroke at the cursor, or none; the pedal changed, or not."""
        if self.state.lane == "pedal":
            self._apply(self.state.toggle_pedal())
        elif self.state.lane == "riff":
            if (edit := self.state.drop_riff_note()) is not None:
                self._apply(edit)
            else:
                self.face = FACES[2]
                self.show_all()
                self.lines.field.setFocus()
        else:
            self._apply_and_hear(self.state.toggle_stroke())

    def toggle_rung(self, rung: int) -> None:
        """One note of the grip at the cursor, on or off."""
        self._apply_and_hear(self.state.toggle_stroke(rung))

    def strike(self, what: str) -> None:
        """Something else at the cursor."""
        self._apply_and_hear(self.state.strike(what))

    def next_what(self, step: int) -> None:
        """The next thing that can be struck."""
        self._apply_and_hear(self.state.next_what(step))

    def touch(self, touch: str) -> None:
        """Harder or softer at the cursor; the same again is as it was."""
        self._apply_and_hear(self.state.touch_here(touch))

    def keep_mine(self, name: str) -> None:
        """Write the changed pattern into the player's own, under a name."""
        state = self.state
        if not self.any_chord() or not name.strip():
            return
        now = state.pattern(state.index, state.hand)
        own = state.own
        kept = now if now.id in own else _named(now, name.strip(), free_id(name, own))
        try:
            state.own = dict(keep_pattern(kept))
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self._apply(use_pattern(state.song, state.where, state.hand, kept, own=True))
        self.strip.setFocus()
        self.show_all()

    # --- lines ---

    def _section(self) -> list[int]:
        """The slots of the round of the chosen chord's section."""
        slots, chosen = self.state.song.slots, self.state.slot
        return [one.index for one in slots if (one.section, one.round) == (chosen.section, chosen.round)]

    def has_riffs(self) -> bool:
        song = self.state.song
        return self.any_chord() and bool(song.decided(self.state.index).groove.riffs)

    def keep_riff(self, text: str) -> None:
        """The typed riff over the chosen chord."""
        if not self.any_chord():
            return
        try:
            notes = read_riff_text(text, self.lines.chosen_hand)
        except BadInput as error:
            self.lines.say(" ".join(f"{one.what}: {one.remedy}." for one in error.problems[:2]))
            return
        self.strip.setFocus()
        slot = self.state.slot
        self._apply_and_hear(set_riff(self.state.song, slot.at, notes, slot.take))
        self.show_all()

    def propose_line(self) -> None:
        """A line over the section, as the side says."""
        self.face = FACES[2]
        rows = propose_line(self.state.song, self._section(), **self.lines.wishes)
        self._apply_and_hear(set_riffs(self.state.song, rows, "Line"))
        self.show_all()

    def drop_line(self) -> None:
        """No riffs over the section."""
        ats = {self.state.song.slots[index].at for index in self._section()}
        self._apply(set_riffs(self.state.song, dict.fromkeys(ats, ()), "No line"))

    def small_notes(self) -> None:
        """All small notes that fit the section."""
        self._apply_and_hear(take_small_notes(self.state.song, self._section()))

    def no_small_notes(self) -> None:
        """None of them."""
        self._apply(leave_small_notes(self.state.song, self._section()))

    # --- hearing ---

    def sounding(self) -> Sounding | None:
        return Sounding(self.state.song, self.document.row, self.state.index) if self.any_chord() else None

    def audition(self) -> None:
        """The chosen chord and the next one."""
        if self.any_chord():
            last = min(len(self.state.song.slots) - 1, self.state.index + 1)
            self.hear.emit(Sounding(self.document.song, self.document.row, self.state.index, last))

    def show_playing(self, slot: int) -> None:
        if slot < 0:
            self.strip.line = None
            self.strip.update()

    def show_place(self, quarters: float) -> None:
        self.strip.line = quarters
        x = self.strip.x_at(quarters)
        if x is not None:
            self.area.ensureVisible(scaled(x), 10, 120, 0)
        self.strip.update()

    def show_held(self, held: HeldKeys) -> None:
        """Keys that are struck while the riff is typed go into it."""
        down = frozenset(held.down)
        if self.face.id == "lines" and "lines" in vars(self):
            for key in sorted(down - self._held):
                self.lines.add_played(key)
        self._held = down


def _named(pattern: Pattern, name: str, id_: str) -> Pattern:
    return replace(pattern, id=id_, name=name, family="mine")
