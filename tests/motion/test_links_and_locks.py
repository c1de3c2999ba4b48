"""Shared hinge costs against the plain arrays; locked places; levels; loops of takes."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from yellow_hinge.errors import NoSolution
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.line import step_between
from yellow_hinge.motion.links import LinkTables
from yellow_hinge.motion.pairing import _by_groups
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import Store
from yellow_hinge.motion.terms import hinge_costs, pair_costs
from yellow_hinge.motion.weights import BASS_TOP_KEY, CONCERNS, LEVELS, bass_top_key, stressed, weights_of
from yellow_hinge.rhythm.struck import BELOW_ST, Struck
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing
from yellow_hinge.voicing.wish import Wish

LIBRARY = builtin_library()
NARROW = replace(
    HandProfile(),
    left=replace(HandProfile().left, lowest_key=43, highest_key=60),
    right=replace(HandProfile().right, lowest_key=60, highest_key=74),
)


def wish(symbol: str, school: str = "band", profile: HandProfile = NARROW) -> Wish:
    chord = parse_chord(symbol)
    assert chord is not None
    chosen = LIBRARY.schools[school]
    return Wish(chord, parse_key("C"), chosen, chosen.colour, chosen.bass, profile)


symbols = st.sampled_from(["Cmaj7", "Dm7", "Em7", "G7", "Ab7", "F#m7b5", "Bb13", "Db/F"])


@given(
    st.lists(st.tuples(symbols, symbols), min_size=1, max_size=4),
    st.sampled_from(["solo", "band", "guide", "shapes"]),
)
@settings(max_examples=20)
def test_shared_hinge_costs_are_the_plain_ones(rows: list[tuple[str, str]], school: str) -> None:
    tables = LinkTables()
    for first, second in rows:
        before, after = wish(first, school, HandProfile()), wish(second, school)
        starts, ends = candidates(before, LIBRARY), candidates(after, LIBRARY)
        weights = weights_of(after.school)
        for side, start, end in (("left", starts.left, ends.left), ("right", starts.right, ends.right)):
            if not start or not end:
                continue
            shared = tables.costs((before, start), (after, end), weights, side)
            step = step_between(before, after)
            assert np.array_equal(shared, hinge_costs(start, end, weights, side, step))


def test_voicings_of_a_locked_chord_cost_what_locking_them_costs() -> None:
    places = [Place(wish(symbol)) for symbol in ("Dm7", "G7", "Cmaj7", "A7")]
    free = Planner(LIBRARY)
    best = free.solve(Progression.of(places))
    odd = free.alternatives(30)[1][-1].voicing
    places[1] = replace(places[1], lock=odd)
    planner = Planner(LIBRARY)
    locked = planner.solve(Progression.of(places))
    ranked = planner.alternatives(12)[1]
    assert ranked[0].extra == best.cost - locked.cost < 0
    for alternative in ranked:
        places[1] = replace(places[1], lock=alternative.voicing)
        assert Planner(LIBRARY).solve(Progression.of(places)).cost - locked.cost == alternative.extra


@given(
    st.lists(symbols, min_size=1, max_size=5),
    st.lists(st.integers(-3, 3), min_size=5, max_size=5),
    st.sampled_from(["solo", "band", "open"]),
    st.booleans(),
    st.booleans(),
)
@settings(max_examples=25)
def test_a_fixed_row_has_the_price_that_a_search_would_find(
    row: list[str], moves: list[int], school: str, loop: bool, known: bool
) -> None:
    """Grips of the best row, some moved to where no school looks for them; with and without what a search has
    left in the store."""
    places = [Place(wish(symbol, school, HandProfile())) for symbol in row]
    plays = (*range(len(places)), 0)
    store = Store(LIBRARY)
    best = Planner(LIBRARY, store).solve(Progression(tuple(places), plays, loop))
    fixed = Progression(
        tuple(
            replace(place, lock=_shifted(voicing, move))
            for place, voicing, move in zip(places, best.voicings, moves, strict=False)
        ),
        plays,
        loop,
    )
    found = Planner(LIBRARY, store if known else None)
    try:
        cost = Planner(LIBRARY).solve(fixed).cost
    except NoSolution as trouble:
        with pytest.raises(NoSolution) as again:
            found.price(fixed)
        assert again.value.problems == trouble.problems
    else:
        assert found.price(fixed) == cost
        assert cost == best.cost or any(moves[: len(row)])


def test_a_chord_played_twice_is_not_taken_for_one_that_pays_for_a_way_back() -> None:
    """What a column pays besides has a short number for a name, and so has how often it is played."""
    places = [Place(wish(symbol, "solo", HandProfile())) for symbol in ("Cmaj7", "G7", "G7")]
    free = Planner(LIBRARY, Store(LIBRARY)).solve(Progression.of(places))
    fixed = [replace(place, lock=free.voicings[k and 1]) for k, place in enumerate(places)]
    round_ = Progression(tuple(fixed), (0, 1, 2, 0), False)
    twice = Progression(tuple(fixed[1:]), (0, 1, 0), False)
    store = Store(LIBRARY)
    for problem in (round_, twice):
        fresh = Planner(LIBRARY, Store(LIBRARY)).solve(problem).cost
        assert Planner(LIBRARY, store).solve(problem).cost == fresh


def test_steps_that_never_come_again_are_let_go_and_the_rest_stays() -> None:
    store = Store(LIBRARY)
    places = tuple(Place(wish(symbol, "solo", HandProfile())) for symbol in ("Dm7", "G7", "Cmaj7"))
    best = Planner(LIBRARY, store).solve(Progression(places, (0, 1, 2), False))
    parts = (store._columns.bytes, store._links.bytes, store._hinges.bytes, store.tables.bytes)
    assert all(parts) and store.bytes == sum(parts)
    store.forget_steps()
    assert store._links.bytes == store.tables.bytes == 0 and store.bytes == parts[0] + parts[2]
    assert Planner(LIBRARY, store).solve(Progression(places, (0, 1, 2), False)).cost == best.cost


def _shifted(voicing: Voicing, st_: int) -> Voicing:
    left, right = (
        replace(hand, keys=tuple(key + st_ for key in hand.keys)) for hand in (voicing.left, voicing.right)
    )
    return replace(voicing, left=left, right=right)


@pytest.mark.long
@given(symbols, st.sampled_from(["solo", "band", "sixes"]), st.sampled_from(["C", "Cm", "G", "Ab", "F#m"]))
@settings(max_examples=40)
def test_wishes_that_mean_the_same_have_the_same_voicings_at_the_same_prices(
    symbol: str, school: str, key: str
) -> None:
    one = wish(symbol, school, HandProfile())
    for to_minor in (None, False, True):
        other = replace(one, key=parse_key(key), to_minor=to_minor)
        mine, theirs = candidates(one, LIBRARY), candidates(other, LIBRARY)
        if one.sense == other.sense:
            assert (mine.left, mine.right) == (theirs.left, theirs.right)
            assert np.array_equal(
                pair_costs(one, mine, weights_of(one.school)),
                pair_costs(other, theirs, weights_of(one.school)),
            )
        shared = Store(LIBRARY)
        for each in (one, other):
            alone, found = Store(LIBRARY).column(Place(each)), shared.column(Place(each))
            assert np.array_equal(found[0].cost, alone[0].cost)
            assert (found[1].left, found[1].right) == (alone[1].left, alone[1].right)


def test_a_key_that_means_something_else_is_another_column() -> None:
    """A major triad is five of its key or is not: then its third may be doubled."""
    home, away = (replace(wish("G", "solo"), key=parse_key(key)) for key in ("C", "G"))
    assert home.sense != away.sense
    store = Store(LIBRARY)
    assert store.column(Place(home)) is not store.column(Place(away))
    assert store.column(Place(replace(away, key=parse_key("D")))) is store.column(Place(away))


def test_a_kept_top_note_is_solved_around_and_an_impossible_one_is_named() -> None:
    places = [Place(wish(symbol), where=symbol) for symbol in ("Dm7", "G7", "Cmaj7")]
    tops = {answer.right.keys[-1] for answer in (a.voicing for a in _all(places, 1))}
    wanted = max(tops)
    held = replace(places[1].wish or wish("G7"), hold=Hold(top=wanted))
    answer = Planner(LIBRARY).solve(Progression.of([places[0], replace(places[1], wish=held), places[2]]))
    assert answer.voicings[1].right.keys[-1] == wanted
    never = replace(held, hold=Hold(top=61, left=answer.voicings[1].left))
    with pytest.raises(NoSolution) as trouble:
        Planner(LIBRARY).solve(Progression.of([places[0], replace(places[1], wish=never), places[2]]))
    problem = trouble.value.problems[0]
    assert problem.place == "G7" and "top note" in problem.what and problem.remedy == "let go the top note"


def _all(places: list[Place], index: int) -> list:  # type: ignore[type-arg]
    planner = Planner(LIBRARY)
    planner.solve(Progression.of(places))
    return planner.alternatives(10_000)[index]


def test_levels_change_what_they_name_and_nothing_else() -> None:
    school = LIBRARY.schools["solo"]
    base = weights_of(school)
    for concern in CONCERNS:
        more = weights_of(stressed(school, ((concern.id, 2),)))
        none = weights_of(stressed(school, ((concern.id, -2),)))
        for field in base.__struct_fields__:
            if field in concern.fields:
                assert getattr(more, field) > getattr(base, field) or getattr(base, field) == 0
                assert getattr(none, field) == 0
            else:
                assert getattr(more, field) == getattr(none, field) == getattr(base, field)
    assert stressed(school, ()) == school


def test_a_held_top_note_stays_where_the_chords_allow() -> None:
    row = ("Cmaj9", "Am7", "Fmaj9", "G13")

    def tops(held: bool) -> list[int]:
        asked = [wish(symbol, "solo", HandProfile()) for symbol in row]
        places = [Place(replace(one, school=stressed(one.school, (), held))) for one in asked]
        return [voicing.right.keys[-1] for voicing in Planner(LIBRARY).solve(Progression.of(places)).voicings]

    assert len(set(tops(True))) == 1
    moves = [sum(abs(b - a) for a, b in pairwise(line)) for line in (tops(True), tops(False))]
    assert moves[0] <= moves[1]


def test_takes_of_a_vamp_all_lead_back() -> None:
    places = [Place(wish(symbol)) for symbol in ("Dm7", "G7", "Cmaj7", "A7")]
    planner, vamp = Planner(LIBRARY), Progression.of(places, loop=True)
    takes = planner.takes(vamp, 3)
    assert takes[0] == replace(planner.solve(vamp), seconds=takes[0].seconds)
    assert len(takes) == 3 and takes[0].cost <= min(take.cost for take in takes[1:])
    rows: set[tuple[Voicing, ...]] = {take.voicings for take in takes}
    assert len(rows) == 3


@pytest.mark.parametrize("level", [-2, -1, 1, 2])
def test_a_level_is_the_school_s_price_times_its_factor_to_the_nearest_half_step(level: int) -> None:
    for school in LIBRARY.schools.values():
        base = weights_of(school)
        for concern in CONCERNS:
            made = weights_of(stressed(school, ((concern.id, level),)))
            for name in concern.fields:
                exact = getattr(base, name) * LEVELS[level][1]
                price = getattr(made, name)
                if level > 0 and exact < concern.least * level:
                    assert price == concern.least * level
                else:
                    assert abs(price - exact) <= 0.5


@pytest.mark.parametrize(
    ("before", "after", "bass"),
    [
        ((60, 62), (61,), 1),
        ((61,), (60, 62), 1),
        ((60, 62), (62,), 0),
        ((60, 64), (61, 70), 1),
        ((), (60,), 0),
    ],
)
def test_of_pairings_that_cost_the_same_the_lowest_notes_go_together(
    before: tuple[int, ...], after: tuple[int, ...], bass: int
) -> None:
    shapes = [(HandShape(keys, ("R",) * len(keys), "x"),) for keys in (before, after)]
    assert _by_groups(shapes[0], shapes[1])[2][0, 0] == bass


@pytest.mark.parametrize(("below", "key"), [(0, BASS_TOP_KEY), (1, BASS_TOP_KEY + BELOW_ST)])
def test_a_bass_struck_below_the_grip_lets_the_grip_lie_higher(below: int, key: int) -> None:
    plain = wish("C7", "solo", HandProfile())
    struck = Struck(below=bool(below))
    assert bass_top_key(replace(plain, struck=(struck, Struck()))) == key
