"""The log survives kills, other windows and older versions, and keeps out what it does not know."""

from __future__ import annotations

import csv
import io
import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path

import pytest

from yellow_hinge.errors import BadInput, FileTrouble, YellowHingeError
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
    (tmp_path / "file").write_text("x")
    with pytest.raises(FileTrouble) as caught:
        Log(tmp_path / "file" / "log.sqlite").tries()
    problem = caught.value.problems[0]
    assert problem.place.endswith("log.sqlite") and "practice log" in problem.what
    assert "move the file away" in problem.remedy


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


# --- files and rows that are damaged -------------------------------------------------------------


@pytest.fixture
def full(tmp_path: Path) -> Path:
    """A log of forty tries and a session, closed."""
    log = Log(tmp_path / "log.sqlite")
    log.add([a_try(k) for k in range(40)], [("abc", "Tar Barrel")])
    log.finish(log.begin(NOON, 20, ["abc"], [{"what": "x"}]), Done(0, NOON, 2.5, 84))
    log.close()
    return log.path


def used(path: Path) -> Log:
    """Everything is done with a log."""
    log = Log(path)
    log.tries(), log.titles(), log.sessions(), log.unfinished(NOON)
    log.add([a_try(99)], [("abc", "Tar Barrel")])
    log.finish(log.begin(NOON, 5, ["abc"], []), Done(0, NOON, 1, 60))
    return log


def change(path: Path, *statements: str) -> None:
    with closing(sqlite3.connect(path)) as db, db:
        for statement in statements:
            db.execute(statement)


@pytest.mark.parametrize(
    ("statements", "kept", "words"),
    [
        (("ALTER TABLE tries DROP COLUMN words",), 40, "tries has no words"),
        (("DROP INDEX tries_song", "ALTER TABLE tries DROP COLUMN song"), 0, "tries has no song"),
        (("DROP TABLE songs",), 40, "songs has no id, title"),
        (("PRAGMA user_version = -1",), 40, "no practice log"),
        (("PRAGMA user_version = 0",), 40, "no practice log"),
    ],
)  # fmt: skip
def test_a_log_that_lacks_something_is_set_aside(
    full: Path, statements: tuple[str, ...], kept: int, words: str
) -> None:
    change(full, *statements)
    before = full.read_bytes()
    log = used(full)
    [remark] = log.remarks
    assert words in remark.what and f"{kept:,} tr" in remark.what and "log damaged 1.sqlite" in remark.what
    assert len(log.tries()) == kept + 1 and (full.parent / "log damaged 1.sqlite").read_bytes() == before
    if kept:
        assert log.sessions()[0].done == (Done(0, NOON, 2.5, 84),)
    log.close()
    again = used(full)
    assert again.remarks == []
    again.close()


def test_what_is_no_database_is_set_aside_each_under_its_own_name(full: Path) -> None:
    for number in (1, 2):
        full.write_bytes(b"notes of an evening\n" * 100)
        log = used(full)
        assert f"log damaged {number}.sqlite" in log.remarks[0].what and len(log.tries()) == 1
        log.close()
    full.write_bytes(b"")  # an empty file is a log that has not begun
    log = used(full)
    assert log.remarks == [] and len(log.tries()) == 1
    log.close()


def test_a_torn_page_costs_no_more_than_what_was_on_it(tmp_path: Path) -> None:
    path = tmp_path / "log.sqlite"
    log = Log(path)
    log.add([a_try(k) for k in range(2000)])
    log.close()
    data = bytearray(path.read_bytes())
    middle = len(data) // 2 // 4096 * 4096
    data[middle : middle + 4096] = bytes(4096)
    path.write_bytes(bytes(data))
    log = used(path)
    assert "damaged" in log.remarks[0].what and 1000 < len(log.tries()) < 2001
    log.close()


@pytest.mark.parametrize(
    "row",
    [
        "tempo = 'fast'", "tempo = 9e999", "tempo = -1", "share = x'00ff'", "at = 'noon'", "at = 7",
        "song = x'ff00'",
        "start_written = 'first'", "clean = 'perhaps'", "key = x'80'", "words = x'81'", "take = 2.5",
    ],
)  # fmt: skip
def test_a_row_that_nothing_can_be_made_of_is_left_out(full: Path, row: str) -> None:
    change(full, f"UPDATE tries SET {row} WHERE id = 3")
    log = used(full)
    assert len(log.tries()) in (40, 41) and log.remarks == []
    assert all(isinstance(attempt.tempo, float) and isinstance(attempt.words, str) for attempt in log.tries())
    log.close()


@pytest.mark.parametrize(
    "row", ["begun = 'x'", "minutes = 'long'", "songs = '{'", "blocks = '[1]'", "songs = '[3]'"]
)
def test_a_session_that_nothing_can_be_made_of_is_left_out(full: Path, row: str) -> None:
    change(full, f"UPDATE sessions SET {row}", "UPDATE done SET at = '?'")
    log = used(full)
    assert len(log.sessions()) == 1  # the new one
    log.forget("abc")
    log.close()


def test_tempi_and_moments_at_their_limits(full: Path) -> None:
    change(full, "UPDATE tries SET tempo = 0, at = '2026-03-02T12:00:00' WHERE id = 1")
    change(full, "UPDATE tries SET tempo = 1000000 WHERE id = 2")
    change(full, "UPDATE tries SET tempo = 999999 WHERE id = 3")
    log = used(full)
    assert {0, 999999} <= {attempt.tempo for attempt in log.tries()} and len(log.tries()) == 40
    assert all(attempt.at.tzinfo is not None for attempt in log.tries())
    log.close()


def test_a_log_that_somebody_holds_is_not_set_aside(full: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("yellow_hinge.practice.log._PATIENCE_S", 0.05)
    with closing(sqlite3.connect(full, isolation_level=None)) as other:
        other.execute("PRAGMA journal_mode = DELETE")
        other.execute("BEGIN EXCLUSIVE")
        log = Log(full)
        with pytest.raises(FileTrouble, match="locked"):
            log.tries()
    assert list(full.parent.glob("*damaged*")) == []
    assert len(log.tries()) == 40
    log.close()


def test_an_evening_is_the_evening_of_where_one_is(full: Path) -> None:
    log = Log(full)
    late = datetime(2026, 3, 2, 23, 30, tzinfo=timezone(timedelta(hours=-10)))  # begun on the 3rd, in UTC
    log.begin(late.astimezone(UTC), 20, ["abc"], [])
    found = log.unfinished(late + timedelta(minutes=10))
    assert found is not None and found.begun == late
    assert log.unfinished(late + timedelta(hours=1)) is None
    log.close()


def test_bent_logs_never_raise(full: Path) -> None:
    data, dice = full.read_bytes(), random.Random(5)
    for number in range(80):
        bent = bytearray(data)
        for _ in range(dice.choice((1, 3, 30, 300))):
            bent[dice.randrange(len(bent))] = dice.randrange(256)
        path = full.parent / f"{number}" / "log.sqlite"
        path.parent.mkdir()
        path.write_bytes(bytes(bent[: dice.choice((len(bent), dice.randrange(len(bent))))]))
        try:
            used(path).close()
        except YellowHingeError as error:  # newer, by its header: it is left alone
            assert "newer" in str(error)
            assert list(path.parent.glob("*damaged*")) == []
