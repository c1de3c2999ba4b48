"""Reading a tune with chord symbols from ABC notation (version 2.1): the first tune of a file, its first
voice.

A hand reader: the libraries that read it lose the place of a mistake, and most of the words.
"""

from __future__ import annotations

import re
from fractions import Fraction

from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.abc_fields import (
    ACCIDENTALS,
    STEPS,
    parts_played,
    read_key,
    read_meter,
    read_tempo,
    sounding,
)
from yellow_hinge.formats.abc_sung import WordsUnder
from yellow_hinge.formats.abc_words import FIELD, NOTHING, Now, joined, read_length
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.form_in import MOST_TIMES, Signs, played_order
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.lead_sheet import MAX_MEASURES, LeadSheet, Lyric, Measure, Sung
from yellow_hinge.formats.notation import signature_of
from yellow_hinge.song.chart import move_between
from yellow_hinge.song.words import WITHIN
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import Key, plainest_key
from yellow_hinge.theory.pitch import (
    MIDI_KEYS,
    STEP_SEMITONES,
    NoteName,
    Pitch,
    pitch_for_key,
)

MAX_BYTES, MOST_NOTES = 1_000_000, 20_000
_NOTE = re.compile(r"(\^\^|\^|__|_|=)?([A-Ga-g])([,']*)")
_BAR = re.compile(r"(:*)(\.?\|[\|\]]*|\[\|+\]?)(:*)|::+")
_ENDING = re.compile(r"\[?([0-9]+(?:[,-][0-9]+)*)")
_TUPLET = re.compile(r"\(([2-9])(?::([0-9]?))?(?::([0-9]{0,2}))?")
_INLINE = re.compile(r"\[([A-Za-z]):([^\]]*)\]")
_TIME_OF = {2: 3, 3: 2, 4: 3, 6: 2, 8: 3}
#: What quoted words say of the form, as decorations.
_SAID = (
    (re.compile(r"d\.? ?c\b|da capo", re.I), "D.C."), (re.compile(r"d\.? ?s\b|dal segno", re.I), "D.S."),
    (re.compile(r"fine\b", re.I), "fine"), (re.compile(r"segno\b", re.I), "segno"),
    (re.compile(r"to coda\b", re.I), "dacoda"), (re.compile(r"coda\b", re.I), "coda"),
)  # fmt: skip
#: What is meant as a chord even where it cannot be read as one; other words in quotes are text.
_MEANT_AS_CHORD = re.compile(r"[A-G][#b\u266d\u266f]?(?=\S*[0-9/+\u00b0\u00f8])\S{1,12}|N\.?C\.?", re.I)
_SMALL_CHORD = re.compile(r"[a-g][#b]?(?:m|min|maj|dim|aug|sus)?[0-9]{0,2}(?:/[a-g][#b]?)?")
_BELOW = re.compile(r"_([0-9]):(.*)")
#: Letters that stand for a player's own signs, of which none changes a note.
_OWN_SIGNS = "HIJKLMNOPQRSTUVWhijklmnopqrstuvw"
_MOST_ODD = 20


def read(data: bytes, place: str = "tune") -> Imported:
    """Read the first tune of an ABC file: chords, tune, words, repeats. What is not taken over is remarked.
    Raises :class:`BadInput` with line and column for what cannot be read."""
    return _Reader(cleaned(decode(data, place)), place).run()


