"""The crib sheet: chord by chord what each hand takes, on small keyboards and in words, section by section;
what comes again says only what is different."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import groupby

from msgspec import Struct

from yellow_hinge.hands.fingering import line_fingers
from yellow_hinge.motion.hinge import Held, HingeReport
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.sheet.keyboard import PIN_MM, keyboard, span_of
from yellow_hinge.sheet.moves import move_sentence
from yellow_hinge.sheet.page import (
    CELL_MM,
    POINT_MM,
    Block,
    Filler,
    Ink,
    Item,
    Metrics,
    Options,
    Sheet,
    Text,
    columns,
    fitted,
    heading,
    in_rows,
    line_mm,
    paragraph,
    shifted,
    wrapped,
)
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import known_patterns
from yellow_hinge.song.words import Singing
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pitch import pitch_for_key
from yellow_hinge.theory.pretty import pretty_accidentals, pretty_degree, tone_words
from yellow_hinge.theory.tension import any_label


def line_words(notes: Sequence[RiffNote], flats: bool, held: Fraction = Fraction(0)) -> str:
    """A line of one hand as it is read: "F5 0.5, A5+C6 1, rest 2"; ``held`` beats go on from before."""
    words, at = ([f"held {beats_text(held)}"] if held else []), held
    for start, group in groupby(notes, key=lambda note: note.at_beats):
        together = list(group)
        if start > at:
            words.append(f"rest {beats_text(start - at)}")
        names = "+".join(pitch_for_key(note.key, flats).pretty for note in together)
        words.append(f"{names} {beats_text(together[0].beats)}")
        at = start + together[0].beats
    return ", ".join(words)


def _degrees(slot: Slot, notes: Sequence[RiffNote]) -> str:
    """What the notes of a line are in their chord."""
    if slot.chord is None:
        return ""
    labels = (
        slot.chord.label_of(note.key % 12) or any_label(slot.chord, note.key % 12)
        for note in sorted(notes, key=lambda note: (note.at_beats, note.key))
    )
    return " ".join(map(pretty_degree, labels))


class Played(Struct, frozen=True):
    """A song with its grips described: one a slot, and one hinge between neighbours (more for a loop)."""

    song: Song
    held: Sequence[Held]
    hinges: Sequence[HingeReport]


def crib_sheet(played: Played, options: Options, metrics: Metrics) -> Sheet:
    """All sections in playing order; rounds that are alike are said, not drawn again."""
    song = played.song
    chart = song.chart
    under = f"{song.key_here.pretty} · {song.meter} · {song.tempo} beats a minute"
    if song.take.name and len(song.takes) > 1:
        under += f" · {song.take.name}"
    if options.keyboards:
        under += " · squares: left hand, discs: right hand, a bar below: held from the chord before"
    filler = Filler(song.title or "Untitled", chart.composer, under, options, metrics)
    writer = _Crib(played, options, metrics, filler.inner)
    filler.add(list(writer.blocks()))
    return filler.sheet()


class _Crib:
    def __init__(self, played: Played, options: Options, metrics: Metrics, width: float) -> None:
        self._played, self._options, self._metrics, self._width = played, options, metrics, width
        self._singing = Singing(played.song.chart)
        rows = [held.voicing.keys for held in played.held]
        self._span = span_of(rows)
        self._count, self._cell = columns(width, CELL_MM * options.scale)

    def blocks(self) -> Iterator[Block]:
        song = self._played.song
        if not song.slots:
            yield paragraph("There are no chords yet.", self._width, self._options, self._metrics)
        seen: dict[str, list[Slot]] = {}
        for (name, turn), group in groupby(song.slots, key=lambda slot: (slot.section, slot.round)):
            slots = list(group)
            first = seen.get(name)
            title = name or "Song"
            if first is None:
                seen[name] = slots
                yield self._heading(title, slots)
                yield from self._cells(slots)
                continue
            others = self._different(first, slots)
            title = f"{title}, round {turn}"
            if not others:
                words = f"{title} (bars {slots[0].bar} to {slots[-1].bar}): as before."
                yield paragraph(words, self._width, self._options, self._metrics)
            else:
                yield self._heading(f"{title}: as before, except", slots)
                yield from self._cells(others)

    def _heading(self, title: str, slots: Sequence[Slot]) -> Block:
        bars = (
            f"bars {slots[0].bar} to {slots[-1].bar}"
            if slots[-1].bar > slots[0].bar
            else f"bar {slots[0].bar}"
        )
        aside = f"{bars}{self._pattern_words(slots)}"
        return heading(title, self._width, self._options, self._metrics, aside)

    def _pattern_words(self, slots: Sequence[Slot]) -> str:
        """What the hands play through a section, where that is more than to hold."""
        if not self._options.counts:
            return ""
        song = self._played.song
        found: list[str] = []
        for hand in ("left", "right"):
            names = {song.texture(slot.index).hand(hand) for slot in slots}
            known = known_patterns(song.decided(slots[0].index).groove)
            if len(names) == 1 and (name := names.pop()) != "held" and name in known:
                found.append(f"{hand} hand: {known[name].name}")
        return "".join(f" · {words}" for words in found)

    def _different(self, first: Sequence[Slot], slots: Sequence[Slot]) -> list[Slot]:
        """The chords of a round that are not those of the first one."""
        held = self._played.held
        found = []
        for place, slot in enumerate(slots):
            other = first[place] if place < len(first) else None
            same = other is not None and (other.chord, other.beats) == (slot.chord, slot.beats)
            lines = [None if one is None else self._played.song.line_over(one.index) for one in (other, slot)]
            alike = other is not None and held[other.index].voicing == held[slot.index].voicing
            if not same or not alike or lines[0] != lines[1]:
                found.append(slot)
        return found

    def _cells(self, slots: Sequence[Slot]) -> list[Block]:
        cells = [self._one(slot) for slot in slots]
        return in_rows(cells, self._width, CELL_MM * self._options.scale)

    # --- one chord ---

    def _one(self, slot: Slot) -> Block:
        options, metrics, scale = self._options, self._metrics, self._options.scale
        items: list[Item] = []
        y = 13 * scale * POINT_MM * 1.1
        symbol, number = pretty_symbol(slot.chord), self._number(slot)
        if options.numbers and number:
            symbol, number = number, symbol
        aside = metrics.width_mm(number, 8.5 * scale) + 1.5
        size = fitted(symbol, self._cell - aside, 13 * scale, metrics, bold=True)
        items.append(Text(0, y, symbol, size, bold=True))
        items.append(Text(self._cell, y, number, 8.5 * scale, ink="quiet", side="right"))
        y += line_mm(7.5 * scale)
        where = f"bar {slot.bar}" if slot.beat == 1 else f"bar {slot.bar}, beat {beats_text(slot.beat)}"
        lasts = f"{beats_text(slot.beats)} beat{'' if slot.beats == 1 else 's'}" if options.counts else ""
        items.append(Text(0, y, where, 7.5 * scale, ink="quiet"))
        if lasts:
            items.append(Text(self._cell, y, lasts, 7.5 * scale, ink="quiet", side="right"))
        y += 1.4
        held = self._played.held[slot.index]
        if slot.chord is not None and options.keyboards and held.voicing.keys:
            height = min(11.0 * scale, self._cell / 4)
            stays = self._held_before(slot.index)
            drawn = keyboard(
                held.voicing.left.keys, held.voicing.right.keys, stays, self._span, self._cell, height=height
            )
            items += [shifted(item, 0, y) for item in drawn]
            y += height + PIN_MM + 0.3
        y = self._notes(slot, held, items, y)
        y = self._without(slot, held, items, y)
        y = self._lines(slot, items, y)
        y = self._words(slot, items, y)
        return Block(y + 1.0, tuple(items))

    def _number(self, slot: Slot) -> str:
        if slot.chord is None:
            return ""
        return pretty_accidentals(self._played.song.number_of(slot.chord, slot.key))

    def _held_before(self, index: int) -> tuple[int, ...]:
        """The keys that stay from the chord before, in the same hand."""
        if not index:
            return ()
        report = self._played.hinges[index - 1]
        return tuple(to for hand in (report.left, report.right) for start, to in hand.pairs if start == to)

    def _notes(self, slot: Slot, held: Held, items: list[Item], y: float) -> float:
        """A line for each hand, and its degrees or fingers below."""
        if slot.chord is None:
            return y
        options, scale = self._options, self._options.scale
        for side, letter in (("left", "L"), ("right", "R")):
            shape, fingers = held.hand(side)
            if not shape.keys:
                continue
            y += line_mm(9.5 * scale)
            pitches = " ".join(pitch.pretty for pitch in shape.printed(slot.chord))
            size = fitted(pitches, self._cell - 4 * scale, 9.5 * scale, self._metrics)
            ink: Ink = "left" if side == "left" else "right"
            items.append(Text(0, y, letter, 8 * scale, bold=True, ink=ink))
            items.append(Text(4 * scale, y, pitches, size))
            rows = []
            if options.degrees:
                rows.append(" ".join(pretty_degree(degree) for degree in shape.degrees))
            if options.fingers:
                rows.append("fingers " + " ".join(map(str, fingers)))
            for row in rows:
                y += line_mm(7.5 * scale)
                items.append(Text(4 * scale, y, row, 7.5 * scale, ink="quiet"))
        return y

    def _without(self, slot: Slot, held: Held, items: list[Item], y: float) -> float:
        """Which tones of the symbol's name the grip has not."""
        if slot.chord is None or not held.voicing.keys:
            return y
        sounding = {key % 12 for key in held.voicing.keys}
        missing = [
            label
            for label in slot.chord.telling
            if slot.chord.root.degree(label).pitch_class % 12 not in sounding
        ]
        if missing:
            words, size = f"without {' and '.join(map(tone_words, missing))}", 7.5 * self._options.scale
            y += line_mm(size)
            items.append(Text(0, y, words, fitted(words, self._cell, size, self._metrics), italic=True))
        return y

    def _lines(self, slot: Slot, items: list[Item], y: float) -> float:
        """What a hand plays in place of the chord: the notes with their counts, and the fingers below."""
        options, size = self._options, 8.5 * self._options.scale
        for hand, letter in (("left", "L"), ("right", "R")):
            row = [note for note in self._played.song.line_over(slot.index) if note.hand == hand]
            if not row:
                continue
            words = line_words(row, slot.key.prefers_flats, self._held_line(slot, hand))
            rows = [(f"{letter} line: {words}", size), (_degrees(slot, row), 7.5 * options.scale)]
            if options.fingers:
                fingers = line_fingers(tuple(note.key for note in row), hand == "left")
                rows.append(("fingers " + " ".join(map(str, fingers)), 7.5 * options.scale))
            for words, height in rows:
                for line in wrapped(words, self._cell, height, self._metrics):
                    y += line_mm(height)
                    items.append(Text(0, y, line, height, ink="left" if hand == "left" else "right"))
        return y

    def _held_line(self, slot: Slot, hand: str) -> Fraction:
        """For how many beats a line goes on from the chord before."""
        if not slot.index:
            return Fraction(0)
        before = self._played.song.slots[slot.index - 1]
        ends = [
            (note.at_beats + note.beats) * before.meter.quarters_per_beat + before.start_quarters
            for note in self._played.song.line_over(before.index)
            if note.hand == hand
        ]
        late = max(ends, default=slot.start_quarters) - slot.start_quarters
        return max(Fraction(0), min(late / slot.meter.quarters_per_beat, slot.beats))

    def _words(self, slot: Slot, items: list[Item], y: float) -> float:
        """The move to the next chord, and the words that are sung here."""
        options, size = self._options, 7.5 * self._options.scale
        if options.moves and slot.index < len(self._played.hinges):
            for line in wrapped(
                move_sentence(self._played.hinges[slot.index]), self._cell, size, self._metrics
            ):
                y += line_mm(size)
                items.append(Text(0, y, line, size, italic=True))
        cue = self._cue(slot) if options.words else ""
        if cue:
            y += line_mm(size)
            cut = self._cut(f"“{cue}”", size)
            items.append(Text(0, y, cut, size, ink="quiet"))
        return y

    def _cue(self, slot: Slot) -> str:
        """The words that are sung while this chord lasts, in its round."""
        start = slot.beat - 1
        return self._singing.text(slot.bar - 1, start, start + slot.beats)

    def _cut(self, words: str, size: float) -> str:
        """Words that fit on one line; what is beyond is left out, which dots say."""
        kept = words
        while kept and self._metrics.width_mm(words, size) > self._cell:
            kept = kept.rsplit(" ", 1)[0] if " " in kept else kept[:-1]
            words = f"{kept}…”"
        return words
