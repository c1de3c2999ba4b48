"""What a player's prices make of a song: its row with them, and without."""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import differing, settle
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.recipes import Library


class Compared(Struct, frozen=True):
    """The song's current take with a player's prices and without them, and the slots that sound otherwise."""

    theirs: Song
    ours: Song
    changed: tuple[int, ...]


def compared(song: Song, prices: OwnPrices, library: Library, progress: Progress = always) -> Compared:
    """Both rows. Locked chords are the same in either. Raises as :func:`voice_song`."""
    planner = Planner(library)
    theirs, ours = (
        voice_song(settle(song, prices=one).song, library, planner, progress).song for one in (prices, None)
    )
    return Compared(theirs, ours, differing(theirs, ours))