class _Reader(LeadSheet):
    def __init__(self, text: str, place: str) -> None:
        super().__init__(place, "", "")
        self._lines = joined(text.split("\n"))
        self._now = Now()
        self._row: list[Sung] = []
        self._measure = Measure("1", False)
        self._signs = Signs()
        self._at, self._signs_read = Fraction(0), 0
        self._words = WordsUnder(
            lambda measure: self._lowest if measure == len(self.measures) else self.tune[measure],
            lambda why: self.remark(self._measure.number, why, "they are left out"),
        )
        self._said_of: dict[str, str] = {}  # what the head says of voices
        self._voice: str | None = None
        self._reads_voice = True
        self._over: tuple[list[Sung], Fraction] | None = None  # what an overlay is laid over
        self._play = ""  # the order of the parts, by their letters
        self._has_dacoda = "!dacoda!" in text
        self._waiting: list[Lyric] = []  # words below a rest that comes

    def run(self, chords: bool = False) -> Imported:
        body = False
        for number, line in enumerate(self._lines, 1):
            if line == NOTHING:
                continue
            plain = line.rstrip()
            if not plain.strip() or (plain.startswith("X:") and body and self._has_music):
                if body and self._has_music:
                    break
                continue
            match = FIELD.fullmatch(plain.strip())
            if match and len(match[1]) == 1 and match[1] in "ABCDFGHIKLMNOPQRrSsTUVWwXZmu+":
                body = self._field(match[1], match[2].strip(), number, body) or body
            elif body:
                self._music(plain, number)
        if not self._has_music:
            raise BadInput(Problem(self.place, "there is no tune in it", "an ABC tune has K: and notes"))
        self._laid_over()
        self._end_measure()
        del chords
        return super().run(chords=False)

    @property
    def _has_music(self) -> bool:
        return bool(self.measures or self._row or self._measure.chords)

    def _wrong(self, line: int, column: int, what: str, remedy: str) -> BadInput:
        where = f"{self.place}, line {line}, column {column + 1}"
        return BadInput(Problem(where, what, remedy, line, column + 1))

    # --- fields ---

    def _field(self, name: str, value: str, line: int, body: bool) -> bool:
        """A line that says something; True where the tune begins behind it."""
        if name == "T":
            self.title = self.title or value
        elif name == "C":
            self.composer = self.composer or value
        elif name in "MLK":
            {"M": self._take_meter, "L": self._take_unit, "K": self._take_key}[name](value, line)
        elif name == "Q":
            self._take_tempo(value)
        elif name == "P" and body:
            self._signs.mark = self._signs.mark or value
        elif name == "P":
            self._play = value
        elif name == "V" and value:
            self._take_voice(value, body)
        elif name in "w+" and self._reads_voice and body:
            self._words.words(value, more=name == "+")
        elif name == "W" and value:
            self.remark("1", "words stand below the tune", "they belong to no notes and are left out")
        return name == "K"

    def _take_unit(self, value: str, line: int) -> None:
        length = strict.length(value)
        if not length or length > 4:
            raise self._wrong(line, 0, f"L:{value} is no length", "write L:1/8")
        self._now.unit = length

    def _take_voice(self, value: str, body: bool) -> None:
        voice = value.split(maxsplit=1)[0]
        if not body:
            self._said_of[voice] = value
            return
        if self._voice is None and (self._has_music or self._at):
            self._voice = ""  # music before any voice is named
        if self._voice is None:
            self._voice = voice
        elif voice != self._voice:
            self.remark("1", f"another voice, {voice}", "the first one is read")
        self._reads_voice = voice == self._voice
        if self._reads_voice:
            self._take_sounding(f"{self._said_of.pop(voice, '')} {value}")

    def _take_sounding(self, value: str) -> None:
        octaves, moved = sounding(value)
        self._now.octaves = self._now.octaves if octaves is None else octaves
        self._now.moved = self._now.moved if moved is None else moved

    def _take_meter(self, value: str, line: int) -> None:
        try:
            meter = read_meter(value)
        except ValueError:
            raise self._wrong(line, 0, f"M:{value} is no meter that is read", "write M:3/4") from None
        if meter is None:
            self.remark(self._measure.number, "music without a meter", f"{self._now.meter} is kept")
            return
        self._now.meter = meter
        if not self._row and not self._at:
            self._measure.meter = meter

    def _take_tempo(self, value: str) -> None:
        tempo = read_tempo(value, self._now.length / 4)
        if tempo is not None:
            self._now.tempo = tempo
            if not self._at:
                self._measure.tempo = tempo

    def _take_key(self, value: str, line: int) -> None:
        self._take_sounding(value)
        try:
            said = read_key(value)
        except ValueError:
            raise self._wrong(line, 0, f"K:{value} is no key", "write K:G or K:Am") from None
        if said is not None:
            self._now.key, self._now.signature = said.key, {**signature_of(said.sharps), **said.signs}
            self._hold_key()

    def _hold_key(self) -> None:
        if not self._at:
            self._measure.key = self._sounding_key

    @property
    def _sounding_key(self) -> Key:
        key = self._now.key
        return (
            plainest_key(key.tonic.pitch_class + self._now.moved, key.minor) if self._now.moved % 12 else key
        )

    # --- music ---

    def _music(self, line: str, number: int) -> None:
        if not self._reads_voice and not any(match[1] == "V" for match in _INLINE.finditer(line)):
            return
        self._words.begin(len(self.measures))
        index = 0
        while index < len(line):
            if not self._reads_voice:  # another voice within the line
                following = next((m for m in _INLINE.finditer(line, index) if m[1] == "V"), None)
                if following is None:
                    return
                index = following.start()
            index = self._token(line, index, number)

    def _token(self, line: str, index: int, number: int) -> int:
        """Read what stands at a place; give the place behind it."""
        sign = line[index]
        if sign in " \t`\\y$*":
            return index + 1
        if sign == '"':
            return self._quoted(line, index, number)
        if sign in "!+":
            end = line.find(sign, index + 1)
            if end < 0:
                return index + 1
            self._decoration(line[index + 1 : end])
            return end + 1
        bar = _BAR.match(line, index)
        if bar:
            return self._bar_line(line, bar)
        if sign == "[" and _ENDING.match(line, index) and not line.startswith("[K", index):
            return self._ending(line, index)
        inline = _INLINE.match(line, index)
        if inline:
            self._field(inline[1], inline[2].strip(), number, True)
            return inline.end()
        return self._sound(line, index, number)

    def _sound(self, line: str, index: int, number: int) -> int:
        """Notes, rests, tuplets and what stands between them."""
        sign, state = line[index], self._now
        if sign == "{":
            end = line.find("}", index)
            if end < 0:
                raise self._wrong(number, index, "grace notes without an end", "write } behind them")
            return end + 1
        if sign in "zxZX":
            return self._rest(line, index)
        if sign == "[":
            return self._stack(line, index, number)
        if sign == "(":
            tuplet = _TUPLET.match(line, index)
            if tuplet is None:
                return index + 1  # a slur
            count = int(tuplet[1])
            time = int(tuplet[2] or 0) or _TIME_OF.get(count) or (3 if state.meter.beats % 3 == 0 else 2)
            state.tuplet = [Fraction(time, count)] * (int(tuplet[3] or 0) or count)
            return tuplet.end()
        if sign in "<>":
            return self._broken(line, index)
        if sign == "&":
            return self._overlay(index)
        if sign == "-" and self._row and self._row[-1].pitch is not None:
            self._row[-1] = replace(self._row[-1], tied=True)
            return index + 1
        if _NOTE.match(line, index):
            pitch, end = self._pitch(line, index)
            return self._put(pitch, line, end)
        known = sign in ").~-]" or sign in _OWN_SIGNS
        if not known and len(self.problems) < _MOST_ODD:
            where = f"{self.place}, line {number}, column {index + 1}"
            what = f"{sign!r} is no ABC that is read"
            self.problems.append(Problem(where, what, "it is left out", number, index + 1))
        return index + 1

    def _quoted(self, line: str, index: int, number: int) -> int:
        end = line.find('"', index + 1)
        if end < 0:
            raise self._wrong(number, index, 'words without an end: " is missing', 'write " behind them')
        text = line[index + 1 : end].strip()
        sign = next((sign for pattern, sign in _SAID if pattern.match(text.lstrip("^_<>@"))), None)
        below = _BELOW.fullmatch(text)
        if sign is not None:
            self._decoration(sign)
        elif below:
            self._below(int(below[1]), below[2])
        elif text and text[0] not in "^_<>@":
            for plain in re.split(r";|\\n|\n", text):
                if self._named(plain.strip(), number, index):
                    break
        return end + 1  # everything else is a remark for the eye

    def _named(self, text: str, line: int, column: int) -> bool:
        """Take a chord; False for what is a word."""
        self._count()
        plain = text[1:-1].strip() if text.startswith("(") and text.endswith(")") else text
        if _SMALL_CHORD.fullmatch(plain):
            plain = plain[0].upper() + plain[1:]
        plain = re.sub(r"/([a-g])(?=[#b\u266d\u266f]?$)", lambda match: f"/{match[1].upper()}", plain)
        chord: ChordSymbol | None = None
        try:
            chord = parse_chord(plain)
        except BadInput as error:
            if not _MEANT_AS_CHORD.fullmatch(plain):
                return False
            where = f"{self.place}, line {line}, column {column + 2}"
            remedy = "no chord is taken; write it in the chart"
            self.problems.append(Problem(where, error.problems[0].what, remedy, line, column + 2))
        if chord is not None and self._now.moved % 12:
            chord = move_between(self._now.key, self._sounding_key).chord(chord)
        self._measure.chords.append((self._at, chord))
        return True

    def _below(self, verse: int, text: str) -> None:
        """Words below a rest: a bar without a tune has them under its chords."""
        text = text.strip().replace("\\%", "%")
        joined = text.endswith("-")
        plain = text[:-1] if text.endswith(("-", "\\")) else text
        self._waiting.append(Lyric(verse, plain.replace(" ", WITHIN), joined, held=False))

    def _decoration(self, word: str) -> None:
        signs = self._signs
        if word == "segno":
            signs.segno = True
        elif word == "dacoda":
            signs.to_coda = Fraction(0) if not self._at else Fraction(1)
        elif word == "coda":
            if self._has_dacoda or any(sign.jump for sign in self.signs):
                signs.coda = True
            else:
                signs.to_coda = Fraction(0) if not self._at else Fraction(1)
        elif word == "fine":
            signs.fine = True
        elif word in ("D.C.", "dacapo", "D.C.alfine", "D.C.alcoda"):
            signs.jump = "capo"
        elif word in ("D.S.", "D.S.alfine", "D.S.alcoda"):
            signs.jump = "segno"

    # --- bars ---

    def _bar_line(self, line: str, match: re.Match[str]) -> int:
        self._laid_over()
        text = match[0]
        before = len(text) - len(text.lstrip(":"))
        behind = len(text) - len(text.rstrip(":"))
        if set(text) == {":"}:
            before, behind = 1, 1
        if self._at or self._row or self._measure.chords:
            self._signs.ends = min(MOST_TIMES, before + 1) if before else 0
            self._signs.closes = text.strip(".:") not in ("|", "")
            self._end_measure()
        elif before and self.signs:
            self.signs[-1].ends = min(MOST_TIMES, before + 1)
        if behind:
            self._signs.begins = True
        end = match.end()
        number = _ENDING.match(line, end)
        if number and line[end : end + 1].isdigit():
            return self._ending(line, end)
        return end

    def _ending(self, line: str, index: int) -> int:
        match = _ENDING.match(line, index)
        assert match is not None
        numbers: set[int] = set()
        for part in match[1].split(","):
            bounds = part.split("-")
            low, high = (int(bound[:3]) for bound in (bounds[0], bounds[-1]))
            numbers |= set(range(low, min(high, MOST_TIMES) + 1))
        self._signs.ending = frozenset(
            number for number in numbers if 1 <= number <= MOST_TIMES
        ) or frozenset({1})
        return match.end()

    def _end_measure(self) -> None:
        if len(self.measures) >= MAX_MEASURES:
            raise BadInput(Problem(self.place, f"more than {MAX_MEASURES} bars", "split the tune"))
        if not (self._at or self._row or self._measure.chords):
            return
        self._measure.length = self._at
        self._measure.voices["1"] = self._row
        self.measures.append(self._measure)
        self.signs.append(self._signs)
        self.tune.append(self._row)
        state = self._now
        number = str(len(self.measures) + 1)
        self._measure = Measure(number, False, meter=state.meter, key=self._sounding_key, tempo=None)
        self._signs, self._row, self._at = Signs(), [], Fraction(0)
        state.alters.clear()

    # --- notes ---

    def _pitch(self, line: str, index: int) -> tuple[Pitch | None, int]:
        match = _NOTE.match(line, index)
        assert match is not None
        letter, marks = match[2], match[3]
        octave = 5 if letter.islower() else 4
        octave += marks.count("'") - marks.count(",")
        step = STEPS.index(letter.upper())
        place = (step, octave)
        if match[1]:
            self._now.alters[place] = ACCIDENTALS[match[1]]
        alter = self._now.alters.get(place, self._now.signature.get(step, 0))
        key = 12 * (octave + 1 + self._now.octaves) + STEP_SEMITONES[step] + alter + self._now.moved
        if key not in MIDI_KEYS:
            self.remark(self._measure.number, "a note beyond the keyboard", "it is left out")
            return None, match.end()
        if self._now.moved % 12:
            return pitch_for_key(key, self._sounding_key.prefers_flats), match.end()
        return Pitch(key, NoteName(step, alter)), match.end()

    def _overlay(self, index: int) -> int:
        """What is laid over the bar from its beginning: another voice, which is left out."""
        if self._over is None:
            self._over = (self._row, self._at)
            self.remark(self._measure.number, "a voice laid over the tune", "the first one is read")
        self._row, self._at = [], Fraction(0)
        return index + 1

    @property
    def _lowest(self) -> list[Sung]:
        """The notes of the bar, whatever is laid over them."""
        return self._row if self._over is None else self._over[0]

    def _laid_over(self) -> None:
        if self._over is not None:
            (self._row, self._at), self._over = self._over, None

    def _put(
        self, pitch: Pitch | None, line: str, index: int, inner: Fraction = Fraction(1), tied: bool = False
    ) -> int:
        """A note with the length behind it."""
        self._count()
        length, index = read_length(line, index)
        length *= inner * self._now.length * self._factor()
        while (
            line[index : index + 1] in (" ", ")")
            and line[index:].lstrip(" )")[:1] == "-"
            and self._over is None
        ):
            index += 1
        behind = line[index : index + 1] == "-"
        self._waiting.clear()  # words of a rest that did not come
        if self._over is not None:
            self._at += length
            return index + behind
        tied |= behind
        self._words.note(len(self.measures), len(self._row))
        self._row.append(Sung(self._at, length, pitch, tied and pitch is not None))
        self._at += length
        return index + behind

    def _count(self) -> None:
        """One more note, rest, or word above them."""
        self._signs_read += 1
        if self._signs_read > MOST_NOTES:
            raise BadInput(Problem(self.place, f"more than {MOST_NOTES} notes and chords", "split the tune"))

    def _factor(self) -> Fraction:
        state = self._now
        factor = state.broken * (state.tuplet.pop(0) if state.tuplet else 1)
        state.broken = Fraction(1)
        return factor

    def _rest(self, line: str, index: int) -> int:
        self._count()
        if line[index] in "ZX":
            count, end = read_length(line, index + 1)
            if self._over is not None:
                return end
            for _ in range(min(MAX_MEASURES, max(1, int(count)))):
                self._row.append(Sung(self._at, self._now.meter.quarters, None, tied=False))
                self._at += self._now.meter.quarters
                self._end_measure()
            return end
        length, end = read_length(line, index + 1)
        length *= self._now.length * self._factor()
        self._row.append(Sung(self._at, length, None, tied=False, words=tuple(self._waiting)))
        self._waiting.clear()
        self._at += length
        return end

    def _stack(self, line: str, index: int, number: int) -> int:
        """Notes at once: the highest is the tune."""
        at, best, tied = index + 1, None, False
        inner: Fraction | None = None  # the first note says how long they are
        while at < len(line) and line[at] != "]":
            if line[at] == '"':
                at = self._quoted(line, at, number)
            if not _NOTE.match(line, at):
                at += 1
                continue
            pitch, at = self._pitch(line, at)
            length, at = read_length(line, at)
            inner = length if inner is None else inner
            if pitch is not None and (best is None or pitch.key > best.key):
                best, tied = pitch, line[at : at + 1] == "-"
        if at >= len(line):
            raise self._wrong(number, index, "notes at once without an end", "write ] behind them")
        return self._put(best, line, at + 1, inner or Fraction(1), tied)

    def _broken(self, line: str, index: int) -> int:
        """A dotted pair: the note before is longer or shorter, the next one the other way."""
        end = index
        while end < len(line) and line[end] == line[index]:
            end += 1
        short = Fraction(1, 2 ** min(4, end - index))
        long = 2 - short
        if self._row:
            sung = self._row[-1]
            length = sung.length * (long if line[index] == ">" else short)
            self._row[-1] = replace(sung, length=length)
            self._at += length - sung.length
        self._now.broken = short if line[index] == ">" else long
        return end

    # --- the order of the parts ---

    def _order(self) -> list[int]:
        """As the header says, where it names the parts that there are."""
        letters = parts_played(self._play)
        if not letters:
            return super()._order()
        starts = [at for at, signs in enumerate(self.signs) if signs.mark]
        ends = [*starts[1:], len(self.signs)] if starts else []
        spans = {self.signs[at].mark: (at, end) for at, end in zip(starts, ends, strict=True)}
        if any(letter not in spans for letter in letters):
            if spans:
                what = f"the order of parts P:{self._play} names what is not there"
                self.remark("1", what, "it is left out")
            return super()._order()
        order = list(range(starts[0]))
        for letter in letters:
            first, end = spans[letter]
            order += [first + at for at in played_order(self.signs[first:end], MAX_MEASURES, self._remark_at)]
            if len(order) > MAX_MEASURES:
                break
        return order
