"""The simulated player: learns, forgets, slips by weakness; and what plans do for it."""

from __future__ import annotations

import math

import numpy as np
import pytest

from yellow_hinge.practice.learner import BACK_TEACHES, DAY_FULL, SLIP_TEACHES, Law, Learner, massed
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.simulate import Day, Order, Simulation

from .made import CHART, EASY, HARD, piece

LAWS: tuple[Law, ...] = ("power", "exponential")
PIECES = (piece(), piece(HARD), piece(EASY))


def player(law: Law, seed: int = 1, days: int = 60) -> Learner:
    return Learner.made([0.0, -1.0, -2.0], law, days, seed)


@pytest.mark.parametrize("law", LAWS)
def test_it_learns_by_playing_down_to_a_floor(law: Law) -> None:
    one = player(law)
    before = one.chances().copy()
    for _ in range(30):
        for _ in range(20):
            one.plays(0, 1.0)
        one.next_day()
    after = one.chances()
    assert after[0] < before[0] / 3 and list(after[1:]) == list(before[1:])
    one.gained[:] = 1e9
    one.next_day()
    assert np.allclose(one.chances(), one.floor, atol=1e-3) and (one.floor > 0).all()


@pytest.mark.parametrize("law", LAWS)
def test_it_forgets_and_never_beyond_where_it_began(law: Law) -> None:
    one = player(law)
    start = one.chances()[0]
    for _ in range(40):
        one.plays(0, 1.0)
    one.next_day()
    fresh = one.chances()[0]
    weeks = []
    for _ in range(50):
        one.next_day()
        weeks.append(one.chances()[0])
    assert weeks == sorted(weeks) and fresh < weeks[-1] <= start


def test_from_start_to_end_goes_on_with_the_next_song() -> None:
    days = Simulation(PIECES, "power", 12, 2.0, 3)
    for _ in days.run("song"):
        pass
    ends = np.cumsum([len(one.changes) for one in PIECES])
    order = [int(np.searchsorted(ends, change, side="right")) for _, change, *_ in days.played]
    turns = [number for place, number in enumerate(order) if not place or number != order[place - 1]]
    assert len(turns) > 4 and turns == [place % 3 for place in range(len(turns))]


def test_many_tries_on_one_day_give_less_than_on_several() -> None:
    assert (
        massed(np.array([DAY_FULL]))[0] < DAY_FULL
        and massed(np.array([40.0]))[0] < 2 * massed(np.array([20.0]))[0]
    )
    spread, at_once = player("power"), player("power")
    for day in range(4):
        spread.tries_today[0] += 15
        at_once.tries_today[0] += 60 * (day == 3)
        spread.next_day()
        at_once.next_day()
    assert spread.chances()[0] < at_once.chances()[0]


def test_slower_is_easier_and_slips_teach_less() -> None:
    one = player("power")
    assert one.chance(0, 0.5) < one.chance(0, 0.8) < one.chance(0, 1.0) < one.chance(0, 1.4)
    assert one.chance(1, 1.0) == pytest.approx(one.chances()[1])
    one.start[:] = 0.999
    one.floor[:] = 0.998
    assert not one.plays(0, 1.0) and one.tries_today[0] == SLIP_TEACHES
    one.start[:], one.floor[:] = 1e-6, 1e-7
    assert one.plays(0, 1.0) and one.tries_today[0] == SLIP_TEACHES + 1
    one.came_back(0)
    assert one.tries_today[0] == SLIP_TEACHES + 1 + BACK_TEACHES


def test_the_same_seed_is_the_same_player() -> None:
    def days(seed: int) -> list[Day]:
        return list(Simulation(PIECES, "power", 5, 15, seed).run("weakest"))

    assert days(3) == days(3) != days(4)


def test_slips_come_as_often_as_they_should() -> None:
    one = player("power", days=5)
    one.need[:] = 1e12  # learns nothing
    for change in range(3):
        wanted = one.chances()[change]
        slips = sum(not one.plays(change, 1.0) for _ in range(4000))
        assert abs(slips / 4000 - wanted) < 4 * (wanted * (1 - wanted) / 4000) ** 0.5


def test_it_strikes_about_in_time() -> None:
    one = player("power")
    offs = [one.struck_at() for _ in range(2000)]
    assert abs(np.mean(offs) - 0.005) < 0.003 and 0.02 < np.std(offs) < 0.03


