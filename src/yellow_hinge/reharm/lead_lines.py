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
from yellow_hinge.theory.tension import FitKind, fit

#: Kinds of lines, in words.
KINDS: dict[str, str] = {
    "guide": "guide tones, one to a chord", "thirds": "aiming at the next third",
    "approach": "steps into chord tones", "scale": "scale runs between targets",
    "run": "up-and-down runs", "riff": "a riff that fits each chord", "tune": "the tune through the chord",
}  # fmt: skip
#: Notes to a count, in words.
DENSITIES: dict[int, str] = {1: "one note to a count", 2: "two notes to a count", 4: "four notes to a count"}
_TARGETS = ("3", "b3", "11", "b7", "7", "bb7", "6")
#: How dear it is, in half steps: to stay on a note, to go back to
#: the one before, to come to a target from further than a step, each half
#: step of a leap above a third, and chance.
_STAYS, _BACK, _FAR_FROM_TARGET, _LEAPS, _CHANCE = 14, 5, 4, 2, 1.5
#: And to reach a target the way the bass goes.
_SIMILAR = 5


class LineSpan(Struct, frozen=True):
    """A chord with how long it lasts (beats), how many quarters a beat has, its local key, the keys that the
    other hand plays, and the tune over it (its beats from the chord's beginning). ``bass`` is the lowest key
    that sounds (None: none), ``scale`` the notes of a scale for the passage (none: the chord's own)."""

    chord: ChordSymbol | None
    beats: Fraction
    key: Key
    others: frozenset[int] = frozenset()
    tune: tuple[NoteOver, ...] = ()
    start_quarters: Fraction = Fraction(0)
    quarters_per_beat: Fraction = Fraction(1)
    bass: int | None = None
    scale: frozenset[int] = frozenset()


class LineNote(Struct, frozen=True):
    """A note of a line over a chord: place and length in beats, and its key."""

    at_beats: Fraction
    beats: Fraction
    key: int


def propose(
    spans: Sequence[LineSpan], kind: str, density: int, low: int, high: int, *, start: int | None, seed: int
) -> list[tuple[LineNote, ...]]:
    """A line for each span, within ``low``..``high``. ``start`` is the key it begins near (None: the middle);
    an empty tuple over "no chord"."""
    chance = random.Random(f"{kind} {density} {seed}")
    near = (low + high) // 2 if start is None else start
    if kind == "run":
        return _runs(spans, density, low, high, near)
    if kind == "riff":
        return _riffs(spans, density, low, high, near, chance=chance)
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
        elif kind == "approach":
            found.append(_approached(span, density, goal, after, (low, high), chance=chance))
        else:
            keys = _pool(span, following, kind, low, high)
            found.append(_run(span, density, goal, after, keys, chance=chance))
    return found


def _goals(
    spans: Sequence[LineSpan], low: int, high: int, near: int, chance: random.Random
) -> list[int | None]:
    """The key on which each chord is reached: a third or a seventh, near the one before and rather against
    the way of the bass; of two that are about as good chance decides."""
    goals: list[int | None] = []
    bass: int | None = None
    for span in spans:
        keys = [] if span.chord is None else _with_degrees(span.chord, _TARGETS, low, high)
        keys = [key for key in keys if key not in span.others] or keys
        if not keys or span.chord is None:
            keys = [] if span.chord is None else _with_degrees(span.chord, span.chord.degrees, low, high)
        if not keys:
            goals.append(None)
            continue
        prices = {key: abs(key - near) + _along(bass, span.bass, near, key) for key in keys}
        least = min(prices.values())
        near = chance.choice([key for key in keys if prices[key] <= least + 1])
        bass = span.bass if span.bass is not None else bass
        goals.append(near)
    return goals


def _along(bass: int | None, new_bass: int | None, near: int, key: int) -> int:
    """The price of going the way of the bass, in half steps."""
    if bass is None or new_bass is None:
        return 0
    return _SIMILAR * ((new_bass - bass) * (key - near) > 0)


# --- chord tones, and steps into them ---


