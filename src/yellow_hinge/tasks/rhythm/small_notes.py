"""Small notes on the way, over a stretch of the song, on the counts that the patterns leave free."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from yellow_hinge.reharm.connections import Connection, Places, connections
from yellow_hinge.rhythm.patterns import HANDS, HELD
from yellow_hinge.song.edits import Edit, wish_for_chord
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.keys import Key


def small_notes(song: Song, index: int, key: Key | None = None) -> list[Connection]:
    """What may lead from a slot into the next one; nothing behind the last one of a song that does not lead
    back, and where no hand plays."""
    slots = song.slots
    after = (index + 1) % len(slots)
    if after == 0 and not song.arrangement.loop:
        return []
    slot, following = slots[index], slots[after]
    here, there = song.voicing(index), song.voicing(after)
    if slot.chord is None or following.chord is None or here is None or there is None:
        return []
    playing = Playing(song)
    free: dict[str, Places] = {
        hand: Places(playing.free_beats(index, hand), playing.stroke_beats(index, hand))
        for hand in HANDS
        if playing.pattern(index, hand).id != HELD
    }
    key = local_keys(song)[slot.place] if key is None else key
    return connections(here, there, (slot.chord, following.chord), slot.beats, key, free=free)


def take_small_notes(song: Song, slots: Sequence[int]) -> Edit:
    """The first proposal of every voice that moves, on each of the slots; chords that have small notes keep
    theirs, and nothing is put over the whole right hand."""
    label, after = "Small notes on the way", song
    seen = set()
    for index in slots:
        if song.slots[index].at in seen or song.ask(index).fills:
            continue
        seen.add(song.slots[index].at)
        taken: list[Connection] = []
        for connection in small_notes(song, index):
            voices = {(fill.hand, fill.start_key) for each in taken for fill in each.fills}
            if (
                connection.kind not in ("grip before", "slide")
                and (connection.fills[0].hand, connection.fills[0].start_key) not in voices
            ):
                taken.append(connection)
        fills = tuple(fill for connection in taken for fill in connection.fills)
        if fills:
            after = wish_for_chord(after, index, replace(song.ask(index), fills=fills)).song
    return Edit(after, label)


def leave_small_notes(song: Song, slots: Sequence[int]) -> Edit:
    """No small notes on these slots."""
    after = song
    for index in slots:
        if after.ask(index).fills:
            after = wish_for_chord(after, index, replace(after.ask(index), fills=())).song
    return Edit(after, "No small notes")
