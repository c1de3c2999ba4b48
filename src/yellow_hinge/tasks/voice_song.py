"""Voice a song: build the problem from the document, solve it, put the answer back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from yellow_hinge.errors import BadInput, Cancelled, Problem
from yellow_hinge.formats.chart_text import parse_chart, transpose_text, write
from yellow_hinge.motion.effort import effort_of
from yellow_hinge.motion.figures import Effort
from yellow_hinge.motion.plan import Answer, Planner
from yellow_hinge.song.edits import replace_chart, with_voicings
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.problem import places
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.theory.tension import DEGREE_WORDS
from yellow_hinge.voicing.borrow import lender
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class Voiced:
    """A solved song with its answer."""

    song: Song
    answer: Answer

    @property
    def effort(self) -> Effort:
        """The effort of the row, by its shares."""
        return effort_of(self.answer)


def remarks(voiced: Voiced, library: Library) -> list[list[str]]:
    """For each slot what a player should know about how it was voiced: a school that could not
    play it, a tone that yields to the tune."""
    found: list[list[str]] = []
    for slot, wish in zip(voiced.song.slots, voiced.answer.wishes, strict=True):
        own: list[str] = []
        lent = None if wish is None else lender(wish.school, library)
        if wish is not None and lent is not None:
            asked = library.school(wish.school.id.partition("+")[0]).name
            own.append(f"the school {asked} cannot play this with these hands: borrowed from {lent.name}")
        if wish is not None and slot.chord is not None and wish.top is not None:
            sounding = {*(voiced.song.voicing(slot.index) or Voicing()).degrees}
            for label in sorted(wish.yielding - sounding):
                name = slot.chord.root.degree(label)
                own.append(f"{DEGREE_WORDS[label]} ({name}) yields to the tune")
        found.append(own)
    return found


def voice_song(
    song: Song,
    library: Library,
    planner: Planner,
    progress: Progress = lambda _: True,
    *,
    loop: bool = False,
) -> Voiced:
    """The song with the voicings of least effort, locks kept; with ``loop`` the last
    chord also leads back to the first.

    Raises :class:`BadInput` for a song without chords, :class:`NoSolution` where a chord
    cannot be played, and ``Cancelled``.
    """
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    solve = planner.solve_loop if loop else planner.solve
    answer = solve(places(song, library), progress)
    return Voiced(with_voicings(song, answer.voicings), answer)


def voice_takes(
    song: Song, library: Library, planner: Planner, most: int, progress: Progress = lambda _: True
) -> list[Voiced]:
    """Up to ``most`` takes of the song that differ audibly, the one with least effort first; loops
    where the song is one."""
    loop = song.settings.loop
    return [
        Voiced(with_voicings(song, answer.voicings), answer)
        for answer in planner.takes(places(song, library), most, loop=loop, progress=progress)
    ]


def voice_keys(song: Song, library: Library, progress: Progress = lambda _: True) -> list[Voiced]:
    """The song in all twelve keys, from its own key upwards by half steps, each solved. Raises
    as :func:`voice_song`."""
    planner = Planner(library)
    home = song.key.tonic.pitch_class
    songs = [in_key(song, _plainest_key((home + step) % 12, song.key)) for step in range(12)]
    for moved in songs:
        planner.prepare(places(moved, library))
    voiced = []
    for count, moved in enumerate(songs):
        voiced.append(voice_song(moved, library, planner))
        if not progress((count + 1) / len(songs)):
            raise Cancelled
    return voiced


def in_key(song: Song, key: Key) -> Song:
    """The song in another key: chart, swaps and pedal notes follow; voicings are to be found."""
    if key == song.key:
        return replace(song, choices=(), asks=())
    letters = (key.tonic.step - song.key.tonic.step) % 7
    semitones = (key.tonic.pitch_class - song.key.tonic.pitch_class) % 12
    read = parse_chart(transpose_text(song.chart or write(song).decode(), key))
    moved = replace_chart(replace(song, choices=(), asks=(), swaps={}), read)
    swaps = {
        place: tuple(
            replace(at, chord=None if at.chord is None else at.chord.transposed(letters, semitones))
            for at in chords
        )
        for place, chords in song.swaps.items()
    }
    tastes = {
        name: replace(taste, pedal=None if taste.pedal is None else taste.pedal.above(letters, semitones))
        for name, taste in song.tastes.items()
    }
    return replace(moved, swaps=swaps, tastes=tastes)


def _plainest_key(pitch_class: int, home: Key) -> Key:
    """The key on a pitch class with the fewest signs; the song's own stays as it is spelled."""
    if pitch_class == home.tonic.pitch_class:
        return home
    fitting = [k for k in ALL_KEYS if k.minor == home.minor and k.tonic.pitch_class == pitch_class]
    return min(fitting, key=lambda k: (abs(k.fifths), k.fifths))
