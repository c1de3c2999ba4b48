"""Counts times prices are the effort: the reasons of every chord and change, taken apart."""

from __future__ import annotations

from itertools import pairwise

import pytest
from msgspec.structs import replace

from made import song_of
from yellow_hinge.motion import plan
from yellow_hinge.motion.counts import NAMES, change_counts, paid, price_of, voicing_counts
from yellow_hinge.motion.explain import explain_change, explain_voicing
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import settle
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.taste.taste import Taste, tasted
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
#: Others' prices too: a share for each name in turn.
SHARES = {name: (0.25, 0.5, 1.7, 4.0)[place % 4] for place, name in enumerate(NAMES)}


@pytest.mark.parametrize(("chart", "loaded"), [("| C | F |", 0), ("| C | F | G |", 1)])
def test_what_is_compiled_is_loaded_for_long_songs_alone(
    monkeypatch: pytest.MonkeyPatch, chart: str, loaded: int
) -> None:
    loads: list[int] = []
    monkeypatch.setattr(plan, "_LONG", 2)
    monkeypatch.setattr(plan, "warm", lambda: loads.append(1))
    voice_song(song_of(chart), LIBRARY, Planner(LIBRARY))
    assert len(loads) == loaded


@pytest.mark.parametrize("taste", [Taste(), Taste(SHARES)])
@pytest.mark.parametrize(
    ("name", "school"),
    [*((name, "solo") for name in DEMO_SONGS), ("copper-kite", "band"), ("salt-stairs", "melody"),
     pytest.param("copper-kite", "open", marks=pytest.mark.long)],
)  # fmt: skip
def test_counts_times_prices_are_the_effort(name: str, school: str, taste: Taste) -> None:
    library = tasted(LIBRARY, taste)
    answer = voice_song(settle(demo_song(name), school=school).song, library, Planner(library)).answer
    row = [(wish, voicing) for wish, voicing in zip(answer.row_wishes, answer.row, strict=True) if wish]
    whole = 0
    for wish, voicing in row:
        terms = explain_voicing(wish, voicing)
        own = sum(paid(voicing_counts(wish, voicing), wish.school).values())
        assert 0 <= own - sum(term.cost for term in terms) < max(1, len(terms) + 1)
        whole += sum(term.cost for term in terms)
    for (before, start), (after, end) in pairwise(row):
        terms = explain_change(before, after, start, end)
        assert sum(paid(change_counts(before, after, start, end), after.school).values()) == sum(
            term.cost for term in terms
        )
        whole += sum(term.cost for term in terms)
    assert whole == answer.cost


def test_counts_say_what_is_there() -> None:
    answer = voice_song(demo_song("lantern-ferry"), LIBRARY, Planner(LIBRARY)).answer
    wish, voicing = answer.row_wishes[0], answer.row[0]
    assert wish is not None
    found = voicing_counts(wish, voicing)
    left, right = len(voicing.left.keys), len(voicing.right.keys)
    assert found[f"left_self_{left}"] == found[f"right_{right}"] == 1
    assert {name for name in found if name.startswith(("left_self", "right_"))} - {"right_move"} == {
        f"left_self_{left}", f"right_{right}",
    }  # fmt: skip


@pytest.mark.parametrize(("name", "price"), [("enter", 200), ("bass_move", 64), ("still", 0)])
def test_prices_have_names(name: str, price: int) -> None:
    assert price_of(replace(LIBRARY.school("solo"), weights={}), name) == price
    notes = LIBRARY.school("solo").notes
    assert price_of(LIBRARY.school("solo"), "right_2") == notes.right[2]
