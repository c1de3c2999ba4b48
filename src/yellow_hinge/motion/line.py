"""What a line asks of the hands: tones that lead on, a top note that goes somewhere, an ending.

All of it splits by hand or concerns one chord alone, so that the search stays exact; what does not is
:mod:`motion.outer`. The plain functions say for two shapes what the arrays of :mod:`motion.terms` hold.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from yellow_hinge.motion.distance import Change, change_between
from yellow_hinge.motion.weights import END_BASS_KEY, LEAP_FROM_ST, SECTION_END_SHARE, Weights, weights_of
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.voicing.shape import Roles, Voicing, roles_of
from yellow_hinge.voicing.wish import Line, Wish

#: A tone that leads on: semitones above the root, and the half steps by which it may go on in its hand.
Leading = tuple[int, tuple[int, ...]]
_FIFTH_DOWN = 5
_STAYS_OR_FALLS = (0, -1, -2)
#: Intervals of top and bass, in semitones, that make one voice of two when they follow each other.
ALONG = (0, 7)


#: What each semitone above the first chord's root does in that chord, and in the next one.
HandRoles = tuple[Roles, Roles]


class Step(Struct, frozen=True):
    """What of the change from one chord to the next matters to a hand: what of the chord is another,
    whether the own left hand has the bass in both, the tones that lead on, and both basses where one hand
    has the top line alone. ``root`` is the first chord's; all other tones are semitones above it. ``roles``
    say for each semitone above that root what it does in either chord, where the school minds."""

    change: Change = Change.ROOT
    has_bass: bool = False
    root: int = 0
    leading: tuple[Leading, ...] = ()
    basses: tuple[int, int] | None = None
    roles: tuple[HandRoles, HandRoles] | None = None

    def roles_of(self, side: str) -> HandRoles | None:
        """What each semitone above the root does for a hand, before and after."""
        return None if self.roles is None else self.roles[side == "right"]


def step_between(before: Wish, after: Wish) -> Step:
    """The step from one chord to the next."""
    symbol, chord_symbol = before.chord, after.chord
    root, has_bass = symbol.root.pitch_class, before.bass == "self" == after.bass
    basses: tuple[int, int] | None = None
    if before.hands == after.hands == "both":
        basses = (symbol.bass_name.pitch_class - root) % 12, (chord_symbol.bass_name.pitch_class - root) % 12
    roles = None
    if weights_of(after.school).shape_change:
        left, right = (_roles_between(symbol, chord_symbol, side) for side in ("left", "right"))
        roles = left, right
    return Step(
        change_between(symbol, chord_symbol),
        has_bass,
        root,
        leading(symbol, chord_symbol),
        basses,
        roles=roles,
    )


def _roles_between(before: ChordSymbol, after: ChordSymbol, side: str) -> HandRoles:
    own, turned = roles_of(after, side), (before.root.pitch_class - after.root.pitch_class) % 12
    return roles_of(before, side), own[turned:] + own[:turned]


def leads_to(chord: ChordSymbol) -> tuple[int, ...]:
    """The root, as a pitch class, to which a chord's tones lead on; empty for one that does not."""
    sevenths = chord.seventh == "b7" and (bool(chord.sus) or chord.kind == "dominant")
    dominant = chord.kind == "dominant" and bool(chord.third)
    leads = sevenths or dominant or "11" in chord.sus
    return ((chord.root.pitch_class + _FIFTH_DOWN) % 12,) if leads else ()


def leading(before: ChordSymbol, after: ChordSymbol) -> tuple[Leading, ...]:
    """The tones of a dominant or a suspension that lead on where its root falls by a fifth: the seventh, the
    flat ninth and a suspended fourth stay or fall by a step; the third stays, rises by a half step, or
    falls to the next chord's seventh. By the usual rules of part-writing."""
    if (after.root.pitch_class - before.root.pitch_class) % 12 != _FIFTH_DOWN:
        return ()
    found: list[Leading] = []
    dominant = before.kind == "dominant" and bool(before.third)
    if "11" in before.sus:
        found.append((degree_semitones("11"), _STAYS_OR_FALLS))
    if (dominant or before.sus) and before.seventh == "b7":
        found.append((degree_semitones("b7"), _STAYS_OR_FALLS))
        found.append((degree_semitones("b9"), _STAYS_OR_FALLS))
    if dominant:
        seventh_comes = after.seventh == "b7"
        found.append((degree_semitones("3"), (0, 1, -1) if seventh_comes else (0, 1)))
    return tuple(found)


def unresolved(step: Step, before: tuple[int, ...], after: tuple[int, ...]) -> Iterator[int]:
    """The tones of a hand's keys that do not go where they lead, in semitones above the root."""
    for tone, moves in step.leading:
        for key in before:
            if (key - step.root) % 12 == tone and not any(key + move in after for move in moves):
                yield tone


def along(step: Step, top: int, new_top: int) -> str:
    """How the top line goes along with the chords' basses: in "octaves", in "fifths", or not ("")."""
    if step.basses is None or (new_top - top) % 12 == 0:
        return ""
    over, new_over = (
        (key - step.root - bass) % 12 for key, bass in zip((top, new_top), step.basses, strict=True)
    )
    if over != new_over or over not in ALONG:
        return ""
    return "fifths" if over else "octaves"


def leap_st(top: int, new_top: int) -> int:
    """Half steps of a top line's move beyond a fourth."""
    return max(0, abs(new_top - top) - LEAP_FROM_ST)


# --- one chord in its place ----------------------------------------------------------------


def off_aim_st(line: Line, top: int) -> int:
    """Half steps by which a top note lies off its section's plan, the room around it apart."""
    return 0 if line.aim is None else max(0, abs(top - line.aim) - line.room)


def end_share(line: Line) -> int:
    """What of the prices of an ending a chord pays, in hundredths."""
    return {"": 0, "section": SECTION_END_SHARE, "song": 100}[line.closes]


def end_tops(wish: Wish) -> frozenset[int]:
    """Tones, in pitch classes, that may be on top of an ending: root, third, fifth, the tune's note."""
    chord = wish.chord
    tones = {chord.root.degree(label).pitch_class for label in ("R", chord.third, chord.fifth) if label}
    tones |= {key % 12 for key in (wish.top, wish.clear_of) if key is not None}
    return frozenset(tones)


def end_bass(wish: Wish, low: int, weights: Weights) -> int:
    """What the lowest key of an ending costs where the own hands have the bass: another note than the
    root, and a high one. A slash in the symbol says what is below."""
    if wish.bass != "self":
        return 0
    turned = wish.chord.bass is None and low % 12 != wish.chord.root.pitch_class
    high = low > END_BASS_KEY and wish.hands == "both"  # one hand alone has no room below
    return weights.end_turned * turned + weights.end_bass * high


def again_at_end(wish: Wish, voicing: Voicing) -> int:
    """How often the third sounds again, the bassist's note among it."""
    third = wish.chord.third
    every = [*voicing.degrees, *filter(None, [wish.heard_below])]
    return max(0, every.count(third) - 1) if third else 0
