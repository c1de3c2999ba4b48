"""What is written: sections of bars with their chords, tune and words, and the form they are played in.

Nothing of what a player decided is in here; that is :mod:`song.arrangement`. Every written chord
has an id that stays its own while the chart around it changes (:mod:`song.carry`).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from fractions import Fraction
from functools import cached_property
from typing import Literal

from msgspec import Struct
from msgspec.structs import force_setattr, replace

from yellow_hinge.rhythm.patterns import HANDS, Hand
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import ALL_KEYS, Key, parse_key, plainest_key
from yellow_hinge.theory.pitch import NoteName, Pitch
from yellow_hinge.theory.spelling import moved

#: Plain numbers from the home note, from the relative major in minor keys, or Roman numbers.
Numbering = Literal["home", "relative", "roman"]
#: How often a section with endings is played where neither its heading nor the form says so.
ENDINGS_PLAY = 2


class ChordAt(Struct, frozen=True):
    """A chord of a bar; None is "no chord". The length is in beats of the bar's meter."""

    chord: ChordSymbol | None
    beats: Fraction


class MelodyNote(Struct, frozen=True):
    """A note of the tune; None is a rest. ``tied`` joins it to the next note, of the same pitch."""

    pitch: Pitch | None
    beats: Fraction
    tied: bool = False


class LineNote(Struct, frozen=True):
    """What a hand plays at once in a line of its own, over the other hand's chords; no pitch is a rest.
    ``tied`` joins it to the next one, of the same pitches."""

    pitches: tuple[Pitch, ...]
    beats: Fraction
    tied: bool = False


class Syllable(Struct, frozen=True):
    """A syllable under a note; ``joined`` to the next one of its word, or ``held`` from the one
    before (then without a text)."""

    text: str = ""
    joined: bool = False
    held: bool = False


Words = tuple[Syllable, ...]


class Bar(Struct, frozen=True):
    """A bar with what holds in it: its meter, key and tempo. ``alone``: the meter is this bar's only.
    ``words`` has one row of syllables a verse, under the notes that begin in the bar (under the chords where
    there is no tune); see :mod:`song.words`. ``line`` and ``left_line`` are what a hand plays in place of
    its chords."""

    chords: tuple[ChordAt, ...]
    meter: Meter = Meter()
    key: Key = parse_key("C")
    tempo: int = 100
    alone: bool = False
    melody: tuple[MelodyNote, ...] = ()
    words: tuple[Words, ...] = ()
    line: tuple[LineNote, ...] = ()
    left_line: tuple[LineNote, ...] = ()

    def line_of(self, hand: Hand) -> tuple[LineNote, ...]:
        """The line of a hand."""
        return self.line if hand == "right" else self.left_line

    @property
    def quarters(self) -> Fraction:
        """How long it lasts, in quarters."""
        return self.meter.quarters


class Section(Struct, frozen=True):
    """A named stretch of bars, played ``times`` times, with endings that are taken in turn."""

    name: str
    bars: tuple[Bar, ...]
    times: int = 1
    endings: tuple[tuple[Bar, ...], ...] = ()

    @property
    def every_bar(self) -> tuple[Bar, ...]:
        """All written bars, the endings behind the body."""
        return (*self.bars, *(bar for ending in self.endings for bar in ending))


class PlayedBar(Struct, frozen=True):
    """A bar as it is played: its number from 1 in playing order, its section and the section's
    round from 1, which written bar it is, when it begins (quarters from the first bar line), and
    the places of the bar and of its first chord among all written ones, from 0."""

    number: int
    section: Section
    round: int
    bar: Bar
    start_quarters: Fraction
    place: int
    first: int


class Written(Struct, frozen=True):
    """A chord of the chart as it is written. ``id`` is its own for good; ``index`` its place among
    all written ones; ``bar`` counts written bars from 1, ``beat`` from 1 within the bar."""

    id: int
    index: int
    section: str
    bar: int
    beat: Fraction
    beats: Fraction
    chord: ChordSymbol | None
    key: Key
    meter: Meter


