"""What is known of a song that is kept solved, as values. Loads no arrays: pages read it before the
search is there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec import Struct

from yellow_hinge.motion.figures import Effort
from yellow_hinge.voicing.shape import Voicing

if TYPE_CHECKING:
    from yellow_hinge.motion.explain import Term
    from yellow_hinge.motion.place import Alternative
    from yellow_hinge.tasks.song.voice_song import Voiced
    from yellow_hinge.voicing.reductions import Reduction


class Betterment(Struct, frozen=True):
    """Another voicing of the slot ``at`` would make a change ``saved_st`` half steps smaller; the
    song as a whole would pay ``extra`` for it (hundredths of a half step)."""

    at: int
    voicing: Voicing
    saved_st: int
    extra: int


class Solved(Struct, frozen=True):
    """What is known of a song as it stands; what has not been worked out yet is empty.

    First comes the row. With the reasons come its effort, for each slot why its voicing costs what
    it does and its shapes' families in words (left hand, right hand, both together), for each change
    why it costs what it does, and by slot the ways to play locked voicings that are out of reach.
    Then ``alternatives``, for each slot its voicings by what they cost the song (by what they cost at
    most, unless ``ranks_exact``), and ``betterments``, for each change what would make it smaller.
    Then ``ours``, for each slot what the program's own prices would have there, where a player's decided
    otherwise; empty where they decided nothing. Then ``offers``, other rows that differ audibly, behind the
    row itself.
    """

    voiced: Voiced | None = None
    effort: Effort | None = None
    voicing_terms: tuple[tuple[Term, ...], ...] = ()
    hinge_terms: tuple[tuple[Term, ...], ...] = ()
    families: tuple[tuple[str, str, str], ...] = ()
    reductions: tuple[tuple[int, tuple[Reduction, ...]], ...] = ()
    alternatives: tuple[tuple[Alternative, ...], ...] = ()
    ranks_exact: bool = True
    betterments: tuple[Betterment | None, ...] = ()
    ours: tuple[Voicing | None, ...] = ()
    offers: tuple[Offer, ...] = ()

    @property
    def exact(self) -> bool:
        """Whether the row is proven to have the least effort."""
        return self.voiced is not None and self.voiced.answer.optimal

    def ways_out(self, index: int) -> tuple[Reduction, ...]:
        """How a locked voicing that is out of reach could be played all the same."""
        return next((ways for slot, ways in self.reductions if slot == index), ())

    def by_ours(self, index: int) -> Voicing | None:
        """What the program's own prices would have in a slot, where a player's decided otherwise."""
        return self.ours[index] if index < len(self.ours) else None

    def others(self, index: int) -> tuple[Alternative, ...]:
        """The ranked voicings of a slot."""
        return self.alternatives[index] if index < len(self.alternatives) else ()


NOTHING = Solved()


class Offer(Struct, frozen=True):
    """A row in figures: its voicings by column, its effort, half steps, notes held, notes that come
    or go, chords voiced otherwise than in the first row, and in words what it trades against it."""

    voicings: tuple[Voicing, ...]
    effort: Effort
    motion_st: int
    held: int
    changing: int
    differ: int
    trade: str
