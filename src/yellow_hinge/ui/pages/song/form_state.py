"""The form as lines of bars, with all that changes on the way, in words. Without a window."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from fractions import Fraction

from msgspec import Struct

from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.chart import Bar, Chart, Section, Syllable

#: Rows of words that are shown under a bar; the others are in the text.
MOST_ROWS = 3
_TIMES = {2: "twice"}


class FormBar(Struct, frozen=True):
    """A bar on a line: its number where it is first played (0: never), what begins an ending there, what
    changes with it, how wide it is (a share of the line), and its rows of words. ``place`` counts written
    bars from 0."""

    bar: Bar
    place: int
    number: int
    ending: str
    change: str
    share: float
    words: tuple[str, ...]


class FormLine(Struct, frozen=True):
    """Some bars of a section that stand on one line; ``rows`` of words stand under it."""

    heading: str
    bars: tuple[FormBar, ...]

    @property
    def rows(self) -> int:
        return max((len(bar.words) for bar in self.bars), default=0)

    @property
    def changes(self) -> bool:
        """Whether something stands over its bars."""
        return any(bar.change or bar.ending for bar in self.bars)


def before_the_form(chart: Chart) -> str:
    """The order of the sections and the pickup, in words; empty where there is neither."""
    words = [f"Order: {', '.join(name or 'the first bars' for name in chart.form)}."] if chart.form else []
    if chart.pickup:
        sung = " ".join(syllables(row) for row in chart.pickup_words[:1])
        beats = beats_text(chart.pickup)
        pickup = f"Pickup: {beats} beat{'' if chart.pickup == 1 else 's'} before the first bar"
        words.append(f"{pickup} ({sung})." if sung else f"{pickup}.")
    return " ".join(words)


def syllables(row: tuple[Syllable, ...]) -> str:
    """A row of words as it reads: fal-ling snow."""
    text = "".join(
        "" if syllable.held else syllable.text + ("-" if syllable.joined else " ") for syllable in row
    )
    return text.strip()


def form_lines(chart: Chart, room: int) -> list[FormLine]:
    """The sections as lines; ``room`` is how many chords have place beside each other."""
    numbers = _numbers(chart)
    changes = dict(_changes(chart))
    lines: list[FormLine] = []
    place = 0
    for section in chart.sections:
        own = []
        for bar, ending in _with_endings(section):
            own.append((bar, place, ending, changes.get(place, "")))
            place += 1
        lines += _lines_of(section, own, room, numbers)
    return lines


def _numbers(chart: Chart) -> dict[int, int]:
    """Place of a written bar -> its number where it is first played."""
    numbers: dict[int, int] = {}
    for played in chart.played:
        numbers.setdefault(played.place, played.number)
    return numbers


def _with_endings(section: Section) -> Iterator[tuple[Bar, str]]:
    """Every written bar, and which ending begins with it."""
    for bar in section.bars:
        yield bar, ""
    for number, ending in enumerate(section.endings, 1):
        for place, bar in enumerate(ending):
            yield bar, f"{number}." if place == 0 else ""


def _changes(chart: Chart) -> Iterator[tuple[int, str]]:
    """Place of a written bar -> what is another there than in the bar before it."""
    key, meter, tempo = chart.key, chart.meter, chart.tempo
    place = 0
    for section in chart.sections:
        for bar in section.every_bar:
            words = []
            if bar.key != key:
                words.append(bar.key.pretty)
            if bar.meter != meter:
                words.append(str(bar.meter))
            if bar.tempo != tempo:
                words.append(f"{bar.tempo} beats a minute")
            key, meter, tempo = bar.key, bar.meter, bar.tempo
            yield place, ", ".join(words)
            place += 1


def _lines_of(
    section: Section, own: list[tuple[Bar, int, str, str]], room: int, numbers: Mapping[int, int]
) -> Iterator[FormLine]:
    """The bars of a section, as many to a line as fit."""
    if not own:
        return
    densest = max(len(bar.chords) for bar, *_ in own)
    step = next((count for count in (8, 4, 2) if count * densest <= room), 1)
    usual = Counter(bar.quarters for bar, *_ in own).most_common(1)[0][0]
    full = usual * min(step, len(own))
    line: list[FormBar] = []
    heading, length = _heading(section), Fraction(0)
    for bar, place, ending, change in own:
        if line and length + bar.quarters > full:
            yield FormLine(heading, tuple(line))
            line, heading, length = [], "", Fraction(0)
        share = min(1.0, float(bar.quarters / full))
        number = numbers.get(place, 0)
        line.append(FormBar(bar, place, number, ending, change=change, share=share, words=_words(bar)))
        length += bar.quarters
    yield FormLine(heading, tuple(line))


def _words(bar: Bar) -> tuple[str, ...]:
    rows = tuple(syllables(row) for row in bar.words[:MOST_ROWS])
    return rows if any(rows) else ()


def _heading(section: Section) -> str:
    name = section.name or "Form"
    times = section.times
    if section.endings and times == 1:
        return f"{name}, {len(section.endings)} endings"
    return f"{name}, {_TIMES.get(times, f'{times} times')}" if times > 1 else name
