"""What may not lie beside each other inside one hand: rules of a single shape, whatever else sounds."""

from __future__ import annotations

from collections.abc import Iterator

from yellow_hinge.voicing.limits import LOWEST_SECOND, second_at_bottom
from yellow_hinge.voicing.shape import HandShape

NINTH_ST = 13  #: a minor ninth


def ninths_inside(shape: HandShape) -> int:
    """How many notes of a shape lie a minor ninth above another one of it, flat ninths apart."""
    return sum(
        key - NINTH_ST in shape.keys and degree != "b9"
        for key, degree in zip(shape.keys, shape.degrees, strict=True)
    )


def rubs_on_top(keys: tuple[int, ...]) -> bool:
    """Whether the two highest notes are a half step apart: the lower one blurs the line."""
    return len(keys) > 1 and keys[-1] - keys[-2] == 1


def low_sharp_ninth(shape: HandShape) -> bool:
    """Whether a sharp ninth lies below a major third: it is heard as a minor one then."""
    if "#9" not in shape.degrees:
        return False
    thirds, ninths = (
        [key for key, label in zip(shape.keys, shape.degrees, strict=True) if label == wanted]
        for wanted in ("3", "#9")
    )
    return bool(thirds and ninths) and min(ninths) < min(thirds)


def broken_inside(shape: HandShape, side: str, clear_top: bool) -> Iterator[tuple[str, str]]:
    """The rules that a shape of the "left" or "right" hand breaks by itself: id and words. ``clear_top``:
    nothing may rub under the highest note of the right hand."""
    if second_at_bottom(shape.keys, LOWEST_SECOND[side]):
        limit = "C4" if side == "left" else "E4"
        yield "second", f"a second is the lowest interval of the {side} hand, below {limit}: it growls"
    if low_sharp_ninth(shape):
        yield "ninth", "the sharp ninth lies below the third: it is heard as a minor third"
    if clear_top and side == "right" and rubs_on_top(shape.keys):
        yield "rub", "a half step under the top note: it blurs the line"
