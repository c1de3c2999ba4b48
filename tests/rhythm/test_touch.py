"""How hard notes are struck: meter, phrase, voices; and a person's unevenness."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.perform import BarAt
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.rhythm.touch import (
    APART_MS,
    BETWEEN,
    DOWNBEAT,
    LATE_MS,
    MIDDLE,
    SWELL,
    UNEVEN,
    VOICED,
    Edges,
    as_a_person,
    phrases_of,
    shaped,
    swell,
    weight,
)

F = Fraction


def bars(count: int) -> list[BarAt]:
    return [BarAt(4 * F(k), Meter(4, 4)) for k in range(count)]


@pytest.mark.parametrize(
    ("meter", "row"),
    [
        (Meter(4, 4), {0: DOWNBEAT, 1: 0, 2: MIDDLE, 3: 0, F(1, 2): BETWEEN, F(7, 2): BETWEEN}),
        (Meter(3, 4), {0: DOWNBEAT, 1: 0, 2: 0, F(3, 2): BETWEEN}),
        (Meter(6, 8), {0: DOWNBEAT, F(3, 2): MIDDLE, 1: BETWEEN}),
        (Meter(5, 4), {0: DOWNBEAT, 2: 0, 4: 0}),
    ],
)
def test_places_of_a_bar(meter: Meter, row: dict[Fraction, int]) -> None:
    assert {at: weight(float(at), meter) for at in row} == row


@pytest.mark.parametrize(
    ("count", "sections", "lengths"),
    [
        (8, [0], [4, 4]), (4, [0], [4]), (1, [0], [1]), (5, [0], [5]), (6, [0], [4, 2]), (9, [0, 4], [4, 5]),
        (3, [0, 1], [1, 2]), (0, [0], []),
    ],
)  # fmt: skip
def test_phrases_are_four_bars_from_each_section_on(
    count: int, sections: list[int], lengths: list[int]
) -> None:
    found = phrases_of(bars(count), sections, F(4 * count))
    assert [(end - start) / 4 for start, end in found] == lengths
    assert [start for start, _ in found] == [sum(lengths[:k]) * 4 for k in range(len(lengths))]


def test_a_phrase_rises_by_twelve_and_falls_back() -> None:
    assert swell(0) == pytest.approx(-SWELL / 2) and swell(1) == pytest.approx(-SWELL / 2)
    assert swell(0.6) == pytest.approx(SWELL / 2)
    rise = [swell(k / 20) for k in range(13)]
    fall = [swell(k / 20) for k in range(12, 21)]
    assert rise == sorted(rise) and fall == sorted(fall, reverse=True)


def test_top_and_bass_are_voiced_out() -> None:
    edges = {0: Edges(48, 72), 1: Edges(None, None)}
    keys = [(48, "left"), (40, "left"), (55, "left"), (64, "right"), (72, "right"), (74, "right")]
    row = [NoteEvent(F(1), key, F(1), 64, part, 0) for key, part in keys]  # type: ignore[arg-type]
    found = [one.velocity - 64 for one in shaped(row, bars(1), [], edges)]
    bass, top, inner = VOICED["bass"], VOICED["top"], VOICED["inner"]
    assert found == [bass, bass, inner, inner, top, top]
    others = [
        NoteEvent(F(1), 72, F(1), 64, "right", 1), NoteEvent(F(1), 72, F(1), 64, "riff", 0),
        NoteEvent(F(1), 72, F(1), 64, "right", 0, ornament=True), NoteEvent(F(1), 72, F(1), 64, "right", 5),
        NoteEvent(F(1), 36, F(1), 64, "drums", 0),
    ]  # fmt: skip
    assert [one.velocity for one in shaped(others, bars(1), [], edges)] == [64 + inner, 64, 64, 64, 64]


@pytest.mark.parametrize(("velocity", "found"), [(127, 127), (1, 1), (60, 54), (122, 116)])
def test_nothing_leaves_the_keyboard_of_touch(velocity: int, found: int) -> None:
    row = [NoteEvent(F(1), 60, F(1), velocity, "melody", 0)]
    assert shaped(row, bars(1), [(F(1), F(2))], {})[0].velocity == max(1, found if velocity != 127 else 121)


hands = st.lists(
    st.builds(
        lambda at, key, lasts, part: NoteEvent(F(at, 4), key, F(lasts, 4), 64, part, 0),
        st.integers(0, 16), st.integers(40, 80), st.integers(1, 8),
        st.sampled_from(["left", "right", "riff", "melody", "bass", "drums", "click"]),
    ),
    max_size=12,
)  # fmt: skip


@given(hands, st.integers(1, 9))
def test_a_person_is_never_early_and_ends_on_time(row: list[NoteEvent], seed: int) -> None:
    found = as_a_person(row, seed, lambda _: 600.0)
    assert found == as_a_person(row, seed, lambda _: 600.0) and len(found) == len(row)
    for before, after in zip(row, found, strict=True):
        late_ms = float(after.start_quarters - before.start_quarters) * 600
        assert 0 <= late_ms <= LATE_MS + 1 and after.end_quarters == before.end_quarters
        assert abs(after.velocity - before.velocity) <= UNEVEN
        if before.part in ("drums", "click"):
            assert after == before
    by_stroke: dict[tuple[str, Fraction], list[float]] = {}
    for before, after in zip(row, found, strict=True):
        late = float(after.start_quarters - before.start_quarters) * 600
        if before.quarters >= 1:
            by_stroke.setdefault((before.part, before.start_quarters), []).append(late)
    assert all(max(late) - min(late) <= APART_MS + 1 for late in by_stroke.values())


def test_without_a_seed_nothing_is_uneven() -> None:
    row = [NoteEvent(F(0), 60, F(1), 64, "right", 0), NoteEvent(F(0), 64, F(1), 64, "right", 0)]
    assert as_a_person(row, 0, lambda _: 600.0) == row
    assert as_a_person(row, 1, lambda _: 600.0) != as_a_person(row, 2, lambda _: 600.0)
