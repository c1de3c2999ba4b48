"""When a change is due again: the FSRS model of the library fsrs, one review a day for each change.

All slips of a day make one review, because a change is tried many times in a row; the spacing that counts
is that between days.
"""

from __future__ import annotations

from datetime import UTC, datetime
from functools import cache, lru_cache
from typing import TYPE_CHECKING

from msgspec import Struct

if TYPE_CHECKING:
    from fsrs import Card, Rating, Scheduler

#: Shares of slips in a day up to which it counts as easy, good, hard; our choice. Beyond: as forgotten.
EASY, GOOD, HARD = 0.02, 0.12, 0.35


class Memory(Struct, frozen=True):
    """A change in the schedule: how many days it lasts until nine in ten are still there (``stability``),
    how hard it is to keep, 1..10 (``difficulty``), when it is due and when it was last reviewed."""

    stability: float
    difficulty: float
    due: datetime
    last: datetime


@cache
def _scheduler() -> Scheduler:
    from fsrs import Scheduler  # noqa: PLC0415 - a third of what this room takes to load

    # Days decide, not minutes; and the same days make the same plan.
    return Scheduler(learning_steps=(), relearning_steps=(), enable_fuzzing=False, maximum_interval=365)


def _rating(slips: float) -> Rating:
    from fsrs import Rating  # noqa: PLC0415

    rows = ((EASY, Rating.Easy), (GOOD, Rating.Good), (HARD, Rating.Hard))
    return next((rating for most, rating in rows if slips <= most), Rating.Again)


def _card(memory: Memory | None) -> Card:
    from fsrs import Card, State  # noqa: PLC0415

    if memory is None:
        return Card(card_id=1)
    return Card(
        1, State.Review, None, memory.stability, memory.difficulty, due=memory.due, last_review=memory.last
    )


@lru_cache(maxsize=65536)
def reviewed(memory: Memory | None, slips: float, when: datetime) -> Memory:
    """After a day on which a share of tries slipped, 0..1."""
    moment = when.astimezone(UTC)
    card, _ = _scheduler().review_card(_card(memory), _rating(slips), moment)
    assert card.stability is not None and card.difficulty is not None
    return Memory(card.stability, card.difficulty, card.due, moment)


def recall(memory: Memory, moment: datetime) -> float:
    """How much is still there at a moment, 0..1."""
    return float(_scheduler().get_card_retrievability(_card(memory), moment.astimezone(UTC)))
