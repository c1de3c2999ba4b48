"""The function board: a degree in the bass, where it goes, and every triad and seventh chord that may stand
over it; which of them belong there, which hold the chord without its root, and which lie a half step from
their neighbours.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property
from itertools import product

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.figures import motion_st
from yellow_hinge.reharm.regions import function_of
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.grip_edits import Stand, stand_in
from yellow_hinge.song.kept_hands import kept_hand, kept_right
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune import melody_within
from yellow_hinge.tasks.grips.own_grip import called, in_key
from yellow_hinge.tasks.song.describe_song import who_has_bass
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, degree_semitones
from yellow_hinge.theory.tension import FitKind, any_label, fit
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing

#: The upper chords, in words: triads, then sevenths.
UPPER: dict[str, str] = {
    "": "major", "m": "minor", "dim": "diminished", "aug": "augmented", "sus4": "fourth for third",
    "maj7": "major 7", "7": "7", "m7": "minor 7", "m7b5": "half-diminished", "dim7": "diminished 7",
    "m(maj7)": "minor, major 7",
}  # fmt: skip
#: Degrees of the seven chords of a key with their qualities, major and minor.
_CHORDS = {
    False: ((0, "maj7"), (2, "m7"), (4, "m7"), (5, "maj7"), (7, "7"), (9, "m7"), (11, "m7b5")),
    True: ((0, "m7"), (2, "m7b5"), (3, "maj7"), (5, "m7"), (7, "7"), (8, "maj7"), (10, "7")),
}
#: The tones of a chord that others move to: what is above is colour.
_BODY = {"R", "b3", "3", "b5", "5", "#5", "2", "4", "6", "b7", "7", "bb7"}
_MOVING = 2
_EITHER = (("9", {"b9", "#9"}), ("13", {"b13"}), ("5", {"#5"}))
_ALTERED = {"b9", "#9", "#11", "b13", "b5", "#5"}
#: Where a bass that nobody has played yet lies: G2, in the middle of a left hand's lower octave.
_USUAL_BASS = 43


class Cell(Struct, frozen=True):
    """An upper chord over the bass. ``chord`` is what both are called and ``reading`` how that hears them;
    ``degrees`` its tones over the bass. ``inside``: every tone belongs to the chord of this degree;
    ``rootless``: that chord's third and seventh are in it and its root is not; ``leads`` and ``comes``: all
    its tones go by half steps or stay, to different tones of the goal, or from those of the chord before.
    ``clashes``: notes of the tune that clash."""

    upper: ChordSymbol
    chord: ChordSymbol
    reading: str
    degrees: tuple[str, ...]
    inside: bool
    rootless: bool
    leads: bool
    comes: bool
    clashes: int

    @property
    def useful(self) -> bool:
        """Whether there is a reason to play it."""
        return self.inside or self.leads or self.comes


class Lying(Struct, frozen=True):
    """An inversion in the hands: half steps from the chord before and to the goal."""

    voicing: Voicing
    from_st: int
    to_st: int


class Board(Struct, frozen=True, dict=True):
    """The board for a slot of a song: ``bass`` goes to ``goal``; ``stays`` is whether the goal stands in the
    song already, behind this chord. ``base`` is the chord that the degree is taken for. Rows are the kinds of
    :data:`UPPER`, columns the twelve roots from the bass upwards."""

    song: Song
    index: int
    key: Key
    bass: NoteName
    goal: ChordSymbol | None
    stays: bool
    base: ChordSymbol
    cells: tuple[tuple[Cell, ...], ...]

    @cached_property
    def best(self) -> tuple[int, int]:
        """Row and column of the cell to begin with: rootless, with colour, without alterations."""
        every = [(row, column) for row, cells in enumerate(self.cells) for column in range(len(cells))]
        return max(every, key=lambda at: self._worth(self.cells[at[0]][at[1]]))

    def _worth(self, cell: Cell) -> tuple[bool, bool, int, int, bool]:
        degrees = set(self.base.degrees)
        altered = sum(degree in _ALTERED and degree not in degrees for degree in cell.degrees)
        colours = sum(degree not in degrees for degree in cell.degrees)
        return (cell.inside and not cell.clashes, cell.rootless, -altered, colours, cell.leads)


def goals(song: Song, index: int) -> list[tuple[ChordSymbol, bool]]:
    """Where a chord may go: the next chord of the song (True: it stands there), the chord itself, which then
    is reached within its own time, and the seven chords of its key."""
    found: list[tuple[ChordSymbol, bool]] = []
    after = song.slots[index + 1].chord if index + 1 < len(song.slots) else None
    symbol = song.slots[index].chord
    if after is not None:
        found.append((after, True))
    key = local_keys(song)[song.slots[index].place]
    usual = [_on(in_key(key.tonic.pitch_class + st, key), quality) for st, quality in _CHORDS[key.minor]]
    return found + [(label, False) for label in dict.fromkeys((*((symbol,) if symbol else ()), *usual))]


def _on(root: NoteName, quality: str) -> ChordSymbol:
    chord = parse_chord(f"{root}{quality}")
    assert chord is not None
    return chord


def board(
    song: Song, index: int, goal: tuple[ChordSymbol, bool] | None = None, bass: NoteName | None = None
) -> Board | None:
    """The board of a slot; where nothing else is said, its own root goes to the next chord of the song, and a
    fifth above to any other goal. None on "no chord"."""
    slot = song.slots[index]
    if slot.chord is None:
        return None
    key = local_keys(song)[slot.place]
    wanted, stays = goal or next(iter(goals(song, index)))
    if bass is None:
        fifth = in_key(wanted.root.pitch_class + 7, key)
        bass = slot.chord.bass_name if stays or index + 1 >= len(song.slots) else fifth
    base = _base(slot.chord, bass, wanted, key)
    before = song.slots[index - 1].chord if index else None
    notes = melody_within(song, [(slot.start_quarters, slot.quarters)])[0]
    rows = tuple(
        tuple(_cell(quality, st, bass, base, key, around=(before, wanted), notes=notes) for st in range(12))
        for quality in UPPER
    )
    return Board(song, index, key, bass=bass, goal=wanted, stays=stays, base=base, cells=rows)


def _base(symbol: ChordSymbol, bass: NoteName, goal: ChordSymbol, key: Key) -> ChordSymbol:
    """The chord that a bass is taken for: the chart's own on its root; a dominant seventh where it falls a
    fifth or a half step to the goal; else the chord of the key, or a dominant seventh."""
    if symbol.root.pitch_class == bass.pitch_class:
        return replace(symbol, bass=None)
    falls = (bass.pitch_class - goal.root.pitch_class) % 12
    there = dict(_CHORDS[key.minor])
    step = (bass.pitch_class - key.tonic.pitch_class) % 12
    return _on(bass, "7" if falls in (7, 1) else there.get(step, "7"))


def _cell(
    quality: str,
    st: int,
    bass: NoteName,
    base: ChordSymbol,
    key: Key,
    *,
    around: tuple[ChordSymbol | None, ChordSymbol | None],
    notes: Sequence[NoteOver],
) -> Cell:
    upper = _on(in_key(bass.pitch_class + st, key), quality)
    tones = [(upper.root.pitch_class + degree_semitones(label)) % 12 for label in upper.degrees]
    low = 36 + bass.pitch_class
    chord, reading = called([low, *(low + 12 + (tone - low) % 12 for tone in tones)], base, key)
    fits = [fit(tone, base, key) for tone in tones]
    labels = {base.label_of(tone) for tone in tones}
    guides = {label for label in base.degrees if label in ("3", "b3", "7", "b7", "6", "bb7")}
    clashes = sum(
        fit(note.key, chord, key, quarters=note.quarters, strong=note.strong, stepwise=note.stepwise).kind
        == FitKind.CLASH
        for note in notes
    )
    degrees = tuple(one.degree or any_label(base, tone) for one, tone in zip(fits, tones, strict=True))
    return Cell(
        upper, chord, reading, degrees=degrees,
        inside=_inside(tones, base, key),
        rootless=bool(guides) and guides <= labels and "R" not in labels,
        leads=_by_half_steps(tones, around[1]), comes=_by_half_steps(tones, around[0]), clashes=clashes,
    )  # fmt: skip


def _by_half_steps(tones: Sequence[int], symbol: ChordSymbol | None) -> bool:
    """Whether each tone can go to a tone of its own of another chord (its triad and seventh) by a half step
    or by staying, at least two of them moving: with fewer it is the same chord, coloured."""
    if symbol is None:
        return False
    body = (label for label in symbol.degrees if label in _BODY)
    there = {(symbol.root.pitch_class + degree_semitones(label)) % 12 for label in body}
    near = [[one % 12 for one in (tone, tone + 1, tone - 1) if one % 12 in there] for tone in tones]
    for ways in product(*near):
        moving = sum(way != tone for way, tone in zip(ways, tones, strict=True))
        if len({*ways}) == len(tones) and moving >= _MOVING:
            return True
    return False


def _inside(tones: Sequence[int], base: ChordSymbol, key: Key) -> bool:
    """Whether all tones belong to a chord: its own, or tensions at home over it; a natural tension and its
    alteration never stand together."""
    fits = [fit(tone, base, key) for tone in tones]
    labels = {one.degree for one in fits}
    mixed = any(natural in labels and labels & altered for natural, altered in _EITHER)
    return not mixed and all(
        one.kind in (FitKind.CHORD_TONE, FitKind.TENSION) and not one.rubs for one in fits
    )


# --- in the hands ------------------------------------------------------------------------------


def inversions(board: Board, cell: Cell, library: Library) -> list[Lying]:
    """Every inversion of an upper chord in close position that the right hand reaches, each where it lies
    nearest to its neighbours, over the bass in the left hand (none where a bassist has it); the nearest
    first. Before them the hand that the player has kept, where it plays just this chord."""
    song, index = board.song, board.index
    left = _bass_keys(board, library)
    before = song.voicing(index - 1) if index else None
    after = song.voicing(index + 1) if board.stays else goal_grip(board, library)
    best: dict[int, Lying] = {}
    for turned, right in _close(cell.upper):
        if not _playable(song, left, right):
            continue
        grip = classify(left, right, cell.chord, board.key, library)
        lying = Lying(grip, motion_st(before, grip), motion_st(grip, after))
        if turned not in best or _moves(lying) < _moves(best[turned]):
            best[turned] = lying
    return [*_kept(board, cell, left, (before, after), library), *sorted(best.values(), key=_moves)]


def _kept(
    board: Board, cell: Cell, left: tuple[int, ...], around: tuple[Voicing | None, ...], library: Library
) -> list[Lying]:
    """The right hand that the player has kept, if it plays an upper chord."""
    kept = kept_right(board.song, board.index)
    tones = {(cell.upper.root.pitch_class + degree_semitones(label)) % 12 for label in cell.upper.degrees}
    if kept is None or {key % 12 for key in kept.keys} != tones or (left and left[-1] >= kept.keys[0]):
        return []
    grip = classify(left, kept.keys, cell.chord, board.key, library)
    return [Lying(grip, motion_st(around[0], grip), motion_st(grip, around[1]))]


def _moves(lying: Lying) -> int:
    return lying.from_st + lying.to_st


def goal_grip(board: Board, library: Library) -> Voicing | None:
    """How the goal is played: as it is in the song; or in close position, nearest to the chord before."""
    song, index, goal = board.song, board.index, board.goal
    if goal is None:
        return None
    if goal == song.slots[index].chord and song.voicing(index) is not None:
        return song.voicing(index)
    before = song.voicing(index)
    left = (_nearest(goal.bass_name.pitch_class, _low_of(before)),)
    ways = [
        classify(left, right, goal, board.key, library)
        for _, right in _close(replace(goal, bass=None, upper=None))
        if _playable(song, left, right)
    ]
    return min(ways, key=lambda voicing: motion_st(before, voicing), default=None)


def _close(upper: ChordSymbol) -> Iterator[tuple[int, tuple[int, ...]]]:
    """(which tone is lowest, keys) of a chord in close position, from every key of the keyboard up."""
    tones = sorted({(upper.root.pitch_class + degree_semitones(label)) % 12 for label in upper.degrees})
    for low in range(21, 97):
        if low % 12 in tones:
            yield tones.index(low % 12), tuple(sorted(low + (tone - low) % 12 for tone in tones))


def _playable(song: Song, left: tuple[int, ...], right: tuple[int, ...]) -> bool:
    hand = song.hands.right
    inside = hand.lowest_key <= right[0] and right[-1] <= hand.highest_key and len(right) <= hand.most_notes
    return inside and song.hands.can_reach(hand, right) and (not left or left[-1] < right[0])


def _bass_keys(board: Board, library: Library) -> tuple[int, ...]:
    song, index = board.song, board.index
    kept = kept_hand(song, index, "left")
    if kept is not None and kept.keys[0] % 12 == board.bass.pitch_class:
        return kept.keys
    if who_has_bass(song.decided(index), library) == "bassist":
        return ()
    return (_nearest(board.bass.pitch_class, _low_of(song.voicing(index))),)


def _low_of(voicing: Voicing | None) -> int:
    return voicing.left.keys[0] if voicing is not None and voicing.left.keys else _USUAL_BASS


def _nearest(pitch_class: int, key: int) -> int:
    """The key of a pitch class that is nearest to another key."""
    return key + (pitch_class - key + 6) % 12 - 6


def put(board: Board, cell: Cell, voicing: Voicing, library: Library) -> Edit:
    """The chord in its place, its grip locked: for all of its time where the goal stands behind it, else for
    the first half, with the goal in the second."""
    slot = board.song.slots[board.index]
    label = f"{cell.chord.pretty} to {board.goal.pretty}" if board.goal else cell.chord.pretty
    if board.stays or board.goal is None:
        return stand_in(board.song, {board.index: [Stand(cell.chord, slot.beats, voicing)]}, label)
    grip = goal_grip(board, library) or Voicing(HandShape(), HandShape())
    row = [Stand(cell.chord, slot.beats / 2, voicing), Stand(board.goal, slot.beats / 2, grip)]
    return stand_in(board.song, {board.index: row}, label)


class Degree(Struct, frozen=True):
    """A degree that can be in the bass: its name, its number, and the job of the chord that it is taken for:
    home, away, pull or colour."""

    name: NoteName
    number: str
    job: str


def degrees_of(board: Board) -> list[Degree]:
    """The twelve degrees of the key with their jobs on the way to the board's goal."""
    song, tonic = board.song, board.key.tonic.pitch_class
    symbol = song.slots[board.index].chord
    assert symbol is not None
    usual = ("1", "b2", "2", "b3", "3", "4", "#4", "5", "b6", "6", "b7", "7")
    degrees = []
    for st, number in enumerate(usual):
        name = in_key(tonic + st, board.key)
        base = _base(symbol, name, board.goal or symbol, board.key)
        degrees.append(Degree(name, number, function_of(base, board.goal, board.key).name))
    return degrees
