"""What swaps over a whole song may touch, in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

#: From the least to the most.
Appetite = Literal["dominants", "borrow", "fits", "anything"]
APPETITES: Mapping[Appetite, str] = {
    "dominants": "touch only dominants", "borrow": "borrow as well", "fits": "anything that fits",
    "anything": "anything at all",
}  # fmt: skip
