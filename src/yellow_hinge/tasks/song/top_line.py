"""Where each chord stands in its section, and what that asks of the top line and of the ending.

A section's top line begins and ends in the middle and is highest once, after the half, unless the player
draws it otherwise; every third change of root wants a new top note; what closes the song or a section lands.
All of it goes by time and by the written chords, so that swaps do not move it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from fractions import Fraction
from math import cos, pi

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import Hand
from yellow_hinge.motion.weights import weights_of
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.voicing.shape import Plan, TopLine
from yellow_hinge.voicing.wish import NO_LINE, Line, Wish

#: Of the right hand's home zone: how many half steps above its lowest key the middle of the top line lies,
#: how far an arc rises above that (less at colour 0: plain is calmer), and a sloping line above and below
#: it. Our choice: a triad hangs below the middle in the zone, and the peak is a sixth and more above it.
MIDDLE_ST, RISE_ST, PLAIN_RISE_ST, SLOPE_ST = 8, 10, 7, 5
#: Share of a section at which an arc is highest: after the half.
PEAK = 0.65
#: Half steps to either side that a top note may take: where a line is anchored, where it comes to rest, and
#: on the way, which is the hands' own.
ANCHOR_ROOM_ST, REST_ROOM_ST, WAY_ROOM_ST = 1, 5, 8
#: How many changes of root bring a new top note.
FRESH_EVERY = 3
#: A section of so many chords has no line of its own; each further one raises it by up to a whole step.
_TOO_SHORT = 2


def _arc(share: float) -> float:
    """0 in the middle, 1 at the peak, along half waves."""
    way = share / PEAK if share <= PEAK else (1 - share) / (1 - PEAK)
    return (1 - cos(pi * way)) / 2


Shape = Callable[[float], float]
#: How high a line lies at a share of its section, in half steps above the middle, by colour.
SHAPES: Mapping[Plan, Callable[[int], Shape]] = {
    "arc": lambda colour: lambda share: (RISE_ST if colour else PLAIN_RISE_ST) * _arc(share),
    "flat": lambda _: lambda _: 0.0,
    "rising": lambda _: lambda share: SLOPE_ST * (2 * share - 1),
    "falling": lambda _: lambda share: SLOPE_ST * (1 - 2 * share),
}


class _Spot(Struct, frozen=True):
    """A written chord's place in its round: the round's first and last beginning of a chord, how many chords
    it has and which of them this is, which is nearest to an arc's peak, whether a new top note is due, what
    closes."""

    start_quarters: Fraction
    last_quarters: Fraction
    chords: int
    number: int
    peak: int
    fresh: bool
    closes: str


class Lines:
    """What their places ask of a song's chords."""

    def __init__(self, song: Song) -> None:
        self._hand = song.hands.right
        self._spots = _spots(song)

    def at(self, slot: Slot, wish: Wish, top: TopLine, plan: Plan, part: tuple[bool, bool]) -> Line:
        """The line of a slot, of which ``wish`` is wanted; ``part`` says whether it is the first and the last
        of what stands for its written chord."""
        spot = self._spots[slot.place]
        first, last = part
        line = NO_LINE
        if top == "sings" and weights_of(wish.school).aim:
            aim = _aim(self._hand, spot, slot.start_quarters, SHAPES[plan](wish.colour))
            line = replace(line, aim=aim, room=_room(spot, plan))
        return replace(line, fresh=spot.fresh and first, closes=spot.closes if last else "")


def _aim(hand: Hand, spot: _Spot, start_quarters: Fraction, shape: Shape) -> int:
    length = spot.last_quarters - spot.start_quarters
    share = float((start_quarters - spot.start_quarters) / length) if length else 0.0
    height = shape(min(1.0, share))
    most = 2.0 * max(0, spot.chords - _TOO_SHORT)
    return hand.home_low + MIDDLE_ST + round(max(-most, min(most, height)))


def _room(spot: _Spot, plan: Plan) -> int:
    if plan == "flat" or spot.number == 0 or (plan == "arc" and spot.number == spot.peak):
        return ANCHOR_ROOM_ST
    if spot.number == spot.chords - 1:
        return REST_ROOM_ST if plan == "arc" else ANCHOR_ROOM_ST
    return WAY_ROOM_ST


def _spots(song: Song) -> list[_Spot]:
    """For each chord of the chart in playing order."""
    rounds: dict[tuple[str, int], list[Slot]] = {}
    for slot in song.plain_slots:
        rounds.setdefault((slot.section, slot.round), []).append(slot)
    closing = _closing(song, list(rounds.values()))
    spots: dict[int, _Spot] = {}
    for row in rounds.values():
        fresh, peak = _fresh(row), _peak(row)
        for number, slot in enumerate(row):
            ends, closes = (row[0].start_quarters, row[-1].start_quarters), closing.get(slot.place, "")
            spots[slot.place] = _Spot(*ends, len(row), number, peak, fresh[slot.place], closes)
    return [spots[slot.place] for slot in song.plain_slots]


def _closing(song: Song, rounds: Iterable[Sequence[Slot]]) -> dict[int, str]:
    """What each chord that ends something closes. Silence after it changes nothing; and what is played alike
    in several rounds closes the song when one of these does."""
    ends = [[slot.place for slot in row if slot.chord is not None][-1:] for row in rounds]
    found = {place: "section" for last in ends for place in last}
    if not song.arrangement.loop:
        found |= {slot.place: "song" for slot in [one for one in song.plain_slots if one.chord][-1:]}
    for column in song.columns:
        places = [song.slots[index].place for index in column]
        if any(found.get(place) == "song" for place in places):
            found |= dict.fromkeys(places, "song")
    return found


def _peak(row: Sequence[Slot]) -> int:
    """The number of the chord in a round that is nearest to an arc's peak."""
    start, length = row[0].start_quarters, row[-1].start_quarters - row[0].start_quarters
    return min(range(len(row)), key=lambda k: abs(row[k].start_quarters - start - PEAK * float(length)))


def _fresh(row: Sequence[Slot]) -> dict[int, bool]:
    """Which chords of a round come with a change of root that brings a new top note."""
    found: dict[int, bool] = {}
    changes, root = 0, None
    for slot in row:
        own = None if slot.chord is None else slot.chord.root.pitch_class
        changed = root is not None and own is not None and own != root
        changes += changed
        found[slot.place] = changed and changes % FRESH_EVERY == 0
        root = own if own is not None else root
    return found
