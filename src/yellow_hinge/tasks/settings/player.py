"""Who plays: kept between runs in a small file."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from yellow_hinge.tasks.settings.own_files import own_path


class Player(Struct, frozen=True):
    """The name that the player's hands are kept under; empty where they gave none."""

    name: str = ""


def player_path() -> Path:
    """Where it is kept: in the configuration folder."""
    return own_path("player.json")
