"""A lead sheet from measures in written order: chords, tune, words, and the form that plays them, whoever
read them. What the chart then says is held against what was read."""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter, defaultdict
from collections.abc import Sequence
from fractions import Fraction
from itertools import chain, count, pairwise
from string import ascii_uppercase

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.form_in import Signs, ending_ends, parts_of, played_order
from yellow_hinge.formats.imported import Imported
from yellow_hinge.rhythm.time import MAX_TEMPO, METER_UNITS, MIN_TEMPO, Meter
from yellow_hinge.song.chart import Bar, Chart, ChordAt, MelodyNote, Section, Syllable, Words
from yellow_hinge.song.words import Singing, places_in, struck_at, under_chords, with_words, without_empty
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, Pitch

MAX_MEASURES = 4_000
#: Signs of a title or a name that are kept.
MAX_SIGNS = 200
_LONGEST = 24  # beats of a bar
_LETTERS = [first + second for first in ("", *ascii_uppercase) for second in ascii_uppercase]
Chords = list[tuple[Fraction, ChordSymbol | None]]
#: A note of the file: place and length in quarters, key, and whether it is tied on.
_Heard = tuple[Fraction, Fraction, int, bool]
#: A chord or a note, by its place in quarters.
_Placed = tuple[Fraction, *tuple[object, ...]]


class Lyric(Struct, frozen=True):
    """A syllable: its verse from 1, its text, whether it is joined to the next, and whether it is held on."""

    verse: int
    text: str
    joined: bool
    held: bool


class Sung(Struct, frozen=True):
    """A note of a voice: place and length in quarters, pitch as it sounds (None: a rest), whether a tie leads
    on from it, and its words."""

    place: Fraction
    length: Fraction
    pitch: Pitch | None
    tied: bool
    words: tuple[Lyric, ...] = ()


class Measure(Struct):
    """What a measure of one part holds. ``length`` is how far its notes reach, 0 where there are none; meter
    and key are those that hold in it; ``tempo`` (quarters a minute) is what its beginning says, or None;
    ``later`` what a mark within it says; ``voices`` by voice of the top staff."""

    number: str
    implicit: bool
    length: Fraction = Fraction(0)
    meter: Meter = Meter()
    key: Key = Key(NoteName(0))
    tempo: Fraction | None = None
    later: Fraction | None = None
    chords: list[tuple[Fraction, ChordSymbol | None]] = field(default_factory=list)
    voices: dict[str, list[Sung]] = field(default_factory=lambda: defaultdict(list))


