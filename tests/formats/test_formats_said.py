"""Small files of every format and what they become, and what our songs become in every format: held against
tables, so that each limit, default and condition of a reader or a writer has its row."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections import Counter
from collections.abc import Callable
from functools import lru_cache
from hashlib import blake2b

import mido
import pytest

from conftest import cases
from constants import numbers_of
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import chart_text
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import BY_SUFFIX, decode, encode
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
LINES = """title: Wet Rope
composer: A. Nobody
key: Bb
meter: 6/8
tempo: 74
[Haul] x2
| Bbmaj7 | Gm7:3 C7:3 | F7sus4 | N.C. |
melody: D5:3 F5:3 | r:6 | Eb5:6 | r:6
lyrics: pull it | - | home | -
[End]
| Bb/D | Edim7 | F7b9 | Bb6 |
line: r:6 | E5:2 G5:1 r:3 | F5:6 | D5:6
"""


def told(song: Song) -> str:
    """The chart as text, in one line."""
    text = chart_text.write(song.chart).decode().rstrip("\n")
    return re.sub(r"\n+", " ; ", text)


def reading(suffix: str, text: str) -> str:
    """What a small file becomes, and what is said of it; or why it is refused."""
    try:
        opened = decode(text.replace(" ; ", "\n").encode(), suffix, "it")
    except BadInput as error:
        return "refused: " + " / ".join(f"{one.place}: {one.what}" for one in error.problems)
    notes = " / ".join(f"{one.place}: {one.what}" for one in opened.problems)
    return f"{told(opened.song)} | {notes or '-'}"


@lru_cache(maxsize=8)
def song_named(name: str) -> Song:
    if name == "wet-rope":
        return voice_song(Song(chart_text.parse_chart(LINES)), LIBRARY, Planner(LIBRARY)).song
    return demo_song(name)


def writing(name: str, suffix: str) -> str:
    """How long the file is, what it is made of, and what comes back from it."""
    song = song_named(name)
    data = encode(song, suffix, LIBRARY)
    kind = BY_SUFFIX[suffix]
    if kind.read is None:
        return made_of(suffix, data)
    back = decode(data, suffix, "it")
    same = "the same chart" if told(back.song) == told(song) else fingerprint(told(back.song).encode())
    voiced = sum(back.song.voicing(slot.index) is not None for slot in back.song.slots)
    return f"{made_of(suffix, data)} | back: {len(back.song.slots)} chords, {voiced} voiced, {same}"


def made_of(suffix: str, data: bytes) -> str:
    if suffix == ".mid":
        tracks = mido.MidiFile(file=io.BytesIO(data)).tracks
        kinds = Counter(f"{n}:{message.type}" for n, track in enumerate(tracks) for message in track)
        return f"{' '.join(f'{name}={count}' for name, count in sorted(kinds.items()))} {fingerprint(data)}"
    if suffix == ".mxl":
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            score = max(packed.infolist(), key=lambda item: item.file_size)
            return " ".join(sorted(packed.namelist())) + " " + made_of(".musicxml", packed.read(score))
    if suffix == ".musicxml":
        plain = re.sub(rb"<(encoding-date|software)>[^<]*<", rb"<\1><", data)
        tags = Counter(re.findall(r"<([a-z-]+)", plain.decode()))
        most = " ".join(
            f"{tag}={tags[tag]}" for tag in ("measure", "note", "harmony", "rest", "tie", "lyric")
        )
        return f"{most} {len(tags)} kinds {fingerprint(plain)}"
    if suffix == ".csv":
        rows = list(csv.reader(io.StringIO(data.decode())))
        return f"{len(rows)} rows of {len(rows[0])} {fingerprint(data)}"
    text = data.decode()
    return f"{len(text.splitlines())} lines {len(text.split())} words {fingerprint(data)}"


def fingerprint(data: bytes) -> str:
    return blake2b(data, digest_size=4).hexdigest()


TABLES: dict[str, tuple[Callable[..., str], int]] = {"readings": (reading, 2), "writings": (writing, 2)}


@pytest.mark.parametrize(("name", "case", "wanted"), cases("formats", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("formats")
    assert {name: now.get(name) for name in decided} == decided != {}
