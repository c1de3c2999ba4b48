"""Practice on the command line, the shelf and the settings."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path
from typing import Any

import pytest

from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import project_file
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import edit_chart
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.tasks.practice.shelf import (
    MOST_SONGS,
    added,
    keep_shelf,
    moved,
    read_shelf,
    shelf_path,
    songs_on,
)
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import builtin_library

CHART = """title: Loose Shackle
key: G
tempo: 96
[A]
| Gmaj7 | E7b9 | Am9 | D13 |
| Bm7 | Em7 | Am7 D7 | G6 |
"""
OTHER = "title: Wet Deck\nkey: Eb\ntempo: 260\n[A]\n| Ebmaj9 | Cm9 | Fm9 | Bb13 |\n"


@pytest.fixture(autouse=True)
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HOME", str(tmp_path / "home"))
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
        monkeypatch.delenv(name, raising=False)


@pytest.fixture
def charts(tmp_path: Path) -> list[str]:
    found = []
    for number, text in enumerate((CHART, OTHER)):
        path = tmp_path / f"{number}.txt"
        path.write_text(text)
        found.append(str(path))
    return found


def answer(capsys: pytest.CaptureFixture[str], *arguments: str) -> Any:
    assert run(["practice", *arguments, "--json"]) == 0
    return json.loads(capsys.readouterr().out)


def test_a_plan_keeps_the_contract(charts: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "plan", charts[0], "--minutes", "25")
    assert set(report) == {"minutes", "blocks"} and report["minutes"] == 25
    assert sum(block["minutes"] for block in report["blocks"]) == pytest.approx(25, abs=0.01)
    for block in report["blocks"]:
        assert set(block) == {"drill", "what", "hands", "from_tempo", "to_tempo", "minutes", "why"}
        assert isinstance(block["from_tempo"], int) and block["from_tempo"] <= block["to_tempo"] <= 96
        assert block["drill"] in {"change", "spots", "chain", "section", "song", "rest"}
        assert block["hands"] in {"both", "left", "right", "none"} and block["why"]
    assert not log_path().exists()  # planning writes nothing


def test_a_plan_runs_over_the_shelf_and_ahead(charts: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "plan", *charts, "--days", "3")
    words = " ".join(block["what"] for block in report["blocks"])
    assert "Loose Shackle" in words and "Wet Deck" in words
    assert [day["day"] for day in report["days"]] == [1, 2, 3] and report["days"][0]["blocks"] == report[
        "blocks"
    ]
    songs = answer(capsys, "plan", *charts, "--order", "song")["blocks"]
    assert [block["what"] for block in songs if block["drill"] == "song"] == [
        "Loose Shackle, whole",
        "Wet Deck, whole",
    ]
    assert run(["practice", "plan", *charts, "--apart"]) == 0
    shown = capsys.readouterr().out
    assert "left hand" in shown and "Stop at pain" in shown


def test_a_simulated_player_is_the_same_every_time(
    charts: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    wanted = ("simulate", charts[0], "--minutes", "6", "--days", "6")
    assert answer(capsys, *wanted, "--seed", "0") != answer(capsys, *wanted, "--seed", "1")
    one, again = answer(capsys, *wanted, "--seed", "5"), answer(capsys, *wanted, "--seed", "5")
    assert one == again != answer(capsys, *wanted, "--seed", "6")
    assert [day["day"] for day in one["days"]] == list(range(1, 7))
    for day in one["days"]:
        assert set(day) == {"day", "minutes", "worst", "mean"} and day["minutes"] == 6
        assert 0 < day["mean"] <= day["worst"] < 1
    assert one["days"][-1]["mean"] < one["days"][0]["mean"]
    song = answer(capsys, *wanted, "--seed", "5", "--order", "song")
    assert song != one and len(song["days"]) == 6


def test_what_was_simulated_is_in_the_log_it_was_given(
    charts: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = str(tmp_path / "deep" / "log.sqlite")
    before = answer(capsys, "plan", charts[0], "--log", log)
    assert not Path(log).exists()
    answer(capsys, "simulate", charts[0], "--days", "4", "--minutes", "10", "--log", log)
    report = answer(capsys, "log", charts[0], "--log", log)
    assert len(report["tries"]) > 50 and {row["title"] for row in report["tries"]} == {"Loose Shackle"}
    assert sum(row["tries"] for row in report["changes"]) == len(report["tries"])
    assert all(0 < row["slip"] < 1 for row in report["changes"]) and report["weeks"]
    after = answer(capsys, "plan", charts[0], "--log", log)
    assert after != before and any(
        "due" in block["why"] or "slips" in block["why"] for block in after["blocks"]
    )
    assert run(["practice", "log", charts[0], "--log", log, "--csv"]) == 0
    rows = list(csv.DictReader(io.StringIO(capsys.readouterr().out)))
    assert len(rows) == len(report["tries"]) and rows[0]["song"] == report["tries"][0]["song"]
    for songs, count in ((charts[1:2], 0), ([], len(rows))):  # of the songs that are named, else of all
        assert run(["practice", "log", *songs, "--log", log, "--csv"]) == 0
        assert len(list(csv.DictReader(io.StringIO(capsys.readouterr().out)))) == count
    assert run(["practice", "log", charts[1], "--log", log]) == 0 and "0 tries" in capsys.readouterr().out
    assert run(["practice", "log", charts[0], "--log", log, "--forget"]) == 0
    assert capsys.readouterr().out == f"{len(rows)} tries deleted\n"
    assert answer(capsys, "log", charts[0], "--log", log)["tries"] == []
    assert answer(capsys, "plan", charts[0], "--log", log) == before


@pytest.mark.parametrize(
    ("grips", "changes"),
    [
        ("Cm9: C3 G3 ;\nF7: F2 C3 ;\n", 1),  # the left hand alone
        ("Cm9: ; Eb4 G4 Bb4 D5\nF7: ; Eb4 A4 C5\n", 1),
        ("Cm9: C3 G3 ;\nF7: ; Eb4 A4 C5\n", 1),  # from hand to hand
        ("Cm9: C3 G3 ; Eb4 G4\n", 0),  # one chord: no change at all
    ],
)
@pytest.mark.parametrize("apart", [(), ("--apart",)])
def test_songs_of_one_hand_and_of_one_chord_are_practised(
    grips: str, changes: int, apart: tuple[str, ...], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "row.grips"
    path.write_text(grips)
    blocks = answer(capsys, "plan", str(path), *apart)["blocks"]
    assert {block["hands"] for block in blocks if block["drill"] != "rest"} == (
        {"both"} if changes else set()
    )
    days = answer(capsys, "simulate", str(path), "--days", "2")["days"]
    assert len(days) == 2 and (days[0]["worst"] > 0) is (changes > 0)


def test_an_empty_log_is_said(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["practice", "log"]) == 0
    assert capsys.readouterr().out == "Nothing has been practised yet.\n"
    report = answer(capsys, "log")
    week = report["weeks"].pop()
    assert report == {"tries": [], "changes": [], "weeks": []}
    assert (week["minutes"], week["tries"], week["tempo"]) == (0, 0, 0)


@pytest.mark.parametrize(
    ("arguments", "place"),
    [
        (("plan", "{0}", "--minutes", "nan"), "--minutes"),
        (("plan", "{0}", "--minutes", "0.5"), "--minutes"),
        (("plan", "{0}", "--minutes", "1e9"), "--minutes"),
        (("simulate", "{0}", "--days", "0"), "--days"),
        (("simulate", "{0}", "--days", "4000"), "--days"),
        (("simulate", "{0}", "--seed", "-1"), "--seed"),
        (("log", "--forget"), "--forget"),
        (("plan", "missing.txt"), "missing.txt"),
        (("plan",), "yellow-hinge practice plan"),
        (("dance",), "yellow-hinge practice"),
        ((), "yellow-hinge practice"),
    ],
)
def test_bad_input_is_said_with_its_place(
    charts: list[str], capsys: pytest.CaptureFixture[str], arguments: tuple[str, ...], place: str
) -> None:
    assert run(["practice", *(one.format(*charts) for one in arguments)]) == 2
    captured = capsys.readouterr()
    assert place in captured.err and captured.err.count(": ") >= 2 and captured.out == ""


def test_a_broken_log_is_set_aside_and_said(
    charts: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = tmp_path / "log.sqlite"
    log.write_bytes(b"nothing of the kind " * 99)
    assert run(["practice", "plan", charts[0], "--log", str(log)]) == 0
    assert "it was set aside as log damaged 1.sqlite" in capsys.readouterr().err
    assert (tmp_path / "log damaged 1.sqlite").read_bytes().startswith(b"nothing")
    assert run(["practice", "plan", charts[0], "--log", str(log)]) == 0
    assert capsys.readouterr().err == ""


# --- the song's id --------------------------------------------------------------------------------


def test_a_song_keeps_its_id_through_edits_keys_and_files() -> None:
    song = Song(parse_chart(CHART))
    assert Song(parse_chart(CHART)).own_id == song.own_id != Song(parse_chart(OTHER)).own_id
    other = Song(parse_chart(CHART.replace("| Bm7", "| B7")))
    assert other.own_id == song.own_id  # by its title
    renamed = edit_chart(song, parse_chart(CHART.replace("Loose Shackle", "Tight Shackle"))).song
    assert renamed.title == "Tight Shackle" and renamed.own_id == song.own_id
    assert to_key(song, parse_key("B")).song.own_id == song.own_id
    back = project_file.read(project_file.write(renamed)).song
    assert back.own_id == song.own_id and back.id
    nameless = [Song(parse_chart(f"key: C\n[A]\n| {chord} |\n")) for chord in ("C", "F")]
    assert nameless[0].own_id != nameless[1].own_id
    assert edit_chart(nameless[0], parse_chart("key: C\n[A]\n| C | G |\n")).song.own_id == nameless[0].own_id


@pytest.mark.parametrize("name", ['"a\\u0000b"', '"' + "x" * 65 + '"', "7"])
def test_an_id_that_is_none_is_refused(name: str) -> None:
    text = project_file.write(Song(parse_chart(CHART))).decode()
    own = json.loads(text)["id"]
    with pytest.raises(BadInput):
        project_file.read(text.replace(f'"id": "{own}"', f'"id": {name}').encode())


# --- the shelf and the settings -------------------------------------------------------------------


def test_the_shelf_is_kept_in_its_order(charts: list[str], tmp_path: Path) -> None:
    assert read_shelf() == []
    files = added(added([], Path(charts[0])), Path(charts[1]))
    assert added(files, Path(charts[0])) == files
    keep_shelf(moved(files, 1, -1))
    assert read_shelf() == [Path(charts[1]), Path(charts[0])]
    assert moved(files, 0, -1) == files and moved(files, 1, 5) == files
    with pytest.raises(BadInput, match=f"{MOST_SONGS} songs"):
        added([tmp_path / str(k) for k in range(MOST_SONGS)], Path(charts[0]))
    for text in ("{", '{"a": 1}', "[1]", "[" * 5000):
        shelf_path().write_text(text)
        with pytest.raises(BadInput, match="no list of files"):
            read_shelf()


def test_songs_on_the_shelf_are_voiced_and_what_is_wrong_is_said(charts: list[str], tmp_path: Path) -> None:
    broken = tmp_path / "broken.txt"
    broken.write_text("key: H\n| Hm |")
    found = songs_on(
        [Path(charts[0]), broken, tmp_path / "gone.txt"], builtin_library(), Planner(builtin_library())
    )
    assert found[0].song is not None and found[0].song.solved and not found[0].problems
    assert found[1].song is None and found[2].song is None and found[1].problems and found[2].problems


def test_settings_are_kept_and_bad_ones_are_said() -> None:
    assert Settings.read() == (Settings(), ())
    Settings(minutes=35, way="time", latency_ms=42, again_key=21).keep()
    assert Settings.read() == (Settings(minutes=35, way="time", latency_ms=42, again_key=21), ())
    for text in (
        "",
        "{",
        '{"way": "dance"}',
        '{"minutes": 0}',
        '{"late_ms": 5}',
        '{"step": "x"}',
        "[" * 9999,
    ):
        Settings.path().write_text(text)
        settings, problems = Settings.read()
        assert settings == Settings() and problems[0].place == str(Settings.path()), text
        assert Settings.path().read_text() == text
