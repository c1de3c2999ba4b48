"""Filters in a player's words, against a plain reading of each pair of hands."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from made import song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.tasks.grips.shape_desk import Everything, ShapeDesk
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.voicing.filters import OFFERED, kept, read_filters
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

LEFT = (
    HandShape((36,), ("R",), "single-bass"), HandShape((36, 48), ("R", "R"), "octave-bass"),
    HandShape((40, 48), ("3", "R"), "x"), HandShape((41, 52), ("11", "b3"), "v"), HandShape(),
)  # fmt: skip
RIGHT = (
    HandShape((64, 67, 72), ("3", "5", "R"), "close-triad"), HandShape((63, 67, 70), ("b3", "5", "b7"), "y"),
    HandShape((69, 81), ("13", "13"), "z"), HandShape((62,), ("9",), "w"), HandShape(),
)  # fmt: skip

Plain = Callable[[Voicing], bool]
READINGS: dict[str, Plain] = {
    "root position": lambda v: v.degrees[0] == "R",
    "First  Inversion": lambda v: v.degrees[0] in ("3", "b3"),
    "3 on top": lambda v: v.degrees[-1] in ("3", "b3"),
    "♭7 on top": lambda v: v.degrees[-1] == "b7",
    "1 on top": lambda v: v.degrees[-1] == "R",
    "3 at the bottom": lambda v: v.degrees[0] in ("3", "b3"),
    "contains A4": lambda v: 69 in v.keys,
    "contains a4": lambda v: 69 in v.keys,
    "contains C": lambda v: any(key % 12 == 0 for key in v.keys),
    "with 9": lambda v: "9" in v.degrees,
    "without 5": lambda v: not {"5", "b5", "#5"} & set(v.degrees),
    "four notes": lambda v: len(v.keys) == 4,
    "3 notes": lambda v: len(v.keys) == 3,
    "left one note": lambda v: len(v.left.keys) == 1,
    "right three notes": lambda v: len(v.right.keys) == 3,
    "left octave": lambda v: v.left.keys == (36, 48),
    "right octave": lambda v: v.right.keys == (69, 81),
    "right close triad": lambda v: v.right.recipe == "close-triad",
    "octaves": lambda v: "octave-bass" in (v.left.recipe, v.right.recipe),
}


@pytest.mark.parametrize("words", READINGS)
def test_a_filter_keeps_what_its_words_say(words: str, library: Library) -> None:
    mask = kept(read_filters(words, library), LEFT, RIGHT)
    for i, left in enumerate(LEFT):
        for j, right in enumerate(RIGHT):
            if not (left.keys or right.keys):
                continue
            assert mask[i, j] == READINGS[words](Voicing(left, right)), (words, left, right)
    assert mask.any() and not mask.all()


def test_several_filters_all_hold(library: Library) -> None:
    both = kept(read_filters("root position, four notes;", library), LEFT, RIGHT)
    apart = [kept(read_filters(words, library), LEFT, RIGHT) for words in ("root position", "four notes")]
    assert (both == (apart[0] & apart[1])).all()
    assert kept(read_filters(" , ", library), LEFT, RIGHT).all()


@pytest.mark.parametrize("words", ["purple", "3 on", "contains H9", "left", "99 on top"])
def test_what_is_not_understood_is_said_with_what_could_be(words: str, library: Library) -> None:
    with pytest.raises(BadInput, match="is not understood") as caught:
        read_filters(f"root position, {words}", library)
    assert words in str(caught.value) and "3 on top" in str(caught.value)


@pytest.fixture(scope="module")
def everything() -> Everything:
    song = Session(builtin_library()).row(song_of("| C | Am7 | Dm7 | G7 |")).voiced
    assert song is not None
    return ShapeDesk(builtin_library()).everything(song.song, 2, lambda _: True)


def test_everything_is_there_the_least_effort_first(everything: Everything) -> None:
    every = everything.filtered("")
    assert len(every) == len(everything) > 200
    extras = [every[k].extra for k in range(len(every))]
    assert extras == sorted(extras) and extras[0] == 0 and extras[-1] < FORBIDDEN
    assert every[0].voicing == everything.song.voicing(2)
    ranked = Session(builtin_library())(everything.song, 12).alternatives[2]
    assert [one.extra for one in ranked] == extras[:12]


def test_counts_say_what_a_click_would_leave(everything: Everything) -> None:
    counts = dict(everything.counts("root position"))
    assert counts and set(counts) <= set(OFFERED) and all(counts.values())
    for words, count in counts.items():
        assert len(everything.filtered(f"root position, {words}")) == count
    shown = everything.filtered("3 on top, left one note")
    assert 0 < len(shown) < len(everything)
    for k in range(len(shown)):
        voicing = shown[k].voicing
        assert voicing.degrees[-1] == "b3" and len(voicing.left.keys) == 1
    assert np.all(np.diff(everything.ranking.extra.ravel()[shown.order]) >= 0)
