"""Distances against brute force, arrays against the plain reading, and the whole plan."""

from __future__ import annotations

import re
from functools import cache
from itertools import combinations, product

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from yellow_hinge.errors import NoSolution
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.motion import compiled
from yellow_hinge.motion.alike import sounds_alike
from yellow_hinge.motion.describe import bass_line, held_row, hinges
from yellow_hinge.motion.distance import Change, hand_motion, large_excess
from yellow_hinge.motion.explain import explain_change, explain_voicing
from yellow_hinge.motion.hinge import Held, hinge
from yellow_hinge.motion.line import Step, step_between
from yellow_hinge.motion.pairing import _by_groups, hand_distances
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.terms import hinge_costs, line_costs, pair_costs
from yellow_hinge.motion.weights import Weights, weights_of
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.borrow import lender
from yellow_hinge.voicing.candidates import Candidates, candidates
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing
from yellow_hinge.voicing.wish import Wish

LIBRARY = builtin_library()
hands = st.lists(st.integers(40, 70), max_size=5, unique=True).map(lambda keys: tuple(sorted(keys)))


def shape(keys: tuple[int, ...]) -> HandShape:
    return HandShape(keys, ("R",) * len(keys), "x")


def wish(symbol: str, school: str = "solo", **changes: object) -> Wish:
    chord = parse_chord(symbol)
    assert chord is not None
    chosen = LIBRARY.schools[school]
    made = Wish(chord, parse_key("C"), chosen, chosen.colour, chosen.bass, HandProfile())
    return replace(made, **changes)


@given(hands, hands)
def test_pairing_is_the_cheapest_that_keeps_the_order(
    before: tuple[int, ...], after: tuple[int, ...]
) -> None:
    motion = hand_motion(before, after)
    count = min(len(before), len(after))
    best = min(
        sum(abs(b - a) for a, b in zip(some, other, strict=True))
        for some in combinations(before, count)
        for other in combinations(after, count)
    )
    assert motion.motion_st == best
    assert len(motion.pairs) == count
    assert len(motion.entered) == max(0, len(after) - count)
    assert len(motion.left) == max(0, len(before) - count)
    assert sorted([a for a, _ in motion.pairs] + list(motion.left)) == list(before)
    assert sorted([b for _, b in motion.pairs] + list(motion.entered)) == list(after)


@given(hands, hands)
def test_motion_is_the_same_there_and_back(before: tuple[int, ...], after: tuple[int, ...]) -> None:
    assert hand_motion(before, after).motion_st == hand_motion(after, before).motion_st
    assert hand_motion(before, before).motion_st == 0


@given(st.lists(hands, min_size=1, max_size=6), st.lists(hands, min_size=1, max_size=6))
def test_arrays_agree_with_the_plain_reading(
    first: list[tuple[int, ...]], second: list[tuple[int, ...]]
) -> None:
    before, after = tuple(map(shape, first)), tuple(map(shape, second))
    motion, excess, surplus, bass = hand_distances(before, after)
    weights = Weights()
    cost = hinge_costs(before, after, weights, "right", Step())
    for i, j in product(range(len(before)), range(len(after))):
        plain = hand_motion(first[i], second[j])
        assert motion[i, j] == plain.motion_st
        assert excess[i, j] == sum(large_excess(b - a) for a, b in plain.pairs)
        assert surplus[i, j] == len(plain.entered) - len(plain.left)
        lowest = plain.pairs[:1] if first[i] and second[j] else ()
        to_lowest = lowest == ((first[i][0], second[j][0]),) if lowest else False
        assert bass[i, j] == (abs(second[j][0] - first[i][0]) if to_lowest else 0)
        if not (first[i] and second[j]):
            assert cost[i, j] == 0  # a hand comes from rest as it likes
            continue
        top = abs(second[j][-1] - first[i][-1])
        wanted = (
            weights.right_move * plain.motion_st + weights.large_right * excess[i, j]
            + weights.enter * len(plain.entered) + weights.leave * len(plain.left)
            + weights.top_move * top + weights.top_leap * max(0, top - 5)
            + weights.held_top * (not top)
        )  # fmt: skip
        assert cost[i, j] == wanted


