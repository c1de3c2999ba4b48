"""Other chords for a dominant, and dominants for other chords."""

from __future__ import annotations

from collections.abc import Iterator

from yellow_hinge.reharm.rules.base import (
    BORROWED,
    PASSING,
    PULL,
    Draft,
    Place,
    falls_a_fifth,
    is_minor,
    is_pull,
    on,
    row,
    rule,
    semitones_between,
    up,
    whole,
)


@rule("tritone", "tritone substitution", PULL, 70)
def tritone(place: Place) -> Iterator[Draft]:
    if is_pull(place) and not place.chord.sus:
        chord = on(up(place.chord.root, 4, 6), "7")
        goal = place.after.root.pretty if place.after and falls_a_fifth(place) else ""
        way = f"; the bass falls a half step into {goal}" if goal else ""
        reason = f"third and seventh of {place.chord.pretty} stay, exchanged{way}"
        yield from whole(place, chord, reason, first=falls_a_fifth(place))


@rule("tritone-two", "tritone substitution with its own two", PASSING, 130)
def tritone_two(place: Place) -> Iterator[Draft]:
    if is_pull(place) and falls_a_fifth(place):
        root = up(place.chord.root, 4, 6)
        two, five = on(up(root, 4, 7), "m7"), on(root, "7")
        yield from row(place, (two, five), f"{five.pretty} for {place.chord.pretty}, and its two before it")


@rule("related-two", "the two before its five", PASSING, 50)
def related_two(place: Place) -> Iterator[Draft]:
    if not is_pull(place):
        return
    target_minor = falls_a_fifth(place) and place.after is not None and is_minor(place.after)
    two = on(up(place.chord.root, 4, 7), "m7b5" if target_minor else "m7")
    if place.before is None or place.before.root.pitch_class != two.root.pitch_class:
        reason = f"{two.pretty} prepares {place.chord.pretty} as the two of the same key"
        yield from row(place, (two, place.chord), reason, first=True)


@rule("leading", "dominant a half step below", PULL, 120)
def leading(place: Place) -> Iterator[Draft]:
    if is_pull(place) and falls_a_fifth(place) and place.after is not None:
        target = place.after.root
        chord = on(up(target, 6, 11), "7")
        reason = f"{chord.root.pretty} is the leading tone: the bass rises a half step into {target.pretty}"
        yield from whole(place, chord, reason)
        two = on(up(chord.root, 4, 7), "m7")
        yield from row(place, (two, chord), f"{reason}; {two.pretty} is its two")


@rule("seven-diminished", "diminished seven for the five", PULL, 60)
def seven_diminished(place: Place) -> Iterator[Draft]:
    """The upper four notes of a dominant ninth: half-diminished towards major, diminished towards
    minor."""
    after = place.after
    if is_pull(place) and falls_a_fifth(place) and after is not None and not place.chord.sus:
        quality = "dim7" if is_minor(after) else "m7b5"
        chord = on(up(after.root, 6, 11), quality)
        yield from whole(
            place, chord, f"{place.chord.root.pretty} is left out: the same pull from a half step below"
        )
        if quality == "m7b5":
            darker = on(up(after.root, 6, 11), "dim7")
            yield from whole(place, darker, "diminished: every note is a step from where it goes")


@rule("diminished-for-nine", "diminished seventh for a flat ninth, and back", PULL, 50)
def diminished_for_nine(place: Place) -> Iterator[Draft]:
    chord, after = place.chord, place.after
    if chord.seventh == "b7" and "b9" in chord.alters and not chord.sus:
        for letters, semitones, where in ((2, 4, "third"), (1, 1, "flat ninth")):
            symbol = on(up(chord.root, letters, semitones), "dim7")
            reason = f"the upper notes of {chord.pretty}, over its {where}"
            yield from whole(place, symbol, reason)
    elif chord.kind == "diminished" and chord.seventh == "bb7" and after is not None:
        five = on(up(after.root, 4, 7), "7b9")
        upper = {(five.root.pitch_class + step) % 12 for step in (1, 4, 7, 10)}
        if upper == {(chord.root.pitch_class + step) % 12 for step in (0, 3, 6, 9)}:
            yield from whole(
                place, five, f"the same notes over {five.root.pretty}: the five of {after.pretty}"
            )


@rule("backdoor", "backdoor dominant", BORROWED, 120)
def backdoor(place: Place) -> Iterator[Draft]:
    after = place.after
    if is_pull(place) and falls_a_fifth(place) and after is not None and not is_minor(after):
        chord = on(up(after.root, 6, 10), "9")
        reason = f"{chord.pretty} comes home from a whole step below, by way of the parallel minor"
        yield from whole(place, chord, reason)
        four = on(up(after.root, 3, 5), "m7")
        yield from row(place, (four, chord), f"{reason}; {four.pretty} before it")


@rule("dominant-for-minor", "dominant instead of minor", PULL, 80)
def dominant_for_minor(place: Place) -> Iterator[Draft]:
    if place.chord.kind == "minor" and falls_a_fifth(place) and place.after is not None:
        chord = on(place.chord.root, "7b9" if is_minor(place.after) else "7")
        third = chord.root.degree("3").pretty
        reason = f"its third raised to {third}, it pulls into {place.after.pretty}"
        yield from whole(place, chord, reason, first=True)


@rule("raised-five", "dominant with a raised fifth", PULL, 60)
def raised_five(place: Place) -> Iterator[Draft]:
    chord, after = place.chord, place.after
    plain = chord.bass is None and not (chord.alters or chord.sus or chord.alt or chord.fifth != "5")
    if is_pull(place) and falls_a_fifth(place) and after is not None and plain:
        sharp = chord.root.degree("#5")
        goal = after.root.degree(after.third or "5")
        if semitones_between(sharp, goal) in (1, 0):
            stays = "is there already as" if semitones_between(sharp, goal) == 0 else "rises to"
            yield from whole(
                place, on(chord.root, "7#5"), f"{sharp.pretty} {stays} {goal.pretty} of {after.pretty}"
            )
