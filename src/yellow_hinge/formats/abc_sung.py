"""Lines of words under the lines of notes of an ABC tune."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from msgspec.structs import replace

from yellow_hinge.formats.abc_words import Piece, leads_on, pieces
from yellow_hinge.formats.lead_sheet import Lyric, Sung

#: A note: its measure, and its place among the notes of that measure.
Where = tuple[int, int]
MOST_VERSES = 40


class WordsUnder:
    """Puts words under the notes of a line; ``row`` gives the notes of a measure, ``left_out`` is told
    why words have no place."""

    def __init__(self, row: Callable[[int], list[Sung]], left_out: Callable[[str], None]) -> None:
        self._row, self._left_out = row, left_out
        self._notes: list[Where] = []
        self._first = 0
        self._verse = 0
        self._reached = (0, 0)
        self._goes_on = False  # whether a line of words goes on in the next one

    def begin(self, measure: int) -> None:
        """Another line of notes, from a measure on."""
        self._notes, self._first, self._verse, self._goes_on = [], measure, 0, False

    def note(self, measure: int, place: int) -> None:
        """One more note of the line."""
        self._notes.append((measure, place))

    def words(self, text: str, more: bool = False) -> None:
        """A line of words, a syllable a note that begins; ``more``: it goes on with the line before."""
        going_on = leads_on(text)
        if self._verse and (more or self._goes_on):
            at, bar = self._reached
        else:
            self._verse += 1
            at, bar = 0, self._first
        if self._verse > MOST_VERSES:
            self._left_out(f"more than {MOST_VERSES} verses")
            return
        self._reached = self._under(list(pieces(text[:-1] if going_on else text)), at, bar)
        self._goes_on = going_on

    def _under(self, row: Sequence[Piece], at: int, bar: int) -> tuple[int, int]:
        places = self._places(row)
        for piece in row:
            if piece.sign and piece.text == "|":
                bar += 1
                at = next((place for place, one in enumerate(places) if one[0] >= bar), len(places))
                continue
            if at >= len(places):
                self._left_out("more syllables than notes")
                break
            bar = places[at][0]
            self._sing(places[at], piece)
            at += 1
        return at, bar

    def _sing(self, where: Where, piece: Piece) -> None:
        """A syllable under a note; * is none."""
        if piece.sign and piece.text == "*":
            return
        row, place = self._row(where[0]), where[1]
        held = piece.sign
        lyric = Lyric(self._verse, "" if held else piece.text, piece.joined and not held, held)
        row[place] = replace(row[place], words=(*row[place].words, lyric))

    def _places(self, row: Sequence[Piece]) -> list[Where]:
        """The notes that syllables stand under: those that are struck; or all, where the line has a sign for
        each that a tie leads on to."""
        notes = list(self._with_ties())
        struck = [where for where, tied in notes if not tied]
        ties = [place for place, (_, tied) in enumerate(notes) if tied]
        barred = any(piece.sign and piece.text == "|" for piece in row)
        signed = all(place >= len(row) or row[place].sign for place in ties)
        return [where for where, _ in notes] if signed and not barred and len(row) > len(struck) else struck

    def _with_ties(self) -> Iterator[tuple[Where, bool]]:
        """The notes of the line, and whether a tie leads on to each."""
        tied = False
        for measure, place in self._notes:
            yield (measure, place), tied
            tied = self._row(measure)[place].tied
