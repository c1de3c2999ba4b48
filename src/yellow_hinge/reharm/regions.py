"""Local keys of a row of chords, and what each chord does in its key.

The keys are the cheapest walk through all 24: foreign tones cost, a change of key costs,
and a chord that acts as home or leads home speaks for its key. The costs are our choice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.theory.tension import base_kind

_FOREIGN, _RAISED, _CHANGE, _RETURN, _AWAY_FROM_HOME = 10, 5, 22, 12, 2
_HOME_CHORD, _LEADS_HOME = -6, -6
_NEVER = 1 << 20


def _keys(home: Key) -> tuple[Key, ...]:
    """One key for each tonic and mode: the song's own, and the plainest of the others."""
    chosen: dict[tuple[int, bool], Key] = {}
    for key in sorted(ALL_KEYS, key=lambda key: (abs(key.fifths), key.prefers_flats != home.prefers_flats)):
        chosen.setdefault((key.tonic.pitch_class, key.minor), key)
    chosen[home.tonic.pitch_class, home.minor] = home
    return tuple(chosen.values())


def _tones(chord: ChordSymbol) -> set[int]:
    root = chord.root.pitch_class
    tones = {(root + degree_semitones(label)) % 12 for label in chord.degrees}
    return tones | {chord.bass_name.pitch_class}


def _cost(chord: ChordSymbol, after: ChordSymbol | None, key: Key) -> int:
    tonic = key.tonic.pitch_class
    cost = 0
    for tone in _tones(chord):
        if tone not in key.pitch_classes:
            raised = key.minor and (tone - tonic) % 12 in (9, 11)
            cost += _RAISED if raised else _FOREIGN
    minor_chord = chord.third == "b3"
    if chord.root.pitch_class == tonic and minor_chord == key.minor and not is_dominant(chord):
        cost += _HOME_CHORD
    if (
        is_dominant(chord)
        and (chord.root.pitch_class + 5) % 12 == tonic
        and after is not None
        and after.root.pitch_class == tonic
        and (after.third == "b3") == key.minor
    ):
        cost += _LEADS_HOME
    return cost


def key_regions(
    chords: Sequence[ChordSymbol | None], home: Key, pins: Mapping[int, Key] | None = None
) -> tuple[Key, ...]:
    """The local key of every chord. ``pins`` fixes the key of single places, as a player has set
    it; "no chord" (None) keeps the key around it."""
    keys = list(_keys(home))
    pinned = pins or {}
    keys += [key for key in pinned.values() if key not in keys]
    best = [0 if key == home else _CHANGE // 2 for key in keys]
    came: list[list[int]] = []
    for place, chord in enumerate(chords):
        after = chords[place + 1] if place + 1 < len(chords) else None
        least = min(range(len(keys)), key=best.__getitem__)
        row, origins = [], []
        for index, key in enumerate(keys):
            stay, change = best[index], best[least] + (_RETURN if key == home else _CHANGE)
            origins.append(index if stay <= change or not place else least)
            cost = min(stay, change) if place else stay
            if chord is not None:
                cost += _cost(chord, after, key)
            cost += 0 if key == home else _AWAY_FROM_HOME
            if place in pinned and key != pinned[place]:
                cost += _NEVER
            row.append(cost)
        best = row
        came.append(origins)
    if not came:
        return ()
    index = min(range(len(keys)), key=best.__getitem__)
    walk = []
    for origins in reversed(came):
        walk.append(keys[index])
        index = origins[index]
    return tuple(reversed(walk))


def is_dominant(chord: ChordSymbol) -> bool:
    """Whether a chord pulls a fifth down: a dominant seventh, suspended ones among them."""
    return chord.seventh == "b7" and base_kind(chord) in ("dominant", "suspended")


@dataclass(frozen=True, slots=True)
class Function:
    """What a chord does: "home", "away", "pull" or "colour"; and why, in words."""

    name: str
    words: str


#: Semitones of the root above the tonic -> function of a chord of the key.
_OF_MAJOR = {0: "home", 2: "away", 4: "home", 5: "away", 7: "pull", 9: "home", 11: "pull"}
_OF_MINOR = {0: "home", 2: "away", 3: "home", 5: "away", 7: "pull", 8: "away", 10: "away", 11: "pull"}


def function_of(chord: ChordSymbol, after: ChordSymbol | None, key: Key) -> Function:
    """The function of a chord in its local key, before ``after``."""
    if is_dominant(chord) and after is not None:
        target = (chord.root.pitch_class + 5) % 12
        if after.root.pitch_class == target:
            return Function("pull", f"leads a fifth down to {after.root.pretty}")
        if after.root.pitch_class == (chord.root.pitch_class - 1) % 12:
            return Function("pull", f"leads a half step down to {after.root.pretty}")
    step = (chord.root.pitch_class - key.tonic.pitch_class) % 12
    name = (_OF_MINOR if key.minor else _OF_MAJOR).get(step, "colour")
    foreign = any(tone not in key.pitch_classes for tone in _third_and_root(chord))
    if foreign and not (key.minor and name == "pull"):
        name = "colour"
    words = {
        "home": f"rests in {key.pretty}",
        "away": f"leads away from {key.tonic.pretty}",
        "pull": f"pulls back to {key.tonic.pretty}",
        "colour": f"is no chord of {key.pretty}",
    }[name]
    return Function(name, words)


def _third_and_root(chord: ChordSymbol) -> set[int]:
    root = chord.root.pitch_class
    third = {"b3": 3, "3": 4}.get(chord.third)
    return {root} if third is None else {root, (root + third) % 12}
