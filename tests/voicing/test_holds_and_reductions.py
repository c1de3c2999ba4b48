"""What is fixed short of a voicing, rolled and interlocking hands, and ways out of reach."""

from __future__ import annotations

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from yellow_hinge.hands.geometry import span_mm, white_interval_mm
from yellow_hinge.hands.profile import HandProfile, strain_words
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.reductions import reductions
from yellow_hinge.voicing.rules import legal_voicing
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing
from yellow_hinge.voicing.wish import Wish

LIBRARY = builtin_library()


def wish(symbol: str, school: str = "solo", profile: HandProfile | None = None) -> Wish:
    chord = parse_chord(symbol)
    assert chord is not None
    chosen = LIBRARY.schools[school]
    return Wish(chord, parse_key("C"), chosen, chosen.colour, chosen.bass, profile or HandProfile())


def pairs(asked: Wish) -> set[tuple[tuple[int, ...], tuple[int, ...]]]:
    found = candidates(asked, LIBRARY)
    return {
        (left.keys, right.keys)
        for i, left in enumerate(found.left)
        for j, right in enumerate(found.right)
        if found.legal[i, j]
    }


@given(
    st.sampled_from(["Cmaj7", "Dm9", "G13", "F/A"]), st.sampled_from(["solo", "band"]), st.integers(0, 9999)
)
@settings(max_examples=25)
def test_what_is_fixed_leaves_just_the_voicings_that_keep_it(symbol: str, school: str, seed: int) -> None:
    asked = wish(symbol, school)
    free = candidates(asked, LIBRARY)
    legal = [(i, j) for i, j in zip(*free.legal.nonzero(), strict=True)]
    i, j = legal[seed % len(legal)]
    left, right = free.left[i], free.right[j]
    every = pairs(asked)
    holds = {
        Hold(left=left): lambda a, b: a == left.keys,
        Hold(right=right): lambda a, b: b == right.keys,
        Hold(top=right.keys[-1]): lambda a, b: b[-1] == right.keys[-1],
        Hold(bass=left.keys[0]): lambda a, b: a[0] == left.keys[0],
        Hold(lowest=left.keys[0], highest=right.keys[-1]): lambda a, b: (
            min(a + b) >= left.keys[0] and max(a + b) <= right.keys[-1]
        ),
    }
    for hold, keeps in holds.items():
        assert pairs(replace(asked, hold=hold)) == {pair for pair in every if keeps(*pair)}
    by_recipe = candidates(replace(asked, hold=Hold(right_recipe=right.recipe)), LIBRARY)
    assert {shape.recipe for shape in by_recipe.right} == {right.recipe}


def test_what_is_called_off_does_not_hold() -> None:
    """Also where a file calls off what nobody knows, or what is not fixed."""
    hold = Hold(top=72, bass=48, off=frozenset({"top", "lowest", "12.1"}))
    assert (hold.said, hold.names, hold.awake) == (("top", "bass"), ("bass",), Hold(bass=48))
    assert Hold(top=72, off=frozenset({"12.1"})).awake == Hold(top=72)


def test_rolled_chords_go_to_the_widest_stretch_and_no_farther() -> None:
    profile = HandProfile().with_reach(8, 8)
    profile = replace(profile, left=replace(profile.left, possible_mm=white_interval_mm(10)))
    wide = replace(profile, roll=True)
    plain = {keys for keys, _ in pairs(wish("Cmaj7", "spread", profile))}
    rolled = {keys for keys, _ in pairs(wish("Cmaj7", "spread", wide))}
    assert plain < rolled
    for keys in rolled:
        assert span_mm(keys[0], keys[-1]) <= white_interval_mm(10) + 0.5
        assert wide.rolls(wide.left, keys) == (keys not in plain)
    assert wide.strain(wide.left, (48, 60)) <= 100 < wide.strain(wide.left, (48, 64))


def test_interlocking_hands_share_no_key_and_keep_their_outer_notes() -> None:
    apart = pairs(wish("Dm9", "band"))
    together = pairs(wish("Dm9", "band", replace(HandProfile(), interlock=True)))
    assert apart < together
    for left, right in together - apart:
        assert not set(left) & set(right)
        assert left[0] < right[0] < left[-1] < right[-1]


def spread(*degrees: tuple[int, str]) -> HandShape:
    return HandShape(tuple(key for key, _ in degrees), tuple(label for _, label in degrees), "own")


WIDE = Voicing(
    spread((36, "R"), (43, "5"), (52, "3")), spread((60, "R"), (67, "5"), (71, "7"))
)  # C2 G2 E3 | C4 G4 B4: a tenth in the left hand


