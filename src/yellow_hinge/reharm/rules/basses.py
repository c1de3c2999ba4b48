"""Other basses: stepwise lines, walk-ups, pedals, and any bass under the same hand."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache

from yellow_hinge.reharm.rules.base import (
    BASS,
    PASSING,
    Draft,
    Place,
    goes_home,
    into,
    is_minor,
    is_plain,
    on,
    row,
    rule,
    semitones_between,
    step_in_key,
    up,
    whole,
)
from yellow_hinge.remembering import for_a_song
from yellow_hinge.theory.chord_symbol import ChordSymbol, with_bass
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, degree_semitones, name_for_pitch_class
from yellow_hinge.theory.spelling import slashed
from yellow_hinge.theory.tension import FitKind, fit

#: Kinds of chords that a bass makes of a held hand and that players name by themselves.
_USUAL = frozenset(
    (*("", "m", "6", "m6", "7", "m7", "maj7", "9", "m9", "maj9", "add9"),
     *("sus", "7sus", "9sus", "m7b5", "11", "13"))
)  # fmt: skip
#: So far a bass goes by step.
_STEP_ST = 2


def _near(name: NoteName, note_name: NoteName) -> int:
    distance = semitones_between(name, note_name)
    return min(distance, 12 - distance)


@rule("slash", "other bass note for a stepwise bass", BASS, 40)
def slash(place: Place) -> Iterator[Draft]:
    chord, before, after = place.chord, place.before, place.after
    if not is_plain(chord) or before is None or after is None:
        return
    start, end = before.bass_name, after.bass_name
    for label in chord.degrees:
        if label not in ("3", "b3", "5", "b5", "b7", "7"):
            continue
        bass = chord.root.degree(label)
        steps = min(_near(start, bass), 9), min(_near(bass, end), 9)
        now = min(_near(start, chord.root), 9), min(_near(chord.root, end), 9)
        if max(steps) <= 2 and min(steps) >= 1 and max(now) > 2:
            reason = f"the bass goes by step: {start.pretty}, {bass.pretty}, {end.pretty}"
            yield from whole(place, with_bass(chord, bass), reason)


@rule("pedal", "pedal bass", BASS, 80)
def pedal(place: Place) -> Iterator[Draft]:
    before, after, chord = place.before, place.after, place.chord
    if chord.bass is not None or after is None:
        return
    if before is not None:
        held = before.bass_name
        if held.pitch_class == after.bass_name.pitch_class != chord.root.pitch_class:
            yield from whole(place, with_bass(chord, held), f"the bass stays on {held.pretty} throughout")
    step = step_in_key(place)
    five = semitones_between(place.key.tonic, after.root) == 7
    if step in (2, 5) and five and after.bass is None:
        reason = f"{after.root.pretty} lies under both: the five waits as a pedal"
        yield from whole(place, with_bass(chord, after.root), reason)


@rule("passing-diminished", "passing diminished chord", PASSING, 80)
def passing_diminished(place: Place) -> Iterator[Draft]:
    after, chord = place.after, place.chord
    if after is None or chord.bass is not None or after.bass is not None:
        return
    step = semitones_between(chord.root, after.root)
    if step == 2:
        passing = on(up(chord.root, 0, 1), "dim7")
        climbs = f"the bass climbs by half steps into {after.root.pretty}"
        yield from into(place, (passing,), climbs, first=True)
    elif step == 10 and is_minor(chord):
        passing = on(up(chord.root, 0, -1), "dim7")
        falls = f"the bass falls by half steps into {after.root.pretty}"
        yield from into(place, (passing,), falls, first=True)


@rule("four-climbs", "the four climbs through a diminished chord", PASSING, 90)
def four_climbs(place: Place) -> Iterator[Draft]:
    """4, #4 diminished, 1 over 5, as in gospel endings; and #4 half-diminished on the way down."""
    key, chord = place.key, place.chord
    if key.minor or not is_plain(chord):
        return
    home, fifth = place.key.tonic, up(place.key.tonic, 4, 7)
    sharp = up(home, 3, 6)
    if step_in_key(place) == 5 and chord.kind == "major" and goes_home(place):
        over = with_bass(on(home, ""), fifth)
        climb = f"the bass climbs {chord.root.pretty}, {sharp.pretty}, {fifth.pretty}"
        yield from into(place, (on(sharp, "dim7"),), f"{climb} under home")
        yield from row(place, (chord, on(sharp, "dim7"), over), climb)
    if step_in_key(place) == 0 and chord.kind == "major" and _roots(place.before, home) == 5:
        reason = (
            f"home over its fifth: the bass goes on from {place.before.root.pretty if place.before else ''}"
        )
        yield from whole(place, with_bass(chord, fifth), reason)
    if place.after is not None and _roots(place.after, home) == 5 and step_in_key(place) in (0, 9):
        falling = on(sharp, "m7b5")
        reason = f"{falling.pretty} slides down a half step into {place.after.root.pretty}"
        yield from into(place, (falling,), reason)


def _roots(chord: ChordSymbol | None, home: NoteName) -> int | None:
    return None if chord is None else semitones_between(home, chord.root)


