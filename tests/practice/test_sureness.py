"""What makes a change hard, how sure it is, and when it is due."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yellow_hinge.practice.build import ASPECTS, chance, hard_because, log_odds, opening
from yellow_hinge.practice.history import learnt, sure_of, weeks
from yellow_hinge.practice.log import Done, Session, Try
from yellow_hinge.practice.piece import Change, ChangeId
from yellow_hinge.practice.plan import Shelf, Wishes, plan
from yellow_hinge.practice.schedule import Memory, recall, reviewed
from yellow_hinge.practice.sureness import begun
from yellow_hinge.song.at import At

from .made import EASY, HARD, piece

NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)
DAY = timedelta(days=1)


def test_a_hard_song_is_taken_for_harder_than_an_easy_one() -> None:
    hard, easy = piece(HARD), piece(EASY)
    mean = [sum(chance(opening(c, p)) for c in p.changes) / len(p.changes) for p in (hard, easy)]
    assert mean[0] > 1.5 * mean[1]
    assert all(0.015 < chance(opening(c, p)) < 0.68 for p in (hard, easy) for c in p.changes)


def test_each_aspect_makes_it_harder_and_is_said() -> None:
    one = piece(HARD)
    for aspect in ASPECTS:
        amounts = [aspect.amount(change, one.seconds(change.quarters, one.tempo)) for change in one.changes]
        assert aspect.weight > 0 and min(amounts) >= 0 and max(amounts) < 4
        assert all(aspect.words(change) for change in one.changes)
    worst = max(one.changes, key=lambda change: opening(change, one))
    assert hard_because(worst, one).count(",") == 1
    still = piece("title: Still\nkey: C\ntempo: 60\n[A]\n| Am | Am | Am |\n")
    assert hard_because(still.changes[0], still) == "" and chance(opening(still.changes[0], still)) < 0.05


def test_faster_is_harder() -> None:
    fast = piece(EASY.replace("tempo: 60", "tempo: 240"))
    for slow_one, fast_one in zip(piece(EASY).changes, fast.changes, strict=True):
        assert opening(slow_one, piece(EASY)) <= opening(fast_one, fast)


@given(st.lists(st.tuples(st.booleans(), st.floats(0.5, 1.0)), max_size=60), st.floats(-3, 0.6))
def test_clean_tries_make_surer_and_slips_less_so(tries: list[tuple[bool, float]], start: float) -> None:
    one = begun(start)
    for clean, share in tries:
        after = one.tried(clean, share, NOON)
        assert (after.theta < one.theta) == clean
        assert after.tries == one.tries + 1 and after.slips == one.slips + (not clean)
        one = after
    assert 0 < one.slip(NOON) < 1
    assert one.slip(NOON, 0.6) < one.slip(NOON) < one.slip(NOON, 1.5)
    assert one.cautious(NOON) > one.slip(NOON)
    assert log_odds(one.slip(NOON)) == pytest.approx(max(-9.2, min(9.2, one.now(NOON))), abs=0.05)


def test_what_was_sure_fades_and_comes_back_to_where_it_began() -> None:
    one = begun(0.0)
    for _ in range(40):
        one = one.tried(True, 1.0, NOON)
    slips = [one.slip(NOON + k * DAY) for k in (0, 1, 3, 10, 40, 400)]
    assert slips == sorted(slips) and slips[0] < 0.15 and slips[0] < slips[-1] <= 0.5
    assert one.slip(NOON + timedelta(hours=8)) == slips[0]  # within a day nothing fades
    weak = begun(-2.0)
    for _ in range(20):
        weak = weak.tried(False, 1.0, NOON)
    assert weak.slip(NOON + 100 * DAY) == pytest.approx(
        weak.slip(NOON)
    )  # what was never sure is not forgotten


def test_slips_are_due_sooner_and_spaced_practice_lasts_longer() -> None:
    good, bad = begun(0.0), begun(0.0)
    for _ in range(10):
        good, bad = good.tried(True, 1.0, NOON), bad.tried(False, 1.0, NOON)

    def first_due(one: object) -> int:
        return next(k for k in range(1, 60) if one.due(NOON + k * DAY))  # type: ignore[attr-defined]

    assert first_due(bad) <= 2 < first_due(good)
    assert not good.due(NOON)
    massed = spaced = begun(0.0)
    for k in range(5):
        for _ in range(4):
            massed = massed.tried(True, 1.0, NOON + 16 * DAY)
            spaced = spaced.tried(True, 1.0, NOON + k * 4 * DAY)
    later = NOON + 46 * DAY
    assert spaced.recalled(later) > massed.recalled(later)


def test_the_schedule_is_that_of_the_library() -> None:
    from fsrs import Card, Rating, Scheduler

    own = Scheduler(learning_steps=(), relearning_steps=(), enable_fuzzing=False, maximum_interval=365)
    card, _ = own.review_card(Card(card_id=1), Rating.Good, NOON)
    card, _ = own.review_card(card, Rating.Again, NOON + 3 * DAY)
    memory = reviewed(reviewed(None, 0.1, NOON), 0.9, NOON + 3 * DAY)
    assert isinstance(memory, Memory) and memory.stability == card.stability and memory.due == card.due
    assert recall(memory, NOON + 9 * DAY) == own.get_card_retrievability(card, NOON + 9 * DAY)


# --- from the log ----------------------------------------------------------------------------------


def _try(change: ChangeId, clean: bool, at: datetime = NOON, hands: str = "both") -> Try:
    return Try(at, change, hands, "change", 100, 1.0, clean)


def test_tries_find_their_change_wherever_the_song_has_it() -> None:
    one = piece()
    twice = next(change for change in one.changes if len(change.ids) > 1) if any(
        len(change.ids) > 1 for change in one.changes) else one.changes[0]  # fmt: skip
    rows = [_try(own, True) for own in twice.ids] * 5
    sure = sure_of([one], rows, NOON)
    place = one.changes.index(twice)
    assert sure[place].tries == len(rows)
    assert all(sure[k].tries == 0 for k in range(len(one.changes)) if k != place)
    assert learnt([one], sure_of([one], rows[:2], NOON), rows[2:])[place] == sure[place]


def test_another_key_or_take_begins_half_as_sure() -> None:
    one = piece()
    own = max(one.changes, key=lambda change: opening(change, one))
    other = ChangeId(own.id.song, own.id.take + 7, own.id.start, own.id.end, "B")
    sure = sure_of([one], [_try(other, True) for _ in range(40)], NOON)
    place, begun_with = one.changes.index(own), chance(opening(own, one))
    assert sure[place].tries == 0 and sure[place].slip(NOON) < begun_with
    here = sure_of([one], [_try(own.id, True) for _ in range(40)], NOON)
    assert here[place].slip(NOON) < sure[place].slip(NOON)


def test_a_song_that_is_not_there_any_more_is_no_trouble() -> None:
    gone = ChangeId("gone", 0, At(1), At(2), "C")
    assert [one.tries for one in sure_of([piece()], [_try(gone, False)], NOON)] == [0] * len(piece().changes)


def test_one_hand_tells_less_than_both() -> None:
    one = piece()
    both = sure_of([one], [_try(one.changes[0].id, True)], NOON)[0]
    left = sure_of([one], [_try(one.changes[0].id, True, hands="left")], NOON)[0]
    assert both.theta < left.theta < left.opening


def test_weeks_without_practice_are_weeks_too() -> None:
    change = piece().changes[0].id
    rows = [_try(change, True, NOON - 14 * DAY), _try(change, False, NOON), _try(change, True, NOON)]
    session = Session(1, NOON, 20, (), (), (Done(0, NOON, 12.5, 96), Done(1, NOON - 14 * DAY, 3.0, 80)))
    found = weeks([session], rows, NOON)
    assert [week.minutes for week in found] == [3.0, 0, 12.5]
    assert [week.tries for week in found] == [1, 0, 2] and found[-1].clean == 0.5
    assert all(week.monday.weekday() == 0 for week in found)
    assert len(weeks([], [], NOON)) == 1


def test_a_change_in_words() -> None:
    change: Change = piece().changes[0]
    assert change.words == "Fmaj7 to D7♭9"


# --- clocks ---

ODD_MOMENTS = st.builds(
    lambda day, hour, zone: datetime(2028, 2, 29, hour, tzinfo=timezone(timedelta(hours=zone))) + day * DAY,
    st.integers(-4000, 4000), st.integers(0, 23), st.integers(-12, 14),
)  # fmt: skip


@given(st.lists(st.tuples(ODD_MOMENTS, st.booleans()), max_size=12), ODD_MOMENTS)
def test_whatever_the_clock_says_a_log_can_be_gone_on_with(
    rows: list[tuple[datetime, bool]], moment: datetime
) -> None:
    one = piece(EASY)
    tries = [Try(at, one.changes[0].ids[0], "both", "change", 60, 1.0, clean) for at, clean in rows]
    sure = sure_of([one], tries, moment)
    assert sure[0].tries == len(rows) and 0 < sure[0].slip(moment) < 1
    assert (sure[0].days_since(moment) or 0) >= 0 and (sure[0].last or moment) <= moment
    later = moment + 400 * DAY
    assert not rows or sure[0].due(later)
    weeks([], tries, moment)
    assert plan(Shelf((one,), sure, moment), Wishes(20))


def test_an_evening_by_a_clock_that_was_ten_years_ahead_puts_nothing_off() -> None:
    one = piece(EASY)
    change = one.changes[0].ids[0]
    right, ahead = (Try(at, change, "both", "change", 60, 1.0, True) for at in (NOON, NOON + 3650 * DAY))
    for rows in ([right, ahead], [ahead, right], [ahead]):
        sure = sure_of([one], rows, NOON + DAY)[0]
        assert sure.days_since(NOON + DAY) == (1 if right in rows else 0)
    assert sure_of([one], [right, ahead], NOON + 100 * DAY)[0].due(NOON + 100 * DAY)
    back = begun(0.0).tried(True, 1.0, NOON).tried(True, 1.0, NOON - 30 * DAY)
    assert back.last == NOON and back.day_tries == 2
