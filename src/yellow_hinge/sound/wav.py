"""Sound files: WAV, 16 bits, two channels."""

from __future__ import annotations

import io
import wave

import numpy as np

from yellow_hinge.sound.instrument import SAMPLE_RATE, Frames

_FULL = 32_767


def wav_bytes(sound: Frames, volume: float = 1.0) -> bytes:
    """A WAV file of frames, (frames, 2) in -1..1; what is louder than that is cut."""
    samples = np.clip(sound * volume, -1.0, 1.0) * _FULL
    buffer = io.BytesIO()
    with wave.open(buffer, "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(SAMPLE_RATE)
        file.writeframes(samples.astype("<i2").tobytes())
    return buffer.getvalue()