def test_voicing_costs_follow_the_weights() -> None:
    asked = wish("Cmaj7")
    found = candidates(asked, LIBRARY)
    weights = weights_of(asked.school)
    costs = pair_costs(asked, found, weights)
    assert ((costs < FORBIDDEN) == found.legal).all()
    fuller = pair_costs(asked, found, replace(weights, notes=weights.notes + 100))
    i, j = map(int, np.argwhere(found.legal)[0])
    rows = asked.school.notes
    assert fuller[i, j] - costs[i, j] == (
        rows.left_self[len(found.left[i].keys)] + rows.right[len(found.right[j].keys)]
    )


def row_cost(wishes: list[Wish], voicings: list[Voicing]) -> int:
    """The stated cost of a row, from one-shape arrays: independent of the search."""
    total = 0
    for asked, voicing in zip(wishes, voicings, strict=True):
        total += own_cost(asked, voicing)
    for k in range(1, len(wishes)):
        total += change_cost(wishes[k - 1], wishes[k], voicings[k - 1], voicings[k])
    return total


@cache
def own_cost(asked: Wish, voicing: Voicing) -> int:
    one = Candidates((voicing.left,), (voicing.right,), np.ones((1, 1), dtype=bool))
    weights = weights_of(asked.school)
    there = int(line_costs(asked, one.left, one.right, weights)[0, 0])
    return int(pair_costs(asked, one, weights)[0, 0]) + there


@cache
def change_cost(before: Wish, after: Wish, one: Voicing, other: Voicing) -> int:
    weights, step = weights_of(after.school), step_between(before, after)
    left = hinge_costs((one.left,), (other.left,), weights, "left", step)
    total = int((left + hinge_costs((one.right,), (other.right,), weights, "right", step))[0, 0])
    if not (one.right.keys and other.right.keys):
        return total
    top = other.right.keys[-1] - one.right.keys[-1]
    if after.line.fresh and not top and step.change == Change.ROOT:
        total += weights.held_long
    own = before.bass == "self" == after.bass and before.hands == after.hands == "both"
    if own and step.change != Change.NONE and (other.left.keys[0] - one.left.keys[0]) * top > 0:
        total += weights.similar
    return total


hand_shapes = st.lists(
    st.lists(st.integers(30, 90), max_size=5, unique=True).map(lambda keys: HandShape(tuple(sorted(keys)))),
    max_size=6,
).map(tuple)


@settings(max_examples=80)
@given(hand_shapes, hand_shapes)
def test_compiled_pairings_are_the_same_numbers(
    before: tuple[HandShape, ...], after: tuple[HandShape, ...]
) -> None:
    for one, other in zip(_by_groups(before, after), compiled.pairings(before, after), strict=True):
        assert one.shape == other.shape and (one == other).all()


@settings(max_examples=12)
@given(
    st.lists(st.sampled_from(["C", "Am", "F", "G7", "Dm7", "E7"]), min_size=2, max_size=3),
    st.sampled_from(["solo", "guide"]),
)
def test_plan_is_the_optimum_by_brute_force(symbols: list[str], school: str) -> None:
    profile = HandProfile()
    small = replace(profile, right=replace(profile.right, lowest_key=60, highest_key=69))
    wishes = [wish(symbol, school, profile=small, colour=0) for symbol in symbols]
    every = []
    for asked in wishes:
        found = candidates(asked, LIBRARY)
        every.append([Voicing(found.left[i], found.right[j]) for i, j in np.argwhere(found.legal)][:10])
    planner = Planner(LIBRARY)
    answer = planner.solve(Progression.of([Place(asked) for asked in wishes]))
    assert answer.cost == row_cost(wishes, list(answer.voicings))
    best = min(row_cost(wishes, list(row)) for row in product(*every))
    assert answer.cost <= best
    if all(len(options) < 10 for options in every):
        assert answer.cost == best


