"""Chord symbols: what people write, read into one value and printed back.

``parse_chord(str(chord)) == chord`` holds for every chord this module can make.
The grammar is read by a table of tokens (:data:`_TOKENS`), longest first, because
symbols have no separators and every position can be named in an error.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.theory.pitch import DEGREES, NoteName, degree_semitones, read_note_name

#: Natural tensions stacked under an extension number. The eleventh is left out of a
#: thirteenth over a major third, where it would be a minor ninth above the third.
_STACK = {0: (), 7: (), 9: ("9",), 11: ("9", "11"), 13: ("9", "11", "13")}
_ALTERS_OF = {"9": ("b9", "#9"), "11": ("#11",), "13": ("b13",)}
_ORDER = {label: index for index, label in enumerate(DEGREES)}


class ChordSymbol(Struct, frozen=True):
    """One chord by its parts. Degree labels as in :data:`theory.pitch.DEGREES`.

    third      "3", "b3" or "" (power chords, suspensions)
    fifth      "5", "b5", "#5" or ""
    seventh    "", "7", "b7" or "bb7"
    extension  0, 7, 9, 11 or 13: how far the stack of thirds is named
    sixth      whether a sixth is named (C6, Cm69)
    sus        suspended degrees, "9" (sus2) and "11" (sus4)
    alters     altered tensions: b9, #9, #11, b13
    adds       added degrees outside the stack
    alt        the whole altered dominant, no tone named by itself
    bass       slash bass, or None
    upper      the upper chord of a polychord, or None
    """

    root: NoteName
    third: str = "3"
    fifth: str = "5"
    seventh: str = ""
    extension: int = 0
    sixth: bool = False
    sus: frozenset[str] = frozenset()
    alters: frozenset[str] = frozenset()
    adds: frozenset[str] = frozenset()
    alt: bool = False
    bass: NoteName | None = None
    upper: ChordSymbol | None = None

    @property
    def degrees(self) -> tuple[str, ...]:
        """The tones that the symbol names, from the root upwards by label order."""
        return _degrees(self)

    @property
    def kind(self) -> str:
        """What it is at bottom: major, minor, dominant, half-diminished, diminished, augmented, suspended or
        power; the keys of the tension table."""
        if self.sus:
            return "suspended"
        if not self.third:
            return "power" if self.seventh != "b7" else "dominant"
        if self.third == "b3":
            if self.fifth == "b5":
                return "half-diminished" if self.seventh == "b7" else "diminished"
            return "minor"
        if self.seventh == "b7":
            return "dominant"
        return "augmented" if self.fifth == "#5" else "major"

    @property
    def bass_name(self) -> NoteName:
        """The lowest note: the slash bass, or else the root."""
        return self.bass if self.bass is not None else self.root

    def label_of(self, pitch_class: int) -> str | None:
        """The label of a pitch class in this chord, preferring tones the symbol names."""
        offset = (pitch_class - self.root.pitch_class) % 12
        for label in (*self.degrees, "R"):
            if degree_semitones(label) == offset:
                return label
        return None

    def transposed(self, letters: int, semitones: int) -> ChordSymbol:
        """The same chord ``letters`` steps and ``semitones`` higher."""
        return replace(
            self,
            root=self.root.above(letters, semitones),
            bass=None if self.bass is None else self.bass.above(letters, semitones),
            upper=None if self.upper is None else self.upper.transposed(letters, semitones),
        )

    @property
    def telling(self) -> tuple[str, ...]:
        """The tones that it has its name from: third or suspension, a fifth that is altered, sixth, seventh,
        the highest of its stack, what is altered or added. Root and plain fifth are none of them."""
        tones = {self.third, self.seventh, *self.sus, *self.alters, *self.adds}
        tones |= {self.fifth} - {"5"} | ({"6"} if self.sixth else set())
        tones |= {str(self.extension)} & {*self.degrees}
        return tuple(sorted(tones - {""}, key=lambda label: int(label.lstrip("b#"))))

    @property
    def triad(self) -> ChordSymbol:
        """The triad that it stands on, or its suspension: without seventh, tensions and upper chord, over the
        same bass."""
        return ChordSymbol(self.root, self.third, self.fifth, sus=self.sus, bass=self.bass)

    @property
    def quality(self) -> str:
        """Everything of the symbol but root, bass and upper chord."""
        return _print_quality(self)

    def __str__(self) -> str:
        text = f"{self.root}{self.quality}"
        if self.bass is not None:
            text += f"/{self.bass}"
        return text if self.upper is None else f"{self.upper}//{text}"

    @property
    def pretty(self) -> str:
        """With real music signs, for the screen and the page."""
        text = self.root.pretty + pretty_quality(self.quality)
        if self.bass is not None:
            text += f"/{self.bass.pretty}"
        return text if self.upper is None else f"{self.upper.pretty}//{text}"


@lru_cache(maxsize=1024)
def pretty_quality(quality: str) -> str:
    """Flat and sharp signs for the letters b and # of alterations; ° and ø for dim and m7b5."""
    quality = quality.replace("dim", "°") if quality.startswith("dim") else quality
    quality = "ø7" + quality[4:] if quality.startswith("m7b5") else quality
    return re.sub(r"b(?=\d)", "♭", quality).replace("#", "♯")


