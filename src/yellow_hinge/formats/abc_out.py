"""Writing tune, words and chord symbols as ABC notation (version 2.1); repeats as repeats where they are two
rounds, everything else written out."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import groupby, pairwise

from yellow_hinge.song.chart import Bar, Chart, MelodyNote, PlayedBar, Syllable
from yellow_hinge.theory.chord_symbol import symbol_text
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import Pitch

_LETTERS = "CDEFGAB"
_SHARPS = (3, 0, 4, 1, 5, 2, 6)
_SIGNS = {-2: "__", -1: "_", 0: "=", 1: "^", 2: "^^"}
_UNIT = Fraction(1, 2)  # quarters of L:1/8
_BARS_A_LINE = 4


def write(chart: Chart) -> bytes:
    """The chart as a tune; bars without a tune have rests, so that every symbol has its place."""
    lines = [
        "X:1", f"T:{_plain(chart.title) or 'Untitled'}",
        *([f"C:{_plain(chart.composer)}"] if chart.composer else []),
        f"M:{chart.meter}", "L:1/8", f"Q:1/{chart.meter.unit}={chart.tempo}", f"K:{_key(chart.key)}",
    ]  # fmt: skip
    lines += _Tune(chart).lines()
    return ("\n".join(lines) + "\n").encode()


def _plain(text: str) -> str:
    return " ".join(text.replace("%", " ").split())


def _key(key: Key) -> str:
    return f"{key.tonic}{'m' if key.minor else ''}"


class _Tune:
    def __init__(self, chart: Chart) -> None:
        self._chart = chart
        self._key, self._meter, self._tempo = chart.key, chart.meter, chart.tempo
        self._alters: dict[tuple[int, int], int] = {}

    def lines(self) -> Iterator[str]:
        chart = self._chart
        if chart.pickup:
            yield self._notes(chart.pickup_melody, (), chart.pickup, chart.meter.quarters_per_beat) + " |"
            if chart.pickup_words:
                yield from (f"w: {_words(row)}" for row in chart.pickup_words)
        for (name, _), group in groupby(chart.played, key=lambda bar: (bar.section.name, bar.round)):
            bars = list(group)
            turn = bars[0].round
            if name:
                yield f"P:{_plain(name)}{f' {turn}' if turn > 1 else ''}"
            for first in range(0, len(bars), _BARS_A_LINE):
                yield from self._line(bars[first : first + _BARS_A_LINE])

    def _line(self, bars: Sequence[PlayedBar]) -> Iterator[str]:
        text, sung = [], []
        for bar in bars:
            text.append("".join(self._changes(bar.bar)) + self._bar(bar.bar))
            rows = bar.bar.words
            sung.append(_words(rows[bar.round - 1]) if bar.round <= len(rows) else "")
        yield " | ".join(text) + " |"
        if any(sung):
            yield "w: " + " | ".join(sung)

    def _changes(self, bar: Bar) -> Iterator[str]:
        if bar.key != self._key:
            self._key = bar.key
            yield f"[K:{_key(bar.key)}] "
        if bar.meter != self._meter:
            self._meter = bar.meter
            yield f"[M:{bar.meter}] "
        if bar.tempo != self._tempo:
            self._tempo = bar.tempo
            yield f"[Q:1/{self._chart.meter.unit}={bar.tempo}] "

    def _bar(self, bar: Bar) -> str:
        chords, now = [], Fraction(0)
        for chord_at in bar.chords:
            chords.append((now, symbol_text(chord_at.chord)))
            now += chord_at.beats
        notes = bar.melody or (MelodyNote(None, Fraction(bar.meter.beats)),)
        return self._notes(notes, chords, Fraction(bar.meter.beats), bar.meter.quarters_per_beat)

    def _notes(
        self,
        notes: Sequence[MelodyNote],
        chords: Sequence[tuple[Fraction, str]],
        total: Fraction,
        unit: Fraction,
    ) -> str:
        """Notes and symbols of a bar; a note under which the chord changes is cut and tied."""
        self._alters.clear()
        places = [at for at, _ in chords]
        named = dict(chords)
        pieces: list[str] = []
        now = Fraction(0)
        for note in notes or (MelodyNote(None, total),):
            end = now + note.beats
            cuts = [now, *(at for at in places if now < at < end), end]
            for number, (start, stop) in enumerate(pairwise(cuts)):
                symbol = f'"{named[start]}"' if start in named else ""
                last = number == len(cuts) - 2
                tie = "-" if note.pitch is not None and (not last or note.tied) else ""
                pieces.append(
                    f"{symbol}{self._note(note.pitch)}{_length((stop - start) * unit / _UNIT)}{tie}"
                )
            now = end
        return " ".join(pieces)

    def _note(self, pitch: Pitch | None) -> str:
        if pitch is None:
            return "z"
        name, octave = pitch.name, pitch.octave
        place = (name.step, octave)
        holds = self._alters.get(place, self._signature(name.step))
        sign = "" if holds == name.alter else _SIGNS[max(-2, min(2, name.alter))]
        self._alters[place] = name.alter
        letter = _LETTERS[name.step]
        if octave >= 5:
            return f"{sign}{letter.lower()}{chr(39) * (octave - 5)}"
        return f"{sign}{letter}{',' * (4 - octave)}"

    def _signature(self, step: int) -> int:
        fifths = self._key.fifths
        if fifths > 0:
            return int(step in _SHARPS[:fifths])
        return -int(step in tuple(reversed(_SHARPS))[: -fifths or None]) if fifths < 0 else 0


def _length(units: Fraction) -> str:
    if units == 1:
        return ""
    return str(units.numerator) if units.denominator == 1 else f"{units.numerator}/{units.denominator}"


def _words(row: Sequence[Syllable]) -> str:
    """A row of syllables as ABC has them."""
    text = ""
    for syllable in row:
        if syllable.held:
            text += " _"
        else:
            plain = syllable.text.replace("-", "\\-").replace(" ", "~").replace("\u00a0", "~")
            text += ("" if text.endswith("-") else " ") + plain + ("-" if syllable.joined else "")
    return text.strip()
