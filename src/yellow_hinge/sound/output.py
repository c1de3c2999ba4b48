"""Where sound goes: a device of this machine, silence in real time, or a buffer."""

from __future__ import annotations

import os
from collections.abc import Callable, Generator
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from yellow_hinge.sound.instrument import SAMPLE_RATE, Frames

#: What is kept ready, milliseconds: a key played by hand is heard so much later.
BUFFER_MS = 60
Fill = Callable[[int], Frames]


class Output(Protocol):
    """Pulls frames from ``fill`` from ``start`` until ``stop``."""

    name: str

    def start(self, fill: Fill) -> None: ...

    def stop(self) -> None: ...


class DeviceOutput:
    """A playback device through miniaudio; its null device (``silent``) keeps real time
    without a sound card and is the stand-in on machines that have none.

    Raises OSError when no device can be opened.
    """

    def __init__(self, silent: bool = False) -> None:
        import miniaudio  # noqa: PLC0415 - heavy, and only for sound

        backends = [miniaudio.Backend.NULL] if silent else None
        try:
            self._device: Any = miniaudio.PlaybackDevice(
                output_format=miniaudio.SampleFormat.FLOAT32,
                nchannels=2,
                sample_rate=SAMPLE_RATE,
                buffersize_msec=BUFFER_MS,
                backends=backends,
                app_name="Yellow Hinge",
            )
        except miniaudio.MiniaudioError as error:
            raise OSError(str(error)) from error
        backend = str(self._device.backend)
        self.name = "silent stand-in" if silent or backend.lower() == "null" else backend

    def start(self, fill: Fill) -> None:
        stream = self._stream(fill)
        next(stream)
        self._device.start(stream)

    @staticmethod
    def _stream(fill: Fill) -> Generator[bytes, int, None]:
        frames = yield b""
        while True:
            frames = yield fill(frames).astype(np.float32).tobytes()

    def stop(self) -> None:
        self._device.stop()


class BufferOutput:
    """Keeps what it pulls, as fast as it can: for tests and for sound files."""

    name = "buffer"

    def __init__(self, seconds: float, block: int = 512) -> None:
        self._blocks = int(seconds * SAMPLE_RATE / block) + 1
        self._block = block
        self.sound: Frames = np.zeros((0, 2), dtype=np.float32)

    def start(self, fill: Fill) -> None:
        self.sound = np.concatenate([fill(self._block) for _ in range(self._blocks)])

    def stop(self) -> None:
        """Nothing runs on."""


def has_sound_device() -> bool:
    """Whether this machine offers a sound card or a sound server. Asked first, because the
    system's sound library writes pages of complaints where there is none."""
    runtime = Path(os.environ.get("XDG_RUNTIME_DIR", "/nonexistent"))
    servers = (runtime / "pulse" / "native", runtime / "pipewire-0")
    return any(server.exists() for server in servers) or any(Path("/dev/snd").glob("pcm*p"))


def best_output() -> Output:
    """A real device, or the silent stand-in where there is none."""
    if has_sound_device():
        try:
            return DeviceOutput()
        except (ImportError, OSError):
            pass
    return DeviceOutput(silent=True)
