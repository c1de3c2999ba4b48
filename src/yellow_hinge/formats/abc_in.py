"""Reading a tune with chord symbols from ABC notation (version 2.1): the first tune of a file, its first
voice.

A hand reader: the libraries that read it lose the place of a mistake, and most of the words.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction

from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.abc_words import FIELD, NOTHING, Now, joined, read_length, syllables
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.form_in import MOST_TIMES, Signs
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.lead_sheet import MAX_MEASURES, LeadSheet, Lyric, Measure, Sung
from yellow_hinge.rhythm.time import METER_UNITS, Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import ALL_KEYS, Key, plainest_key
from yellow_hinge.theory.pitch import MIDI_KEYS, STEP_SEMITONES, NoteName, Pitch, read_note_name

MAX_BYTES = 1_000_000
_MOST_BEATS = 24
_STEPS = "CDEFGAB"
_SHARPS = (3, 0, 4, 1, 5, 2, 6)
#: Half steps from a mode's tonic up to the tonic of the major key with its signature.
_MODES = {
    "": 0,
    "maj": 0,
    "ion": 0,
    "m": 3,
    "min": 3,
    "aeo": 3,
    "mix": 5,
    "dor": 10,
    "phr": 8,
    "lyd": 7,
    "loc": 1,
}
_ACCIDENTALS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
_NOTE = re.compile(r"(\^\^|\^|__|_|=)?([A-Ga-g])([,']*)")
_BAR = re.compile(r"(:*)(\|[\|\]]?|\[\||\|\])(:*)|::+")
_ENDING = re.compile(r"\[?([0-9]+(?:[,-][0-9]+)*)")
_TUPLET = re.compile(r"\(([2-9])(?::([0-9]?))?(?::([0-9]?))?")
_TIME_OF = {2: 3, 3: 2, 4: 3, 6: 2, 8: 3}
#: What quoted words say of the form, as decorations.
_SAID = (
    (re.compile(r"d\.? ?c\b|da capo", re.I), "D.C."), (re.compile(r"d\.? ?s\b|dal segno", re.I), "D.S."),
    (re.compile(r"fine\b", re.I), "fine"), (re.compile(r"segno\b", re.I), "segno"),
)  # fmt: skip
_CHORD_LETTERS = tuple("ABCDEFGN")
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
        self._at = Fraction(0)
        self._line_notes: list[tuple[int, int]] = []  # (measure, place in its tune) of the line's notes
        self._verse = 0
        self._voice: str | None = None
        self._reads_voice = True

    def run(self, chords: bool = False) -> Imported:
        body = False
        for number, line in enumerate(self._lines, 1):
            if line == NOTHING or line.startswith("%"):
                continue
            plain = line.split("%", 1)[0].rstrip()
            if not plain.strip():
                if body and self._has_music:
                    if any(FIELD.match(one) and one.startswith("X:") for one in self._lines[number:]):
                        self.remark("1", "more tunes follow in the file", "open them from files of their own")
                    break
                continue
            match = FIELD.fullmatch(plain.strip())
            if match and (match[1] in "ABCDFGHIKLMNOPQRrSsTUVWwXZmu+"):
                body = self._field(match[1], match[2].strip(), number, body) or body
            elif body:
                self._music(plain, number)
        if not self._has_music:
            raise BadInput(Problem(self.place, "there is no tune in it", "an ABC tune has K: and notes"))
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
        state = self._now
        if name == "T" and not self.title:
            self.title = value
        elif name == "C" and not self.composer:
            self.composer = value
        elif name == "M":
            self._take_meter(value, line)
        elif name == "L":
            length = strict.length(value)
            if not length or length > 4:
                raise self._wrong(line, 0, f"L:{value} is no length", "write L:1/8")
            state.unit = length
        elif name == "Q":
            self._take_tempo(value)
        elif name == "P" and body and value:
            self._signs.mark = self._signs.mark or value
        elif name == "V":
            self._take_voice(value)
        elif name == "w" and self._reads_voice:
            self._words(value)
        elif name == "K":
            self._take_key(value, line)
            return True
        return False

    def _take_voice(self, value: str) -> None:
        voice = (value.split() or [""])[0]
        if self._voice is None:
            self._voice = voice
        elif voice != self._voice:
            self.remark("1", f"another voice, {voice}", "the first one is read")
        self._reads_voice = voice == self._voice

    def _take_meter(self, value: str, line: int) -> None:
        words = {"C": "4/4", "C|": "2/2"}.get(value, value.strip("()"))
        if words == "none":
            self.remark(self._measure.number, "music without a meter", f"{self._now.meter} is kept")
            return
        over, _, under = words.partition("/")
        counts = [strict.whole(word) for word in over.strip("() ").split("+")]
        unit = strict.whole(under.strip())
        beats = sum(count for count in counts if count is not None)
        if None in counts or unit not in METER_UNITS or not 1 <= beats <= _MOST_BEATS:
            raise self._wrong(line, 0, f"M:{value} is no meter that is read", "write M:3/4")
        self._now.meter = Meter(beats, unit)
        if not self._row and not self._at:
            self._measure.meter = self._now.meter

    def _take_tempo(self, value: str) -> None:
        match = re.search(r"(?:([0-9]+/[0-9]+)\s*=\s*)?([0-9]{1,4})\s*$", value.replace('"', " ").strip())
        if match is None:
            return
        unit = strict.length(match[1]) if match[1] else self._now.length / 4
        if unit:
            self._now.tempo = int(match[2]) * unit * 4
            if not self._at:
                self._measure.tempo = self._now.tempo

    def _take_key(self, value: str, line: int) -> None:
        word = value.split(maxsplit=1)[0] if value.split() else "none"
        if word in ("none", "HP", "Hp"):
            self._now.key, self._now.sharps = Key(NoteName(0)), 0
            return
        note = read_note_name(word)
        if note is None:
            raise self._wrong(line, 0, f"K:{value} is no key", "write K:G or K:Am")
        rest = (word[note[1] :] + "".join(value.split()[1:2])).lower()
        mode = "m" if rest in ("m", "min", "minor") else rest[:3]
        if mode not in _MODES:
            mode = ""
        tonic = note[0]
        major = plainest_key(tonic.pitch_class + _MODES[mode], False)
        spelled = [key for key in ALL_KEYS if not key.minor
                   and (key.tonic.pitch_class - tonic.pitch_class) % 12 == _MODES[mode] % 12]  # fmt: skip
        letters = {0: 0, 3: 2, 5: 3, 10: 6, 8: 5, 7: 4, 1: 1}[_MODES[mode]]
        major = next((key for key in spelled if (key.tonic.step - tonic.step) % 7 == letters), major)
        minor = mode in ("m", "min", "aeo")
        own = Key(tonic, True) if minor else Key(tonic) if _MODES[mode] == 0 else major
        self._now.sharps = major.fifths
        self._now.key = own if own in ALL_KEYS else plainest_key(own.tonic.pitch_class, own.minor)
        if not self._at:
            self._measure.key = self._now.key

    # --- music ---

    def _music(self, line: str, number: int) -> None:
        if not self._reads_voice:
            return
        self._line_notes, self._verse = [], 0
        index = 0
        while index < len(line):
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
        inline = re.compile(r"\[([A-Za-z]):([^\]]*)\]").match(line, index)
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
        if _NOTE.match(line, index):
            pitch, end = self._pitch(line, index)
            return self._put(pitch, line, end)
        if not (sign in ").~-&]" or sign in _OWN_SIGNS):
            where = f"{self.place}, line {number}, column {index + 1}"
            problem = Problem(where, f"{sign!r} is no ABC that is read", "it is left out", number, index + 1)
            if len(self.problems) < _MOST_ODD:
                self.problems.append(problem)
        return index + 1

    def _quoted(self, line: str, index: int, number: int) -> int:
        end = line.find('"', index + 1)
        if end < 0:
            raise self._wrong(number, index, 'words without an end: " is missing', 'write " behind them')
        text = line[index + 1 : end].strip()
        sign = next((sign for pattern, sign in _SAID if pattern.match(text.lstrip("^_<>@"))), None)
        if sign is not None:
            self._decoration(sign)
        elif text[:1] in _CHORD_LETTERS or text.startswith("("):
            self._measure.chords.append((self._at, self._chord(text, number, index)))
        return end + 1  # everything else is a remark for the eye

    def _chord(self, text: str, line: int, column: int) -> ChordSymbol | None:
        plain = text.split("\\n", maxsplit=1)[0].strip()
        plain = plain[1:-1] if plain.startswith("(") and plain.endswith(")") else plain
        try:
            return parse_chord(plain)
        except BadInput as error:
            what = error.problems[0].what
            where = f"{self.place}, line {line}, column {column + 2}"
            self.problems.append(
                Problem(where, what, "no chord is taken; write it in the chart", line, column + 2)
            )
            return None

    def _decoration(self, word: str) -> None:
        signs = self._signs
        if word == "segno":
            signs.segno = True
        elif word == "coda":
            if any(sign.jump for sign in self.signs):
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
        text = match[0]
        before = len(text) - len(text.lstrip(":"))
        behind = len(text) - len(text.rstrip(":"))
        if set(text) == {":"}:
            before, behind = 1, 1
        if self._at or self._row or self._measure.chords:
            self._signs.ends = min(MOST_TIMES, before + 1) if before else 0
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
            first, _, last = part.partition("-")
            low, high = int(first[:3]), int((last or first)[:3])
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
        self._measure = Measure(number, False, meter=state.meter, key=state.key, tempo=None)
        self._signs, self._row, self._at = Signs(), [], Fraction(0)
        state.alters.clear()

    # --- notes ---

    def _pitch(self, line: str, index: int) -> tuple[Pitch | None, int]:
        match = _NOTE.match(line, index)
        assert match is not None
        letter, marks = match[2], match[3]
        octave = 5 if letter.islower() else 4
        octave += marks.count("'") - marks.count(",")
        step = _STEPS.index(letter.upper())
        place = (step, octave)
        if match[1]:
            self._now.alters[place] = _ACCIDENTALS[match[1]]
        alter = self._now.alters.get(place, self._signature(step))
        key = 12 * (octave + 1) + STEP_SEMITONES[step] + alter
        if key not in MIDI_KEYS:
            self.remark(self._measure.number, "a note beyond the keyboard", "it is left out")
            return None, match.end()
        return Pitch(key, NoteName(step, alter)), match.end()

    def _signature(self, step: int) -> int:
        sharps = self._now.sharps
        if sharps > 0:
            return int(step in _SHARPS[:sharps])
        return -int(step in tuple(reversed(_SHARPS))[: -sharps or None]) if sharps < 0 else 0

    def _put(self, pitch: Pitch | None, line: str, index: int, inner: Fraction = Fraction(1)) -> int:
        """A note with the length behind it."""
        length, index = read_length(line, index)
        length *= inner * self._now.length * self._factor()
        tied = line[index : index + 1] == "-"
        self._line_notes.append((len(self.measures), len(self._row)))
        self._row.append(Sung(self._at, length, pitch, tied and pitch is not None))
        self._at += length
        return index + tied

    def _factor(self) -> Fraction:
        state = self._now
        factor = state.broken * (state.tuplet.pop(0) if state.tuplet else 1)
        state.broken = Fraction(1)
        return factor

    def _rest(self, line: str, index: int) -> int:
        if line[index] in "ZX":
            count, end = read_length(line, index + 1)
            for _ in range(min(MAX_MEASURES, max(1, int(count)))):
                self._row.append(Sung(self._at, self._now.meter.quarters, None, tied=False))
                self._at += self._now.meter.quarters
                self._end_measure()
            return end
        length, end = read_length(line, index + 1)
        length *= self._now.length * self._factor()
        self._row.append(Sung(self._at, length, None, tied=False))
        self._at += length
        return end

    def _stack(self, line: str, index: int, number: int) -> int:
        """Notes at once: the highest is the tune."""
        at, best, inner = index + 1, None, Fraction(1)
        while at < len(line) and line[at] != "]":
            if not _NOTE.match(line, at):
                at += 1
                continue
            pitch, at = self._pitch(line, at)
            inner, at = read_length(line, at)
            if pitch is not None and (best is None or pitch.key > best.key):
                best = pitch
        if at >= len(line):
            raise self._wrong(number, index, "notes at once without an end", "write ] behind them")
        return self._put(best, line, at + 1, inner)

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

    # --- words ---

    def _words(self, text: str) -> None:
        """A line of words under the line of notes before it, a syllable a note that begins."""
        self._verse += 1
        struck = list(self._struck())
        at, bar = 0, struck[0][0] if struck else 0
        for syllable in syllables(text):
            if syllable == "|":
                bar += 1
                at = next((place for place, one in enumerate(struck) if one[0] >= bar), len(struck))
                continue
            if at >= len(struck):
                self.remark(self._measure.number, "more syllables than notes", "they are left out")
                return
            bar = struck[at][0]
            self._sing(struck[at], syllable)
            at += 1

    def _sing(self, where: tuple[int, int], syllable: str) -> None:
        """A syllable under a note; * is none."""
        if syllable == "*":
            return
        measure, place = where
        row = self._row if measure == len(self.measures) else self.tune[measure]
        held = syllable == "_"
        joined = syllable.endswith("-") and not held
        text = "" if held else syllable.rstrip("-").replace("~", " ").replace("\u2011", "-")
        row[place] = replace(row[place], words=(*row[place].words, Lyric(self._verse, text, joined, held)))

    def _struck(self) -> Iterator[tuple[int, int]]:
        tied = False
        for measure, place in self._line_notes:
            row = self._row if measure == len(self.measures) else self.tune[measure]
            if not tied:
                yield measure, place
            tied = row[place].tied
