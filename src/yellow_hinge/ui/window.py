"""The window: places on the left, the page, and the transport along the bottom."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QPlainTextEdit,
    QProgressBar,
    QPushButton,
    QSlider,
    QSpinBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge import __version__
from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.time import MAX_TEMPO, MIN_TEMPO
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.describe_song import Row
from yellow_hinge.tasks.files import DEMO_SONGS, READ_SUFFIXES, demo_song
from yellow_hinge.ui import theme
from yellow_hinge.ui.document import Document, MakeSolver
from yellow_hinge.ui.hinges_page.state import Selection
from yellow_hinge.ui.hinges_page.view import HingesView
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.song_page.state import NEW_CHART
from yellow_hinge.ui.song_page.view import SongView
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.sound.player import Player
    from yellow_hinge.ui.hands_page.view import HandsView
    from yellow_hinge.ui.swaps_page.view import SwapsView

PLACES = ("Song", "Hands", "Hinges", "Swaps")
SONG, HANDS, HINGES, SWAPS = range(4)
KEYS_HELP = (
    ("Ctrl+1, Ctrl+2, Ctrl+3, Ctrl+4", "go to Song, Hands, Hinges, Swaps"),
    ("Left, Right", "walk leaves and hinges"),
    ("Up, Down", "walk the other voicings"),
    ("Space", "play from the chosen chord, or stop (Ctrl+Space while typing)"),
    ("H", "hear the chosen chord between its neighbours, or the chosen change"),
    ("T, Esc", "try the listed voicing, take it back"),
    ("L", "lock or unlock the chosen chord"),
    ("N", "notes show names, degrees or fingers"),
    ("K", "go to another take of the song"),
    ("W", "wishes for the chosen chord, its section or the song"),
    ("S", "scale, guide tones and targets for a solo line"),
    ("M", "show the tune over the leaves"),
    ("G", "at a change: try the voicing that makes it smaller"),
    ("B", "lead back to the first chord, for a vamp"),
    ("Return, R, X, C", "on Swaps: take the swap, give it back, keep the chord, work out the curve"),
    ("V, A", "on Swaps: other qualities of the swap, all proposals of the chord"),
    ("Home, End", "first and last chord"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+N, Ctrl+O, Ctrl+S", "new, open, save"),
    ("Ctrl+E", "export MIDI, MusicXML or chart text"),
    ("Ctrl+D", "light or dark"),
    ("F1", "this list"),
)


@dataclass(frozen=True)
class Makers:
    """What the window makes when it is first wanted: the leaves are painted before."""

    solver: MakeSolver
    player: Callable[[], Player]
    hands_page: Callable[[Document], HandsView]
    swaps_page: Callable[[Document], SwapsView]


class Window(QMainWindow):
    """Wires the pages to the document and the player."""

    def __init__(
        self,
        library: Library,
        song: Song,
        makers: Makers,
    ) -> None:
        super().__init__()
        self._makers = makers
        self.document = Document(library, song, makers.solver, self)
        self.playback = Playback(makers.player, self)
        self.theme = theme.LIGHT
        self.hinges_view = HingesView(self.document)
        self._build()
        self._build_menus()
        self.hinges_view.audition.connect(self.audition)
        self.playback.moved.connect(self._played)
        self.document.changed.connect(self._refresh)
        self.document.troubles.connect(self._show_troubles)
        self.document.worker.busy.connect(self._show_busy)
        self.document.worker.progress.connect(lambda share: self.progress.setValue(int(share * 100)))
        self.resize(1280, 800)
        self.go_to(HINGES)
        self._refresh()

    # --- building ---

    @cached_property
    def song_view(self) -> SongView:
        """The Song page, made when it is first wanted: the leaves come first."""
        view = SongView(self.document)
        view.set_theme(self.theme)
        view.go_on.connect(lambda: self.go_to(HINGES))
        self.pages.addWidget(view)
        return view

    @cached_property
    def hands_view(self) -> HandsView:
        """The Hands page, made when it is first wanted."""
        view = self._makers.hands_page(self.document)
        view.said.connect(self.say)
        view.set_theme(self.theme)
        self.pages.addWidget(view)
        return view

    @cached_property
    def swaps_view(self) -> SwapsView:
        """The Swaps page, made when it is first wanted."""
        view = self._makers.swaps_page(self.document)
        view.set_theme(self.theme)
        view.said.connect(self.say)
        view.audition.connect(self._audition_swap)
        self.pages.addWidget(view)
        return view

    def _build(self) -> None:
        self.pages = QStackedWidget()
        self.pages.addWidget(self.hinges_view)
        body = QWidget()
        outer = QVBoxLayout(body)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        upper = QHBoxLayout()
        upper.setSpacing(0)
        upper.addWidget(self._build_rail())
        upper.addWidget(self.pages, 1)
        outer.addLayout(upper, 1)
        outer.addWidget(self._build_message())
        outer.addWidget(self._build_transport())
        self.setCentralWidget(body)

    def _build_rail(self) -> QWidget:
        rail = QWidget()
        rail.setObjectName("rail")
        rail.setFixedWidth(118)
        layout = QVBoxLayout(rail)
        layout.setContentsMargins(0, 14, 0, 14)
        layout.setSpacing(4)
        self.places = QButtonGroup(self)
        for number, name in enumerate(PLACES):
            button = QPushButton(f"{number + 1}  {name}")
            button.setObjectName("place")
            button.setCheckable(True)
            button.setToolTip(f"{name} (Ctrl+{number + 1})")
            self.places.addButton(button, number)
            layout.addWidget(button)
        self.places.idClicked.connect(self.go_to)
        layout.addStretch(1)
        return rail

    def _build_message(self) -> QWidget:
        """What stands in the way, in place; no box that must be clicked away."""
        self.message_bar = QWidget()
        self.message_bar.setObjectName("panel")
        layout = QHBoxLayout(self.message_bar)
        layout.setContentsMargins(16, 8, 12, 8)
        self.message = QLabel()
        self.message.setWordWrap(True)
        self.message.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        close = QPushButton("Close")
        close.clicked.connect(self.message_bar.hide)
        layout.addWidget(self.message, 1)
        layout.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        self.message_bar.hide()
        return self.message_bar

    def _build_transport(self) -> QWidget:
        bar = QWidget()
        bar.setObjectName("transport")
        layout = QHBoxLayout(bar)
        layout.setContentsMargins(14, 7, 14, 7)
        layout.setSpacing(10)
        self.play_button = QPushButton("Play")
        self.play_button.setFixedWidth(84)
        self.play_button.setToolTip("Play from the chosen chord, or stop (Space)")
        self.play_button.clicked.connect(self.toggle_play)
        self.tempo = QSpinBox()
        self.tempo.setRange(MIN_TEMPO, MAX_TEMPO)
        self.tempo.setSuffix(" beats/min")
        self.tempo.setToolTip("Tempo for playing; the chart keeps its own until you change it there")
        self.tempo.setAccessibleName("Tempo")
        self.melody = QCheckBox("with melody")
        self.melody.setObjectName("quiet")
        self.melody.toggled.connect(self._set_melody)
        volume_label = QLabel("Volume")
        volume_label.setObjectName("quiet")
        self.volume = QSlider(Qt.Orientation.Horizontal)
        self.volume.setRange(0, 100)
        self.volume.setValue(int(self.playback.volume * 100))
        self.volume.setFixedWidth(110)
        self.volume.setToolTip("Begins at half. With headphones begin lower: loud sound harms the ears.")
        self.volume.setAccessibleName("Volume")
        self.volume.valueChanged.connect(lambda value: self.playback.set_volume(value / 100))
        self.sound_label = QLabel()
        self.sound_label.setObjectName("quiet")
        self.status = QLabel()
        self.status.setObjectName("quiet")
        self.progress = QProgressBar()
        self.progress.setFixedWidth(130)
        self.progress.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.setToolTip("Stop the search; the voicings stay as they were")
        self.cancel.clicked.connect(self.document.worker.cancel)
        for widget in (
            self.play_button,
            self.tempo,
            self.melody,
            volume_label,
            self.volume,
            self.sound_label,
        ):
            layout.addWidget(widget)
        layout.addStretch(1)
        for shown in (self.status, self.progress, self.cancel):
            layout.addWidget(shown)
        return bar

    def _build_menus(self) -> None:
        file = self.menuBar().addMenu("&File")
        self._action(file, "New", self.new_song, QKeySequence.StandardKey.New)
        self._action(file, "Open...", self.ask_open, QKeySequence.StandardKey.Open)
        demos = file.addMenu("Open demo song")
        for name in DEMO_SONGS:
            title = name.replace("-", " ").title()
            self._action(demos, title, lambda _=False, name=name: self.open_demo(name))
        file.addSeparator()
        self._action(file, "Save", self.save, QKeySequence.StandardKey.Save)
        self._action(file, "Save as...", self.ask_save, QKeySequence("Ctrl+Shift+S"))
        self._action(file, "Export...", self.ask_export, QKeySequence("Ctrl+E"))
        file.addSeparator()
        self._action(file, "Quit", self.close, QKeySequence.StandardKey.Quit)
        edit = self.menuBar().addMenu("&Edit")
        self.undo_action = self._action(edit, "Undo", self.undo, QKeySequence("Ctrl+Z"))
        self.redo_action = self._action(edit, "Redo", self.redo, QKeySequence("Ctrl+Shift+Z"))
        view = self.menuBar().addMenu("&View")
        for number, name in enumerate(PLACES):
            self._action(
                view, name, lambda _=False, n=number: self.go_to(n), QKeySequence(f"Ctrl+{number + 1}")
            )
        self._action(view, "Light or dark", self.switch_theme, QKeySequence("Ctrl+D"))
        play = self.menuBar().addMenu("&Play")
        self._action(play, "Play or stop", self.toggle_play, QKeySequence("Ctrl+Space"))
        self._action(play, "Hear what is chosen", self.audition)
        help_menu = self.menuBar().addMenu("&Help")
        self._action(help_menu, "Keys", self.show_keys, QKeySequence("F1"))
        self._action(help_menu, "About", self.show_about)

    def _action(
        self,
        menu: object,
        words: str,
        run: Callable[..., object],
        keys: QKeySequence | QKeySequence.StandardKey | None = None,
    ) -> QAction:
        action = QAction(words, self)
        if keys is not None:
            action.setShortcut(QKeySequence(keys))
        action.triggered.connect(lambda _=False: run())
        menu.addAction(action)  # type: ignore[attr-defined]
        return action

    # --- showing ---

    def set_theme(self, new: theme.Theme) -> None:
        self.theme = new
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, new)
        self.song_view.set_theme(new)
        self.hands_view.set_theme(new)
        self.hinges_view.set_theme(new)
        self.swaps_view.set_theme(new)

    def switch_theme(self) -> None:
        self.set_theme(theme.DARK if self.theme is theme.LIGHT else theme.LIGHT)

    def go_to(self, place: int) -> None:
        """Show a page and give it the keyboard."""
        self.place = place
        page, focus = {
            SONG: lambda: (self.song_view, self.song_view.editor),
            HANDS: lambda: (self.hands_view, self.hands_view.keyboard),
            HINGES: lambda: (self.hinges_view, self.hinges_view.row_view),
            SWAPS: lambda: (self.swaps_view, self.swaps_view.chips),
        }[place]()
        self.pages.setCurrentWidget(page)
        self.places.button(place).setChecked(True)
        focus.setFocus()
        if place == SWAPS:
            self.swaps_view.choose_slot(self.hinges_view.state.selection.index)

    def _refresh(self) -> None:
        history, song = self.document.history, self.document.song
        name = self.document.path.name if self.document.path else (song.title or "Untitled")
        self.setWindowTitle(f"{'* ' if history.modified else ''}{name} - Yellow Hinge")
        self.undo_action.setEnabled(history.undo_label is not None)
        self.undo_action.setText(f"Undo {(history.undo_label or '').lower()}".strip())
        self.redo_action.setEnabled(history.redo_label is not None)
        self.redo_action.setText(f"Redo {(history.redo_label or '').lower()}".strip())
        if not self.tempo.hasFocus():
            self.tempo.setValue(song.tempo)
        has_melody = any(bar.melody for _, _, bar in song.bars_in_order)
        self.melody.setEnabled(has_melody)
        self.melody.setToolTip(
            "" if has_melody else "The chart has no melody; add melody: lines on the Song page"
        )
        self.play_button.setEnabled(bool(song.slots))
        self._show_busy(self.document.worker.running)

    def _show_busy(self, busy: bool) -> None:
        self.progress.setVisible(busy)
        self.cancel.setVisible(busy)
        self.status.setText("Finding the row of least effort..." if busy else "")

    def _show_troubles(self, problems: tuple[Problem, ...]) -> None:
        if problems:
            self.say(problems)
        else:
            self.message_bar.hide()

    def say(self, problems: tuple[Problem, ...]) -> None:
        """Show problems in the message bar; the first few are enough to go on with."""
        lines = [f"{problem.place}: {problem.what}.  → {problem.remedy}." for problem in problems[:4]]
        if len(problems) > 4:
            lines.append(f"... and {len(problems) - 4} more.")
        self.message.setText("\n".join(lines))
        self.message_bar.show()

    def show_keys(self) -> None:
        """The list of keys, in the message bar."""
        self.message.setText("\n".join(f"{keys}:  {what}" for keys, what in KEYS_HELP))
        self.message_bar.show()

    def show_about(self) -> None:
        self.message.setText(
            f"Yellow Hinge {__version__}: two-hand voicings. MIT licence. Type: Atkinson "
            "Hyperlegible Next (SIL Open Font License). Playing can hurt: short blocks, breaks, no "
            "forced stretches; moderate volume."
        )
        self.message_bar.show()

    # --- playing ---

    def toggle_play(self) -> None:
        """Play from the chosen chord, or stop."""
        if self.playback.playing:
            self.playback.stop()
        elif self.document.song.slots:
            self._play(self.hinges_view.state.selection.index, None)

    def audition(self) -> None:
        """The chosen leaf between its neighbours, or both sides of the chosen hinge."""
        state = self.hinges_view.state
        if not state.song.slots:
            return
        index, last = state.selection.index, len(state.song.slots) - 1
        first = index if state.selection.on_hinge else max(0, index - 1)
        self._play(first, min(last, index + 1), back=state.selection.on_hinge and index == last)

    def _audition_swap(self, song: Song, described: Row, first: int, last: int) -> None:
        """A swap between its neighbours, before it is taken."""
        try:
            self.playback.play(replace(song, tempo=self.tempo.value()), described, first, last)
        except YellowHingeError as error:
            self.say(error.problems)

    def _play(self, first: int, last: int | None, back: bool = False) -> None:
        state = self.hinges_view.state
        try:
            song = replace(state.song, tempo=self.tempo.value())
            self.playback.play(song, state.row, first, last, back)
        except YellowHingeError as error:
            self.say(error.problems)
            return
        self.play_button.setText("Stop")
        self.sound_label.setText(self.playback.description)

    def _played(self, slot: int) -> None:
        self.hinges_view.show_playing(slot)
        if not self.playback.playing:
            self.play_button.setText("Play")

    def _set_melody(self, on: bool) -> None:
        self.playback.with_melody = on

    # --- keys of the Hinges page ---

    def keyPressEvent(self, event: QKeyEvent) -> None:
        typing = isinstance(self.focusWidget(), QPlainTextEdit | QSpinBox)
        actions = {} if typing else self._key_actions()
        plain = not event.modifiers() & Qt.KeyboardModifier.ControlModifier
        action = actions.get(event.key()) if plain else None
        if action is None:
            super().keyPressEvent(event)
        else:
            action()

    def _key_actions(self) -> dict[int, Callable[[], object]]:
        """What single keys do on the page that is shown."""
        if self.place == HANDS and self.focusWidget() is self.hands_view.keyboard:
            keyboard = self.hands_view.keyboard
            return {
                Qt.Key.Key_Right: lambda: keyboard.move_cursor(1),
                Qt.Key.Key_Left: lambda: keyboard.move_cursor(-1),
                Qt.Key.Key_Return: keyboard.play_cursor,
                Qt.Key.Key_Enter: keyboard.play_cursor,
            }
        if self.place == SWAPS:
            return self._swap_actions()
        return self._hinge_actions() if self.place == HINGES else {}

    def _swap_actions(self) -> dict[int, Callable[[], object]]:
        view = self.swaps_view
        return {
            Qt.Key.Key_Right: lambda: view.step(1),
            Qt.Key.Key_Left: lambda: view.step(-1),
            Qt.Key.Key_Up: lambda: view.step_list(-1),
            Qt.Key.Key_Down: lambda: view.step_list(1),
            Qt.Key.Key_Return: view.accept,
            Qt.Key.Key_Enter: view.accept,
            Qt.Key.Key_H: view.hear,
            Qt.Key.Key_R: view.give_back,
            Qt.Key.Key_X: view.toggle_kept,
            Qt.Key.Key_C: view.work_out,
            Qt.Key.Key_V: view.next_variant,
            Qt.Key.Key_A: view.show_every,
            Qt.Key.Key_Space: self.toggle_play,
        }

    def _hinge_actions(self) -> dict[int, Callable[[], object]]:
        view = self.hinges_view
        last = max(0, len(self.document.song.slots) - 1)
        return {
            Qt.Key.Key_Right: lambda: view.step(1),
            Qt.Key.Key_Left: lambda: view.step(-1),
            Qt.Key.Key_Up: lambda: view.step_list(-1),
            Qt.Key.Key_Down: lambda: view.step_list(1),
            Qt.Key.Key_Home: lambda: view.select(Selection()),
            Qt.Key.Key_End: lambda: view.select(Selection(last)),
            Qt.Key.Key_Space: self.toggle_play,
            Qt.Key.Key_H: self.audition,
            Qt.Key.Key_T: view.try_alternative,
            Qt.Key.Key_L: view.toggle_lock,
            Qt.Key.Key_N: view.next_label,
            Qt.Key.Key_K: view.next_take,
            Qt.Key.Key_M: view.toggle_melody,
            Qt.Key.Key_W: view.toggle_wishes,
            Qt.Key.Key_S: view.toggle_scale,
            Qt.Key.Key_G: view.try_better,
            Qt.Key.Key_R: view.give_back,
            Qt.Key.Key_B: view.toggle_loop,
            Qt.Key.Key_Escape: view.end_trial,
        }

    # --- undo and files ---

    def undo(self) -> None:
        self.document.undo()
        self.song_view.show_text(self.document.song.chart)

    def redo(self) -> None:
        self.document.redo()
        self.song_view.show_text(self.document.song.chart)

    def _may_leave(self) -> bool:
        """Ask what to do with unsaved changes; True when the song may be left."""
        if not self.document.history.modified:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self, "Yellow Hinge", "Save the changes to this song?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )  # fmt: skip
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    def new_song(self) -> None:
        if self._may_leave():
            self._open(lambda: self.document.start_over(parse_chart(NEW_CHART), None))
            self.go_to(SONG)

    def open_demo(self, name: str) -> None:
        if self._may_leave():
            self._open(lambda: self.document.start_over(demo_song(name), None))

    def ask_open(self) -> None:
        if not self._may_leave():
            return
        kinds = " ".join(f"*{suffix}" for suffix in READ_SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(self, "Open a song", "", f"Songs ({kinds});;All files (*)")
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> None:
        """Open a file; on trouble the song that is open stays."""
        problems: list[Problem] = []
        self._open(lambda: problems.extend(self.document.open(path)))
        if problems:
            self.say(tuple(problems))

    def _open(self, action: Callable[[], object]) -> None:
        self.playback.stop()
        try:
            action()
        except YellowHingeError as error:
            self.say(error.problems)
            return
        self.song_view.show_text(self.document.song.chart)
        self.hinges_view.select(Selection())

    def save(self) -> bool:
        """Save to the project's file, asking for a name if there is none yet."""
        if self.document.path is None:
            return self.ask_save()
        return self._save(self.document.path)

    def ask_save(self) -> bool:
        start = self.document.path or Path.home() / f"{self.document.song.title or 'song'}.yhinge"
        name, _ = QFileDialog.getSaveFileName(
            self, "Save the project", str(start), "Yellow Hinge project (*.yhinge)"
        )
        if not name:
            return False
        path = Path(name)
        return self._save(path if path.suffix else path.with_suffix(".yhinge"))

    def _save(self, path: Path) -> bool:
        try:
            self.document.save(path)
        except YellowHingeError as error:
            self.say(error.problems)
            return False
        return True

    def ask_export(self) -> None:
        title = self.document.song.title or "song"
        name, kind = QFileDialog.getSaveFileName(
            self, "Export", str(Path.home() / f"{title}.mid"),
            "MIDI, a track for each hand (*.mid);;MusicXML, two staves (*.musicxml);;Chart text (*.txt)",
        )  # fmt: skip
        if name:
            path = Path(name)
            suffix = kind[kind.rfind("*") + 1 : kind.rfind(")")] or ".mid"
            self.export_path(path if path.suffix else path.with_suffix(suffix))

    def export_path(self, path: Path) -> None:
        """Export and say so, or say what is in the way."""
        try:
            self.document.export(path)
        except YellowHingeError as error:
            self.say(error.problems)
            return
        self.message.setText(f"Exported to {path}")
        self.message_bar.show()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self.playback.stop()
        self.document.worker.close()
        if "swaps_view" in self.__dict__:
            self.swaps_view.worker.close()
        event.accept()
