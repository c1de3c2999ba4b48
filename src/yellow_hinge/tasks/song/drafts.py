"""Chart text while it is being typed: what it reads as, or what is to mend in it."""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import parse_chart, write
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.model import Song
from yellow_hinge.theory.pretty import counted


class ChartCheck(Struct, frozen=True):
    """The outcome of reading the text: a chart, or the problems."""

    chart: Chart | None
    problems: tuple[Problem, ...]

    @property
    def verdict(self) -> str:
        """One line for under the text."""
        if self.chart is None:
            return f"{counted(len(self.problems), 'place')} to mend; the song stays as it was"
        played = self.chart.played
        chords = sum(len(bar.bar.chords) for bar in played)
        bars = counted(len(played), "bar")
        return f"Read: {bars}, {counted(chords, 'chord')} in {self.chart.key.pretty}"


def check(text: str) -> ChartCheck:
    """Read the chart as it stands."""
    try:
        return ChartCheck(parse_chart(text), ())
    except BadInput as error:
        return ChartCheck(None, error.problems)


def shown_text(chart: Chart) -> str:
    """The chart as text: as it was typed, or written out; nothing for a chart with nothing in it."""
    return chart.text or (write(chart).decode("utf-8") if chart.sections else "")


def checked_as_it_is(song: Song, draft: str | None) -> ChartCheck:
    """What is to be said about the text of a song that was opened: the song's own chart is read, a
    draft is not."""
    return ChartCheck(song.chart, ()) if draft is None else check(draft)


def draft_remarks(read: ChartCheck) -> tuple[Problem, ...]:
    """What to say of text that a project brought along unread: the song is without it."""
    if read.chart is not None:
        remedy = "type on, or take it back, on the Song page"
        return (Problem("chart text", "it holds changes that are not in the song yet", remedy),)
    places = "; ".join(f"{problem.place}: {problem.what}" for problem in read.problems[:2])
    what = f"{read.verdict} ({places})"
    return (Problem("chart text", what, "mend it on the Song page, F8 goes from place to place"),)


def alike(one: str, other: str) -> int:
    """How many signs two texts have in common from their beginning."""
    most = min(len(one), len(other))
    return next((place for place in range(most) if one[place] != other[place]), most)


def changed_lines(before: str, after: str) -> tuple[int, int]:
    """The line where a change begins and the line where what is new ends, from 0."""
    start = alike(before, after)
    end = len(after) - alike(before[start:][::-1], after[start:][::-1])
    first = after.count("\n", 0, start)
    return first, first + after.count("\n", start, end)
