"""Voice a song: build the problem from the document, solve it, put the answer back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.plan import Alternative, Answer, Place, Planner
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.model import Settings, Slot, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.candidates import Wish
from yellow_hinge.voicing.recipes import Library

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class Voiced:
    """A solved song with its answer."""

    song: Song
    answer: Answer


def wish_for(chord: ChordSymbol, key: Key | None, settings: Settings, library: Library) -> Wish:
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


def voice_song(song: Song, library: Library, planner: Planner, progress: Progress = lambda _: True) -> Voiced:
    """The song with the smoothest voicing of every chord, locks kept.

    Raises :class:`BadInput` for a song without chords, :class:`NoSolution` where a chord
    cannot be played, and ``Cancelled``.
    """
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    answer = planner.solve(places(song, library), progress)
    return Voiced(with_voicings(song, answer.voicings), answer)


@dataclass(frozen=True)
class Solved:
    """A voiced song and, for each slot, its voicings by what they cost the song."""

    voiced: Voiced
    alternatives: list[list[Alternative]]


class Solver:
    """Keeps a planner between solves, so that an edit costs only what it touches."""

    def __init__(self, library: Library) -> None:
        self._library, self._planner = library, Planner(library)

    def __call__(self, song: Song, most: int, progress: Progress = lambda _: True) -> Solved:
        """Solve, then rank at most ``most`` voicings per slot. Raises as :func:`voice_song`."""
        voiced = voice_song(song, self._library, self._planner, lambda share: progress(share / 2))
        ranked = self._planner.alternatives(most, lambda share: progress(0.5 + share / 2))
        return Solved(voiced, ranked)
