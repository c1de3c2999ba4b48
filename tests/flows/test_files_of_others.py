"""Text from anywhere, sound files, tables, templates and the files that were used last."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Cancelled
from yellow_hinge.formats import midi, musicxml
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.time import MAX_TEMPO, MIN_TEMPO
from yellow_hinge.song.model import Song
from yellow_hinge.sound.instrument import SAMPLE_RATE, Frames, best_instrument
from yellow_hinge.tasks.files.formats import WRITE_SUFFIXES, encode
from yellow_hinge.tasks.files.opening import demo_song, open_song
from yellow_hinge.tasks.files.pasted import recognise
from yellow_hinge.tasks.files.row_table import HEADINGS
from yellow_hinge.tasks.files.sound_file import PEAK, SoundWishes, sound_file, sound_of
from yellow_hinge.tasks.settings.recent import MOST, recent_files, remember
from yellow_hinge.tasks.song.templates import TEMPLATES
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()


@pytest.mark.parametrize(
    ("text", "words", "chords"),
    [
        ("title: x\nkey: C\n| C | G7 |\n", "chart text", ["C", "G7"]),
        ("X:1\nK:C\n\"C\"c8|\"G7\"d8|\n", "ABC notation", ["C", "G7"]),
        ("{title: x}\n[C]oh [G7]no\n", "ChordPro", ["C", "G7"]),
        ("[C]oh [G7]no\n", "ChordPro", ["C", "G7"]),
        ("[Verse]\nC   G7\noh  no\n", "chords over words", ["C", "G7"]),
        ("C G7\n", "chords over words", ["C", "G7"]),
    ],
)  # fmt: skip
def test_text_is_recognised(text: str, words: str, chords: list[str]) -> None:
    found = recognise(text)
    assert found.words == words and found.chart is not None
    assert [str(one.written.chord) for one in found.chart.placed] == chords
    assert [line for _, line in found.lines] == text.split("\n")


@pytest.mark.parametrize("text", ["", "nothing here\n", "| Hq |\n", "{title: x}\n"])
def test_what_cannot_be_read_says_why(text: str) -> None:
    found = recognise(text)
    assert found.chart is None and found.problems and found.problems[0].remedy


@pytest.mark.parametrize("name", TEMPLATES)
def test_templates_are_charts_that_can_be_voiced(name: str) -> None:
    song = Song(parse_chart(TEMPLATES[name]))
    assert voice_song(song, LIBRARY, Planner(LIBRARY)).song.solved


def test_a_text_file_with_chords_over_words_opens(tmp_path: Path) -> None:
    path = tmp_path / "song.txt"
    path.write_text("Quay\n\nC    G7\noh   no\n")
    opened = open_song(path)
    assert [str(slot.chord) for slot in opened.song.slots] == ["C", "G7"]
    path.write_text("title: x\n| C | Hq |\n")
    with pytest.raises(BadInput) as caught:  # a chart with a mistake is a chart
        open_song(path)
    assert caught.value.problems[0].line == 2


@pytest.mark.parametrize("suffix", WRITE_SUFFIXES)
def test_every_format_is_written_and_those_that_are_read_come_back(suffix: str, tmp_path: Path) -> None:
    song = demo_song("lantern-ferry")
    data = encode(song, suffix, LIBRARY)
    assert data
    path = tmp_path / f"song{suffix}"
    path.write_bytes(data)
    if suffix in (".csv", ".wav", ".flac", ".ogg"):
        return
    again = open_song(path).song
    assert [str(slot.chord) for slot in again.slots] == [str(slot.chord) for slot in song.slots]
    with pytest.raises(BadInput):
        encode(Song(), ".mid", LIBRARY)


def test_the_table_has_both_hands() -> None:
    song = demo_song("lantern-ferry")
    rows = list(csv.reader(io.StringIO(encode(song, ".csv", LIBRARY).decode())))
    assert tuple(rows[0]) == HEADINGS and len(rows) == len(song.slots) + 1
    assert rows[1][:5] == ["1", "1.0", "3.0", "Verse", "Aadd9"] and rows[1][6] == "A2 E3 B3"
    assert rows[-1][-2] == "" and all(row[-2].isdecimal() for row in rows[1:-1])


def test_packed_scores_are_smaller_and_open() -> None:
    song = demo_song("salt-stairs")
    packed = encode(song, ".mxl", LIBRARY)
    assert packed.startswith(b"PK") and len(packed) < len(encode(song, ".musicxml", LIBRARY)) / 5
    assert len(musicxml.read(packed).chart.placed) == len(song.slots)


# --- sound ---


def sound(song: Song, **wishes: Any) -> Frames:
    return sound_of(song, LIBRARY, SoundWishes(**wishes), best_instrument())


@pytest.fixture(scope="module")
def short() -> Song:
    chart = parse_chart("key: C\ntempo: 240\n[A]\n| C | G7 |\nmelody: | C5:4 | B4:4 |\n")
    return voice_song(Song(chart), LIBRARY, Planner(LIBRARY)).song


@pytest.mark.parametrize("suffix", [".wav", ".flac", ".ogg"])
def test_sound_files_are_read_by_others_and_nothing_is_cut(short: Song, suffix: str) -> None:
    data, rate = soundfile.read(io.BytesIO(sound_file(short, LIBRARY, suffix, SoundWishes())))
    assert rate == SAMPLE_RATE and data.shape[1] == 2
    peak = float(np.abs(data).max())
    assert peak == pytest.approx(PEAK, abs=0.02 if suffix == ".ogg" else 0.001) and peak < 1


def test_rounds_get_faster_and_are_counted_in(short: Song) -> None:
    once = len(sound(short)) / SAMPLE_RATE
    assert once == pytest.approx(2 + 1, abs=0.1)  # two bars, and what rings on
    counted = len(sound(short, count_in=True)) / SAMPLE_RATE
    assert counted == pytest.approx(once + 1, abs=0.1)
    ladder = len(sound(short, rounds=3, first_tempo=120, last_tempo=240)) / SAMPLE_RATE
    assert ladder == pytest.approx(8 * 60 / 120 + 8 * 60 / 180 + 8 * 60 / 240 + 1, abs=0.15)


def test_hands_and_tune_are_left_out(short: Song) -> None:
    silent = sound(short, left=False, right=False, tune=False, band=False)
    assert not len(silent) or float(np.abs(silent).max()) == 0
    assert float(np.abs(sound(short, left=False, right=False)).max()) > 0.5


@pytest.mark.parametrize(
    ("wishes", "tempi"),
    [
        ({}, [1.0]), ({"rounds": 3, "first_tempo": 120, "last_tempo": 240}, [0.5, 0.75, 1.0]),
        ({"rounds": 2, "first_tempo": 120}, [0.5, 0.5]), ({"rounds": 2, "last_tempo": 120}, [1.0, 0.5]),
        ({"first_tempo": 60, "last_tempo": 120}, [0.25]),
    ],
)  # fmt: skip
def test_each_round_has_its_tempo(short: Song, wishes: dict[str, int], tempi: list[float]) -> None:
    assert SoundWishes(**wishes).tempi(short) == tempi  # type: ignore[arg-type]


def test_a_round_that_is_not_the_last_ends_to_the_sample(short: Song) -> None:
    """At 130 beats a minute it lasts 3.6923 s: 162,830.77 samples, and the next begins at the nearest."""
    once, twice = (len(sound(short, rounds=count, first_tempo=130)) for count in (1, 2))
    assert twice - once == 162_831


@pytest.mark.parametrize(
    ("wishes", "remedy"),
    [
        ({"rounds": 0}, "ask for 1 to 50"), ({"rounds": 51}, "ask for 1 to 50"), ({"rounds": 50}, ""),
        ({"rounds": 1}, ""), ({"first_tempo": MIN_TEMPO - 1}, "ask for"), ({"first_tempo": MIN_TEMPO}, ""),
        ({"last_tempo": MAX_TEMPO + 1}, "ask for"), ({"last_tempo": MAX_TEMPO}, ""),
        ({"last_tempo": MIN_TEMPO - 1}, "ask for"), ({"first_tempo": MAX_TEMPO + 1}, "ask for"),
    ],
)  # fmt: skip
def test_each_side_of_what_a_sound_file_can_be(short: Song, wishes: dict[str, int], remedy: str) -> None:
    asked = SoundWishes(**wishes)  # type: ignore[arg-type]
    if not remedy:
        return asked.check(short)
    with pytest.raises(BadInput, match=remedy):
        asked.check(short)
    return None


def test_an_hour_of_sound_and_no_more() -> None:
    """100 bars at 20 beats a minute last 20 minutes, at twice that 10."""
    song = Song(parse_chart(f"key: C\ntempo: 20\n[A] x10\n{'| C ' * 10}|\n"))
    for wishes in (SoundWishes(rounds=3), SoundWishes(rounds=6, first_tempo=40)):
        wishes.check(song)
        with pytest.raises(BadInput, match="more than an hour"):
            replace(wishes, rounds=wishes.rounds + 1).check(song)


def test_long_work_stops(short: Song) -> None:
    with pytest.raises(Cancelled):
        sound_file(short, LIBRARY, ".wav", SoundWishes(rounds=3), lambda _: False)


# --- the rest ---


def test_files_that_were_used_last(tmp_path: Path) -> None:
    assert recent_files() == []
    paths = [tmp_path / f"{number}.txt" for number in range(MOST + 2)]
    for path in paths:
        path.write_text("x")
        remember(path)
    assert recent_files() == paths[:1:-1]
    paths[-1].unlink()
    assert paths[-1] not in recent_files()
    remember(paths[3])
    assert recent_files()[0] == paths[3]


def test_midi_has_any_letters_and_clicks_on_beats() -> None:
    import mido

    chart = parse_chart("title: Größe Ωδή\nkey: C\nmeter: 6/8\n[Строфа]\n| C | F |\n")
    file = mido.MidiFile(file=io.BytesIO(midi.write(Song(chart))), charset="utf-8")
    texts = [message.text for message in file.tracks[0] if message.type == "marker"]
    assert file.tracks[0].name == "Größe Ωδή" and texts == ["Строфа"]
    meter = next(message for message in file.tracks[0] if message.type == "time_signature")
    assert meter.clocks_per_click == 36
