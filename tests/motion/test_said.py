"""Moves and refusals in words, effort in figures: as the tables say, which were read aloud."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from conftest import table
from constants import numbers_of
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.alike import sounds_alike, sounds_like
from yellow_hinge.motion.describe import held_row
from yellow_hinge.motion.explain import explain_voicing
from yellow_hinge.motion.figures import Effort, amount_words, changes_of, effort_words, figures, more_words
from yellow_hinge.motion.hinge import Held, hinge
from yellow_hinge.motion.refusal import Refusal
from yellow_hinge.motion.weights import weights_of
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import read_pitch
from yellow_hinge.voicing.candidates import Shapes
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing
from yellow_hinge.voicing.wish import Wish

LIBRARY = builtin_library()


def keys(text: str) -> tuple[int, ...]:
    pitches = [read_pitch(word) for word in text.split()]
    return tuple(pitch.key for pitch in pitches if pitch is not None)


def held(grip: str) -> Held:
    """``Dm7: D3 ; F4 A4 C5`` with fingers."""
    symbol, _, notes = grip.partition(":")
    chord = parse_chord(symbol)
    assert chord is not None
    shapes = [
        HandShape(row, tuple(chord.label_of(key % 12) or "R" for key in row), "")
        for row in map(keys, notes.split(";"))
    ]
    return held_row([chord], [Voicing(*shapes)])[0]


def move(before: str, after: str) -> str:
    report = hinge(held(before), held(after))
    row = [held(before).voicing, held(after).voicing]
    sums = figures(row, loop=True)
    numbers = (
        report.bass_st, report.top_st, report.motion_st, report.held, report.entered, report.left_off,
        report.largest_st, sums.motion_st, sums.left_st, sums.right_st, sums.held, sums.changing,
    )  # fmt: skip
    shapes = Shapes((row[1].left,), (row[1].right,))
    alike = sounds_alike(*row)
    assert bool(sounds_like(shapes, row[0])[0, 0]) == alike
    return f"{' '.join(map(str, numbers))} {'alike' if alike else 'apart'}\t{report.words}"


def refusal(school: str, symbol: str, how: str) -> str:
    """Why a wish has no voicing. ``how``: reach of both hands, colour, and what is fixed."""
    chord, chosen = parse_chord(symbol), LIBRARY.schools[school]
    assert chord is not None
    said = dict(word.split("=") for word in how.split())
    left, _, right = said["reach"].partition(",")
    top, bass, lowest, highest = (
        keys(said[name])[0] if name in said else None for name in ("top", "bass", "lowest", "highest")
    )
    hold = Hold(top=top, bass=bass, lowest=lowest, highest=highest)
    wish = Wish(
        chord, parse_key("C"), chosen, int(said.get("colour", chosen.colour)), chosen.bass,
        HandProfile().with_reach(int(left), int(right)), hold=hold if hold.names else None,
        hands=said.get("hands", "both"),  # type: ignore[arg-type] # as the tables write them
    )  # fmt: skip
    if "most" in said:
        hands = wish.profile
        few = [replace(hand, most_notes=int(said["most"])) for hand in (hands.left, hands.right)]
        wish = replace(wish, profile=replace(hands, left=few[0], right=few[1]))
    problem = Refusal(LIBRARY).problem(wish, "")
    return f"{Refusal(LIBRARY).playable(wish)}\t{problem}"


def effort(shares: str, steps: str) -> str:
    """Hundredths of half steps in words."""
    moving, coming, sound, comfort, style = map(int, shares.split())
    return effort_words(Effort(moving, coming, sound, comfort, style), int(steps))


TABLES = {"moves": (move, 2), "refusals": (refusal, 3), "efforts": (effort, 2)}


ROWS = [
    (name, words[:count], "\t".join(words[count:]))
    for name, (_, count) in TABLES.items()
    for words in table(f"motion/{name}.tsv")
]


@pytest.mark.parametrize("row", ROWS, ids=lambda row: " ".join([row[0], *row[1]])[:60])
def test_what_the_tables_say(row: tuple[str, list[str], str]) -> None:
    name, case, wanted = row
    assert TABLES[name][0](*case) == wanted  # type: ignore[operator]


@pytest.mark.parametrize(
    ("more", "said"),
    [(0, "±0"), (4, "±0"), (-4, "±0"), (5, "+½"), (-5, "−½"), (74, "+½"), (75, "+1"), (-75, "−1"),
     (149, "+1"), (151, "+2"), (-1249, "−12"), (36420, "+364")],
)  # fmt: skip
def test_what_is_added_is_said_in_whole_half_steps(more: int, said: str) -> None:
    assert more_words(more) == said


@pytest.mark.parametrize(
    ("cost", "said"),
    [(0, "less than a half step"), (74, "less than a half step"), (75, "1 half step"), (149, "1 half step"),
     (151, "2 half steps"), (36420, "364 half steps")],
)  # fmt: skip
def test_an_amount_is_said_in_whole_half_steps(cost: int, said: str) -> None:
    assert amount_words(cost) == said


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("motion")
    assert {name: now.get(name) for name in decided} == decided != {}


@pytest.mark.parametrize(
    ("row", "loop", "changes"),
    [
        ("", True, []), ("a", False, []), ("a", True, []), ("ab", False, ["ab"]), ("ab", True, ["ab", "ba"]),
        ("abc", True, ["ab", "bc", "ca"]),
    ],
)  # fmt: skip
def test_a_loop_leads_back_where_there_is_anything_to_lead_to(
    row: str, loop: bool, changes: list[str]
) -> None:
    assert ["".join(pair) for pair in changes_of(row, loop)] == changes


@pytest.mark.parametrize(
    ("school", "symbol", "reach"),
    [
        ("solo", "C13#11", "3,3"),
        ("shapes", "Cm(maj9)", "3,3"),
        ("spread", "C13", "4,3"),
        ("sixes", "Cm11", "3,3"),
    ],
)
def test_what_is_proposed_instead_can_be_played(school: str, symbol: str, reach: str) -> None:
    """Each remedy of a refusal is one: wider hands, more colour, or the school that it names."""
    chord, chosen = parse_chord(symbol), LIBRARY.schools[school]
    assert chord is not None
    left, _, right = reach.partition(",")
    hands = HandProfile().with_reach(int(left), int(right))
    wish = Wish(chord, parse_key("C"), chosen, chosen.colour, chosen.bass, hands)
    asks = Refusal(LIBRARY)
    assert not asks.playable(wish)
    remedy = asks.problem(wish, "").remedy
    if remedy.startswith("take the school"):
        named = [one for one in LIBRARY.schools.values() if f"take the school {one.name} for it" == remedy]
        assert [asks.playable(replace(wish, school=one)) for one in named] == [True]
        before = list(LIBRARY.schools.values())[: list(LIBRARY.schools.values()).index(named[0])]
        assert not any(asks.playable(replace(wish, school=one)) for one in before)
    else:
        assert "would fit with" in remedy or "allow colour" in remedy or remedy == "write a plainer symbol"


@pytest.mark.parametrize(
    ("melody", "rubs"),
    [("C5", 1), ("C4", 1), ("F#4", 0), ("Bb4", 1), ("Eb4", 1), ("D4", 0), ("A4", 1), (None, 0)],
)
def test_half_steps_beside_the_sung_tune_are_priced_in_every_octave(melody: str | None, rubs: int) -> None:
    """B2 and E4 sound under it."""
    chord, school = parse_chord("E5"), LIBRARY.schools["singer"]
    assert chord is not None
    clear_of = None if melody is None else keys(melody)[0]
    wish = Wish(chord, parse_key("C"), school, 0, school.bass, HandProfile(), clear_of=clear_of)
    grip = Voicing(HandShape(keys("B2"), ("5",), ""), HandShape(keys("E4 G#4"), ("R", "3"), ""))
    terms = [one for one in explain_voicing(wish, grip) if one.phrase.startswith("a half step beside")]
    weight = weights_of(school).melody_rub
    assert sum(one.cost for one in terms) == rubs * weight
