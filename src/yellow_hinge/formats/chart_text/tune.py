"""Reading the tune of a bar, its ties over bar lines, and its words."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from yellow_hinge.formats.chart_text.complaints import Complaints, Place, Token
from yellow_hinge.formats.chart_text.tokens import Segment, read_words
from yellow_hinge.rhythm.patterns import HANDS, Hand
from yellow_hinge.song.chart import Chart, LineNote, MelodyNote, Words
from yellow_hinge.theory.pitch import Pitch, read_pitch

#: What the pickup goes by among the bars.
PICKUP = -1
#: Notes at once that one hand has fingers for.
_MOST_AT_ONCE, _LAST_KEY = 5, 127


class TuneReader:
    """Reads notes; keeps where a bar ends in a tie until all bars are there."""

    def __init__(self, complaints: Complaints) -> None:
        self._complaints = complaints
        self._open: dict[int, Place] = {}  # bar -> where it ends in a tie
        self._open_lines: dict[tuple[int, Hand], Place] = {}

    def notes(
        self, number: int, segment: Segment, total: Fraction, index: int, what: str
    ) -> tuple[MelodyNote, ...]:
        """The tune of one bar; ``index`` is the bar's."""
        tokens = self._complaints.tokens(number, segment, ties=True)
        pitches = [self._pitch(token) for token in tokens]
        lengths = self._complaints.shared(number, segment, tokens, total, what) if tokens else ()
        if not lengths:
            return ()
        notes = tuple(
            MelodyNote(pitch, beats, token.tied)
            for pitch, beats, token in zip(pitches, lengths, tokens, strict=True)
        )
        self._check_within(tokens, notes, index)
        return notes

    def line(
        self, number: int, segment: Segment, total: Fraction, index: tuple[int, Hand], what: str
    ) -> tuple[LineNote, ...]:
        """The line of a hand in one bar; ``index`` is the bar's, and whose line it is."""
        tokens = self._complaints.tokens(number, segment, ties=True)
        pitches = [self._pitches(token) for token in tokens]
        lengths = self._complaints.shared(number, segment, tokens, total, what) if tokens else ()
        if not lengths:
            return ()
        notes = tuple(
            LineNote(row, beats, token.tied)
            for row, beats, token in zip(pitches, lengths, tokens, strict=True)
        )
        for count, (token, note) in enumerate(zip(tokens, notes, strict=True)):
            if note.tied and count + 1 < len(notes):
                self._check_line(token.place, note, notes[count + 1])
            elif note.tied:
                self._open_lines[index] = token.place
        return notes

    def _pitches(self, token: Token) -> tuple[Pitch, ...]:
        if token.word in ("r", "R"):
            return ()
        row = [read_pitch(word) for word in token.word.split("+")]
        pitches = {pitch.key: pitch for pitch in row if pitch is not None and 0 <= pitch.key <= _LAST_KEY}
        if len(pitches) < len(row) or len(pitches) > _MOST_AT_ONCE:
            remedy = "write notes with their octave, as C#5:1/2 or D5+F5:1/2, or r:1 for a rest"
            self._complaints.add(token.place, f"{token.word!r} is no note of a line", remedy)
            return ()
        return tuple(pitches[key] for key in sorted(pitches))

    def _check_line(self, place: Place, note: LineNote, after: LineNote | None) -> None:
        keys = [pitch.key for pitch in note.pitches]
        if after is None or not keys or [pitch.key for pitch in after.pitches] != keys:
            what = f"{'+'.join(map(str, note.pitches)) or 'a rest'} is tied to something else"
            self._complaints.add(place, what, "tie to the same notes, or leave the ~ out")

    def _pitch(self, token: Token) -> Pitch | None:
        pitch = read_pitch(token.word)
        if pitch is None and token.word not in ("r", "R"):
            remedy = "write note and octave, as C#5:2, or r:1 for a rest"
            self._complaints.add(token.place, f"{token.word!r} is not a melody note", remedy)
        return pitch

    def _check_within(self, tokens: Sequence[Token], notes: Sequence[MelodyNote], index: int) -> None:
        for count, (token, note) in enumerate(zip(tokens, notes, strict=True)):
            if note.tied and note.pitch is None:
                self._complaints.add(token.place, "a rest cannot be tied", "leave the ~ out")
            elif note.tied and count + 1 < len(notes):
                self._check(token.place, note, notes[count + 1])
            elif note.tied:
                self._open[index] = token.place

    def _check(self, place: Place, note: MelodyNote, after: MelodyNote | None) -> None:
        assert note.pitch is not None
        if after is None or after.pitch is None:
            what = f"{note.pitch} is tied, and no note follows"
        elif after.pitch.key != note.pitch.key:
            what = f"{note.pitch} is tied to {after.pitch}, another pitch"
        else:
            return
        self._complaints.add(place, what, "tie to the same note, or leave the ~ out")

    def check_over_bars(self, chart: Chart) -> None:
        """Ties over bar lines, in the order in which the bars are played."""
        row = [(PICKUP, chart.pickup_melody)] + [(bar.place, bar.bar.melody) for bar in chart.played]
        for (index, notes), (_, after) in zip(row, [*row[1:], (0, ())], strict=True):
            if index in self._open and notes:
                self._check(self._open[index], notes[-1], after[0] if after else None)
        for hand in HANDS:
            played = [(bar.place, bar.bar.line_of(hand)) for bar in chart.played]
            for (index, line), (_, after_line) in zip(played, [*played[1:], (0, ())], strict=True):
                place = self._open_lines.get((index, hand))
                if place is not None and line:
                    self._check_line(place, line[-1], after_line[0] if after_line else None)


def words_of(complaints: Complaints, number: int, segment: Segment, most: int, of: str) -> Words:
    """The syllables under a bar, for at most so many notes."""
    words = read_words(segment.text)
    sung = sum(not syllable.held for syllable in words)
    if sung > most:  # a syllable may be held over a tie, or to the end of its note
        complaints.add(
            Place(number, segment.column, len(segment.text.strip())),
            f"{sung} syllables for {most} {of}",
            "join syllables of one note, or give the bar more notes",
        )
    return words
