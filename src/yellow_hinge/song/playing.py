"""What the hands play on each chord: patterns on grips, small notes, riffs, and the pedal."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from fractions import Fraction
from functools import cached_property, lru_cache
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.remembering import for_a_song
from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.events import Fill, NoteEvent, Part
from yellow_hinge.rhythm.fullness import LEVELS
from yellow_hinge.rhythm.patterns import HANDS, HELD, Hand, Pattern, Patterns, builtin_patterns
from yellow_hinge.rhythm.perform import Pedalled
from yellow_hinge.rhythm.realise import Form, Grip, Realised, Stretch, joined, realise, strokes_of, untangled
from yellow_hinge.rhythm.struck import Struck
from yellow_hinge.song.groove import Groove
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.pedal import computed
from yellow_hinge.song.tune import melody_events, melody_within
from yellow_hinge.song.under_tune import Fingers, LeftOut, Over, UnderTune, tune_octaves, under_tune
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.voicing.shape import HandShape

#: How hard each part is struck, 1..127: moderate.
VELOCITY = {"left": 64, "right": 68, "bass": 66, "riff": 80}
#: What a step of touch changes, and the growth from the first section to the last: our choice.
_TOUCH, _BUILD = 10, 16
_TOLERANCE_MM = 0.5
#: A chord has no more notes of the tune than this.
_MOST_TUNE_NOTES = 64


def known_patterns(groove: Groove) -> Patterns:
    """The patterns that a take may name: those that ship, and its own."""
    return {**builtin_patterns(), **{pattern.id: pattern for pattern in groove.patterns}}


class Playing(Struct, frozen=True, dict=True):
    """A song and how its hands play it."""

    song: Song

    @cached_property
    def _ends(self) -> frozenset[int]:
        """Slots with which a section ends."""
        slots = self.song.slots
        return frozenset(a.index for a, b in pairwise(slots) if (a.section, a.round) != (b.section, b.round))

    @cached_property
    def _progress(self) -> Mapping[int, Fraction]:
        """Slot index -> how far the form has come, 0..1 in steps of sections."""
        starts = sorted(self.song.section_starts)
        last = max(1, len(starts) - 1)
        progress, step = {}, -1
        for slot in self.song.slots:
            step += slot.index in self.song.section_starts
            progress[slot.index] = Fraction(max(0, step), last)
        return progress

    def pattern(self, index: int, hand: Hand) -> Pattern:
        """What a hand plays on a slot; a lighter one of its family at first where the take builds up."""
        groove = self.song.decided(index).groove
        patterns = self._known[self.song.slots[index].take]
        pattern = patterns.get(self.song.texture(index).hand(hand)) or patterns[HELD]
        if groove.build and self._progress[index] * 3 < 1 and len(self.song.section_starts) > 1:
            return lighter(pattern, patterns, hand, self.song.slots[index])
        return pattern

    @cached_property
    def _known(self) -> Mapping[int, Patterns]:
        return {take.id: known_patterns(take.arrangement.groove) for take in self.song.takes}

    def struck(self, index: int) -> tuple[Struck, Struck]:
        """What the rhythm of both hands needs of their grips on a slot. The right hand needs nothing while it
        plays the tune: what it holds goes by what lies below that."""
        left, right = (self.pattern(index, hand) for hand in HANDS)
        texture = self.song.texture(index)
        full = None if texture.level is None else LEVELS[texture.level]
        if full is not None:
            rows = full.struck("left", left), full.struck("right", right)
        else:
            rows = Struck(left.needs, below=left.bass_below), Struck(right.needs)
        return rows[0], Struck() if texture.tune else rows[1]

    def velocity(self, index: int, part: Part) -> int:
        """How hard a part is struck on a slot."""
        texture, groove = self.song.texture(index), self.song.decided(index).groove
        grown = round(_BUILD * (self._progress[index] - Fraction(1, 2))) if groove.build else 0
        grown += 0 if texture.level is None else LEVELS[texture.level].touch
        return VELOCITY[part] + _TOUCH * (texture.touch or 0) + grown

    def grip(self, index: int, hand: Hand) -> Grip:
        """The keys of a hand on a slot."""
        slot, voicing = self.song.slots[index], self.song.voicing(index)
        shape = HandShape() if voicing is None or slot.chord is None else voicing.hand(hand)
        side = self.song.hands.left if hand == "left" else self.song.hands.right
        fifth, scale = fifth_of(slot.chord), slot.key.pitch_classes
        return Grip(shape.keys, fifth, side.lowest_key, side.highest_key, scale)

    def form(self, index: int) -> Form:
        """Which form of a pattern is played on a slot."""
        if index == len(self.song.slots) - 1 and self.song.decided(index).groove.ending:
            return "ending"
        return "fill" if self.song.texture(index).fill and self.ends_section(index) else ""

    def ends_section(self, index: int) -> bool:
        return index in self._ends

    def hand(self, hand: Hand) -> list[NoteEvent]:
        """All notes of a hand, as they are written."""
        events = self._hands.get(hand)
        if events is None:
            events = self._hands[hand] = self._all_of(hand)
        return events

    @cached_property
    def _hands(self) -> dict[Hand, list[NoteEvent]]:
        return {}

    def _all_of(self, hand: Hand) -> list[NoteEvent]:
        notes = joined([self._realised(slot, hand) for slot in self.song.slots])
        return self._with_fills(notes, hand, [s for s in self.song.slots if self.song.ask(s.index).fills])

    def of_slot(self, index: int, hand: Hand) -> list[NoteEvent]:
        """The notes of a hand that belong to one slot, as they are written; as :meth:`hand` has them, for a
        few slots of a long song."""
        events = self._by_slot.get((index, hand))
        if events is None:
            slots = self.song.slots[max(0, index - 1) : index + 2]
            notes = joined([self._realised(slot, hand) for slot in slots])
            note_events = [note for note in notes if note.slot == index]
            events = untangled(self._with_fills(note_events, hand, [self.song.slots[index]]))
            self._by_slot[index, hand] = events
        return events

    @cached_property
    def _by_slot(self) -> dict[tuple[int, Hand], list[NoteEvent]]:
        return {}

    def free_beats(self, index: int, hand: Hand) -> tuple[Fraction, ...]:
        """Places of a slot, in half beats from its beginning, where the pattern of a hand strikes nothing."""
        slot = self.song.slots[index]
        unit = slot.meter.quarters_per_beat
        strokes = strokes_of(self.pattern(index, hand), stretch_of(slot), self.form(index))
        taken = {stroke.at / unit for stroke in strokes}
        halves = (Fraction(k, 2) for k in range(int(slot.beats * 2)))
        return tuple(at for at in halves if at not in taken)

    def stroke_beats(self, index: int, hand: Hand) -> tuple[Fraction, ...]:
        """Places of a slot, in beats from its beginning, where the pattern of a hand strikes."""
        slot = self.song.slots[index]
        strokes = strokes_of(self.pattern(index, hand), stretch_of(slot), self.form(index))
        return tuple(sorted({stroke.at / slot.meter.quarters_per_beat for stroke in strokes}))

    def _realised(self, slot: Slot, hand: Hand) -> Realised:
        """What a hand plays on a slot, the tune among it where the right hand has it."""
        realised = self._beside_line(self._struck(slot, hand), slot, hand)
        plays_tune = hand == "right" and self.song.texture(slot.index).tune
        return self._with_tune(realised, slot) if plays_tune else realised

    def _beside_line(self, realised: Realised, slot: Slot, hand: Hand) -> Realised:
        """What a hand plays of a chord until it has a line of its own: nothing where the line has the hand
        for itself; the right one keeps what it can hold below it."""
        if not realised.notes or not any(note.hand == hand for note in self.song.line_over(slot.index)):
            return Realised(()) if hand in self.song.in_line(slot.index) else realised
        if hand in self.song.in_line(slot.index):
            return Realised(())
        events = [
            note for note in self.riffs([slot])
            if any(n.hand == hand and n.key == note.key for n in self.song.line_over(slot.index))
        ]  # fmt: skip
        if hand == "right":
            hands = self.song.hands
            return Realised(under_tune(realised.notes, events, Fingers.of(hands.right, hands.octave_mm)).kept)
        first = min(note.start_quarters for note in events)
        return Realised(tuple(_ending_by(realised.notes, first)))

    def _struck(self, slot: Slot, hand: Hand) -> Realised:
        """The strokes of a pattern on a grip."""
        grip = self.grip(slot.index, hand)
        if not grip.keys:
            return Realised(())
        last = slot.index == len(self.song.slots) - 1
        after = None if last else self.grip(slot.index + 1, hand)
        stretch, form = stretch_of(slot), self.form(slot.index)
        pattern, velocity = self.pattern(slot.index, hand), self.velocity(slot.index, hand)
        begun = replace(stretch, start=Fraction(0), slot=-1)
        from_zero = _from_zero(
            pattern, grip, after, begun, hand,
            velocity=velocity, form=form, reach_mm=self._wide(hand), octave_mm=self.song.hands.octave_mm,
        )  # fmt: skip
        realised = _moved(from_zero, stretch)
        if form == "ending" and self.song.decided(slot.index).groove.ending == "rolled":
            realised = Realised(tuple(replace(note, way="rolled") for note in realised.notes))
        return realised

    # --- the tune in the right hand ---

    def _with_tune(self, realised: Realised, slot: Slot) -> Realised:
        """What the right hand keeps below the tune, and the tune."""
        sounding = self.tune_over(slot)
        if not sounding:
            return realised
        grip = {note.key for note in realised.notes if not note.ornament}
        played = [
            replace(note, part="right", slot=slot.index, ornament=note.key not in grip)
            for note in sounding
            if note.start_quarters >= slot.start_quarters
        ]
        return Realised((*self._under(realised, sounding).kept, *played))

    def _under(self, realised: Realised, sounding: Sequence[NoteEvent]) -> UnderTune:
        hands = self.song.hands
        return under_tune(realised.notes, sounding, Fingers.of(hands.right, hands.octave_mm))

    def left_out(self, index: int) -> tuple[LeftOut, ...]:
        """What the right hand cannot hold on a slot under the tune that it plays."""
        slot = self.song.slots[index]
        return self._under(self._struck(slot, "right"), self.tune_over(slot)).left_out

    def tune_over(self, slot: Slot) -> list[NoteEvent]:
        """The tune's notes over a slot, in the octave where the right hand plays them; the last few of them:
        no chord has more."""
        starts, notes = self._tune
        end = slot.start_quarters + slot.quarters
        last = bisect_left(starts, end)
        over = notes[max(0, last - _MOST_TUNE_NOTES) : last]
        shift = 12 * self.tune_octaves(slot.index)
        return [
            replace(note, key=note.key + shift) for note in over if note.end_quarters > slot.start_quarters
        ]

    @cached_property
    def _tune(self) -> tuple[list[Fraction], list[NoteEvent]]:
        notes = melody_events(self.song)
        return [note.start_quarters for note in notes], notes

    def tune_octaves(self, index: int) -> int:
        """By how many octaves the tune moves where the right hand plays it on a slot: as the player says,
        else where it keeps most of the chords under it."""
        tune_octave = self.song.texture(index).tune_octave
        return self._best_octaves if tune_octave is None else tune_octave

    @cached_property
    def _best_octaves(self) -> int:
        """One number for all of the tune that the right hand plays."""
        free = [
            slot for slot in self.song.slots
            if (texture := self.song.texture(slot.index)).tune and texture.tune_octave is None
        ]  # fmt: skip
        row = [
            Over(self.grip(slot.index, "right").keys, tuple(note.key for note in over))
            for slot, over in zip(free, melody_within(self.song, [_span(one) for one in free]), strict=True)
        ]
        return tune_octaves(row, self.song.hands.right, self.song.hands.octave_mm)

    def _wide(self, hand: Hand) -> float:
        side = self.song.hands.left if hand == "left" else self.song.hands.right
        return side.reach_mm

    def _with_fills(self, notes: list[NoteEvent], hand: Hand, slots: Sequence[Slot]) -> list[NoteEvent]:
        """With the small notes on the way of some slots; the voice they take on is not struck meanwhile. A
        passing bass takes the place of whole strokes; in octaves it leaves nothing held."""
        for slot in slots:
            unit = slot.meter.quarters_per_beat
            fills = [fill for fill in fills_sounding(self.song, slot.index) if fill.hand == hand]
            bottom = self.grip(slot.index, hand).keys[:1]
            walks = {fill.offset_beats for fill in fills if hand == "left" and bottom == (fill.start_key,)}
            octaves = {
                fill.offset_beats for fill in fills
                if fill.offset_beats in walks and (*bottom,) == (fill.start_key - 12,)
            }  # fmt: skip
            for fill in fills:
                start = slot.start_quarters + fill.offset_beats * unit
                end = start + fill.beats * unit
                if fill.offset_beats in octaves:
                    notes = list(_stopping(notes, start, end))
                elif fill.offset_beats in walks:
                    notes = [
                        note for note in notes if not start <= note.start_quarters < end or note.ornament
                    ]
                notes = list(_yielding(notes, fill.start_key, start, end))
                notes.append(NoteEvent(start, fill.key, fill.beats * unit, self.velocity(slot.index, hand),
                                       hand, slot=slot.index, ornament=True))  # fmt: skip
        return notes

    def riffs(self, slots: Sequence[Slot] | None = None) -> Iterator[NoteEvent]:
        """The lines of one's own, over all slots or some."""
        end = self.song.chart.length_quarters
        for slot in self.song.slots if slots is None else slots:
            unit = slot.meter.quarters_per_beat
            for note in self.song.line_over(slot.index):
                start = slot.start_quarters + note.at_beats * unit
                if note.at_beats < slot.beats:
                    lasts = min(note.beats * unit, end - start)
                    yield NoteEvent(start, note.key, lasts, self.velocity(slot.index, "riff"), "riff",
                                    slot=slot.index, ornament=True)  # fmt: skip

    def written(self) -> list[NoteEvent]:
        """What both hands play, as it is written, in time order."""
        return untangled([*self.hand("left"), *self.hand("right"), *self.riffs()])

    def pedalled(self) -> list[Pedalled]:
        """Where the pedal is changed, slot by slot."""
        if any(self._by_itself(slot) for slot in self.song.slots):
            self._by_slot.update(self._every_slot())
        return [self.pedal_of(slot) for slot in self.song.slots]

    def _every_slot(self) -> dict[tuple[int, Hand], list[NoteEvent]]:
        """What :meth:`of_slot` says, for all slots at once."""
        found: dict[tuple[int, Hand], list[NoteEvent]] = {
            (slot.index, hand): [] for slot in self.song.slots for hand in HANDS
        }
        for hand in HANDS:
            for note in untangled(self.hand(hand)):
                found[note.slot, hand].append(note)
        return found

    def pedal_said(self) -> list[Pedalled]:
        """The same where the player has said how it goes: a score has no sign for what goes by itself."""
        return [
            Pedalled(pedalled.start, pedalled.quarters, pedalled.slot)
            if self._by_itself(self.song.slots[pedalled.slot])
            else pedalled
            for pedalled in self.pedalled()
        ]

    def _by_itself(self, slot: Slot) -> bool:
        marks = self.song.decided(slot.index).groove.pedal_marks
        return slot.at not in marks and self.song.texture(slot.index).pedal == "auto"

    def pedal_of(self, slot: Slot) -> Pedalled:
        groove, way = self.song.decided(slot.index).groove, self.song.texture(slot.index).pedal
        marks = groove.pedal_marks.get(slot.at)
        unit = slot.meter.quarters_per_beat
        stretch = Pedalled(slot.start_quarters, slot.quarters, slot.index)
        if marks is not None:
            places = tuple(mark * unit for mark in marks if mark < slot.beats)
            return replace(stretch, changes=places)
        if way == "auto" and slot.chord is not None:
            return self._as_wanted(slot, stretch)
        if slot.chord is None or way == "none" or (way == "bridge" and not self._stretches(slot.index)):
            return stretch
        half = slot.meter.quarters / 2 - stretch_of(slot).offset
        if way == "half" and 0 < half < slot.quarters:
            return replace(stretch, changes=(Fraction(0), half))
        return replace(stretch, changes=(Fraction(0),), hold=way == "hold")

    def _as_wanted(self, slot: Slot, stretch: Pedalled) -> Pedalled:
        """The pedal as the patterns and the harmony want it."""
        playing = [hand for hand in HANDS if self.grip(slot.index, hand).keys]
        ways = {self.pattern(slot.index, hand).pedal for hand in playing}
        if not playing or ("dry" in ways and not self._stretches(slot.index)):
            return stretch
        notes = [note for hand in HANDS for note in self.of_slot(slot.index, hand)]
        notes += untangled(self.riffs([slot]))
        grip = {key for hand in HANDS for key in self.grip(slot.index, hand).keys}
        held = computed(notes, grip, slot.start_quarters, slot.quarters)
        return replace(stretch, changes=held.changes, until=held.until, hold=self._goes_on(slot, ways))

    def _goes_on(self, slot: Slot, ways: Collection[str]) -> bool:
        """Whether a chord is the one before once more, under patterns whose notes the pedal holds."""
        if ways != {"long"} or not slot.index:
            return False
        before = self.song.slots[slot.index - 1]
        same = before.chord == slot.chord and self.song.voicing(before.index) == self.song.voicing(slot.index)
        return same and before.section == slot.section

    def _stretches(self, index: int) -> bool:
        """Whether a hand cannot hold what it plays on a slot."""
        return any(self.too_wide(index, hand) for hand in HANDS)

    def too_wide(self, index: int, hand: Hand) -> bool:
        """Whether a grip is wider than the hand takes at ease."""
        keys = self.grip(index, hand).keys
        wide = self._wide(hand) + _TOLERANCE_MM
        return len(keys) > 1 and span_mm(keys[0], keys[-1], self.song.hands.octave_mm) > wide


