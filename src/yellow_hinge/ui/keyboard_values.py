"""What a keyboard shows, as values."""

from __future__ import annotations

from msgspec import Struct


class KeyMark(Struct, frozen=True):
    """A key that is shown: whose hand ("left", "right", "bass"), and up to two words."""

    side: str
    word: str = ""
    small: str = ""


class Ghost(Struct, frozen=True):
    """A move to the next chord: from a key (None: it enters) to a key (None: it leaves)."""

    side: str
    start: int | None
    to: int | None
