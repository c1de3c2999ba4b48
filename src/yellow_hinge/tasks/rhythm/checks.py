"""What a player checks of a rhythm: too fast, two places at once, hands that meet, stretches, changes that
are not heard, and mud under the pedal.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from functools import cached_property
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.patterns import HANDS, HELD, Hand, Pattern
from yellow_hinge.rhythm.realise import realise, untangled
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing, known_patterns, stretch_of
from yellow_hinge.song.under_tune import octave_words
from yellow_hinge.song.walk import quarter_ms
from yellow_hinge.theory.pitch import name_for_pitch_class, pitch_for_key
from yellow_hinge.theory.roughness import sounding
from yellow_hinge.voicing.register import mud

#: Strokes a second. One finger on one key: some six, as pianists tap (T. Aoki, S. Furuya, H. Kinoshita,
#: Finger-Tapping Ability in Male and Female Pianists and Nonmusician Controls, Motor Control 9, 2005). A
#: whole
#: chord from the wrist, and single notes with changing fingers: our choice.
SAME_KEY_PER_S, CHORD_PER_S, NOTES_PER_S = 6.0, 5.0, 12.0
#: A hand travels an octave in so many seconds at ease, our choice.
TRAVEL_S_PER_OCTAVE = 0.22
_MM_PER_OCTAVE = 164.5
#: Why a note of the chord is not held under the tune.
WHY_LEFT_OUT = {
    "above": "the tune lies below it", "reach": "out of reach under the tune",
    "fingers": "no finger is left for it under the tune",
}  # fmt: skip
#: Roughness and mud that the pedal adds, in hundredths, from which it is heard as a blur (our choice: about
#: that of a half step in the middle of the keyboard, and of one low close third).
BLURS_FROM, MUDDY_FROM = 120, 90
_TOLERANCE_MM = 0.5


class Remark(Struct, frozen=True):
    """Something to look at on a chord: the slot, the hand ("" for both or the pedal), what kind, in words,
    and the id of a simpler pattern that would do ("" where none is known)."""

    slot: int
    hand: str
    kind: str
    words: str
    simpler: str = ""


class _Checks(Struct, frozen=True, dict=True):
    song: Song

    @cached_property
    def playing(self) -> Playing:
        return Playing(self.song)

    @cached_property
    def _passing(self) -> object:
        return quarter_ms(self.song)

    def seconds(self, quarters: Fraction, at: Fraction) -> float:
        return float(quarters) * self._passing(at) / 1000  # type: ignore[operator,no-any-return]

    def name(self, key: int) -> str:
        return name_for_pitch_class(key % 12, self.song.key_here.prefers_flats).pretty

    # --- one hand on one chord ---

    def of_hand(self, index: int, hand: Hand, notes: Sequence[NoteEvent]) -> list[Remark]:
        """What is to be said of what a hand plays on a slot."""
        return [*self._too_fast(index, hand, notes), *self._two_places(index, hand, notes),
                *self._not_heard(index, hand, notes)]  # fmt: skip

    def too_thin(self, index: int, hand: Hand) -> Iterable[Remark]:
        """Fewer notes than the pattern strikes."""
        needs, has = (
            self.playing.struck(index)[hand == "right"].least,
            len(self.playing.grip(index, hand).keys),
        )
        if 0 < has < needs:
            words = f"{hand.capitalize()} hand: the pattern strikes {needs} notes, the grip has {has}"
            yield Remark(index, hand, "thin", words)

    def _too_fast(self, index: int, hand: Hand, notes: Sequence[NoteEvent]) -> Iterable[Remark]:
        strokes = _strokes([event for event in notes if event.way not in ("grace", "tremolo")])
        for (at, keys), (after, others) in pairwise(strokes):
            seconds = self.seconds(after - at, at)
            again = keys & others
            limit, what = NOTES_PER_S, "notes one after the other"
            if len(again) > 1:
                limit, what = CHORD_PER_S, "the same chord again"
            elif again:
                limit, what = SAME_KEY_PER_S, f"{self.name(min(again))} again and again"
            if seconds * limit < 1 - 1e-9:
                rate = 1 / seconds
                words = (f"{hand.capitalize()} hand: {what}, {rate:.1f} strokes a second at this tempo; "
                         f"up to {limit:g} is comfortable")  # fmt: skip
                yield Remark(index, hand, "fast", words)
                return

    def _two_places(self, index: int, hand: Hand, notes: Sequence[NoteEvent]) -> Iterable[Remark]:
        side = self.song.hands.left if hand == "left" else self.song.hands.right
        octave = self.song.hands.octave_mm
        pedalled = self.song.texture(index).pedal != "none"
        for at, keys in _strokes(notes):
            held = {event.key for event in notes if event.start_quarters <= at < event.end_quarters} | keys
            wide = span_mm(min(held), max(held), octave) - side.reach_mm
            if wide > _TOLERANCE_MM:
                alone = span_mm(min(keys), max(keys), octave) - side.reach_mm > _TOLERANCE_MM
                if alone and len(keys) == len(held):
                    words = f"wider than it reaches by {wide:.0f} mm: it is rolled"
                else:
                    words = (
                        f"{self.name(min(held))} and {self.name(max(held))} at once, {wide:.0f} mm too far"
                    )
                    words += ": let go, and leave it to the pedal" if pedalled else ": only with the pedal"
                yield Remark(index, hand, "stretch", f"{hand.capitalize()} hand: {words}")
                return
        yield from self._jumps(index, hand, notes)

    def _jumps(self, index: int, hand: Hand, notes: Sequence[NoteEvent]) -> Iterable[Remark]:
        """From the nearest key of one stroke to the nearest of the next, less what the hand spans."""
        side = self.song.hands.left if hand == "left" else self.song.hands.right
        for (at, keys), (after, others) in pairwise(_strokes(notes)):
            reach = span_mm(min(*keys, *others), max(*keys, *others), self.song.hands.octave_mm)
            travel = (reach - side.reach_mm) / _MM_PER_OCTAVE
            seconds = self.seconds(after - at, at)
            if travel > 0 and seconds < travel * TRAVEL_S_PER_OCTAVE * 2:
                way = f"from {self.name(min(keys))} to {self.name(max(others))} in {seconds:.2f} s"
                words = f"{hand.capitalize()} hand: it has to be in two places, {way}"
                yield Remark(index, hand, "places", words)
                return

    def _not_heard(self, index: int, hand: Hand, notes: Sequence[NoteEvent]) -> Iterable[Remark]:
        """Keys that are new in a chord, and that the pattern never strikes."""
        grip = set(self.playing.grip(index, hand).keys)
        before = set(self.playing.grip(index - 1, hand).keys) if index else set()
        if hand == "right" and self.song.texture(index).tune:
            yield from self._under_tune(index)
            return
        heard = {event.key for event in notes}
        heard |= {
            event.key + 12 for event in notes if event.ornament
        }  # a bottom that is struck an octave lower
        missing = sorted(grip - before - heard) if before else []
        if missing:
            names = ", ".join(self.name(key) for key in missing)
            words = f"{hand.capitalize()} hand: {names} changes here and is never struck"
            yield Remark(index, hand, "hidden", words)

    # --- the tune in the right hand ---

    def _under_tune(self, index: int) -> Iterable[Remark]:
        """Where the tune goes into another octave, and each note of the chord that is not held under it."""
        octaves = self.playing.tune_octaves(index)
        slots = self.song.slots
        before = index and self.song.texture(index - 1).tune
        if octaves and (not before or self.playing.tune_octaves(index - 1) != octaves):
            words = f"The tune is played {octave_words(octaves)} from here, over its chords"
            yield Remark(index, "right", "octave", words)
        left_out = {out.key: out for out in reversed(self.playing.left_out(index))}
        for key, out in sorted(left_out.items()):
            note = pitch_for_key(key, self.song.key_here.prefers_flats).pretty
            beat = (out.at - slots[index].start_quarters) / slots[index].meter.quarters_per_beat
            when = f"let go on beat {beats_text(slots[index].beat + beat)}" if out.struck else "left out"
            yield Remark(index, "right", "tune", f"Right hand: {note} is {when}: {WHY_LEFT_OUT[out.why]}")

    # --- both hands ---

    def collisions(self, index: int, left: Sequence[NoteEvent], right: Sequence[NoteEvent]) -> list[Remark]:
        """Hands that meet where their grips do not."""
        low, high = self.playing.grip(index, "left").keys, self.playing.grip(index, "right").keys
        if not low or not high or low[-1] >= high[0]:
            return []
        for at, keys in _strokes([*left, *right]):
            del keys
            mine = [event.key for event in left if event.start_quarters <= at < event.end_quarters]
            theirs = [event.key for event in right if event.start_quarters <= at < event.end_quarters]
            if mine and theirs and max(mine) >= min(theirs):
                words = f"The hands meet: left {self.name(max(mine))}, right {self.name(min(theirs))}"
                return [Remark(index, "", "meet", words)]
        return []

    def pedal(self, index: int, ringing: Sequence[NoteEvent]) -> list[Remark]:
        """What rings together while the pedal is down, against the grips and what the fingers hold."""
        keys = tuple(sorted({event.key for event in ringing}))
        grips = {key for hand in HANDS for key in self.playing.grip(index, hand).keys}
        fingers = [tuple(sorted(grips))] + [
            tuple(sorted({o.key for o in ringing if o.start_quarters <= at < o.end_quarters}))
            for at in {event.start_quarters for event in ringing}
        ]
        if not keys or not grips or set(keys) <= grips:
            return []
        if mud(keys) - max(map(mud, fingers)) >= MUDDY_FROM:
            return [Remark(index, "", "pedal", "The pedal makes mud: what it holds lies too low together; "
                                               "change it more often")]  # fmt: skip
        if sounding(keys)[0] - max(sounding(held)[0] for held in fingers) >= BLURS_FROM:
            names = ", ".join(self.name(key) for key in keys if key not in grips)
            return [Remark(index, "", "pedal", f"The pedal blurs: {names} rings on; change it more often")]
        return []


def _strokes(notes: Iterable[NoteEvent]) -> list[tuple[Fraction, set[int]]]:
    """When something is struck, and what."""
    strokes: dict[Fraction, set[int]] = {}
    for event in notes:
        strokes.setdefault(event.start_quarters, set()).add(event.key)
    return sorted(strokes.items())


def check_rhythm(song: Song, slots: Iterable[int] | None = None) -> list[Remark]:
    """What is to be said of the rhythm of a song, or of some of its slots, in their order; each with a
    simpler pattern that would do, where there is one."""
    checks = _Checks(song)
    wanted = list(range(len(song.slots)) if slots is None else slots)
    ringing = _ringing(checks.playing, wanted)
    remarks: list[Remark] = []
    for index in wanted:
        for hand in HANDS:
            of_hand = checks.of_hand(index, hand, checks.playing.of_slot(index, hand))
            of_hand += checks.too_thin(index, hand)
            remarks += [replace(remark, simpler=_simpler(checks, remark, hand)) for remark in of_hand]
        left, right = (checks.playing.of_slot(index, hand) for hand in HANDS)
        remarks += checks.collisions(index, left, right)
        remarks += checks.pedal(index, ringing.get(index, []))
    return remarks


def _ringing(playing: Playing, wanted: Sequence[int]) -> dict[int, list[NoteEvent]]:
    """Slot -> what is struck while the pedal that is down in it is down; a pedal that is held counts on the
    last slot of it. A crushed note is over before the pedal that is changed with it is down again."""
    spans: list[tuple[Fraction, Fraction, list[int]]] = []
    for index in wanted:
        pedalled = playing.pedal_of(playing.song.slots[index])
        changes, end = list(pedalled.changes), pedalled.start + pedalled.lasts
        if pedalled.hold and spans and spans[-1][1] == pedalled.start:
            start, _, slots = spans[-1]
            spans[-1] = (
                start,
                pedalled.start + changes[1] if len(changes) > 1 else end,
                [*slots, pedalled.slot],
            )
            changes = changes[1:]
        ends = [pedalled.start + at for at in changes[1:]] + [end]
        spans += [(pedalled.start + at, end, [pedalled.slot]) for at, end in zip(changes, ends, strict=False)]
    found: dict[int, list[NoteEvent]] = {}
    for start, end, slots in spans:
        every = (note for index in slots for hand in HANDS for note in playing.of_slot(index, hand))
        within = (note for note in every if start <= note.start_quarters < end)
        struck = [note for note in within if note.way != "grace" or note.start_quarters > start]
        if len(struck) >= len(found.get(slots[-1], ())):
            found[slots[-1]] = struck
    return found


def _simpler(checks: _Checks, remark: Remark, hand: Hand) -> str:
    """The fullest simpler pattern for a slot of which nothing is to be said: of the same family first."""
    song, index = checks.song, remark.slot
    playing, slot = checks.playing, song.slots[index]
    pattern = playing.pattern(index, hand)
    known = known_patterns(song.decided(index).groove)
    fitting = [one for one in known.values() if hand in one.hands and fits(one, slot.meter)
               and one.level <= pattern.level and one.id != pattern.id
               and one.needs <= len(playing.grip(index, hand).keys)]  # fmt: skip
    for one in sorted(fitting, key=lambda one: (one.family != pattern.family, -one.level, one.id != HELD)):
        if not checks.of_hand(index, hand, _alone(playing, index, hand, one)):
            return one.id
    return ""


def _alone(playing: Playing, index: int, hand: Hand, pattern: Pattern) -> list[NoteEvent]:
    slots = playing.song.slots
    after = playing.grip(index + 1, hand) if index + 1 < len(slots) else None
    grip, stretch = playing.grip(index, hand), stretch_of(slots[index])
    return untangled(
        realise(pattern, grip, after, stretch, hand, velocity=playing.velocity(index, hand)).notes
    )
