"""The one clock by which keys are heard, rounds are counted and tunes are played in.

Nobody asks the system instead: two events can be set against each other only by the same clock, and who lets
time pass by hand puts another in place of ``now``.
"""

from __future__ import annotations

import time


def now() -> float:
    """Seconds since some zero; they never go back (``time.perf_counter``)."""
    return time.perf_counter()
