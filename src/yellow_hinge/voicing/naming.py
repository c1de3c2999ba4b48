"""What family a shape belongs to, in a player's words.

Works for any keys, wherever they came from: all recipes are asked which of them makes
this form, and the inversion or the upper chord is said with it.
"""

from __future__ import annotations

from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import bass_degree
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.numbers import degree_text, home_note
from yellow_hinge.theory.tension import MAX_COLOUR, any_label
from yellow_hinge.voicing.candidates import hand_shapes
from yellow_hinge.voicing.recipes import Library, Notes, School
from yellow_hinge.voicing.shape import HandShape, Voicing
from yellow_hinge.voicing.wish import Wish

_INVERSIONS = {
    "R": "root position", "3": "first inversion", "b3": "first inversion",
    "5": "second inversion", "b5": "second inversion", "#5": "second inversion",
    "b7": "third inversion", "7": "third inversion", "bb7": "third inversion",
    "6": "third inversion",
}  # fmt: skip
#: Recipes whose shapes are chords in an inversion.
_INVERTED = ("close-triad", "close-seventh", "open-triad", "drop2-seventh", "drop3-seventh",
             "close-diminished-seventh")  # fmt: skip


def shape_words(shape: HandShape, chord: ChordSymbol, key: Key, library: Library) -> str:
    """The family of a shape with its inversion, or the upper chord with its numbers: "close
    triad, first inversion"; "upper triad F, 4 over 2". Empty for an empty hand."""
    recipe = library.recipes.get(shape.recipe)
    if not shape.keys or recipe is None:
        return ""
    if recipe.build in ("triads", "sevenths"):
        return f"{recipe.name} {_upper_words(shape, chord, key)}"
    if shape.recipe in _INVERTED:
        return f"{recipe.name}, {_INVERSIONS.get(shape.degrees[0], 'inverted')}"
    return recipe.name


def _upper_words(shape: HandShape, chord: ChordSymbol, key: Key) -> str:
    """The chord that a hand plays by itself, and its number over the bass's."""
    names = {
        key_ % 12: chord.root.degree(label) for key_, label in zip(shape.keys, shape.degrees, strict=True)
    }
    rooted = [n for n in identify(shape.keys, names, most=40) if n.chord.root.pitch_class in names]
    if not rooted:
        return ""
    upper = replace(rooted[0].chord, bass=None)
    home = home_note(key)
    over = f"{degree_text(upper.root, home)}{upper.quality} over {degree_text(chord.bass_name, home)}"
    return f"{upper.pretty}, {over}"


#: A chord split between the hands: which note, counted from the top of its close position, goes
#: down an octave to become the lowest.
_DROPS = {2: "drop 2", 3: "drop 3"}
_TRIADS = ((0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 8))


def pair_words(voicing: Voicing, chord: ChordSymbol) -> str:
    """What both hands make together where that is a family of its own: a chord split as drop 2
    or drop 3, or one hand's triad over the other's chord. Empty otherwise."""
    left, right = voicing.left, voicing.right
    if not left.keys or not right.keys:
        return ""
    keys, degrees = voicing.keys, voicing.degrees
    if len(keys) == len(set(degrees)) == 4 and keys == tuple(sorted(keys)):
        for drop, words in _DROPS.items():
            close = sorted([(keys[0] + 12, degrees[0]), *zip(keys[1:], degrees[1:], strict=True)])
            dropped = close[-drop] == (keys[0] + 12, degrees[0])
            if dropped and close[-1][0] - close[0][0] < 12:
                inversion = _INVERSIONS.get(close[0][1], "close position")
                return f"{words} of the {inversion}, split between the hands"
    upper, lower = _triad_root(right, chord), _triad_root(left, chord)
    if upper is not None and lower is not None and upper != lower:
        return f"{upper} over {lower}: a triad over another"
    return ""


def _triad_root(shape: HandShape, chord: ChordSymbol) -> str | None:
    """The triad that a hand plays, by name, or None."""
    names = {key % 12: chord.root.degree(label) for key, label in zip(shape.keys, shape.degrees, strict=True)}
    if len(names) != 3:
        return None
    for place, name in names.items():
        steps = tuple(sorted((other - place) % 12 for other in names))
        if steps in _TRIADS:
            return name.pretty + ("", "m", "°", "+")[_TRIADS.index(steps)]
    return None


_ANY_NOTES = Notes((0,) * 6, (0,) * 6, (0,) * 6)


def classify(
    left: tuple[int, ...], right: tuple[int, ...], chord: ChordSymbol, key: Key, library: Library
) -> Voicing:
    """The voicing of these keys with degrees and, per hand, the first recipe that makes its
    form ("" where none does). Reach and register are not asked."""
    return Voicing(
        _classified(left, "left", chord, key, library),
        _classified(right, "right", chord, key, library),
    )


def _classified(
    keys: tuple[int, ...], side: str, chord: ChordSymbol, key: Key, library: Library
) -> HandShape:
    bass = chord.bass_name.pitch_class
    labels = tuple(
        chord.label_of(k % 12) or (bass_degree(chord) if k % 12 == bass else any_label(chord, k % 12))
        for k in keys
    )
    if not keys:
        return HandShape()
    ids = tuple(r.id for r in library.recipes.values() if side in r.hands and r.build != "any")
    school = School(
        "all",
        "",
        "",
        bass="bassist",
        colour=MAX_COLOUR,
        left_self=ids,
        left_bassist=ids,
        right=ids,
        notes=_ANY_NOTES,
        widest_gap_st=127,
    )
    profile = HandProfile()
    hand = replace(profile.left, reach_mm=400.0, most_notes=5, lowest_key=keys[0], highest_key=keys[-1])
    profile = replace(profile, left=hand, right=hand)
    wish = Wish(chord, key, school, MAX_COLOUR, "bassist", profile=profile)
    shape = next((s for s in hand_shapes(wish, library, side, strict=False) if s.keys == keys), None)
    return shape or HandShape(keys, labels, "")