class LeadSheet:
    """Puts a chart together from measures, the notes of the tune in each, and the signs of the form."""

    def __init__(self, place: str, title: str, composer: str) -> None:
        self.place, self.title, self.composer = place, title[:MAX_SIGNS], composer[:MAX_SIGNS]
        self.problems: list[Problem] = []
        self.measures: list[Measure] = []
        self.signs: list[Signs] = []
        self.tune: list[list[Sung]] = []
        self._sung: dict[int, list[Sung]] = {}  # first measure of a bar -> its notes, placed in the bar

    def remark(self, number: str, what: str, remedy: str) -> None:
        """Something that was not taken over as it stands, with the bar that it is in."""
        problem = Problem(f"{self.place}, bar {number}", what, remedy)
        if problem not in self.problems:
            self.problems.append(problem)

    def _remark_at(self, at: int, what: str, remedy: str) -> None:
        self.remark(self.measures[at].number, what, remedy)

    # --- putting it together ---

    def run(self, chords: bool = True) -> Imported:
        """The chart with remarks. Raises :class:`BadInput` where there are no chords, if ``chords`` are asked
        for, or where repeats make more bars than any song."""
        if chords and not any(chord for measure in self.measures for _, chord in measure.chords):
            what = Problem(self.place, "no chord symbol could be read", "write the chords in a chart")
            raise BadInput([*self.problems, what])
        order = self._order()
        if len(order) > MAX_MEASURES:
            raise BadInput(Problem(self.place, "its repeats make more bars than any song", "split the score"))
        beats, pickup_tune = self._pickup(order)
        pickup = beats > 0
        order = [at for at in order if not (pickup and at == 0)]
        marks = {at for at, signs in enumerate(self.signs) if signs.mark} | ending_ends(self.signs)
        joined = self._joined(order, marks)
        self._strike_what_is_sung()
        parts, form = parts_of(order, sorted(marks | ({1} if pickup else set())))
        first = 1 if pickup else 0
        bars = self._bars(joined, order, self.measures[first].meter.quarters_per_beat)
        names = self._names([part.first for part in parts], form is not None)
        sections = [
            Section(
                name, _between(bars, part.first, part.end), part.times,
                tuple(_between(bars, *ending) for ending in part.endings),
            )
            for name, part in zip(names, parts, strict=True)
        ]  # fmt: skip
        start = replace(bars[first], meter=self.measures[first].meter)
        chart = Chart(
            self.title, self.composer, start.key, meter=start.meter, tempo=start.tempo,
            pickup=beats, pickup_melody=pickup_tune, sections=tuple(sections), form=() if form is None else
            tuple(names[number] for number in form),
        )  # fmt: skip
        written = [at for part in parts for span in ((part.first, part.end), *part.endings)
                   for at in bars if span[0] <= at < span[1]]  # fmt: skip
        chart = _with_text(self._with_words(_with_ties(chart), written))
        self._compare(chart, order, pickup)
        return Imported(chart, tuple(self.problems))

    def _order(self) -> list[int]:
        """The measures as they are played."""
        return played_order(self.signs, MAX_MEASURES, self._remark_at)

    def _pickup(self, order: Sequence[int]) -> tuple[Fraction, tuple[MelodyNote, ...]]:
        """The beats before the first bar and their tune: a first measure without chords that is short, or is
        said to be none, and is played once."""
        first = self.measures[0]
        short = first.length > 0 and (first.implicit or first.length < first.meter.quarters)
        if not short or first.chords or order.count(0) != 1 or order[0] != 0 or len(order) < 2:
            return Fraction(0), ()
        per_beat = self.measures[1].meter.quarters_per_beat  # in the beats of the first whole bar
        beats = first.length / per_beat
        return beats, _tune(self.tune[0], per_beat, beats)

    # --- words ---

    def _strike_what_is_sung(self) -> None:
        """A note with a syllable of its own is struck, whatever ties lead on to it."""
        before: tuple[int, int] | None = None
        for at, row in enumerate(self.tune):
            for place, sung in enumerate(row):
                if before is not None and any(word.text for word in sung.words):
                    tied = self.tune[before[0]][before[1]]
                    if tied.tied and tied.pitch is not None and sung.pitch is not None:
                        self.tune[before[0]][before[1]] = replace(tied, tied=False)
                        what = "a note that is tied on to has a syllable of its own"
                        if tied.pitch.key == sung.pitch.key:
                            self._remark_at(at, what, "it is struck; look at it")
                before = at, place

    def _with_words(self, chart: Chart, written: Sequence[int]) -> Chart:
        """The chart with its words; ``written`` is the first measure of each written bar."""
        pickup: tuple[Words, ...] = ()
        if chart.pickup:
            per_beat = chart.meter.quarters_per_beat
            rows = self._rows(0, [replace(sung, place=sung.place / per_beat) for sung in self.tune[0]],
                              struck_at(chart.pickup_melody, joined=False), ())  # fmt: skip
            pickup = rows
        bars = [bar for section in chart.sections for bar in section.every_bar]
        joined = Singing(chart).joined
        words = {}
        for place, (bar, first) in enumerate(zip(bars, written, strict=True)):
            places = places_in(bar, joined.get(place, False))
            words[place] = self._rows(
                first, self._sung.get(first, ()), places, () if bar.melody else bar.chords
            )
        return replace(with_words(chart, words), pickup_words=pickup)

    def _rows(
        self, at: int, notes: Sequence[Sung], places: Sequence[Fraction], chords: Sequence[ChordAt]
    ) -> tuple[Words, ...]:
        """The verses of a bar: each syllable under its note, or under the chords where there is no tune."""
        verses: dict[int, dict[Fraction, Syllable]] = defaultdict(dict)
        for sung in notes:
            for word in sung.words:
                if word.text:
                    verses[word.verse][sung.place] = Syllable(word.text, word.joined)
                elif word.held and sung.place in places:
                    verses[word.verse][sung.place] = Syllable(held=True)
        rows = []
        for number in range(1, max(verses, default=0) + 1):
            verse = verses.get(number, {})
            if chords:
                rows.append(under_chords(verse, chords))
                continue
            for _ in verse.keys() - set(places):
                self._remark_at(at, "a syllable under no note that is struck", "it is left out")
            row = [verse.get(place) for place in places]
            while row and row[-1] is None:
                row.pop()
            rows.append(tuple(Syllable(held=True) if one is None else one for one in row))
        return without_empty(rows)

    def _joined(self, order: Sequence[int], marks: set[int]) -> dict[int, list[int]]:
        """The measures that make a bar together, by the first of them: a short one and the rest of it, where
        nothing is repeated or begun between them."""
        followed = {(a, b) for a, b in pairwise(order)}
        found: dict[int, list[int]] = {}
        at = 0
        while at < len(self.measures):
            measure, row = self.measures[at], [at]
            after = at + 1
            if (
                0 < measure.length < measure.meter.quarters
                and after < len(self.measures)
                and self.measures[after].implicit
                and measure.length + self.measures[after].length == measure.meter.quarters
                and all(b == after for a, b in followed if a == at)
                and all(a == at for a, b in followed if b == after)
                and after not in marks
                and at > 0
            ):
                row.append(after)
            found[at] = row
            at += len(row)
        return found

    def _going_on(self, order: Sequence[int]) -> dict[int, ChordSymbol | None]:
        """The chord that still sounds where a measure is first played."""
        going: dict[int, ChordSymbol | None] = {}
        symbol: ChordSymbol | None = None
        for at in order:
            going.setdefault(at, symbol)
            if self.measures[at].chords:
                symbol = max(self.measures[at].chords, key=lambda item: item[0])[1]
        return going

    def _bars(self, joined: dict[int, list[int]], order: Sequence[int], unit: Fraction) -> dict[int, Bar]:
        """Bars by their first measure; a bar without chords goes on with the one before. ``unit`` is what a
        tempo counts, in quarters."""
        going_on = self._going_on(order)
        tempo = Fraction(100) * unit
        bars: dict[int, Bar] = {}
        for first, row in joined.items():
            measure = self.measures[first]
            tempo = next((self.measures[at].tempo for at in row if self.measures[at].tempo), None) or tempo
            chords, tune = self._put_together(row)
            meter = self._meter_of(measure, sum((self.measures[at].length for at in row), Fraction(0)))
            chart_tempo = min(MAX_TEMPO, max(MIN_TEMPO, round(tempo / unit)))
            bars[first] = self._bar(measure, chords, tune, meter, chart_tempo, before=going_on.get(first))
            self._sung[first] = [replace(sung, place=sung.place / meter.quarters_per_beat) for sung in tune]
            tempo = (
                next((self.measures[at].later for at in reversed(row) if self.measures[at].later), None)
                or tempo
            )
        return bars

    def _put_together(self, row: Sequence[int]) -> tuple[Chords, list[Sung]]:
        chords: Chords = []
        tune: list[Sung] = []
        passed = Fraction(0)
        for at in row:
            chords += [(place + passed, chord) for place, chord in self.measures[at].chords]
            tune += [replace(sung, place=sung.place + passed) for sung in self.tune[at]]
            passed += self.measures[at].length
        return chords, tune

    def _meter_of(self, measure: Measure, length: Fraction) -> Meter:
        """The meter that holds, or for a measure of another length one of its own."""
        if length in (0, measure.meter.quarters):
            return measure.meter
        for unit in sorted(METER_UNITS):
            beats = length * unit / 4
            if unit >= measure.meter.unit and beats.denominator == 1 and 1 <= beats <= _LONGEST:
                return Meter(int(beats), unit)
        what = f"its notes last {float(length):g} quarters in {measure.meter}"
        self.remark(measure.number, what, "it is taken as a whole bar; look at it")
        return measure.meter

    def _bar(
        self,
        measure: Measure,
        chords: Chords,
        tune: list[Sung],
        meter: Meter,
        tempo: int,
        *,
        before: ChordSymbol | None,
    ) -> Bar:
        """Chords last until the next one; ``before`` goes on up to the first."""
        per_beat, total = meter.quarters_per_beat, Fraction(meter.beats)
        starts: dict[Fraction, ChordSymbol | None] = {}
        for place, chord in sorted(chords, key=lambda item: item[0]):
            at = place / per_beat
            if at >= total:
                self.remark(measure.number, f"the chord {chord} stands behind the bar", "it is left out")
            else:
                if at in starts:
                    what = f"{starts[at]} and {chord} stand at one place"
                    self.remark(measure.number, what, f"{chord} is taken")
                starts[at] = chord
        if Fraction(0) not in starts:
            starts[Fraction(0)] = before
        places = sorted(starts)
        lengths = [end - start for start, end in zip(places, [*places[1:], total], strict=True)]
        return Bar(
            tuple(ChordAt(starts[start], length) for start, length in zip(places, lengths, strict=True)),
            meter, measure.key, tempo, meter != measure.meter, melody=_tune(tune, per_beat, total),
        )  # fmt: skip

    def _names(self, firsts: Sequence[int], needed: bool) -> list[str]:
        """Names of sections, all different: rehearsal marks, a number behind the one before, or letters."""
        names: list[str] = []
        base = ""
        for first in firsts:
            mark = self.signs[first].mark
            name = _clean(mark or base)
            if not name and (needed or len(firsts) > 1):
                names.append(next(one for one in _LETTERS if one not in names))
                continue
            base = mark or base
            numbered = (f"{name} {n}".strip() for n in count(2))
            names.append(next(one for one in chain([name], numbered) if one not in names))
        return names

    # --- held against the file ---

    def _compare(self, chart: Chart, order: Sequence[int], pickup: bool) -> None:
        """Chords and tune as the chart plays them against the measures in order; what differs is said."""
        chords: list[tuple[Fraction, ChordSymbol | None]] = []
        tune: list[_Heard] = []
        bars: list[tuple[Fraction, int]] = []
        now = -self.measures[0].length if pickup else Fraction(0)
        for at in ([0] if pickup else []) + list(order):
            measure = self.measures[at]
            bars.append((now, at))
            length = measure.length or measure.meter.quarters
            chords += [(now + place, chord) for place, chord in measure.chords if place < length]
            _add_tune(tune, self.tune[at], now, length)
            now += length
        self._say_differences(bars, _changes(chords), _changes(_sounding(chart)), "the chords")
        mine = [(start, length, pitch.key) for start, length, pitch in chart.tune]
        self._say_differences(bars, _joined_ties(tune), mine, "the tune")

    def _say_differences(
        self, bars: list[tuple[Fraction, int]], wanted: Sequence[_Placed], own: Sequence[_Placed], what: str
    ) -> None:
        """One remark for each bar where something is not as in the file."""
        starts = [start for start, _ in bars]
        for place in sorted({place for place, *_ in {*wanted} ^ {*own}}):
            at = bars[max(0, bisect_right(starts, place) - 1)][1]
            self._remark_at(at, f"{what} of this bar are not quite as in the file", "look at it")


