"""Roads into the next chord: the first half stays, fifths lead on."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.reharm.rules.base import (
    ROAD,
    SHORTEST_BEATS,
    STEP,
    Draft,
    Place,
    Timed,
    falls_a_fifth,
    five_of,
    goes_home,
    into,
    is_minor,
    is_pull,
    on,
    row,
    rule,
    semitones_between,
    step_in_key,
    two_of,
    up,
)
from yellow_hinge.theory.tension import base_kind


def _elsewhere(place: Place) -> bool:
    """Whether the next chord has another root and is no goal of this chord already."""
    after = place.after
    return (
        after is not None
        and after.root.pitch_class != place.chord.root.pitch_class
        and not (is_pull(place) and falls_a_fifth(place))
    )


@rule("secondary", "dominant of the next chord", ROAD, 90)
def secondary(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is not None and _elsewhere(place) and base_kind(after) != "diminished":
        five = five_of(after.root, is_minor(after))
        yield from into(place, (five,), f"{five.pretty} is the five of {after.pretty} and pulls into it")


@rule("two-five", "two and five of the next chord", ROAD, 110)
def two_five(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is not None and _elsewhere(place) and not is_dominant(after):
        road = (two_of(after.root, is_minor(after)), five_of(after.root, is_minor(after)))
        yield from into(place, road, f"{road[0].pretty} and {road[1].pretty} lead into {after.pretty}")


@rule("long-road", "a longer road into the next chord", ROAD, 200)
def long_road(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or is_dominant(after) or base_kind(after) in ("diminished", "half-diminished"):
        return
    home, minor = after.root, is_minor(after)
    six = on(up(home, 5, 8) if minor else up(home, 5, 9), "7" if minor else "7b9")
    two, five = two_of(home, minor), five_of(home, minor)
    three = on(up(home, 2, 3) if minor else up(home, 2, 4), "maj7" if minor else "m7")
    if place.chord.root.pitch_class == home.pitch_class:
        yield from row(place, (place.chord, six, two, five), "1, 6, 2, 5: three fifths back to where it was")
    if not falls_a_fifth(place):
        yield from row(place, (six, two, five), f"6, 2, 5: three fifths fall into {after.pretty}")
        yield from row(place, (three, six, two, five), f"3, 6, 2, 5: four fifths fall into {after.pretty}")


@rule("two-five-chain", "a chain of twos and fives", ROAD, 220)
def two_five_chain(place: Place) -> Iterator[Draft]:
    """The two-five a whole step above the one that leads into the goal, and then that one."""
    after = place.after
    if after is None or is_dominant(after) or base_kind(after) in ("diminished", "half-diminished"):
        return
    minor, two = is_minor(after), two_of(after.root, is_minor(after))
    before = (two_of(two.root, True), five_of(two.root, True))
    chain = (*before, two, five_of(after.root, minor))
    names = ", ".join(chord.pretty for chord in chain)
    yield from row(place, chain, f"two twos and fives in a chain into {after.pretty}: {names}")


@rule("side-slip", "two and five from a half step above", ROAD, 240)
def side_slip(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or base_kind(after) != "minor" or not _elsewhere(place):
        return
    if semitones_between(place.key.tonic, after.root) == 2 and not place.key.minor:
        two = on(up(after.root, 1, 1), "m7")
        five = on(up(two.root, 3, 5), "9")
        reason = f"{two.pretty} {five.pretty} slip down a half step into {after.pretty} and its five"
        yield from into(place, (two, five), reason)


@rule("into-four", "five minor and one seven into the four", ROAD, 90)
def into_four(place: Place) -> Iterator[Draft]:
    if base_kind(place.chord) == "major" and falls_a_fifth(place) and place.after is not None:
        root = place.chord.root
        road = (on(up(root, 4, 7), "m7"), on(root, "9"))
        goal = place.after.pretty
        yield from into(place, road, f"{road[0].pretty} and {road[1].pretty} are the two and five of {goal}")


@rule("minor-plagal", "four minor, or flat six and flat seven, into home", ROAD, 130)
def minor_plagal(place: Place) -> Iterator[Draft]:
    """Home from the parallel minor where no four is written."""
    if not goes_home(place) or place.key.minor or step_in_key(place) in (5, 8, 10):
        return
    home = place.key.tonic
    four, flat_six, flat_seven = on(up(home, 3, 5), "m6"), on(up(home, 5, 8), ""), on(up(home, 6, 10), "")
    if not is_pull(place):
        yield from into(place, (four,), f"{four.pretty}: four from the parallel minor, on the way home")
    yield from row(
        place, (flat_six, flat_seven), f"{flat_six.pretty} and {flat_seven.pretty} step up into home"
    )
    yield from into(
        place, (flat_six, flat_seven), f"{flat_six.pretty} and {flat_seven.pretty} step up into home"
    )


@rule("chromatic", "the next chord from a half step away", STEP, 200)
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
