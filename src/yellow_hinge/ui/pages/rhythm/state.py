"""What the Rhythm page shows, without Qt."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import cached_property
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.hinge import Held
from yellow_hinge.rhythm.counts import fits, grid_of, in_words, said_at
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.own import restruck, rungs_at, shifted, with_rungs, with_what, written_out
from yellow_hinge.rhythm.patterns import (
    HANDS,
    SAY,
    WAY_WORDS,
    WAYS,
    WHAT,
    Hand,
    Pattern,
    builtin_patterns,
)
from yellow_hinge.rhythm.realise import strokes_of
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import Where, mark_pedal, set_riff, texture_at, use_pattern
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import Playing, fills_sounding, known_patterns, stretch_of
from yellow_hinge.tasks.settings.patterns import free_id
from yellow_hinge.tasks.takes.places import bar_of, compare, round_of

Lane = Literal["riff", "right", "left", "pedal"]
LANES: tuple[Lane, ...] = ("riff", "right", "left", "pedal")
Scope = Literal["song", "section", "round", "chord"]
LEVELS = {1: "simple", 2: "fuller", 3: "full"}
#: Of two places so many chords that differ are said.
_MOST_DETAILS = 3
#: What the keys , and . walk through.
_WHAT_ROW = tuple(WHAT)


class StrokeMark(Struct, frozen=True):
    """What a hand strikes at one time of a chord: place and length in quarters from the chord's beginning,
    the rungs of the grip, and keys outside it."""

    at: Fraction
    lasts: Fraction
    rungs: frozenset[int]
    outside: tuple[int, ...]


class LaneNote(Struct, frozen=True):
    """A note of the upper lane: place and length in quarters from the chord's beginning, its key, and
    whose it is: a riff's ("") or a small note of a hand."""

    at: Fraction
    lasts: Fraction
    key: int
    hand: Hand | Literal[""] = ""


