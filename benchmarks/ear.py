"""What a listener minds and likes in a voiced row, as shares: chords that are another chord, rubs, tones that
do not go where they lead, a top line that parks or sings, outer voices, colour, endings. Each definition
stands here by itself, apart from the search.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.voicing.shape import Voicing

SIDES = ("left", "right")
HERE = Path(__file__).parent
Held = tuple[ChordSymbol, Voicing, int | None]  # the bassist's key last


@dataclass
class Share:
    """How often something happened, of how often it could have."""

    hits: float = 0
    of: int = 0

    def add(self, hit: float) -> None:
        self.hits, self.of = self.hits + hit, self.of + 1


@dataclass
class Shares:
    """Shares by name."""

    found: dict[str, Share] = field(default_factory=dict)

    def add(self, name: str, hit: float) -> None:
        self.found.setdefault(name, Share()).add(hit)


#: What is held to, by name of a share: at least (+) or at most (-), and in which schools where not in all.
WANTED: dict[str, tuple[str, float, tuple[str, ...]]] = {
    "another chord": ("-", 0, ()), "rub": ("-", 0, ()), "named by its root": ("+", 0.97, ()),
    "sevenths fall": ("+", 0.9, ("solo", "spread", "singer", "band", "melody")),
    "top kept": ("-", 0.4, ("solo", "spread")), "range of a fifth": ("+", 0.8, ("solo", "spread")),
    "contrary": ("+", 0.25, ("solo", "spread")),
    "wide left, where a tenth is in reach": ("+", 0.8, ("spread",)),
    "right stands over a root": ("-", 0.25, ("band",)), "slides": ("+", 0.7, ("shapes",)),
    "ends low on its root": ("+", 1, ("solo", "spread", "singer")),
    "ends with its third once": ("+", 1, ("solo", "spread", "singer")),
    "ends with a closed top": ("+", 1, ("solo", "spread", "singer")),
}  # fmt: skip
#: In whole numbers, not in shares.
COUNTED = ("half steps", "come or go", "come or go, left hand", "range, half steps", "longest hold")
CALM = {"singer": 0.6, "band": 0.6}


def show(shares: Shares, school: str) -> None:
    """Each figure, with what is wanted of it."""
    for name, share in shares.found.items():
        counted = name in COUNTED or name.startswith("colour tones")
        mean = share.hits / share.of
        value = f"{mean:6.2f}" if counted else f"{100 * mean:5.1f} %"
        way, wanted, schools = WANTED.get(name, ("", 0, ()))
        if name == "top kept" and school in CALM:
            way, wanted, schools = "-", CALM[school], ()
        held = f"   wanted: at {'least' if way == '+' else 'most'} {100 * wanted:.0f} %"
        print(f"  {name:38}{value}" + (held if way and (not schools or school in schools) else ""))


def songs(name: str) -> Iterator[tuple[str, Song]]:
    """The songs of a table: title and song."""
    for line in (HERE / name).read_text("utf-8").splitlines():
        if line and not line.startswith("#"):
            title, key, chart = line.split("\t")  # of progressions.tsv the style stands for the title
            yield title, Song(parse_chart(f"key: {key}\n" + chart.replace("] ", "]\n").replace(" [", "\n[")))


def own_tones(chord: ChordSymbol) -> set[int]:
    labels = {*chord.degrees, "R", *(("b9", "#9", "#11", "b13") if chord.alt else ())}
    return {(chord.root.pitch_class + degree_semitones(label)) % 12 for label in labels} | {
        chord.bass_name.pitch_class
    }


def another_chord(chord: ChordSymbol, voicing: Voicing, bass: int | None) -> str:
    """Why what sounds is not the chord that was written; empty where it is."""
    sounding = {key % 12 for key in (*voicing.keys, *([bass] if bass is not None else []))}
    own, root = own_tones(chord), chord.root.pitch_class
    lowest = (min(voicing.keys) if bass is None else bass) % 12
    shapes = [(0, 4, 7, 10)] + ([(0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 8)] if lowest != root else [])
    for foreign in range(12):
        for shape in shapes:
            tones = {(foreign + step) % 12 for step in shape}
            if foreign != root and tones <= sounding and not tones <= own:
                return f"chord on {foreign}"
    has = {(key - root) % 12 for key in sounding}
    if "11" in chord.sus and chord.extension >= 9 and not {2, 5, 10} <= has:
        return "sus without"
    if chord.alt and not has & {1, 3}:
        return "alt without a ninth"
    if chord.alt and len(voicing.keys) >= 4 and not has & {6, 8}:
        return "alt without more"
    added = "9" in chord.adds and not chord.seventh and not chord.sixth
    return "add9 without fifth" if added and 7 not in has else ""


def rubs(voicing: Voicing, tune_above: bool) -> str:
    """A rub inside a hand; empty where there is none."""
    right = voicing.right.keys
    if not tune_above and len(right) > 1 and right[-1] - right[-2] == 1:
        return "under the top"
    every = list(zip(voicing.keys, voicing.degrees, strict=True))
    thirds = [key for key, label in every if label == "3"]
    if thirds and any(key < min(thirds) for key, label in every if label == "#9"):
        return "#9 below the third"
    for keys, limit in ((voicing.left.keys, 60), (right, 64)):
        if len(keys) > 1 and keys[1] - keys[0] <= 2 and keys[0] < limit:
            return "a second at the bottom"
    return ""


def leads(one: ChordSymbol, other: ChordSymbol) -> bool:
    """Whether a dominant seventh goes down a fifth."""
    dominant = one.seventh == "b7" and one.third == "3"
    return dominant and (other.root.pitch_class - one.root.pitch_class) % 12 == 5


def seventh_falls(one: ChordSymbol, before: Voicing, after: Voicing) -> bool | None:
    """Whether every seventh stays or falls a step in its hand; None where none sounds."""
    found: list[bool] = []
    for side in ("left", "right"):
        for key in before.hand(side).keys:
            if (key - one.root.pitch_class) % 12 == 10:
                found.append(bool({key, key - 1, key - 2} & set(after.hand(side).keys)))
    return all(found) if found else None


def third_goes_on(one: ChordSymbol, other: ChordSymbol, before: Voicing, after: Voicing) -> bool | None:
    """Whether every third stays, rises a half step or falls to the next seventh."""
    found: list[bool] = []
    for side in ("left", "right"):
        for key in before.hand(side).keys:
            if (key - one.root.pitch_class) % 12 == 4:
                goals = {key, key + 1} | ({key - 1} if other.seventh == "b7" else set())
                found.append(bool(goals & set(after.hand(side).keys)))
    return all(found) if found else None


def measure(shares: Shares, held: list[Held], colour: int, hands: HandProfile) -> None:
    """Count what happens in one voiced song."""
    if len(held) < 2:
        return
    for chord, voicing, bass in held:
        _measure_chord(shares, chord, voicing, bass, hands)
    for before, after in pairwise(held):
        _measure_change(shares, before, after)
    tops = [voicing.keys[-1] for _, voicing, _ in held]
    shares.add("range of a fifth", max(tops) - min(tops) >= 7)
    shares.add("range, half steps", max(tops) - min(tops))
    parked = longest = 0
    for (one, _, _), (other, _, _), a, b in zip(held, held[1:], tops, tops[1:], strict=False):
        parked = parked + 1 if a == b and one.root != other.root else 0 if a != b else parked
        longest = max(longest, parked)
    shares.add("longest hold", longest)
    moves = [b - a for a, b in pairwise(tops)]
    for move, then in pairwise(moves):
        if abs(move) > 5:
            shares.add("leap answered by a step", 0 < abs(then) <= 2)
    _measure_end(shares, *held[-1])
    for chord, voicing, _ in held:
        if len(chord.degrees) == 4:
            named = {*chord.degrees, *(("B",) if chord.bass else ())}
            extra = {label for label in voicing.degrees if label not in named}
            extra -= {label for label in extra if _class(chord, label) == chord.bass_name.pitch_class}
            shares.add(f"colour tones (wanted {(0, 0.5, 1, 1.5)[colour]})", len(extra))


def _class(chord: ChordSymbol, label: str) -> int:
    return (chord.root.pitch_class + degree_semitones(label)) % 12


def _measure_chord(
    shares: Shares, chord: ChordSymbol, voicing: Voicing, bass: int | None, hands: HandProfile
) -> None:
    shares.add("another chord", bool(another_chord(chord, voicing, bass)))
    shares.add("rub", bool(rubs(voicing, tune_above=False)))
    keys = list(voicing.keys) if bass is None else [bass, *voicing.keys]
    names = {(chord.root.degree(label).pitch_class): chord.root.degree(label) for label in chord.degrees}
    first = identify(keys, names)
    if first:
        root = first[0].chord.root.pitch_class
        same = {key % 12 for key in keys} <= own_tones(first[0].chord) and _twins(chord, first[0].chord)
        shares.add("named by its root", root == chord.root.pitch_class or same)
    for count in (2, 3, 4):
        shares.add(f"{count} in the right hand", len(voicing.right.keys) == count)
    left = voicing.left.keys
    if left and reaches_tenth(chord, hands):
        shares.add("wide left, where a tenth is in reach", left[-1] - left[0] >= 14)


def reaches_tenth(chord: ChordSymbol, hands: HandProfile) -> bool:
    """Whether the left hand can take a chord's bass and the third above its octave."""
    third, bass = chord.root.degree(chord.third or "R").pitch_class, chord.bass_name.pitch_class
    keys = ((low, low + 12 + (third - low) % 12) for low in range(28, 55) if low % 12 == bass)
    return any(high - low >= 14 and hands.can_reach(hands.left, (low, high)) for low, high in keys)