def _between(bars: dict[int, Bar], first: int, end: int) -> tuple[Bar, ...]:
    return tuple(bar for at, bar in bars.items() if first <= at < end)


def _clean(mark: str) -> str:
    return " ".join(mark.replace("[", "(").replace("]", ")").replace(",", " ").split())[:60]


def _sounding(chart: Chart) -> Chords:
    return [(placed.start_quarters, placed.written.chord) for placed in chart.placed]


def _changes(chords: Chords) -> Chords:
    """Chords without those that go on; of several at one place the last."""
    changes: Chords = []
    for place, chord in sorted(dict(chords).items()):
        if not changes and chord is None:
            continue
        if not changes or changes[-1][1] != chord:
            changes.append((place, chord))
    return changes


def _add_tune(tune: list[_Heard], row: Sequence[Sung], now: Fraction, length: Fraction) -> None:
    """The notes of a measure behind those before; tied ones are joined by :func:`_joined_ties`."""
    tune += [
        (now + sung.place, min(sung.length, length - sung.place), sung.pitch.key, sung.tied)
        for sung in sorted(row, key=lambda note: note.place)
        if sung.pitch is not None and sung.place < length and sung.length
    ]


def _joined_ties(tune: Sequence[_Heard]) -> list[tuple[Fraction, Fraction, int]]:
    """Notes with those that ties lead on to."""
    ties: list[tuple[Fraction, Fraction, int]] = []
    goes_on = False
    for start, length, key, tied in tune:
        if goes_on and ties[-1][2] == key and ties[-1][0] + ties[-1][1] == start:
            ties[-1] = (ties[-1][0], ties[-1][1] + length, key)
        else:
            ties.append((start, length, key))
        goes_on = tied
    return ties


