"""Right hands that stay, note for note, while another chord or bass comes under them."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec.structs import replace

from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.edits import Edit, choose, wish_for_chord
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.theory.tension import FitKind, fit
from yellow_hinge.voicing.candidates import candidates, hand_shapes
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

Hands = Callable[[Song, int], HandShape | None]


def held_through(
    before: Song,
    after: Song,
    hands: Hands,
    library: Library,
    planner: Planner,
    *,
    clashing: bool = False,
) -> Song:
    """``after`` with right hands of ``before`` (those that ``hands`` gives) held where other chords stand in
    the current take. Where the school has a left hand for it, that is left to the search; elsewhere the grip
    is locked over the left hand that is nearest. A hand that clashes with its new chord is let go, but for
    ``clashing``."""
    held: dict[int, int] = {}
    asked = after
    for slot, was in zip(after.slots, _before(before, after), strict=True):
        hand = None if was is None or slot.take != after.current else hands(before, was)
        if was is None or hand is None or slot.chord is None or slot.index in held:
            continue
        if after.locked(slot.index) or "right" in after.ask(slot.index).hold.names:
            continue
        if not clashing and clashes(slot, hand.keys, after):
            continue
        held |= dict.fromkeys(after.columns[after.column_of[slot.index]], was)
        key = local_keys(after)[slot.place]
        ask, shape = asked.ask(slot.index), classify((), hand.keys, slot.chord, key, library).right
        asked = wish_for_chord(asked, slot.index, replace(ask, hold=replace(ask.hold, right=shape))).song
    if not held:
        return after
    places, fixed = progression(asked, library).places, asked
    for index, was in held.items():
        place = places[asked.column_of[index]]
        if place.wish is not None and place.wish.plays("right") and not planner.playable(place):
            fixed = _locked(fixed, after, index, before.voicing(was), place.wish, library=library)
    return fixed


def _locked(
    song: Song, after: Song, index: int, was: Voicing | None, wish: Wish, *, library: Library
) -> Song:
    """The held hand locked in a slot over a left hand, and no wish of the slot changed."""
    slot, hold = song.slots[index], wish.hold
    assert slot.chord is not None and hold is not None and hold.right is not None
    right = hold.right.keys
    left = _left_below(wish, right, () if was is None else was.left.keys, library)
    grip = classify(left, right, slot.chord, local_keys(song)[slot.place], library)
    return choose(wish_for_chord(song, index, after.ask(index)).song, index, grip).song


def as_it_is(song: Song, index: int, ask: Ask, library: Library) -> Edit:
    """Something of a chord fixed as it stands. Where no voicing of the school goes with it the whole grip is
    locked, so that it stays note for note all the same."""
    edit = wish_for_chord(song, index, ask)
    place = progression(edit.song, library).places[edit.song.column_of[index]]
    voicing, wish = song.voicing(index), place.wish
    if place.lock is not None or wish is None or voicing is None or candidates(wish, library).legal.any():
        return edit
    words = f"the school {wish.school.name} has nothing that goes with it: the whole grip is locked"
    return replace(choose(song, index, voicing), remarks=(words,))


def clashes(slot: Slot, keys: tuple[int, ...], song: Song) -> tuple[int, ...]:
    """Those of some keys that clash with a slot's chord."""
    assert slot.chord is not None
    key = local_keys(song)[slot.place]
    return tuple(one for one in keys if fit(one, slot.chord, key).kind == FitKind.CLASH)


def _before(before: Song, after: Song) -> Iterator[int | None]:
    """For each slot of another form of a song what sounded where it begins."""
    by_place: dict[int, list[Slot]] = {}
    for slot in before.slots:
        by_place.setdefault(slot.place, []).append(slot)
    for now in after.slots:
        begun = [one for one in by_place.get(now.place, ()) if one.start_quarters <= now.start_quarters]
        yield begun[-1].index if begun else None


def _left_below(
    wish: Wish, right: tuple[int, ...], was: tuple[int, ...], library: Library
) -> tuple[int, ...]:
    """The left hand of the school that is nearest to the one before and lies below the right hand; none
    where there is no room. It stays where somebody else has the bass."""
    if not wish.plays("left") or wish.bass != "self":
        return was if wish.plays("left") else ()
    free = replace(wish, hold=None, top=None)
    shapes = [
        shape.keys
        for shape in hand_shapes(free, library, "left")
        if shape.keys[-1] < right[0] and shape.degrees[0] == wish.bass_label
    ]
    return min(shapes, key=lambda keys: (hand_motion(was, keys).motion_st, len(keys), keys), default=())
