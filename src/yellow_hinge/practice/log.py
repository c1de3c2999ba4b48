"""The log of practice: one SQLite file, written try by try.

Write-ahead logging and one transaction for each entry: what was written is there after a kill at any moment,
and two windows may write at once. The file says its version (``PRAGMA user_version``); older ones are taken
further step by step (:data:`UPGRADES`), newer ones are left alone. A file that is damaged, or none of ours,
is set aside under a name that says so; what can be read of it is kept in a new one. Entries hang on a song's
id, a take, the identities of two chords and a key (:class:`piece.ChangeId`), never on places, so that edits
of the chart keep them.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from datetime import datetime
from functools import lru_cache
from itertools import count
from pathlib import Path
from typing import Any, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import asdict, replace

from yellow_hinge.errors import BadInput, FileTrouble, Problem, YellowHingeError
from yellow_hinge.practice.piece import ChangeId
from yellow_hinge.song.at import At
from yellow_hinge.theory.pretty import counted

_Value = TypeVar("_Value")
#: What a column may lack.
_MISSING = {"words": "''"}
#: How long one window waits for another that is writing, seconds.
_PATIENCE_S = 5.0
#: More minutes or beats are none.
_MOST_NUMBER = 1e6
REMEDY = "move the file away, and a new log is begun; what it holds is not lost"

_TRIES = """
CREATE TABLE tries (
  id INTEGER PRIMARY KEY, at TEXT NOT NULL, song TEXT NOT NULL, take INTEGER NOT NULL,
  start_written INTEGER NOT NULL, start_part INTEGER NOT NULL,
  end_written INTEGER NOT NULL, end_part INTEGER NOT NULL, key TEXT NOT NULL,
  hands TEXT NOT NULL, drill TEXT NOT NULL, tempo REAL NOT NULL, share REAL NOT NULL,
  clean INTEGER NOT NULL, words TEXT NOT NULL DEFAULT '');
CREATE INDEX tries_song ON tries (song, at);
"""
_SESSIONS = """
CREATE TABLE sessions (
  id INTEGER PRIMARY KEY, begun TEXT NOT NULL, minutes REAL NOT NULL, songs TEXT NOT NULL,
  blocks TEXT NOT NULL, ended TEXT);
CREATE TABLE done (
  id INTEGER PRIMARY KEY, session INTEGER NOT NULL REFERENCES sessions (id) ON DELETE CASCADE,
  block INTEGER NOT NULL, at TEXT NOT NULL, minutes REAL NOT NULL, reached INTEGER NOT NULL);
"""
_TITLES = "CREATE TABLE songs (id TEXT PRIMARY KEY, title TEXT NOT NULL);"
#: What brings a log of version k to version k + 1.
UPGRADES: tuple[str, ...] = (_TRIES, _SESSIONS, _TITLES)
VERSION = len(UPGRADES)


class Try(Struct, frozen=True):
    """A change that was tried once: when, which, with which hands, in what drill, at how many beats a minute
    and which share of the song's tempo, whether it was clean, and what was said of it."""

    at: datetime
    change: ChangeId
    hands: str
    drill: str
    tempo: float
    share: float
    clean: bool
    words: str = ""


class Done(Struct, frozen=True):
    """A block that was practised: its place in the plan, when it was over, how long it took in minutes, and
    the fastest clean tempo in beats a minute (0: none)."""

    block: int
    at: datetime
    minutes: float
    reached: int


class Session(Struct, frozen=True):
    """A plan that was begun: its number, when, for how many minutes, the songs by id, its blocks as they were
    written down, and what is done of it."""

    id: int
    begun: datetime
    minutes: float
    songs: tuple[str, ...]
    blocks: tuple[dict[str, Any], ...]
    done: tuple[Done, ...] = ()
    ended: bool = False


