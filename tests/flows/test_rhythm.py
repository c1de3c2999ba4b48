"""Rhythm from the command line, in files, and out of an instrument."""

from __future__ import annotations

import io
import json
from collections import defaultdict
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import mido
import numpy as np
import pytest

from made import engraver
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import midi, musicxml
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.rhythm.patterns import Pattern, Stroke, builtin_patterns
from yellow_hinge.rhythm.realise import Grip, Stretch, realise, untangled
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.groove_edits import change_groove, set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import fifth_of
from yellow_hinge.song.walk import perform
from yellow_hinge.sound.instrument import SAMPLE_RATE, BuiltInTone, best_instrument
from yellow_hinge.sound.player import render
from yellow_hinge.tasks.files.formats import encode
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song, save_song
from yellow_hinge.tasks.settings.patterns import free_id, keep_pattern, own_patterns, with_patterns
from yellow_hinge.tasks.song.problem import wish_for
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import builtin_library

METERS = ("2/4", "3/4", "4/4", "5/4", "6/8", "7/8", "9/8", "12/8", "2/2")
CHORDS = ("Am7", "D9", "Gmaj7", "C6", "F#m7b5", "B7", "Em", "Em/D")


def chart(meter: str, tmp_path: Path) -> Path:
    """A song in a meter, some bars with two chords."""
    beats = int(meter.split("/", maxsplit=1)[0])
    rows = [f"| {CHORDS[k]}:{beats - 1} {CHORDS[k + 1]}:1 " if k % 2 else f"| {CHORDS[k]} " for k in range(7)]
    path = tmp_path / f"{meter.replace('/', '-')}.txt"
    path.write_text(f"title: Tow Rope\nkey: G\nmeter: {meter}\ntempo: 100\n[A]\n{''.join(rows)}|\n")
    return path


def events(capsys: pytest.CaptureFixture[str], *arguments: str) -> dict[str, Any]:
    assert run(["events", *arguments, "--json"]) == 0
    found: dict[str, Any] = json.loads(capsys.readouterr().out)
    return found


