"""The song as frozen values. Everything that changes it is in :mod:`song.edits`."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from fractions import Fraction
from functools import cached_property
from typing import Any, Literal

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.numbers import print_number
from yellow_hinge.theory.pitch import NoteName, Pitch
from yellow_hinge.theory.roman import print_roman
from yellow_hinge.voicing.shape import Hands, Hold, Voicing

Bass = Literal["self", "bassist"]
#: Plain numbers from the home note, from the relative major in minor keys, or Roman numbers.
Numbering = Literal["home", "relative", "roman"]
#: What the melody means for the hands: nothing; the right hand has it on top; somebody else
#: sings it and the hands keep a half step away; or the hands leave its register free.
Melody = Literal["free", "top", "clear", "room"]


@dataclass(frozen=True, slots=True)
class ChordAt:
    """A chord of a bar; None is "no chord". The length is in beats of the meter."""

    chord: ChordSymbol | None
    beats: Fraction


@dataclass(frozen=True, slots=True)
class MelodyNote:
    """A note of the tune; None is a rest."""

    pitch: Pitch | None
    beats: Fraction


@dataclass(frozen=True, slots=True)
class Bar:
    chords: tuple[ChordAt, ...]
    melody: tuple[MelodyNote, ...] = ()


@dataclass(frozen=True, slots=True)
class Section:
    """A named stretch of bars, played ``times`` times."""

    name: str
    bars: tuple[Bar, ...]
    times: int = 1


@dataclass(frozen=True, slots=True)
class Settings:
    """Hands and taste. None leaves the choice to the school.

    ``loop`` leads from the last chord back to the first; ``take`` 0 is the row with the least
    effort, 1 and on are others that differ audibly. ``hands`` says which hands play; ``inverted``
    lets chords stand on their third, fifth or seventh.
    """

    school: str = "solo"
    colour: int | None = None
    bass: Bass | None = None
    profile: HandProfile = field(default=HandProfile())
    numbering: Numbering = "home"
    loop: bool = False
    take: int = 0
    melody: Melody | None = None
    levels: tuple[tuple[str, int], ...] = ()
    rules_off: tuple[str, ...] = ()
    hands: Hands = "both"
    inverted: bool = False


@dataclass(frozen=True, slots=True)
class Taste:
    """What a section or a chord wants otherwise; None leaves it to what stands around it.

    ``pedal`` is a bass note held under the chords; ``held_top`` keeps the top note wherever the
    chords allow; ``hands`` and ``inverted`` as in :class:`Settings`.
    """

    school: str | None = None
    colour: int | None = None
    melody: Melody | None = None
    pedal: NoteName | None = None
    held_top: bool | None = None
    hands: Hands | None = None
    inverted: bool | None = None

    def over(self, wider: Taste) -> Taste:
        """This taste, and where it says nothing the wider one."""
        found = {}
        for one in fields(self):
            own = getattr(self, one.name)
            found[one.name] = getattr(wider, one.name) if own is None else own
        return Taste(**found)


@dataclass(frozen=True, slots=True)
class Ask:
    """What the player asks of one chord: a taste of its own, what is kept of its voicing short of
    the whole, and small notes on the way to the next chord, which sound as long as both chords
    have the notes they join."""

    taste: Taste = field(default=Taste())
    hold: Hold = field(default=Hold())
    fills: tuple[Fill, ...] = ()


@dataclass(frozen=True, slots=True)
class Choice:
    """The voicing of a slot; locked ones are not moved by the search."""

    voicing: Voicing
    locked: bool = False


@dataclass(frozen=True, slots=True)
class Slot:
    """One chord in playing order, repeats written out.

    ``chord`` is what sounds; ``was`` what the chart has there, where a swap has changed it.
    ``written`` is the place of the chart's chord among all written ones in playing order.
    ``bar`` counts from 1 in playing order, ``beat`` from 1 within the bar;
    ``start_beats`` from the beginning of the song.
    """

    index: int
    section: str
    round: int
    bar: int
    beat: Fraction
    beats: Fraction
    start_beats: Fraction
    chord: ChordSymbol | None
    written: int = 0
    was: ChordSymbol | None = None


@dataclass(frozen=True)
class Song:
    """Everything a project keeps. ``chart`` is the text as the player typed it;
    ``choices`` and ``asks`` have one entry per slot; ``tastes`` go by section name; ``swaps``
    by the place of the written chord that they stand for, as do ``keys_set`` (local keys set by
    the player) and ``untouched`` (chords that no swap may take); ``unknown`` keeps fields of newer
    project files."""

    title: str = ""
    key: Key = field(default=parse_key("C"))
    meter: Meter = field(default=Meter())
    tempo: int = 100
    sections: tuple[Section, ...] = ()
    settings: Settings = field(default=Settings())
    choices: tuple[Choice | None, ...] = ()
    asks: tuple[Ask | None, ...] = ()
    tastes: Mapping[str, Taste] = field(default_factory=dict)
    swaps: Mapping[int, tuple[ChordAt, ...]] = field(default_factory=dict)
    keys_set: Mapping[int, Key] = field(default_factory=dict)
    untouched: frozenset[int] = frozenset()
    chart: str = ""
    unknown: Mapping[str, Any] = field(default_factory=dict)

    @cached_property
    def slots(self) -> tuple[Slot, ...]:
        """The chords in playing order as they sound: swapped, and over pedal notes."""
        slots: list[Slot] = []
        for written in self.written:
            beat = Fraction(0)
            for at in self.swaps.get(written.index, (ChordAt(written.chord, written.beats),)):
                index = len(slots)
                pedal = self._taste_of(index, written.section).pedal
                chord = at.chord
                if chord is not None and pedal is not None:
                    chord = with_bass(chord, pedal)
                slots.append(
                    replace(
                        written, index=index, beat=written.beat + beat, beats=at.beats, chord=chord,
                        start_beats=written.start_beats + beat, written=written.index,
                        was=written.chord if chord != written.chord else None,
                    )
                )  # fmt: skip
                beat += at.beats
        return tuple(slots)

    @cached_property
    def written(self) -> tuple[Slot, ...]:
        """The chart's own chords in playing order."""
        slots: list[Slot] = []
        for bar_number, (section, turn, bar) in enumerate(self.bars_in_order, 1):
            start = (bar_number - 1) * Fraction(self.meter.beats)
            beat = Fraction(0)
            for at in bar.chords:
                slots.append(
                    Slot(
                        len(slots), section.name, turn, bar_number, beat + 1, at.beats,
                        start + beat, at.chord, len(slots),
                    )
                )  # fmt: skip
                beat += at.beats
        return tuple(slots)

    @cached_property
    def bars_in_order(self) -> tuple[tuple[Section, int, Bar], ...]:
        """(section, round from 1, bar) for every bar that is played."""
        return tuple(
            (section, turn, bar)
            for section in self.sections
            for turn in range(1, section.times + 1)
            for bar in section.bars
        )

    @cached_property
    def section_starts(self) -> Mapping[int, str]:
        """Slot index -> section name (with its round), where a section begins."""
        starts: dict[int, str] = {}
        before: tuple[Section, int] | None = None
        first_of: dict[int, int] = {}
        for slot in self.slots:
            first_of.setdefault(slot.bar, slot.index)
        for bar_number, (section, turn, _) in enumerate(self.bars_in_order, 1):
            if before is None or before[0] is not section or before[1] != turn:
                starts[first_of[bar_number]] = f"{section.name} ({turn})" if turn > 1 else section.name
            before = (section, turn)
        return starts

    def ask(self, index: int) -> Ask:
        """What the player asks of a slot."""
        ask = self.asks[index] if index < len(self.asks) else None
        return ask or Ask()

    def _taste_of(self, index: int, section: str) -> Taste:
        return self.ask(index).taste.over(self.tastes.get(section, Taste()))

    def taste(self, index: int) -> Taste:
        """The taste of a slot: its own, or else its section's. None: as the song has it."""
        return self._taste_of(index, self.slots[index].section)

    @cached_property
    def tune(self) -> tuple[tuple[Fraction, Fraction, Pitch], ...]:
        """The tune's notes, repeats written out: (start, length, pitch), in time order, in beats."""
        notes = []
        for number, (_, _, bar) in enumerate(self.bars_in_order):
            start = Fraction(self.meter.beats) * number
            for note in bar.melody:
                if note.pitch is not None:
                    notes.append((start, note.beats, note.pitch))
                start += note.beats
        return tuple(notes)

    @property
    def length_beats(self) -> Fraction:
        return Fraction(self.meter.beats) * len(self.bars_in_order)

    def number_of(self, chord: ChordSymbol) -> str:
        """The chord as a number of this song's key, in the numbering of the settings."""
        if self.settings.numbering == "roman" and chord.upper is None:
            return print_roman(chord, self.key)
        return print_number(chord, self.key, relative_major=self.settings.numbering == "relative")

    def voicing(self, index: int) -> Voicing | None:
        """The chosen voicing of a slot, if there is one."""
        choice = self.choices[index] if index < len(self.choices) else None
        return None if choice is None else choice.voicing

    def locked(self, index: int) -> bool:
        choice = self.choices[index] if index < len(self.choices) else None
        return choice is not None and choice.locked

    @property
    def solved(self) -> bool:
        """Whether every chord has a voicing."""
        return bool(self.slots) and all(
            slot.chord is None or self.voicing(slot.index) is not None for slot in self.slots
        )
