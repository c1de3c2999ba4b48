"""Movement inside one chord: lines, suspensions, turns over a held bass."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.reharm.rules.base import (
    BAR_BEATS,
    BORROWED,
    COLOUR,
    LINE,
    PASSING,
    Draft,
    Place,
    falls_a_fifth,
    into,
    is_plain,
    on,
    row,
    rule,
    stands_still,
    step_in_key,
    up,
    whole,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass


@rule("suspension", "suspension that resolves", COLOUR, 60)
def suspension(place: Place) -> Iterator[Draft]:
    chord = place.chord
    if chord.sus and chord.seventh == "b7" and is_plain(chord):
        resolved = on(chord.root, "13" if chord.extension >= 9 else "7")
        four, three = chord.root.degree("11").pretty, chord.root.degree("3").pretty
        reason = f"4 to 3: {four} falls a half step to {three}, and the pull is there"
        yield from row(place, (chord, resolved), reason, first=True)
        yield from whole(place, resolved, f"the third, {three}, for the fourth: it pulls at once")
    if chord.third == "3" and not chord.sus and not chord.alters and chord.upper is None:
        quality = {"b7": "9sus"}.get(chord.seventh, "sus")
        held = replace(on(chord.root, quality), bass=chord.bass)
        four, three = chord.root.degree("11").pretty, chord.root.degree("3").pretty
        yield from row(place, (held, chord), f"4 to 3: {four} is held and falls a half step to {three}")


def _is_home(place: Place) -> bool:
    """Whether a plain chord of the key's own mode rests on its tonic."""
    mode = "minor" if place.key.minor else "major"
    return step_in_key(place) == 0 and place.chord.kind == mode and is_plain(place.chord)


@rule("minor-line", "line inside a minor chord", LINE, 80)
def minor_line(place: Place) -> Iterator[Draft]:
    chord = place.chord
    if chord.kind != "minor" or chord.bass is not None or is_dominant(place.after or chord):
        return
    line = tuple(on(chord.root, quality) for quality in ("m", "m(maj7)", "m7", "m6"))
    names = [chord.root.pretty, *(chord.root.degree(label).pretty for label in ("7", "b7", "6"))]
    yield from row(place, line, f"an inner voice walks down: {', '.join(names)}")
    yield from row(place, line[:2], f"an inner voice walks down: {', '.join(names[:2])}")
    plain = on(chord.root, "m")
    basses = (plain, *(with_bass(plain, chord.root.degree(label)) for label in ("7", "b7", "6")))
    yield from row(place, basses, f"the same line in the bass: {', '.join(names)}")


@rule("major-line", "line inside a major chord", LINE, 90)
def major_line(place: Place) -> Iterator[Draft]:
    chord = place.chord
    plain = chord.kind == "major" and is_plain(chord) and not (chord.alters or chord.adds)
    if not plain or (chord.seventh and not falls_a_fifth(place)):
        return
    line = tuple(on(chord.root, quality) for quality in ("", "aug", "6", "7"))
    names = [chord.root.degree(label).pretty for label in ("5", "#5", "6", "b7")]
    if falls_a_fifth(place):
        yield from row(place, line, f"an inner voice climbs: {', '.join(names)}")
    yield from row(place, line[:3], f"an inner voice climbs: {', '.join(names[:3])}")


@rule("passing-augmented", "passing augmented chord", LINE, 90)
def passing_augmented(place: Place) -> Iterator[Draft]:
    if falls_a_fifth(place) and place.chord.kind == "major" and place.after is not None:
        sharp, goal = place.chord.root.degree("#5"), place.after.root.degree(place.after.third or "5")
        passing = on(place.chord.root, "aug")
        yield from into(place, (passing,), f"the fifth rises through {sharp.pretty} to {goal.pretty}")


@rule("common-tone", "common-tone diminished chord", LINE, 110)
def common_tone(place: Place) -> Iterator[Draft]:
    chord = place.chord
    if chord.kind in ("major", "dominant") and is_plain(chord) and not chord.sus:
        turn = on(chord.root, "dim7")
        reason = f"{turn.root.pretty} stays, the rest leans in from a half step"
        yield from row(place, (turn, chord), reason)
        yield from row(place, (chord, turn, chord), f"{reason} and back")