@lru_cache(maxsize=4096)
def _degrees(chord: ChordSymbol) -> tuple[str, ...]:
    tones = {"R", chord.third, chord.fifth, chord.seventh, *chord.sus, *chord.alters, *chord.adds}
    if chord.sixth:
        tones.add("6")
    for natural in _STACK[chord.extension]:
        over_major_third = chord.third == "3" and chord.extension == 13 and natural == "11"
        if not over_major_third and not tones.intersection(_ALTERS_OF[natural]):
            tones.add(natural)
    if chord.upper is not None:
        tones.update(_upper_labels(chord, tones))
    tones.discard("")
    return tuple(sorted(tones, key=_ORDER.__getitem__))


def _upper_labels(chord: ChordSymbol, own: set[str]) -> set[str]:
    """Labels, over the lower root, of the upper chord's tones."""
    assert chord.upper is not None
    named = {degree_semitones(label): label for label in own if label}
    labels = set()
    for label in chord.upper.degrees:
        offset = (chord.upper.root.degree(label).pitch_class - chord.root.pitch_class) % 12
        choices = [name for name, (_, semitones) in DEGREES.items() if semitones == offset]
        labels.add(named.get(offset, choices[0]))
    return labels


# --- reading -------------------------------------------------------------------------


class _Reading:
    """The parts gathered while the tokens go by."""

    def __init__(self) -> None:
        self.third, self.fifth, self.seventh = "3", "5", ""
        self.extension = 0
        self.diminished = self.sixth = self.alt = False
        self.sus: set[str] = set()
        self.alters: set[str] = set()
        self.adds: set[str] = set()
        self.omits: set[str] = set()
        self.started = False

    def finish(self, root: NoteName) -> ChordSymbol:
        if self.extension >= 7 and not self.seventh:
            self.seventh = "bb7" if self.diminished else "b7"
        third = "" if self.sus or "3" in self.omits else self.third
        fifth = "" if "5" in self.omits else self.fifth
        return ChordSymbol(
            root=root,
            third=third,
            fifth=fifth,
            seventh=self.seventh,
            extension=max(self.extension, 7) if self.seventh else 0,
            sixth=self.sixth,
            sus=frozenset(self.sus),
            alters=frozenset(self.alters),
            adds=frozenset(self.adds - self.sus),
            alt=self.alt,
        )


class QualityError(ValueError):
    """A quality whose parts contradict each other; ``index`` is where in the text."""

    def __init__(self, what: str, index: int) -> None:
        super().__init__(what)
        self.index = index


_Effect = Callable[[_Reading, re.Match[str]], None]


def _major(reading: _Reading, match: re.Match[str]) -> None:
    number = match.group(1)
    if number is None and match.group(0) in ("Δ", "△", "∆"):
        number = "7"
    if number is None:
        return
    if number in ("6", "69", "6/9"):
        _six(reading, number)
        return
    reading.seventh = "7"
    reading.extension = max(reading.extension, int(number))


