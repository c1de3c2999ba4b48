"""Every shape, family, rule and way out of reach for small hands and many chords, note by note: not
one more and not one less than the tables say. The tables were read as a player reads them."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from conftest import table
from yellow_hinge.hands.geometry import white_interval_mm
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import read_pitch
from yellow_hinge.voicing.candidates import candidates, hand_shapes
from yellow_hinge.voicing.limits import BANNED_KEY, LOWEST_KEY, LOWEST_SECOND_KEY
from yellow_hinge.voicing.naming import classify, pair_words, shape_words
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.reductions import reductions
from yellow_hinge.voicing.rules import broken
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

LIBRARY = builtin_library()
NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


def name(key: int) -> str:
    return f"{NAMES[key % 12]}{key // 12 - 1}"


def keys(text: str) -> tuple[int, ...]:
    pitches = [read_pitch(word) for word in text.split()]
    return tuple(pitch.key for pitch in pitches if pitch is not None)


def profile(left: str, right: str, reach: int) -> HandProfile:
    """Hands that stay within two notes each, so that all shapes can be listed."""
    hands = HandProfile().with_reach(reach, reach)
    (low, high), (lower, higher) = keys(left), keys(right)
    return replace(
        hands, left=replace(hands.left, lowest_key=low, highest_key=high),
        right=replace(hands.right, lowest_key=lower, highest_key=higher),
    )  # fmt: skip


def wish_of(symbol: str, school: str, how: str, hands: HandProfile) -> Wish:
    """A wish from words: ``key=A colour=2 bass=bassist top=E5 hands=left inverted``."""
    chord, chosen = parse_chord(symbol), LIBRARY.schools[school]
    assert chord is not None
    said = dict(word.partition("=")[::2] for word in how.split() if word != "-")
    top, clear_of, room_for = (
        keys(said[word])[0] if word in said else None for word in ("top", "clear_of", "room_for")
    )
    return Wish(
        chord, parse_key(said["key"]) if "key" in said else None, chosen,
        int(said.get("colour", chosen.colour)), said.get("bass", chosen.bass),
        replace(hands, roll="roll" in said, interlock="interlock" in said),
        hands=said.get("hands", "both"),  # type: ignore[arg-type]
        inverted="inverted" in said, top=top, clear_of=clear_of, room_for=room_for,
    )  # fmt: skip


def shown(shape: HandShape) -> str:
    return f"{' '.join(map(name, shape.keys))} ({' '.join(shape.degrees)}) {shape.recipe}"


def listed(school: str, symbol: str, how: str, left: str, right: str) -> str:
    """All shapes of both hands, and the legal pairs by their places."""
    wish = wish_of(symbol, school, how, profile(left, right, 8))
    hands = [hand_shapes(wish, LIBRARY, side) for side in ("left", "right")]
    legal = candidates(wish, LIBRARY).legal
    pairs = [f"{i}+{j}" for i, j in zip(*legal.nonzero(), strict=True)]
    return "\t".join(
        [*(", ".join(map(shown, row)) for row in hands), f"{len(pairs)}: {' '.join(pairs[:12])}"]
    )


def families(symbol: str, left: str, right: str) -> str:
    """What the hands play, by name."""
    chord, key = parse_chord(symbol), parse_key("C")
    assert chord is not None
    voicing = classify(keys(left), keys(right), chord, key, LIBRARY)
    words = [shape_words(shape, chord, key, LIBRARY) for shape in (voicing.left, voicing.right)]
    degrees = [" ".join(shape.degrees) for shape in (voicing.left, voicing.right)]
    return "\t".join([*degrees, *words, pair_words(voicing, chord)])


def remarks(school: str, symbol: str, how: str, left: str, right: str) -> str:
    """What a grip breaks."""
    wish = wish_of(symbol, school, how, HandProfile())
    voicing = classify(keys(left), keys(right), wish.chord, parse_key("C"), LIBRARY)
    return ", ".join(f"{one.rule}: {one.words}" for one in broken(wish, voicing))


def ways(school: str, symbol: str, reaches: str, left: str, right: str) -> str:
    """How a grip out of reach could be played. ``reaches``: comfortable and widest interval."""
    easy, widest = map(int, reaches.split())
    hands = HandProfile().with_reach(easy, easy)
    left_hand = replace(hands.left, possible_mm=white_interval_mm(widest))
    wish = wish_of(symbol, school, "-", replace(hands, left=left_hand))
    voicing = classify(keys(left), keys(right), wish.chord, parse_key("C"), LIBRARY)
    grips = [(way.words, way.voicing.left.keys, way.voicing.right.keys) for way in reductions(voicing, wish)]
    return ", ".join(
        f"{words}: {' '.join(map(name, left))} | {' '.join(map(name, right))}" for words, left, right in grips
    )


TABLES = {"listed": (listed, 5), "families": (families, 3), "remarks": (remarks, 5), "ways": (ways, 5)}


ROWS = [
    (name, words[:count], "\t".join(words[count:]))
    for name, (_, count) in TABLES.items()
    for words in table(f"voicing/{name}.tsv")
]


@pytest.mark.parametrize("row", ROWS, ids=lambda row: " ".join([row[0], *row[1]])[:60])
def test_what_the_tables_say(row: tuple[str, list[str], str]) -> None:
    name, case, wanted = row
    assert TABLES[name][0](*case) == wanted  # type: ignore[operator]


def test_how_low_an_interval_may_lie() -> None:
    """The usual limits of arrangers, from the second up, and the lower ones of a loose school."""
    said = {step: name(key) for step, key in sorted(LOWEST_KEY.items())}
    assert " ".join(f"{step}:{low}" for step, low in said.items()) == LIMITS
    assert " ".join(f"{step}:{name(key)}" for step, key in sorted(BANNED_KEY.items())) == LOOSE_LIMITS
    assert name(LOWEST_SECOND_KEY) == "C4"


LIMITS = "1:E3 2:Eb3 3:C3 4:B2 5:Bb2 6:Bb2 7:Bb1 8:E2 9:F2 10:F2 11:F2 13:E2 14:Eb2 15:C2 16:Bb1"
LOOSE_LIMITS = "3:B2 4:B2 5:G2 6:G2 7:G1 8:D2 9:Eb2 10:C#2 11:Eb2"


def test_a_voicing_of_nothing_has_no_family() -> None:
    chord = parse_chord("C")
    assert chord is not None
    assert (
        pair_words(Voicing(), chord) == "" and shape_words(HandShape(), chord, parse_key("C"), LIBRARY) == ""
    )
