"""The patterns that ship with the player's own file behind them."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from pathlib import Path

from yellow_hinge.errors import BadInput, Problem
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
from yellow_hinge.tasks.settings.own_files import keep_text, own_path, own_text


def own_patterns_path() -> Path:
    """Where a player's patterns lie: ``patterns.toml`` in the configuration folder."""
    return own_path("patterns.toml")


def own_patterns(path: Path | None = None) -> Patterns:
    """The player's patterns; none where there is no file. Raises :class:`BadInput` with every problem of it,
    and :class:`FileTrouble` when it is there and cannot be read."""
    path = path or own_patterns_path()
    text = own_text(path)
    patterns = {} if text is None else read_patterns(text, str(path))
    same = sorted(set(patterns) & set(builtin_patterns()))
    if same:
        what = f"{', '.join(same)}: a pattern that ships has this id"
        raise BadInput(Problem(str(path), what, "give yours another id"))
    return patterns


def keep_pattern(pattern: Pattern, path: Path | None = None) -> Patterns:
    """Write a pattern behind those in the player's file, in place of one with its id; give them all. Raises
    as :func:`own_patterns`, and :class:`FileTrouble` where it cannot be written; the file stays then."""
    path = path or own_patterns_path()
    kept = {**own_patterns(path), pattern.id: pattern}
    keep_text(path, f'schema = "{PATTERNS_SCHEMA}"\n\n' + "\n".join(map(pattern_text, kept.values())))
    return kept


def free_id(name: str, taken: Iterable[str]) -> str:
    """An id for a pattern of this name that no other one has."""
    return id_for(name, {*taken, *builtin_patterns()})


def id_for(name: str, known: Collection[str]) -> str:
    """An id made of a name that is not known yet."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:32] or "mine"
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
    own = {**own_patterns(), **{pattern.id: pattern for pattern in song.arrangement.groove.patterns}}
    pattern = {**builtin_patterns(), **own}.get(name)
    if pattern is None or hand not in pattern.hands:
        what = f"there is no pattern {name!r}" if pattern is None else f"{name!r} is not for the {hand} hand"
        raise BadInput(Problem(f"--{hand}-pattern", what, "see yellow-hinge patterns --json"))
    if name in own:
        song = with_pattern(song, pattern)
    return set_texture(song, None, pattern.name, {hand: name}).song
