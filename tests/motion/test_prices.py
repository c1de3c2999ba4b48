"""Every price does what it says: dearer, what it is paid for becomes rarer.

What a row pays for is measured by the prices themselves: the difference that a hundredth more
would make. Of two optima, the one under the dearer price has no more of it; and in some song it
has less.
"""

from __future__ import annotations

from itertools import pairwise

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace

from conftest import DATA, table
from made import song_of
from yellow_hinge.hands.geometry import white_interval_mm
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.distance import Change
from yellow_hinge.motion.effort import effort_of, row_terms
from yellow_hinge.motion.figures import Effort, effort_words, figures
from yellow_hinge.motion.line import step_between
from yellow_hinge.motion.outer import outer_cost
from yellow_hinge.motion.pairing import warm
from yellow_hinge.motion.place import Answer, Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.terms import hinge_costs, line_costs, pair_costs
from yellow_hinge.motion.weights import PRICES, Group, Weights, weights_of
from yellow_hinge.rhythm.struck import Struck
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.voicing.candidates import Candidates
from yellow_hinge.voicing.recipes import Notes, builtin_library
from yellow_hinge.voicing.wish import Wish

pytestmark = pytest.mark.long

LIBRARY = builtin_library()
warm()  # the searches are large
TIGHT = replace(
    HandProfile(),
    left=replace(HandProfile().left, lowest_key=48),
    right=replace(HandProfile().right, lowest_key=60, highest_key=76),
)
ROLLING = replace(
    HandProfile().with_reach(8, 8),
    roll=True,
    left=replace(HandProfile().left, reach_mm=white_interval_mm(8), possible_mm=white_interval_mm(10)),
)
LOW = HandProfile().with_reach(10, 9)
LOW = replace(
    LOW,
    left=replace(LOW.left, highest_key=50, home_low=28, home_high=50),
    right=replace(LOW.right, lowest_key=45, highest_key=66, home_low=45, home_high=66),
)
NEAR = replace(
    LOW,
    left=replace(LOW.left, lowest_key=46, highest_key=52, home_low=46, home_high=52, most_notes=1),
    right=replace(LOW.right, lowest_key=48, highest_key=63, home_low=48, home_high=63),
)
#: (school, chart, wishes and hands (hands_of), other prices that bring the question out)
SONGS: list[tuple[str, str, dict[str, object], dict[str, int]]] = [
    ("solo", "| C | G | Am | F | C/E | F | Dm7 | G7 |", {}, {}),
    ("solo", "| Am | E7 | D9 | Gmaj7 | F#m7b5 | B7b9 |", {"colour": 2}, {"colour": 0, "colour_on_triad": 0}),
    ("solo", "| C | Eb | Ab | Db | C/E | A |", {"hands_of": TIGHT}, {}),
    ("spread", "| C | Am7 | Dm7 | G7 | Em7 | A7 |", {"hands_of": HandProfile().with_reach(10, 9)}, {}),
    ("spread", "| C | Am7 | Dm7 | G7 |", {"hands_of": ROLLING}, {}),
    ("band", "| Cmaj7 | Am7 | Dm7 | G7alt | C | F |", {}, {}),
    ("guide", "| Cmaj7 | Am7 | Dm7 | G7 | C | F |", {}, {}),
    ("shapes", "| Cm7 | Fm7 | Bbm7 | Eb7 |", {}, {}),
    ("singer", "| Am | F | C | G |\nmelody: B4:4 | E5:4 | B4:4 | F#5:4\n", {}, {"doubled_third": 0}),
    ("melody", "| C | F | G | C |\nmelody: E4:4 | A5:4 | D4:4 | G5:4\n", {}, {"right_move": 20}),
    ("singer", "| Cmaj7 | Am7 | F | G7 |\nmelody: E4:4 | G4:4 | A4:4 | F4:4\n", {}, {}),
    ("solo", "| Cmaj7 | Am7 | F | G7 |\nmelody: E4:4 | G4:4 | A4:4 | F4:4\n", {"melody": "room"}, {}),
    ("solo", "| C | F | G | C | Am | Dm | G7 | C |", {"inverted": True}, {}),
    ("solo", "| C | G | Am | F |", {"hands": "left"}, {}),
    ("open", "| Am6 | Cadd9 | Fmaj7 |", {"colour": 2, "hands_of": LOW}, {"echo": 0, "mud": 0, "home": 0}),
    ("open", "| Fmaj7 | D9 | C11 |", {"colour": 2, "hands_of": LOW}, {"echo": 0, "mud": 0, "home": 0}),
    ("open", "| Dm11 | C | D9 |", {"colour": 3, "bass": "bassist"}, {"colour": 0, "mud": 0}),
    ("open", "| C6 | G7b13 | D9 |", {"colour": 3, "bass": "bassist"}, {"colour": 0, "mud": 0}),
    ("open", "| Csus2 | Fsus2 | Gsus2 |", {"colour": 3, "bass": "bassist", "hands_of": NEAR},
     {"hole": 0, "mud": 0}),
    ("solo", "| D7sus | G7b9 | Cm |", {}, {}),
    ("solo", "| C | G | Am | F |", {"struck": (Struck(3, floor=47), Struck(4))}, {}),
]  # fmt: skip


