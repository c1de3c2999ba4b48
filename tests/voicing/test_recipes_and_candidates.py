"""Recipe files with their errors, and what every candidate obeys."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import DATA
from yellow_hinge.errors import BadInput
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.coverage import bass_degree, identity, undoubled
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import degree_semitones, read_pitch
from yellow_hinge.theory.tension import extra_degrees
from yellow_hinge.voicing.borrow import borrowed
from yellow_hinge.voicing.candidates import candidates, hand_shapes
from yellow_hinge.voicing.limits import muddy, too_low
from yellow_hinge.voicing.recipes import Library, Notes, School, builtin_library, load_recipes, load_schools
from yellow_hinge.voicing.rules import broken, legal_voicing
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

pytestmark = pytest.mark.long

SYMBOLS = [
    "C",
    "Cm",
    "Caug",
    "Cdim",
    "Cdim7",
    "Cm7b5",
    "Cmaj7",
    "Cm7",
    "C7",
    "C6",
    "Cm6",
    "C69",
    "Csus",
    "C7sus",
    "C9sus",
    "C13sus",
    "Csus2",
    "C5",
    "Cadd9",
    "C9",
    "Cm9",
    "Cmaj9",
    "Cm11",
    "C11",
    "C13",
    "Cmaj13",
    "C7b9",
    "C7#9",
    "C7#11",
    "C13#11",
    "C7(b9,#5)",
    "C7alt",
    "Cm(maj7)",
    "Cmaj7#5",
    "Cmaj7#11",
    "C7b5",
    "Cm69",
    "Cm13",
    "C7(#9,b13)",
    "C/E",
    "Cm7/F",
    "D/C",
    "C7/Bb",
    "Bb//C",
    "C7(no3)",
    "Csus24",
    "Cdim(maj7)",
]
LIBRARY = builtin_library()


def wish(
    symbol: str, school: str = "solo", reach: int = 9, bass: str | None = None, **changes: object
) -> Wish:
    chord = parse_chord(symbol)
    assert chord is not None
    chosen = LIBRARY.schools[school]
    made = Wish(
        chord, None, chosen, chosen.colour, bass or chosen.bass, HandProfile().with_reach(reach, reach)
    )
    return replace(made, **changes)


@pytest.mark.parametrize("bass", ["self", "bassist"])
@pytest.mark.parametrize("school", sorted(LIBRARY.schools))
@pytest.mark.parametrize("symbol", SYMBOLS)
def test_every_symbol_has_a_voicing_in_every_school(symbol: str, school: str, bass: str) -> None:
    for semitones in (0, 6):
        chord = parse_chord(symbol)
        assert chord is not None
        moved = chord.transposed(semitones * 7 // 12, semitones)
        asked = wish(symbol, school, bass=bass, chord=moved)
        own = candidates(asked, LIBRARY).legal.any()
        assert own or symbol in ("C5", "C69", "Cm69", "C7/Bb", "C7(no3)"), f"{school} should play {moved}"
        assert own or any(candidates(lent, LIBRARY).legal.any() for lent in borrowed(asked, LIBRARY))


@settings(max_examples=120)
@given(
    st.sampled_from(SYMBOLS), st.integers(0, 11), st.sampled_from(sorted(LIBRARY.schools)),
    st.sampled_from(["self", "bassist"]), st.integers(5, 11), st.integers(0, 3),
)  # fmt: skip
def test_every_legal_pair_obeys_the_rules(
    symbol: str, semitones: int, school: str, bass: str, reach: int, colour: int
) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    chord = chord.transposed(semitones * 7 // 12, semitones)
    asked = wish(symbol, school, reach, bass, chord=chord, colour=colour)
    found = candidates(asked, LIBRARY)
    allowed = set(chord.degrees) | extra_degrees(chord, None, colour) | {bass_degree(chord), "R"}
    allowed |= {asked.bass_fifth or "R"}  # a slash bass has a fifth of its own
    needed = identity(chord, root_needed=asked.heard_below != "R")
    heard = {asked.heard_below}
    strict = not asked.school.loose
    for left_index, right_index in np.argwhere(found.legal)[:: max(1, int(found.legal.sum()) // 50)]:
        left, right = found.left[left_index], found.right[right_index]
        keys, degrees = left.keys + right.keys, left.degrees + right.degrees
        assert list(keys) == sorted(set(keys))
        assert set(degrees) <= allowed
        for key, degree in zip(keys, degrees, strict=True):
            assert (key - chord.root.pitch_class - degree_semitones(degree)) % 12 == 0
        assert all(group & (set(degrees) | heard) for group in needed)
        if strict:
            assert not muddy(left.keys) and not muddy(right.keys)
            assert not too_low(left.keys[-1], right.keys[0])
            for label in () if asked.school.doubles else undoubled(chord):
                in_both = label in left.degrees and label in right.degrees
                assert not in_both and not (label in degrees and label in heard)
        bridged = left.keys[-1] - left.keys[0] in (12, 15, 16) and len(right.keys) >= 3
        assert 0 < right.keys[0] - left.keys[-1] <= max(24 if bridged else 0, asked.school.widest_gap_st)
        for hand, shape in ((asked.hand("left"), left), (asked.hand("right"), right)):
            assert asked.profile.can_reach(hand, shape.keys)
            assert hand.lowest_key <= shape.keys[0] and shape.keys[-1] <= hand.highest_key
            assert len(shape.keys) <= hand.most_notes
        if bass == "self" and strict:
            assert keys[0] % 12 == chord.bass_name.pitch_class
        if bass == "self" and not strict:
            assert degrees[0] in {bass_degree(chord), "3", "b3", "5", "b5", "#5", "6", "7", "b7", "bb7"}
        assert not broken(asked, Voicing(left, right))


@settings(max_examples=60)
@given(
    st.sampled_from(SYMBOLS), st.sampled_from(sorted(LIBRARY.schools)),
    st.sampled_from(["self", "bassist"]), st.sampled_from(["both", "left", "right"]), st.integers(0, 10_000),
)  # fmt: skip
def test_the_rules_in_words_are_the_rules_in_arrays(
    symbol: str, school: str, bass: str, hands: str, seed: int
) -> None:
    asked = wish(symbol, school, 10, bass, hands=hands, colour=2)
    found = candidates(asked, LIBRARY)
    random = np.random.default_rng(seed)
    for _ in range(min(60, found.legal.size)):
        i, j = (int(random.integers(size)) for size in found.legal.shape)
        voicing = Voicing(found.left[i], found.right[j])
        assert legal_voicing(asked, voicing) == found.legal[i, j], broken(asked, voicing)


@pytest.mark.parametrize(
    ("rule", "symbol", "left", "right", "changes"),
    [
        ("reach", "C", "C2:R E3:3", "G4:5 C5:R", {}),
        ("notes", "C6", "C3:R", "E4:3 G4:5 A4:6 C5:R E5:3 G5:5", {}),
        ("register", "C", "C1:R", "E4:3 G4:5", {}),
        ("low", "C", "C2:R E2:3", "G4:5 C5:R", {}),
        ("coverage", "C7", "C3:R", "E4:3 G4:5", {}),
        ("doubling", "G7", "G2:R F3:b7", "F4:b7 B4:3", {}),
        ("doubling", "G7/B", "B2:3 B3:3", "F4:b7 G4:R", {}),
        ("crossing", "C", "C4:R", "B3:3 G4:5", {}),
        ("hole", "C", "C2:R", "E4:3 G4:5", {}),
        ("bass", "C", "E3:3", "G4:5 C5:R", {}),
        ("second", "C69", "C3:R D3:9", "E4:3 A4:6", {}),
        ("tune", "C", "C3:R", "E4:3 G4:5", {"top": 72}),
        ("tune", "Cmaj7", "C3:R", "E4:3 B4:7 C5:R", {"top": 72}),
        ("hand", "C", "C3:R E3:3", "", {}),
    ],
)
def test_each_rule_is_said_by_name(
    rule: str, symbol: str, left: str, right: str, changes: dict[str, object]
) -> None:
    asked = wish(symbol, "solo", 9, "self", **changes)
    said = [one for one in broken(asked, Voicing(grip(left), grip(right))) if one.rule == rule]
    assert said and all(one.words for one in said)


def grip(text: str) -> HandShape:
    notes = [word.split(":") for word in text.split()]
    pitches = [read_pitch(name) for name, _ in notes]
    return HandShape(tuple(p.key for p in pitches if p), tuple(label for _, label in notes), "own")


def test_what_sounds_is_no_rule_broken() -> None:
    asked = wish("C", "solo", 9, "self")
    assert broken(asked, Voicing(grip("C3:R G3:5"), grip("E4:3 G4:5 C5:R"))) == ()
    third_below = wish("C/E", "solo", 9, "self")
    assert broken(third_below, Voicing(grip("E3:3"), grip("G4:5 C5:R E5:3"))) == ()  # dear, not banned
    leading = wish("G/B", "solo", 9, "self", key=parse_key("C"))
    assert [b.rule for b in broken(leading, Voicing(grip("B2:3"), grip("D4:5 G4:R B4:3")))] == ["doubling"]


def test_open_search_holds_every_shape_of_every_school() -> None:
    for symbol in ("Dm7", "G13", "C", "F/A", "Bm7b5", "Ab"):
        for bass in ("self", "bassist"):
            every = {}
            asked = wish(symbol, "open", 10, bass, colour=2)
            for side in ("left", "right"):
                every[side] = {shape.keys for shape in hand_shapes(asked, LIBRARY, side)}
            for school in LIBRARY.schools:
                one = replace(asked, school=LIBRARY.schools[school])
                for side in ("left", "right"):
                    assert {shape.keys for shape in hand_shapes(one, LIBRARY, side)} <= every[side]


@pytest.mark.parametrize(
    ("symbol", "side", "keys", "there"),
    [
        ("C", "left", (36, 43, 48, 52), True),  # root, fifth, octave, tenth
        ("Cm7", "left", (51, 55, 58, 62), True),  # rootless from the third
        ("C/E", "left", (40, 52), True),  # slash bass in octaves
        ("D/C", "left", (36, 43), True),  # slash bass with its own fifth
        ("D/C", "left", (36, 43, 48), True),
        ("C", "left", (40,), True),  # inverted bass
        ("C", "left", (43,), True),
        ("C", "right", (72,), True),  # a single note
        ("Csus", "right", (65, 67, 72, 77), True),  # octave with tones inside
        ("Am7", "right", (64, 67, 71, 74, 76), True),  # octave with a triad inside
        ("C", "left", (43, 47), False),  # a third below B2
        ("C", "left", (30, 37), False),  # a fifth below G1
        ("C", "right", (60, 61), False),  # no tone of the chord
    ],
)
def test_open_search_knows_what_players_play(
    symbol: str, side: str, keys: tuple[int, ...], there: bool
) -> None:
    asked = wish(symbol, "open", 10, "self", colour=3)
    assert (keys in {shape.keys for shape in hand_shapes(asked, LIBRARY, side)}) is there


def test_colour_is_never_more_than_asked_and_sevenths_on_triads_come_last() -> None:
    for symbol in ("C", "Am", "F", "Dm7", "G7", "Bm7b5"):
        asked = wish(symbol, "band", colour=0)
        own = {*asked.chord.degrees, "R"}
        for side in ("left", "right"):
            assert all(set(shape.degrees) <= own for shape in hand_shapes(asked, LIBRARY, side))
    for colour, there in ((2, False), (3, True)):
        heard = {
            label
            for side in ("left", "right")
            for shape in hand_shapes(wish("C", "band", colour=colour), LIBRARY, side)
            for label in shape.degrees
        }
        assert ("7" in heard) is there and ("#11" in heard) is there


@pytest.mark.parametrize(
    ("symbol", "top", "yields", "instead"),
    [("Cmaj7", 72, "7", "6"), ("G7b9", 69, "b9", "9"), ("G7", 72, "3", "11"), ("Cmaj7", 76, "", "")],
)
def test_a_chord_yields_to_the_tune(symbol: str, top: int, yields: str, instead: str) -> None:
    asked = wish(symbol, "melody", 9, "self", top=top)
    assert asked.yielding == ({yields} if yields else set())
    found = candidates(asked, LIBRARY)
    assert found.legal.any()
    for i, j in np.argwhere(found.legal):
        keys = found.left[i].keys + found.right[j].keys
        labels = found.left[i].degrees + found.right[j].degrees
        assert keys[-1] == top and top - 1 not in keys and top - 13 not in keys
        assert not yields or yields not in found.right[j].degrees
        assert labels
    if instead in ("6", "9"):
        assert any(instead in shape.degrees for shape in found.right)


@pytest.mark.parametrize("hands", ["left", "right"])
@pytest.mark.parametrize("bass", ["self", "bassist"])
def test_one_hand_alone_has_all_that_makes_the_chord(hands: str, bass: str) -> None:
    for symbol in ("Dm7", "G7", "C", "F/A", "Cmaj9"):
        asked = wish(symbol, "open", 9, bass, hands=hands)
        found = candidates(asked, LIBRARY)
        assert found.legal.any(), symbol
        idle, busy = (found.right, found.left) if hands == "left" else (found.left, found.right)
        assert idle == (HandShape(),)
        for shape, legal in zip(busy, found.legal.ravel(), strict=True):
            assert not legal or all(group & {*shape.degrees, asked.heard_below} for group in asked.needed)


def test_more_reach_and_more_colour_only_add_shapes() -> None:
    for symbol in ("Dm7", "G7", "Cmaj7", "F"):
        for side in ("left", "right"):
            small = {s.keys for s in hand_shapes(wish(symbol, reach=7), LIBRARY, side)}
            large = {s.keys for s in hand_shapes(wish(symbol, reach=11), LIBRARY, side)}
            assert small <= large
            plain = {s.keys for s in hand_shapes(wish(symbol, colour=0), LIBRARY, side)}
            rich = {s.keys for s in hand_shapes(wish(symbol, colour=3), LIBRARY, side)}
            assert plain <= rich


def test_the_shapes_players_know_are_there() -> None:
    """Rootless minor ninth to rootless thirteenth on the next fifth is one half step."""
    left = {s.keys for s in hand_shapes(wish("Dm7", "band", colour=1), LIBRARY, "left")}
    assert {(53, 57, 60, 64), (48, 52, 53, 57)} <= left  # F A C E and C E F A
    left = {s.keys for s in hand_shapes(wish("G7", "band", colour=2), LIBRARY, "left")}
    assert {(53, 57, 59, 64), (47, 52, 53, 57)} <= left  # F A B E and B E F A
    guide = {s.keys for s in hand_shapes(wish("G7", "guide"), LIBRARY, "left")}
    assert {(47, 53), (53, 59)} <= guide
    solo = {s.keys for s in hand_shapes(wish("C7"), LIBRARY, "left")}
    assert {(48,), (36, 48), (48, 55), (48, 58), (48, 52)} <= solo


@given(st.sampled_from(["Dm7", "G7", "Cmaj7", "Am", "E7b9"]), st.integers(1, 11))
def test_shapes_move_with_the_chord(symbol: str, semitones: int) -> None:
    """Within an unbounded register the shapes of a transposed chord are the transposed shapes."""
    free = HandProfile()
    hand = replace(free.left, lowest_key=0, highest_key=127, reach_mm=400.0, most_notes=5)
    asked = wish(symbol, profile=replace(free, left=hand))
    moved = replace(asked, chord=asked.chord.transposed(semitones * 7 // 12, semitones))

    def offsets(one: Wish) -> set[tuple[int, ...]]:
        shapes = hand_shapes(one, LIBRARY, "left")
        root = one.chord.root.pitch_class
        return {tuple(key - root for key in s.keys) for s in shapes if s.keys[0] > 52 and s.keys[-1] < 100}

    first, second = offsets(asked), offsets(moved)
    common_low, common_high = 52 + 12, 100 - 24
    trim = lambda found: {o for o in found if common_low < o[0] and o[-1] < common_high}  # noqa: E731
    assert trim(first) == trim(second) and trim(first)


NO_WISH = Notes((0,) * 6, (0,) * 6, (0,) * 6)


def test_prices_of_notes_have_limits() -> None:
    assert Notes((0,) * 6, (10_000,) * 6, (0,) * 6).of("left", "bassist")[5] == 10_000
    for price in (-1, 10_001):
        with pytest.raises(ValueError, match="prices of notes are"):
            Notes((0,) * 6, (0,) * 6, (0, 0, 0, 0, 0, price))


RECIPE = """schema = "yellow-hinge/recipes/1"
[[recipe]]
id = "own"
name = "my shape"
hands = ["left"]
slots = ["R", "5|13", "3"]
source = "mine"
"""


def test_a_new_family_is_data() -> None:
    recipes = {**LIBRARY.recipes, **load_recipes(RECIPE)}
    school = School("x", "X", "mine", "self", 2, ("own",), ("own",), ("close-triad",), NO_WISH, 24)
    asked = wish("C", reach=11, colour=2)
    shapes = hand_shapes(replace(asked, school=school), Library(recipes, {"x": school}), "left")
    assert {(36, 43, 52), (48, 57, 64)} <= {s.keys for s in shapes}  # fifth, or sixth, and tenth
    assert ("R", "5", "3") in {s.degrees for s in shapes}


def test_drop_two_lowers_the_second_note_from_the_top() -> None:
    text = RECIPE.replace('slots = ["R", "5|13", "3"]', 'slots = ["R", "3", "5", "7"]\nspacing = "drop2"')
    recipes = load_recipes(text.replace('["left"]', '["right"]'))
    school = School("x", "X", "mine", "self", 2, (), (), ("own",), NO_WISH, 24)
    asked = replace(wish("Cmaj7", reach=12), school=school)
    shapes = hand_shapes(asked, Library(recipes, {"x": school}), "right")
    assert (55, 60, 64, 71) in {s.keys for s in shapes}  # C E G B with the G below


@pytest.mark.parametrize(
    ("change", "complaint"),
    [
        (('slots = ["R", "5|13", "3"]', 'slots = ["R", "Q"]'), "unknown role"),
        (('slots = ["R", "5|13", "3"]', "slots = []"), "1..5 notes"),
        (('hands = ["left"]', 'hands = ["third"]'), "third"),
        (('hands = ["left"]', "hands = []"), "no hand"),
        (('name = "my shape"', ""), "name"),
        (('source = "mine"', 'source = "mine"\nkinds = ["odd"]'), "unknown kind"),
        (('source = "mine"', 'source = "mine"\nextra = 1'), "extra"),
        (("recipes/1", "recipes/9"), "schema"),
        (("[[recipe]]", "[[recipe"), "recipes.toml"),
    ],
)
def test_bad_recipe_files_say_what_is_wrong(change: tuple[str, str], complaint: str) -> None:
    with pytest.raises(BadInput) as caught:
        load_recipes(RECIPE.replace(*change))
    assert complaint in str(caught.value)


def test_all_bad_rows_are_reported_at_once() -> None:
    bad = RECIPE + RECIPE.split("\n", 1)[1] + RECIPE.split("\n", 1)[1].replace("R", "Q")
    with pytest.raises(BadInput) as caught:
        load_recipes(bad)
    assert len(caught.value.problems) == 2


def test_schools_must_name_known_recipes_of_the_right_hand() -> None:
    text = """schema = "yellow-hinge/schools/1"
