"""What a reader gives: the chart, and what it could not take over."""

from __future__ import annotations

from dataclasses import dataclass

from yellow_hinge.errors import Problem
from yellow_hinge.song.chart import Chart


@dataclass(frozen=True)
class Imported:
    """``problems`` are remarks about things left out; the chart is usable."""

    chart: Chart
    problems: tuple[Problem, ...] = ()
