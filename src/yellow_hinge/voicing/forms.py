"""From recipes to forms: stacks of degrees, whatever the root, the octave and the hand."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from itertools import combinations, pairwise, product

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.remembering import for_a_song
from yellow_hinge.stopping import ask
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import CONTRADICTIONS, bass_degree
from yellow_hinge.theory.pitch import DEGREES, degree_semitones
from yellow_hinge.voicing.limits import banned_key, least_key
from yellow_hinge.voicing.recipes import Recipe

#: What fills each role, in order: tones of the symbol first, then allowed extras.
_ROLE_LABELS = {
    "3": ("3", "b3"),
    "5": ("5", "b5", "#5"),
    "6": ("6",),
    "7": ("7", "b7", "bb7"),
    "9": ("9", "b9", "#9"),
    "11": ("11", "#11"),
    "13": ("13", "b13", "6"),
}

#: Role -> labels, and semitones above the root -> label, as pairs that can be looked up.
Roles = tuple[tuple[str, tuple[str, ...]], ...]
AtHand = tuple[tuple[int, str], ...]
Stack = tuple[tuple[int, str], ...]

#: Steps that make a stack of fourths or fifths, in semitones.
_STACK_STEPS = {"fourths": {5, 6}, "fifths": {6, 7}}
#: Semitones above their root of the chords that may stand on another degree: triads and
#: seventh chords built in thirds.
UPPER_CHORDS = {
    "triads": ((0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 8)),
    "sevenths": (
        (0, 4, 7, 11), (0, 4, 7, 10), (0, 3, 7, 10), (0, 3, 6, 10), (0, 3, 6, 9), (0, 3, 7, 11),
        (0, 4, 8, 11), (0, 4, 8, 10), (0, 3, 6, 11),
    ),
}  # fmt: skip
_SUSPENDED = ((0, 5, 7), (0, 2, 7))
#: The widest form that is tried, in semitones: a thirteenth, the widest reach one can set.
_WIDEST_ST = 21


class Form(Struct, frozen=True):
    """A shape apart from its place: semitones above the root (of some octave), labels, recipe,
    the lowest key of the root that the low register allows, and which labels it doubles."""

    heights: tuple[int, ...]
    labels: tuple[str, ...]
    recipe: str
    floor: int


@for_a_song
@lru_cache(maxsize=2048)
def fillings(
    chord: ChordSymbol, own: tuple[str, ...], extras: frozenset[str], bass_fifth: str | None = None
) -> Roles:
    """For each role the degree labels that may fill it: of the chord's ``own`` and of ``extras``;
    ``bass_fifth`` is the fifth of a slash bass, None where it may not sound."""
    available = set(own) | extras
    roles: dict[str, tuple[str, ...]] = {
        role: tuple(label for label in labels if label in available) for role, labels in _ROLE_LABELS.items()
    }
    roles["R"], roles["B"] = ("R",), (bass_degree(chord),)
    roles["B5"] = () if bass_fifth is None else (bass_fifth,)
    if chord.sus:
        roles["3"] = tuple(label for label in ("11", "9") if label in chord.sus and label in available)
        roles["9"] = tuple(label for label in roles["9"] if label not in chord.sus)
    if not roles["7"] and "6" in available and ("6" in own or chord.seventh):
        roles["7"] = ("6",)  # named, or in place of a seventh that yields to the tune
    return tuple(roles.items())


@for_a_song
@lru_cache(maxsize=2048)
def at_hand(chord: ChordSymbol, own: tuple[str, ...], extras: frozenset[str]) -> AtHand:
    """Semitones above the root -> label, for all tones that may sound."""
    labels = sorted(extras, key=list(DEGREES).index)
    labels += [bass_degree(chord), *own]  # what is named comes last and wins
    return tuple({degree_semitones(label): label for label in labels}.items())


_Note = tuple[str, int, str]


def _degree_rows(recipe: Recipe, roles: dict[str, tuple[str, ...]]) -> Iterator[tuple[tuple[str, int], ...]]:
    """All fillings of a recipe: (label, octaves up) per slot; a label comes twice only where
    the recipe doubles on purpose, and then by the same role. Where every step has to be a fourth or
    a fifth, what cannot become one is not gone into."""
    options: list[list[_Note]] = [
        [(label, choice.octaves, choice.role) for choice in slot for label in roles[choice.role]]
        for slot in recipe.choices
    ]
    steps = _STACK_STEPS.get(recipe.spacing)
    for row in _filled(options, (), recipe.doubles, steps):
        yield tuple((label, octaves) for label, octaves, _ in row)


def _filled(
    options: list[list[_Note]], row: tuple[_Note, ...], doubles: bool, steps: set[int] | None
) -> Iterator[tuple[_Note, ...]]:
    """The row filled on, slot by slot."""
    if len(row) == len(options):
        yield row
        return
    for note in options[len(row)]:
        label, _, role = note
        again = [other for other in row if other[0] == label]
        if again and not (doubles and all(other[2] == role for other in again)):
            continue
        if steps and row and (degree_semitones(label) - degree_semitones(row[-1][0])) % 12 not in steps:
            continue
        yield from _filled(options, (*row, note), doubles, steps)


def _stack(row: tuple[tuple[str, int], ...], spacing: str) -> Stack:
    """Semitones above the chord root (of some octave) and labels, low to high."""
    notes: list[tuple[int, str]] = []
    floor = -1
    for label, octaves in row:
        height = degree_semitones(label)
        while height <= floor:
            height += 12
        height += 12 * octaves
        notes.append((height, label))
        floor = height
    drop = {"drop2": 2, "drop3": 3}.get(spacing, 0)
    if drop and len(notes) >= drop:
        height, label = notes[-drop]
        notes[-drop] = (height - 12, label)
    if spacing == "doubled":
        notes.append((notes[0][0] + 12, notes[0][1]))
    steps = {upper[0] - lower[0] for lower, upper in pairwise(notes)}
    narrow = spacing == "wide" and notes[-1][0] - notes[0][0] < 12
    if narrow or not steps <= _STACK_STEPS.get(spacing, steps):
        return ()
    return tuple(sorted(notes))


@for_a_song
@lru_cache(maxsize=8192)
def _stacks(recipe: Recipe, roles: Roles, tones: AtHand) -> tuple[Stack, ...]:
    """All stacks that a recipe gives to chords of one kind, whatever their root."""
    if recipe.build == "polychord":  # of polychords alone: chord_over_chord
        return ()
    if recipe.build == "any":
        return tuple(_any_stacks(recipe, dict(tones)))
    if recipe.build == "octaves":
        return tuple(_octave_stacks(recipe, dict(tones)))
    rows = _degree_rows(recipe, dict(roles)) if recipe.build == "slots" else _upper_rows(recipe, dict(tones))
    turn_all = recipe.inversions == "all" or recipe.build != "slots"
    turned = (
        _stack(row[turn:] + row[:turn], recipe.spacing)
        for row in rows
        for turn in range(len(row) if turn_all else 1)
    )
    return tuple(stack for stack in turned if stack)


def _upper_rows(recipe: Recipe, tones: dict[int, str]) -> Iterator[tuple[tuple[str, int], ...]]:
    """Every triad or seventh chord on any degree whose tones are all at hand."""
    for root, shape in product(sorted(tones), UPPER_CHORDS[recipe.build]):
        places = [(root + step) % 12 for step in shape]
        if all(place in tones for place in places):
            yield tuple((tones[place], 0) for place in places)


def _any_stacks(recipe: Recipe, tones: dict[int, str]) -> Iterator[Stack]:
    """Every stack of tones at hand that some hand could reach, no tone twice, fewest notes first."""
    lows = sorted(tones)
    for low in lows:
        above = [h for h in range(low + 1, low + _WIDEST_ST + 1) if h % 12 in tones]
        for count in range(recipe.notes[0] - 1, recipe.notes[1]):
            for rest in combinations(above, count):
                heights = (low, *rest)
                labels = tuple(tones[height % 12] for height in heights)
                if len(set(labels)) == len(labels) and _sensible(heights, labels):
                    yield tuple(zip(heights, labels, strict=True))


def _octave_stacks(recipe: Recipe, tones: dict[int, str]) -> Iterator[Stack]:
    """An octave of every tone at hand with other tones inside it: one or two of any, or three
    that make a triad or a suspension."""
    for low in sorted(tones):
        inside = [h for h in range(low + 1, low + 12) if h % 12 in tones]
        for count in range(max(0, recipe.notes[0] - 2), recipe.notes[1] - 1):
            for rest in combinations(inside, count):
                heights = (low, *rest, low + 12)
                labels = tuple(tones[height % 12] for height in heights)
                if (count < 3 or _makes_triad(rest)) and _sensible(heights, labels):
                    yield tuple(zip(heights, labels, strict=True))


def _makes_triad(heights: tuple[int, ...]) -> bool:
    turns = (tuple(sorted((height - low) % 12 for height in heights)) for low in heights)
    return any(turn in UPPER_CHORDS["triads"] or turn in _SUSPENDED for turn in turns)


def _sensible(heights: tuple[int, ...], labels: tuple[str, ...]) -> bool:
    """Whether an open shape is more than a heap of notes: at most one half step between
    neighbours, and no natural tension beside its own alteration."""
    half_steps = sum(upper - lower == 1 for lower, upper in pairwise(heights))
    return half_steps <= 1 and not any({*pair} <= set(labels) for pair in _HEAPS)


#: A perfect fifth beside a flat thirteenth, an eleventh over a third and both altered ninths are
#: only dear; the rest is never played in one hand.
_HEAPS = tuple(pair for pair in CONTRADICTIONS if pair not in (("5", "b13"), ("3", "11"), ("b9", "#9")))


@for_a_song
@lru_cache(maxsize=1024)
def forms(
    recipes: tuple[Recipe, ...], roles: Roles, tones: AtHand, once: frozenset[str], loose: bool
) -> tuple[Form, ...]:
    """All forms that recipes give to chords of one kind, without duplicates, wherever their root
    and whatever the hand, with the lowest note in the octave above the root.

    ``once`` are degrees that only a recipe that doubles on purpose may have twice; ``loose``
    takes the outermost limits of the low register instead of the usual ones.
    """
    limit = banned_key if loose else least_key
    found: dict[tuple[int, ...], Form] = {}
    for recipe in recipes:
        ask()
        for stack in _stacks(recipe, roles, tones):
            labels = tuple(label for _, label in stack)
            if not recipe.doubles and any(labels.count(label) > 1 for label in once):
                continue
            down = 12 * (stack[0][0] // 12)
            heights = tuple(height - down for height, _ in stack)
            if heights not in found and all(low < high for low, high in pairwise(heights)):
                floor = max((limit(b - a) - a for a, b in pairwise(heights)), default=0)
                found[heights] = Form(heights, labels, recipe.id, floor)
    return tuple(found.values())


# --- a chord over a chord ----------------------------------------------------------------

#: The lower chord or its shell, low to high: the root with the third, or with the seventh and the third in
#: either order, and wide. Where a bassist has the root the hand may leave it out.
_ROOTED = (("R", "3"), ("R", "3", "5"), ("R", "5", "3"), ("R", "3", "7"), ("R", "7", "3"), ("R", "7"),
           ("R", "3", "5", "7"), ("R", "5", "7", "3"))  # fmt: skip
_ROOTLESS = (("3", "5"), ("5", "3"), ("3", "7"), ("7", "3"), ("3", "5", "7"))
#: An upper chord of more tones than these leaves out its fifth, then its root.
_UPPER_TONES = 4


def upper_tones(chord: ChordSymbol) -> frozenset[int]:
    """The tones that the right hand has of a polychord, in semitones above the lower chord's root: all of the
    upper one's, of large chords without the fifth and the root."""
    assert chord.upper is not None
    upper, labels = chord.upper, list(chord.upper.degrees)
    for label in (upper.fifth, "R"):
        if len(labels) > _UPPER_TONES and label in labels:
            labels.remove(label)
    return frozenset((upper.root.degree(one).pitch_class - chord.root.pitch_class) % 12 for one in labels)


