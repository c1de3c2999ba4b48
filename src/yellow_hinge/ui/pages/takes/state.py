"""What the Takes page shows, without Qt."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING

from msgspec.structs import replace

from yellow_hinge.motion.figures import half_steps
from yellow_hinge.song.edits import Edit, go_to_take, take_over, vary_round
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import strokes_in
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.voicing.shape import Voicing

if TYPE_CHECKING:
    from yellow_hinge.tasks.takes.desk import Joint, Lane, Pair, Round


#: The rhythms of so many lanes are kept.
_MOST_LANES = 40


class TakesState:
    """The lanes of a song, and the cell that is chosen: a lane (take) and a round."""

    def __init__(self) -> None:
        self.song = Song()
        self.lanes: tuple[Lane, ...] = ()
        self.rounds: tuple[Round, ...] = ()
        self.joints: tuple[Joint, ...] = ()
        self.lane = 0
        self.round = 0
        self.chord = 0  #: the row of the comparison that is chosen
        self.kept: frozenset[int] = frozenset()  #: rounds that a shuffle leaves
        self.playing: float | None = None
        self._strokes: dict[int, tuple[Song, list[tuple[Fraction, ...]]]] = {}
        self._pairs: tuple[Lane, Lane, list[Pair]] | None = None
        self.hearing: int | None = None  #: the take that is heard all through, in turn with the song

    def take(self, song: Song, rounds: Sequence[Round], joints: Sequence[Joint]) -> None:
        """Another song: its lanes are still to come, those it has stay until then."""
        self.song, self.rounds, self.joints = song, tuple(rounds), tuple(joints)
        self.lane = max(0, min(len(song.takes) - 1, self.lane))
        self.round = max(0, min(len(rounds) - 1, self.round))

    def lane_of(self, take_id: int) -> Lane | None:
        """What is known of a take."""
        return next((lane for lane in self.lanes if lane.take.id == take_id), None)

    def strokes(self, lane: Lane, index: int) -> tuple[Fraction, ...]:
        """When the hands strike on a slot of a lane, in quarters from its beginning."""
        rows = self._strokes.get(id(lane.song))
        if rows is None:
            if len(self._strokes) > _MOST_LANES:
                self._strokes.clear()
            rows = self._strokes[id(lane.song)] = (lane.song, strokes_in(lane.song))
        return rows[1][index]

    @property
    def chosen(self) -> int:
        """The id of the take of the chosen lane."""
        return self.song.takes[self.lane].id

    @property
    def here(self) -> Round | None:
        """The chosen round."""
        return self.rounds[self.round] if self.round < len(self.rounds) else None

    def move(self, lanes: int, rounds: int) -> None:
        """To another cell."""
        self.lane = max(0, min(len(self.song.takes) - 1, self.lane + lanes))
        self.round = max(0, min(len(self.rounds) - 1, self.round + rounds))
        self.chord = 0

    def route_here(self) -> Edit | None:
        """The chosen take sounds in the chosen round."""
        return None if self.here is None else self.led({self.round: self.lane})

    def led(self, lanes: Mapping[int, int]) -> Edit:
        """The route goes through these lanes, by round."""
        edit = Edit(self.song, "")
        for place, lane in lanes.items():
            take = self.song.takes[lane].id
            where = self.rounds[place]
            own = None if take == self.song.current else take
            edit = vary_round(edit.song, where.section, where.turn, own)
        return edit if len(lanes) == 1 else Edit(edit.song, "Lead the route")

    def brought(self, lane: int, place: int, to: int) -> Edit:
        """The section of a round as it is in a lane comes into another one; which take is worked on stays."""
        song, section = self.song, self.rounds[place].section
        ids = frozenset(one.id for one in song.chart.written if one.section == section)
        at_work = replace(song, current=song.takes[to].id)
        edit = take_over(at_work, song.takes[lane].id, ids)
        return replace(edit, song=replace(edit.song, current=song.current))

    def work_on(self) -> Edit | None:
        """The chosen take is the one that is worked on."""
        return None if self.chosen == self.song.current else go_to_take(self.song, self.chosen)

    def keep_round(self) -> None:
        """A shuffle leaves the chosen round, or may change it again."""
        self.kept ^= {self.round}

    def compared(self) -> list[Pair]:
        """The take that is worked on and the chosen one, chord by chord."""
        from yellow_hinge.tasks.takes.desk import pairs  # noqa: PLC0415 - brings NumPy

        lane, other = self.lane_of(self.song.current), self.lane_of(self.chosen)
        if lane is None or other is None or lane is other:
            return []
        if self._pairs is None or self._pairs[0] is not lane or self._pairs[1] is not other:
            self._pairs = lane, other, pairs(lane, other)
        return self._pairs[2]

    def words(self) -> str:
        """What is to be said of the chosen take."""
        from yellow_hinge.tasks.takes.desk import pair_words  # noqa: PLC0415

        lane, other = self.lane_of(self.song.current), self.lane_of(self.chosen)
        if other is not None and other.trouble:
            return f"It cannot be played: {other.trouble}"
        if lane is None or other is None:
            return "It is being worked out..." if self.song.slots else "Type a chart on the Song page first."
        if lane is other:
            effort = "" if lane.effort is None else f"Effort {lane.effort / 100:.0f}, "
            moved = f"{effort}{half_steps(sum(lane.motion))} all through."
            if len(self.song.takes) > 1:
                return f"{moved} Choose another lane to compare it."
            return (
                f"{moved} A take is one whole way to play the song. Copy this one (C), play the copy "
                "otherwise on Hinges, and hear both here in turn."
            )
        return pair_words(lane, other)

    def taken_over(self, scope: str) -> Edit | None:
        """Into the take that is worked on, from the chosen one: the chord that is chosen in the comparison,
        all from it to the end of its section ("run"), or its section."""
        rows = self.compared()
        if not rows or self.chosen == self.song.current:
            return None
        section_of = {written.id: written.section for written in self.song.chart.written}
        row = rows[min(self.chord, len(rows) - 1)]
        if scope == "chord":
            ids = {row.written}
        elif scope == "run":
            behind = rows[rows.index(row) :]
            ids = {pair.written for pair in behind if section_of[pair.written] == section_of[row.written]}
        else:
            ids = {pair.written for pair in rows if section_of[pair.written] == section_of[row.written]}
        return take_over(self.song, self.chosen, frozenset(ids))


def pair_words(pair: Pair, flats: bool) -> str:
    """A chord in two takes, in a line."""
    a, b = (_grip_words(grip, flats) for grip in pair.grips)
    same = "the same" if not pair.differ else f"{a}  |  {b}"
    new = ", a new grip" if pair.new and pair.differ else ""
    steps = f"; half steps on {pair.motion[0]} | {pair.motion[1]}"
    wide = f"; stretch {pair.stretch_mm[0]:.0f} | {pair.stretch_mm[1]:.0f} mm"
    low = "; muddier" if pair.mud[1] > pair.mud[0] + 40 else ""
    symbol = " | ".join(dict.fromkeys(pair.symbols))
    return f"{symbol}: {same}{new}{steps}{wide}{low}"


def _grip_words(grip: Voicing | None, flats: bool) -> str:
    if grip is None:
        return "silent"
    hands = []
    for hand in (grip.left, grip.right):
        pitches = (pitch_for_key(key, flats) for key in hand.keys)
        hands.append(" ".join(pitch.pretty for pitch in pitches) or "-")
    return " ; ".join(hands)
