"""What is worked out once for chords, keys and hands, and let go when another song comes."""

from __future__ import annotations

import ctypes
from functools import _lru_cache_wrapper
from typing import TypeVar

_Answer = TypeVar("_Answer")
_tables: list[_lru_cache_wrapper[object]] = []


def for_a_song(table: _lru_cache_wrapper[_Answer]) -> _lru_cache_wrapper[_Answer]:
    """Above ``lru_cache``: what the function remembers is kept until :func:`let_go`."""
    _tables.append(table)
    return table


def let_go() -> None:
    """Forget these answers, and give the memory back."""
    for table in _tables:
        table.cache_clear()
    give_back()


def give_back() -> None:
    """Return freed memory to the system: the C library keeps what is freed in small pieces for later, and
    over the songs of a day that adds up to more than one of them needs."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)  # not in every C library
    if trim is not None:
        trim(0)
