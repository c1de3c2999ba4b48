"""Plays the simulated keyboard from another process, line by line from standard input:

    down C4 E4 G4     keys go down (notes or MIDI numbers; a last word 1..127 behind a * is how hard)
    up C4             keys go up; ``up`` alone lets all go
    pedal down        the sustain pedal; ``pedal up``
    wait 0.2          seconds

Run: python -m yellow_hinge.sound.simulated [PORT] < what-to-play.txt
"""

from __future__ import annotations

import sys
import time
from collections.abc import Iterable, Iterator
from typing import Any

import mido
from mido.sockets import connect

from yellow_hinge.sound.keyboards import FIRST_PORT, LOCAL_HOST
from yellow_hinge.theory.pitch import MIDI_KEYS, read_pitch

_VELOCITY, _LONGEST_WAIT_S = 80, 60.0


def messages(lines: Iterable[str]) -> Iterator[Any]:
    """MIDI messages (``mido.Message``), or seconds to wait (float). Raises ``ValueError`` with the line's
    number for what makes no sense."""
    down: set[int] = set()
    for number, line in enumerate(lines, 1):
        words = line.split()
        if not words or words[0].startswith("#"):
            continue
        try:
            yield from _line(words[0], words[1:], down)
        except ValueError as error:
            raise ValueError(f"line {number}: {error}") from None


def _line(verb: str, rest: list[str], down: set[int]) -> Iterator[Any]:
    if verb == "wait":
        yield min(_LONGEST_WAIT_S, max(0.0, float(rest[0] if rest else "0")))
    elif verb == "pedal" and rest in (["down"], ["up"]):
        yield mido.Message("control_change", control=64, value=127 if rest == ["down"] else 0)
    elif verb == "down":
        hard = int(rest.pop().removeprefix("*")) if rest and rest[-1].startswith("*") else _VELOCITY
        for key in map(_key, rest):
            down.add(key)
            yield mido.Message("note_on", note=key, velocity=hard)
    elif verb == "up":
        for key in map(_key, rest) if rest else sorted(down):
            yield mido.Message("note_off", note=key)
        down -= set(map(_key, rest)) if rest else set(down)
    else:
        raise ValueError(f"{verb!r} is none of down, up, pedal, wait")


def _key(word: str) -> int:
    if word.isascii() and word.isdigit() and int(word) in MIDI_KEYS:
        return int(word)
    pitch = read_pitch(word)
    if pitch is None:
        raise ValueError(f"{word!r} is no note")
    return pitch.key


def main() -> int:
    """Play what standard input says; 2 for what makes no sense, 1 where nobody listens."""
    port = int(sys.argv[1]) if len(sys.argv) > 1 else FIRST_PORT
    try:
        keyboard = connect(LOCAL_HOST, port)
    except OSError as error:
        print(f"port {port}: nobody listens there ({error.strerror}): choose the simulated keyboard in the "
              "window first", file=sys.stderr)  # fmt: skip
        return 1
    try:
        for message in messages(sys.stdin):
            if isinstance(message, float):
                time.sleep(message)
            else:
                keyboard.send(message)
    except ValueError as error:
        print(error, file=sys.stderr)
        return 2
    finally:
        keyboard.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
