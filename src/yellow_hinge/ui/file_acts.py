"""What the File menu has: new songs, files, the clipboard, sound files."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Protocol

from PySide6.QtGui import QGuiApplication

from yellow_hinge.tasks.files.opening import DEMO_SONGS
from yellow_hinge.tasks.settings.recent import MOST as MOST_RECENT
from yellow_hinge.tasks.song.templates import TEMPLATES
from yellow_hinge.ui.commands import Command, command, declared
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.file_desk import FileDesk
from yellow_hinge.ui.message import MessageBar
from yellow_hinge.ui.page import Page


class Host(Protocol):
    """The window, as far as files need it."""

    document: Document
    files: FileDesk
    message: MessageBar

    @property
    def page(self) -> Page: ...
    @property
    def page_names(self) -> list[str]: ...
    def go_to(self, name: str) -> None: ...


class FileActs:
    """Acts of the File menu; where they lead to another song its chart, or its voicings, are shown."""

    def __init__(self, host: Host) -> None:
        self._host = host

    def make_commands(self) -> Sequence[Command]:
        """In the order of the menu."""
        own = {one.id: one for one in declared(self)}
        desk = self._host.files
        return [
            own["new"],
            Command("open", "Open...", desk.ask_open, ("Ctrl+O",), "File", tip="Open a song"),
            *(
                Command(f"demo-{name}", _title(name), partial(desk.open_demo, name),
                        menu="File/Open demo song", tip=f"The demo song {_title(name)}")
                for name in DEMO_SONGS
            ),
            *(
                Command(f"template-{number}", name, partial(self._new_from, text),
                        menu="File/New from a form", tip="A chart to be written over")
                for number, (name, text) in enumerate(TEMPLATES.items())
            ),
            *(
                Command(f"recent-{place}", f"File {place + 1}", partial(desk.open_recent, place),
                        menu="File/Open again", tip="A file that was used lately",
                        enabled=partial(self._is_recent, place), now=partial(self._recent_name, place))
                for place in range(MOST_RECENT)
            ),
            own["paste"], own["copy-chart"],
            Command("save", "Save", desk.save, ("Ctrl+S",), "File", tip="Save the project"),
            Command("save-as", "Save as...", desk.ask_save, ("Ctrl+Shift+S",), "File",
                    tip="Save the project under another name"),
            Command("export", "Export...", desk.ask_export, ("Ctrl+E",), "File",
                    tip="Export MIDI, MusicXML, ChordPro, ABC, chart text or a table"),
            Command("sound", "Sound file...", desk.ask_sound, ("Ctrl+Shift+E",), "File",
                    tip="WAV, FLAC or OGG to play along with: rounds, tempi, hands left out",
                    enabled=lambda: bool(self._host.document.song.slots)),
            own["stop-sound"], own["forget-all"],
            Command("save-drawing", "Save the drawing...", self.save_drawing, menu="File",
                    tip="The row, the route or the strip, all of it, as PDF, SVG or PNG",
                    enabled=lambda: self._host.page.draws != "" and self._host.document.song.solved),
        ]  # fmt: skip

    @command("new", "New", "Ctrl+N", menu="File", tip="A new song")
    def new_song(self) -> None:
        """Begin a new song, on the page that comes first."""
        if self._host.files.new_song():
            self._to_chart()

    def _new_from(self, text: str) -> None:
        """Begin a new song with a chart."""
        if self._host.files.new_from(text):
            self._to_chart()

    def _to_chart(self) -> None:
        self._host.go_to(self._host.page_names[0])

    def _is_recent(self, place: int) -> bool:
        return place < len(self._host.files.recent)

    def _recent_name(self, place: int) -> str:
        if self._is_recent(place):
            return self._host.files.recent[place].name
        return "-" if place else "none yet"

    @command("paste", "Paste as a song...", "Ctrl+Shift+V", menu="File",
             tip="Chords over words, ChordPro, ABC or a chart from the clipboard")  # fmt: skip
    def paste_song(self) -> None:
        """The text of the clipboard as a song, once it was seen what it is taken for; its grips are shown."""
        if self._host.files.ask_paste(QGuiApplication.clipboard().text()):
            choices = self._host.document.song.arrangement.choices
            held = any(choice.locked for choice in choices.values())
            self._host.go_to("Hinges" if held else self._host.page_names[0])

    @command("copy-chart", "Copy the chart text", "Ctrl+Shift+C", menu="File",
             tip="The chart as text, for other programs")  # fmt: skip
    def copy_chart(self) -> None:
        """The chart text goes to the clipboard."""
        QGuiApplication.clipboard().setText(self._host.document.text)
        self._host.message.tell("The chart text is in the clipboard.")

    def save_drawing(self) -> None:
        """What the page draws goes to a file."""
        sheet = self._host.page.picture()
        if sheet is not None:
            self._host.files.ask_picture(sheet)

    @command("stop-sound", "Cancel the sound file", menu="File", tip="Nothing is written",
             when=lambda self: self._host.files.sound_worker.running)  # fmt: skip
    def stop_sound(self) -> None:
        self._host.files.sound_worker.cancel()
        self._host.message.tell("The sound file was not written.")

    @command("forget-all", "Forget everything...", menu="Help",
             tip="Settings, tastes, practice log, copies of what is unsaved; saved songs stay")  # fmt: skip
    def forget_all(self) -> None:
        """All that the program keeps by itself is deleted, once that was agreed to."""
        from yellow_hinge.tasks.settings.stored import stored  # noqa: PLC0415 - rarely wanted

        rows = "\n".join(f"{folder}: {what}" for folder, what in stored().items())
        self._host.files.ask_forget(
            f"Delete for good what the program has stored?\n\n{rows}\n\nSongs that you saved stay."
        )


def _title(name: str) -> str:
    return name.replace("-", " ").title()
