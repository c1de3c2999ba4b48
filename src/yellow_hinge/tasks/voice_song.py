"""Voice a song: build the problem from the document, solve it, put the answer back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.hinge import Held, HingeReport
from yellow_hinge.motion.plan import (
    Alternative,
    Answer,
    Place,
    Planner,
    bass_line,
    held_row,
    hinges,
)
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.model import Settings, Slot, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.candidates import Wish
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class Voiced:
    """A solved song with its answer."""

    song: Song
    answer: Answer


@dataclass(frozen=True)
class Row:
    """A song's voicings described for showing: one ``held`` per slot, one hinge between
    neighbours, and the bassist's keys (None where nobody but the left hand has the bass)."""

    held: tuple[Held, ...]
    hinges: tuple[HingeReport, ...]
    bassist: tuple[int | None, ...]


def wish_for(chord: ChordSymbol, key: Key, settings: Settings, library: Library) -> Wish:
    """What the settings ask of one chord. Raises :class:`BadInput` for an unknown school."""
    school = library.school(settings.school)
    return Wish(
        chord,
        key,
        school,
        school.colour if settings.colour is None else settings.colour,
        settings.bass or school.bass,
        settings.profile,
    )


def place_words(slot: Slot) -> str:
    """Where a slot is, for messages."""
    return f"bar {slot.bar}, {'no chord' if slot.chord is None else slot.chord}"


def places(song: Song, library: Library) -> tuple[Place, ...]:
    """The song as a problem for the planner."""
    return tuple(
        Place(
            None if slot.chord is None else wish_for(slot.chord, song.key, song.settings, library),
            song.voicing(slot.index) if song.locked(slot.index) else None,
            place_words(slot),
        )
        for slot in song.slots
    )


def voice_song(
    song: Song, library: Library, planner: Planner, progress: Progress = lambda _: True
) -> Voiced:
    """The song with the smoothest voicing of every chord, locks kept.

    Raises :class:`BadInput` for a song without chords, :class:`NoSolution` where a chord
    cannot be played, and ``Cancelled``.
    """
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    answer = planner.solve(places(song, library), progress)
    return Voiced(with_voicings(song, answer.voicings), answer)


def alternatives(
    planner: Planner, most: int, progress: Progress = lambda _: True
) -> list[list[Alternative]]:
    """For each slot of the song solved last, the ranked other voicings."""
    return planner.alternatives(most, progress)


def who_has_bass(song: Song, library: Library) -> str:
    return song.settings.bass or library.school(song.settings.school).bass


def row(song: Song, library: Library) -> Row:
    """Describe the voicings that a song holds; slots without one count as rests."""
    chords = [slot.chord for slot in song.slots]
    voicings: list[Voicing | None] = [song.voicing(slot.index) for slot in song.slots]
    held = held_row(
        [chord if voicing else None for chord, voicing in zip(chords, voicings, strict=True)],
        voicings,
    )
    with_bassist = who_has_bass(song, library) == "bassist"
    bassist = bass_line(chords) if with_bassist else (None,) * len(chords)
    return Row(held, hinges(held), bassist)