def _approached(
    span: LineSpan,
    density: int,
    goal: int,
    after: int | None,
    bounds: tuple[int, int],
    *,
    chance: random.Random,
) -> tuple[LineNote, ...]:
    """A chord tone on every beat, on the way from one target to the next; between two beats a step into the
    second one: of the scale or of a half step, as chance has it. One note to a count has its step at the
    end."""
    assert span.chord is not None
    tones = np.array(_free(_with_degrees(span.chord, span.chord.degrees, *bounds), span))
    beats = max(1, int(span.beats))
    jitter = np.array([chance.uniform(0, _CHANCE) for _ in tones])
    strong = _walk(goal, after, tones, beats, jitter)
    scale = span.scale or scale_for(span.chord, None, span.key).pitch_classes
    keys: list[int] = []
    for place, key in enumerate(strong):
        following = strong[place + 1] if place + 1 < len(strong) else after
        keys += [key, *_between(key, following, density - 1, scale, chance)]
    if density == 1 and after is not None and len(keys) > 1:
        keys[-1] = _step_into(after, keys[-2], scale, chance)
    return _in_time(keys, density, span)


def _between(
    key: int, following: int | None, count: int, scale: frozenset[int], chance: random.Random
) -> list[int]:
    """So many notes between two chord tones, the last of them a step away from the second."""
    if not count:
        return []
    goal = key if following is None else following
    last = _step_into(goal, key, scale, chance)
    row, at = [], key
    for left in range(count - 1, 0, -1):
        near = [k for k in range(at - 4, at + 5) if k % 12 in scale and k != at and (left > 1 or k != last)]
        at = min(near, key=lambda k, left=left, at=at: (abs(abs(k - last) - 2 * left), abs(k - at), k))  # type: ignore[misc]
        row.append(at)
    return [*row, last]


def _step_into(goal: int, before: int, scale: frozenset[int], chance: random.Random) -> int:
    """A note a step from a goal, none that was just played: from the side where the line comes from, by half
    step or by the scale."""
    side = -1 if before <= goal else 1
    within = next((k for k in (goal + side, goal + 2 * side) if k % 12 in scale), goal + side)
    row = [goal + side, within, goal - side]
    chance.shuffle(row)
    return next((key for key in row if key not in (before, goal)), goal + side)


def _free(keys: list[int], span: LineSpan) -> list[int]:
    return [key for key in keys if key not in span.others] or keys


def _in_time(keys: Sequence[int], density: int, span: LineSpan) -> tuple[LineNote, ...]:
    """Keys at even distances; the last one lasts to the end of the chord."""
    step, notes = Fraction(1, density), []
    for place, key in enumerate(keys):
        at = step * place
        if at < span.beats:
            notes.append(LineNote(at, min(step, span.beats - at), key))
    if notes:
        notes[-1] = LineNote(notes[-1].at_beats, span.beats - notes[-1].at_beats, notes[-1].key)
    return tuple(notes)


# --- runs up and down, and riffs ---


def _scale_keys(span: LineSpan, low: int, high: int) -> list[int]:
    assert span.chord is not None
    scale = span.scale or scale_for(span.chord, None, span.key).pitch_classes
    return [key for key in range(low, high + 1) if key % 12 in scale]


def _sits(span: LineSpan, key: int) -> bool:
    """Whether a key may stand on a strong count of a chord."""
    assert span.chord is not None
    return fit(key % 12, span.chord, span.key).kind != FitKind.CLASH


def _runs(
    spans: Sequence[LineSpan], density: int, low: int, high: int, near: int
) -> list[tuple[LineNote, ...]]:
    """Up to the top of the range and down to its bottom, step by step through the scale, on over the chords;
    a note that would rub on a beat gives way to the next one."""
    found: list[tuple[LineNote, ...]] = []
    at, way, before = near, 1, -1
    for span in spans:
        if span.chord is None:
            found.append(())
            continue
        pool, keys = _scale_keys(span, low, high), list[int]()
        for place in range(max(1, int(span.beats * density))):
            for _ in range(len(pool)):
                beyond = [key for key in pool if (key - at) * way > 0]
                if not beyond:
                    way = -way
                    continue
                at = min(beyond) if way > 0 else max(beyond)
                if at != before and (place % density or _sits(span, at)):
                    break
            keys.append(at)
            before = at
        found.append(_in_time(keys, density, span))
    return found