def _minor(reading: _Reading, _: re.Match[str]) -> None:
    reading.third = "b3"


def _diminished(reading: _Reading, match: re.Match[str]) -> None:
    reading.third, reading.fifth = "b3", "b5"
    reading.diminished = True
    if match.group(1):
        reading.extension, reading.seventh = 7, "bb7"


def _half_diminished(reading: _Reading, match: re.Match[str]) -> None:
    reading.third, reading.fifth, reading.seventh = "b3", "b5", "b7"
    reading.extension = int(match.group(1) or 7)


def _augmented(reading: _Reading, _: re.Match[str]) -> None:
    reading.fifth = "#5"


def _suspended(reading: _Reading, match: re.Match[str]) -> None:
    which = match.group(1) or "4"
    reading.sus.update({"2": ("9",), "4": ("11",)}.get(which, ("9", "11")))


def _six(reading: _Reading, text: str) -> None:
    reading.sixth = True
    if text != "6":
        reading.adds.add("9")


def _number(reading: _Reading, match: re.Match[str]) -> None:
    text = match.group(0)
    if text.startswith("6"):
        _six(reading, text)
    elif text == "5":
        reading.third = ""
    elif text == "2":
        reading.adds.add("9")
    elif text == "4":
        reading.sus.add("11")
    elif reading.extension and match.string[match.start() - 1] not in "(, ":
        raise ValueError(f"a second number {text} after {reading.extension}")
    else:
        reading.extension = max(reading.extension, int(text))


def _alter(reading: _Reading, match: re.Match[str]) -> None:
    flat = match.group(1) in "b♭-−"
    number = {"4": "11", "6": "13"}.get(match.group(2), match.group(2))
    label = ("b" if flat else "#") + number
    if number == "5" and reading.fifth in ("5", label):
        reading.fifth = label
    elif label in ("b5", "#5"):
        reading.alters.add("#11" if flat else "b13")
    elif label in DEGREES:
        reading.alters.add(label)
    else:
        raise ValueError(f"{label} is another name of {'3' if flat else '#5'}")


def _altered(reading: _Reading, _: re.Match[str]) -> None:
    reading.alt, reading.fifth = True, ""
    reading.extension, reading.seventh = 7, "b7"


def _add(reading: _Reading, match: re.Match[str]) -> None:
    sign = {"b": "b", "♭": "b", "#": "#", "♯": "#"}.get(match.group(1) or "", "")
    number = {"2": "9", "4": "11"}.get(match.group(2), match.group(2))
    label = sign + number
    if label == "6":
        reading.sixth = True
    elif label in DEGREES:
        reading.adds.add(label)
    else:
        raise ValueError(f"{label} is no degree that can be added")


def _omit(reading: _Reading, match: re.Match[str]) -> None:
    reading.omits.add(match.group(1))


_START, _ANY = True, False
#: (pattern, only at the start of the quality, effect); the first that fits is taken.
_TOKENS: tuple[tuple[re.Pattern[str], bool, _Effect], ...] = tuple(
    (re.compile(pattern), start, effect)
    for pattern, start, effect in (
        (r"alt", _ANY, _altered),
        (r"add([b♭#♯]?)(2|4|6|9|11|13)", _ANY, _add),
        (r"(?:no|omit)([35])(?:rd|th)?", _ANY, _omit),
        (r"sus(2/4|24|42|2|4)?", _ANY, _suspended),
        (r"(?:major|maj|Maj|MAJ|ma(?!dd)|Ma|M|Δ|△|∆)(13|11|9|7|6/9|69|6)?", _ANY, _major),
        (r"(?:minor|min|mi|m)", _START, _minor),
        (r"\+5", _START, lambda reading, _: setattr(reading, "fifth", "#5")),
        (r"(?:-|−)5", _START, lambda reading, _: setattr(reading, "fifth", "b5")),
        (r"(?:-|−)", _START, _minor),
        (r"(?:dim|o|°|º)(7)?", _START, _diminished),
        (r"[øØ](13|11|9|7)?", _START, _half_diminished),
        (r"(?:aug|\+)", _START, _augmented),
        (r"([b♭#♯+\-−])(13|11|5|9|4|6)", _ANY, _alter),
        (r"(?:aug|\+)", _ANY, _augmented),
        (r"6/9|69|6|13|11|9|7|5|2|4", _ANY, _number),
    )
)
#: Longer than any symbol that is written.
MAX_SIGNS = 60
#: Spellings offered when a symbol makes no sense ("nearest reading").
_KNOWN_QUALITIES = (
    "", "m", "7", "maj7", "m7", "6", "m6", "69", "m69", "9", "m9", "maj9", "11", "m11", "13",
    "m13", "maj13", "dim", "dim7", "m7b5", "aug", "7#5", "7b9", "7#9", "7#11", "13#11", "7alt",
    "sus2", "sus4", "7sus4", "9sus4", "13sus4", "add9", "5", "m(maj7)", "m7(add11)", "maj7#11",
)  # fmt: skip


