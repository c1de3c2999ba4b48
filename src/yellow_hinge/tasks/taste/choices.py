"""The choices that a song holds: grips that the player locked or brought, each against what the program would
have there, everything else as the player has it. What is undone or given back is not in the song, and so no
choice."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Mapping, Sequence

import numpy as np
import numpy.typing as npt
from msgspec.structs import replace

from yellow_hinge.errors import Cancelled, YellowHingeError
from yellow_hinge.motion.counts import NAMES
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import with_arrangement, with_prices
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.taste.learning import (
    BOLDNESS,
    as_candidate,
    as_numbers,
    pair_of,
    speaking,
)
from yellow_hinge.tasks.taste.prices import Vector, held_out_loss, nearest_shares
from yellow_hinge.tasks.taste.taste import Chosen, Sure, Taste
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

Places = npt.NDArray[np.intp]
#: How often the search is asked anew, with the prices that it led to; and how many choices are kept.
_MOST_ROUNDS, MOST_CHOSEN = 3, 1000
#: So often something is left out, to see whether the rest says it.
_MOST_FOLDS, _LEAST_SONGS = 20, 3
#: The least bold that falls short by no more than this share of the best is taken.
_GOOD_ENOUGH = 1.1
#: Few choices move prices little: each of the player's own allows so much more boldness.
_BOLDNESS_A_CHOICE = 0.05


def own_columns(song: Song) -> tuple[int, ...]:
    """The columns whose grip is the player's own choice."""
    return tuple(
        column
        for column, slots in enumerate(song.columns)
        if (choice := song.decided(slots[0]).choices.get(song.slots[slots[0]].at)) is not None
        and choice.locked
        and choice.own
        and choice.voicing.keys
    )


def learnt_from_song(taste: Taste, song: Song, library: Library, progress: Progress = always) -> Taste:
    """The taste with what a song as it stands says, in the place of what the same takes said before. First
    against the row that the take's prices give, then against those that what was learnt leads to."""
    try:
        found = _Found(song, library)
    except YellowHingeError:  # it cannot be played otherwise than it is
        return taste
    struck = {(choice.base, choice.pair.took) for choice in taste.chosen if choice.struck}
    taste = _without_song(taste, song)
    for turn in range(_MOST_ROUNDS if found.columns else 0):
        new = list(found.against(turn, taste.prices("")))
        if not new:
            break
        kept = [replace(choice, struck=(choice.base, choice.pair.took) in struck) for choice in new]
        taste = relearnt(replace(taste, chosen=(*taste.chosen, *kept)[-MOST_CHOSEN:]), library, progress)
    return taste if found.columns else relearnt(taste, library, progress)


def _without_song(taste: Taste, song: Song) -> Taste:
    begin = tuple(f"{song.own_id}/{take}/" for take in {slot.take for slot in song.slots})
    return replace(taste, chosen=tuple(choice for choice in taste.chosen if not choice.id.startswith(begin)))


class _Found:
    """A song with the player's own choices, and what the program would have in their places."""

    def __init__(self, song: Song, library: Library) -> None:
        self._song, self._library = song, library
        self._planner = Planner(library)
        self._own = [song.voicing(column[0]) or Voicing() for column in song.columns]
        self._known: set[tuple[Voicing, ...]] = set()
        columns = own_columns(song) if song.solved else ()
        free = progression(_freed(with_prices(song, None), columns), library).places
        resolved = [self._planner.resolved(place) for place in free]
        self._wishes = [resolved[column].wish for column in song.column_of]
        #: What is banned is not learnt: those grips stay where they are.
        self.columns = tuple(
            column for column in columns
            if as_candidate(self._planner, resolved[column], self._own[column]) is not None
        )  # fmt: skip

    def against(self, turn: int, prices: OwnPrices) -> Iterator[Chosen]:
        """The choices against the row that the program has; the first ``turn`` at the take's own prices, the
        others at ``prices``. None where it is a row that was met."""
        song = self._song if turn == 0 else with_prices(self._song, prices)
        rival = self._planner.solve(progression(_freed(song, self.columns), self._library)).voicings
        if rival in self._known:
            return
        self._known.add(rival)
        different = [k for k, (own, other) in enumerate(zip(self._own, rival, strict=True)) if own != other]
        for column in different:
            yield from self._chosen(turn, [column], rival)
        if len(different) > 1:
            yield from self._chosen(turn, different, rival)

    def _chosen(self, turn: int, columns: Sequence[int], rival: Sequence[Voicing]) -> Iterator[Chosen]:
        song = self._song
        other = [rival[k] if k in columns else own for k, own in enumerate(self._own)]
        slots = [index for column in columns for index in song.columns[column]]
        first = song.slots[song.columns[columns[0]][0]]
        alone = len(columns) == 1
        where = first.where if alone else f"{len(columns)} chords together"
        took, instead = ([grips[k] for k in song.column_of] for grips in (self._own, other))
        pair = pair_of(
            self._wishes, took, instead, slots, loop=song.arrangement.loop, where=(song.title, where)
        )
        if pair.more:
            place = f"{first.at.written}.{first.at.part}" if alone else "row"
            mark = f"~{turn + 1}" if turn else "" if columns[0] in self.columns or not alone else "~left"
            name = f"{song.own_id}/{first.take}/{place}{mark}"
            wish = self._wishes[first.index]
            yield Chosen(name, "" if wish is None else wish.school.id.partition("+")[0], pair)