#: Rhythms of riffs in beats: (place, length) within four beats; a shorter chord has the first of them.
_RIFFS = (
    ((0, "1/2"), ("1/2", "1/2"), (1, 1), ("5/2", "1/2"), (3, 1)),
    ((0, 1), ("3/2", "1/2"), (2, "1/2"), ("5/2", "3/2")),
    (("1/2", "1/2"), (1, "1/2"), ("3/2", "1/2"), (2, 2)),
    ((0, "3/2"), ("3/2", "1/2"), (2, 1), ("7/2", "1/2")),
)
#: Steps of the scale from one note of a riff to the next that are made.
_RIFF_STEPS = (-2, -1, -1, 1, 1, 2)


def _riffs(
    spans: Sequence[LineSpan], density: int, low: int, high: int, near: int, *, chance: random.Random
) -> list[tuple[LineNote, ...]]:
    """One figure over every chord, in the scale: the same notes where they fit, each moved by a step where it
    would rub. ``density`` 4 plays it twice as fast and twice."""
    rhythm = [(Fraction(at), Fraction(lasts)) for at, lasts in chance.choice(_RIFFS)]
    steps = [0, *(chance.choice(_RIFF_STEPS) for _ in rhythm[1:])]
    fast = 2 if density > 2 else 1
    found: list[tuple[LineNote, ...]] = []
    for span in spans:
        if span.chord is None:
            found.append(())
            continue
        pool = _scale_keys(span, low, high)
        begin = min(range(len(pool)), key=lambda k: (not _sits(span, pool[k]), abs(pool[k] - near)))
        row: list[LineNote] = []
        for again in range(fast * max(1, -(-int(span.beats) // 4))):
            place = begin
            for (at, lasts), step in zip(rhythm, steps, strict=True):
                place = max(0, min(len(pool) - 1, place + step))
                where = (at + 4 * again) / fast
                key = pool[place]
                if where.denominator == 1 and not _sits(span, key):
                    near_keys = [k for k in pool if _sits(span, k)] or pool
                    key = min(near_keys, key=lambda k, own=key: (abs(k - own), k))  # type: ignore[misc]
                if where < span.beats and key not in span.others:
                    row.append(LineNote(where, min(lasts / fast, span.beats - where), key))
        found.append(tuple(row))
    return found


def _with_degrees(chord: ChordSymbol, labels: Sequence[str], low: int, high: int) -> list[int]:
    root = chord.root.pitch_class
    wanted = {(root + degree_semitones(label)) % 12 for label in labels if label in chord.degrees}
    return [key for key in range(low, high + 1) if key % 12 in wanted]


def _pool(span: LineSpan, following: ChordSymbol | None, kind: str, low: int, high: int) -> list[int]:
    """The keys a run may use."""
    assert span.chord is not None
    if kind == "thirds":
        wanted = {
            (span.chord.root.pitch_class + degree_semitones(degree)) % 12 for degree in span.chord.degrees
        }
    else:
        wanted = set(span.scale or scale_for(span.chord, following, span.key).pitch_classes)
    found = [key for key in range(low, high + 1) if key % 12 in wanted]
    return [key for key in found if key not in span.others] or found


def _run(
    span: LineSpan, density: int, goal: int, after: int | None, keys: list[int], *, chance: random.Random
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
    notes: list[LineNote] = []
    for over in span.tune:
        at = (over.start_quarters - span.start_quarters) / span.quarters_per_beat
        lasts = over.quarters / span.quarters_per_beat
        below = [key for key in tones if over.key - 12 <= key < over.key - 1 and key not in span.others]
        turn = [*reversed(below[-3:]), *below[-2:-1]] or [over.key]
        count = max(1, int(lasts / step))
        for k in range(count):
            key = over.key if k == 0 else turn[(k - 1) % len(turn)]
            length = lasts - step * k if k == count - 1 else step
            notes.append(LineNote(at + step * k, length, key))
    return tuple(notes)