def places(symbols: str, school: str = "solo") -> list[Place]:
    return [Place(wish(symbol, school), None, symbol) for symbol in symbols.split()]


def test_locks_are_kept_and_the_rest_is_solved_around_them() -> None:
    planner = Planner(LIBRARY)
    free = planner.solve(Progression.of(places("Dm7 G7 Cmaj7")))
    other = planner.alternatives(9)[1][5]
    row = places("Dm7 G7 Cmaj7")
    row[1] = replace(row[1], lock=other.voicing)
    locked = planner.solve(Progression.of(row))
    assert locked.voicings[1] == other.voicing
    assert locked.cost == free.cost + other.extra


def test_alternatives_begin_with_the_answer_and_ascend() -> None:
    planner = Planner(LIBRARY)
    answer = planner.solve(Progression.of(places("Aadd9 C#m11 Dmaj9 E9sus F#m7")))
    for voicing, ranked in zip(answer.voicings, planner.alternatives(12), strict=True):
        extras = [one.extra for one in ranked]
        assert extras == sorted(extras) and extras[0] == 0
        assert voicing in [one.voicing for one in ranked if one.extra == 0]


def test_the_same_question_has_the_same_answer_however_it_came_about() -> None:
    used = Planner(LIBRARY)
    for symbols in ("C Am F G7", "C Am Fmaj7 G7", "C Am Fmaj7 G7 C", "C Am F G7"):
        answer = used.solve(Progression.of(places(symbols)))
        used.alternatives(3)
        fresh = Planner(LIBRARY).solve(Progression.of(places(symbols)))
        assert (answer.voicings, answer.cost, answer.states) == (fresh.voicings, fresh.cost, fresh.states)


def test_rootless_two_five_one_moves_little() -> None:
    answer = Planner(LIBRARY).solve(Progression.of(places("Dm9 G13 Cmaj9", "band")))
    row = held_row([parse_chord(s) for s in ("Dm9", "G13", "Cmaj9")], answer.voicings)
    assert next(report.left.motion_st for report in hinges(row)) <= 1


def test_no_chord_is_a_rest_between_two_rows() -> None:
    row = places("C F")
    answer = Planner(LIBRARY).solve(Progression.of([row[0], Place(None), row[1]]))
    assert answer.voicings[1] == Voicing()
    assert answer.voicings[0].keys and answer.voicings[2].keys


def test_impossible_hands_name_the_chord_and_the_smallest_loosening() -> None:
    tiny = HandProfile().with_reach(2, 2)
    tiny = replace(tiny, left=replace(tiny.left, most_notes=1), right=replace(tiny.right, most_notes=1))
    row = [replace(p, wish=replace(p.wish, profile=tiny)) for p in places("Cmaj7 G7 Cmaj7") if p.wish]
    with pytest.raises(NoSolution) as caught:
        Planner(LIBRARY).solve(Progression.of(row))
    assert [problem.place for problem in caught.value.problems] == ["Cmaj7", "G7"]
    assert all(problem.what and problem.remedy for problem in caught.value.problems)
    narrow = HandProfile().with_reach(2, 2)
    narrow = replace(narrow, left=replace(narrow.left, most_notes=1))
    seconds = replace(wish("G7b9", "open"), profile=narrow)
    with pytest.raises(NoSolution) as caught:
        Planner(LIBRARY).solve(Progression.of([Place(seconds)]))
    remedy = caught.value.problems[0].remedy
    wider = dict(re.findall(r"the (left|right) hand an? (\w+)", remedy))
    assert "it would fit with" in remedy and wider
    numbers = {"third": 3, "fourth": 4, "fifth": 5, "sixth": 6, "seventh": 7, "octave": 8}
    least = {"left": 2, "right": 2}
    left, right = (numbers[wider[side]] if side in wider else least[side] for side in ("left", "right"))
    for reach, works in (((left, right), True), ((max(2, left - 1), max(2, right - 1)), False)):
        asked = wish("G7b9", "open", profile=narrow.with_reach(*reach))
        assert candidates(asked, LIBRARY).legal.any() == works


