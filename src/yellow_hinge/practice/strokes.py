"""What is wanted in a round of a drill, stroke by stroke, and what the program plays to it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.describe import bass_line
from yellow_hinge.motion.hinge import FINGER_WORDS, SIDES, Held
from yellow_hinge.practice.drills import NO_TIME, Drill
from yellow_hinge.practice.piece import Piece, Stand
from yellow_hinge.rhythm.events import NoteEvent, Part
from yellow_hinge.rhythm.patterns import HANDS
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.theory.pitch import name_for_pitch_class

#: How the hands play: the whole grip once for each chord, as the take has it, or the left hand's grips under
#: a line of the right hand.
Rhythm = Literal["blocks", "written", "line"]
_BASS_VELOCITY, _CLICK_VELOCITY = 66, 90
#: High and low wood block (General MIDI percussion).
_CLICKS = (76, 77)


class Stroke(Struct, frozen=True):
    """Keys that are struck together. ``at`` and ``quarters`` count from the beginning of the round. ``keys``
    by hand, left and right; ``change`` is the change that this stroke completes (-1: none), ``backwards``
    that it is played the other way round. ``free`` is a hand that may play what it likes ("" none),
    ``line`` the finger of each key of a line."""

    at: Fraction
    quarters: Fraction
    left: tuple[int, ...]
    right: tuple[int, ...]
    held: Held
    stand: int
    change: int = -1
    backwards: bool = False
    free: str = ""
    line: tuple[tuple[int, int], ...] = ()

    @property
    def keys(self) -> tuple[int, ...]:
        return tuple(sorted({*self.left, *self.right}))

    def side_of(self, key: int) -> str:
        """ "left" or "right": whose key it is."""
        return "left" if key in self.left else "right"

    def finger(self, key: int) -> int | None:
        """The finger that plays a key, 1 = thumb; None where a line has none."""
        own = dict(self.line)
        if key in own:
            return own[key]
        shape, fingers = self.held.hand(self.side_of(key))
        if key not in shape.keys or len(fingers) != len(shape.keys):
            return None
        return fingers[shape.keys.index(key)]

    def who(self, key: int) -> str:
        """Hand and finger that play a key: "right middle finger"; the hand alone where a line has none."""
        finger = self.finger(key)
        return f"{self.side_of(key)} {'hand' if finger is None else FINGER_WORDS[finger]}"

    def name(self, key: int) -> str:
        """A key as it is spelled in the chord; what does not belong to it as its neighbours would be."""
        for side in SIDES:
            if key in self.held.voicing.hand(side).keys and self.held.chord is not None:
                return self.held.name(side, key).pretty
        chord = self.held.chord
        label = None if chord is None else chord.label_of(key % 12)
        if chord is not None and label is not None:
            return chord.root.degree(label).pretty
        flats = chord is not None and any(chord.root.degree(label).alter < 0 for label in chord.degrees)
        return name_for_pitch_class(key % 12, flats).pretty


def strokes_of(
    piece: Piece, drill: Drill, song: Song | None = None, rhythm: Rhythm = "blocks"
) -> tuple[Stroke, ...]:
    """One round in order of time. ``song`` is needed for the take's own rhythm and for a line."""
    strokes: list[Stroke] = []
    at = NO_TIME
    playing = None if song is None or rhythm == "blocks" else Playing(song)
    for stand, change, backwards in drill.round(piece):
        quarters = drill.lasts(piece, stand)
        block = _block(piece, drill, stand, at)
        if playing is None:
            with_line = list(_with_line(piece.stands[stand], block))
        else:
            with_line = list(_written(playing, block, rhythm))
        if with_line:
            with_line[0] = replace(with_line[0], change=change, backwards=backwards)
        strokes += [stroke for stroke in with_line if stroke.keys]
        at += quarters
    return tuple(strokes)


def length_of(piece: Piece, drill: Drill) -> Fraction:
    """How long a round is, in quarters."""
    return drill.length(piece)


def _block(piece: Piece, drill: Drill, stand: int, at: Fraction) -> Stroke:
    one = piece.stands[stand]
    left = one.voicing.left.keys if drill.hands != "right" else ()
    right = one.voicing.right.keys if drill.hands != "left" else ()
    free = {"left": "right", "right": "left"}.get(drill.hands, "")
    return Stroke(at, drill.lasts(piece, stand), left, right, one.held, stand=stand, free=free)


