"""Formulas of the player's own: made of a run of a song with its grips, rhythm and small notes, kept in the
player's file, and played again in any place and any key."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from fractions import Fraction
from pathlib import Path
from typing import TypeVar

from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.reharm.formulas import (
    FORMULAS_SCHEMA,
    Formula,
    FormulaChord,
    Line,
    Played,
    builtin_formulas,
    formula_text,
    home_key,
    read_formulas,
)
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.rhythm.patterns import Pattern, builtin_patterns
from yellow_hinge.song.arrangement import Ask, Choice
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import with_arrangement
from yellow_hinge.song.groove import PEDALS, RiffNote, Texture
from yellow_hinge.song.groove_edits import with_pattern
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.tasks.settings.own_files import keep_text, own_path, own_text
from yellow_hinge.tasks.settings.patterns import id_for
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.numbers import print_number
from yellow_hinge.theory.pitch import MIDI_KEYS
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

MINE = "mine"
MOST_NAME, MOST_RUN = 60, 32
_OCTAVES_ST = (0, 12, -12)
_Note = TypeVar("_Note", Fill, RiffNote)


def own_formulas_path() -> Path:
    """Where a player's formulas lie: ``formulas.toml`` in the configuration folder."""
    return own_path("formulas.toml")


def own_formulas(path: Path | None = None) -> dict[str, Formula]:
    """The player's formulas by id; none where there is no file. Raises :class:`BadInput` with every problem
    of it, and :class:`FileTrouble` when it is there and cannot be read."""
    path = path or own_formulas_path()
    text = own_text(path)
    return {} if text is None else own_formulas_in(text, str(path))


def own_formulas_in(text: str, place: str) -> dict[str, Formula]:
    """The formulas of a file of the player's own. Raises :class:`BadInput` with every problem."""
    found = read_formulas(text, place)
    problems = [
        Problem(f"{place}, {formula.id}", what, "mend it there")
        for formula in found.values()
        for what in _odd(formula)
    ]
    if problems:
        raise BadInput(problems)
    return found


def _odd(formula: Formula) -> Iterator[str]:
    """What a formula names that there is not."""
    if formula.id in builtin_formulas():
        yield "a formula that ships has this id"
    known = {"", *builtin_patterns(), *(pattern.id for pattern in formula.patterns)}
    for each in formula.played:
        for name in {each.left_pattern, each.right_pattern} - known:
            yield f"there is no pattern {name!r}"
        if each.pedal not in {"", *PEDALS}:
            yield f"there is no pedal {each.pedal!r}"


def keep_formula(formula: Formula, path: Path | None = None) -> dict[str, Formula]:
    """Write a formula behind those in the player's file, in place of one with its id; give them all. Raises
    as :func:`own_formulas`, and :class:`FileTrouble` where it cannot be written; the file stays then."""
    path = path or own_formulas_path()
    return _write(path, {**own_formulas(path), formula.id: formula})


def drop_formula(formula_id: str, path: Path | None = None) -> dict[str, Formula]:
    """Take a formula out of the player's file. Raises as :func:`keep_formula`."""
    path = path or own_formulas_path()
    return _write(path, {name: formula for name, formula in own_formulas(path).items() if name != formula_id})


def _write(path: Path, kept: dict[str, Formula]) -> dict[str, Formula]:
    keep_text(path, f'schema = "{FORMULAS_SCHEMA}"\n\n' + "\n".join(map(formula_text, kept.values())))
    return kept


# --- made of a run -----------------------------------------------------------------------------


def formula_of(song: Song, first: int, last: int, name: str, known: Mapping[str, Formula]) -> Formula:
    """The chords of slots ``first`` to ``last`` as they sound, in numbers of the key they lead to, with their
    grips, rhythm, small notes and lines. Raises :class:`BadInput` where they are none."""
    slots = song.slots[first : last + 1]
    where = f"bar {slots[0].bar}" if slots else "the song"
    name = " ".join(name.split())[:MOST_NAME]
    remedy = _wrong(song, slots, name)
    if remedy:
        raise BadInput(Problem(where, "this is no formula", remedy))
    key = local_keys(song)[slots[-1].place]
    chords = tuple(
        FormulaChord(print_number(slot.chord, key), slot.beats) for slot in slots if slot.chord is not None
    )
    patterns = {
        pattern.id: pattern for index in range(first, last + 1) for pattern in _own_patterns(song, index)
    }
    return Formula(
        id_for(name, {*known, *builtin_formulas()}), name, MINE, chords=chords,
        why=f"Kept from {song.title or 'a song'}, bar {slots[0].bar}, in {key.pretty}.", minor=key.minor,
        played=tuple(_played(song, slot, home_key(key)) for slot in slots), patterns=tuple(patterns.values()),
    )  # fmt: skip


def _wrong(song: Song, slots: Sequence[Slot], name: str) -> str:
    """What to do before a run can be a formula."""
    if not name:
        return "give it a name"
    if not 1 <= len(slots) <= MOST_RUN:
        return f"choose 1 to {MOST_RUN} chords"
    if any(slot.chord is None for slot in slots):
        return "choose a run without N.C."
    if len({slot.meter for slot in slots}) > 1:
        return "choose a run in one meter"
    if any(song.voicing(slot.index) is None for slot in slots):
        return "wait until the song has its grips"
    return ""


def _own_patterns(song: Song, index: int) -> Iterator[Pattern]:
    texture = song.texture(index)
    own = {pattern.id: pattern for pattern in song.decided(index).groove.patterns}
    for name in (texture.left, texture.right):
        if name in own:
            yield own[name]


