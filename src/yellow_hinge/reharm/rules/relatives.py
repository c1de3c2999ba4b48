"""Chords that do the same job in another colour, and richer ones on the same root."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from yellow_hinge.reharm.regions import is_dominant
from yellow_hinge.reharm.rules.base import (
    COLOUR,
    SAME,
    Draft,
    Place,
    falls_a_fifth,
    is_minor,
    is_plain,
    is_pull,
    on,
    rule,
    semitones_between,
    up,
    whole,
)
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.theory.tension import extra_degrees

#: Semitones of a root above the tonic of a major key -> relatives: (letters, semitones, quality).
_RELATIVES = {
    0: ((2, 4, "m7"), (5, 9, "m7")), 2: ((3, 5, "maj7"),), 4: ((0, 0, "maj7"), (5, 9, "m7")),
    5: ((1, 2, "m7"), (5, 9, "m7")), 7: ((6, 11, "m7b5"),), 9: ((0, 0, "maj7"), (3, 5, "maj7")),
    11: ((4, 7, "7"),),
}  # fmt: skip


@rule("relative", "diatonic relative", SAME, 110)
def relative(place: Place) -> Iterator[Draft]:
    key = place.key.relative_major
    step = semitones_between(key.tonic, place.chord.root)
    diatonic = place.chord.kind in {
        0: ("major",), 5: ("major",), 7: ("dominant", "major"), 11: ("half-diminished", "diminished"),
    }.get(step, ("minor",))  # fmt: skip
    if step not in _RELATIVES or not diatonic or place.chord.bass is not None:
        return
    for letters, semitones, quality in _RELATIVES[step]:
        chord = on(up(key.tonic, letters, semitones), quality)
        shared = _shared(place.chord, chord)
        if len(shared) > 1:
            reason = f"shares {' and '.join(shared)} with {place.chord.pretty}"
            yield from whole(place, chord, reason, first=not _heard(place, chord))


def _heard(place: Place, chord: ChordSymbol) -> bool:
    """Whether a neighbour has the root of a chord already."""
    return any(
        symbol is not None and symbol.root.pitch_class == chord.root.pitch_class
        for symbol in (place.before, place.after)
    )


def _shared(symbol: ChordSymbol, chord_symbol: ChordSymbol) -> list[str]:
    theirs = {chord_symbol.root.degree(label).pitch_class for label in chord_symbol.degrees}
    names = [symbol.root.degree(label) for label in symbol.degrees]
    return [name.pretty for name in names if name.pitch_class in theirs]


@rule("upper", "upper chord over the bass", SAME, 70)
def upper(place: Place) -> Iterator[Draft]:
    """Plain chords over the same bass, as long as all their notes are of the local key."""
    chord, root = place.chord, place.chord.root
    if chord.bass is not None:
        return
    uppers: tuple[tuple[tuple[int, int], str], ...]
    if chord.kind == "minor" and chord.seventh == "b7":
        uppers = (((2, 3), ""), ((2, 3), "maj7"), ((4, 7), "m"), ((6, 10), ""), ((6, 10), "maj7"))
    elif is_dominant(chord) and "3" in chord.degrees:
        uppers = (((6, 10), ""), ((4, 7), "m7"), ((6, 10), "maj7"))
    else:
        return
    for (letters, semitones), quality in uppers:
        symbol = on(up(root, letters, semitones), quality)
        tones = {symbol.root.degree(label).pitch_class for label in symbol.degrees}
        if tones <= place.key.pitch_classes:
            reason = f"{symbol.pretty} over {root.pretty}: the bass stays, the hands play a plain chord above"
            yield from whole(place, with_bass(symbol, root), reason)


@rule("held-top", "a note held through the change", SAME, 60)
def held_top(place: Place) -> Iterator[Draft]:
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
                yield from whole(place, held, reason)


def _is(chord: ChordSymbol, label: str, note: NoteName) -> bool:
    return chord.root.degree(label).pitch_class == note.pitch_class


#: Colours of a chord that rests, by its kind: what is added, and what it does.
_RESTING = {
    "major": (
        ("maj9", "seventh and ninth soften it"), ("add9", "the ninth brightens it"),
        ("69", "sixth and ninth: home without a leading tone"), ("maj7", "the seventh softens it"),
        ("maj7(#11)", "the raised fourth lifts it"),
    ),
    "minor": (
        ("m9", "deeper, the same function"), ("m11", "ninth and fourth: open, the same function"),
        ("m7", "the seventh softens it"), ("m69", "sixth and ninth: brighter in the dark"),
    ),
    "dominant": (
        ("13", "ninth and thirteenth brighten it"), ("9", "the ninth rounds it"),
        ("9sus", "the fourth for the third: it hangs"),
    ),
}  # fmt: skip


@rule("richer", "more colour on the same root", COLOUR, 30)
def richer(place: Place) -> Iterator[Draft]:
    chord = place.chord
    plain = not (chord.sus or chord.alt or chord.adds or chord.alters)
    if not is_plain(chord) or not plain:
        return
    kind = chord.kind
    if is_pull(place) and kind in ("major", "dominant") and not chord.sixth:
        yield from _richer_pull(place)
    elif kind in _RESTING and not chord.sixth and not (kind == "minor" and chord.seventh == "7"):
        home = chord.root.pitch_class == place.key.relative_major.tonic.pitch_class
        for quality, reason in _RESTING[kind]:
            symbol = on(chord.root, quality)
            if _belongs(symbol, place) and symbol.extension >= chord.extension and (home or quality != "69"):
                yield from whole(place, symbol, reason)


def _belongs(chord: ChordSymbol, place: Place) -> bool:
    """Whether all that a colour adds is of the local key, or of the chord that stands there."""
    belongs = {place.chord.root.degree(label).pitch_class for label in place.chord.degrees}
    tones = {chord.root.degree(label).pitch_class for label in chord.degrees}
    return tones <= place.key.pitch_classes | belongs


def _richer_pull(place: Place) -> Iterator[Draft]:
    chord = place.chord
    if not chord.seventh:
        yield from whole(place, on(chord.root, "7"), "the seventh sharpens the pull")
    if place.after is not None and falls_a_fifth(place) and is_minor(place.after):
        yield from whole(place, on(chord.root, "7b9"), "the flat ninth belongs to the minor goal")
        yield from whole(place, on(chord.root, "7(#9,b13)"), "altered: tighter before the minor goal")
    else:
        yield from whole(place, on(chord.root, "9sus"), "two and five in one: the fourth waits for the third")
        yield from whole(place, on(chord.root, "13"), "ninth and thirteenth brighten the pull")
        if falls_a_fifth(place):
            yield from whole(place, on(chord.root, "7alt"), "altered: every tension leans into the goal")
