"""Styles of swaps: those that ship, and the player's own, learnt from what was taken and what was left."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path

from yellow_hinge.errors import BadInput, Problem, YellowHingeError
from yellow_hinge.reharm.proposals import SHOWN_FIRST, Proposal
from yellow_hinge.reharm.styles import LEAST_TAKEN, Style, builtin_styles, learned, read_styles, style_text
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.tasks.settings.own_files import keep_text, own_path, own_text

Swaps = Mapping[int, tuple[ChordAt, ...]]


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


def learn_style(proposals: list[Proposal], swaps: Swaps, path: Path | None = None) -> Style:
    """The player's own style from the proposals of a song without swaps and the swaps that were taken of
    them, written down. Raises :class:`BadInput` where too few were taken, and :class:`FileTrouble` where it
    cannot be written."""
    rows = {at: [(chord_at.chord, chord_at.beats) for chord_at in row] for at, row in swaps.items()}
    here = [proposal for proposal in proposals if proposal.at in rows]
    taken = [
        proposal for proposal in here if [(t.chord, t.beats) for t in proposal.chords] == rows[proposal.at]
    ]
    shown = {at: [proposal for proposal in here if proposal.at == at][:SHOWN_FIRST] for at in rows}
    left = [proposal.rule for row in shown.values() for proposal in row if proposal not in taken]
    style = learned([proposal.rule for proposal in taken], left, "as I swap")
    if style is None:
        what = f"only {len(taken)} of its swaps are proposals that were taken"
        raise BadInput(Problem("style", what, f"take {LEAST_TAKEN} proposals at least, and learn from them"))
    keep_text(path or own_styles_path(), style_text(style))
    return style
