"""Where everything stands on a sheet, held against a table: pages, kinds of things, where they lie in the
mean in tenths of a millimetre, and a fingerprint of them all."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from hashlib import blake2b

import pytest
from msgspec.structs import asdict

from conftest import cases
from constants import numbers_of
from yellow_hinge.sheet.page import Box, Disc, Options, Picture, Sheet, Text, wrapped
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.sheets.kinds import sheet_of

from .test_pages import LIBRARY, METRICS, solved

LINES = """title: Wet Rope
composer: A. Nobody
key: Bb
meter: 6/8
[Haul] x2
| Bbmaj7 | Gm7:3 C7:3 | F7sus4 | N.C. |
melody: D5:3 F5:3 | r:6 | Eb5:6 | r:6
lyrics: pull it | - | home | -
[End]
| Bb/D | Edim7 | F7b9 | Bb6 |
line: r:6 | E5:2 G5:1 r:3 | F5:6 | D5:6
"""


def song_named(name: str) -> Song:
    return solved(LINES) if name == "wet-rope" else demo_song(name)


def sheet(name: str, kind: str, how: str) -> str:
    values: dict[str, object] = {}
    for word in how.split():
        field, _, value = word.partition("=")
        values[field] = value if value and value not in ("no", "yes") else value != "no"
    made: Sheet = sheet_of(song_named(name), LIBRARY, kind, Options(**values), METRICS)  # type: ignore[arg-type]
    told = [f"{made.title}", f"{len(made.pages)} of {made.pages[0].width:g} x {made.pages[0].height:g}"]
    items = [item for page in made.pages for item in page.items]
    for thing, count in sorted(Counter(type(item).__name__ for item in items).items()):
        own = [item for item in items if type(item).__name__ == thing]
        xs = [getattr(item, "x", getattr(item, "x1", 0.0)) for item in own]
        ys = [getattr(item, "y", getattr(item, "y1", 0.0)) for item in own]
        told.append(f"{thing} {count} {round(10 * sum(xs) / count)} {round(10 * sum(ys) / count)}")
    words = " ".join(item.words for item in items if isinstance(item, Text))
    return " | ".join([*told, f"{len(words)} {fingerprint(items)}"])


def fingerprint(items: Sequence[object]) -> str:
    """Of all things with their places to a hundredth of a millimetre; engraved pictures by their places."""
    rows = []
    for item in items:
        values = {name: value for name, value in asdict(item).items() if name != "svg"}  # type: ignore[arg-type]
        plain = (f"{name}={value:.2f}" if isinstance(value, float) else f"{name}={value}"
                 for name, value in values.items())  # fmt: skip
        rows.append(f"{type(item).__name__} {' '.join(plain)}")
    return blake2b("\n".join(rows).encode(), digest_size=5).hexdigest()


TABLES: dict[str, tuple[Callable[..., str], int]] = {"pages": (sheet, 3)}


@pytest.mark.parametrize(("name", "case", "wanted"), cases("sheet", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


@pytest.mark.parametrize(
    ("words", "width", "lines"),
    [("ab cd ef", 5, "ab cd ef"), ("ab cd ef", 7.9, "ab cd ef"), ("", 9, ""), ("abcdefgh", 3, "abcdefgh"),
     ("a b", 30, "a b")],
)  # fmt: skip
def test_words_in_lines(words: str, width: float, lines: str) -> None:
    assert " ".join(wrapped(words, width, 9, METRICS)) == lines


def test_hands_have_shapes_of_their_own_in_black_and_white() -> None:
    """Squares are the left hand's, discs the right one's, as the sheet says."""
    made = sheet_of(demo_song("copper-kite"), LIBRARY, "crib", Options(plain=True), METRICS)
    kinds = {type(item) for page in made.pages for item in page.items}
    assert {Box, Disc} <= kinds and Picture not in kinds


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("sheet")
    assert {name: now.get(name) for name in decided} == decided != {}