[[school]]
id = "x"
name = "X"
about = "x"
bass = "self"
colour = 1
left_self = ["%s"]
left_bassist = []
right = []
widest_gap_st = 12
[school.notes]
left_self = [0, 0, 0, 0, 0, 0]
left_bassist = [0, 0, 0, 0, 0, 0]
right = [0, 0, 0, 0, 0, 0]
"""
    for recipe, complaint in (("nothing", "unknown recipe"), ("upper-two", "not for the left")):
        with pytest.raises(BadInput) as caught:
            load_schools(text % recipe, LIBRARY.recipes)
        assert complaint in str(caught.value)
    assert list(load_schools(text % "single-bass", LIBRARY.recipes)) == ["x"]


def test_key_decides_about_natural_ninths() -> None:
    for key, there in (("C", False), ("G", True)):
        shapes = hand_shapes(wish("Em7", "band", colour=1, key=parse_key(key)), LIBRARY, "left")
        assert any("9" in shape.degrees for shape in shapes) is there


def counted() -> list[list[str]]:
    lines = (DATA / "candidates.tsv").read_text("utf-8").splitlines()
    return [line.split("\t") for line in lines if not line.startswith("#")]


@pytest.mark.parametrize("school", sorted(LIBRARY.schools))
def test_how_many_shapes_and_pairs_there_are(school: str) -> None:
    """Not one more and not one less: what is added or lost is seen here first."""
    own = [row for row in counted() if row[0] == school]
    assert len(own) >= 12
    for _, symbol, colour, wanted in own:
        chord = parse_chord(symbol)
        assert chord is not None
        chosen = LIBRARY.schools[school]
        found = candidates(
            Wish(chord, parse_key("C"), chosen, int(colour), chosen.bass, HandProfile()), LIBRARY
        )
        assert f"{len(found.left)} {len(found.right)} {int(found.legal.sum())}" == wanted, symbol


def test_an_unknown_school_is_refused_with_those_there_are() -> None:
    assert LIBRARY.school("band") is LIBRARY.schools["band"]
    with pytest.raises(BadInput) as caught:
        LIBRARY.school("brass", "settings")
    problem = caught.value.problems[0]
    assert problem.place == "settings" and "'brass'" in problem.what and "band" in problem.remedy