def _twins(one: ChordSymbol, other: ChordSymbol) -> bool:
    """Chords that share all their tones count by their bass."""
    return own_tones(one) == own_tones(other)


def _measure_change(shares: Shares, one: Held, other: Held) -> None:
    (chord, before, bass), (after_chord, after, after_bass) = one, other
    if chord == after_chord and before == after:
        return
    moves = [hand_motion(before.hand(side).keys, after.hand(side).keys) for side in ("left", "right")]
    shares.add("half steps", sum(move.motion_st for move in moves))
    shares.add("come or go", sum(len(move.entered) + len(move.left) for move in moves))
    shares.add("come or go, left hand", len(moves[0].entered) + len(moves[0].left))
    if chord != after_chord:
        shares.add("slides", roles(chord, before) == roles(after_chord, after))
        shares.add("slides, right hand", roles(chord, before)[1] == roles(after_chord, after)[1])
        shares.add("slides to the half step", form(before) == form(after))
    top = after.keys[-1] - before.keys[-1]
    shares.add("top kept", top == 0)
    shares.add("top leaps", abs(top) > 5)
    low = (after.keys[0] if after_bass is None else after_bass) - (before.keys[0] if bass is None else bass)
    shares.add("contrary", low * top < 0)
    shares.add("similar", low * top > 0)
    over = [
        (held.keys[-1] - (held.keys[0] if own is None else own)) % 12
        for held, own in ((before, bass), (after, after_bass))
    ]
    shares.add("parallel", low * top > 0 and over[0] == over[1] and over[0] in (0, 7))
    if chord.root != after_chord.root:
        shares.add("right stands over a root", before.right.keys == after.right.keys)
    if leads(chord, after_chord):
        for name, found in (("sevenths fall", seventh_falls(chord, before, after)),
                            ("thirds go on", third_goes_on(chord, after_chord, before, after))):  # fmt: skip
            if found is not None:
                shares.add(name, found)


