"""A MIDI file as a song: its chords with the grips that were played, locked as grips of the player's own."""

from __future__ import annotations

from functools import cache

from msgspec.structs import replace

from yellow_hinge.formats import midi_in
from yellow_hinge.formats.project_file import Opened
from yellow_hinge.song.arrangement import Choice
from yellow_hinge.song.edits import with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Voicing


def read_midi(data: bytes, place: str) -> Opened:
    """Read a file. Raises :class:`BadInput` as :func:`formats.midi_in.read`."""
    played = midi_in.read(data, place)
    song = Song(played.imported.chart)
    return Opened(_with_grips(song, played), played.imported.problems)


def _with_grips(song: Song, played: midi_in.Played) -> Song:
    """The song with the grips that were heard, each where its chord is first played."""
    library, choices = builtin_library(), dict(song.arrangement.choices)
    keys = local_keys(song)

    @cache
    def classified(grip: midi_in.Grip, chord: ChordSymbol, key: Key) -> Voicing:
        return classify(*grip, chord, key, library)

    for slot, grip in zip(song.slots, played.grips, strict=True):
        if grip is None or slot.chord is None or slot.at in choices or not (grip[0] or grip[1]):
            continue
        choices[slot.at] = Choice(classified(grip, slot.chord, keys[slot.place]), locked=True, own=True)
    return with_arrangement(song, song.current, replace(song.arrangement, choices=choices))
