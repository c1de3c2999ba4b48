"""Writing tune, words and chord symbols as ABC notation (version 2.1); the rounds of a section as a repeat
with its endings, what a form plays elsewhere written out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from fractions import Fraction
from itertools import pairwise

from msgspec import Struct

from yellow_hinge.formats.abc_words import escaped
from yellow_hinge.formats.notation import Accidentals, is_odd, power_below, tuplet_of
from yellow_hinge.formats.repeats_out import Sheet, sheets_of
from yellow_hinge.song.chart import Bar, Chart, MelodyNote, Syllable
from yellow_hinge.song.words import WITHIN, Singing, Verse
from yellow_hinge.theory.chord_symbol import symbol_text
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import STEP_LETTERS, Pitch

_SIGNS = {-2: "__", -1: "_", 0: "=", 1: "^", 2: "^^"}
_UNIT = Fraction(1, 2)  # quarters of L:1/8
_BARS_A_LINE = 4


def write(chart: Chart) -> bytes:
    """The chart as a tune; bars without a tune have rests, so that every symbol has its place, and their
    words below them as text."""
    lines = [
        "X:1", f"T:{_plain(chart.title) or 'Untitled'}",
        *([f"C:{_plain(chart.composer)}"] if chart.composer else []),
        f"M:{chart.meter}", "L:1/8", f"Q:1/{chart.meter.unit}={chart.tempo}", f"K:{_key(chart.key)}",
    ]  # fmt: skip
    lines += _Tune(chart).lines()
    return ("\n".join(lines) + "\n").encode()


def _plain(text: str) -> str:
    return " ".join(text.replace("\\", "").replace("%", "\\%").split())


def _key(key: Key) -> str:
    return f"{key.tonic}{'m' if key.minor else ''}"


class _Piece(Struct, frozen=True):
    """What is written as one note: how long, in quarters, what stands before it, and whether it is tied
    on."""

    quarters: Fraction
    pitch: Pitch | None
    before: str = ""
    tied: bool = False


class _Tune:
    def __init__(self, chart: Chart) -> None:
        self._chart, self._singing = chart, Singing(chart)
        self._key, self._meter, self._tempo = chart.key, chart.meter, chart.tempo
        self._accidentals = Accidentals(chart.key)

    def lines(self) -> Iterator[str]:
        chart = self._chart
        if chart.pickup:
            notes = chart.pickup_melody or (MelodyNote(None, chart.pickup),)
            yield self._notes(notes, {}, {}, chart.meter.quarters_per_beat) + " |"
            yield from self._words([self._singing.verses(-1)])
        played = chart.played
        sheets = sheets_of(played, lambda index: played[index].place)
        row: list[Sheet] = []
        named: tuple[str, tuple[int, ...]] | None = None
        for sheet in sheets:
            name = played[sheet.place].section.name
            own = (name, () if sheet.repeated else sheet.rounds)
            if row and (own != named or len(row) == _BARS_A_LINE or row[-1].closes or row[-1].ends):
                yield from self._line(row)
                row = []
            if own != named and name:
                turn = sheet.rounds[0]
                yield f"P:{_plain(name)}{f' ({turn})' if turn > 1 else ''}"
            named = own
            row.append(sheet)
        yield from self._line(row)

    def _line(self, row: Sequence[Sheet]) -> Iterator[str]:
        text, sung = "", []
        for sheet in row:
            bar, verses = self._chart.played[sheet.place].bar, self._singing.verses(sheet.place, sheet.rounds)
            text += self._opened(sheet) + "".join(self._changes(bar))
            text += self._bar(bar, () if bar.melody else verses) + self._closed(sheet)
            sung.append(verses if bar.melody else [])
        yield text.rstrip()
        yield from self._words(sung)

    def _words(self, row: Sequence[Sequence[Verse]]) -> Iterator[str]:
        """The lines of words under some bars; an empty verse before others keeps its line."""
        for number in range(1, max((verse.number for bar in row for verse in bar), default=0) + 1):
            texts = [next((_words(verse) for verse in bar if verse.number == number), "") for bar in row]
            while texts and not texts[-1]:
                texts.pop()
            yield f"w: {' | '.join(texts) or '*'}"

    def _opened(self, sheet: Sheet) -> str:
        text = "|: " if sheet.begins else ""
        return text + (f"[{','.join(map(str, sheet.ending))} " if sheet.ending else "")

    def _closed(self, sheet: Sheet) -> str:
        if sheet.ends:
            return f" {':' * (sheet.ends - 1)}| "
        return " || " if sheet.closes else " | "

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

    def _bar(self, bar: Bar, verses: Sequence[Verse]) -> str:
        chords, now = {}, Fraction(0)
        for chord_at in bar.chords:
            chords[now] = symbol_text(chord_at.chord)
            now += chord_at.beats
        below: dict[Fraction, list[str]] = {}
        for verse in verses:
            for at, syllable in verse.syllables:
                if not syllable.held:
                    below.setdefault(at, []).append(f"_{verse.number}:{_below(syllable)}")
        notes = bar.melody or (MelodyNote(None, Fraction(bar.meter.beats)),)
        return self._notes(notes, chords, below, bar.meter.quarters_per_beat)

    def _notes(
        self, notes: Sequence[MelodyNote], chords: Mapping[Fraction, str],
        below: Mapping[Fraction, Sequence[str]], unit: Fraction,
    ) -> str:  # fmt: skip
        """Notes and symbols of a bar; a note under which the chord changes is cut and tied."""
        self._accidentals = Accidentals(self._key)
        pieces: list[_Piece] = []
        now = Fraction(0)
        for note in notes:
            end = now + note.beats
            cuts = [now, *(at for at in chords if now < at < end), end]
            for number, (start, stop) in enumerate(pairwise(cuts)):
                before = "".join(f'"{text}"' for text in below.get(start, ()))
                before += f'"{chords[start]}"' if start in chords else ""
                tied = note.pitch is not None and (number < len(cuts) - 2 or note.tied)
                pieces.append(_Piece((stop - start) * unit, note.pitch, before, tied))
            now = end
        return " ".join(self._grouped(pieces))

    def _grouped(self, pieces: Sequence[_Piece]) -> Iterator[str]:
        """Notes with their lengths; those of a tuplet behind what says how many there are."""
        run: list[_Piece] = []
        for number, piece in enumerate(pieces):
            if not run and not is_odd(piece.quarters):
                yield self._written(piece, piece.quarters)
                continue
            run.append(piece)
            if not is_odd(sum((one.quarters for one in run), Fraction(0))) or number == len(pieces) - 1:
                yield from self._tuplet(run)
                run = []

    def _tuplet(self, run: Sequence[_Piece]) -> Iterator[str]:
        actual = max(tuplet_of(piece.quarters) for piece in run)
        normal = power_below(actual)
        if actual > 9 or len(run) > 9:
            yield from (self._written(piece, piece.quarters) for piece in run)
            return
        usual = (actual, normal, len(run)) == (3, 2, 3)
        opened = f"({actual}" + ("" if usual else f":{normal}:{len(run)}")
        for number, piece in enumerate(run):
            yield ("" if number else opened) + self._written(piece, piece.quarters * actual / normal)

    def _written(self, piece: _Piece, quarters: Fraction) -> str:
        return (
            f"{piece.before}{self._note(piece.pitch)}{_length(quarters / _UNIT)}{'-' if piece.tied else ''}"
        )

    def _note(self, pitch: Pitch | None) -> str:
        if pitch is None:
            return "z"
        name, octave = pitch.name, pitch.octave
        alter = self._accidentals.sign(name, octave)
        sign = "" if alter is None else _SIGNS[max(-2, min(2, alter))]
        letter = STEP_LETTERS[name.step]
        if octave >= 5:
            return f"{sign}{letter.lower()}{chr(39) * (octave - 5)}"
        return f"{sign}{letter}{',' * (4 - octave)}"


def _length(units: Fraction) -> str:
    if units == 1:
        return ""
    return str(units.numerator) if units.denominator == 1 else f"{units.numerator}/{units.denominator}"


def _below(syllable: Syllable) -> str:
    """A word as text below a symbol; it cannot hold what ends it. A hyphen behind it goes on, a backslash
    says that what is before it is meant."""
    text = syllable.text.replace(WITHIN, " ").replace('"', "\u201d").replace("%", "\\%")
    return text + ("-" if syllable.joined else "\\" if text.endswith(("-", "\\")) else "")


def _words(verse: Verse) -> str:
    """The syllables of a bar as ABC has them."""
    text = ""
    for _, syllable in verse.syllables:
        if syllable.held:
            text += " _"
        else:
            text += ("" if text.endswith("-") and not text.endswith("\\-") else " ") + escaped(syllable.text)
            text += "-" if syllable.joined else ""
    return text.strip()
