"""A song's voicings described for showing and writing. Loads no arrays: the window paints
before the search is there."""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.motion.describe import bass_line, held_row, hinges
from yellow_hinge.motion.hinge import Held, HingeReport, hinge
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune import melody_over
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.tension import Fit, fit
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing


class MelodyFit(Struct, frozen=True):
    """A melody note over a chord, and how it sits."""

    note: NoteOver
    fit: Fit


class Row(Struct, frozen=True):
    """One ``held`` per slot, one hinge between neighbours (and one from the last to the first in
    a loop), the bassist's keys (None where nobody but the left hand has the bass), and for each
    slot how the melody over it sits."""

    held: tuple[Held, ...]
    hinges: tuple[HingeReport, ...]
    bassist: tuple[int | None, ...]
    melody: tuple[tuple[MelodyFit, ...], ...] = ()


def who_has_bass(arrangement: Arrangement, library: Library) -> str:
    """ "self" or "bassist"."""
    return arrangement.bass or library.school(arrangement.school).bass


def sounding_symbol(chord: ChordSymbol, voicing: Voicing, has_bass: bool) -> ChordSymbol:
    """The chord as its bass makes it: with a slash where the hands have the bass and stand on
    another of its tones."""
    if not has_bass or not voicing.keys or chord.bass is not None or chord.upper is not None:
        return chord
    low = min(voicing.keys)
    label = chord.label_of(low % 12)
    return chord if label in (None, "R") else with_bass(chord, chord.root.degree(label))


def row(song: Song, library: Library) -> Row:
    """Describe the voicings that a song holds; slots without one count as rests."""
    written = [slot.chord for slot in song.slots]
    has_bass = [who_has_bass(song.decided(slot.index), library) for slot in song.slots]
    chords = [
        None if chord is None else sounding_symbol(chord, song.voicing(index) or Voicing(), own == "self")
        for index, (chord, own) in enumerate(zip(written, has_bass, strict=True))
    ]
    voicings: list[Voicing | None] = [song.voicing(slot.index) for slot in song.slots]
    held = held_row(
        [chord if voicing else None for chord, voicing in zip(chords, voicings, strict=True)],
        voicings,
    )
    changes = hinges(held)
    if song.arrangement.loop and len(held) > 1:
        changes = (*changes, hinge(held[-1], held[0]))
    return Row(held, changes, bassist_keys(song, library), melody_fits(song))


def bassist_keys(song: Song, library: Library) -> tuple[int | None, ...]:
    """What the bassist plays on each slot, MIDI; None where nobody but the left hand has the bass."""
    has_bass = [who_has_bass(song.decided(slot.index), library) for slot in song.slots]
    if "bassist" not in has_bass:
        return (None,) * len(has_bass)
    line = bass_line([slot.chord for slot in song.slots])
    return tuple(key if keys == "bassist" else None for key, keys in zip(line, has_bass, strict=True))


def melody_fits(song: Song) -> tuple[tuple[MelodyFit, ...], ...]:
    """For each slot its melody notes with how they sit; nothing sits on "no chord"."""
    return tuple(
        ()
        if slot.chord is None
        else tuple(MelodyFit(note, fit_of(note, slot.chord, slot.key)) for note in notes)
        for slot, notes in zip(song.slots, melody_over(song), strict=True)
    )


def fit_of(note: NoteOver, chord: ChordSymbol, key: Key | None) -> Fit:
    """How one note of the tune sits on a chord."""
    return fit(note.key, chord, key, quarters=note.quarters, strong=note.strong, stepwise=note.stepwise)
