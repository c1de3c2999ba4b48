"""What a reader gives: the chart, and what it could not take over."""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.errors import Problem
from yellow_hinge.song.chart import Chart


class Imported(Struct, frozen=True):
    """``problems`` are remarks about things left out; the chart is usable. ``names_b_flat``: a B was taken
    for B flat, since other chords have German names."""

    chart: Chart
    problems: tuple[Problem, ...] = ()
    names_b_flat: bool = False
