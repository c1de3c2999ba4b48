"""The right hand held while the bass goes elsewhere: what every bass makes of it, lines that walk down
under it, and what they cost.

A run is a chord, the counts of a chord, or several chords in a row; its first chord's right hand is the
one that is held.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import accumulate, product

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.effort import added_up, row_terms
from yellow_hinge.reharm.proposals import NoteFit, melody_fit
from yellow_hinge.reharm.proposals import Spot as TuneSpot
from yellow_hinge.reharm.rules import Timed
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import ask
from yellow_hinge.tasks.grips.own_grip import called
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.swaps.reharmonise import spots, tune
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.voicing.handling import LOWEST_PIANO_KEY
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

#: Basses are offered from so far above the one that is there; the rest of the octave lies below it.
_ABOVE_ST = 2
#: Steps of a line that walks down, in half steps, and how many such lines are listed.
_WALKS_ST, MOST_LINES = (1, 2), 6
#: A bass line that lands a step or less from the next bass leads on.
_LEADS_ST = 2
MOST_CHORDS, MOST_COUNTS = 4, 4


class Run(Struct, frozen=True):
    """So many chords from the chosen one on, or one chord in so many equal counts."""

    chords: int = 1
    counts: int = 1


RUNS = (
    *(Run(1, counts) for counts in range(1, MOST_COUNTS + 1)),
    *(Run(chords) for chords in range(2, MOST_CHORDS + 1)),
)


class OtherBass(Struct, frozen=True):
    """What a bass makes of the held hand. ``key`` is where it lies; ``chord`` the name that both make,
    ``reading`` how that hears the notes; ``notes`` the tune over it."""

    key: int
    bass: NoteName
    chord: ChordSymbol
    reading: str
    voicing: Voicing
    notes: tuple[NoteFit, ...]

    @property
    def clashes(self) -> tuple[str, ...]:
        """Notes of the tune that clash, by name, each once."""
        names = [fit.note.pitch.pretty for fit in self.notes if fit.fit.kind == FitKind.CLASH]
        return tuple(dict.fromkeys(names))

    @property
    def melody(self) -> str:
        """The tune's verdict in a word or two."""
        if not self.notes:
            return "no melody"
        return f"clashes: {', '.join(self.clashes)}" if self.clashes else "fits the melody"


class Spot(Struct, frozen=True):
    """A place of the run: the slot, how long it lasts in beats, and its twelve basses, high to low."""

    index: int
    beats: Fraction
    basses: tuple[OtherBass, ...]
    now: int  # the bass key that sounds there


class BassLine(Struct, frozen=True):
    """One bass a place; ``more`` is what the song then costs beyond what it does now, around the run,
    in hundredths of a half step."""

    places: tuple[int, ...]
    more: int


class HeldHand(Struct, frozen=True):
    """A run with everything that may stand under the hand that is held. ``before`` and ``after`` are
    the basses around it (None at an end of the song, or where nothing sounds). ``singles`` is by spot and
    bass what that bass alone costs more, the rest of the run with the basses of now, in hundredths of a
    half step."""

    song: Song
    right: tuple[int, ...]
    spots: tuple[Spot, ...]
    before: int | None
    after: int | None
    descents: tuple[BassLine, ...] = ()
    singles: tuple[tuple[int, ...], ...] = ()

    @property
    def now(self) -> tuple[int, ...]:
        """The places of the basses that sound now."""
        return tuple(
            next(k for k, bass in enumerate(spot.basses) if bass.key == spot.now) for spot in self.spots
        )

    def line(self, places: Sequence[int]) -> tuple[OtherBass, ...]:
        """The basses of a line, by their places in each list."""
        return tuple(spot.basses[place] for spot, place in zip(self.spots, places, strict=True))

    def steps(self, places: Sequence[int], spot: int) -> tuple[int | None, int | None]:
        """Half steps into a bass of a line and out of it."""
        keys = [bass.key for bass in self.line(places)]
        row = [self.before, *keys, self.after]
        into, here, out = row[spot], row[spot + 1], row[spot + 2]
        assert here is not None
        return (None if into is None else here - into, None if out is None else out - here)


