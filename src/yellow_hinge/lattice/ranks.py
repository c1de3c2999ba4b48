"""What every state costs the whole where steps lead back: one tree for each state of a pivot, all
of them at once.

With the pivot in one state, the steps that are not in the tree are a cost of their other ends
alone, so the rest is a tree. Its tables get an axis in front, one sheet for each state of the
pivot; where nothing beyond a step hangs on the pivot, one sheet serves for all.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from yellow_hinge.lattice.columns import Column, Link
from yellow_hinge.lattice.kernel import FORBIDDEN, Costs
from yellow_hinge.lattice.quickest import kernel_for
from yellow_hinge.stopping import ask

#: (1 or states of the pivot, L, R), with its lowest moved to 0; and what was taken off.
_Sheets = npt.NDArray[np.int32]
#: Beyond so many numbers in the sheets of all columns it is left alone.
MOST_NUMBERS = 64_000_000


class Ranks:
    """Marginals of a tree under every state of a pivot. ``parents`` and ``links`` as the tree has them
    (``links[k]`` steps from the parent to ``k``); ``own[k]`` are further costs of column ``k`` for
    each state of the pivot (states, L, R)."""

    def __init__(
        self,
        columns: Sequence[Column],
        parents: Sequence[int],
        links: Sequence[Link | None],
        own: dict[int, _Sheets],
    ) -> None:
        self._columns, self._parents, self._links, self._own = columns, parents, links, own
        self._near: list[list[int]] = [[] for _ in columns]
        for k in range(1, len(columns)):
            self._near[k].append(parents[k])
            self._near[parents[k]].append(k)
        self._below = self._hanging()
        self._tables: dict[tuple[int, int], tuple[_Sheets, int]] = {}
        self._kernel = kernel_for(self._sums())

    def _hanging(self) -> list[int]:
        """For each column how many of those that hang on it, itself among them, know the pivot."""
        below = [int(k in self._own) for k in range(len(self._columns))]
        for k in range(len(self._columns) - 1, 0, -1):
            below[self._parents[k]] += below[k]
        return below

    def _sums(self) -> int:
        states = max((sheets.shape[0] for sheets in self._own.values()), default=1)
        total = 0
        for k in range(1, len(self._columns)):
            (left, right), (other, further) = self._columns[k].shape, self._columns[self._parents[k]].shape
            total += 2 * (left * other * right + right * further * other)
        return total * states

    def marginals(self) -> list[npt.NDArray[np.int64]]:
        """For every column what each state costs the whole with everything else, the pivot among
        it, at its best; FORBIDDEN where no way goes."""
        for k in range(len(self._columns) - 1, 0, -1):
            self._make(k, self._parents[k])
        for k in range(1, len(self._columns)):
            self._make(self._parents[k], k)
        return [self._total(k) for k in range(len(self._columns))]

    def _sheet(self, k: int) -> _Sheets:
        cost = self._columns[k].cost[None]
        return np.minimum(cost + self._own[k], FORBIDDEN) if k in self._own else cost

    def _make(self, start: int, end: int) -> None:
        """The table over a step: all that lies behind it, for each state of its end."""
        ask()
        sheet, base = self._sheet(start), 0
        for near in self._near[start]:
            if near != end:
                more, added = self._tables[near, start]
                sheet, base = np.minimum(sheet + more, FORBIDDEN), base + added
        least = int(sheet.min())
        if least < FORBIDDEN:
            sheet = np.where(sheet >= FORBIDDEN, FORBIDDEN, sheet - least).astype(np.int32)
            base += least
        pushed = self._over(start, end, sheet)
        if not self._beyond(start, end):
            pushed = pushed.min(axis=0, keepdims=True)
        self._tables[start, end] = pushed, base

    def _beyond(self, start: int, end: int) -> bool:
        """Whether anything on the far side of a step knows the pivot."""
        if self._parents[start] == end:
            return self._below[0] > self._below[start]
        return self._below[end] > 0

    def _over(self, start: int, end: int, sheet: _Sheets) -> _Sheets:
        """Sheets pushed over a step, all in one product for each hand."""
        down = self._parents[end] == start
        link = self._links[end if down else start]
        assert link is not None
        return (link if down else link.turned).pushed(sheet, self._kernel)

    def _total(self, k: int) -> npt.NDArray[np.int64]:
        ask()
        total, base = self._sheet(k).astype(np.int64), 0
        for near in self._near[k]:
            more, added = self._tables[near, k]
            total, base = total + more, base + added
        least: npt.NDArray[np.int64] = total.min(axis=0)
        return np.where(least >= FORBIDDEN, FORBIDDEN, least + base)


def seen_from(link: Link, states: Sequence[tuple[int, int]], outward: bool) -> Costs:
    """(states, L, R): what a step costs from (or, if not ``outward``, to) each of some states."""
    return np.stack([link.out_of(state) if outward else link.into(state) for state in states])
