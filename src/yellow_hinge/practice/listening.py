"""What was played against what was wanted, note by note.

:func:`judged` compares one stroke with the keys that were struck for it: keys that agree first, then those of
the right name in another octave, then the others in the order of the keyboard, each with the nearest that is
missing (the crossing-free pairing of :mod:`motion.distance`). What nothing was played for is missing, what
answers to nothing is extra. A :class:`Listener` says which stroke a key was struck for, in one of three ways.
All times are seconds.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import median
from typing import Literal

from msgspec import Struct

from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.practice.strokes import Stroke

#: ``wait``: for the right notes; ``time``: with the click; ``free``: as it comes.
Way = Literal["wait", "time", "free"]
Fault = Literal["right", "missing", "extra", "wrong", "octave"]
#: A wrong key is taken for a wanted one up to so many half steps away; beyond it is extra, and that one
#: missing.
_MISTAKEN_ST = 6
#: The right name further away than this is another note.
_OCTAVES_ST = 24
#: So many of the last keys are looked at for one stroke.
_MOST_PLAYED = 60
#: So many strokes are at hand at once; a key so many half steps beside one that is wanted is a slip of the
#: hand that is drilled.
_NEAR, _BESIDE_ST = 3, 2


class Tolerance(Struct, frozen=True):
    """What still counts as in time and as together, in seconds: ``early`` and ``late`` of the beat, ``roll``
    between the first and the last note of one stroke."""

    early: float = 0.12
    late: float = 0.12
    roll: float = 0.35


class Played(Struct, frozen=True):
    """A key that was struck, and when."""

    key: int
    at: float


class Note(Struct, frozen=True):
    """One note of a verdict: the key that was wanted (None: none) and the one that was played (None:
    none)."""

    fault: Fault
    wanted: int | None
    played: int | None


class Verdict(Struct, frozen=True):
    """A stroke as it was played. ``off_s`` is how late it came in the middle (negative: early; None where
    time does not count), ``spread_s`` from its first to its last note, ``kept`` the wanted keys that were
    held on from the stroke before."""

    stroke: Stroke
    notes: tuple[Note, ...]
    off_s: float | None = None
    spread_s: float = 0.0
    kept: tuple[int, ...] = ()
    tolerance: Tolerance = Tolerance()

    @property
    def faults(self) -> tuple[Note, ...]:
        return tuple(note for note in self.notes if note.fault != "right")

    @property
    def late(self) -> bool:
        return self.off_s is not None and self.off_s > self.tolerance.late

    @property
    def early(self) -> bool:
        return self.off_s is not None and self.off_s < -self.tolerance.early

    @property
    def loose(self) -> bool:
        """Whether its notes came further apart than a roll."""
        return self.spread_s > self.tolerance.roll

    @property
    def clean(self) -> bool:
        return not (self.faults or self.late or self.early or self.loose)

    def faults_of(self, side: str) -> tuple[Note, ...]:
        """The faults of a hand, by the key that was wanted; what is extra by the nearer hand."""
        return tuple(note for note in self.faults if _side(self.stroke, note) == side)


def _side(stroke: Stroke, note: Note) -> str:
    if note.wanted is not None:
        return stroke.side_of(note.wanted)
    assert note.played is not None
    if not stroke.left or not stroke.right:
        return "right" if stroke.right else "left"
    return "left" if note.played - stroke.left[-1] <= stroke.right[0] - note.played else "right"


def judged(
    stroke: Stroke,
    played: Sequence[Played],
    kept: Sequence[int] = (),
    at: float | None = None,
    tolerance: Tolerance = Tolerance(),
) -> Verdict:
    """Compare what was struck for a stroke. ``kept`` keys were still down from before; ``at`` is when it was
    due (None: time does not count). What a hand that is free plays besides is no fault."""
    wanted, struck = set(stroke.keys), {one.key for one in played}
    right = wanted & (struck | set(kept))
    notes = [Note("right", key, key) for key in sorted(right)]
    missing, others = sorted(wanted - right), sorted(struck - wanted)
    notes += _octaves(missing, others)
    notes += _mistaken(missing, others)
    notes += [Note("missing", key, None) for key in missing]
    if not stroke.free:
        notes += [Note("extra", None, key) for key in others]
    times = [one.at for one in played]
    if stroke.free and times:  # the other hand may have struck one of the keys as well
        own = {note.played for note in notes}
        due = max((one.at for one in played if one.key in own), default=0.0) if at is None else at
        nearest: dict[int, float] = {}
        for one in played:
            if one.key in own and abs(one.at - due) < abs(nearest.get(one.key, math.inf) - due):
                nearest[one.key] = one.at
        times = list(nearest.values())
    off = median(times) - at if times and at is not None else None
    spread = max(times) - min(times) if times else 0.0
    held = tuple(sorted(right - struck))
    return Verdict(stroke, tuple(notes), off, spread, held, tolerance=tolerance)


def _octaves(missing: list[int], others: list[int]) -> list[Note]:
    """Notes of the right name in another octave; what is found is taken out of both lists."""
    notes = []
    for key in list(missing):
        same = [one for one in others if (one - key) % 12 == 0 and abs(one - key) <= _OCTAVES_ST]
        if same:
            nearest = min(same, key=lambda one: (abs(one - key), one))
            missing.remove(key)
            others.remove(nearest)
            notes.append(Note("octave", key, nearest))
    return notes


def _mistaken(missing: list[int], others: list[int]) -> list[Note]:
    """Notes beside those that were wanted; what is found is taken out of both lists."""
    notes = []
    for wanted, key in hand_motion(tuple(missing), tuple(others[:8])).pairs:
        if abs(wanted - key) <= _MISTAKEN_ST:
            missing.remove(wanted)
            others.remove(key)
            notes.append(Note("wrong", wanted, key))
    return notes


# --- which stroke a key was struck for --------------------------------------------------------


class Listener:
    """Hears one round. ``feed`` takes what is played, ``tick`` says how late it is; both give the verdicts
    that are due. ``hint`` is what is wrong so far with the stroke at hand, for who waits for the right
    notes."""

    def __init__(
        self,
        strokes: Sequence[Stroke],
        way: Way,
        seconds_per_quarter: float = 0.5,
        start: float = 0.0,
        tolerance: Tolerance = Tolerance(),
    ) -> None:
        self.strokes, self.way, self.tolerance = tuple(strokes), way, tolerance
        self.times = [start + float(stroke.at) * seconds_per_quarter for stroke in strokes]
        self.place = 0
        self.down: set[int] = set()
        self.hint: Verdict | None = None
        self._played: list[Played] = []
        self._from_before: set[int] = set()
        self._let_go = False

    @property
    def over(self) -> bool:
        return self.place >= len(self.strokes)

    @property
    def stroke(self) -> Stroke | None:
        """What is wanted now."""
        return None if self.over else self.strokes[self.place]

    def feed(self, key: int, velocity: int, at: float) -> list[Verdict]:
        """A key goes down (``velocity`` above 0) or up."""
        verdicts = self.tick(at) if self.way != "wait" else []
        if self.over:
            self._hold(key, velocity)
            return verdicts
        if self._is_free(key):
            return verdicts
        if not velocity:
            self._hold(key, 0)
            self._let_go = True
            return verdicts + (self._waited(at) if self.way == "wait" else [])
        if self.way == "time":
            verdicts += self._until(key, at)
        elif self.way == "free" and self._begins_anew(key, at):
            verdicts += self._close_free()
        if not self.over:
            self._played = [*self._played[-_MOST_PLAYED:], Played(key, at)]
        self._hold(key, velocity)
        return verdicts + (self._waited(at) if self.way == "wait" else [])

    def _is_free(self, key: int) -> bool:
        """Whether a key is the free hand's: none that a stroke at hand wants, on its side of those."""
        stroke = self.strokes[self.place]
        if not stroke.free:
            return False
        near = [k for one in self.strokes[self.place : self.place + _NEAR] for k in one.keys]
        if key in near:
            return False
        return key > max(near) if stroke.free == "right" else key < min(near)

    def tick(self, at: float) -> list[Verdict]:
        """Time passes; strokes whose time is over are judged."""
        verdicts: list[Verdict] = []
        if self.way == "time":
            while not self.over and at > self._closes(self.place):
                verdicts += self._close(self.times[self.place])
        elif self.way == "free" and self._played and at - self._played[0].at > self.tolerance.roll:
            verdicts += self._close_free()
        return verdicts

    def _hold(self, key: int, velocity: int) -> None:
        if velocity:
            self.down.add(key)
        else:
            self.down.discard(key)
            self._from_before.discard(key)

    def _close(self, at: float | None) -> list[Verdict]:
        """Judge the stroke at hand and go on to the next one."""
        stroke = self.strokes[self.place]
        verdict = judged(stroke, self._played, tuple(self._from_before), at, self.tolerance)
        self.place += 1
        self._from_before = set(self.down)
        self._played, self._let_go, self.hint = [], False, None
        return [verdict]

    # --- waiting for the right notes ---

    def _waited(self, at: float) -> list[Verdict]:
        stroke = self.strokes[self.place]
        wanted = set(stroke.keys)
        struck = {played.key for played in self._played}
        recent = {played.key for played in self._played if at - played.at <= self.tolerance.roll}
        if wanted <= self.down | recent and (struck & wanted or self._only_leaves(wanted)):
            return self._close(None)
        wrong = struck - wanted if not stroke.free else {k for k in struck - wanted if self._slips(k, stroke)}
        self.hint = judged(stroke, self._played, tuple(self.down), None, self.tolerance) if wrong else None
        return []

    def _slips(self, key: int, stroke: Stroke) -> bool:
        """Whether a key is a slip of the hand that is drilled: beside one that it still lacks."""
        lacks = set(stroke.keys) - self.down
        return any(abs(key - lack) <= _BESIDE_ST for lack in lacks)

    def _only_leaves(self, wanted: set[int]) -> bool:
        """Whether all that this stroke asks for is to let something go, and that was done."""
        before = set(self.strokes[self.place - 1].keys) if self.place else set()
        return wanted < before and self._let_go and not self.down & (before - wanted)

    # --- with the click ---

    def _closes(self, place: int) -> float:
        """When nothing more is struck for a stroke: half way to the next one, or when it is too late
        anyway."""
        after = self.times[place + 1] if place + 1 < len(self.times) else math.inf
        time = self.times[place]
        return min(time + (after - time) / 2, time + 3 * self.tolerance.late + self.tolerance.roll)

    def _until(self, key: int, at: float) -> list[Verdict]:
        """Close the stroke at hand where a key is clearly struck for the next one, too early: only that one
        wants it, and this one has all it wants."""
        stroke = self.strokes[self.place]
        have = {played.key for played in self._played} | self._from_before
        if self.place + 1 < len(self.strokes) and set(stroke.keys) <= have and key not in stroke.keys:
            following = self.strokes[self.place + 1]
            gap = self.times[self.place + 1] - self.times[self.place]
            if key in following.keys and at > self.times[self.place] + gap / 4:
                return self._close(self.times[self.place])
        return []

    # --- as it comes ---

    def _begins_anew(self, key: int, at: float) -> bool:
        first = self._played[0].at if self._played else at
        return at - first > self.tolerance.roll or any(played.key == key for played in self._played)

    def _close_free(self) -> list[Verdict]:
        """What was struck together is taken for the nearest of the next few strokes that fits best."""
        near = range(self.place, min(self.place + _NEAR, len(self.strokes)))
        if self._others_play(near):
            self._played = []
            return []
        self.place = min(near, key=lambda k: (self._cost(k), k))
        return self._close(None)

    def _others_play(self, near: range) -> bool:
        """Whether what was struck together is the free hand's: less than half of any stroke at hand."""
        stroke = self.strokes[self.place]
        struck = {played.key for played in self._played}
        fits = max(len(struck & set(self.strokes[place].keys)) for place in near)
        return bool(stroke.free) and 2 * fits < len(stroke.keys) and len(struck) < len(stroke.keys)

    def _cost(self, place: int) -> int:
        struck, wanted = {played.key for played in self._played}, set(self.strokes[place].keys)
        return len(struck ^ (wanted - self._from_before)) + len(struck - wanted) + (place - self.place)

    def rest(self) -> list[Verdict]:
        """The round is over: what was not played is missing; for who plays freely, what was played counts."""
        verdicts: list[Verdict] = []
        if self.way == "free":
            return self._close_free() if self._played and not self.over else verdicts
        while not self.over and self.way == "time":
            verdicts += self._close(self.times[self.place])
        return verdicts


# --- latency -----------------------------------------------------------------------------------

#: Strokes it takes to measure, the most that is believed, and how much they may differ, in seconds.
LATENCY_STROKES, _MOST_LATENCY_S, _MOST_SPREAD_S = 8, 0.4, 0.06


def latency(clicks: Sequence[float], struck: Sequence[float]) -> float | None:
    """How much later than the click a player is heard who plays with it, in seconds: the median. None where
    there is too little to go by, or it is too uneven to be believed."""
    offs = []
    for at in struck:
        nearest = min(clicks, key=lambda click: abs(click - at), default=None)
        if nearest is not None and abs(nearest - at) <= _MOST_LATENCY_S:
            offs.append(at - nearest)
    if len(offs) < LATENCY_STROKES:
        return None
    middle = median(offs)
    spread = median(abs(off - middle) for off in offs)
    return middle if spread <= _MOST_SPREAD_S else None


def hands_that_slipped(verdict: Verdict) -> tuple[str, ...]:
    """The hands with faults in notes."""
    return tuple(side for side in SIDES if verdict.faults_of(side))
