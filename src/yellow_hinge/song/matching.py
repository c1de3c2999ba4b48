"""Which chord of a changed chart is which chord of the old one."""

from __future__ import annotations

from msgspec.structs import replace

from yellow_hinge.song.carry import Recharted
from yellow_hinge.song.chart import Chart, Written


def matched(old: Chart, new: Chart) -> tuple[Chart, Recharted]:
    """The new chart with the ids of the old one's chords where they are still there, and what is
    needed to carry an arrangement along.

    Sections belong together by name, or by place where one was renamed. In each, equal chords are
    told apart by their surroundings; a chord that only changed its kind keeps its id. What is left
    over is looked for in the other sections.
    """
    names = _section_names(old, new)
    pairs: list[tuple[Written, Written]] = []
    for name, now in names.items():
        before, after = (
            [written for written in chart.written if written.section == section]
            for chart, section in ((old, name), (new, now))
        )
        pairs += _aligned(before, after)
    gone, come = {written.index for written, _ in pairs}, {one.index for _, one in pairs}
    pairs += _aligned(
        [written for written in old.written if written.index not in gone],
        [written for written in new.written if written.index not in come],
        exact=True,
    )
    fresh = max((written.id for written in old.written), default=-1) + 1
    ids = {after.index: before.id for before, after in pairs}
    for written in new.written:
        if written.index not in ids:
            ids[written.index], fresh = fresh, fresh + 1
    chart = replace(new, ids=tuple(ids[written.index] for written in new.written))
    by_id = chart.by_id
    kept = {before.id: (before, by_id[before.id]) for before, _ in pairs}
    return chart, Recharted(kept, names, old.by_id)


def _section_names(old: Chart, new: Chart) -> dict[str, str]:
    """Old section name -> new one."""
    before, after = [s.name for s in old.sections], [s.name for s in new.sections]
    names = {name: name for name in before if name in after}
    if len(before) == len(after):
        for one, other in zip(before, after, strict=True):
            if one not in names and other not in before:
                names[one] = other
    return names


#: Chords of two stretches that are compared each with each; beyond that only their common
#: beginning and end are matched.
_MOST_COMPARED = 400_000
_SAME, _SAME_LENGTH, _SAME_BESIDE, _SAME_ROOT = 8, 2, 1, 3


def _aligned(
    before: list[Written], after: list[Written], exact: bool = False
) -> list[tuple[Written, Written]]:
    """Chords of two stretches that belong together, in order: what they begin and end with in
    common, and between these the alignment of most likeness."""
    head = 0
    while head < min(len(before), len(after)) and _alike(before[head], after[head]):
        head += 1
    tail = 0
    while tail < min(len(before), len(after)) - head and _alike(before[-1 - tail], after[-1 - tail]):
        tail += 1
    pairs = list(zip(before[:head], after[:head], strict=True))
    middle = (before[head : len(before) - tail], after[head : len(after) - tail])
    if len(middle[0]) * len(middle[1]) <= _MOST_COMPARED:
        pairs += _most_alike(*middle, exact)
    return pairs + list(zip(before[len(before) - tail :], after[len(after) - tail :], strict=True))


def _alike(written: Written, other: Written) -> bool:
    return written.chord == other.chord and written.beats == other.beats


def _most_alike(before: list[Written], after: list[Written], exact: bool) -> list[tuple[Written, Written]]:
    """The order-keeping pairing with the greatest sum of likenesses (dynamic programming)."""
    best = [[0] * (len(after) + 1) for _ in range(len(before) + 1)]
    for i in range(len(before) - 1, -1, -1):
        for j in range(len(after) - 1, -1, -1):
            like = _likeness(before, after, i, j, exact)
            best[i][j] = max(best[i + 1][j], best[i][j + 1], like + best[i + 1][j + 1] if like else 0)
    pairs, i, j = [], 0, 0
    while i < len(before) and j < len(after):
        like = _likeness(before, after, i, j, exact)
        if like and best[i][j] == like + best[i + 1][j + 1]:
            pairs.append((before[i], after[j]))
            i, j = i + 1, j + 1
        elif best[i][j] == best[i + 1][j]:
            i += 1
        else:
            j += 1
    return pairs


def _likeness(before: list[Written], after: list[Written], i: int, j: int, exact: bool) -> int:
    symbol, chord_symbol = before[i].chord, after[j].chord
    if symbol != chord_symbol:
        same_root = symbol is not None and chord_symbol is not None and symbol.root == chord_symbol.root
        return 0 if exact or not same_root else _SAME_ROOT
    like = _SAME + _SAME_LENGTH * (before[i].beats == after[j].beats)
    for step in (-1, 1):
        inside = 0 <= i + step < len(before) and 0 <= j + step < len(after)
        like += _SAME_BESIDE * (inside and before[i + step].chord == after[j + step].chord)
    return like