def strokes_in(song: Song) -> list[tuple[Fraction, ...]]:
    """For each slot when its hands strike, by their patterns, in quarters from its beginning."""
    playing = Playing(song)
    strokes = []
    for slot in song.slots:
        hands = [hand for hand in HANDS if playing.grip(slot.index, hand).keys]
        form, stretch = playing.form(slot.index), stretch_of(slot)
        rows = [strokes_of(playing.pattern(slot.index, hand), stretch, form) for hand in hands]
        strokes.append(tuple(sorted({stroke.at for row in rows for stroke in row})))
    return strokes


def _span(slot: Slot) -> tuple[Fraction, Fraction]:
    return slot.start_quarters, slot.quarters


def stretch_of(slot: Slot) -> Stretch:
    """The part of a bar that a slot fills."""
    offset = (slot.beat - 1) * slot.meter.quarters_per_beat
    return Stretch(slot.start_quarters, offset, slot.quarters, slot.meter, slot.index)


def lighter(pattern: Pattern, patterns: Patterns, hand: Hand, slot: Slot) -> Pattern:
    """The fullest pattern of a family that is simpler than one, for a hand and a meter; itself where there
    is none."""
    simpler = [
        one for one in patterns.values()
        if one.family == pattern.family and one.level < pattern.level and hand in one.hands
        and fits(one, slot.meter)
    ]  # fmt: skip
    return max(simpler, key=lambda one: one.level, default=pattern)


