"""Version 1 of the project file, and how it becomes version 2.

Version 1 hung decisions on places in playing order, repeats written out, and had one arrangement
with settings. Rounds of a section are alike now, so of several rounds the first is taken, and a
later one where only that one was decided.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from yellow_hinge.errors import Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.chart_text.tokens import SECTION, header, row_kind, segments
from yellow_hinge.song.chart import Chart

Raw = dict[str, Any]
_MOVED = ("key", "meter", "tempo")


def from_version_1(raw: Raw) -> tuple[Raw, list[Problem]]:
    """A version 2 project, with remarks about what could not be taken along."""
    text = upgraded_chart(raw["chart"])
    chart = chart_text.parse_chart(text)
    settings = dict(raw["settings"])
    decided = _Decided(raw, chart, locked=bool(settings.pop("take", 0)))
    own = {"schema", "chart", "settings", "choices", "asks", "tastes", "swaps", "keys_set", "untouched"}
    take = {
        "id": 0,
        "name": "First take",
        **{name: value for name, value in settings.items() if name != "hands"},
        "tastes": raw.get("tastes", {}),
        "choices": decided.choices,
        "asks": decided.asks,
        "swaps": decided.swaps,
        "keys_set": decided.keys_set,
        "untouched": decided.untouched,
    }
    upgraded = {
        **{name: value for name, value in raw.items() if name not in own},
        "schema": "yellow-hinge/project/2",
        "chart": text,
        "ids": [written.id for written in chart.written],
        "hands": settings["hands"],
        "current": 0,
        "takes": [take],
    }
    return upgraded, decided.remarks


class _Decided:
    """What was decided, by written chord."""

    def __init__(self, raw: Raw, chart: Chart, locked: bool) -> None:
        self.remarks: list[Problem] = []
        self._locked = locked
        #: written place in playing order -> id of the written chord
        self._ids = [
            chart.written[bar.first + number].id
            for bar in chart.played
            for number in range(len(bar.bar.chords))
        ]
        self.swaps: dict[str, Any] = {}
        by_place = {swap["written"]: swap["chords"] for swap in raw.get("swaps", [])}
        for place, row in sorted(by_place.items()):
            if 0 <= place < len(self._ids):
                self._first(self.swaps, str(self._ids[place]), row)
        self._parts = list(self._slots(by_place))
        self.choices = self._by_slot(raw.get("choices", []), lambda one: bool(one["locked"]))
        self.asks = self._by_slot(raw.get("asks", []), lambda _: True)
        for choice in self.choices.values():
            choice["locked"] = bool(choice["locked"]) or self._locked
        self.keys_set: dict[str, Any] = {}
        for place, key in sorted((int(at), key) for at, key in raw.get("keys_set", {}).items()):
            if 0 <= place < len(self._ids):
                self._first(self.keys_set, str(self._ids[place]), key)
        untouched = raw.get("untouched", [])
        self.untouched = sorted({self._ids[at] for at in untouched if 0 <= at < len(self._ids)})

    def _slots(self, swaps: dict[int, Any]) -> Iterator[str | None]:
        """The new name of every slot in playing order; None where its round has other chords."""
        for place, written in enumerate(self._ids):
            row = swaps.get(place)
            same = row == self.swaps.get(str(written))
            for part in range(len(row) if row else 1):
                yield (f"{written}.{part + 1}" if row else str(written)) if same else None

    def _by_slot(self, read_in: list[Any], decided: Any) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for name, value in zip(self._parts, read_in, strict=False):
            if value is None:
                continue
            if name is not None and (name not in found or (decided(value) and not decided(found[name]))):
                found[name] = dict(value)
            elif decided(value) and (name is None or found[name] != value):
                self._say_left_out()
        return found

    def _first(self, found: dict[str, Any], name: str, value: Any) -> None:
        if found.setdefault(name, value) != value:
            self._say_left_out()

    def _say_left_out(self) -> None:
        remark = Problem(
            "project",
            "rounds of a section were decided differently; all rounds are as the first one now",
            "vary a round with a take of its own",
        )
        if remark not in self.remarks:
            self.remarks.append(remark)


# --- the chart ---------------------------------------------------------------------------


def upgraded_chart(text: str) -> str:
    """A version 1 chart in today's grammar: key, meter and tempo counted wherever they stood, two
    sections could have one name, and the melody rows of a section ran on over its bars."""
    lines = text.splitlines()
    bars_at = [k for k, line in enumerate(lines) if _is_bars(line)]
    late = [k for k, line in enumerate(lines) if bars_at and k > bars_at[0] and _moves(line)]
    moved = {name: line for line in (lines[k] for k in late) for name in [_moves(line)]}
    kept = [line for k, line in enumerate(lines) if k not in late and _moves(line) not in moved]
    kept = [line for line in moved.values() if line] + kept
    return "\n".join(_with_own_tunes(list(_with_own_names(kept)))) + "\n"


def _moves(line: str) -> str | None:
    found = header(line)
    return found[0] if found and found[0] in _MOVED else None


def _is_bars(line: str) -> bool:
    plain = line.strip()
    special = header(line) or row_kind(line) or SECTION.fullmatch(line)
    return "|" in plain and not plain.startswith("#") and not special


def _with_own_names(lines: list[str]) -> Iterator[str]:
    seen: set[str] = set()
    for line in lines:
        match = SECTION.fullmatch(line)
        if match is None:
            yield line
            continue
        name = match[1].strip()
        own = next(one for one in _numbered(name) if one not in seen)
        seen.add(own)
        yield line if own == name else re.sub(r"\[[^\]]*\]", f"[{own}]", line, count=1)


def _numbered(name: str) -> Iterator[str]:
    yield name
    number = 2
    while True:
        yield f"{name} {number}".strip()
        number += 1


def _with_own_tunes(lines: list[str]) -> list[str]:
    """Each melody row below its own row of bars."""
    out: list[str] = []
    stretch: list[str] = []
    for line in lines:
        if SECTION.fullmatch(line):
            out += _tunes_in_place(stretch)
            stretch = []
        stretch.append(line)
    return out + _tunes_in_place(stretch)


def _tunes_in_place(lines: list[str]) -> list[str]:
    """One section's lines, its tune dealt out over its rows of bars in order."""
    pieces = [
        segment.text.strip()
        for line in lines
        if row_kind(line) == "melody"
        for segment in segments(line, line.index(":") + 1)
    ]
    if not pieces:
        return lines
    out: list[str] = []
    for line in lines:
        if row_kind(line) == "melody":
            continue
        out.append(line)
        if _is_bars(line):
            count = sum(1 for _ in segments(line, 0))
            own, pieces = pieces[:count], pieces[count:]
            if any(own):
                out.append("melody:" + ("" if own[0] else " |") + " |".join(f" {piece}" for piece in own))
    return out
