"""The keyboard that is played into the window, and the small panel where it is chosen."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.ui import kit
from yellow_hinge.ui.computer_keys import ComputerKeys
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.screen_keys import ScreenKeys
from yellow_hinge.ui.words import Label

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys, Keyboard, KeyEvent, SimulatedKeyboard
    from yellow_hinge.ui.playback import Playback

_NONE, _HERE = "No keyboard", "This program only"
#: How often it is looked for keyboards that were plugged in, while the panel is open, ms.
_LOOK_MS = 2000
#: Events that are taken before the window may paint.
_AT_ONCE = 16
#: Notes that are said last.
_MOST_NOTES = 8

Touch = Callable[[int, int], None]


class Devices(QObject):
    """Hears one keyboard. ``played`` carries what a player does (on the interface thread), ``changed``
    says that other keys are held, and ``trouble`` what is to be said about it, in words."""

    played = Signal(object)
    changed = Signal()
    trouble = Signal(str)
    _came = Signal()

    def __init__(self, touch: Touch, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._touch = touch
        self.sounds = True
        self.last: list[int] = []
        self._keyboard: Keyboard | None = None
        self._waiting: deque[KeyEvent] = deque()
        self._came.connect(self._hear_waiting, Qt.ConnectionType.QueuedConnection)

    @cached_property
    def held(self) -> HeldKeys:
        """Which keys are down."""
        from yellow_hinge.sound.keyboards import HeldKeys  # noqa: PLC0415 - brings the MIDI library

        return HeldKeys()

    @cached_property
    def simulated(self) -> SimulatedKeyboard:
        """The keyboard that ships with the application."""
        from yellow_hinge.sound.keyboards import SimulatedKeyboard  # noqa: PLC0415

        return SimulatedKeyboard()

    @cached_property
    def computer(self) -> ComputerKeys:
        """The keys of the computer."""
        window = self.parent()
        assert isinstance(window, QWidget)
        return ComputerKeys(window)

    @cached_property
    def screen(self) -> ScreenKeys:
        """The keyboard on the screen; the panel shows it."""
        return ScreenKeys()

    @property
    def listening(self) -> bool:
        """Whether a keyboard is heard."""
        return self._keyboard is not None

    @property
    def name(self) -> str:
        """What is heard now."""
        return _NONE if self._keyboard is None else self._keyboard.name

    def names(self) -> tuple[tuple[str, ...], str]:
        """What can be chosen, and in words why there is no more."""
        from yellow_hinge.sound.keyboards import system_ports  # noqa: PLC0415

        ports = system_ports()
        return (
            _NONE,
            self.simulated.name,
            self.screen.name,
            self.computer.name,
            *ports.inputs,
        ), ports.trouble

    def choose(self, name: str) -> None:
        """Hear another keyboard, or none."""
        from yellow_hinge.sound.keyboards import MidiKeyboard  # noqa: PLC0415

        if name == self.name:
            return
        self.stop()
        if name == _NONE:
            return
        ours: dict[str, Keyboard] = {one.name: one for one in (self.simulated, self.screen, self.computer)}
        keyboard = ours.get(name) or MidiKeyboard(name)
        try:
            ours_here = keyboard is self.computer or keyboard is self.screen
            keyboard.start(self._heard if ours_here else self._brought)
        except OSError as error:
            self.trouble.emit(f"{error}. Choose another keyboard, or plug it in again.")
            return
        self._keyboard = keyboard
        self.changed.emit()
        if keyboard is self.simulated:
            self.trouble.emit(f"Any program on this machine may play it, on port {self.simulated.port}.")
        else:
            self.trouble.emit(getattr(keyboard, "words", ""))

    def stop(self) -> None:
        """Hear nothing any more; all keys are let go."""
        if self._keyboard is None:
            return
        self._keyboard.stop()
        self._keyboard = None
        for key in self.held.sounding:
            self._sound(key, 0)
        del self.held
        self.changed.emit()

    def feed(self, event: KeyEvent) -> None:
        """Something was played, wherever: on a keyboard, or on the one of the screen."""
        self._take(event)
        self.changed.emit()

    def _take(self, event: KeyEvent) -> None:
        before = set(self.held.sounding)
        self.held.feed(event)
        after = set(self.held.sounding)
        struck = getattr(event, "velocity", 0)
        for key in before - after:
            self._sound(key, 0)
        if struck:
            key = getattr(event, "key", 0)
            self._sound(key, struck)
            self.last = [*self.last, key][-_MOST_NOTES:]
        self.played.emit(event)

    def _brought(self, event: KeyEvent) -> None:
        """From the keyboard's thread: the interface is woken once, however much came meanwhile."""
        first = not self._waiting
        self._waiting.append(event)
        if first:
            self._came.emit()

    def _hear_waiting(self) -> None:
        """What has come meanwhile, in order; then the window may paint before the rest."""
        for _ in range(min(len(self._waiting), _AT_ONCE)):
            event = self._waiting[0]
            if self._keyboard is not None:  # what was on its way when it was stopped is not for us
                self._take(event)
            self._waiting.popleft()  # last: as long as one is there, nobody wakes us again
        self.changed.emit()
        if self._waiting:
            self._came.emit()

    def _heard(self, event: KeyEvent) -> None:
        if self._keyboard is not None:
            self.feed(event)

    def _sound(self, key: int, velocity: int) -> None:
        if not self.sounds and velocity:
            return
        try:
            self._touch(key, velocity)
        except YellowHingeError as error:
            self.sounds = False
            self.trouble.emit(str(error.problems[0]))


