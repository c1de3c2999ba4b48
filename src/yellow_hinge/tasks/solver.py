"""A solver that keeps a song solved: its row, the ranks of its voicings, and the reasons."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.effort import row_terms
from yellow_hinge.motion.explain import Term
from yellow_hinge.motion.figures import Effort, Figures, figures, half_steps
from yellow_hinge.motion.plan import Alternative, Planner
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.problem import places
from yellow_hinge.tasks.voice_song import Voiced, voice_song, voice_takes
from yellow_hinge.voicing.naming import pair_words, shape_words
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.reductions import Reduction, reductions
from yellow_hinge.voicing.shape import Voicing

Progress = Callable[[float], bool]
#: Takes that are listed beside the one in use.
MOST_TAKES = 4


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
    effort: Effort
    reductions: dict[int, list[Reduction]]


@dataclass(frozen=True)
class TakeFigures:
    """A take in figures: its effort, half steps, notes held, notes that come or go, chords voiced
    otherwise than in the first take, and in words what it trades against the first."""

    effort: Effort
    motion_st: int
    held: int
    changing: int
    differ: int
    trade: str


def take_figures(take: Voiced, first: Voiced) -> TakeFigures:
    """A take's figures against the first take's."""
    row, others = take.answer.voicings, first.answer.voicings
    loop = take.song.settings.loop
    own, base = figures(row, loop), figures(others, loop)
    differ = sum(one.keys != other.keys for one, other in zip(row, others, strict=True))
    trade = "" if take is first else trade_words(own, base, row, others)
    return TakeFigures(take.effort, own.motion_st, own.held, own.changing, differ, trade)


#: Half steps, in the mean, from which a line is said to lie higher or lower; notes in the mean from
#: which hands are said to be fuller.
_HIGHER_ST, _FULLER = 1.5, 0.3


def trade_words(own: Figures, base: Figures, row: Sequence[Voicing], others: Sequence[Voicing]) -> str:
    """What a row gives and takes against another one: "6 half steps fewer, the bass lies higher"."""
    more = own.motion_st - base.motion_st
    parts = [] if not more else [f"{half_steps(abs(more))} {'more' if more > 0 else 'fewer'}"]
    come = own.changing - base.changing
    if come:
        parts.append(f"{abs(come)} {'more' if come > 0 else 'fewer'} coming or going")
    for words, end in (("the bass lies", 0), ("the top lies", -1)):
        apart = _mean([v.keys[end] for v in row if v.keys]) - _mean([v.keys[end] for v in others if v.keys])
        if abs(apart) >= _HIGHER_ST:
            parts.append(f"{words} {'higher' if apart > 0 else 'lower'}")
    fuller = _mean([len(v.keys) for v in row]) - _mean([len(v.keys) for v in others])
    if abs(fuller) >= _FULLER:
        parts.append("fuller chords" if fuller > 0 else "thinner chords")
    return ", ".join(parts) or "the same figures in other grips"


def _mean(numbers: Sequence[int]) -> float:
    return sum(numbers) / len(numbers) if numbers else 0.0


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
        answer = voiced.answer
        reasons = row_terms(answer.wishes, answer.voicings, settings.loop)
        words = families(voiced.song, self._library)
        return Solved(
            voiced, ranked, *reasons, words, betterments(voiced.song, ranked),
            [take_figures(take, takes[0]) for take in takes], voiced.effort,
            ways_out(voiced.song, self._library),
        )  # fmt: skip


def ways_out(song: Song, library: Library) -> dict[int, list[Reduction]]:
    """By slot, how locked voicings that the hands cannot reach could be played all the same."""
    found = {}
    for place, slot in zip(places(song, library), song.slots, strict=True):
        if place.lock is not None and place.wish is not None:
            ways = reductions(place.lock, place.wish)
            if ways:
                found[slot.index] = ways
    return found