@rule("walk-up", "the bass walks up into the next chord", BASS, 70)
def walk_up(place: Place) -> Iterator[Draft]:
    """1, 1 over 3, 4; 1, 5 over 7, 6 minor; 5, 3-7 over its third, 6 minor."""
    chord, after = place.chord, place.after
    if after is None or chord.kind not in ("major", "dominant") or not is_plain(chord) or chord.sus:
        return
    step, root = semitones_between(chord.root, after.root), chord.root
    if step == 5 and after.kind in ("major", "dominant", "minor"):
        third = root.degree("3")
        way = f"the bass walks {root.pretty}, {third.pretty}, {after.root.pretty}"
        walks = chord.kind == "major"
        yield from row(place, (chord, with_bass(on(root, chord.quality), third)), way, first=walks)
        if chord.kind == "major" and not chord.sixth:
            yield from row(place, (chord, with_bass(on(root, "7"), third)), f"{way}, and the seventh pulls")
    if step == 9 and is_minor(after):
        five = up(root, 4, 7)
        bass = five.degree("3")
        way = f"the bass walks down {root.pretty}, {bass.pretty}, {after.root.pretty}"
        yield from row(place, (chord, with_bass(on(five, ""), bass)), way, first=True)
    if step == 2 and is_minor(after):
        three = up(after.root, 4, 7)
        bass = three.degree("3")
        way = f"the bass climbs {root.pretty}, {bass.pretty}, {after.root.pretty}"
        yield from row(place, (chord, with_bass(on(three, "7"), bass)), way)


@rule("walking-bass", "a walking bass under a held right hand", BASS, 110, joint=False, holds=True)
def walking_bass(place: Place) -> Iterator[Draft]:
    """The notes of the key between two roots that lie a third or a fourth apart, one a beat or
    more; the hand above stays."""
    chord, after = place.chord, place.after
    if after is None or not is_plain(chord) or chord.kind == "dominant":
        return
    for way in (1, -1):
        between = _scale_between(place, way)
        rubs = any(fit(note.pitch_class, chord, place.key).kind == FitKind.CLASH for note in between)
        if between and len(between) <= 2 and not rubs:
            line = (chord, *(with_bass(chord, note) for note in between))
            names = ", ".join(note.pretty for note in (chord.root, *between, after.bass_name))
            yield from row(place, line, f"the hand stays, the bass walks {names}")


def _scale_between(place: Place, way: int) -> list[NoteName]:
    """Notes of the local key strictly between this bass and the next, in that direction."""
    assert place.after is not None
    start, end = place.chord.root.pitch_class, place.after.bass_name.pitch_class
    if (end - start) * way % 12 > 5:
        return []
    steps = range(1, (end - start) * way % 12)
    flats = place.key.prefers_flats
    notes = [(start + way * step) % 12 for step in steps]
    return [name_for_pitch_class(note, flats) for note in notes if note in place.key.pitch_classes]


@rule("other-bass", "another bass under the same hand", BASS, 150, joint=False, holds=True)
def other_bass(place: Place) -> Iterator[Draft]:
    """The same notes over another bass that makes a chord with a usual name of its own, where the bass then
    goes by step on both sides; all others are on the face for basses under a held hand."""
    before, after = place.before, place.after
    if before is None or after is None or not is_plain(place.chord) or place.chord.alt:
        return
    for symbol, called in _over_each_bass(place.chord, place.key):
        bass = symbol.bass_name
        steps = _near(before.bass_name, bass), _near(bass, after.bass_name)
        if called is not None and _usual(called) and min(steps) >= 1 and max(steps) <= _STEP_ST:
            words = f"the hand stays, {bass.pretty} in the bass: {called.pretty}"
            yield from whole(place, symbol, words)


def _usual(chord: ChordSymbol) -> bool:
    """Whether players name a chord by itself: a kind that is known, at the most turned over."""
    own = chord.bass is None or chord.label_of(chord.bass.pitch_class) is not None
    return own and chord.quality in _USUAL


@for_a_song
@lru_cache(maxsize=512)
def _over_each_bass(chord: ChordSymbol, key: Key) -> tuple[tuple[ChordSymbol, ChordSymbol | None], ...]:
    """The chord over every other bass, and what else it is called there."""
    rows: list[tuple[ChordSymbol, ChordSymbol | None]] = []
    sounding = [60 + (chord.root.pitch_class + degree_semitones(label)) % 12 for label in chord.degrees]
    spelled = {
        note % 12: chord.root.degree(label) for note, label in zip(sounding, chord.degrees, strict=True)
    }
    for step in range(1, 12):
        bass_class = (chord.root.pitch_class + step) % 12
        bass = spelled.get(bass_class) or name_for_pitch_class(bass_class, key.prefers_flats)
        symbol = slashed(chord, bass, key)
        bass = symbol.bass_name
        notes = {bass_class, *(note % 12 for note in sounding)}
        names = identify([36 + bass_class, *sounding], {**spelled, bass_class: bass}, most=3)
        whole = (name.chord for name in names if name.chord.root.pitch_class in notes and name.chord.third)
        called = next((chord for chord in whole if str(chord) != str(symbol)), None)
        rows.append((symbol, called))
    return tuple(rows)
