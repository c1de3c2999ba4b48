"""What is heard in the window: from the chosen chord, a stretch over and over, a chord that one comes to; and
what the transport says meanwhile."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Protocol

from msgspec.structs import replace

from yellow_hinge.ui.commands import Command, CommandList, command, declared
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.looks import Looks
from yellow_hinge.ui.page import Backing, Page, Sounding
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.transport import Transport


class Host(Protocol):
    """The window, as far as playing needs it."""

    document: Document
    playback: Playback
    transport: Transport
    commands: CommandList
    looks: Looks

    @property
    def page(self) -> Page: ...
    @property
    def pages(self) -> Iterable[Page]: ...


def any_chord(desk: PlayDesk) -> bool:
    """Whether there is anything to play."""
    return bool(desk.host.document.song.slots)


class PlayDesk:
    """Lets pages be heard, and shows them what sounds."""

    def __init__(self, host: Host) -> None:
        self.host = host
        self._sounds = -1  #: the slot that is heard

    def listen(self) -> None:
        """Hear of everything that is played, once the window has its transport."""
        host = self.host
        host.playback.moved.connect(self._moved)
        host.playback.placed.connect(self._placed)
        host.playback.began.connect(self._began)
        host.playback.switched.connect(host.commands.refresh)
        host.transport.paced.connect(self._repace)
        host.document.walked.connect(self._walked)

    def make_commands(self) -> Sequence[Command]:
        """What the menu of playing has, besides what sounds and to where."""
        return declared(self)

    @command("play", "Play", "Space", "Ctrl+Space", menu="Play", when=any_chord,
             tip="Play from the chosen chord, or stop; Ctrl+Space also while typing",
             now=lambda self: "Stop" if self.host.playback.playing else "Play")  # fmt: skip
    def toggle(self) -> None:
        """Play from the chosen chord, or stop."""
        sounding = self.host.page.sounding()
        if self.host.playback.playing:
            self.host.playback.stop()
        elif sounding is not None:
            self.play(sounding)

    @command("over-again", "Loop", "Ctrl+L", menu="Play", when=any_chord,
             tip="Over and over: what plays, or else the chosen place with its neighbours",
             checked=lambda self: self.host.playback.looping)  # fmt: skip
    def loop(self) -> None:
        """What plays, or else the page's stretch, over and over; or stop doing so."""
        playback = self.host.playback
        if playback.looping:
            playback.stop()
            return
        heard = playback.heard
        goes_on = playback.playing and heard is not None and heard.last is not None
        sounding = heard if goes_on else self.host.page.stretch()
        if sounding is not None:
            self.play(replace(sounding, loops=True, count_in=False, at=None))

    @command("pace-down", "Slower", "Ctrl+,", given=(-1,), menu="Play",
             tip="A twentieth slower; what plays goes on so")  # fmt: skip
    @command("pace-up", "Faster", "Ctrl+.", given=(1,), menu="Play",
             tip="A twentieth faster; what plays goes on so")  # fmt: skip
    def change_pace(self, direction: int) -> None:
        self.host.transport.change_pace(direction)

    def play(self, sounding: Sounding) -> None:
        """Let a stretch be heard."""
        self.host.playback.play(sounding, self.host.transport.pace(sounding.song))
        self.host.commands.refresh()

    def play_backing(self, backing: Backing) -> None:
        """Let notes of a page be heard."""
        self.host.playback.play_notes(backing)
        self.host.commands.refresh()

    def strike(self, keys: Sequence[int]) -> None:
        """The player came to a grip."""
        if self.host.looks.display.walking:
            self.host.playback.strike(keys)

    def show_where(self) -> None:
        """The transport says what sounds, or else the chosen chord."""
        document, heard = self.host.document, self.host.playback.heard
        if self._sounds >= 0 and heard is not None:
            self.host.transport.show_place(heard.song, self._sounds)
        else:
            self.host.transport.show_place(document.song, document.chosen)

    def _repace(self) -> None:
        """What plays goes on from here in another tempo; a loop begins again."""
        place, heard = self.host.playback.quarters, self.host.playback.heard
        if place is not None and heard is not None:
            self.play(heard if heard.loops else replace(heard, at=place, count_in=False))

    def _began(self) -> None:
        self.host.page.show_began()
        self.host.commands.refresh()
        self.show_where()

    def _walked(self) -> None:
        """Another chord is chosen: it is heard at once."""
        self.show_where()
        voicing = self.host.document.song.voicing(self.host.document.chosen)
        if voicing is not None:
            self.strike(voicing.keys)

    def _placed(self, quarters: float) -> None:
        self.host.page.show_place(quarters)

    def _moved(self, slot: int) -> None:
        if slot != self._sounds:
            self._sounds = slot
            self.show_where()
        if slot < 0 or not self.host.looks.calm:
            for page in self.host.pages:
                page.show_playing(slot)
        if not self.host.playback.playing:
            self.host.commands.refresh()
