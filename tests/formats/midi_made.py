"""MIDI files as people play them, made at random with what is true of them: block chords, broken ones,
waltzes and strides, with and without a bass and a tune, by hand or by machine."""

from __future__ import annotations

import io
import random
from fractions import Fraction

import mido
from msgspec import Struct

from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord

STYLES = ("block", "broken", "waltz", "stride", "comping")
_KINDS = ("", "", "m", "m", "7", "maj7", "m7", "m7b5", "dim7", "sus4", "7sus4", "9", "add9")
_ROOTS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
Note = tuple[float, float, int]


class Made(Struct, frozen=True):
    """A file, and its chords with where they begin, in quarters."""

    data: bytes
    style: str
    chords: tuple[tuple[float, str], ...]
    beats: int
    tune: tuple[tuple[float, int], ...] = ()


def sounding(chord: ChordSymbol) -> tuple[frozenset[int], int]:
    """What a symbol has in it, and its bass."""
    classes = frozenset(chord.root.degree(label).pitch_class % 12 for label in chord.degrees)
    bass = chord.bass_name.pitch_class % 12
    return classes | {bass}, bass


def made(
    seed: int,
    style: str,
    *,
    bass: bool = False,
    tune: bool = False,
    by_hand: bool = False,
    free: bool = False,
) -> Made:
    """A file of eight to sixteen bars. ``free``: played without the file's beats, which say no meter
    either."""
    dice = random.Random(f"{seed} {style}")
    beats = 3 if style == "waltz" else dice.choice((4, 4, 4, 3)) if style in ("block", "broken") else 4
    chords: list[tuple[float, str]] = []
    before = ""
    for bar in range(dice.randint(8, 16)):
        parts = 2 if style in ("block", "comping") and beats == 4 and dice.random() < 0.3 else 1
        for part in range(parts):
            name = before
            while name == before:
                name = dice.choice(_ROOTS) + dice.choice(_KINDS)
                own = parse_chord(name)
                assert own is not None
                if dice.random() < 0.2 and len(own.degrees) < 5 and "dim7" not in name:
                    third = own.root.degree(dice.choice([label for label in own.degrees if label != "R"][:2]))
                    name = f"{name}/{third}"
            before = name
            chords.append((bar * beats + part * beats / 2, name))
    end = float(beats * (int(chords[-1][0]) // beats + 1))
    left: list[Note] = []
    right: list[Note] = []
    low: list[Note] = []
    for (at, name), stop in zip(chords, [*(at for at, _ in chords[1:]), end], strict=True):
        _play(dice, style, name, at, stop, left, right, low if bass else left)
    line = _line(dice, chords, end) if tune else []
    tempo = dice.choice((70, 96, 120, 138))
    tracks = (
        {"Piano left": left, "Piano right": right}
        if left and dice.random() < 0.5
        else {"Piano": left + right}
    )
    tracks |= {"Bass": low} if bass else {}
    tracks |= {"Melody" if dice.random() < 0.5 else "Flute": line} if line else {}
    spread = 0.03 * tempo / 60 if by_hand else 0.0
    data = _file(dice, tracks, tempo, None if free else beats, spread)
    return Made(data, style, tuple(chords), beats, tuple((at, key) for at, _, key in line))


def _play(
    dice: random.Random, style: str, name: str, at: float, stop: float,
    left: list[Note], right: list[Note], low: list[Note],
) -> None:  # fmt: skip
    chord = parse_chord(name)
    assert chord is not None
    classes, under = sounding(chord)
    root = 36 + under
    upper = (
        sorted(60 + (own - 0) % 12 for own in classes)
        if len(classes) < 5
        else sorted(60 + own for own in classes if own != chord.root.pitch_class % 12)
    )
    length = stop - at
    if style == "block":
        low.append((at, length * 0.95, root))
        right += [(at, length * 0.95, key) for key in upper]
    elif style == "comping":
        low.append((at, length * 0.9, root))
        for place in (0.0, 1.5) if length > 2 else (0.0,):
            right += [(at + place, 0.4, key) for key in upper]
    elif style == "broken":
        row = [root, *(key - 12 for key in upper)]
        now = at
        while now < stop:
            key = row[int((now - at) * 2) % len(row)]
            (low if key == root else right).append((now, 0.5, key))
            now += 0.5
        if row[-1] not in {key for _, _, key in right}:
            right.append((stop - 0.5, 0.5, row[-1]))
    else:
        fifth = next((own for own in classes if (own - under) % 12 in (6, 7, 8)), under)
        for beat in range(int(length)):
            first = beat == 0 or (style == "stride" and beat % 2 == 0)
            if first:
                low.append((at + beat, 0.9, root if beat == 0 else 36 + fifth))
            else:
                left += [(at + beat, 0.8, key - 12) for key in upper]


def _line(dice: random.Random, chords: list[tuple[float, str]], end: float) -> list[Note]:
    key, now, row = 74, 0.0, []
    while now < end:
        length = min(dice.choice((0.5, 1.0, 1.0, 2.0)), end - now)
        row.append((now, length * 0.95, key))
        key = max(69, min(84, key + dice.choice((-2, -1, 1, 2, 2, -2, 3, -3))))
        now += length
    return row


def _file(
    dice: random.Random, tracks: dict[str, list[Note]], tempo: int, beats: int | None, spread: float
) -> bytes:
    file = mido.MidiFile(type=1, ticks_per_beat=480)
    head = [mido.MetaMessage("set_tempo", tempo=mido.bpm2tempo(tempo if beats else 120))]
    head += [mido.MetaMessage("time_signature", numerator=beats, denominator=4)] if beats else []
    file.tracks.append(mido.MidiTrack(head))
    unit = 480 if beats else 480 * 120 / tempo
    for channel, (name, notes) in enumerate(tracks.items()):
        played = []
        for start, length, key in notes:
            begin = max(0.0, start + dice.uniform(-spread, spread))
            stop = start + length + dice.uniform(-spread, spread)
            played.append((begin, stop - begin, key))
        file.tracks.append(track_of(played, name, channel, unit))
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def track_of(notes: list[Note], name: str = "", channel: int = 0, unit: float = 480) -> mido.MidiTrack:
    """Notes of (start, length, key) as a track of so many ticks a quarter."""
    timed = []
    for start, length, key in notes:
        first = round(start * unit)
        last = max(first + 20, round((start + length) * unit))
        timed.append((first, mido.Message("note_on", note=key, velocity=70, channel=channel)))
        timed.append((last, mido.Message("note_off", note=key, channel=channel)))
    timed.sort(key=lambda item: (item[0], item[1].type == "note_on"))
    track, now = mido.MidiTrack([mido.MetaMessage("track_name", name=name)] if name else []), 0
    for at, message in timed:
        track.append(message.copy(time=at - now))
        now = at
    return track


def alike(wanted: str, heard: ChordSymbol | None) -> bool:
    """Whether a symbol sounds as one was meant: the same notes over the same bass."""
    chord = parse_chord(wanted)
    assert chord is not None
    return heard is not None and sounding(chord) == sounding(heard)


def exact(file: Made, placed: list[tuple[Fraction, ChordSymbol | None]]) -> bool:
    """Whether all chords were heard where they are, and no others."""
    return len(placed) == len(file.chords) and all(
        float(at) == start and alike(name, chord)
        for (start, name), (at, chord) in zip(file.chords, placed, strict=True)
    )
