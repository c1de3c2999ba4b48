"""One hand's chord over the other's: what each hand plays by itself, and both as one name."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache

from msgspec.structs import replace

from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.pitch import NoteName, degree_semitones, name_for_pitch_class

#: What a hand may play over another: triads, sevenths, added ninths, sixths.
UPPER = ("", "m", "dim", "aug", "maj7", "7", "m7", "m7b5", "dim7", "m(maj7)", "add9", "m(add9)", "6", "m6")
#: What may lie below: a triad; and with the root at the bottom root and fifth, with the ninth, and shells of
#: root and third, root and seventh, or all three. Semitones above the root -> quality, and how one says it.
TRIADS: dict[tuple[int, ...], str] = {(0, 4, 7): "", (0, 3, 7): "m", (0, 3, 6): "dim", (0, 4, 8): "aug"}
LOWER: dict[tuple[int, ...], tuple[str, str]] = {
    (0, 7): ("5", "root and fifth"), (0, 2, 7): ("sus2", "root, fifth and ninth"),
    (0, 4): ("", "root and third"), (0, 3): ("m", "root and third"),
    (0, 10): ("7(no3)", "root and seventh"), (0, 11): ("maj7(no3)", "root and seventh"),
    (0, 4, 10): ("7", "the shell"), (0, 3, 10): ("m7", "the shell"), (0, 4, 11): ("maj7", "the shell"),
}  # fmt: skip


def usual(pitch_class: int) -> NoteName:
    """F# and the flats, as most charts have them."""
    return name_for_pitch_class(pitch_class, flats=pitch_class != 6)


@lru_cache(maxsize=1)
def _shapes() -> dict[frozenset[int], str]:
    """The tones of each upper chord above its root -> its quality."""
    shapes = {}
    for quality in UPPER:
        chord = parse_chord(f"C{quality}")
        assert chord is not None
        shapes[frozenset(degree_semitones(label) for label in chord.degrees)] = quality
    return shapes


def _named(root: int, quality: str, spelled: Mapping[int, NoteName]) -> ChordSymbol:
    chord = parse_chord(f"C{quality}")
    assert chord is not None
    return replace(chord, root=spelled.get(root, usual(root)))


def upper_chord(keys: Sequence[int], spelled: Mapping[int, NoteName]) -> ChordSymbol | None:
    """The chord that some keys make by themselves, in any inversion: on the lowest note where that goes."""
    sounding = {key % 12 for key in keys}
    lowest = min(keys) % 12
    for root in sorted(sounding, key=lambda one: (one != lowest, one)):
        quality = _shapes().get(frozenset((note - root) % 12 for note in sounding))
        if quality is not None:
            return _named(root, quality, spelled)
    return None


def lower_chord(keys: Sequence[int], spelled: Mapping[int, NoteName]) -> tuple[ChordSymbol, str] | None:
    """What lies below, and how one says it: a triad in any inversion, or a shell on its root."""
    sounding = {key % 12 for key in keys}
    for root in sorted(sounding, key=lambda one: (one != min(keys) % 12, one)):
        tones = tuple(sorted((note - root) % 12 for note in sounding))
        if tones in TRIADS:
            chord = _named(root, TRIADS[tones], spelled)
            return chord, str(chord)
    root = min(keys) % 12
    found = LOWER.get(tuple(sorted((note - root) % 12 for note in sounding)))
    if found is None:
        return None
    name = spelled.get(root, usual(root))
    return _named(root, found[0], spelled), f"{found[1]} of {name}"


def held_root(keys: Sequence[int]) -> int | None:
    """The root, as a pitch class, of what a left hand holds: of a whole major or minor triad, or the lowest
    note where its fifth lies above it; None for anything else."""
    sounding = {key % 12 for key in keys}
    for root in sounding:
        tones = tuple(sorted((note - root) % 12 for note in sounding))
        if TRIADS.get(tones) in ("", "m"):
            return root
    lowest = min(keys, default=0) % 12
    return lowest if (lowest + 7) % 12 in sounding else None


def polychords(
    keys: Sequence[int], spelled: Mapping[int, NoteName], left: int | None = None
) -> Iterator[tuple[ChordSymbol, str]]:
    """One chord over another with how it is said: between the hands where ``left`` says how many of the
    lowest keys one hand has, else a triad over a triad wherever both are whole."""
    order = sorted(keys)
    for cut in range(3, len(order) - 2) if left is None else [left]:
        if not 2 <= cut <= len(order) - 3:
            continue
        upper, below = upper_chord(order[cut:], spelled), lower_chord(order[:cut], spelled)
        if upper is None or below is None or upper.root.pitch_class == below[0].root.pitch_class:
            continue
        triads = [sorted((k % 12 - c.root.pitch_class) % 12 for k in {k % 12 for k in part})
                  for c, part in ((below[0], order[:cut]), (upper, order[cut:]))]  # fmt: skip
        if left is not None or all(tuple(tones) in TRIADS for tones in triads):
            yield replace(below[0], upper=upper), f"{upper} over {below[1]}"
