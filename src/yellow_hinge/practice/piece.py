"""A song as it is practised: its grips in playing order, and the changes between them."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from functools import cached_property

from msgspec import Struct

from yellow_hinge.motion.hinge import Held, HingeReport
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.rhythm.time import Meter
from yellow_hinge.rhythm.touch import PHRASE_BARS
from yellow_hinge.song.at import At
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.voicing.shape import Voicing


class ChangeId(Struct, frozen=True, order=True):
    """A change by identity: the song's id, the take's, the chords it leads from and to, and the key it is
    played in. So what was practised stays with it when the chart is edited around it."""

    song: str
    take: int
    start: At
    end: At
    key: str


class LineStroke(Struct, frozen=True):
    """What a hand strikes at once in a line of its own: when, and how long, in quarters from the beginning of
    its chord, the keys, and the finger of each (1 = thumb)."""

    hand: Hand
    at: Fraction
    quarters: Fraction
    keys: tuple[int, ...]
    fingers: tuple[int, ...] = ()


class Stand(Struct, frozen=True):
    """A chord of the song in playing order: its place, how long it lasts in quarters, and its grip; the
    grip of a rest is empty. ``line`` is what a hand plays there in a line of its own."""

    slot: int
    at: At
    section: str
    round: int
    bar: int
    quarters: Fraction
    meter: Meter
    held: Held
    line: tuple[LineStroke, ...] = ()

    def plays(self, side: str) -> bool:
        """Whether a hand has anything to play there."""
        return bool(self.voicing.hand(side).keys) or any(stroke.hand == side for stroke in self.line)

    @property
    def voicing(self) -> Voicing:
        return self.held.voicing

    @property
    def words(self) -> str:
        """The chord as it is read."""
        return pretty_symbol(self.held.chord)


class Change(Struct, frozen=True):
    """A change that the hands learn as one: wherever the song goes from one grip to the same other one.
    ``ids`` are all its identities, ``places`` the stands it starts from (the first one gives its length
    and words), ``strain`` how much of the comfortable reach its wider grip takes (1.0: all of it)."""

    ids: tuple[ChangeId, ...]
    places: tuple[int, ...]
    quarters: Fraction
    report: HingeReport
    strain: float

    @property
    def id(self) -> ChangeId:
        return self.ids[0]

    @property
    def words(self) -> str:
        """ "Em7 to A13"."""
        return " to ".join(pretty_symbol(end.chord) for end in self.report.ends)


class Piece(Struct, frozen=True, dict=True):
    """A song to practise. ``row`` says for each stand but the last which change leads on from it (an index
    of ``changes``; -1: from or to a rest). ``tempo`` counts beats of the first meter, each
    ``quarters_per_beat`` long."""

    id: str
    title: str
    key: str
    take: int
    tempo: int
    quarters_per_beat: Fraction
    stands: tuple[Stand, ...]
    changes: tuple[Change, ...]
    row: tuple[int, ...]

    def seconds(self, quarters: Fraction, tempo: float) -> float:
        """How long something lasts at a tempo, in beats a minute."""
        return float(quarters / self.quarters_per_beat) * 60 / tempo

    @cached_property
    def sections(self) -> tuple[tuple[int, int], ...]:
        """First and last stand of every section in playing order."""
        found: list[tuple[int, int]] = []
        for index, stand in enumerate(self.stands):
            before = self.stands[index - 1] if index else None
            if before is not None and (before.section, before.round) == (stand.section, stand.round):
                found[-1] = (found[-1][0], index)
            else:
                found.append((index, index))
        return tuple(found)

    @cached_property
    def phrases(self) -> tuple[tuple[int, int], ...]:
        """First and last stand of every phrase: four bars from the beginning of a section on; what is left of
        fewer than two joins the one before."""
        found: list[tuple[int, int]] = []
        for first, last in self.sections:
            bars = [self.stands[k].bar - self.stands[first].bar for k in range(first, last + 1)]
            count = max(1, (bars[-1] + 1 + PHRASE_BARS // 2) // PHRASE_BARS)
            for number in range(count):
                own = [
                    first + k for k, bar in enumerate(bars) if min(bar // PHRASE_BARS, count - 1) == number
                ]
                if own:
                    found.append((own[0], own[-1]))
        return tuple(found)

    def section_words(self, stand: int) -> str:
        """What the section of a stand is called: its name, or the bars."""
        first, last = next(section for section in self.sections if section[0] <= stand <= section[1])
        bars = f"bars {self.stands[first].bar} to {self.stands[last].bar}"
        return self.stands[first].section or bars

    @cached_property
    def by_id(self) -> dict[ChangeId, int]:
        """Identity -> index of its change."""
        return {change_id: index for index, change in enumerate(self.changes) for change_id in change.ids}

    def changes_in(self, first: int, last: int) -> Iterator[int]:
        """The changes on the way from one stand to another, in order."""
        return (change for change in self.row[first:last] if change >= 0)