def read_quality(text: str, start: int, root: NoteName) -> tuple[ChordSymbol, int]:
    """Read a quality from ``start`` up to the end, a slash bass, or nonsense.

    Gives the chord on ``root`` and the index where reading stopped.
    Raises :class:`QualityError` for tones that contradict each other.
    """
    reading, index = _Reading(), start
    open_brackets: list[int] = []
    while index < len(text):
        if text[index] in "(), ":
            if text[index] == "(":
                open_brackets.append(index)
            elif text[index] == ")":
                if not open_brackets:
                    break
                open_brackets.pop()
            index += 1
            continue
        match = _take_token(reading, text, index)
        if match is None:
            break
        index = match.end()
    if open_brackets:
        raise QualityError("a bracket is open and never closed", open_brackets[-1])
    return reading.finish(root), index


def _take_token(reading: _Reading, text: str, index: int) -> re.Match[str] | None:
    """Apply the first token that fits at ``index``; None when none does."""
    for pattern, only_start, effect in _TOKENS:
        match = pattern.match(text, index)
        if match and not (only_start and reading.started):
            try:
                effect(reading, match)
            except ValueError as error:
                raise QualityError(str(error), index) from None
            reading.started = True
            return match
    return None


@lru_cache(maxsize=512)
def _nearest(quality: str) -> str:
    """The quality that is spelled most like this."""
    import difflib  # noqa: PLC0415 - only for what cannot be read

    near = difflib.get_close_matches(quality, _KNOWN_QUALITIES, n=1, cutoff=0.0)
    return near[0] if near else ""


def _complain(text: str, column: int, what: str, place: str) -> BadInput:
    found = read_note_name(text)
    if found is None:
        remedy = "begin with a note letter A to G, then the quality: Cm7, F#maj9, Bb13"
    else:
        remedy = f"did you mean {found[0]}{_nearest(text[found[1] :])}?"
    return BadInput(Problem(place, what, remedy, column=column + 1, length=len(text) - column))


NO_CHORD = "N.C."


def pretty_symbol(chord: ChordSymbol | None) -> str:
    """A symbol as players read it; "N.C." where there is no chord."""
    return NO_CHORD if chord is None else chord.pretty


def symbol_text(chord: ChordSymbol | None) -> str:
    """A symbol as it is typed; "N.C." where there is no chord."""
    return NO_CHORD if chord is None else str(chord)


@lru_cache(maxsize=4096)
def parse_chord(text: str, place: str = "chord") -> ChordSymbol | None:
    """Read a chord symbol. ``N.C.`` and ``NC`` (no chord) give None.

    Raises :class:`BadInput` naming the position (``column`` within ``text``, from 1)
    and the nearest reading.
    """
    text = text.strip()
    if text in (NO_CHORD, "NC", "N.C", "n.c."):
        return None
    if len(text) > MAX_SIGNS:
        what, remedy = f"{len(text):,} signs are no chord symbol", "write a symbol: Cm7, F#maj9, Bb13"
        raise BadInput(Problem(place, what, remedy, column=1, length=len(text)))
    if "//" in text:
        return _parse_polychord(text, place)
    found = read_note_name(text)
    if found is None:
        raise _complain(text, 0, f"{text!r} does not begin with a note letter", place)
    root, index = found
    try:
        chord, index = read_quality(text, index, root)
    except QualityError as error:
        raise _complain(text, error.index, f"{text!r}: {error}", place) from None
    if index < len(text) and text[index] == "/":
        bass = read_note_name(text, index + 1)
        if bass is None or bass[1] != len(text):
            what = f"{text[index + 1 :]!r} in {text!r} is no bass note"
            remedy = f"write a note letter after the slash: {text[:index]}/{root.degree('3')}"
            raise BadInput(Problem(place, what, remedy, column=index + 2))
        chord, index = with_bass(chord, bass[0]), bass[1]
    if index < len(text):
        what = f"cannot read {text[index:]!r} in {text!r} (character {index + 1})"
        raise _complain(text, index, what, place)
    return chord


