"""Which of two names a chord's root takes, as players read it: by what the chord prepares, then by the key,
then the usual one."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from msgspec.structs import replace

from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, Pitch, name_for_pitch_class

#: Semitones by which a root goes to the next one -> where it is spelled from that one, letters and semitones
#: above it: a fifth above, a half step above, a half step or a whole step below; and the second, fourth and
#: flat sixth, which with the leading tone are a diminished chord.
_PREPARES = {5: (4, 7), 11: (1, 1), 1: (6, 11), 2: (6, 10), 10: (1, 2), 7: (3, 5), 4: (5, 8)}
#: By which of these a kind of chord prepares another: a dominant falls, rises a step or slides up; a
#: half-diminished one is a two, a diminished one has the leading tone or slides down, a minor one slides from
#: either side; the others fall.
_LEADS = {
    "dominant": (5, 11, 2, 1), "half-diminished": (5,), "diminished": (1, 4, 7, 10, 11), "minor": (5, 11, 1),
}  # fmt: skip
_FALLS = (5, 11)
#: Semitones above a tonic -> how a foreign root is spelled there: flat degrees, and the raised fourth; a
#: diminished chord has a raised degree, as it stays around its own tonic (D#dim7 and C) or rises.
_FOREIGN = {1: (1, 1), 3: (2, 3), 4: (2, 4), 6: (3, 6), 8: (5, 8), 9: (5, 9), 10: (6, 10), 11: (6, 11)}
_DIMINISHED = {**_FOREIGN, 1: (0, 1), 3: (1, 3), 8: (4, 8), 10: (5, 10)}
#: Names that nobody reads at sight, unless the key has them or the chord prepares something.
_ODD = ("Cb", "B#", "E#", "Fb")
#: Chords that do not fall into anything are read with flats on these (A♭7 into A7, but C♯7 into D), but for
#: some kinds.
_OFTEN_SHARP = ("minor", "half-diminished", "diminished")
_SHARP = ("D#", "G#", "A#")


@lru_cache(maxsize=64)
def scale_names(key: Key) -> frozenset[NoteName]:
    """The seven notes of a key as it spells them."""
    major = key.relative_major.tonic
    steps = ((0, 0), (1, 2), (2, 4), (3, 5), (4, 7), (5, 9), (6, 11))
    return frozenset(major.above(letters, semitones) for letters, semitones in steps)


def in_row(
    chords: Sequence[ChordSymbol],
    key: Key,
    after: ChordSymbol | None = None,
    as_written: NoteName | None = None,
) -> list[ChordSymbol]:
    """Chords that follow each other, and lead to ``after``, spelled by what each prepares: G#m7b5 C#7b9
    before F#m. The root ``as_written`` stays as it is, unless it has a double sign."""
    symbols: list[ChordSymbol] = []
    for chord in reversed(chords):
        if as_written and abs(as_written.alter) < 2 and as_written.pitch_class == chord.root.pitch_class:
            symbol = replace(chord, root=as_written)
            symbol = symbol if chord.bass is None else slashed(symbol, chord.bass, key)
        else:
            symbol = by_function(chord, key, symbols[0] if symbols else after)
        symbols.insert(0, symbol)
    return symbols


def by_function(chord: ChordSymbol, key: Key, after: ChordSymbol | None) -> ChordSymbol:
    """The chord with its root spelled by what it prepares, or by its key; the bass by the root."""
    root = _root(chord, key, after)
    symbol = usual(replace(chord, root=root))
    return symbol if chord.bass is None else slashed(symbol, chord.bass, key)


def slashed(chord: ChordSymbol, bass: NoteName, key: Key) -> ChordSymbol:
    """The chord over a bass, which is spelled as the chord has it, or else as the key has it."""
    return with_bass(chord, _bass(chord, bass, key))


def _root(chord: ChordSymbol, key: Key, after: ChordSymbol | None) -> NoteName:
    own, here = chord.root.pitch_class, {name.pitch_class: name for name in scale_names(key)}
    kind = chord.kind
    if after is not None:
        way = (after.root.pitch_class - own) % 12
        if way in _LEADS.get(kind, _FALLS):
            prepared = after.root.above(*_PREPARES[way])
            odd = str(prepared) in _ODD or ((way, kind) == (1, "dominant") and str(prepared) in _SHARP)
            if abs(prepared.alter) < 2 and (not odd or prepared in here.values()):
                return prepared
    if own in here:
        return here[own]
    step = (own - key.tonic.pitch_class) % 12
    table = _DIMINISHED if kind == "diminished" else _FOREIGN
    note_name = key.tonic.above(*table[step]) if step in table else chord.root
    if kind not in _OFTEN_SHARP and str(note_name) in _SHARP:
        return name_for_pitch_class(own, flats=True)
    return note_name.simple


def _bass(chord: ChordSymbol, bass: NoteName, key: Key) -> NoteName:
    """A slash bass as the chord has it, the leading tone below its root too; else as the key has it."""
    own_names = (chord.root.degree(label) for label in ("7", *chord.degrees))
    names = {name.pitch_class: name for name in own_names}
    note_name = names.get(bass.pitch_class)
    if note_name is not None and abs(note_name.alter) < 2:
        return note_name
    here = {name.pitch_class: name for name in scale_names(key)}
    step = (bass.pitch_class - key.tonic.pitch_class) % 12
    note_name = here.get(bass.pitch_class) or key.tonic.above(*_FOREIGN[step])
    return note_name if note_name in here.values() else note_name.simple


def usual(chord: ChordSymbol) -> ChordSymbol:
    """A chord on a flat whose tones would have double flats on its sharp twin, where that has none: F#m11,
    not Gbm11. Diminished chords are not asked: Ebdim7 is how one names it."""
    if chord.root.alter >= 0 or not _doubled(chord):
        return chord
    twin = chord.root.simple if abs(chord.root.alter) > 1 else chord.root.above(6, 0)
    symbol = replace(chord, root=twin)
    if _doubled(symbol) or abs(twin.alter) > 1:
        return chord
    if chord.bass is None:
        return symbol
    letters = (chord.bass.step - chord.root.step) % 7
    return replace(symbol, bass=twin.above(letters, (chord.bass.pitch_class - twin.pitch_class) % 12))


def moved(chord: ChordSymbol, letters: int, semitones: int, key: Key) -> ChordSymbol:
    """A chord moved by letters and semitones into a key, in its usual spelling: no root there that nobody
    reads at sight."""
    symbol = usual(chord.transposed(letters, semitones))
    root = symbol.root
    odd = abs(root.alter) > 1 or str(root) in _ODD
    if not odd or root in scale_names(key):
        return symbol
    symbol = replace(symbol, root=root.simple)
    return symbol if symbol.bass is None else slashed(symbol, symbol.bass, key)


def _doubled(chord: ChordSymbol) -> bool:
    tones = (chord.root.degree(label) for label in chord.degrees)
    return chord.kind != "diminished" and any(abs(name.alter) > 1 for name in tones)


def plain(pitch: Pitch, chord: ChordSymbol | None) -> Pitch:
    """A note as it is engraved: without double signs, unless the chord's own symbol has one; no music
    has triple ones."""
    signs = abs(pitch.name.alter)
    if signs < 2 or (signs == 2 and chord is not None and abs(chord.root.alter) > 1):
        return pitch
    return Pitch(pitch.key, pitch.name.simple)
