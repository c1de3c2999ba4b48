"""Reading the headings of a chart: what holds for the whole song, and what holds from a bar on."""

from __future__ import annotations

import re
from fractions import Fraction

from yellow_hinge import strict
from yellow_hinge.formats.chart_text.complaints import Complaints, Place
from yellow_hinge.formats.chart_text.tokens import HEADER, HEADERS, METER, ROWS, fraction, header
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter
from yellow_hinge.song.chart import Numbering
from yellow_hinge.theory.keys import Key, parse_key

#: Limits on hostile input.
MAX_PICKUP = 16
MOST_IN_A_BAR = 24
_NUMBERINGS: dict[str, Numbering] = {"home": "home", "relative": "relative", "roman": "roman"}


class Headings:
    """What the headings have said so far. ``key``, ``meter`` and ``tempo`` hold from where they stand;
    the others for the whole song, wherever they stand."""

    def __init__(self, complaints: Complaints) -> None:
        self._complaints = complaints
        self.title = self.composer = ""
        self.numbering: Numbering = "home"
        self.pickup: Fraction | None = None
        self.form: tuple[str, Place] | None = None
        self.key, self.meter, self.tempo = parse_key("C"), Meter(), 100

    @property
    def now(self) -> tuple[Key, Meter, int]:
        return self.key, self.meter, self.tempo

    def read_for_song(self, number: int, line: str) -> None:
        """What holds for the whole song; other lines are left alone."""
        heading = header(line)
        if heading is None:
            return
        name, value = heading
        word, place = value.strip(), _place(number, line, value)
        if name == "title":
            self.title = word
        elif name == "composer":
            self.composer = word
        elif name == "form":
            self.form = (value, place) if word else None
        elif name == "pickup":
            self._read_pickup(place, word)
        elif name == "numbers":
            self._read_numbering(place, word)

    def _read_pickup(self, place: Place, word: str) -> None:
        beats = fraction(word)
        if beats is None or beats > MAX_PICKUP:
            remedy = "write the beats before the first bar: 1, 1.5"
            self._complaints.add(place, f"{word!r} is no length of a pickup", remedy)
        else:
            self.pickup = beats

    def _read_numbering(self, place: Place, word: str) -> None:
        if word in _NUMBERINGS:
            self.numbering = _NUMBERINGS[word]
        else:
            self._complaints.add(place, f"{word!r} is no numbering", "write home, relative or roman")

    def read(self, number: int, line: str, name: str, value: str) -> None:
        """Key, meter and tempo hold from here."""
        word, place = value.strip(), _place(number, line, value)
        if name == "key":
            self._complaints.attempt(place, lambda: setattr(self, "key", parse_key(word)))
        elif name == "meter":
            meter = read_meter(METER.fullmatch(word))
            if meter is None:
                self._complaints.add(place, f"{word!r} is not a meter", "write 3/4, 4/4, 6/8")
            else:
                self.meter = meter
        elif name == "tempo":
            tempo = strict.whole(word)
            if tempo is not None and MIN_TEMPO <= tempo <= MAX_TEMPO:
                self.tempo = tempo
            else:
                remedy = f"write beats a minute, {MIN_TEMPO} to {MAX_TEMPO}"
                self._complaints.add(place, f"{word!r} is not a tempo", remedy)


def unknown_line(complaints: Complaints, number: int, line: str) -> None:
    """Say what a line that is nothing could have been."""
    column = len(line) - len(line.lstrip()) + 1
    match = HEADER.fullmatch(line)
    if line.lstrip().startswith("["):
        remedy = "write [Verse] or [Verse] x2"
        complaints.add(Place(number, column), "the section heading is not complete", remedy)
    elif match:
        what = f"{match[1]!r} is not a heading of a chart"
        complaints.add(Place(number, column, len(match[1])), what, f"use {', '.join((*HEADERS, *ROWS))}")
    else:
        what = f"{line.strip()[:24]!r} is outside bar lines"
        remedy = "write chords between bar lines: | C | G7 |"
        complaints.add(Place(number, column, len(line.strip())), what, remedy)


def read_meter(match: re.Match[str] | None) -> Meter | None:
    """A meter from its two numbers; None for one that nobody counts."""
    if match is None:
        return None
    beats, unit = int(match[1]), int(match[2])
    return Meter(beats, unit) if 1 <= beats <= MOST_IN_A_BAR and unit in METER_UNITS else None


def _place(number: int, line: str, value: str) -> Place:
    """Where the value of a heading stands."""
    column = line.index(":") + 2 + len(value) - len(value.lstrip())
    return Place(number, column, max(1, len(value.strip())))
