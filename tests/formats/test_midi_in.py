"""MIDI files that others play or write."""

from __future__ import annotations

import io
from fractions import Fraction

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from formats.midi_made import STYLES, Made, exact, made, track_of
from yellow_hinge.errors import BadInput, YellowHingeError
from yellow_hinge.formats import midi, midi_chords, midi_in
from yellow_hinge.formats.midi_chords import Heard
from yellow_hinge.formats.midi_grid import beats_found, off_grid, snapper
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.files.played_midi import read_midi
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
BLOCKS = [((48,), (64, 67, 71)), ((45,), (60, 64, 67)), ((38, 50), (60, 65, 69)), ((43,), (59, 65, 69))]


def file_of(
    *tracks: list[tuple[float, float, int]], names: tuple[str, ...] = (), meter: bool = True
) -> bytes:
    """Tracks of (start, length, key) in quarters."""
    file = mido.MidiFile(type=1, ticks_per_beat=480)
    said = [mido.MetaMessage("time_signature", numerator=4, denominator=4)] if meter else []
    file.tracks.append(mido.MidiTrack(said))
    for number, notes in enumerate(tracks):
        file.tracks.append(track_of(notes, names[number] if number < len(names) else ""))
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


def test_broken_chords_are_named_and_said() -> None:
    notes = []
    for bar, (low, high) in enumerate(BLOCKS):
        for place, key in enumerate((*low, *high, *high)[:8]):
            notes.append((4 * bar + place / 2, 0.5, key))
    opened = read_midi(file_of(notes), "b.mid")
    assert chords(opened.song) == ["Cmaj7", "Am7", "Dm7", "G9"]
    assert any("broken" in problem.what for problem in opened.problems)
    assert not any(opened.song.locked(k) for k in range(4))


def heard(file: Made) -> tuple[list[tuple[Fraction, ChordSymbol | None]], midi_in.Played]:
    played = midi_in.read(file.data, "x.mid")
    rows: list[tuple[Fraction, ChordSymbol | None]] = []
    for placed in played.imported.chart.placed:
        if not rows or rows[-1][1] != placed.written.chord:
            rows.append((placed.start_quarters, placed.written.chord))
    return rows, played


@pytest.mark.parametrize("style", STYLES)
@pytest.mark.parametrize("by_hand", [False, True])
def test_chords_of_made_files_are_heard_or_remarked(style: str, by_hand: bool) -> None:
    exactly = 0
    for seed in range(12):
        file = made(seed, style, bass=bool(seed & 1), tune=bool(seed & 2), by_hand=by_hand)
        rows, played = heard(file)
        if exact(file, rows):
            exactly += 1
        else:
            assert any(
                "may be no" in one.what or "without a name" in one.what for one in played.imported.problems
            )
        assert [(float(at), pitch.key) for at, _, pitch in played.imported.chart.tune] == list(file.tune)
        assert float(played.imported.chart.meter.beats) == file.beats
    assert exactly >= 11


def test_what_a_file_does_not_say_is_guessed_and_said() -> None:
    waltz = made(3, "waltz", free=True)
    said = " ".join(f"{one.what}: {one.remedy}" for one in heard(waltz)[1].imported.problems)
    assert "it says no meter" in said and "it says no key" in said and "found by ear" in said
    plain = midi_in.read(file_of(triads(4.0, 60)), "x.mid").imported.chart
    assert str(plain.key) == "C"
    three = midi_in.read(file_of(triads(3.0, 61), meter=False), "x.mid").imported.chart
    assert (str(three.key), str(three.meter)) == ("Db", "3/4")


def triads(length: float, tonic: int) -> list[tuple[float, float, int]]:
    """Home, four, five, home."""
    roots = (tonic, tonic + 5, tonic + 7, tonic)
    return [(length * bar, length - 0.1, root + step) for bar, root in enumerate(roots) for step in (0, 4, 7)]


@pytest.mark.parametrize(
    ("keys", "wanted"),
    [
        ((57, 61, 66), "F#m/A"), ((48, 52, 57), "Am/C"), ((48, 52, 55, 57), "C6"),
        ((50, 55, 60), "Gsus/D"),
        ((52, 55, 60, 64), "C/E"), ((43, 60, 65, 69), "F/G"), ((43, 62, 65, 69, 72), "G9sus"),
        ((48, 52, 58), "C7"),
        ((48, 51, 54, 57), "Cdim7"), ((48, 52, 56), "Caug"), ((48, 55), "C5"), ((48, 53, 55), "Csus"),
    ],
)  # fmt: skip
def test_plain_inversions_come_first(keys: tuple[int, ...], wanted: str) -> None:
    rows = [(0.0, 3.9, key) for key in keys] + [(4.0, 3.9, key) for key in (45, 57, 61, 64)]
    assert chords(read_midi(file_of(rows), "x.mid").song)[0] == wanted


def test_a_bass_and_the_strokes_behind_it_are_one_grip() -> None:
    rows = []
    for bar, (low, high) in enumerate((((36), (64, 67, 72)), ((41), (65, 69, 72)))):
        rows.append((3.0 * bar, 0.9, low))
        rows += [(3.0 * bar + beat, 0.9, key) for beat in (1, 2) for key in high]
    song = read_midi(file_of(rows, meter=False), "x.mid").song
    assert chords(song) == ["C", "F"]
    first = song.voicing(0)
    assert first is not None and (first.left.keys, first.right.keys) == ((36,), (64, 67, 72))


def test_a_track_that_is_called_bass_sounds_with_the_chord_and_is_no_tune() -> None:
    left, right = blocks()
    song = read_midi(file_of(right, left, names=("Keys", "Bass guitar")), "x.mid").song
    assert chords(song) == ["Cmaj7", "Am7", "Dm7", "G9"] and not song.tune