def test_a_school_that_cannot_play_a_chord_borrows_for_that_chord_alone() -> None:
    row = [Place(wish(symbol, "sixes", colour=0)) for symbol in ("C", "C5", "G7")]
    assert not candidates(row[1].wish or wish("C5"), LIBRARY).legal.any()
    answer = Planner(LIBRARY).solve(Progression.of(row))
    lent = [lender(asked.school, LIBRARY) for asked in answer.wishes if asked]
    assert [school is None for school in lent] == [True, False, True]
    assert set(answer.voicings[1].degrees) == {"R", "5"}
    held = replace(row[1], wish=replace(row[1].wish or wish("C5"), hold=Hold(top=61)))
    with pytest.raises(NoSolution):  # what the player has fixed is never worked around
        Planner(LIBRARY).solve(Progression.of([row[0], held, row[2]]))


def test_bass_line_stays_near() -> None:
    line = bass_line([parse_chord(s) for s in ("Dm7", "G7", "N.C.", "C/E", "F")])
    assert line == (38, 43, None, 40, 41)


# --- words ---


def held(symbol: str, left: str, right: str) -> Held:
    """A voicing from note names, for reading the words."""
    from yellow_hinge.theory.pitch import read_pitch

    chord = parse_chord(symbol)
    assert chord is not None
    shapes = []
    for text in (left, right):
        pitches = [read_pitch(word) for word in text.split()]
        keys = tuple(pitch.key for pitch in pitches if pitch)
        shapes.append(HandShape(keys, tuple(chord.label_of(key % 12) or "R" for key in keys), ""))
    return held_row([chord], [Voicing(*shapes)])[0]


def test_the_move_in_words() -> None:
    report = hinge(held("Dm7", "D3", "F4 A4 C5"), held("G7", "D3", "F4 G4 B4"))
    assert report.words == (
        "Left hand stays. Right hand: middle finger A to G, down a whole step; "
        "little finger C to B, down a half step; the other note stays."
    )
    assert (report.motion_st, report.held, report.largest_st, report.top_st) == (3, 2, 2, -1)


def test_words_for_sliding_coming_and_going() -> None:
    report = hinge(held("C", "C3 G3", "E4 G4 C5"), held("Db", "Db3", "F4 Ab4 Db5"))
    assert "Right hand: the whole shape goes up a half step." in report.words
    assert "G is let go" in report.words
    back = hinge(held("Db", "Db3", "F4 Ab4 Db5"), held("C", "C3 G3", "E4 G4 C5"))
    assert "G comes in with the" in back.words
    assert "D♭ to C" in back.pretty_words


def test_big_moves_are_counted_in_half_steps() -> None:
    report = hinge(held("C", "C2", "E4 G4 C5"), held("C", "E3", "E4 G4 C5"))
    assert "up 16 half steps" in report.words
    assert isinstance(LIBRARY, Library)


def test_a_vamp_counts_its_way_back() -> None:
    planner = Planner(LIBRARY)
    row = places("Dm9 G13 Cmaj9 A7", "band")
    open_row, loop = planner.solve(Progression.of(row)), planner.solve(Progression.of(row, loop=True))
    assert loop.optimal and loop.gap == 0

    def around(voicings: tuple[Voicing, ...]) -> int:
        asked = [p.wish for p in row if p.wish]
        back = change_cost(asked[-1], asked[0], voicings[-1], voicings[0])
        return row_cost(asked, list(voicings)) + back

    assert loop.cost == around(loop.voicings) <= around(open_row.voicings)


def played_cost(wishes: list[Wish], voicings: tuple[Voicing, ...], plays: list[int]) -> int:
    """A row that is played in rounds, counted chord by chord."""
    return row_cost([wishes[k] for k in plays], [voicings[k] for k in plays])