class HeldDesk:
    """Looks at held hands in one song after another."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._known: tuple[Song, list[Wish | None]] | None = None

    def look(self, song: Song, index: int, run: Run) -> HeldHand | None:
        """Everything about a run; None where no right hand sounds, or a "no chord" is in it."""
        slots = range(index, min(len(song.slots), index + run.chords))
        held, now = song.voicing(index), _bass(song, index)
        if held is None or now is None or not held.right.keys:
            return None
        if any(song.slots[k].chord is None for k in slots):
            return None
        right = held.right.keys
        window = _window(now, right, song.hands.left.lowest_key)
        spots = tuple(spot for slot in slots for spot in self._spots(song, slot, window, run, right))
        ends = (_bass(song, index - 1), _bass(song, slots[-1] + 1))
        looked = HeldHand(song, right, spots, *ends)
        lines = []
        for places in _descents(looked):
            ask()
            lines.append(BassLine(places, self.more(looked, places)))
        lines.sort(key=lambda line: _worth(looked, line))
        singles = tuple(self._singles(looked, spot) for spot in range(len(looked.spots)))
        return replace(looked, descents=tuple(lines[:MOST_LINES]), singles=singles)

    def _singles(self, looked: HeldHand, spot: int) -> tuple[int, ...]:
        costs = []
        for place in range(len(looked.spots[spot].basses)):
            ask()
            costs.append(self.more(looked, (*looked.now[:spot], place, *looked.now[spot + 1 :])))
        return tuple(costs)

    def more(self, looked: HeldHand, places: Sequence[int]) -> int:
        """What a line costs beyond what stands there, both with the changes around it, in hundredths
        of a half step."""
        song, line = looked.song, looked.line(places)
        first, last = looked.spots[0].index, looked.spots[-1].index
        wishes = self._wishes(song)
        before, inner, after = (
            [k for k in slots if 0 <= k < len(song.slots)]
            for slots in ((first - 1,), range(first, last + 1), (last + 1,))
        )

        def cost(own: Sequence[Wish | None], voicings: Sequence[Voicing]) -> int:
            row = [*(wishes[k] for k in before), *own, *(wishes[k] for k in after)]
            ends = [[song.voicing(k) or Voicing() for k in side] for side in (before, after)]
            terms = row_terms(row, [*ends[0], *voicings, *ends[1]], loop=False)
            return added_up([term for part in terms for group in part for term in group]).cost

        now = cost([wishes[k] for k in inner], [song.voicing(k) or Voicing() for k in inner])
        own = [
            as_called(wishes[spot.index], bass.chord) for spot, bass in zip(looked.spots, line, strict=True)
        ]
        return cost(own, [bass.voicing for bass in line]) - now

    def _wishes(self, song: Song) -> list[Wish | None]:
        if self._known is None or self._known[0] is not song:
            places = progression(song, self._library).places
            self._known = (song, [places[column].wish for column in song.column_of])
        return self._known[1]

    def _spots(
        self, song: Song, index: int, window: range, run: Run, right: tuple[int, ...]
    ) -> Iterator[Spot]:
        slot, key = song.slots[index], local_keys(song)[song.slots[index].place]
        spot, over = spots(song)[index], tune(song)
        counts = run.counts if run.chords == 1 else 1
        each = slot.beats / counts
        sounds = _bass(song, index)
        now = next((key for key in window if sounds is not None and key % 12 == sounds % 12), window[-1])
        for count in range(counts):
            ask()
            start = spot.start_quarters + count * each * spot.unit
            here = replace(spot, start_quarters=start, beats=each)
            basses = tuple(
                self._over(bass, right, slot.chord, key, here, over=over) for bass in reversed(window)
            )
            yield Spot(index, each, basses, now)

    def _over(
        self, bass: int, right: tuple[int, ...], symbol: ChordSymbol | None, key: Key, here: TuneSpot,
        *, over: Sequence[NoteOver],
    ) -> OtherBass:  # fmt: skip
        assert symbol is not None
        chord, reading = called((bass, *right), symbol, key)
        voicing = classify((bass,), right, chord, key, self._library)
        notes = tuple(melody_fit([Timed(chord, here.beats)], here, over, key))
        return OtherBass(bass, chord.bass_name, chord, reading, voicing, notes=notes)


def as_called(wish: Wish | None, chord: ChordSymbol) -> Wish | None:
    """What is wanted of a chord, of another one in its place."""
    return None if wish is None else replace(wish, chord=chord)


def _bass(song: Song, index: int) -> int | None:
    """The lowest key of a slot; None beyond the song and where nothing sounds."""
    voicing = song.voicing(index) if 0 <= index < len(song.slots) else None
    return min(voicing.keys) if voicing is not None and voicing.keys else None


def _window(now: int, right: tuple[int, ...], lowest: int) -> range:
    """An octave of bass keys: around the one that is there, in the left hand's register where the
    held hand leaves room for it, always below that hand."""
    top = min(max(now + _ABOVE_ST, lowest + 11), right[0] - 1)
    low = max(top - 11, LOWEST_PIANO_KEY)
    return range(low, low + 12)


def _descents(looked: HeldHand) -> Iterator[tuple[int, ...]]:
    """Lines that walk down by steps from what stands there, or from the bass before."""
    spots = looked.spots
    if len(spots) < 2:  # one bass is no line
        return
    starts = {spots[0].now}
    if looked.before is not None:
        starts |= {looked.before - step for step in (0, *_WALKS_ST)}
    keys = [bass.key for bass in spots[0].basses]  # the same octave in all of them
    for start in sorted(starts & set(keys), reverse=True):
        for steps in product(_WALKS_ST, repeat=len(spots) - 1):
            row = [start, *(start - down for down in accumulate(steps))]
            if row[-1] in keys:
                yield tuple(keys.index(one) for one in row)


def _worth(looked: HeldHand, line: BassLine) -> tuple[int, bool, int]:
    row = looked.line(line.places)
    leads = looked.after is not None and abs(looked.after - row[-1].key) <= _LEADS_ST
    return sum(bool(bass.clashes) for bass in row), not leads, line.more
