"""What shapes are wanted for one chord: everything that candidates and their prices depend on."""

from __future__ import annotations

from functools import cached_property
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.rhythm.struck import AS_IT_IS, Struck
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import (
    Classes,
    bass_degree,
    identity,
    identity_when_full,
    other_chords,
    undoubled,
)
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.theory.tension import any_label, extra_degrees
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.recipes import School
from yellow_hinge.voicing.shape import Hands, Hold, Voicing

#: How far a hand goes beyond the inner end of its register in open search, in half steps.
LOOSE_REGISTER_ST = 4
#: Degrees that may lie in the bass of an inverted chord.
INVERSION_DEGREES = ("3", "b3", "5", "b5", "#5", "6", "b7", "7", "bb7")


class Line(Struct, frozen=True):
    """What a chord's place in its section asks of the top line and of the ending: ``aim`` is the key at
    which the section's plan has the top note, ``room`` how many half steps to either side it may take;
    ``fresh`` says that a new top note is due, ``closes`` what
    ends with the chord."""

    aim: int | None = None
    room: int = 0
    fresh: bool = False
    closes: Literal["", "section", "song"] = ""


NO_LINE = Line()


#: Shapes that a hand may take besides its school's where its rhythm needs three notes and more: the left one
#: with the bass in it, the left one over a bassist, and the right one.
_FULL_LEFT = (
    "shell-root-third-seventh", "root-seventh-tenth", "root-fifth-tenth", "root-fifth-seventh",
    "root-fifth-ninth", "root-fifth-octave", "slash-bass-two-tones", "slash-spread", "slash-octave",
    "close-triad", "close-seventh", "triad-doubled",
)  # fmt: skip
_FULL_ABOVE = (
    "rootless-three", "rootless-from-third", "rootless-from-seventh", "third-seventh-plus-one",
    "seventh-third-plus-one", "guide-triad", "close-triad", "close-seventh",
)  # fmt: skip
_FULL_FROM = 3


