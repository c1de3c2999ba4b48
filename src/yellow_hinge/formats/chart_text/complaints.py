"""Every problem of a chart, with its place, as the reading goes on."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from msgspec import Struct

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.formats.chart_text.tokens import TOKEN, Segment, fraction
from yellow_hinge.rhythm.time import beats_text, share


class Place(Struct, frozen=True):
    """Where something stands: line and column from 1, and how long it is."""

    line: int
    column: int
    length: int = 1


class Token(Struct, frozen=True):
    """A word of a bar, its length in beats (None: not given, or not read), and whether it is tied."""

    place: Place
    word: str
    beats: Fraction | None
    tied: bool


#: So many problems are enough to go on with: more are not looked for.
_ENOUGH = 200
#: Words in one bar.
MOST_WORDS = 64


class Complaints:
    """Collects problems. What is read past one of them is never used."""

    def __init__(self) -> None:
        self.found: list[Problem] = []
        self._said: set[Problem] = set()

    @property
    def enough(self) -> bool:
        """Whether reading on is of no use."""
        return len(self.found) >= _ENOUGH

    def add(self, place: Place, what: str, remedy: str) -> None:
        """One more problem; the same one is said once."""
        if self.enough:
            return
        where = f"line {place.line}, column {place.column}"
        problem = Problem(where, what, remedy, place.line, place.column, length=place.length)
        if problem not in self._said:
            self._said.add(problem)
            self.found.append(problem)

    def attempt(self, place: Place, action: Callable[[], object]) -> None:
        """Do something; what it raises is put where it stands in the chart."""
        try:
            action()
        except YellowHingeError as error:
            for problem in error.problems:
                column = place.column + max(0, problem.column - 1)
                at = Place(place.line, column, problem.length or place.length)
                self.add(at, problem.what, problem.remedy)

    def tokens(self, number: int, segment: Segment, ties: bool = False) -> list[Token]:
        """Everything that stands in a bar."""
        tokens: list[Token] = []
        for match in TOKEN.finditer(segment.text):
            if len(tokens) == MOST_WORDS:
                at = Place(number, segment.start + match.start() + 1)
                self.add(at, f"a bar of more than {MOST_WORDS} words", "write | between the bars")
                break
            tied = ties and match[0].endswith("~")
            token = match[0][:-1] if tied else match[0]
            word, colon, beats_word = token.partition(":")
            column = segment.start + match.start() + 1
            beats = fraction(beats_word)
            if colon and beats is None:
                at = Place(number, column + len(word) + 1, max(1, len(beats_word)))
                self.add(at, f"{beats_word!r} is not a length", "write beats: 2, 1.5 or 3/2")
            tokens.append(Token(Place(number, column, max(1, len(word))), word, beats, tied))
        return tokens

    def shared(
        self, number: int, segment: Segment, tokens: list[Token], total: Fraction, what: str
    ) -> tuple[Fraction, ...]:
        """The lengths of all words of a bar; none where they do not add up."""
        try:
            return share(total, tuple(token.beats for token in tokens))
        except ValueError as error:
            at = Place(number, segment.column, len(segment.text.strip()))
            self.add(at, f"this {what}: {error}", f"make it {beats_text(total)} beats")
            return ()