@pytest.mark.parametrize(
    "plays", [[0, 1, 0, 1], [0, 1, 2, 0, 1, 2, 3], [0, 1, 1, 2, 0], [0, 1, 2, 1, 3, 0, 2]]
)
def test_chords_of_all_rounds_are_voiced_once_and_counted_as_often_as_they_sound(plays: list[int]) -> None:
    """Against the row with each chord put where any other row has it: nothing is cheaper."""
    row = places("Dm7 G7 Cmaj7 A7", "guide")[: max(plays) + 1]
    wishes = [place.wish for place in row if place.wish]
    answer = Planner(LIBRARY).solve(Progression(tuple(row), tuple(plays)))
    assert answer.optimal and answer.gap == 0
    assert answer.cost == played_cost(wishes, answer.voicings, plays)
    planner = Planner(LIBRARY)
    planner.solve(Progression.of([row[k] for k in plays]))
    offered = planner.alternatives(8)
    for place, ranked in zip(plays, offered, strict=True):
        for other in ranked:
            changed = list(answer.voicings)
            changed[place] = other.voicing
            assert played_cost(wishes, tuple(changed), plays) >= answer.cost
    single = Planner(LIBRARY).solve(Progression.of([row[k] for k in plays]))
    assert single.cost <= answer.cost


@pytest.mark.long
def test_voicings_in_rounds_cost_what_locking_them_costs() -> None:
    row, plays = places("Dm7 G7 Cmaj7", "band"), (0, 1, 2, 0, 1, 0, 1, 2)
    planner = Planner(LIBRARY)
    best = planner.solve(Progression(tuple(row), plays))
    for index, ranked in enumerate(planner.alternatives(3)):
        assert ranked[0].extra == 0 and ranked[0].voicing == best.voicings[index]
        for other in ranked:
            locked = [replace(p, lock=other.voicing) if k == index else p for k, p in enumerate(row)]
            again = Planner(LIBRARY).solve(Progression(tuple(locked), plays)).cost
            assert again == best.cost + other.extra


def test_takes_differ_audibly_and_ascend() -> None:
    planner = Planner(LIBRARY)
    row = places("Dm7 G7 Cmaj7 Am7 Dm7 G7")
    takes = planner.takes(Progression.of(row), 4)
    assert len(takes) == 4
    assert takes[0] == replace(planner.solve(Progression.of(row)), seconds=takes[0].seconds)
    wishes = [p.wish for p in row if p.wish]
    for i, take in enumerate(takes):
        assert take.cost == row_cost(wishes, list(take.voicings)) >= takes[0].cost
        for other in takes[:i]:
            different = [not sounds_alike(a, b) for a, b in zip(take.voicings, other.voicings, strict=True)]
            assert sum(different) >= 2


def test_takes_end_when_there_is_no_other() -> None:
    row = places("Dm7")
    locked = [replace(row[0], lock=Planner(LIBRARY).solve(Progression.of(row)).voicings[0])]
    assert len(Planner(LIBRARY).takes(Progression.of(locked), 5)) == 1


def test_the_melody_lies_on_top() -> None:
    for symbol, top in (("Cmaj7", 76), ("G7", 77), ("Dm7", 74), ("C", 73)):
        asked = wish(symbol, "melody", top=top)
        answer = Planner(LIBRARY).solve(Progression.of([Place(asked)]))
        assert answer.voicings[0].keys[-1] == top


def test_hands_keep_clear_of_a_sung_melody() -> None:
    asked = wish("Cmaj7", "singer", clear_of=72)
    found = candidates(asked, LIBRARY)
    with_voice = pair_costs(asked, found, weights_of(asked.school))
    without = pair_costs(replace(asked, clear_of=None), found, weights_of(asked.school))
    for i, j in np.argwhere(found.legal)[::7]:
        keys = found.left[i].keys + found.right[j].keys
        rubs = sum((key - 72) % 12 in (1, 11) for key in keys)
        assert with_voice[i, j] - without[i, j] == rubs * weights_of(asked.school).melody_rub


