"""Keeping a grip of the player's own: for a chord, for all chords alike, as a take."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.song.arrangement import Choice
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt, nearest_st
from yellow_hinge.song.edits import Edit, beyond, change_swaps, choose, copy_take, with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.shape import HandShape, Voicing


class Stand(Struct, frozen=True):
    """A chord that stands for another, or for a part of it, with the grip that plays it."""

    chord: ChordSymbol
    beats: Fraction
    voicing: Voicing


#: Octaves by which a grip on another root may move to lie in the hands' registers.
_OCTAVES_ST = (0, 12, -12)


def change_grip(song: Song, index: int, voicing: Voicing, words: str) -> Edit:
    """A grip of the player's own, locked in its chord; ``words`` say what was done to it."""
    edit = choose(song, index, voicing)
    chord = song.slots[index].chord
    return replace(edit, label=f"{words}, {chord.pretty}" if chord else words)


def stand_in(song: Song, rows: Mapping[int, Sequence[Stand]], label: str) -> Edit:
    """Grips in the place of chords, by slot: one that is the chord itself is locked in it, others are
    swaps with their grips locked. What an earlier swap put beside them stays."""
    after = song
    lost: list[str] = []
    for index in sorted(rows, reverse=True):  # a slot that is divided moves those behind it
        slot, row = song.slots[index], rows[index]
        at = slot.at
        if [(one.chord, one.beats) for one in row] != [(slot.chord, slot.beats)]:
            arrangement = after.take_of(slot.take).arrangement
            parts = arrangement.swaps.get(at.written, ())
            before = max(0, at.part - 1)
            own = tuple(ChordAt(one.chord, one.beats) for one in row)
            swapped = (*parts[:before], *own, *parts[at.part :])
            edit = change_swaps(after, {at.written: swapped}, label, slot.take)
            after, at = edit.song, At(at.written, before + 1)
            lost += edit.lost
        arrangement = after.take_of(slot.take).arrangement
        grips = {At(at.written, at.part + k): Choice(one.voicing, True) for k, one in enumerate(row)}
        after = with_arrangement(
            after, slot.take, replace(arrangement, choices={**arrangement.choices, **grips})
        )
    return Edit(after, label, None, tuple(dict.fromkeys(lost)))


def alike(song: Song, index: int) -> tuple[int, ...]:
    """The first slots of all chords of the take that are the same chord on some root, ``index``'s
    own column first."""
    slot = song.slots[index]
    if slot.chord is None:
        return ()
    kind = _kind(slot.chord)
    own = song.columns[song.column_of[index]][0]
    every = [column[0] for column in song.columns]
    same = [
        first
        for first in every
        if first != own
        and song.slots[first].take == slot.take
        and (chord := song.slots[first].chord) is not None
        and _kind(chord) == kind
    ]
    return (own, *same)


def _kind(chord: ChordSymbol) -> ChordSymbol:
    """The chord on C."""
    return chord.transposed(-chord.root.step % 7, -chord.root.pitch_class % 12)


def keep_for_alike(song: Song, index: int, voicing: Voicing) -> Edit:
    """A grip locked in all chords that are alike, on its own root in each, in the octave that lies
    best. A chord with another grip of the player's own keeps that; what is then out of reach or register
    is named."""
    chord = song.slots[index].chord
    assert chord is not None
    choices: dict[At, Choice] = dict(song.decided(index).choices)
    lost: list[str] = []
    remarks: list[str] = []
    own, *others = alike(song, index)
    choices[song.slots[own].at] = Choice(voicing, True)
    for other in others:
        slot = song.slots[other]
        assert slot.chord is not None
        moved = on_root(voicing, chord, slot.chord, song.hands)
        if moved is None:
            lost.append(f"the grip in {slot.where}, where the keyboard ends")
        elif song.locked(other) and song.voicing(other) != moved:
            lost.append(f"the grip in {slot.where}, which has one of its own")
        else:
            choices[slot.at] = Choice(moved, True)
            remarks += beyond(moved, song.hands, slot.where)
    arrangement = replace(song.decided(index), choices=choices)
    after = with_arrangement(song, song.slots[index].take, arrangement)
    return Edit(after, f"Grip for every {chord.quality or 'major triad'}", None, tuple(lost), tuple(remarks))


def on_root(voicing: Voicing, chord: ChordSymbol, other: ChordSymbol, hands: HandProfile) -> Voicing | None:
    """The same grip on another root, the nearest way, or an octave from it where that lies better in
    the hands' registers; None beyond the ends of the keyboard."""
    step = nearest_st(other.root.pitch_class - chord.root.pitch_class)
    ways = [_lifted(voicing, step + octave) for octave in _OCTAVES_ST]
    inside = [one for one in ways if one is not None]
    return min(inside, key=lambda one: _outside_st(one, hands), default=None)


def _lifted(voicing: Voicing, st: int) -> Voicing | None:
    if not all(0 <= key + st <= 127 for key in voicing.keys):
        return None
    left, right = (
        HandShape(tuple(key + st for key in shape.keys), shape.degrees, shape.recipe)
        for shape in (voicing.left, voicing.right)
    )
    return Voicing(left, right)


def _outside_st(voicing: Voicing, hands: HandProfile) -> int:
    """Half steps by which the hands leave their registers."""
    return sum(
        max(0, hand.lowest_key - keys[0]) + max(0, keys[-1] - hand.highest_key)
        for hand, keys in ((hands.left, voicing.left.keys), (hands.right, voicing.right.keys))
        if keys
    )


def keep_as_take(song: Song, index: int, voicing: Voicing, name: str) -> Edit:
    """A new take with the grip locked in its chord, worked on from now; the take it comes from stays
    as it is."""
    made = copy_take(song, name)
    grip = choose(made.song, index, voicing)
    return replace(made, song=grip.song)
