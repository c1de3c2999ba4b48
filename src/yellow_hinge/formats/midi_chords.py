"""Which chords notes make, bar by bar: struck at once, broken, or a bass with strokes behind it."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import groupby, pairwise, product
from operator import attrgetter

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.rhythm.time import Meter
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.pitch import name_for_pitch_class

#: Time is counted in whole ticks, so many a quarter: sixteenths, triplets and the beats of every meter fall
#: on one.
TICKS = 48
#: Kinds by what they hold (half steps above the root), how far-fetched they are, and what they may lack (the
#: perfect fifth). Plain inversions come before sixths, ninths and thirteenths.
_KINDS: tuple[tuple[str, tuple[int, ...], float, bool], ...] = (
    ("", (0, 4, 7), 0.0, False), ("m", (0, 3, 7), 0.0, False), ("dim", (0, 3, 6), 0.4, False),
    ("+", (0, 4, 8), 0.5, False), ("sus4", (0, 5, 7), 0.5, False), ("sus2", (0, 2, 7), 0.7, False),
    ("7", (0, 4, 7, 10), 0.3, True), ("maj7", (0, 4, 7, 11), 0.3, True), ("m7", (0, 3, 7, 10), 0.3, True),
    ("m7b5", (0, 3, 6, 10), 0.35, False), ("dim7", (0, 3, 6, 9), 0.4, False),
    ("7sus4", (0, 5, 7, 10), 0.5, False), ("m(maj7)", (0, 3, 7, 11), 0.7, True),
    ("6", (0, 4, 7, 9), 0.55, False), ("m6", (0, 3, 7, 9), 0.55, False),
    ("add9", (0, 2, 4, 7), 0.7, False), ("m(add9)", (0, 2, 3, 7), 0.8, False),
    ("9", (0, 2, 4, 7, 10), 0.7, True), ("maj9", (0, 2, 4, 7, 11), 0.7, True),
    ("m9", (0, 2, 3, 7, 10), 0.7, True),
    ("69", (0, 2, 4, 7, 9), 0.9, True), ("m69", (0, 2, 3, 7, 9), 1.1, True),
    ("9sus4", (0, 2, 5, 7, 10), 0.8, True),
    ("7b9", (0, 1, 4, 7, 10), 0.8, True), ("7#9", (0, 3, 4, 7, 10), 0.9, True),
    ("7#5", (0, 4, 8, 10), 0.8, False),
    ("7b5", (0, 4, 6, 10), 1.0, False), ("7#11", (0, 4, 6, 7, 10), 1.1, False),
    ("maj7#5", (0, 4, 8, 11), 1.0, False), ("maj7#11", (0, 4, 6, 7, 11), 1.1, False),
    ("m11", (0, 2, 3, 5, 7, 10), 1.1, True), ("13", (0, 2, 4, 7, 9, 10), 1.1, True),
    ("13", (0, 4, 7, 9, 10), 1.2, True), ("maj13", (0, 2, 4, 7, 9, 11), 1.2, True),
    ("11", (0, 2, 5, 7, 9, 10), 1.3, True), ("13sus4", (0, 5, 7, 9, 10), 1.2, True),
    ("5", (0, 7), 1.2, False),
)  # fmt: skip
_FIFTH = 7
#: What it costs to lack the fifth, to stand on another note of the chord, and on a note that is none of it.
_LACKS, _INVERTED, _INVERTED_LARGE, _FOREIGN = 0.25, 0.3, 0.6, 1.0
_SEVENTH_NOTES, _PLAIN = 4, 0.5
#: A key below which the lowest note of a stroke is its bass.
_LOW = 53
#: What a name costs that no kind gives, and notes that make none.
_FAR, _NONE = 2.2, 4.0
#: Classes of what has a name at most.
_MOST_NAMED = 8
#: What it costs that a chord begins in the middle of a bar, on another beat, and between beats.
_AT_HALF, _AT_BEAT, _BETWEEN = 0.9, 1.2, 1.5
#: What speaks against one chord where strokes within it are others, more notes of one, or where its halves
#: are.
_OTHER_STROKES, _MORE_NOTES, _OTHER_BASS, _OTHER_HALVES = 2.0, 1.0, 1.4, 0.55
#: What it costs that nothing is struck where a chord begins, and another still sounds.
_LATE = 0.8
#: From here on a bar is remarked.
DOUBTFUL = 1.7
#: What another way to part a bar may cost more and is as likely.
_CLOSE = 0.2
_LEAST_CHORD = 3
#: Notes of a bar that are looked at one by one.
_MOST_IN_A_BAR = 400
#: How much of a file tells its meter, in ticks.
_JUDGED = 128 * TICKS
#: Places in a bar where chords may begin between its beats; where there are more, nobody changes chords at
#: each.
_MOST_CUTS = 16
#: How much plainer a name must be for a note to pass, and what that costs.
_PLAINER, _PASSED = 0.8, 0.6
#: Stretches of a file that are looked at; a long song takes some 5,000.
MOST_STRETCHES = 10_000
#: A note that passes: so short, in ticks, and so small a share of what sounds.
_PASSING, _PASSING_SHARE = TICKS // 2, 0.1


def ticks_of(quarters: Fraction) -> int:
    """A place or a length on the grid in ticks."""
    return int(quarters * TICKS)


class Heard(Struct, frozen=True):
    """A note as it is heard: from and to, in ticks; its key; whether a bass plays it."""

    start: int
    end: int
    key: int
    bass: bool = False


_start = attrgetter("start")


class Named(Struct, frozen=True):
    """A chord where it begins, in quarters, and how doubtful its name is."""

    start: Fraction
    chord: ChordSymbol | None
    cost: float


class _Stroke(Struct, frozen=True):
    """Notes that are struck at once: when, what sounds with them, and the bass that is struck among them."""

    start: int
    classes: frozenset[int]
    bass: int | None


class _Stretch(Struct, frozen=True):
    chord: ChordSymbol | None
    classes: frozenset[int]
    cost: float


def chords_of(notes: Sequence[Heard], bars: Sequence[tuple[Fraction, Meter]], flats: bool) -> list[Named]:
    """The chords of all bars, each where it begins; what goes on is not said again. ``notes`` are in time
    order. Where so much is struck that nobody played it, a bar is one chord, and doubtful."""
    left = MOST_STRETCHES
    found: list[Named] = []
    sounding: frozenset[int] = frozenset()
    rows = [(ticks_of(start), meter) for start, meter in bars]
    for (start, meter), inside in zip(rows, _by_bar(notes, rows), strict=True):
        places = cuts(inside, start, meter) if left > 0 else [start]
        doubt = DOUBTFUL if left <= 0 else 0.0
        left -= len(places) * (len(places) + 1) // 2
        for at, stretch in _bar(inside, places, meter, flats):
            if not stretch.classes or (len(stretch.classes) < _LEAST_CHORD and stretch.classes <= sounding):
                continue
            if not found or found[-1].chord != stretch.chord:
                found.append(Named(Fraction(at, TICKS), stretch.chord, max(stretch.cost, doubt)))
            sounding = stretch.classes
    return found


def misfit(notes: Sequence[Heard], meter: Meter) -> float:
    """How badly the chords fit the bars of a meter, a quarter: chords that begin within bars, names
    far-fetched. What is heard first tells it."""
    end = max((note.start for note in notes), default=0)
    length = ticks_of(meter.quarters)
    bars = [(count * length, meter) for count in range(min(end, _JUDGED) // length + 1)]
    whole = 0.0
    for (start, _), inside in zip(bars, _by_bar(notes, bars), strict=True):
        for at, stretch in _bar(inside, cuts(inside, start, meter), meter, flats=False):
            whole += stretch.cost + (_opening(at - start, meter) if at > start else 0.0)
    return whole / float(len(bars) * meter.quarters)


def _by_bar(notes: Sequence[Heard], bars: Sequence[tuple[int, Meter]]) -> Iterator[list[Heard]]:
    """The notes that sound in each bar."""
    first = 0
    going: list[Heard] = []
    for start, meter in bars:
        end = start + ticks_of(meter.quarters)
        going = [note for note in going if note.end > start]
        while first < len(notes) and notes[first].start < end:
            going.append(notes[first])
            first += 1
        yield going if len(going) <= _MOST_IN_A_BAR else _thinned(going, start)


def _thinned(notes: Sequence[Heard], start: int) -> list[Heard]:
    """The lowest of each class that is struck at once, and the longest of each that came in before: nobody
    plays more, and a bent file may hold thousands."""
    longest: dict[int, Heard] = {}
    lowest: dict[tuple[int, int], Heard] = {}
    for note in notes:
        tone = note.key % 12
        if note.start >= start:
            lowest.setdefault((note.start, tone), note)
        elif tone not in longest or note.end > longest[tone].end:
            longest[tone] = note
    return sorted([*longest.values(), *lowest.values()], key=lambda note: (note.start, note.key))


def _bar(
    notes: Sequence[Heard], begins: Sequence[int], meter: Meter, flats: bool
) -> list[tuple[int, _Stretch]]:
    """The chords of a bar: of the stretches between places, the first at its start, those that cost least in
    all."""
    start = begins[0]
    end = start + ticks_of(meter.quarters)
    strokes = _strokes(notes)
    places = [*begins, end]
    best: list[tuple[float, int]] = [
        (0.0, -1)
    ]  # by place: the cost up to there, and where its stretch begins
    held: dict[tuple[int, int], _Stretch] = {}
    for to in range(1, len(places)):
        options = []
        for begin in range(to):
            held[begin, to] = _stretch(notes, strokes, places[begin], places[to], flats)
            cost = (
                best[begin][0]
                + held[begin, to].cost
                + (_opening(places[begin] - start, meter) if begin else 0.0)
            )
            options.append((cost, begin))
        best.append(min(options))
    row, at = [], len(places) - 1
    while at:
        begin = best[at][1]
        row.append((places[begin], held[begin, at]))
        at = begin
    if _close(best[-1][0], held, places, start, meter):
        row = [(at, replace(stretch, cost=max(stretch.cost, DOUBTFUL))) for at, stretch in row]
    return row[::-1]


def _close(
    least: float,
    held: Mapping[tuple[int, int], _Stretch],
    places: Sequence[int],
    start: int,
    meter: Meter,
) -> bool:
    """Whether a bar may as well be one chord, or two, where it was taken for the other."""
    last = len(places) - 1
    others = [held[0, last].cost]
    for cut in range(1, last):
        others.append(held[0, cut].cost + held[cut, last].cost + _opening(places[cut] - start, meter))
    names = {stretch.chord for stretch in held.values()}
    return len(names) > 1 and any(0 < cost - least < _CLOSE for cost in others)


def cuts(notes: Sequence[Heard], start: int, meter: Meter) -> list[int]:
    """Where a chord may begin in a bar: at its start, at beats where something is struck, and where three
    notes are struck at once that are others than those before."""
    beat, beats, strokes = _beat(meter), list[int](), list[int]()
    before: tuple[int, frozenset[int]] | None = None
    for at, group in groupby(notes, key=_start):
        keys = [note.key for note in group]
        if at > start and (at - start) % beat == 0:
            beats.append(at)
        if len(keys) >= _LEAST_CHORD:
            stroke = (min(keys) % 12, frozenset(key % 12 for key in keys))
            if at > start and stroke != before:
                strokes.append(at)
            before = stroke
    places = sorted({*beats, *strokes})
    return [start, *(places if len(places) <= _MOST_CUTS else beats)]


def _beat(meter: Meter) -> int:
    """A beat as it is felt, in ticks: three eighths where eighths go in threes."""
    return ticks_of(meter.quarters_per_beat * (3 if meter.unit == 8 and meter.beats % 3 == 0 else 1))


def _opening(at: int, meter: Meter) -> float:
    beat = _beat(meter)
    if at * 2 == ticks_of(meter.quarters):
        return _AT_HALF
    return _AT_BEAT if at % beat == 0 else _BETWEEN


def _stretch(
    notes: Sequence[Heard], strokes: Sequence[_Stroke], start: int, end: int, flats: bool
) -> _Stretch:
    """What a stretch of time is as one chord."""
    struck = _struck(notes, start, end)
    classes = frozenset(note.key % 12 for note in struck)
    if len(classes) < _LEAST_CHORD:  # what goes on into it belongs to it
        long = (end - start) * 3 / 10
        struck += [note for note in notes if note.start < start and note.end - start >= long]
        classes = frozenset(note.key % 12 for note in struck)
    if not classes:
        return _Stretch(None, classes, 0.0)
    bass = _bass(struck, start)
    chord, cost = _named(classes, bass, flats)
    for passing in _passing(struck, start, end) if cost > _PLAINER else ():
        kept = classes - {passing}
        if passing != bass and len(kept) >= _LEAST_CHORD:
            plainer, less = _named(kept, bass, flats)
            if less + _PLAINER < cost:
                chord, cost = plainer, less + _PASSED
    late = min(note.start for note in struck) > start and any(note.start < start < note.end for note in notes)
    return _Stretch(
        chord, classes, cost + _against(notes, strokes, start, end, flats) + (_LATE if late else 0.0)
    )


def _struck(notes: Sequence[Heard], start: int, end: int) -> list[Heard]:
    first, last = (bisect_left(notes, at, key=_start) for at in (start, end))
    return list(notes[first:last])


def _bass(struck: Sequence[Heard], start: int) -> int:
    """The class of the bass: what a bass plays first, or the lowest key that is struck at the beginning."""
    played = [note for note in struck if note.bass]
    if played:
        return min(played, key=lambda note: (note.start, note.key)).key % 12
    first = min(note.start for note in struck)
    rows = [note for note in struck if note.start <= max(first, start)]
    lowest = min(rows, key=lambda note: note.key)
    below = [
        note for note in struck if note.key < lowest.key - 12
    ]  # a hand that strikes its bass a little later
    return min(below, key=lambda note: note.start).key % 12 if below else lowest.key % 12


def _passing(struck: Sequence[Heard], start: int, end: int) -> list[int]:
    """Classes that sound for a moment only."""
    lasting: Counter[int] = Counter()
    longest: Counter[int] = Counter()
    for note in struck:
        ticks = min(note.end, end) - max(note.start, start)
        lasting[note.key % 12] += ticks
        longest[note.key % 12] = max(longest[note.key % 12], ticks)
    whole = sum(lasting.values()) or 1
    return [own for own, ticks in lasting.items()
            if ticks < _PASSING_SHARE * whole and longest[own] <= _PASSING]  # fmt: skip


def _strokes(notes: Sequence[Heard]) -> list[_Stroke]:
    """The strokes of three notes and more of a bar, in time order."""
    strokes, going = [], list[Heard]()
    for at, group in groupby(notes, key=_start):
        struck = list(group)
        going = [note for note in going if at <= note.end - TICKS // 4]
        before, going = going, [*going, *struck]
        if len(struck) < _LEAST_CHORD:
            continue
        classes = frozenset(note.key % 12 for note in (*struck, *before))
        lowest = min(struck, key=lambda note: note.key)
        bass = lowest.key % 12 if lowest.bass or lowest.key < _LOW else None
        if len(classes) >= _LEAST_CHORD:
            strokes.append(_Stroke(at, classes, bass))
    return strokes


def _against(notes: Sequence[Heard], strokes: Sequence[_Stroke], start: int, end: int, flats: bool) -> float:
    """What speaks against one chord in a stretch: strokes within it that are others, and halves that are
    plain chords by themselves."""
    against = 0.0
    for before, after in pairwise(stroke for stroke in strokes if start <= stroke.start < end):
        if before.classes != after.classes:
            nested = before.classes <= after.classes or after.classes <= before.classes
            against = max(against, _MORE_NOTES if nested else _OTHER_STROKES)
        elif before.bass is not None and after.bass is not None and before.bass != after.bass:
            against = max(against, _OTHER_BASS)
    if against >= _OTHER_HALVES:
        return against
    half = (start + end) // 2
    rows = [_struck(notes, start, half), _struck(notes, half, end)]
    halves = [frozenset(note.key % 12 for note in row) for row in rows]
    if all(len(own) >= _LEAST_CHORD for own in halves) and not (
        halves[0] <= halves[1] or halves[1] <= halves[0]
    ):
        plain = [
            _named(own, _bass(row, row[0].start), flats)[1] for own, row in zip(halves, rows, strict=True)
        ]
        if max(plain) <= _INVERTED + _INVERTED:
            against = max(against, _OTHER_HALVES)
    return against


class _Form(Struct, frozen=True):
    """A kind on a root, whole or without its fifth: the classes of the whole, and what that costs."""

    root: int
    kind: str
    classes: frozenset[int]
    cost: float
    large: bool


@lru_cache(maxsize=1)
def _forms() -> dict[frozenset[int], list[_Form]]:
    """What each set of classes can be, by root and in the order of the kinds."""
    forms: dict[frozenset[int], list[_Form]] = {}
    for root, (kind, steps, cost, lacks) in product(range(12), _KINDS):
        whole = frozenset((root + step) % 12 for step in steps)
        large = len(steps) > _SEVENTH_NOTES or cost > _PLAIN
        forms.setdefault(whole, []).append(_Form(root, kind, whole, cost, large))
        if lacks:
            bare = whole - {(root + _FIFTH) % 12}
            forms.setdefault(bare, []).append(_Form(root, kind, whole, cost + _LACKS, large))
    return forms


@lru_cache(maxsize=8192)
def _named(classes: frozenset[int], bass: int, flats: bool) -> tuple[ChordSymbol | None, float]:
    """The plainest name of some classes over a bass, and how far-fetched it is."""
    forms, without = _forms(), classes - {bass}
    options = [
        (form.cost + (0.0 if form.root == bass else _INVERTED_LARGE if form.large else _INVERTED), form)
        for form in forms.get(classes, ())
    ]
    if len(without) >= _LEAST_CHORD:
        options += [
            (form.cost + _FOREIGN, form) for form in forms.get(without, ()) if bass not in form.classes
        ]
    if options:
        cost, best = min(options, key=lambda option: (option[0], option[1].root != bass, len(option[1].kind)))
        return _symbol(best.root, best.kind, bass, flats), cost
    if len(classes) < _LEAST_CHORD:
        return _two(classes, bass, flats)
    if len(classes) > _MOST_NAMED:
        return None, _NONE
    keys = [bass + 36, *(48 + (own - bass) % 12 + bass for own in sorted(classes - {bass}))]
    names = identify(sorted(keys), most=1)
    if not names:
        return None, _NONE
    return names[0].chord, _FAR


def _two(classes: frozenset[int], bass: int, flats: bool) -> tuple[ChordSymbol | None, float]:
    """One note or two: a third is half of a triad, one note alone says nothing."""
    above = {(own - bass) % 12 for own in classes}
    for step, root, kind in (
        (4, bass, ""),
        (3, bass, "m"),
        (8, (bass + 8) % 12, ""),
        (9, (bass + 9) % 12, "m"),
    ):
        if step in above:
            return _symbol(root, kind, bass, flats), _FAR
    if 10 in above:
        return _symbol(bass, "7", bass, flats), _FAR
    return None, _NONE


def _symbol(root: int, kind: str, bass: int, flats: bool) -> ChordSymbol:
    low = "" if bass == root else f"/{name_for_pitch_class(bass, flats)}"
    chord = parse_chord(f"{name_for_pitch_class(root, flats)}{kind}{low}")
    assert chord is not None
    return chord
