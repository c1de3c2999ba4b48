"""The window: places on the left, the page, and the transport along the bottom. It knows pages only
by their rows."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import cached_property, partial
from importlib.resources import files
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QButtonGroup,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge import __version__
from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.tasks.settings.own_keys import OwnKeys
from yellow_hinge.ui import kit, theme
from yellow_hinge.ui.access import FocusRing, Painted
from yellow_hinge.ui.commands import Command, CommandList, empty_menu, fill_menu, refresh_menu, say_in_menu
from yellow_hinge.ui.devices import DevicePanel, Devices
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.file_acts import FileActs
from yellow_hinge.ui.file_desk import FileDesk
from yellow_hinge.ui.find_desk import FindDesk
from yellow_hinge.ui.first_steps import StepsDesk
from yellow_hinge.ui.key_desk import KeyDesk
from yellow_hinge.ui.looks import Looks
from yellow_hinge.ui.message import MessageBar, UnreadBar
from yellow_hinge.ui.page import Page, PageRow
from yellow_hinge.ui.play_desk import PlayDesk
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.quiet import QuietSide
from yellow_hinge.ui.read_words import look_at
from yellow_hinge.ui.recovery import CopyKeeper, FoundBar
from yellow_hinge.ui.stage import Stage
from yellow_hinge.ui.taste import asked
from yellow_hinge.ui.theme import color
from yellow_hinge.ui.transport import Transport
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import KeyEvent
    from yellow_hinge.sound.player import Player
    from yellow_hinge.tasks.files.recovery import Found
    from yellow_hinge.ui.key_list import KeyList

MENUS = ("File", "Edit", "View", "Play", "Help")
ABOUT = (
    f"Yellow Hinge {__version__}: two-hand voicings. MIT licence. Type: Atkinson "
    "Hyperlegible Next (SIL Open Font License). Playing can hurt: short blocks, breaks, no "
    "forced stretches; moderate volume."
)


_RAIL_WIDTH = 118
#: What a desktop draws around a window, at the most: at the sides and below, and above.
_FRAME = (8, 40)
#: Below this pages are scrolled.
_LEAST = (1024, 600)


class Window(QMainWindow):
    """Wires pages, document and playback together."""

    def __init__(
        self,
        library: Library,
        song: Song,
        rows: Sequence[PageRow],
        make_player: Callable[[], Player],
        display: Display,
        own_keys: OwnKeys,
    ) -> None:
        super().__init__()
        self._rows = rows
        self._pages: dict[str, Page] = {}
        self._undressed: set[str] = set()  #: pages that take up another size of text when they are shown
        self._shown, self._before = "", ""
        self.looks = Looks(display, self)
        self.document = Document(library, song, self)
        self.playback = Playback(self.document, make_player, self)
        self.devices = Devices(self.playback.touch, self)
        self.panel = DevicePanel(self.devices, self.playback)
        self.message = MessageBar(self.undo)
        self.copies = CopyKeeper(self.document, self)
        self.found = FoundBar()
        self.files = FileDesk(self.document, self.message, self.playback.stop)
        self.file_acts = FileActs(self)
        self.finding = FindDesk(self)
        self.playing = PlayDesk(self)
        self.keys = KeyDesk(own_keys, self)
        self.steps = StepsDesk(self)
        self.commands = CommandList(self._make_commands())
        self.keys.know("", self.commands)
        self.transport = Transport(self.playback, self.document.worker, self.commands)
        self._build()
        self._build_menus()
        self._dress_frame()
        self._connect()
        self.ring = FocusRing(self, lambda: (color("ink"), color("raised")))
        self.setAcceptDrops(True)
        self._stand()
        self.go_to(next((row.name for row in rows if row.opens), rows[0].name))
        if self.looks.display.beside in self.page_names:
            self._beside_again(self.looks.display)
        self._refresh()

    def _connect(self) -> None:
        for signal in (self.document.changed, self.document.walked):  # before the pages hear of it
            signal.connect(self._look_at_chord)
        self._look_at_chord()
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focused)
        self.playing.listen()
        self.playback.failed.connect(self.say)
        self.document.changed.connect(self._refresh)
        self.document.typed.connect(self._refresh)
        self.document.troubles.connect(self._show_troubles)
        self.document.noted.connect(lambda lines: self.message.tell("\n".join(lines), undo=True))
        self.document.acted.connect(self.message.hide)
        for signal in (self.document.read, self.document.renewed):
            signal.connect(self._show_unread)
        self.devices.changed.connect(self._held)
        self.devices.played.connect(self._key_played)
        self.copies.failed.connect(self.say)
        self.looks.dressed.connect(self._dress)
        self.looks.sized.connect(self._fit_text)
        self.looks.named.connect(self._rename)
        self.looks.failed.connect(self.say)
        self.keys.changed.connect(self._rekey)
        self.keys.failed.connect(self.say)
        self.found.wants.connect(self._take_back)
        taste = self.document.taste
        taste.said.connect(self.say)
        taste.asks.connect(self._ask_to_learn)
        QTimer.singleShot(0, taste, taste.look)

    def _ask_to_learn(self, count: int) -> None:
        agree = self.document.taste.agree
        answers = (("Learn", partial(agree, True)), ("Never", partial(agree, False)))
        self.message.tell(asked(count), answers=answers)

    def _look_at_chord(self) -> None:
        look_at(self.finding.chord)

    def _stand(self) -> None:
        """Inside what the screen leaves, with the frame that a desktop draws around a window; where it stood
        the last time, if that is there."""
        room = self.screen().availableGeometry().adjusted(_FRAME[0], _FRAME[1], -_FRAME[0], -_FRAME[0])
        size = QSize(1280, 800).boundedTo(room.size()).expandedTo(QSize(*_LEAST))
        if self.looks.display.window is not None:
            x, y, width, height = self.looks.display.window
            size = QSize(width, height).boundedTo(room.size())
            if room.contains(QPoint(x, y)) and room.contains(
                QPoint(x + size.width() - 1, y + size.height() - 1)
            ):
                self.move(x, y)
        self.resize(size)

    # --- building --------------------------------------------------------------------------

    def _build(self) -> None:
        ways = f"page-{self.page_names[0]}", f"demo-{DEMO_SONGS[0]}", "open"
        self.stage = Stage(self.commands, ways)
        body = QWidget()
        outer = kit.column(body, spacing=0)
        upper, self.below = QHBoxLayout(), QVBoxLayout()
        upper.setSpacing(0)
        self.rail = self._build_rail()
        upper.addWidget(self.rail)
        upper.addWidget(self.stage, 1)
        outer.addLayout(upper, 1)
        outer.addLayout(self.below)
        self.unread = UnreadBar(kit.button(self.commands, f"page-{self.page_names[0]}"))
        kit.add_all(outer, (self.unread, self.found, self.message, self.panel, self.transport))
        self.setCentralWidget(body)

    def _build_rail(self) -> QuietSide:
        rail = QuietSide()
        rail.setObjectName("rail")
        rail.setFixedWidth(theme.scaled(_RAIL_WIDTH))
        layout = rail.rows
        layout.setContentsMargins(0, 14, 0, 14)
        layout.setSpacing(4)
        self.places = QButtonGroup(self)
        for number, row in enumerate(self._rows):
            button = QPushButton(f"{number + 1}  {row.name}")
            button.setObjectName("place")
            button.setCheckable(True)
            button.setToolTip(" ".join((row.name, *(f"({key})" for key in _page_keys(number)))))
            self.places.addButton(button, number)
            layout.addWidget(button)
        self.places.idClicked.connect(lambda number: self.go_to(self._rows[number].name))
        layout.addStretch(1)
        self.find_button = kit.button(self.commands, "find", "place")
        layout.addWidget(self.find_button)
        return rail

    def _build_menus(self) -> None:
        """Menus of the window, and one of the page that is shown."""
        self.menus: dict[str, QMenu] = {}
        self.thing_menu = QMenu(self)
        for name in MENUS:
            if name == "Help":
                self.page_menu = self.menuBar().addMenu("Page")
            self.menus[name] = self.menuBar().addMenu(f"&{name}")
        self._fill_menus()

    def _fill_menus(self) -> None:
        for name, menu in self.menus.items():
            empty_menu(menu)
            commands = [command for command in self.commands if command.menu.partition("/")[0] == name]
            fill_menu(menu, commands, name)

    def _rekey(self) -> None:
        """Keys do other things from now on."""
        self._fill_menus()
        self._fill_page_menu()

    def _make_commands(self) -> list[Command]:
        history = lambda: self.document.history  # noqa: E731 - read anew: another song has its own
        return [
            *self.file_acts.make_commands(),
            Command("quit", "Quit", self.close, ("Ctrl+Q",), "File", tip="Close the window"),
            Command("undo", "Undo", self.undo, ("Ctrl+Z",), "Edit", tip="Take the last change back",
                    enabled=lambda: history().undo_label is not None,
                    now=lambda: _with_label("Undo", history().undo_label)),
            Command("redo", "Redo", self.redo, ("Ctrl+Shift+Z",), "Edit", tip="Do it again",
                    enabled=lambda: history().redo_label is not None,
                    now=lambda: _with_label("Redo", history().redo_label)),
            Command("find", "Find...", self.finding.ask, ("/", "Ctrl+F"), "Edit",
                    tip="Acts of all pages, chords, bars, sections, takes, patterns, schools, songs, help"),
            *(
                Command(f"page-{row.name}", row.name, partial(self.go_to, row.name),
                        _page_keys(number), "View", tip=f"Go to {row.name}")
                for number, row in enumerate(self._rows)
            ),
            Command("beside", "Keep this page in view", self.keep_beside, ("Ctrl+B",), "View",
                    tip="It stays beside the others, for a large window; again: one page at a time",
                    checked=lambda: bool(self.stage.beside)),
            Command("two-above", "Two pages above each other", self._turn, menu="View",
                    tip="Above each other, or beside", enabled=lambda: bool(self.stage.beside),
                    checked=lambda: self.stage.above),
            *self.looks.commands(),
            *self.playing.make_commands(),
            *self.playback.commands(),
            Command("devices", "Keyboard", self.panel.toggle, ("Ctrl+K",), "Play",
                    tip="Choose a MIDI keyboard or the simulated one, and see what comes in",
                    checked=self.panel.isVisible),
            Command("keys", "This page and its keys", self.show_keys, ("F1",), "Help",
                    tip="What this page is for, and everything that can be done with its keys"),
            Command("steps", "First steps", self.steps.toggle, menu="Help",
                    tip="Seven steps through the pages with a song of your choice",
                    checked=lambda: self.steps.on),
            Command("words", "What words mean", self.finding.ask_words, ("?",), "Help",
                    tip="Words of theory, those of this page first, with their notes in the chosen chord"),
            Command("keys-back", "All keys as they came", self.keys.give_all_back, menu="Help",
                    tip="Acts that were given other keys (F2 in the finder) get back their own"),
            Command("happened", "What happened", self.show_happened, menu="Help",
                    tip="Everything that was said, the last first; undo takes changes back"),
            Command("about", "About", lambda: self.message.tell(ABOUT), menu="Help",
                    tip="Version, licence and cautions"),
        ]  # fmt: skip

    # --- pages -----------------------------------------------------------------------------

    @property
    def page_shown(self) -> str:
        """The name of the page that keys go to."""
        return self._shown

    @property
    def page(self) -> Page:
        """The page that is shown."""
        return self._pages[self._shown]

    def page_named(self, name: str) -> Page:
        """A page, made when it is first wanted."""
        if name not in self._pages:
            row = next(row for row in self._rows if row.name == name)
            page = self._pages[name] = row.make(self.document)
            self.keys.know(name, page.commands)
            self.stage.add(name, page)
            page.dress()  # in its place: what is dressed and moved is dressed twice
            page.said.connect(self.say)
            page.hear.connect(self.playing.play)
            page.strikes.connect(self.playing.strike)
            page.wrote.connect(self.steps.wrote)
            page.backs.connect(self.playing.play_backing)
            page.wants.connect(self.go_to)
            if not isinstance(page.focus, QPlainTextEdit):  # text has a menu of its own
                page.focus.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
                page.focus.customContextMenuRequested.connect(partial(self._pop_up, page.focus))
            if page.twice and isinstance(page.focus, Painted):
                page.focus.twice.connect(page.commands[page.twice].try_run)
        return self._pages[name]

    def _pop_up(self, thing: QWidget, at: QPoint) -> None:
        """The right button on what is drawn: the press has chosen it; here is what can be done with it, and
        behind that everything of the page."""
        commands, menu = self.page.commands, self.thing_menu
        empty_menu(menu)
        say_in_menu(menu, [commands[act] for act in self.page.handy])
        if self.page.twice:  # its words are strong: a double click does it too
            menu.setDefaultAction(menu.actions()[self.page.handy.index(self.page.twice)])
        menu.addSeparator()
        more = menu.addMenu(f"All of {self._shown}")
        fill_menu(more, list(commands), listens=False)
        refresh_menu(menu)
        menu.popup(thing.mapToGlobal(at))

    @property
    def pages(self) -> Iterable[Page]:
        """Those that have been made."""
        return self._pages.values()

    @property
    def page_names(self) -> list[str]:
        """Of all pages, in the order of the rail."""
        return [row.name for row in self._rows]

    def go_to(self, name: str) -> None:
        """Show a page and give it the keyboard. What was typed is read first."""
        self.message.hide()
        self.document.read_draft()
        page = self.page_named(name)
        if page.theme is not self.theme or name in self._undressed:
            self._undressed.discard(name)
            page.dress()
        before, self._shown = self._shown, name
        self._before = before if before != name else self._before
        focus = self._show_page()
        if before not in ("", *self.stage.in_view):
            self._pages[before].left()
        place = self.places.button(self.page_names.index(name))
        place.setChecked(True)
        if self.isVisible():
            QTimer.singleShot(0, self.rail, partial(self.rail.ensureWidgetVisible, place))  # laid out by then
        self._fill_page_menu()
        self._show_unread()
        focus.setFocus()
        self.steps.step_on()
        page.keyboard_name = self.devices.name if self.devices.listening else ""
        page.entered()
        if self.devices.listening:
            page.show_held(self.devices.held)

    def _show_page(self) -> QWidget:
        """The page, or what it is for where there is no song yet; what is to have the keyboard."""
        name = self._shown
        if self.document.song.slots or self.page.works_empty:
            self.stage.show_page(name)
            return self.page.focus
        self.page.refresh()  # it is not seen, but keys go to it
        path = files(self._folder(name)) / "picture.svg"
        focus = self.stage.show_empty(
            name, self.about(name), path.read_text("utf-8") if path.is_file() else ""
        )
        theme.dress(self.stage.made[0])
        return focus

    def _folder(self, page: str) -> str:
        """The package of a page."""
        return next(row.make for row in self._rows if row.name == page).__module__

    def keep_beside(self) -> None:
        """The page that is shown stays in view while others come to the front; or it is alone again."""
        name = self._shown
        if self.stage.beside:
            self.stage.keep_beside("")
        else:
            self.stage.keep_beside(name)
            name = next(one for one in (self._before, *self.page_names) if one not in ("", name))
        self.go_to(name)

    def _turn(self) -> None:
        self.stage.turn()

    def _beside_again(self, display: Display) -> None:
        """Two pages in view, as they were the last time."""
        if display.beside == self._shown:
            self.keep_beside()
        else:
            self.page_named(display.beside)
            self.stage.keep_beside(display.beside)
        if display.above:
            self.stage.turn()
        if display.split is not None:
            self.stage.setSizes(display.split)

    def _focused(self, _: QWidget | None, now: QWidget | None) -> None:
        """The keyboard goes to the other page in view: what is done is done there."""
        name = self.stage.page_at(now)
        if name not in ("", self._shown):
            self._shown = name
            self.places.button(self.page_names.index(name)).setChecked(True)
            self._fill_page_menu()
            self._show_unread()

    def _fill_page_menu(self) -> None:
        commands = self.page.commands
        empty_menu(self.page_menu)
        self.page_menu.setTitle(self._shown)
        fill_menu(self.page_menu, list(commands))
        self.page_menu.menuAction().setVisible(any(commands))
        self.commands.yield_to(commands)

    @property
    def theme(self) -> theme.Theme:
        """The colours in force."""
        return self.looks.theme

    def _dress(self) -> None:
        """Other colours, for the page that is shown; the others follow when they are."""
        self._dress_frame()
        self.page.dress()

    def _dress_frame(self) -> None:
        """The theme for what is around the page."""
        around: list[QWidget] = [
            self.menuBar(),
            self.rail,
            self.found,
            self.message,
            self.unread,
            self.panel,
            self.transport,
        ]
        around += [vars(self)["key_list"]] if "key_list" in vars(self) else []  # it has been made
        around += [*self.finding.made, *self.stage.made, *self.steps.made]
        for widget in around:
            theme.dress(widget)

    def _fit_text(self) -> None:
        """Text has another size; every page takes it up when it is shown."""
        self.rail.setFixedWidth(theme.scaled(_RAIL_WIDTH))
        self.transport.fit()
        for page in self._pages.values():
            page.fit_text()
        self._dress()
        self._undressed = set(self._pages) - {self._shown}

    def _rename(self) -> None:
        """Notes have other names: all that was worked out says the old ones."""
        self.document.learn(self.document.library)

    # --- showing ---------------------------------------------------------------------------

    def _refresh(self) -> None:
        history, song = self.document.history, self.document.song
        name = self.document.path.name if self.document.path else (song.title or "Untitled")
        self.setWindowTitle(f"{'* ' if history.modified else ''}{name} - Yellow Hinge")
        self.transport.show_song(song)
        self.playing.show_where()
        if self._shown:
            there = bool(song.slots or self.page.works_empty)
            if self.stage.empty == there:
                self._show_page().setFocus()
            elif not there:
                self.page.refresh()

    def _show_unread(self) -> None:
        """A chart that waits to be mended is said wherever it is not seen."""
        document, here = self.document, self._shown == self.page_names[0]
        unread = document.history.draft is not None and document.checked.chart is None and not here
        problems = document.checked.problems if unread else ()
        self.unread.show_draft(problems, document.song.title or "Untitled")

    def _show_troubles(self, problems: tuple[Problem, ...]) -> None:
        if problems:
            self.message.say(problems)
        else:
            self.message.hide()

    def say(self, problems: tuple[Problem, ...]) -> None:
        """Show problems in the message bar."""
        self.message.say(problems)

    @cached_property
    def key_list(self) -> KeyList:
        """The list of commands, made when it is first wanted."""
        from yellow_hinge.ui.key_list import KeyList  # noqa: PLC0415 - only when it is wanted

        made = KeyList(self)
        theme.dress(made)
        return made

    def show_keys(self) -> None:
        """What the page that is shown is for, and all commands of it and of the window, with their keys."""
        from yellow_hinge.tasks.settings.mistakes import log_path  # noqa: PLC0415 - only for this list

        groups = [("On this page", list(self.page.commands)), ("Everywhere", self.commands.as_left())]
        footer = f"Mistakes of the program are written down in {log_path()}"
        self.key_list.show_page(self.page.name, self.about(self._shown), groups, footer)

    def about(self, page: str) -> str:
        """What a page is for and how one begins on it, as Markdown: it stands in its folder."""
        return (files(self._folder(page)) / "words.md").read_text("utf-8").strip()

    def show_happened(self) -> None:
        """What was said in this window, with what can be taken back."""
        said = [f"**{when}** {words}" for when, words in self.message.happened]
        label = self.document.history.undo_label
        undo = "There is nothing to undo." if label is None else f"Undo (Ctrl+Z) takes back: {label}."
        self.key_list.show_page("What happened", "\n\n".join(said) or "Nothing yet.", (), undo)

    # --- keyboards of others ---------------------------------------------------------------

    def _held(self) -> None:
        """Other keys are held on the keyboard that is heard, or another one is."""
        self.page.keyboard_name = self.devices.name if self.devices.listening else ""
        self.page.show_held(self.devices.held)

    def _key_played(self, event: KeyEvent) -> None:
        """To the page; the pedal to the port that notes go to as well."""
        self.page.key_played(event)
        down = getattr(event, "down", None)
        if down is not None:
            self.playback.pedal(down)

    # --- keys, undo, closing ---------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        typing = isinstance(self.focusWidget(), QPlainTextEdit | QAbstractSpinBox | QLineEdit)
        if typing or not (self.page.commands.key_pressed(event) or self.commands.key_pressed(event)):
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A file that is let go over the window is opened."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths and self.files.may_leave():
            event.acceptProposedAction()
            self.files.open_path(paths[0])

    def undo(self) -> None:
        self.document.undo()

    def redo(self) -> None:
        self.document.redo()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        sizes = self.stage.sizes() if self.stage.beside else []
        self.looks.keep_place(self.normalGeometry(), self.stage.beside, sizes, self.stage.above)
        self.devices.stop()
        self.playback.close()
        self.copies.close()
        self.found.close_bar()
        self.document.worker.close()
        self.document.taste.worker.close()
        self.files.close()
        for page in self._pages.values():
            page.close_page()
        event.accept()

    def _take_back(self, recovered: Found) -> None:
        """Go on with a song that was left behind. Its copy goes when this window has one of its own."""
        if not self.files.take_back(recovered.unsaved):
            return
        try:
            self.copies.now()
        except YellowHingeError as error:
            self.message.say(error.problems)
        else:
            self.found.settle(recovered)


def _page_keys(number: int) -> tuple[str, ...]:
    """The key of a page by its place in the rail: Ctrl and 1 to 9, 0 for the tenth; further ones have
    none."""
    return (f"Ctrl+{(number + 1) % 10}",) if number < 10 else ()


def _with_label(words: str, label: str | None) -> str:
    """What undo or redo does, in words; a name within the label keeps its capitals."""
    return words if not label else f"{words}: {label}"
