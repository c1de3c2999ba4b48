"""Fields that a newer version wrote: found beside our own, and put back where they were."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

Raw = dict[str, Any]


#: Fields whose own names are a player's (sections, chords): an unknown one is no field.
_BY_NAME = {"tastes", "choices", "asks", "swaps", "keys_set", "levels"}


def beyond(
    raw: Mapping[str, Any], own: Mapping[str, Any], optional: Mapping[str, set[str]], inside: str = "",
    by_name: bool = False,
) -> Raw:  # fmt: skip
    """The fields of ``raw``, which stands ``inside`` a field, that are not among our own, in their nesting.
    ``optional``: fields that are written only when they say something, by where they stand."""
    found: Raw = {}
    for name, value in raw.items():
        if name in own:
            if isinstance(value, dict) and isinstance(own[name], dict):
                inner = beyond(
                    value, own[name], optional, inside if by_name else name, name in _BY_NAME and not by_name
                )
                if inner:
                    found[name] = inner
        elif not by_name and name not in optional.get(inside, ()):
            found[name] = value
    return found


def merged_in(own: Raw, unknown: Mapping[str, Any], by_name: bool = False) -> Raw:
    """Our own fields, and the unknown ones where they stood, as long as that place is there."""
    merged = dict(own)
    for name, value in unknown.items():
        if name not in merged:
            if not by_name:
                merged[name] = value
        elif isinstance(merged[name], dict) and isinstance(value, Mapping):
            merged[name] = merged_in(merged[name], value, name in _BY_NAME and not by_name)
    return merged