class DevicePanel(Ground):
    """Which keyboard is heard, whether its keys sound, and what came last."""

    def __init__(self, devices: Devices, playback: Playback, parent: QWidget | None = None) -> None:
        super().__init__("transport", parent)
        self._devices, self._playback = devices, playback
        rows = QVBoxLayout(self)
        rows.setContentsMargins(14, 6, 14, 6)
        rows.setSpacing(6)
        row = QHBoxLayout()
        row.setSpacing(10)
        rows.addLayout(row)
        rows.addLayout(self._build_out())
        rows.addWidget(devices.screen)
        label = kit.label("quiet", "Keyboard", wraps=False)
        self.box = kit.choice(
            "Keyboard that is heard", "A MIDI keyboard of this machine, one on the screen, two rows of "
            "letters of the computer, or the simulated one, which another program plays: "
            "python -m yellow_hinge.sound.simulated", lambda: self.choose(self.box.currentText()),
        )  # fmt: skip
        self.box.setMinimumWidth(220)
        self.sounds = kit.tick(
            "Keys sound", self._set_sounds, "Through the instrument of this program, some 60 ms later than "
            "struck. Switch it off where the keyboard sounds by itself. Begin at moderate volume.",
        )  # fmt: skip
        self.sounds.setChecked(devices.sounds)
        self.last = Label()
        self.last.setToolTip("The last notes that came in")
        self.words = kit.label("quiet")
        for widget in (label, self.box, self.sounds, self.last):
            row.addWidget(widget)
        row.addWidget(self.words, 1)
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self.look)
        devices.changed.connect(self._show_last)
        devices.trouble.connect(self.words.setText)
        self.hide()

    def _build_out(self) -> QHBoxLayout:
        label = kit.label("quiet", "Notes go to", wraps=False)
        self.out_box = kit.choice(
            "Where notes go", "What is played, the click, and what you play yourself with the pedal, to a "
            "MIDI port of this machine, or to the simulated one: "
            "python -m yellow_hinge.sound.simulated_listener",
            self._out_chosen, ((_HERE, None),),
        )  # fmt: skip
        self.out_box.setMinimumWidth(220)
        tip = "Whether this program sounds as well while notes go to a port"
        self.here = kit.tick("Sound here too", self._playback.sound_here, tip)
        self.out_words = kit.label("quiet")
        row = kit.row(label, self.out_box, self.here, spacing=10)
        row.addWidget(self.out_words, 1)
        return row

    def choose(self, name: str) -> None:
        """Hear another keyboard; what makes its sound is loaded now, and not at the first key."""
        self._devices.choose(name)
        if self._devices.listening and self._devices.sounds:
            try:
                self._playback.prepare()
            except YellowHingeError as error:
                self.words.setText(str(error.problems[0]))

    def _out_chosen(self) -> None:
        """Notes go elsewhere from now; where that fails they go on where they went."""
        name = self.out_box.currentText()
        try:
            self._playback.send_to(name)
        except (OSError, YellowHingeError) as error:
            words = error.problems[0].what if isinstance(error, YellowHingeError) else str(error)
            self.out_words.setText(f"{words[:1].upper()}{words[1:]}.")
            self.out_box.setCurrentText(self._playback.goes_to or _HERE)
            return
        self.out_words.setText("")

    def toggle(self) -> None:
        """Open or close the panel."""
        if self.isVisible():
            self._timer.stop()
            self.hide()
            return
        self.look()
        self._timer.start()
        self.show()
        self.box.setFocus()

    def look(self) -> None:
        """What can be chosen now; a list that is open stays as it is."""
        names, trouble = self._devices.names()
        shown = [self.box.itemText(k) for k in range(self.box.count())]
        if shown != list(names) and not self.box.view().isVisible():
            if self._devices.name not in names:
                self.words.setText(f"{self._devices.name} is gone.")
                self._devices.stop()
            self.box.clear()
            self.box.addItems(names)
        self.box.setCurrentText(self._devices.name)
        self._look_out()
        if trouble and not self.words.text():
            self.words.setText(trouble)

    def _look_out(self) -> None:
        """Where notes can go now."""
        names = (_HERE, *self._playback.ports())
        shown = [self.out_box.itemText(k) for k in range(self.out_box.count())]
        if shown != list(names) and not self.out_box.view().isVisible():
            self.out_box.clear()
            self.out_box.addItems(names)
        self.out_box.setCurrentText(self._playback.goes_to or _HERE)

    def _set_sounds(self, on: bool) -> None:
        self._devices.sounds = on

    def _show_last(self) -> None:
        if not self.isVisible():
            return
        names = [pitch_for_key(key, flats=True).pretty for key in self._devices.last]
        pedal = " · pedal down" if self._devices.held.pedal else ""
        self.last.setText(f"{' '.join(names)}{pedal}")
