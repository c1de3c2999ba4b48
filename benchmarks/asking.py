"""How long work goes on without asking whether it is still wanted, in processor time of its thread, as a
share of the tenth of a second that it may: the songs' own search, open search, a vamp, a long song and
the swaps. Loading what is compiled is no loop, and is named beside.
Run: python benchmarks/asking.py
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.pairing import warm
from yellow_hinge.song.edits import lead_back, settle
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import while_wanted
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.ui.main import leave_what_stays
from yellow_hinge.voicing.recipes import builtin_library

MAY_S = 0.1
KINDS = (
    "Cmaj9",
    "F#m7b5",
    "B7#9",
    "Em11",
    "A13",
    "Dm9",
    "G7b9",
    "Ebmaj7#11",
    "Abm6",
    "Dbadd9",
    "Gb7",
    "F7alt",
)


def longest(work: Callable[[], object]) -> tuple[float, int]:
    """The longest time between two questions, and how many there were."""
    most, count, last = 0.0, 0, time.thread_time()

    def asked() -> bool:
        nonlocal most, count, last
        now = time.thread_time()
        most, count, last = max(most, now - last), count + 1, now
        return True

    with while_wanted(asked):
        work()
        asked()
    return most, count


def main() -> None:
    library = builtin_library()
    session, desk = Session(library), SwapDesk(library)
    begun = time.thread_time()
    warm()
    print(f"loading what is compiled: {(time.thread_time() - begun) / MAY_S:.2f}")
    leave_what_stays()  # as the window does: the collector's passes would count as work
    long = "\n".join(
        "| " + " | ".join(KINDS[(row * 5 + k * 7) % 12] for k in range(8)) + " |" for row in range(64)
    )
    songs = [(name, demo_song(name)) for name in DEMO_SONGS]
    songs += [(f"{name}, open search", settle(song, school="open").song) for name, song in songs[:3]]
    songs += [(f"{name}, leading back", lead_back(song, True).song) for name, song in songs[:3]]
    songs.append(("512 chords", Song(parse_chart(long))))
    works: list[tuple[str, Callable[[], object]]] = [
        (name, partial(session, song, 40)) for name, song in songs
    ]
    copper = demo_song("copper-kite")
    works.append(("swaps of a place", lambda: desk.look(copper, 0, lambda _: True)))
    works.append(("swaps of the song", lambda: desk.curve(copper, 4, lambda _: True)))
    for name, work in works:
        most, count = longest(work)
        print(f"{most / MAY_S:5.2f}  {name} ({count:,} questions)")


if __name__ == "__main__":
    main()
