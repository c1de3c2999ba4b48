"""How a player practises: kept between runs in a small file. What cannot be read is as it is at first."""

from __future__ import annotations

from typing import Literal

from yellow_hinge.tasks.settings.own_settings import Kept

#: Field of the settings -> the least and the most that it can be.
BOUNDS: dict[str, tuple[int, int]] = {
    "minutes": (1, 240), "days": (1, 14), "early_ms": (20, 1000), "late_ms": (20, 1000),
    "roll_ms": (20, 3000), "step": (1, 50), "clean_rounds": (1, 20), "slips": (1, 20),
}  # fmt: skip


class Settings(Kept, frozen=True):
    """``way`` of listening ("mark": nothing listens, the player says how it was); tolerances in ms; the
    ladder's step in hundredths of the tempo, and clean rounds and rounds with slips before it moves;
    ``latency_ms`` is None until it was measured; ``again_key`` and ``next_key`` are keys at the ends of the
    keyboard that do as those commands do (None: none)."""

    file = "practice.json"

    minutes: float = 20.0
    days: int = 1
    apart_first: bool = False
    way: Literal["wait", "time", "free", "mark"] = "wait"
    rhythm: Literal["blocks", "written", "line"] = "blocks"
    bass: bool = False
    click: bool = True
    early_ms: int = 120
    late_ms: int = 120
    roll_ms: int = 350
    step: int = 6
    clean_rounds: int = 2
    slips: int = 2
    latency_ms: int | None = None
    again_key: int | None = None
    next_key: int | None = None

    def __post_init__(self) -> None:
        for name, (least, most) in BOUNDS.items():
            if not least <= getattr(self, name) <= most:
                raise ValueError(f"{name} must be {least}..{most}, not {getattr(self, name)}")