def test_a_hand_has_five_fingers() -> None:
    rows = [(4.0 * bar, 3.9, key) for bar in range(2) for key in range(60 + bar, 74 + bar, 2)]
    opened = read_midi(file_of(rows), "x.mid")
    assert not any(opened.song.locked(k) for k in range(len(opened.song.slots)))


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
    ("starts", "at", "wanted"),
    [
        ((), "1/9", "0"), ((), "1/7", "1/4"), ((), "3/10", "1/4"), ((), "2/5", "1/2"), ((), "8/9", "1"),
        (("0", "1/3", "2/3"), "3/10", "1/3"), (("0", "1/3", "2/3"), "3/7", "1/3"),
        (("0", "1/3", "2/3"), "13/4", "13/4"),
        (("0", "1/4", "1/2", "3/4"), "3/10", "1/4"), (("1/20", "7/20", "13/20"), "2/3", "2/3"),
    ],
)  # fmt: skip
def test_what_is_played_goes_to_the_nearest_sixteenth_or_triplet(
    starts: tuple[str, ...], at: str, wanted: str
) -> None:
    assert snapper(map(Fraction, starts))(Fraction(at)) == Fraction(wanted)


def test_beats_are_found_where_the_file_has_none() -> None:
    starts = [2.0 + count * 60 / 93 / 2 for count in range(40)]
    found = beats_found(starts)
    assert found is not None and abs(60 / found[0] - 93) < 0.1 and abs(found[1] - 2.0) < 0.01
    assert off_grid([at * 2 for at in starts]) and not off_grid([count / 2 for count in range(40)])
    assert beats_found(starts[:5]) is None and not off_grid([0.1, 0.7])


@pytest.mark.long
def test_a_bar_full_of_notes_is_read() -> None:
    """Every key on every sixteenth of long bars: nobody plays it, and it must not take for ever."""
    rows = [(place / 4, 0.25, key) for place in range(64) for key in range(128)]
    song = read_midi(file_of(rows), "x.mid").song
    assert len(song.chart.played) == 4 and not any(song.locked(k) for k in range(len(song.slots)))


def struck(*strokes: tuple[float, tuple[int, ...]]) -> list[Heard]:
    return [Heard(int(at * 48), int(at * 48) + 10, key) for at, keys in strokes for key in keys]


C, F, F_OTHER_BASS = (48, 64, 67), (53, 69, 72), (48, 65, 69)


@pytest.mark.parametrize(
    ("strokes", "places"),
    [
        (((0, C), (0.5, C), (1.25, C)), [0]),  # the same again between beats is no other chord
        (((0, C), (0.5, F)), [0, 0.5]),
        (((0, C), (0.5, F), (0.75, F)), [0, 0.5]),
        (((0, F), (0.5, F_OTHER_BASS)), [0, 0.5]),
        (((0, C), (1, C), (2, (48,))), [0, 1, 2]),  # beats are looked at always
        (((0, C), (0.5, (48, 64))), [0]),  # two notes are no chord
    ],
)
def test_where_a_chord_may_begin_in_a_bar(
    strokes: tuple[tuple[float, tuple[int, ...]], ...], places: list[float]
) -> None:
    assert midi_chords.cuts(struck(*strokes), 0, Meter()) == [int(at * 48) for at in places]


@pytest.mark.parametrize(("most", "doubtful"), [(1, [False, True, True]), (7, [False] * 3), (0, [True] * 3)])
def test_what_is_more_than_can_be_looked_at_is_one_chord_a_bar_and_doubtful(
    monkeypatch: pytest.MonkeyPatch, most: int, doubtful: list[bool]
) -> None:
    """Each bar has two places, so three stretches."""
    monkeypatch.setattr(midi_chords, "MOST_STRETCHES", most)
    rows = ((bar, at, keys) for bar in range(3) for at, keys in ((0, C), (2, F)))
    notes = struck(*((bar * 4 + at, tuple(key + bar for key in keys)) for bar, at, keys in rows))
    found = midi_chords.chords_of(notes, [(Fraction(bar * 4), Meter()) for bar in range(3)], False)
    first = {int(named.start // 4): named.cost >= midi_chords.DOUBTFUL for named in reversed(found)}
    assert [first[bar] for bar in range(3)] == doubtful


def test_the_first_half_of_a_hundred_bars_tells_the_meter() -> None:
    """What comes behind 128 quarters changes nothing."""
    waltz = [(bar * 3 + 0.0, (C, F)[bar % 2]) for bar in range(43)]
    four = [(129 + bar * 4 + 0.0, (C, F)[bar % 2]) for bar in range(60)]
    assert midi_chords.misfit(struck(*waltz, *four), Meter(3, 4)) == pytest.approx(
        midi_chords.misfit(struck(*waltz, *four[:1]), Meter(3, 4))
    )


@pytest.mark.long
def test_a_file_of_more_notes_than_are_read_is_refused() -> None:
    notes = [(count / 4, 0.2, 60 + count % 5) for count in range(20_001)]
    with pytest.raises(BadInput, match="more than 20000 notes"):
        midi_in.read(file_of(notes))


@pytest.mark.parametrize(("bars", "fits"), [(2_000, True), (2_001, False)])
def test_a_file_of_more_bars_than_are_read_is_refused(bars: int, fits: bool) -> None:
    left, right = blocks()
    data = file_of(left, [*right, (bars * 4 - 1, 1, 60)])
    if fits:
        assert midi_in.read(data).imported.chart.bars_played == bars
        return
    with pytest.raises(BadInput, match="more than 2000 bars"):
        midi_in.read(data)
