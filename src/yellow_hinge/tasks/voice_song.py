"""Voice a song: build the problem from the document, solve it, put the answer back."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from yellow_hinge.errors import BadInput, Cancelled, Problem
from yellow_hinge.formats.chart_text import parse_chart, transpose_text, write
from yellow_hinge.hands.profile import Hand
from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.explain import Term, explain_change, explain_voicing
from yellow_hinge.motion.plan import Alternative, Answer, Place, Planner
from yellow_hinge.motion.weights import stressed
from yellow_hinge.song.edits import replace_chart, with_voicings
from yellow_hinge.song.model import Ask, Settings, Slot, Song
from yellow_hinge.song.walk import melody_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.voicing.candidates import Wish
from yellow_hinge.voicing.naming import pair_words, shape_words
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.reductions import Reduction, reductions
from yellow_hinge.voicing.shape import Voicing

Progress = Callable[[float], bool]
NOTHING_ASKED = Ask()
#: Takes that are listed beside the one in use.
MOST_TAKES = 4


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
        hold=ask.hold if ask.hold.names else None,
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


def voice_takes(
    song: Song, library: Library, planner: Planner, most: int, progress: Progress = lambda _: True
) -> list[Voiced]:
    """Up to ``most`` takes of the song that differ audibly, the smoothest first; loops where the
    song is one."""
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


@dataclass(frozen=True)
class Solved:
    """A voiced song; for each slot its voicings by what they cost the song, and why the chosen
    one costs what it does; for each hinge why it costs what it does, and what would make it
    smaller; each shape's family in words; all takes, the one in use among them; and by slot
    the ways to play locked voicings that are out of reach."""

    voiced: Voiced
    alternatives: list[list[Alternative]]
    voicing_terms: list[tuple[Term, ...]]
    hinge_terms: list[tuple[Term, ...]]
    families: list[tuple[str, str, str]]
    betterments: list[Betterment | None]
    takes: list[TakeFigures]
    reductions: dict[int, list[Reduction]]


@dataclass(frozen=True)
class TakeFigures:
    """A take in figures: half steps, notes held, notes that come or go, and chords voiced
    otherwise than in the first take."""

    motion_st: int
    held: int
    changing: int
    differ: int


def take_figures(take: Voiced, first: Voiced) -> TakeFigures:
    """Add up a take's changes, the way back of a loop among them."""
    row, others = take.answer.voicings, first.answer.voicings
    closing = [row[0]] if take.song.settings.loop and len(row) > 1 else []
    moves = [
        hand_motion(one.hand(side).keys, other.hand(side).keys)
        for one, other in pairwise([*row, *closing])
        for side in ("left", "right")
    ]
    return TakeFigures(
        sum(move.motion_st for move in moves),
        sum(move.held for move in moves),
        sum(len(move.entered) + len(move.left) for move in moves),
        sum(one.keys != other.keys for one, other in zip(row, others, strict=True)),
    )


#: Half steps from which a change is called larger than it need be.
_WORTH_ST = 3


@dataclass(frozen=True)
class Betterment:
    """Another voicing of the slot ``at`` would make a change ``saved_st`` half steps smaller; the
    song as a whole would pay ``extra`` for it (hundredths of a half step)."""

    at: int
    voicing: Voicing
    saved_st: int
    extra: int


def betterments(song: Song, ranked: Sequence[Sequence[Alternative]]) -> list[Betterment | None]:
    """For each change what would make it clearly smaller, the greatest saving and then the
    cheapest; None where nothing listed would."""
    found: list[Betterment | None] = []
    voicings = [song.voicing(slot.index) or Voicing() for slot in song.slots]
    for before, after in pairwise(range(len(voicings))):
        now = _motion_st(voicings[before], voicings[after])
        choices = [
            Betterment(before, other.voicing, now - _motion_st(other.voicing, voicings[after]), other.extra)
            for other in ranked[before]
            if not song.locked(before)
        ]
        choices += [
            Betterment(after, other.voicing, now - _motion_st(voicings[before], other.voicing), other.extra)
            for other in ranked[after]
            if not song.locked(after)
        ]
        best = min(choices, key=lambda one: (-one.saved_st, one.extra), default=None)
        found.append(best if best is not None and best.saved_st >= _WORTH_ST else None)
    return found


def _motion_st(before: Voicing, after: Voicing) -> int:
    hands = ((before.left.keys, after.left.keys), (before.right.keys, after.right.keys))
    return sum(hand_motion(start, end).motion_st for start, end in hands)


def families(song: Song, library: Library) -> list[tuple[str, str, str]]:
    """For each slot the families in words: of the left hand's shape, of the right hand's, and of
    both together where they make one of their own."""
    words = []
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if slot.chord is None or voicing is None:
            words.append(("", "", ""))
        else:
            left, right = (
                shape_words(shape, slot.chord, song.key, library) for shape in (voicing.left, voicing.right)
            )
            words.append((left, right, pair_words(voicing, slot.chord)))
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
        voice_song(song, self._library, planner, lambda share: progress(share / 2))
        ranked = planner.alternatives(most, lambda share: progress(0.5 + share / 4))
        most_takes = max(MOST_TAKES, settings.take + 1)
        takes = voice_takes(
            song, self._library, planner, most_takes, lambda share: progress(0.75 + share / 4)
        )
        voiced = takes[min(settings.take, len(takes) - 1)]
        reasons = explain(voiced.song, self._library)
        words = families(voiced.song, self._library)
        return Solved(
            voiced, ranked, *reasons, words, betterments(voiced.song, ranked),
            [take_figures(take, takes[0]) for take in takes],
            ways_out(voiced.song, self._library),
        )  # fmt: skip


def ways_out(song: Song, library: Library) -> dict[int, list[Reduction]]:
    """By slot, how locked voicings that the hands cannot reach could be played all the same."""
    found = {}
    for place, slot in zip(places(song, library), song.slots, strict=True):
        if place.lock is not None and place.wish is not None:
            ways = reductions(place.lock, place.wish, library)
            if ways:
                found[slot.index] = ways
    return found
