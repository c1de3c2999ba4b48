"""What a player meets first among the proposals for a chord, against a table of sixty places."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import cache
from itertools import pairwise

import pytest

from conftest import table
from made import chord
from yellow_hinge.reharm.proposals import SHOWN_FIRST, Proposal, Spot, proposals
from yellow_hinge.reharm.rules import GROUPS, RULES
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import read_pitch

PLACES = list(table("first_six.tsv"))
Kind = tuple[int, str, int | None]


@cache
def listed(home: str, before: str, here: str, beats: str, after: str) -> tuple[Proposal, ...]:
    length = Fraction(beats)
    spots = [
        Spot(chord(before), Fraction(0), Fraction(4), 0), Spot(chord(here), Fraction(4), length, 1),
        Spot(chord(after), 4 + length, Fraction(4), 2),
    ]  # fmt: skip
    return tuple(one for one in proposals(spots, [parse_key(home)] * 3) if one.at == 1)


def kind(one: ChordSymbol) -> Kind:
    """A chord whatever its colour."""
    return one.root.pitch_class, one.kind, None if one.bass is None else one.bass.pitch_class


def has(one: Proposal, wanted: str) -> bool:
    """Whether a proposal has some chords, one behind the other."""
    if wanted == "9sus":
        return any("9sus" in timed.chord.quality for timed in one.chords)
    row, words = [kind(timed.chord) for timed in one.chords], [kind(chord(word)) for word in wanted.split()]
    return any(row[at : at + len(words)] == words for at in range(len(row)))


@pytest.mark.parametrize("place", PLACES, ids=lambda case: " ".join(case[:6]))
def test_what_an_arranger_expects_comes_first_and_what_spoils_never(place: list[str]) -> None:
    _, home, before, here, beats, after, wanted, never = place
    found = listed(home, before, here, beats, after)
    for words in wanted.split("; "):
        assert any(has(one, words) for one in found[:6]), words
    for words in never.split("; "):
        assert not any(has(one, words) for one in found), words
    assert len({one.group for one in found[:6]}) >= 4
    assert {one.group for one in found} <= set(GROUPS)


def test_there_are_sixty_places_of_twelve_kinds() -> None:
    kinds = [place[0] for place in PLACES]
    assert len(kinds) == 60 and len(set(kinds)) == 12 and {kinds.count(one) for one in kinds} == {5}


def under(home: str, row: str, tune: str) -> list[Proposal]:
    spots = [Spot(chord(word), Fraction(4 * k), Fraction(4), k) for k, word in enumerate(row.split())]
    notes: list[NoteOver] = []
    for at, name in enumerate(tune.split()):
        pitch = read_pitch(name)
        assert pitch is not None
        notes.append(NoteOver(pitch.key, pitch, Fraction(4 * at), Fraction(4), True, False))
    return [one for one in proposals(spots, [parse_key(home)] * len(spots), notes) if one.at == 1]


def test_what_clashes_with_the_tune_comes_last() -> None:
    """Under a C the tritone root of G7 has its major seventh."""
    plain, over = under("C", "Dm7 G7 Cmaj7", ""), under("C", "Dm7 G7 Cmaj7", "D5 C5 E5")
    assert any(one.rule == "tritone" for one in plain[:6])
    assert not any(one.rule == "tritone" for one in over[:12])
    safe = [one.safe for one in over]
    assert safe == sorted(safe, reverse=True) and not all(safe)


def test_each_family_stands_back_behind_its_own() -> None:
    for place in PLACES:
        first = listed(*place[1:6])[:SHOWN_FIRST]
        counts = [sum(one.group == group for one in first) for group in GROUPS]
        assert max(counts) <= 5, (place, counts)


def expected(rule: str, home: str, row: str, beats: int = 4) -> Sequence[bool]:
    before, here, after = row.split()
    return [one.first for one in listed(home, before, here, str(beats), after) if one.rule == rule]


def test_a_proposal_is_expected_only_where_its_conditions_hold() -> None:
    assert expected("tritone", "C", "Dm7 G7 C") == [True]
    assert expected("tritone", "C", "F G7 Am") == [False]  # it does not resolve
    assert expected("still-two", "C", "Dm7 Dm7 G7", 3)[0] and expected("still-two", "C", "C Dm7 G7", 8)[0]
    assert not any(expected("still-two", "C", "C Dm7 G7", 7))
    assert not any(expected("still-two", "C", "Dm7 Dm7 G7", 2))
    assert expected("relative", "C", "F C G") == [True, True]
    assert expected("relative", "C", "A7 C G") == [True, False]  # a neighbour has its root
    assert expected("borrowed", "C", "C F C")[0] and not expected("borrowed", "C", "C F Dm7")[0]
    assert RULES["walking-bass"].holds and not RULES["slash"].holds


COUNTED = {"two": 2, "three": 3, "four": 4}


def test_fifths_that_are_counted_in_a_reason_are_there() -> None:
    counted = 0
    for home in ("C", "Cm", "Eb", "Bm"):
        key = parse_key(home)
        tonic, four = ("Cm", "Fm") if key.minor else ("C", "F")
        for row in (
            f"{four} {tonic} {four}",
            f"{tonic} {tonic} {tonic}",
            f"G7 {tonic} Dm7",
            f"{tonic} Am7 {tonic}",
        ):
            before, here, after = (str(chord(word).transposed(key.tonic.step, key.tonic.pitch_class))
                                   for word in row.split())  # fmt: skip
            for one in listed(home, before, here, "4", after):
                words = one.reason.replace(",", " ").replace(":", " ").split()
                if "fifths" not in words:
                    continue
                number = words[words.index("fifths") - 1]
                roots = [
                    *(timed.chord.root.pitch_class for timed in one.chords),
                    chord(after).root.pitch_class,
                ]
                falls = sum((low - high) % 12 == 5 for high, low in pairwise(roots))
                assert number not in COUNTED or falls == COUNTED[number], (one.reason, roots)
                counted += 1
    assert counted > 8