def row_of(school: str, chart: str, changes: dict[str, object], weights: dict[str, int]) -> list[Place]:
    """The song's problem with other prices in its school."""
    own = LIBRARY.schools[school]
    changed = msgspec.structs.replace(own, weights={**own.weights, **weights})
    wishes = {name: value for name, value in changes.items() if name not in ("hands_of", "struck")}
    song = song_of(f"key: C\n{chart}", school, **wishes)
    hands = changes.get("hands_of", song.hands)
    assert isinstance(hands, HandProfile)
    row = progression(replace(song, hands=hands), LIBRARY).places
    if isinstance(struck := changes.get("struck"), tuple):
        row = tuple(place.for_rhythm(struck) for place in row)
    return [
        replace(place, wish=replace(place.wish, school=changed)) if place.wish else place for place in row
    ]


def paid_for(name: str, answer: Answer) -> int:
    """How much of a price's quantity a row has, in units of the price."""
    total = 0
    wishes = [wish for wish in answer.wishes if wish is not None]
    for more, sign in ((1000, 1), (0, -1)):
        total += sign * _cost(name, more, wishes, answer)
    return total


def _cost(name: str, more: int, wishes: list[Wish], answer: Answer) -> int:
    def priced(wish: Wish) -> Weights:
        weights = weights_of(wish.school)
        return replace(weights, **{name: getattr(weights, name) + more})

    total = 0
    for wish, voicing in zip(wishes, answer.voicings, strict=True):
        one = Candidates((voicing.left,), (voicing.right,), np.ones((1, 1), dtype=bool))
        total += int(pair_costs(wish, one, priced(wish))[0, 0])
        total += int(line_costs(wish, one.left, one.right, priced(wish))[0, 0])
    for (before, after), (start, end) in zip(pairwise(wishes), pairwise(answer.voicings), strict=True):
        weights = priced(after)
        dear = {**after.school.weights, name: getattr(weights, name)}
        school = msgspec.structs.replace(after.school, weights=dear)
        step = step_between(before, replace(after, school=school))
        for side in ("left", "right"):
            hands = (start.hand(side),), (end.hand(side),)
            total += int(hinge_costs(*hands, weights, side, step)[0, 0])
        if start.left.keys and start.right.keys and end.left.keys and end.right.keys:
            total += outer_cost(before, replace(after, school=school), start, end)
        stays = start.right.keys[-1:] == end.right.keys[-1:] != ()
        total += weights.held_long * (after.line.fresh and stays and step.change == Change.ROOT)
    return total


