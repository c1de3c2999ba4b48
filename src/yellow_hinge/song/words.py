"""Which syllable stands under which note: the one rule that every reader and every writer goes by.

A syllable belongs to a note that is struck; a note that a tie leads on to takes none. Where a bar has no
tune, words stand under its chords. The rows of a bar are verses, numbered as they stand in it, whatever
rounds there are: a bar that is written once has all of them below each other, one that is written out has
those of its round.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from fractions import Fraction

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.song.chart import Bar, Chart, ChordAt, MelodyNote, Syllable, Words

#: Between words that stand under one chord: a blank that does not part them.
WITHIN = "\u00a0"


class Verse(Struct, frozen=True):
    """A verse of a bar: its number from 1, and its syllables with their places in the bar, in beats. A note
    that is not named has no syllable of its own."""

    number: int
    syllables: tuple[tuple[Fraction, Syllable], ...]


def ends_tied(notes: Sequence[MelodyNote]) -> bool:
    """Whether the last note goes on into the next bar."""
    return bool(notes) and notes[-1].pitch is not None and notes[-1].tied


def struck_at(notes: Sequence[MelodyNote], joined: bool) -> tuple[Fraction, ...]:
    """Where notes are struck, in beats; ``joined``: the first one goes on from the bar before."""
    places, now = [], Fraction(0)
    for note in notes:
        if note.pitch is not None and not joined:
            places.append(now)
        joined = note.pitch is not None and note.tied
        now += note.beats
    return tuple(places)


def places_in(bar: Bar, joined: bool) -> tuple[Fraction, ...]:
    """Where the syllables of a bar stand, in beats: under the notes that are struck, or under its chords
    where it has no tune."""
    if bar.melody:
        return struck_at(bar.melody, joined)
    places, now = [], Fraction(0)
    for at in bar.chords:
        places.append(now)
        now += at.beats
    return tuple(places)


def seated(row: Words, notes: Sequence[MelodyNote], joined: bool) -> Words:
    """A typed row as one entry for each note that is struck. Whoever writes a sign for a tied note as well,
    or holds a syllable past the last one, means the same: such signs go."""
    most = len(struck_at(notes, joined))
    if len(row) > most:
        sounding = [note for note in notes if note.pitch is not None]
        goes_on = [joined, *(note.tied for note in sounding[:-1])] if sounding else []
        ties = [place for place, tied in enumerate(goes_on) if tied]
        if ties and all(place < len(row) and row[place].held for place in ties):
            row = tuple(syllable for place, syllable in enumerate(row) if place not in ties)
    while len(row) > most and any(syllable.held for syllable in row):
        last = max(place for place, syllable in enumerate(row) if syllable.held)
        row = (*row[:last], *row[last + 1 :])
    return row


def spread(row: Words, chords: Sequence[ChordAt]) -> Words:
    """Words under the chords of a bar without a tune: one for each, and where there are more of them, several
    to a chord, as its length has room for; a word is never parted."""
    if len(row) <= len(chords) or not chords:
        return row
    words = _whole_words([syllable for syllable in row if not syllable.held])
    whole = sum((at.beats for at in chords), Fraction(0))
    under: list[list[str]] = [[] for _ in chords]
    now, place = chords[0].beats, 0
    for number, word in enumerate(words):
        while place + 1 < len(chords) and Fraction(number, len(words)) * whole >= now:
            place += 1
            now += chords[place].beats
        under[place].append(word)
    spread_words = [Syllable(WITHIN.join(texts)) if texts else Syllable(held=True) for texts in under]
    while spread_words and spread_words[-1].held:
        spread_words.pop()
    return tuple(spread_words)


def _whole_words(row: Sequence[Syllable]) -> list[str]:
    words: list[str] = []
    goes_on = False
    for syllable in row:
        if goes_on:
            words[-1] += syllable.text
        else:
            words.append(syllable.text)
        goes_on = syllable.joined
    return words


def plain_text(row: Sequence[Syllable]) -> str:
    """Syllables as words, without what joins and holds them."""
    return (
        " ".join(_whole_words([syllable for syllable in row if not syllable.held]))
        .replace(WITHIN, " ")
        .strip()
    )


def without_empty(rows: Sequence[Words]) -> tuple[Words, ...]:
    """The rows of a bar without empty ones behind the last; an empty one before it keeps its place."""
    most = max((number for number, row in enumerate(rows, 1) if row), default=0)
    return tuple(rows[:most])


class Singing:
    """The words of a chart, bar by bar as they are played."""

    def __init__(self, chart: Chart) -> None:
        self._chart = chart
        before: Sequence[MelodyNote] = chart.pickup_melody
        joined = []
        rounds: dict[int, set[int]] = {}
        for played in chart.played:
            joined.append(ends_tied(before))
            before = played.bar.melody
            rounds.setdefault(played.place, set()).add(played.round)
        self._joined = tuple(joined)
        self._rounds: Mapping[int, frozenset[int]] = {
            place: frozenset(turns) for place, turns in rounds.items()
        }

    @property
    def joined(self) -> Mapping[int, bool]:
        """For each written bar that is played, whether a tie leads on to its first note, where it comes
        first."""
        found: dict[int, bool] = {}
        for played, joined in zip(self._chart.played, self._joined, strict=True):
            found.setdefault(played.place, joined)
        return found

    def places(self, index: int) -> tuple[Fraction, ...]:
        """Where syllables stand in a bar, by its index among those that are played; -1 is the pickup."""
        if index < 0:
            return struck_at(self._chart.pickup_melody, joined=False)
        return places_in(self._chart.played[index].bar, self._joined[index])

    def verses(self, index: int, rounds: Collection[int] = ()) -> list[Verse]:
        """The verses that stand under a bar where it is written for some ``rounds`` of its section (none: for
        its own). Written for all of them it has every verse by its number; else those that belong to its
        round, and a round without one of its own has the one before."""
        if index < 0:
            rows: Sequence[Words] = self._chart.pickup_words
            numbers: Collection[int] = range(1, len(rows) + 1)
            before = 0
        else:
            played = self._chart.played[index]
            rows, all_rounds = played.bar.words, self._rounds[played.place]
            own = frozenset(rounds or (played.round,)) & all_rounds
            numbers = _numbers(rows, all_rounds, own)
            before = 0 if own == all_rounds else min(own) - 1  # written for later rounds they count anew
        places = self.places(index)
        verses: list[Verse] = []
        for number in numbers:
            if rows[number - 1]:
                syllables = tuple(zip(places, rows[number - 1], strict=False))
                last = verses[-1].number if verses else 0
                verses.append(Verse(max(last + 1, number - before), syllables))
        return verses

    def text(self, index: int, start: Fraction, end: Fraction) -> str:
        """What is sung in a bar in its round from one beat (from 0) to before another, as plain words; one
        that goes on behind them ends in a hyphen."""
        verses = self.verses(index)
        if not verses:
            return ""
        row = [syllable for at, syllable in verses[0].syllables if start <= at < end and not syllable.held]
        return plain_text(row) + ("-" if row and row[-1].joined else "")


def _numbers(rows: Sequence[Words], rounds: frozenset[int], own: frozenset[int]) -> list[int]:
    """The verses that belong to some of the rounds: each to the last round that is no later than its number,
    the first one of a bar that is only played later to its first."""
    there = [number for number in range(1, len(rows) + 1) if rows[number - 1]]
    belongs = {
        number: max((turn for turn in rounds if turn <= number), default=min(rounds)) for number in there
    }
    numbers = [number for number in there if belongs[number] in own]
    if not numbers and own:
        earlier = [number for number in there if belongs[number] < min(own)]
        numbers = earlier[-1:]
    return numbers


def under_chords(places: Mapping[Fraction, Syllable], chords: Sequence[ChordAt]) -> Words:
    """Words that a file has at places (in beats) of a bar without a tune, under its chords: each with the
    chord that sounds there."""
    under: list[list[Syllable]] = [[] for _ in chords]
    ends, now = [], Fraction(0)
    for at in chords:
        now += at.beats
        ends.append(now)
    for place in sorted(places):
        chord = next((k for k, end in enumerate(ends) if place < end), len(chords) - 1)
        if not places[place].held:
            under[chord].append(places[place])
    row = [
        Syllable(WITHIN.join(_whole_words(texts)), texts[-1].joined) if texts else Syllable(held=True)
        for texts in under
    ]
    while row and row[-1].held:
        row.pop()
    return tuple(row)


def with_words(chart: Chart, rows: Mapping[int, tuple[Words, ...]]) -> Chart:
    """The chart with other words under its written bars, by their places."""
    numbers = iter(range(sum(len(section.every_bar) for section in chart.sections)))

    def sung(bar: Bar) -> Bar:
        words = rows.get(next(numbers))
        return bar if words is None else replace(bar, words=words)

    sections = []
    for section in chart.sections:
        body = tuple(map(sung, section.bars))
        endings = tuple(tuple(map(sung, ending)) for ending in section.endings)
        sections.append(replace(section, bars=body, endings=endings))
    return replace(chart, sections=tuple(sections))
