"""Whether two voicings sound alike, so that a player would call them the same."""

from __future__ import annotations

import numpy as np

from yellow_hinge.lattice.kernel import Costs
from yellow_hinge.voicing.candidates import Shapes
from yellow_hinge.voicing.shape import Voicing


def sounds_alike(one: Voicing, other: Voicing) -> bool:
    """Whether two voicings have the same top note and at most one note exchanged."""
    if not one.keys or not other.keys:
        return one.keys == other.keys
    different = len(set(one.keys) ^ set(other.keys))
    return one.keys[-1] == other.keys[-1] and different <= 2


def sounds_like(shapes: Shapes, voicing: Voicing) -> Costs:
    """(L, R) int32: 1 where a pair sounds like ``voicing``, as :func:`sounds_alike`."""
    if not voicing.keys or not all(shape.keys for shape in (*shapes.left, *shapes.right)):
        return np.full((len(shapes.left), len(shapes.right)), not voicing.keys, dtype=np.int32)
    sounding = set(voicing.keys)
    shared, count = (
        [np.array([measure(shape.keys) for shape in hand]) for hand in (shapes.left, shapes.right)]
        for measure in (lambda keys: len(sounding.intersection(keys)), len)
    )
    different = len(sounding) + np.add.outer(*count) - 2 * np.add.outer(*shared)
    tops = np.array([shape.keys[-1] for shape in shapes.right])
    alike = (different <= 2) & (tops == voicing.keys[-1])[None, :]
    return np.asarray(alike, dtype=np.int32)
