"""Every proposal for a dozen progressions: the chords, why, and how they fit, and nothing else."""

from __future__ import annotations

from fractions import Fraction

import pytest

from conftest import DATA
from made import chord
from yellow_hinge.reharm.proposals import Spot, proposals
from yellow_hinge.theory.keys import parse_key

#: Key, progression and whether it leads back, with a line for each proposal.
CASES = [
    (head.split("; "), lines)
    for head, *lines in (
        page.strip().splitlines() for page in (DATA / "proposals.txt").read_text("utf-8").split("\n\n")
    )
]


def listed(home: str, row: str, how: str) -> list[str]:
    """One line a proposal: where, the rule, the chords, the price, the bass line, the reason."""
    spots = [
        Spot(chord(word), Fraction(4 * place), Fraction(4), place) for place, word in enumerate(row.split())
    ]
    keys = [parse_key(home)] * len(spots)
    return [
        f"{one.at} {one.rule} {' '.join(f'{part.chord}:{part.beats}' for part in one.chords)} "
        f"{one.price}{' joint' if one.joint else ''} [{one.bass_words}] {one.reason}"
        for one in proposals(spots, keys, loop=how == "loop")
    ]


@pytest.mark.parametrize("case", CASES, ids=lambda case: " ".join(case[0]))
def test_every_proposal_and_nothing_else(case: tuple[list[str], list[str]]) -> None:
    head, wanted = case
    assert listed(*head) == wanted
