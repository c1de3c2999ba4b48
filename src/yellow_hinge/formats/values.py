"""Values of the core as they stand in our JSON files, and back: by msgspec, and what it does not know."""

from fractions import Fraction
from typing import Any, TypeVar

import msgspec

from yellow_hinge import strict

_Value = TypeVar("_Value")


def made(raw: Any, kind: type[_Value]) -> _Value:
    """A value of what was read. Raises ``msgspec.ValidationError`` with the place of the first fault."""
    return msgspec.convert(raw, kind, dec_hook=lambda _, text: read_beats(text))


def read_beats(text: object) -> Fraction:
    """A length or a place in beats, which files have as text: "3/2". Raises ``ValueError`` for others."""
    value = strict.length(text) if isinstance(text, str) else None
    if value is None:
        raise ValueError(f"{text!r} is no length in beats")
    return value


def plain(value: Any) -> Any:
    """A value for a file; what has its usual value is left out where its kind says so."""
    return msgspec.to_builtins(value, enc_hook=str)
