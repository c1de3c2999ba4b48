"""Reharmonise a song: proposals, the joint search, and the way back into the document."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.appetite import Appetite
from yellow_hinge.reharm.identity import Heard, fixed, tones
from yellow_hinge.reharm.identity import lines as lines_in
from yellow_hinge.reharm.joint import JointAnswer, JointSearch, Option
from yellow_hinge.reharm.proposals import Proposal, Spot, mixed, proposals
from yellow_hinge.reharm.rules import BORROWED, RULES, Timed
from yellow_hinge.reharm.styles import Style
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import Edit, change_swaps, vary_round, vary_with_copy
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.tune import melody_within
from yellow_hinge.stopping import Progress, always, ask
from yellow_hinge.tasks.settings.own_styles import every_style
from yellow_hinge.tasks.song.local_keys import goals_in, local_keys
from yellow_hinge.tasks.song.problem import asked, placed, progression, struck_in, wish_for
from yellow_hinge.tasks.song.top_line import Lines
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.recipes import Library


def spots(song: Song) -> list[Spot]:
    """The chords as they sound, as the rules see them: a swapped chord can be swapped again."""
    return [
        Spot(
            slot.chord, slot.start_quarters, slot.beats, slot.at.written, slot.at.part,
            unit=slot.meter.quarters_per_beat,
        )
        for slot in song.slots
    ]  # fmt: skip


def tune(song: Song) -> tuple[NoteOver, ...]:
    """The whole melody in time order, the pickup before the first bar among it."""
    pickup = song.chart.pickup_quarters
    return melody_within(song, [(-pickup, song.chart.length_quarters + pickup)])[0] if song.slots else ()


def find_swaps(song: Song, joint: bool = False) -> list[Proposal]:
    """Everything that may stand in the place of a chord of the current take as it sounds; with
    ``joint`` only by the rules that the search over the whole song may use. What holds in some rounds of a
    chord only, because the form goes on otherwise, says so. Raises :class:`BadInput` for a song without
    chords."""
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    keys, arrangement = local_keys(song), song.arrangement
    rules_off = set(arrangement.rules_off)
    if joint:
        rules_off |= {rule.id for rule in RULES.values() if not rule.joint}
    stays = {
        slot.index
        for slot in song.slots
        if slot.take != song.current or slot.at.written in arrangement.untouched
    }
    row = [replace(spot, written=slot.index) for spot, slot in zip(spots(song), song.slots, strict=True)]
    found = proposals(
        row, [keys[slot.place] for slot in song.slots], tune(song), rules_off=rules_off,
        untouched=stays, loop=arrangement.loop, styles=_styles(song),
    )  # fmt: skip
    return list(_by_written(song, found))


def _styles(song: Song) -> list[Style | None]:
    """The style of each slot: its section's, or else the take's; one that nobody knows any more is none."""
    names = [song.taste(slot.index).style or song.decided(slot.index).style for slot in song.slots]
    known = every_style() if any(names) else {}
    return [None if name is None else known.get(name) for name in names]


def _by_written(song: Song, proposals: Sequence[Proposal]) -> Iterator[Proposal]:
    """Proposals by slot as proposals by written chord. One that stands in all of its rounds has the verdict
    of the round in which it fits the worst; what leads on is not the same in each, so one that stands in
    some only says in which."""
    by_slot: dict[int, dict[tuple[str, tuple[Timed, ...]], Proposal]] = {}
    for proposal in proposals:
        by_slot.setdefault(proposal.at, {})[proposal.rule, proposal.every_chord] = proposal
    rounds_of: dict[tuple[int, At], list[int]] = {}
    for slot in song.slots:  # not by column: other chords may sound alike by a rule
        rounds_of.setdefault((slot.take, slot.at), []).append(slot.index)
    for (_, at), indices in rounds_of.items():
        rounds = [by_slot.get(index, {}) for index in indices]
        names = dict.fromkeys(name for one in rounds for name in one)
        here = []
        for name in names:
            there = [one[name] for one in rounds if name in one]
            worst = max(there, key=lambda one: (one.clash, one.rubs))
            if any(_part(song, worst.at) != _part(song, index) for index, _ in worst.then):
                continue  # two places that do not always follow each other
            further = tuple((song.slots[index].at.written, row) for index, row in worst.then)
            own = replace(worst, at=at.written, part=at.part, then=further)
            if len(there) < len(rounds):
                slots = [song.slots[k] for k, one in zip(indices, rounds, strict=True) if name in one]
                turns = tuple(dict.fromkeys((slot.section, slot.round) for slot in slots))
                own = replace(own, rounds=turns, joint=False, reason=f"{own.reason}; {_turns(turns)} only")
            here.append(own)
        yield from here if len(indices) == 1 else mixed(here)


def _part(song: Song, index: int) -> tuple[str, int]:
    slot = song.slots[index]
    return slot.section, slot.round


def _turns(turns: Sequence[tuple[str, int]]) -> str:
    numbers = " and ".join(str(turn) for _, turn in turns)
    return f"in {'round' if len(turns) == 1 else 'rounds'} {numbers} of {turns[0][0] or 'the song'}"


def accept(song: Song, proposal: Proposal, chords: Sequence[Timed] = ()) -> Edit:
    """The song with a proposal in place, or with a variant of its ``chords``; what an earlier swap
    put beside it stays. One that stands in some rounds only varies those, by a take of their own."""
    row = row_with(song, proposal, chords)
    symbol = next(written.chord for written in song.written if written.id == proposal.at)
    label, take_id = f"Swap {_shown(symbol)}", None
    if proposal.rounds:
        first, *others = proposal.rounds
        song = vary_with_copy(song, *first).song
        take_id = song.takes[-1].id
        for section, turn in others:
            song = vary_round(song, section, turn, take_id).song
        label = f"{label}, {_turns(proposal.rounds)}"
    rows = {proposal.at: row, **{at: _at(further) for at, further in proposal.then}}
    return change_swaps(song, rows, label, take_id)


def row_with(song: Song, proposal: Proposal, chords: Sequence[Timed] = ()) -> tuple[ChordAt, ...]:
    """What stands in the place of the written chord with a proposal, or with a variant of its ``chords``."""
    parts = song.arrangement.swaps.get(proposal.at, ())
    new = _at(chords or proposal.chords)
    before = max(0, proposal.part - 1)
    return (*parts[:before], *new, *parts[proposal.part :])


def _shown(chord: ChordSymbol | None) -> str:
    return "no chord" if chord is None else chord.pretty


def chords_of(proposal: Proposal) -> tuple[ChordAt, ...]:
    return _at(proposal.chords)


def _at(row: Sequence[Timed]) -> tuple[ChordAt, ...]:
    return tuple(ChordAt(timed.chord, timed.beats) for timed in row)


class TradePoint(Struct, frozen=True):
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
    progress: Progress = always,
    *,
    proposals: Sequence[Proposal] | None = None,
    appetite: Appetite = "fits",
) -> list[TradePoint]:
    """For 0, 1, ... ``most`` swaps the least effort with just so many, over the best swaps that fit
    the melody and the ``appetite`` and all voicings, exact; in a loop the voicings are those of the loop.
    Swaps already in the song, chords that are locked, wished for or not to be touched stay, and what the song
    is by (:func:`identity_of`) but for an appetite for anything.

    Raises as :func:`find_swaps` and :func:`voice_song`, and ``Cancelled``.
    """
    proposals = find_swaps(song, joint=True) if proposals is None else proposals
    problem = progression(song, library)
    planner.refuse_empty(problem)
    row = _groups(song)
    touched = [proposal for proposal in proposals if wanted(proposal, appetite)]
    rows, slots = _options(song, library, planner, touched, row, appetite=appetite)
    times, ways = _played(problem, row)
    loop = problem.loop and len(slots) > 1
    if loop:  # in front stands what leads back, for the sake of that change alone
        slots, times, ways = [slots[-1], *slots], [0, *times], [0, 1, *ways[1:]]
    search = JointSearch(planner, slots, times, ways)
    points = []
    for answer in search.solve(most, progress):
        options = answer.options[1:] if loop else answer.options
        points.append(_point(song, library, planner, replace(answer, options=options), rows))
    return points


def _groups(song: Song) -> list[list[int]]:
    """The columns of each written chord in each take, in the order in which they are first played."""
    groups: dict[tuple[int, int], list[int]] = {}
    for column, indices in enumerate(song.columns):
        slot = song.slots[indices[0]]
        groups.setdefault((slot.take, slot.at.written), []).append(column)
    return list(groups.values())


def _played(problem: Progression, groups: Sequence[Sequence[int]]) -> tuple[list[int], list[int]]:
    """How often each group is played, and how often the change into it from the group before."""
    counts, changes = problem.counts, problem.times
    times = [counts[group[0]] for group in groups]
    ways = [changes.get((before[-1], group[0]), 0) for before, group in pairwise(groups)]
    return times, [0, *ways]


def _options(
    song: Song,
    library: Library,
    planner: Planner,
    proposals: Sequence[Proposal],
    groups: Sequence[Sequence[int]],
    *,
    appetite: Appetite,
) -> tuple[list[list[Proposal | None]], list[list[Option]]]:
    """For each written place its proposals, and the same as options of the joint search."""
    sounding = [planner.resolved(place) for place in progression(song, library).places]
    own_self = Identity() if appetite == "anything" else identity_of(song)
    by_chord: dict[int, list[Proposal]] = {}
    for proposal in proposals:
        if proposal.safe and proposal.joint and own_self.keeps(proposal):
            by_chord.setdefault(proposal.at, []).append(proposal)
    keys, goal, lines, playing = local_keys(song), goals_in(song), Lines(song), Playing(song)
    rows: list[list[Proposal | None]] = []
    slots: list[list[Option]] = []
    for group in groups:
        own = [song.slots[song.columns[column][0]] for column in group]
        written = own[0].at.written
        row: list[Proposal | None] = [None]
        options = [Option(tuple(sounding[column] for column in group), False, own_first=True, own_last=True)]
        held = (
            len(own) > 1
            or own[0].at.part
            or own[0].take != song.current
            or any(song.locked(slot.index) or song.ask(slot.index).hold.names for slot in own)
        )
        if not held:
            struck = struck_in(playing, song.columns[group[0]])
            for proposal in by_chord.get(written, ()):
                ask()
                key, leads_to = keys[own[0].place], goal[own[-1].index]
                there = _places_of(song, library, lines, proposal, own[0], key=key, goal=leads_to)
                there = tuple(one.for_rhythm(struck) for one in there)
                option = _option(planner, proposal, there, own[0].chord)
                if option is not None and len(row) <= MOST_OPTIONS:
                    row.append(proposal)
                    options.append(option)
        rows.append(row)
        slots.append(options)
    return rows, slots


class Identity(Struct, frozen=True):
    """What stays of a song, by written chord: those that no swap takes, and the pitch classes of lines that
    walk through others."""

    stays: frozenset[int] = frozenset()
    lines: Mapping[int, frozenset[int]] = field(default_factory=dict)

    def keeps(self, proposal: Proposal) -> bool:
        """Whether a proposal leaves it alone."""
        sounding = [tones(timed.chord) for timed in proposal.chords]
        walked = self.lines.get(proposal.at, frozenset())
        return proposal.at not in self.stays and all(any(note in one for one in sounding) for note in walked)


def identity_of(song: Song) -> Identity:
    """What a song is by."""
    keys, row, stretch = local_keys(song), [], 0
    slots = song.plain_slots
    for before, slot in zip([None, *slots], slots, strict=False):
        again = before is not None and (before.section, before.round) == (slot.section, slot.round)
        stretch += before is not None and not again
        whole = slot.quarters >= slot.meter.quarters
        row.append(Heard(slot.chord, slot.bar, stretch, slot.quarters, keys[slot.place], whole_bar=whole))
    walked: dict[int, frozenset[int]] = {}
    for slot, notes in zip(slots, lines_in(row), strict=True):
        walked[slot.at.written] = walked.get(slot.at.written, frozenset()) | notes
    return Identity(frozenset(slots[place].at.written for place in fixed(row)), walked)


def wanted(proposal: Proposal, appetite: Appetite) -> bool:
    """Whether a proposal is of what may be touched."""
    if appetite == "dominants":
        return proposal.of_dominant
    if appetite == "borrow":
        return proposal.of_dominant or proposal.group == BORROWED
    return True


def _option(
    planner: Planner, proposal: Proposal, there: tuple[Place, ...], symbol: ChordSymbol | None
) -> Option | None:
    """A proposal as an option; None where these hands cannot play it in this school."""
    if not all(planner.playable(place) for place in there):
        return None
    chords = [timed.chord for timed in proposal.chords]
    return Option(there, True, proposal.price, chords[0] == symbol, chords[-1] == symbol)


def _places_of(
    song: Song,
    library: Library,
    lines: Lines,
    proposal: Proposal,
    slot: Slot,
    *,
    key: Key,
    goal: ChordSymbol | None,
) -> tuple[Place, ...]:
    start, unit = slot.start_quarters, slot.meter.quarters_per_beat
    spans = []
    for timed in proposal.chords:
        spans.append((start, timed.beats * unit))
        start += timed.beats * unit
    ask, arrangement = Ask(asked(song, slot).taste), song.decided(slot.index)
    chords = [timed.chord for timed in proposal.chords]
    tunes = melody_within(song, spans)
    places = []
    for k, (chord, after) in enumerate(zip(chords, [*chords[1:], goal], strict=True)):
        over = tunes[k][0].key if tunes[k] else None
        wish = wish_for(chord, key, arrangement, song.hands, library, melody=over, ask=ask, after=after)
        part = replace(slot, start_quarters=spans[k][0])
        wish = placed(wish, song, part, ask, lines, part=(k == 0, k == len(chords) - 1))
        places.append(Place(wish, None, str(chord)))
    return tuple(places)


def _point(
    song: Song,
    library: Library,
    planner: Planner,
    answer: JointAnswer,
    rows: Sequence[Sequence[Proposal | None]],
) -> TradePoint:
    taken = [row[option] for row, option in zip(rows, answer.options, strict=True)]
    swaps = {proposal.at: chords_of(proposal) for proposal in taken if proposal is not None}
    voiced = voice_song(change_swaps(song, swaps).song, library, planner)
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


def explain_swaps(before: Song, after: Song, proposals: Sequence[Proposal]) -> list[str]:
    """Swap by swap why it is there."""
    words = []
    for written, row in sorted(after.arrangement.swaps.items()):
        slot = after.firsts.get(written)
        if written in before.arrangement.swaps or slot is None:
            continue
        reason = next((p.reason for p in proposals if p.at == written and chords_of(p) == row), "")
        chords = ", ".join(_shown(at.chord) for at in row)
        words.append(f"bar {slot.bar}: {chords} for {_shown(slot.chord)}: {reason}")
    return words
