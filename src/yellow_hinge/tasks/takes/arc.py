"""An arc over a song: how full each section is as it is played, and the takes that make it so.

Each level that the arc has is a take of its own, made of the take that is worked on; the route says where
each of them sounds. Their textures are chosen together (:func:`rhythm.fullness.textures`); their voicings are
then one search over the whole route, exact as every search, so that neighbouring sections join smoothly.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.rhythm.fullness import LEVELS, shape, textures, variant
from yellow_hinge.rhythm.patterns import Hand, Patterns
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.edits import free_name
from yellow_hinge.song.groove import Texture
from yellow_hinge.song.model import Song, Take
from yellow_hinge.song.playing import known_patterns
from yellow_hinge.tasks.takes.desk import Round, rounds_of
from yellow_hinge.voicing.recipes import Library

_MOST_COLOUR = 3


def read_arc(text: str, song: Song, place: str = "--arc") -> tuple[int, ...]:
    """The levels of a text such as 1,2,4,2: one for each section as it is played; sections that are played
    several times in a row may have one together. Raises :class:`BadInput`."""
    words = [word.strip() for word in text.split(",")]
    if not all(word.isdigit() and int(word) in LEVELS for word in words):
        remedy = "write a fullness 1..5 for each section: 1,2,4,2"
        raise BadInput(Problem(place, f"{text!r} is no arc", remedy))
    levels, rounds = tuple(map(int, words)), rounds_of(song)
    if len(levels) == len(rounds):
        return levels
    starts = [
        n for n, take_round in enumerate(rounds) if not n or rounds[n - 1].section != take_round.section
    ]
    if len(levels) == len(starts):
        ends = [*starts[1:], len(rounds)]
        return tuple(level for level, a, b in zip(levels, starts, ends, strict=True) for _ in range(a, b))
    names = ", ".join(take_round.section or "the song" for take_round in rounds)
    what = f"{len(levels)} levels for {len(rounds)} sections as they are played"
    raise BadInput(Problem(place, what, f"give one for each: {names}"))


def levels_of(song: Song) -> tuple[int | None, ...]:
    """How full each round is, in playing order; None where nothing is said."""
    return tuple(song.texture(take_round.first).level for take_round in rounds_of(song))


def base_of(song: Song) -> Take:
    """The take of which an arc is, or would be, made: the current one, or that of which it is a level."""
    base = song.arrangement.groove.arc_of
    ids = {take.id for take in song.takes}
    return song.take_of(base) if base is not None and base in ids else song.take


def shaped_arc(song: Song, kind: str) -> tuple[int, ...]:
    """One of :data:`rhythm.fullness.ARCS` over a song."""
    return shape(kind, tuple(take_round.section for take_round in rounds_of(song)))


def without_arc(song: Song) -> Song:
    """The song without the levels of the current take's arc: the take of which it was made sounds again."""
    base = base_of(song)
    others = (take for take in song.takes if take.id != base.id)
    gone = {take.id for take in others if take.arrangement.groove.arc_of == base.id}
    if not gone:
        return song
    takes = tuple(take for take in song.takes if take.id not in gone)
    route = {where: take for where, take in song.route.items() if take not in gone}
    current = base.id if song.current in gone else song.current
    return replace(song, takes=takes, current=current, route=route)


def laid_arc(
    song: Song, row: Sequence[int], library: Library, fixed: Mapping[Hand, str] | None = None
) -> Song:
    """The same, not voiced yet."""
    start = without_arc(song)
    rounds, base = rounds_of(start), base_of(start)
    levels = tuple(row)
    if not rounds or len(levels) != len(rounds):
        what = f"{len(levels)} levels for {len(rounds)} sections as they are played"
        raise BadInput(Problem("arc", what, "give one for each"))
    groove = base.arrangement.groove
    patterns = known_patterns(groove)
    tempo = float(start.chart.tempos[0][1])
    chosen = textures(levels, start.meter, tempo, groove.swing > 0, patterns, fixed=fixed)
    made = {}
    for level in sorted(set(levels)):
        pair = chosen[level]
        whole = replace(groove.whole, left=pair.left.id, right=pair.right.id, level=level, touch=None)
        take_rounds = [take_round for take_round, at in zip(rounds, levels, strict=True) if at == level]
        sections = _variants(take_rounds, whole, start, patterns)
        made[level] = replace(
            base.arrangement, colour=_colour(base.arrangement, level, library),
            groove=replace(groove, whole=whole, sections=sections, chords={}, build=False, arc_of=base.id),
        )  # fmt: skip
    return _routed(start, base, rounds, levels, made)


def _variants(
    take_rounds: Sequence[Round], whole: Texture, song: Song, patterns: Patterns
) -> dict[tuple[str, int], Texture]:
    """Rounds of a section at one level: every second one has another pattern of the family, so that it
    differs to the ear."""
    turns: Counter[str] = Counter()
    variants = {}
    for take_round in take_rounds:
        turns[take_round.section] += 1
        if turns[take_round.section] % 2:
            continue
        for hand in ("right", "left"):
            pattern = patterns[whole.hand(hand)]
            other = variant(pattern, hand, song.meter, patterns)
            if other is not pattern:
                variants[take_round.section, take_round.turn] = replace(Texture(), **{hand: other.id})
                break
    return variants


def _colour(arrangement: Arrangement, level: int, library: Library) -> int:
    colour = arrangement.colour
    usual = library.school(arrangement.school).colour if colour is None else colour
    return max(0, min(_MOST_COLOUR, usual + LEVELS[level].colour))


def _routed(
    song: Song, base: Take, rounds: Sequence[Round], levels: Sequence[int], made: Mapping[int, Arrangement]
) -> Song:
    """The song with a take for each level, and the route through them; the level that sounds longest is
    worked on."""
    takes, number = list(song.takes), max(take.id for take in song.takes)
    ids = {}
    for level, arrangement in made.items():
        number += 1
        name = free_name(replace(song, takes=tuple(takes)), f"{base.name}, {LEVELS[level].words}")
        takes.append(Take(number, name, arrangement))
        ids[level] = number
    longest = Counter(levels).most_common(1)[0][0]
    route = {
        (take_round.section, take_round.turn): ids[level]
        for take_round, level in zip(rounds, levels, strict=True)
        if level != longest
    }
    return replace(song, takes=tuple(takes), current=ids[longest], route=route)
