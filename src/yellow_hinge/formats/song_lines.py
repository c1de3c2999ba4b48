"""A chart from lines of chords with words: what ChordPro and chords over words have in common. They say no
lengths, so a chord has a bar of its own unless bar lines say otherwise."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct, field

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.chart_text.headings import MOST_IN_A_BAR
from yellow_hinge.formats.imported import Imported
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter
from yellow_hinge.song.chart import Bar, Chart, ChordAt, Section, Syllable, Words
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.pitch import NoteName

MOST_BARS = 2_000
NO_LENGTHS = "it says no lengths: each chord has a bar of its own"


class Sung(Struct, frozen=True):
    """A chord (None: no chord) with the words that are sung from it on. ``beats`` is how long it lasts, None
    where nothing says so; ``opens``: a bar begins with it, None where nothing says so."""

    chord: ChordSymbol | None
    words: str = ""
    beats: Fraction | None = None
    opens: bool | None = None


class Lines(Struct):
    """What was read: sections of chords in the order in which they are played; a section that is played again
    is named again without chords."""

    title: str = ""
    composer: str = ""
    key: Key | None = None
    meter: Meter = Meter()
    tempo: int = 100
    sections: list[tuple[str, list[Sung]]] = field(default_factory=list)
    again: list[str] = field(default_factory=list)  # names in playing order
    problems: list[Problem] = field(default_factory=list)

    def holds(self, name: str, value: str, place: str, line: int) -> None:
        """What holds for the whole song: ``key``, ``time``, ``tempo`` or ``capo``. What cannot be read is
        said and left out."""
        try:
            if name == "key":
                self.key = parse_key(value)
            elif name == "tempo":
                tempo = strict.decimal(value.partition(" ")[0])
                if tempo is None or not MIN_TEMPO <= tempo <= MAX_TEMPO:
                    raise ValueError
                self.tempo = int(tempo)
            elif name == "time":
                over, _, under = value.partition("/")
                beats, unit = strict.whole(over), strict.whole(under)
                if not beats or beats > MOST_IN_A_BAR or unit not in METER_UNITS:
                    raise ValueError
                self.meter = Meter(beats, unit)
            elif value not in ("", "0"):
                remedy = "chords are taken as they are written; choose another key"
                self.problems.append(Problem(place, f"a capo on {value}", remedy, line))
        except (BadInput, ValueError):
            self.problems.append(Problem(place, f"{name} {value!r} cannot be read", "it is left out", line))

    def begin(self, name: str) -> None:
        """A section begins; one without a name, or with one that is taken, is told apart by a number."""
        if self.sections and not self.sections[-1][1]:
            self.again.remove(self.sections.pop()[0])
        name = " ".join(name.replace("[", "(").replace("]", ")").replace(",", " ").split())[:60]
        taken = {own for own, _ in self.sections}
        base, number = name or "Part", 2
        name = base if name or taken else ""
        while name in taken:
            name, number = f"{base} {number}", number + 1
        self.sections.append((name, []))
        self.again.append(name)

    def repeat(self, name: str) -> bool:
        """A section is played again; False where there is none of that name."""
        known = [own for own, row in self.sections if row and own.lower().startswith(name.lower())]
        if known:
            self.again.append(known[-1])
            self.sections.append((f"after {len(self.again)}", []))  # what follows is a section of its own
            self.again.append(self.sections[-1][0])
        return bool(known)

    @property
    def row(self) -> list[Sung]:
        """The chords of the section that is being read."""
        if not self.sections:
            self.begin("")
        return self.sections[-1][1]

    def imported(self, place: str) -> Imported:
        """The chart with remarks. Raises :class:`BadInput` where there are no chords."""
        full = [(name, row) for name, row in self.sections if row]
        if not any(sung.chord for _, row in full for sung in row):
            raise BadInput(
                [
                    *self.problems,
                    Problem(place, "there are no chords in it", "write chords as [C] or over the words"),
                ]
            )
        if sum(len(row) for _, row in full) > MOST_BARS:
            raise BadInput(Problem(place, f"more than {MOST_BARS} chords", "split the song"))
        key = self.key or _key_of([sung.chord for _, row in full for sung in row])
        guessed = any(sung.beats is None and sung.opens is None for _, row in full for sung in row)
        if guessed:
            self.problems.append(Problem(place, NO_LENGTHS, "change where it is otherwise"))
        names = {name for name, _ in full}
        form = tuple(name for name in self.again if name in names)
        plain = form == tuple(name for name, _ in full)
        sections = tuple(Section(name, tuple(self._bars(row, key))) for name, row in full)
        if not plain:
            sections = tuple(
                section if section.name else Section("Part", section.bars) for section in sections
            )
            form = tuple(name or "Part" for name in form)
        chart = Chart(
            self.title[:200], self.composer[:200], key, self.meter, self.tempo, sections=sections,
            form=() if plain else form,
        )  # fmt: skip
        return Imported(chart_text.parse_chart(chart_text.write(chart).decode()), tuple(self.problems))

    def _bars(self, row: Sequence[Sung], key: Key) -> list[Bar]:
        bars: list[list[Sung]] = []
        for sung in row:
            opens = sung.opens if sung.opens is not None else sung.beats is None
            if opens or not bars:
                bars.append([])
            bars[-1].append(sung)
        return [self._bar(bar, key) for bar in bars]

    def _bar(self, row: Sequence[Sung], key: Key) -> Bar:
        """The chords of a bar share it, by their beats where those fill it."""
        total = Fraction(self.meter.beats)
        given = [sung.beats for sung in row if sung.beats is not None]
        beats = given if len(given) == len(row) and sum(given) == total else [total / len(row)] * len(row)
        chords = tuple(ChordAt(sung.chord, beat) for sung, beat in zip(row, beats, strict=True))
        words: Words = tuple(Syllable(sung.words) if sung.words else Syllable(held=True) for sung in row)
        while words and words[-1].held:
            words = words[:-1]
        while words and words[0].held:  # nothing is held from before: the chord stands without words
            words = (Syllable("\u2009"), *words[1:])
        return Bar(chords, self.meter, key, self.tempo, words=(words,) if words else ())


def _key_of(chords: Sequence[ChordSymbol | None]) -> Key:
    """The key that holds most roots, that of the last chord where several do."""
    there = [symbol for symbol in chords if symbol is not None]
    last = there[-1]
    key = Key(last.root, last.third == "b3")
    return key if abs(key.fifths) <= 7 else Key(NoteName(0))
