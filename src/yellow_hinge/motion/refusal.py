"""What is said when no school can voice a chord: why, and the smallest loosening that helps."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from yellow_hinge.errors import Problem
from yellow_hinge.hands.profile import LARGEST_REACH, HandProfile, reach_phrase
from yellow_hinge.theory.tension import MAX_COLOUR
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Hold
from yellow_hinge.voicing.wish import Wish

#: What can be fixed short of a whole voicing, in words.
_HOLD_WORDS = {
    "left": "the left hand", "right": "the right hand", "top": "the top note",
    "bass": "the lowest note", "left_recipe": "the left hand's shape",
    "right_recipe": "the right hand's shape", "lowest": "the lower end of the register",
    "highest": "the upper end of the register",
}  # fmt: skip


class Refusal:
    """Looks for the reason why a wish has no voicing."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def problem(self, wish: Wish, where: str) -> Problem:
        """The place, the reason and the remedy."""
        found = candidates(wish, self._library)
        profile = wish.profile
        if wish.hold is not None and self.playable(replace(wish, hold=None)):
            fixed = [_HOLD_WORDS[name] for name in wish.hold.names]
            what = f"no voicing keeps what is fixed here ({', '.join(fixed)})"
            return Problem(where or str(wish.chord), what, self._release(wish, wish.hold))
        if not found.left or not found.right:
            side = "right" if found.left else "left"
            hand = profile.right if found.left else profile.left
            what = (
                f"no {side}-hand shape of the school {wish.school.name} fits a reach of "
                f"{reach_phrase(hand.reach)}"
            )
        elif wish.hands != "both":
            what = f"no shape of the {wish.hands} hand alone sounds the whole chord"
        else:
            what = f"no pair of hands in the school {wish.school.name} sounds the whole chord"
        return Problem(where or str(wish.chord), what, self._smallest_loosening(wish))

    def _release(self, wish: Wish, hold: Hold) -> str:
        """The one thing that has to be let go, where one is enough."""
        for name in hold.names:
            if self.playable(replace(wish, hold=_without(hold, name))):
                return f"let go {_HOLD_WORDS[name]}"
        return "let go what is fixed"

    def _smallest_loosening(self, wish: Wish) -> str:
        """The first thing that helps: the other hand, one hand wider, both wider, more colour, another
        school."""
        if wish.hands != "both" and self.playable(replace(wish, hands="both")):
            return "let both hands play it, or write a plainer symbol"
        left, right = wish.profile.left.reach, wish.profile.right.reach
        for more in range(1, LARGEST_REACH):
            for plus_left, plus_right in ((0, more), (more, 0), (more, more)):
                new = (min(left + plus_left, LARGEST_REACH), min(right + plus_right, LARGEST_REACH))
                if self.playable(replace(wish, profile=wish.profile.with_reach(*new))):
                    return _reach_remedy(wish.profile, *new)
        for colour in range(wish.colour + 1, MAX_COLOUR + 1):
            if self.playable(replace(wish, colour=colour)):
                return f"allow colour {colour}"
        for school in self._library.schools.values():
            if self.playable(replace(wish, school=school)):
                return f"take the school {school.name} for it"
        return "write a plainer symbol"

    def playable(self, wish: Wish) -> bool:
        """Whether a wish has a legal voicing at all."""
        return bool(candidates(wish, self._library).legal.any())


def _reach_remedy(profile: HandProfile, left: int, right: int) -> str:
    wider = []
    if left > profile.left.reach:
        wider.append(f"the left hand {reach_phrase(left)}")
    if right > profile.right.reach:
        wider.append(f"the right hand {reach_phrase(right)}")
    return f"it would fit with {' and '.join(wider)}; if that is a stretch, take a plainer chord"


def _without(hold: Hold, name: str) -> Hold:
    nothing: dict[str, Any] = {name: None}
    return replace(hold, **nothing)
