"""Small notes that lead from one voicing to the next: passing bass, lead-in top, slides, inner lines, and a
whole grip a half step away.

Every proposal fits into the beats that the chord has left over and moves voices that the hands play anyway. A
passing bass, a walk and a whole grip take the place of the pattern's last strokes; the other notes come on
counts that the pattern leaves free, where there are such.
"""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import degree_semitones, name_for_pitch_class
from yellow_hinge.voicing.shape import Voicing

#: Semitones from which a bass move is a leap that can be filled.
LEAP_ST = 3


class Connection(Struct, frozen=True):
    """A proposal: its kind, its notes, and what it does in words."""

    kind: str
    fills: tuple[Fill, ...]
    words: str


class Places(Struct, frozen=True):
    """Places of a chord in beats from its beginning, ascending: those that a hand's pattern leaves ``free``,
    and those of its ``strokes``."""

    free: tuple[Fraction, ...]
    strokes: tuple[Fraction, ...] = ()


#: By hand; a hand that is not there may play anywhere.
Free = Mapping[str, Places]
_ANYWHERE: Free = {}
#: What takes the place of strokes.
_BY_STROKE = ("passing bass", "grip before")
_OCTAVE_ST = 12
#: How long a slide is, in beats, and how far off a grip comes before its target.
_SLIDE_BEATS, _HALF = Fraction(1, 4), Fraction(1, 2)


def connections(
    before: Voicing,
    after: Voicing,
    chords: tuple[ChordSymbol, ChordSymbol],
    beats: Fraction,
    key: Key,
    *,
    free: Free = _ANYWHERE,
) -> list[Connection]:
    """What may lead from one voicing, that lasts ``beats``, into the next: bass first, then the
    top note, then inner voices, then the whole right hand."""
    scale = key.pitch_classes | _tones(chords[0]) | _tones(chords[1])
    connections: list[Connection] = []
    voices = [
        (hand, start, to)
        for hand in ("left", "right")
        for start, to in hand_motion(before.hand(hand).keys, after.hand(hand).keys).pairs
    ]
    for place, (hand, start, to) in enumerate(voices):
        if place == 0 and abs(to - start) >= LEAP_ST:
            octave = hand == "left" and before.left.keys == (start, start + _OCTAVE_ST)
            connections += [
                _in_octaves(connection) if octave else connection
                for connection in _bass(hand, start, to, beats, scale, key=key)
            ]
        elif place == len(voices) - 1 and start != to:
            connections += _top(hand, start, to, beats, key)
        elif abs(to - start) == 2 and place > 0:
            connections += _inner(hand, start, to, beats, key)
    connections += _grip_before(before, after, beats)
    return [
        moved for connection in connections if (moved := _on_free(connection, beats, free, key)) is not None
    ]


def _grip_before(before: Voicing, after: Voicing, beats: Fraction) -> list[Connection]:
    """The right hand's next grip from a half step below, just before it."""
    pairs = hand_motion(before.right.keys, after.right.keys).pairs
    moving = [(start, to) for start, to in pairs if to - 1 != start]
    if len(moving) < 2 or len(moving) < len(after.right.keys) or beats <= _HALF:
        return []
    at = beats - _HALF
    fills = tuple(Fill("right", start, to, to - 1, at, beats=_HALF) for start, to in moving)
    words = f"The next grip from a half step below, on count {beats_text(at + 1)} of the chord, half a beat"
    return [Connection("grip before", fills, words)]


def _on_free(connection: Connection, beats: Fraction, free: Free, key: Key) -> Connection | None:
    """The same notes in place of the pattern's last strokes, or on counts that it leaves free; as they are
    where there are none."""
    hand, times = connection.fills[0].hand, sorted({fill.offset_beats for fill in connection.fills})
    if hand not in free or connection.kind == "slide":
        return connection
    by_stroke = connection.kind in _BY_STROKE
    places = [at for at in (free[hand].strokes if by_stroke else free[hand].free) if at > 0]
    if len(places) < len(times):
        return connection
    chosen = places[-len(times) :]
    if chosen == times and not by_stroke:
        return connection
    ends = dict(zip(chosen, [*chosen[1:], beats], strict=True))
    moved = dict(zip(times, chosen, strict=True))
    fills = tuple(
        replace(fill, offset_beats=at, beats=ends[at] - at if by_stroke else min(ends[at] - at, fill.beats))
        for fill in connection.fills
        for at in [moved[fill.offset_beats]]
    )
    if by_stroke:
        return Connection(connection.kind, fills, _by_stroke_words(connection, chosen))
    names = " ".join(_name(k, key) for k in (fills[0].start_key, *(f.key for f in fills), fills[0].end_key))
    counts = " and ".join(beats_text(at + 1) for at in chosen)
    how = connection.words.partition(":")[0]
    return Connection(
        connection.kind, fills, f"{how}: {names}, on count {counts} of the chord, left free by the pattern"
    )


