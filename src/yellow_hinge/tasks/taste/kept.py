"""A taste as a file of readable TOML."""

from __future__ import annotations

import re
from pathlib import Path

import msgspec
from msgspec import Struct

from yellow_hinge.errors import BadInput, FileTrouble, Problem
from yellow_hinge.formats.files import read_bytes
from yellow_hinge.motion.counts import NAMES
from yellow_hinge.tasks.settings.own_files import keep_text, own_path
from yellow_hinge.tasks.taste.prices import Pair
from yellow_hinge.tasks.taste.said import price_words
from yellow_hinge.tasks.taste.taste import Chosen, Sure, Taken, Taste
from yellow_hinge.toml_rows import Raw, loaded, quoted, row_text, rows_in
from yellow_hinge.voicing.own_prices import LEAST_SHARE, MOST_SHARE
from yellow_hinge.voicing.recipes import Library, School

SCHEMA = "yellow-hinge/taste/1"
MAX_BYTES = 2_000_000
_MOST_COUNTED, _MOST_MORE = 1_000_000, 1000.0
#: The file of whoever gave no name: no name makes it.
_NAMELESS = "%"
_HEAD = """# A taste: what a player's prices are as shares of the program's own, learnt from their choices.
# [[price]]   id: what is paid for; share: of our price, {least:g} to {most:g}; choices: learnt from so many
# [[shape]]   id: hand and recipe; taken: how often, which orders the lists of schools
# [[song]]    what a song takes from lists: families of swaps, those given back, patterns; it orders the lists
# [[choice]]  learnt from: took, instead (grips); more: what the other one pays more of; struck: left out
# school      the one school that it is for; empty: every school
# on          whether it is learnt from songs that are saved, and new takes begin with it
# sure        of so many choices, how many our prices meet, and how many those that the other choices lead to
schema = "{schema}"
school = {school}
on = {on}
sure = {sure}
"""


class _Price(Struct, frozen=True, forbid_unknown_fields=True):
    id: str
    share: float
    choices: int = 0
    what: str = ""


class _Shape(Struct, frozen=True, forbid_unknown_fields=True):
    id: str
    taken: int


class _Choice(Struct, frozen=True, forbid_unknown_fields=True):
    id: str
    school: str
    song: str
    where: str
    took: str
    instead: str
    more: tuple[tuple[str, float], ...]
    shapes: tuple[tuple[str, int], ...] = ()
    struck: bool = False


#: What a choice says in words.
_WORDS = ("song", "where", "took", "instead")


class _Head(Struct, frozen=True):
    school: str = ""
    on: bool = True
    sure: tuple[int, int, int] = (0, 0, 0)


def taste_text(taste: Taste, school: School) -> str:
    """The file of a taste, its prices in words for a school."""
    sure = taste.sure.of, taste.sure.before, taste.sure.after
    head = _HEAD.format(
        least=LEAST_SHARE, most=MOST_SHARE, schema=SCHEMA, school=quoted(taste.school),
        on=str(taste.on).lower(), sure=list(sure),
    )  # fmt: skip
    rows = [
        row_text("price", {"id": name, "share": share, "choices": taste.choices.get(name, 0),
                           "what": price_words(name, share, school)})
        for name, share in sorted(taste.shares.items())
    ]  # fmt: skip
    rows += [row_text("shape", {"id": name, "taken": count}) for name, count in sorted(taste.shapes.items())]
    rows += [row_text("song", msgspec.structs.asdict(song)) for song in taste.songs]
    rows += [row_text("choice", _choice_out(choice)) for choice in taste.chosen]
    return "\n".join([head, *rows])


def _choice_out(choice: Chosen) -> Raw:
    pair = choice.pair
    words = {name: getattr(pair, name) for name in _WORDS}
    more = [[name, round(value, 4)] for name, value in sorted(pair.more.items())]
    shapes = [[name, count] for name, count in sorted(pair.shapes.items()) if count]
    return {
        "id": choice.id,
        "school": choice.school,
        **words,
        "more": more,
        "shapes": shapes,
        "struck": choice.struck,
    }


