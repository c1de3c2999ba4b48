"""From notes to names: what a bass note and any notes above it can be called.

The bass decides: the same upper notes get other names over another bass; and where the hands are known, what
the left one holds: a whole triad, or a root with its fifth, is what the chord stands on. Every name given
sounds all notes and has all tones that make it itself; the ranking (our choice) prefers the root in the
bass, few words, and nothing left out.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.coverage import identity
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.numbers import degree_text, home_note
from yellow_hinge.theory.pitch import NoteName, degree_semitones
from yellow_hinge.theory.polychord import held_root, polychords, usual

#: Qualities that names are made of.
QUALITIES = (
    "", "m", "dim", "aug", "sus2", "sus4", "5", "6", "m6", "69", "m69", "add9", "m(add9)", "add11",
    "m(add11)", "sus24", "(b5)", "maj7", "7", "m7", "m7b5", "dim7", "m(maj7)", "dim(maj7)", "maj7#5",
    "7#5", "7b5", "maj7b5", "7sus4", "7sus2", "7susb9", "maj7sus2", "maj9", "9", "m9", "m(maj9)",
    "9sus4", "m9b5", "7b9", "7#9", "9#5", "9b5", "7(b9,#5)", "7(#9,#5)", "7(b9,b5)", "7(#9,b5)",
    "maj7#11", "maj9#11", "7#11", "9#11", "7(b9,#11)", "7(#9,#11)", "11", "m11", "m7(add11)",
    "m7b5(add11)", "m11b5", "maj7(add13)", "13", "m13", "maj13", "13sus4", "7(add13)", "13b9", "13#9",
    "13#11", "7b13", "9b13", "7(b9,b13)", "7(#9,b13)", "13(b9,#11)", "13susb9", "m7(add13)",
    "maj13#11", "7(no3)", "maj7(no3)", "9(no3)", "6(#11)", "69(#11)", "m6(add11)", "m(add9,add11)",
    "7alt", "m69(maj7)", "69(maj7)",
)  # fmt: skip
_BEST = 100.0
#: A tone that is not there: in a chord with a seventh, or with sixth and ninth, the fifth goes first and
#: hardly counts; elsewhere it costs more than an inversion, as a triad is whole.
_LEFT_OUT, _FIFTH_LEFT_OUT = 3.0, 16.0
_INVERSION, _FOREIGN_BASS, _ROOTLESS = 14.0, 17.0, 34.0
#: A thirteenth over a seventh is called that, whether its ninth sounds or not.
_ADDED_TO_SEVENTH = 7.0
#: What one chord over another scores: where nobody says what the hands have, between the hands, and behind
#: what the left one holds; and a pair of guide tones.
_POLYCHORD, _BETWEEN_HANDS, _POLYCHORD_LATER, _GUIDE_PAIR = 80.0, 84.0, 70.0, 46.0
#: What a name loses that does not stand on what the left hand holds, and what one scores that is put together
#: from its tones because nothing usual is there.
_NOT_HELD, _PUT_TOGETHER = 30.0, 62.0
#: Semitones of the guide tones above their root -> the quality that they stand for.
_GUIDE_TONES = {frozenset({4, 10}): "7", frozenset({4, 11}): "maj7", frozenset({3, 10}): "m7"}


class Name(Struct, frozen=True):
    """A name with how it reads the notes; higher ``score`` is better, 100 is perfect."""

    chord: ChordSymbol
    reading: str
    score: float


@lru_cache(maxsize=1)
def _templates() -> tuple[tuple[ChordSymbol, frozenset[int], tuple[frozenset[int], ...], float], ...]:
    """On C: chord, all its tones, the groups that must sound, and what its words cost."""
    rows = []
    for quality in QUALITIES:
        chord = parse_chord(f"C{quality}")
        assert chord is not None
        tones = frozenset(degree_semitones(label) for label in chord.degrees)
        if chord.alt:
            tones |= {1, 3, 6, 8}
        groups = tuple(
            frozenset(degree_semitones(label) for label in group)
            for group in identity(chord, root_needed=False)
        )
        rows.append((chord, tones, groups, _word_cost(chord)))
    return tuple(rows)


def _word_cost(chord: ChordSymbol) -> float:
    """What a quality costs by its length and oddness."""
    cost = 1.5 * bool(chord.seventh) + 2.5 * chord.sixth + 3.0 * len(chord.sus)
    cost += 2.0 * max(0, (chord.extension - 7) // 2) + 4.5 * len(chord.alters) + 4.0 * len(chord.adds)
    cost += {"5": 0.0, "b5": 3.0, "#5": 3.5, "": 2.0}[chord.fifth]
    cost += _ADDED_TO_SEVENTH * ("13" in chord.adds and bool(chord.seventh))
    cost += 6.0 * (chord.seventh == "7" and chord.third == "b3") + 12.0 * chord.alt
    if chord.sus and chord.seventh == "7":
        cost += 14.0  # one says the upper chord over its bass
    if chord.fifth == "b5" and chord.third == "b3":
        cost -= 2.0  # diminished and half-diminished are plain words
    if chord.fifth == "b5" and chord.third == "3":
        cost += 2.5 + 4.0 * (chord.seventh == "7")  # a sharp eleventh, as one says it
    return cost + (9.0 if not chord.third and not chord.sus else 0.0)


def identify(
    keys: Sequence[int],
    names: Mapping[int, NoteName] | None = None,
    most: int = 8,
    left: int | None = None,
) -> list[Name]:
    """Names of the notes ``keys`` (MIDI, any order; the lowest is the bass), best first.

    ``names`` spells pitch classes; others get their usual name. ``left`` is how many of the lowest keys the
    left hand has, None where that is not known. A single note is called by itself.
    """
    spelled = dict(names or {})
    order = sorted(keys)
    bass = order[0] % 12
    sounding = frozenset(key % 12 for key in keys)
    if len(sounding) == 1:
        alone = ChordSymbol(spelled.get(bass, usual(bass)))
        return [Name(alone, "a single note, third and fifth left out", _BEST / 2)]
    held = held_root(order[: _lower(order, left)])
    found: dict[str, Name] = {}
    for name in _every_name(order, bass, sounding, spelled, left, held=held):
        symbol = str(name.chord)
        if symbol not in found or found[symbol].score < name.score:
            found[symbol] = name
    ranked = sorted(found.values(), key=lambda name: (-name.score, str(name.chord)))
    return ranked[:most]


def _every_name(
    order: Sequence[int],
    bass: int,
    sounding: frozenset[int],
    spelled: Mapping[int, NoteName],
    left: int | None,
    *,
    held: int | None,
) -> Iterable[Name]:
    usual_ones = [name for root in range(12) for name in _names_on(root, bass, sounding, spelled)]
    if held is not None:
        if not any(name.chord.root.pitch_class == held for name in usual_ones):
            yield from _put_together(held, bass, sounding, spelled)
        usual_ones = [
            name if name.chord.root.pitch_class == held
            else replace(name, score=round(name.score - _NOT_HELD, 1))
            for name in usual_ones
        ]  # fmt: skip
    yield from usual_ones
    yield from _guide_pairs(sounding, spelled)
    for chord, words in polychords(order, spelled, left):
        score = _POLYCHORD if left is None else _BETWEEN_HANDS if held is None else _POLYCHORD_LATER
        yield Name(chord, words, score)


#: Of notes whose hands nobody has told: so many of the lowest ones are what a left hand may hold, where
#: others lie above them.
_LIKELY_LEFT = 3


def _lower(order: Sequence[int], left: int | None) -> int:
    """How many of the lowest keys are looked at for what the chord stands on."""
    if left is not None:
        return left
    root_and_fifth = len(order) > _LIKELY_LEFT + 1 and order[1] - order[0] == 7
    return _LIKELY_LEFT if root_and_fifth else 0


def _put_together(
    root: int, bass: int, sounding: frozenset[int], spelled: Mapping[int, NoteName]
) -> Iterable[Name]:
    """A name on a root from its tones, where nothing usual has them all."""
    tones = {(note - root) % 12 for note in sounding}
    third = "3" if 4 in tones else "b3" if 3 in tones else ""
    seventh = "b7" if 10 in tones else "7" if 11 in tones else ""
    rest = tones - {0, 7, 10 if seventh == "b7" else 11, {"3": 4, "b3": 3, "": 0}[third]}
    added = {1: "b9", 2: "9", 3: "#9", 5: "11", 6: "#11", 8: "b13", 9: "13"}
    if 7 not in tones or not rest <= set(added):
        return
    adds = frozenset(added[tone] for tone in rest)
    sixth = "13" in adds and not seventh
    extension = 7 if seventh else 0
    name = spelled.get(root, usual(root))
    chord = ChordSymbol(
        root=name, third=third, fifth="5", seventh=seventh, extension=extension, sixth=sixth,
        adds=adds - {"13"} if sixth else adds,
    )  # fmt: skip
    if bass != root:
        chord = replace(chord, bass=_spell_bass(chord, bass, spelled))
    yield Name(chord, f"{replace(chord, bass=None)} on what the left hand holds", _PUT_TOGETHER)


def _guide_pairs(sounding: frozenset[int], spelled: Mapping[int, NoteName]) -> Iterable[Name]:
    """Two notes as third and seventh of the chords that they stand for; a tritone stands for two
    dominants."""
    if len(sounding) != 2:
        return
    for root in range(12):
        quality = _GUIDE_TONES.get(frozenset((note - root) % 12 for note in sounding))
        if quality is not None:
            chord = parse_chord(f"C{quality}")
            assert chord is not None
            name = spelled.get(root, usual(root))
            words = f"third and seventh of {name}{quality}, root and fifth left out"
            yield Name(replace(chord, root=name), words, _GUIDE_PAIR - 2 * (quality != "7"))


def over_every_bass(
    keys: Sequence[int], most: int = 3, names: Mapping[int, NoteName] | None = None
) -> dict[int, list[Name]]:
    """The same notes over each of the twelve basses: bass pitch class -> names."""
    low = min(keys) - 12
    return {(low - step) % 12: identify([low - step, *keys], names, most) for step in range(12)}


@for_a_song
@lru_cache(maxsize=4096)
def _fitting(offsets: frozenset[int], bass: int) -> tuple[tuple[ChordSymbol, bool, int, float], ...]:
    """The qualities that tones above a root fit, the bass among them or foreign: on C, whether the bass is
    in the chord, how many tones are missing, and the mark before the bass counts."""
    rows = []
    upper, rootless = offsets - {bass}, 0 not in offsets
    for template, tones, groups, words in _templates():
        in_chord = bass in tones
        own = offsets if in_chord else upper
        if not own or not own <= tones or not all(group & own for group in groups):
            continue
        if rootless and (len(own) < 3 or not template.seventh or not in_chord):
            continue
        missing = tones - own - {0} if not template.alt else frozenset()
        score = _BEST - words - _LEFT_OUT * len(missing)
        if 7 in missing and not _large(template):
            score += _LEFT_OUT - _FIFTH_LEFT_OUT
        rows.append((template, in_chord, len(missing), score))
    return tuple(rows)


def _names_on(
    root: int, bass: int, sounding: frozenset[int], spelled: Mapping[int, NoteName]
) -> Iterable[Name]:
    rootless = root not in sounding
    offsets = frozenset((note - root) % 12 for note in sounding)
    bass_offset = (bass - root) % 12
    root_name = spelled.get(root, usual(root))
    for template, in_chord, missing, plain in _fitting(offsets, bass_offset):
        score = plain
        chord = template.transposed(root_name.step, root)
        chord = replace(chord, root=root_name)
        if bass != root and not rootless:
            score -= _INVERSION if in_chord else _FOREIGN_BASS
            chord = replace(chord, bass=_spell_bass(chord, bass, spelled))
        if rootless:
            score -= _ROOTLESS
        yield Name(chord, _reading(chord, bass_offset, rootless, in_chord, missing), round(score, 1))


def _large(chord: ChordSymbol) -> bool:
    """Whether a chord has so much else that its perfect fifth is the first tone to go."""
    return bool(chord.seventh) or (chord.sixth and "9" in chord.adds)


def _spell_bass(chord: ChordSymbol, bass: int, spelled: Mapping[int, NoteName]) -> NoteName:
    label = chord.label_of(bass)
    if bass in spelled:
        return spelled[bass]
    return usual(bass) if label is None else chord.root.degree(label)


def _reading(chord: ChordSymbol, bass_offset: int, rootless: bool, in_chord: bool, missing: int) -> str:
    """How the name hears the notes, in words."""
    plain = replace(chord, bass=None)
    place = next((label for label in plain.degrees if degree_semitones(label) == bass_offset), "")
    if rootless:
        words = f"{plain} without its root, from its {_ORDINALS.get(place) or _INTERVALS[bass_offset]}"
    elif not bass_offset:
        words = f"{plain} with its root in the bass"
    elif in_chord:
        words = f"{plain} with its {_ORDINALS.get(place) or _INTERVALS[bass_offset]} in the bass"
    else:
        words = f"{plain} over the foreign bass {chord.bass}"
    return words + (f", {missing} of its tones left out" if missing else "")


_ORDINALS = {
    "3": "third", "b3": "third", "5": "fifth", "b5": "fifth", "#5": "fifth", "6": "sixth",
    "b7": "seventh", "7": "seventh", "bb7": "seventh", "9": "ninth", "b9": "flat ninth",
    "#9": "sharp ninth", "11": "eleventh", "#11": "sharp eleventh", "13": "thirteenth",
    "b13": "flat thirteenth",
}  # fmt: skip


#: For tones that an altered dominant has without naming them.
_INTERVALS = (
    "root", "flat ninth", "ninth", "sharp ninth", "third", "eleventh", "sharp eleventh", "fifth",
    "flat thirteenth", "thirteenth", "seventh", "major seventh",
)  # fmt: skip


def over_number(chord: ChordSymbol, key: Key, *, relative_major: bool = False) -> str:
    """A slash or polychord as players say it: "5 over 6"."""
    home = home_note(key, relative_major)
    if chord.upper is not None:
        upper, lower = chord.upper, chord.root
    else:
        upper, lower = chord, chord.bass_name
    quality = f"-{upper.quality}" if upper.quality[:1].isdigit() else upper.quality
    return f"{degree_text(upper.root, home)}{quality} over {degree_text(lower, home)}"
