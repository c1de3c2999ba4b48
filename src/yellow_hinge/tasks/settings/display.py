"""How a player wants the window to look and to say notes: kept between runs in a small file."""

from __future__ import annotations

from typing import Literal

from yellow_hinge.tasks.settings.own_settings import Kept
from yellow_hinge.theory.pitch import Naming


class Display(Kept, frozen=True):
    """``text`` is the size of text in hundredths of the usual one; ``calm``: nothing moves by itself;
    ``walking``: a chord sounds when one comes to it; ``window``: where the window stood, left, top, width
    and height in pixels; ``beside``: the page that was kept in view beside others ("": none), ``above`` where
    it stood below them, and ``split`` how the room was shared, in pixels."""

    file = "display.json"

    theme: Literal["light", "dark"] = "light"
    text: Literal[100, 125, 150, 175, 200] = 100
    names: Naming = "letters"
    calm: bool = False
    walking: bool = True
    window: tuple[int, int, int, int] | None = None
    beside: str = ""
    above: bool = False
    split: tuple[int, int] | None = None
