"""Where a formula fits into a song, what the tune says to it and what it costs; put there as swaps."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import accumulate

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import Cancelled, NoSolution
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.formulas import Formula, Place, SpotOf, places
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import Edit, change_swaps
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.describe_song import melody_fits
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.own_formulas import with_played
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.recipes import Library


class Fitting(Struct, frozen=True):
    """A formula in a place of a song: the written chords it stands for, the swaps that put it there, and how
    many notes of the tune clash with it."""

    formula: Formula
    written: tuple[int, ...]
    bar: int
    rows: dict[int, tuple[ChordAt, ...]]
    clashes: int
    key: Key
    longer: Fraction

    def edit(self, song: Song, library: Library) -> Edit:
        """The song with the formula there, and with its grips, rhythm and small notes where it has them;
        giving back a swap takes it back."""
        edit = change_swaps(song, {written: self.rows.get(written, ()) for written in self.written},
                            self.formula.name)  # fmt: skip
        if not self.formula.played:
            return edit
        places = list(self._places(edit.song))
        played = with_played(edit.song, self.formula, places, self.longer, self.key, library=library)
        return replace(edit, song=played)

    def _places(self, song: Song) -> Iterator[tuple[At, int, Fraction, Fraction]]:
        """The chords of a song that has it: which of the formula each of them plays, how many beats of that
        have passed, and its own beats."""
        ends = list(accumulate(chord.beats * self.longer for chord in self.formula.chords))
        now = Fraction(0)
        for written in self.written:
            row = song.arrangement.swaps.get(written)
            parts = [chord_at.beats for chord_at in row] if row else [song.chart.by_id[written].beats]
            for part, beats in enumerate(parts, 1 if row else 0):
                number = bisect_right(ends, now)
                yield At(written, part), number, now - (ends[number - 1] if number else 0), beats
                now += beats


def fittings(song: Song, formula: Formula) -> list[Fitting]:
    """Every place of a song where a formula can stand, in playing order; each run of written chords once."""
    slots = song.plain_slots
    keys = local_keys(song)
    untouched = song.arrangement.untouched
    row = [
        SpotOf(slot.chord, slot.beats, keys[slot.place], slot.at.written not in untouched) for slot in slots
    ]
    fittings: list[Fitting] = []
    seen: set[tuple[int, ...]] = set()
    for place in places(row, formula):
        run = slots[place.first : place.first + place.count]
        written = tuple(slot.at.written for slot in run)
        if written in seen or len(set(written)) < len(written) or len({slot.meter for slot in run}) > 1:
            continue
        if len({(slot.section, slot.round) for slot in run}) > 1:
            continue  # it would sound in every round, and its end in another section
        seen.add(written)
        rows = _rows(run, place)
        clashes = _clashes(song, rows, written)
        key = keys[run[0].place]
        fittings.append(Fitting(formula, written, run[0].bar, rows, clashes, key=key, longer=place.stretched))
    return fittings


def _rows(run: Sequence[Slot], place: Place) -> dict[int, tuple[ChordAt, ...]]:
    """The formula's chords shared out among the written ones by time; what lasts beyond one begins anew."""
    rows: dict[int, tuple[ChordAt, ...]] = {}
    waiting = list(place.chords)
    for slot in run:
        left, row = slot.beats, []
        while left > 0 and waiting:
            chord, beats = waiting.pop(0)
            taken = min(left, beats)
            row.append(ChordAt(chord, taken))
            left -= taken
            if beats > taken:
                waiting.insert(0, (chord, beats - taken))
        rows[slot.at.written] = tuple(row)
    return {at: row for at, row in rows.items() if [chord_at.chord for chord_at in row] != [_chord(run, at)]}


def _chord(run: Sequence[Slot], written: int) -> object:
    return next(slot.chord for slot in run if slot.at.written == written)


def _clashes(song: Song, rows: dict[int, tuple[ChordAt, ...]], written: tuple[int, ...]) -> int:
    """Notes of the tune that clash with the formula."""
    there = change_swaps(song, rows).song
    fits = melody_fits(there)
    return sum(
        fit.fit.kind == FitKind.CLASH
        for slot in there.slots
        if slot.at.written in written
        for fit in fits[slot.index]
    )


def weigh(
    song: Song,
    fittings: Sequence[Fitting],
    library: Library,
    planner: Planner,
    progress: Progress = always,
) -> list[int | None]:
    """What each would add to the effort of the song, in hundredths of a half step; None where it cannot be
    played. Raises ``Cancelled``."""
    base = voice_song(song, library, planner).answer.cost
    costs: list[int | None] = []
    for place, fitting in enumerate(fittings):
        if not progress(place / len(fittings)):
            raise Cancelled
        try:
            costs.append(voice_song(fitting.edit(song, library).song, library, planner).answer.cost - base)
        except NoSolution:
            costs.append(None)
    return costs
