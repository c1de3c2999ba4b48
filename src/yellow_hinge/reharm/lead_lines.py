"""Lines of one's own over the chords: guide tones, chord tones that aim at the next third, scale runs between
targets, the tune broken through the chord.

A line is the cheapest walk over the keys of a range: small steps, no note twice, and into each chord's target
from a step away. Chance, where there is some, comes from a seed: the same seed gives the same line.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from fractions import Fraction

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.reharm.lines import scale_for
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import degree_semitones

#: Kinds of lines, in words.
KINDS: dict[str, str] = {
    "guide": "guide tones, one to a chord", "thirds": "aiming at the next third",
    "scale": "scale runs between targets", "tune": "the tune through the chord",
}  # fmt: skip
#: Notes to a count, in words.
DENSITIES: dict[int, str] = {1: "one note to a count", 2: "two notes to a count", 4: "four notes to a count"}
_TARGETS = ("3", "b3", "11", "b7", "7", "bb7", "6")
#: How dear it is, in half steps: to stay on a note, to go back to
#: the one before, to come to a target from further than a step, each half
#: step of a leap above a third, and chance.
_STAYS, _BACK, _FAR_FROM_TARGET, _LEAPS, _CHANCE = 14, 5, 4, 2, 1.5


class LineSpan(Struct, frozen=True):
    """A chord with how long it lasts (beats), how many quarters a beat has, its local key, the keys that the
    other hand plays, and the tune over it (its beats from the chord's beginning)."""

    chord: ChordSymbol | None
    beats: Fraction
    key: Key
    others: frozenset[int] = frozenset()
    tune: tuple[NoteOver, ...] = ()
    start_quarters: Fraction = Fraction(0)
    quarters_per_beat: Fraction = Fraction(1)


class LineNote(Struct, frozen=True):
    """A note of a line over a chord: place and length in beats, and its key."""

    at_beats: Fraction
    beats: Fraction
    key: int


def propose(
    spans: Sequence[LineSpan], kind: str, density: int, low: int, high: int, start: int | None, seed: int
) -> list[tuple[LineNote, ...]]:
    """A line for each span, within ``low``..``high``. ``start`` is the key it begins near (None: the middle);
    an empty tuple over "no chord"."""
    chance = random.Random(f"{kind} {density} {seed}")
    near = (low + high) // 2 if start is None else start
    goals = _goals(spans, low, high, near, chance)
    found: list[tuple[LineNote, ...]] = []
    for place, span in enumerate(spans):
        goal = goals[place]
        if span.chord is None or goal is None:
            found.append(())
            continue
        after = next((one for one in goals[place + 1 : place + 2] if one is not None), None)
        following = spans[place + 1].chord if place + 1 < len(spans) else None
        if kind == "guide":
            found.append((LineNote(Fraction(0), span.beats, goal),))
        elif kind == "tune":
            found.append(_broken_tune(span, density, low, high))
        else:
            keys = _pool(span, following, kind, low, high)
            found.append(_run(span, density, goal, after, keys, chance))
    return found


def _goals(
    spans: Sequence[LineSpan], low: int, high: int, near: int, chance: random.Random
) -> list[int | None]:
    """The key on which each chord is reached: a third or a seventh, the nearest to the one before; of two
    that are about as near chance decides."""
    found: list[int | None] = []
    for span in spans:
        keys = [] if span.chord is None else _with_degrees(span.chord, _TARGETS, low, high)
        keys = [key for key in keys if key not in span.others] or keys
        if not keys or span.chord is None:
            keys = [] if span.chord is None else _with_degrees(span.chord, span.chord.degrees, low, high)
        if not keys:
            found.append(None)
            continue
        at = near
        least = min(abs(key - at) for key in keys)
        near = chance.choice([key for key in keys if abs(key - at) <= least + 1])
        found.append(near)
    return found


def _with_degrees(chord: ChordSymbol, labels: Sequence[str], low: int, high: int) -> list[int]:
    root = chord.root.pitch_class
    wanted = {(root + degree_semitones(label)) % 12 for label in labels if label in chord.degrees}
    return [key for key in range(low, high + 1) if key % 12 in wanted]


def _pool(span: LineSpan, following: ChordSymbol | None, kind: str, low: int, high: int) -> list[int]:
    """The keys a run may use."""
    assert span.chord is not None
    if kind == "thirds":
        wanted = {(span.chord.root.pitch_class + degree_semitones(one)) % 12 for one in span.chord.degrees}
    else:
        wanted = set(scale_for(span.chord, following, span.key).pitch_classes)
    found = [key for key in range(low, high + 1) if key % 12 in wanted]
    return [key for key in found if key not in span.others] or found


def _run(
    span: LineSpan, density: int, goal: int, after: int | None, keys: list[int], chance: random.Random
) -> tuple[LineNote, ...]:
    """From a target to the next one: the cheapest walk over the keys."""
    step = Fraction(1, density)
    count = max(1, int(span.beats / step))
    jitter = np.array([chance.uniform(0, _CHANCE) for _ in keys])
    row = _walk(goal, after, np.array(keys), count, jitter)
    lasts = [step] * (count - 1) + [span.beats - step * (count - 1)]
    return tuple(
        LineNote(step * k, length, key) for k, (key, length) in enumerate(zip(row, lasts, strict=True))
    )


def _walk(
    goal: int, after: int | None, keys: npt.NDArray[np.int64], count: int, jitter: npt.NDArray[np.float64]
) -> list[int]:
    """``count`` keys that begin on a goal and come to the next one by step. ``keys`` and ``jitter`` (n,); the
    cost of a walk by its last two keys is (n, n), [the one before, the last]."""
    if count == 1:
        return [goal]
    steps = _steps(keys[:, None], keys[None, :]) + jitter[None, :]
    back = np.where(np.eye(len(keys), dtype=bool), _BACK, 0.0) + _turns(keys)
    costs = np.full((len(keys), len(keys)), np.inf)
    first = _steps(np.array([goal]), keys) + jitter
    start = int(np.argmin(np.abs(keys - goal)))
    costs[start, :] = first
    came: list[npt.NDArray[np.intp]] = []
    for _ in range(count - 2):
        every = costs[:, :, None] + back[:, None, :]  # [before, now, next]: going back is dear
        came.append(every.argmin(axis=0))
        costs = every.min(axis=0) + steps
    ends = costs + (0.0 if after is None else _arrivals(keys, after)[None, :])
    one, last = np.unravel_index(int(ends.argmin()), ends.shape)
    row = [int(last), int(one)]
    for origins in reversed(came):
        row.append(int(origins[row[-1], row[-2]]))
    return [goal, *(int(keys[k]) for k in reversed(row[:-1]))]


def _steps(old: npt.NDArray[np.int64], new: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
    apart = np.abs(new - old)
    return np.where(apart == 0, _STAYS, apart / 2 + _LEAPS * np.maximum(0, apart - 4))


def _turns(keys: npt.NDArray[np.int64]) -> npt.NDArray[np.float64]:
    """[the one before, the next]: a line that gets nowhere in two steps is dear."""
    return np.where(np.abs(keys[:, None] - keys[None, :]) <= 1, _BACK / 2, 0.0)


def _arrivals(keys: npt.NDArray[np.int64], goal: int) -> npt.NDArray[np.float64]:
    apart = np.abs(keys - goal)
    return np.where(apart == 0, _STAYS, np.where(apart <= 2, 0, _FAR_FROM_TARGET + 2 * (apart - 2)))


def _broken_tune(span: LineSpan, density: int, low: int, high: int) -> tuple[LineNote, ...]:
    """The tune's notes where they are, and below each of them, while it lasts, chord tones on their way
    down and up."""
    assert span.chord is not None
    step = Fraction(1, density)
    tones = _with_degrees(span.chord, span.chord.degrees, low, high)
    found: list[LineNote] = []
    for over in span.tune:
        at = (over.start_quarters - span.start_quarters) / span.quarters_per_beat
        lasts = over.quarters / span.quarters_per_beat
        below = [key for key in tones if over.key - 12 <= key < over.key - 1 and key not in span.others]
        turn = [*reversed(below[-3:]), *below[-2:-1]] or [over.key]
        count = max(1, int(lasts / step))
        for k in range(count):
            key = over.key if k == 0 else turn[(k - 1) % len(turn)]
            length = lasts - step * k if k == count - 1 else step
            found.append(LineNote(at + step * k, length, key))
    return tuple(found)
