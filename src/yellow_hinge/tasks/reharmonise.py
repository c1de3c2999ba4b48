"""Reharmonise a song: proposals, the joint search, and the way back into the document."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.plan import Place, Planner
from yellow_hinge.reharm.joint import JointAnswer, JointSearch, Option
from yellow_hinge.reharm.proposals import Proposal, Spot, proposals
from yellow_hinge.reharm.rules import RULES, Timed
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.song.edits import change_swaps
from yellow_hinge.song.model import Ask, ChordAt, Song
from yellow_hinge.song.walk import melody_within
from yellow_hinge.tasks.describe_song import local_keys
from yellow_hinge.tasks.problem import goals_in, places, wish_for
from yellow_hinge.tasks.voice_song import Voiced, voice_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.recipes import Library

Progress = Callable[[float], bool]


def spots(song: Song) -> list[Spot]:
    """The chords as they sound, as the rules see them: a swapped chord can be swapped again."""
    row: list[Spot] = []
    part = 0
    for slot in song.slots:
        part = part + 1 if row and row[-1].written == slot.written else 0
        row.append(Spot(slot.chord, slot.start_beats, slot.beats, slot.written, part))
    return row


def tune(song: Song) -> tuple[NoteOver, ...]:
    """The whole melody in time order."""
    return melody_within(song, [(Fraction(0), song.length_beats)])[0] if song.slots else ()


def find_swaps(song: Song, joint: bool = False) -> list[Proposal]:
    """Everything that may stand in the place of a chord as it sounds; with ``joint`` only by the
    rules that the search over the whole song may use. Raises :class:`BadInput` for a song without
    chords."""
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    row, keys = spots(song), local_keys(song)
    rules_off = set(song.settings.rules_off)
    if joint:
        rules_off |= {rule.id for rule in RULES.values() if not rule.joint}
    return proposals(
        row, [keys[spot.written] for spot in row], tune(song), rules_off=rules_off,
        untouched=song.untouched, loop=song.settings.loop,
    )  # fmt: skip


def accept(song: Song, proposal: Proposal, chords: Sequence[Timed] = ()) -> Song:
    """The song with a proposal in place, or with a variant of its ``chords``; what an earlier swap
    put beside it stays."""
    parts = song.swaps.get(proposal.at, ())
    new = tuple(ChordAt(timed.chord, timed.beats) for timed in chords or proposal.chords)
    row = (*parts[: proposal.part], *new, *parts[proposal.part + 1 :])
    return change_swaps(song, {**song.swaps, proposal.at: row})


def chords_of(proposal: Proposal) -> tuple[ChordAt, ...]:
    return tuple(ChordAt(timed.chord, timed.beats) for timed in proposal.chords)


@dataclass(frozen=True)
class TradePoint:
    """The result with a number of further swaps: its effort, and ``price``, what the search counted
    on top for how far the swaps go from the chart (both in hundredths of a half step)."""

    swaps: int
    cost: int
    price: int
    voiced: Voiced


#: Proposals of one chord that the joint search looks at: the best ones for melody and function.
MOST_OPTIONS = 8


def trade_curve(
    song: Song,
    library: Library,
    planner: Planner,
    most: int,
    progress: Progress = lambda _: True,
    found: Sequence[Proposal] | None = None,
) -> list[TradePoint]:
    """For 0, 1, ... ``most`` swaps the least effort with just so many, over the best swaps that fit
    the melody and all voicings, exact; in a loop the voicings are those of the loop. Swaps already
    in the song, chords that are locked, wished for or not to be touched, and the last chord of the
    song and of each section stay.

    Raises as :func:`find_swaps` and :func:`voice_song`, and ``Cancelled``.
    """
    found = find_swaps(song, joint=True) if found is None else found
    planner.refuse_empty(places(song, library))
    rows, slots = _options(song, library, planner, found)
    loop = song.settings.loop and len(slots) > 1
    search = JointSearch(planner, [slots[-1], *slots] if loop else slots)
    points = []
    for answer in search.solve(most, progress):
        options = answer.options[1:] if loop else answer.options
        points.append(_point(song, library, planner, replace(answer, options=options), rows))
    return points


def _options(
    song: Song, library: Library, planner: Planner, found: Sequence[Proposal]
) -> tuple[list[list[Proposal | None]], list[list[Option]]]:
    """For each written place its proposals, and the same as options of the joint search."""
    sounding = [planner.resolved(place) for place in places(song, library)]
    by_place: dict[int, list[Proposal]] = {}
    for proposal in found:
        if proposal.safe and proposal.joint:
            by_place.setdefault(proposal.at, []).append(proposal)
    closing, keys, goal = closings(song), local_keys(song), goals_in(song)
    rows: list[list[Proposal | None]] = []
    slots: list[list[Option]] = []
    for written in song.written:
        own = [slot.index for slot in song.slots if slot.written == written.index]
        row: list[Proposal | None] = [None]
        here = tuple(sounding[index] for index in own)
        options = [Option(here, swap=False, own_first=True, own_last=True)]
        fixed = written.index in song.swaps or any(
            song.locked(index) or song.ask(index).hold.names for index in own
        )
        if not fixed and written.index not in closing:
            for proposal in by_place.get(written.index, ()):
                there = _places_of(song, library, proposal, own[0], keys[written.index], goal[own[-1]])
                option = _option(planner, proposal, there, written.chord)
                if option is not None and len(row) <= MOST_OPTIONS:
                    row.append(proposal)
                    options.append(option)
        rows.append(row)
        slots.append(options)
    return rows, slots


def closings(song: Song) -> frozenset[int]:
    """The written chords that close the song or a section: a swap there would change where the
    music arrives."""
    row = song.written
    ends = {row[-1].index} if row else set()
    for one, other in pairwise(row):
        if (one.section, one.round) != (other.section, other.round):
            ends.add(one.index)
    return frozenset(ends)


def _option(
    planner: Planner, proposal: Proposal, there: tuple[Place, ...], own: ChordSymbol | None
) -> Option | None:
    """A proposal as an option; None where these hands cannot play it in this school."""
    if not all(planner.playable(place) for place in there):
        return None
    chords = [timed.chord for timed in proposal.chords]
    return Option(there, True, proposal.price, chords[0] == own, chords[-1] == own)


def _places_of(
    song: Song, library: Library, proposal: Proposal, slot: int, key: Key, goal: ChordSymbol | None
) -> tuple[Place, ...]:
    start = song.written[proposal.at].start_beats
    spans = []
    for timed in proposal.chords:
        spans.append((start, timed.beats))
        start += timed.beats
    ask = Ask(song.taste(slot))
    chords = [timed.chord for timed in proposal.chords]
    afters = [*chords[1:], goal]
    return tuple(
        Place(
            wish_for(
                timed.chord, key, song.settings, library, over[0].key if over else None, ask, after
            ),
            None,
            str(timed.chord),
        )
        for timed, after, over in zip(
            proposal.chords, afters, melody_within(song, spans), strict=True
        )
    )  # fmt: skip


def _point(
    song: Song,
    library: Library,
    planner: Planner,
    answer: JointAnswer,
    rows: Sequence[Sequence[Proposal | None]],
) -> TradePoint:
    taken = {
        place: proposal
        for place, option in enumerate(answer.options)
        if (proposal := rows[place][option]) is not None
    }
    swaps = {**song.swaps, **{place: chords_of(proposal) for place, proposal in taken.items()}}
    voiced = voice_song(change_swaps(song, swaps), library, planner, loop=song.settings.loop)
    return TradePoint(answer.swaps, voiced.answer.cost, answer.price, voiced)


def point_with(curve: Sequence[TradePoint], swaps: int) -> TradePoint:
    """The point with just so many swaps, or with the most there are below."""
    return max((point for point in curve if point.swaps <= swaps), key=lambda point: point.swaps)


def turning_point(curve: Sequence[TradePoint]) -> int:
    """The number of swaps up to which each further one lowers the effort; from there on it
    rises."""
    turn = 0
    for before, after in pairwise(curve):
        if after.cost > before.cost:
            break
        turn = after.swaps
    return turn


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