class Log:
    """The log in a file. Every method raises :class:`FileTrouble` where the file cannot be used. ``remarks``:
    what is to be said of it, such as that a damaged one was set aside; whoever has said it clears them."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.remarks: list[Problem] = []
        self._db: sqlite3.Connection | None = None

    def close(self) -> None:
        if self._db is not None:
            self._db.close()
            self._db = None

    @contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        try:
            if self._db is None:
                self._db = self._opened()
            yield self._db
        except (sqlite3.Error, OSError, UnicodeDecodeError) as error:
            self.close()
            raise FileTrouble(Problem(str(self.path), f"the practice log: {error}", REMEDY)) from None

    def _opened(self) -> sqlite3.Connection:
        self.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        try:
            return _connected(self.path)
        except _Damaged as error:
            aside = _set_aside(self.path)
            db = _connected(self.path)
            kept = counted(_salvaged(aside, db), "try", "tries")
            what = f"{error}; it was set aside as {aside.name}, and {kept} of it went into a new one"
            remedy = "practise on; what was set aside may be deleted"
            self.remarks.append(Problem(str(self.path), what, remedy))
            return db

    # --- writing ---

    def add(self, tries: Sequence[Try], titles: Iterable[tuple[str, str]] = ()) -> None:
        """Write tries down, and what their songs are called."""
        with self._open() as db, db:
            db.executemany("INSERT OR REPLACE INTO songs VALUES (?, ?)", list(titles))
            db.executemany(
                f"INSERT INTO tries ({_COLUMNS}) VALUES ({_MARKS})", [_row(attempt) for attempt in tries]
            )

    def begin(
        self, moment: datetime, minutes: float, songs: Sequence[str], blocks: Sequence[dict[str, Any]]
    ) -> int:
        """A session begins; its number."""
        with self._open() as db, db:
            at = db.execute(
                "INSERT INTO sessions (begun, minutes, songs, blocks) VALUES (?, ?, ?, ?)",
                (moment.isoformat(), minutes, json.dumps(list(songs)), json.dumps(list(blocks))),
            )
            return int(at.lastrowid or 0)

    def finish(self, session: int, done: Done) -> None:
        """A block of a session is over."""
        with self._open() as db, db:
            db.execute("INSERT INTO done (session, block, at, minutes, reached) VALUES (?, ?, ?, ?, ?)",
                       (session, done.block, done.at.isoformat(), done.minutes, done.reached))  # fmt: skip

    def end(self, session: int, moment: datetime) -> None:
        """A session is over."""
        with self._open() as db, db:
            db.execute("UPDATE sessions SET ended = ? WHERE id = ?", (moment.isoformat(), session))

    def forget(self, song: str | None = None) -> int:
        """Delete what is known of a song, or everything, for good; how many tries that were."""
        with self._open() as db:
            with db:
                if song is None:
                    gone = db.execute("DELETE FROM tries").rowcount
                    for table in ("done", "sessions", "songs"):
                        db.execute(f"DELETE FROM {table}")
                else:
                    gone = db.execute("DELETE FROM tries WHERE song = ?", (song,)).rowcount
                    db.execute("DELETE FROM songs WHERE id = ?", (song,))
                    db.execute(
                        "DELETE FROM sessions WHERE id IN (SELECT sessions.id FROM sessions, "
                        "json_each(iif(json_valid(sessions.songs), sessions.songs, '[]')) AS one "
                        "WHERE one.value = ?)", (song,),
                    )  # fmt: skip
            db.execute("VACUUM")  # deleted means gone from the file too
            db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            return gone

    # --- reading ---

    def tries(self, songs: Sequence[str] | None = None) -> list[Try]:
        """All tries, or those of some songs, in the order in which they were made."""
        with self._open() as db:
            where = "" if songs is None else f" WHERE song IN ({', '.join('?' * len(songs))})"
            rows = db.execute(f"SELECT {_COLUMNS} FROM tries{where} ORDER BY at, id", list(songs or ()))
            return list(_sound(rows, _try))

    def titles(self) -> dict[str, str]:
        """Id of every song that was practised -> its title."""
        with self._open() as db:
            return dict(_sound(db.execute("SELECT id, title FROM songs ORDER BY title"), _title))

    def sessions(self) -> list[Session]:
        """All sessions, the first one first."""
        with self._open() as db:
            done: dict[int, list[Done]] = {}
            rows = db.execute("SELECT session, block, at, minutes, reached FROM done ORDER BY id")
            for number, block in _sound(rows, _done):
                done.setdefault(number, []).append(block)
            rows = db.execute("SELECT id, begun, minutes, songs, blocks, ended FROM sessions ORDER BY id")
            return [
                replace(session, done=tuple(done.get(session.id, ()))) for session in _sound(rows, _session)
            ]

    def unfinished(self, moment: datetime) -> Session | None:
        """The session of today that was begun and not ended."""
        for session in reversed(self.sessions()):
            if not session.ended and session.begun.astimezone(moment.tzinfo).date() == moment.date():
                return session
        return None


_NAMES = (
    "at", "song", "take", "start_written", "start_part", "end_written", "end_part", "key", "hands", "drill",
    "tempo", "share", "clean", "words",
)  # fmt: skip
_COLUMNS, _MARKS = ", ".join(_NAMES), ", ".join("?" * len(_NAMES))


def _row(attempt: Try) -> tuple[Any, ...]:
    change_id = attempt.change
    return (
        attempt.at.isoformat(), change_id.song, change_id.take, change_id.start.written,
        change_id.start.part, change_id.end.written,
        change_id.end.part, change_id.key, attempt.hands, attempt.drill, attempt.tempo, attempt.share,
        int(attempt.clean), attempt.words,
    )  # fmt: skip


# --- rows that may be damaged ------------------------------------------------------------------


def _sound(rows: Iterable[Sequence[Any]], make: Callable[[Sequence[Any]], _Value]) -> Iterator[_Value]:
    """What can be made of rows; those that nothing can be made of are left out."""
    for row in rows:
        with suppress(
            ValueError, TypeError, OverflowError, RecursionError
        ):  # msgspec's and JSON's among them
            yield make(row)


def _moment(text: str) -> datetime:
    """A moment; one without a time zone is of this place."""
    moment = datetime.fromisoformat(text)
    return moment if moment.tzinfo is not None else moment.astimezone()


def _number(value: float) -> float:
    """A number of minutes or beats. Raises ``ValueError`` for one that is none."""
    if not 0 <= value < _MOST_NUMBER:
        raise ValueError(f"{value} is no number of minutes or beats")
    return float(value)


def _checked(value: _Value) -> _Value:
    """The value, if each of its fields is what it is to be: SQLite keeps any kind in any column."""
    return msgspec.convert(msgspec.to_builtins(value), type(value))


def _try(row: Sequence[Any]) -> Try:
    at, song, take, start, start_part, end, end_part, key, hands, drill, tempo, share, clean, words = row
    change = ChangeId(song, take, At(start, start_part), At(end, end_part), key)
    return _checked(
        Try(_moment(at), change, hands, drill=drill, tempo=_number(tempo), share=_number(share),
            clean=bool(clean), words=words)
    )  # fmt: skip


def _title(row: Sequence[Any]) -> tuple[str, str]:
    return msgspec.convert(tuple(row), tuple[str, str])


def _done(row: Sequence[Any]) -> tuple[int, Done]:
    session, block, at, minutes, reached = row
    return int(session), _checked(Done(block, _moment(at), _number(minutes), reached))


def _session(row: Sequence[Any]) -> Session:
    number, begun, minutes, songs, blocks, ended = row
    return _checked(
        Session(number, _moment(begun), _number(minutes), tuple(json.loads(songs)),
                tuple(json.loads(blocks)), ended=ended is not None)
    )  # fmt: skip


# --- files that may be damaged -----------------------------------------------------------------


class _Damaged(Exception):
    """The file is no practice log, or not a whole one."""


def _connected(path: Path) -> sqlite3.Connection:
    """The file as it is to be, of this version. Raises :class:`_Damaged` where it has to be set aside,
    ``OSError`` and ``sqlite3.Error`` where it cannot be used, :class:`BadInput` where a newer version wrote
    it."""
    db = sqlite3.connect(path, timeout=_PATIENCE_S, check_same_thread=False)
    db.text_factory = _text
    try:
        _look_through(db, path)
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA foreign_keys = ON")
        db.execute("PRAGMA secure_delete = ON")
        _upgrade(db, path)
    except sqlite3.OperationalError:  # locked, no room, no right: it may be whole
        db.close()
        raise
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:  # names of columns are text too
        db.close()
        raise _Damaged(f"the practice log is damaged ({error})") from None
    except (YellowHingeError, _Damaged):
        db.close()
        raise
    return db


def _text(data: bytes) -> str:
    return data.decode(errors="replace")


def _look_through(db: sqlite3.Connection, path: Path) -> None:
    """Whether all tables are there that a log of its version has, and can be read."""
    version = _version(db, path)
    said = db.execute("PRAGMA quick_check(1)").fetchone()
    if said != ("ok",):
        raise _Damaged(f"the practice log is damaged ({said[0] if said else 'it says nothing'})")
    if version == 0 and db.execute("SELECT count(*) FROM sqlite_master").fetchone() != (0,):
        raise _Damaged("the file is no practice log")
    for table, columns in _tables_of(version).items():
        missing = sorted(columns - _columns(db, table))
        if missing:
            raise _Damaged(f"the practice log is damaged ({table} has no {', '.join(missing)})")


def _version(db: sqlite3.Connection, path: Path) -> int:
    version = int(db.execute("PRAGMA user_version").fetchone()[0])
    if version > VERSION:
        what = f"the practice log was written by a newer version ({version})"
        raise BadInput(Problem(str(path), what, "update Yellow Hinge to use it"))
    if version < 0:
        raise _Damaged("the file is no practice log")
    return version


def _columns(db: sqlite3.Connection, table: str) -> frozenset[str]:
    return frozenset(row[1] for row in db.execute(f"PRAGMA table_info({table})"))


@lru_cache(maxsize=VERSION + 1)
def _tables_of(version: int) -> dict[str, frozenset[str]]:
    """The columns of each table of a log of some version."""
    with closing(sqlite3.connect(":memory:")) as db:
        for upgrade in UPGRADES[:version]:
            db.executescript(upgrade)
        tables = [name for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {table: _columns(db, table) for table in tables}


def _set_aside(path: Path) -> Path:
    """The file under another name, with what SQLite keeps beside it; that name."""
    names = (path.with_name(f"{path.stem} damaged {number}{path.suffix}") for number in count(1))
    aside = next(name for name in names if not name.exists())
    path.rename(aside)
    for beside in ("-wal", "-shm"):
        with suppress(FileNotFoundError):
            path.with_name(path.name + beside).rename(aside.with_name(aside.name + beside))
    return aside


def _salvaged(aside: Path, db: sqlite3.Connection) -> int:
    """Take over what can be read of a damaged log; how many tries that are."""
    with suppress(sqlite3.Error), closing(sqlite3.connect(aside)) as old:
        old.text_factory = _text
        with db:
            for table, read in (("songs", _title), ("tries", _try), ("sessions", _session), ("done", _done)):
                named = [row[1] for row in db.execute(f"PRAGMA table_info({table})")]
                told = slice(1, None) if table in ("tries", "done") else slice(None)
                rows = [row for row in _rows_of(old, table, named) if [*_sound([row[told]], read)]]
                marks = ", ".join("?" * len(named))
                db.executemany(f"INSERT OR IGNORE INTO {table} VALUES ({marks})", rows)
    return int(db.execute("SELECT count(*) FROM tries").fetchone()[0])


def _rows_of(old: sqlite3.Connection, table: str, named: Sequence[str]) -> Iterator[Sequence[Any]]:
    """The rows of a table as far as they can be read, from either end."""
    with suppress(sqlite3.Error, UnicodeDecodeError):
        there = _columns(old, table)
        columns = ", ".join(name if name in there else _MISSING.get(name, "NULL") for name in named)
        for order in ("", " ORDER BY rowid DESC"):
            with suppress(sqlite3.Error, UnicodeDecodeError):
                yield from old.execute(f"SELECT {columns} FROM {table}{order}")


def _upgrade(db: sqlite3.Connection, path: Path) -> None:
    """Bring the file to this version, step by step, each in one transaction with its number."""
    while (version := _version(db, path)) < VERSION:
        db.execute("BEGIN IMMEDIATE")
        if int(db.execute("PRAGMA user_version").fetchone()[0]) == version:  # nobody else was faster
            for statement in UPGRADES[version].split(";"):
                db.execute(statement)
            db.execute(f"PRAGMA user_version = {version + 1}")
        db.execute("COMMIT")


# --- out ---------------------------------------------------------------------------------------


def as_rows(tries: Sequence[Try], titles: dict[str, str]) -> list[dict[str, Any]]:
    """Tries as plain rows, for CSV and JSON."""
    return [
        {
            "at": attempt.at.isoformat(), "song": attempt.change.song,
            "title": titles.get(attempt.change.song, ""),
            "take": attempt.change.take, "from": asdict(attempt.change.start),
            "to": asdict(attempt.change.end),
            "key": attempt.change.key, "hands": attempt.hands, "drill": attempt.drill, "tempo": attempt.tempo,
            "share": round(attempt.share, 4), "clean": attempt.clean, "words": attempt.words,
        }
        for attempt in tries
    ]  # fmt: skip
