"""The song as frozen values: what is written, what was decided, and what sounds where.

Everything that changes it is in :mod:`song.edits`.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Hashable, Iterator, Mapping
from fractions import Fraction
from functools import cached_property
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.rhythm.patterns import HANDS, Hand
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.arrangement import Arrangement, Ask, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Chart, ChordAt, Move, PlayedBar, Written, move_between
from yellow_hinge.song.groove import RiffNote, Texture
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.keys import Key, plainest_key
from yellow_hinge.theory.numbers import print_number
from yellow_hinge.theory.pitch import Pitch
from yellow_hinge.theory.roman import print_roman
from yellow_hinge.voicing.hand_rules import merged, of_kind
from yellow_hinge.voicing.shape import Voicing

FIRST_TAKE = "First take"
#: A line that fills so much of a chord leaves its hand no time for it.
LINE_FILLS = Fraction(3, 4)
#: Signs of an id that is made of a title.
_ID_LENGTH = 24


class Take(Struct, frozen=True):
    """An arrangement with a name. ``twin`` is the id of a take that it stays in step with
    (:mod:`song.pairs`); ``unknown`` keeps fields of newer project files."""

    id: int
    name: str
    arrangement: Arrangement = Arrangement()
    unknown: Mapping[str, Any] = field(default_factory=dict)
    twin: int | None = None


class Slot(Struct, frozen=True):
    """A chord that sounds, in playing order.

    ``at`` and ``take`` say whose decision it is; ``chord`` is what sounds, ``was`` what the chart
    has there where a swap or a pedal note has changed it. ``bar`` counts from 1 in playing order,
    ``beat`` from 1 within the bar and ``beats`` its length, both in the bar's ``meter``;
    ``start_quarters`` from the first bar line and ``quarters`` its length in quarter notes. ``key``
    is the key of its bar, as the take sounds, ``place`` its chord's index among
    :attr:`Song.plain_slots`.
    """

    index: int
    at: At
    take: int
    section: str
    round: int
    bar: int
    beat: Fraction
    beats: Fraction
    start_quarters: Fraction
    quarters: Fraction
    chord: ChordSymbol | None
    was: ChordSymbol | None
    meter: Meter
    key: Key
    place: int

    @property
    def where(self) -> str:
        """Bar and chord, for messages."""
        return f"bar {self.bar}, {'no chord' if self.chord is None else self.chord}"


class Song(Struct, frozen=True, dict=True):
    """Everything a project keeps.

    ``current`` is the id of the take that sounds and is edited; ``route`` (section, its round) ->
    id of another take that sounds there. ``lift_st`` is how far a change of key has moved the
    player's own notes in all, so that coming back to a key brings them back. ``keys_chosen``
    are the keys to practise and to print. ``unknown`` keeps fields of newer project files. ``id`` is
    given once and no part of what the song is.
    """

    chart: Chart = Chart()
    takes: tuple[Take, ...] = (Take(0, FIRST_TAKE),)
    current: int = 0
    route: Mapping[tuple[str, int], int] = field(default_factory=dict)
    hands: HandProfile = HandProfile()
    lift_st: int = 0
    keys_chosen: frozenset[Key] = frozenset()
    unknown: Mapping[str, Any] = field(default_factory=dict)
    id: str = ""

    def __eq__(self, other: object) -> bool:
        """Equal in all but the id."""
        if not isinstance(other, Song):
            return NotImplemented
        return all(getattr(self, name) == getattr(other, name) for name in _WHAT_IT_IS)

    def __hash__(self) -> int:
        return hash((self.chart.text, self.current))

    @cached_property
    def own_id(self) -> str:
        """What the practice log knows the song by: its id; for a chart that has none yet, one made of its
        title and composer, or of its text. It stays when the chart is edited."""
        if self.id:
            return self.id
        from hashlib import sha256  # noqa: PLC0415 - only songs without an id need it, none that ships

        named = f"{self.chart.title}\n{self.chart.composer}" if self.chart.title else self.chart.text
        return sha256(named.strip().casefold().encode("utf-8", "surrogatepass")).hexdigest()[:_ID_LENGTH]

    # --- what is written ---

    @property
    def title(self) -> str:
        return self.chart.title

    @property
    def key(self) -> Key:
        return self.chart.key

    @property
    def meter(self) -> Meter:
        return self.chart.meter

    @property
    def tempo(self) -> int:
        return self.chart.tempo

    @property
    def tune(self) -> tuple[tuple[Fraction, Fraction, Pitch], ...]:
        """The melody as it sounds: (start, length, pitch) in quarters; in the key of the take that sounds
        there."""
        if not any(take.arrangement.shift_st for take in self.takes):
            return self.chart.tune
        return self._tune_moved

    def number_of(self, chord: ChordSymbol, key: Key | None = None) -> str:
        """The chord as a number of a key, the song's own where none is given, in the chart's
        numbering."""
        key = key or self.key
        if self.chart.numbering == "roman" and chord.upper is None:
            return print_roman(chord, key)
        return print_number(chord, key, relative_major=self.chart.numbering == "relative")

    # --- what was decided ---

    @cached_property
    def _by_id(self) -> Mapping[int, Take]:
        return {take.id: take for take in self.takes}

    def take_of(self, take_id: int) -> Take:
        """A take by its id; the first one where there is none of that id."""
        return self._by_id.get(take_id) or self.takes[0]

    @property
    def take(self) -> Take:
        """The take that is being worked on."""
        return self.take_of(self.current)

    @property
    def arrangement(self) -> Arrangement:
        """The arrangement that is being worked on."""
        return self.take.arrangement

    def take_in(self, section: str, turn: int) -> Take:
        """The take that sounds in a round of a section."""
        return self.take_of(self.route.get((section, turn), self.current))

    def decided(self, index: int) -> Arrangement:
        """The arrangement that a slot belongs to."""
        return self.take_of(self.slots[index].take).arrangement

    def ask(self, index: int) -> Ask:
        """What the player asks of a slot."""
        return self.decided(index).ask(self.slots[index].at)

    def taste(self, index: int) -> Taste:
        """The taste of a slot: its own, or else its section's. None: as the take has it."""
        slot = self.slots[index]
        return self.decided(index).taste(slot.at, slot.section)

    def texture(self, index: int) -> Texture:
        """How a slot is played: its own texture, or else its round's, its section's, its take's."""
        slot = self.slots[index]
        return self.decided(index).groove.texture(slot.at, slot.section, slot.round)

    def voicing(self, index: int) -> Voicing | None:
        """The chosen voicing of a slot, if there is one."""
        return self.decided(index).voicing(self.slots[index].at)

    def locked(self, index: int) -> bool:
        return self.decided(index).locked(self.slots[index].at)

    @property
    def solved(self) -> bool:
        """Whether every chord has a voicing."""
        return bool(self.slots) and all(
            slot.chord is None or self.voicing(slot.index) is not None for slot in self.slots
        )

    # --- takes in other keys ---

    def move_of(self, take_id: int) -> Move | None:
        """How a take moves what is written into the key it sounds in; None where that is the song's."""
        shift = self.take_of(take_id).arrangement.shift_st
        if not shift:
            return None
        return move_between(self.key, plainest_key(self.key.tonic.pitch_class + shift, self.key.minor))

    @property
    def key_here(self) -> Key:
        """The key of the take that is being worked on."""
        move = self.move_of(self.current)
        return self.key if move is None else move.new

    def key_of(self, played: PlayedBar) -> Key:
        """The key of a bar, as the take sounds that plays it."""
        move = self.move_of(self.take_in(played.section.name, played.round).id)
        return played.bar.key if move is None else move.key(played.bar.key)

    def written_in(self, take_id: int) -> tuple[Written, ...]:
        """The written chords in the key that a take sounds in."""
        move = self.move_of(take_id)
        if move is None:
            return self.chart.written
        within = {written.key: move.within(written.key) for written in self.chart.written}
        return tuple(
            replace(written, chord=within[written.key].chord(written.chord), key=within[written.key].new)
            for written in self.chart.written
        )

    @cached_property
    def written(self) -> tuple[Written, ...]:
        """The written chords in the key of the take that is being worked on."""
        return self.written_in(self.current)

    @cached_property
    def _tune_moved(self) -> tuple[tuple[Fraction, Fraction, Pitch], ...]:
        played = self.chart.played
        starts = [played_bar.start_quarters for played_bar in played]
        found = []
        for start, length, pitch in self.chart.tune:
            bar = played[max(0, bisect_right(starts, start) - 1)]
            move = self.move_of(self.take_in(bar.section.name, bar.round).id)
            own = pitch if move is None else move.within(bar.bar.key).pitch(pitch)
            assert own is not None
            found.append((start, length, own))
        return tuple(found)

    # --- what sounds ---

    @cached_property
    def slots(self) -> tuple[Slot, ...]:
        """The chords in playing order as they sound: swapped, and over pedal notes."""
        slots: list[Slot] = []
        for plain in self.plain_slots:
            slots += self._sounding(plain, len(slots))
        return tuple(slots)

    def _sounding(self, plain: Slot, index: int) -> Iterator[Slot]:
        arrangement = self.take_of(plain.take).arrangement
        swap = arrangement.swaps.get(plain.at.written)
        if swap is None and index == plain.index and not arrangement.pedals(plain.at, plain.section):
            yield plain
            return
        beat = plain.beat
        for part, chord_at in enumerate(swap or (ChordAt(plain.chord, plain.beats),)):
            at = At(plain.at.written, part + 1 if swap else 0)
            pedal, chord = arrangement.taste(at, plain.section).pedal, chord_at.chord
            if chord is not None and pedal is not None:
                chord = with_bass(chord, pedal)
            unit = plain.meter.quarters_per_beat
            yield Slot(
                index + part, at, plain.take, section=plain.section, round=plain.round, bar=plain.bar,
                beat=beat, beats=chord_at.beats,
                start_quarters=plain.start_quarters + (beat - plain.beat) * unit,
                quarters=chord_at.beats * unit, chord=chord,
                was=plain.chord if chord != plain.chord else None, meter=plain.meter, key=plain.key,
                place=plain.place,
            )  # fmt: skip
            beat += chord_at.beats

    @cached_property
    def plain_slots(self) -> tuple[Slot, ...]:
        """The chart's own chords in playing order, as if nothing were swapped."""
        takes: dict[tuple[str, int], int] = {}
        rows = {take.id: self.written_in(take.id) for take in self.takes}
        slots: list[Slot] = []
        for placed in self.chart.placed:
            played, name = placed.played, placed.played.section.name
            take = takes.get((name, played.round))
            if take is None:
                take = takes[name, played.round] = self.take_in(name, played.round).id
            written = rows[take][placed.written.index]
            slots.append(
                Slot(
                    len(slots), At(written.id), take, section=name, round=played.round, bar=played.number,
                    beat=written.beat,
                    beats=written.beats, start_quarters=placed.start_quarters, quarters=placed.quarters,
                    chord=written.chord, was=None,
                    meter=played.bar.meter,
                    key=written.key, place=len(slots),
                )
            )  # fmt: skip
        return tuple(slots)

    @cached_property
    def firsts(self) -> Mapping[int, Slot]:
        """Id of a written chord -> where the current take plays it first, as if nothing were
        swapped; or any take, where the current one does not play it."""
        found: dict[int, Slot] = {}
        for slot in self.plain_slots:
            before = found.get(slot.at.written)
            if before is None or (before.take != self.current == slot.take):
                found[slot.at.written] = slot
        return found

    @cached_property
    def columns(self) -> tuple[tuple[int, ...], ...]:
        """The slots that are one decision, together: all rounds of a chord in one take, and those that
        sound alike by a rule, in the order in which they are first played."""
        found: dict[Hashable, list[int]] = {}
        ruled = {take.id for take in self.takes if take.arrangement.has_rule("alike")}
        for slot in self.slots:
            own = (self._alike(slot) if slot.take in ruled else None) or slot.at
            found.setdefault((slot.take, own), []).append(slot.index)
        return tuple(tuple(indices) for indices in found.values())

    def _alike(self, slot: Slot) -> Hashable:
        """What chords that are to sound alike have in common, by the player's rule; None for one that goes
        its own way: locked, or with something kept of its voicing."""
        arrangement = self.take_of(slot.take).arrangement
        taste = arrangement.taste(slot.at, slot.section)
        if slot.chord is None or not any(of_kind(taste.rules, "alike")):
            return None
        if arrangement.locked(slot.at) or arrangement.ask(slot.at).hold.names:
            return None
        whole = any(of_kind(merged((), arrangement.rules), "alike"))
        return slot.chord, slot.key, taste, "" if whole else slot.section, self._tune_at(slot.start_quarters)

    def _tune_at(self, quarters: Fraction) -> int | None:
        """The key of the tune that sounds at a time: under another note the same chord may need another
        voicing."""
        starts = [start for start, _, _ in self.tune]
        place = bisect_right(starts, quarters) - 1
        if place < 0:
            return None
        start, length, pitch = self.tune[place]
        return pitch.key if start <= quarters < start + length else None

    # --- lines of one hand ---

    def line_over(self, index: int) -> tuple[RiffNote, ...]:
        """What hands play in lines of their own from a slot on: the take's, or else the chart's, in the key
        in which the take sounds; in time order."""
        slot = self.slots[index]
        notes = self.decided(index).groove.riffs.get(slot.at)
        return notes if notes is not None else self._written_lines.get(index, ())

    @cached_property
    def _written_lines(self) -> Mapping[int, tuple[RiffNote, ...]]:
        starts = [slot.start_quarters for slot in self.slots]
        lines: dict[int, list[RiffNote]] = {}
        for hand in HANDS:
            for struck in self.chart.line(hand):
                index = bisect_right(starts, struck.start_quarters) - 1
                if index < 0:
                    continue
                slot = self.slots[index]
                move, unit = self.move_of(slot.take), slot.meter.quarters_per_beat
                at = (struck.start_quarters - slot.start_quarters) / unit
                for pitch in struck.pitches:
                    sounding = pitch if move is None else move.pitch(pitch)
                    assert sounding is not None
                    note = RiffNote(at, struck.quarters / unit, sounding.key, hand)
                    lines.setdefault(index, []).append(note)
        return {
            index: tuple(sorted(row, key=lambda riff_note: (riff_note.at_beats, riff_note.key)))
            for index, row in lines.items()
        }

    def in_line(self, index: int) -> frozenset[Hand]:
        """The hands that have a line instead of a slot's chord: one that sounds at its stroke, or fills most
        of it. A line that comes later is joined by the chord until then."""
        return self._in_line[index]

    @cached_property
    def _in_line(self) -> tuple[frozenset[Hand], ...]:
        found = []
        ringing: dict[Hand, Fraction] = {}
        for slot in self.slots:
            end = slot.start_quarters + slot.quarters
            unit, row = slot.meter.quarters_per_beat, self.line_over(slot.index)
            busy = set()
            for hand in HANDS:
                before = ringing.get(hand, slot.start_quarters) > slot.start_quarters
                notes = [note for note in row if note.hand == hand]
                filled = {note.at_beats: note.beats for note in notes}
                most = sum(filled.values(), Fraction(0)) * unit >= slot.quarters * LINE_FILLS
                if before or any(note.at_beats == 0 for note in notes) or (notes and most):
                    busy.add(hand)
                for note in notes:
                    last = slot.start_quarters + (note.at_beats + note.beats) * unit
                    if last > end:
                        ringing[hand] = max(ringing.get(hand, end), last)
            found.append(frozenset(busy))
        return tuple(found)

    @cached_property
    def column_of(self) -> tuple[int, ...]:
        """Slot index -> its column."""
        found = [0] * len(self.slots)
        for column, indices in enumerate(self.columns):
            for index in indices:
                found[index] = column
        return tuple(found)

    @cached_property
    def section_starts(self) -> Mapping[int, str]:
        """Slot index -> section name (with its round), where a section begins."""
        starts: dict[int, str] = {}
        before: tuple[str, int] | None = None
        for slot in self.slots:
            now = (slot.section, slot.round)
            if now != before:
                starts[slot.index] = f"{slot.section} ({slot.round})" if slot.round > 1 else slot.section
            before = now
        return starts


_WHAT_IT_IS = tuple(name for name in Song.__struct_fields__ if name != "id")
