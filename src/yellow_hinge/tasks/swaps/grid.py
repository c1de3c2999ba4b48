"""A few swaps as switches: every combination of them, voiced exactly, with what the player weighs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise, product

from msgspec import Struct

from yellow_hinge.errors import Cancelled, NoSolution
from yellow_hinge.motion.figures import figures
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import Edit, change_swaps, copy_take, with_arrangement
from yellow_hinge.song.kept_hands import kept_right, right_now
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.describe_song import melody_fits
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.tasks.swaps.held_through import clashes, held_through
from yellow_hinge.tasks.swaps.reharmonise import trade_curve
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.recipes import Library

Row = tuple[ChordAt, ...]

#: So many switches make 64 combinations: what an eye can still take in.
MOST_SWITCHES = 6


class Switch(Struct, frozen=True):
    """One swap that can be on or off: the written chord by id, its first bar, what it was and what comes."""

    written: int
    bar: int
    was: str
    row: Row

    @property
    def words(self) -> str:
        return f"bar {self.bar}: {' '.join(_shown(chord_at) for chord_at in self.row)} for {self.was}"


class Combination(Struct, frozen=True):
    """The song with some of the switches on: voiced anew, its lowest notes (MIDI numbers, a chord each), how
    many notes of the tune clash with a chord, and of the right hands that are held."""

    on: tuple[bool, ...]
    voiced: Voiced
    bass: tuple[int, ...]
    clashes: int
    rubs: int = 0

    @property
    def swaps(self) -> int:
        return sum(self.on)

    @property
    def cost(self) -> int:
        """The effort in hundredths of a half step."""
        return self.voiced.answer.cost

    @property
    def motion_st(self) -> int:
        """Half steps of the whole row."""
        return figures(self.voiced.answer.row, self.voiced.answer.loop).motion_st

    @property
    def bass_st(self) -> int:
        """Half steps that the lowest note moves, back to the beginning in a loop."""
        ends = [(self.bass[-1], self.bass[0])] if self.voiced.answer.loop and self.bass else []
        return sum(abs(after - before) for before, after in (*pairwise(self.bass), *ends))

    @property
    def rank(self) -> tuple[int, int]:
        """The tune speaks before the effort."""
        return self.clashes, self.cost

    @property
    def bass_rank(self) -> tuple[int, int, int]:
        """The tune before the way of the bass, and that before the effort."""
        return self.clashes, self.bass_st, self.cost


class SwapGrid(Struct, frozen=True):
    """Every combination that can be played, by size and then the best first: by effort, or ``by_bass`` the
    one whose bass moves least. ``unplayable`` counts the others. ``held``: the right hands are those of the
    song in every one."""

    song: Song
    switches: tuple[Switch, ...]
    combinations: tuple[Combination, ...]
    unplayable: int
    held: bool = False
    by_bass: bool = False

    def of_size(self, swaps: int) -> list[Combination]:
        """Those with so many switches on, the best first."""
        same = [combination for combination in self.combinations if combination.swaps == swaps]
        return sorted(same, key=lambda combination: combination.bass_rank) if self.by_bass else same

    def best(self, swaps: int) -> Combination | None:
        return next(iter(self.of_size(swaps)), None)

    @property
    def now(self) -> Combination | None:
        """The combination that the song has."""
        swaps = self.song.arrangement.swaps
        on = tuple(swaps.get(switch.written) == switch.row for switch in self.switches)
        return next((combination for combination in self.combinations if combination.on == on), None)

    def bass_at(self, combination: Combination) -> tuple[tuple[int, ...], ...]:
        """The lowest notes around each switch, where it is played first: from the chord before to the one
        behind."""
        slots, bass = combination.voiced.song.slots, combination.bass
        rows = []
        for switch in self.switches:
            own = [slot.index for slot in slots if slot.at.written == switch.written]
            own = [index for index in own if slots[index].round == slots[own[0]].round]
            rows.append(bass[max(0, own[0] - 1) : own[-1] + 2] if own else ())
        return tuple(rows)

    def edit(self, combination: Combination) -> Edit:
        """The song with this combination in its current take."""
        return Edit(combination.voiced.song, self._words(combination))

    def as_take(self, combination: Combination) -> Edit:
        """The same as a take of its own beside the others."""
        words = self._words(combination).lower()
        made = copy_take(self.song, f"{self.song.take.name}, {words}").song
        return Edit(
            with_arrangement(made, made.current, combination.voiced.song.arrangement), f"Keep {words}"
        )

    def _words(self, combination: Combination) -> str:
        return f"{swaps_words(combination.swaps)}{', right hands held' if self.held else ''}"


def swaps_words(swaps: int) -> str:
    """A number of swaps in words."""
    return "No swaps" if not swaps else "One swap" if swaps == 1 else f"{swaps} swaps"


def _shown(at: ChordAt) -> str:
    return pretty_symbol(at.chord)


def with_switches(song: Song, switches: Sequence[Switch], on: Sequence[bool]) -> Song:
    """The song with these swaps, the chart's own chords where a switch is off; swaps that are no switch
    stay."""
    rows = {switch.written: switch.row if there else () for switch, there in zip(switches, on, strict=True)}
    changed = {at: row for at, row in rows.items() if row != song.arrangement.swaps.get(at, ())}
    return change_swaps(song, changed).song if changed else song


def switches_of(
    song: Song,
    marked: Mapping[int, Row],
    library: Library,
    planner: Planner,
    progress: Progress = always,
) -> tuple[Switch, ...]:
    """What is switched: marked swaps first, then those of the take; where there is next to nothing to switch
    also those that serve the song best, six in all. In playing order. Raises as :func:`trade_curve`."""
    wanted = {at: row for at, row in marked.items() if at in song.firsts}
    wanted = {**wanted, **{at: row for at, row in song.arrangement.swaps.items() if at not in wanted}}
    if len(wanted) < 2 and not marked:
        most = MOST_SWITCHES - len(wanted)
        best = trade_curve(song, library, planner, most, progress)[-1].voiced.song.arrangement.swaps
        wanted = {**wanted, **{at: row for at, row in best.items() if at not in wanted}}
    chosen = list(wanted.items())[:MOST_SWITCHES]
    plain = {slot.at.written: slot for slot in reversed(song.plain_slots)}
    switches = [
        Switch(at, plain[at].bar, pretty_symbol(plain[at].chord), row) for at, row in chosen if at in plain
    ]
    return tuple(sorted(switches, key=lambda switch: plain[switch.written].place))


def swap_grid(
    song: Song,
    switches: Sequence[Switch],
    library: Library,
    planner: Planner,
    progress: Progress = always,
    *,
    hold: bool = False,
) -> SwapGrid:
    """All combinations of up to six switches, each the least effort there is with it; right hands that are
    kept stay where they do not clash, with ``hold`` all of the song's do, whatever they make of a chord. One
    that these hands cannot play is counted and left out. Raises ``Cancelled``, and :class:`BadInput` for a
    song without chords."""
    if hold and not song.solved:
        song = voice_song(song, library, planner).song
    hands = right_now if hold else kept_right
    combinations, unplayable = [], 0
    every = list(product((False, True), repeat=len(switches[:MOST_SWITCHES])))
    for done, on in enumerate(every):
        if not progress(done / len(every)):
            raise Cancelled
        plain = with_switches(song, switches, on)
        there = held_through(song, plain, hands, library, planner, clashing=hold)
        try:
            voiced = voice_song(there, library, planner)
        except NoSolution:
            unplayable += 1
            continue
        rubs = _rubs(voiced.song) if hold else 0
        combinations.append(Combination(on, voiced, _lowest(voiced), _clashes(there), rubs))
    combinations.sort(key=lambda combination: (combination.swaps, combination.rank))
    return SwapGrid(song, tuple(switches), tuple(combinations), unplayable, hold)


def _lowest(voiced: Voiced) -> tuple[int, ...]:
    song = voiced.song
    grips = [song.voicing(slot.index) for slot in song.slots]
    return tuple(min(grip.keys) for grip in grips if grip is not None and grip.keys)


def _rubs(song: Song) -> int:
    """Notes of the right hands that clash with a swapped chord."""
    swapped = (slot for slot in song.slots if slot.at.part and slot.chord is not None)
    hands = ((slot, right_now(song, slot.index)) for slot in swapped)
    return sum(len(clashes(slot, hand.keys, song)) for slot, hand in hands if hand is not None)


def _clashes(song: Song) -> int:
    return sum(fit.fit.kind == FitKind.CLASH for fits in melody_fits(song) for fit in fits)
