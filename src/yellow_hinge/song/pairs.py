"""Two takes that stay in step: what is decided in one holds in the other, up to who has the bass and which
grips are played."""

from __future__ import annotations

from msgspec.structs import replace

from yellow_hinge.song import carry
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.edits import Edit, new_take
from yellow_hinge.song.model import Song, Take

#: What each of a pair has for itself.
OWN = ("bass", "choices")
_SHARED = tuple(name for name in Arrangement.__struct_fields__ if name not in OWN)


def new_twin(song: Song, name: str, bass: str) -> Edit:
    """A new take like the one being worked on with the bass in other hands; both stay in step from now on."""
    made = new_take(song, name, bass=bass)
    new, old = made.song.current, song.current
    twins = {new: old, old: new}
    loose = (replace(take, twin=None if take.twin in twins else take.twin) for take in made.song.takes)
    takes = tuple(replace(take, twin=twins.get(take.id, take.twin)) for take in loose)
    return replace(made, song=replace(made.song, takes=takes))


def part(song: Song, take_id: int) -> Edit:
    """A take and its twin go their own ways."""
    pair = {take_id, song.take_of(take_id).twin}
    takes = tuple(replace(take, twin=None) if take.id in pair else take for take in song.takes)
    return Edit(replace(song, takes=takes), f"{song.take_of(take_id).name} goes its own way")


def in_step(before: Song, after: Song) -> Song:
    """A song after an edit, with the twin of each take that was changed alone brought into step. A twin that
    is gone is forgotten."""
    if not any(take.twin is not None for take in after.takes):
        return after
    old, new = ({take.id: take for take in song.takes} for song in (before, after))
    takes = []
    for take in after.takes:
        twin = None if take.twin is None else new.get(take.twin)
        if twin is None or twin.twin != take.id:
            takes.append(take if take.twin is None else replace(take, twin=None))
            continue
        changed = _shared(twin) != _shared(old.get(twin.id, twin))
        alone = _shared(take) == _shared(old.get(take.id, take))
        takes.append(_followed(after, take, twin) if changed and alone else take)
    return replace(after, takes=tuple(takes))


def _shared(take: Take) -> list[object]:
    return [getattr(take.arrangement, name) for name in _SHARED]


def _followed(song: Song, take: Take, twin: Take) -> Take:
    """A take with what its twin decides; grips of chords that are other ones now are found anew."""
    arrangement, other = take.arrangement, twin.arrangement
    by_id = {written.id: written for written in song.written_in(take.id)}
    for written in {*arrangement.swaps, *other.swaps}:
        chords, then = arrangement.swaps.get(written, ()), other.swaps.get(written, ())
        if chords != then and written in by_id:
            arrangement = carry.swapped(arrangement, carry.Swapped(by_id[written], chords, then))
    return replace(take, arrangement=replace(arrangement, **{name: getattr(other, name) for name in _SHARED}))
