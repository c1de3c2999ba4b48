"""Hand profiles that a player keeps, by name, in the configuration folder."""

from __future__ import annotations

from pathlib import Path

import msgspec
from platformdirs import user_config_path

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import json_in
from yellow_hinge.formats.files import own_folder, read_if_there, write_atomically
from yellow_hinge.hands.profile import HandProfile

SCHEMA = "yellow-hinge/hands/1"
MAX_BYTES = 1_000_000
MOST_NAME = 60
_REMEDY = "mend it, or move it away to begin anew"


class _File(msgspec.Struct):
    schema: str
    profiles: dict[str, HandProfile]

    def __post_init__(self) -> None:
        if not all(profile.sound for profile in self.profiles.values()):
            raise ValueError("lowest_key and highest_key must ascend")


def profiles_path() -> Path:
    """Where they lie: ``hands.json`` in the configuration folder."""
    return user_config_path("yellow-hinge") / "hands.json"


def load_profiles(path: Path | None = None) -> dict[str, HandProfile]:
    """All kept profiles by name, none where there is no file yet.

    Raises :class:`BadInput` for a file that is none of ours and :class:`FileTrouble` for one
    that cannot be read.
    """
    path = path or profiles_path()
    data = read_if_there(path, MAX_BYTES)
    if data is None:
        return {}
    return read_profiles(data, str(path))


def read_profiles(data: bytes, place: str) -> dict[str, HandProfile]:
    """The profiles of a file. Raises :class:`BadInput`."""
    raw, _ = json_in.load(data, place, _REMEDY)
    try:
        read = msgspec.convert(raw, _File)
    except msgspec.ValidationError as error:
        raise BadInput(Problem(place, str(error), _REMEDY)) from None
    if read.schema != SCHEMA:
        raise BadInput(Problem(place, f"schema is {read.schema!r}", _REMEDY))
    return read.profiles


def keep_profile(name: str, profile: HandProfile, path: Path | None = None) -> str:
    """Keep a profile under a name, in place of one that had it; give the name as kept.

    Raises :class:`BadInput` for an empty name, and as :func:`load_profiles`.
    """
    name = " ".join(name.split())[:MOST_NAME]
    if not name:
        raise BadInput(Problem("profile", "it has no name yet", "write whose hands these are"))
    _write({**load_profiles(path), name: profile}, path)
    return name


def drop_profile(name: str, path: Path | None = None) -> None:
    """Forget a profile. Raises as :func:`load_profiles`."""
    _write({own: kept for own, kept in load_profiles(path).items() if own != name}, path)


def _write(profiles: dict[str, HandProfile], path: Path | None) -> None:
    path = path or profiles_path()
    own_folder(path.parent)
    out = msgspec.json.encode(_File(SCHEMA, profiles))
    write_atomically(path, msgspec.json.format(out, indent=1) + b"\n")
