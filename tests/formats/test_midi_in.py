"""MIDI files that others play or write."""

from __future__ import annotations

import io
from fractions import Fraction

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yellow_hinge.errors import BadInput, YellowHingeError
from yellow_hinge.formats import midi, midi_in
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.files.played_midi import read_midi
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
BLOCKS = [((48,), (64, 67, 71)), ((45,), (60, 64, 67)), ((38, 50), (60, 65, 69)), ((43,), (59, 65, 69))]


def file_of(*tracks: list[tuple[float, float, int]], names: tuple[str, ...] = (), meta: tuple = ()) -> bytes:  # type: ignore[type-arg]
    """Tracks of (start, length, key) in quarters."""
    file = mido.MidiFile(type=1, ticks_per_beat=480)
    file.tracks.append(
        mido.MidiTrack([mido.MetaMessage("time_signature", numerator=4, denominator=4), *meta])
    )
    for number, notes in enumerate(tracks):
        timed = []
        for start, length, key in notes:
            timed.append((round(start * 480), mido.Message("note_on", note=key, velocity=70)))
            timed.append((round((start + length) * 480), mido.Message("note_off", note=key)))
        timed.sort(key=lambda item: (item[0], item[1].type == "note_on"))
        track, now = mido.MidiTrack(), 0
        if number < len(names):
            track.append(mido.MetaMessage("track_name", name=names[number]))
        for at, message in timed:
            track.append(message.copy(time=at - now))
            now = at
        file.tracks.append(track)
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()


def blocks(late: float = 0.0) -> tuple[list[tuple[float, float, int]], list[tuple[float, float, int]]]:
    left, right = [], []
    for bar, (low, high) in enumerate(BLOCKS):
        left += [(4 * bar + late, 3.9, key) for key in low]
        right += [(4 * bar + late * place / 3, 3.9, key) for place, key in enumerate(high)]
    return left, right


def chords(song: Song) -> list[str]:
    return [str(slot.chord) for slot in song.slots]


@pytest.mark.parametrize("late", [0.0, 0.05])
def test_two_tracks_of_a_piano_are_two_hands(late: float) -> None:
    song = read_midi(file_of(*blocks(late)), "a.mid").song
    assert chords(song) == ["Cmaj7", "Am7", "Dm7", "G9"]
    for index, (left, right) in enumerate(BLOCKS):
        voicing = song.voicing(index)
        assert voicing is not None and song.locked(index)
        assert (voicing.left.keys, voicing.right.keys) == (left, right)


def test_one_track_is_split_at_its_gap() -> None:
    left, right = blocks()
    song = read_midi(file_of(left + right), "a.mid").song
    assert chords(song) == ["Cmaj7", "Am7", "Dm7", "G9"]
    voicing = song.voicing(0)
    assert voicing is not None and (voicing.left.keys, voicing.right.keys) == ((48,), (64, 67, 71))


def test_a_tune_alone_and_over_chords() -> None:
    tune = [
        (0.0, 1.0, 72),
        (1.02, 0.5, 74),
        (1.5, 2.5, 76),
        (4.0, 0.34, 77),
        (4.33, 0.34, 76),
        (4.67, 1.3, 74),
    ]
    alone = read_midi(file_of(tune), "t.mid").song
    assert [str(pitch) for _, _, pitch in alone.tune] == ["C5", "D5", "E5", "F5", "E5", "D5"]
    assert [float(start) for start, _, _ in alone.tune][:3] == [0, 1, 1.5] and set(chords(alone)) == {"None"}
    both = read_midi(file_of(*blocks(), tune, names=("Left", "Right", "Melody")), "t.mid").song
    assert chords(both) == ["Cmaj7", "Am7", "Dm7", "G9"] and len(both.tune) == 6


def test_broken_chords_are_named_by_half_bars_and_said() -> None:
    notes = []
    for bar, (low, high) in enumerate(BLOCKS):
        for place, key in enumerate((*low, *high, *high)[:8]):
            notes.append((4 * bar + place / 2, 0.5, key))
    opened = read_midi(file_of(notes, [(0.0, 16.0, 30)], names=("Piano", "Bassist")), "b.mid")
    assert "broken" in opened.problems[0].what
    assert len(opened.song.slots) >= 4 and not any(opened.song.locked(k) for k in range(4))


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_our_own_files_come_back(name: str) -> None:
    song = demo_song(name)
    again = read_midi(midi.write(song, row(song, LIBRARY).bassist), "own.mid").song
    wanted = [(slot.start_quarters, str(slot.chord)) for slot in song.slots]
    kept = [(slot.start_quarters, str(slot.chord)) for slot in again.slots]
    assert kept == wanted
    assert [(start, pitch.key) for start, _, pitch in again.tune] == [
        (start, pitch.key) for start, _, pitch in song.tune
    ]
    assert (again.key, again.meter, again.tempo, again.title) == (
        song.key,
        song.meter,
        song.tempo,
        song.title,
    )


@pytest.mark.parametrize(
    "data", [b"", b"MThd", b"RIFF" + b"\0" * 40, b"MThd\0\0\0\6\0\1\0\1\0\0MTrk\0\0\0\4\0\xff/\0"]
)
def test_what_is_no_file_is_refused(data: bytes) -> None:
    with pytest.raises(BadInput) as caught:
        midi_in.read(data, "x.mid")
    assert "x.mid" in caught.value.problems[0].place


@pytest.mark.long
@given(st.binary(max_size=80), st.integers(0, 200))
@settings(max_examples=80, deadline=None)
def test_bent_files_are_read_or_refused(junk: bytes, at: int) -> None:
    data = bytearray(file_of(*blocks()))
    data[at : at + len(junk)] = junk
    try:
        midi_in.read(bytes(data), "x.mid")
    except YellowHingeError as error:
        assert error.problems[0].what


@pytest.mark.parametrize(
    ("at", "nearest"),
    [
        ("0", "0"), ("1/9", "0"), ("1/7", "1/4"), ("2/7", "1/4"), ("3/10", "1/3"), ("2/5", "1/3"),
        ("3/7", "1/2"),
        ("3/5", "2/3"), ("7/10", "2/3"), ("5/7", "3/4"), ("6/7", "3/4"), ("8/9", "1"),
        ("17/9", "2"), ("13/4", "13/4"),
    ],
)  # fmt: skip
def test_what_is_played_goes_to_the_nearest_sixteenth_or_triplet(at: str, nearest: str) -> None:
    assert midi_in._nearest(Fraction(at)) == Fraction(nearest)


@pytest.mark.parametrize(
    ("at", "eighth"), [("0", "0"), ("1/5", "0"), ("3/10", "1/2"), ("7/10", "1/2"), ("4/5", "1")]
)
def test_a_chord_goes_to_the_nearest_eighth(at: str, eighth: str) -> None:
    assert midi_in._eighth(Fraction(at)) == Fraction(eighth)
