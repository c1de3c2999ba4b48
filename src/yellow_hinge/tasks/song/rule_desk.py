"""What a rule for a stretch would cost, and which chords cannot obey it, before it is set."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import Struct

from yellow_hinge.errors import Cancelled
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.song.rule_edits import Stretch, set_rule, slots_in
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.wish import Wish


class Priced(Struct, frozen=True):
    """A rule, what it adds to the effort of the song in hundredths of a half step, the slots of its stretch
    and those of them that cannot obey it, each written chord once. ``yields`` are rules set before that give
    way to it, with the slots where they do; ``beaten_by`` narrower ones that win where it cannot be
    obeyed."""

    rule: HandRule
    stretch: Stretch
    more: int
    chords: int
    cannot: tuple[int, ...]
    yields: tuple[tuple[HandRule, tuple[int, ...]], ...] = ()
    beaten_by: tuple[HandRule, ...] = ()


class RuleDesk:
    """Keeps a planner of its own, so that it can work beside the song's own search."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._planner = Planner(library)
        self._known: tuple[Song, Voiced] | None = None

    def price(self, song: Song, stretch: Stretch, rule: HandRule, progress: Progress) -> Priced:
        """What a rule would cost. Raises as :func:`voice_song`."""
        if self._known is None or self._known[0] is not song:
            self._known = (song, voice_song(song, self._library, self._planner))
        if not progress(0.5):
            raise Cancelled
        ruled = set_rule(song, stretch, rule).song
        voiced = voice_song(ruled, self._library, self._planner)
        firsts = _once(ruled, slots_in(ruled, stretch))
        before, wishes = self._known[1].answer, voiced.answer.row_wishes
        cannot = tuple(index for index in firsts if _fails(ruled, index, wishes[index], rule))
        yields: dict[HandRule, list[int]] = {}
        for index in firsts:
            for hand_rule in _given_up(before.row_wishes[index], wishes[index]):
                if (hand_rule.side, hand_rule.kind) != (rule.side, rule.kind):
                    yields.setdefault(hand_rule, []).append(index)
        stronger = (each for index in cannot for each in _stronger(ruled, index, rule, wishes))
        return Priced(
            rule, stretch, voiced.answer.cost - before.cost, len(firsts), cannot,
            yields=tuple((hand_rule, tuple(slots)) for hand_rule, slots in yields.items()),
            beaten_by=tuple(dict.fromkeys(stronger)),
        )  # fmt: skip


def _fails(song: Song, index: int, wish: Wish | None, rule: HandRule) -> bool:
    """Whether a chord goes without a rule; a locked one stays as it is, and obeys nothing."""
    return rule.of_chords and wish is not None and not song.locked(index) and rule not in wish.rules


def _given_up(before: Wish | None, after: Wish | None) -> list[HandRule]:
    """Rules that a chord obeyed and does not any more."""
    if before is None or after is None:
        return []
    return [rule for rule in before.rules if rule not in after.rules]


def _stronger(song: Song, index: int, rule: HandRule, wishes: Sequence[Wish | None]) -> Iterator[HandRule]:
    """Rules that a chord obeys and that go before one."""
    holding, wish = song.taste(index).rules, wishes[index]
    after = holding[holding.index(rule) + 1 :] if rule in holding else ()
    return (hand_rule for hand_rule in after if wish is not None and hand_rule in wish.rules)


def _once(song: Song, slots: Sequence[int]) -> tuple[int, ...]:
    """The first slot of each chord of the take among some."""
    seen = set()
    firsts = []
    for index in slots:
        at = song.slots[index].at
        if at not in seen:
            seen.add(at)
            firsts.append(index)
    return tuple(firsts)
