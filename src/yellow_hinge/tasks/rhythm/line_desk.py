"""Riffs and lines over a stretch of the song: proposals, and what their notes are over each chord."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.fingering import line_fingers
from yellow_hinge.reharm.lead_lines import LineSpan, propose
from yellow_hinge.reharm.lines import PassageScale, passage_scales
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.rhythm.patterns import HANDS, Hand
from yellow_hinge.song.at import At
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.tune import melody_over, strong_places
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import Pitch, name_for_pitch_class, pitch_for_key
from yellow_hinge.theory.tension import FitKind, fit

#: The usual range of a line by hand, C4 to C6 and C2 to C4.
RANGES: dict[Hand, tuple[int, int]] = {"right": (60, 84), "left": (36, 60)}


class RiffReading(Struct, frozen=True):
    """A note of a riff over its chord: the note, its name, degree, how it sits (a :class:`FitKind`) and why,
    whether it lands on a strong count, on a target (third or seventh), meets a key of a hand, the finger (1 =
    thumb), and, of the last note before a change, what it is in the next chord; and why it is there."""

    note: RiffNote
    name: str
    degree: str
    kind: FitKind
    why: str
    strong: bool
    target: bool
    meets: bool
    finger: int
    leads: str = ""
    reason: str = ""

    @property
    def words(self) -> str:
        """What a player is told of it."""
        parts = [f"{self.name}, {self.degree}{self.leads}", f"finger {self.finger}"]
        if self.kind == FitKind.CLASH:
            parts.append(f"rubs: {self.why}")
        elif self.reason:
            parts.append(self.reason)
        if self.meets:
            parts.append("a hand plays this key too")
        return "; ".join(parts)


def other_keys(song: Song, index: int, hand: Hand) -> frozenset[int]:
    """The keys of the hand that does not play a line."""
    voicing = song.voicing(index)
    other = "left" if hand == "right" else "right"
    return frozenset(() if voicing is None else voicing.hand(other).keys)


def propose_line(
    song: Song,
    slots: Sequence[int],
    kind: str,
    density: int,
    hand: Hand = "right",
    *,
    bounds: tuple[int, int] | None = None,
    start: int | None = None,
    seed: int = 1,
    scale: frozenset[int] = frozenset(),
) -> dict[At, tuple[RiffNote, ...]]:
    """A line over neighbouring slots for a hand, by the chord it hangs on; rounds that are alike have one
    line, that of the first of them. ``scale``: its notes, where one is chosen for the whole passage."""
    low, high = bounds or RANGES[hand]
    keys, tune = local_keys(song), melody_over(song)
    spans = [replace(_span(song, song.slots[index], keys, tune, hand), scale=scale) for index in slots]
    rows = propose(spans, kind, density, low, high, start=start, seed=seed)
    found: dict[At, tuple[RiffNote, ...]] = {}
    for index, row in zip(slots, rows, strict=True):
        at = song.slots[index].at
        if at not in found:
            found[at] = tuple(RiffNote(note.at_beats, note.beats, note.key, hand) for note in row)
    return found


def _span(
    song: Song, slot: Slot, keys: Sequence[Key], tune: Sequence[tuple[NoteOver, ...]], hand: Hand
) -> LineSpan:
    return LineSpan(
        slot.chord, slot.beats, keys[slot.place], others=other_keys(song, slot.index, hand),
        tune=tune[slot.index],
        start_quarters=slot.start_quarters, quarters_per_beat=slot.meter.quarters_per_beat,
        bass=_bass_over(song, slot),
    )  # fmt: skip


def _bass_over(song: Song, slot: Slot) -> int | None:
    """The lowest key of a slot: the hands', or where somebody else has the bass a bass note in its octave."""
    voicing = song.voicing(slot.index)
    if voicing is not None and voicing.left.keys and voicing.left.degrees[0] in ("R", "3", "b3", "5"):
        return min(voicing.left.keys)
    return None if slot.chord is None else 36 + slot.chord.bass_name.pitch_class


def scales_over(song: Song, slots: Sequence[int]) -> list[PassageScale]:
    """Scales for a whole passage, the safest first; ``careful`` are places among the slots."""
    key = local_keys(song)[song.slots[slots[0]].place] if slots else song.key_here
    return passage_scales([song.slots[index].chord for index in slots], key, most=9)


def scale_words(song: Song, slots: Sequence[int], scale: PassageScale) -> str:
    """A scale with the chords where care is needed: "C blues scale: care over F7 and G7"."""
    chords = dict.fromkeys(
        chord.pretty for place in scale.careful if (chord := song.slots[slots[place]].chord) is not None
    )
    if not chords:
        return f"{scale.scale}: fits every chord"
    return f"{scale.scale}: take care over {', '.join(chords)}"


#: A degree of a note that is foreign to a chord with a plain fifth, as players say it.
_BESIDE_THE_FIFTH = {"#5": "b13", "b5": "#11"}


def over_chord(chord: ChordSymbol, midi_key: int, key: Key) -> tuple[str, str]:
    """(name, degree) of a note of a line over a chord: what the chord has in its spelling, what is foreign to
    it in that of the key."""
    label = chord.label_of(midi_key % 12)
    if label is not None:
        return Pitch(midi_key, chord.root.degree(label)).pretty, label
    degree = fit(midi_key % 12, chord, key).degree
    if chord.fifth == "5":
        degree = _BESIDE_THE_FIFTH.get(degree, degree)
    return pitch_for_key(midi_key, key.prefers_flats).pretty, degree


