"""Whether two voicings sound alike, so that a listener would call them the same.

What one hears is the top line, the texture (how many notes each hand has) and the colour (which tones sound);
the same tones in another order below the same top are the same to the ear.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice.kernel import Costs
from yellow_hinge.voicing.candidates import Shapes
from yellow_hinge.voicing.shape import HandShape, Voicing


def sounds_alike(one: Voicing, other: Voicing) -> bool:
    """Whether two voicings have the same top note, as many notes in each hand, and the same tones."""
    if not one.keys or not other.keys:
        return one.keys == other.keys
    counts = [(len(voicing.left.keys), len(voicing.right.keys)) for voicing in (one, other)]
    tones = [{key % 12 for key in voicing.keys} for voicing in (one, other)]
    return max(one.keys) == max(other.keys) and counts[0] == counts[1] and tones[0] == tones[1]


def sounds_like(shapes: Shapes, voicing: Voicing) -> Costs:
    """(L, R) int32: 1 where a pair sounds like ``voicing``, as :func:`sounds_alike`."""
    left, right = shapes.left, shapes.right
    if not voicing.keys:
        return np.array(
            [[not hand_shape.keys and not other.keys for other in right] for hand_shape in left],
            dtype=np.int32,
        )
    tones = np.bitwise_or.outer(_tones(left), _tones(right))
    tops = np.maximum.outer(_tops(left), _tops(right))
    alike = (tones == _tones((voicing.left,))[0] | _tones((voicing.right,))[0]) & (tops == max(voicing.keys))
    for axis, (hand, hand_shape) in enumerate(((left, voicing.left), (right, voicing.right))):
        counts = np.array([len(shape.keys) for shape in hand]) == len(hand_shape.keys)
        alike &= counts[:, None] if axis == 0 else counts[None, :]
    return np.asarray(alike, dtype=np.int32)


def _tones(shapes: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    """(shapes,): pitch classes as bits."""
    return np.array([sum(1 << tone for tone in {key % 12 for key in s.keys}) for s in shapes], dtype=np.int64)


def _tops(shapes: tuple[HandShape, ...]) -> npt.NDArray[np.int64]:
    return np.array([shape.keys[-1] if shape.keys else -1 for shape in shapes], dtype=np.int64)