def _by_stroke_words(connection: Connection, chosen: list[Fraction]) -> str:
    """The same words with the strokes whose place is taken."""
    counts = " and ".join(beats_text(at + 1) for at in chosen)
    how, _, _ = connection.words.partition(", on count")
    return f"{how}, in place of the pattern's stroke on count {counts} of the chord"


def _in_octaves(connection: Connection) -> Connection:
    """A passing bass under an octave: both notes move."""
    above = (
        replace(fill, **{name: getattr(fill, name) + _OCTAVE_ST for name in ("start_key", "key")})
        for fill in connection.fills
    )
    how, comma, where = connection.words.partition(", on count")
    return Connection(connection.kind, (*connection.fills, *above), f"{how}, in octaves{comma}{where}")


def _tones(chord: ChordSymbol) -> frozenset[int]:
    return frozenset((chord.root.pitch_class + degree_semitones(label)) % 12 for label in chord.degrees)


def _placed(hand: str, start: int, to: int, keys: tuple[int, ...], beats: Fraction) -> tuple[Fill, ...]:
    """The notes as the last ones of the chord: a beat each where at least one beat stays before
    them, else half a beat; nothing where even that does not fit."""
    for unit in (Fraction(1), Fraction(1, 2)):
        begin = beats - unit * len(keys)
        if begin >= max(Fraction(1, 2), unit):
            return tuple(
                Fill(hand, start, to, key, begin + unit * count, beats=unit) for count, key in enumerate(keys)
            )
    return ()


def _bass(
    hand: str, start: int, to: int, beats: Fraction, scale: frozenset[int], *, key: Key
) -> list[Connection]:
    way = 1 if to > start else -1
    between = [one for one in range(start + way, to, way) if one % 12 in scale]
    count = 2 if beats >= 3 and len(between) > 1 else 1
    rows = [("passing bass", tuple(between[-count:]), "by scale steps")]
    chromatic = tuple(to - way * step for step in range(count, 0, -1))
    if chromatic != rows[0][1]:
        rows.append(("passing bass", chromatic, "by half steps"))
    return _said(rows, hand, start, to, beats, key=key)


def _top(hand: str, start: int, to: int, beats: Fraction, key: Key) -> list[Connection]:
    below = to - 1 if start != to - 1 else to + 1
    connections = _said(
        [("lead-in note", (below,), "from a half step away")], hand, start, to, beats, key=key
    )
    at = beats - _SLIDE_BEATS
    if at >= _HALF:
        words = f"Slide from {_name(below, key)} into {_name(to, key)}, just before it"
        connections.append(
            Connection("slide", (Fill(hand, start, to, below, at, beats=_SLIDE_BEATS),), words)
        )
    return connections


def _inner(hand: str, start: int, to: int, beats: Fraction, key: Key) -> list[Connection]:
    middle = (start + to) // 2
    return _said(
        [("inner line", (middle,), "through the half step between")], hand, start, to, beats, key=key
    )


def _said(
    rows: list[tuple[str, tuple[int, ...], str]],
    hand: str,
    start: int,
    to: int,
    beats: Fraction,
    *,
    key: Key,
) -> list[Connection]:
    connections = []
    for kind, keys, how in rows:
        fills = _placed(hand, start, to, keys, beats) if keys else ()
        if fills:
            names = " ".join(_name(one, key) for one in (start, *keys, to))
            counts = " and ".join(beats_text(fill.offset_beats + 1) for fill in fills)
            length = "a beat" if fills[0].beats == 1 else "half a beat"
            length += " each" if len(fills) > 1 else ""
            words = f"{kind.capitalize()} {how}: {names}, on count {counts} of the chord, {length}"
            connections.append(Connection(kind, fills, words))
    return connections


def _name(midi_key: int, key: Key) -> str:
    return name_for_pitch_class(midi_key % 12, key.prefers_flats).pretty