@pytest.mark.parametrize("meter", METERS)
def test_events_in_every_meter(meter: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = chart(meter, tmp_path)
    bar = float(Fraction(meter) * 4)
    unit = 4 / int(meter.split("/")[1])
    lefts = [one.id for one in builtin_patterns().values() if "left" in one.hands]
    rights = [one.id for one in builtin_patterns().values() if "right" in one.hands]
    for left, right in zip(lefts[::7], rights[3::7], strict=False):
        played = [str(path), "--left-pattern", left, "--right-pattern", right]
        assert run(["voice", *played, "--json"]) == 0
        chords = json.loads(capsys.readouterr().out)["chords"]
        spans = [((one["bar"] - 1) * bar + (one["beat"] - 1) * unit, one["beats"] * unit) for one in chords]
        found = events(capsys, *played)
        assert [one["beat"] for one in found["bars"]] == pytest.approx([k * bar for k in range(7)])
        by_key: dict[int, list[tuple[float, float]]] = defaultdict(list)
        for one in found["events"]:
            start, length = spans[one["chord"]]
            assert start - 1e-6 <= one["beat"] and one["beats"] > 0
            if one["ornament"] is False:
                assert one["beat"] + one["beats"] <= start + length + 1e-6
                assert one["midi"] in chords[one["chord"]]["lh" if one["part"] == "left" else "rh"]["midi"]
            by_key[one["midi"]].append((one["beat"], one["beat"] + one["beats"]))
        for row in by_key.values():
            assert all(a[1] <= b[0] + 1e-6 for a, b in pairwise(sorted(row)))


def test_swing_and_pedal_from_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = chart("4/4", tmp_path)
    even = events(capsys, str(path), "--right-pattern", "pulses-eighths")
    swung = events(capsys, str(path), "--right-pattern", "pulses-eighths", "--feel", "swing")
    assert {one["beat"] % 1 for one in even["events"]} == {0, 0.5}
    assert {round(one["beat"] % 1, 2) for one in swung["events"]} == {0, 0.67}
    song = set_texture(demo_song("salt-stairs"), None, "x", {"pedal": "half"}).song
    project = tmp_path / "a.yhinge"
    save_song(song, project, builtin_library())
    downs = [one["down"] for one in events(capsys, str(project))["pedal"]]
    assert downs and downs == [True, False] * (len(downs) // 2)


def test_patterns_are_listed(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["patterns", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)["patterns"]
    assert len(rows) >= 40 and {"id", "name", "hands", "meters", "level"} <= set(rows[0])
    assert run(["patterns"]) == 0
    assert len(capsys.readouterr().out.splitlines()) == len(rows)


@pytest.mark.parametrize(
    ("option", "words"),
    [("--left-pattern=nothing", "there is no pattern 'nothing'"),
     ("--right-pattern=stride", "'stride' is not for the right hand")],
)  # fmt: skip
def test_patterns_that_are_not_there(
    option: str, words: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(["voice", str(chart("4/4", tmp_path)), option]) == 2
    assert words in capsys.readouterr().err


def test_own_patterns_are_kept_beside_those_that_ship(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    mine = Pattern("mine", 'Say "so"', (Stroke(Fraction(0), "top"),), meters=("4/4",))
    assert own_patterns() == {}
    assert keep_pattern(mine) == {"mine": mine} == own_patterns()
    other = Pattern("other", "Other", (Stroke(Fraction(1)),))
    assert list(keep_pattern(other)) == ["mine", "other"]
    assert free_id("Mine!", own_patterns()) == "mine-2" and free_id("???", ()) == "mine"
    song = with_patterns(demo_song("copper-kite"), "mine", "held")
    assert song.arrangement.groove.patterns == (mine,) and song.texture(0).left == "mine"
    assert run(["patterns"]) == 0 and 'Say "so"' in capsys.readouterr().out
    path = tmp_path / "yellow-hinge" / "patterns.toml"
    path.write_bytes(b"\xff\xfe\x00")
    with pytest.raises(BadInput, match="not a text file"):
        own_patterns()
    path.write_text(
        'schema = "yellow-hinge/patterns/1"\n[[pattern]]\nid = "held"\nname = "x"\nstrokes = ["1 all"]\n'
    )
    with pytest.raises(BadInput, match="a pattern that ships has this id"):
        keep_pattern(other)


def rich(name: str, pattern: str) -> Song:
    """A demo song with much of what there is."""
    hands = {"left": pattern, "right": pattern, "pedal": "half"}
    song = set_texture(demo_song(name), None, "x", hands).song
    return change_groove(song, "y", slowing=3, ending="rolled", drums="ride", swing=60).song


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_midi_holds_what_is_played(name: str) -> None:
    song = rich(name, "ballad-grace")
    heard = perform(song, melody=True)
    file = mido.MidiFile(file=io.BytesIO(midi.write(song)))
    ons = sum(m.type == "note_on" for track in file.tracks for m in track)
    assert ons == len(heard.notes)
    for track in file.tracks:
        down: set[tuple[int, int]] = set()
        sustain: list[bool] = []
        for m in track:
            if m.type == "note_on":
                assert (m.channel, m.note) not in down and 1 <= m.velocity <= 127
                down.add((m.channel, m.note))
            elif m.type == "note_off":
                down.remove((m.channel, m.note))
            elif m.type == "control_change":
                sustain.append(m.value >= 64)
        assert not down and sustain == [True, False] * (len(sustain) // 2)
    markers = [m.text for m in file.tracks[0] if m.type == "marker"]
    assert len(markers) == len([one for one in song.section_starts.values() if one])
    tempos = [m.tempo for m in file.tracks[0] if m.type == "set_tempo"]
    assert len(tempos) > 3 and tempos[-1] > tempos[0]


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_another_reader_hears_the_same_midi(name: str) -> None:
    """In seconds, so with the tempo and its slowing."""
    import pretty_midi

    song = rich(name, "eighths-turning")
    heard = perform(song, melody=True)
    file = pretty_midi.PrettyMIDI(io.BytesIO(midi.write(song)))
    begin = -heard.tempo.seconds(float(-song.chart.pickup_quarters))
    wanted = sorted((round(begin + heard.tempo.seconds(float(one.start_quarters)), 2), one.key)
                    for one in heard.notes if one.part != "drums")  # fmt: skip
    found = sorted((round(note.start, 2), note.pitch) for one in file.instruments if not one.is_drum
                   for note in one.notes)  # fmt: skip
    assert len(found) == len(wanted)
    assert [key for _, key in found[:40]] == [key for _, key in wanted[:40]]
    assert max(abs(a - b) for (a, _), (b, _) in zip(found, wanted, strict=True)) < 0.03
    assert sum(one.is_drum for one in file.instruments) == 1


@pytest.mark.long
@pytest.mark.parametrize("name", DEMO_SONGS)
@pytest.mark.parametrize("pattern", list(builtin_patterns())[::9])
def test_every_voice_of_every_bar_adds_up(name: str, pattern: str) -> None:
    from music21 import converter, harmony, stream

    song = rich(name, pattern)
    text = musicxml.write(song).decode()
    score = converter.parseData(text, format="musicxml")
    assert isinstance(score, stream.Score)
    for part in score.parts:
        bars = list(part.expandRepeats().getElementsByClass("Measure"))
        bars = bars[1:] if song.chart.pickup else bars
        assert len(bars) == len(song.chart.played)
        for measure, played in zip(bars, song.chart.played, strict=True):
            for voice in list(measure.voices) or [measure]:
                lasts = sum(
                    Fraction(one.duration.quarterLength)
                    for one in voice.notesAndRests
                    if not isinstance(one, harmony.ChordSymbol) and not one.duration.isGrace
                )
                assert lasts == played.bar.quarters
    assert engraver().loadData(text)


def test_accidentals_beams_tuplets_and_signs_are_written() -> None:
    song = rich("salt-stairs", "gospel-triplets")
    text = musicxml.write(song).decode()
    signs = ("<accidental>", "<beam", "<time-modification>", '<tuplet type="start"', '<pedal type="start"',
             "<arpeggiate", "<words>slowing</words>")  # fmt: skip
    for sign in signs:
        assert sign in text
    assert "<tremolo" in musicxml.write(rich("copper-kite", "tremolo")).decode()
    assert "<grace" in musicxml.write(rich("copper-kite", "ballad-grace")).decode()


def test_accidentals_are_printed_where_the_signature_does_not_say_them() -> None:
    """As a reader counts: what a note is altered by is its printed sign, or the last one of the bar on its
    line, or the signature's."""
    from xml.etree import ElementTree as ET

    root = ET.fromstring(musicxml.write(rich("salt-stairs", "eighths-turning")).split(b"\n", 2)[2])
    words = {"flat-flat": -2, "flat": -1, "natural": 0, "sharp": 1, "double-sharp": 2}
    fifths = int(root.findtext(".//fifths") or 0)
    order = "FCGDAEB" if fifths > 0 else "BEADGCF"
    signature = dict.fromkeys(order[: abs(fifths)], 1 if fifths > 0 else -1)
    notes = 0
    for measure in root.iter("measure"):
        for staff in ("1", "2"):
            voices = {
                note.findtext("voice") for note in measure.iter("note") if note.findtext("staff") == staff
            }
            if len(voices) > 1:
                continue  # two voices are read side by side
            now: dict[tuple[str, str], int] = {}
            for note in measure.iter("note"):
                if note.findtext("staff") != staff or note.find("pitch") is None:
                    continue
                step, octave = note.findtext("pitch/step") or "", note.findtext("pitch/octave") or ""
                printed = note.findtext("accidental")
                if printed is not None:
                    now[step, octave] = words[printed]
                read = now.get((step, octave), signature.get(step, 0))
                tied = any(tie.get("type") == "stop" for tie in note.iter("tie"))
                assert tied or read == int(note.findtext("pitch/alter") or 0)
                notes += 1
    assert notes > 200


@pytest.mark.long
@pytest.mark.parametrize("name", DEMO_SONGS)
def test_a_demo_song_sounds_like_a_piece(name: str) -> None:
    """Rendered through the instrument: nothing clipped, no gap before the end."""
    song = demo_song(name)
    groove = song.arrangement.groove
    assert groove.whole != type(groove.whole)() or groove.sections
    assert groove.riffs and groove.ending
    heard = perform(song, melody=True)
    assert bool(heard.pedal) == (name != "copper-kite")  # which is played dry
    sound = render(best_instrument(), heard.notes, heard.tempo, heard.pedal)
    assert float(np.abs(sound).max()) < 1.0
    lasts = heard.tempo.seconds(float(song.chart.length_quarters))
    assert len(sound) / SAMPLE_RATE == pytest.approx(lasts, abs=5)
    block = SAMPLE_RATE // 2
    loud = [float(np.abs(sound[k : k + block]).max()) for k in range(0, int(lasts - 1) * SAMPLE_RATE, block)]
    assert min(loud) > 0.001


def test_a_sound_file_is_written() -> None:
    data = encode(demo_song("copper-kite"), ".wav", builtin_library())
    assert data[:4] == b"RIFF" and data[8:12] == b"WAVE" and len(data) > 1_000_000


def test_the_pedal_holds_what_is_let_go() -> None:
    tone = BuiltInTone()
    tone.sustain(True)
    tone.note_on(0, 60, 90)
    tone.note_off(0, 60)
    tone.note_on(2, 40, 90)
    tone.note_off(2, 40)  # the bass has no pedal
    tone.render(SAMPLE_RATE // 4)
    assert float(np.abs(tone.render(1000)).max()) > 0.01
    tone.sustain(False)
    tone.render(SAMPLE_RATE // 4)
    assert float(np.abs(tone.render(1000)).max()) == 0
    assert render(tone, (), perform(demo_song("copper-kite")).tempo).shape == (0, 2)


@pytest.mark.long
@pytest.mark.parametrize("school", list(builtin_library().schools))
def test_every_pattern_plays_the_shapes_of_every_school(school: str) -> None:
    """Both hands together, in every meter, from one beat to a whole bar."""
    library = builtin_library()
    wish = wish_for(
        parse_chord("G13") or ChordSymbol(NoteName(0)), None, Arrangement(school), HandProfile(), library
    )
    found = candidates(wish, library)
    lefts, rights = ([Grip(shape.keys, 2) for shape in shapes[:: max(1, len(shapes) // 4)]]
                     for shapes in (found.left, found.right))  # fmt: skip
    for number, (left, right) in enumerate(zip(lefts, rights, strict=False)):
        for meter in (Meter(*map(int, text.split("/"))) for text in METERS):
            beats = 1 + number % meter.beats
            stretch = Stretch(Fraction(0), Fraction(0), beats * meter.quarters_per_beat, meter, 0)
            for pattern in builtin_patterns().values():
                notes = [note for hand, grip in (("left", left), ("right", right)) if hand in pattern.hands
                         for note in realise(pattern, grip, right, stretch, hand,
                                             velocity=64).notes]  # fmt: skip
                clear = untangled(notes)
                assert clear and all(
                    0 <= note.start_quarters < stretch.end >= note.end_quarters for note in clear
                )
                by_key: dict[int, list[tuple[Fraction, Fraction]]] = defaultdict(list)
                for note in clear:
                    if note.way != "grace":
                        by_key[note.key].append((note.start_quarters, note.end_quarters))
                assert all(a[1] <= b[0] for row in by_key.values() for a, b in pairwise(sorted(row)))


@pytest.mark.parametrize(
    ("symbol", "fifth"),
    [
        ("C", 7),
        ("Cm7b5", 6),
        ("C/F", 0),
        ("D/C", 7),
        ("C/E", 7),
        ("C/G", 0),
        ("Am7/C", 7),
        ("G/A", 4),
        ("F/G", 2),
    ],
)
def test_the_fifth_of_a_slash_bass_is_its_own(symbol: str, fifth: int) -> None:
    assert fifth_of(parse_chord(symbol)) == fifth


def test_no_chord_has_no_fifth() -> None:
    assert fifth_of(None) is None