def fifth_of(chord: ChordSymbol | None) -> int | None:
    """The pitch class that a stroke on the fifth plays: the chord's; over a slash bass the bass's own, but
    for an inversion in which that is no tone of the chord."""
    if chord is None:
        return None
    fifth = (chord.root.pitch_class + degree_semitones(chord.fifth or "5")) % 12
    if chord.bass is None:
        return fifth
    tones = {chord.root.degree(label).pitch_class for label in chord.degrees}
    own, low = (chord.bass.pitch_class + 7) % 12, chord.bass.pitch_class
    if own in tones or low not in tones:
        return own
    return chord.root.pitch_class if low == fifth else fifth


@for_a_song
@lru_cache(maxsize=8192)
def _from_zero(
    pattern: Pattern,
    grip: Grip,
    after: Grip | None,
    stretch: Stretch,
    hand: Hand,
    *,
    velocity: int,
    form: Form,
    reach_mm: float,
    octave_mm: float,
) -> Realised:
    """A stretch as if it began the song: the same chords come again and again. Strokes wider than the hand
    are rolled."""
    realised = realise(pattern, grip, after, stretch, hand, velocity=velocity, form=form)
    wide = set()
    for at in {note.start_quarters for note in realised.notes}:
        keys = [note.key for note in realised.notes if note.start_quarters == at and not note.way]
        if len(keys) > 1 and span_mm(min(keys), max(keys), octave_mm) > reach_mm + _TOLERANCE_MM:
            wide.add(at)
    if not wide:
        return realised
    rolled = (note.start_quarters in wide and not note.way for note in realised.notes)
    notes = (
        replace(note, way="rolled") if on else note for note, on in zip(realised.notes, rolled, strict=True)
    )
    return Realised(tuple(notes), realised.tied)