def read_taste(text: str, place: str) -> Taste:
    """A taste out of its file. Raises :class:`BadInput` with every bad row."""
    data = loaded(text, place)
    prices = rows_in(data, place, "price", SCHEMA, _read_price)
    shapes = rows_in(data, place, "shape", SCHEMA, _read_shape)
    songs = rows_in(data, place, "song", SCHEMA, _read_song)
    choices = rows_in(data, place, "choice", SCHEMA, _read_choice)
    head = _head_in(data, place)
    return Taste(
        {name: row.share for name, row in prices.items()},
        {name: row.taken for name, row in shapes.items()},
        head.school,
        choices={name: row.choices for name, row in prices.items()},
        chosen=tuple(_chosen(row) for row in choices.values()),
        songs=tuple(songs.values()),
        on=head.on,
        sure=Sure(*head.sure),
    )


def _chosen(row: _Choice) -> Chosen:
    words = {name: getattr(row, name) for name in _WORDS}
    pair = Pair(dict(row.more), dict(row.shapes), **words)
    return Chosen(row.id, row.school, pair, row.struck)


def open_taste(path: Path) -> Taste:
    """Read a taste's file. Raises :class:`BadInput` and :class:`FileTrouble`."""
    try:
        text = read_bytes(path, MAX_BYTES).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput(Problem(path.name, "it is no text", "choose a file that taste learn wrote")) from error
    return read_taste(text, path.name)


def keep_taste(path: Path, taste: Taste, library: Library) -> None:
    """Write it down. Raises :class:`FileTrouble`."""
    school = library.schools.get(taste.school) or next(iter(library.schools.values()))
    keep_text(path, taste_text(taste, school))


def taste_path(whose: str) -> Path:
    """Where a player's taste lies: in the configuration folder, under their name."""
    name = re.sub(r"[^\w -]", lambda sign: f"%{ord(sign[0]):x}", " ".join(whose.casefold().split()))
    return own_path("tastes") / f"{name or _NAMELESS}.toml"


def taste_of(whose: str) -> Taste | None:
    """A player's taste; None where they have none yet. Raises as :func:`open_taste`."""
    path = taste_path(whose)
    return open_taste(path) if path.exists() else None


def forget_taste(whose: str) -> None:
    """Take a player's taste away. Raises :class:`FileTrouble`."""
    path = taste_path(whose)
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        what = f"it could not be taken away ({error.strerror})"
        raise FileTrouble(Problem(str(path), what, "allow writing there")) from None


def _read_price(raw: Raw, _: Raw) -> _Price:
    row = msgspec.convert(raw, _Price)
    _check_name(row.id)
    if not LEAST_SHARE <= row.share <= MOST_SHARE:
        raise ValueError(f"a share is {LEAST_SHARE:g} to {MOST_SHARE:g}, not {row.share:g}")
    if row.choices < 0:
        raise ValueError("choices are counted from 0")
    return row


def _check_name(name: str) -> None:
    if name not in NAMES:
        raise ValueError(f"there is no price {name!r}")


def _read_song(raw: Raw, _: Raw) -> Taken:
    return msgspec.convert(raw, Taken)


def _read_shape(raw: Raw, _: Raw) -> _Shape:
    row = msgspec.convert(raw, _Shape)
    if row.id.partition(" ")[0] not in ("left", "right"):
        raise ValueError('a shape is "left" or "right", a blank, and a recipe')
    if not 0 <= row.taken <= _MOST_COUNTED:
        raise ValueError(f"how often it was taken is 0 to {_MOST_COUNTED}")
    return row


def _read_choice(raw: Raw, _: Raw) -> _Choice:
    row = msgspec.convert(raw, _Choice)
    for name, value in row.more:
        _check_name(name)
        if not abs(value) <= _MOST_MORE:
            raise ValueError(
                f"what the other one pays more is at most {_MOST_MORE:g} half steps, not {value:g}"
            )
    if not all(abs(count) <= _MOST_COUNTED for _, count in row.shapes):
        raise ValueError(f"shapes are counted up to {_MOST_COUNTED}")
    return row


def _head_in(data: Raw, place: str) -> _Head:
    try:
        head = msgspec.convert(data, _Head)
        if min(head.sure) < 0:
            raise ValueError("how sure it is is counted from 0")
    except (msgspec.ValidationError, ValueError) as error:
        raise BadInput(Problem(place, str(error), "mend the head of the file; it says how")) from None
    return head
