"""A small keyboard with a grip on it: square marks for the left hand, round ones for the right; below a key
that is held from the chord before lies a bar, the pin of the hinge."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from yellow_hinge.sheet.page import Box, Disc, Item, Rule

_WHITE = (0, 2, 4, 5, 7, 9, 11)
#: Where the black keys stand between the white ones, in white keys from C.
_BLACK = {1: 0.62, 3: 1.72, 6: 3.58, 8: 4.66, 10: 5.74}
_LEAST_WHITES = 15
#: How much room the bars of held keys take below a keyboard.
PIN_MM = 1.9


def span_of(rows: Sequence[Sequence[int]]) -> tuple[int, int]:
    """The white keys from which and to which a keyboard shows all grips, at least two octaves."""
    keys = [key for row in rows for key in row] or [60]
    low, high = min(keys) - 1, max(keys) + 1
    while low % 12 not in (0, 5):
        low -= 1
    while high % 12 not in (4, 11):
        high += 1
    while _whites(low, high) < _LEAST_WHITES:
        high += 1
        while high % 12 not in (4, 11):
            high += 1
    return low, high


def _whites(low: int, high: int) -> int:
    return sum(key % 12 in _WHITE for key in range(low, high + 1))


def _place(key: int, low: int) -> float:
    """The left edge of a key, in white keys from the keyboard's beginning."""
    octave, within = divmod(key, 12)
    start = divmod(low, 12)
    base = 7 * start[0] + _WHITE.index(start[1])
    if within in _WHITE:
        return 7 * octave + _WHITE.index(within) - base
    return 7 * octave + _BLACK[within] - base


def keyboard(
    left: Sequence[int], right: Sequence[int], held: Sequence[int], span: tuple[int, int], width: float,
    *, height: float,
) -> list[Item]:  # fmt: skip
    """The keys from ``span[0]`` to ``span[1]`` in a frame, and the grip."""
    low, high = span
    one = width / _whites(low, high)
    items: list[Item] = [Box(0, 0, width, height, "paper", outline="ink", width=0.2)]
    items += [Rule(n * one, 0, n * one, height, 0.12, ink="line") for n in range(1, _whites(low, high))]
    for key in range(low, high + 1):
        if key % 12 in _BLACK:
            items.append(
                Box(_place(key, low) * one, 0, one * 0.62, height * 0.6, "soft", outline="ink", width=0.1)
            )
    for keys, side in ((left, "left"), (right, "right")):
        for key in keys:
            items += _mark(key, side, key in held, low, one, height=height)
    return items


def _mark(key: int, side: str, held: bool, low: int, one: float, *, height: float) -> Iterator[Item]:
    black = key % 12 in _BLACK
    wide = one * (0.62 if black else 1.0)
    x, y = _place(key, low) * one + wide / 2, height * (0.38 if black else 0.8)
    radius = min(one * 0.4, height * 0.17)
    if held:
        yield Box(
            x - one * 0.55,
            height + PIN_MM * 0.35,
            one * 1.1,
            PIN_MM * 0.65,
            "held",
            outline="ink",
            width=0.12,
        )
    if side == "left":
        yield Box(
            x - radius * 0.8,
            y - radius * 0.8,
            radius * 1.6,
            radius * 1.6,
            "left",
            outline="paper",
            width=0.12,
        )
    else:
        yield Disc(x, y, radius * 0.92, "right", "paper", width=0.12)