class Placed(Struct, frozen=True):
    """A chord as it is played: in which bar, which written one it is, and when, in quarters from the
    first bar line."""

    played: PlayedBar
    written: Written
    start_quarters: Fraction
    quarters: Fraction


class SoundingLine(Struct, frozen=True):
    """What a hand's line strikes at once: when, and how long, in quarters from the first bar line."""

    start_quarters: Fraction
    quarters: Fraction
    pitches: tuple[Pitch, ...]

    @property
    def keys(self) -> tuple[int, ...]:
        return tuple(pitch.key for pitch in self.pitches)


class Chart(Struct, frozen=True, dict=True):
    """A whole chart. ``key``, ``meter`` and ``tempo`` are those of its beginning (tempo counts the
    lower number of that meter, for the whole song); ``pickup`` beats of tune come before the first
    bar; ``form`` names sections in the order they are played (empty: as written). ``text`` is the
    chart as it was typed, which says the same; ``ids`` one per written chord (empty: numbered)."""

    title: str = ""
    composer: str = ""
    key: Key = parse_key("C")
    meter: Meter = Meter()
    tempo: int = 100
    pickup: Fraction = Fraction(0)
    pickup_melody: tuple[MelodyNote, ...] = ()
    pickup_words: tuple[Words, ...] = ()
    sections: tuple[Section, ...] = ()
    form: tuple[str, ...] = ()
    numbering: Numbering = "home"
    ids: tuple[int, ...] = ()
    text: str = ""

    def __post_init__(self) -> None:
        if self.ids == tuple(range(len(self.ids))):  # the same is said by leaving them out
            force_setattr(self, "ids", ())

    @cached_property
    def written(self) -> tuple[Written, ...]:
        """Every written chord, in the order of the text."""
        chords: list[Written] = []
        number = 0
        for section in self.sections:
            for bar in section.every_bar:
                number += 1
                beat = Fraction(1)
                for at in bar.chords:
                    index = len(chords)
                    own = self.ids[index] if index < len(self.ids) else index
                    chords.append(
                        Written(
                            own,
                            index,
                            section.name,
                            bar=number,
                            beat=beat,
                            beats=at.beats,
                            chord=at.chord,
                            key=bar.key,
                            meter=bar.meter,
                        )
                    )
                    beat += at.beats
        return tuple(chords)

    @cached_property
    def by_id(self) -> Mapping[int, Written]:
        """Written chords by their ids."""
        return {written.id: written for written in self.written}

    @cached_property
    def played(self) -> tuple[PlayedBar, ...]:
        """Every bar in playing order, repeats, endings and the form written out."""
        bars: list[PlayedBar] = []
        start = Fraction(0)
        for section, turn, places in self._rounds():
            for own in places:
                bar = section.every_bar[own]
                place, first = self._firsts[section.name][own]
                bars.append(PlayedBar(len(bars) + 1, section, turn, bar, start, place=place, first=first))
                start += bar.quarters
        return tuple(bars)

    @cached_property
    def placed(self) -> tuple[Placed, ...]:
        """Every chord in playing order."""
        places: list[Placed] = []
        for played in self.played:
            start, unit = played.start_quarters, played.bar.meter.quarters_per_beat
            for number, chord_at in enumerate(played.bar.chords):
                lasts = chord_at.beats * unit
                places.append(Placed(played, self.written[played.first + number], start, lasts))
                start += lasts
        return tuple(places)

    @cached_property
    def _firsts(self) -> Mapping[str, tuple[tuple[int, int], ...]]:
        """Section name -> for each of its bars its place among all written bars, and that of its
        first chord among all written chords."""
        firsts: dict[str, tuple[tuple[int, int], ...]] = {}
        place = count = 0
        for section in self.sections:
            row = []
            for bar in section.every_bar:
                row.append((place, count))
                place, count = place + 1, count + len(bar.chords)
            firsts[section.name] = tuple(row)
        return firsts

    def _rounds(self) -> Iterator[tuple[Section, int, tuple[int, ...]]]:
        """(section, round from 1, places of its bars) in playing order."""
        named = {section.name: section for section in self.sections}
        order = [named[name] for name in self.form if name in named] if self.form else list(self.sections)
        rounds: dict[str, int] = {}
        for section in order:
            alone = bool(section.endings) and section.times == 1 and not self.form
            for within in range(1, (ENDINGS_PLAY if alone else section.times) + 1):
                rounds[section.name] = turn = rounds.get(section.name, 0) + 1
                # endings go by turns within xN, else by the appearances of the section
                ending = (within if section.times > 1 else turn) - 1
                yield section, turn, _places(section, ending)

    @property
    def bars_played(self) -> int:
        """How many bars are played in all; cheap, also where they are too many."""
        return sum(len(places) for _, _, places in self._rounds())

    @cached_property
    def length_quarters(self) -> Fraction:
        """How long all bars last, the pickup not counted."""
        return sum((bar.bar.quarters for bar in self.played), Fraction(0))

    @property
    def pickup_quarters(self) -> Fraction:
        return self.pickup * self.meter.quarters_per_beat

    @cached_property
    def tune(self) -> tuple[tuple[Fraction, Fraction, Pitch], ...]:
        """The tune as it sounds: (start, length, pitch) in quarters from the first bar line, in time
        order, the pickup before 0, tied notes joined."""
        notes: list[tuple[Fraction, Fraction, Pitch]] = []
        open_tie = False
        for start, length, note in self._written_tune():
            if note.pitch is None:
                open_tie = False
                continue
            if open_tie and notes and notes[-1][2].key == note.pitch.key:
                begun, lasted, pitch = notes[-1]
                notes[-1] = (begun, lasted + length, pitch)
            else:
                notes.append((start, length, note.pitch))
            open_tie = note.tied
        return tuple(notes)

    def _written_tune(self) -> Iterator[tuple[Fraction, Fraction, MelodyNote]]:
        per_beat = self.meter.quarters_per_beat
        start = -self.pickup_quarters
        for note in self.pickup_melody:
            yield start, note.beats * per_beat, note
            start += note.beats * per_beat
        for played in self.played:
            start, per_beat = played.start_quarters, played.bar.meter.quarters_per_beat
            for note in played.bar.melody:
                yield start, note.beats * per_beat, note
                start += note.beats * per_beat

    def line(self, hand: Hand) -> tuple[SoundingLine, ...]:
        """What a hand plays in place of its chords, in time order, tied notes joined."""
        return self._lines[hand]

    @cached_property
    def _lines(self) -> Mapping[Hand, tuple[SoundingLine, ...]]:
        return {hand: tuple(self._line(hand)) for hand in HANDS}

    def _line(self, hand: Hand) -> list[SoundingLine]:
        lines: list[SoundingLine] = []
        open_tie = False
        for played in self.played:
            start, per_beat = played.start_quarters, played.bar.meter.quarters_per_beat
            for note in played.bar.line_of(hand):
                length, before = note.beats * per_beat, lines[-1] if lines else None
                keys = tuple(pitch.key for pitch in note.pitches)
                if open_tie and before is not None and before.keys == keys:
                    lines[-1] = replace(before, quarters=before.quarters + length)
                elif note.pitches:
                    lines.append(SoundingLine(start, length, note.pitches))
                open_tie = note.tied
                start += length
        return lines

    @cached_property
    def tempos(self) -> tuple[tuple[Fraction, Fraction], ...]:
        """(start in quarters, quarters a minute) wherever the tempo changes, from the beginning."""
        per_beat = self.meter.quarters_per_beat
        found = [(-self.pickup_quarters, self.tempo * per_beat)]
        for played in self.played:
            rate = played.bar.tempo * per_beat
            if rate != found[-1][1]:
                found.append((played.start_quarters, rate))
        return tuple(found)

    def moved(self, move: Move) -> Chart:
        """The same chart in another key. The text is left out: it is to be written anew."""
        return replace(
            self,
            key=move.key(self.key),
            pickup_melody=move.melody(self.pickup_melody),
            sections=tuple(
                replace(
                    section,
                    bars=tuple(move.bar(bar) for bar in section.bars),
                    endings=tuple(tuple(move.bar(bar) for bar in ending) for ending in section.endings),
                )
                for section in self.sections
            ),
            ids=tuple(written.id for written in self.written),
            text="",
        )


