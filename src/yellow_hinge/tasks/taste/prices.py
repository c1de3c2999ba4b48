"""The nearest prices to ours under which what a player chose is what costs least.

Structured learning with an exact oracle: rows that the player did not choose are rivals, found by the search
itself under the prices so far, and the prices move until every chosen row wins by a margin, with slack
(I. Tsochantaridis et al., "Large margin methods for structured and interdependent output variables", 2005).
Prices are shares of ours; they are held near 1 by ``r - 1 - log r``, which is convex and, near 1, half of the
squared logarithm. What follows is a convex problem in as many numbers as there are prices.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.motion.counts import NAMES
from yellow_hinge.voicing.own_prices import LEAST_SHARE, MOST_SHARE

#: By how much, in half steps, what was chosen is to be cheaper than what was not.
MARGIN = 0.15
#: A share that is nearer to 1 is ours; and how many steps the search for shares may take.
_SAME, _MOST_STEPS = 0.01, 60
#: Differences beyond this are one large reason, not ten small ones: half steps.
_LARGE = 12.0
#: What falls short by more than this counts by its distance, no longer by its square: a slip pulls no more
#: than a choice does. Half steps.
FAR = 1.0
_PLACE = {name: place for place, name in enumerate(NAMES)}
Shares = Mapping[str, float]
Vector = npt.NDArray[np.float64]


class Pair(Struct, frozen=True):
    """Something chosen rather than something else: by how much more the other one pays of each price, in
    half steps at our prices, and which shapes it has more of. In words: the ``song``, ``where`` in it, and
    the notes that it ``took`` and those that stood ``instead`` (empty where it is more than one chord)."""

    more: Mapping[str, float]
    shapes: Mapping[str, int]
    song: str = ""
    where: str = ""
    took: str = ""
    instead: str = ""

    def vector(self, places: Mapping[str, int], per_place: float) -> Vector:
        """The same as numbers, where the shapes stand in another order; ``per_place`` is our price of one
        place down the list, in half steps."""
        found = np.zeros(len(NAMES))
        for name, value in self.more.items():
            found[_PLACE[name]] = value
        found[_PLACE["taste"]] = per_place * sum(
            count * places.get(shape, 0) for shape, count in self.shapes.items()
        )
        size = float(np.abs(found).sum())
        return found * min(1.0, _LARGE / size) if size else found


def vectors(pairs: Sequence[Pair], places: Mapping[str, int], per_place: float) -> Vector:
    """(pairs, prices): all of them."""
    found = [pair.vector(places, per_place) for pair in pairs]
    return np.array(found).reshape(len(found), len(NAMES))


def held_out_loss(rows: Vector, shares: Shares) -> float:
    """How far pairs that nothing was learnt from fall short of their margin, in the mean."""
    all_shares = np.array([shares.get(name, 1.0) for name in NAMES])
    return float(np.maximum(0.0, MARGIN - rows @ all_shares).sum())


def nearest_shares(rows: Vector, boldness: float) -> dict[str, float]:
    """The share of ours that each price gets; those that stay at 1 are left out. ``rows``: what was not
    chosen pays so much more of each price (pairs, prices). ``boldness``: how much a pair counts against
    staying where we are. Deterministic."""
    if not len(rows):
        return {}
    used = np.flatnonzero(np.abs(rows).sum(axis=0) > 0)
    found = _least(rows[:, used], boldness)
    return {
        NAMES[place]: round(float(share), 3)
        for place, share in zip(used, found, strict=True)
        if abs(share - 1) > _SAME
    }


def _least(rows: Vector, boldness: float) -> Vector:
    """The shares with the least loss: a projected Newton method (D. Bertsekas, 1982), which a convex problem
    of so few numbers ends in a few steps; what falls far short pulls with its weight of P. Huber's loss
    ("Robust estimation of a location parameter", 1964)."""
    shares = np.ones(rows.shape[1])
    for _ in range(_MOST_STEPS):
        short = np.maximum(0.0, MARGIN - rows @ shares)
        pull = np.minimum(short, FAR)
        near = rows[short > 0] * np.sqrt(pull[short > 0] / short[short > 0])[:, None]
        slope = 1 - 1 / shares - 2 * boldness * (pull @ rows)
        free = ~(((shares <= LEAST_SHARE) & (slope > 0)) | ((shares >= MOST_SHARE) & (slope < 0)))
        if not free.any():
            break
        curve = np.diag(1 / shares[free] ** 2) + 2 * boldness * near[:, free].T @ near[:, free]
        step = np.zeros_like(shares)
        step[free] = np.linalg.solve(curve, slope[free])
        shares, before = _shorter(rows, shares, step, boldness), shares
        if np.abs(shares - before).max(initial=0.0) < _SAME / 10:
            break
    return shares


def _loss(rows: Vector, shares: Vector, boldness: float) -> float:
    short = np.maximum(0.0, MARGIN - rows @ shares)
    pull = np.minimum(short, FAR)
    return float((shares - 1 - np.log(shares)).sum() + boldness * (pull * (2 * short - pull)).sum())


def _shorter(rows: Vector, shares: Vector, step: Vector, boldness: float) -> Vector:
    """As much of a step, within the bounds, as makes the loss less."""
    before = _loss(rows, shares, boldness)
    for halvings in range(12):
        moved = np.clip(shares - step / 2**halvings, LEAST_SHARE, MOST_SHARE)
        if _loss(rows, moved, boldness) < before:
            return np.asarray(moved)
    return shares
