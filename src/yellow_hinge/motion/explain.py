"""Why a voicing or a change costs what it costs, as phrases with shares.

Computed plainly, one note at a time; the tests hold the sums against the arrays of
:mod:`motion.terms`, so that what is shown is what was searched.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from msgspec import Struct

from yellow_hinge.motion.distance import Change, HandMotion, hand_motion, large_excess
from yellow_hinge.motion.figures import half_steps
from yellow_hinge.motion.line import (
    Step,
    again_at_end,
    along,
    end_bass,
    end_share,
    end_tops,
    leap_st,
    off_aim_st,
    step_between,
    unresolved,
)
from yellow_hinge.motion.outer import outer_cost
from yellow_hinge.motion.weights import (
    COLOUR_WANTED,
    EASY_GAP_ST,
    EASY_REACH_SHARE,
    HOLE_FROM_ST,
    LONE_BASS_TOP_KEY,
    MELODY_ROOM_ST,
    Group,
    Weights,
    bass_top_key,
    weights_of,
)
from yellow_hinge.theory.coverage import contradictions, undoubled
from yellow_hinge.theory.tension import DEGREE_WORDS, is_triad
from yellow_hinge.voicing.inside import NINTH_ST, ninths_inside, rubs_on_top
from yellow_hinge.voicing.limits import depth_st, least_key, second_at_bottom
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish


class Term(Struct, frozen=True):
    """One reason: the phrase, its share in hundredths of a half step, and the group that it
    belongs to. ``mark`` is "mud", "rub", "wide" or "roll" for what is marked on the leaf."""

    phrase: str
    cost: int
    group: Group = Group.SOUND
    mark: str = ""


#: Share of the reach, in hundredths, from which a stretch is marked.
WIDE_FROM_SHARE = 95
_COUNTS = ("no note", "one note", "two notes", "three notes", "four notes", "five notes")


#: Tones that lead on, by their semitones above the root.
_LEADING_WORDS = {1: "the flat ninth", 4: "the third", 5: "the suspended fourth", 10: "the seventh"}


def _kept(terms: Iterator[Term]) -> tuple[Term, ...]:
    """What costs anything, the dearest first."""
    return tuple(sorted((term for term in terms if term.cost), key=lambda term: -term.cost))


def explain_voicing(wish: Wish, voicing: Voicing) -> tuple[Term, ...]:
    """What a voicing costs by itself."""
    return _kept(_voicing_terms(wish, voicing, weights_of(wish.school)))


def _voicing_terms(wish: Wish, voicing: Voicing, weights: Weights) -> Iterator[Term]:
    for side in ("left", "right"):
        if wish.plays(side) and voicing.hand(side).keys:
            yield from _hand_terms(wish, side, voicing.hand(side), weights)
    yield from _tone_terms(wish, voicing, weights)
    yield from _bottom_terms(wish, voicing, weights)
    if voicing.left.keys and voicing.right.keys:
        yield from _between_terms(wish, voicing, weights)
    yield Term("low and close: it sounds muddy", weights.mud * mud(voicing.keys) // 100, mark="mud")
    yield from _line_terms(wish, voicing, weights)
    if wish.clear_of is not None:
        rubs = sum((key - wish.clear_of) % 12 in (1, 11) for key in voicing.keys)
        yield Term("a half step beside the sung melody", weights.melody_rub * rubs, Group.STYLE, "rub")
    if wish.room_for is not None:
        near = sum(abs(key - wish.room_for) <= MELODY_ROOM_ST for key in voicing.keys)
        yield Term("in the register that the melody wants", weights.melody_room * near, Group.STYLE)


def _line_terms(wish: Wish, voicing: Voicing, weights: Weights) -> Iterator[Term]:
    """What the chord's place in its section costs."""
    if voicing.right.keys and wish.plays("right"):
        off = off_aim_st(wish.line, voicing.right.keys[-1])
        words = f"the top note lies {half_steps(off)} off the line of its section"
        yield Term(words, weights.aim * off, Group.STYLE)
    share, what = end_share(wish.line), wish.line.closes or "song"
    if not share:
        return
    first = voicing.left if wish.plays("left") else voicing.right
    last = voicing.right if wish.plays("right") else voicing.left
    prices = (
        (f"the {what} ends on a high or turned bass", end_bass(wish, first.keys[0], weights)),
        (f"the {what} ends with an open top", weights.end_top * (last.keys[-1] % 12 not in end_tops(wish))),
        (f"the {what} ends with its third more than once", weights.end_third * again_at_end(wish, voicing)),
    )
    whole = sum(price for _, price in prices) * share // 100
    for words, price in prices:
        part = min(whole, -(-price * share // 100))  # what rounding takes is taken from the last
        whole -= part
        yield Term(words, part, Group.STYLE)


def _hand_terms(wish: Wish, side: str, shape: HandShape, weights: Weights) -> Iterator[Term]:
    keys, profile, hand = shape.keys, wish.profile, wish.hand(side)
    share = profile.strain(hand, keys)
    yield Term(
        f"the {side} hand stretches to {share} % of its reach",
        weights.strain * max(0, share - EASY_REACH_SHARE),
        Group.COMFORT,
        "wide" if WIDE_FROM_SHARE <= share <= 100 else "",
    )
    rolls = profile.rolls(hand, keys)
    yield Term(f"the {side} hand rolls its chord", weights.roll * rolls, Group.COMFORT, "roll")
    outside = max(0, hand.home_low - keys[0]) + max(0, keys[-1] - hand.home_high)
    yield Term(f"the {side} hand is {half_steps(outside)} from home", weights.home * outside, Group.COMFORT)
    row = wish.school.notes.of(side, wish.bass)
    yield Term(f"{_COUNTS[len(keys)]} in the {side} hand", weights.notes * row[len(keys)] // 100)
    struck = wish.struck_by(side)
    few = "fewer" if len(keys) < struck.least else "more"
    yield Term(f"{few} notes than the {side} hand's rhythm asks for", weights.struck * struck.off(len(keys)))
    off = struck.off_st(keys[0], wish.bass == "bassist")
    yield Term(f"the {side} hand lies {half_steps(off)} off its level of the arc", weights.struck_low * off)
    if side == "right" and not wish.third_below:
        again = len(shape.degrees) - len(set(shape.degrees))
        yield Term("the right hand plays a tone twice", weights.echo * again)
    if side == "right" and wish.top is None:
        yield Term("a half step under the top note", weights.rub_on_top * rubs_on_top(keys), mark="rub")
    steps = sum(b - a == 1 for a, b in pairwise(keys))
    yield Term(f"a half step inside the {side} hand", weights.seconds * steps)
    ninths = weights.minor_ninth * ninths_inside(shape)
    yield Term(f"a minor ninth rubs inside the {side} hand", ninths, mark="rub")
    ids = wish.recipes_of(side)
    place = ids.index(shape.recipe) if shape.recipe in ids else 0
    likes = f"the school likes other {side}-hand shapes better"
    yield Term(likes, weights.taste * place, Group.STYLE)
    signature = wish.school.signature(side)
    if signature and shape.recipe not in signature:
        yield Term(f"not the school's own {side} hand", weights.off_class, Group.STYLE)
    if wish.school.loose:
        yield Term(f"the {side} hand is close and low", weights.low_interval * depth_st(keys), mark="mud")
    if wish.heard_below is not None:
        below = wish.chord.bass_name.pitch_class
        rubs = sum(
            (key - below) % 12 == 1 and degree != "b9"
            for key, degree in zip(keys, shape.degrees, strict=True)
        )
        yield Term("a minor ninth rubs against the bassist", weights.minor_ninth * rubs, mark="rub")


def _tone_terms(wish: Wish, voicing: Voicing, weights: Weights) -> Iterator[Term]:
    chord, heard = wish.chord, {*voicing.degrees}
    triad = is_triad(chord)
    named = {*chord.degrees, wish.bass_label, wish.top_label}
    yield from _colour_terms(wish, sorted(heard - named), weights)
    every = [*voicing.degrees, *filter(None, [wish.heard_below])]
    heard = set(every)
    if triad and chord.fifth:
        yield Term("the triad has no fifth", weights.no_fifth * (chord.fifth not in heard))
    for one, other in contradictions(chord):
        if {one, other} <= heard:
            yield Term(f"{DEGREE_WORDS[one]} beside {DEGREE_WORDS[other]}", weights.contradiction)
    again = max(0, every.count(chord.third) - 1) if chord.third else 0
    if wish.third_below:
        yield Term("the third sounds again over a third in the bass", weights.third_over_third * again)
    else:
        yield Term("the third sounds more than once", weights.doubled_third * again)
    one_bass = wish.bass == "self" and wish.plays("left") and not wish.third_below
    octaves = wish.bass_label if one_bass else ""  # a bass in octaves is one voice
    for label in sorted(undoubled(chord, wish.key) - {wish.top_label or "", octaves}):
        if every.count(label) > 1:
            yield Term(f"{DEGREE_WORDS[label]} sounds twice", weights.doubled)


def _colour_terms(wish: Wish, labels: list[str], weights: Weights) -> Iterator[Term]:
    """What the tones beyond the symbol cost: each on a triad, their distance from the mean elsewhere."""
    if is_triad(wish.chord):
        for label in labels:
            words = f"{DEGREE_WORDS[label]} is more than the symbol says"
            yield Term(words, weights.colour_on_triad // max(1, wish.colour), Group.STYLE)
        return
    apart = 100 * len(labels) - COLOUR_WANTED[wish.colour]
    words = "more colour than was asked for" if apart > 0 else "less colour than was asked for"
    yield Term(words, weights.colour * abs(apart) // 100, Group.STYLE)


def _bottom_terms(wish: Wish, voicing: Voicing, weights: Weights) -> Iterator[Term]:
    first = voicing.left if wish.plays("left") else voicing.right
    if not first.keys:
        return
    low = first.keys[0]
    if wish.bass == "self" and wish.plays("left"):
        above = max(0, low - bass_top_key(wish))
        yield Term(f"the bass lies {half_steps(above)} high", weights.high_bass * above)
        if len(first.keys) == 1 and wish.hands == "both":
            above = max(0, low - LONE_BASS_TOP_KEY)
            yield Term("a bass note by itself, and high", weights.lone_bass * above)
    if wish.low_degrees is not None and low % 12 != wish.chord.bass_name.pitch_class:
        yield Term("another tone than the root in the bass", weights.inverted_bass)
    if wish.school.loose and len(voicing.left.keys) == 1 and voicing.right.keys:
        growls = second_at_bottom(voicing.keys)
        yield Term("a second at the bottom growls", weights.low_second * growls, mark="mud")


def _between_terms(wish: Wish, voicing: Voicing, weights: Weights) -> Iterator[Term]:
    left, right = voicing.left, voicing.right
    gap = right.keys[0] - left.keys[-1]
    hole = weights.gap * max(0, gap - EASY_GAP_ST) + weights.hole * max(0, gap - HOLE_FROM_ST)
    yield Term(f"a hole of {half_steps(gap)} between the hands", hole)
    if wish.school.loose:
        deep = max(0, least_key(max(0, gap)) - left.keys[-1])
        yield Term("the hands meet close and low", weights.low_interval * deep, mark="mud")
    for words, step in (("half step", 1), ("minor ninth", NINTH_ST)):
        rubs = sum(
            high - low == step and degree != "b9"
            for low in left.keys
            for high, degree in zip(right.keys, right.degrees, strict=True)
        )
        yield Term(f"a {words} rubs between the hands", weights.minor_ninth * rubs, mark="rub")


def explain_change(before_wish: Wish, wish: Wish, before: Voicing, after: Voicing) -> tuple[Term, ...]:
    """What the change into ``after`` costs; the prices are those of the chord it leads to."""
    weights, step = weights_of(wish.school), step_between(before_wish, wish)
    terms = list(_change_terms(weights, before, after, step))
    if before.keys and after.keys:
        outer = outer_cost(before_wish, wish, before, after)
        terms.append(Term("bass and top line go the same way", outer, Group.STYLE))
    stays = bool(after.right.keys) and before.right.keys[-1:] == after.right.keys[-1:]
    if wish.line.fresh and stays and step.change == Change.ROOT:
        terms.append(Term("the top note stays where a new one is due", weights.held_long, Group.STYLE))
    return _kept(iter(terms))


def _change_terms(weights: Weights, before: Voicing, after: Voicing, step: Step) -> Iterator[Term]:
    for side in ("left", "right"):
        start, end = before.hand(side), after.hand(side)
        if start.keys and end.keys:
            yield from _side_terms(weights, side, start.keys, end.keys, step)
    if before.right.keys and after.right.keys:
        yield from _top_terms(weights, before.right.keys[-1], after.right.keys[-1], step)


def _top_terms(weights: Weights, start: int, end: int, step: Step) -> Iterator[Term]:
    top = abs(end - start)
    yield Term(f"the top line moves {half_steps(top)}", weights.top_move * top, Group.MOVING)
    if step.change != Change.NONE and not top:
        yield Term("the top note stays where a line is wanted", weights.held_top, Group.STYLE)
    yield Term("the top line leaps", weights.top_leap * leap_st(start, end), Group.STYLE)
    with_bass = along(step, start, end)
    if with_bass:
        yield Term(f"the top line follows the bass in {with_bass}", weights.parallel, Group.STYLE)


def _side_terms(
    weights: Weights, side: str, start: tuple[int, ...], end: tuple[int, ...], step: Step
) -> Iterator[Term]:
    motion = hand_motion(start, end)
    move = weights.left_move if side == "left" else weights.right_move
    large = weights.large_left if side == "left" else weights.large_right
    pairs = motion.pairs
    if side == "left" and step.has_bass and pairs[:1] == ((start[0], end[0]),) and (end[0] - start[0]) % 12:
        bass, pairs = abs(end[0] - start[0]), pairs[1:]
        yield Term(f"the bass moves {half_steps(bass)}", weights.bass_move * bass, Group.MOVING)
    half = sum(abs(to - key) for key, to in pairs)
    yield Term(f"the {side} hand moves {half_steps(half)}", move * half, Group.MOVING)
    excess = sum(large_excess(to - key) for key, to in pairs)
    yield Term(f"a large move in the {side} hand", large * excess, Group.MOVING)
    yield from _coming_and_going(side, motion, weights)
    hand_roles = step.roles_of(side)
    if weights.shape_change and hand_roles is not None:
        before, after = (
            [roles[(key - step.root) % 12] for key in keys]
            for keys, roles in zip((start, end), hand_roles, strict=True)
        )
        yield Term(
            f"the {side} hand changes its shape", weights.shape_change * (before != after), Group.STYLE
        )
    if step.change == Change.ROOT and start == end:
        yield Term(f"the {side} hand stays while the root changes", weights.still, Group.STYLE)
    for tone in unresolved(step, start, end):
        words = f"{_LEADING_WORDS[tone]} does not go where it leads"
        yield Term(words, weights.tendency, Group.STYLE)


def _coming_and_going(side: str, motion: HandMotion, weights: Weights) -> Iterator[Term]:
    came, went = len(motion.entered), len(motion.left)
    yield Term(f"{came} more in the {side} hand", weights.enter * came, Group.COMING)
    yield Term(f"{went} fewer in the {side} hand", weights.leave * went, Group.COMING)
