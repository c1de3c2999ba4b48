"""Words of theory that players meet, each in a sentence, with its notes in a chord of theirs.

What is said is the common ground of arranging and harmony books; nothing here decides how anything is played.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from msgspec import Struct

from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import Pitch, degree_semitones

#: Where examples lie: the first tone at or above this key (F3), a bass note an octave or more below it.
_FROM, _BASS_FROM = 53, 36
#: Degrees of chords that stand as they are named.
_STACKED = ("R", "b3", "3", "11", "b5", "5", "#5", "6", "bb7", "b7", "7", "9")


def _pitch(chord: ChordSymbol, label: str, at_least: int) -> Pitch:
    """The lowest key that has a degree of a chord, not below another."""
    name = chord.root.degree(label)
    return Pitch(at_least + (name.pitch_class - at_least) % 12, name)


def _upwards(chord: ChordSymbol, labels: Sequence[str], at_least: int = _FROM) -> tuple[Pitch, ...]:
    """Degrees of a chord one above the other, as close as they lie."""
    pitches: list[Pitch] = []
    for label in labels:
        pitches.append(_pitch(chord, label, pitches[-1].key + 1 if pitches else at_least))
    return tuple(pitches)


def _tones(chord: ChordSymbol) -> list[str]:
    """Root, third, fifth and seventh or sixth, as far as the chord has them."""
    stacked = [label for label in _STACKED if label in (chord.degrees if chord.sus else _plain(chord))]
    return stacked[:4]


def _plain(chord: ChordSymbol) -> list[str]:
    return [label for label in chord.degrees if label not in ("9", "11")]


def _third(chord: ChordSymbol) -> str:
    return next((label for label in ("b3", "3", "11", "9") if label in chord.degrees), "")


def _seventh(chord: ChordSymbol) -> str:
    return next((label for label in ("b7", "7", "bb7", "6") if label in chord.degrees), "")


def _guides(chord: ChordSymbol) -> tuple[Pitch, ...]:
    third, seventh = _third(chord), _seventh(chord)
    return _upwards(chord, [third, seventh]) if third and seventh else ()


def _close(chord: ChordSymbol) -> tuple[Pitch, ...]:
    return _upwards(chord, _tones(chord))


def _inverted(chord: ChordSymbol) -> tuple[Pitch, ...]:
    first, *others = _tones(chord)
    return _upwards(chord, [*others, first])


def _dropped(chord: ChordSymbol, place: int) -> tuple[Pitch, ...]:
    """Close, with one voice from the top an octave lower; nothing for a chord of three tones."""
    voices = list(_close(chord))
    if len(voices) < 4:
        return ()
    voice = voices.pop(-place)
    return (Pitch(voice.key - 12, voice.name), *voices)


def _rootless(chord: ChordSymbol) -> tuple[Pitch, ...]:
    inner = [label for label in _tones(chord) if label != "R"]
    if "b9" in chord.degrees or chord.alt:
        inner.append("b9")
    elif _seventh(chord) and chord.fifth == "5" and "9" not in inner:
        inner.append("9")
    return _upwards(chord, inner)


def _over_root(chord: ChordSymbol, labels: Sequence[str]) -> tuple[Pitch, ...]:
    root = _pitch(chord, "R", _BASS_FROM)
    return (root, *_upwards(chord, labels, max(_FROM, root.key + 1)))


def _shell(chord: ChordSymbol) -> tuple[Pitch, ...]:
    return _over_root(chord, [label for label in (_third(chord), _seventh(chord)) if label])


def _spread(chord: ChordSymbol) -> tuple[Pitch, ...]:
    """Root and fifth below, seventh and third above: wide below, closer above."""
    root = _pitch(chord, "R", _BASS_FROM)
    fifth = next((label for label in ("b5", "5", "#5") if label in chord.degrees), "")
    below = (root, _pitch(chord, fifth, root.key + 1)) if fifth else (root,)
    above = [label for label in (_seventh(chord), _third(chord)) if label]
    return (*below, *_upwards(chord, above, below[-1].key + 1))


def _tensions(chord: ChordSymbol) -> tuple[Pitch, ...]:
    extra = [label for label in chord.degrees if label not in _tones(chord)]
    return _over_root(chord, sorted(extra, key=degree_semitones)) if extra else ()


def _slash(chord: ChordSymbol) -> tuple[Pitch, ...]:
    name = chord.bass if chord.bass is not None else chord.root.degree(_third(chord) or "5")
    bass = Pitch(_BASS_FROM + (name.pitch_class - _BASS_FROM) % 12, name)
    return (bass, *_close(chord))


def _tritone(chord: ChordSymbol) -> tuple[Pitch, ...]:
    """The dominant a tritone away: another root below the same third and seventh, under other names."""
    if chord.kind != "dominant":
        return ()
    return _shell(ChordSymbol(chord.root.above(4, 6).simple, seventh="b7", extension=7))


def _altered(chord: ChordSymbol) -> tuple[Pitch, ...]:
    return _over_root(chord, ["3", "b7", "b9", "b13"]) if chord.kind == "dominant" else ()


def _half_diminished(chord: ChordSymbol) -> tuple[Pitch, ...]:
    return _close(chord) if chord.kind == "half-diminished" else ()


def _doubled(chord: ChordSymbol) -> tuple[Pitch, ...]:
    first, *others = _tones(chord)
    return _upwards(chord, [first, *others, first])


class Word(Struct, frozen=True):
    """A word of theory: its ``name``, how it is written (``forms``, from their beginnings), what it means,
    and its notes in a chord from below, where there is anything to hear."""

    name: str
    forms: tuple[str, ...]
    said: str
    notes: Callable[[ChordSymbol], tuple[Pitch, ...]] | None = None

    def in_chord(self, chord: ChordSymbol | None) -> tuple[Pitch, ...]:
        """Its notes there; none for a rest, or where the chord has no such thing."""
        return () if chord is None or self.notes is None else self.notes(chord)

    def explained(self, chord: ChordSymbol | None) -> str:
        """What it means, with its notes in a chord."""
        notes = " ".join(pitch.name.pretty for pitch in self.in_chord(chord))
        return f"{self.said} In {chord.pretty}: {notes}." if chord is not None and notes else self.said


WORDS = (
    Word(
        "guide tones", ("guide tone", "guide-tone"),
        "Third and seventh: they say what kind of chord it is, and move least to the next one.", _guides,
    ),
    Word(
        "rootless", ("rootless",),
        "Without the root, which the bass has; often with the ninth instead.", _rootless,
    ),
    Word("shell", ("shell",), "Only what says the chord: root, third and seventh.", _shell),
    Word(
        "close position", ("close position", "close chord", "close triad", "close seventh"),
        "All notes within an octave, next to each other.", _close,
    ),
    Word(
        "drop 2", ("drop 2", "drop-2"),
        "A close chord with its second voice from the top an octave lower: wider, and warm.",
        lambda chord: _dropped(chord, 2),
    ),
    Word(
        "drop 3", ("drop 3", "drop-3"),
        "A close chord with its third voice from the top an octave lower: a bass, a gap, three voices.",
        lambda chord: _dropped(chord, 3),
    ),
    Word(
        "spread", ("spread",),
        "Wide below, closer above: root and fifth, then seventh and third.", _spread,
    ),
    Word(
        "inversion", ("inversion",),
        "The same notes with another one lowest: here the one above the root.", _inverted,
    ),
    Word("slash chord", ("slash",), "A chord over the bass note that is written behind the stroke.", _slash),
    Word(
        "polychord", ("polychord", "upper triad", "upper chord"),
        "Two chords at once: a simple one on top, whose notes are colours of the one below.",
    ),
    Word(
        "tensions", ("tension", "extended", "extension"),
        "Ninth, eleventh and thirteenth, plain or altered: colour above the seventh.", _tensions,
    ),
    Word(
        "altered", ("altered", "alteration"),
        "Ninth or fifth of a dominant moved by a half step, so that it pulls to the next chord.", _altered,
    ),
    Word(
        "suspended", ("suspended", "suspension"),
        "The fourth (or second) stands for the third, and often falls to it.",
        lambda chord: _upwards(chord, ["R", "11", "5"]),
    ),
    Word("doubling", ("doubled", "doubling"), "The same note twice, an octave apart.", _doubled),
    Word(
        "tritone substitution", ("tritone",),
        "For a dominant the one six half steps away: the same third and seventh, exchanged.", _tritone,
    ),
    Word(
        "secondary dominant", ("secondary dominant",),
        "A dominant seventh chord that leads to another chord than the home chord.",
    ),
    Word(
        "borrowed", ("borrowed",),
        "A chord from the key with the same tonic: from minor in a major song, or the other way.",
    ),
    Word(
        "backdoor", ("backdoor", "back door"),
        "The dominant on the flat seventh: it goes up a whole step to the home chord.",
    ),
    Word("turnaround", ("turnaround",), "Chords at the end of a part that lead back to its beginning."),
    Word("passing chord", ("passing",), "A short chord between two others, so that a voice goes by steps."),
    Word(
        "pedal point", ("pedal point", "pedal note"),
        "A bass note that stays while the chords above it change.",
    ),
    Word("cadence", ("cadence",), "The chords that bring a phrase to rest."),
    Word(
        "half-diminished", ("half-diminished", "half diminished"),
        "A minor seventh chord with a flat fifth.", _half_diminished,
    ),
    Word(
        "degree", ("degree",),
        "How far a note is from the root, counted along the scale: 1 is the root, 3 the third.",
    ),
    Word("mud", ("mud",), "Close notes low on the keyboard rub: below C3 leave room between them."),
)  # fmt: skip


def found_in(text: str) -> list[Word]:
    """The words that a text has, in the order of the list."""
    return [word for word, looks in _LOOKS if looks.search(text)]


_LOOKS = tuple(
    (word, re.compile(rf"\b(?:{'|'.join(map(re.escape, word.forms))})", re.IGNORECASE)) for word in WORDS
)
