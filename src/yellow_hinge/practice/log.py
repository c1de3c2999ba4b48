"""The log of practice: one SQLite file, written try by try.

Write-ahead logging and one transaction for each entry: what was written is there after a kill at any moment,
and two windows may write at once. The file says its version (``PRAGMA user_version``); older ones are taken
further step by step (:data:`UPGRADES`), newer ones are left alone. Entries hang on a song's id, a take, the
identities of two chords and a key (:class:`piece.ChangeId`), never on places, so that edits of the chart keep
them.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import asdict

from yellow_hinge.errors import BadInput, FileTrouble, Problem, YellowHingeError
from yellow_hinge.practice.piece import ChangeId
from yellow_hinge.song.at import At

#: How long one window waits for another that is writing, seconds.
_PATIENCE_S = 5.0
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
    """The log in a file. Every method raises :class:`FileTrouble` where the file cannot be used."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._db: sqlite3.Connection | None = None

    def close(self) -> None:
        if self._db is not None:
            self._db.close()
            self._db = None

    @contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        try:
            if self._db is None:
                self._db = _opened(self.path)
            yield self._db
        except (sqlite3.Error, OSError) as error:
            self.close()
            raise FileTrouble(Problem(str(self.path), f"the practice log: {error}", REMEDY)) from None

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
                        "json_each(sessions.songs) AS one WHERE one.value = ?)", (song,),
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
            return [_try(row) for row in rows]

    def titles(self) -> dict[str, str]:
        """Id of every song that was practised -> its title."""
        with self._open() as db:
            return dict(db.execute("SELECT id, title FROM songs ORDER BY title").fetchall())

    def sessions(self) -> list[Session]:
        """All sessions, the first one first."""
        with self._open() as db:
            done: dict[int, list[Done]] = {}
            for number, block, at, minutes, reached in db.execute(
                "SELECT session, block, at, minutes, reached FROM done ORDER BY id"
            ):
                done.setdefault(number, []).append(Done(block, datetime.fromisoformat(at), minutes, reached))
            rows = db.execute("SELECT id, begun, minutes, songs, blocks, ended FROM sessions ORDER BY id")
            return [
                Session(number, datetime.fromisoformat(begun), minutes, tuple(json.loads(songs)),
                        tuple(json.loads(blocks)), done=tuple(done.get(number, ())), ended=ended is not None)
                for number, begun, minutes, songs, blocks, ended in rows
            ]  # fmt: skip

    def unfinished(self, moment: datetime) -> Session | None:
        """The session of today that was begun and not ended."""
        for session in reversed(self.sessions()):
            if not session.ended and session.begun.date() == moment.date():
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


def _try(row: Sequence[Any]) -> Try:
    at, song, take, start, start_part, end, end_part, key, hands, drill, tempo, share, clean, words = row
    change = ChangeId(song, take, At(start, start_part), At(end, end_part), key)
    return Try(
        datetime.fromisoformat(at),
        change,
        hands,
        drill=drill,
        tempo=tempo,
        share=share,
        clean=bool(clean),
        words=words,
    )


def _opened(path: Path) -> sqlite3.Connection:
    path.parent.mkdir(parents=True, exist_ok=True)
    db = sqlite3.connect(path, timeout=_PATIENCE_S, check_same_thread=False)
    try:
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA foreign_keys = ON")
        db.execute("PRAGMA secure_delete = ON")
        _upgrade(db, path)
    except (sqlite3.Error, YellowHingeError):
        db.close()
        raise
    return db


def _upgrade(db: sqlite3.Connection, path: Path) -> None:
    """Bring the file to this version, step by step, each in one transaction with its number."""
    while True:
        version = int(db.execute("PRAGMA user_version").fetchone()[0])
        if version > VERSION:
            what = f"the practice log was written by a newer version ({version})"
            raise BadInput(Problem(str(path), what, "update Yellow Hinge to use it"))
        if version == VERSION:
            return
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
