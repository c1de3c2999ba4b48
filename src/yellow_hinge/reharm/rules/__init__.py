"""The rules of reharmonisation: what else may stand in a place, and why.

Each rule is a small pure function from a place to replacements, in a file by what it is about.
The rules are those taught in harmony classes; which of them are listed, their words and their
prices are our choice.
"""

from yellow_hinge.reharm.rules import basses, borrowed, dominants, inside, relatives, roads
from yellow_hinge.reharm.rules.base import (
    BORROWED,
    GROUPS,
    RULES,
    Draft,
    Place,
    Rule,
    Timed,
    is_pull,
    on,
    split,
)
from yellow_hinge.reharm.rules.roads import backwards_from

__all__ = [
    "BORROWED", "GROUPS", "RULES", "Draft", "Place", "Rule", "Timed", "backwards_from", "basses", "borrowed",
    "dominants", "inside", "is_pull", "on", "relatives", "roads", "split",
]  # fmt: skip
