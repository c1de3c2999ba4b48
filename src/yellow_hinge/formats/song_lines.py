"""A chart from lines of chords with words: what ChordPro and chords over words have in common. They say no
lengths, so a chord has a bar of its own unless bar lines say otherwise."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.errors import MOST_PROBLEMS, BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.chart_text.headings import MOST_IN_A_BAR
from yellow_hinge.formats.chart_text.reader import MAX_TIMES
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.midi_grid import key_of
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter
from yellow_hinge.song.chart import Bar, Chart, ChordAt, Section, Syllable, Words
from yellow_hinge.song.words import WITHIN
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key, parse_key

#: Chords of a song, and sections in playing order.
MOST_BARS, MOST_PARTS = 2_000, 1_000
GERMAN = "its chords have German names: H is B, and B is B flat"
NO_LENGTHS = "it says no lengths: each chord has a bar of its own"
#: A name with the number that tells it from others of its kind.
_NUMBERED = re.compile(r"(.*?)[\s#.]*[0-9]*\s*")


class Sung(Struct, frozen=True):
    """A chord (None: no chord) with the words that are sung from it on. ``beats`` is how long it lasts, None
    where nothing says so; ``opens``: a bar begins with it, None where nothing says so; ``joined``: its last
    word goes on under the next chord; ``line`` is the line that it stands in. What holds where it stands:
    ``key`` (None: what is guessed), ``meter`` and ``tempo``."""

    chord: ChordSymbol | None
    words: str = ""
    beats: Fraction | None = None
    opens: bool | None = None
    joined: bool = False
    line: int = 0
    key: Key | None = None
    meter: Meter = Meter()
    tempo: int = 100


class Part(Struct):
    """A section as it is read: its name, its chords, how often it is played, and lines of words without
    chords."""

    name: str
    row: list[Sung] = field(default_factory=list)
    times: int = 1
    words: list[str] = field(default_factory=list)
    closed: bool = False


class Lines(Struct):
    """What was read: sections in written order, and the names of all in playing order."""

    place: str = ""
    title: str = ""
    composer: str = ""
    key: Key | None = None
    meter: Meter = Meter()
    tempo: int = 100
    parts: list[Part] = field(default_factory=list)
    again: list[str] = field(default_factory=list)  # names in playing order
    taken: set[str] = field(default_factory=set)
    numbers: dict[str, int] = field(default_factory=dict)  # by name: the last that told two apart
    chords: int = 0
    problems: list[Problem] = field(default_factory=list)
    names_b_flat: bool = False  # a B is taken for B flat

    def judge_names(self, names: Sequence[str], german: bool | None) -> bool:
        """Whether symbols have German names: as the player says, or else judged by them and said."""
        if german is not None:
            return german
        judged = names_german(names)
        self.names_b_flat = judged and any(_B.match(name) for name in names)
        if judged:
            self.say(0, GERMAN, "write Bb for B flat if they have not")
        return judged

    def say(self, line: int, what: str, remedy: str, column: int = 0) -> None:
        """Something that was not taken over as it stands."""
        where = self.place + (f", line {line}" if line else "") + (f", column {column}" if column else "")
        problem = Problem(where, what, remedy, line, column)
        if len(self.problems) < MOST_PROBLEMS and problem not in self.problems:
            self.problems.append(problem)

    @property
    def held(self) -> tuple[Key | None, Meter, int]:
        """Key, meter and tempo that hold here."""
        return self.key, self.meter, self.tempo

    @held.setter
    def held(self, value: tuple[Key | None, Meter, int]) -> None:
        self.key, self.meter, self.tempo = value

    def holds(self, name: str, value: str, line: int) -> None:
        """What holds from here on: ``key``, ``time``, ``tempo`` or ``capo``. What cannot be read is said and
        left out."""
        try:
            if name == "key":
                self.key = parse_key(value)
            elif name == "tempo":
                tempo = strict.decimal(value.partition(" ")[0])
                if tempo is None or not MIN_TEMPO <= tempo <= MAX_TEMPO:
                    raise ValueError
                self.tempo = int(tempo)
            elif name == "time":
                over, _, under = {"C": "4/4", "C|": "2/2"}.get(value, value).partition("/")
                beats, unit = strict.whole(over), strict.whole(under)
                if not beats or not 1 <= beats <= MOST_IN_A_BAR or unit not in METER_UNITS:
                    raise ValueError
                self.meter = Meter(beats, unit)
            elif value not in ("", "0"):
                remedy = "chords are taken as they are written; choose another key"
                self.say(line, f"a capo on {value}", remedy)
        except (BadInput, ValueError):
            self.say(line, f"{name} {value!r} cannot be read", "it is left out")

    # --- sections ---

    def begin(self, name: str, times: int = 1) -> None:
        """A section begins; one without a name, or with one that is taken, is told apart by a number."""
        self.close()
        name = " ".join(name.replace("[", "(").replace("]", ")").replace(",", " ").split())[:60]
        self.parts.append(Part(name, times=max(1, min(MAX_TIMES, times))))

    def close(self) -> None:
        """The section that is being read ends. One without chords is one that was there before, with its own
        words where it has any."""
        if not self.parts or self.parts[-1].closed:
            return
        part = self.parts[-1]
        part.closed = True
        if part.row:
            part.name = self._untaken(part.name)
            self._play(part.name)
            return
        self.parts.pop()
        if not part.name and not part.words:
            return
        before = self._of_kind(part.name)
        if before is None:
            if part.words:
                self.say(0, f"words without chords: {part.words[0][:40]!r}", "they are left out")
        elif part.words:
            sung = Part(self._untaken(part.name), _under(before.row, part.words), part.times, closed=True)
            self.problems.append(
                Problem(self.place, f"{part.name} has words alone", f"it has the chords of {before.name}")
            )
            self.parts.append(sung)
            self._play(sung.name)
        else:
            self._play(*[before.name] * part.times)

    def repeat(self, name: str) -> bool:
        """A section is played again; False where there is none of that name."""
        self.close()
        part = self._of_kind(name)
        if part is not None:
            self._play(part.name)
        return part is not None

    def _play(self, *names: str) -> None:
        self.again += names
        if len(self.again) > MOST_PARTS:
            raise BadInput(Problem(self.place, f"more than {MOST_PARTS} sections", "split the song"))

    def _of_kind(self, name: str) -> Part | None:
        """The last section of a name, or of one that only its number tells apart."""
        known = [part for part in self.parts if part.row and part.closed]
        exact = [part for part in known if part.name.lower() == name.lower()]
        alike = [part for part in known if name and _kind(part.name) == _kind(name)]
        known = exact or alike
        return known[-1] if known else None

    def _untaken(self, name: str) -> str:
        """The name, or the next of its numbers."""
        base = name or "Part"
        name = base if name or self.taken else ""
        while name in self.taken:
            self.numbers[base] = self.numbers.get(base, 1) + 1
            name = f"{base} {self.numbers[base]}"
        self.taken.add(name)
        return name

    # --- chords ---

    @property
    def part(self) -> Part:
        """The section that is being read."""
        if not self.parts or self.parts[-1].closed:
            self.parts.append(Part(""))
        return self.parts[-1]

    def add(
        self, chord: ChordSymbol | None, words: str, line: int, *, beats: Fraction | None = None,
        opens: bool | None = None, joined: bool = False,
    ) -> None:  # fmt: skip
        """A chord with what holds here."""
        ahead = self.part.words
        if ahead and not self.part.row:  # words before the first chord go with it
            words = " ".join((*ahead, words)).strip()
            ahead.clear()
        self.chords += 1
        if self.chords > MOST_BARS:
            raise BadInput(Problem(self.place, f"more than {MOST_BARS} chords", "split the song"))
        self.part.row.append(
            Sung(
                chord,
                words,
                beats,
                opens,
                joined=joined,
                line=line,
                key=self.key,
                meter=self.meter,
                tempo=self.tempo,
            )
        )

    def add_words(self, words: str) -> None:
        """A line of words without chords: it is sung under the chord before, or it waits for one."""
        row = self.part.row
        if row:
            row[-1] = replace(row[-1], words=f"{row[-1].words} {words}".strip(), joined=False)
        else:
            self.part.words.append(words)

    # --- the chart ---

    def imported(self) -> Imported:
        """The chart with remarks. Raises :class:`BadInput` where there are no chords."""
        self.close()
        every = [sung for part in self.parts for sung in part.row]
        if not any(sung.chord for sung in every):
            what = Problem(self.place, "there are no chords in it", "write chords as [C] or over the words")
            raise BadInput([*self.problems, what])
        first = next((sung.key for sung in every if sung.key), None)
        key = first or _key_of([sung.chord for sung in every])
        if first is None:
            self.problems.append(
                Problem(self.place, "it says no key", f"{key} is taken, which fits its chords")
            )
        if any(sung.beats is None and sung.opens is None for sung in every):
            self.problems.append(Problem(self.place, NO_LENGTHS, "change where it is otherwise"))
        form = tuple(self.again)
        plain = form == tuple(part.name for part in self.parts)
        sections = tuple(Section(part.name, tuple(_bars(part.row, key)), part.times) for part in self.parts)
        if not plain:
            sections = tuple(replace(section, name=section.name or "Part") for section in sections)
            form = tuple(name or "Part" for name in form)
        chart = Chart(
            self.title[:200], self.composer[:200], key, every[0].meter, every[0].tempo, sections=sections,
            form=() if plain else form,
        )  # fmt: skip
        return Imported(
            chart_text.parse_chart(chart_text.write(chart).decode()),
            tuple(self.problems),
            self.names_b_flat,
        )


def _kind(name: str) -> str:
    match = _NUMBERED.fullmatch(name.lower())
    return match[1] if match else name.lower()


def _under(row: Sequence[Sung], lines: Sequence[str]) -> list[Sung]:
    """The chords of a section with other words: a line of them for each line of chords."""
    numbers = list(dict.fromkeys(sung.line for sung in row))
    texts: dict[int, list[str]] = {number: [] for number in numbers}
    for count, line in enumerate(lines):
        texts[numbers[min(count, len(numbers) - 1)]] += line.split()
    sung = []
    places: Counter[int] = Counter()
    counts = Counter(one.line for one in row)
    for one in row:
        words, at, count = texts[one.line], places[one.line], counts[one.line]
        share = words[len(words) * at // count : len(words) * (at + 1) // count]
        places[one.line] += 1
        sung.append(replace(one, words=" ".join(share), joined=False))
    return sung


def _bars(row: Sequence[Sung], key: Key) -> list[Bar]:
    bars: list[list[Sung]] = []
    for sung in row:
        opens = sung.opens if sung.opens is not None else sung.beats is None
        if opens or not bars:
            bars.append([])
        bars[-1].append(sung)
    return [_bar(bar, key) for bar in bars]


def _bar(row: Sequence[Sung], key: Key) -> Bar:
    """The chords of a bar share it, by their beats where those fill it."""
    meter = row[0].meter
    total = Fraction(meter.beats)
    given = [sung.beats for sung in row if sung.beats is not None]
    beats = given if len(given) == len(row) and sum(given) == total else [total / len(row)] * len(row)
    chords = tuple(ChordAt(sung.chord, beat) for sung, beat in zip(row, beats, strict=True))
    words: Words = tuple(
        Syllable(WITHIN.join(sung.words.split()), sung.joined) if sung.words else Syllable(held=True)
        for sung in row
    )
    while words and words[-1].held:
        words = words[:-1]
    return Bar(chords, meter, row[0].key or key, row[0].tempo, words=(words,) if words else ())


def _key_of(chords: Sequence[ChordSymbol | None]) -> Key:
    """The key that fits what the chords have in them, roots twice, and the last one."""
    there = [symbol for symbol in chords if symbol is not None]
    lasting: Counter[int] = Counter()
    for symbol in there:
        lasting.update(symbol.root.degree(label).pitch_class % 12 for label in symbol.degrees)
        lasting[symbol.root.pitch_class % 12] += 1
    return key_of(lasting, there[-1].root.pitch_class % 12)


_GERMAN = re.compile(r"(H|B|[A-G](?:is|es|s(?!us)))(.*)")
#: An H, or a note on -is, with what a symbol may have behind it; Es and As are words by themselves.
_BEHIND = r"[m0-9+\u00b0\u00f8\u0394/(]|maj|sus|dim|add|aug"
_NAMED_GERMAN = re.compile(rf"(?:H|[CDFGA]is)(?=$|[#b]|{_BEHIND})|(?:Es|As)(?={_BEHIND})")
#: A B that German names have for B flat.
_B = re.compile(r"B(?=$|[m0-9+\u00b0\u00f8\u0394/(]|maj|sus|dim|add|aug)")
_GERMAN_NAMES = {
    "H": "B", "B": "Bb", "Es": "Eb", "As": "Ab", "Ees": "Eb", "Aes": "Ab",
    **{f"{letter}is": f"{letter}#" for letter in "CDEFGA"},
    **{f"{letter}es": f"{letter}b" for letter in "CDFGB"},
}  # fmt: skip


def german(word: str) -> str:
    """A symbol in German names as others write it: H is B, B is B flat, Fis is F sharp."""
    upper, slash, bass = word.partition("/")
    if slash and re.fullmatch(r"H|B|[A-G](?:is|es|s)?", bass):
        bass = _GERMAN_NAMES.get(bass, bass)
    match = _GERMAN.fullmatch(upper)
    if match and match[1] in _GERMAN_NAMES:
        upper = _GERMAN_NAMES[match[1]] + match[2]
    return upper + slash + bass


def names_german(words: Sequence[str]) -> bool:
    """Whether symbols have German names: an H among them, a note on -is, or a chord on Es or As."""
    return any(_NAMED_GERMAN.match(word) and _is_chord(german(word)) for word in words)


def _is_chord(word: str) -> bool:
    try:
        return parse_chord(word) is not None
    except BadInput:
        return False
