"""Which chord a decision hangs on."""

from __future__ import annotations

from msgspec import Struct


class At(Struct, frozen=True, order=True):
    """A chord by identity: the written chord's id, and which part of its swap (from 1); part 0 is
    the written chord itself. So what was decided on it is still there when a swap is given back."""

    written: int
    part: int = 0
