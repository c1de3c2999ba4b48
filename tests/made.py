"""Songs for the tests: one with everything decided, and charts made at random."""

from __future__ import annotations

from fractions import Fraction
from importlib.resources import files
from itertools import pairwise
from typing import Any

from hypothesis import strategies as st
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.rhythm.patterns import HANDS, Pattern, Stroke
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.arrangement import Arrangement, Ask, Choice, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Bar, Chart, ChordAt, MelodyNote, Section, Syllable, Words
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.groove import Groove, RiffNote, Texture
from yellow_hinge.song.model import FIRST_TAKE, Song, Take
from yellow_hinge.song.walk import perform
from yellow_hinge.song.words import struck_at, without_empty
from yellow_hinge.tasks.takes.arc import levels_of
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import ALL_KEYS, parse_key
from yellow_hinge.theory.pitch import NoteName, read_pitch
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing

#: Written chords 0..7: C, Am7, Dm7, F, G7 in the walk, E7, Am, C in the bridge.
WALK = """title: Rope Walk
key: C
meter: 4/4
[Walk] x2
| C | Am7:2 Dm7:2 | F | G7 |
melody: E5:4 | C5:2 D5:2 | r:2 C5:2 | B4:4
[Bridge]
| E7 | Am | C |
"""
#: The chord that everything is decided on.
F = 3


def song_of(text: str, school: str = "solo", **wishes: object) -> Song:
    """A song from chart text, with wishes for its take."""
    arrangement = replace(Arrangement(school), **wishes)
    return Song(parse_chart(text), (Take(0, FIRST_TAKE, arrangement),))


def chord(text: str) -> ChordSymbol:
    found = parse_chord(text)
    assert found is not None
    return found


def marked(song: Song) -> Song:
    """Every column holds a voicing that tells its number."""
    voicings = [
        Voicing(HandShape((40 + k,), ("R",), ""), HandShape((70,), ("5",), ""))
        for k in range(len(song.columns))
    ]
    return with_voicings(song, voicings)


def symbols(song: Song) -> list[str]:
    return [str(slot.chord or "N.C.") for slot in song.slots]


def held(key: int) -> Voicing:
    return Voicing(HandShape((key,), ("R",), "root"), HandShape((key + 24, key + 28), ("R", "3"), "own"))


#: A value for every field of an arrangement that is not its default, decided on F or its section.
DECIDED: dict[str, object] = {
    "school": "band",
    "colour": 2,
    "bass": "bassist",
    "melody": "clear",
    "hands": "right",
    "inverted": True,
    "loop": True,
    "levels": (("bass", 1), ("leaps", -2)),
    "rules_off": ("pedal", "tritone"),
    "tastes": {
        "Walk": Taste(
            "spread",
            1,
            "room",
            NoteName(5 - 2),
            True,
            "left",
            False,
            (HandRule("left", "octave"),),
            frozenset({"colour"}),
            "free",
            "rising",
        )
    },
    "choices": {At(F): Choice(held(41), True)},
    "asks": {
        At(F): Ask(
            Taste(colour=3),
            Hold(right=held(41).right, top=69, lowest=40, left_recipe="root", off=frozenset({"top"})),
            (Fill("right", 69, 71, 70, Fraction(3), Fraction(1)),),
        )
    },
    "swaps": {F: (ChordAt(chord("Dm9"), Fraction(2)), ChordAt(chord("Db7"), Fraction(2)))},
    "keys_set": {F: parse_key("Bb")},
    "untouched": frozenset({F}),
    "rules": (HandRule("right", "top", "3"), HandRule("left", "lowest", 40, on=False)),
    "groove": Groove(
        Texture("bass-chord", "held-again", "chord", 1, True, False),
        {("Walk", 0): Texture("waltz"), ("Walk", 2): Texture(right="mine")},
        {At(F): Texture(right="off-beats", touch=-1)},
        (
            Pattern(
                "mine",
                "My own",
                (Stroke(Fraction(1, 2), "top", Fraction(3, 2), "soft", "rolled", True),),
            ),
        ),
        {At(F): (RiffNote(Fraction(1, 2), Fraction(1, 3), 77, "left"),)},
        {At(F): (Fraction(0), Fraction(5, 2))},
        60, False, 40, True, 3, "rolled", True, "brush", "swing-two",
    ),
    "shift_st": 1,
    "top_line": "sings",
    "plan": "falling",
    "style": "bebop",
    "prices": OwnPrices({"enter": 0.5}, {"left root-fifth": 3}, "solo", "Ida"),
}  # fmt: skip


