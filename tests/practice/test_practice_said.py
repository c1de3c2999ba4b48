"""What is heard, estimated and planned in practice, held against tables of numbers: every tolerance, step and
weight is a decision."""

from __future__ import annotations

import random
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from fractions import Fraction

import pytest

from conftest import cases
from constants import numbers_of
from yellow_hinge.practice.build import crossings, finger_changes, opening
from yellow_hinge.practice.drills import Drill, Hands
from yellow_hinge.practice.forecast import days_ahead
from yellow_hinge.practice.history import sure_of, weeks
from yellow_hinge.practice.ladder import Ladder
from yellow_hinge.practice.learner import Learner
from yellow_hinge.practice.listening import (
    Listener,
    Note,
    Played,
    Tolerance,
    Verdict,
    hands_that_slipped,
    judged,
    latency,
)
from yellow_hinge.practice.log import Done, Session, Try
from yellow_hinge.practice.plan import Block, Shelf, Wishes, plan, tempi
from yellow_hinge.practice.portions import share_for, weak
from yellow_hinge.practice.strokes import backing, clicks, count_at, demonstration, length_of, strokes_of
from yellow_hinge.practice.sureness import Sureness, begun, moved_in
from yellow_hinge.practice.words import advice, round_words
from yellow_hinge.rhythm.time import Meter

from .made import CHART, EASY, HARD, piece, song

NOON = datetime(2026, 3, 4, 12, tzinfo=UTC)
TEXTS = {"tar": CHART, "iron": HARD, "flat": EASY}


def faults(verdict: Verdict) -> str:
    """A verdict in signs: place, faults, how late and how far apart in ms, the hands that slipped."""
    signs = {"missing": "-", "extra": "+", "wrong": "~", "octave": "^", "right": ""}
    notes = ",".join(f"{signs[one.fault]}{one.wanted or one.played}" for one in verdict.faults)
    off = "" if verdict.off_s is None else f"@{verdict.off_s * 1000:.0f}"
    told = (("L", verdict.late), ("E", verdict.early), ("S", verdict.loose))
    marks = "".join(mark for mark, on in told if on)
    hands = "".join(side[0] for side in hands_that_slipped(verdict))
    apart, kept = f"{verdict.spread_s * 1000:.0f}", len(verdict.kept)
    return f"{float(verdict.stroke.at):g}:{notes}{off}/{apart}{marks}{hands}k{kept}"


def heard(seed: str, way: str, hands: str) -> str:
    """A round of eight chords played with slips, by chance: wrong keys, other octaves, late, early, torn
    apart, left out, struck twice, held on."""
    chance, own = random.Random(int(seed)), piece()
    kind: Hands = hands  # type: ignore[assignment]
    strokes = strokes_of(own, Drill("section", 0, ((0, 7),), kind))
    listener = Listener(strokes, way, 0.6, 2.0, Tolerance(0.1, 0.12, 0.3))  # type: ignore[arg-type]
    said: list[Verdict] = []
    down: set[int] = set()
    for stroke in strokes:
        at = 2.0 + 0.6 * float(stroke.at) + chance.choice((0, 0, 0.05, -0.09, 0.11, 0.14, -0.2, 0.35))
        keys = [key + chance.choice((0,) * 12 + (1, -1, 12, -12, 2, 7)) for key in stroke.keys]
        keys = [key for key in keys if chance.random() > 0.06]
        keys += [chance.randint(36, 84)] * (chance.random() < 0.15)
        for key in sorted(down - set(keys) if chance.random() < 0.8 else ()):
            said += listener.feed(key, 0, at - 0.02)
            down.discard(key)
        for number, key in enumerate(keys):
            said += listener.feed(key, 80, at + number * chance.choice((0.0, 0.01, 0.02, 0.12)))
            down.add(key)
        said += listener.tick(at + 0.4)
    said += listener.rest()
    words = f"{round_words(said)} {advice(said, hands == 'both')}"
    return f"{' '.join(map(faults, said))} | {listener.place} {listener.hint is not None} | {words}"


def ladder(start: str, goal: str, rounds: str) -> str:
    """Rounds as slips/tries, +n and -n for steps by hand."""
    own, told = Ladder(int(start), int(goal)), []
    for word in rounds.split():
        if word[0] in "+-":
            own.moved_by_hand(int(word))
            told.append(f"={own.tempo}")
        else:
            slips, _, tries = word.partition("/")
            told.append(f"{own.fed(int(slips), int(tries))}:{own.tempo}")
    return f"{' '.join(told)} | reached {own.reached} {own.at_top} | {own.words()}"


def after(opening_: float, tries: str) -> Sureness:
    """Tries as day:clean(c) or slip(s):share in hundredths."""
    known = begun(opening_)
    for word in tries.split():
        day, how, share = word.split(":")
        known = known.tried(how == "c", int(share) / 100, NOON + timedelta(days=int(day)))
    return known