def _freed(song: Song, columns: Collection[int]) -> Song:
    """The song with the locks of some columns taken off."""
    for column in columns:
        for index in song.columns[column]:
            slot, arrangement = song.slots[index], song.decided(index)
            choices = {at: choice for at, choice in arrangement.choices.items() if at != slot.at}
            song = with_arrangement(song, slot.take, replace(arrangement, choices=choices))
    return song


# --- learning from all of them -------------------------------------------------------------


def relearnt(taste: Taste, library: Library, progress: Progress = always) -> Taste:
    """The prices that its choices lead to; ours where choices that were left out are not met better with
    them. Raises ``Cancelled``."""
    chosen = [choice for choice in taste.counting if taste.of(choice.school)]
    shapes, tried = _taken(chosen), _Tried(chosen, library)
    most = _BOLDNESS_A_CHOICE * tried.count
    by_ours, tries = tried.left_out(0.0), []
    for number, boldness in enumerate(b for b in BOLDNESS if b <= max(most, BOLDNESS[0])):
        if not progress(number / len(BOLDNESS)):
            raise Cancelled
        tries.append((boldness, *tried.left_out(boldness)))
    least = min(lost for _, lost, _ in tries)
    boldness, after = next((b, won) for b, lost, won in tries if lost <= least * _GOOD_ENOUGH)
    alone = len(tried.folds) == 1  # nothing says whether it holds elsewhere: as little as can be
    shares = nearest_shares(tried.rows, boldness) if least < by_ours[0] or alone else {}
    choices = speaking(shares, [choice.pair for choice in chosen if choice.own])
    sure = Sure(tried.count, by_ours[1], after if shares else by_ours[1])
    return replace(taste, shares=shares, shapes=shapes, choices=choices, sure=sure)


class _Tried:
    """Choices as ``rows`` of numbers, each in its own school, in ``folds`` that are left out in turn: a
    song's choices, or each choice of the same few songs. ``count``: the player's own."""

    def __init__(self, chosen: Sequence[Chosen], library: Library) -> None:
        self._own = np.array([choice.own for choice in chosen], dtype=bool)
        self.count = int(self._own.sum())
        self.rows = _numbers(chosen, _taken(chosen), library)
        self.folds = _folds(chosen)

    def left_out(self, boldness: float) -> tuple[float, int]:
        """How far choices fall short at the prices that the others lead to, and how many of the player's own
        do not."""
        lost, won = 0.0, 0
        for fold in self.folds:
            shares = nearest_shares(np.delete(self.rows, fold, axis=0), boldness)
            lost += held_out_loss(self.rows[fold], shares)
            every = np.array([shares.get(name, 1.0) for name in NAMES])
            won += int((self.rows[fold] @ every > 0)[self._own[fold]].sum())
        return lost, won


def _taken(chosen: Sequence[Chosen]) -> dict[str, int]:
    """How often each shape was taken, by hand: where it was one chord, and once for each."""
    found: Counter[str] = Counter()
    for choice in chosen:
        if choice.own:
            found.update(name for name, more in choice.pair.shapes.items() if more < 0)
    return dict(found)


def _numbers(chosen: Sequence[Chosen], shapes: Mapping[str, int], library: Library) -> Vector:
    """(choices, prices), each in its own school."""
    found = np.zeros((len(chosen), len(NAMES)))
    for name in {choice.school for choice in chosen}:
        places = [place for place, choice in enumerate(chosen) if choice.school == name]
        school = library.schools.get(name) or next(iter(library.schools.values()))
        found[places] = as_numbers([chosen[place].pair for place in places], school, school.bass, shapes)
    return found


def _folds(chosen: Sequence[Chosen]) -> list[Places]:
    """What is left out in turn: a song's choices, or each choice of the same few songs."""
    songs = [choice.pair.song for choice in chosen]
    names = sorted(set(songs))
    groups = [names.index(song) for song in songs] if len(names) >= _LEAST_SONGS else list(range(len(chosen)))
    found = [np.flatnonzero(np.array(groups) % _MOST_FOLDS == fold) for fold in range(_MOST_FOLDS)]
    return [fold for fold in found if len(fold)]
