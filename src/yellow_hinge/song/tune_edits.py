"""A tune that was played in, in the bars of a chart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction

from msgspec.structs import replace

from yellow_hinge.rhythm.played_in import TuneNote
from yellow_hinge.song.chart import Bar, Chart, MelodyNote, Section
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import Pitch, pitch_for_key


def with_tune(chart: Chart, notes: Sequence[TuneNote], start: Fraction, end: Fraction) -> Chart:
    """The chart with other notes in all bars that begin from ``start`` and before ``end`` (quarters from the
    first bar line); a bar that is played several times has what was played the first time. Notes over a
    bar line are tied. It has no text then."""
    tunes: dict[int, tuple[MelodyNote, ...]] = {}
    for played, after in zip(chart.played, [*chart.played[1:], None], strict=True):
        if start <= played.start_quarters < end and played.place not in tunes:
            goes_on = after is not None and after.place == played.place + 1 and after.start_quarters < end
            tunes[played.place] = _bar_tune(played.bar, played.start_quarters, notes, goes_on)
    place = 0
    sections: list[Section] = []
    for section in chart.sections:
        rows = []
        for bars in (section.bars, *section.endings):
            rows.append(tuple(_with(bar, place + k, tunes) for k, bar in enumerate(bars)))
            place += len(bars)
        sections.append(replace(section, bars=rows[0], endings=tuple(rows[1:])))
    return replace(chart, sections=tuple(sections), text="")


def _with(bar: Bar, place: int, tunes: Mapping[int, tuple[MelodyNote, ...]]) -> Bar:
    return replace(bar, melody=tunes[place]) if place in tunes else bar


def _bar_tune(bar: Bar, start: Fraction, notes: Sequence[TuneNote], goes_on: bool) -> tuple[MelodyNote, ...]:
    """The notes of a bar with its rests, in its beats; nothing for a bar in which all is silent. They go
    over its end where the bar behind it is the one that is played next."""
    unit, end = bar.meter.quarters_per_beat, start + bar.quarters
    row: list[MelodyNote] = []
    at = start
    for note in sorted(notes):
        first, last = max(note.start, start), min(note.end, end)
        if first >= last:
            continue
        if first > at:
            row.append(MelodyNote(None, (first - at) / unit))
        row.append(
            MelodyNote(_spelled(note.key, bar.key), (last - first) / unit, tied=goes_on and note.end > end)
        )
        at = last
    if row and at < end:
        row.append(MelodyNote(None, (end - at) / unit))
    return tuple(row)


def _spelled(key: int, where: Key) -> Pitch:
    return pitch_for_key(key, where.prefers_flats)