def read_riff(song: Song, index: int) -> list[RiffReading]:
    """What the notes of a slot's line are, in their order."""
    slot = song.slots[index]
    notes = song.line_over(index)
    tonality = local_keys(song)[slot.place]
    strong = strong_places(song)
    by_hand = {hand: [note for note in notes if note.hand == hand] for hand in HANDS}
    fingers = {
        id(note): finger
        for hand, row in by_hand.items()
        for note, finger in zip(row, line_fingers(tuple(n.key for n in row), hand == "left"), strict=True)
    }
    return [_read(song, slot, note, tonality, strong, finger=fingers[id(note)],
                  by_step=_by_step(song, index, note))
            for note in notes]  # fmt: skip


def _by_step(song: Song, index: int, note: RiffNote) -> bool:
    """Whether a note of a line comes or goes by step; over chords too, and of several notes at once by
    any of them."""
    unit = song.slots[index].meter.quarters_per_beat
    at = song.slots[index].start_quarters + note.at_beats * unit
    row: list[tuple[Fraction, int]] = []
    for near in (index - 1, index, index + 1):
        if 0 <= near < len(song.slots):
            slot = song.slots[near]
            step = slot.meter.quarters_per_beat
            own = (riff_note for riff_note in song.line_over(near) if riff_note.hand == note.hand)
            row += [(slot.start_quarters + riff_note.at_beats * step, riff_note.key) for riff_note in own]
    before, after = [one for one in row if one[0] < at], [one for one in row if one[0] > at]
    near_keys = [key for start, key in before if start == max(before)[0]]
    near_keys += [key for start, key in after if start == min(after)[0]]
    return any(1 <= abs(key - note.key) <= 2 for key in near_keys)


def _read(
    song: Song,
    slot: Slot,
    note: RiffNote,
    key: Key,
    strong: frozenset[Fraction],
    *,
    finger: int,
    by_step: bool,
) -> RiffReading:
    unit = slot.meter.quarters_per_beat
    at = slot.start_quarters + note.at_beats * unit
    lands = at in strong
    if slot.chord is None:
        name = Pitch(note.key, name_for_pitch_class(note.key % 12, key.prefers_flats)).pretty
        return RiffReading(
            note,
            name,
            "",
            kind=FitKind.TENSION,
            why="",
            strong=lands,
            target=False,
            meets=False,
            finger=finger,
        )
    sits = fit(note.key % 12, slot.chord, key, quarters=note.beats * unit, strong=lands, stepwise=by_step)
    name, degree = over_chord(slot.chord, note.key, key)
    return RiffReading(
        note, name, degree, kind=sits.kind, why=sits.reason, strong=lands, target=degree in _TARGETS,
        meets=note.key in other_keys(song, slot.index, note.hand), finger=finger,
        leads=_leads(song, slot, note),
        reason=_reason(song, slot, note, degree, sits.kind, strong=lands),
    )  # fmt: skip


def _reason(song: Song, slot: Slot, note: RiffNote, degree: str, kind: FitKind, *, strong: bool) -> str:
    """Why a note of a line is where it is."""
    if kind == FitKind.CHORD_TONE and strong:
        return "a target on a strong count" if degree in _TARGETS else "a chord tone on a strong count"
    after = _after(song, slot, note)
    if after is not None and 1 <= abs(after - note.key) <= 2 and not strong:
        way = "half step" if abs(after - note.key) == 1 else "whole step"
        return f"a {way} into {pitch_for_key(after, slot.key.prefers_flats).pretty}"
    if kind == FitKind.CHORD_TONE:
        return "a chord tone on the way"
    return "colour on a strong count" if strong else "a note of the scale on the way"


_TARGETS = ("3", "b3", "b7", "7")


def _after(song: Song, slot: Slot, note: RiffNote) -> int | None:
    """The key that a line goes on to."""
    row = [
        riff_note
        for riff_note in song.line_over(slot.index)
        if riff_note.hand == note.hand and riff_note.at_beats > note.at_beats
    ]
    if not row and slot.index + 1 < len(song.slots):
        row = [riff_note for riff_note in song.line_over(slot.index + 1) if riff_note.hand == note.hand]
    return row[0].key if row else None


def _leads(song: Song, slot: Slot, note: RiffNote) -> str:
    """What the last note of a line before a change is in the next chord, or that it goes a step to
    a tone of it."""
    row = [riff_note for riff_note in song.line_over(slot.index) if riff_note.hand == note.hand]
    following = slot.index + 1
    if not row or note.at_beats < row[-1].at_beats or following >= len(song.slots):
        return ""
    after = song.slots[following]
    if after.chord is None or after.chord == slot.chord:
        return ""
    key = local_keys(song)[after.place]
    _, degree = over_chord(after.chord, note.key, key)
    goes = [
        riff_note
        for riff_note in song.line_over(following)
        if riff_note.hand == note.hand and not riff_note.at_beats
    ]
    if goes and 1 <= abs(goes[0].key - note.key) <= 2:
        _, there = over_chord(after.chord, goes[0].key, key)
        return f", a step from the next {there}"
    return f", there {degree}"