def sure(opening_: str, tries: str, days: str) -> str:
    """What is known some days later, in thousandths."""
    known, later = after(float(opening_), tries), NOON + timedelta(days=int(days))
    numbers = (
        known.theta, known.now(later), known.slip(later), known.slip(later, 0.7), known.cautious(later),
        known.recalled(later), moved_in(-1.0, known, later).theta, known.best,
    )  # fmt: skip
    told = " ".join(f"{one:.3f}" for one in numbers)
    tried = f"{known.tries}/{known.slips} {known.day_tries}/{known.day_slips}"
    return f"{told} {known.due(later)} {known.days_since(later)} {tried}"


def shelf_of(names: str, seed: int) -> Shelf:
    """Songs with tries by chance over some days; the first song once more in another key where + stands
    behind."""
    chance, pieces = random.Random(seed), [piece(TEXTS[name.rstrip("+")]) for name in names.split()]
    sure_ = []
    for own in pieces:
        for change in own.changes:
            known = begun(opening(change, own))
            for day in range(-6, 1):
                for _ in range(chance.choice((0, 0, 1, 3)) if seed else 0):
                    known = known.tried(chance.random() < 0.7, chance.choice((0.6, 0.8, 1.0)),
                                        NOON + timedelta(days=day))  # fmt: skip
            sure_.append(known)
    return Shelf(pieces, sure_, NOON, len(pieces) - names.count("+"))


def block(one: Block, shelf: Shelf) -> str:
    if one.drill is None:
        return f"rest {one.minutes:g}"
    spans = ",".join(f"{a}-{b}" for a, b in one.drill.spans)
    speeds = f"{one.from_tempo}-{one.to_tempo} {'-'.join(map(str, tempi(shelf, one.drill)))}"
    what = f"{one.drill.kind} {one.drill.piece}:{spans} {one.drill.hands}"
    return f"{what} {one.minutes:g} {speeds} ({one.why})"


def planned(names: str, minutes: str, seed: str, how: str) -> str:
    """The blocks of a day, and how many minutes the next two have."""
    shelf = shelf_of(names, int(seed))
    wishes = Wishes(float(minutes), "apart" in how, "song" if "song" in how else "weakest")
    blocks = plan(shelf, wishes)
    ahead = " ".join(str(len(day)) for day in days_ahead(shelf, wishes, 3)) if seed == "1" else ""
    return f"{'; '.join(block(one, shelf) for one in blocks)} | {ahead}"


def changes(name: str) -> str:
    """How hard each change is by how it is built, in hundredths of log-odds; crossings, changes of finger."""
    own = piece(TEXTS[name])
    rows = ((round(100 * opening(one, own)), crossings(one), finger_changes(one)) for one in own.changes)
    return " ".join(":".join(map(str, row)) for row in rows)


