"""Reading MIDI files: a tune, chords that were played, or both; and our own files by the names that stand in
them."""

from __future__ import annotations

import io
import re
from bisect import bisect_right
from collections import Counter
from collections.abc import Iterable, Sequence
from fractions import Fraction
from itertools import pairwise
from typing import TYPE_CHECKING, TypeVar

from msgspec import Struct, field

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.form_in import Signs
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.lead_sheet import MAX_MEASURES, LeadSheet, Measure, Sung
from yellow_hinge.rhythm.time import METER_UNITS, Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.pitch import NoteName, Pitch, name_for_pitch_class

if TYPE_CHECKING:
    import mido

MAX_BYTES = 2_000_000
MOST_NOTES = 60_000
_DRUMS = 9
#: Strokes this near to each other are one, and a chord has so many notes at the least; in quarters.
_TOGETHER = Fraction(3, 25)
_LEAST_CHORD = 3
_GRID = tuple(sorted({Fraction(k, 4) for k in range(5)} | {Fraction(k, 3) for k in range(4)}))
_MIDDLE_C = 60
_GAP_ST = 5
_TUNE_NAME = re.compile(r"melod|tune|vocal|voice|lead|sing", re.I)
_LEFT_NAME, _RIGHT_NAME = re.compile(r"left|\blh\b", re.I), re.compile(r"right|\brh\b", re.I)
_T = TypeVar("_T")
Grip = tuple[tuple[int, ...], tuple[int, ...]]


class _Note(Struct, frozen=True):
    start: Fraction
    end: Fraction
    key: int


class _Track(Struct):
    name: str = ""
    notes: list[_Note] = field(default_factory=list)

    @property
    def mean(self) -> float:
        return sum(note.key for note in self.notes) / len(self.notes)

    @property
    def single(self) -> bool:
        """Whether one note sounds at a time, nearly everywhere."""
        row = sorted(self.notes, key=lambda note: note.start)
        over = sum(b.start < a.end - _TOGETHER for a, b in pairwise(row))
        return over <= len(row) / 20


class _Said(Struct):
    """What a file says beside its notes: (quarters, value)."""

    title: str = ""
    meters: list[tuple[Fraction, Meter]] = field(default_factory=list)
    keys: list[tuple[Fraction, Key]] = field(default_factory=list)
    tempi: list[tuple[Fraction, Fraction]] = field(default_factory=list)
    texts: list[tuple[Fraction, str]] = field(default_factory=list)
    marks: list[tuple[Fraction, str]] = field(default_factory=list)


class Played(Struct, frozen=True):
    """What was read: the chart with remarks, and for each chord of it, as they are played, the keys of the
    left and the right hand where they were heard as a grip."""

    imported: Imported
    grips: tuple[Grip | None, ...]


def read(data: bytes, place: str = "midi") -> Played:
    """Read a file. Raises :class:`BadInput` for what is none, and where there is nothing to play."""
    if len(data) > MAX_BYTES:
        raise BadInput(Problem(place, f"{len(data)} bytes are too large", "split the file"))
    for beginning, what in ((b"RIFF", "a RIFF file"), (b"\x1f\x8b", "packed by gzip")):
        if data.startswith(beginning):
            raise BadInput(
                Problem(place, f"it is {what}, with a MIDI file inside at best", "unpack it first")
            )
    tracks, said = _opened(data, place)
    if not any(track.notes for track in tracks):
        raise BadInput(Problem(place, "there are no notes in it", "record or export it once more"))
    return _Reader(tracks, said, place).played()


def _opened(data: bytes, place: str) -> tuple[list[_Track], _Said]:
    import mido  # noqa: PLC0415 - heavy, and only these files need it

    try:
        try:
            file = mido.MidiFile(file=io.BytesIO(data), clip=True, charset="utf-8")
        except UnicodeDecodeError:  # older files have the letters of western Europe
            file = mido.MidiFile(file=io.BytesIO(data), clip=True)
        unit = file.ticks_per_beat
        if not 1 <= unit <= 32_767:
            raise ValueError(f"{unit} ticks a quarter")
        said, tracks = _Said(), []
        for number, track in enumerate(file.tracks):
            tracks += _track(track, unit, said, first=number == 0)
    except BadInput:
        raise
    except Exception as error:  # what a damaged file makes the library raise has no end
        what = f"this is no MIDI file that can be read ({type(error).__name__})"
        raise BadInput(Problem(place, what, "export it once more")) from None
    if sum(len(track.notes) for track in tracks) > MOST_NOTES:
        raise BadInput(Problem(place, f"more than {MOST_NOTES} notes", "split the file"))
    return [track for track in tracks if track.notes], said