def _places(section: Section, ending: int) -> tuple[int, ...]:
    """The bars of one round, by their places among all of the section's: the body, then the ending
    whose turn it is."""
    body = tuple(range(len(section.bars)))
    if not section.endings:
        return body
    taken = ending % len(section.endings)
    start = len(section.bars) + sum(len(bars) for bars in section.endings[:taken])
    return body + tuple(range(start, start + len(section.endings[taken])))


class Move(Struct, frozen=True):
    """A change of key: from ``old`` to ``new``; the tune moves by ``tune_st`` half steps. Names keep their
    letters, so that the way back gives what was there; ``usual`` is for what is only shown: no double signs,
    no root that nobody reads at sight."""

    old: Key
    new: Key
    tune_st: int
    usual: bool = False

    @property
    def letters(self) -> int:
        """Letters upwards, 0..6."""
        return (self.new.tonic.step - self.old.tonic.step) % 7

    @property
    def semitones(self) -> int:
        """Half steps upwards, 0..11."""
        return (self.new.tonic.pitch_class - self.old.tonic.pitch_class) % 12

    def name(self, name: NoteName) -> NoteName:
        """A note name moved."""
        return name.above(self.letters, self.semitones)

    def chord(self, chord: ChordSymbol | None) -> ChordSymbol | None:
        if chord is None:
            return None
        if self.usual:
            return moved(chord, self.letters, self.semitones, self.new)
        return chord.transposed(self.letters, self.semitones)

    def key(self, key: Key) -> Key:
        """A key moved: the old one to the new one, others as far, in their plainer spelling where
        they would have more than seven signs."""
        if key == self.old:
            return self.new
        moved = Key(self.name(key.tonic), key.minor)
        return moved if moved in ALL_KEYS else plainest_key(moved.tonic.pitch_class, key.minor)

    def pitch(self, pitch: Pitch | None) -> Pitch | None:
        """A note of the tune moved, by an octave less or more at the ends of the keyboard."""
        if pitch is None:
            return None
        key = pitch.key + self.tune_st
        key += 12 if key < 0 else -12 if key > 127 else 0
        return Pitch(key, self.name(pitch.name))

    def melody(self, notes: tuple[MelodyNote, ...]) -> tuple[MelodyNote, ...]:
        return tuple(replace(note, pitch=self.pitch(note.pitch)) for note in notes)

    def line(self, notes: tuple[LineNote, ...]) -> tuple[LineNote, ...]:
        """A line moved."""
        return tuple(
            replace(note, pitches=tuple(p for p in map(self.pitch, note.pitches) if p is not None))
            for note in notes
        )

    def within(self, key: Key) -> Move:
        """The same change as it is spelled where another key holds."""
        return replace(self, old=key, new=self.key(key))

    def bar(self, bar: Bar) -> Bar:
        move = self.within(bar.key)
        return replace(
            bar,
            chords=tuple(replace(at, chord=move.chord(at.chord)) for at in bar.chords),
            key=move.new,
            melody=move.melody(bar.melody),
            line=move.line(bar.line),
            left_line=move.line(bar.left_line),
        )


def nearest_st(semitones: int) -> int:
    """A move by so many half steps, up or down, as the nearer way: -6..5."""
    return (semitones + 6) % 12 - 6


def move_between(old: Key, new: Key) -> Move:
    """The change from one key to another, the tune by the nearer way."""
    return Move(old, new, nearest_st(new.tonic.pitch_class - old.tonic.pitch_class))
