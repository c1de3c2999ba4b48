"""A formula in every key: as a song of its own in each, with its own grips or with the ones that lie best."""

from __future__ import annotations

from fractions import Fraction
from itertools import accumulate

from msgspec import Struct

from yellow_hinge.errors import Cancelled, YellowHingeError
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.formulas import Formula
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Bar, Chart, ChordAt, Section
from yellow_hinge.song.model import Song, Take
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.tasks.swaps.own_formulas import with_played
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key, plainest_key
from yellow_hinge.voicing.recipes import Library

#: From one key to the next: a fourth, as chords fall.
_FOURTH_ST = 5


class InKey(Struct, frozen=True):
    """A formula in a key: voiced as a song of its own, or in words why it cannot be played there."""

    key: Key
    chords: tuple[ChordSymbol, ...]
    voiced: Voiced | None
    trouble: str = ""


def in_every_key(
    formula: Formula, like: Song, library: Library, planner: Planner,
    progress: Progress = always,
) -> list[InKey]:  # fmt: skip
    """A formula in twelve keys, from that of a song on in fourths, for its hands and in its meter and tempo.
    Raises :class:`Cancelled` when ``progress`` says so."""
    keys = []
    for count in range(12):
        tonic = like.key.tonic.pitch_class + count * _FOURTH_ST
        key = plainest_key(tonic, formula.minor)
        try:
            song = formula_song(formula, key, like, library)
            keys.append(InKey(key, formula.in_key(key), voice_song(song, library, planner)))
        except YellowHingeError as error:
            keys.append(InKey(key, formula.in_key(key), None, str(error.problems[0].what)))
        if not progress((count + 1) / 12):
            raise Cancelled
    return keys


def formula_song(formula: Formula, key: Key, like: Song, library: Library) -> Song:
    """A formula as a song: its chords in bars of another song's meter, for the same hands, school and colour.
    Raises :class:`BadInput` where its grips reach beyond the keyboard."""
    bars, numbers = _bars(formula, key, like.meter, like.tempo)
    arrangement = like.arrangement
    chart = Chart(f"{formula.name} in {key.pretty}", "", key, like.meter, like.tempo,
                  sections=(Section("Formula", bars),))  # fmt: skip
    take = Take(0, formula.name, Arrangement(arrangement.school, arrangement.colour, arrangement.bass))
    song = Song(chart, (take,), hands=like.hands)
    if not formula.played:
        return song
    places = [
        (At(written.id), number, begun, written.beats)
        for written, (number, begun) in zip(chart.written, numbers, strict=True)
        if number < len(formula.chords)
    ]
    return with_played(song, formula, places, Fraction(1), key, library=library)


def _bars(
    formula: Formula, key: Key, meter: Meter, tempo: int
) -> tuple[tuple[Bar, ...], list[tuple[int, Fraction]]]:
    """Bars, and for each chord in them which one of the formula it is and how much of that has passed; the
    last bar is filled with the last chord."""
    ends = list(accumulate(chord.beats for chord in formula.chords))
    chords = formula.as_read(key)
    whole = -(-ends[-1] // meter.beats) * meter.beats
    ends[-1] = Fraction(whole)
    bars, numbers, row = [], [], []
    now, number = Fraction(0), 0
    while now < ends[-1]:
        bar_end = Fraction((now // meter.beats + 1) * meter.beats)
        beats = min(ends[number], bar_end) - now
        row.append(ChordAt(chords[number], beats))
        numbers.append((number, now - (ends[number - 1] if number else 0)))
        now += beats
        number += now == ends[number]
        if now == bar_end:
            bars.append(Bar(tuple(row), meter, key, tempo))
            row = []
    return tuple(bars), numbers
