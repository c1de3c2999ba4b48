"""Why a whole row costs what it costs: the reasons behind its effort."""

from __future__ import annotations

from collections.abc import Sequence

from yellow_hinge.motion.explain import Term, explain_change, explain_voicing
from yellow_hinge.motion.figures import Effort, changes_of
from yellow_hinge.motion.place import Answer
from yellow_hinge.motion.weights import Group
from yellow_hinge.stopping import ask
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

Wishes = Sequence[Wish | None]


def row_terms(
    wishes: Wishes, voicings: Sequence[Voicing], loop: bool
) -> tuple[list[tuple[Term, ...]], list[tuple[Term, ...]]]:
    """Reasons for every chord and for every change of a row. Rests cost nothing."""
    row = list(zip(wishes, voicings, strict=True))
    chords: list[tuple[Term, ...]] = []
    for wish, voicing in row:
        ask()
        chords.append(explain_voicing(wish, voicing) if wish is not None and voicing.keys else ())
    hinges: list[tuple[Term, ...]] = []
    for (start, before), (end, after) in changes_of(row, loop):
        ask()
        if start is None or end is None:
            hinges.append(())
        else:
            hinges.append(explain_change(start, end, before, after))
    return chords, hinges


def effort_of(answer: Answer) -> Effort:
    """The effort of an answer by shares. Its cost is the answer's cost, locked chords included."""
    chords, hinges = row_terms(answer.row_wishes, answer.row, answer.loop)
    return added_up([term for terms in (*chords, *hinges) for term in terms])


def added_up(terms: Sequence[Term]) -> Effort:
    """The shares of some reasons."""
    shares = dict.fromkeys(Group, 0)
    for term in terms:
        shares[term.group] += term.cost
    return Effort(*(shares[group] for group in Group))