@pytest.mark.parametrize("order", ["weakest", "song", "worst"])
def test_all_orders_spend_the_same_minutes(order: Order) -> None:
    simulation = Simulation(PIECES, "power", 3, 20, 1)
    days = list(simulation.run(order))
    assert [day.minutes for day in days] == [20, 20, 20] and [day.day for day in days] == [1, 2, 3]
    seconds = 0.0
    offsets = np.cumsum([0, *(len(one.changes) for one in PIECES)])
    for _, number, share, _, _ in simulation.played:
        at = int(np.searchsorted(offsets, number, "right")) - 1
        change = PIECES[at].changes[number - offsets[at]]
        seconds += PIECES[at].seconds(change.quarters, PIECES[at].tempo * share)
    playing = 3 * 19 * 60  # a minute of each day is a break
    assert 0.3 * playing < seconds <= playing * 1.02
    assert days[-1].mean < days[0].mean


def _harder(chart: str, key: str) -> Piece:
    return piece(chart.replace("key: F", f"key: {key}").replace("title: ", f"title: {key} "))


@pytest.mark.long
@pytest.mark.parametrize("law", LAWS)
def test_the_plan_beats_playing_from_start_to_end(law: Law) -> None:
    """Three songs and few minutes, so that nothing is perfect at the end; the benchmark has it all."""
    ratios = []
    for seed in range(16):
        rows = {order: list(Simulation(PIECES, law, 12, 6, seed).run(order))[-1] for order in ORDERS}
        ratios.append((rows["weakest"].worst / rows["song"].worst, rows["weakest"].mean / rows["song"].mean))
    assert np.mean([worst for worst, _ in ratios]) <= 0.9
    assert np.mean([mean for _, mean in ratios]) <= 1.0


ORDERS: tuple[Order, ...] = ("weakest", "song")


def test_what_was_played_goes_into_the_log_as_tries() -> None:
    simulation = Simulation((piece(CHART),), "power", 1, 5, 1)
    list(simulation.run("weakest"))
    tries = list(simulation.tries)
    assert len(tries) == len(simulation.played) > 30
    known = {own for change in piece(CHART).changes for own in change.ids}
    assert {one.change for one in tries} <= known and {one.drill for one in tries} & {
        "change",
        "chain",
        "song",
    }
    assert all(one.tempo == pytest.approx(one.share * 100) for one in tries)


def learner(law: Law) -> Learner:
    """A player of two changes, of whom everything is known."""
    start, floor, need = np.array([0.5, 0.3]), np.array([0.1, 0.03]), np.array([10.0, 20.0])
    return Learner(law, start, floor, need, 60, rng=np.random.default_rng(1))


@pytest.mark.parametrize(
    ("law", "ages", "wanted"),
    [
        ("power", (0, 1, 15, 80), (1, 2**-0.25, 0.5, 1 / 3)),
        ("exponential", (0, 25, 50), (1, 1 / math.e, 1 / math.e**2)),
    ],
)
def test_what_was_gained_fades_by_its_law(law: Law, ages: tuple[int, ...], wanted: tuple[float, ...]) -> None:
    assert learner(law).fading(np.array(ages, dtype=float)) == pytest.approx(wanted)


@pytest.mark.parametrize(
    ("law", "strength", "wanted"),
    [
        ("power", 0, (0.5, 0.3)), ("power", 10, (0.1 + 0.4 * 2**-0.9, 0.03 + 0.27 * 1.5**-0.9)),
        ("exponential", 20, (0.1 + 0.4 / math.e**2, 0.03 + 0.27 / math.e)),
    ],
)  # fmt: skip
def test_strength_lowers_what_can_be_lowered(law: Law, strength: float, wanted: tuple[float, ...]) -> None:
    assert learner(law).by_strength(np.full(2, float(strength))) == pytest.approx(wanted)


@pytest.mark.parametrize("law", ["power", "exponential"])
def test_a_chance_is_that_of_the_tries_and_the_tempo(law: Law) -> None:
    """Of today at once, of the days before as it fades; a doubled tempo adds 1.4 to the log-odds."""
    player = learner(law)
    player.tries_today[:] = 20
    assert player.chances() == pytest.approx(player.by_strength(np.full(2, 20 * math.log(2))))
    player.next_day()
    player.next_day()
    kept = 20 * math.log(2) * player.fading(np.array([2.0]))
    assert player.chances() == pytest.approx(player.by_strength(np.full(2, float(kept[0]))))
    for change in range(2):
        slow, fast = (player.chance(change, share) for share in (1.0, 2.0))
        assert slow == pytest.approx(player.chances()[change])
        assert math.log(fast / (1 - fast)) - math.log(slow / (1 - slow)) == pytest.approx(1.4)


def test_a_slip_teaches_half_and_the_way_back_less() -> None:
    player = learner("power")
    player.start[:], player.floor[:] = (1 - 1e-12, 1e-12), (0.999_999, 1e-13)  # slips always, never
    assert not player.plays(0, 1.0) and player.plays(1, 1.0)
    assert player.tries_today.tolist() == [0.5, 1.0]
    player.came_back(0)
    assert player.tries_today.tolist() == [0.9, 1.0]
