"""Project files, unknown fields, and writing that never leaves half a file."""

from __future__ import annotations

import errno
import json
import os
from dataclasses import replace
from pathlib import Path

import pytest

from conftest import FERRY
from yellow_hinge.errors import BadInput, FileTrouble
from yellow_hinge.formats import project_file
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.files import read_bytes, write_atomically
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import set_lock
from yellow_hinge.song.model import Settings, Song
from yellow_hinge.tasks.files import DEMO_SONGS, demo_song, open_song, save_song
from yellow_hinge.tasks.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()


@pytest.fixture(scope="module")
def song() -> Song:
    settings = Settings("band", 1, "bassist", HandProfile().with_reach(10, 9))
    return set_lock(
        voice_song(replace(parse_chart(FERRY), settings=settings), LIBRARY, Planner(LIBRARY)).song, 2, True
    )


def test_a_project_reads_back_as_it_was(song: Song) -> None:
    assert project_file.read(project_file.write(song)).song == song


def test_a_song_without_text_gets_one(song: Song) -> None:
    again = project_file.read(project_file.write(replace(song, chart=""))).song
    assert again.slots == song.slots and again.choices == song.choices


def test_unknown_fields_are_kept_where_they_stood(song: Song) -> None:
    raw = json.loads(project_file.write(song))
    raw["later"] = {"x": [1]}
    raw["settings"]["hands"]["glove"] = "wool"
    again = json.loads(project_file.write(project_file.read(json.dumps(raw).encode()).song))
    assert again == raw


def test_unfinished_songs_can_be_kept() -> None:
    bare = parse_chart(FERRY)
    assert project_file.read(project_file.write(bare)).song.choices == ()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda raw: raw.update(schema="yellow-hinge/project/99"), "newer version"),
        (lambda raw: raw.update(schema="other"), "schema"),
        (lambda raw: raw.pop("schema"), "schema"),
        (lambda raw: raw.pop("chart"), "chart"),
        (lambda raw: raw.update(chart="| H |"), "note letter"),
        (lambda raw: raw["settings"]["hands"]["left"].update(reach_mm=9000), "reach_mm"),
        (lambda raw: raw["settings"]["hands"]["left"].update(most_notes=9), "most_notes"),
        (lambda raw: raw["settings"]["hands"]["left"].update(lowest_key=100), "ascend"),
        (lambda raw: raw["settings"]["hands"].update(octave_mm=1), "octave_mm"),
        (lambda raw: raw["settings"].update(bass="drummer"), "bass"),
        (lambda raw: raw["choices"][0]["left"].update(keys=[60, 50]), "ascending"),
        (lambda raw: raw["choices"][0]["left"].update(degrees=["Q"] * 4), "degrees"),
    ],
)
def test_damaged_projects_name_the_field(song: Song, change: object, words: str) -> None:
    raw = json.loads(project_file.write(song))
    change(raw)  # type: ignore[operator]
    with pytest.raises(BadInput) as caught:
        project_file.read(json.dumps(raw).encode(), "x.yhinge")
    assert words in str(caught.value)


@pytest.mark.parametrize("data", [b"", b"[]", b"\x00\xff", b"[" * 100_000, b"{"])
def test_what_is_no_project_is_refused(data: bytes) -> None:
    with pytest.raises(BadInput):
        project_file.read(data)


def test_surplus_voicings_are_left_out_with_a_remark(song: Song) -> None:
    raw = json.loads(project_file.write(song))
    raw["choices"] += [None, None]
    imported = project_file.read(json.dumps(raw).encode())
    assert imported.problems and len(imported.song.choices) == len(song.slots)


# --- the disk ---


def test_a_full_disk_leaves_the_old_file(song: Song, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "song.yhinge"
    save_song(song, path, LIBRARY)
    before = path.read_bytes()

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileTrouble) as caught:
        save_song(replace(song, tempo=60), path, LIBRARY)
    assert "no space left" in str(caught.value)
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


def test_a_folder_that_may_not_be_written(song: Song, tmp_path: Path) -> None:
    with pytest.raises(FileTrouble):
        save_song(song, tmp_path / "missing" / "song.yhinge", LIBRARY)
    with pytest.raises(FileTrouble):
        write_atomically(Path("/proc/song.yhinge"), b"x")


def test_rights_of_the_old_file_are_kept(tmp_path: Path) -> None:
    path = tmp_path / "x"
    write_atomically(path, b"1")
    path.chmod(0o640)
    write_atomically(path, b"2")
    assert path.stat().st_mode & 0o777 == 0o640 and path.read_bytes() == b"2"


def test_reading_what_is_not_there_or_too_large(tmp_path: Path) -> None:
    with pytest.raises(FileTrouble):
        read_bytes(tmp_path / "nothing", 10)
    (tmp_path / "big").write_bytes(b"x" * 11)
    with pytest.raises(FileTrouble):
        read_bytes(tmp_path / "big", 10)


def test_every_format_opens_by_its_suffix(song: Song, tmp_path: Path) -> None:
    for suffix in (".yhinge", ".txt", ".musicxml"):
        path = tmp_path / f"song{suffix}"
        save_song(song, path, LIBRARY)
        assert [str(s.chord) for s in open_song(path).song.slots] == [str(s.chord) for s in song.slots]
    with pytest.raises(BadInput):
        save_song(song, tmp_path / "song.odd", LIBRARY)


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_demo_songs_ship_solved_and_still_are(name: str) -> None:
    """What ships is what the engine finds today; run tools/make_demo.py after a change."""
    song = demo_song(name)
    assert song.solved
    assert any(bar.melody for _, _, bar in song.bars_in_order)
    assert voice_song(song, LIBRARY, Planner(LIBRARY)).song == song
