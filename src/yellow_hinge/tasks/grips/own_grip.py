"""A player's own grip in its place in a song: what it is called, what it lacks, how it lies in the
hands, how it leads on, and what it costs against the one in use.

Any grip is accepted. What it breaks is a remark.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.hands.profile import strain_words
from yellow_hinge.motion.describe import held_row, hinges
from yellow_hinge.motion.effort import Wishes, row_terms
from yellow_hinge.motion.explain import Term
from yellow_hinge.motion.figures import amount_words, more_words
from yellow_hinge.motion.hinge import SIDES, HingeReport
from yellow_hinge.motion.place import Place
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.judge import Judged, judged
from yellow_hinge.tasks.grips.page import Grip, read_hands
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.identify import Name, identify, over_every_bass
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, name_for_pitch_class
from yellow_hinge.theory.pretty import pretty_degree
from yellow_hinge.theory.spelling import scale_names
from yellow_hinge.theory.tension import DEGREE_WORDS
from yellow_hinge.voicing.handling import Keys
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.reductions import Reduction, reductions
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.shape import Voicing

#: Mud from which it is said how much of it there is; below it nobody hears it (our choice, as the mark
#: on a leaf).
_AUDIBLE_MUD = 40
#: Reasons said for a difference, and the least that is worth a word, in hundredths of a half step.
_MOST_REASONS, _WORTH = 3, 15
#: How far down the list of names the chart's own may stand to be kept.
_LIKELY = 3
#: The one black key that is a sharp in keys of up to four flats.
_F_SHARP, _F_SHARP_UP_TO = 6, -5


class Tried(Struct, frozen=True):
    """A grip in the place of a chord. ``before`` and ``after`` are the changes from and to its
    neighbours as they stand; ``cost`` what it and both changes cost, in hundredths of a half step, and
    ``used`` the same for the voicing in use (None where there is none); ``reasons`` what makes the
    difference, the greatest first: (words, how much more or less)."""

    judged: Judged
    before: HingeReport | None
    after: HingeReport | None
    cost: int
    used: int | None
    reasons: tuple[tuple[str, int], ...]

    @property
    def voicing(self) -> Voicing:
        return self.judged.voicing

    @property
    def called(self) -> tuple[Name, ...]:
        """Names with how they read the notes, the best first."""
        return self.judged.names

    @property
    def degrees(self) -> tuple[str, str]:
        """What the notes of the left and of the right hand are in the chord."""
        left, right = (
            " ".join(pretty_degree(label) for label in self.voicing.hand(side).degrees) for side in SIDES
        )
        return left, right

    @property
    def agreement(self) -> str:
        """Whether the chart's symbol says what sounds: "as the chart has it", or what is not there, and
        what the notes are called."""
        chord, names = self.judged.grip.chord, self.judged.names
        lacks = self.judged.missing
        if any(name.chord == chord for name in names) or not lacks:
            return f"as the chart has it: {chord.pretty}"
        own = [name for name in names if name.chord.root.pitch_class == chord.root.pitch_class]
        better = (own or list(names))[:1]
        words = f"you wrote {chord.pretty}; there is no {_bare(lacks[0])}"
        return words + (f"; this is {better[0].chord.pretty}" if better else "")

    @property
    def remarks(self) -> tuple[str, ...]:
        """What it breaks and doubles, in words. Nothing of it is refused."""
        twice = [DEGREE_WORDS[label] for label in self.judged.doubled]
        said = [broken.words for broken in (*self.judged.broken, *self.judged.marks)]
        return (*said, *(f"{words} sounds more than once" for words in twice))

    @property
    def lies(self) -> tuple[str, ...]:
        """A line for each hand that plays: fingers, width, and how that lies in the hand."""
        return tuple(self._lies(side) for side in SIDES if self.voicing.hand(side).keys)

    def _lies(self, side: str) -> str:
        judged, wish = self.judged, self.judged.wish
        keys, hand = self.voicing.hand(side).keys, wish.hand(side)
        fingers = " ".join(str(finger) for finger in judged.fingers[side == "right"])
        excess = wish.profile.excess_mm(hand, keys)
        reach = strain_words(wish.profile.strain(hand, keys))
        if excess > 0:
            reach = f"out of reach by {excess:.0f} mm: do not force it"
        return f"{side.capitalize()} hand: fingers {fingers}, {judged.span_mm(side):.0f} mm, {reach}"

    @property
    def sounds(self) -> str:
        """Mud and rubbing notes; empty where there are none to hear."""
        parts = [term.phrase for term in self.judged.terms if term.mark == "rub"]
        depth = mud(tuple(sorted(self.voicing.keys)))
        if depth >= _AUDIBLE_MUD:
            parts.insert(0, f"low and close: it sounds muddy ({depth / 100:.1f}; a low close third is 1)")
        return "; ".join(parts)

    @property
    def effort_words(self) -> str:
        """What it costs here against the voicing in use, and why."""
        if self.used is None:
            return f"Effort here {amount_words(self.cost)}"
        more = self.cost - self.used
        if abs(more) < _WORTH:
            return "The same effort here as the voicing in use"
        words = f"{amount_words(abs(more))} {'more' if more > 0 else 'less'} effort here than in use"
        why = [f"{phrase} {more_words(cost)}" for phrase, cost in self.reasons]
        return f"{words}: {'; '.join(why)}" if why else words


def _bare(label: str) -> str:
    return DEGREE_WORDS[label].removeprefix("the ")


Spelled = tuple[tuple[int, NoteName], ...]


def read_typed(text: str) -> tuple[Keys, Spelled]:
    """Notes as they are typed, ``D3 G3 B3 ; F#4 B4``: left hand, semicolon, right hand; without a
    semicolon all of it is the right hand's. Gives the keys and the names that were typed for them.
    Raises :class:`BadInput`."""
    left, semicolon, right = text.partition(";")
    if not semicolon:
        left, right = "", left
    (lows, highs), spelled = read_hands(left, right, "notes")
    both = set(lows) & set(highs)
    if both:
        names = dict(spelled)
        what = f"{names.get(min(both), min(both))} is in both hands"
        raise BadInput(Problem("notes", what, "leave it out of one of them"))
    return Keys(lows, highs), spelled


class GripDesk:
    """Judges grips in one song after another; what a song wants is found once."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self._known: tuple[Song, tuple[Place, ...], tuple[Key, ...]] | None = None

    def _of(self, song: Song) -> tuple[tuple[Place, ...], tuple[Key, ...]]:
        if self._known is None or self._known[0] is not song:
            self._known = (song, progression(song, self._library).places, local_keys(song))
        return self._known[1], self._known[2]

    def voicing(self, song: Song, index: int, keys: Keys) -> Voicing:
        """Keys as a voicing of a chord: with degrees, and the recipes that make them."""
        slot = song.slots[index]
        assert slot.chord is not None
        return classify(keys.left, keys.right, slot.chord, self._of(song)[1][slot.place], self._library)

    def scale(self, song: Song, index: int) -> frozenset[int]:
        """The tones of the local key, the chord's own in place of those of the same letter."""
        slot = song.slots[index]
        steps = {name.step: name.pitch_class for name in scale_names(self._of(song)[1][slot.place])}
        if slot.chord is not None:
            own = (slot.chord.root.degree(label) for label in slot.chord.degrees)
            steps |= {name.step: name.pitch_class for name in own}
        return frozenset(steps.values())

    def ways_out(self, tried: Tried) -> tuple[Reduction, ...]:
        """How a grip that is out of reach could be played all the same, in the school's order."""
        return tuple(reductions(tried.voicing, tried.judged.wish, lawful=False))

    def tried(self, song: Song, index: int, keys: Keys, spelled: Spelled = ()) -> Tried | None:
        """Everything about a grip in the place of a chord; None on "no chord", and for no notes."""
        slot = song.slots[index]
        places, local = self._of(song)
        wish = places[song.column_of[index]].wish
        if slot.chord is None or wish is None or not (keys.left or keys.right):
            return None
        grip = Grip(slot.chord, keys.left, keys.right, spelled)
        one = judged(grip, wish, local[slot.place], self._library)
        around = [k for k in (index - 1, index, index + 1) if 0 <= k < len(song.slots)]
        here = around.index(index)
        wishes = [places[song.column_of[k]].wish for k in around]
        voicings = [song.voicing(k) or Voicing() for k in around]
        own = [*voicings[:here], one.voicing, *voicings[here + 1 :]]
        terms = _terms_of([*wishes[:here], one.wish, *wishes[here + 1 :]], own, here)
        theirs = _terms_of(wishes, voicings, here) if voicings[here].keys else None
        changes = hinges(held_row([song.slots[k].chord for k in around], own))
        return Tried(
            one,
            changes[here - 1] if here and own[here - 1].keys else None,
            changes[here] if here + 1 < len(own) and own[here + 1].keys else None,
            _cost(terms),
            None if theirs is None else _cost(theirs),
            reasons=() if theirs is None else _difference(terms, theirs),
        )


