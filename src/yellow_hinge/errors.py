"""The error tree.

    YellowHingeError            something the player can mend; carries problems
    ├── BadInput                a chart, file, symbol or option that cannot be read
    ├── NoSolution              readable input for which no legal voicing exists
    ├── FileTrouble             the disk, a permission, a missing file
    └── OurMistake              an error of this program, caught at its border and written down

:class:`Cancelled` stands apart: nothing is wrong, somebody asked for it.

Every error carries one or more :class:`Problem` values, each with its place,
so that a page can mark the spot and the command line can print one line each.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import force_setattr


class Problem(Struct, frozen=True):
    """One thing that is wrong: where, what was found, and what would be right.

    ``line`` and ``column`` count from 1 and are 0 where the place is not in a text.
    ``length`` is the number of characters concerned.
    """

    place: str
    what: str
    remedy: str
    line: int = 0
    column: int = 0
    length: int = 0

    def __post_init__(self) -> None:
        """Whatever was typed or read, a message stays short and fit for any screen and terminal."""
        for name, most in _MOST_SIGNS.items():
            force_setattr(self, name, _readable(getattr(self, name), most))

    def __str__(self) -> str:
        return f"{self.place}: {self.what}: {self.remedy}"


#: Signs of the parts of a message; all together stay below 500.
_MOST_SIGNS = {"place": 150, "what": 180, "remedy": 160}
#: So many problems are said at once.
MOST_PROBLEMS = 100


def _readable(text: str, most: int) -> str:
    """In one line, without what cannot be shown; the middle of what is too long is left out."""
    if len(text) > 4 * most:
        text = f"{text[: 2 * most]}{text[-2 * most :]}"
    if not (text.isascii() and text.isprintable()):
        text = "".join(sign if sign.isprintable() else " " if sign.isspace() else "?" for sign in text)
    half = most // 2 - 2
    return text if len(text) <= most else f"{text[:half]} ... {text[-half:]}"[:most]


class YellowHingeError(Exception):
    """Base of every error that is meant for the player's eyes."""

    def __init__(self, problems: Problem | Iterable[Problem]) -> None:
        every = (problems,) if isinstance(problems, Problem) else tuple(problems)
        if len(every) > MOST_PROBLEMS:
            more = len(every) - MOST_PROBLEMS + 1
            last = Problem("and so on", f"{more:,} more problems", "mend these first, then read it again")
            every = (*every[: MOST_PROBLEMS - 1], last)
        self.problems: tuple[Problem, ...] = every
        super().__init__("\n".join(str(problem) for problem in self.problems))


class BadInput(YellowHingeError):
    """The input cannot be read as what it should be."""


class NoSolution(YellowHingeError):
    """The input is readable, but no legal voicing satisfies it."""


class FileTrouble(YellowHingeError):
    """A file could not be read or written."""


class OurMistake(YellowHingeError):
    """Something that should not have happened; the player can only go around it."""


class Cancelled(Exception):
    """Long work was told to stop."""
