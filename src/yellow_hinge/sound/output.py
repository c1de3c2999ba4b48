"""Where sound goes: a device of this machine, silence in real time, or a buffer."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Generator
from contextlib import suppress
from pathlib import Path
from typing import Any, Protocol

import numpy as np

from yellow_hinge.sound.instrument import SAMPLE_RATE, Frames

#: Lengths of a block, milliseconds, of which :data:`_READY` are kept ready: a key struck by hand is heard so
#: much later. The shortest is tried first (with the way through the window 30 ms to the ear); where the
#: machine does not keep up, the next.
BLOCKS_MS = (8, 20, 60)
_READY = 2
#: A device that ran dry so often is not kept up with; the first frames, which it always waits for, count.
_DRY = 4
#: After so long without a gap, in seconds, those before are forgotten: a search may have been in the way.
_FORGOTTEN_S = 5.0
Fill = Callable[[int], Frames]


class Output(Protocol):
    """Pulls frames from ``fill`` from ``start`` until ``stop``. ``ahead_s``: what is made now is heard so
    much later; ``dry``: it waited for frames too often, and a new ``start`` keeps more ready."""

    name: str

    @property
    def ahead_s(self) -> float: ...

    @property
    def dry(self) -> bool: ...

    def start(self, fill: Fill) -> None: ...

    def stop(self) -> None: ...


class Supply:
    """Whether what a device pulled lasted until it pulled again."""

    def __init__(self, clock: Callable[[], float] = time.perf_counter) -> None:
        self._clock = clock
        self._lasts_until = self._dry_at = clock()
        self.dry = 0  #: how often it did not, of late

    def pulled(self, frames: int) -> None:
        """The device asks for so many frames, now."""
        now = self._clock()
        if now > self._lasts_until:
            self.dry = 1 if now - self._dry_at > _FORGOTTEN_S else self.dry + 1
            self._dry_at = now
        self._lasts_until = max(now, self._lasts_until) + frames / SAMPLE_RATE


class DeviceOutput:
    """A playback device through miniaudio; its null device (``silent``) keeps real time
    without a sound card and is the stand-in on machines that have none.

    Raises OSError when no device can be opened.
    """

    def __init__(self, silent: bool = False) -> None:
        self._silent = silent
        self._size = 0  # which of the lengths of a block
        self._supply = Supply()
        self._device = self._opened(BLOCKS_MS[0])
        backend = str(self._device.backend)
        self.name = "silent stand-in" if silent or backend.lower() == "null" else backend

    def _opened(self, block_ms: int) -> Any:
        import miniaudio  # noqa: PLC0415 - heavy, and only for sound

        try:
            return miniaudio.PlaybackDevice(
                output_format=miniaudio.SampleFormat.FLOAT32,
                nchannels=2,
                sample_rate=SAMPLE_RATE,
                buffersize_msec=block_ms,
                callback_periods=_READY,
                backends=[miniaudio.Backend.NULL] if self._silent else None,
                app_name="Yellow Hinge",
            )
        except miniaudio.MiniaudioError as error:
            raise OSError(str(error)) from error

    @property
    def ahead_s(self) -> float:
        return _READY * BLOCKS_MS[self._size] / 1000

    @property
    def dry(self) -> bool:
        return self._supply.dry >= _DRY and self._size + 1 < len(BLOCKS_MS)

    def start(self, fill: Fill) -> None:
        self._device.stop()
        if self.dry:
            with suppress(OSError):  # a device that only one may have stays as it is
                longer = self._opened(BLOCKS_MS[self._size + 1])
                self._device.close()
                self._device = longer
                self._size += 1
        self._supply = Supply()
        stream = self._stream(fill)
        next(stream)
        self._device.start(stream)

    def _stream(self, fill: Fill) -> Generator[bytes, int, None]:
        supply = self._supply
        frames = yield b""
        while True:
            supply.pulled(frames)
            frames = yield fill(frames).astype(np.float32).tobytes()

    def stop(self) -> None:
        self._device.stop()


class BufferOutput:
    """Keeps what it pulls, as fast as it can: for tests and for sound files."""

    name = "buffer"
    ahead_s = 0.0
    dry = False

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
