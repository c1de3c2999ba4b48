"""All voicings of a chord, beyond the best ones, filtered, each with its price."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.motion.place import Alternative, Ranking
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.voicing.filters import kept, offered, read_filters
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing


class Shown(Struct, frozen=True, eq=False):
    """Voicings that a filter keeps, the cheapest first; made one at a time, as there may be many."""

    ranking: Ranking
    order: npt.NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.order)

    def __getitem__(self, place: int) -> Alternative:
        left, right = divmod(int(self.order[place]), len(self.ranking.right))
        voicing = Voicing(self.ranking.left[left], self.ranking.right[right])
        return Alternative(voicing, int(self.ranking.extra[left, right]))


class Everything(Struct, frozen=True, eq=False):
    """All voicings of a slot of a song."""

    song: Song
    index: int
    ranking: Ranking
    library: Library

    def __len__(self) -> int:
        return int((self.ranking.extra < FORBIDDEN).sum())

    def filtered(self, text: str) -> Shown:
        """What the filters keep. Raises :class:`BadInput` for words that are not understood."""
        mask = kept(read_filters(text, self.library), self.ranking.left, self.ranking.right)
        flat = np.where(mask, self.ranking.extra, FORBIDDEN).ravel()
        order = np.argsort(flat, kind="stable")
        return Shown(self.ranking, order[: int((flat < FORBIDDEN).sum())])

    def counts(self, text: str) -> tuple[tuple[str, int], ...]:
        """For each filter that can be clicked, how many voicings it would leave of those that are kept
        now; none that leave nothing."""
        legal = self.ranking.extra < FORBIDDEN
        left, right = self.ranking.left, self.ranking.right
        legal &= kept(read_filters(text, self.library), left, right)
        found = (
            (condition.words, int((legal & condition.keeps(left, right)).sum()))
            for condition in offered(self.library)
        )
        return tuple((words, count) for words, count in found if count)


class ShapeDesk:
    """Ranks everything for one chord; a planner of its own works beside the song's search."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._planner = Planner(library)

    def everything(self, song: Song, index: int, progress: Progress) -> Everything:
        """All voicings of a slot by what they cost the song. Raises as :meth:`Planner.solve`."""
        self._planner.solve(progression(song, self._library), progress)
        return Everything(song, index, self._planner.every(song.column_of[index]), self._library)
