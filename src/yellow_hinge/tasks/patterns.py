"""The patterns that ship with the player's own file behind them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

from platformdirs import user_config_path

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats.files import read_if_there, write_atomically
from yellow_hinge.rhythm.patterns import (
    HANDS,
    PATTERNS_SCHEMA,
    Pattern,
    Patterns,
    builtin_patterns,
    pattern_text,
    read_patterns,
)
from yellow_hinge.song.groove_edits import set_texture, with_pattern
from yellow_hinge.song.model import Song

MAX_BYTES = 1_000_000


def own_patterns_path() -> Path:
    """Where a player's patterns lie: ``patterns.toml`` in the configuration folder."""
    return user_config_path("yellow-hinge") / "patterns.toml"


def own_patterns(path: Path | None = None) -> Patterns:
    """The player's patterns; none where there is no file. Raises :class:`BadInput` with every problem of it,
    and :class:`FileTrouble` when it is there and cannot be read."""
    path = path or own_patterns_path()
    data = read_if_there(path, MAX_BYTES)
    return {} if data is None else _read(data, str(path))


def _read(data: bytes, place: str) -> Patterns:
    try:
        found = read_patterns(data.decode("utf-8-sig"), place)
    except UnicodeDecodeError as error:
        where = f"{place}, byte {error.start + 1}"
        raise BadInput(Problem(where, "this is not a text file", "save it as UTF-8 text")) from None
    same = sorted(set(found) & set(builtin_patterns()))
    if same:
        what = f"{', '.join(same)}: a pattern that ships has this id"
        raise BadInput(Problem(place, what, "give yours another id"))
    return found


def keep_pattern(pattern: Pattern, path: Path | None = None) -> Patterns:
    """Write a pattern behind those in the player's file, in place of one with its id; give them all. Raises
    as :func:`own_patterns`, and :class:`FileTrouble` where it cannot be written; the file stays then."""
    path = path or own_patterns_path()
    kept = {**own_patterns(path), pattern.id: pattern}
    text = f'schema = "{PATTERNS_SCHEMA}"\n\n' + "\n".join(map(pattern_text, kept.values()))
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        what = f"the folder could not be made ({error.strerror})"
        raise FileTrouble(Problem(str(path.parent), what, "allow writing there")) from None
    write_atomically(path, text.encode())
    return kept


def free_id(name: str, taken: Iterable[str]) -> str:
    """An id for a pattern of this name that no other one has."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:32] or "mine"
    known = set(taken) | set(builtin_patterns())
    numbered = (f"{base}-{number}" for number in range(2, len(known) + 3))
    return base if base not in known else next(one for one in numbered if one not in known)


def with_patterns(song: Song, left: str | None, right: str | None) -> Song:
    """The song with patterns for its hands all through, by their ids. Raises :class:`BadInput` for one that
    is not there or not for that hand."""
    for hand, name in zip(HANDS, (left, right), strict=True):
        if name is not None:
            song = _with_pattern(song, hand, name)
    return song


def _with_pattern(song: Song, hand: str, name: str) -> Song:
    own = {**own_patterns(), **{one.id: one for one in song.arrangement.groove.patterns}}
    found = {**builtin_patterns(), **own}.get(name)
    if found is None or hand not in found.hands:
        what = f"there is no pattern {name!r}" if found is None else f"{name!r} is not for the {hand} hand"
        raise BadInput(Problem(f"--{hand}-pattern", what, "see yellow-hinge patterns --json"))
    if name in own:
        song = with_pattern(song, found)
    return set_texture(song, None, found.name, {hand: name}).song