def _played(song: Song, slot: Slot, home: int) -> Played:
    voicing, texture = song.voicing(slot.index), song.texture(slot.index)
    riffs = song.decided(slot.index).groove.riffs
    assert voicing is not None
    small = (
        replace(fill, start_key=fill.start_key - home, end_key=fill.end_key - home, key=fill.key - home)
        for fill in song.ask(slot.index).fills
    )
    line = (Line(note.at_beats, note.beats, note.key - home, note.hand) for note in riffs.get(slot.at, ()))
    return Played(
        tuple(key - home for key in voicing.left.keys), tuple(key - home for key in voicing.right.keys),
        texture.left or "", right_pattern=texture.right or "", pedal=texture.pedal or "",
        touch=texture.touch or 0,
        small=tuple(small), line=tuple(line),
    )  # fmt: skip


# --- played again ------------------------------------------------------------------------------


def lift_of(formula: Formula, key: Key, hands: HandProfile) -> int:
    """The MIDI key that the half steps of a formula count from in a key: the home note by middle C, or an
    octave from it where the grips lie better in the hands' registers. Raises :class:`BadInput` where they
    reach beyond the keyboard."""
    homes = [home_key(key) + octave for octave in _OCTAVES_ST]
    there = [home for home in homes if all(home + st in MIDI_KEYS for st in _steps(formula))]
    if not there:
        what = f"in {key.pretty} it reaches beyond the keyboard"
        raise BadInput(Problem(formula.name, what, "put it in another key"))
    return min(there, key=lambda home: _outside_st(formula, home, hands))


def _steps(formula: Formula) -> Iterator[int]:
    for played in formula.played:
        yield from (*played.left, *played.right, *(note.st for note in played.line))
        for note in played.small:
            yield from (note.start_key, note.end_key, note.key)


def _outside_st(formula: Formula, home: int, hands: HandProfile) -> int:
    return sum(
        max(0, hand.lowest_key - home - steps[0]) + max(0, home + steps[-1] - hand.highest_key)
        for played in formula.played
        for hand, steps in ((hands.left, played.left), (hands.right, played.right))
        if steps
    )


def voicing_of(formula: Formula, number: int, home: int, key: Key, library: Library) -> Voicing:
    """The grip of a chord of a formula."""
    played = formula.played[number]
    left, right = (tuple(home + st for st in steps) for steps in (played.left, played.right))
    return classify(left, right, formula.in_key(key)[number], key, library)


def with_played(
    song: Song,
    formula: Formula,
    places: Sequence[tuple[At, int, Fraction, Fraction]],
    longer: Fraction,
    key: Key,
    *,
    library: Library,
) -> Song:
    """A song in which a formula stands already, with its grips locked and its rhythm, small notes and lines.
    ``places``: a chord of the song, which chord of the formula it plays, how many beats of that have passed,
    and how many beats it lasts itself; all are ``longer`` by a factor than in the formula. Raises as
    :func:`lift_of`."""
    home = lift_of(formula, key, song.hands)
    song, names = _with_patterns(song, formula)
    arrangement = song.arrangement
    choices, asks = dict(arrangement.choices), dict(arrangement.asks)
    textures, riffs = dict(arrangement.groove.chords), dict(arrangement.groove.riffs)
    for at, number, begun, beats in places:
        played = formula.played[number]
        choices[at] = Choice(voicing_of(formula, number, home, key, library), locked=True)
        left, right = (names.get(name, name) or None for name in (played.left_pattern, played.right_pattern))
        textures[at] = Texture(left, right, played.pedal or None, played.touch or None)
        small = (_small(note, home, longer, begun) for note in played.small)
        asks[at] = replace(asks.get(at, Ask()), fills=_within(small, beats, lambda note: note.offset_beats))
        line = (_line(note, home, longer, begun) for note in played.line)
        riffs[at] = _within(line, beats, lambda note: note.at_beats)
    groove = replace(arrangement.groove, chords=textures, riffs={at: row for at, row in riffs.items() if row})
    asked = {at: ask for at, ask in asks.items() if ask != Ask()}
    return with_arrangement(
        song, song.current, replace(arrangement, choices=choices, groove=groove, asks=asked)
    )


def _within(notes: Iterable[_Note], beats: Fraction, start: Callable[[_Note], Fraction]) -> tuple[_Note, ...]:
    """Those of a chord's notes that begin in a part of it that lasts so many beats."""
    return tuple(note for note in notes if 0 <= start(note) < beats)


def _small(note: Fill, home: int, longer: Fraction, begun: Fraction) -> Fill:
    return Fill(
        note.hand, home + note.start_key, home + note.end_key, home + note.key,
        note.offset_beats * longer - begun, beats=note.beats * longer,
    )  # fmt: skip


def _line(note: Line, home: int, longer: Fraction, begun: Fraction) -> RiffNote:
    return RiffNote(note.at_beats * longer - begun, note.beats * longer, home + note.st, note.hand)


def _with_patterns(song: Song, formula: Formula) -> tuple[Song, dict[str, str]]:
    """The song with the formula's own patterns, and the ids they have there: another pattern of the song's
    keeps its id."""
    names: dict[str, str] = {}
    for pattern in formula.patterns:
        own = {one.id: one for one in song.arrangement.groove.patterns}
        same = next((name for name, one in own.items() if replace(one, id=pattern.id) == pattern), None)
        names[pattern.id] = same or id_for(pattern.name, {*own, *builtin_patterns()})
        if same is None:
            song = with_pattern(song, replace(pattern, id=names[pattern.id]))
    return song, names


def every_formula() -> dict[str, Formula]:
    """The formulas that ship, and the player's own behind them. Raises as :func:`own_formulas`."""
    return {**builtin_formulas(), **own_formulas()}
