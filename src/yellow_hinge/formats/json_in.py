"""JSON from anywhere: strict numbers, limits on depth and size, and text that can be written again."""

from __future__ import annotations

import json
from typing import Any, NoReturn

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem

#: Far beyond what a project nests; Python's own limit depends on who calls.
MAX_DEPTH = 60
_MOST_DIGITS = 18


def load(data: bytes, place: str, remedy: str) -> tuple[Any, tuple[Problem, ...]]:
    """The value, and remarks about what was cleaned: halves of characters, which no file can hold, are
    replaced. Raises :class:`BadInput` with the line and column of the first fault."""
    try:
        text = data.decode("utf-8-sig")
        value = json.loads(text, parse_int=_whole, parse_float=_decimal, parse_constant=_no_constant)
    except json.JSONDecodeError as error:
        where = f"{place}, line {error.lineno}, column {error.colno}"
        raise BadInput(Problem(where, f"this is not JSON ({error.msg})", remedy, error.lineno)) from None
    except UnicodeDecodeError as error:
        where = f"{place}, byte {error.start + 1}"
        raise BadInput(Problem(where, "this is not a text file", remedy)) from None
    except ValueError as error:
        raise BadInput(Problem(place, str(error), remedy)) from None
    except RecursionError:
        raise BadInput(_too_deep(place, remedy)) from None
    cleaned, halves = _checked(value, place, remedy)
    if not halves:
        return value, ()
    what = f"{halves} half character{'' if halves == 1 else 's'} stood in the text"
    return cleaned, (Problem(place, what, "each was replaced by a sign for it; look for \ufffd"),)


def _too_deep(place: str, remedy: str) -> Problem:
    return Problem(place, f"it is nested more than {MAX_DEPTH} deep", remedy)


def _whole(text: str) -> int:
    if len(text) > _MOST_DIGITS:
        raise ValueError(f"a number of {len(text)} digits is too long")
    return int(text)


def _decimal(text: str) -> float:
    value = float(text) if len(text) <= 2 * _MOST_DIGITS else float("inf")
    if value in (float("inf"), float("-inf")):
        raise ValueError(f"the number {text[:20]} is too large or too long")
    return value


def _no_constant(text: str) -> NoReturn:
    raise ValueError(f"{text} is no number")


def _checked(value: Any, place: str, remedy: str) -> tuple[Any, int]:
    """The value without halves of characters, and how many there were."""
    halves = 0

    def clean(one: Any, depth: int) -> Any:
        nonlocal halves
        if depth > MAX_DEPTH:
            raise BadInput(_too_deep(place, remedy))
        if isinstance(one, str):
            whole, found = strict.whole_text(one)
            halves += found
            return whole
        if isinstance(one, list):
            return [clean(each, depth + 1) for each in one]
        if isinstance(one, dict):
            return {clean(name, depth + 1): clean(each, depth + 1) for name, each in one.items()}
        return one

    return clean(value, 0), halves
