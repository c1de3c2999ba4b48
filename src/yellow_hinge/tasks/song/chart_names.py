"""Another name for a chord of the chart, as it would be typed: the rest of the text stays."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec.structs import replace

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import Edit, with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library

#: A word of a row of bars, without its length.
_WORD = re.compile(r"[^\s|:%]+")
#: Places in the text that are tried, those nearest to where the chord should stand first.
_MOST_TRIED = 40


def name_in_chart(song: Song, index: int, chord: ChordSymbol, library: Library) -> Edit:
    """The written chord behind a slot called by another name. What was decided on it stays: the keys of
    its grip are other degrees now."""
    slot = song.slots[index]
    place = song.chart.by_id[slot.at.written].index
    wanted = with_chord(song.chart, place, chord)
    named = replace(song, chart=replace(wanted, text=_text_of(song.chart, place, wanted, chord)))
    for take in song.takes:
        choices = take.arrangement.choices
        choice = choices.get(At(slot.at.written))
        if choice is not None:
            left, right = choice.voicing.left.keys, choice.voicing.right.keys
            voicing = classify(left, right, chord, slot.key, library)
            grips = {**choices, At(slot.at.written): replace(choice, voicing=voicing)}
            named = with_arrangement(named, take.id, replace(take.arrangement, choices=grips))
    return Edit(named, f"Call it {chord.pretty}")


def with_chord(chart: Chart, place: int, chord: ChordSymbol) -> Chart:
    """The chart with another chord in one place; it has no text then."""
    count = 0
    sections = []
    for section in chart.sections:
        rows = []
        for bars in (section.bars, *section.endings):
            row = []
            for bar in bars:
                at = place - count
                count += len(bar.chords)
                if 0 <= at < len(bar.chords):
                    chords = list(bar.chords)
                    chords[at] = replace(chords[at], chord=chord)
                    bar = replace(bar, chords=tuple(chords))  # noqa: PLW2901 - the bar as it goes on
                row.append(bar)
            rows.append(tuple(row))
        sections.append(replace(section, bars=rows[0], endings=tuple(rows[1:])))
    return replace(chart, sections=tuple(sections), text="")


def _text_of(chart: Chart, place: int, wanted: Chart, chord: ChordSymbol) -> str:
    """The typed text with one word changed so that it says the wanted chart; "" where no single word
    does that, as in a bar that repeats the one before."""
    tried = sorted(enumerate(_words(chart.text)), key=lambda one: abs(one[0] - place))
    for _, (start, end) in tried[:_MOST_TRIED]:
        text = f"{chart.text[:start]}{chord}{chart.text[end:]}"
        try:
            read = parse_chart(text)
        except YellowHingeError:
            continue
        if replace(read, text="", ids=wanted.ids) == wanted:
            return text
    return ""


def _words(text: str) -> Iterator[tuple[int, int]]:
    """Where the words of the rows of bars begin and end."""
    at = 0
    for line in text.splitlines(keepends=True):
        if line.lstrip().startswith("|"):
            yield from ((at + match.start(), at + match.end()) for match in _WORD.finditer(line))
        at += len(line)
