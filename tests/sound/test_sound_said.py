"""The built-in tone and the player, held against tables: how loud it is from tenth to tenth of a second, and
which stroke falls on which sample."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import numpy as np
import pytest

from conftest import cases
from constants import numbers_of
from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.time import TempoMap
from yellow_hinge.sound.instrument import BASS_CHANNEL, CLICK_CHANNEL, SAMPLE_RATE, BuiltInTone, Frames
from yellow_hinge.sound.output import BufferOutput
from yellow_hinge.sound.player import CHANNELS, Player, render


class Written:
    """An instrument that writes down at which sample what is asked of it."""

    name = "written"

    def __init__(self) -> None:
        self.at, self.said = 0, list[str]()

    def note_on(self, channel: int, key: int, velocity: int) -> None:
        self.said.append(f"{self.at}:{channel}+{key}v{velocity}")

    def note_off(self, channel: int, key: int) -> None:
        self.said.append(f"{self.at}:{channel}-{key}")

    def sustain(self, down: bool) -> None:
        self.said.append(f"{self.at}:pedal {'down' if down else 'up'}")

    def silence(self) -> None:
        self.said.append(f"{self.at}:silence")

    def render(self, frames: int) -> Frames:
        self.at += frames
        return np.ones((frames, 2), dtype=np.float32)


def tone(script: str) -> str:
    """Steps ``+60v90`` (on, channel 0; ``c9+60v90``: channel 9), ``-60``, ``down``, ``up``, ``quiet`` and
    ``300`` (milliseconds): the mean loudness of each tenth of a second in ten thousandths, left and right
    alike."""
    instrument, pieces = BuiltInTone(), []
    for word in script.split():
        channel, step = (int(word[1]), word[2:]) if word[0] == "c" else (0, word)
        if step[0] == "+":
            key, _, velocity = step[1:].partition("v")
            instrument.note_on(channel, int(key), int(velocity))
        elif step[0] == "-":
            instrument.note_off(channel, int(step[1:]))
        elif step in ("down", "up"):
            instrument.sustain(step == "down")
        elif step == "quiet":
            instrument.silence()
        else:
            pieces.append(instrument.render(int(step) * SAMPLE_RATE // 1000))
    sound = np.concatenate(pieces)
    assert sound.dtype == np.float32 and (sound[:, 0] == sound[:, 1]).all()
    window = SAMPLE_RATE // 10
    levels = [float(np.sqrt(np.mean(np.square(sound[at : at + window, 0], dtype=np.float64))))
              for at in range(0, len(sound), window)]  # fmt: skip
    crossings = int(np.count_nonzero(np.diff(np.signbit(sound[:, 0]))))
    noise = "noise" if "c9" in script else f"{crossings} crossings"
    return f"{' '.join(f'{10_000 * level:.0f}' for level in levels)} | {noise}"


def events_of(text: str) -> tuple[list[NoteEvent], list[PedalEvent]]:
    """``left:0:48:1@3`` is a part, a place, a key, a length and a slot; ``down:1@2`` is a pedal."""
    notes, pedals = [], []
    for word in text.split():
        said, _, slot = word.partition("@")
        part, at, *rest = said.split(":")
        if part in ("down", "up"):
            pedals.append(PedalEvent(Fraction(at), part == "down", int(slot)))
        else:
            key, length = rest
            notes.append(NoteEvent(Fraction(at), int(key), Fraction(length), 72, part, int(slot)))  # type: ignore[arg-type]
    return notes, pedals


def strokes(rate: str, start: str, pace: str, text: str) -> str:
    """What an instrument is asked at which sample, the end, and the slot and place that are left."""
    instrument, output = Written(), BufferOutput(4)
    notes, pedals = events_of(text)
    player = Player(instrument, output)
    player.play(notes, TempoMap([(Fraction(0), Fraction(rate))]), float(start), float(pace), pedals)
    playing = "plays on" if player.playing else "is over"
    return f"{' '.join(instrument.said)} | {playing} in slot {player.slot} at {player.quarters:.3f}"


TABLES: dict[str, tuple[Callable[..., str], int]] = {"tones": (tone, 1), "strokes": (strokes, 4)}


@pytest.mark.parametrize(("name", "case", "wanted"), cases("sound", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


def test_every_part_has_its_channel() -> None:
    assert CHANNELS["click"] == CHANNELS["drums"] == CLICK_CHANNEL and CHANNELS["bass"] == BASS_CHANNEL
    assert len(set(CHANNELS.values())) == len(CHANNELS) - 1


@pytest.mark.parametrize("frames", [1, 512, 4096])
def test_a_block_may_have_any_length(frames: int) -> None:
    """What is heard does not hang on how much is asked at once."""
    whole, pieces = BuiltInTone(), BuiltInTone()
    for instrument in (whole, pieces):
        instrument.note_on(0, 57, 80)
    together = np.concatenate([pieces.render(frames) for _ in range(8192 // frames)])
    assert np.allclose(together, whole.render(len(together)), atol=2e-3)


def test_a_rendered_row_begins_with_its_first_note_and_has_a_second_to_die_away() -> None:
    notes, _ = events_of("left:4:48:2@0 right:5:60:1@0")
    sound = render(BuiltInTone(), notes, TempoMap([(Fraction(0), Fraction(60))]))
    assert 0 <= len(sound) - 3 * SAMPLE_RATE < 4096  # whole blocks
    assert np.abs(sound[: SAMPLE_RATE // 10]).max() > 0.01
    assert render(BuiltInTone(), [], TempoMap([(Fraction(0), Fraction(60))])).shape == (0, 2)


def test_a_port_takes_the_sound_away_and_volume_scales_it() -> None:
    player = Player(Written(), BufferOutput(1))
    player.volume = 0.25
    assert (player.fill(10) == 0.25).all()
    player.here = False
    assert (player.fill(10) == 0.25).all()  # no port: it sounds here all the same


def test_keys_struck_by_hand_sound_beside_what_plays() -> None:
    instrument = Written()
    player = Player(instrument, BufferOutput(0.1))
    player.touch(60, 0)  # nothing is open: nothing begins
    assert not instrument.said
    player.touch(64, 80)
    player.touch(64, 0)
    player.fill(10)
    hand = CHANNELS["right"]
    at = [said.partition(":")[2] for said in instrument.said]
    assert at == [f"{hand}-60", f"{hand}+64v80", f"{hand}-64"]


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("sound")
    assert {name: now.get(name) for name in decided} == decided != {}
