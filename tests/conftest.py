"""Shared fixtures: the library of recipes and a small chart."""

from __future__ import annotations

import gc
import os
import subprocess
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from uuid import uuid4

import pytest
from hypothesis import settings

from yellow_hinge.voicing.recipes import Library, builtin_library

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# Speed is measured elsewhere, on a quiet machine. The same examples each time, so that what passes here
# passes for everybody; HYPOTHESIS_PROFILE=searching looks for new ones.
settings.register_profile("same", deadline=None, derandomize=True)
settings.register_profile("searching", deadline=None, print_blob=True)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))

DATA = Path(__file__).parent / "data"
#: A table, what is asked, what is said.
Case = tuple[str, list[str], str]
FERRY = """# a small chart
title: Lantern Ferry
key: A
meter: 3/4
tempo: 84
[Verse]
| Aadd9 | C#m11 | Dmaj9:2 E9sus:1 | F#m7 | % |
melody: C#5:2 B4:1 | E5:3 | F#5:1 E5:2
[End] x2
| Bm7 E7 | Amaj7 |
"""


def pytest_configure(config: pytest.Config) -> None:
    """For the tests on a real window each process has a display of its own: of two windows that ask
    for the keyboard on one display, one would not get it."""
    if os.environ["QT_QPA_PLATFORM"] != "xcb" or (config.option.numprocesses and not _is_worker(config)):
        return
    reading, writing = os.pipe()
    screen = ("Xvfb", "-displayfd", str(writing), "-screen", "0", "1400x900x24", "-nolisten", "tcp")
    server = subprocess.Popen(screen, pass_fds=[writing], stderr=subprocess.DEVNULL)
    config.add_cleanup(lambda: _ended(server))
    os.close(writing)
    with os.fdopen(reading) as number:
        os.environ["DISPLAY"] = f":{int(number.readline())}"


def pytest_collection_finish() -> None:
    """As the program does it: the collector of rubbish goes no more through what stays to the end."""
    gc.freeze()
    gc.set_threshold(2000, 20, 100)


def _ended(server: subprocess.Popen[bytes]) -> None:
    server.terminate()
    server.wait()


def _is_worker(config: pytest.Config) -> bool:
    return hasattr(config, "workerinput")


@pytest.fixture(autouse=True)
def _own_state(monkeypatch: pytest.MonkeyPatch, tmp_path_factory: pytest.TempPathFactory) -> None:
    """No test reads or writes what the player's own runs left."""
    for name in ("STATE", "CONFIG", "DATA"):
        place = tmp_path_factory.getbasetemp() / name.lower() / uuid4().hex[:8]
        monkeypatch.setenv(f"XDG_{name}_HOME", str(place))


@pytest.fixture(scope="session")
def library() -> Library:
    return builtin_library()


@pytest.fixture
def ferry() -> str:
    return FERRY


def cases(room: str, tables: Mapping[str, tuple[Callable[..., str], int]]) -> list[Case]:
    """The rows of a room's tables: which one, what is asked, and what is said to it. ``tables``: what says
    it, and how many columns it asks for."""
    return [
        (name, words[:count], "\t".join(words[count:]))
        for name, (_, count) in tables.items()
        for words in table(f"{room}/{name}.tsv")
    ]


def table(name: str) -> Iterator[list[str]]:
    """The rows of a table in ``tests/data``; what begins with # is a heading."""
    for line in (DATA / name).read_text("utf-8").splitlines():
        if not line.startswith("#"):
            yield line.split("\t")
