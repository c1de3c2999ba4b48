"""The side of the Rhythm page for patterns: which hand, for which stretch, and their pictures."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QModelIndex, Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QPushButton,
    QWidget,
)

from yellow_hinge.rhythm.patterns import MOST_NAME, Pattern
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.pages.rhythm.pictures import Patterns
from yellow_hinge.ui.pages.rhythm.state import RhythmState, Scope
from yellow_hinge.ui.words import Words

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent


class PatternList(QListView):
    """A list in which Return takes what is chosen; other keys but the arrows belong to the page."""

    taken = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            super().keyPressEvent(event)
            event.accept()  # at its ends too: else they would walk through the lanes of the strip
        else:
            event.ignore()


class PatternSide(QWidget):
    """``wanted`` carries the pattern that the hand is to play, ``scoped`` says that the stretch is another,
    ``follow`` that nothing is said for it any more, ``keep`` the name for a pattern of one's own."""

    wanted = Signal(object)
    scoped = Signal()
    follow = Signal()
    keep = Signal(str)

    def __init__(self, state: RhythmState, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._state = state
        layout = kit.column(self)
        layout.addLayout(self._build_choice(commands))
        self.words = Words()
        layout.addWidget(self.words)
        self.filter = EntryField()
        self.filter.setPlaceholderText("Find: waltz, broken, short ...")
        self.filter.setAccessibleName("Find patterns by name or family")
        self.filter.setClearButtonEnabled(False)
        self.filter.textChanged.connect(lambda _: self.refresh())
        layout.addWidget(self.filter)
        self.model = Patterns()
        self.list = PatternList()
        self.model.show_in(self.list, "Patterns")
        self.list.clicked.connect(self._clicked)
        self.list.taken.connect(self._take_current)
        layout.addWidget(self.list, 1)
        layout.addWidget(self._build_own())

    def _build_choice(self, commands: CommandList) -> QHBoxLayout:
        row = QHBoxLayout()
        self.hand = kit.button(commands, "hand")
        tip = "What is chosen below holds here; what is nearer to a chord goes before it"
        self.scope = kit.choice("Where the pattern is played", tip, self._scope_chosen)
        kit.narrow(self.scope)
        row.addWidget(self.hand)
        row.addWidget(self.scope, 1)
        return row

    def _build_own(self) -> QWidget:
        self.own = QWidget()
        self.own.setObjectName("bare")
        row = kit.row(owner=self.own)
        self.name = EntryField()
        self.name.setMaxLength(MOST_NAME)
        self.name.setAccessibleName("Name of the changed pattern")
        self.name.kept.connect(lambda: self.keep.emit(self.name.text()))
        self.keep_button = QPushButton("Keep as mine")
        self.keep_button.setToolTip("Write it into your own patterns, for every song from now on")
        self.keep_button.clicked.connect(lambda: self.keep.emit(self.name.text()))
        row.addWidget(self.name, 1)
        row.addWidget(self.keep_button)
        return self.own

    def _scope_chosen(self) -> None:
        scope: Scope = self.scope.currentData()
        if scope is None:
            self.follow.emit()
        else:
            self._state.scope = scope
        self.scoped.emit()

    def seek(self, words: str) -> None:
        """List the patterns of that name, with the keyboard on them."""
        self.filter.setText(words)
        self.list.setCurrentIndex(self.model.index(0))
        self.list.setFocus()

    def _take_current(self) -> None:
        """What is chosen, or else the first one."""
        chosen = self.list.currentIndex()
        self._clicked(chosen if chosen.isValid() else self.model.index(0))

    def _clicked(self, index: QModelIndex) -> None:
        if index.isValid():
            self.wanted.emit(self.model.lines[index.row()])

    def refresh(self) -> None:
        """The patterns for the hand at the cursor."""
        state = self._state
        self._show_scope()
        song = state.song
        meter = state.slot.meter if song.slots else song.meter
        pattern = state.pattern(state.index, state.hand) if song.slots else None
        self.model.show(
            state.listed(self.filter.text()), meter, state.hand, "" if pattern is None else pattern.id
        )
        ids = [one.id for one in self.model.lines]
        if pattern is not None and pattern.id in ids and not self.list.hasFocus():
            place = self.model.index(ids.index(pattern.id))
            self.list.setCurrentIndex(place)
            self.list.scrollTo(place)
        self._show_words(pattern)
        changed = pattern is not None and state.is_own(pattern) and pattern.id not in state.own
        self.own.setVisible(changed)
        if changed and pattern is not None and not self.name.hasFocus():
            self.name.setText(pattern.name)

    def _show_scope(self) -> None:
        state = self._state
        rows: list[tuple[str, Scope | None]] = [
            (f"for {words}", scope) for scope, words in state.scope_words()
        ]
        own = state.said_here(state.hand) is not None and state.scope != "song"
        if state.scope not in [scope for _, scope in rows]:
            state.scope = state.scope_words()[0][0]
        self.scope.offer(rows + [("nothing of its own there", None)] * own, state.scope)

    def _show_words(self, pattern: Pattern | None) -> None:
        if pattern is None:
            self.words.setText("")
            return
        said_here = self._state.said_here(self._state.hand)
        where = "said for it" if said_here is not None else "as around it"
        found = len(self.model.lines)
        self.words.setText(
            f"Now: {pattern.name} ({where}). {counted(found, 'pattern')}; a click or Return takes one."
        )
