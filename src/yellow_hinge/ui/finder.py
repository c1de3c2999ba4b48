"""The finder: type what you want, and go there or do it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui import kit
from yellow_hinge.ui.cards import Cards, framed, write
from yellow_hinge.ui.commands import pressed_key
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.finding import MOST_FOUND, Thing, ranked
from yellow_hinge.ui.key_desk import KeyDesk
from yellow_hinge.ui.quiet import QuietList
from yellow_hinge.ui.theme import font, scaled
from yellow_hinge.ui.words import Words

if TYPE_CHECKING:
    from PySide6.QtGui import QHideEvent, QKeyEvent

_HINT = "What do you want? lock, print, Verse, bar 12, waltz, A flat..."
_HOW = "Return goes there. F2 gives an act another key, Shift+F2 its own."
_WALKS = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 6, Qt.Key.Key_PageUp: -6}


class Findings(Cards):
    """What was found: its words and keys, and below which kind of thing it is and where."""

    high = 46
    lines: Sequence[Thing]

    def words(self, line: Thing) -> str:
        return " ".join(filter(None, (line.words, line.keys, self._about(line))))

    def _about(self, line: Thing) -> str:
        place = f"{line.kind} on {line.where}" if line.where else line.kind
        return place if line.can() else f"{place} · not possible now"

    def tip(self, line: Thing) -> str:
        return line.more

    def draw(self, painter: QPainter, box: QRectF, line: Thing, chosen: bool) -> None:
        inner = framed(painter, box, chosen, room=2)
        top = QRectF(inner.x(), inner.y() - 2, inner.width(), scaled(18))
        write(painter, top.adjusted(0, 0, -scaled(110), 0), line.words, "ink", font(1.0, bold=True))
        write(painter, top, line.keys, "muted", font(0.88), right=True)
        below = QRectF(inner.x(), inner.bottom() - scaled(13), inner.width(), scaled(15))
        write(painter, below, self._about(line), "muted", font(0.82))


class _Field(EntryField):
    """Up and Down walk what was found while one types. ``wants_key``: F2 asks for another key, with Shift for
    the one it came with; the next one pressed is ``pressed`` and not typed while ``listens``."""

    walked = Signal(int)
    wants_key = Signal(bool)
    pressed = Signal(str)
    listens = False

    def event(self, event: QEvent) -> bool:
        if self.listens and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # no menu may take the key that is asked for
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = _WALKS.get(Qt.Key(event.key()))
        if self.listens:
            if key := pressed_key(event):
                self.pressed.emit(key)
        elif event.key() == Qt.Key.Key_F2:
            self.wants_key.emit(bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif steps is None:
            super().keyPressEvent(event)
        else:
            self.walked.emit(steps)


class Finder(QDialog):
    """A field and a list; Return, or a click, goes there; F2 gives an act another key. Escape leaves
    everything as it is."""

    def __init__(self, parent: QWidget, keys: KeyDesk) -> None:
        super().__init__(parent)
        self.window_ = parent
        self._keys = keys
        self._how = _HOW
        self._asked = ""  #: a key that another act has, which was pressed once
        self.setWindowTitle("Find")
        self.resize(620, 520)
        self._things: list[Thing] = []
        layout = QVBoxLayout(self)
        self.field = kit.named(_Field(), "What you want", "Words of it, in any order; the beginnings will do")
        self.field.textChanged.connect(lambda _: self._look())
        self.field.kept.connect(self._take)
        self.field.walked.connect(self._walk)
        self.field.wants_key.connect(self._ask_key)
        self.field.pressed.connect(self._key_pressed)
        self.list = QuietList()
        self.cards = Findings()
        self.cards.show_in(self.list, "What was found")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.clicked.connect(lambda _: self._take())
        self.said = Words()
        kit.add_all(layout, (self.field, self.list, self.said))

    def ask(self, things: Iterable[Thing], hint: str = _HINT, how: str = _HOW) -> None:
        """Begin anew, with what is known so far; ``how`` says what the keys do."""
        self._things, self._how = list(things), how
        self.field.setPlaceholderText(hint)
        self.field.clear()
        self.field.setFocus()
        self._look()
        self.show()
        self.raise_()
        self.activateWindow()

    def add(self, things: Iterable[Thing]) -> None:
        """More is known: what was walked to stays chosen, else the nearest is."""
        self._things += things
        self._look(self.chosen if self.list.currentIndex().row() > 0 else None)

    @property
    def chosen(self) -> Thing | None:
        """What Return would take."""
        row = self.list.currentIndex().row()
        return self.cards.lines[row] if 0 <= row < len(self.cards.lines) else None

    def _look(self, stays: Thing | None = None) -> None:
        found = ranked(self.field.text(), self._things)
        self.cards.take(found)
        row = next((place for place, thing in enumerate(found) if thing is stays), 0)
        self.list.setCurrentIndex(self.cards.index(row))
        more = f"The first {MOST_FOUND} of them: say more." if len(found) == MOST_FOUND else ""
        nothing = "Nothing is called so. Fewer or other words may find it."
        self.said.setText(
            nothing if not found else f"{more or counted(len(found), 'place') + '.'} {self._how}"
        )

    def _walk(self, steps: int) -> None:
        row = max(0, min(len(self.cards.lines) - 1, self.list.currentIndex().row() + steps))
        self.list.setCurrentIndex(self.cards.index(row))
        self.list.scrollTo(self.cards.index(row))

    def _ask_key(self, back: bool) -> None:
        """Another key for the chosen act, or those that it came with."""
        thing = self.chosen
        if thing is None or not thing.act:
            self.said.setText("Only acts have keys: choose one.")
        elif back:
            self._keys.give_back(thing.where, thing.act)
        else:
            self.field.listens, self._asked = True, ""
            self.said.setText(f"Press the key for “{thing.words}”; Escape leaves it as it is.")

    def _key_pressed(self, key: str) -> None:
        thing = self.chosen
        if key == "Esc" or thing is None:
            self._leave_key()
            return
        against = self._keys.stands_against(thing.where, thing.act, key)
        if against and (key != self._asked or not self._keys.may_take(key)):
            self._asked = key
            self.said.setText(against)
            return
        self._leave_key()
        self._keys.give(thing.where, thing.act, key)

    def _leave_key(self) -> None:
        self.field.listens = False
        self._look(self.chosen)

    def renew(self, things: Iterable[Thing]) -> None:
        """Acts have other keys: what was chosen stays chosen."""
        chosen = self.chosen
        self._things = list(things)
        same = (one for one in self._things if chosen and (one.where, one.act) == (chosen.where, chosen.act))
        self._look(next(same, None))

    def hideEvent(self, event: QHideEvent) -> None:
        self.field.listens = False
        super().hideEvent(event)

    def _take(self) -> None:
        thing = self.chosen
        if thing is not None:
            self.hide()
            self.window_.activateWindow()  # not every desktop gives the keyboard back
            thing.go()
