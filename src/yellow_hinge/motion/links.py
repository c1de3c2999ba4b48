"""Hinge costs reused wherever the same two kinds of chord follow each other.

What a hand pays from one shape to the next depends on their intervals alone, not on where
they lie. So shapes are taken apart into a form (the shape in the octave of the first chord's
root) and the octave it is played in; a table over forms and octaves is computed once for two
kinds of chord at one distance, and every pair of columns reads its costs off that table. The
same song in twelve keys needs the tables of one.
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.lattice.cache import ByteCache
from yellow_hinge.lattice.kernel import Costs
from yellow_hinge.motion.line import Step, step_between
from yellow_hinge.motion.terms import hinge_costs
from yellow_hinge.motion.weights import Weights
from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.shape import HandShape
from yellow_hinge.voicing.wish import Wish

_C = NoteName(0)
#: What is kept between solves, in bytes.
_TABLE_BYTES, _SPLIT_BYTES = 176_000_000, 16_000_000
#: Where forms are laid out, so that all of their keys are positive.
_BASE_KEY = 60


@for_a_song
@lru_cache(maxsize=4096)
def _on_c(chord: ChordSymbol) -> ChordSymbol:
    letters, semitones = -chord.root.step % 7, -chord.root.pitch_class % 12
    return chord.transposed(letters, semitones)


@for_a_song
@lru_cache(maxsize=4096)
def kind_of(wish: Wish) -> Hashable:
    """What two wishes share when one is the other transposed, register and melody apart."""
    plain = (wish.school.id, wish.colour, wish.bass, wish.hands, wish.inverted)
    return str(_on_c(wish.chord)), wish.sense, *plain


_Split = tuple[npt.NDArray[np.intp], npt.NDArray[np.int64]]


class _Forms(Struct):
    """All forms of a hand that have been met for one kind of chord, by the order of meeting."""

    places: dict[tuple[int, ...], int] = field(default_factory=dict)
    lowest: int = 99  #: octaves in which any of them has been met
    highest: int = -99

    def split(self, shapes: Sequence[HandShape], root: int) -> _Split:
        """(shapes,) index of the form and octave of each shape; new forms are added."""
        octaves = [(shape.keys[0] - root) // 12 for shape in shapes]
        self.lowest, self.highest = min([self.lowest, *octaves]), max([self.highest, *octaves])
        rows = [
            self.places.setdefault(tuple(key - root - 12 * octave for key in shape.keys), len(self.places))
            for shape, octave in zip(shapes, octaves, strict=True)
        ]
        return np.array(rows, dtype=np.intp), np.array(octaves, dtype=np.int64)

    def laid_out(self, shift: int) -> tuple[HandShape, ...]:
        """The forms as shapes, ``shift`` semitones above the base."""
        return tuple(HandShape(tuple(_BASE_KEY + shift + key for key in form)) for form in self.places)


class _Table(Struct, frozen=True):
    """Costs (forms before, octaves from ``lowest``, forms after)."""

    costs: Costs
    lowest: int


class LinkTables:
    """Keeps forms and tables between solves."""

    def __init__(self) -> None:
        self._forms: dict[Hashable, _Forms] = {}
        self._tables: ByteCache[_Table] = ByteCache(_TABLE_BYTES, lambda table: table.costs.nbytes)
        self._splits: ByteCache[tuple[Sequence[HandShape], _Split]] = ByteCache(
            _SPLIT_BYTES, lambda made: sum(part.nbytes for part in made[1])
        )

    @property
    def bytes(self) -> int:
        """What is kept now."""
        return self._tables.bytes + self._splits.bytes

    def rest(self) -> None:
        """Keep little, what was used last."""
        self._tables.rest()
        self._splits.rest()

    def meet(self, wish: Wish, side: str, shapes: Sequence[HandShape]) -> _Split:
        """Take note of a column's shapes, so that tables made later hold them all. Gives for each
        its form and octave."""
        name = (wish, side)
        splits = self._splits.get(name)
        if splits is None or splits[0] is not shapes:
            split = self._of(wish, side).split(shapes, wish.chord.root.pitch_class)
            splits = self._splits.put(name, (shapes, split))
        return splits[1]

    def _of(self, wish: Wish, side: str) -> _Forms:
        return self._forms.setdefault((kind_of(wish), side), _Forms())

    def costs(
        self,
        start: tuple[Wish, Sequence[HandShape]],
        end: tuple[Wish, Sequence[HandShape]],
        weights: Weights,
        side: str,
    ) -> Costs:
        """(B, A): as :func:`terms.hinge_costs` between two columns' shapes."""
        (before, shapes_before), (after, shapes_after) = start, end
        step = step_between(before, after)
        if not all(shape.keys for shape in (*shapes_before, *shapes_after)):
            return hinge_costs(tuple(shapes_before), tuple(shapes_after), weights, side, step)
        step = replace(step, root=0)  # forms are laid out above C
        forms = self._of(before, side), self._of(after, side)
        distance = after.chord.root.pitch_class - before.chord.root.pitch_class
        b_rows, b_octaves = self.meet(before, side, shapes_before)
        a_rows, a_octaves = self.meet(after, side, shapes_after)
        octaves_apart = (
            int(a_octaves.min()) - int(b_octaves.max()),
            int(a_octaves.max()) - int(b_octaves.min()),
        )
        name = (kind_of(before), kind_of(after), distance, weights, side, step)
        table = self._tables.get(name)
        if table is None or not _covers(table, forms, octaves_apart):
            table = _made(forms, distance, weights, side, step)
            self._tables.put(name, table)
        _, octaves, width = table.costs.shape
        start_at = b_rows * (octaves * width) - b_octaves * width
        end_at = (a_octaves - table.lowest) * width + a_rows
        take: Costs = np.take(table.costs.ravel(), start_at[:, None] + end_at[None, :])
        return take


def _covers(table: _Table, forms: tuple[_Forms, _Forms], steps: tuple[int, int]) -> bool:
    before, octaves, after = table.costs.shape
    return (
        (before, after) == (len(forms[0].places), len(forms[1].places))
        and steps[0] >= table.lowest
        and steps[1] < table.lowest + octaves
    )


def _made(forms: tuple[_Forms, _Forms], distance: int, weights: Weights, side: str, step: Step) -> _Table:
    lowest = forms[1].lowest - forms[0].highest
    octaves = range(lowest, forms[1].highest - forms[0].lowest + 1)
    end = tuple(shape for octave in octaves for shape in forms[1].laid_out(distance + 12 * octave))
    costs = hinge_costs(forms[0].laid_out(0), end, weights, side, step)
    return _Table(costs.reshape(len(forms[0].places), len(octaves), -1), lowest)