def _tune(notes: Sequence[Sung], per_beat: Fraction, total: Fraction) -> tuple[MelodyNote, ...]:
    """Melody notes in beats, filled up with rests to a whole bar; empty when nothing sounds."""
    if not any(sung.pitch for sung in notes):
        return ()
    now = Fraction(0)
    melody: list[MelodyNote] = []
    for sung in sorted(notes, key=lambda note: note.place):
        start, end = min(sung.place / per_beat, total), min((sung.place + sung.length) / per_beat, total)
        if start > now:
            melody.append(MelodyNote(None, start - now))
        if end > max(start, now):
            melody.append(MelodyNote(sung.pitch, end - max(start, now), sung.tied))
            now = end
    if now < total:
        melody.append(MelodyNote(None, total - now))
    return tuple(melody)


def _with_ties(chart: Chart) -> Chart:
    """The chart with those ties only that lead to the same pitch wherever they are played."""
    bad: set[int] = set()
    row = [(-1, chart.pickup_melody), *((bar.place, bar.bar.melody) for bar in chart.played)]
    for (place, notes), (_, after) in zip(row, [*row[1:], (0, ())], strict=True):
        if notes and notes[-1].tied and not (after and _same(notes[-1], after[0])):
            bad.add(place)
    numbers = count()

    def mended(bar: Bar) -> Bar:
        return replace(bar, melody=_within(bar.melody, next(numbers) in bad))

    sections = []
    for section in chart.sections:
        body = tuple(mended(bar) for bar in section.bars)
        endings = tuple(tuple(mended(bar) for bar in ending) for ending in section.endings)
        sections.append(replace(section, bars=body, endings=endings))
    pickup = _within(chart.pickup_melody, -1 in bad)
    return replace(chart, sections=tuple(sections), pickup_melody=pickup)


