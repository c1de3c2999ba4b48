"""The rules of reharmonisation: what else may stand in a place, and why.

Each rule is a small pure function from a place to replacements. All arithmetic is in
letters and semitones from a root, as degrees are counted, so that a rule spells and
sounds alike in every key. The rules are those taught in harmony classes; which of them are
listed, and their words, are our choice.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord, with_bass
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.theory.tension import base_kind, extra_degrees

#: No chord of a swap is shorter than this, in beats.
SHORTEST_BEATS = Fraction(1)


@dataclass(frozen=True, slots=True)
class Place:
    """A chord with what a rule may look at: its length in beats, its neighbours (None at the ends
    and for "no chord"), and the local key."""

    chord: ChordSymbol
    beats: Fraction
    before: ChordSymbol | None
    after: ChordSymbol | None
    key: Key


@dataclass(frozen=True, slots=True)
class Timed:
    """A chord with its length in beats."""

    chord: ChordSymbol
    beats: Fraction


@dataclass(frozen=True, slots=True)
class Draft:
    """What a rule puts in a place (the lengths add up to the place's), and the reason."""

    chords: tuple[Timed, ...]
    reason: str


Find = Callable[[Place], Iterator[Draft]]


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule with its id, its name, and the group that says what it does to the music."""

    id: str
    name: str
    group: str
    find: Find


RULES: dict[str, Rule] = {}
PULL, ROAD, STEP, SAME = (
    "stronger pull",
    "a road into the next chord",
    "bass by step",
    "same job, other colour",
)
DARK, INSIDE, RICH = "darker or brighter", "movement inside the chord", "richer colour"
GROUPS = (PULL, ROAD, STEP, SAME, DARK, INSIDE, RICH)


def _rule(rule_id: str, name: str, group: str) -> Callable[[Find], Find]:
    def register(find: Find) -> Find:
        RULES[rule_id] = Rule(rule_id, name, group, find)
        return find

    return register


# --- arithmetic --------------------------------------------------------------------------


@lru_cache(maxsize=4096)
def _quality(text: str) -> ChordSymbol:
    found = parse_chord(f"C{text}")
    assert found is not None
    return found


def on(root: NoteName, quality: str) -> ChordSymbol:
    """A chord on a root, spelled without double signs."""
    root = root if abs(root.alter) < 2 else root.simple
    return replace(_quality(quality), root=root)


def _up(note: NoteName, letters: int, semitones: int) -> NoteName:
    return note.above(letters, semitones)


def _semitones(start: NoteName, end: NoteName) -> int:
    return (end.pitch_class - start.pitch_class) % 12


def _falls_a_fifth(place: Place) -> bool:
    return place.after is not None and _semitones(place.chord.root, place.after.root) == 5


def _minor(chord: ChordSymbol) -> bool:
    return chord.third == "b3"


def _whole(place: Place, chord: ChordSymbol, reason: str) -> Iterator[Draft]:
    """One chord for the whole place, unless it is the one that stands there."""
    if chord != place.chord:
        yield Draft((Timed(chord, place.beats),), reason)


def split(beats: Fraction, parts: int) -> tuple[Fraction, ...] | None:
    """Lengths in whole beats where that goes, the first ones longer; None when a part would be
    shorter than a beat."""
    if beats < parts * SHORTEST_BEATS:
        return None
    each = beats // parts
    lengths = [Fraction(each)] * parts
    lengths[0] += beats - each * parts
    if parts == 2 and beats == 3:
        lengths = [Fraction(2), Fraction(1)]
    return tuple(lengths)


def _row(place: Place, chords: tuple[ChordSymbol, ...], reason: str) -> Iterator[Draft]:
    """Several chords that share the place."""
    lengths = split(place.beats, len(chords))
    if lengths is not None:
        yield Draft(tuple(Timed(c, b) for c, b in zip(chords, lengths, strict=True)), reason)


def _into(place: Place, road: tuple[ChordSymbol, ...], reason: str) -> Iterator[Draft]:
    """The chord keeps the first half, at the least a beat; a road into the next one follows."""
    half = (place.beats + 1) // 2
    lengths = split(place.beats - half, len(road))
    if half >= SHORTEST_BEATS and lengths is not None:
        rest = tuple(Timed(c, b) for c, b in zip(road, lengths, strict=True))
        yield Draft((Timed(place.chord, Fraction(half)), *rest), reason)


def _two_of(target: NoteName, minor: bool) -> ChordSymbol:
    """The two of a target: minor seventh, half-diminished towards minor."""
    return on(_up(target, 1, 2), "m7b5" if minor else "m7")


def _five_of(target: NoteName, minor: bool) -> ChordSymbol:
    """The dominant of a target, with a flat ninth towards minor."""
    return on(_up(target, 4, 7), "7b9" if minor else "9")


# --- dominants ---------------------------------------------------------------------------


@_rule("tritone", "tritone substitution", PULL)
def _tritone(place: Place) -> Iterator[Draft]:
    if is_dominant(place.chord) and not place.chord.sus:
        chord = on(_up(place.chord.root, 4, 6), "7")
        goal = place.after.root.pretty if place.after and _falls_a_fifth(place) else ""
        way = f"; the bass falls a half step into {goal}" if goal else ""
        yield from _whole(place, chord, f"third and seventh of {place.chord.pretty} stay, exchanged{way}")


@_rule("tritone-two", "tritone substitution with its own two", ROAD)
def _tritone_two(place: Place) -> Iterator[Draft]:
    if is_dominant(place.chord) and _falls_a_fifth(place):
        root = _up(place.chord.root, 4, 6)
        two, five = on(_up(root, 4, 7), "m7"), on(root, "7")
        yield from _row(place, (two, five), f"{five.pretty} for {place.chord.pretty}, and its two before it")


@_rule("related-two", "the two before its five", ROAD)
def _related_two(place: Place) -> Iterator[Draft]:
    if not is_dominant(place.chord):
        return
    target_minor = _falls_a_fifth(place) and place.after is not None and _minor(place.after)
    two = on(_up(place.chord.root, 4, 7), "m7b5" if target_minor else "m7")
    if place.before is None or place.before.root.pitch_class != two.root.pitch_class:
        reason = f"{two.pretty} prepares {place.chord.pretty} as the two of the same key"
        yield from _row(place, (two, place.chord), reason)


@_rule("leading", "dominant a half step below", PULL)
def _leading(place: Place) -> Iterator[Draft]:
    if is_dominant(place.chord) and _falls_a_fifth(place) and place.after is not None:
        target = place.after.root
        chord = on(_up(target, 6, 11), "7")
        reason = f"{chord.root.pretty} is the leading tone: the bass rises a half step into {target.pretty}"
        yield from _whole(place, chord, reason)
        two = on(_up(chord.root, 4, 7), "m7")
        yield from _row(place, (two, chord), f"{reason}; {two.pretty} is its two")


@_rule("backdoor", "backdoor dominant", DARK)
def _backdoor(place: Place) -> Iterator[Draft]:
    after = place.after
    if is_dominant(place.chord) and _falls_a_fifth(place) and after is not None and not _minor(after):
        chord = on(_up(after.root, 6, 10), "9")
        reason = f"{chord.pretty} comes home from a whole step below, by way of the parallel minor"
        yield from _whole(place, chord, reason)
        four = on(_up(after.root, 3, 5), "m7")
        yield from _row(place, (four, chord), f"{reason}; {four.pretty} before it")


@_rule("secondary", "dominant of the next chord", ROAD)
def _secondary(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or (is_dominant(place.chord) and _falls_a_fifth(place)):
        return
    if after.root.pitch_class != place.chord.root.pitch_class and base_kind(after) != "diminished":
        five = _five_of(after.root, _minor(after))
        yield from _into(place, (five,), f"{five.pretty} is the five of {after.pretty} and pulls into it")


@_rule("dominant-for-minor", "dominant instead of minor", PULL)
def _dominant_for_minor(place: Place) -> Iterator[Draft]:
    if base_kind(place.chord) == "minor" and _falls_a_fifth(place) and place.after is not None:
        chord = on(place.chord.root, "7b9" if _minor(place.after) else "7")
        third = chord.root.degree("3").pretty
        yield from _whole(place, chord, f"its third raised to {third}, it pulls into {place.after.pretty}")


@_rule("two-five", "two and five of the next chord", ROAD)
def _two_five(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or is_dominant(after) or (is_dominant(place.chord) and _falls_a_fifth(place)):
        return
    if after.root.pitch_class != place.chord.root.pitch_class:
        road = (_two_of(after.root, _minor(after)), _five_of(after.root, _minor(after)))
        yield from _into(place, road, f"{road[0].pretty} and {road[1].pretty} lead into {after.pretty}")


@_rule("long-road", "a longer road into the next chord", ROAD)
def _long_road(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or _minor(after) or is_dominant(after):
        return
    home = after.root
    six, two, five = on(_up(home, 5, 9), "7b9"), on(_up(home, 1, 2), "m7"), on(_up(home, 4, 7), "9")
    three = on(_up(home, 2, 4), "m7")
    if place.chord.root.pitch_class == home.pitch_class:
        yield from _row(place, (place.chord, six, two, five), "1, 6, 2, 5: three fifths back to where it was")
    if not _falls_a_fifth(place):
        yield from _row(place, (six, two, five), f"6, 2, 5: three fifths fall into {after.pretty}")
        yield from _row(place, (three, six, two, five), f"3, 6, 2, 5: four fifths fall into {after.pretty}")


@_rule("into-four", "five minor and one seven into the four", ROAD)
def _into_four(place: Place) -> Iterator[Draft]:
    if base_kind(place.chord) == "major" and _falls_a_fifth(place) and place.after is not None:
        root = place.chord.root
        road = (on(_up(root, 4, 7), "m7"), on(root, "9"))
        goal = place.after.pretty
        yield from _into(place, road, f"{road[0].pretty} and {road[1].pretty} are the two and five of {goal}")


# --- relatives and upper chords ----------------------------------------------------------

#: Semitones of a root above the tonic of a major key -> relatives: (letters, semitones, quality).
_RELATIVES = {
    0: ((2, 4, "m7"), (5, 9, "m7")), 2: ((3, 5, "maj7"),), 4: ((0, 0, "maj7"), (5, 9, "m7")),
    5: ((1, 2, "m7"), (5, 9, "m7")), 7: ((6, 11, "m7b5"),), 9: ((0, 0, "maj7"), (3, 5, "maj7")),
    11: ((4, 7, "7"),),
}  # fmt: skip


@_rule("relative", "diatonic relative", SAME)
def _relative(place: Place) -> Iterator[Draft]:
    key = place.key.relative_major
    step = _semitones(key.tonic, place.chord.root)
    diatonic = base_kind(place.chord) in {
        0: ("major",), 5: ("major",), 7: ("dominant", "major"), 11: ("half-diminished", "diminished"),
    }.get(step, ("minor",))  # fmt: skip
    if step not in _RELATIVES or not diatonic or place.chord.bass is not None:
        return
    for letters, semitones, quality in _RELATIVES[step]:
        chord = on(_up(key.tonic, letters, semitones), quality)
        shared = _shared(place.chord, chord)
        yield from _whole(place, chord, f"shares {' and '.join(shared)} with {place.chord.pretty}")


def _shared(one: ChordSymbol, other: ChordSymbol) -> list[str]:
    theirs = {other.root.degree(label).pitch_class for label in other.degrees}
    names = [one.root.degree(label) for label in one.degrees]
    return [name.pretty for name in names if name.pitch_class in theirs]


@_rule("upper", "upper chord over the bass", SAME)
def _upper(place: Place) -> Iterator[Draft]:
    chord, root = place.chord, place.chord.root
    if chord.bass is not None:
        return
    uppers: tuple[tuple[tuple[int, int], str], ...]
    if base_kind(chord) == "minor" and chord.seventh == "b7":
        uppers = (((2, 3), ""), ((2, 3), "maj7"), ((4, 7), "m"), ((6, 10), ""), ((6, 10), "maj7"))
    elif is_dominant(chord) and "3" in chord.degrees:
        uppers = (((6, 10), ""), ((4, 7), "m7"), ((6, 10), "maj7"))
    else:
        return
    for (letters, semitones), quality in uppers:
        upper = on(_up(root, letters, semitones), quality)
        reason = f"{upper.pretty} over {root.pretty}: the bass stays, the hands play a plain chord above"
        yield from _whole(place, with_bass(upper, root), reason)


# --- inside one chord --------------------------------------------------------------------


@_rule("suspension", "suspension that resolves", INSIDE)
def _suspension(place: Place) -> Iterator[Draft]:
    chord = place.chord
    if chord.third == "3" and not chord.sus and not chord.alters and chord.upper is None:
        quality = {"b7": "9sus"}.get(chord.seventh, "sus")
        held = replace(on(chord.root, quality), bass=chord.bass)
        four, three = chord.root.degree("11").pretty, chord.root.degree("3").pretty
        yield from _row(place, (held, chord), f"4 to 3: {four} is held and falls a half step to {three}")


@_rule("minor-line", "line inside a minor chord", INSIDE)
def _minor_line(place: Place) -> Iterator[Draft]:
    chord = place.chord
    if base_kind(chord) != "minor" or chord.bass is not None or is_dominant(place.after or chord):
        return
    line = tuple(on(chord.root, quality) for quality in ("m", "m(maj7)", "m7", "m6"))
    names = [chord.root.pretty, *(chord.root.degree(label).pretty for label in ("7", "b7", "6"))]
    yield from _row(place, line, f"an inner voice walks down: {', '.join(names)}")
    yield from _row(place, line[:2], f"an inner voice walks down: {', '.join(names[:2])}")


@_rule("passing-diminished", "passing diminished chord", STEP)
def _passing_diminished(place: Place) -> Iterator[Draft]:
    after, chord = place.after, place.chord
    if after is None or chord.bass is not None or after.bass is not None:
        return
    step = _semitones(chord.root, after.root)
    if step == 2:
        passing = on(_up(chord.root, 0, 1), "dim7")
        yield from _into(place, (passing,), f"the bass climbs by half steps into {after.root.pretty}")
    elif step == 10 and _minor(chord):
        passing = on(_up(chord.root, 0, -1), "dim7")
        yield from _into(place, (passing,), f"the bass falls by half steps into {after.root.pretty}")


@_rule("passing-augmented", "passing augmented chord", STEP)
def _passing_augmented(place: Place) -> Iterator[Draft]:
    if _falls_a_fifth(place) and base_kind(place.chord) == "major" and place.after is not None:
        sharp, goal = place.chord.root.degree("#5"), place.after.root.degree(place.after.third or "5")
        passing = on(place.chord.root, "aug")
        yield from _into(place, (passing,), f"the fifth rises through {sharp.pretty} to {goal.pretty}")


# --- borrowed chords ---------------------------------------------------------------------


@_rule("borrowed", "borrowed from the parallel key", DARK)
def _borrowed(place: Place) -> Iterator[Draft]:
    key, chord = place.key, place.chord
    step = _semitones(key.tonic, chord.root)
    if chord.bass is not None:
        return
    if key.minor:
        if step == 0 and _minor(chord) and not is_dominant(place.after or chord):
            yield from _whole(place, on(chord.root, "maj9"), "major home for minor: the light turns on")
        return
    kind = base_kind(chord)
    if step == 5 and kind == "major":
        yield from _whole(place, on(chord.root, "m6"), "four from the parallel minor: its third falls")
        yield from _row(place, (chord, on(chord.root, "m6")), "four, then four minor: its third falls")
    if step == 2 and kind == "minor":
        yield from _whole(place, on(chord.root, "m7b5"), "the two of the parallel minor")
    if step == 9 and kind == "minor":
        yield from _whole(
            place, on(_up(key.tonic, 5, 8), "maj7"), "flat six for six, from the parallel minor"
        )
    if step == 0 and kind == "major":
        yield from _whole(place, on(_up(key.tonic, 2, 3), "maj7"), "flat three, from the parallel minor")
    if step in (7, 11):
        yield from _whole(place, on(_up(key.tonic, 6, 10), "9"), "flat seven, from the parallel minor")


# --- bass lines --------------------------------------------------------------------------


@_rule("slash", "other bass note for a stepwise bass", STEP)
def _slash(place: Place) -> Iterator[Draft]:
    chord, before, after = place.chord, place.before, place.after
    if chord.bass is not None or before is None or after is None or chord.upper is not None:
        return
    start, end = before.bass_name, after.bass_name
    for label in chord.degrees:
        if label not in ("3", "b3", "5", "b5", "b7", "7"):
            continue
        bass = chord.root.degree(label)
        steps = min(_near(start, bass), 9), min(_near(bass, end), 9)
        now = min(_near(start, chord.root), 9), min(_near(chord.root, end), 9)
        if max(steps) <= 2 and min(steps) >= 1 and max(now) > 2:
            reason = f"the bass goes by step: {start.pretty}, {bass.pretty}, {end.pretty}"
            yield from _whole(place, with_bass(chord, bass), reason)


def _near(one: NoteName, other: NoteName) -> int:
    distance = _semitones(one, other)
    return min(distance, 12 - distance)


@_rule("pedal", "pedal bass", STEP)
def _pedal(place: Place) -> Iterator[Draft]:
    before, after, chord = place.before, place.after, place.chord
    if chord.bass is not None or before is None or after is None:
        return
    held = before.bass_name
    if held.pitch_class == after.bass_name.pitch_class != chord.root.pitch_class:
        yield from _whole(place, with_bass(chord, held), f"the bass stays on {held.pretty} throughout")


@_rule("held-top", "a note held through the change", SAME)
def _held_top(place: Place) -> Iterator[Draft]:
    """A tone that both neighbours share, added where it may be: it can stay on top."""
    chord, before, after = place.chord, place.before, place.after
    if before is None or after is None or chord.alt or chord.upper is not None:
        return
    own = {chord.root.degree(label).pitch_class for label in chord.degrees}
    theirs = {after.root.degree(label).pitch_class for label in after.degrees}
    extras = extra_degrees(chord, place.key, 2)
    for label in before.degrees:
        note = before.root.degree(label)
        if note.pitch_class in theirs - own:
            added = next((e for e in ("9", "11", "13") if e in extras and _is(chord, e, note)), None)
            if added is not None:
                held = replace(chord, adds=chord.adds | {added})
                reason = f"{note.pretty} can stay on top through {before.pretty} and {after.pretty}"
                yield from _whole(place, held, reason)


def _is(chord: ChordSymbol, label: str, note: NoteName) -> bool:
    return chord.root.degree(label).pitch_class == note.pitch_class


@_rule("chromatic", "the next chord from a half step away", STEP)
def _chromatic(place: Place) -> Iterator[Draft]:
    after = place.after
    if after is None or after.bass is not None or after.root.pitch_class == place.chord.root.pitch_class:
        return
    for letters, semitones, where in ((1, 1, "above"), (6, -1, "below")):
        slid = replace(after, root=_up(after.root, letters, semitones))
        if abs(slid.root.alter) > 1:
            slid = replace(slid, root=slid.root.simple)
        if slid.root.pitch_class != place.chord.root.pitch_class:
            lead = place.beats - SHORTEST_BEATS
            if lead >= SHORTEST_BEATS:
                chords = (Timed(place.chord, lead), Timed(slid, SHORTEST_BEATS))
                yield Draft(chords, f"the same shape slides into {after.pretty} from a half step {where}")


# --- richer ------------------------------------------------------------------------------


@_rule("richer", "more colour on the same root", RICH)
def _richer(place: Place) -> Iterator[Draft]:
    chord, key = place.chord, place.key
    if chord.bass is not None or chord.upper is not None or chord.sus or chord.alt or chord.adds:
        return
    ninth = chord.root.degree("9").pitch_class in key.pitch_classes
    kind, size = base_kind(chord), chord.extension
    if kind == "major" and not chord.sixth and size < 9 and not chord.alters:
        home = chord.root.pitch_class == key.tonic.pitch_class
        yield from _whole(place, on(chord.root, "maj9"), "seventh and ninth soften it")
        if home:
            yield from _whole(place, on(chord.root, "69"), "sixth and ninth: home without a leading tone")
    elif kind == "minor" and not chord.sixth and chord.seventh != "7" and size < 9:
        yield from _whole(place, on(chord.root, "m9" if ninth else "m7"), "deeper, the same function")
    elif kind == "dominant" and not chord.alters and chord.seventh:
        if place.after is not None and _falls_a_fifth(place) and _minor(place.after):
            yield from _whole(place, on(chord.root, "7b9"), "the flat ninth belongs to the minor goal")
            yield from _whole(place, on(chord.root, "7(#9,b13)"), "altered: tighter before the minor goal")
        else:
            yield from _whole(place, on(chord.root, "13"), "ninth and thirteenth brighten the pull")
            if _falls_a_fifth(place):
                yield from _whole(place, on(chord.root, "7alt"), "altered: every tension leans into the goal")
