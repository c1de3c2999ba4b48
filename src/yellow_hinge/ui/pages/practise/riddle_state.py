"""Riddles on the Practise page, without Qt: what is asked, and what the answer was worth."""

from __future__ import annotations

import random
from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.practice.drills import NO_TIME
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.riddles import (
    Answer,
    another_key,
    degrees,
    found_yourself,
    named,
    numbered,
    repeated,
)
from yellow_hinge.practice.strokes import Stroke
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.practice.room import in_key, nearest, piece_of
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.voicing.handling import split
from yellow_hinge.voicing.recipes import Library

#: What can be asked: by id, in words, and how it is answered.
KINDS: tuple[tuple[str, str, bool], ...] = (
    ("find", "Find it yourself: from this grip to the next symbol", False),
    ("name", "Name the notes of a grip", True),
    ("degrees", "Name the degrees of a grip", True),
    ("number", "Name the chord as a number of the key", True),
    ("carry", "The same grip in another key", False),
    ("call", "Call and answer: play back what you hear", False),
)


class Riddle(Struct, frozen=True):
    """Something that is asked: its kind, the question in words, the stroke that answers it (where keys do),
    and the stand it is about."""

    kind: str
    question: str
    stand: int
    wanted: Stroke | None = None

    @property
    def typed(self) -> bool:
        """Whether it is answered in words."""
        return next(typed for kind, _, typed in KINDS if kind == self.kind)


class RiddleState:
    """Asks one riddle after the other; chance is passed in."""

    def __init__(self, chance: random.Random) -> None:
        self._chance = chance
        self._keys_done: list[int] = []
        self.riddle: Riddle | None = None
        self.asked = self.right = 0

    def shown(self, piece: Piece) -> dict[int, KeyMark]:
        """The keys that belong to the question, without names: the grip one comes from, or the one to be
        named."""
        if self.riddle is None or self.riddle.kind not in ("find", "name", "degrees"):
            return {}
        voicing = piece.stands[self.riddle.stand].voicing
        return {key: KeyMark(side) for side in SIDES for key in voicing.hand(side).keys}

    def begin(self, kind: str, piece: Piece, song: Song, library: Library, near: int) -> None:
        """Ask something about a chord near the chosen change, by chance."""
        grips = [k for k, stand in enumerate(piece.stands) if stand.voicing.keys]
        if kind == "find":
            grips = [k for k in grips if k < len(piece.row) and piece.row[k] >= 0]
        if not grips:
            self.riddle = None
            return
        close = sorted(grips, key=lambda k: abs(k - near))[:8]
        self.riddle = self._made(kind, piece, song, library, self._chance.choice(close))

    def _made(self, kind: str, piece: Piece, song: Song, library: Library, at: int) -> Riddle:
        stand = piece.stands[at]
        where = f"{stand.words}, bar {stand.bar}"
        stroke = Stroke(
            NO_TIME, stand.quarters, stand.voicing.left.keys, stand.voicing.right.keys, stand.held, stand=at
        )
        if kind == "find":
            return Riddle(kind, f"From {where}, find {piece.stands[at + 1].words}: play it, then Space.", at)
        if kind == "carry":
            shift = another_key(self._chance, self._keys_done)
            self._keys_done.append(shift)
            moved = piece_of(in_key(song, shift), library)
            other = moved.stands[at]
            wanted = replace(
                stroke, left=other.voicing.left.keys, right=other.voicing.right.keys, held=other.held
            )
            return Riddle(kind, f"{where}: the same grip as {other.words}. Play it, then Space.", at, wanted)
        if kind == "call":
            return Riddle(kind, "Listen, and play it back; then Space. H: hear it again.", at, stroke)
        what = {"name": "its notes, low to high", "degrees": "its degrees, low to high",
                "number": f"its number in {piece.key}"}[kind]  # fmt: skip
        return Riddle(kind, f"{where}: type {what}, then Return.", at)

    def typed(self, piece: Piece, song: Song, text: str) -> Answer:
        """An answer in words."""
        assert self.riddle is not None
        held, slot = piece.stands[self.riddle.stand].held, song.slots[self.riddle.stand]
        if self.riddle.kind == "name":
            return self._scored(named(held, text))
        if self.riddle.kind == "degrees":
            return self._scored(degrees(held, text))
        assert slot.chord is not None
        return self._scored(numbered(song.number_of(slot.chord, slot.key), text))

    def played(self, piece: Piece, song: Song, library: Library, keys: Sequence[int]) -> Answer:
        """An answer in keys."""
        assert self.riddle is not None
        if self.riddle.wanted is not None:
            return self._scored(repeated(self.riddle.wanted, keys, by_ear=self.riddle.kind == "call"))
        return self._scored(self._found(piece, song, library, keys))

    def _found(self, piece: Piece, song: Song, library: Library, keys: Sequence[int]) -> Answer:
        assert self.riddle is not None
        at = self.riddle.stand
        before, chord = piece.stands[at].held, song.slots[at + 1].chord
        assert chord is not None
        own = split(keys, song.hands)
        best = nearest(song, library, at + 1, before.voicing, (len(own.left), len(own.right)))
        return found_yourself(before, chord, own.left, own.right, best or piece.stands[at + 1].voicing)

    def _scored(self, answer: Answer) -> Answer:
        self.asked += 1
        self.right += answer.right
        return answer
