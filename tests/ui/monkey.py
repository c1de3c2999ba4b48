"""A monkey at the window: presses, clicks, types, opens, saves and turns pages without sense, always
the same way for the same seed. Searches run on meanwhile."""

from __future__ import annotations

import random
import socket
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtGui import QAction, QDragEnterEvent, QDropEvent, QWheelEvent
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QListView,
    QMenu,
    QMessageBox,
    QPlainTextEdit,
    QWidget,
)

from yellow_hinge.tasks.files.opening import DEMO_SONGS
from yellow_hinge.ui.window import Window

Key, Modifier, Button = Qt.Key, Qt.KeyboardModifier, Qt.MouseButton
_CTRL = Modifier.ControlModifier
_LETTERS, _DIGITS = range(Key.Key_A, Key.Key_Z + 1), range(Key.Key_0, Key.Key_9 + 1)
_NAMED = """Left Right Up Down Home End PageUp PageDown Return Escape Space Tab Backtab Delete Backspace F1 F8
Plus Minus Comma Period"""
PLAIN_KEYS = (*map(Key, _LETTERS), *map(Key, _DIGITS), *(Key[f"Key_{name}"] for name in _NAMED.split()))
#: Not quit: the monkey closes the window itself.
WITH_CTRL = "NOSEZDA1234" + " "
PIECES = (
    *("| C | Am7 | Dm7 | G7 |", "\n[B] x2\n| F | G |", " | Qx |", "| 1 | 6m7 | 2-9 |", "%", "|1. C |2. F |"),
    *("key: Eb\n", "key: Z\n", "meter: 3/4\n", "tempo: 9999\n", "form: A A\n", "[A]\n", "# a word\n"),
    *("melody: C5:2 D5:2 | E5:4\n", "lyrics: la la\n", "pickup: 1\nmelody: G4:1\n", "numbers: roman\n"),
    *("\ud800", "\u2028", "C:1e99", "x" * 300, "| V7/ii |"),
)


#: Files that are none, or not what they say.
ODD_FILES: dict[str, bytes] = {
    "zeros.yhinge": bytes(5000), "empty.mid": b"", "photo.musicxml": b"\x89PNG\r\n" + bytes(range(256)) * 9,
    "words.txt": b"<b>Quay</b>\n\nC    G\nla & le\n", "tune.abc": b"X:1\nT:<i>A\nK:C\n|:CDEF|G4:|\n",
    "half.yhinge": b'{"schema": "yellow-hinge/project/2", "chart": "| C |', "deep.yhinge": b"[" * 50_000,
    "grips.txt": b"Dm7: D3 C4 ; F4 A4\nG7: G3 ; B3 F4\n",
}  # fmt: skip