def _terms_of(wishes: Wishes, voicings: Sequence[Voicing], here: int) -> list[Term]:
    """What the chord ``here`` and the changes around it cost."""
    chords, changes = row_terms(wishes, voicings, loop=False)
    return [*chords[here], *(term for change in changes for term in change)]


def _cost(terms: Sequence[Term]) -> int:
    return sum(term.cost for term in terms)


def _difference(own: Sequence[Term], theirs: Sequence[Term]) -> tuple[tuple[str, int], ...]:
    """What makes one dearer or cheaper than the other, by phrase."""
    by: dict[str, int] = {}
    for sign, terms in ((1, own), (-1, theirs)):
        for term in terms:
            by[term.phrase] = by.get(term.phrase, 0) + sign * term.cost
    rows = sorted(by.items(), key=lambda item: -abs(item[1]))
    return tuple((words, cost) for words, cost in rows if abs(cost) >= _WORTH)[:_MOST_REASONS]


# --- names -------------------------------------------------------------------------------


class OverBass(Struct, frozen=True):
    """What the same notes are called over a bass; ``note`` None over the one that is there."""

    bass: NoteName
    names: tuple[Name, ...]


def over_basses(keys: Sequence[int], key: Key, most: int = 2) -> tuple[OverBass, ...]:
    """What each of the twelve basses makes of some notes, from the key's own tonic upwards."""
    names = {pc: in_key(pc, key) for pc in range(12)}
    found = over_every_bass(keys, most, names)
    order = [(key.tonic.pitch_class + step) % 12 for step in range(12)]
    return tuple(OverBass(names[pc], tuple(found[pc])) for pc in order)