#: What a degree is in a shape, whatever its kind: thirds and suspensions, fifths, sevenths and sixths...
_ROLES = {"b3": "3", "11": "3", "b5": "5", "#5": "5", "b7": "7", "bb7": "7", "6": "7", "13": "7", "b9": "9",
          "#9": "9", "#11": "5", "b13": "5"}  # fmt: skip


def roles(chord: ChordSymbol, voicing: Voicing) -> tuple[tuple[str, ...], ...]:
    """Both hands by what their notes do in the chord, the bass of a slash chord like a root: one shape that
    slides stays the same."""
    left, right = ([_ROLES.get(label, label) for label in voicing.hand(side).degrees] for side in SIDES)
    if chord.bass is not None:
        low = chord.bass.pitch_class
        left = ["R" if key % 12 == low else one for key, one in zip(voicing.left.keys, left, strict=True)]
    return tuple(left), tuple(right)


def form(voicing: Voicing) -> tuple[tuple[int, ...], ...]:
    """Both hands by their intervals."""
    return tuple(tuple(key - hand.keys[0] for key in hand.keys) for hand in (voicing.left, voicing.right))


def _measure_end(shares: Shares, chord: ChordSymbol, voicing: Voicing, bass: int | None) -> None:
    low = voicing.keys[0] if bass is None else bass
    tops = {_class(chord, label) for label in ("R", chord.third, chord.fifth) if label}
    third = _class(chord, chord.third) if chord.third else -1
    thirds = sum(key % 12 == third for key in voicing.keys)
    lands = low % 12 == chord.bass_name.pitch_class and low <= 47
    shares.add("ends low on its root", lands)
    shares.add("ends with its third once", thirds <= 1)
    shares.add("ends with a closed top", voicing.keys[-1] % 12 in tops)
