"""How a player wants the window to look and to say notes: kept between runs in a small file."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from msgspec import Struct

from yellow_hinge.errors import Problem
from yellow_hinge.tasks.settings.own_files import own_path
from yellow_hinge.tasks.settings.own_settings import keep, read_kept
from yellow_hinge.theory.pitch import Naming


class Display(Struct, frozen=True):
    """``text`` is the size of text in hundredths of the usual one; ``calm``: nothing moves by itself;
    ``walking``: a chord sounds when one comes to it; ``window``: where the window stood, left, top, width
    and height in pixels; ``beside``: the page that was kept in view beside others ("": none), ``above`` where
    it stood below them, and ``split`` how the room was shared, in pixels."""

    theme: Literal["light", "dark"] = "light"
    text: Literal[100, 125, 150, 175, 200] = 100
    names: Naming = "letters"
    calm: bool = False
    walking: bool = True
    window: tuple[int, int, int, int] | None = None
    beside: str = ""
    above: bool = False
    split: tuple[int, int] | None = None


def display_path() -> Path:
    """Where it is kept: in the configuration folder."""
    return own_path("display.json")


def read_display() -> tuple[Display, tuple[Problem, ...]]:
    """The settings, and what is to be said where the file could not be read."""
    return read_kept(display_path(), Display)


def keep_display(display: Display) -> None:
    """Write them down. Raises :class:`FileTrouble`."""
    keep(display_path(), display)