#: How notes are read that nothing is usually called by.
NO_NAME = "no usual name"


def called(
    keys: Sequence[int], symbol: ChordSymbol, key: Key, below: int | None = None
) -> tuple[ChordSymbol, str]:
    """What some notes are called where a chord of the chart stands, and how that hears them: the chart's
    own name where it is among the likely ones, else the likeliest; without any the chart's chord over the
    lowest note. ``below`` is the pitch class of a bass that somebody else plays."""
    if below is not None:
        keys = (min(keys) - 12 + (below - min(keys)) % 12, *keys)
    spelled = {pc: in_key(pc, key) for pc in range(12)}
    spelled |= {
        note_name.pitch_class: note_name
        for note_name in (symbol.root.degree(label) for label in symbol.degrees)
    }
    heard = identify(keys, spelled)
    names = [name for name in heard if name.chord.bass_name.pitch_class == min(keys) % 12] or heard
    likely = next((name for name in names[:_LIKELY] if name.chord == symbol), None) or next(iter(names), None)
    if likely is None:
        return with_bass(symbol, spelled[min(keys) % 12]), NO_NAME
    return likely.chord, likely.reading


def in_key(pitch_class: int, key: Key) -> NoteName:
    """A note as charts in a key have it; where the key has no signs, F# and the flats."""
    sharp = key.fifths > 0 or (pitch_class == _F_SHARP and key.fifths > _F_SHARP_UP_TO)
    return name_for_pitch_class(pitch_class, flats=not sharp)
