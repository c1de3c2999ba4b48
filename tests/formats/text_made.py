"""Text files as others write them, made by chance with what is in them known: chords over words, ChordPro,
ABC. Nothing of ours writes them."""

from __future__ import annotations

import random
from collections.abc import Sequence
from fractions import Fraction

from msgspec import Struct, field

_ROOTS = ("C", "D", "E", "F", "G", "A", "Bb", "Eb", "F#", "B")
_KINDS = ("", "m", "7", "m7", "maj7", "sus4", "m7b5", "dim7", "9", "add9", "7b9", "6", "m9", "13")
_WORDS = (
    "lanterns", "over", "the", "slow", "river", "and", "a", "low", "tide", "turning", "home", "again",
    "Nora", "said", "I", "am", "leaving", "Mud", "Bare", "rope", "on", "salt", "stairs", "Add", "Ember",
)  # fmt: skip
_NAMES = ("Verse", "Chorus", "Bridge", "Intro", "Outro", "Verse 2", "Pre-Chorus", "Solo")
_GERMAN = {"Bb": "B", "B": "H", "Eb": "Es", "F#": "Fis"}


class Part(Struct):
    """A section: its name, and lines of (chord, words sung from it on); an empty chord has none."""

    name: str
    lines: list[list[tuple[str, str]]]
    times: int = 1


class Made(Struct):
    """A file: its suffix and text, and what is in it: the chords as played; the title, the words."""

    suffix: str
    text: str
    chords: list[str]
    title: str = ""
    words: list[str] = field(default_factory=list)
    notes: list[tuple[Fraction, int | None]] = field(default_factory=list)


def _chord(rng: random.Random) -> str:
    chord = rng.choice(_ROOTS) + rng.choice(_KINDS)
    return f"{chord}/{rng.choice('CDEFGA')}" if rng.random() < 0.1 else chord


def _parts(rng: random.Random) -> list[Part]:
    names = rng.sample(_NAMES, rng.randint(2, 4))
    parts = []
    for name in names:
        lines = []
        for _ in range(rng.randint(1, 3)):
            row = []
            for _ in range(rng.randint(1, 4)):
                row.append((_chord(rng), " ".join(rng.choices(_WORDS, k=rng.randint(1, 4)))))
            lines.append(row)
        parts.append(Part(name, lines))
    return parts


def _played(parts: Sequence[Part]) -> list[str]:
    return [chord for part in parts for _ in range(part.times) for row in part.lines for chord, _ in row]


def over_words(seed: int) -> Made:
    """Chords over words in one of the ways that people type them."""
    rng = random.Random(seed)
    parts = _parts(rng)
    title = "Reed Song" if rng.random() < 0.6 else ""
    heading = rng.choice(("[{}]", "{}:", "{}", "[{}]"))
    german = rng.random() < 0.15
    head = []
    if title:
        head.append(rng.choice((title, f"Title: {title}")))
        if rng.random() < 0.4:
            head.append(rng.choice(("A. Maker", "by A. Maker", "Artist: A. Maker")))
    if rng.random() < 0.5:
        head.append("Key: C")
    if rng.random() < 0.3:
        head.append("Tempo: 96")
    out = [*head, ""] if head else []
    for part in parts:
        bare = rng.random() < 0.2  # chords alone
        barred = rng.random() < 0.2
        if rng.random() < 0.2:
            part.times = 2
        times = f" x{part.times}" if part.times > 1 else ""
        name = heading.format(part.name)
        out.append(f"{name[:-1]}{times}]" if times and name.endswith("]") else f"{name}{times}")
        for row in part.lines:
            out += _over(rng, row, bare, barred, german)
        out.append("")
    text = "\n".join(out)
    if rng.random() < 0.2:
        text = text.replace("\n", "\r\n")
    return Made(".txt", text, _played(parts), title)


def _over(
    rng: random.Random, row: list[tuple[str, str]], bare: bool, barred: bool, german: bool
) -> list[str]:
    names = [_german(chord) if german else chord for chord, _ in row]
    if bare or barred:
        return [f"| {' | '.join(names)} |" if barred else "  ".join(names)]
    above = below = ""
    lead = rng.choice(("", "", "so "))
    below = lead
    for (_, words), name in zip(row, names, strict=True):
        at = max(len(below), len(above) + (1 if above else 0))
        above = above.ljust(at) + name
        below = below.ljust(at) + words + " "
    return [above, below.rstrip()]


def _german(chord: str) -> str:
    upper, slash, bass = chord.partition("/")
    for name, other in _GERMAN.items():
        if upper.startswith(name) and not (name == "B" and upper.startswith("Bb")):
            upper = other + upper[len(name) :]
            break
    return upper + slash + bass


