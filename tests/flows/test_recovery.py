"""Copies of what is unsaved: written whole, found when their process is gone, said in words."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from textwrap import dedent
from typing import Any

import pytest
from msgspec.structs import replace

from made import song_of
from yellow_hinge.errors import FileTrouble
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.arrangement import Arrangement, Ask, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import choose, edit_chart, with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files import recovery
from yellow_hinge.tasks.files.opening import Unsaved, save_song
from yellow_hinge.tasks.files.recovery import Keeper, discard, find, recovery_folder
from yellow_hinge.tasks.settings import mistakes
from yellow_hinge.tasks.settings.state_folder import MOST_FOLDERS, clean_up, folders, remember, state_folder
from yellow_hinge.tasks.song.differences import WORDS, difference
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing

LEFT_BEHIND = dedent("""
    import os, signal, sys
    from pathlib import Path
    from yellow_hinge.formats.chart_text import parse_chart
    from yellow_hinge.song.model import Song
    from yellow_hinge.tasks.files.opening import Unsaved
    from yellow_hinge.tasks.files.recovery import Keeper
    for title in sys.argv[1:]:
        Keeper().keep(Unsaved(Song(parse_chart(f"title: {title}\\n| C | F |")), "| C | Qx |"))
    os.kill(os.getpid(), signal.SIGKILL)
