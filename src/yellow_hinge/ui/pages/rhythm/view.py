"""The Rhythm page: the counting strip, what is said of it below, and patterns, feel or lines at the side."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.rhythm.patterns import HANDS
from yellow_hinge.tasks.settings.patterns import own_patterns
from yellow_hinge.ui import kit
from yellow_hinge.ui.arc_view import ArcView, lay_arc
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Face, Faces
from yellow_hinge.ui.page import Page, Part
from yellow_hinge.ui.pages.rhythm.remarks import Remarks
from yellow_hinge.ui.pages.rhythm.side import RhythmSide
from yellow_hinge.ui.pages.rhythm.state import Lane, RhythmState
from yellow_hinge.ui.pages.rhythm.stretches import Arc, Lines
from yellow_hinge.ui.pages.rhythm.strip_area import StripArea
from yellow_hinge.ui.pages.rhythm.strokes import Patterns, Strokes
from yellow_hinge.ui.pages.rhythm.walking import Walking
from yellow_hinge.ui.words import Label, OneLine, Words

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys

FACES = (
    Face("patterns", "Patterns", "E", "What a hand plays on which count, for a chord, a section or the song"),
    Face("feel", "Feel", "F", "Pedal, touch, swing, endings, drums and bass"),
    Face("lines", "Lines", "L", "Riffs of your own, proposed lines, small notes on the way"),
)  # fmt: skip


class RhythmPage(Page):
    """The page: its parts do what is done, here they are wired."""

    name = "Rhythm"
    draws = "rhythm"
    handy = ("toggle", "whole", "next-what", "way", "harder", "softer", "longer", "shorter")
    twice = "toggle"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = RhythmState()
        self.state.liked = document.taste.patterns
        self._trouble: tuple[Problem, ...] = ()
        super().__init__(document, parent)
        try:
            self.state.own = dict(own_patterns())
        except YellowHingeError as error:
            self._trouble = error.problems
        self._build()
        self._wire()
        self.refresh()

    def make_parts(self) -> Sequence[Part]:
        given = self.document, self.state
        self.walking, self.strokes, self.made, self.remarks = (
            Walking(*given), Strokes(*given), Patterns(*given), Remarks(*given),
        )  # fmt: skip
        self.faces = Faces(self.document, FACES)
        self.line_acts, self.arc_acts = Lines(*given), Arc(*given)
        return (
            self.walking, self.strokes, self.made, self.remarks, self.faces, self.line_acts, self.arc_acts,
        )  # fmt: skip

    def _build(self) -> None:
        middle, head = QVBoxLayout(), QHBoxLayout()
        middle.setSpacing(6)
        self.title = OneLine("title")
        head.addWidget(self.title, 1)
        for act, look in (("hear", "first"), ("other", ""), ("simpler", "")):
            head.addWidget(kit.button(self.commands, act, look, shy=act == "simpler"))
        middle.addLayout(head)
        self.area = StripArea(self.state)
        self.pictured = self.strip = self.area.strip
        self.words = Words()
        self.words.setToolTip("What one counts aloud over the chosen chord, and where each hand strikes")
        self.cycle = OneLine("quiet")
        self.cycle.setToolTip("What is struck at the cursor, and what the keys . and , make of it")
        self.arc = ArcView()
        self.compared = Words()
        self.compared.hide()
        self.heading, self.list = Label(), QListWidget()
        self.remarks.build(self.heading, self.list)
        kit.add_all(middle, (self.area, self.words, self.cycle, self.arc, self.compared, self.heading))
        middle.addWidget(self.list, 1)
        middle.addStretch(0)
        self.side = RhythmSide(self.document, self.state, self.faces, self.commands)
        layout = kit.page_row(self)
        layout.addLayout(middle, 1)
        layout.addWidget(self.side)

    def _wire(self) -> None:
        """Who listens to whom."""
        self.strip.chosen.connect(self._clicked)
        self.strip.struck.connect(self._struck)
        self.strip.moved.connect(self.strokes.move_to)
        self.strip.lengthened.connect(self.strokes.last_until)
        self.arc.drawn.connect(partial(lay_arc, self.document))
        for moved in (self.walking.moved, self.made.moved):
            moved.connect(self._moved)
        self.remarks.gone_to.connect(self.walking.to)
        self.strokes.wants_riff.connect(self.side.type_riff)
        self.side.typed.connect(self._keep_riff)
        self.side.patterns.wanted.connect(self.made.use)
        self.side.patterns.scoped.connect(self.show_all)
        self.side.patterns.follow.connect(self.made.follow_around)
        self.side.patterns.keep.connect(self.made.keep_mine)
        self.made.kept.connect(self._to_strip)
        self.line_acts.wishes = lambda: self.side.lines.wishes
        self.line_acts.proposed.connect(partial(self.faces.show, "lines"))
        self.arc_acts.wanted.connect(self.arc.setFocus)
        self.arc_acts.compared.connect(self.compared.setText)
        self.arc_acts.compared.connect(self.compared.show)

    # --- showing ---

    @property
    def focus(self) -> QWidget:
        return self.strip

    def fit_text(self) -> None:
        self.side.fit_text()
        self.area.fit_text()

    def seek(self, words: str) -> None:
        """A pattern: it is listed, and chosen with Return."""
        self.faces.show("patterns")
        self.side.patterns.seek(words)

    def entered(self) -> None:
        if self._trouble:
            self.said.emit(self._trouble)
        super().entered()

    def follow(self) -> None:
        if self.state.song.slots and self.document.chosen != self.state.index:
            self.state.choose(self.document.chosen, Fraction(0))
        self._moved()

    def close_page(self) -> None:
        self.remarks.worker.close()

    def refresh(self) -> None:
        """Take over the document as it is now."""
        self.state.take(self.document.song)
        if self.state.song.slots and self.document.chosen != self.state.index:
            self.state.choose(self.document.chosen, Fraction(0))
        if self.isVisible():
            self.remarks.look()
        self.show_all()

    def show_all(self) -> None:
        """Everything from the state."""
        song, some = self.state.song, bool(self.state.song.slots)
        self.title.setText(song.title or "Untitled")
        words = " ".join(filter(None, (self.state.words(), self.state.aloud())))
        self.words.setText(words or "Type a chart on the Song page first.")
        self.cycle.setText(self.state.cycle())
        self.cycle.setVisible(some)
        self.arc.take(song)
        self.arc.setVisible(some)
        self.strip.say_chosen(self.words.text())
        self.strip.grow()
        self.side.refresh()
        self.remarks.show()
        self.commands.refresh()

    def _moved(self) -> None:
        self.show_all()
        self.area.follow_cursor()

    def _to_strip(self) -> None:
        self.strip.setFocus()
        self.show_all()

    # --- from the strip, the side and the keyboard ---

    def _clicked(self, index: int, place: Fraction, lane: Lane) -> None:
        self.strip.setFocus()
        self.walking.choose(index, place, lane)

    def _struck(self, _: int, __: Fraction, ___: str, rung: int) -> None:
        if self.state.lane in HANDS:
            self.strokes.toggle_rung(rung)
        else:
            self.strokes.toggle()

    def _keep_riff(self, text: str) -> None:
        if not self.state.song.slots:
            return
        wrong = self.line_acts.keep_typed(text, self.side.lines.chosen_hand)
        if wrong:
            self.side.lines.say(wrong)
        else:
            self._to_strip()

    def show_playing(self, slot: int) -> None:
        if slot < 0:
            self.area.show_place(None)

    def show_place(self, quarters: float) -> None:
        self.area.show_place(quarters)

    def show_held(self, held: HeldKeys) -> None:
        self.side.play_riff(held.down)