@rule("amen", "amen turn", LINE, 90)
def amen(place: Place) -> Iterator[Draft]:
    """One, four over one, one: the plagal turn over a held bass."""
    chord = place.chord
    if chord.kind == "major" and is_plain(chord) and not (chord.seventh or chord.adds):
        four = with_bass(on(up(chord.root, 3, 5), ""), chord.root)
        yield from row(place, (chord, four, chord), f"{four.pretty}: the amen turn over a held bass")
        yield from row(place, (four, chord), f"{four.pretty} first, then home: an amen over a held bass")


@rule("steps-inside", "steps of the key inside a held chord", LINE, 120)
def steps_inside(place: Place) -> Iterator[Draft]:
    """1, 2 minor, 1 over its third: the bass steps up and the hands go along."""
    if not _is_home(place) or place.key.minor:
        return
    chord = place.chord
    two, third = on(up(chord.root, 1, 2), "m7"), with_bass(chord, chord.root.degree("3"))
    yield from row(place, (chord, two, third), f"{two.pretty} passes between home and home over its third")
    three = on(up(chord.root, 2, 4), "m7")
    yield from row(place, (chord, two, three, two), "steps of the key up and back, inside home")


@rule("static", "the neighbours of a mode over a held bass", LINE, 170)
def static(place: Place) -> Iterator[Draft]:
    """For a chord that stands still: its second degree over the same bass, bright as in Lydian or
    dark as in the parallel minor, and the parallel tonic."""
    chord = place.chord
    if not _is_home(place) or place.key.minor or chord.adds:
        return
    root = chord.root
    bright = with_bass(on(up(root, 1, 2), ""), root)
    yield from _turn(place, bright, "the Lydian two over the held bass: brighter")
    dark = with_bass(on(up(root, 1, 2), "m7b5"), root)
    yield from _turn(place, dark, "the two of the parallel minor over the held bass: darker")
    minor = on(root, "m")
    yield from _turn(place, minor, "home of the parallel minor: its third falls and comes back")


def _above(place: Place, chord: ChordSymbol) -> ChordSymbol:
    """A chord over the pedal note that lies there, or by itself."""
    return chord if place.chord.bass is None else with_bass(chord, place.chord.bass)


#: How a neighbour lies above the root (letters, half steps), its kind, and what it does.
_Neighbour = tuple[int, int, str, str]


def _still(place: Place, over_minor: _Neighbour, over_major: _Neighbour) -> Iterator[Draft]:
    """A neighbour over a chord that stands still for a bar or more: there alone, and there and back."""
    own = {"minor": over_minor, "major": over_major}.get(place.chord.kind)
    if own is None or place.beats < BAR_BEATS or place.chord.upper is not None:
        return
    letters, st, quality, reason = own
    moves = _above(place, on(up(place.chord.root, letters, st), quality))
    yield from row(place, (place.chord, moves), reason, first=stands_still(place))
    yield from row(place, (place.chord, moves, place.chord), f"{reason}, and back")


@rule("still-two", "the two over a chord that stands still", PASSING, 150)
def still_two(place: Place) -> Iterator[Draft]:
    """Over a minor chord the two of the parallel major, over a major one its own."""
    over_minor = 1, 2, "m7", "the two of the parallel major moves it"
    yield from _still(place, over_minor, (1, 2, "m7", "its two moves it, and it comes back"))


@rule("still-flat", "a flat neighbour over a chord that stands still", BORROWED, 150)
def still_flat(place: Place) -> Iterator[Draft]:
    """Over a minor chord flat two, over a major one flat seven."""
    over_minor = 1, 1, "maj7", "flat two leans on it from a half step above"
    yield from _still(place, over_minor, (6, 10, "", "flat seven, from the parallel minor, moves it"))


@rule("still-bright", "a bright neighbour over a chord that stands still", LINE, 150)
def still_bright(place: Place) -> Iterator[Draft]:
    """Over a minor chord the dorian four, over a major one the Lydian two."""
    over_minor = 3, 5, "", "the dorian four: its third is the raised sixth"
    yield from _still(place, over_minor, (1, 2, "", "the Lydian two: its third is the raised fourth"))


def _turn(place: Place, symbol: ChordSymbol, reason: str) -> Iterator[Draft]:
    yield from row(place, (place.chord, symbol, place.chord), reason)
    yield from row(place, (place.chord, symbol), reason)
