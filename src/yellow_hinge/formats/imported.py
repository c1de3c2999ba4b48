"""What a reader gives: the song, and what it could not take over."""

from __future__ import annotations

from dataclasses import dataclass

from yellow_hinge.errors import Problem
from yellow_hinge.song.model import Song


@dataclass(frozen=True)
class Imported:
    """``problems`` are remarks about things left out; the song is usable."""

    song: Song
    problems: tuple[Problem, ...] = ()