def decided_song(*names: str) -> Song:
    """The walk with some fields decided, all of them where none is named."""
    wishes = {name: DECIDED[name] for name in names or DECIDED}
    return Song(parse_chart(WALK), (Take(0, FIRST_TAKE, replace(Arrangement(), **wishes)),))


# --- charts at random --------------------------------------------------------------------

_SYMBOLS = ("C", "Dm7", "G7", "F#m7b5", "Bbmaj9", "E7#9", "A/C#", "Ebm(maj7)", "B7alt", "N.C.", "Ab6/9")
_LENGTHS = (Fraction(1, 2), Fraction(1), Fraction(3, 2), Fraction(1, 3), Fraction(2, 5))
_METERS = tuple(Meter(*pair) for pair in ((4, 4), (3, 4), (6, 8), (7, 8), (2, 2), (5, 4)))
_PITCHES = ("C4", "F#5", "Bb3", "E5", "Cb5", "D##4")


@st.composite
def _shared(draw: st.DrawFn, total: Fraction, most: int) -> list[Fraction]:
    """Lengths that add up."""
    found: list[Fraction] = []
    while len(found) < most - 1 and sum(found) < total:
        found.append(draw(st.sampled_from(_LENGTHS)))
    while sum(found) >= total and found:
        found.pop()
    return [*found, total - sum(found)]


@st.composite
def tunes(draw: st.DrawFn, total: Fraction) -> tuple[MelodyNote, ...]:
    """The tune of a bar; notes are tied to the next one only where that has their pitch."""
    notes = [
        MelodyNote(read_pitch(draw(st.sampled_from(_PITCHES))) if draw(st.booleans()) else None, beats)
        for beats in draw(_shared(total, 5))
    ]
    for k, (one, after) in enumerate(pairwise(notes)):
        if one.pitch is not None and one.pitch == after.pitch and draw(st.booleans()):
            notes[k] = replace(one, tied=True)
    return tuple(notes)


_TEXTS = st.text(alphabet="abé'#:.-_|\\", min_size=1, max_size=4)


@st.composite
def words(draw: st.DrawFn, most: int) -> Words:
    """Syllables for at most so many notes, held over some of them."""
    row = [
        Syllable(held=True)
        if draw(st.integers(0, 4)) == 0
        else Syllable(draw(_TEXTS), joined=draw(st.booleans()))
        for _ in range(draw(st.integers(0, most)))
    ]
    row = [
        replace(one, joined=False) if after.held else one
        for one, after in zip(row, [*row[1:], Syllable("x")], strict=False)
    ]
    return tuple(row) if any(not one.held for one in row) else ()


@st.composite
def bars(draw: st.DrawFn, now: Bar) -> Bar:
    """A bar that follows another one: what changes with it, its chords, tune and words."""
    alone = draw(st.booleans())
    bar = replace(now, alone=alone, melody=(), words=())
    if draw(st.integers(0, 5)) == 0:
        bar = replace(bar, key=draw(st.sampled_from(ALL_KEYS)), tempo=draw(st.integers(40, 200)))
    if alone:
        bar = replace(bar, meter=draw(st.sampled_from(_METERS)))
    total = Fraction(bar.meter.beats)
    chords = tuple(
        ChordAt(parse_chord(draw(st.sampled_from(_SYMBOLS))), beats) for beats in draw(_shared(total, 3))
    )
    melody = draw(tunes(total)) if draw(st.booleans()) else ()
    most = len(struck_at(melody, joined=False)) if melody else len(chords)
    rows = [draw(words(most)) for _ in range(draw(st.integers(0, 3)))]
    if not melody:
        rows = [_no_hold_at_the_end(row) for row in rows]
    return replace(bar, chords=chords, melody=melody, words=without_empty(rows))