def _track(track: mido.MidiTrack, unit: int, said: _Said, first: bool) -> list[_Track]:
    """The notes of a track by channel, drums left out; what else it says goes to ``said``."""
    now, name = 0, ""
    found: dict[int, _Track] = {}
    down: dict[tuple[int, int], list[int]] = {}
    for message in track:
        now += int(message.time)
        at = Fraction(now, unit)
        if message.is_meta:
            name = message.name if message.type == "track_name" else name
            _said(message, at, said)
        elif message.type == "note_on" and message.velocity:
            down.setdefault((message.channel, message.note), []).append(now)
        elif message.type in ("note_on", "note_off"):
            starts = down.get((message.channel, message.note))
            if starts and message.channel != _DRUMS:
                channel = found.setdefault(message.channel, _Track())
                channel.notes.append(_Note(Fraction(starts.pop(0), unit), at, message.note))
    if first and not found:
        said.title = name
    for channel in found.values():
        channel.name = name
    return list(found.values())


def _said(message: mido.MetaMessage, at: Fraction, said: _Said) -> None:
    if message.type == "time_signature":
        if message.denominator in METER_UNITS and 1 <= message.numerator <= 24:
            said.meters.append((at, Meter(message.numerator, message.denominator)))
    elif message.type == "set_tempo" and message.tempo:
        said.tempi.append((at, Fraction(60_000_000, message.tempo)))
    elif message.type == "key_signature":
        try:
            said.keys.append((at, parse_key(message.key)))
        except BadInput:
            return
    elif message.type == "text":
        said.texts.append((at, message.text.strip()))
    elif message.type == "marker":
        said.marks.append((at, message.text.strip()))


class _Reader(LeadSheet):
    def __init__(self, tracks: list[_Track], said: _Said, place: str) -> None:
        super().__init__(place, said.title, "")
        self._said = said
        self._tune_track = _tune_of(tracks)
        self._hands = [
            track for track in tracks if track is not self._tune_track and "bass" not in track.name.lower()
        ]
        self._end = max(note.end for track in tracks for note in track.notes)
        self._starts: list[Fraction] = []
        self._grips: dict[Fraction, Grip] = {}

    def played(self) -> Played:
        self._make_bars()
        chords = self._named() or self._heard()
        for at, chord in chords:
            place = self._bar_at(at)
            self.measures[place].chords.append((at - self._starts[place], chord))
        for one in sorted(self._tune_track.notes, key=lambda note: note.start) if self._tune_track else ():
            self._sing(one)
        imported = self.run(chords=False)
        pickup = imported.chart.pickup_quarters
        grips = tuple(self._grips.get(placed.start_quarters + pickup) for placed in imported.chart.placed)
        return Played(imported, grips)

    # --- bars ---

    def _make_bars(self) -> None:
        said, now = self._said, Fraction(0)
        while now < self._end and len(self.measures) < MAX_MEASURES:
            meter = _holding(said.meters, now, Meter())
            key = _holding(said.keys, now, Key(NoteName(0)))
            measure = Measure(str(len(self.measures) + 1), False, meter.quarters, meter, key)
            following = _holding(said.meters, now + meter.quarters, meter)
            if not self.measures and meter.quarters < following.quarters:
                measure.meter = following  # a pickup has a bar of its own length
            new = [rate for at, rate in said.tempi if now <= at < now + Fraction(1, 8)]
            measure.tempo = new[-1] if new else None
            self.measures.append(measure)
            name = next((text for at, text in said.marks if now <= at < now + meter.quarters), "")
            self.signs.append(Signs(mark=re.sub(r" \([0-9]+\)$", "", name) if name else ""))
            self.tune.append([])
            self._starts.append(now)
            now += meter.quarters

    def _bar_at(self, at: Fraction) -> int:
        return max(0, bisect_right(self._starts, at) - 1)

    def _sing(self, note: _Note) -> None:
        """A note of the tune on the nearest place of the grid, cut at bar lines with ties."""
        start, end = _nearest(note.start), _nearest(note.end)
        end = max(end, start + Fraction(1, 4))
        flats = _holding(self._said.keys, note.start, Key(NoteName(0))).prefers_flats
        pitch = Pitch(note.key, name_for_pitch_class(note.key % 12, flats))
        while start < end:
            place = self._bar_at(start)
            row, begin = self.tune[place], self._starts[place]
            stop = min(end, begin + self.measures[place].length)
            if stop <= start:
                return
            row.append(Sung(start - begin, stop - start, pitch, stop < end))
            start = stop

    # --- chords ---

    def _named(self) -> list[tuple[Fraction, ChordSymbol | None]]:
        """Chords by the names that stand in the file; none where something else stands there too."""
        found = []
        for at, text in self._said.texts:
            try:
                found.append((at, parse_chord(text)))
            except BadInput:
                return []
        if len(found) > 1:
            self._take_grips([at for at, _ in found])
        return found if len(found) > 1 else []

    def _heard(self) -> list[tuple[Fraction, ChordSymbol | None]]:
        """Chords by their notes: where hands strike together, or by half bars where they are broken."""
        notes = sorted((note for track in self._hands for note in track.notes), key=lambda one: one.start)
        strokes = [group for group in _strokes(notes) if len({note.key for note in group}) >= _LEAST_CHORD]
        if not notes:
            return []
        if 2 * len(strokes) >= len(self.measures):
            starts = list(dict.fromkeys(_eighth(group[0].start) for group in strokes))
            self._take_grips(starts)
            sounding = [(at, [*left, *right]) for at in starts for left, right in [self._grips[at]]]
        else:
            sounding = [(at, _in(notes, at, end)) for at, end in self._windows()]
            self.remark(
                "1", "its chords are broken", "they are named by half bars, without grips; look at them"
            )
        return self._called(sounding)

    def _called(
        self, rows: Sequence[tuple[Fraction, list[int]]]
    ) -> list[tuple[Fraction, ChordSymbol | None]]:
        """A name for each, those that go on left out."""
        found: list[tuple[Fraction, ChordSymbol | None]] = []
        for at, keys in rows:
            if len({key % 12 for key in keys}) < 2:
                continue
            names = identify(sorted(set(keys)), most=1)
            chord = names[0].chord if names else None
            if chord is None:
                self.remark(
                    self.measures[self._bar_at(at)].number, "a chord without a name", "no chord is taken"
                )
            if not found or found[-1][1] != chord:
                found.append((at, chord))
        return found

    def _windows(self) -> Iterable[tuple[Fraction, Fraction]]:
        for start, measure in zip(self._starts, self.measures, strict=True):
            parts = 2 if measure.meter.beats % 2 == 0 else 1
            for part in range(parts):
                length = measure.length / parts
                yield start + part * length, start + (part + 1) * length

    def _take_grips(self, starts: Sequence[Fraction]) -> None:
        """The grip at each place: what is struck there and what still sounds, by track or by the gap."""
        named = {"left": _LEFT_NAME, "right": _RIGHT_NAME}
        rows = sorted(self._hands, key=lambda track: track.mean)
        left = next((track for track in rows if named["left"].search(track.name)), None)
        right = next((track for track in rows if named["right"].search(track.name)), None)
        if (left is None or right is None) and len(rows) == 2:
            left, right = rows
        for at in starts:
            if left is not None and right is not None:
                self._grips[at] = (_sounding(left.notes, at), _sounding(right.notes, at))
            else:
                keys = _sounding([note for track in rows for note in track.notes], at)
                self._grips[at] = _split(keys)