def _moved(realised: Realised, to: Stretch) -> Realised:
    """The same where a stretch is."""
    start, slot = to.start, to.slot
    notes = tuple(
        NoteEvent(
            start + n.start_quarters,
            n.key,
            n.quarters,
            velocity=n.velocity,
            part=n.part,
            slot=slot,
            way=n.way,
            ornament=n.ornament,
        )
        for n in realised.notes
    )
    return Realised(notes, realised.tied)


def _yielding(notes: list[NoteEvent], key: int, start: Fraction, end: Fraction) -> Iterator[NoteEvent]:
    """Notes without those of a key that begin in a stretch; those that go on into it end there."""
    for note in notes:
        if note.key != key or not note.start_quarters < end or note.end_quarters <= start:
            yield note
        elif note.start_quarters < start:
            yield replace(note, quarters=start - note.start_quarters)


def _ending_by(notes: Iterable[NoteEvent], at: Fraction) -> Iterator[NoteEvent]:
    """Notes that begin before a time, let go by then."""
    for note in notes:
        if note.start_quarters < at:
            yield replace(note, quarters=min(note.quarters, at - note.start_quarters))


def _stopping(notes: list[NoteEvent], start: Fraction, end: Fraction) -> Iterator[NoteEvent]:
    """Notes without those that begin in a stretch, small ones apart; what goes on into it ends there."""
    for note in notes:
        if note.ornament or note.start_quarters >= end or note.end_quarters <= start:
            yield note
        elif note.start_quarters < start:
            yield replace(note, quarters=start - note.start_quarters)


def fills_sounding(song: Song, index: int) -> tuple[Fill, ...]:
    """The small notes of a slot whose voice still goes where it went when they were taken."""
    fills = song.ask(index).fills
    if not fills:
        return ()
    following = (index + 1) % len(song.slots)
    here, there = song.voicing(index), song.voicing(following)
    if here is None or there is None or (following == 0 and not song.arrangement.loop):
        return ()
    return tuple(
        fill
        for fill in fills
        if fill.start_key in here.hand(fill.hand).keys
        and fill.end_key in there.hand(fill.hand).keys
        and fill.offset_beats + fill.beats <= song.slots[index].beats
    )
