"""The colour ladder: one chord, one voice that moves, and every chord that it passes through; and
walks inside a chord that is held or repeated."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import chain, cycle, islice

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.song.grip_edits import Stand
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import ask
from yellow_hinge.tasks.grips.judge import reach_word
from yellow_hinge.tasks.grips.own_grip import called
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.voicing.handling import HIGHEST_PIANO_KEY, LOWEST_PIANO_KEY, Keys, inverted, slid_in, split
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import class_of

#: How the voices lie: as the grip has them; the upper ones within an octave; the second highest of
#: those an octave lower (drop 2).
FORMS = ("as it is", "close", "spread")
#: How far the lowest and the highest voice go; others stop at their neighbours.
_FARTHEST_ST = 9
#: A dropped voice stays clear of the bass by more than a second.
_CLEAR_ST = 2
#: Counts that a walk fills at most; longer chords stay on its last step.
MOST_COUNTS = 8
_REACHES = ("easy", "wide", "out")


class Rung(Struct, frozen=True):
    """Where the moving voice is, ``step`` half steps from where it starts, and the chord that it makes
    there. ``mud`` in hundredths (a low close third is 100); ``reach`` of the wider hand: "easy",
    "wide" or "out"."""

    step: int
    key: int
    chord: ChordSymbol
    reading: str
    voicing: Voicing
    mud: int
    reach: str


class Ladder(Struct, frozen=True):
    """A chord with one voice that moves. ``voices`` are the keys low to high, ``voice`` the place of the
    one that moves; ``rungs`` go from low to high."""

    song: Song
    index: int
    form: str
    voices: tuple[int, ...]
    voice: int
    rungs: tuple[Rung, ...]

    @property
    def start(self) -> int:
        """The rung that the chord stands on now."""
        return next(place for place, rung in enumerate(self.rungs) if not rung.step)

    def stands(self, places: Sequence[int]) -> tuple[Stand, ...]:
        """Rungs as a walk through the chord: it is divided into as many equal parts."""
        each = self.song.slots[self.index].beats / len(places)
        return tuple(Stand(self.rungs[place].chord, each, self.rungs[place].voicing) for place in places)


class Walk(Struct, frozen=True):
    """A walk in counts: by slot what stands there."""

    words: str
    rows: tuple[tuple[int, tuple[Stand, ...]], ...]


class LadderDesk:
    """Looks at ladders and walks in one song after another."""

    def __init__(self, library: Library) -> None:
        self._library = library

    def look(self, song: Song, index: int, form: str = FORMS[0], voice: int = -1) -> Ladder | None:
        """The ladder of a chord with one voice moving (by its place from below, -1 the highest); None
        where nothing sounds."""
        slot, voicing = song.slots[index], song.voicing(index)
        if slot.chord is None or voicing is None or not voicing.keys:
            return None
        hands = laid(voicing, form, song)
        row = tuple(sorted((*hands.left, *hands.right)))
        place = len(row) - 1 if not 0 <= voice < len(row) else voice
        rungs = tuple(self._rungs(song, index, hands, row, place))
        return Ladder(song, index, form, row, place, rungs=rungs)

    def _rungs(self, song: Song, index: int, hands: Keys, row: tuple[int, ...], voice: int) -> Iterator[Rung]:
        low = row[voice - 1] + 1 if voice else max(LOWEST_PIANO_KEY, row[0] - _FARTHEST_ST)
        high = row[voice + 1] - 1 if voice + 1 < len(row) else min(HIGHEST_PIANO_KEY, row[-1] + _FARTHEST_ST)
        side = hands.side_of(row[voice])
        assert side is not None
        rest = [one for one in hands.hand(side) if one != row[voice]]
        for to in range(low, high + 1):
            ask()
            moved = hands.with_hand(side, [*rest, to])
            if moved is not None:
                yield self._rung(song, index, moved, to, to - row[voice])

    def _rung(self, song: Song, index: int, hands: Keys, to: int, step: int) -> Rung:
        symbol, key = song.slots[index].chord, local_keys(song)[song.slots[index].place]
        assert symbol is not None
        row = tuple(sorted((*hands.left, *hands.right)))
        below = symbol.bass_name.pitch_class if self._bassist(song, index) else None
        chord, reading = (symbol, "as it is") if not step else called(row, symbol, key, below)
        voicing = classify(hands.left, hands.right, chord, key, self._library)
        profile = song.hands
        reaches = [
            reach_word(profile, hand, keys)
            for hand, keys in ((profile.left, hands.left), (profile.right, hands.right))
            if keys
        ]
        return Rung(step, to, chord, reading, voicing, mud=mud(row), reach=max(reaches, key=_REACHES.index))

    def _bassist(self, song: Song, index: int) -> bool:
        """Whether somebody else has the bass of a slot."""
        bass = song.decided(index).bass
        school = self._library.school(song.taste(index).school or song.decided(index).school)
        return (bass or school.bass) == "bassist"

    # --- walks -------------------------------------------------------------------------------

    def walks(self, song: Song, index: int) -> tuple[Walk, ...]:
        """Walks through a chord, and through its repetitions behind it: through its inversions, with an
        inner voice, with the top voice."""
        ladder = self.look(song, index)
        if ladder is None:
            return ()
        slots = _repeated(song, index)
        counts = [part for slot in slots for part in _counts(song, slot)]
        if len(counts) < 2:  # one count is no walk
            return ()
        found = [("through its inversions, up", self._climb(ladder, len(counts)))]
        if len(ladder.voices) > 2:
            inner = self.look(song, index, voice=len(ladder.voices) - 2)
            assert inner is not None
            found.append(("an inner voice up and back", _there_and_back(inner, 2, len(counts))))
        found.append(("the top voice down", _there_and_back(ladder, -3, len(counts))))
        return tuple(Walk(words, _by_slot(counts, steps)) for words, steps in found if len(set(steps)) > 1)

    def _climb(self, ladder: Ladder, count: int) -> list[tuple[ChordSymbol, Voicing]]:
        """The right hand's inversions upwards as far as its register goes, and down again; the left hand's
        where it plays alone."""
        song, chord = ladder.song, ladder.rungs[ladder.start].chord
        voicing = ladder.rungs[ladder.start].voicing
        keys = Keys(voicing.left.keys, voicing.right.keys)
        key = local_keys(song)[song.slots[ladder.index].place]
        side = "right" if keys.right else "left"
        hand, rows = song.hands.right if keys.right else song.hands.left, [keys]
        while len(rows) < count:
            more = _higher(rows[-1], side, chord)
            if more is None or more.hand(side)[-1] > hand.highest_key:
                break
            if not song.hands.can_reach(hand, more.hand(side)):
                break
            rows.append(more)
        turned = islice(cycle([*rows, *rows[-2:0:-1]]), count)
        return [(chord, classify(one.left, one.right, chord, key, self._library)) for one in turned]


def laid(voicing: Voicing, form: str, song: Song) -> Keys:
    """The keys of a voicing in a form (of :data:`FORMS`), shared out between the hands."""
    if form == FORMS[0]:
        return Keys(voicing.left.keys, voicing.right.keys)
    bass, *upper = sorted(voicing.keys)
    if not upper:
        return Keys(voicing.left.keys, voicing.right.keys)
    close = sorted({upper[0] + (one - upper[0]) % 12 for one in upper})
    if form == "spread" and len(close) > 1:
        dropped = close[-2] - 12
        if dropped > bass + _CLEAR_ST:
            close = sorted([*close[:-2], dropped, close[-1]])
        else:  # no room below: the lowest of them goes up instead
            close = sorted([*close[1:], close[0] + 12])
    return split((bass, *close), song.hands)


def _higher(keys: Keys, side: str, chord: ChordSymbol) -> Keys | None:
    """A hand's next inversion; two notes or one go to the next tones of the chord instead, which
    keeps them together."""
    row = keys.hand(side)
    if len(row) > 2:
        return inverted(keys, side, up=True)
    tones = {class_of(chord, label) for label in chord.degrees}
    moved = slid_in(Keys(right=row), frozenset(tones), up=True)
    return None if moved is None else keys.with_hand(side, moved.right)


def _repeated(song: Song, index: int) -> list[int]:
    """The slots of a chord and of its repetitions right behind it."""
    slots = [index]
    for slot in song.slots[index + 1 :]:
        if slot.chord != song.slots[index].chord or slot.take != song.slots[index].take:
            break
        if slot.at in [song.slots[one].at for one in slots]:
            break
        slots.append(slot.index)
    return slots


def _counts(song: Song, index: int) -> list[tuple[int, Fraction]]:
    """The counts of a slot: (slot, beats), a rest of a beat with the last one."""
    whole = max(1, int(song.slots[index].beats))
    beats = [Fraction(1)] * whole
    beats[-1] += song.slots[index].beats - whole
    return [(index, beat) for beat in beats]


def _there_and_back(ladder: Ladder, far: int, count: int) -> list[tuple[ChordSymbol, Voicing]]:
    """Rung by rung so far up, or down (below 0), as the hand reaches, and back."""
    direction = 1 if far > 0 else -1
    end = ladder.start + far
    way = [
        ladder.rungs[place]
        for place in range(ladder.start, end + direction, direction)
        if 0 <= place < len(ladder.rungs)
    ]
    reached = [rung for rung in way if rung.reach != "out"]
    turned = chain(reached, reached[-2:0:-1])
    return [(rung.chord, rung.voicing) for rung in islice(cycle(list(turned)), count)]


def _by_slot(
    counts: Sequence[tuple[int, Fraction]], steps: Sequence[tuple[ChordSymbol, Voicing]]
) -> tuple[tuple[int, tuple[Stand, ...]], ...]:
    """Steps on their counts; beyond the most counts of a walk the last step stays."""
    rows: dict[int, list[Stand]] = {}
    for number, ((index, beats), (chord, voicing)) in enumerate(zip(counts, steps, strict=True)):
        row = rows.setdefault(index, [])
        if number >= MOST_COUNTS and row:
            row[-1] = replace(row[-1], beats=row[-1].beats + beats)
        elif number < MOST_COUNTS:
            row.append(Stand(chord, beats, voicing))
    return tuple((index, tuple(row)) for index, row in rows.items() if row)