@pytest.mark.parametrize("school", ["solo", "band", "spread", "melody"])
def test_every_way_out_is_within_reach_and_still_the_chord(school: str) -> None:
    profile = HandProfile().with_reach(8, 8)
    profile = replace(profile, left=replace(profile.left, possible_mm=white_interval_mm(10)))
    asked = replace(wish("Cmaj7", school, profile), bass="self")
    ways = reductions(WIDE, asked)
    assert ways
    for way in ways:
        allowed = replace(profile, roll=way.rolled)
        for hand, shape in ((allowed.left, way.voicing.left), (allowed.right, way.voicing.right)):
            assert allowed.can_reach(hand, shape.keys)
        assert legal_voicing(replace(asked, profile=allowed), way.voicing)
        assert way.rolled == (way.voicing == WIDE)
    if school == "melody":
        assert not any("top" in way.words for way in ways)
    if school == "spread":
        assert ways[0].rolled and "pedal" in ways[0].words


def test_the_school_s_order_comes_first_and_reach_needs_no_way_out() -> None:
    asked = replace(wish("Cmaj7", "solo", HandProfile().with_reach(8, 8)), bass="self")
    tops = msgspec.structs.replace(asked.school, reduce=("top", "over"))
    overs = msgspec.structs.replace(asked.school, reduce=("over", "top"))
    open_right = replace(WIDE, right=spread((59, "7"), (64, "3")))
    first = [reductions(open_right, replace(asked, school=school))[0] for school in (tops, overs)]
    assert "drop" in first[0].words and first[0].voicing.left.keys == (36, 43)
    assert "right hand" in first[1].words and first[1].voicing.right.keys == (52, 59, 64)
    assert reductions(WIDE, wish("Cmaj7", "solo", HandProfile().with_reach(10, 8))) == []


def test_the_bottom_alone_carries_the_chord() -> None:
    asked = replace(wish("Cmaj7", "solo", HandProfile().with_reach(8, 8)), bass="self")
    open_ninth = Voicing(spread((48, "R"), (55, "5"), (62, "9")), spread((64, "3"), (71, "7")))
    ways = reductions(open_ninth, asked)
    alone = [way for way in ways if "alone" in way.words]
    assert [(way.voicing.left.keys, way.voicing.right.keys) for way in alone] == [((48,), (64, 71))]
    assert ways.index(alone[0]) > [way.words for way in ways].index("drop the left hand's top note")


@pytest.mark.parametrize(
    "right", [((60, "R"), (67, "5"), (76, "3")), ((60, "R"), (64, "3"), (67, "5"), (76, "3"))]
)
def test_what_is_rolled_or_alone_is_an_end(right: tuple[tuple[int, str], ...]) -> None:
    """Both hands are too wide: one step mends one of them. Nothing is taken from what is rolled already, nor
    from a lowest note that stands alone; and all that was done before it is said."""
    both = Voicing(spread((36, "R"), (43, "5"), (52, "3")), spread(*right))
    profile = HandProfile().with_reach(8, 8)
    rolls = replace(profile, left=replace(profile.left, possible_mm=white_interval_mm(10)))
    for hands in (profile, rolls):
        ways = reductions(both, replace(wish("C", "solo", hands), bass="self"))
        steps = [way.words.split(", ") for way in ways]
        assert steps and all(len(row) > 1 for row in steps)
        assert not any("roll" in step or "alone" in step for row in steps for step in row[:-1])
        assert any("roll" in row[-1] for row in steps) == (hands is rolls)
        assert all(("roll" in row[-1]) == way.rolled for row, way in zip(steps, ways, strict=True))
    asked = replace(wish("C", "solo", profile), bass="self")
    first = msgspec.structs.replace(asked.school, reduce=("alone", "top"))
    ways = reductions(both, replace(asked, school=first), lawful=False)
    assert ways and not any(way.words.startswith("the left hand's lowest note alone") for way in ways)


def test_a_grip_of_ones_own_need_not_be_lawful() -> None:
    """Without a third there is nothing lawful to come down to; the player's grip has ways out anyway."""
    bare = Voicing(spread((36, "R"), (43, "5"), (55, "5")), spread((60, "R"), (67, "5")))
    asked = replace(wish("Cmaj7", "solo", HandProfile().with_reach(8, 8)), bass="self")
    assert reductions(bare, asked) == []
    own = reductions(bare, asked, lawful=False)
    assert own and all(asked.profile.can_reach(asked.profile.left, way.voicing.left.keys) for way in own)


def test_strain_in_words_grows() -> None:
    words = [strain_words(strain) for strain in (10, 70, 90, 100, 120)]
    assert words == ["easy", "open", "wide", "at the limit", "beyond easy reach"]


@pytest.mark.parametrize(("bass", "stays"), [("self", True), ("bassist", False)])
def test_the_bass_is_never_what_goes(bass: str, stays: bool) -> None:
    """An octave of the root with the tenth: the lower root doubles, and is the first that could go."""
    own = replace(wish("C", "solo", HandProfile().with_reach(8, 8)), bass=bass)
    grip = Voicing(HandShape((36, 48, 52), ("R", "R", "3")), HandShape((67, 72), ("5", "R")))
    ways = reductions(grip, own, lawful=False)
    assert ways and all(way.voicing.left.keys[0] == 36 for way in ways) == stays
