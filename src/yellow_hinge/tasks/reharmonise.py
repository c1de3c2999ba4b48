"""Reharmonise a song: proposals, the joint search, and the way back into the document."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.plan import Answer, Place, Planner
from yellow_hinge.reharm.joint import JointAnswer, JointSearch, Option
from yellow_hinge.reharm.proposals import Proposal, Spot, proposals
from yellow_hinge.reharm.regions import key_regions
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.song.edits import change_swaps, with_voicings
from yellow_hinge.song.model import Ask, ChordAt, Song
from yellow_hinge.song.walk import melody_within
from yellow_hinge.tasks.problem import places, wish_for
from yellow_hinge.tasks.voice_song import Voiced
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.recipes import Library

Progress = Callable[[float], bool]


def spots(song: Song) -> list[Spot]:
    """The written chords as the rules see them."""
    return [Spot(slot.chord, slot.start_beats, slot.beats) for slot in song.written]


def tune(song: Song) -> tuple[NoteOver, ...]:
    """The whole melody in time order."""
    return melody_within(song, [(Fraction(0), song.length_beats)])[0] if song.slots else ()


def regions(song: Song) -> tuple[Key, ...]:
    """The local key of every written chord, as found or as the player has set it."""
    return key_regions([slot.chord for slot in song.written], song.key, song.keys_set)


def find_swaps(song: Song) -> list[Proposal]:
    """Everything that may stand in the place of a written chord. Raises :class:`BadInput` for a
    song without chords."""
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    return proposals(
        spots(song), song.key, tune(song),
        pins=song.keys_set, rules_off=song.settings.rules_off, untouched=song.untouched,
    )  # fmt: skip


def accept(song: Song, proposal: Proposal) -> Song:
    """The song with a proposal in place."""
    return change_swaps(song, {**song.swaps, proposal.at: chords_of(proposal)})


def chords_of(proposal: Proposal) -> tuple[ChordAt, ...]:
    return tuple(ChordAt(timed.chord, timed.beats) for timed in proposal.chords)


@dataclass(frozen=True)
class TradePoint:
    """The smoothest result with a number of further swaps."""

    swaps: int
    cost: int
    voiced: Voiced


def trade_curve(
    song: Song,
    library: Library,
    planner: Planner,
    most: int,
    progress: Progress = lambda _: True,
    found: Sequence[Proposal] | None = None,
) -> list[TradePoint]:
    """For 0, 1, ... ``most`` swaps the exact smoothest result over all swaps that fit the melody
    and all voicings. Swaps already in the song, and chords that are locked, wished for or not to
    be touched, stay.

    Raises as :func:`find_swaps` and :func:`voice_song`, and ``Cancelled``.
    """
    found = find_swaps(song) if found is None else found
    planner.refuse_empty(places(song, library))
    rows, slots = _options(song, library, planner, found)
    search = JointSearch(planner, slots)
    return [_point(song, answer, rows) for answer in search.solve(most, progress)]


def _options(
    song: Song, library: Library, planner: Planner, found: Sequence[Proposal]
) -> tuple[list[list[Proposal | None]], list[list[Option]]]:
    """For each written place its proposals, and the same as options of the joint search."""
    sounding = places(song, library)
    by_place: dict[int, list[Proposal]] = {}
    for proposal in found:
        if proposal.safe:
            by_place.setdefault(proposal.at, []).append(proposal)
    rows: list[list[Proposal | None]] = []
    slots: list[list[Option]] = []
    for written in song.written:
        own = [slot.index for slot in song.slots if slot.written == written.index]
        row: list[Proposal | None] = [None]
        options = [Option(tuple(sounding[index] for index in own), swap=False)]
        fixed = written.index in song.swaps or any(
            song.locked(index) or song.ask(index).hold.names for index in own
        )
        if not fixed:
            for proposal in by_place.get(written.index, ()):
                option = Option(_places_of(song, library, proposal, own[0]))
                if all(planner.playable(place) for place in option.places):
                    row.append(proposal)
                    options.append(option)
        rows.append(row)
        slots.append(options)
    return rows, slots


def _places_of(song: Song, library: Library, proposal: Proposal, slot: int) -> tuple[Place, ...]:
    start = song.written[proposal.at].start_beats
    spans = []
    for timed in proposal.chords:
        spans.append((start, timed.beats))
        start += timed.beats
    ask = Ask(song.taste(slot))
    return tuple(
        Place(
            wish_for(
                timed.chord, song.key, song.settings, library, over[0].key if over else None, ask
            ),
            None,
            str(timed.chord),
        )
        for timed, over in zip(proposal.chords, melody_within(song, spans), strict=True)
    )  # fmt: skip


def _point(song: Song, answer: JointAnswer, rows: Sequence[Sequence[Proposal | None]]) -> TradePoint:
    taken = {
        place: proposal
        for place, option in enumerate(answer.options)
        if (proposal := rows[place][option]) is not None
    }
    swaps = {**song.swaps, **{place: chords_of(proposal) for place, proposal in taken.items()}}
    voicings = [voicing for row in answer.voicings for voicing in row]
    changed = with_voicings(change_swaps(song, swaps), voicings)
    return TradePoint(
        answer.swaps, answer.cost, Voiced(changed, Answer(tuple(voicings), answer.cost, (), 0.0))
    )


def best_point(curve: Sequence[TradePoint], most: int) -> TradePoint:
    """The cheapest of at most ``most`` swaps; among equals the one with the fewest."""
    return min((point for point in curve if point.swaps <= most), key=lambda p: (p.cost, p.swaps))


def explain_swaps(before: Song, after: Song, found: Sequence[Proposal]) -> list[str]:
    """Swap by swap why it is there."""
    words = []
    for place, row in sorted(after.swaps.items()):
        if place in before.swaps:
            continue
        slot = after.written[place]
        reason = next((p.reason for p in found if p.at == place and chords_of(p) == row), "")
        chords = ", ".join("N.C." if at.chord is None else at.chord.pretty for at in row)
        was = "" if slot.chord is None else slot.chord.pretty
        words.append(f"bar {slot.bar}: {chords} for {was}: {reason}")
    return words
