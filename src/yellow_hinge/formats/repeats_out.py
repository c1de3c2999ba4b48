"""Which measures a song is written in: repeats as repeats where all rounds are alike, everything else written
out."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from itertools import groupby

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.song.chart import PlayedBar

#: What is printed in a bar, by its place among those that are played.
Content = Callable[[int], Hashable]


class Sheet(Struct, frozen=True):
    """A measure: the place of the bar it prints among those that are played; whether a repeat begins with it,
    and how often what ends with it is played in all (0: nothing ends); the rounds of the ending that it
    opens, and whether one ends with it ("stop": and goes back, "discontinue"). ``rounds`` are the rounds of
    its section that it stands for; ``repeated``: those are written as one."""

    place: int
    rounds: tuple[int, ...]
    begins: bool = False
    ends: int = 0
    ending: tuple[int, ...] = ()
    closes: str = ""
    repeated: bool = False


def sheets_of(played: Sequence[PlayedBar], content: Content) -> list[Sheet]:
    """The measures in written order."""
    sheets: list[Sheet] = []
    numbers = range(len(played))
    for name, places in groupby(numbers, key=lambda place: played[place].section.name):
        del name
        rounds = [list(row) for _, row in groupby(places, key=lambda place: played[place].round)]
        sheets += _as_repeat(played, rounds, content) or _written_out(played, rounds)
    return sheets


def _written_out(played: Sequence[PlayedBar], rounds: Sequence[Sequence[int]]) -> list[Sheet]:
    return [Sheet(place, (played[place].round,)) for row in rounds for place in row]


def _as_repeat(
    played: Sequence[PlayedBar], rounds: Sequence[Sequence[int]], content: Content
) -> list[Sheet] | None:
    """The rounds of a section as one, with endings; None where they are not alike."""
    if len(rounds) < 2:
        return None
    body = len(played[rounds[0][0]].section.bars)
    turns = tuple(played[row[0]].round for row in rounds)
    if any([content(place) for place in row[:body]] != [content(place) for place in rounds[0][:body]]
           for row in rounds):  # fmt: skip
        return None
    endings = _endings(played, [row[body:] for row in rounds], content)
    if endings is None or not body:
        return None
    sheets = [Sheet(place, turns, repeated=True) for place in rounds[0][:body]]
    sheets[0] = replace(sheets[0], begins=True)
    if not endings:
        sheets[-1] = replace(sheets[-1], ends=len(rounds))
        return sheets
    for number, (at, row) in enumerate(endings):
        back = number + 1 < len(endings)
        for place in row:
            first, last_one = place == row[0], place == row[-1]
            sheets.append(
                Sheet(
                    place, tuple(turns[one - 1] for one in at), ends=2 if last_one and back else 0,
                    ending=at if first else (),
                    closes=("stop" if back else "discontinue") if last_one else "", repeated=True,
                )
            )  # fmt: skip
    return sheets


def _endings(
    played: Sequence[PlayedBar], rows: Sequence[Sequence[int]], content: Content
) -> list[tuple[tuple[int, ...], Sequence[int]]] | None:
    """(rounds from 1, bars) of each ending in their order; none where there are none; None where they cannot
    be written as such: not in a row, or not alike."""
    if not any(rows):
        return []
    endings: list[tuple[tuple[int, ...], Sequence[int]]] = []
    for number, row in enumerate(rows, 1):
        if endings and [content(place) for place in endings[-1][1]] == [content(place) for place in row]:
            endings[-1] = ((*endings[-1][0], number), endings[-1][1])
        elif row:
            endings.append(((number,), row))
        else:
            return None
    written = [played[row[0]].place for _, row in endings]
    return endings if len(endings) > 1 and written == sorted(set(written)) else None