class Monkey:
    """``act`` does one thing. Dialogs are answered by chance, files lie in ``folder``."""

    def __init__(self, window: Window, folder: Path, seed: int) -> None:
        self.window, self.folder = window, folder
        self.rng = random.Random(seed)
        for name, data in ODD_FILES.items():
            (folder / name).write_bytes(data)
        self.done: list[str] = []
        self.commands: set[str] = set()
        self._acts: list[tuple[int, Callable[[], object]]] = [
            (30, self._key), (8, self._control_key), (22, self._click), (6, self._command),
            (10, self._type), (5, self._turn), (5, self._undo), (3, self._file), (4, self._wait),
            (3, self._wheel), (2, self._drag), (1, self._resize), (4, self._menu), (1, self._search),
            (2, self._drop), (2, self._look), (3, self._device),
        ]  # fmt: skip

    def answer(self, patch: Callable[[object, str, object], None]) -> None:
        """Let chance answer every dialog."""
        buttons = QMessageBox.StandardButton
        patch(QFileDialog, "getOpenFileName", lambda *_: (self._name(), ""))
        patch(QFileDialog, "getOpenFileNames", lambda *_: ([self._name()], ""))
        patch(QFileDialog, "getSaveFileName", lambda *_: (self._name(), "MIDI (*.mid)"))
        patch(
            QMessageBox,
            "question",
            lambda *_: self.rng.choice([buttons.Save, buttons.Discard, buttons.Cancel]),
        )
        codes = [QDialog.DialogCode.Accepted, QDialog.DialogCode.Rejected]
        patch(QDialog, "exec", lambda *_: self.rng.choice(codes))
        patch(
            QInputDialog, "getItem", lambda *words, **_: (self.rng.choice(words[3]), self.rng.random() < 0.7)
        )
        patch(QPrintDialog, "exec", lambda *_: QDialog.DialogCode.Rejected)
        patch(QMessageBox, "exec", lambda box: self.rng.choice(box.buttons()).click())

    def _name(self) -> str:
        names = [
            *ODD_FILES,
            "a.yhinge",
            "b.yhinge",
            "c.txt",
            "d.mid",
            "e.musicxml",
            "songs.cho",
            "gone/f.yhinge",
            "",
            "folder",
        ]
        return str(self.folder / name) if (name := self.rng.choice(names)) else ""

    def act(self) -> None:
        """One thing, whatever comes of it."""
        weights = [weight for weight, _ in self._acts]
        [(_, act)] = self.rng.choices(self._acts, weights)
        self.done.append(act.__name__)
        act()
        for widget in QApplication.topLevelWidgets():  # what stands in the way of the next thing
            if widget.isVisible() and isinstance(widget, QMenu | QDialog) and self.rng.random() < 0.7:
                widget.close()
        QApplication.processEvents()

    # --- what it does ----------------------------------------------------------------------

    def _target(self) -> QWidget:
        focus = QApplication.focusWidget()
        return focus if focus is not None and self.window.isAncestorOf(focus) else self.window.page.focus

    def _key(self) -> None:
        key, shift = self.rng.choice(PLAIN_KEYS), self.rng.random() < 0.1
        self.done[-1] += f" {key.name}"
        modifier = Modifier.ShiftModifier if shift else Modifier.NoModifier
        for _ in range(self.rng.choice([1, 1, 1, 3])):
            QTest.keyClick(self._target(), key, modifier)

    def _control_key(self) -> None:
        letter = self.rng.choice(WITH_CTRL)
        code = Key.Key_Space if letter == " " else Key(ord(letter))
        shift = Modifier.ShiftModifier if self.rng.random() < 0.3 else Modifier.NoModifier
        self.done[-1] += f" {letter}"
        QTest.keyClick(self._target(), code, _CTRL | shift)

    def _type(self) -> None:
        """Into whatever takes text, the chart above all."""
        target = self._target()
        if self.rng.random() < 0.6:
            self.window.go_to("Song")
            target = self.window.page.focus
        if isinstance(target, QPlainTextEdit):
            cursor = target.textCursor()
            cursor.setPosition(self.rng.randrange(len(target.toPlainText()) + 1))
            target.setTextCursor(cursor)
            if self.rng.random() < 0.05:
                target.selectAll()
            piece = self.rng.choice(PIECES)
            if self.rng.random() < 0.5 and piece.isascii():
                for number, line in enumerate(piece[:40].split("\n")):
                    if number:
                        QTest.keyClick(target, Key.Key_Return)
                    QTest.keyClicks(target, line)
            else:
                target.insertPlainText(piece)
        elif isinstance(target, QLineEdit | QAbstractSpinBox):
            QTest.keyClicks(target, self.rng.choice(["9", "-1", "My take", "1e9", "x" * 90]))

    def _widgets(self) -> list[QWidget]:
        every = self.window.findChildren(QWidget)
        return [one for one in every if one.isVisible() and one.isEnabled() and not isinstance(one, QMenu)]

    def _click(self) -> None:
        """On a control, or anywhere on a widget that paints itself."""
        kinds = (QAbstractButton, QComboBox, QListView, QAbstractSlider, QAbstractSpinBox)
        every = self._widgets()
        controls = [one for one in every if isinstance(one, kinds)]
        one = self.rng.choice(controls if controls and self.rng.random() < 0.7 else every)
        self.done[-1] += f" {type(one).__name__} {one.accessibleName() or one.objectName()}"
        if isinstance(one, QComboBox) and self.rng.random() < 0.7:
            if one.count():
                one.setFocus()
                QTest.keyClick(one, self.rng.choice([Key.Key_Down, Key.Key_Up, Key.Key_End, Key.Key_Home]))
            return
        place = QPoint(self.rng.randrange(max(1, one.width())), self.rng.randrange(max(1, one.height())))
        middle = one.rect().center() if isinstance(one, QAbstractButton) else place
        press = QTest.mouseDClick if self.rng.random() < 0.1 else QTest.mouseClick
        press(
            one, self.rng.choice([Button.LeftButton] * 6 + [Button.RightButton]), Modifier.NoModifier, middle
        )

    def _command(self) -> None:
        """Any command of the page or the window that is enabled, but for leaving."""
        every = [one for one in (*self.window.page.commands, *self.window.commands) if one.id != "quit"]
        one = self.rng.choice(every)
        self.done[-1] += f" {one.id}"
        self.commands.add(one.id)
        if one.enabled():
            one.run()

    def _menu(self) -> None:
        """An entry of a menu, by a click on it."""
        menu: QMenu | None = self.rng.choice([*self.window.menus.values(), self.window.page_menu])
        while menu is not None:
            menu.popup(QPoint(self.rng.randrange(200), 0))
            open_to = [one for one in menu.actions() if one.isEnabled() and not one.isSeparator()]
            open_to = [one for one in open_to if "Quit" not in one.text()]
            if not open_to:
                break
            action: QAction = self.rng.choice(open_to)
            self.done[-1] += f" {action.text()}"
            inner = action.menu()
            if inner is None:
                QTest.mouseClick(
                    menu, Button.LeftButton, Modifier.NoModifier, menu.actionGeometry(action).center()
                )
            menu = inner if isinstance(inner, QMenu) else None

    def _turn(self) -> None:
        self.rng.choice([one for one in self.window.commands if one.id.startswith("page-")]).run()

    def _undo(self) -> None:
        for _ in range(self.rng.choice([1, 2, 10])):
            self.rng.choice([self.window.undo, self.window.redo])()

    def _file(self) -> None:
        desk = self.window.files
        name = self.rng.choice(DEMO_SONGS)
        acts = (
            desk.save, desk.ask_save, desk.ask_open, desk.ask_export, self.window.file_acts.new_song,
            lambda: desk.open_demo(name), self._meddle,
        )  # fmt: skip
        self.rng.choice(acts)()

    def _meddle(self) -> None:
        """Somebody else writes the project's file."""
        path = self.window.document.path
        if path is not None and path.exists():
            path.write_bytes(self.rng.choice([b"{", path.read_bytes().replace(b"C", b"D", 1)]))

    def _wait(self) -> None:
        QTest.qWait(self.rng.choice([1, 10, 40, 120, 400]))

    def _wheel(self) -> None:
        one = self.rng.choice(self._widgets())
        center = one.rect().center()
        turn = QPoint(0, self.rng.choice([-240, -120, 120, 240]))
        event = QWheelEvent(
            center.toPointF(), one.mapToGlobal(center).toPointF(), QPoint(), turn, Button.NoButton,
            self.rng.choice([Modifier.NoModifier, _CTRL]), Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(one, event)

    def _drag(self) -> None:
        one = self.rng.choice(self._widgets())
        places = [
            QPoint(self.rng.randrange(max(1, one.width())), self.rng.randrange(max(1, one.height())))
            for _ in range(3)
        ]
        QTest.mousePress(one, Button.LeftButton, Modifier.NoModifier, places[0])
        for place in places[1:]:
            QTest.mouseMove(one, place)
        QTest.mouseRelease(one, Button.LeftButton, Modifier.NoModifier, places[-1])

    def _resize(self) -> None:
        self.window.resize(self.rng.choice([640, 900, 1280, 1900]), self.rng.choice([400, 700, 1100]))

    def _drop(self) -> None:
        """Files, or something else, are let go over the window."""
        data, names = QMimeData(), [self._name() for _ in range(self.rng.choice([1, 1, 2]))]
        data.setUrls([QUrl.fromLocalFile(name) for name in names] + [QUrl("trash:///x")])
        place, copy = self.window.rect().center(), Qt.DropAction.CopyAction
        said = (copy, data, Button.LeftButton, Modifier.NoModifier)
        QApplication.sendEvent(self.window, QDragEnterEvent(place, *said))
        QApplication.sendEvent(self.window, QDropEvent(place.toPointF(), *said))

    def _look(self) -> None:
        """Size of text, colours, names of notes."""
        looks = [one for one in self.window.looks.commands() if one.enabled()]
        one = self.rng.choice(looks)
        self.done[-1] += f" {one.id}"
        one.run()

    def _device(self) -> None:
        """Keyboards come, play sense or nonsense, and go."""
        devices = self.window.devices
        devices.choose(self.rng.choice(devices.names()[0]))
        if devices.name != devices.simulated.name:
            return
        with socket.create_connection(("127.0.0.1", devices.simulated.port), timeout=2) as player:
            for _ in range(self.rng.randrange(6)):
                key = self.rng.randrange(128)
                player.sendall(
                    self.rng.choice([bytes([0x90, key, 70]), bytes([0x80, key, 0]), self.rng.randbytes(9)])
                )
            QTest.qWait(20)

    def _search(self) -> None:
        self.window.document.solve()
