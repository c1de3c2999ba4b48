"""The log survives kills, other windows and older versions, and keeps out what it does not know."""

from __future__ import annotations

import csv
import io
import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest

from yellow_hinge.errors import BadInput, FileTrouble
from yellow_hinge.practice.log import UPGRADES, VERSION, Done, Log, Try, as_rows
from yellow_hinge.practice.piece import ChangeId
from yellow_hinge.song.at import At
from yellow_hinge.tasks.practice.desk import log_csv

NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)
CHANGE = ChangeId("abc", 0, At(3), At(4, 1), "F")


def a_try(number: int = 0, song: str = "abc", clean: bool = True) -> Try:
    change = ChangeId(song, 0, At(3), At(4, 1), "F")
    return Try(
        NOON + timedelta(seconds=number), change, "both", "change", 96.5, 0.75, clean, f'no, {number}\n"x"'
    )


def test_what_is_written_is_read_again(tmp_path: Path) -> None:
    log = Log(tmp_path / "deep" / "log.sqlite")
    rows = [a_try(k, clean=k % 2 == 0) for k in range(5)]
    log.add(rows, [("abc", "Tar Barrel")])
    log.add([a_try(9, "other")])
    assert log.tries(["abc"]) == rows and len(log.tries()) == 6 and log.tries([]) == []
    log.close()
    again = Log(log.path)
    assert again.tries(["abc"]) == rows and again.titles() == {"abc": "Tar Barrel"}
    again.add([], [("abc", "Tar Barrel II")])
    assert again.titles() == {"abc": "Tar Barrel II"}
    again.close()


def test_a_session_is_found_again_until_it_is_ended(tmp_path: Path) -> None:
    log = Log(tmp_path / "log.sqlite")
    assert log.unfinished(NOON) is None
    first = log.begin(NOON, 20, ["abc"], [{"what": "x"}, {"what": "y"}])
    log.finish(first, Done(0, NOON, 2.5, 84))
    found = log.unfinished(NOON + timedelta(hours=3))
    assert found is not None and found.id == first and found.done == (Done(0, NOON, 2.5, 84),)
    assert found.blocks == ({"what": "x"}, {"what": "y"}) and found.songs == ("abc",) and found.minutes == 20
    assert log.unfinished(NOON + timedelta(days=1)) is None
    log.end(first, NOON)
    assert log.unfinished(NOON) is None and len(log.sessions()) == 1
    log.close()


def test_a_song_can_be_forgotten_for_good(tmp_path: Path) -> None:
    log = Log(tmp_path / "log.sqlite")
    log.add([a_try(k, "secretsong") for k in range(50)], [("secretsong", "Hidden")])
    log.add([a_try(0)], [("abc", "Tar Barrel")])
    number = log.begin(NOON, 20, ["secretsong", "abc"], [])
    log.finish(number, Done(0, NOON, 1, 0))
    log.begin(NOON, 20, ["abc"], [])
    assert log.forget("secretsong") == 50
    assert len(log.tries()) == 1 and log.titles() == {"abc": "Tar Barrel"} and len(log.sessions()) == 1
    log.close()
    left = b"".join(path.read_bytes() for path in tmp_path.iterdir())
    assert b"secretsong" not in left and b"abc" in left
    with closing(Log(log.path)) as again:
        assert again.forget() == 1 and again.tries() == []


WRITER = """
import sys
from datetime import datetime, UTC
from pathlib import Path
from yellow_hinge.practice.log import Log, Try, Done
from yellow_hinge.practice.piece import ChangeId
from yellow_hinge.song.at import At
log, name = Log(Path(sys.argv[1])), sys.argv[2]
session = log.begin(datetime.now(UTC), 20, [name], [{"what": name}])
for number in range(100000):
    change = ChangeId(name, 0, At(number), At(number + 1), "C")
    log.add([Try(datetime.now(UTC), change, "both", "change", 90, 1.0, True, "w" * 300)] * 2)
    print(number, flush=True)
"""


def _writing(path: Path, name: str) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "-c", WRITER, str(path), name], stdout=subprocess.PIPE, text=True
    )


