"""Which measures a song is written in: repeats as repeats where all rounds are alike, everything else written
out."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from functools import partial
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
    its section that it stands for; ``repeated``: those are written as one. ``segno`` and ``coda`` stand
    before it, ``fine`` and ``to_coda`` behind it, for the time after the ``jump`` that is made behind one."""

    place: int
    rounds: tuple[int, ...]
    begins: bool = False
    ends: int = 0
    ending: tuple[int, ...] = ()
    closes: str = ""
    repeated: bool = False
    segno: bool = False
    coda: bool = False
    fine: bool = False
    to_coda: bool = False
    jump: str = ""


class _Stretch(Struct, frozen=True):
    """A section as it is written: its measures, those that are played where it is played once, with its last
    ending, and whether it is written as a repeat."""

    sheets: tuple[Sheet, ...]
    once: tuple[Sheet, ...]
    repeated: bool


#: Whether a later stretch is an earlier one, played once.
Alike = Callable[["_Stretch", "_Stretch"], bool]


class _Jump(Struct, frozen=True):
    """A way back: behind stretch ``after`` to stretch ``to``, on to before stretch ``end``, where the piece
    ends or goes to its coda; and how many measures that saves."""

    after: int
    to: int
    end: int
    saves: int


#: A jump is not worth its signs for less.
_LEAST_SAVED = 4


def sheets_of(played: Sequence[PlayedBar], content: Content, jumps: bool = False) -> list[Sheet]:
    """The measures in written order; with ``jumps`` what comes again later is said by D.C. or D.S., with the
    fine or a coda, once in a piece."""
    stretches: list[_Stretch] = []
    numbers = range(len(played))
    for name, places in groupby(numbers, key=lambda place: played[place].section.name):
        del name
        rounds = [list(row) for _, row in groupby(places, key=lambda place: played[place].round)]
        repeat = _as_repeat(played, rounds, content)
        sheets = repeat or _written_out(played, rounds)
        stretches.append(_Stretch(tuple(sheets), _once(sheets), repeat is not None))
    if jumps:
        alike = partial(_alike, played, content)
        stretches = _with_jump(_with_repeat(stretches, alike), alike)
    return [sheet for stretch in stretches for sheet in stretch.sheets]


def _once(sheets: Sequence[Sheet]) -> tuple[Sheet, ...]:
    """The measures that are played after a jump: the last of several endings."""
    starts = [at for at, sheet in enumerate(sheets) if sheet.ending]
    return tuple(sheets) if not starts else (*sheets[: starts[0]], *sheets[starts[-1] :])


def _alike(played: Sequence[PlayedBar], content: Content, before: _Stretch, after: _Stretch) -> bool:
    """Whether a stretch is one that was there before, played once."""
    if after.repeated or len(before.once) != len(after.sheets):
        return False
    return all(
        played[a.place].place == played[b.place].place and content(a.place) == content(b.place)
        for a, b in zip(before.once, after.sheets, strict=True)
    )


def _with_repeat(stretches: list[_Stretch], alike: Alike) -> list[_Stretch]:
    """Several sections that come again at once, in the same order, as one repeat: the longest such run."""
    best = (0, 0, 0, 0)  # measures saved, first stretch, how many, how often
    for first in range(len(stretches)):
        for count in range(2, (len(stretches) - first) // 2 + 1):
            own = stretches[first : first + count]
            if any(stretch.repeated for stretch in own):
                continue
            times = 1
            while all(
                at < len(stretches) and alike(stretches[at - count], stretches[at])
                for at in range(first + times * count, first + (times + 1) * count)
            ):
                times += 1
            saves = (times - 1) * sum(len(stretch.sheets) for stretch in own)
            best = max(best, (saves, -first, count, times))
    saves, first, count, times = best[0], -best[1], best[2], best[3]
    if saves < _LEAST_SAVED:
        return stretches
    rows = list(stretches[first : first + count])
    for at in range(first + count, first + times * count):
        rows[(at - first) % count] = _sung_again(rows[(at - first) % count], stretches[at])
    sheets = [replace(sheet, repeated=True) for stretch in rows for sheet in stretch.sheets]
    sheets[0] = replace(sheets[0], begins=True)
    sheets[-1] = replace(sheets[-1], ends=times)
    whole = _Stretch(tuple(sheets), tuple(sheets), repeated=True)
    return [*stretches[:first], whole, *stretches[first + times * count :]]


def _with_jump(stretches: list[_Stretch], alike: Alike) -> list[_Stretch]:
    """What comes again later by a jump, if one saves enough."""
    jump = _best_jump(stretches, alike)
    if jump is None:
        return stretches
    length = jump.end - jump.to
    again, rest = stretches[jump.after : jump.after + length], stretches[jump.after + length :]
    row = list(stretches[: jump.after])
    for at, later in zip(range(jump.to, jump.end), again, strict=True):
        row[at] = _sung_again(row[at], later)
    kind = "D.C." if jump.to == 0 else "D.S."
    row[jump.to] = _marked(row[jump.to], 0, segno=jump.to > 0)
    row[jump.end - 1] = _marked(row[jump.end - 1], -1, **{"to_coda" if rest else "fine": True})
    row[-1] = _marked(row[-1], -1, jump=f"{kind} al {'Coda' if rest else 'Fine'}")
    return [*row, _marked(rest[0], 0, coda=True), *rest[1:]] if rest else row


def _marked(stretch: _Stretch, at: int, **signs: object) -> _Stretch:
    sheets = list(stretch.sheets)
    sheets[at] = replace(sheets[at], **signs)
    return replace(stretch, sheets=tuple(sheets))


def _sung_again(stretch: _Stretch, later: _Stretch) -> _Stretch:
    """A stretch that stands for the rounds of a later one as well."""
    more = {own.place: other.rounds for own, other in zip(stretch.once, later.sheets, strict=True)}
    sheets = (replace(own, rounds=(*own.rounds, *more.get(own.place, ()))) for own in stretch.sheets)
    return replace(stretch, sheets=tuple(sheets))


def _best_jump(row: Sequence[_Stretch], alike: Alike) -> _Jump | None:
    """The jump that saves most measures; None where none saves enough."""
    jumps: list[_Jump] = []
    for after in range(1, len(row)):
        for to in range(after):
            length = 0
            # what ends where the jump is made needs no sign, and cannot have one
            while to + length + 1 < after and after + length < len(row):
                if not alike(row[to + length], row[after + length]):
                    break
                length += 1
                saves = sum(len(stretch.sheets) for stretch in row[after : after + length])
                jumps.append(_Jump(after, to, to + length, saves))
    best = max(jumps, key=lambda jump: (jump.saves, -jump.to), default=None)
    return best if best is not None and best.saves >= _LEAST_SAVED else None


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
