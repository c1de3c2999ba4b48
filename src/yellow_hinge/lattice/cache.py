"""A cache bounded in bytes: what was used longest ago goes first."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

_V = TypeVar("_V")
#: What share of what may be kept stays where another song comes: enough for the chords that most songs
#: have, and little enough that a day of songs does not add up.
_AT_REST = 32


class ByteCache(Generic[_V]):
    """Keeps values by key up to ``most_bytes``, counted by ``size``. A value larger than that is
    handed through and not kept. Not for two threads at once."""

    def __init__(self, most_bytes: int, size: Callable[[_V], int]) -> None:
        self._most, self._size = most_bytes, size
        self._kept: OrderedDict[Hashable, tuple[_V, int]] = OrderedDict()
        self.bytes = 0

    def __contains__(self, key: Hashable) -> bool:
        return key in self._kept

    def __len__(self) -> int:
        return len(self._kept)

    def clear(self) -> None:
        """Keep nothing."""
        self._kept.clear()
        self.bytes = 0

    def rest(self) -> None:
        """Keep a small share of what may be kept: that was used last."""
        self._drop_to(self._most // _AT_REST)

    def _drop_to(self, most: int) -> None:
        while self.bytes > most:
            _, (_, gone) = self._kept.popitem(last=False)
            self.bytes -= gone

    def get(self, key: Hashable) -> _V | None:
        """The value, now the one used last; None where it is not kept."""
        kept = self._kept.get(key)
        if kept is None:
            return None
        self._kept.move_to_end(key)
        return kept[0]

    def put(self, key: Hashable, value: _V) -> _V:
        """Keep a value, in place of one that had the key; give it back."""
        old = self._kept.pop(key, None)
        self.bytes -= 0 if old is None else old[1]
        size = self._size(value)
        if size <= self._most:
            self._kept[key] = (value, size)
            self.bytes += size
        self._drop_to(self._most)
        return value