""")


def leave_behind(*titles: str) -> None:
    """A process that keeps a copy for each title and is killed."""
    done = subprocess.run([sys.executable, "-c", LEFT_BEHIND, *titles], check=False)
    assert done.returncode == -9


def test_what_a_killed_process_kept_is_found_and_nothing_else() -> None:
    assert find() == []
    leave_behind("Kelp", "Brine")
    mine = Keeper()
    mine.keep(Unsaved(song_of("title: Living\n| C |")))
    found = find()
    assert {one.unsaved.song.title for one in found} == {"Kelp", "Brine"}
    assert all(one.unsaved.draft == "| C | Qx |" for one in found)
    assert "never saved, 2 bars, text with 1 place to mend" in found[0].words
    discard(found[0])
    assert len(find()) == 1 and mine.copy.exists()
    mine.drop()
    assert sorted(one.suffix for one in recovery_folder().iterdir()) == [".copy", ".lock"]


def test_dropping_leaves_nothing_and_keeping_goes_on_after() -> None:
    keeper = Keeper()
    keeper.drop()
    keeper.keep(Unsaved(song_of("| C |")))
    keeper.drop()
    assert list(recovery_folder().iterdir()) == []
    keeper.keep(Unsaved(song_of("| C | F |")))
    assert keeper.copy.exists() and find() == []
    keeper.drop()


def test_a_copy_that_holds_no_more_than_its_file_goes(tmp_path: Path, library: Library) -> None:
    song, path = song_of("title: T\n| C | F |"), tmp_path / "t.yhinge"
    digest = save_song(song, path, library)
    keeper = Keeper()
    keeper.keep(Unsaved(song, None, path, digest))
    assert keeper._lock is not None
    _die(keeper)
    assert find() == [] and not keeper.copy.exists()

    other = edit_chart(song, parse_chart("title: T\n| C | G | Am |")).song
    keeper = Keeper()
    keeper.keep(Unsaved(other, None, path, digest))
    _die(keeper)
    [found] = find()
    assert found.difference == "2 chords new, 1 chord gone" and found.unsaved.path == path
    assert found.unsaved.digest == digest and found.unsaved.song == other


def _die(keeper: Keeper) -> None:
    """What the system does when a process ends: its locks go, its files stay."""
    assert keeper._lock is not None
    os.close(keeper._lock)
    keeper._lock = None


@pytest.mark.parametrize(
    "data",
    [b"", b"{}", b"[" * 5000, b'{"schema": "x"}', b'{"saved": 5, "project": {}, "path": null}', b"\xff"],
)
def test_what_is_no_copy_is_left_alone(data: bytes) -> None:
    recovery_folder().mkdir(parents=True)
    file = recovery_folder() / "x.copy"
    file.write_bytes(data)
    assert find() == [] and file.read_bytes() == data


def test_a_folder_that_cannot_be_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with pytest.raises(FileTrouble) as caught:
        Keeper(tmp_path / "file" / "below").keep(Unsaved(song_of("| C |")))
    assert "no recovery copies" in caught.value.problems[0].what
    assert find(tmp_path / "file" / "below") == []


# --- differences ---


def test_every_field_of_an_arrangement_has_words() -> None:
    assert set(Arrangement.__struct_fields__) == set(WORDS)


CHANGED: dict[str, tuple[Any, str]] = {
    "school": ("trio", "the school"), "colour": (3, "the colour"), "bass": ("bassist", "who has the bass"),
    "melody": ("top", "what the tune means"), "hands": ("left", "which hands play"),
    "inverted": (True, "inverted basses"), "loop": (True, "the way back"),
    "prices": (OwnPrices({"enter": 0.5}), "whose taste it is voiced with"),
    "levels": ((("mud", 1),), "what matters"), "rules_off": (("tritone",), "rules switched off"),
    "tastes": ({"": Taste(colour=1), "B": Taste(colour=2)}, "2 sections with wishes"),
    "asks": ({At(0): Ask(Taste(colour=1))}, "1 chord with wishes"),
    "keys_set": ({0: parse_key("F")}, "1 local key"),
    "untouched": (frozenset({0, 1}), "2 chords kept as they are"),
}  # fmt: skip


def test_what_a_search_chose_is_no_decision() -> None:
    before = song_of("| C | F |")
    grip = Voicing(HandShape((48,), ("R",), ""), HandShape((64, 67), ("3", "5"), ""))
    for locked, words in ((False, ""), (True, "1 own grip")):
        assert difference(before, choose(before, 0, grip, locked).song) == words


@pytest.mark.parametrize("name", CHANGED)
def test_a_change_is_said_in_words(name: str) -> None:
    before = song_of("| C | F |")
    value, words = CHANGED[name]
    after = with_arrangement(before, 0, replace(before.take_of(0).arrangement, **{name: value}))
    assert difference(before, after) == words
    assert difference(before, before) == ""


def test_differences_of_the_whole_song() -> None:
    before = song_of("| C | F |")
    assert difference(before, replace(before, hands=replace(before.hands, roll=True))) == "the hands"
    assert difference(before, edit_chart(before, parse_chart("tempo: 90\n| C | F |")).song) == (
        "the text around the chords"
    )
    assert difference(before, before, "| C | F | G |") == "text not read yet"
    assert difference(None, Song()) == "never saved, 0 bars"


# --- the state folder and the log ---


def test_folders_are_remembered_the_latest_first(tmp_path: Path) -> None:
    for number in range(MOST_FOLDERS + 5):
        remember(tmp_path / str(number))
    remember(tmp_path / "20")
    assert folders()[:2] == [tmp_path / "20", tmp_path / "24"] and len(folders()) == MOST_FOLDERS


def test_strays_go_wherever_we_wrote(tmp_path: Path) -> None:
    stray, young, other = (
        tmp_path / name for name in (".yellow-hinge-a.tmp", ".yellow-hinge-b.tmp", "c.tmp")
    )
    for file in (stray, young, other):
        file.write_text("x")
    os.utime(stray, (0, 0))
    remember(tmp_path)
    clean_up()
    assert sorted(one.name for one in tmp_path.iterdir() if one.is_file()) == [".yellow-hinge-b.tmp", "c.tmp"]


def test_a_mistake_is_written_down_and_the_log_turns_over() -> None:
    try:
        raise RuntimeError("a wrong turn")
    except RuntimeError as error:
        said = mistakes.record(error, "search")
    problem = said.problems[0]
    assert "our mistake" in problem.what and str(mistakes.log_path()) in problem.remedy
    text = mistakes.log_path().read_text()
    assert "a wrong turn" in text and "test_recovery.py" in text and "Python 3" in text
    for _ in range(30):
        mistakes.note("x" * 60_000)
    sizes = [one.stat().st_size for one in state_folder().glob("mistakes.log*")]
    assert len(sizes) == 4 and max(sizes) < 600_000


def test_no_log_is_no_second_mistake(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "file"))
    assert mistakes.record(ValueError("x"), "search").problems
    remember(tmp_path)
    assert folders() == [] and recovery.find() == []


def test_a_copy_is_one_whole_json_value() -> None:
    keeper = Keeper()
    keeper.keep(Unsaved(song_of("title: \u00dcber\n| C |"), "draft \u2028 x", Path("/a/\udcff.yhinge")))
    value = json.loads(keeper.copy.read_bytes())
    assert value["schema"] == recovery.SCHEMA and value["project"]["draft"] == "draft \u2028 x"
    keeper.drop()
