"""Keeps a song solved: its row first, then the ranks of its voicings, then other rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

from msgspec.structs import replace

from yellow_hinge.motion.effort import added_up, row_terms
from yellow_hinge.motion.figures import Figures, figures, half_steps, motion_st
from yellow_hinge.motion.pairing import warm
from yellow_hinge.motion.place import Alternative
from yellow_hinge.motion.plan import Planner
from yellow_hinge.remembering import give_back, let_go
from yellow_hinge.song.edits import differing, with_prices
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always, ask
from yellow_hinge.tasks.song.solved import Betterment, Offer, Solved
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song, voice_takes
from yellow_hinge.tasks.song.ways_out import ways_out
from yellow_hinge.voicing.naming import pair_words, shape_words
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

#: Other rows that are offered beside the one with least effort.
MOST_OFFERS = 3


def offer_of(voiced: Voiced, first: Voiced) -> Offer:
    """A row's figures against the first row's."""
    row, others = voiced.answer.row, first.answer.row
    own, base = figures(row, voiced.answer.loop), figures(others, voiced.answer.loop)
    differ = sum(a.keys != b.keys for a, b in zip(voiced.answer.voicings, first.answer.voicings, strict=True))
    trade = "" if voiced is first else trade_words(own, base, row, others)
    return Offer(
        voiced.answer.voicings,
        voiced.effort,
        own.motion_st,
        own.held,
        own.changing,
        differ=differ,
        trade=trade,
    )


#: Half steps, in the mean, from which a line is said to lie higher or lower; notes in the mean from
#: which hands are said to be fuller.
_HIGHER_ST, _FULLER = 1.5, 0.3


def trade_words(figures: Figures, base: Figures, row: Sequence[Voicing], others: Sequence[Voicing]) -> str:
    """What a row gives and takes against another one: "6 half steps fewer, the bass lies higher"."""
    more = figures.motion_st - base.motion_st
    parts = [] if not more else [f"{half_steps(abs(more))} {'more' if more > 0 else 'fewer'}"]
    come = figures.changing - base.changing
    if come:
        parts.append(f"{abs(come)} {'more' if come > 0 else 'fewer'} coming or going")
    for words, end in (("the bass lies", 0), ("the top lies", -1)):
        apart = _mean([v.keys[end] for v in row if v.keys]) - _mean([v.keys[end] for v in others if v.keys])
        if abs(apart) >= _HIGHER_ST:
            parts.append(f"{words} {'higher' if apart > 0 else 'lower'}")
    fuller = _mean([len(v.keys) for v in row]) - _mean([len(v.keys) for v in others])
    if abs(fuller) >= _FULLER:
        parts.append("fuller chords" if fuller > 0 else "thinner chords")
    return ", ".join(parts) or "the same figures in other grips"


def _mean(numbers: Sequence[int]) -> float:
    return sum(numbers) / len(numbers) if numbers else 0.0


#: Half steps from which a change is called larger than it need be.
_WORTH_ST = 3


def betterments(song: Song, ranked: Sequence[Sequence[Alternative]]) -> tuple[Betterment | None, ...]:
    """For each change what would make it clearly smaller, the greatest saving and then the
    cheapest; None where nothing listed would."""
    betterments: list[Betterment | None] = []
    voicings = [song.voicing(slot.index) or Voicing() for slot in song.slots]
    for before, after in pairwise(range(len(voicings))):
        ask()
        now = motion_st(voicings[before], voicings[after])
        choices = [
            Betterment(
                before,
                alternative.voicing,
                now - motion_st(alternative.voicing, voicings[after]),
                alternative.extra,
            )
            for alternative in ranked[before]
            if not song.locked(before)
        ]
        choices += [
            Betterment(
                after,
                alternative.voicing,
                now - motion_st(voicings[before], alternative.voicing),
                alternative.extra,
            )
            for alternative in ranked[after]
            if not song.locked(after)
        ]
        best = min(choices, key=lambda betterment: (-betterment.saved_st, betterment.extra), default=None)
        betterments.append(best if best is not None and best.saved_st >= _WORTH_ST else None)
    return tuple(betterments)


def families(song: Song, library: Library) -> tuple[tuple[str, str, str], ...]:
    """For each slot the families in words: of the left hand's shape, of the right hand's, and of
    both together where they make one of their own."""
    by_column = [_family(song, column[0], library) for column in song.columns]
    return tuple(by_column[column] for column in song.column_of)


def _family(song: Song, index: int, library: Library) -> tuple[str, str, str]:
    ask()
    slot, voicing = song.slots[index], song.voicing(index)
    if slot.chord is None or voicing is None:
        return "", "", ""
    left, right = (
        shape_words(shape, slot.chord, slot.key, library) for shape in (voicing.left, voicing.right)
    )
    return left, right, pair_words(voicing, slot.chord)


Deliver = Callable[[Solved], None]


class Session:
    """Keeps what it has learnt between solves, so that an edit costs only what it touches."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._planner = Planner(library)

    def __call__(
        self, song: Song, most: int, progress: Progress = always, deliver: Deliver = lambda _: None
    ) -> Solved:
        """Solve; then say why; then rank at most ``most`` voicings a chord; then look for other rows.
        What is there is handed over by ``deliver`` as it comes. Raises as :func:`voice_song`."""
        solved = self.row(song, lambda share: progress(share / 3))
        deliver(solved)
        warm()
        solved = self.explained(solved)
        deliver(solved)
        solved = self.ranked(solved, most, lambda share: progress((1 + share) / 3))
        deliver(solved)
        solved = self.beside_ours(solved)
        solved = self.with_offers(solved, lambda share: progress((2 + share) / 3))
        give_back()
        return solved

    def rest(self) -> None:
        """Keep little of what was worked out: another song comes."""
        self._planner.rest()
        let_go()

    def row(self, song: Song, progress: Progress = always) -> Solved:
        """The row of least effort."""
        return Solved(voice_song(song, self._library, self._planner, progress))

    def explained(self, solved: Solved) -> Solved:
        """With the effort of the row and the reasons for it, and the families of its shapes."""
        assert solved.voiced is not None
        answer, song = solved.voiced.answer, solved.voiced.song
        voicings, hinges = row_terms(answer.row_wishes, answer.row, answer.loop)
        every = [term for terms in (*voicings, *hinges) for term in terms]
        return replace(
            solved, effort=added_up(every), voicing_terms=tuple(voicings),
            hinge_terms=tuple(hinges), families=families(song, self._library),
            reductions=ways_out(song, self._library),
        )  # fmt: skip

    def ranked(self, solved: Solved, most: int, progress: Progress = always) -> Solved:
        """With the ranks of the voicings of the row that was solved last."""
        assert solved.voiced is not None
        ranked = [tuple(row) for row in self._planner.alternatives(most, progress)]
        song = solved.voiced.song
        by_slot = tuple(ranked[column] for column in song.column_of)
        return replace(
            solved, alternatives=by_slot, ranks_exact=self._planner.ranks_exact,
            betterments=betterments(song, by_slot),
        )  # fmt: skip

    def beside_ours(self, solved: Solved) -> Solved:
        """With what the program's own prices would have, where the song has a player's."""
        assert solved.voiced is not None
        song = solved.voiced.song
        plain = with_prices(song, None)
        if plain.takes == song.takes:
            return solved
        ours = voice_song(plain, self._library, Planner(self._library)).song
        changed = frozenset(differing(song, ours))
        found = tuple(ours.voicing(index) if index in changed else None for index in range(len(song.slots)))
        return replace(solved, ours=found if changed else ())

    def with_offers(self, solved: Solved, progress: Progress = always) -> Solved:
        """With other rows for the same song."""
        assert solved.voiced is not None
        rows = voice_takes(solved.voiced.song, self._library, self._planner, MOST_OFFERS + 1, progress)
        return replace(solved, offers=tuple(offer_of(row, rows[0]) for row in rows))