def with_bass(chord: ChordSymbol, bass: NoteName) -> ChordSymbol:
    """The chord over a slash bass; the root as bass is no slash chord."""
    return replace(chord, bass=None if bass == chord.root else bass)


def _parse_polychord(text: str, place: str) -> ChordSymbol:
    upper_text, _, lower_text = text.partition("//")
    if "//" in lower_text:
        raise _complain(text, len(upper_text) + 2, f"{text!r} has more than two storeys", place)
    upper, lower = parse_chord(upper_text, place), parse_chord(lower_text, place)
    if upper is None or lower is None or upper.upper or lower.upper or upper.bass:
        raise _complain(text, 0, f"{text!r} is not one chord over one chord", place)
    return replace(lower, upper=upper)


# --- printing ------------------------------------------------------------------------


@lru_cache(maxsize=4096)
def _print_quality(chord: ChordSymbol) -> str:
    head, fifth_said = _print_head(chord)
    marks = [] if fifth_said or chord.fifth in ("5", "") else [chord.fifth]
    marks += sorted(chord.alters, key=_ORDER.__getitem__)
    if chord.alt:
        head += "alt"
    adds = sorted(chord.adds, key=_ORDER.__getitem__)
    if chord.sixth and "9" in adds:
        adds.remove("9")
    if marks:
        bare = len(marks) == 1 and head[-1:].isdigit() and not chord.sixth
        head += marks[0] if bare else f"({','.join(marks)})"
    for label in adds:
        head += f"add{label}" if head in ("", "m") else f"(add{label})"
    head += "(no3)" if _third_omitted(chord) else ""
    return head + ("(no5)" if not chord.fifth and not chord.alt else "")


def _third_omitted(chord: ChordSymbol) -> bool:
    return not chord.third and not chord.sus and not _is_power(chord)


def _is_power(chord: ChordSymbol) -> bool:
    plain = not (chord.seventh or chord.sixth or chord.alters or chord.adds or chord.sus)
    return plain and not chord.third and chord.fifth == "5"


def _print_head(chord: ChordSymbol) -> tuple[str, bool]:
    """Triad, sixth, seventh and suspension; and whether the altered fifth is said by it."""
    if _is_power(chord):
        return "5", True
    said = False
    diminished = chord.third == "b3" and chord.fifth == "b5"
    extension = str(chord.extension)
    if diminished and chord.seventh != "b7" and not chord.sixth:
        head = {"": "dim", "bb7": "dim7", "7": f"dim(maj{extension})"}[chord.seventh]
        if chord.seventh == "bb7" and chord.extension > 7:
            head = f"dim{extension}"
        return head, True
    head = "m" if chord.third == "b3" else ""
    if chord.fifth == "#5" and not chord.seventh and not chord.sixth and not head:
        head, said = "aug", True
    if chord.sixth:
        head += "69" if "9" in chord.adds else "6"
    if chord.seventh == "7":
        head += f"(maj{extension})" if head else f"maj{extension}"
    elif chord.seventh == "b7" and not chord.alt:
        head += f"({extension})" if chord.sixth else extension
    elif chord.seventh == "b7":
        head += "7"
    if chord.sus:
        head += {frozenset({"9"}): "sus2", frozenset({"11"}): "sus"}.get(chord.sus, "sus24")
    return head, said
