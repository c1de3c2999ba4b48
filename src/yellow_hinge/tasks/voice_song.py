"""Voice a song: build the problem from the document, solve it, put the answer back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import parse_chart, transpose_text, write
from yellow_hinge.hands.profile import Hand
from yellow_hinge.motion.explain import Term, explain_change, explain_voicing
from yellow_hinge.motion.plan import Alternative, Answer, Place, Planner
from yellow_hinge.motion.weights import stressed
from yellow_hinge.song.edits import replace_chart, with_voicings
from yellow_hinge.song.model import Ask, Settings, Slot, Song
from yellow_hinge.song.walk import melody_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.voicing.candidates import Hold, Wish
from yellow_hinge.voicing.naming import shape_words
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

Progress = Callable[[float], bool]
NOTHING_ASKED = Ask()


@dataclass(frozen=True)
class Voiced:
    """A solved song with its answer."""

    song: Song
    answer: Answer


def wish_for(
    chord: ChordSymbol,
    key: Key | None,
    settings: Settings,
    library: Library,
    melody: int | None = None,
    ask: Ask = NOTHING_ASKED,
) -> Wish:
    """What the settings and the player ask of one chord. Raises :class:`BadInput` for an unknown
    school.

    ``melody`` is the melody key over the chord; what it means is said by the chord's or the
    section's taste (both in ``ask``), else by the song, else by the school.
    """
    base = library.school(ask.taste.school or settings.school)
    school = stressed(base, settings.levels, bool(ask.taste.held_top))
    colour = settings.colour if ask.taste.colour is None else ask.taste.colour
    wish = Wish(
        chord,
        key,
        school,
        school.colour if colour is None else colour,
        settings.bass or school.bass,
        settings.profile,
        hold=Hold(**ask.holds) if ask.holds else None,
    )
    mode = ask.taste.melody or settings.melody or school.melody
    if melody is None or mode == "free":
        return wish
    if mode == "clear":
        return replace(wish, clear_of=melody)
    if mode == "room":
        return replace(wish, clear_of=melody, room_for=melody)
    return replace(wish, top=_within(melody, settings.profile.right))


def _within(key: int, hand: Hand) -> int:
    """The key, moved by octaves into the upper part of a hand's register."""
    lowest = min(hand.home_low + 5, hand.highest_key - 11)
    while key < lowest:
        key += 12
    while key > hand.highest_key:
        key -= 12
    return key


def place_words(slot: Slot) -> str:
    """Where a slot is, for messages."""
    return f"bar {slot.bar}, {'no chord' if slot.chord is None else slot.chord}"


def places(song: Song, library: Library) -> tuple[Place, ...]:
    """The song as a problem for the planner."""
    melody = melody_keys(song)
    return tuple(
        Place(
            None
            if slot.chord is None
            else wish_for(
                slot.chord,
                song.key,
                song.settings,
                library,
                melody[slot.index],
                replace(song.ask(slot.index), taste=song.taste(slot.index)),
            ),
            song.voicing(slot.index) if song.locked(slot.index) else None,
            place_words(slot),
        )
        for slot in song.slots
    )


def voice_song(
    song: Song,
    library: Library,
    planner: Planner,
    progress: Progress = lambda _: True,
    *,
    loop: bool = False,
) -> Voiced:
    """The song with the smoothest voicing of every chord, locks kept; with ``loop`` the last
    chord also leads smoothly to the first.

    Raises :class:`BadInput` for a song without chords, :class:`NoSolution` where a chord
    cannot be played, and ``Cancelled``.
    """
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    solve = planner.solve_loop if loop else planner.solve
    answer = solve(places(song, library), progress)
    return Voiced(with_voicings(song, answer.voicings), answer)


def voice_takes(song: Song, library: Library, planner: Planner, most: int) -> list[Voiced]:
    """Up to ``most`` takes of the song that differ audibly, the smoothest first."""
    return [
        Voiced(with_voicings(song, answer.voicings), answer)
        for answer in planner.takes(places(song, library), most)
    ]


def voice_keys(song: Song, library: Library) -> list[Voiced]:
    """The song in all twelve keys, from its own key upwards by half steps, each solved."""
    planner = Planner(library)
    voiced = []
    for step in range(12):
        key = _plainest_key((song.key.tonic.pitch_class + step) % 12, song.key)
        moved = parse_chart(transpose_text(song.chart or write(song).decode(), key)) if step else song
        voiced.append(voice_song(replace_chart(replace(song, choices=()), moved), library, planner))
    return voiced


def _plainest_key(pitch_class: int, home: Key) -> Key:
    """The key on a pitch class with the fewest signs; the song's own stays as it is spelled."""
    if pitch_class == home.tonic.pitch_class:
        return home
    fitting = [k for k in ALL_KEYS if k.minor == home.minor and k.tonic.pitch_class == pitch_class]
    return min(fitting, key=lambda k: (abs(k.fifths), k.fifths))


@dataclass(frozen=True)
class Solved:
    """A voiced song; for each slot its voicings by what they cost the song, and why the chosen
    one costs what it does; for each hinge why it costs what it does; and each shape's family in
    words."""

    voiced: Voiced
    alternatives: list[list[Alternative]]
    voicing_terms: list[tuple[Term, ...]]
    hinge_terms: list[tuple[Term, ...]]
    families: list[tuple[str, str]]


def families(song: Song, library: Library) -> list[tuple[str, str]]:
    """For each slot the families of both hands' shapes in words, left and right."""
    words = []
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if slot.chord is None or voicing is None:
            words.append(("", ""))
        else:
            left, right = (
                shape_words(shape, slot.chord, song.key, library) for shape in (voicing.left, voicing.right)
            )
            words.append((left, right))
    return words


def explain(song: Song, library: Library) -> tuple[list[tuple[Term, ...]], list[tuple[Term, ...]]]:
    """Reasons for every slot and every hinge of a voiced song (the closing one in a loop too)."""
    row = places(song, library)
    voicings = [song.voicing(slot.index) or Voicing() for slot in song.slots]
    for_voicings = [
        explain_voicing(place.wish, voicing) if place.wish and voicing.keys else ()
        for place, voicing in zip(row, voicings, strict=True)
    ]
    following = list(range(1, len(row))) + [0] * (song.settings.loop and len(row) > 1)
    for_hinges: list[tuple[Term, ...]] = []
    for before, after in enumerate(following):
        start, end = row[before].wish, row[after].wish
        if start is None or end is None:
            for_hinges.append(())
        else:
            for_hinges.append(explain_change(end, voicings[before], voicings[after], start.bass))
    return for_voicings, for_hinges


class Solver:
    """Keeps a planner between solves, so that an edit costs only what it touches."""

    def __init__(self, library: Library) -> None:
        self._library, self._planner = library, Planner(library)

    def __call__(self, song: Song, most: int, progress: Progress = lambda _: True) -> Solved:
        """Solve, then rank at most ``most`` voicings per slot. Raises as :func:`voice_song`.

        The ranks are those of the open row: what a voicing costs with the way back of a loop
        left aside.
        """
        planner, settings = self._planner, song.settings
        voiced = voice_song(song, self._library, planner, lambda share: progress(share / 2))
        ranked = planner.alternatives(most, lambda share: progress(0.5 + share / 4))
        if settings.loop:
            voiced = voice_song(
                song, self._library, planner, lambda share: progress(0.75 + share / 4), loop=True
            )
        elif settings.take:
            takes = voice_takes(song, self._library, planner, settings.take + 1)
            voiced = takes[-1]
        return Solved(
            voiced, ranked, *explain(voiced.song, self._library), families(voiced.song, self._library)
        )
