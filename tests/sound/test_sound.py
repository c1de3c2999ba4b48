"""The player at sample exactness, and both instruments."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from fractions import Fraction
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest

from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.sound import instrument as instrument_module
from yellow_hinge.sound import output as output_module
from yellow_hinge.sound import player as player_module
from yellow_hinge.sound.instrument import (
    SAMPLE_RATE,
    BuiltInTone,
    FluidInstrument,
    Frames,
    best_instrument,
    find_fonts,
)
from yellow_hinge.sound.loudness import START_VOLUME
from yellow_hinge.sound.output import BufferOutput, DeviceOutput, Fill, Supply, best_output
from yellow_hinge.sound.player import Player

CHORDS: list[NoteEvent] = [
    *(NoteEvent(Fraction(0), key, Fraction(1), 72, "left", 0) for key in (48, 64, 67)),
    *(NoteEvent(Fraction(1), key, Fraction(1), 72, "right", 1) for key in (50, 65, 69)),
    NoteEvent(Fraction(1), 36, Fraction(1), 72, "bass", 1),
]


def at(*rates: int, change: int = 1) -> TempoMap:
    """So many quarters a minute, each ``change`` quarters after the one before."""
    return TempoMap([(Fraction(change * place), Fraction(rate)) for place, rate in enumerate(rates)])


class Recorder:
    """An instrument that writes down what happens at which sample."""

    name = "recorder"

    def __init__(self) -> None:
        self.now = 0
        self.log: list[tuple[int, str, int, int]] = []

    def note_on(self, channel: int, key: int, velocity: int) -> None:
        assert 1 <= velocity <= 127
        self.log.append((self.now, "on", channel, key))

    def note_off(self, channel: int, key: int) -> None:
        self.log.append((self.now, "off", channel, key))

    def sustain(self, down: bool) -> None:
        self.log.append((self.now, "pedal down" if down else "pedal up", 0, 0))

    def silence(self) -> None:
        self.log.append((self.now, "silence", 0, 0))

    def render(self, frames: int) -> Frames:
        self.now += frames
        return np.zeros((frames, 2), dtype=np.float32)


def test_strokes_fall_on_their_sample() -> None:
    recorder = Recorder()
    Player(recorder, BufferOutput(3)).play(CHORDS, at(120))
    beat = SAMPLE_RATE // 2
    ons = [(at, key) for at, what, _, key in recorder.log if what == "on"]
    assert ons == [(0, 48), (0, 64), (0, 67), (beat, 50), (beat, 65), (beat, 69), (beat, 36)] or sorted(
        ons
    ) == sorted([(0, 48), (0, 64), (0, 67), (beat, 36), (beat, 50), (beat, 65), (beat, 69)])
    offs = {key: at for at, what, _, key in recorder.log if what == "off"}
    assert set(offs) == {48, 64, 67, 50, 65, 69, 36}
    assert all(offs[key] < beat for key in (48, 64, 67))
    assert all(beat < offs[key] < 2 * beat for key in (50, 65, 69, 36))


def test_playing_from_the_middle_leaves_out_what_is_before() -> None:
    recorder = Recorder()
    player = Player(recorder, BufferOutput(2))
    player.play(CHORDS, at(60), start_quarters=1.0)
    assert {key for _, what, _, key in recorder.log if what == "on"} == {50, 65, 69, 36}
    assert player.slot == 1


def test_a_change_of_tempo_and_the_pace_move_the_strokes() -> None:
    for pace in (1.0, 0.5):
        recorder = Recorder()
        later = NoteEvent(Fraction(2), 40, Fraction(1), 70, "left", 2)
        Player(recorder, BufferOutput(9)).play([*CHORDS, later], at(60, 120), pace=pace)
        ons = {key: when for when, what, _, key in recorder.log if what == "on"}
        second = SAMPLE_RATE / pace
        assert (ons[48], ons[50], ons[40]) == (0, second, 1.5 * second)


def test_a_lap_comes_over_and_over_in_time() -> None:
    """One quarter in a second: the first chord every second, nothing of the second one, no note over the
    seam."""
    recorder = Recorder()
    player = Player(recorder, BufferOutput(3.5))
    over = NoteEvent(Fraction(1, 2), 40, Fraction(4), 70, "left", 0)
    player.play(sorted([*CHORDS, over]), at(60), until=1.0)
    ons = [(when / SAMPLE_RATE, key) for when, what, _, key in recorder.log if what == "on"]
    assert [when for when, key in ons if key == 48] == [0, 1, 2, 3]
    assert [when for when, key in ons if key == 40] == [0.5, 1.5, 2.5, 3.5]
    assert {key for _, key in ons} == {48, 64, 67, 40}
    offs = [when / SAMPLE_RATE for when, what, _, key in recorder.log if (what, key) == ("off", 40)]
    assert [round(when, 3) for when in offs] == [1, 2, 3] and all(when < round(when) for when in offs)
    assert player.playing and player.quarters == pytest.approx(0.5, abs=0.03)
    player.play(CHORDS, at(60), 1.0, 2.0, until=2.0)  # from the middle, twice as fast
    ons = [
        (when / SAMPLE_RATE, key) for when, what, _, key in recorder.log[-40:] if what == "on" and key == 50
    ]
    assert len(ons) >= 3 and ons[2][0] - ons[1][0] == pytest.approx(0.5)


def test_the_end_is_known_and_stop_silences() -> None:
    recorder = Recorder()
    player = Player(recorder, BufferOutput(1.0))
    player.play(CHORDS, at(60))
    assert player.playing and player.slot in (0, 1)
    player.stop()
    assert not player.playing and recorder.log[-1][1] == "silence"
    player = Player(recorder, BufferOutput(6.0))
    player.play(CHORDS, at(60))
    assert not player.playing


def test_volume_begins_moderate_and_scales() -> None:
    loud, quiet = BufferOutput(0.5), BufferOutput(0.5)
    player = Player(BuiltInTone(), loud)
    assert player.volume == START_VOLUME <= 0.5
    player.play(CHORDS, at(60))
    other = Player(BuiltInTone(), quiet)
    other.volume = START_VOLUME / 2
    other.play(CHORDS, at(60))
    assert np.allclose(loud.sound, 2 * quiet.sound, atol=1e-6)
    assert 0.01 < np.abs(loud.sound).max() < 1


def loudest_pitch_hz(sound: Frames) -> float:
    spectrum = np.abs(np.fft.rfft(sound[:, 0] * np.hanning(len(sound))))
    return float(np.argmax(spectrum) * SAMPLE_RATE / len(sound))


@pytest.mark.parametrize("key", [45, 57, 69])
def test_the_built_in_tone_has_the_right_pitch_and_dies_away(key: int) -> None:
    tone = BuiltInTone()
    tone.note_on(0, key, 90)
    sound = tone.render(SAMPLE_RATE)
    assert loudest_pitch_hz(sound) == pytest.approx(440 * 2 ** ((key - 69) / 12), abs=1.5)
    assert np.abs(sound[-4000:]).max() < np.abs(sound[:8000]).max()
    tone.note_off(0, key)
    tone.render(SAMPLE_RATE)
    assert np.abs(tone.render(4000)).max() == 0
    tone.note_on(0, key, 90)
    tone.silence()
    assert np.abs(tone.render(100)).max() == 0


def test_the_sampled_instrument_where_it_is_there() -> None:
    fonts = find_fonts()
    if not fonts:
        pytest.skip("no sound font on this machine")
    instrument = best_instrument()
    assert instrument.name.startswith("FluidSynth")
    instrument.note_on(0, 69, 90)
    sound = instrument.render(SAMPLE_RATE)
    assert sound.shape == (SAMPLE_RATE, 2)
    assert loudest_pitch_hz(sound) % 440 == pytest.approx(0, abs=4) or loudest_pitch_hz(sound) % 440 > 436
    instrument.note_off(0, 69)
    instrument.silence()


def test_without_a_font_the_built_in_tone_stands_in(
    monkeypatch: pytest.MonkeyPatch, tmp_path: object
) -> None:
    monkeypatch.setattr("yellow_hinge.sound.instrument.FONT_FOLDERS", (str(tmp_path),))
    assert isinstance(best_instrument(), BuiltInTone)


def test_a_file_that_is_no_font_is_refused(tmp_path: object) -> None:
    from pathlib import Path

    path = Path(str(tmp_path)) / "x.sf2"
    path.write_bytes(b"not a font")
    if find_fonts():
        with pytest.raises((OSError, ImportError)):
            FluidInstrument(path)


def test_an_instrument_says_nothing_on_standard_output() -> None:
    """What a command writes is its own; the binding of the synthesiser talks where CI is set."""
    program = "from yellow_hinge.sound.instrument import best_instrument as b; print(bool(b().name))"
    found = subprocess.run(
        [sys.executable, "-c", program],
        capture_output=True,
        text=True,
        check=True,
        env=os.environ | {"CI": "1"},
    )
    assert found.stdout == "True\n"


def test_the_silent_stand_in_keeps_real_time() -> None:
    recorder = Recorder()
    player = Player(recorder, DeviceOutput(silent=True))
    player.play(CHORDS, at(240))
    deadline = time.monotonic() + 5
    while player.playing and time.monotonic() < deadline:
        time.sleep(0.02)
    assert not player.playing and player.slot == 1
    player.stop()


def test_frames_last_until_the_device_asks_again_or_it_ran_dry() -> None:
    now = 10.0
    supply = Supply(lambda: now)
    supply.pulled(SAMPLE_RATE)
    assert supply.dry == 0
    for now, frames, dry in ((10.5, SAMPLE_RATE, 0), (12.0, 441, 0), (12.01, 441, 0), (12.021, 441, 1),
                             (12.03, 441, 1), (12.1, 441, 2), (12.105, 441, 2), (17.0, 441, 3),
                             (22.11, 441, 1), (22.2, 441, 2)):  # fmt: skip
        supply.pulled(frames)
        assert supply.dry == dry, now


@pytest.mark.long
def test_what_is_not_kept_up_with_gets_longer_blocks_at_the_next_start() -> None:
    output = DeviceOutput(silent=True)
    ahead = []

    def slow(frames: int) -> Frames:
        time.sleep(frames / SAMPLE_RATE * 3)
        return np.zeros((frames, 2), np.float32)

    for _ in range(4):
        output.start(slow)
        ahead.append(output.ahead_s)
        deadline = time.monotonic() + 2 if len(ahead) < 3 else time.monotonic() + 1
        while not output.dry and time.monotonic() < deadline:
            time.sleep(0.01)
    output.stop()
    assert not output.dry  # there are no longer ones
    assert ahead == [0.016, 0.04, 0.12, 0.12]


def test_a_key_that_is_struck_while_the_device_ran_dry_starts_it_anew() -> None:
    output = Counting()
    player = Player(Recorder(), output)
    for dry, starts in ((False, 1), (False, 1), (True, 2), (False, 2)):
        output.dry = dry
        player.touch(60, 64)
        assert output.starts == starts
    output.dry = True
    player.touch(60, 0)  # nobody hears a key that is let go
    assert output.starts == 2


class Counting:
    """An output that is started."""

    name, ahead_s, dry, starts = "counting", 0.0, False, 0

    def start(self, fill: Fill) -> None:
        self.starts += 1

    def stop(self) -> None:
        """Nothing runs."""


def test_without_a_sound_card_the_stand_in_is_taken(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(output_module, "has_sound_device", lambda: False)
    assert best_output().name == "silent stand-in"


@pytest.mark.parametrize(
    ("silent", "backend", "wanted"),
    [(True, "ALSA", "silent stand-in"), (False, "Null", "silent stand-in"), (False, "ALSA", "ALSA")],
)
def test_a_device_that_nobody_hears_says_so(
    monkeypatch: pytest.MonkeyPatch, silent: bool, backend: str, wanted: str
) -> None:
    monkeypatch.setattr(DeviceOutput, "_opened", lambda *_: SimpleNamespace(backend=backend))
    assert DeviceOutput(silent).name == wanted


@pytest.mark.parametrize(
    ("there", "found"),
    [((), False), (("pulse/native",), True), (("pipewire-0",), True), (("pulse/other",), False)],
)
def test_a_sound_server_is_found_where_it_lies(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, there: tuple[str, ...], found: bool
) -> None:
    if any(Path("/dev/snd").glob("pcm*p")):
        pytest.skip("there is a sound card")
    for name in there:
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).touch()
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    assert output_module.has_sound_device() == found


def test_sound_fonts_are_looked_for_in_order(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Folders that are none, and files of other kinds, do no harm."""
    first, second = tmp_path / "first", tmp_path / "second"
    for folder, names in ((first, ("b.sf2", "a.sf3", "c.txt")), (second, ("a.sf2",))):
        folder.mkdir()
        for name in names:
            (folder / name).touch()
    (tmp_path / "file").touch()
    folders = (str(first), str(tmp_path / "none"), str(tmp_path / "file"), str(second))
    monkeypatch.setattr(instrument_module, "FONT_FOLDERS", folders)
    assert [path.relative_to(tmp_path).as_posix() for path in find_fonts()] == [
        "first/a.sf3", "first/b.sf2", "second/a.sf2"
    ]  # fmt: skip
    assert isinstance(best_instrument(), BuiltInTone)  # none of them is a font


@pytest.mark.parametrize(("lap_s", "laps"), [(900.0, 1), (2000.0, 1), (600.0, 2), (601.0, 1), (2.0, 450)])
def test_laps_are_as_many_as_a_quarter_of_an_hour_holds(lap_s: float, laps: int) -> None:
    """The nearest number of them, and one at least."""
    stroke = player_module._Stroke(0, True, 0, 60, 64, 0)
    lap = round(lap_s * SAMPLE_RATE)
    rows = player_module._laps([stroke], lap)
    assert [one.at for one in rows] == [number * lap for number in range(laps)]
