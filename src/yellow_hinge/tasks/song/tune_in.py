"""A tune that was played in goes into the song, and into the chart's text as it would be typed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction

from msgspec.structs import replace

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.formats.chart_text import parse_chart, tune_line
from yellow_hinge.rhythm.played_in import TuneNote
from yellow_hinge.song.chart import Bar, Chart
from yellow_hinge.song.edits import Edit, edit_chart
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune_edits import with_tune


def play_in(
    song: Song, notes: Sequence[TuneNote], start: Fraction, end: Fraction, gesture: str, *, since: Song
) -> Edit:
    """The song with other notes in the bars from ``start`` to ``end`` (quarters); the rest of the text stays
    where that can be. Steps of one ``gesture``, which began with the song ``since``, are undone together."""
    wanted = with_tune(since.chart, notes, start, end)
    text = _text_of(since.chart.text, wanted)
    edit = edit_chart(song, replace(wanted, text=text), gesture, since)
    return replace(edit, label="Play the tune in")


def _text_of(text: str, wanted: Chart) -> str:
    """The typed text with other melody lines, so that it says the wanted chart; "" where that fails: it is
    written out then."""
    rows = "\n".join(_lines(text.splitlines(), _bars(wanted)))
    try:
        read = parse_chart(f"{rows}\n")
    except YellowHingeError:
        return ""
    return f"{rows}\n" if replace(read, text="", ids=wanted.ids) == wanted else ""


def _bars(chart: Chart) -> list[Bar]:
    return [bar for section in chart.sections for bars in (section.bars, *section.endings) for bar in bars]


def _lines(lines: Sequence[str], bars: Sequence[Bar]) -> Iterator[str]:
    """The lines with a melody line behind each row of bars that has a tune, and none behind the others."""
    place, behind_row = 0, False
    for line in lines:
        plain = line.strip()
        if plain.startswith("|"):
            count = sum(bool(piece.strip()) for piece in plain.split("|"))
            row = bars[place : place + count]
            place += count
            yield line
            if any(bar.melody for bar in row):
                yield tune_line(row)
            behind_row = True
        elif not (behind_row and plain.lower().startswith("melody:")):
            yield line
            behind_row = behind_row and (not plain or plain.lower().startswith("lyrics:"))
