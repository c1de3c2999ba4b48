"""What a teacher would mark in a row of grips beyond the rules: matters of taste, in words, each at the grip
that it is heard in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from yellow_hinge.motion.distance import Change
from yellow_hinge.motion.line import along, end_tops, step_between, unresolved
from yellow_hinge.motion.weights import bass_top_key
from yellow_hinge.theory.pitch import Pitch
from yellow_hinge.theory.tension import DEGREE_WORDS, any_label
from yellow_hinge.voicing.inside import rubs_on_top
from yellow_hinge.voicing.limits import depth_st
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.rules import Broken
from yellow_hinge.voicing.shape import Voicing, spell
from yellow_hinge.voicing.wish import Wish

#: Mud, in hundredths, from which a grip is marked though its intervals stand where they usually may. A full
#: chord over an open fifth on C2 has less.
MUDDY_FROM = 200
#: Half steps between the hands beyond which a grip is marked: a major tenth.
WIDE_GAP_ST = 16
#: Changes of root over which a top note may stay before it is marked.
HELD_UP_TO = 2


def marks(
    wishes: Sequence[Wish], voicings: Sequence[Voicing], closes: bool = True
) -> list[tuple[Broken, ...]]:
    """For each grip of a row what is to be remarked: by itself, in how it is reached, and at the end of a row
    that ``closes``."""
    found: list[list[Broken]] = [
        list(_alone(wish, voicing)) if voicing.keys else []
        for wish, voicing in zip(wishes, voicings, strict=True)
    ]
    row = list(zip(wishes, voicings, strict=True))
    for number, (before, after) in enumerate(pairwise(row), 1):
        if before[1].keys and after[1].keys:
            found[number] += _reached(*before, *after)
    for number in _held(row):
        found[number].append(Broken("held", "the top note has stayed over more than two changes of root"))
    if closes and len(row) > 1 and row[-1][1].keys:
        found[-1] += _end(*row[-1])
    return [tuple(brokens) for brokens in found]


def _alone(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    chord, left, right = wish.chord, voicing.left.keys, voicing.right.keys
    if wish.top is None and not wish.clear_top and rubs_on_top(right):
        yield Broken("rub", "a half step under the top note: it blurs the line")
    if chord.kind == "dominant" and chord.third:
        every = [*voicing.degrees, *filter(None, [wish.heard_below])]
        if every.count(chord.third) > 1:
            yield Broken("doubling", "the third of a dominant sounds twice")
    if left and right and right[0] - left[-1] > WIDE_GAP_ST:
        yield Broken("hole", f"a hole of {right[0] - left[-1]} half steps between the hands")
    if depth_st(voicing.keys) or mud(voicing.keys) >= MUDDY_FROM:
        yield Broken("low", "close and low: it sounds muddy")


def _reached(before: Wish, voicing: Voicing, after: Wish, other: Voicing) -> Iterator[Broken]:
    step = step_between(before, after)
    for side in ("left", "right"):
        if not (voicing.hand(side).keys and other.hand(side).keys):
            continue
        for tone in dict.fromkeys(unresolved(step, voicing.hand(side).keys, other.hand(side).keys)):
            key = next(key for key in voicing.hand(side).keys if (key - step.root) % 12 == tone)
            label = before.chord.label_of(key % 12) or any_label(before.chord, key % 12)
            name = Pitch(key, spell(before.chord, key, label)).name
            words = f"{DEGREE_WORDS[label]} of {before.chord} ({name}) does not go where it leads"
            yield Broken("tendency", f"{words} in the {side} hand")
    if voicing.right.keys and other.right.keys:
        with_bass = along(step, voicing.right.keys[-1], other.right.keys[-1])
        if with_bass:
            yield Broken("parallel", f"the top line follows the bass in {with_bass}")


def _held(row: Sequence[tuple[Wish, Voicing]]) -> Iterator[int]:
    """Where a top note has stayed for too long."""
    stayed = 0
    for number, ((before, voicing), (after, other)) in enumerate(pairwise(row), 1):
        same = bool(voicing.right.keys) and voicing.right.keys[-1:] == other.right.keys[-1:]
        changed = step_between(before, after).change == Change.ROOT
        stayed = stayed + changed if same else 0
        if same and changed and stayed == HELD_UP_TO + 1:
            yield number


def _end(wish: Wish, voicing: Voicing) -> Iterator[Broken]:
    low, top = min(voicing.keys), max(voicing.keys)
    if wish.bass == "self" and wish.chord.bass is None and low % 12 != wish.chord.root.pitch_class:
        yield Broken("ending", "the row ends on another note than the root: it hangs in the air")
    elif wish.bass == "self" and wish.plays("left") and low > bass_top_key(wish):
        yield Broken("ending", "the row ends high above its bass: it hangs in the air")
    if top % 12 not in end_tops(wish):
        yield Broken("ending", "the row ends with an open note on top: root, third or fifth closes it")
