"""Proposals: what the rules find in a whole song, judged against the melody and the bass."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from yellow_hinge.reharm.regions import is_dominant, key_regions
from yellow_hinge.reharm.rules import GROUPS, RULES, Place, Rule, Timed, on
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.theory.tension import Fit, FitKind, fit

#: Rules that go on from what another rule has put in.
_COMPOSING = ("related-two",)
#: Weight of a note on a strong beat against one on a weak beat.
_STRONG, _WEAK = 2, 1


@dataclass(frozen=True, slots=True)
class Spot:
    """A written chord of the song: what sounds (None: "no chord"), from when, how long."""

    chord: ChordSymbol | None
    start_beats: Fraction
    beats: Fraction


@dataclass(frozen=True, slots=True)
class NoteFit:
    """A melody note over one chord of a proposal."""

    note: NoteOver
    chord: ChordSymbol
    fit: Fit


@dataclass(frozen=True, slots=True)
class Proposal:
    """What may stand in the place of a written chord.

    ``bass`` are the bass notes from the chord before to the chord after; ``notes`` the melody
    over it; ``clash`` the share, 0..1, of the melody's weight (length, twice on strong beats)
    that clashes.
    """

    at: int
    rule: str
    group: str
    chords: tuple[Timed, ...]
    reason: str
    bass: tuple[NoteName, ...]
    bass_was: tuple[NoteName, ...]
    notes: tuple[NoteFit, ...]
    clash: float

    @property
    def safe(self) -> bool:
        """Whether no melody note clashes."""
        return not any(one.fit.kind == FitKind.CLASH for one in self.notes)

    @property
    def bass_words(self) -> str:
        """What the bass line does here, in words."""
        return bass_words(self.bass)


def bass_steps(line: Sequence[NoteName]) -> list[int]:
    """Signed semitones from note to note, each the nearer way round."""
    return [(b.pitch_class - a.pitch_class + 5) % 12 - 5 for a, b in pairwise(line)]


def bass_words(line: Sequence[NoteName]) -> str:
    """A bass line in words: its notes, and whether it holds, steps or leaps."""
    steps = bass_steps(line)
    leaps = sum(abs(step) > 2 for step in steps)
    if not steps:
        way = "stands alone"
    elif not any(steps):
        way = "stays"
    elif not leaps:
        ups, downs = any(s > 0 for s in steps), any(s < 0 for s in steps)
        way = "goes by step" if ups and downs else "steps up" if ups else "steps down"
    else:
        way = f"leaps {'once' if leaps == 1 else f'{leaps} times'}"
    return f"{', '.join(note.pretty for note in line)}: {way}"


def proposals(
    spots: Sequence[Spot],
    home: Key,
    melody: Sequence[NoteOver] = (),
    *,
    pins: Mapping[int, Key] | None = None,
    rules_off: Collection[str] = (),
    untouched: Collection[int] = (),
) -> list[Proposal]:
    """Everything the rules find, by place, then by group, without duplicates.

    ``melody`` is in time order; ``pins`` are keys set by the player; ``untouched`` are places
    that stay as they are.
    """
    keys = key_regions([spot.chord for spot in spots], home, pins)
    rules = [rule for rule in RULES.values() if rule.id not in rules_off]
    found: list[Proposal] = []
    for index, spot in enumerate(spots):
        if spot.chord is None or index in untouched:
            continue
        before = spots[index - 1].chord if index else None
        after = spots[index + 1].chord if index + 1 < len(spots) else None
        place = Place(spot.chord, spot.beats, before, after, keys[index])
        over = [n for n in melody if _overlaps(n, spot)]
        seen: set[tuple[Timed, ...]] = {(Timed(spot.chord, spot.beats),)}
        own = []
        for rule, chords, reason in _drafts(place, rules):
            if chords not in seen:
                seen.add(chords)
                own.append(_judged(index, rule, chords, reason, place, spot, over))
        found += sorted(own, key=lambda one: (GROUPS.index(one.group), one.clash))
    return found


def _drafts(place: Place, rules: Sequence[Rule]) -> Iterator[tuple[Rule, tuple[Timed, ...], str]]:
    """What each rule finds, and then what composing rules find in that."""
    composing = [rule for rule in rules if rule.id in _COMPOSING]
    direct = [(rule, draft) for rule in rules for draft in rule.find(place)]
    for rule, draft in direct:
        yield rule, draft.chords, draft.reason
    for rule, draft in direct:
        if len(draft.chords) == 1 and rule.id not in _COMPOSING and is_dominant(draft.chords[0].chord):
            changed = replace(place, chord=draft.chords[0].chord)
            for further in composing:
                for second in further.find(changed):
                    yield further, second.chords, f"{draft.reason}; then {second.reason}"


def _overlaps(note: NoteOver, spot: Spot) -> bool:
    return note.start_beats < spot.start_beats + spot.beats and spot.start_beats < (
        note.start_beats + note.beats
    )


def _judged(
    index: int,
    rule: Rule,
    chords: tuple[Timed, ...],
    reason: str,
    place: Place,
    spot: Spot,
    over: Sequence[NoteOver],
) -> Proposal:
    notes = tuple(melody_fit(chords, spot.start_beats, over, place.key))
    ends = [[chord.bass_name] if chord is not None else [] for chord in (place.before, place.after)]
    bass = (*ends[0], *(one.chord.bass_name for one in chords), *ends[1])
    was = (*ends[0], place.chord.bass_name, *ends[1])
    share = clash_share(notes)
    return Proposal(index, rule.id, rule.group, chords, reason, bass, was, notes, share)


def melody_fit(
    chords: Sequence[Timed], start: Fraction, over: Sequence[NoteOver], key: Key
) -> Iterator[NoteFit]:
    """Each melody note, or part of it, over each chord of a row that begins at ``start`` beats."""
    for timed in chords:
        end = start + timed.beats
        for note in over:
            begins, stops = max(note.start_beats, start), min(note.start_beats + note.beats, end)
            if begins < stops:
                strong = note.strong if begins == note.start_beats else begins == start
                part = replace(note, start_beats=begins, beats=stops - begins, strong=strong)
                kind = fit(
                    note.key, timed.chord, key, beats=part.beats, strong=strong, stepwise=note.stepwise
                )
                yield NoteFit(part, timed.chord, kind)
        start = end


def clash_share(notes: Sequence[NoteFit]) -> float:
    """The share of the melody's weight that clashes, 0..1."""
    weights = [float(one.note.beats) * (_STRONG if one.note.strong else _WEAK) for one in notes]
    clashing = [w for w, one in zip(weights, notes, strict=True) if one.fit.kind == FitKind.CLASH]
    return sum(clashing) / sum(weights) if weights else 0.0


#: Qualities that are asked whether a melody note fits them.
_QUALITIES = ("maj7", "6", "m7", "m6", "7", "9sus", "m7b5", "dim7", "7alt", "m(maj7)", "maj7#5")


def chords_for_note(note: NoteName, key: Key) -> list[tuple[ChordSymbol, Fit]]:
    """All chords that a long melody note fits, over all roots: chord tones first, then tensions;
    chords of the key first in each."""
    from_key = key.tonic
    roots = [from_key.above(letters, semitones) for letters, semitones in _TWELVE]
    found = []
    for root in roots:
        for quality in _QUALITIES:
            chord = on(root, quality)
            how = fit(note.pitch_class, chord, key)
            if how.kind in (FitKind.CHORD_TONE, FitKind.TENSION):
                tones = {root.degree(label).pitch_class for label in chord.degrees}
                found.append((how.kind != FitKind.CHORD_TONE, len(tones - key.pitch_classes), chord, how))
    found.sort(key=lambda row: row[:2])
    return [(chord, how) for _, __, chord, how in found]


_TWELVE = ((0, 0), (1, 1), (1, 2), (2, 3), (2, 4), (3, 5), (3, 6), (4, 7), (5, 8), (5, 9), (6, 10), (6, 11))
