"""Numbers as people write them, and nothing else: plain digits in sensible number, no exponents, no
digits of other scripts. Python's own readers take all of these, and some cost minutes or gigabytes.
And text that can be written again."""

from __future__ import annotations

import re
from fractions import Fraction

#: At most nine digits before and behind the point, and four of a denominator.
_WHOLE = re.compile(r"-?[0-9]{1,9}")
_DECIMAL = re.compile(r"-?(?:[0-9]{1,9}(?:\.[0-9]{0,9})?|\.[0-9]{1,9})")
_LENGTH = re.compile(r"[0-9]{1,9}(?:\.[0-9]{1,9}|/[0-9]{1,4})?|\.[0-9]{1,9}")


def whole(text: str) -> int | None:
    """``12``, ``-3``; None for anything else."""
    return int(text) if _WHOLE.fullmatch(text) else None


def decimal(text: str) -> float | None:
    """``12``, ``-1.5``, ``.5``; None for anything else."""
    return float(text) if _DECIMAL.fullmatch(text) else None


def length(text: str) -> Fraction | None:
    """A length that is not negative: ``2``, ``1.5``, ``4/3``; None for anything else."""
    if not _LENGTH.fullmatch(text):
        return None
    over, _, below = text.partition("/")
    return None if below and not int(below) else Fraction(over) / int(below or "1")


#: Halves of characters, which no file can hold.
_HALF = re.compile("[\ud800-\udfff]")


def whole_text(text: str) -> tuple[str, int]:
    """The text with a replacement sign for each half of a character, and how many there were."""
    return _HALF.subn("\ufffd", text)