@pytest.mark.parametrize("moment", [0.0, 0.02, 0.11, 0.3])
def test_it_survives_a_kill_at_any_moment(tmp_path: Path, moment: float) -> None:
    path = tmp_path / "log.sqlite"
    writer = _writing(path, "a")
    assert writer.stdout is not None
    for _ in range(3):
        said = writer.stdout.readline()
    time.sleep(moment)
    os.kill(writer.pid, signal.SIGKILL)
    rest = writer.communicate()[0].split()
    last = int((rest or said.split())[-1])
    log = Log(path)
    tries = log.tries()
    log.close()
    assert len(tries) % 2 == 0 and len(tries) // 2 in (
        last + 1,
        last + 2,
    )  # whole entries, all that were said
    with closing(sqlite3.connect(path)) as db:
        assert db.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    with closing(Log(path)) as again:
        assert again.unfinished(datetime.now(UTC)) is not None


def test_two_windows_write_at_once(tmp_path: Path) -> None:
    path = tmp_path / "log.sqlite"
    writers = [_writing(path, name) for name in ("a", "b")]
    counts = []
    for writer in writers:
        assert writer.stdout is not None
        for _ in range(40):
            line = writer.stdout.readline()
        counts.append(int(line))
    for writer in writers:
        writer.kill()
        writer.communicate()
    log = Log(path)
    for name, count in zip(("a", "b"), counts, strict=True):
        assert len(log.tries([name])) >= 2 * (count + 1)
    assert sorted(one.songs[0] for one in log.sessions()) == ["a", "b"]
    log.close()


@pytest.mark.parametrize("version", range(len(UPGRADES)))
def test_older_logs_are_taken_further(tmp_path: Path, version: int) -> None:
    path = tmp_path / "log.sqlite"
    with sqlite3.connect(path) as db:
        for number in range(version):
            db.executescript(UPGRADES[number])
        db.execute(f"PRAGMA user_version = {version}")
        if version:
            db.execute(
                "INSERT INTO tries (at, song, take, start_written, start_part, end_written, end_part, key, "
                "hands, drill, tempo, share, clean) "
                "VALUES (?, 'old', 0, 1, 0, 2, 0, 'C', 'both', 'song', 80, 1, 1)",
                (NOON.isoformat(),),
            )
    db.close()
    log = Log(path)
    assert len(log.tries()) == (1 if version else 0)
    log.add([a_try()], [("abc", "T")])
    log.begin(NOON, 5, ["abc"], [])
    assert log.titles() == {"abc": "T"} and len(log.sessions()) == 1
    log.close()
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION,)
    db.close()


def test_a_newer_log_is_left_alone(tmp_path: Path) -> None:
    path = tmp_path / "log.sqlite"
    with sqlite3.connect(path) as db:
        db.execute(f"PRAGMA user_version = {VERSION + 1}")
    db.close()
    with pytest.raises(BadInput, match="newer version") as caught:
        Log(path).tries()
    assert caught.value.problems[0].remedy == "update Yellow Hinge to use it"
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (VERSION + 1,)
    db.close()


def test_a_log_that_cannot_be_used_is_said(tmp_path: Path) -> None:
    path = tmp_path / "log.sqlite"
    path.write_bytes(b"this is no database, whatever it is called\n" * 40)
    with pytest.raises(FileTrouble) as caught:
        Log(path).add([a_try()])
    problem = caught.value.problems[0]
    assert (
        problem.place == str(path)
        and "practice log" in problem.what
        and "move the file away" in problem.remedy
    )
    assert path.read_bytes().startswith(b"this is no database")
    (tmp_path / "file").write_text("x")
    with pytest.raises(FileTrouble):
        Log(tmp_path / "file" / "log.sqlite").tries()


def test_it_goes_out_as_csv_and_json(tmp_path: Path) -> None:
    rows = [a_try(k) for k in range(3)]
    table = list(csv.DictReader(io.StringIO(log_csv(rows, {"abc": 'Tar "Barrel", II'}))))
    assert [row["title"] for row in table] == ['Tar "Barrel", II'] * 3
    assert table[1]["words"] == rows[1].words and table[0]["from"] == "3.0" and table[0]["to"] == "4.1"
    plain = json.loads(json.dumps(as_rows(rows, {})))
    assert (
        plain[0]["to"] == {"written": 4, "part": 1}
        and plain[0]["tempo"] == 96.5
        and plain[0]["clean"] is True
    )
    assert log_csv([], {}).splitlines()[0].startswith("at,song,title")


def test_a_log_that_was_closed_is_opened_again_when_it_is_needed(tmp_path: Path) -> None:
    log = Log(tmp_path / "log.sqlite")
    for count in (1, 2):
        log.add([a_try(count)], [("abc", "Tar Barrel")])
        log.close()
        log.close()  # nothing is open any more
        assert len(log.tries(["abc"])) == count
    log.close()