def rounds(name: str, hands: str, rhythm: str) -> str:
    """What is struck in a round, what sounds with it, and where one is in it."""
    own, told = piece(TEXTS[name]), []
    for drill in (
        Drill("change", 0, ((1, 2),), hands), Drill("spots", 0, ((0, 1), (3, 4)), hands),  # type: ignore[arg-type]
        Drill("chain", 0, ((2, 5),), hands), Drill("section", 0, ((0, 7),), hands, True),  # type: ignore[arg-type]
    ):  # fmt: skip
        row = strokes_of(own, drill, song(TEXTS[name]), rhythm)  # type: ignore[arg-type]
        struck = " ".join(
            f"{one.at}+{one.quarters}:{len(one.left)}{len(one.right)}c{one.change}{'b' * one.backwards}"
            for one in row
        )
        back = backing(own, drill, True, True)
        sound = f"{len(back)} {sum(one.velocity for one in back)} {len(demonstration(row))}"
        places = (0.0, 1.5, 3.99, 4.0, 9.0)
        counts = ",".join(":".join(map(str, count_at(drill, own, place))) for place in places)
        told.append(f"{length_of(own, drill)} {drill.round_seconds(own, 60):g} {struck} / {sound} / {counts}")
    return " | ".join(told)


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "heard": (heard, 3), "ladders": (ladder, 3), "sure": (sure, 3), "plans": (planned, 4),
    "changes": (changes, 1), "rounds": (rounds, 3),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("practice", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


# --- limits ---


def one_stroke(*keys: int, free: str = "") -> Verdict:
    stroke = strokes_of(piece(), Drill("change", 0, ((0, 1),), "both"))[0]
    return judged(stroke, [Played(key, 0.0) for key in keys])


@pytest.mark.parametrize(
    ("off", "fault"),
    [(1, "wrong"), (6, "wrong"), (7, "extra"), (12, "octave"), (24, "octave"), (36, "extra")],
)
def test_how_far_off_a_key_is_still_taken_for_the_one_that_was_wanted(off: int, fault: str) -> None:
    stroke = strokes_of(piece(), Drill("change", 0, ((0, 1),), "both"))[0]
    top = max(stroke.keys)
    verdict = judged(stroke, [Played(key + off * (key == top), 0.0) for key in stroke.keys])
    wanted = Note(fault, top, top + off) if fault != "extra" else Note("extra", None, top + off)  # type: ignore[arg-type]
    assert wanted in verdict.faults and len(verdict.faults) == (2 if fault == "extra" else 1)


@pytest.mark.parametrize(
    ("off_s", "spread_s", "marks"),
    [
        (0.12, 0.35, ""),
        (0.1201, 0.0, "late"),
        (-0.12, 0.0, ""),
        (-0.1201, 0.0, "early"),
        (None, 0.3501, "loose"),
    ],
)
def test_tolerances_hold_up_to_their_ends(off_s: float | None, spread_s: float, marks: str) -> None:
    verdict = Verdict(one_stroke().stroke, (), off_s, spread_s)
    assert [name for name in ("late", "early", "loose") if getattr(verdict, name)] == marks.split()
    assert verdict.clean == (not marks)


@pytest.mark.parametrize(
    ("count", "apart", "found"),
    [(8, 0.0, 0.1), (7, 0.0, None), (8, 0.059, 0.1), (8, 0.13, None), (9, 0.0, 0.1)],
)
def test_latency_is_measured_where_there_is_enough_to_go_by(
    count: int, apart: float, found: float | None
) -> None:
    struck = [k + 0.1 + apart * (k % 3 - 1) for k in range(count)]
    measured = latency([float(k) for k in range(12)], struck)
    assert measured is None if found is None else measured == pytest.approx(found, abs=0.07)
    every, wide = [float(k) for k in range(12)], [2.0 * k for k in range(9)]
    assert latency(wide, [one + 0.39 for one in wide]) == pytest.approx(0.39)
    assert latency(wide, [one + 0.41 for one in wide]) is None  # too late to be believed
    assert latency(every, [one + 0.1 for one in every]) == pytest.approx(0.1)


def test_weights_by_minutes_and_shares_by_slips() -> None:
    assert [round(share_for(one), 3) for one in (0, 0.1, 0.2, 0.5, 1.0)] == [1.0, 1.0, 1.0, 0.85, 0.6]
    assert [round(weak(one), 3) for one in (0, 8, 14, 20, 60)] == [1.9, 1.9, 2.65, 3.4, 3.4]
    assert [(one.start_quarters, one.key) for one in clicks(Fraction(0), Fraction(3), Meter(3, 4))] == [
        (0, 76), (1, 77), (2, 77),
    ]  # fmt: skip


def test_weeks_begin_on_monday_and_the_silent_ones_between_are_kept() -> None:
    own = piece().changes[0].id

    def tried(day: int, clean: bool, tempo: float) -> Try:
        return Try(NOON + timedelta(days=day), own, "both", "change", tempo, 1.0, clean)

    assert NOON.weekday() == 2  # a Wednesday
    blocks = (Done(0, NOON, 7.5, 60), Done(1, NOON - timedelta(days=3), 2.0, 0))
    rows = weeks([Session(1, NOON, 20.0, (), (), blocks)], [], NOON)
    assert [(one.minutes, one.tries) for one in rows] == [(2.0, 0), (7.5, 0)]
    tries = [tried(-16, True, 60.4), tried(-2, True, 70.6), tried(0, False, 90.0), tried(4, True, 80.6)]
    rows = weeks([], tries, NOON)
    assert [(one.tries, round(one.clean, 2), one.tempo) for one in rows] == [
        (1, 1.0, 60), (0, 0.0, 0), (3, 0.67, 81),
    ]  # fmt: skip
    assert [one.tries for one in weeks([], tries, NOON, 2)] == [3] and len(weeks([], [], NOON)) == 1


def test_what_is_known_of_changes_from_tries_in_other_keys_is_half_believed() -> None:
    own = piece()
    known = sure_of([own], [], NOON)
    hard = [round(opening(change, own), 6) for change in own.changes]
    assert [round(one.theta, 6) for one in known] == hard


def test_a_learner_is_slower_to_forget_what_was_tried_on_several_days() -> None:
    learner = Learner.made([0.0] * 4, "power", 5, 3)
    assert [round(float(one), 3) for one in learner.chances()] == LEARNT[0]
    for _ in range(8):
        learner.plays(0, 1.0)
    learner.plays(1, 0.5)
    assert [round(float(one), 3) for one in learner.chances()] == LEARNT[1]
    learner.next_day()
    assert [round(float(one), 3) for one in learner.chances()] == LEARNT[2]


LEARNT = [
    [0.773, 0.177, 0.562, 0.416],
    [0.621, 0.173, 0.562, 0.416],
    [0.641, 0.173, 0.562, 0.416],
]


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("practice")
    assert {name: now.get(name) for name in decided} == decided != {}
