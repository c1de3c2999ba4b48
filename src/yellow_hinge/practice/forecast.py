"""The plans of days to come, as if each went as expected."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta

import numpy as np

from yellow_hinge.practice.plan import Block, Shelf, Wishes, plan
from yellow_hinge.practice.simulate import Simulation


def days_ahead(shelf: Shelf, wishes: Wishes, days: int) -> Iterator[tuple[Block, ...]]:
    """Today's plan, then that of each following day. What a day brings is played by a simulated player whose
    changes begin as sure as they are now; it is a guess and said as one."""
    simulation = Simulation(shelf.pieces, "power", days, wishes.minutes, seed=1)
    chances = np.clip([sureness.slip(shelf.now) for sureness in shelf.sure], 0.005, 0.95)
    simulation.learner.start, simulation.learner.floor = chances, chances / 10
    simulation.sure, simulation.now = list(shelf.sure), shelf.now
    for _ in range(days):
        yield plan(simulation.shelf, wishes)
        simulation.practise()
        simulation.learner.next_day()
        simulation.now += timedelta(days=1)