def lower_tones(chord: ChordSymbol) -> frozenset[int]:
    """The tones that the left hand may have of a polychord: the lower chord's own."""
    return frozenset(degree_semitones(label) for label in replace(chord, upper=None).degrees)


@for_a_song
@lru_cache(maxsize=512)
def chord_over_chord(chord: ChordSymbol, recipe: Recipe, rooted: bool, loose: bool) -> tuple[Form, ...]:
    """The forms of one hand of a polychord: the right hand's upper chord close, in every inversion; the left
    hand's lower chord or its shell, on its root if ``rooted``."""
    labels = {degree_semitones(label): label for label in chord.degrees}
    if "right" in recipe.hands:
        tones = sorted(upper_tones(chord))
        rows = [tuple(labels[one] for one in tones[turn:] + tones[:turn]) for turn in range(len(tones))]
    else:
        third = chord.third or next((one for one in ("11", "9") if one in chord.sus), "")
        seventh = chord.seventh or ("6" if chord.sixth else "")
        filled = {"R": "R", "3": third, "5": chord.fifth, "7": seventh}
        shells = _ROOTED if rooted else (*_ROOTLESS, *_ROOTED)
        rows = [tuple(filled[role] for role in shell) for shell in shells]
        rows = [row for row in rows if all(row)] or [("R", chord.fifth or "R")]
    limit, found = banned_key if loose else least_key, {}
    for row in rows:
        stack = _stack(tuple((label, 0) for label in row), "close")
        heights = tuple(height for height, _ in stack)
        floor = max((limit(b - a) - a for a, b in pairwise(heights)), default=0)
        found[heights] = Form(heights, tuple(label for _, label in stack), recipe.id, floor)
    return tuple(found.values())