class RhythmState:
    """Where the cursor is, and what stands on the strip."""

    def __init__(self) -> None:
        self.song = Song()
        self.index = 0
        self.place = Fraction(0)  #: quarters from the chosen chord's beginning
        self.lane: Lane = "right"
        self.hand: Hand = "right"
        self.scope: Scope = "section"
        self.playing = -1
        self.own: dict[str, Pattern] = {}  #: the player's own file
        #: Patterns for a hand in the order in which the player chooses them for such a song.
        self.liked: Callable[[list[Pattern], Hand, Song], list[Pattern]] = lambda patterns, *_: patterns
        self._grids: dict[int, Fraction] = {}
        self._marks: dict[tuple[int, Hand], list[StrokeMark]] = {}
        self.other: tuple[Hand, Where, str] | None = None  #: the pattern before, to be heard in turn
        self.marked: int | None = None  #: a slot of the place that others are compared with

    def take(self, song: Song) -> None:
        """Another song, or the same one changed."""
        if song is self.song:
            return
        self.song = song
        vars(self).pop("walk", None)
        self._marks.clear()
        self._grids.clear()
        self.index = min(self.index, max(0, len(song.slots) - 1))
        if self.marked is not None and self.marked >= len(song.slots):
            self.marked = None
        if song.slots and self.place >= self.slot.quarters:
            self.place = Fraction(0)

    @property
    def slot(self) -> Slot:
        """The chosen chord."""
        return self.song.slots[self.index]

    # --- what sounds ---

    @cached_property
    def walk(self) -> Playing:
        return Playing(self.song)

    def size(self, index: int, hand: Hand) -> int:
        """How many notes a grip has."""
        return len(self.walk.grip(index, hand).keys)

    def strokes(self, index: int, hand: Hand) -> list[StrokeMark]:
        """What a hand strikes on a chord, in time order."""
        if (index, hand) not in self._marks:
            self._marks[index, hand] = self._struck(index, hand)
        return self._marks[index, hand]

    def _struck(self, index: int, hand: Hand) -> list[StrokeMark]:
        keys = self.walk.grip(index, hand).keys
        begin = self.song.slots[index].start_quarters
        by_place: dict[Fraction, list[NoteEvent]] = {}
        small = {
            (lane_note.at + begin, lane_note.key) for lane_note in self.small(index) if lane_note.hand == hand
        }
        for note in self.walk.of_slot(index, hand):
            if note.way != "grace" and (note.start_quarters, note.key) not in small:
                by_place.setdefault(note.start_quarters - begin, []).append(note)
        marks = []
        for at, notes in sorted(by_place.items()):
            rungs = frozenset(keys.index(note.key) for note in notes if note.key in keys)
            outside = tuple(note.key for note in notes if note.key not in keys)
            marks.append(StrokeMark(at, max(note.quarters for note in notes), rungs, outside))
        return marks

    def riff(self, index: int) -> list[LaneNote]:
        """The riff over a chord."""
        begin = self.song.slots[index].start_quarters
        return [LaneNote(note.start_quarters - begin, note.quarters, note.key)
                for note in self.walk.riffs([self.song.slots[index]])]  # fmt: skip

    def small(self, index: int) -> list[LaneNote]:
        """The small notes on the way from a chord."""
        unit = self.song.slots[index].meter.quarters_per_beat
        return [
            LaneNote(fill.offset_beats * unit, fill.beats * unit, fill.key, hand)
            for hand in HANDS
            for fill in fills_sounding(self.song, index)
            if fill.hand == hand
        ]

    def lane_notes(self, index: int) -> list[LaneNote]:
        """What stands in the upper lane over a chord."""
        return sorted([*self.riff(index), *self.small(index)], key=lambda note: note.at)

    def pedal(self, index: int) -> tuple[tuple[Fraction, ...], bool]:
        """Where the pedal is changed on a chord, in quarters, and whether it stays from the one before."""
        pedalled = self.walk.pedal_of(self.song.slots[index])
        return pedalled.changes, pedalled.hold

    def pedal_until(self, index: int) -> Fraction | None:
        """From where on the pedal is up on a chord, in quarters; None: not before its end."""
        return self.walk.pedal_of(self.song.slots[index]).until

    # --- counting ---

    def grid(self, index: int) -> Fraction:
        """The step of the counting on a chord, in quarters: half counts, or finer where it has to be."""
        if index not in self._grids:
            self._grids[index] = self._grid(index)
        return self._grids[index]

    def _grid(self, index: int) -> Fraction:
        slot = self.song.slots[index]
        offset = stretch_of(slot).offset
        places = [offset + mark.at for hand in HANDS for mark in self.strokes(index, hand)]
        places += [offset + note.at for note in self.lane_notes(index)]
        return grid_of(places, slot.meter)

    def places(self, index: int) -> list[tuple[Fraction, str]]:
        """Places of a chord (quarters from its beginning) with what one says there; "" for silence."""
        slot = self.song.slots[index]
        offset, step = stretch_of(slot).offset, self.grid(index)
        count = -(-slot.quarters // step)
        return [(k * step, said_at(offset + k * step, slot.meter)) for k in range(int(count))]

    def counts_said(self, index: int) -> str:
        """What one says over a chord: 1 & 2 &."""
        return " ".join(said for _, said in self.places(index) if said)

    def words(self) -> str:
        """The chosen chord's rhythm in words."""
        if not self.song.slots:
            return ""
        parts = [f"Say it: {self.counts_said(self.index)}."]
        for hand in HANDS:
            parts.append(f"{hand.capitalize()} {self._hand_words(hand)}.")
        return " ".join(parts)

    def aloud(self) -> str:
        """The strokes of both hands on the chosen chord, to be said aloud on their counts."""
        if not self.song.slots:
            return ""
        offset, meter = stretch_of(self.slot).offset, self.slot.meter
        said = []
        for hand in HANDS:
            if not self.size(self.index, hand):
                continue
            strokes = strokes_of(
                self.pattern(self.index, hand), stretch_of(self.slot), self.walk.form(self.index)
            )
            row = [f"{said_at(offset + stroke.at, meter) or '-'} {SAY[stroke.what]}" for stroke in strokes]
            said.append(f"{hand}: {', '.join(row)}")
        return f"Aloud, {'; '.join(said)}." if said else ""

    def cycle(self) -> str:
        """What is struck at the cursor, and what "." and "," go on to."""
        stroke_here = self.stroke_here()
        if not self.song.slots or self.lane not in HANDS or not self.size(self.index, self.hand):
            return ""
        place = _WHAT_ROW.index(stroke_here) if stroke_here in _WHAT_ROW else -1
        after = [WHAT[_WHAT_ROW[(place + k) % len(_WHAT_ROW)]] for k in (1, 2)]
        before = WHAT[_WHAT_ROW[(place - 1) % len(_WHAT_ROW)]]
        here = (
            "nothing is struck"
            if stroke_here is None
            else f"{WHAT[stroke_here]} is struck{self._way_words()}"
        )
        return f"Here {here}. Next (.): {', then '.join(after)}. Back (,): {before}."

    def _way_words(self) -> str:
        way = self.way_here()
        return f", {WAY_WORDS[way]}" if way else ""

    def way_here(self) -> str:
        """How the stroke at the cursor is struck; "" plainly, or where there is none."""
        if not self.song.slots or self.lane not in HANDS:
            return ""
        pattern = self.pattern(self.index, self.hand)
        strokes = strokes_of(pattern, stretch_of(self.slot), self.walk.form(self.index))
        return next((stroke.way for stroke in strokes if stroke.at == self.place), "")

    def compared(self, held: Sequence[Held], whole: bool) -> str:
        """The bar (or the whole round of the section) of the cursor against the one that was marked; what is
        to be done where none is. The first one is marked by asking."""
        place = round_of if whole else bar_of
        here = place(self.song, self.index)
        marked = None if self.marked is None else place(self.song, self.marked)
        if marked is None or marked == here:
            self.marked = self.index
            words = here.words[:1].upper() + here.words[1:]
            return f"{words} is marked: go to another one and ask again, to compare them."
        compared = compare(self.song, held, marked, here)
        lines = [f"  {words}" for words in compared.details[:_MOST_DETAILS] if words]
        return "\n".join([compared.words, *lines])

    def next_way(self) -> Edit | None:
        """The stroke at the cursor plainly, rolled, shaken, crushed or slid into, in turn."""
        if self.stroke_here() is None:
            return None
        way = WAYS[(WAYS.index(self.way_here()) + 1) % len(WAYS)]
        return self._edit(lambda pattern, at: restruck(pattern, at, way=way))

    def _hand_words(self, hand: Hand) -> str:
        slot = self.slot
        strokes = self.strokes(self.index, hand)
        if not strokes:
            return "plays a line" if hand in self.song.in_line(self.index) else "rests"
        offset = stretch_of(slot).offset
        if slot.beats == slot.meter.beats:
            places = in_words([offset + mark.at for mark in strokes], slot.meter)
        else:
            said = [said_at(offset + mark.at, slot.meter) or "-" for mark in strokes]
            places = ", ".join(said)
        name = self.pattern(self.index, hand).name
        return f"on {places}: {name[0].lower()}{name[1:]}"

    # --- patterns ---

    def pattern(self, index: int, hand: Hand) -> Pattern:
        """What a hand plays on a chord."""
        return self.walk.pattern(index, hand)

    @property
    def where(self) -> Where:
        """The place that the chosen scope means."""
        if self.scope == "song" or not self.song.slots:
            return None
        slot = self.slot
        if self.scope == "chord":
            return slot.at
        return (slot.section, slot.round if self.scope == "round" else 0)

    def scope_words(self) -> list[tuple[Scope, str]]:
        """What can be chosen as the scope; :meth:`chosen_place` says which section, round and chord it is."""
        rows: list[tuple[Scope, str]] = [
            ("song", "the whole song"), ("section", "this section"), ("round", "this round"),
            ("chord", "this chord"),
        ]  # fmt: skip
        return rows if self.song.slots else rows[:1]

    def listed(self, words: str = "") -> list[Pattern]:
        """The patterns for the hand at the cursor; ``words`` filter by name and family."""
        asked = words.lower().split()
        return [
            pattern
            for pattern in self.listed_for(self.hand)
            if all(word in f"{pattern.name} {pattern.family}".lower() for word in asked)
        ]

    def listed_for(self, hand: Hand) -> list[Pattern]:
        """The patterns for a hand, those made for the meter first, and of these what the player chooses."""
        known = {**known_patterns(self.song.arrangement.groove), **self.own}
        meter = self.slot.meter if self.song.slots else self.song.meter
        patterns = [pattern for pattern in known.values() if hand in pattern.hands]
        liked = self.liked(patterns, hand, self.song)
        return sorted(liked, key=lambda pattern: not fits(pattern, meter))  # stable: by family within

    def is_own(self, pattern: Pattern) -> bool:
        """Whether it is the player's own, and not one that ships."""
        return pattern.id not in builtin_patterns()

    def said_here(self, hand: Hand) -> str | None:
        """The pattern that is said at the chosen scope itself; None: it follows what stands around."""
        texture = texture_at(self.song.arrangement.groove, self.where)
        return texture.left if hand == "left" else texture.right

    def use(self, pattern: Pattern) -> Edit:
        """The hand plays a pattern in the scope."""
        self.other = (self.hand, self.where, self.pattern(self.index, self.hand).id)
        return use_pattern(self.song, self.where, self.hand, pattern, self.is_own(pattern))

    def heard_before(self) -> Edit | None:
        """Back to the pattern before, which becomes the other one."""
        if self.other is None:
            return None
        hand, where, name = self.other
        known = {**known_patterns(self.song.arrangement.groove), **self.own}
        if name not in known:
            return None
        self.other = (hand, where, self.pattern(self.index, hand).id)
        return use_pattern(self.song, where, hand, known[name], self.is_own(known[name]))

    # --- changing strokes ---

    def _changed(self) -> Pattern:
        """The pattern at the cursor, as one of the player's own that can be changed."""
        hand = self.hand
        pattern, meter = self.pattern(self.index, hand), self.slot.meter
        own = {one.id for one in self.song.arrangement.groove.patterns}
        if pattern.id in own and pattern.meters == (str(meter),):
            return pattern
        name = pattern.name if pattern.family == "mine" else f"{pattern.name}, changed"
        return written_out(pattern, meter, free_id(name, {*own, *self.own}), name)

    def _edit(self, change: Callable[[Pattern, Fraction], Pattern]) -> Edit:
        """A change of the strokes at the cursor: of the short form, where the chord has that."""
        pattern = self._changed()
        at = self.place * pattern.unit / 4
        counts = -(-self.slot.quarters * pattern.unit // 4)
        if not pattern.short or 2 * counts > pattern.counts:
            changed = change(pattern, at)
        else:
            changed = replace(pattern, short=change(replace(pattern, strokes=pattern.short), at).strokes)
        return use_pattern(self.song, self.where, self.hand, changed, own=True)

    def toggle_stroke(self, rung: int | None = None) -> Edit | None:
        """Put a stroke at the cursor, or take it away; of one rung, or of the whole grip."""
        size = self.size(self.index, self.hand)
        if not size or (rung is not None and rung >= size):
            return None
        if rung is None:
            return self._edit(_toggled)
        return self._edit(
            lambda pattern, at: with_rungs(pattern, at, rungs_at(pattern, at, size) ^ {rung}, size)
        )

    def strike(self, what: str) -> Edit | None:
        """Let the stroke at the cursor strike something else."""
        if not self.size(self.index, self.hand):
            return None
        return self._edit(lambda pattern, at: with_what(pattern, at, what))

    def touch_here(self, touch: str) -> Edit | None:
        """Another touch of the strokes at the cursor."""
        if self.stroke_here() is None:
            return None
        return self._edit(lambda pattern, at: restruck(pattern, at, touch=touch))

    def next_what(self, step: int) -> Edit | None:
        """The next thing that a stroke may strike, in turn."""
        stroke_here = self.stroke_here()
        place = _WHAT_ROW.index(stroke_here) if stroke_here in _WHAT_ROW else -1
        return self.strike(_WHAT_ROW[(place + step) % len(_WHAT_ROW)])

    def move_stroke(self, to: Fraction) -> Edit | None:
        """What is struck at the cursor comes at another place of the chord, in quarters; the cursor goes
        along. In the pedal's lane its change does."""
        if to == self.place or not 0 <= to < self.slot.quarters:
            return None
        if self.lane == "pedal":
            unit = self.slot.meter.quarters_per_beat
            now = {at / unit for at in self.pedal(self.index)[0]}
            if self.place / unit not in now:
                return None
            edit = mark_pedal(
                self.song, self.slot.at, now - {self.place / unit} | {to / unit}, self.slot.take
            )
        elif self.stroke_here() is None:
            return None
        else:
            edit = self._edit(lambda pattern, at: shifted(pattern, at, to * pattern.unit / 4))
        self.place = to
        return edit

    def let_ring(self, until: Fraction) -> Edit | None:
        """What is struck at the cursor lasts until a place of the chord, in quarters."""
        if until <= self.place or until > self.slot.quarters or self.stroke_here() is None:
            return None
        lasts = until - self.place
        return self._edit(lambda pattern, at: restruck(pattern, at, counts=lasts * pattern.unit / 4))

    @property
    def lasts_here(self) -> Fraction:
        """How long what is struck at the cursor sounds, in quarters; 0 for nothing."""
        if self.lane not in HANDS:
            return Fraction(0)
        strokes = self.strokes(self.index, self.hand)
        return next((mark.lasts for mark in strokes if mark.at == self.place), Fraction(0))

    def stroke_here(self) -> str | None:
        """What is struck at the cursor, by its word; None for nothing."""
        if not self.song.slots or self.lane not in HANDS:
            return None
        pattern = self.pattern(self.index, self.hand)
        strokes = strokes_of(pattern, stretch_of(self.slot), self.walk.form(self.index))
        return next((stroke.what for stroke in strokes if stroke.at == self.place), None)

    # --- pedal and riffs ---

    def toggle_pedal(self) -> Edit:
        """Change the pedal at the cursor, or not; it is the chord's own from then on."""
        unit = self.slot.meter.quarters_per_beat
        now = {at / unit for at in self.pedal(self.index)[0]}
        return mark_pedal(self.song, self.slot.at, now ^ {self.place / unit}, self.slot.take)

    def riff_notes(self) -> tuple[RiffNote, ...]:
        """The riff of the chosen chord."""
        if not self.song.slots:
            return ()
        return self.song.line_over(self.index)

    def drop_riff_note(self) -> Edit | None:
        """Without the note at the cursor."""
        unit = self.slot.meter.quarters_per_beat
        at = self.place / unit
        kept = [note for note in self.riff_notes() if note.at_beats != at]
        return (
            None
            if len(kept) == len(self.riff_notes())
            else set_riff(self.song, self.slot.at, kept, self.slot.take)
        )

    # --- walking ---

    def step(self, direction: int) -> None:
        """The cursor to the next place of the counting, over chords."""
        if not self.song.slots:
            return
        places = [at for at, _ in self.places(self.index)]
        later = [at for at in places if at > self.place]
        before = [at for at in places if at < self.place]
        if direction > 0 and later:
            self.place = later[0]
        elif direction < 0 and before:
            self.place = before[-1]
        else:
            self.step_chord(direction)
            if direction < 0:
                self.place = self.places(self.index)[-1][0]

    def step_chord(self, direction: int) -> None:
        """The cursor to the beginning of the next chord."""
        self.choose(self.index + direction, Fraction(0))

    def choose(self, index: int, place: Fraction) -> None:
        """The cursor to a place of a chord."""
        self.index = max(0, min(len(self.song.slots) - 1, index))
        self.place = place if 0 <= place < self.slot.quarters else Fraction(0)

    def step_lane(self, direction: int) -> None:
        """The cursor to the lane below or above."""
        place = max(0, min(len(LANES) - 1, LANES.index(self.lane) + direction))
        self.to_lane(LANES[place])

    def to_lane(self, lane: Lane) -> None:
        """The cursor to a lane; a hand's lane is the hand that patterns are for."""
        self.lane = lane
        if lane in HANDS:
            self.hand = "left" if lane == "left" else "right"


def _toggled(pattern: Pattern, at: Fraction) -> Pattern:
    """With the whole grip at a place where nothing is, without anything where something is."""
    here = any(stroke.at == at for stroke in pattern.strokes)
    return with_what(pattern, at, None if here else "all")
