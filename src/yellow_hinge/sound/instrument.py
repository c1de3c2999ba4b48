"""What makes sound: a sampled instrument through FluidSynth, or a small built-in tone."""

from __future__ import annotations

import contextlib
import sys
from pathlib import Path
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

SAMPLE_RATE = 44_100
Frames = npt.NDArray[np.float32]

#: Where sound fonts usually lie, best first.
FONT_FOLDERS = ("/usr/share/sounds/sf2", "/usr/share/sounds/sf3", "/usr/share/soundfonts")
_PIANO, _BASS = 0, 32
_SUSTAIN = 64  # MIDI's number of the sustain pedal
BASS_CHANNEL = 2
#: Where General MIDI has percussion.
CLICK_CHANNEL = 9
_DRUM_BANK = 128
#: Channels of keys and of the bass, and those that the pedal is for: the hands and their riffs.
CHANNELS, PEDALLED = range(5), (0, 1, 4)


class Instrument(Protocol):
    """Anything that can be struck and rendered. Channels 0, 1, 3, 4 are keyboards, 2 a bass, 9
    percussion."""

    name: str

    def note_on(self, channel: int, key: int, velocity: int) -> None: ...

    def note_off(self, channel: int, key: int) -> None: ...

    def sustain(self, down: bool) -> None:
        """The pedal of the hands: while it is down what they let go sounds on."""

    def silence(self) -> None:
        """All notes off at once, the pedal up."""

    def render(self, frames: int) -> Frames:
        """The next ``frames`` samples, (frames, 2) float32 in -1..1."""


class BuiltInTone:
    """A struck string in the plainest form: six partials that die away, the higher the sooner.

    It needs no library and no sound font. Partial strengths and decay are our choice.
    """

    name = "built-in tone"
    _PARTIALS = np.array([1.0, 0.45, 0.22, 0.12, 0.06, 0.03], dtype=np.float32)
    _LOUDNESS = 0.09
    _RELEASE_S = 0.12

    def __init__(self) -> None:
        self._voices: dict[tuple[int, int], list[float]] = {}  # phase seconds, level, released at
        self._pedal = False
        self._kept: set[tuple[int, int]] = set()

    def note_on(self, channel: int, key: int, velocity: int) -> None:
        self._voices[channel, key] = [0.0, velocity / 127, -1.0]
        self._kept.discard((channel, key))

    def note_off(self, channel: int, key: int) -> None:
        voice = self._voices.get((channel, key))
        if voice is None or voice[2] >= 0:
            return
        if self._pedal and channel in PEDALLED:
            self._kept.add((channel, key))
        else:
            voice[2] = voice[0]

    def sustain(self, down: bool) -> None:
        self._pedal = down
        if not down:
            kept, self._kept = self._kept, set()
            for channel, key in kept:
                self.note_off(channel, key)

    def silence(self) -> None:
        self._voices.clear()
        self._kept.clear()
        self._pedal = False

    def render(self, frames: int) -> Frames:
        mono = np.zeros(frames, dtype=np.float32)
        steps = np.arange(frames, dtype=np.float32) / SAMPLE_RATE
        for place, voice in list(self._voices.items()):
            started, level, released = voice
            seconds = (steps + started).astype(np.float32)
            make = self._drum if place[0] == CLICK_CHANNEL else self._string
            mono += self._LOUDNESS * level * make(place[1], seconds, released)
            voice[0] = started + frames / SAMPLE_RATE
            if (released >= 0 and voice[0] - released > self._RELEASE_S) or voice[0] > 12:
                del self._voices[place]
        return np.repeat(np.tanh(mono)[:, None], 2, axis=1)

    @staticmethod
    def _drum(key: int, seconds: Frames, _: float) -> Frames:
        """A burst of noise, the lower the key the duller: the same for the same moment."""
        noise = np.sin(seconds * np.float32(91_733 + 377 * key)) * np.sin(seconds * np.float32(5_171 * key))
        burst: Frames = (noise * np.exp(-seconds * (12 + key / 3))).astype(np.float32)
        return burst

    def _string(self, key: int, seconds: Frames, released: float) -> Frames:
        pitch_hz = 440.0 * 2 ** ((key - 69) / 12)
        decay = 0.7 + key / 90
        sound = np.zeros_like(seconds)
        for number, strength in enumerate(self._PARTIALS, 1):
            if number * pitch_hz < SAMPLE_RATE / 2:
                wave = np.sin(2 * np.pi * number * pitch_hz * seconds)
                sound += strength * wave * np.exp(-decay * number**0.7 * seconds)
        sound *= np.minimum(1, seconds / 0.004)
        if released >= 0:
            sound *= np.clip(1 - (seconds - released) / self._RELEASE_S, 0, 1)
        return sound.astype(np.float32)


class FluidInstrument:
    """A General MIDI sound font through the FluidSynth library.

    Raises OSError or ImportError when the library or the font cannot be used.
    """

    def __init__(self, font: Path) -> None:
        # The binding says on standard output where it found its library when CI is set; that is a command's.
        with contextlib.redirect_stdout(sys.stderr):
            import fluidsynth  # noqa: PLC0415 - looks for a system library that may be missing

        self._synth: Any = fluidsynth.Synth(gain=1.5, samplerate=float(SAMPLE_RATE))
        loaded = self._synth.sfload(str(font))
        if loaded < 0:
            raise OSError(f"{font} is not a sound font")
        for channel in CHANNELS:
            program = _BASS if channel == BASS_CHANNEL else _PIANO
            self._synth.program_select(channel, loaded, 0, program)
        self._synth.program_select(CLICK_CHANNEL, loaded, _DRUM_BANK, 0)
        self.name = f"FluidSynth, {font.stem}"

    def note_on(self, channel: int, key: int, velocity: int) -> None:
        self._synth.noteon(channel, key, velocity)

    def note_off(self, channel: int, key: int) -> None:
        self._synth.noteoff(channel, key)

    def sustain(self, down: bool) -> None:
        for channel in PEDALLED:
            self._synth.cc(channel, _SUSTAIN, 127 if down else 0)

    def silence(self) -> None:
        self.sustain(False)
        for channel in (*CHANNELS, CLICK_CHANNEL):
            self._synth.all_sounds_off(channel)

    def render(self, frames: int) -> Frames:
        samples = np.asarray(self._synth.get_samples(frames), dtype=np.float32)
        return samples.reshape(frames, 2) / np.float32(32768)


def find_fonts() -> list[Path]:
    """Sound fonts on this machine, in order of preference."""
    return [
        font
        for folder in FONT_FOLDERS
        if Path(folder).is_dir()
        for font in sorted(Path(folder).glob("*.sf[23]"))
    ]


def best_instrument() -> Instrument:
    """FluidSynth with the first font that loads, else the built-in tone."""
    for font in find_fonts():
        try:
            return FluidInstrument(font)
        except (ImportError, OSError, AttributeError):
            continue
    return BuiltInTone()
