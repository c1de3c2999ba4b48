"""Styles of swaps: those that ship, and the player's own."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.reharm.styles import Style, builtin_styles, read_styles
from yellow_hinge.tasks.settings.own_files import own_path, own_text


def own_styles_path() -> Path:
    """Where the player's own style lies: ``styles.toml`` in the configuration folder."""
    return own_path("styles.toml")


def every_style(path: Path | None = None) -> dict[str, Style]:
    """The styles that ship, and the player's own behind them. Raises :class:`BadInput` with every problem of
    the player's file, and :class:`FileTrouble` when it is there and cannot be read."""
    own = path or own_styles_path()
    try:
        stamp = own.stat().st_mtime_ns
    except OSError:
        stamp = 0  # none, or it is said when it is read
    return {**builtin_styles(), **_own(own, stamp)}


@lru_cache(maxsize=4)
def _own(path: Path, _stamp: int) -> Mapping[str, Style]:
    """What a file has, read again when it has changed: lists of styles are shown with every step."""
    text = own_text(path)
    return {} if text is None else read_styles(text, str(path))


def known_styles() -> dict[str, Style]:
    """The same where nothing may stand in the way: without the player's own where its file cannot be read."""
    try:
        return every_style()
    except YellowHingeError:
        return dict(builtin_styles())
