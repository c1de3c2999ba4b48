"""What a player takes from lists, by song: families of swaps and patterns. It orders the lists (shares with
our order as what is thought before), and hides nothing."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from yellow_hinge.errors import BadInput
from yellow_hinge.reharm.proposals import Proposal
from yellow_hinge.rhythm.patterns import HANDS, HELD, Pattern
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.swaps.reharmonise import chords_of, find_swaps
from yellow_hinge.tasks.taste.taste import Taken, Taste
from yellow_hinge.voicing.own_prices import by_shares

#: So many songs are remembered.
MOST_SONGS = 200


def kind_of_song(song: Song) -> str:
    """What patterns are chosen for: the meter, and whether eighths swing."""
    return f"{song.meter} {'swing' if song.arrangement.groove.swing else 'straight'}"


def with_lists(taste: Taste, song: Song, past: Sequence[Song]) -> Taste:
    """The taste with what a song takes from lists, in the place of what it took before; ``past`` is the song
    as it was, step by step: what was in it and is given back counts too. What was undone is not in it."""
    others = [earlier for earlier in taste.songs if earlier.id != song.own_id]
    taken = taken_in(song, past)
    every = [*others, *([taken] if taken.families or taken.returned or taken.patterns else [])]
    return replace(taste, songs=tuple(every[-MOST_SONGS:]))


def taken_in(song: Song, past: Sequence[Song]) -> Taken:
    """What one song takes, in all of its takes, and what was given back."""
    now = _swaps(song)
    gone = {swap for earlier in past if earlier.own_id == song.own_id for swap in _swaps(earlier)} - now
    proposals = _proposals(song) if now or gone else []
    patterns = {
        f"{hand} {name}"
        for take in song.takes
        for texture in take.arrangement.groove.textures
        for hand in HANDS
        if (name := texture.hand(hand)) != HELD
    }
    return Taken(
        song.own_id, song.title, kind_of_song(song), families=_families(now, proposals),
        returned=_families(gone, proposals), patterns=tuple(sorted(patterns)),
    )  # fmt: skip


_Swap = tuple[int, tuple[ChordAt, ...]]


def _swaps(song: Song) -> set[_Swap]:
    return {(at, row) for take in song.takes for at, row in take.arrangement.swaps.items() if row}


def _proposals(song: Song) -> list[Proposal]:
    """Those of the current take without its swaps."""
    plain = with_arrangement(song, song.current, replace(song.arrangement, swaps={}))
    try:
        return find_swaps(plain)
    except BadInput:
        return []


def _families(swaps: Iterable[_Swap], proposals: Sequence[Proposal]) -> tuple[str, ...]:
    """The families of swaps that are proposals; a player's own chords have none."""
    known = {(proposal.at, chords_of(proposal)): proposal.group for proposal in proposals}
    return tuple(sorted(known[swap] for swap in swaps if swap in known))


# --- in order --------------------------------------------------------------------------------


def proposals_for(taste: Taste | None, proposals: Sequence[Proposal]) -> list[Proposal]:
    """Proposals of one place, with the families first that the player takes."""
    if taste is None or not taste.on:
        return list(proposals)
    taken = Counter(family for song in taste.songs for family in song.families)
    back = Counter(family for song in taste.songs for family in song.returned)
    return list(by_shares(proposals, lambda swap: taken[swap.group], lambda swap: back[swap.group]))


def patterns_for(taste: Taste | None, patterns: Sequence[Pattern], hand: str, kind: str) -> list[Pattern]:
    """Patterns for a hand in a kind of song, with those first that the player chose for that kind."""
    if taste is None or not taste.on:
        return list(patterns)
    chosen = Counter(name for song in taste.songs if song.kind == kind for name in song.patterns)
    return list(by_shares(patterns, lambda pattern: chosen[f"{hand} {pattern.id}"]))
