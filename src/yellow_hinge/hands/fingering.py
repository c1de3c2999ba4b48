"""Which finger on which key, for a chord held at once.

Span table: R. Parncutt, J. Sloboda, E. Clarke, M. Raekallio, P. Desain, "An ergonomic
model of keyboard fingering for melodic fragments", Music Perception 14 (1997), table 1.
The table is for melodies; for chords we use its comfortable and relaxed limits.
"""

from __future__ import annotations

from functools import lru_cache
from itertools import combinations, pairwise
from operator import add, ne

from yellow_hinge.hands.geometry import is_black
from yellow_hinge.remembering import for_a_song

Fingering = tuple[int, ...]

#: (finger, finger) -> (least comfortable, least relaxed, most relaxed, most comfortable),
#: in semitones, for ascending keys from the thumb outwards.
_SPANS_ST: dict[tuple[int, int], tuple[int, int, int, int]] = {
    (1, 2): (-3, 1, 5, 8),
    (1, 3): (-2, 3, 7, 10),
    (1, 4): (-1, 5, 9, 12),
    (1, 5): (1, 7, 10, 13),
    (2, 3): (1, 1, 2, 3),
    (2, 4): (1, 3, 4, 5),
    (2, 5): (2, 5, 6, 8),
    (3, 4): (1, 1, 2, 2),
    (3, 5): (1, 3, 4, 5),
    (4, 5): (1, 1, 2, 3),
}
#: Extra cost of a finger change on a common tone, in the same units (our choice: a
#: player puts up with a slightly tight grip to keep a finger where it is).
CHANGE_COST = 2
_THUMB_ON_BLACK, _WEAK_FOURTH = 2, 1


def _pair_cost(thumbward: int, outward: int, semitones: int) -> int:
    least, easy_low, easy_high, most = _SPANS_ST[thumbward, outward]
    cost = max(0, easy_low - semitones) + max(0, semitones - easy_high)
    return cost + 4 * max(0, semitones - most) + 4 * max(0, least - semitones)


@for_a_song
@lru_cache(maxsize=65536)
def fingerings(keys: tuple[int, ...], left: bool) -> tuple[tuple[int, Fingering], ...]:
    """All fingerings of a chord with their cost, cheapest first, ties in finger order.

    ``keys`` ascend; the result names fingers in the order of the keys, 1 = thumb.
    """
    outward = tuple(-key for key in reversed(keys)) if left else keys
    ranked = []
    for fingers in combinations(range(1, 6), len(keys)):
        cost = sum(
            _pair_cost(fingers[i], fingers[j], outward[j] - outward[i])
            for i, j in combinations(range(len(keys)), 2)
        )
        if len(keys) == 1 and left:
            cost += 5 - fingers[0]  # a single bass note lies under the little finger
        cost += _WEAK_FOURTH * (4 in fingers and len(keys) < 4)
        if keys:
            thumb_key = keys[-1] if left else keys[0]
            mixed = any(not is_black(key) for key in keys)
            cost += _THUMB_ON_BLACK * (fingers[0] == 1 and is_black(thumb_key) and mixed)
        ranked.append((cost, fingers[::-1] if left else fingers))
    return tuple(sorted(ranked))


def finger_progression(chords: tuple[tuple[int, ...], ...], left: bool) -> tuple[Fingering, ...]:
    """One fingering per chord: cheapest in all, common tones keeping their finger if they can.

    Exact: a cheapest path over at most ten fingerings per chord; ties go to the first
    in the order of :func:`fingerings`, decided from the last chord backwards.
    """
    if not chords:
        return ()
    options = [fingerings(keys, left) for keys in chords]
    costs = [cost for cost, _ in options[0]]
    came_from: list[list[int]] = []
    for k in range(1, len(chords)):
        steps = [_cheapest(costs, changes) for changes in _change_costs(chords[k - 1], chords[k], left)]
        came_from.append([i for _, i in steps])
        costs = [sofar + cost for (sofar, _), (cost, _) in zip(steps, options[k], strict=True)]
    place = costs.index(min(costs))
    row = [options[-1][place][1]]
    for k in range(len(chords) - 2, -1, -1):
        place = came_from[k][place]
        row.append(options[k][place][1])
    return tuple(reversed(row))


def _cheapest(costs: list[int], changes: tuple[int, ...]) -> tuple[int, int]:
    """The least sum, and the first place where it is."""
    totals = list(map(add, costs, changes))
    least = min(totals)
    return least, totals.index(least)


@for_a_song
@lru_cache(maxsize=8192)
def _change_costs(before: tuple[int, ...], after: tuple[int, ...], left: bool) -> tuple[tuple[int, ...], ...]:
    """``[j][i]``: cost of common tones that change finger from fingering i to fingering j."""
    common = [(before.index(key), after.index(key)) for key in before if key in after]
    olds = [[fingers[i] for i, _ in common] for _, fingers in fingerings(before, left)]
    news = [[fingers[j] for _, j in common] for _, fingers in fingerings(after, left)]
    return tuple(tuple(CHANGE_COST * sum(map(ne, old, new)) for old in olds) for new in news)


#: Costs in a line, in the units of the span table (our choice): a thumb that passes under or is crossed
#: over, the same finger on another key, and a crossing that no hand does.
_PASSING, _SAME_FINGER, _TANGLED = 3, 8, 40


def line_fingers(keys: tuple[int, ...], left: bool) -> tuple[int, ...]:
    """A finger (1 = thumb) for each note of a line, one after the other: the cheapest way by the span table,
    thumbs passing where they must. Exact; ties go to the lower finger, decided from the end."""
    if not keys:
        return ()
    costs = [_alone(finger, keys[0]) for finger in range(1, 6)]
    came: list[list[int]] = []
    for before, now in pairwise(keys):
        steps = [
            min((costs[old - 1] + _step_cost(old, new, now - before, left), old - 1) for old in range(1, 6))
            for new in range(1, 6)
        ]
        came.append([place for _, place in steps])
        costs = [cost + _alone(finger, now) for finger, (cost, _) in enumerate(steps, 1)]
    place = costs.index(min(costs))
    row = [place + 1]
    for origins in reversed(came):
        place = origins[place]
        row.append(place + 1)
    return tuple(reversed(row))


def _alone(finger: int, key: int) -> int:
    return _THUMB_ON_BLACK * (finger == 1 and is_black(key)) + _WEAK_FOURTH * (finger == 4)


def _step_cost(old: int, new: int, interval_st: int, left: bool) -> int:
    outward = -interval_st if left else interval_st
    if old == new:
        return 0 if outward == 0 else _SAME_FINGER + abs(outward)
    if outward == 0:
        return CHANGE_COST
    if (new > old) == (outward > 0):
        return _pair_cost(min(old, new), max(old, new), abs(outward))
    if 1 not in (old, new) or abs(outward) > 4:
        return _TANGLED
    return _PASSING + abs(outward) - 1