def _tune_of(tracks: Sequence[_Track]) -> _Track | None:
    """The track of the tune: by its name; or the highest of several with one note at a time; or the only one,
    if it has."""
    for track in tracks:
        if _TUNE_NAME.search(track.name) and not _RIGHT_NAME.search(track.name):
            return track
    single = [track for track in tracks if track.single]
    if len(tracks) == 1:
        return single[0] if single else None
    highest = max(tracks, key=lambda track: track.mean)
    return (
        highest
        if (highest in single and len(tracks) > 2) or (single == [highest] and len(tracks) > 1)
        else None
    )


def _holding(rows: Sequence[tuple[Fraction, _T]], at: Fraction, usual: _T) -> _T:
    return next((value for start, value in reversed(rows) if start <= at), usual)


def _nearest(at: Fraction) -> Fraction:
    """The nearest sixteenth or triplet."""
    whole = at.numerator // at.denominator
    return whole + min(_GRID, key=lambda one: abs(at - whole - one))


def _eighth(at: Fraction) -> Fraction:
    return Fraction(round(at * 2), 2)


def _strokes(notes: Sequence[_Note]) -> list[list[_Note]]:
    """Notes that are struck together."""
    found: list[list[_Note]] = []
    for note in notes:
        if found and note.start - found[-1][0].start <= _TOGETHER:
            found[-1].append(note)
        else:
            found.append([note])
    return found


def _sounding(notes: Iterable[_Note], at: Fraction) -> tuple[int, ...]:
    """What is struck at a place, or goes on through it."""
    near = Fraction(1, 4)
    return tuple(sorted({note.key for note in notes if note.start <= at + near and note.end > at + near}))


def _in(notes: Iterable[_Note], start: Fraction, end: Fraction) -> list[int]:
    """The notes of a stretch, those that pass left out where there are others enough."""
    lasting: Counter[int] = Counter()
    for note in notes:
        length = min(note.end, end) - max(note.start, start)
        if length > 0:
            lasting[note.key] += int(length * 48)
    long = [key for key, ticks in lasting.items() if ticks >= max(lasting.values()) / 4]
    return long or list(lasting)


def _split(keys: tuple[int, ...]) -> Grip:
    """A grip of one track by hands: at its widest gap, or at middle C where there is none."""
    gaps = [(high - low, -abs((high + low) / 2 - _MIDDLE_C), place)
            for place, (low, high) in enumerate(pairwise(keys), 1)]  # fmt: skip
    wide = bool(gaps) and max(gaps)[0] > _GAP_ST
    cut = max(gaps)[2] if wide else sum(key < _MIDDLE_C for key in keys)
    return keys[:cut], keys[cut:]
