"""Reading MIDI files: a tune, chords that were played, or both; and our own files by the names that stand in
them."""

from __future__ import annotations

import io
import re
from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import pairwise
from typing import TYPE_CHECKING, TypeVar

from msgspec import Struct, field

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.form_in import Signs
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.lead_sheet import LeadSheet, Measure, Sung
from yellow_hinge.formats.midi_chords import DOUBTFUL, Heard, chords_of, misfit, ticks_of
from yellow_hinge.formats.midi_grid import beats_found, key_of, off_grid, snapper
from yellow_hinge.formats.text_kinds import refuse_others
from yellow_hinge.rhythm.time import METER_UNITS, Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.pitch import NoteName, Pitch, name_for_pitch_class

if TYPE_CHECKING:
    import mido

MAX_BYTES = 2_000_000
MOST_NOTES, MOST_BARS = 20_000, 2_000
_DRUMS = 9
#: How far notes may overlap that are one line, in quarters.
_TOGETHER = Fraction(3, 25)
#: Notes of a grip at least: where chords are heard, and where the file names them.
_LEAST_CHORD, _LEAST_NAMED = 3, 1
_MOST_FINGERS = 5
#: Programs that are basses, and the mean key below which a line is one.
_BASS_PROGRAMS = range(32, 40)
_BASS_BELOW = 48
#: A tune moves by steps more often than so; broken chords leap.
_STEPS_SHARE, _STEP_ST = 0.4, 2
_MIDDLE_C = 60
#: How much better three beats a bar must fit than four.
_CLEARLY = 0.8
_GAP_ST = 5
_TUNE_NAME = re.compile(r"melod|tune|vocal|voice|\blead\b|sing", re.I)
_BASS_NAME = re.compile(r"bass", re.I)
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
    program: int = 0

    @property
    def bass(self) -> bool:
        """Whether it is a bass, by its name or its instrument."""
        return bool(_BASS_NAME.search(self.name)) or self.program in _BASS_PROGRAMS

    @property
    def sings(self) -> bool:
        """Whether it moves by steps, as a tune does and broken chords do not."""
        row = sorted(self.notes, key=lambda note: note.start)
        moves = [abs(b.key - a.key) for a, b in pairwise(row) if b.key != a.key]
        return sum(move <= _STEP_ST for move in moves) >= _STEPS_SHARE * len(moves)

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
    refuse_others(data, place, b"MThd")
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
    programs: dict[int, int] = {}
    for message in track:
        now += int(message.time)
        at = Fraction(now, unit)
        if message.is_meta:
            name = message.name if message.type == "track_name" else name
            _said(message, at, said)
        elif message.type == "program_change":
            programs[message.channel] = message.program
        elif message.type == "note_on" and message.velocity:
            down.setdefault((message.channel, message.note), []).append(now)
        elif message.type in ("note_on", "note_off"):
            starts = down.get((message.channel, message.note))
            if starts and message.channel != _DRUMS:
                channel = found.setdefault(message.channel, _Track())
                channel.notes.append(_Note(Fraction(starts.pop(0), unit), at, message.note))
    if first and not found:
        said.title = name
    for number, channel in found.items():
        channel.name, channel.program = name, programs.get(number, 0)
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
        self._find_beats(tracks)
        snapped = snapper(note.start for track in tracks for note in track.notes)
        for track in tracks:
            track.notes = sorted(
                (_on_grid(note, snapped) for note in track.notes), key=lambda note: (note.start, note.key)
            )
        self._tune_track = _tune_of(tracks)
        self._others = [track for track in tracks if track is not self._tune_track]
        self._hands = [track for track in self._others if not track.bass] or self._others
        self._end = max(note.end for track in tracks for note in track.notes)
        self._starts: list[Fraction] = []
        self._grips: dict[Fraction, Grip] = {}
        self._guess_what_is_not_said(tracks)

    def played(self) -> Played:
        self._make_bars()
        named = self._named()
        chords = named or self._heard()
        for at, chord in chords:
            place = self._bar_at(at)
            self.measures[place].chords.append((at - self._starts[place], chord))
        self._take_grips([at for at, _ in chords], _LEAST_NAMED if named else _LEAST_CHORD)
        for one in self._tune_track.notes if self._tune_track else ():
            self._sing(one)
        imported = self.run(chords=False)
        pickup = imported.chart.pickup_quarters
        grips = tuple(self._grips.get(placed.start_quarters + pickup) for placed in imported.chart.placed)
        return Played(imported, grips)

    # --- what the file does not say ---

    def _find_beats(self, tracks: Sequence[_Track]) -> None:
        """Where notes were played without the file's beats, those that they were played by."""
        starts = sorted(note.start for track in tracks for note in track.notes)
        if self._said.texts or not off_grid([float(at) for at in starts]):
            return
        rate = _holding(self._said.tempi, Fraction(0), Fraction(120))
        found = beats_found([float(at * 60 / rate) for at in starts])
        if found is None:
            self.remark("1", "its notes lie on no beats", "they go to the nearest sixteenths; look at them")
            return
        quarter, first = found
        scale = Fraction(60) / rate / Fraction(quarter).limit_denominator(10_000)
        begin = Fraction(first).limit_denominator(10_000) * rate / 60
        for track in tracks:
            track.notes = [
                _Note(max(Fraction(0), (note.start - begin) * scale), (note.end - begin) * scale, note.key)
                for note in track.notes
            ]
        tempo = round(60 / quarter)
        self._said.tempi, self._said.meters = [(Fraction(0), Fraction(tempo))], []
        self.remark("1", f"its beats were found by ear: {tempo} a minute", "look at them")

    def _guess_what_is_not_said(self, tracks: Sequence[_Track]) -> None:
        said = self._said
        rows = [track for track in tracks if track.bass] or self._hands
        lowest: dict[Fraction, int] = {}
        for note in (note for track in rows for note in track.notes):
            lowest[note.start] = min(lowest.get(note.start, note.key), note.key)
        if not said.meters:
            heard = self._all_heard()
            three = bool(heard) and misfit(heard, Meter(3, 4)) < _CLEARLY * misfit(heard, Meter())
            meter = Meter(3, 4) if three else Meter()
            said.meters.append((Fraction(0), meter))
            self.remark("1", "it says no meter", f"{meter} is taken, which fits its chords")
        if not said.keys and not said.texts:
            lasting: Counter[int] = Counter()
            for note in (note for track in tracks for note in track.notes):
                lasting[note.key % 12] += int((note.end - note.start) * 48)
            key = key_of(lasting, lowest[max(lowest)] % 12 if lowest else None)
            said.keys.append((Fraction(0), key))
            self.remark("1", "it says no key", f"{key} is taken, which fits its notes")

    # --- bars ---

    def _make_bars(self) -> None:
        said, now = self._said, Fraction(0)
        while now < self._end:
            if len(self.measures) == MOST_BARS:
                raise BadInput(Problem(self.place, f"more than {MOST_BARS} bars", "split the file"))
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
        start, end = note.start, note.end
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
        return found if len(found) > 1 else []

    def _heard(self) -> list[tuple[Fraction, ChordSymbol | None]]:
        """Chords by their notes: struck together, broken, or a bass with strokes behind it."""
        notes = self._all_heard()
        meters = (
            measure.meter if measure.length == measure.meter.quarters else _of_length(measure.length)
            for measure in self.measures
        )
        bars = list(zip(self._starts, meters, strict=True))
        flats = _holding(self._said.keys, Fraction(0), Key(NoteName(0))).prefers_flats
        chords = chords_of(notes, bars, flats)
        for named in chords:
            number = self.measures[self._bar_at(named.start)].number
            if named.chord is None:
                self.remark(number, "a chord without a name", "no chord is taken")
            elif named.cost >= DOUBTFUL:
                self.remark(number, f"what is heard may be no {named.chord}", "look at it")
        return [(named.start, named.chord) for named in chords]

    def _all_heard(self) -> list[Heard]:
        """What sounds beside the tune, in time order."""
        heard = []
        for track in self._others:
            heard += [
                Heard(ticks_of(note.start), ticks_of(note.end), note.key, track.bass) for note in track.notes
            ]
        return sorted(heard, key=lambda note: (note.start, note.key))

    def _take_grips(self, starts: Sequence[Fraction], least: int) -> None:
        """The grip of each chord: what is struck where it begins and what still sounds, by track or by the
        gap; or a bass and the first stroke behind it."""
        rows = sorted(self._hands, key=lambda track: track.mean)
        left = next((track for track in rows if _LEFT_NAME.search(track.name)), None)
        right = next((track for track in rows if _RIGHT_NAME.search(track.name)), None)
        if (left is None or right is None) and len(rows) == 2:
            left, right = rows
        struck = (note for track in rows for note in track.notes)
        every = sorted(struck, key=lambda note: (note.start, note.key))
        broken = 0
        two = left is not None and right is not None
        sounding = [_Sounding(track.notes) for track in (left, right) if track] if two else [_Sounding(every)]
        for at, end in zip(starts, [*starts[1:], self._end][: len(starts)], strict=True):
            keys = [track.at(at) for track in sounding]
            grip = (keys[0], keys[1]) if two else _split(keys[0])
            if len(grip[0]) + len(grip[1]) < _LEAST_CHORD:
                grip = _bass_and_stroke(every, at, min(end, at + 4)) or grip
            if len(grip[0]) + len(grip[1]) < least:
                broken += 1
            elif max(map(len, grip)) <= _MOST_FINGERS:
                self._grips[at] = grip
        if broken:
            self.remark("1", "its chords are broken" if broken == len(starts) else "some chords are broken",
                        "they have no grips; look at them")  # fmt: skip


