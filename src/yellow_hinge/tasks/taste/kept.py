"""A taste as a file of readable TOML."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import msgspec
from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.files import read_bytes
from yellow_hinge.motion.counts import NAMES, price_of
from yellow_hinge.motion.weights import PRICES
from yellow_hinge.tasks.taste.prices import LEAST_SHARE, MOST_SHARE
from yellow_hinge.tasks.taste.taste import Taste
from yellow_hinge.toml_rows import Raw, read_rows, row_text
from yellow_hinge.voicing.recipes import School

SCHEMA = "yellow-hinge/taste/1"
MAX_BYTES = 200_000
_HEAD = """# A taste: what a player's prices are as shares of the program's own, learnt from their rows.
# [[price]]  id: what is paid for; share: of our price, {least:g} to {most:g}; choices: learnt from so many
# [[shape]]  id: hand and recipe; taken: how often, which orders the lists of schools
# school     the one school that it is for; empty: every school
schema = "{schema}"
school = "{school}"
"""


class _Price(Struct, frozen=True, forbid_unknown_fields=True):
    id: str
    share: float
    choices: int = 0
    what: str = ""


class _Shape(Struct, frozen=True, forbid_unknown_fields=True):
    id: str
    taken: int


def taste_text(taste: Taste, school: School) -> str:
    """The file of a taste, its prices in words for a school."""
    head = _HEAD.format(least=LEAST_SHARE, most=MOST_SHARE, schema=SCHEMA, school=taste.school)
    rows = [
        row_text("price", {"id": name, "share": share, "choices": taste.choices.get(name, 0),
                           "what": price_words(name, share, school)})
        for name, share in sorted(taste.shares.items(), key=lambda row: row[0])
    ]  # fmt: skip
    rows += [row_text("shape", {"id": name, "taken": count}) for name, count in sorted(taste.shapes.items())]
    return "\n".join([head, *rows])


def read_taste(text: str, place: str) -> Taste:
    """A taste out of its file. Raises :class:`BadInput` with every bad row."""
    prices = read_rows(text, place, "price", SCHEMA, partial(_read_price))
    shapes = read_rows(text, place, "shape", SCHEMA, partial(_read_shape))
    return Taste(
        {name: row.share for name, row in prices.items()},
        {name: row.choices for name, row in prices.items()},
        {name: row.taken for name, row in shapes.items()},
        _school_in(text, place),
    )


def open_taste(path: Path) -> Taste:
    """Read a taste's file. Raises :class:`BadInput` and :class:`FileTrouble`."""
    try:
        text = read_bytes(path, MAX_BYTES).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput(Problem(path.name, "it is no text", "choose a file that taste learn wrote")) from error
    return read_taste(text, path.name)


def _read_price(raw: Raw, _: Raw) -> _Price:
    row = msgspec.convert(raw, _Price)
    if row.id not in NAMES:
        raise ValueError(f"there is no price {row.id!r}")
    if not LEAST_SHARE <= row.share <= MOST_SHARE:
        raise ValueError(f"a share is {LEAST_SHARE:g} to {MOST_SHARE:g}, not {row.share:g}")
    if row.choices < 0:
        raise ValueError("choices are counted from 0")
    return row


def _read_shape(raw: Raw, _: Raw) -> _Shape:
    row = msgspec.convert(raw, _Shape)
    if row.id.partition(" ")[0] not in ("left", "right"):
        raise ValueError('a shape is "left" or "right", a blank, and a recipe')
    if not 0 <= row.taken <= 1_000_000:
        raise ValueError("how often it was taken is 0 to 1000000")
    return row


def _school_in(text: str, place: str) -> str:
    import tomli  # noqa: PLC0415 - read before, and well

    school = tomli.loads(text).get("school", "")
    if not isinstance(school, str):
        raise BadInput(Problem(f"{place}: school", "it is no word", 'write school = "" for every school'))
    return school


# --- in words ------------------------------------------------------------------------------


def price_words(name: str, share: float, school: School) -> str:
    """What a price is paid for, and what it is instead of what: "note that comes in: 1.2 instead of 2"."""
    ours = price_of(school, name) / 100
    return f"{what_is_paid(name)}: {_steps(ours * share)} instead of {_steps(ours)}"


def what_is_paid(name: str) -> str:
    """What a price is paid for, in words."""
    if name in PRICES:
        return PRICES[name]["per"]
    row, _, count = name.rpartition("_")
    hand = {
        "left_self": "left hand that has the bass",
        "left_bassist": "left hand over a bassist",
        "right": "right hand",
    }[row]
    return f"{count} note{'' if count == '1' else 's'} in a {hand}"


def _steps(half_steps: float) -> str:
    return f"{round(half_steps, 2):g}"