def _with_line(stand: Stand, block: Stroke) -> Iterator[Stroke]:
    """The whole grip once, and the strokes of the lines that the drilled hands have over it."""
    lines = [stroke for stroke in stand.line if stroke.hand != block.free]
    if not lines:
        yield block
        return
    for at in sorted({NO_TIME, *(stroke.at for stroke in lines)}):
        struck = [stroke for stroke in lines if stroke.at == at]
        both: dict[str, set[int]] = {"left": set(), "right": set()}
        if at == 0:
            both = {"left": set(block.left), "right": set(block.right)}
        for stroke in struck:
            both[stroke.hand] |= set(stroke.keys)
        lasts = [stroke.quarters for stroke in struck] + [block.quarters] * (at == 0 and bool(block.keys))
        if not lasts:
            continue
        fingers = tuple(pair for stroke in struck for pair in zip(stroke.keys, stroke.fingers, strict=True))
        yield replace(
            block, at=block.at + at, quarters=max(lasts), left=tuple(sorted(both["left"])),
            right=tuple(sorted(both["right"])), line=fingers,
        )  # fmt: skip


def _written(playing: Playing, block: Stroke, rhythm: Rhythm) -> Iterator[Stroke]:
    """A chord as the take plays it, cut into strokes; with a line, the left hand's grip stays whole and the
    right hand has the line."""
    slot = playing.song.slots[block.stand]
    notes: list[NoteEvent] = []
    slot_end = slot.start_quarters + slot.quarters
    if rhythm == "line":
        line = [note for note in playing.riffs([slot]) if note.slot == slot.index]
        notes = [replace(note, part="right") for note in line] if block.right else []
        notes += [NoteEvent(slot.start_quarters, key, slot.quarters, 64, "left") for key in block.left]
    else:
        for hand in HANDS:
            if hand == block.free:
                continue
            keys = {note.key for note in playing.song.line_over(slot.index) if note.hand == hand}
            notes += playing.of_slot(slot.index, hand)
            events = [note for note in playing.riffs([slot]) if note.key in keys]
            notes += [replace(note, part=hand) for note in events if note.start_quarters < slot_end]
    for start in sorted({note.start_quarters for note in notes}):
        struck = [note for note in notes if note.start_quarters == start]
        left, right = (tuple(sorted({note.key for note in struck if note.part == side})) for side in SIDES)
        lasts = max(note.quarters for note in struck)
        yield replace(
            block, at=block.at + start - slot.start_quarters, quarters=lasts, left=left, right=right
        )


def backing(piece: Piece, drill: Drill, bass: bool, click: bool) -> list[NoteEvent]:
    """What the program plays to a round: a bass note for each chord, a click on each count."""
    events: list[NoteEvent] = []
    at = NO_TIME
    stands = [stand for stand, _, _ in drill.round(piece)]
    keys = bass_line([piece.stands[stand].held.chord for stand in stands])
    for stand, key in zip(stands, keys, strict=True):
        lasts = drill.lasts(piece, stand)
        if bass and key is not None:
            events.append(NoteEvent(at, key, lasts, _BASS_VELOCITY, "bass"))
        if click:
            events += clicks(at, lasts, piece.stands[stand].meter)
        at += lasts
    return sorted(events)


def clicks(start: Fraction, quarters: Fraction, meter: Meter, first_high: bool = True) -> list[NoteEvent]:
    """A click on each count of a stretch, the first one higher."""
    unit, part = meter.quarters_per_beat, _CLICK_PART
    counts = int(-(-quarters // unit))
    return [
        NoteEvent(start + k * unit, _CLICKS[bool(k) or not first_high], unit / 4, _CLICK_VELOCITY, part)
        for k in range(counts)
    ]


_CLICK_PART: Part = "click"


def demonstration(strokes: Sequence[Stroke]) -> list[NoteEvent]:
    """A round as it should sound."""
    parts: tuple[Part, Part] = ("left", "right")
    return sorted(
        NoteEvent(stroke.at, key, stroke.quarters, 68, part, slot=stroke.stand)
        for stroke in strokes
        for part, keys in zip(parts, (stroke.left, stroke.right), strict=True)
        for key in keys
    )


def count_at(drill: Drill, piece: Piece, place: float) -> tuple[int, int, bool]:
    """(counts of the chord that sounds, which of them it is from 1, whether it is the count-in) at a place of
    the round, in quarters."""
    first = piece.stands[drill.first].meter
    if place < 0:
        unit = float(first.quarters_per_beat)
        return first.beats, int((place + float(first.quarters)) / unit) + 1, True
    at = 0.0
    for stand, _, _ in drill.round(piece):
        lasts, count = drill.lasts(piece, stand), piece.stands[stand].meter.quarters_per_beat
        if place < at + float(lasts):
            return int(-(-lasts // count)), int((place - at) / float(count)) + 1, False
        at += float(lasts)
    return 0, 0, False
