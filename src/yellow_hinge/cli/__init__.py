"""The command line. Exit 0 done, 1 output lost or a mistake of ours, 2 bad input, 3 no solution, 130
interrupted. Nothing of what follows is loaded when the window opens."""

from __future__ import annotations

import os
import sys
from typing import TYPE_CHECKING

from yellow_hinge.interruption import INTERRUPTED

if TYPE_CHECKING:
    from yellow_hinge.sheet.page import Press

#: What the first word of a command line may be; a file that is there is for the window.
COMMANDS = (
    "voice", "candidates", "judge", "name", "schools", "formulas", "patterns", "swaps", "keys", "events",
    "convert", "sheet", "check", "practice", "taste",
)  # fmt: skip
OUTPUT_LOST = OUR_MISTAKE = 1
BAD_INPUT, NO_SOLUTION = 2, 3


def is_command(word: str) -> bool:
    """Whether the first word of a command line is for the commands; a file that is there is for the
    window."""
    return word in COMMANDS or word.startswith("-") or not os.path.lexists(word)


def run(arguments: list[str], press: Press | None = None) -> int:
    """Run one command and give its exit code. ``press`` puts sheets on paper: it has the faces, which nothing
    here knows."""
    try:
        from yellow_hinge.cli.border import guarded  # noqa: PLC0415 - not where the window opens

        return guarded(arguments, press)
    except KeyboardInterrupt:
        if sys.stderr is not None:
            print("interrupted", file=sys.stderr)
        return INTERRUPTED
