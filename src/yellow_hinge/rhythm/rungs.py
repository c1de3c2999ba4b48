"""Places in a grip: its rungs, the lowest is 0. What a stroke strikes of a grip of any size, and the other
way round."""

from __future__ import annotations

from collections.abc import Iterable

#: Words for single rungs from the bottom and from the top.
_FROM_BOTTOM = {"bottom": 0, "b2": 1, "b3": 2, "b4": 3}
_FROM_TOP = {"top": 0, "t2": 1, "t3": 2, "t4": 3}


def _folded(step: int, size: int) -> int:
    """The rung so many steps up; a grip of fewer is walked down again: 1 2 3 2 1."""
    if size < 2:
        return 0
    place = step % (2 * size - 2)
    return place if place < size else 2 * size - 2 - place


def rungs_of(what: str, size: int) -> frozenset[int]:
    """The rungs of a grip of so many notes that a stroke strikes; never none of those in the grip, and none
    for what lies outside it."""
    if not size:
        return frozenset()
    if what in _FROM_BOTTOM:
        return frozenset({_folded(_FROM_BOTTOM[what], size)})
    if what in _FROM_TOP:
        return frozenset({size - 1 - _folded(_FROM_TOP[what], size)})
    every = range(size)
    rungs: Iterable[int] = {
        "all": every, "upper": every[1:] or every, "lower": every[:-1] or every,
        "inner": every[1:-1] or every[1:] or every, "outer": {0, size - 1}, "octaves": every[:1],
    }.get(what, ())  # fmt: skip
    return frozenset(rungs)


def what_strikes(rungs: frozenset[int], size: int) -> tuple[str, ...]:
    """The words for a set of rungs: one where there is one, else one for each rung."""
    for what in ("all", "bottom", "top", "upper", "lower", "outer"):
        if rungs and rungs == rungs_of(what, size):
            return (what,)
    names = {rung: what for what, rung in _FROM_BOTTOM.items()}
    return tuple("top" if rung == size - 1 else names.get(rung, "top") for rung in sorted(rungs))
