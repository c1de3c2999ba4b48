"""From plain to rich in steps: each keeps the grips of the one before where its own shapes have them, and
brings as few new ones at a time as the player wants to learn."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Cancelled, NoSolution, Problem
from yellow_hinge.lattice.kernel import FORBIDDEN
from yellow_hinge.motion.figures import figures
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.patterns import HANDS, builtin_patterns
from yellow_hinge.song.arrangement import Arrangement, Choice
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import Edit, change_swaps, copy_take, with_arrangement
from yellow_hinge.song.groove import Groove
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.tasks.swaps.grid import swaps_words
from yellow_hinge.tasks.swaps.reharmonise import point_with, trade_curve, turning_point
from yellow_hinge.tasks.takes.desk import alone
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.voicing.recipes import Library, Notes, School
from yellow_hinge.voicing.shape import Voicing

Grip = tuple[tuple[int, ...], tuple[int, ...]]
Rows = tuple[Voicing | None, ...]

#: Swaps that the step of swaps may take: more than that is another song.
MOST_SWAPS = 4
#: Patterns that are no rhythm yet.
_STILL = ("held",)


class Level(Struct, frozen=True):
    """A kind of grips: its name, what is new in it, the school that it is made of, and the shapes of that
    school that make it what it is: none of them, all."""

    id: str
    name: str
    why: str
    school: str
    colour: int
    left: tuple[str, ...] = ()
    right: tuple[str, ...] = ()

    def of(self, library: Library) -> School:
        """The school of this level: its own shapes, and no price on how few notes they have."""
        base = library.school(self.school)
        return msgspec.structs.replace(
            base, id=f"ladder-{self.id}", left_self=self.left or base.signature_left or base.left_self,
            left_bassist=self.left or base.left_bassist, right=self.right or base.right,
            notes=_ANY if self.left else base.notes, signature_left=(), signature_right=(),
            weights={**base.weights, "hole": _HOLE},
        )  # fmt: skip


#: A single bass note lies far below a triad: here that is how it is meant.
_HOLE = 30
_ANY = Notes((0,) * 6, (0,) * 6, (400, 0, 0, 0, 0, 400))
_BASS = ("single-bass", "slash-bass-tone")
#: The order in which players are taught: a bass and triads; root with third or seventh; the chord as it is
#: written; ninths, without the root where a bassist has it, over a wide left hand where not.
TRIADS = Level("triads", "Single bass and triads", "One note below, a triad above: the outline of the song",
               "solo", 0, left=_BASS, right=("close-triad", "close-suspended-both",
                                             "root-fifth-power"))  # fmt: skip
SHELLS = Level(
    "shells", "Shells", "Root with third or seventh below, the other above: what tells them apart", "solo", 0,
    left=("shell-root-seventh", "shell-root-third", *_BASS),
    right=("single-tone", "two-tones", "guide-third-seventh", "guide-seventh-third"),
)  # fmt: skip
SEVENTHS = Level(
    "sevenths", "Sevenths", "The whole chord above its bass, as it is written", "solo", 0,
    left=("octave-bass", "root-fifth", *_BASS),
    right=("close-seventh", "close-seventh-without-fifth", "close-diminished-seventh", "added-tone-triad",
     "close-triad", "close-suspended-both", "drop2-seventh"),
)  # fmt: skip
ROOTLESS = Level(
    "rootless", "Rootless with ninths", "The bassist has the root, the left hand the colour", "band", 2,
    left=("rootless-from-third", "rootless-from-seventh", "rootless-three", "rootless-triad-ninth",
     "rootless-eleventh", "rootless-ninth-eleventh"),
)  # fmt: skip
SPREAD = Level("spread", "Spread with ninths", "A wide left hand, ninths above it", "spread", 2)


class LadderStep(Struct, frozen=True):
    """A step as it sounds: ``new`` counts grips that no step before had, ``changed`` the chords that sound
    otherwise than in the step before (both 0 for rhythm alone). ``rows`` are all its grips."""

    name: str
    why: str
    voiced: Voiced
    new: int
    changed: int
    rows: Rows

    @property
    def effort(self) -> int:
        """In hundredths of a half step."""
        return self.voiced.answer.cost

    @property
    def motion_st(self) -> int:
        return figures(self.voiced.answer.row, self.voiced.answer.loop).motion_st


def ladder(
    song: Song,
    library: Library,
    most_new: int | None = None,
    progress: Progress = always,
) -> list[LadderStep]:
    """The steps for the current take. ``most_new`` new grips (distinct ones) may come with a step; None: as
    many as it takes. The first step has nothing to keep and comes whole. A level that needs more is taken in
    parts, in playing order, as it is learned; each part keeps what it brought. The last part of a level is
    exact: the least effort there is with its shapes, everything held that it shares with the step before.
    Locked chords stay in every step.

    Raises :class:`BadInput` for a song without chords or a limit below one, :class:`NoSolution` where no
    level can be played, and ``Cancelled``.
    """
    if most_new is not None and most_new < 1:
        raise BadInput(Problem("ladder", f"{most_new} new grips a step", "let a step bring at least one"))
    start = alone(song, song.current)
    if not start.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    climb = _Climb(start, library, most_new)
    last = ROOTLESS if _bassist(start.arrangement, library) else SPREAD
    levels = (TRIADS, SHELLS, SEVENTHS, last)
    trouble: NoSolution | None = None
    for done, level in enumerate(levels):
        if not progress(done / (len(levels) + 1)):
            raise Cancelled
        try:
            climb.level(level)
        except NoSolution as error:  # hands that cannot play one level may play the next
            trouble = error
    if trouble is not None and not climb.steps:
        raise trouble
    if not progress(len(levels) / (len(levels) + 1)):
        raise Cancelled
    climb.swaps()
    climb.rhythm()
    return climb.steps


def _bassist(arrangement: Arrangement, library: Library) -> bool:
    return (arrangement.bass or library.school(arrangement.school).bass) == "bassist"


class _Climb:
    """The steps so far, and the grips that the player knows by then. Grips go by slot: every step has the
    same slots, until swaps come."""

    def __init__(self, song: Song, library: Library, most_new: int | None) -> None:
        levels = (TRIADS, SHELLS, SEVENTHS, ROOTLESS, SPREAD)
        schools = {school.id: school for school in (level.of(library) for level in levels)}
        self._library = replace(library, schools={**library.schools, **schools})
        self._planner = Planner(self._library)
        self._most_new = most_new
        arrangement = song.arrangement
        bass = arrangement.bass or library.school(arrangement.school).bass
        locks = {at: choice for at, choice in arrangement.choices.items() if choice.locked}
        self._locks = frozenset(locks)
        self._start = with_arrangement(song, song.current, replace(arrangement, bass=bass, choices=locks))
        self.steps: list[LadderStep] = []
        self._level = TRIADS
        self._known: set[Grip] = set()

    def level(self, level: Level) -> None:
        """The grips of a level, in as many parts as it takes."""
        self._level = level
        song = _plainer(self._start) if level is TRIADS else self._start
        song = self._wanting(song, f"ladder-{level.id}")
        before = self.steps[-1].rows if self.steps else (None,) * len(song.slots)
        goal = self._voiced(song, self._shared(song, before))
        self._in_parts(level.name, level.why, goal, before)

    def _wanting(self, song: Song, school: str) -> Song:
        arrangement = replace(song.arrangement, school=school, colour=self._level.colour)
        return with_arrangement(song, song.current, arrangement)

    def swaps(self) -> None:
        """Up to :data:`MOST_SWAPS` swaps, so many that they lower the effort and bring no more new grips than
        wanted; what is not swapped keeps its grip."""
        top = self._wanting(self.steps[-1].voiced.song, f"ladder-{self._level.id}")
        free = _unlocked(top, self._locks)
        curve = trade_curve(free, self._library, self._planner, MOST_SWAPS)
        for count in range(turning_point(curve), 0, -1):
            swaps = point_with(curve, count).voiced.song.arrangement.swaps
            new = {at: row for at, row in swaps.items() if row != top.arrangement.swaps.get(at, ())}
            swapped = change_swaps(_held(top), new).song
            voiced = voice_song(swapped, self._library, self._planner)
            rows = _rows(voiced.song)
            few = self._most_new is None or len(self._new(rows)) <= self._most_new
            if few and voiced.answer.cost < self.steps[-1].effort:
                chords = "; ".join(
                    f"{' '.join(pretty_symbol(chord_at.chord) for chord_at in row)} "
                    f"in bar {swapped.firsts[at].bar}"
                    for at, row in new.items()
                )
                why = f"Other chords that move less: {chords}"
                self._add(swaps_words(count), why, voiced, rows, count)
                return

    def rhythm(self) -> None:
        """The same grips struck again; a song that has patterns already keeps them."""
        top = self.steps[-1]
        song = top.voiced.song
        meter = str(song.meter)
        fits = [
            one for one in builtin_patterns().values() if one.family not in _STILL and meter in one.meters
        ]
        pattern = next((fit for fit in fits if fit.level == 1 and len(fit.hands) == len(HANDS)), None)
        if pattern is None or song.arrangement.groove != Groove():
            return
        for hand in HANDS:
            song = set_texture(song, None, pattern.name, {hand: pattern.id}).song
        voiced = replace(top.voiced, song=song)
        self._add("Rhythm", f"The same grips, played: {pattern.name}", voiced, top.rows, 0)

    def _shared(self, song: Song, before: Rows) -> dict[int, Voicing]:
        """The grips of the step before that this level has too, by slot."""
        found: dict[int, Voicing] = {}
        for column, place in zip(song.columns, progression(song, self._library).places, strict=True):
            grip = before[column[0]]
            if grip is None or place.wish is None or place.lock is not None:
                continue
            here, shapes = self._planner.column(self._planner.resolved(place))
            left = [shape.keys for shape in shapes.left]
            right = [shape.keys for shape in shapes.right]
            if grip.left.keys in left and grip.right.keys in right:
                state = left.index(grip.left.keys), right.index(grip.right.keys)
                if here.cost[state] < FORBIDDEN:
                    voicing = Voicing(shapes.left[state[0]], shapes.right[state[1]])
                    found |= dict.fromkeys(column, voicing)
        return found

    def _voiced(self, song: Song, held: Mapping[int, Voicing]) -> Voiced:
        """The song with some columns held."""
        return voice_song(_holding(song, held), self._library, self._planner)

    def _in_parts(self, name: str, why: str, goal: Voiced, before: Rows) -> None:
        parts = self._parts(goal.song, before)
        for number, part in enumerate(parts):
            title = name if len(parts) == 1 else f"{name}, {number + 1} of {len(parts)}"
            last = number == len(parts) - 1
            voiced = (
                goal
                if last
                else self._voiced(goal.song, {k: voicing for k, voicing in enumerate(part) if voicing})
            )
            changed = sum(_grip(part[column[0]]) != _grip(before[column[0]]) for column in goal.song.columns)
            self._add(title, why, voiced, part, changed)
            before = part

    def _parts(self, goal: Song, before: Rows) -> list[Rows]:
        """From one row of grips to another with so many new ones at a time, in playing order. A first step
        has nothing to keep: it comes whole."""
        rows = _rows(goal)
        if self._most_new is None or not self.steps:
            return [rows]
        found, voicings, learned, fresh = [], list(before), set(self._known), 0
        for column in goal.columns:
            grip = _grip(rows[column[0]])
            if grip is not None and grip not in learned:
                if fresh == self._most_new:
                    found.append(tuple(voicings))
                    fresh = 0
                learned.add(grip)
                fresh += 1
            for slot in column:
                voicings[slot] = rows[slot]
        return [*found, rows]

    def _new(self, rows: Rows) -> set[Grip]:
        """The grips of a row that no step had yet."""
        return {own for own in map(_grip, rows) if own is not None} - self._known

    def _add(self, name: str, why: str, voiced: Voiced, rows: Rows, changed: int) -> None:
        fresh = self._new(rows)
        song = self._wanting(_unlocked(voiced.song, self._locks), self._level.school)
        self.steps.append(LadderStep(name, why, replace(voiced, song=song), len(fresh), changed, rows=rows))
        self._known |= fresh


def _grip(voicing: Voicing | None) -> Grip | None:
    return None if voicing is None or not voicing.keys else (voicing.left.keys, voicing.right.keys)


def _rows(song: Song) -> tuple[Voicing | None, ...]:
    return tuple(song.voicing(slot.index) for slot in song.slots)


def _holding(song: Song, held: Mapping[int, Voicing]) -> Song:
    """The song with the grips of some slots locked."""
    choices = dict(song.arrangement.choices)
    for index, voicing in held.items():
        if song.slots[index].chord is not None:
            choices[song.slots[index].at] = Choice(voicing, locked=True)
    return with_arrangement(song, song.current, replace(song.arrangement, choices=choices))


def _plainer(song: Song) -> Song:
    """The song with every chord as its triad, locked ones and those with something held apart."""
    arrangement, rows = song.arrangement, {}
    for written in song.written:
        chords = arrangement.swaps.get(written.id) or (ChordAt(written.chord, written.beats),)
        plain = tuple(
            replace(chord_at, chord=None if chord_at.chord is None else chord_at.chord.triad)
            for chord_at in chords
        )
        slots = [slot for slot in song.slots if slot.at.written == written.id]
        kept = any(song.locked(slot.index) or song.ask(slot.index).hold.names for slot in slots)
        if plain != chords and not kept:
            rows[written.id] = plain
    return change_swaps(song, rows).song if rows else song


def _held(song: Song) -> Song:
    """The song with every grip locked."""
    choices = {at: replace(choice, locked=True) for at, choice in song.arrangement.choices.items()}
    return with_arrangement(song, song.current, replace(song.arrangement, choices=choices))


def _unlocked(song: Song, locks: frozenset[Any]) -> Song:
    """The song with the player's own locks alone."""
    choices = {at: replace(choice, locked=at in locks) for at, choice in song.arrangement.choices.items()}
    return with_arrangement(song, song.current, replace(song.arrangement, choices=choices))


def keep_step(song: Song, step: LadderStep) -> Edit:
    """The song with a step as a take of its own; its grips are locked, so that it stays what was heard."""
    made = copy_take(song, step.name).song
    arrangement = _held(step.voiced.song).arrangement
    return Edit(with_arrangement(made, made.current, arrangement), f"Keep {step.name}")