class Wish(Struct, frozen=True, dict=True):
    """What is wanted for one chord.

    ``key`` is the local key; ``to_minor`` says whether a dominant resolves to a minor chord (None:
    nowhere). ``bass`` is "self" (own left hand) or "bassist"; ``colour`` 0..3. ``top`` is a melody
    key that the right hand has on top, ``clear_of`` one that somebody else sings, ``room_for`` one
    whose register both hands leave free. ``hold`` is what the player has fixed; ``inverted``
    allows other chord tones in the bass. ``rules`` are what the player has set for a hand. ``line`` is
    what its place asks of the top line: it only changes prices. ``struck`` is what the rhythm of the left and
    of the right hand needs.
    """

    chord: ChordSymbol
    key: Key | None
    school: School
    colour: int
    bass: str
    profile: HandProfile
    top: int | None = None
    clear_of: int | None = None
    room_for: int | None = None
    hold: Hold | None = None
    to_minor: bool | None = None
    hands: Hands = "both"
    inverted: bool = False
    rules: tuple[HandRule, ...] = ()
    line: Line = NO_LINE
    struck: tuple[Struck, Struck] = (AS_IT_IS, AS_IT_IS)

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        """Computed once: wishes are looked up thousands of times. The school by its id."""
        plain = (self.colour, self.bass, self.profile, self.top, self.clear_of, self.room_for, self.hold)
        more = (self.to_minor, self.hands, self.inverted, self.rules, self.line, self.struck)
        return hash((self.chord, self.key, self.school.id, *plain, *more))

    @cached_property
    def placeless(self) -> Wish:
        """The same wherever the chord stands."""
        return self if self.line == NO_LINE else replace(self, line=NO_LINE)

    def hand(self, side: str) -> Hand:
        """The "left" or "right" hand of the profile. In a loose school the hands may go a little
        into each other's register: there home is a price, not a border."""
        return self._hands[side]

    @cached_property
    def _hands(self) -> dict[str, Hand]:
        left, right = self.profile.left, self.profile.right
        if self.school.loose:
            left = replace(left, highest_key=left.highest_key + LOOSE_REGISTER_ST)
            right = replace(right, lowest_key=max(0, right.lowest_key - LOOSE_REGISTER_ST))
        return {"left": left, "right": right}

    def recipes_of(self, side: str) -> tuple[str, ...]:
        """The school's recipe ids for a hand, in order of preference; a hand alone may take the
        other one's as well."""
        lists = (self.school.left(self.bass), self.school.right)
        own, other = lists if side == "left" else lists[::-1]
        recipes = own if self.hands == "both" else own + other
        return tuple(dict.fromkeys(recipes + self._brought(side)))

    def _brought(self, side: str) -> tuple[str, ...]:
        """The recipes that a hand's rhythm brings along."""
        if self.struck_by(side).least < _FULL_FROM:
            return ()
        return _FULL_LEFT if side == "left" and self.bass == "self" else _FULL_ABOVE

    def rules_of(self, side: str) -> tuple[HandRule, ...]:
        """The rules for a hand."""
        return tuple(rule for rule in self.rules if rule.side == side)

    def struck_by(self, side: str) -> Struck:
        """What the rhythm of a hand needs of its grip; nothing where the player says how many notes."""
        counted = any(rule.kind in ("notes", "octave", "single", "grip") for rule in self.rules_of(side))
        return AS_IT_IS if counted else self.struck[side == "right"]

    @property
    def clear_top(self) -> bool:
        """Whether nothing may rub under the top note of the right hand: not where the tune lies there."""
        return self.school.clear_top and self.top is None

    def plays(self, side: str) -> bool:
        """Whether a hand plays at all."""
        return self.hands in ("both", side)

    @cached_property
    def yielding(self) -> frozenset[str]:
        """Degrees of the chord that give way to the tune: those a half step below the note that
        has to be on top, where they would rub as a half step or a minor ninth. Never the root."""
        if self.top is None:
            return frozenset()
        rubs = (self.top - 1 - self.chord.root.pitch_class) % 12
        own = (*self.chord.degrees, *(("b9", "#9", "#11", "b13") if self.chord.alt else ()))
        return frozenset(label for label in own if degree_semitones(label) == rubs and label != "R")

    @cached_property
    def sense(self) -> tuple[frozenset[str], frozenset[str]]:
        """What the local key and the chord that follows mean for the hands: the degrees that may sound once
        only, and those beyond the symbol that may sound. Wishes for one chord that differ in key and
        following chord alone, and not in this, have the same voicings at the same prices."""
        beyond = extra_degrees(self.chord, self.key, self.colour, self.to_minor)
        return undoubled(self.chord, self.key), frozenset(beyond)

    @cached_property
    def extras(self) -> frozenset[str]:
        """Degrees beyond the symbol that may sound. A major seventh that yields to its own root in
        the tune becomes a sixth, a flat ninth becomes a ninth."""
        sense = set(self.sense[1])
        if "7" in self.yielding:
            sense.add("6")
        return frozenset(sense - self.yielding)

    @cached_property
    def own_degrees(self) -> tuple[str, ...]:
        """The symbol's own degrees that may sound."""
        return tuple(label for label in self.chord.degrees if label not in self.yielding)

    @cached_property
    def bass_fifth(self) -> str | None:
        """The fifth of a slash bass, over the chord's root: a tone of the chord, or colour."""
        if self.chord.bass is None:
            return None
        note = (self.chord.bass.pitch_class + 7) % 12
        label = self.chord.label_of(note)
        if label is not None and label in self.own_degrees:
            return label
        return any_label(self.chord, note) if self.colour else None

    @cached_property
    def bass_label(self) -> str:
        """What the chord's bass note is over its root."""
        return bass_degree(self.chord)

    @cached_property
    def third_below(self) -> bool:
        """Whether the chord's third is its bass note."""
        return bool(self.chord.third) and self.bass_label == self.chord.third

    @cached_property
    def heard_below(self) -> str | None:
        """The degree that the bassist plays; None where the hands have the bass."""
        return self.bass_label if self.bass == "bassist" else None

    @cached_property
    def needed(self) -> tuple[frozenset[str], ...]:
        """Groups of degrees of which one member each must sound, bassist included; what yields
        to the tune is excused."""
        root_below = self.heard_below == "R"
        groups = identity(self.chord, not root_below, fifth_needed=root_below)
        left_over = (group - self.yielding for group in groups)
        return tuple(group for group in left_over if group)

    @cached_property
    def needed_when_full(self) -> tuple[frozenset[str], ...]:
        """The same for what must sound besides from :data:`theory.coverage.FULL_NOTES` notes on."""
        left_over = (group - self.yielding for group in identity_when_full(self.chord))
        return tuple(group for group in left_over if group)

    @cached_property
    def own_classes(self) -> Classes:
        """What is the symbol's own, in semitones above the root, its bass and the tune's note among it."""
        own = {*self.chord.degrees, "R", self.bass_label, *filter(None, [self.top_label])}
        own |= {"b9", "#9", "#11", "b13"} if self.chord.alt else set()
        return frozenset(degree_semitones(label) for label in own)

    def other_chords(self, rooted: bool) -> tuple[Classes, ...]:
        """Tones, in semitones above the root, that may not all sound together: colour would make another
        chord of the symbol. ``rooted``: its root is the lowest note. The tune may have what it wants."""
        more = {*self.extras, *filter(None, [self.bass_fifth])}
        return other_chords(self.own_classes, frozenset(degree_semitones(label) for label in more), rooted)

    @cached_property
    def top_label(self) -> str | None:
        """What the tune's note is over the chord."""
        if self.top is None:
            return None
        return self.chord.label_of(self.top % 12) or any_label(self.chord, self.top % 12)

    @cached_property
    def low_degrees(self) -> frozenset[str] | None:
        """Degrees that may be the lowest note of the hands; None where any may, because somebody
        else has the bass."""
        if self.bass == "bassist":
            return None
        may = {self.bass_label}
        turned = self.inverted or self.school.loose or self.hands == "right"
        if turned and self.chord.bass is None and self.chord.upper is None:
            may |= {label for label in INVERSION_DEGREES if label in self.chord.degrees}
        return frozenset(may)


def for_grip(wish: Wish, voicing: Voicing) -> Wish:
    """The wish as it is for a given grip: one of a single hand is taken as that."""
    if wish.hands == "both" and bool(voicing.left.keys) != bool(voicing.right.keys):
        return replace(wish, hands="left" if voicing.left.keys else "right")
    return wish


def class_of(chord: ChordSymbol, label: str) -> int:
    """The pitch class of a degree over a chord's root."""
    return (chord.root.pitch_class + degree_semitones(label)) % 12
