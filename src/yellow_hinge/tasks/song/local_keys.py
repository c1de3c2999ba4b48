"""The keys that a song goes through, and where each of its chords leads."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

from yellow_hinge.reharm.regions import goals, key_regions
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key


def local_keys(song: Song) -> tuple[Key, ...]:
    """The local key of every chord of the chart in playing order, as found or as the player has set
    it; all rounds of a chord are in the key of its first one. A swap does not change it: its chords
    do what they do in the key of the chord that they stand for."""
    row = song.plain_slots
    pins = {}
    for slot in row:
        key = song.take_of(slot.take).arrangement.keys_set.get(slot.at.written)
        if key is not None:
            pins[slot.place] = key
    keys = _regions(
        tuple(slot.chord for slot in row),
        tuple(slot.key for slot in row),
        tuple(pins.items()),
        tuple(slot.beats / slot.meter.beats for slot in row),
    )
    firsts: dict[tuple[int, int], Key] = {}
    return tuple(
        firsts.setdefault((slot.take, slot.at.written), key) for slot, key in zip(row, keys, strict=True)
    )


@lru_cache(maxsize=32)
def _regions(
    chords: tuple[ChordSymbol | None, ...],
    homes: tuple[Key, ...],
    pins: tuple[tuple[int, Key], ...],
    bars: tuple[Fraction, ...],
) -> tuple[Key, ...]:
    """As :func:`key_regions`, kept: one song is asked for its keys many times."""
    return key_regions(chords, homes, dict(pins), bars)


def goals_in(song: Song) -> list[ChordSymbol | None]:
    """For every slot the chord that it goes to: the next part of its swap, or the chart's next
    other chord."""
    plain = goals([slot.chord for slot in song.plain_slots], song.arrangement.loop)
    symbols: list[ChordSymbol | None] = []
    for slot, later in zip(song.slots, [*song.slots[1:], None], strict=True):
        inside = later is not None and later.place == slot.place
        symbols.append(later.chord if later is not None and inside else plain[slot.place])
    return symbols