def test_shapes_slide_in_parallel() -> None:
    answer = Planner(LIBRARY).solve(Progression.of(places("Dm7 Em7 Fm7 Ebm7", "shapes")))
    forms = {tuple(k - v.right.keys[0] for k in v.right.keys) for v in answer.voicings}
    lefts = {tuple(k - v.left.keys[0] for k in v.left.keys) for v in answer.voicings}
    assert len(forms) + len(lefts) <= 3


def test_open_search_holds_every_school_s_shapes_of_its_size() -> None:
    asked = wish("Dm7", "open", bass="self")
    every = {s.keys for s in candidates(asked, LIBRARY).right}
    solo = wish("Dm7", "solo")
    for shape in candidates(solo, LIBRARY).right:
        if 2 <= len(shape.keys) <= 4 and len({k % 12 for k in shape.keys}) == len(shape.keys):
            assert shape.keys in every


@settings(max_examples=25)
@given(
    st.sampled_from(["Dm7", "G7b9", "Cmaj7", "F/A", "Bm7b5"]),
    st.sampled_from(["C", "E7", "Am9"]),
    st.sampled_from(sorted(LIBRARY.schools)),
    st.integers(0, 10_000),
)
def test_reasons_add_up_to_what_was_searched(first: str, second: str, school: str, seed: int) -> None:
    random = np.random.default_rng(seed)
    profile = HandProfile()
    profile = replace(profile, roll=True, interlock=True, left=replace(profile.left, possible_mm=235.0))
    asks = {"clear_of": 71, "room_for": 66, "profile": profile}
    wishes = [wish(first, school, **asks), wish(second, school, **asks)]
    voicings = []
    for asked in wishes:
        found = candidates(asked, LIBRARY)
        i, j = random.choice(np.argwhere(found.legal))
        voicings.append(Voicing(found.left[i], found.right[j]))
    own = [explain_voicing(asked, voicing) for asked, voicing in zip(wishes, voicings, strict=True)]
    change = explain_change(wishes[0], wishes[1], voicings[0], voicings[1])
    total = sum(term.cost for terms in (*own, change) for term in terms)
    assert total == row_cost(wishes, voicings)
    for terms in (*own, change):
        costs = [term.cost for term in terms]
        assert costs == sorted(costs, reverse=True) and all(costs)
        assert all(term.phrase for term in terms)


@settings(max_examples=10)
@given(st.integers(1, 11), st.sampled_from(["Dm7 G7 Cmaj7", "C Am F G7", "Em7b5 A7b9 Dm6"]))
def test_transposing_the_song_transposes_the_answer(semitones: int, symbols: str) -> None:
    """Where nothing depends on the place: registers that move along, keys without width, and
    no weight on home, mud or height."""
    placeless = dict.fromkeys(("home", "mud", "high_bass", "lone_bass", "strain"), 0)
    school = msgspec.structs.replace(LIBRARY.schools["solo"], weights=placeless)
    wide = replace(HandProfile().left, reach_mm=300.0)

    def row(shift: int) -> list[Place]:
        left = replace(wide, lowest_key=57 + shift, highest_key=80 + shift, most_notes=2)
        right = replace(wide, lowest_key=70 + shift, highest_key=90 + shift, most_notes=3)
        profile = HandProfile(left, right, octave_mm=100.0)
        return [
            Place(
                replace(
                    wish(symbol, school=school.id), school=school, key=None, profile=profile,
                    chord=wish(symbol).chord.transposed(shift * 7 // 12, shift),
                )
            )
            for symbol in symbols.split()
        ]  # fmt: skip

    home, moved = (Planner(LIBRARY).solve(Progression.of(row(shift))) for shift in (0, semitones))
    assert home.cost == moved.cost and home.states == moved.states
    for here, there in zip(home.voicings, moved.voicings, strict=True):
        assert tuple(key + semitones for key in here.keys) == there.keys
