"""Weighs swaps for a song that changes little from one question to the next."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from yellow_hinge.errors import BadInput, Cancelled, NoSolution, Problem
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.appetite import Appetite
from yellow_hinge.reharm.proposals import SHOWN_FIRST, Proposal
from yellow_hinge.reharm.rules import RULES
from yellow_hinge.reharm.styles import LEAST_TAKEN, Style, learned, style_text
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import change_swaps
from yellow_hinge.song.kept_hands import kept_right, right_now
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.settings.own_files import keep_text
from yellow_hinge.tasks.settings.own_styles import own_styles_path
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.tasks.swaps.held_through import held_through
from yellow_hinge.tasks.swaps.reharmonise import TradePoint, accept, chords_of, find_swaps, trade_curve
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape

#: What was found in a song; the song as it is (None: not known yet), and with the proposals of one place.
Looked = tuple[tuple[Song, tuple[Proposal, ...], tuple[Key, ...]], Voiced | None, dict[Proposal, Voiced]]


class SwapDesk:
    """Keeps a planner of its own, so that it can work beside the song's own search."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._planner = Planner(library)

    def look(
        self,
        song: Song,
        written: int,
        progress: Progress,
        deliver: Callable[[Looked], object] = lambda _: None,
    ) -> Looked:
        """All proposals and local keys of a song; the song as it is, and with each proposal of
        one place, voiced anew. What is known so far is handed over as it comes: the proposals are there long
        before they are weighed. Raises as :func:`voice_song`."""
        proposals = find_swaps(song)
        found = song, tuple(proposals), local_keys(song)
        deliver((found, None, {}))
        base = voice_song(song, self._library, self._planner)
        here = [one for one in proposals if one.at == written]
        weighed: dict[Proposal, Voiced] = {}
        for count, proposal in enumerate(here):
            if not progress((count + 1) / len(here)):
                raise Cancelled
            try:
                weighed[proposal] = self.weigh(song, proposal)
            except NoSolution:
                continue  # these hands cannot play it: it is listed without a figure
            deliver((found, base, dict(weighed)))
        return found, base, weighed

    def weigh(self, song: Song, proposal: Proposal) -> Voiced:
        """The song with a proposal, voiced anew; right hands that are kept stay where they do not clash, and
        where the hand is to stay it does, kept or not. Raises as :func:`voice_song`."""
        stays = RULES[proposal.rule].holds

        def hand(before: Song, index: int) -> HandShape | None:
            here = stays and before.slots[index].at.written == proposal.at
            return right_now(before, index) if here else kept_right(before, index)

        swapped = accept(song, proposal).song
        held = held_through(song, swapped, hand, self._library, self._planner, clashing=stays)
        return voice_song(held, self._library, self._planner)

    def learn_style(self, song: Song) -> Style:
        """The player's own style from the swaps of the current take. Raises as :func:`learn_style`."""
        swaps = song.arrangement.swaps
        return learn_style(find_swaps(change_swaps(song, dict.fromkeys(swaps, ())).song), swaps)

    def curve(
        self, song: Song, most: int, progress: Progress, appetite: Appetite = "fits"
    ) -> list[TradePoint]:
        """The trade curve."""
        return trade_curve(song, self._library, self._planner, most, progress, appetite=appetite)


def learn_style(
    proposals: list[Proposal], swaps: Mapping[int, tuple[ChordAt, ...]], path: Path | None = None
) -> Style:
    """The player's own style from the proposals of a song without swaps and the swaps that were taken of
    them, written down. Raises :class:`BadInput` where too few were taken, and :class:`FileTrouble` where it
    cannot be written."""
    here = [proposal for proposal in proposals if proposal.at in swaps]
    taken = [proposal for proposal in here if chords_of(proposal) == swaps[proposal.at]]
    shown = {at: [proposal for proposal in here if proposal.at == at][:SHOWN_FIRST] for at in swaps}
    left = [proposal.rule for row in shown.values() for proposal in row if proposal not in taken]
    style = learned([proposal.rule for proposal in taken], left, "as I swap")
    if style is None:
        what = f"only {len(taken)} of its swaps are proposals that were taken"
        raise BadInput(Problem("style", what, f"take {LEAST_TAKEN} proposals at least, and learn from them"))
    keep_text(path or own_styles_path(), style_text(style))
    return style
