"""Who plays: kept between runs in a small file."""

from __future__ import annotations

from yellow_hinge.tasks.settings.own_settings import Kept


class Player(Kept, frozen=True):
    """The name that the player's hands are kept under; empty where they gave none."""

    file = "player.json"

    name: str = ""