def chordpro(seed: int) -> Made:
    """ChordPro with directives in long and short forms, choruses called again, tabs and comments."""
    rng = random.Random(seed)
    parts = _parts(rng)
    short = rng.random() < 0.5
    out = [f"{{{'t' if short else 'title'}: Reed Song}}"]
    if rng.random() < 0.5:
        out.append(rng.choice(("{artist: A. Maker}", "{subtitle: A. Maker}", "{composer: A. Maker}")))
    if rng.random() < 0.6:
        out.append(rng.choice(("{key: C}", "{meta: key C}", "{key: Am}")))
    if rng.random() < 0.3:
        out.append("{tempo: 96}")
    if rng.random() < 0.2:
        out += ["{define: C base-fret 1 frets x 3 2 0 1 0}", "# a remark [Q]"]
    chords: list[str] = []
    chorus: list[str] = []
    for place, part in enumerate(parts):
        own = _played([part])
        chords += own
        is_chorus = part.name == "Chorus"
        if is_chorus:
            chorus = own
        begin, end = {
            "Chorus": ("soc", "eoc") if short else ("start_of_chorus", "end_of_chorus"),
            "Bridge": ("sob", "eob") if short else ("start_of_bridge: Bridge", "end_of_bridge"),
        }.get(part.name, ("sov", "eov") if short else (f"start_of_verse: {part.name}", "end_of_verse"))
        out.append(f"{{{begin}}}")
        for row in part.lines:
            line = ""
            for chord, words in row:
                cut = rng.randint(0, len(words)) if rng.random() < 0.2 else 0
                line += f"{words[:cut]}[{chord}]{words[cut:]} "
            out.append(line.rstrip())
        out.append(f"{{{end}}}")
        if rng.random() < 0.3:
            out.append("")
        if chorus and place and rng.random() < 0.4:
            out.append(rng.choice(("{chorus}", "{chorus: Again}")))
            chords += chorus
        if rng.random() < 0.15:
            out += ["{start_of_tab}", "e|--0--1--3--|", "{end_of_tab}"]
    return Made(rng.choice((".cho", ".pro", ".chordpro")), "\n".join(out) + "\n", chords, "Reed Song")


