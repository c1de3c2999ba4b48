"""Takes beside each other: each solved for the whole song, what the route costs at its joints, joints made
smooth, and two takes compared chord by chord."""

from __future__ import annotations

import random
from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import NoSolution
from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.motion.figures import amount_words, half_steps, motion_st
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Choice
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import Edit, with_arrangement
from yellow_hinge.song.model import Song, Take
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import Voicing

_SIDES = ("left", "right")
Keys = tuple[tuple[int, ...], tuple[int, ...]]


class Lane(Struct, frozen=True):
    """A take as it would sound all through: its voicings and half steps of each change, slot by slot of the
    song with this take alone; the effort (hundredths of a half step), None with ``trouble`` where a chord
    cannot be played."""

    take: Take
    song: Song
    voicings: tuple[Voicing, ...]
    motion: tuple[int, ...]
    effort: int | None
    trouble: str = ""


class Round(Struct, frozen=True):
    """A round of a section, as it is played: name, turn, first and last slot, and the take that sounds."""

    section: str
    turn: int
    first: int
    last: int
    take: int


class Joint(Struct, frozen=True):
    """Where the route changes takes: the slot behind it, the half steps there, and how many more those are
    than if the take before went on."""

    slot: int
    motion: int
    more: int


def rounds_of(song: Song) -> list[Round]:
    """The rounds of a song in playing order; slots are counted as the song has them."""
    take_rounds: list[Round] = []
    for slot in song.slots:
        if take_rounds and (take_rounds[-1].section, take_rounds[-1].turn) == (slot.section, slot.round):
            take_rounds[-1] = replace(take_rounds[-1], last=slot.index)
        else:
            take_rounds.append(Round(slot.section, slot.round, slot.index, slot.index, slot.take))
    return take_rounds


def alone(song: Song, take_id: int) -> Song:
    """The song with one take all through."""
    return replace(song, current=take_id, route={})


class TakeDesk:
    """Solves takes."""

    def __init__(self, library: Library) -> None:
        self._library, self._planner = library, Planner(library)

    def lanes(self, song: Song, progress: Progress = always) -> list[Lane]:
        """Every take for the whole song, in their order."""
        lanes = []
        for count, take in enumerate(song.takes):
            lanes.append(self._lane(song, take, progress))
            progress((count + 1) / len(song.takes))
        return lanes

    def _lane(self, song: Song, take: Take, progress: Progress) -> Lane:
        one = alone(song, take.id)
        try:
            voiced = voice_song(one, self._library, self._planner, lambda _: progress(0.0))
        except NoSolution as error:
            return Lane(take, one, (), (), None, trouble=str(error.problems[0]))
        row = tuple(voiced.song.voicing(slot.index) or Voicing() for slot in voiced.song.slots)
        motion = tuple(motion_st(a, b) for a, b in pairwise(row))
        return Lane(take, voiced.song, row, motion, voiced.answer.cost)

    def smooth(self, song: Song, progress: Progress = always) -> Edit:
        """The song with the chords on both sides of every joint found anew, everything else held: exactly the
        least effort that there is so. Locked chords stay."""
        seams = {slot for joint in joints(song) for slot in (joint.slot - 1, joint.slot)}
        free = {(song.slots[index].take, song.slots[index].at) for index in seams}
        held = _held_but(song, free)
        voiced = voice_song(held, self._library, self._planner, progress).song
        return Edit(_locks_as(song, voiced), "Smooth the joints")


def joints(song: Song) -> list[Joint]:
    """Where the route goes from one take to another, in playing order."""
    joints = []
    for before, after in pairwise(rounds_of(song)):
        if before.take == after.take:
            continue
        here = motion_st(song.voicing(before.last), song.voicing(after.first))
        on = song.take_of(before.take).arrangement.voicing(song.slots[after.first].at)
        stays = motion_st(song.voicing(before.last), on)
        joints.append(Joint(after.first, here, here - stays if on is not None else 0))
    return joints


def _held_but(song: Song, free: set[tuple[int, At]]) -> Song:
    """All chords locked but some: (take, chord)."""
    for take in song.takes:
        arrangement = take.arrangement
        choices = {at: choice if (take.id, at) in free else replace(choice, locked=True)
                   for at, choice in arrangement.choices.items()}  # fmt: skip
        song = with_arrangement(song, take.id, replace(arrangement, choices=choices))
    return song


def _locks_as(song: Song, voiced: Song) -> Song:
    """The voicings of one song with the locks of the other."""
    for take in song.takes:
        arrangement = voiced.take_of(take.id).arrangement
        choices = {
            at: replace(take.arrangement.choices.get(at, Choice(choice.voicing)), voicing=choice.voicing)
            for at, choice in arrangement.choices.items()
        }
        voiced = with_arrangement(voiced, take.id, replace(arrangement, choices=choices))
    return voiced


# --- a route by chance -----------------------------------------------------------------------