def _no_hold_at_the_end(row: Words) -> Words:
    while row and row[-1].held:
        row = row[:-1]
    return row


@st.composite
def charts(draw: st.DrawFn) -> Chart:
    """Charts with all that a chart can say, ties over bar lines apart."""
    tempo = draw(st.integers(30, 300))
    start = Bar((), draw(st.sampled_from(_METERS)), draw(st.sampled_from(ALL_KEYS)), tempo)
    names = draw(
        st.lists(st.sampled_from(("Verse", "Verse Two", "Two", "End")), min_size=1, max_size=3, unique=True)
    )
    sections, now = [], start
    for number, name in enumerate(names):
        drawn = []
        for place in range(draw(st.integers(1, 5))):
            bar = draw(bars(now))
            if number == place == 0:
                bar = replace(bar, key=start.key, tempo=start.tempo)
            elif place == 0 and not bar.alone and draw(st.booleans()):
                bar = replace(bar, meter=now.meter)
            drawn.append(bar)
            now = replace(bar, meter=now.meter if bar.alone else bar.meter)
        cut = sorted(draw(st.lists(st.integers(1, len(drawn)), max_size=2, unique=True)))
        cut = [place for place in cut if place < len(drawn)]
        ends = tuple(tuple(drawn[a:b]) for a, b in zip(cut, [*cut[1:], len(drawn)], strict=False))
        body = tuple(drawn[: cut[0]] if cut else drawn)
        sections.append(Section(name, body, draw(st.integers(1, 3)), ends))
    pickup = draw(st.sampled_from((Fraction(0), Fraction(1), Fraction(3, 2))))
    notes = draw(tunes(pickup)) if pickup and draw(st.booleans()) else ()
    most = len(struck_at(notes, joined=False))
    sung = without_empty([draw(words(most)) for _ in range(draw(st.integers(0, 3)))])
    return Chart(
        draw(st.sampled_from(("", "Tin Lantern", "x: y"))), draw(st.sampled_from(("", "A. Maker"))),
        start.key, start.meter, start.tempo, pickup, notes, sung, tuple(sections),
        tuple(draw(st.lists(st.sampled_from(names), max_size=4))),
    )  # fmt: skip


class Heard(Struct, frozen=True):
    """What a level sounds like: notes a quarter, the mean range of a chord in half steps, and the mean
    velocity."""

    level: int
    per_quarter: float
    range_st: float
    velocity: float


def heard_levels(song: Song) -> list[Heard]:
    """What is heard of each level that a song has, the lowest first."""
    notes = [one for one in perform(song, band=False).notes if one.part in HANDS]
    found = []
    for level in sorted({one for one in levels_of(song) if one is not None}):
        slots = [slot for slot in song.slots if song.texture(slot.index).level == level]
        ids = {slot.index for slot in slots}
        own = [one for one in notes if one.slot in ids and not one.ornament]
        keys: dict[int, list[int]] = {}
        for one in own:
            keys.setdefault(one.slot, []).append(one.key)
        if not own:
            continue
        spans = [max(row) - min(row) for row in keys.values()]
        quarters = float(sum(slot.quarters for slot in slots))
        found.append(Heard(level, len(own) / quarters, sum(spans) / len(spans),
                           sum(one.velocity for one in own) / len(own)))  # fmt: skip
    return found


def engraver() -> Any:
    """A toolkit of the engraver's: where its faces lie is known to the thread that loaded it alone, which
    may be another one than a test's."""
    import verovio

    toolkit = verovio.toolkit(False)
    toolkit.setResourcePath(str(files("verovio") / "data"))
    return toolkit