def _on_grid(note: _Note, snapped: Callable[[Fraction], Fraction]) -> _Note:
    start = max(Fraction(0), snapped(note.start))
    return _Note(start, max(snapped(note.end), start + Fraction(1, 4)), note.key)


def _of_length(quarters: Fraction) -> Meter:
    """A pickup as a bar."""
    eighths = max(1, int(quarters * 2))
    return Meter(eighths // 2, 4) if eighths % 2 == 0 else Meter(eighths, 8)


def _bass_and_stroke(notes: Sequence[_Note], at: Fraction, end: Fraction) -> Grip | None:
    """A bass and the first stroke of two notes and more behind it."""
    struck: dict[Fraction, list[int]] = {}
    for note in notes[bisect_left(notes, at, key=lambda note: note.start) :]:
        if note.start >= end:
            break
        struck.setdefault(note.start, []).append(note.key)
    times = sorted(struck)
    if not times:
        return None
    low = tuple(sorted(set(struck[times[0]])))
    stroke = next((tuple(sorted(set(struck[time]))) for time in times[1:] if len(set(struck[time])) > 1), ())
    return (low, stroke) if stroke and low[-1] < stroke[0] else None


def _tune_of(tracks: Sequence[_Track]) -> _Track | None:
    """The track of the tune: by its name; or the highest with one note at a time that is no bass and moves by
    steps; or the only one, if it has."""
    for track in tracks:
        if _TUNE_NAME.search(track.name) and not _RIGHT_NAME.search(track.name) and not track.bass:
            return track
    single = [track for track in tracks if track.single and not track.bass]
    if len(tracks) == 1:
        return single[0] if single and single[0].sings else None
    lines = [track for track in single if track.mean >= _BASS_BELOW and track.sings]
    best = max(lines, key=lambda track: track.mean, default=None)
    if best is None or all(track.mean > best.mean for track in tracks if track is not best):
        return None
    return best


def _holding(rows: Sequence[tuple[Fraction, _T]], at: Fraction, usual: _T) -> _T:
    return next((value for start, value in reversed(rows) if start <= at), usual)


class _Sounding:
    """What is struck at a place, or goes on through it; places are asked for in time order."""

    def __init__(self, notes: Sequence[_Note]) -> None:
        self._notes, self._next = sorted(notes, key=lambda note: note.start), 0
        self._going: list[_Note] = []

    def at(self, place: Fraction) -> tuple[int, ...]:
        """The keys, ascending."""
        through = place + Fraction(1, 4)
        while self._next < len(self._notes) and self._notes[self._next].start <= through:
            self._going.append(self._notes[self._next])
            self._next += 1
        self._going = [note for note in self._going if note.end > through]
        return tuple(sorted({note.key for note in self._going}))


def _split(keys: tuple[int, ...]) -> Grip:
    """A grip of one track by hands: at its widest gap, or at middle C where there is none."""
    gaps = [(high - low, -abs((high + low) / 2 - _MIDDLE_C), place)
            for place, (low, high) in enumerate(pairwise(keys), 1)]  # fmt: skip
    wide = bool(gaps) and max(gaps)[0] > _GAP_ST
    cut = max(gaps)[2] if wide else sum(key < _MIDDLE_C for key in keys)
    return keys[:cut], keys[cut:]