@pytest.mark.parametrize("name", Weights.__struct_fields__)
def test_a_dearer_price_buys_less(name: str) -> None:
    # dear searches: those that only a later song shows look there first
    first = {
        "doubled": 15,
        "low_interval": 15,
        "still": 16,
        "minor_ninth": 17,
        "low_second": 18,
        "tendency": 19,
        "struck": 20,
        "struck_low": 20,
    }.get(name, 0)
    for school, chart, changes, base in SONGS[first:] + SONGS[:first]:
        usual = getattr(weights_of(LIBRARY.schools[school]), name)
        rows = [
            Planner(LIBRARY).solve(Progression.of(row_of(school, chart, changes, {**base, name: price})))
            for price in (0, 5 * usual + 400)
        ]
        cheap, dear = (paid_for(name, answer) for answer in rows)
        assert dear <= cheap, f"{name} dearer, and more of it in {chart}"
        if dear < cheap:
            return
    pytest.fail(f"{name} changes no answer")


def test_every_price_says_its_unit_and_its_reason() -> None:
    for name, price in PRICES.items():
        assert price["group"] in set(Group) and price["per"] and price["why"], name
        assert getattr(Weights(), name) >= 0


def test_rows_of_wanted_notes_are_prices_too() -> None:
    """A school that wants two notes in the right hand gets two."""
    school, chart, changes, _ = SONGS[0]
    own = LIBRARY.schools[school]
    thin = Notes(own.notes.left_self, own.notes.left_bassist, (0, 900, 0, 900, 900, 900))
    row = row_of(school, chart, changes, {"no_fifth": 0})
    two = [
        replace(
            place, wish=replace(place.wish, school=msgspec.structs.replace(place.wish.school, notes=thin))
        )
        for place in row
        if place.wish
    ]
    usual, other = (Planner(LIBRARY).solve(Progression.of(places_of)).voicings for places_of in (row, two))
    assert all(len(voicing.right.keys) >= 3 for voicing in usual)
    assert all(len(voicing.right.keys) == 2 for voicing in other)


@pytest.mark.parametrize("school", sorted(LIBRARY.schools))
def test_the_shares_add_up_to_what_was_searched(school: str) -> None:
    rhythm = {"struck": (Struck(3, 3, below=True, floor=47, ceiling=50), Struck(2, 2))}
    for loop, changes in ((False, {}), (True, {}), (False, rhythm)):
        planner = Planner(LIBRARY)
        row = row_of(school, "| C | Am7 | N.C. | F/A | G7b9 |", dict[str, object](changes), {})
        answer = planner.solve(Progression.of(row, loop))
        effort = effort_of(answer)
        assert effort.cost == answer.cost == round(100 * sum(effort.shares().values()))
        chords, hinges = row_terms(answer.wishes, answer.voicings, loop)
        assert len(chords) == 5 and len(hinges) == 4 + loop
        assert chords[2] == hinges[1] == hinges[2] == ()  # a rest costs nothing
        moves = figures(answer.voicings, loop)
        assert moves.motion_st == moves.left_st + moves.right_st
        assert str(moves.motion_st) in effort_words(effort, moves.motion_st)


def test_the_effort_in_words_leaves_out_what_is_nothing() -> None:
    words = effort_words(Effort(8200, 4200, 2000, 700, 40), 96)
    assert words == "Effort 151: 82 for 96 half steps, 42 for notes that come or go, 27 for sound and comfort"
    assert effort_words(Effort(100, 0, 0, 0, 0), 1) == "Effort 1: 1 for 1 half step"


def test_what_every_school_pays() -> None:
    """A change of a price is a decision: it is made here as well."""
    lines = (DATA / "prices.tsv").read_text("utf-8").splitlines()
    wanted = dict(line.split("\t") for line in lines if not line.startswith("#"))
    schools = LIBRARY.schools.values()
    assert wanted == {
        name: " ".join(f"{school.id}={getattr(weights_of(school), name)}" for school in schools)
        for name in Weights.__struct_fields__
    }


def test_prices_are_those_that_were_listened_to() -> None:
    """They were set by reading rows note by note: one that changes is to be listened to anew."""
    usual = Weights()
    assert {name: int(value) for name, value in table("motion/weights.tsv")} == {
        name: getattr(usual, name) for name in usual.__struct_fields__
    }
