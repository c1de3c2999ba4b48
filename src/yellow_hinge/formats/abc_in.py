"""Reading a tune with chord symbols from ABC notation (version 2.1): the first tune of a file, its first
voice.

A hand reader: the libraries that read it lose the place of a mistake, and most of the words.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from fractions import Fraction

from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.abc_words import FIELD, NOTHING, Now, Piece, joined, leads_on, pieces, read_length
from yellow_hinge.formats.chart_text import cleaned, decode
from yellow_hinge.formats.form_in import MOST_TIMES, Signs, played_order
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.lead_sheet import MAX_MEASURES, LeadSheet, Lyric, Measure, Sung
from yellow_hinge.rhythm.time import METER_UNITS, Meter
from yellow_hinge.song.chart import move_between
from yellow_hinge.song.words import WITHIN
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.keys import ALL_KEYS, Key, plainest_key
from yellow_hinge.theory.pitch import (
    MIDI_KEYS,
    STEP_SEMITONES,
    NoteName,
    Pitch,
    pitch_for_key,
    read_note_name,
)

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
_BAR = re.compile(r"(:*)(\.?\|[\|\]]*|\[\|+\]?)(:*)|::+")
_ENDING = re.compile(r"\[?([0-9]+(?:[,-][0-9]+)*)")
_TUPLET = re.compile(r"\(([2-9])(?::([0-9]?))?(?::([0-9]{0,2}))?")
_INLINE = re.compile(r"\[([A-Za-z]):([^\]]*)\]")
#: What a key's line says beside the key: accidentals of its own, and how far it sounds from what is written.
_OWN_ACCIDENTAL = re.compile(r"(?<![\w^_=])(\^\^|\^|__|_|=)([a-gA-G])(?![\w])")
_OCTAVE, _TRANSPOSE = re.compile(r"octave=(-?[0-9]{1,2})"), re.compile(r"(?:transpose|\bt)=(-?[0-9]{1,2})")
_PLAYED = re.compile(r"\(|\)|[A-Za-z]|[0-9]{1,2}")
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
        self._at = Fraction(0)
        self._line_notes: list[tuple[int, int]] = []  # (measure, place in its tune) of the line's notes
        self._verse = 0
        self._voice: str | None = None
        self._reads_voice = True
        self._verses_go_on = False
        self._over: tuple[list[Sung], Fraction] | None = None  # what an overlay is laid over
        self._play = ""  # the order of the parts, by their letters
        self._has_dacoda = "!dacoda!" in text
        self._waiting: list[Lyric] = []  # words below a rest that comes
        self._line_from = 0
        self._sung_to = (0, 0)

    def run(self, chords: bool = False) -> Imported:
        body = False
        for number, line in enumerate(self._lines, 1):
            if line == NOTHING:
                continue
            plain = line.rstrip()
            if not plain.strip() or (plain.startswith("X:") and body and self._has_music):
                if body and self._has_music:
                    if any(one.startswith("X:") for one in self._lines[number - 1 :]):
                        self.remark("1", "more tunes follow in the file", "open them from files of their own")
                    break
                continue
            match = FIELD.fullmatch(plain.strip())
            if match and len(match[1]) == 1 and match[1] in "ABCDFGHIKLMNOPQRrSsTUVWwXZmu+":
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
        elif name == "P" and value:
            if body:
                self._signs.mark = self._signs.mark or value
            else:
                self._play = value
        elif name == "V":
            if body:
                self._take_voice(value)
        elif name == "w" and self._reads_voice:
            self._words(value)
        elif name == "+" and self._reads_voice and self._verse:
            self._verses_go_on = True
            self._words(value)
        elif name == "W" and value:
            self.remark("1", "words stand below the tune", "they belong to no notes and are left out")
        elif name == "K":
            self._take_key(value, line)
            return True
        return False

    def _take_voice(self, value: str) -> None:
        voice = (value.split() or [""])[0]
        if self._voice is None and (self._has_music or self._at):
            self._voice = ""  # music before any voice is named
        if self._voice is None:
            self._voice = voice
        elif voice != self._voice:
            self.remark("1", f"another voice, {voice}", "the first one is read")
        self._reads_voice = voice == self._voice
        if self._reads_voice:
            self._take_sounding(value)

    def _take_sounding(self, value: str) -> None:
        """How far what is written lies from what sounds."""
        octave, transpose = _OCTAVE.search(value), _TRANSPOSE.search(value)
        if octave:
            self._now.octaves = max(-4, min(4, int(octave[1])))
        if transpose:
            self._now.moved = max(-36, min(36, int(transpose[1])))

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
        plain = re.sub(r'"[^"]*"', " ", value)
        match = re.search(r"((?:[0-9]+/[0-9]+\s*)+)=\s*([0-9]{1,4})", plain)
        match = match or re.fullmatch(r"\s*(C[0-9]*\s*=\s*)?([0-9]{1,4})\s*", plain)
        if match is None:
            return
        units = [strict.length(word) for word in re.findall(r"[0-9]+/[0-9]+", match[1] or "")]
        unit = sum((one for one in units if one), Fraction(0)) if units else self._now.length / 4
        if unit:
            self._now.tempo = int(match[2]) * unit * 4
            if not self._at:
                self._measure.tempo = self._now.tempo

    def _take_key(self, value: str, line: int) -> None:
        self._take_sounding(value)
        signs = {
            _STEPS.index(letter.upper()): _ACCIDENTALS[sign]
            for sign, letter in _OWN_ACCIDENTAL.findall(value)
        }
        word = value.split(maxsplit=1)[0] if value.split() else "none"
        if "=" in word or word in ("treble", "bass", "alto", "tenor", "perc"):
            return  # a clef alone changes no key
        if word in ("none", "HP", "Hp") or _OWN_ACCIDENTAL.match(word):
            self._now.key, self._now.sharps, self._now.signs = Key(NoteName(0)), 0, signs
            self._hold_key()
            return
        note = read_note_name(word)
        if note is None:
            raise self._wrong(line, 0, f"K:{value} is no key", "write K:G or K:Am")
        rest = (word[note[1] :] or "".join(value.split()[1:2])).lower()
        mode = "m" if rest in ("m", "min", "minor") else rest[:3]
        explicit = mode == "exp"
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
        self._now.sharps, self._now.signs = 0 if explicit else major.fifths, signs
        self._now.key = own if own in ALL_KEYS else plainest_key(own.tonic.pitch_class, own.minor)
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
        if not self._reads_voice:
            return
        self._line_notes, self._verse, self._line_from = [], 0, len(self.measures)
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
        step = _STEPS.index(letter.upper())
        place = (step, octave)
        if match[1]:
            self._now.alters[place] = _ACCIDENTALS[match[1]]
        alter = self._now.alters.get(place, self._signature(step))
        key = 12 * (octave + 1 + self._now.octaves) + STEP_SEMITONES[step] + alter + self._now.moved
        if key not in MIDI_KEYS:
            self.remark(self._measure.number, "a note beyond the keyboard", "it is left out")
            return None, match.end()
        if self._now.moved % 12:
            return pitch_for_key(key, self._sounding_key.prefers_flats), match.end()
        return Pitch(key, NoteName(step, alter)), match.end()

    def _signature(self, step: int) -> int:
        sharps = self._now.sharps
        if step in self._now.signs:
            return self._now.signs[step]
        if sharps > 0:
            return int(step in _SHARPS[:sharps])
        return -int(step in tuple(reversed(_SHARPS))[: -sharps or None]) if sharps < 0 else 0

    def _overlay(self, index: int) -> int:
        """What is laid over the bar from its beginning: another voice, which is left out."""
        if self._over is None:
            self._over = (self._row, self._at)
            self.remark(self._measure.number, "a voice laid over the tune", "the first one is read")
        self._row, self._at = [], Fraction(0)
        return index + 1

    def _laid_over(self) -> None:
        if self._over is not None:
            (self._row, self._at), self._over = self._over, None

    def _put(
        self, pitch: Pitch | None, line: str, index: int, inner: Fraction = Fraction(1), tied: bool = False
    ) -> int:
        """A note with the length behind it."""
        length, index = read_length(line, index)
        length *= inner * self._now.length * self._factor()
        while (
            line[index : index + 1] in (" ", ")")
            and line[index:].lstrip(" )")[:1] == "-"
            and self._over is None
        ):
            index += 1
        behind = line[index : index + 1] == "-"
        if self._over is not None:
            self._at += length
            return index + behind
        tied |= behind
        self._line_notes.append((len(self.measures), len(self._row)))
        self._row.append(Sung(self._at, length, pitch, tied and pitch is not None))
        self._at += length
        return index + behind

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

    # --- words ---

    def _words(self, text: str) -> None:
        """A line of words under the line of notes before it, a syllable a note that begins."""
        going_on = leads_on(text)
        row = list(pieces(text[:-1] if going_on else text))
        if self._verses_go_on:
            self._sung_from(row, self._sung_to)
        else:
            self._verse += 1
            self._sung_from(row, None)
        self._verses_go_on = going_on

    def _sung_from(self, row: Sequence[Piece], start: tuple[int, int] | None) -> None:
        places = self._places(row)
        at, bar = (0, self._line_from) if start is None else start
        for piece in row:
            if piece.sign and piece.text == "|":
                bar += 1
                at = next((place for place, one in enumerate(places) if one[0] >= bar), len(places))
                continue
            if at >= len(places):
                self.remark(self._measure.number, "more syllables than notes", "they are left out")
                break
            bar = places[at][0]
            self._sing(places[at], piece)
            at += 1
        self._sung_to = at, bar

    def _sing(self, where: tuple[int, int], piece: Piece) -> None:
        """A syllable under a note; * is none."""
        if piece.sign and piece.text == "*":
            return
        measure, place = where
        row = self._row if measure == len(self.measures) else self.tune[measure]
        held = piece.sign
        lyric = Lyric(self._verse, "" if held else piece.text, piece.joined and not held, held)
        row[place] = replace(row[place], words=(*row[place].words, lyric))

    def _places(self, row: Sequence[Piece]) -> list[tuple[int, int]]:
        """The notes that syllables stand under: those that are struck; or all, where the line has a sign for
        each that a tie leads on to."""
        notes = list(self._notes_of_line())
        struck = [where for where, tied in notes if not tied]
        ties = [place for place, (_, tied) in enumerate(notes) if tied]
        barred = any(piece.sign and piece.text == "|" for piece in row)
        signed = all(place >= len(row) or row[place].sign for place in ties)
        return [where for where, _ in notes] if signed and not barred and len(row) > len(struck) else struck

    def _notes_of_line(self) -> Iterator[tuple[tuple[int, int], bool]]:
        """The notes of the line, and whether a tie leads on to each."""
        tied = False
        for measure, place in self._line_notes:
            row = self._row if measure == len(self.measures) else self.tune[measure]
            yield (measure, place), tied
            tied = row[place].tied

    # --- the order of the parts ---

    def _order(self) -> list[int]:
        """As the header says, where it names the parts that there are."""
        letters = _parts_played(self._play)
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


def _parts_played(text: str) -> list[str]:
    """The letters of the parts in the order in which they are played: A2(BC)2 is AABCBC."""
    rows: list[list[str]] = [[]]
    last: list[str] = []
    for match in _PLAYED.finditer(text.replace(".", "")):
        word = match[0]
        if word == "(":
            rows.append([])
        elif word == ")" and len(rows) > 1:
            last = rows.pop()
            rows[-1] += last
        elif word.isdecimal():
            rows[-1] += last * (min(MOST_TIMES, int(word)) - 1)
        elif word not in "()":
            last = [word]
            rows[-1] += last
        if sum(map(len, rows)) > MAX_MEASURES:
            break
    return [letter for row in rows for letter in row]
