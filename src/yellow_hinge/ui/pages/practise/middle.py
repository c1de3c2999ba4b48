"""The middle of the Practise page: the hinge at hand, counts, verdict, keys."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QVBoxLayout, QWidget

from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.sound import clock
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.keyboard import KeyboardView
from yellow_hinge.ui.pages.practise.part import Room
from yellow_hinge.ui.pages.practise.pictures import CountsView, LeavesView
from yellow_hinge.ui.pages.practise.state import EMPTY
from yellow_hinge.ui.theme import fitting_font, font, scaled, worn
from yellow_hinge.ui.words import Label, OneLine

#: The keys that are shown where any grip may come: E1 to E6.
_EVERY_GRIP = (28, 88)
#: What one does from round to round; how it was is only said where nothing listens.
_ACTS = (("start", "first"), ("again", ""), ("next", ""), ("hear", ""), ("clean", ""), ("slip", ""))
#: How one practises, said in a line with the keys that change it.
_SETTINGS = ("way", "hands", "rhythm", "slower", "faster")


class _Keys(KeyboardView):
    """Keys alone: the leaves above show what moves."""

    head = 4


class Middle(QWidget):
    """Shows the state; large enough to be read from a music stand."""

    def __init__(self, room: Room, commands: CommandList) -> None:
        super().__init__()
        self._room, self._state, self._rounds = room, room.state, room.rounds
        self._wrong = "#000000"
        self.keyboard_name = ""
        layout = kit.column(self, spacing=5)
        self.title = Label()
        self.title.setAccessibleName("Change at hand")
        self.under = OneLine()
        self.leaves = LeavesView()
        self.leaves.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.counts = CountsView()
        self.answer = kit.named(EntryField(), "Your answer")
        self.answer.hide()
        self.keyboard = _Keys()
        self.keyboard.setAccessibleName("Keyboard with the keys that are wanted")
        kit.add_all(layout, (self.title, self.under))
        layout.addWidget(self.leaves, 1)
        for widget in (self.counts, self.answer, self._build_verdict(), self.keyboard):
            layout.addWidget(widget)
        self._commands = commands
        acts = kit.row(spacing=6)
        for act, look in _ACTS:
            acts.addWidget(kit.button(commands, act, look, shy=act in ("clean", "slip")))
        acts.addStretch(1)
        layout.addLayout(acts)
        self.settings = kit.label("quiet")
        self.settings.setToolTip("How you practise; the keys, the Practise menu and Ctrl+F change it")
        layout.addWidget(self.settings)
        self.fit_text()

    def _build_verdict(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        self.verdict = panel
        layout = QVBoxLayout(panel)
        layout.setContentsMargins(14, 6, 14, 6)
        layout.setSpacing(2)
        self.sentence, self.advice = Label(), Label()
        self.sentence.setAccessibleName("Verdict")
        self.advice.setAccessibleName("What to try next")
        self.advice.setObjectName("quiet")
        for label in (self.sentence, self.advice):
            label.setWordWrap(True)
            layout.addWidget(label)
        return panel

    def fit_text(self) -> None:
        """Text has another size."""
        self.sentence.setFont(font(1.3, bold=True))
        self.advice.setFont(font(1.1))
        self.under.setFont(font(1.15))
        self.verdict.setMinimumHeight(scaled(76))
        self.counts.setFixedHeight(scaled(44))
        self.title.setFixedHeight(scaled(46))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange and hasattr(self, "sentence"):
            self.fit_text()  # a style sheet sets faces back

    @property
    def asked(self) -> tuple[str, str] | None:
        """Title and question of the riddle; None where nothing is asked."""
        riddles = self._room.riddles
        if riddles.riddle is None:
            return None
        right = f"Riddle · {riddles.right} of {riddles.asked} right"
        return (right if riddles.asked else "Riddle"), riddles.riddle.question

    def make_room(self, typed: bool) -> None:
        """A riddle is asked, to be answered in words or by keys."""
        self.answer.setVisible(typed)
        self.answer.clear()
        (self.answer if typed else self.leaves).setFocus()

    def show_now(self) -> None:
        """What changes while a drill runs."""
        state = self._state
        self.settings.setText(" · ".join(self._commands[act].button_words() for act in _SETTINGS))
        if self._room.riddles.riddle is None:
            self.answer.hide()
        title = state.title if self.asked is None else self.asked[0]
        if title != self.title.text():
            self.title.setText(title)
            self.title.setFont(fitting_font(title, 2.3, max(300, self.width() - 20)))
        self.under.setText(state.under_title if self.asked is None and state.ready else "")
        self._show_leaves()
        self._show_counts()
        said = state.said or self._first_words()
        if said != self.sentence.text() or self.sentence.property("good") != state.good:
            self.sentence.setText(said)
            self.sentence.setProperty("good", state.good)
            self.sentence.setStyleSheet("" if state.good else f"color: {worn().wrong}")
        following = state.next or self._why()
        if self.advice.text() != following:
            self.advice.setText(following)
        marks = state.marks() if state.ready else {}
        if self.asked is not None:
            marks = self._room.riddles.shown(state.first)
        bounds = state.key_range() if state.ready and self.asked is None else _EVERY_GRIP
        self.keyboard.show_chord(bounds, marks, ())
        self.keyboard.show_held(self._room.held)

    def _first_words(self) -> str:
        state = self._state
        if not state.ready:
            return ""
        if self.asked is not None:
            return "Type, then Return." if self.answer.isVisible() else "Play it, then Space."
        if state.at_hand is not None and state.drill is None:
            return "Space begins the break, N leaves it out."
        if not self.keyboard_name and state.settings.way != "mark":
            return "No keyboard is heard: choose one with Ctrl+K, or press V until you say how it was."
        if not self._rounds.active:
            return "Space begins."
        return "Play the leaf with the heavy edge." if state.settings.way != "mark" else "Play along."

    def _why(self) -> str:
        """Why the block at hand is there, before it is begun."""
        block = self._state.at_hand
        if self._state.said or self._rounds.active or self.asked is not None or block is None:
            return ""
        return f"{block.what}: {block.why}." if self._state.ready else ""

    def _show_leaves(self) -> None:
        state = self._state
        if self.asked is not None:
            self.leaves.show_words(self.asked[1])
            return
        if not state.ready:
            self.leaves.show_words(
                EMPTY if state.desk is not None or not self._room.document.song.solved else "One moment ..."
            )
            return
        if state.at_hand is None:
            self.leaves.show_words("Choose a drill at the left: D.")
            return
        pair, report = state.leaves(), state.report()
        if pair is None or report is None or state.drill is None:
            self.leaves.show_words(self._rest_words())
            return
        wrong = () if state.last is None else tuple(note.wanted for note in state.last.faults)
        sides = SIDES if state.drill.hands == "both" else (state.drill.hands,)
        missed = frozenset(key for key in wrong if key is not None)
        self.leaves.show_hinge(pair[:2], report, pair[2], tuple(sides), missed)

    def _rest_words(self) -> str:
        until = self._rounds.resting_until
        left = "" if until is None else f"\n{max(0, round(until - clock.now()))} s"
        return f"Rest: loosen hands and shoulders, stand up once.{left}"

    def _show_counts(self) -> None:
        runner = self._state.runner
        if runner is not None and runner.running and runner.way == "time":
            self.counts.show_counts(*self._state.count_at(runner.place(clock.now())))
        else:
            there = self.asked is None and self._state.ready
            self.counts.show_counts(self._state.counts if there else 0)
