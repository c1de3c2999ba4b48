"""Listens on the simulated port and says what comes, a line each: ``0.512 on 1 60 64`` (seconds since
the first message, what, channel from 1, key, velocity), ``control 1 64 127``.

Run: python -m yellow_hinge.sound.simulated_listener [PORT]
"""

from __future__ import annotations

import socket
import sys
import time
from typing import Any

import mido

from yellow_hinge.sound.keyboards import LOCAL_HOST
from yellow_hinge.sound.ports_out import LISTENER_PORT


def words(message: Any) -> str:
    """A ``mido.Message`` as a line; empty for what is not played."""
    if message.type in ("note_on", "note_off"):
        on = message.type == "note_on" and message.velocity
        return f"{'on' if on else 'off'} {message.channel + 1} {message.note} {message.velocity}"
    if message.type == "control_change":
        return f"control {message.channel + 1} {message.control} {message.value}"
    return ""


def main() -> int:
    """Listen until interrupted; 1 where the port is taken."""
    port = int(sys.argv[1]) if len(sys.argv) > 1 else LISTENER_PORT
    try:
        server = socket.create_server((LOCAL_HOST, port))
    except OSError as error:
        print(f"port {port}: {error.strerror}", file=sys.stderr)
        return 1
    print(f"listening on {server.getsockname()[1]}", flush=True)
    begun: float | None = None
    try:
        while True:
            player, _ = server.accept()
            parser = mido.Parser()
            while data := player.recv(4096):
                parser.feed(data)
                moment = time.monotonic()
                begun = moment if begun is None else begun
                for message in parser:
                    said = words(message)
                    if said:
                        print(f"{moment - begun:.3f} {said}", flush=True)
    except KeyboardInterrupt:
        return 0


if __name__ == "__main__":
    sys.exit(main())
