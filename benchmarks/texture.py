"""What the first answer sounds like, as shares over many plain songs, school by school, and what a listener
minds and likes in it (ear.py), over 40 songs and over 20 that were written only after the prices were set.
Prints shares in percent with what is wanted. Run: python benchmarks/texture.py [school...]
Options: --colour N, --reach LH,RH, --top still|free|sings, --show STYLE (prints the grips of a style).
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import ear
from ear import Shares

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.hands.profile import parse_reach
from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import change_hands, settle
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.reports.song import voice_text
from yellow_hinge.tasks.song.describe_song import row, who_has_bass
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.voicing.forms import UPPER_CHORDS
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import Voicing

ROWS = Path(__file__).parent / "progressions.tsv"
D3 = 50
#: What the plain schools are held to at colour 0, in percent (comings and goings: per change).
WANTED = {"thin right": 3, "no fifth": 3, "third twice": 50, "third twice, dominant": 0, "hole": 2,
          "high lone bass": 3, "come or go": 0.5}  # fmt: skip
PLAIN = ("solo", "singer", "spread")


def progressions() -> Iterator[tuple[str, Song]]:
    """Every row of the table: its style, and the song."""
    for line in ROWS.read_text("utf-8").splitlines():
        if line and not line.startswith("#"):
            style, key, chart = line.split("\t")
            yield style, Song(parse_chart(f"key: {key}\n{chart}\n"))


def tones(chord: ChordSymbol) -> set[int]:
    root = chord.root.pitch_class
    return {(root + degree_semitones(label)) % 12 for label in chord.degrees}


def is_triad(chord: ChordSymbol) -> bool:
    return not (chord.seventh or chord.sixth or chord.adds or chord.sus or chord.upper or chord.alters)


def measure(texture: Shares, song: Song, library: Library, school: str) -> None:
    """Count what happens in one voiced song."""
    with_bassist = who_has_bass(song.arrangement, library) == "bassist"
    bassist = row(song, library).bassist
    held: list[tuple[ChordSymbol, Voicing]] = []
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if slot.chord is None or voicing is None:
            continue
        held.append((slot.chord, voicing))
        measure_grip(texture, slot.chord, voicing, bassist[slot.index] if with_bassist else None)
        measure_school(texture, library, school, voicing)
    for (one, before), (other, after) in pairwise(held):
        moves = [hand_motion(before.hand(side).keys, after.hand(side).keys) for side in ("left", "right")]
        texture.add("come or go", sum(len(move.entered) + len(move.left) for move in moves))
        texture.add("half steps", sum(move.motion_st for move in moves))
        if one.root.pitch_class != other.root.pitch_class:
            uppers = [{key % 12 for key in voicing.keys} for voicing in (before, after)]
            twins = uppers[0] == uppers[1] and not uppers[0] <= (tones(one) & tones(other))
            texture.add("same upper structure", twins)
        if one != other:
            texture.add("top stays", before.keys[-1] == after.keys[-1])
        if school == "shapes":
            texture.add("slides", ear.roles(one, before) == ear.roles(other, after))
    if school == "guide" and held:
        tops = [voicing.keys[-1] for _, voicing in held]
        texture.add("line of a fourth", max(tops) - min(tops) >= 5)


def measure_school(texture: Shares, library: Library, school: str, voicing: Voicing) -> None:
    """Whether a grip is what its school says."""
    own = library.schools[school]
    if school == "spread":
        texture.add("wide left", voicing.left.keys[-1] - voicing.left.keys[0] >= 14)
    if own.signature_left:
        texture.add("signature left", voicing.left.recipe in own.signature_left)
    if school == "guide":
        texture.add("guide tones left", len(voicing.left.keys) == 2)
    if school == "sixes":
        classes = {key % 12 for key in voicing.right.keys}
        shapes = [step for build in UPPER_CHORDS.values() for step in build]
        named = any({(low + step) % 12 for step in one} == classes for low in classes for one in shapes)
        texture.add("triad or seventh right", named)


def measure_grip(texture: Shares, chord: ChordSymbol, voicing: Voicing, bassist: int | None) -> None:
    left, right = voicing.left, voicing.right
    texture.add("thin right", len(right.keys) <= 2)
    texture.add("full right", len(right.keys) >= 4)
    every = [*([bassist] if bassist is not None else []), *voicing.keys]
    classes = [(key - chord.root.pitch_class) % 12 for key in every]
    if is_triad(chord):
        texture.add("no fifth", chord.fifth != "" and degree_semitones(chord.fifth) not in classes)
        texture.add(
            "colour on triads",
            not {key % 12 for key in every} <= tones(chord) | {chord.bass_name.pitch_class},
        )
    if chord.third and chord.bass_name == chord.root.degree(chord.third):
        twice = classes.count(degree_semitones(chord.third)) > 1
        name = "third twice, dominant" if chord.kind == "dominant" else "third twice"
        texture.add(name, twice)
    if left.keys and right.keys:
        texture.add("hole", right.keys[0] - left.keys[-1] > 15)
    if bassist is None:
        texture.add("high lone bass", len(left.keys) == 1 and left.keys[0] > D3)
    texture.add("second at the bottom", voicing.keys[1] - voicing.keys[0] <= 2 and voicing.keys[0] < 60)


def solve(
    song: Song, school: str, colour: int | None, reach: str | None, library: Library, top: str | None = None
) -> Voiced:
    song = settle(song, school=school, colour=colour, top_line=top).song
    if reach is not None:
        song = change_hands(song, song.hands.with_reach(*parse_reach(reach))).song
    return voice_song(song, library, Planner(library))


def show(texture: Shares, school: str, colour: int | None) -> None:
    print(f"{school}, colour {'of the school' if colour is None else colour}")
    for name, share in texture.found.items():
        if name in ("come or go", "half steps"):
            value = f"{share.hits / share.of:5.2f} a change"
        else:
            value = f"{100 * share.hits / share.of:5.1f} %  ({share.hits} of {share.of})"
        wanted = WANTED.get(name) if school in PLAIN and colour == 0 else None
        print(f"  {name:24}{value}" + ("" if wanted is None else f"   wanted: at most {wanted}"))


def heard(school: str, colour: int | None, reach: str, top: str | None, library: Library) -> None:
    """The ear's figures, of songs that the prices were set by and of others."""
    for file in ("songs.tsv", "songs_unseen.tsv"):
        shares = Shares()
        for _, song in ear.songs(file):
            voiced = solve(song, school, colour, reach, library, top).song
            with_bassist = who_has_bass(voiced.arrangement, library) == "bassist"
            bassist = row(voiced, library).bassist
            held = []
            for slot in voiced.slots:
                voicing = voiced.voicing(slot.index)
                if slot.chord is not None and voicing is not None:
                    held.append((slot.chord, voicing, bassist[slot.index] if with_bassist else None))
            own = library.schools[school].colour if colour is None else colour
            ear.measure(shares, held, own, voiced.hands)
        print(f"{school}, reach {reach}, {file}")
        ear.show(shares, school)


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("schools", nargs="*")
    options.add_argument("--colour", type=int)
    options.add_argument("--reach")
    options.add_argument("--show")
    options.add_argument("--top", choices=("still", "free", "sings"))
    given = options.parse_args()
    library = builtin_library()
    for school in given.schools or library.schools:
        colours = [given.colour] if given.colour is not None else [0] if school in PLAIN else [None, 0]
        for colour in colours:
            texture = Shares()
            for style, song in progressions():
                voiced = solve(song, school, colour, given.reach, library, given.top)
                measure(texture, voiced.song, library, school)
                if given.show in (style, "all"):
                    print(voice_text(voiced, library), "\n")
            show(texture, school, colour)
        heard(school, given.colour, given.reach or "10th,9th", given.top, library)


if __name__ == "__main__":
    main()
