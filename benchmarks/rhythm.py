"""What rhythm costs and what it gives: chord strokes of a single note, remarks about the pedal, levels of an
arc that are heard, and time.

Single notes: of all strokes that ask for a chord the share that strikes one note, in each hand, over every
pattern on songs that no price was set by (``songs_unseen.tsv``). Time: what is played in 2,000 chords of
broken sixteenths in both hands, as a share of a second of one core; a song of 64 bars voiced again after a
pattern is changed in one bar, as a share of the first time; a step of scrolling the strip, as a share of a
frame at 60 a second.

Prints ratios; asserts nothing. Run: python benchmarks/rhythm.py [songs]
"""

from __future__ import annotations

import os
import sys
import time
from collections import Counter
from itertools import pairwise
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from PySide6.QtCore import QCoreApplication

from made import heard_levels
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.patterns import HANDS, Hand, Pattern, builtin_patterns
from yellow_hinge.rhythm.realise import strokes_of, struck
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing, stretch_of
from yellow_hinge.song.walk import perform
from yellow_hinge.tasks.rhythm.checks import check_rhythm
from yellow_hinge.tasks.settings.patterns import with_patterns
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.takes.arc import laid_arc
from yellow_hinge.tasks.takes.desk import rounds_of
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.theme import make_application
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

CHORDS, FRAME_S, SONGS = 2000, 1 / 60, 20
LIBRARY = builtin_library()


def songs(meter: str, most: int, form: bool = False) -> list[Song]:
    """The songs of the list in a meter; with a form of five rounds for arcs."""
    found = []
    for line in (Path(__file__).parent / "songs_unseen.tsv").read_text("utf-8").splitlines():
        if line.startswith("#") or not line.strip():
            continue
        name, key, chart = line.split("\t")
        parts = [part.split("]", 1) for part in chart.split("[") if part.strip()]
        played = (" ".join(part[0] for part in parts * 5)).split()[:5]
        head = f"title: {name}\nkey: {key}\nmeter: {meter}\n"
        head += f"form: {' '.join(played)}\n" if form else ""
        body = "".join(f"[{section}]\n{bars.strip()}\n" for section, bars in parts)
        found.append(Song(parse_chart(head + body)))
    return found[:most]


def asks_for_more(pattern: Pattern, what: str) -> bool:
    return what in ("upper", "lower") or (what == "all" and pattern.needs > 1)


def single_notes(most: int) -> None:
    """Every pattern on some songs, each pattern on others, in turn."""
    every, single, blurred = Counter[Hand](), Counter[Hand](), 0
    played = 0
    for number, pattern in enumerate(builtin_patterns().values()):
        meter = pattern.meters[0] if "4/4" not in pattern.meters else "4/4"
        row = songs(meter, most)
        for hand in pattern.hands:
            for song in (row[number % len(row)], row[(number * 7 + 3) % len(row)]):
                if not fits(pattern, song.meter):
                    continue
                names = {one: pattern.id if one == hand else None for one in HANDS}
                made = voice_song(with_patterns(song, **names), LIBRARY, Planner(LIBRARY)).song
                playing = Playing(made)
                played += 1
                blurred += sum(one.kind == "pedal" for one in check_rhythm(made))
                for slot in made.slots:
                    own = strokes_of(
                        playing.pattern(slot.index, hand), stretch_of(slot), playing.form(slot.index)
                    )
                    for stroke in own:
                        if asks_for_more(pattern, stroke.what):
                            every[hand] += 1
                            single[hand] += len(struck(stroke.what, playing.grip(slot.index, hand), None)) < 2
    for hand in HANDS:
        print(f"single notes where a chord is asked for, {hand} hand: {single[hand]} of {every[hand]} "
              f"({single[hand] / every[hand]:.1%})")  # fmt: skip
    print(f"remarks about the pedal: {blurred}, in {played} songs in {len(builtin_patterns())} patterns")


def levels(most: int) -> None:
    """Of all steps from a level of an arc to the next one the share in which it is heard."""
    steps, risen = 0, Counter[str]()
    for meter in ("4/4", "3/4"):
        for song in songs(meter, most, form=True):
            if len(rounds_of(song)) != 5:
                continue
            laid = laid_arc(song, (1, 2, 4, 5, 3), LIBRARY)
            heard = heard_levels(voice_song(laid, LIBRARY, Planner(LIBRARY)).song)
            for below, above in pairwise(heard):
                steps += 1
                for name in ("per_quarter", "range_st", "velocity"):
                    risen[name] += getattr(above, name) > getattr(below, name)
    words = {"per_quarter": "notes a quarter", "range_st": "range", "velocity": "velocity"}
    for name, said in words.items():
        print(f"levels of an arc: {said} rises in {risen[name]} of {steps} steps")


def after_an_edit() -> None:
    """64 bars: from nothing, and after another pattern in one bar."""
    bars = " | ".join(("Dm7", "G7", "Cmaj7", "A7", "Fmaj7", "Bm7b5", "E7", "Am7") * 8)
    song, planner = Song(parse_chart(f"key: C\n[A]\n| {bars} |\n")), Planner(LIBRARY)
    began = time.process_time()
    song = voice_song(song, LIBRARY, planner).song
    first = time.process_time() - began
    song = set_texture(song, song.slots[30].at, "", {"left": "stride"}).song
    began = time.process_time()
    song = voice_song(song, LIBRARY, planner).song
    again = time.process_time() - began
    began = time.process_time()
    check_rhythm(song, range(24, 48))
    looked = time.process_time() - began
    print(f"64 bars after an edit of one pattern: {again / first:.2f} of the first time; "
          f"what is said of it: {looked / first:.2f}")  # fmt: skip


def long_song() -> Song:
    """Two thousand chords with four notes in each hand."""
    bars = " | ".join(("Cmaj7", "Am7", "Dm7", "G13") * (CHORDS // 4))
    song = Song(parse_chart(f"key: C\ntempo: 90\n[A]\n| {bars} |\n"))
    labels = ("R", "3", "5", "7")
    grip = Voicing(HandShape((48, 52, 55, 59), labels, ""), HandShape((64, 67, 71, 74), labels, ""))
    song = with_voicings(song, [grip] * len(song.columns))
    hands = {"left": "sixteenths-up", "right": "sixteenths-turning", "pedal": "half"}
    return set_texture(song, None, "", hands).song


def long_songs() -> None:
    song = long_song()
    song.slots  # noqa: B018 - is there before anything is played
    for pedal in ("half", "auto"):
        song = set_texture(song, None, "", {"pedal": pedal}).song
        began = time.process_time()
        notes = len(perform(song).notes)
        took = time.process_time() - began
        print(f"events: {notes} notes, pedal {pedal}: {took:.2f} of a second")
    app = make_application()
    page = RhythmPage(Document(LIBRARY, song))
    page.resize(1160, 750)
    page.show()
    QCoreApplication.processEvents()
    bar, steps = page.area.horizontalScrollBar(), []
    for step in range(300):
        began = time.process_time()
        bar.setValue(step * 40)
        QCoreApplication.processEvents()
        steps.append(time.process_time() - began)
    steps.sort()
    middle, slow = (steps[int(len(steps) * share)] / FRAME_S for share in (0.5, 0.95))
    print(f"scrolling: {middle:.2f} of a frame in the middle, {slow:.2f} for 95 of 100")
    page.close_page()
    del app


def main() -> None:
    most = int(sys.argv[1]) if len(sys.argv) > 1 else SONGS
    single_notes(most)
    levels(max(1, most // 2))
    after_an_edit()
    long_songs()


if __name__ == "__main__":
    main()
