"""Riddles: find the next grip yourself, name what you hold, the same grip in another key, answer by ear.

Chance is passed in. Answers are given in words or in keys; every riddle says what was asked and how the
answer compares.
"""

from __future__ import annotations

import random
import re
from collections.abc import Iterable, Sequence

from msgspec import Struct

from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.figures import half_steps
from yellow_hinge.motion.hinge import SIDES, Held
from yellow_hinge.practice.listening import Played, judged
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.practice.words import sentence
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import identity
from yellow_hinge.theory.pitch import NoteName, read_note_name
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.theory.tension import FitKind, fit
from yellow_hinge.voicing.shape import Voicing


class Answer(Struct, frozen=True):
    """Whether it was right, and what is to be said."""

    right: bool
    words: str


# --- find it yourself ---------------------------------------------------------------------------


def motion_st(before: Voicing, left: Sequence[int], right: Sequence[int]) -> int:
    """Half steps from a grip to other keys, by hand."""
    return sum(
        hand_motion(before.hand(side).keys, tuple(keys)).motion_st
        for side, keys in zip(SIDES, (left, right), strict=True)
    )


def found_yourself(
    before: Held, chord: ChordSymbol, left: Sequence[int], right: Sequence[int], nearest: Voicing
) -> Answer:
    """What a player found for the next symbol, against the nearest grip there is. Right is what names the
    chord and moves no further than that."""
    keys = (*left, *right)
    sounding = {key % 12 for key in keys}
    tones = [{chord.root.degree(label) for label in each} for each in identity(chord, root_needed=True)]
    missing = [min(each) for each in tones if not any(name.pitch_class in sounding for name in each)]
    foreign = [key for key in keys if fit(key % 12, chord, None).kind == FitKind.CLASH]
    if foreign or missing or not keys:
        return Answer(False, _not_it(chord, foreign, missing))
    own, least = motion_st(before.voicing, left, right), _least(before, nearest)
    words = [f"You moved {half_steps(own)}; the nearest is {half_steps(least)} away."]
    words += [
        f"{_finger(before, side, key)} could have stayed." for side, key in _could_stay(before, nearest, keys)
    ]
    return Answer(own <= least, " ".join(words))


def _least(before: Held, nearest: Voicing) -> int:
    return motion_st(before.voicing, nearest.left.keys, nearest.right.keys)


def _not_it(chord: ChordSymbol, foreign: Sequence[int], missing: Sequence[NoteName]) -> str:
    said = []
    if missing:
        said.append(f"{' and '.join(name.pretty for name in missing)} is missing")
    if foreign:
        said.append(f"{len(foreign)} of your notes {'rubs' if len(foreign) == 1 else 'rub'} against it")
    return f"That is not {chord.pretty} yet: {'; '.join(said) or 'nothing was played'}."


def _could_stay(before: Held, nearest: Voicing, keys: Sequence[int]) -> Iterable[tuple[str, int]]:
    """Keys that the nearest grip keeps of the one before, and that were let go."""
    for side in SIDES:
        for key in before.voicing.hand(side).keys:
            if key in nearest.keys and key not in keys:
                yield side, key


def _finger(before: Held, side: str, key: int) -> str:
    return f"The {side} {before.finger(side, key)} on {before.name(side, key).pretty}"


# --- name it --------------------------------------------------------------------------------------


def named(held: Held, text: str) -> Answer:
    """The notes of a grip, typed or said one by one, low to high: "F A C E". Octaves are not asked for."""
    names = _names(held)
    given, wrong = _read_names(text)
    if wrong:
        return Answer(False, f"{wrong} is no note; write letters, low to high: F Ab C")
    said = " ".join(name.pretty for name in names)
    if [name.pitch_class for name in given] != [name.pitch_class for name in names]:
        return Answer(False, f"The notes are {said}.")
    spelled = given == names
    return Answer(
        True, f"Right: {said}." if spelled else f"Right keys; in this chord they are called {said}."
    )


def degrees(held: Held, text: str) -> Answer:
    """The degrees of a grip, low to high: "R b7 9 3 13"."""
    wanted = [_degree(label) for label in held.voicing.degrees]
    given = [_degree(word) for word in re.split(r"[\s,]+", text.strip()) if word]
    words = " ".join(pretty_accidentals(label) for label in wanted)
    return Answer(True, f"Right: {words}.") if given == wanted else Answer(False, f"They are {words}.")


def numbered(number: str, text: str) -> Answer:
    """The chord as a number of the key: "2-9", "ii9"."""
    right = _plain(text) == _plain(number)
    words = pretty_accidentals(number)
    return Answer(right, f"Right: {words}." if right else f"It is {words}.")


def _plain(text: str) -> str:
    return text.strip().replace("-", "").replace("♭", "b").replace("♯", "#").replace(" ", "")


def _degree(word: str) -> str:
    plain = _plain(word).upper().replace("B", "b")
    return {"1": "R", "ROOT": "R"}.get(plain, plain)


def _names(held: Held) -> list[NoteName]:
    return [held.name(side, key) for side in SIDES for key in held.voicing.hand(side).keys]


def _read_names(text: str) -> tuple[list[NoteName], str]:
    """What was typed, or the first word that is no note. Octaves may stand behind the letters."""
    names: list[NoteName] = []
    for word in re.split(r"[\s,]+", text.strip()):
        if not word:
            continue
        read = read_note_name(f"{word[:1].upper()}{word[1:]}")
        rest = "" if read is None else word[read[1] :]
        if read is None or not (rest == "" or rest.lstrip("-").isdigit()):
            return [], word
        names.append(read[0])
    return names, ""


# --- the same grip in another key, and by ear ----------------------------------------------------


def repeated(wanted: Stroke, keys: Iterable[int], by_ear: bool = False) -> Answer:
    """Keys that answer a grip: that of another key, or one that was heard. What is heard may lie in another
    octave."""
    played = sorted(set(keys))
    if by_ear and played and wanted.keys:
        shift = wanted.keys[0] - played[0]
        if shift % 12 == 0 and [key + shift for key in played] == list(wanted.keys):
            return Answer(True, "Right." if not shift else "Right, in another octave.")
    verdict = judged(wanted, [Played(key, 0.0) for key in played])
    return Answer(verdict.clean, sentence(verdict))


def another_key(chance: random.Random, done: Sequence[int]) -> int:
    """Half steps, 1 to 11, to a key that did not come lately."""
    return chance.choice([step for step in range(1, 12) if step not in done[-6:]])
