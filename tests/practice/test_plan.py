"""Plans: minutes add up, the weakest first, breaks by the clock, the end on what works."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from yellow_hinge.practice.build import opening
from yellow_hinge.practice.drills import MOST_CHAIN, Drill
from yellow_hinge.practice.forecast import days_ahead
from yellow_hinge.practice.keeping import found_again, kept
from yellow_hinge.practice.plan import BETWEEN_BREAKS, REST, Block, Shelf, Wishes, plan, tempi
from yellow_hinge.practice.portions import Market, drills_of, share_for
from yellow_hinge.practice.sureness import Sureness, begun

from .made import EASY, HARD, piece

NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)
DAY = timedelta(days=1)
PIECES = (piece(), piece(HARD), piece(EASY))


def shelf(weak: dict[int, float] | None = None, pieces: tuple = PIECES, now: datetime = NOON) -> Shelf:  # type: ignore[type-arg]
    sure = [begun(opening(change, one)) for one in pieces for change in one.changes]
    for place, theta in (weak or {}).items():
        sure[place] = replace(sure[place], theta=theta, opening=theta)
    return Shelf(pieces, sure, now)


def practised(one: Sureness, clean: int, slips: int, when: datetime) -> Sureness:
    for _ in range(slips):
        one = one.tried(False, 0.9, when)
    for _ in range(clean):
        one = one.tried(True, 0.9, when)
    return one


@settings(max_examples=25, deadline=None)
@given(st.floats(1, 90), st.booleans(), st.integers(0, 20))
def test_minutes_add_up_and_every_block_has_its_reason(minutes: float, apart: bool, weak: int) -> None:
    blocks = plan(shelf({weak: 1.5}), Wishes(minutes, apart))
    assert sum(block.minutes for block in blocks) == pytest.approx(minutes, abs=0.06)
    for block in blocks:
        assert block.why and block.what and block.minutes > 0
        if block.drill is None:
            assert block == REST
            continue
        one = PIECES[block.drill.piece]
        assert 20 <= block.from_tempo <= block.to_tempo <= one.tempo
        assert all(0 <= first < last < len(one.stands) for first, last in block.drill.spans)
        assert block.drill.changes(one) and block.hands in ("left", "right", "both")
        assert block.kind != "chain" or block.drill.last - block.drill.first <= MOST_CHAIN
    assert blocks[-1].why == "ends on what works" and blocks[-1].drill is not None


def test_breaks_come_by_the_clock() -> None:
    blocks = plan(shelf(), Wishes(60))
    since, breaks = 0.0, 0
    for block in blocks:
        since = 0.0 if block.drill is None else since + block.minutes
        breaks += block.drill is None
        assert since <= BETWEEN_BREAKS + 5
    assert breaks == 3 and blocks[0].drill is not None and blocks[-1].drill is not None
    assert not any(block.drill is None for block in plan(shelf(), Wishes(12)))


def test_the_weakest_change_comes_first_alone_and_then_in_its_surroundings() -> None:
    blocks = plan(shelf({5: 2.5}), Wishes(12))
    first, second = blocks[0], blocks[1]
    assert first.drill is not None and second.drill is not None
    assert first.kind in ("change", "spots") and 5 in first.drill.changes(PIECES[0])
    assert second.kind in ("chain", "section") and 5 in second.drill.changes(PIECES[0])


def test_hands_apart_only_where_it_is_wanted() -> None:
    hands = [block.hands for block in plan(shelf({5: 2.5, 6: 2.0}), Wishes(30, apart_first=True))]
    at = hands.index("left")
    assert sorted(hands[at : at + 2]) == ["left", "right"] or sorted(hands[at - 1 : at + 1]) == [
        "left",
        "right",
    ]
    assert hands[at + 2] == "both" or hands[at + 1] == "both"
    assert "left" not in [block.hands for block in plan(shelf({5: 2.5}), Wishes(30))]


def test_reasons_are_what_happened() -> None:
    one = shelf()
    yesterday = NOON - DAY
    sure = list(one.sure)
    sure[3] = practised(sure[3], 1, 2, yesterday)
    blocks = plan(Shelf(PIECES, sure, NOON), Wishes(20))
    assert any("slipped twice yesterday" in block.why for block in blocks)
    long_ago = [practised(one, 12, 0, NOON - 40 * DAY) for one in shelf().sure]
    assert any("due after 40 days" in block.why for block in plan(Shelf(PIECES, long_ago, NOON), Wishes(20)))
    assert all(block.why.startswith(("new", "ends", "loosen")) for block in plan(shelf(), Wishes(20)))


def test_what_was_practised_today_gives_way() -> None:
    fresh = plan(shelf({2: 1.5}), Wishes(5))
    assert fresh[0].drill is not None and 2 in fresh[0].drill.changes(PIECES[0])
    sure = list(shelf({2: 1.5}).sure)
    sure[2] = practised(sure[2], 60, 0, NOON)
    after = plan(Shelf(PIECES, sure, NOON), Wishes(5))
    assert after[0].drill is not None and not (
        after[0].drill.piece == 0 and 2 in after[0].drill.changes(PIECES[0])
    )


def test_tempo_begins_slow_and_never_more_than_a_step_above_what_was_clean() -> None:
    drill = Drill("change", 1, ((0, 1),))
    one = shelf()
    start, goal = tempi(one, drill)
    assert start <= 0.71 * PIECES[1].tempo and start < goal <= PIECES[1].tempo
    at = one.offsets[1] + PIECES[1].row[0]
    sure = list(one.sure)
    for _ in range(30):
        sure[at] = sure[at].tried(True, 0.8, NOON - DAY)
    later, _ = tempi(Shelf(PIECES, sure, NOON), drill)
    assert start < later <= round(0.8 * 1.06 * PIECES[1].tempo) + 1
    assert share_for(0.0) == 1.0 and share_for(0.9) < share_for(0.3) < 1.0


def test_from_start_to_end_is_the_songs_in_their_order() -> None:
    blocks = [block for block in plan(shelf(), Wishes(20, order="song")) if block.drill is not None]
    assert [block.drill.piece for block in blocks if block.drill] == [0, 1, 2]
    assert {block.why for block in blocks} == {"from start to end"}


def test_one_new_key_a_day_once_the_song_works() -> None:
    home = piece(EASY)
    copies = (replace(home, key="G"), replace(home, key="D"))
    pieces = (home, *copies)
    sure = [begun(-1.0) for _ in range(3 * len(home.changes))]
    weak = Shelf(pieces, sure, NOON, 1)
    assert not any(block.drill is not None and block.drill.piece > 0 for block in plan(weak, Wishes(20)))
    good = [
        replace(one, theta=-4.0, tries=30) if k < len(home.changes) else one for k, one in enumerate(sure)
    ]
    blocks = plan(Shelf(pieces, good, NOON, 1), Wishes(20))
    keys = [block for block in blocks if block.drill is not None and block.drill.piece > 0]
    assert [block.why for block in keys] == ["a new key: G"]
    tried = [practised(one, 3, 0, NOON) if len(home.changes) <= k < 2 * len(home.changes) else one
             for k, one in enumerate(good)]  # fmt: skip
    assert not any(block.why == "a new key: D" for block in plan(Shelf(pieces, tried, NOON, 1), Wishes(20)))
    assert any(block.why == "a new key: D" for block in plan(Shelf(pieces, tried, NOON + DAY, 1), Wishes(20)))


def test_a_new_key_takes_the_longest_phrase_first_and_then_the_longest_section() -> None:
    text = (
        "title: Rope\nkey: C\n[A]\n| C | F |\n[B]\n| Am | Dm | G7 | Em | Am | Dm | G7 | C |\n[C]\n| F | C |\n"
    )
    home = piece(text)
    there = replace(home, key="G")
    count = len(home.changes)
    known = [replace(begun(-1.0), theta=-4.0, tries=30) for _ in range(count)]
    for new, span in (
        ([begun(-1.0)] * count, max(home.phrases, key=lambda span: span[1] - span[0])),
        (
            [practised(begun(-1.0), 3, 9, NOON)] * count,
            max(home.sections, key=lambda span: span[1] - span[0]),
        ),
    ):
        blocks = plan(Shelf((home, there), [*known, *new], NOON + DAY, 1), Wishes(20))
        spans = [block.drill.spans for block in blocks if block.drill is not None and block.drill.piece == 1]
        assert spans == [(span,)] and span[0] > 0


def test_nothing_to_practise_is_no_plan() -> None:
    assert plan(Shelf((), (), NOON), Wishes(20)) == ()
    assert plan(shelf(), Wishes(0)) == ()
    lonely = piece("title: One\nkey: C\n[A]\n| C |\n")
    assert plan(Shelf((lonely,), (), NOON), Wishes(20)) == ()


def test_the_first_portion_goes_where_brute_force_says() -> None:
    """One portion, every drill tried by hand: the gain in the sum of slips to a power, by the second."""
    from yellow_hinge.practice import portions as p

    one = piece(HARD)
    rng = np.random.default_rng(3)
    for _ in range(20):
        slips = rng.uniform(0.01, 0.7, len(one.changes))
        tried, today = (
            rng.integers(0, 60, len(slips)).astype(float),
            rng.integers(0, 20, len(slips)).astype(float),
        )
        market = Market([one], slips)
        chosen = market.spend(slips, tried, today, 1.0)
        best, least = None, -1.0
        for number, drill in enumerate(drills_of(one, 0)):
            given: dict[int, float] = {}
            for _, change, back in drill.round(one):
                if change >= 0:
                    given[change] = given.get(change, 0.0) + (p.BACK if back else 1.0)
            mean = float(np.mean([slips[k] for k in given]))
            seconds = drill.round_seconds(one, one.tempo * share_for(mean))
            rounds = max(1.0, float(np.ceil(p.PORTION_S / seconds)))
            gain = 0.0
            for change, tries in given.items():
                rate = p.RATE / (1 + tried[change] / p.OLD)
                more = p.FULL * np.log((p.FULL + today[change] + tries * rounds) / (p.FULL + today[change]))
                gain += slips[change] ** p.WEAK - (slips[change] * np.exp(-rate * more)) ** p.WEAK
            if gain / (rounds * seconds) > least:
                best, least = number, gain / (rounds * seconds)
        assert list(chosen.seconds) == [best]


def test_every_stretch_is_drilled_once() -> None:
    for one in PIECES:
        drills = list(drills_of(one, 0))
        rows = [tuple(one.row[first:last]) for drill in drills for first, last in drill.spans]
        assert len(rows) == len(set(rows)) and {"change", "chain", "song"} <= {drill.kind for drill in drills}
        assert {change for row in rows if len(row) == 1 for change in row} == set(range(len(one.changes)))


def test_blocks_are_kept_and_found_again() -> None:
    for block in plan(shelf(), Wishes(40, apart_first=True)):
        row = json.loads(json.dumps(kept(block, PIECES)))
        assert found_again(row, PIECES) == (block if block.drill is not None else REST)
        assert found_again(row, PIECES[::-1]) is not None or block.drill is None
    row = kept(next(b for b in plan(shelf(), Wishes(20)) if b.drill is not None), PIECES)
    wrong: list[dict[str, object]] = [
        {"song": "other"}, {"stands": 3}, {"spans": [[0, 99]]}, {"spans": [["a", 2]]}, {"kind": "dance"},
        {"hands": "feet"}, {"spans": []}, {"minutes": None},
    ]  # fmt: skip
    for change in wrong:
        assert found_again({**row, **change}, PIECES) is None


def test_the_days_to_come() -> None:
    days = list(days_ahead(shelf(), Wishes(15), 4))
    assert len(days) == 4 and all(sum(b.minutes for b in day) == pytest.approx(15, abs=0.06) for day in days)
    assert days[0] == plan(shelf(), Wishes(15)) and len(set(days)) == 4
    assert all(isinstance(block, Block) for day in days for block in day)
