"""Keeping a grip of the player's own: for a chord, wherever the chord or its kind is, as a take."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.song.arrangement import Choice
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt, nearest_st
from yellow_hinge.song.edits import (
    Edit,
    beyond,
    change_swaps,
    choose,
    copy_take,
    vary_with_copy,
    with_arrangement,
)
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import MIDI_KEYS
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
        if [(stand.chord, stand.beats) for stand in row] != [(slot.chord, slot.beats)]:
            arrangement = after.take_of(slot.take).arrangement
            parts = arrangement.swaps.get(at.written, ())
            before = max(0, at.part - 1)
            chords = tuple(ChordAt(stand.chord, stand.beats) for stand in row)
            swapped = (*parts[:before], *chords, *parts[at.part :])
            edit = change_swaps(after, {at.written: swapped}, label, slot.take)
            after, at = edit.song, At(at.written, before + 1)
            lost += edit.lost
        arrangement = after.take_of(slot.take).arrangement
        grips = {At(at.written, at.part + k): Choice(stand.voicing, True) for k, stand in enumerate(row)}
        after = with_arrangement(
            after, slot.take, replace(arrangement, choices={**arrangement.choices, **grips})
        )
    return Edit(after, label, None, tuple(dict.fromkeys(lost)))


#: Where a grip is kept, in the words of a list, the fewest chords first.
Where = Literal["round", "chord", "same", "kind"]
WHERE: Mapping[Where, str] = {
    "round": "this chord in this round", "chord": "this chord in every round",
    "same": "the same chord everywhere", "kind": "the same kind on any root",
}  # fmt: skip


class Keeping(Struct, frozen=True):
    """What keeping a grip in some places would do: what chords would hold, by a slot of each; all ``slots``
    that change then, in playing order; in ``replaced`` of them another grip of the player's own gives way;
    ``lost`` are the places on the way that stay as they are, ``remarks`` what lies badly."""

    grips: Mapping[int, Voicing]
    slots: tuple[int, ...]
    replaced: int = 0
    lost: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()


def keeping(song: Song, index: int, voicing: Voicing, where: Where) -> Keeping:
    """What :func:`keep` would change."""
    own = song.slots[index]
    assert own.chord is not None
    column = song.columns[song.column_of[index]]
    grips = {index if where == "round" else column[0]: voicing}
    lost: list[str] = []
    remarks: list[str] = []
    replaced = 0
    for other in alike(song, index)[1:] if where in ("same", "kind") else ():
        slot = song.slots[other]
        assert slot.chord is not None
        if where == "same" and (slot.chord.root.pitch_class != own.chord.root.pitch_class):
            continue
        moved = voicing if where == "same" else on_root(voicing, own.chord, slot.chord, song.hands)
        if moved is None:
            lost.append(f"the grip in {slot.where}, where the keyboard ends")
        else:
            grips[other] = moved
            if song.locked(other) and song.voicing(other) != moved:
                replaced += len(song.columns[song.column_of[other]])
            remarks += beyond(moved, song.hands, slot.where)
    every = (one for first in grips for one in song.columns[song.column_of[first]])
    slots = (index,) if where == "round" else tuple(sorted(every))
    return Keeping(grips, slots, replaced, tuple(lost), tuple(remarks))


def keep(song: Song, index: int, voicing: Voicing, where: Where) -> Edit:
    """A grip locked in a chord, in this round or in every one, or wherever the chord or its kind is: those
    that :func:`keeping` says, and no others."""
    chord = song.slots[index].chord
    assert chord is not None
    if where == "round" and len(song.columns[song.column_of[index]]) > 1:
        slot = song.slots[index]
        own = vary_with_copy(song, slot.section, slot.round).song
        return replace(choose(own, index, voicing), label=f"Grip for {chord.pretty}, round {slot.round}")
    found = keeping(song, index, voicing, where)
    choices: dict[At, Choice] = dict(song.decided(index).choices)
    choices |= {song.slots[one].at: Choice(grip, True, True) for one, grip in found.grips.items()}
    after = with_arrangement(song, song.slots[index].take, replace(song.decided(index), choices=choices))
    label = (
        f"Grip for every {chord.quality or 'major triad'}" if where == "kind" else f"Grip for {chord.pretty}"
    )
    return Edit(after, label, None, found.lost, found.remarks)


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


def on_root(voicing: Voicing, chord: ChordSymbol, symbol: ChordSymbol, hands: HandProfile) -> Voicing | None:
    """The same grip on another root, the nearest way, or an octave from it where that lies better in
    the hands' registers; None beyond the ends of the keyboard."""
    step = nearest_st(symbol.root.pitch_class - chord.root.pitch_class)
    ways = [_lifted(voicing, step + octave) for octave in _OCTAVES_ST]
    inside = [way for way in ways if way is not None]
    return min(inside, key=lambda one: _outside_st(one, hands), default=None)


def _lifted(voicing: Voicing, st: int) -> Voicing | None:
    if not all(key + st in MIDI_KEYS for key in voicing.keys):
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
