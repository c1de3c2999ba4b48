"""Roads into the next chord: the first half stays, fifths lead on."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.reharm.rules.base import (
    BORROWED,
    PASSING,
    SHORTEST_BEATS,
    Draft,
    Place,
    Timed,
    diatonic,
    falls_a_fifth,
    five_of,
    goes_home,
    into,
    is_minor,
    is_plain,
    is_pull,
    on,
    row,
    rule,
    semitones_between,
    step_in_key,
    two_of,
    up,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.spelling import scale_names


def _elsewhere(place: Place) -> bool:
    """Whether the next chord has another root and is no goal of this chord already."""
    after = place.after
    return (
        after is not None
        and after.root.pitch_class != place.chord.root.pitch_class
        and not (is_pull(place) and falls_a_fifth(place))
    )


@rule("secondary", "dominant of the next chord", PASSING, 90)
def secondary(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is not None and _elsewhere(place) and after.kind != "diminished":
        five = five_of(after.root, is_minor(after))
        reason = f"{five.pretty} is the five of {after.pretty} and pulls into it"
        yield from into(place, (five,), reason, first=after.kind != "half-diminished")


@rule("two-five", "two and five of the next chord", PASSING, 110)
def two_five(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is not None and _elsewhere(place) and after.kind != "diminished":
        road = (two_of(after.root, is_minor(after)), five_of(after.root, is_minor(after)))
        if road[0].root.pitch_class == place.chord.root.pitch_class:
            road = (replace(place.chord, bass=None), road[1])
        reason = f"{road[0].pretty} and {road[1].pretty} lead into {after.pretty}"
        if road[0].root.pitch_class != place.chord.root.pitch_class:
            yield from into(place, road, reason, first=True)
        if place.beats < 4:
            yield from row(place, road, reason, first=True)


@rule("long-road", "a longer road into the next chord", PASSING, 200)
def long_road(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or is_dominant(after) or after.kind in ("diminished", "half-diminished"):
        return
    home, minor = after.root, is_minor(after)
    six = on(up(home, 5, 9), "m7b5" if minor else "7b9")
    two, five = two_of(home, minor), five_of(home, minor)
    three = on(up(home, 2, 4), "m7")
    if place.chord.root.pitch_class == home.pitch_class:
        yield from row(place, (place.chord, six, two, five), "1, 6, 2, 5: three fifths back to where it was")
    if not is_pull(place):
        yield from row(place, (six, two, five), f"6, 2, 5: three fifths fall into {after.pretty}")
        if not minor:  # its third degree lies a tritone from the sixth
            chain = (three, six, two, five)
            yield from row(place, chain, f"3, 6, 2, 5: four fifths fall into {after.pretty}")


@rule("two-five-chain", "a chain of twos and fives", PASSING, 220)
def two_five_chain(place: Place) -> Iterator[Draft]:
    """The two-five a whole step above the one that leads into the goal, and then that one."""
    after = place.after
    if after is None or is_dominant(after) or after.kind in ("diminished", "half-diminished"):
        return
    minor, two = is_minor(after), two_of(after.root, is_minor(after))
    before = (two_of(two.root, True), five_of(two.root, True))
    chain = (*before, two, five_of(after.root, minor))
    names = ", ".join(chord.pretty for chord in chain)
    yield from row(place, chain, f"two twos and fives in a chain into {after.pretty}: {names}")


@rule("side-slip", "two and five from a half step above", PASSING, 240)
def side_slip(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or after.kind != "minor" or not _elsewhere(place):
        return
    of_key = after.root.pitch_class in place.key.pitch_classes
    if of_key and diatonic(after.root, place.key).quality == "m7":
        two = on(up(after.root, 1, 1), "m7")
        five = on(up(two.root, 3, 5), "9")
        reason = f"{two.pretty} {five.pretty} slip down a half step into {after.pretty} and its five"
        yield from into(place, (two, five), reason)


@rule("into-four", "five minor and one seven into the four", PASSING, 90)
def into_four(place: Place) -> Iterator[Draft]:
    if place.chord.kind == "major" and falls_a_fifth(place) and place.after is not None:
        root = place.chord.root
        road = (on(up(root, 4, 7), "m7"), on(root, "9"))
        goal = place.after.pretty
        reason = f"{road[0].pretty} and {road[1].pretty} are the two and five of {goal}"
        yield from into(place, road, reason, first=True)


@rule("minor-plagal", "four minor, or flat six and flat seven, into home", BORROWED, 130)
def minor_plagal(place: Place) -> Iterator[Draft]:
    """Home from the parallel minor where no four is written."""
    if not goes_home(place) or place.key.minor or step_in_key(place) in (8, 10):
        return
    home = place.key.tonic
    four, flat_six, flat_seven = on(up(home, 3, 5), "m6"), on(up(home, 5, 8), ""), on(up(home, 6, 10), "")
    pair = (on(four.root, "m7"), on(flat_seven.root, "9"))
    reason = f"{pair[0].pretty} and {pair[1].pretty} come home from a whole step below, dark before the light"
    yield from into(place, pair, reason, first=step_in_key(place) == 5)
    yield from row(place, pair, reason)
    before = (two_of(four.root, True), five_of(four.root, True))
    names = ", ".join(chord.pretty for chord in (*before, *pair))
    yield from row(place, (*before, *pair), f"four minor with its two and five, then flat seven: {names}")
    if not is_pull(place) and step_in_key(place) != 5:
        yield from into(place, (four,), f"{four.pretty}: four from the parallel minor, on the way home")
    steps = f"{flat_six.pretty} and {flat_seven.pretty} step up into home"
    yield from row(place, (flat_six, flat_seven), steps)
    yield from into(place, (flat_six, flat_seven), steps)


def backwards_from(goal: ChordSymbol) -> tuple[ChordSymbol, ChordSymbol, ChordSymbol, ChordSymbol]:
    """Two twos with their fives that fall by fifths into a chord."""
    five, two = five_of(goal.root, is_minor(goal)), two_of(goal.root, is_minor(goal))
    six = on(up(two.root, 4, 7), "7")
    return on(up(six.root, 4, 7), "m7"), six, two, five


@rule("backwards", "fifths backwards from the goal", PASSING, 170)
def backwards(place: Place) -> Iterator[Draft]:
    """Minor sevenths and dominants that fall by fifths into the next chord, as many as there is room for:
    6, 2, 5, 1 into 4."""
    after = place.after
    if after is None or is_pull(place) or after.kind in ("diminished", "half-diminished"):
        return
    chain = backwards_from(after)
    names = ", ".join(chord.pretty for chord in chain)
    yield from row(place, chain, f"four fifths fall into {after.pretty}: {names}")


@rule("turnaround", "a turnaround", PASSING, 190)
def turnaround(place: Place) -> Iterator[Draft]:
    """Back to where it was, by the flat side: 1, flat 3, flat 6, flat 2."""
    chord, after = place.chord, place.after
    if after is None or chord.root.pitch_class != after.root.pitch_class or is_minor(after):
        return
    home = chord.root
    flats = (on(up(home, 2, 3), "maj7"), on(up(home, 5, 8), "maj7"), on(up(home, 1, 1), "maj7"))
    names = ", ".join(symbol.pretty for symbol in flats)
    yield from row(place, (chord, *flats), f"{names}: fifths on the flat side, and a half step home")


@rule("between", "a chord between two that lie a third or a step apart", PASSING, 100)
def between(place: Place) -> Iterator[Draft]:
    """The chord of the key between two roots a third apart; between two a step apart, the dominant a half
    step above the lower one."""
    chord, after = place.chord, place.after
    if after is None or not is_plain(chord) or not is_plain(after):
        return
    way = semitones_between(chord.root, after.root)
    names = {name.pitch_class: name for name in scale_names(place.key)}
    if way in (3, 4, 8, 9):
        step = range(1, way) if way < 6 else range(11, way, -1)
        inside = [names[at] for st in step if (at := (chord.root.pitch_class + st) % 12) in names]
        if len(inside) == 1:
            passing = diatonic(inside[0], place.key)
            yield from into(place, (passing,), f"{passing.pretty} of the key lies between the two")
    elif way == 10 and not is_pull(place):
        slide = on(up(after.root, 1, 1), "7")
        yield from into(place, (slide,), f"{slide.pretty} slides down a half step into {after.pretty}")


@rule("chromatic", "the next chord from a half step away", PASSING, 200)
def chromatic(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or after.bass is not None or after.root.pitch_class == place.chord.root.pitch_class:
        return
    for letters, semitones, where in ((1, 1, "above"), (6, -1, "below")):
        slid = replace(after, root=up(after.root, letters, semitones))
        if abs(slid.root.alter) > 1:
            slid = replace(slid, root=slid.root.simple)
        if slid.root.pitch_class != place.chord.root.pitch_class:
            lead = place.beats - SHORTEST_BEATS
            if lead >= SHORTEST_BEATS:
                chords = (Timed(place.chord, lead), Timed(slid, SHORTEST_BEATS))
                yield Draft(chords, f"the same shape slides into {after.pretty} from a half step {where}")