def _within(notes: tuple[MelodyNote, ...], cut: bool) -> tuple[MelodyNote, ...]:
    """The notes of a bar with those ties that lead on; ``cut``: none leads over its end."""
    melody_notes = []
    for place, note in enumerate(notes):
        last = place + 1 == len(notes)
        goes = not cut if last else _same(note, notes[place + 1])
        melody_notes.append(replace(note, tied=note.tied and goes))
    return tuple(melody_notes)


def _same(note: MelodyNote, melody_note: MelodyNote) -> bool:
    return (
        note.pitch is not None and melody_note.pitch is not None and note.pitch.key == melody_note.pitch.key
    )


def _with_text(chart: Chart) -> Chart:
    """The chart read again from its own text, so that text and bars agree."""
    return chart_text.parse_chart(chart_text.write(chart).decode())


def top_voice(measures: Sequence[Measure]) -> str:
    """The voice of the tune: the one that has most of the words; or else, among those that sound in half as
    many measures as the busiest one, the highest on average; "" where nothing sounds."""
    bars: Counter[str] = Counter()
    sung: Counter[str] = Counter()
    keys: dict[str, list[int]] = defaultdict(list)
    for measure in measures:
        for name, row in measure.voices.items():
            sounding = [note.pitch.key for note in row if note.pitch is not None]
            bars[name] += bool(sounding)
            sung[name] += sum(bool(note.words) for note in row)
            keys[name] += sounding
    if any(sung.values()):
        return max(sung, key=lambda name: (sung[name], bars[name]))
    often = [name for name, count in bars.items() if count and 2 * count >= max(bars.values())]
    return max(often, key=lambda name: (sum(keys[name]) / len(keys[name]), name < "~"), default="")