def grid(seed: int) -> Made:
    """A grid of ChordPro with its bars."""
    rng = random.Random(seed)
    out, chords = ["{title: Reed Song}", "{time: 4/4}", "{key: C}", "{start_of_grid}"], []
    for _ in range(rng.randint(1, 3)):
        bars, row = [], []
        for _ in range(4):
            count = rng.choice((1, 1, 2, 4))
            own = [_chord(rng) for _ in range(count)]
            row += own
            bars.append(" ".join(name + " ." * (4 // count - 1) for name in own))
        repeated = rng.random() < 0.3
        opened, closed = ("|:", ":|") if repeated else ("|", "|")
        out.append(f"{opened} {' | '.join(bars)} {closed}")
        chords += row * (2 if repeated else 1)
    return Made(".cho", "\n".join([*out, "{end_of_grid}"]) + "\n", chords, "Reed Song")


# --- ABC -----------------------------------------------------------------------------------------

#: How many sharps (or flats, below zero) keys and modes have.
_KEYS = {"C": 0, "G": 1, "D": 2, "A": 3, "F": -1, "Bb": -2, "Em": 1, "Am": 0, "Dm": -1, "Ddor": 0, "Amix": 2}
_SHARPS = "FCGDAEB"
_STEPS = dict(zip("CDEFGAB", (0, 2, 4, 5, 7, 9, 11), strict=True))
_ACCIDENTALS = {"^": 1, "_": -1, "=": 0}


class _Bar(Struct):
    """A bar as it is written, and what sounds in it: (length in quarters, key of the keyboard or None for a
    rest, whether a tie leads on to it)."""

    text: str
    notes: list[tuple[Fraction, int | None, bool]]
    chords: list[tuple[Fraction, str]]
    words: list[str]


def _signature(key: str) -> dict[str, int]:
    count = _KEYS[key]
    letters = _SHARPS[:count] if count > 0 else _SHARPS[::-1][:-count]
    return dict.fromkeys(letters, 1 if count > 0 else -1)


class _Tune:
    """Writes bars of one tune."""

    def __init__(self, rng: random.Random) -> None:
        self.rng = rng
        self.key = rng.choice(tuple(_KEYS))
        self.meter, self.bar_quarters = rng.choice((("4/4", 4), ("3/4", 3), ("6/8", 3), ("2/4", 2), ("C", 4)))
        self.unit = rng.choice(("1/8", "1/4", "1/16"))
        self.unit_quarters = Fraction(self.unit) * 4
        self.signature = _signature(self.key)
        self.sung = rng.random() < 0.5

    def _length(self, quarters: Fraction) -> str:
        units = quarters / self.unit_quarters
        if units == 1:
            return ""
        if units == Fraction(1, 2):
            return self.rng.choice(("/", "/2", "1/2"))
        return str(units.numerator) if units.denominator == 1 else f"{units.numerator}/{units.denominator}"

    def _pitch(self, alters: dict[tuple[str, int], int]) -> tuple[str, int]:
        letter, octave = self.rng.choice("CDEFGAB"), self.rng.choice((4, 4, 5))
        sign = self.rng.choice(("^", "_", "=")) if self.rng.random() < 0.12 else ""
        if sign:
            alters[letter, octave] = _ACCIDENTALS[sign]
        alter = alters.get((letter, octave), self.signature.get(letter, 0))
        name = letter if octave == 4 else letter.lower()
        return sign + name, 12 * (octave + 1) + _STEPS[letter] + alter

    def bar(self) -> _Bar:
        rng, left, at = self.rng, Fraction(self.bar_quarters), Fraction(0)
        alters: dict[tuple[str, int], int] = {}
        text, words = "", list[str]()
        notes: list[tuple[Fraction, int | None, bool]] = []
        chords: list[tuple[Fraction, str]] = []
        while left:
            if at == 0 or rng.random() < 0.25:
                chord = _chord(rng)
                text += f'"{chord}"'
                chords.append((at, chord))
            if rng.random() < 0.08:
                text += rng.choice(("!p!", "~", ".", "{c}", '"^slow"'))
            if left >= 1 and rng.random() < 0.15:  # a triplet of eighths
                text += "(3"
                for _ in range(3):
                    name, sounding = self._pitch(alters)
                    text += name + self._length(Fraction(1, 2))
                    notes.append((Fraction(1, 3), sounding, False))
                    words.append(rng.choice(_WORDS).lower())
                spent = Fraction(1)
            elif left >= 1 and rng.random() < 0.15:  # a dotted eighth and a sixteenth
                for number, long in enumerate((Fraction(3, 4), Fraction(1, 4))):
                    name, sounding = self._pitch(alters)
                    text += name + self._length(Fraction(1, 2)) + (">" if number == 0 else "")
                    notes.append((long, sounding, False))
                    words.append(rng.choice(_WORDS).lower())
                spent = Fraction(1)
            else:
                spent = rng.choice([long for long in _LONG if long <= left])
                if rng.random() < 0.12:
                    text += "z" + self._length(spent)
                    notes.append((spent, None, False))
                else:
                    name, sounding = self._pitch(alters)
                    text += name + self._length(spent)
                    notes.append((spent, sounding, False))
                    words.append(rng.choice(_WORDS).lower())
            at, left = at + spent, left - spent
            text += rng.choice(("", " "))
        return _Bar(text, notes, chords, words)


_LONG = (Fraction(1, 2), Fraction(1), Fraction(1), Fraction(2), Fraction(3, 2), Fraction(1, 4) * 2)


def abc(seed: int) -> Made:
    """A tune in ABC with repeats and endings, chords in quotes, and words under half of them."""
    rng = random.Random(seed)
    tune = _Tune(rng)
    head = ["X:1", "T:Reed Song", f"M:{tune.meter}", f"L:{tune.unit}", "Q:1/4=96", f"K:{tune.key}"]
    if rng.random() < 0.3:
        head.insert(2, "C:A. Maker")
    if rng.random() < 0.3:
        head.insert(2, "% a remark")
    out, played = list(head), list[_Bar]()
    for _ in range(rng.randint(1, 3)):
        rows = [tune.bar() for _ in range(rng.randint(2, 4))]
        form = rng.choice(("plain", "repeat", "endings"))
        text = " | ".join(bar.text for bar in rows)
        if form == "plain":
            out.append(f"{text} {rng.choice(('|', '||'))}")
            written, heard = rows, rows
        elif form == "repeat":
            out.append(f"|: {text} :|")
            written, heard = rows, rows * 2
        else:
            first, second = tune.bar(), tune.bar()
            out.append(f"|: {text} |1 {first.text} :|2 {second.text} {rng.choice(('|]', '||'))}")
            written, heard = [*rows, first, second], [*rows, first, *rows, second]
        played += heard
        if tune.sung:
            out.append("w: " + " | ".join(" ".join(bar.words) for bar in written))
    notes: list[tuple[Fraction, int | None]] = [
        (long, sounding) for bar in played for long, sounding, _ in bar.notes
    ]
    chords = [chord for bar in played for _, chord in bar.chords]
    words = [word for bar in played for word in bar.words] if tune.sung else []
    return Made(".abc", "\n".join(out) + "\n", chords, "Reed Song", words, notes)