def shuffled(song: Song, lanes: Sequence[Lane], seed: int, locked: frozenset[int] = frozenset()) -> Edit:
    """A route through the takes by chance, so that a section that comes again sounds otherwise: a take whose
    joint costs least is likeliest. ``locked`` are places of rounds that stay; the same seed gives the same
    route."""
    chance = random.Random(seed)
    known = {lane.take.id: lane for lane in lanes if lane.effort is not None}
    route = dict(song.route)
    rounds = rounds_of(song)
    before: Lane | None = None
    last: dict[str, int] = {}
    for place, take_round in enumerate(rounds):
        if place in locked or not known:
            before = known.get(take_round.take)
            last[take_round.section] = take_round.take
            continue
        beside = {last.get(take_round.section), _kept_next(rounds, place, locked)}
        ids = [take for take in known if take not in beside] or list(known)
        costs = [_joint_cost(before, known[take], song, rounds, place) for take in ids]
        least = min(costs)
        weights = [1 / (1 + cost - least) for cost in costs]
        chosen = chance.choices(ids, weights)[0]
        route[take_round.section, take_round.turn] = chosen
        before, last[take_round.section] = known[chosen], chosen
    return Edit(replace(song, route=route), f"Shuffle {seed}")


def _kept_next(rounds: Sequence[Round], place: int, locked: frozenset[int]) -> int | None:
    """The take of the section's next round, where that is kept."""
    later = (k for k in range(place + 1, len(rounds)) if rounds[k].section == rounds[place].section)
    following = next(later, None)
    return rounds[following].take if following is not None and following in locked else None


def _joint_cost(before: Lane | None, after: Lane, song: Song, rounds: Sequence[Round], place: int) -> int:
    """Half steps from a take's end of the round before to another one's beginning of a round."""
    if before is None or not place:
        return 0
    end = before.song.take_of(before.take.id).arrangement.voicing(song.slots[rounds[place - 1].last].at)
    begin = after.song.take_of(after.take.id).arrangement.voicing(song.slots[rounds[place].first].at)
    return motion_st(end, begin)


# --- two takes beside each other ---------------------------------------------------------------


class Pair(Struct, frozen=True):
    """A written chord in two takes: where it stands, the grips of both (None: silence), the half steps to the
    next chord in each, the widest stretch (mm) and mud (hundredths) of each, and whether the grip of the
    second is new to a player of the first."""

    written: int
    slot: int
    symbols: tuple[str, str]
    grips: tuple[Voicing | None, Voicing | None]
    motion: tuple[int, int]
    stretch_mm: tuple[float, float]
    mud: tuple[int, int]
    new: bool

    @property
    def differ(self) -> bool:
        """Whether the takes do not have the same keys here, or not the same chord."""
        return self.symbols[0] != self.symbols[1] or (_keys(self.grips[0]) != _keys(self.grips[1]))


def _keys(voicing: Voicing | None) -> Keys:
    return ((), ()) if voicing is None else (voicing.left.keys, voicing.right.keys)


def pairs(lane: Lane, other: Lane) -> list[Pair]:
    """Two takes chord by chord, each written chord once, where it is played first."""
    known = {_keys(voicing) for voicing in lane.voicings}
    there: dict[int, int] = {}
    for slot in other.song.slots:
        there.setdefault(slot.at.written, slot.index)
    pairs, seen = [], set()
    for slot in lane.song.slots:
        if slot.at.written in seen or slot.at.written not in there:
            continue
        seen.add(slot.at.written)
        places = (slot.index, there[slot.at.written])
        pairs.append(_pair(slot.at.written, (lane, other), places, known))
    return pairs


def _pair(written: int, lanes: tuple[Lane, Lane], places: tuple[int, int], known: set[Keys]) -> Pair:
    grips = tuple(lane.voicings[place] if place < len(lane.voicings) else None
                  for lane, place in zip(lanes, places, strict=True))  # fmt: skip
    chords = [lane.song.slots[place].chord for lane, place in zip(lanes, places, strict=True)]
    a, b = (pretty_symbol(chord) for chord in chords)
    motion = [lane.motion[place] if place < len(lane.motion) else 0
              for lane, place in zip(lanes, places, strict=True)]  # fmt: skip
    wide = [_stretch(lane.song, grip) for lane, grip in zip(lanes, grips, strict=True)]
    low = [0 if grip is None else mud(tuple(sorted(grip.keys))) for grip in grips]
    return Pair(
        written, places[0], (a, b), grips=(grips[0], grips[1]), motion=(motion[0], motion[1]),
        stretch_mm=(wide[0], wide[1]),
        mud=(low[0], low[1]), new=_keys(grips[1]) not in known,
    )  # fmt: skip


def _stretch(song: Song, grip: Voicing | None) -> float:
    shapes = [] if grip is None else [grip.hand(side).keys for side in _SIDES]
    return max((span_mm(keys[0], keys[-1], song.hands.octave_mm) for keys in shapes if keys), default=0.0)


def pair_words(lane: Lane, other: Lane) -> str:
    """Two takes in figures, in words."""
    rows = pairs(lane, other)
    differ, new = sum(row.differ for row in rows), sum(row.new and row.differ for row in rows)
    parts = [f"{differ} of {len(rows)} chords differ", f"{new} of them are new grips"]
    steps = sum(other.motion) - sum(lane.motion)
    parts.append(
        "as many half steps" if not steps else f"{half_steps(abs(steps))} {'more' if steps > 0 else 'fewer'}"
    )
    if lane.effort is not None and other.effort is not None:
        effort = other.effort - lane.effort
        parts.append(f"{amount_words(abs(effort))} of effort {'more' if effort > 0 else 'less'}")
    return f"{other.take.name} against {lane.take.name}: {', '.join(parts)}."
