"""Two places of a song beside each other: what differs in notes, rhythm and fingers, in a sentence."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct

from yellow_hinge.motion.hinge import Held
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.patterns import HANDS
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pretty import counted

#: A place is said to be another one "but for" so many of its beats at most, of all that it has.
_BUT_FOR = Fraction(1, 2)
_ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")


class Place(Struct, frozen=True):
    """Neighbouring slots and what they are called: "bar 3", "Verse, round 2"."""

    slots: tuple[int, ...]
    words: str


class Compared(Struct, frozen=True):
    """Two places: the sentence, the slots (pairs) that differ, and for each what differs there."""

    words: str
    differ: tuple[tuple[int, int], ...]
    details: tuple[str, ...]


def bar_of(song: Song, index: int) -> Place:
    """The bar of a slot."""
    bar = song.slots[index].bar
    return Place(tuple(slot.index for slot in song.slots if slot.bar == bar), f"bar {bar}")


def round_of(song: Song, index: int) -> Place:
    """The round of a section that a slot belongs to."""
    slot = song.slots[index]
    slots = tuple(s.index for s in song.slots if (s.section, s.round) == (slot.section, slot.round))
    return Place(slots, f"{slot.section or 'the song'}, round {slot.round}")


class _Beat(Struct, frozen=True):
    """One beat of a place: by hand what is struck where, which keys sound, and the fingers of the grips."""

    rhythm: frozenset[tuple[str, Fraction, Fraction]]
    notes: frozenset[tuple[str, int]]
    fingers: frozenset[tuple[str, int, int]]


def compare(song: Song, held: Sequence[Held], one: Place, other: Place) -> Compared:
    """What the second place has otherwise than the first. ``held`` are the grips of the song with their
    fingers, one a slot."""
    mine, theirs = (_beats(song, held, place) for place in (one, other))
    count = max(len(mine), len(theirs))
    nothing = _Beat(frozenset(), frozenset(), frozenset())
    pairs = [
        (mine[k] if k < len(mine) else nothing, theirs[k] if k < len(theirs) else nothing)
        for k in range(count)
    ]
    off = [k for k, (a, b) in enumerate(pairs) if a != b]
    slots = _slots_off(song, held, one, other)
    details = tuple(_detail(song, held, a, b) for a, b in slots)
    name = other.words[:1].upper() + other.words[1:]
    if not off:
        return Compared(f"{name} is {one.words} again, note for note.", (), ())
    aspects = [
        words for words, part in (("notes", "notes"), ("rhythm", "rhythm"), ("fingers", "fingers"))
        if any(getattr(a, part) != getattr(b, part) for a, b in pairs)
    ]  # fmt: skip
    what = _and(aspects)
    if len(mine) == len(theirs) and len(off) <= count * _BUT_FOR:
        return Compared(f"{name} is {one.words} but for {_which(off)}: other {what}.", slots, details)
    words = f"{name} differs from {one.words} in {what}, on {counted(len(off), 'beat')} of {count}."
    return Compared(words, slots, details)


def _and(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def _which(beats: Sequence[int]) -> str:
    """Beats in words: "the first beat", "the second and the third beat", "beats 9 to 12"."""
    if beats[-1] < len(_ORDINALS) and len(beats) <= 3:
        return f"{_and([f'the {_ORDINALS[k]}' for k in beats])} beat"
    if len(beats) > 1 and beats[-1] - beats[0] == len(beats) - 1:
        return f"beats {beats[0] + 1} to {beats[-1] + 1}"
    return f"beats {_and([str(k + 1) for k in beats])}"


def _beats(song: Song, held: Sequence[Held], place: Place) -> list[_Beat]:
    """A place beat by beat."""
    playing, slots = Playing(song), [song.slots[k] for k in place.slots]
    if not slots:
        return []
    begin, unit = slots[0].start_quarters, slots[0].meter.quarters_per_beat
    count = int(-(-(slots[-1].start_quarters + slots[-1].quarters - begin) // unit))
    rhythm: list[set[tuple[str, Fraction, Fraction]]] = [set() for _ in range(count)]
    notes: list[set[tuple[str, int]]] = [set() for _ in range(count)]
    fingers: list[set[tuple[str, int, int]]] = [set() for _ in range(count)]
    for slot in slots:
        for hand in HANDS:
            shape, own = held[slot.index].hand(hand)
            by_key = dict(zip(shape.keys, own, strict=False))
            for note in [*playing.of_slot(slot.index, hand), *_line(playing, slot.index, hand)]:
                at = (note.start_quarters - begin) / unit
                beat = min(count - 1, max(0, int(at)))
                rhythm[beat].add((hand, at - beat, note.quarters / unit))
                last = min(count - 1, int(-(-(at + note.quarters / unit) // 1)) - 1)
                for sounding in range(beat, max(beat, last) + 1):
                    notes[sounding].add((hand, note.key))
                if note.key in by_key:
                    fingers[beat].add((hand, note.key, by_key[note.key]))
    return [
        _Beat(frozenset(r), frozenset(n), frozenset(f))
        for r, n, f in zip(rhythm, notes, fingers, strict=True)
    ]


def _line(playing: Playing, index: int, hand: str) -> list[NoteEvent]:
    """The line of a hand over a slot."""
    slot = playing.song.slots[index]
    keys = {note.key for note in playing.song.line_over(index) if note.hand == hand}
    return [note for note in playing.riffs([slot]) if note.key in keys]


def _slots_off(song: Song, held: Sequence[Held], place: Place, other: Place) -> tuple[tuple[int, int], ...]:
    """The chords of both places, one by one, where they differ."""
    pairs = zip(place.slots, other.slots, strict=False)
    return tuple((a, b) for a, b in pairs if _detail(song, held, a, b))


def _detail(song: Song, held: Sequence[Held], one: int, other: int) -> str:
    """What differs between two chords, in words; "" for nothing."""
    first, second = song.slots[one], song.slots[other]
    parts = []
    if first.chord != second.chord:
        names = [pretty_symbol(s.chord) for s in (first, second)]
        parts.append(f"{names[1]} for {names[0]}")
    playing = Playing(song)
    for hand in HANDS:
        grips = [held[k].voicing.hand(hand).keys for k in (one, other)]
        if grips[0] != grips[1]:
            names = [_grip_words(held[k], hand) for k in (one, other)]
            parts.append(f"{hand} hand {names[1]} for {names[0]}")
        elif held[one].hand(hand)[1] != held[other].hand(hand)[1]:
            parts.append(f"{hand} hand with other fingers")
        patterns = [playing.pattern(k, hand).name for k in (one, other)]
        if patterns[0] != patterns[1]:
            parts.append(f"{hand} hand: {patterns[1]}")
        rows = [
            [(n.at_beats, n.beats, n.key) for n in song.line_over(k) if n.hand == hand] for k in (one, other)
        ]
        if rows[0] != rows[1]:
            parts.append(f"another line in the {hand} hand")
    return "; ".join(parts)


def _grip_words(held: Held, hand: str) -> str:
    shape, _ = held.hand(hand)
    if not shape.keys or held.chord is None:
        return "at rest"
    return " ".join(pitch.pretty for pitch in shape.pitches(held.chord))
