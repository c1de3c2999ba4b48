"""How soon the first row is there: after an edit of one chord of a demo song, and for a new song of
32 chords, in every school but open search. Process time of a program that has solved a song before,
the least of five tries, so that other work of the machine does not count; against what is wanted and
against the whole of ranks and other rows. Run: python benchmarks/first_row.py
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.edits import edit_chart
from yellow_hinge.song.model import FIRST_TAKE, Song, Take
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.ui.main import leave_what_stays
from yellow_hinge.voicing.recipes import builtin_library

TRIES = 5
AFTER_EDIT_S, TWELVE_KINDS_S, MANY_KINDS_S = 0.1, 0.35, 0.8
TWELVE = ("C", "Am7", "Dm7", "G7", "Em7", "A7", "Fmaj7", "Fm6", "D7", "Bm7b5", "E7b9", "Cmaj7")
MANY = (*TWELVE, "Eb7", "Abmaj7", "Db9", "Gb13", "Cm9", "F7sus", "Bbmaj9", "Ebm7", "Ab7alt", "Dbmaj7",
        "G/B", "C/E", "Gm7", "C9", "Fmaj9", "B7#9", "Em9", "A13", "Dmaj7", "F#dim7")  # fmt: skip


def spent(action: Callable[[], object]) -> float:
    """Seconds of this process."""
    started = time.process_time()
    action()
    return time.process_time() - started


def song(symbols: tuple[str, ...], school: str) -> Song:
    chords = [symbols[number % len(symbols)] for number in range(32)]
    lines = "\n".join("| " + " | ".join(chords[k : k + 4]) + " |" for k in range(0, 32, 4))
    return Song(parse_chart(f"key: C\n{lines}\n"), (Take(0, FIRST_TAKE, Arrangement(school)),))


def shown(session: Session, edited: Song) -> None:
    """The row, described for the screen."""
    solved = session.row(edited)
    assert solved.voiced is not None
    row(solved.voiced.song, builtin_library())


def after_an_edit(name: str) -> tuple[float, float]:
    """(seconds to the row with one other chord at the worst of several places, seconds of all). The tries
    of a place lie apart, so that a slow spell of the machine does not meet all of them."""
    before = demo_song(name)
    chart = before.chart
    edits = []
    for place in range(0, len(chart.written), 5):
        old = str(chart.written[place].chord)
        text = chart.text.replace(f" {old}", " Cm7" if old != "Cm7" else " Eb7", 1)
        edits.append(edit_chart(before, parse_chart(text)).song)
    tries = [[_edited(before, edited) for edited in edits] for _ in range(TRIES)]
    least = [
        (min(row for row, _ in place), min(every for _, every in place)) for place in zip(*tries, strict=True)
    ]
    return max(row for row, _ in least), max(every for _, every in least)


def _edited(before: Song, edited: Song) -> tuple[float, float]:
    session = Session(builtin_library())
    session(before, 40)
    return spent(partial(shown, session, edited)), spent(partial(session, edited, 40))


def opened(symbols: tuple[str, ...], school: str) -> float:
    """Seconds to the row of a song that is new."""
    return spent(partial(shown, Session(builtin_library()), song(symbols, school)))


def main() -> None:
    library = builtin_library()
    Session(library)(song(TWELVE, "solo"), 40)  # everything is loaded
    leave_what_stays()
    for name in DEMO_SONGS:
        worst, whole = after_an_edit(name)
        print(f"{name}: row after an edit {worst:.3f} s, RATIO to what is wanted "
              f"{worst / AFTER_EDIT_S:.2f}, ranks and rows too {whole:.2f} s")  # fmt: skip
    for words, symbols, wanted in (("12", TWELVE, TWELVE_KINDS_S), ("32", MANY, MANY_KINDS_S)):
        schools = [school for school in library.schools if school != "open"]
        tries = [{school: opened(symbols, school) for school in schools} for _ in range(TRIES)]
        slowest = {school: min(one[school] for one in tries) for school in schools}
        worst_school = max(slowest, key=slowest.__getitem__)
        worst = slowest[worst_school]
        print(f"new song, {words} kinds of chord: at worst {worst:.3f} s ({worst_school}), "
              f"RATIO to what is wanted {worst / wanted:.2f}")  # fmt: skip


if __name__ == "__main__":
    main()
