"""Proposals: what the rules find in a whole song, judged against the melody and the bass."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise, product

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.reharm.regions import goals, is_dominant, pulls
from yellow_hinge.reharm.rules import (
    BORROWED,
    GROUPS,
    RULES,
    Draft,
    Place,
    Rule,
    Timed,
    backwards_from,
    is_pull,
    on,
    split,
)
from yellow_hinge.reharm.styles import Style
from yellow_hinge.remembering import for_a_song
from yellow_hinge.rhythm.events import NoteOver
from yellow_hinge.stopping import ask
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import NoteName, degree_semitones
from yellow_hinge.theory.spelling import in_row
from yellow_hinge.theory.tension import Fit, FitKind, fit

#: The rule that may take two places.
_OVER_TWO = "backwards"
#: Rules that go on from what another rule has put in.
_COMPOSING = ("related-two",)
#: Weight of a note on a strong beat against one on a weak beat; of a rub against a clash.
_STRONG, _WEAK = 2, 1
#: Proposals of one chord that are shown at first.
SHOWN_FIRST = 12
#: The first so many of them are of so many families.
_FIRST, _FAMILIES = 6, 4
#: What the order weighs besides the distance from the function, in its hundredths of a half step (our
#: choice, held against a table of places): a proposal that is expected there; each one of its family, and of
#: its rule, that stands before it; a note of the tune that rubs; each chord more than one.
_EXPECTED, _AGAIN, _SAME_RULE, _RUB, _LONGER = 200, 45, 60, 25, 10
#: What the chords of a road may be made of: twos, and dominants.
_TWOS = ("m7", "m7b5", "m9")
_FIVES = ("7", "9", "13", "7b9", "7#5", "7alt")
#: Colours of a chord that stands by itself, by its kind.
_COLOURS = {
    "major": ("maj7", "maj9", "add9", "6", "69"), "minor": ("m7", "m9", "m11", "m6", "m69"),
    "dominant": ("7", "9", "13", "9sus"),
}  # fmt: skip


class Spot(Struct, frozen=True):
    """A chord of the song as it sounds: what (None: "no chord"), from when in quarters, how long in
    beats of ``unit`` quarters; the id of the written chord that it stands for, which part of that
    one's swap it is, and the meter's quarters to a beat."""

    chord: ChordSymbol | None
    start_quarters: Fraction
    beats: Fraction
    written: int = 0
    part: int = 0
    unit: Fraction = Fraction(1)

    @property
    def end_quarters(self) -> Fraction:
        return self.start_quarters + self.beats * self.unit


class NoteFit(Struct, frozen=True):
    """A melody note over one chord of a proposal."""

    note: NoteOver
    chord: ChordSymbol
    fit: Fit


class Proposal(Struct, frozen=True):
    """What may stand in the place of a chord.

    ``at`` is the written chord's id, ``part`` the part of its swap that is replaced, from 1 (0 where
    nothing is swapped yet). ``price`` in hundredths of a half step says how far it goes from the function;
    ``joint`` whether the search over the whole song may take it. ``bass`` are the bass notes from
    the chord before to the chord after; ``notes`` the melody over it; ``clash`` the share, 0..1, of
    the melody's weight (length, twice on strong beats) that clashes; ``first``: a player expects it there;
    ``of_dominant``: it stands for a dominant that pulls; ``rounds``: the sections and rounds in which alone
    it holds (none: in all); ``then``: what it puts in further places, by their written chord.
    """

    at: int
    part: int
    rule: str
    group: str
    price: int
    joint: bool
    chords: tuple[Timed, ...]
    reason: str
    bass: tuple[NoteName, ...]
    bass_was: tuple[NoteName, ...]
    notes: tuple[NoteFit, ...]
    clash: float
    first: bool = False
    of_dominant: bool = False
    rounds: tuple[tuple[str, int], ...] = ()
    then: tuple[tuple[int, tuple[Timed, ...]], ...] = ()

    @property
    def every_chord(self) -> tuple[Timed, ...]:
        """Its chords, and those that it puts in the places behind."""
        return (*self.chords, *(timed for _, row in self.then for timed in row))

    @property
    def safe(self) -> bool:
        """Whether no melody note clashes."""
        return not any(fit.fit.kind == FitKind.CLASH for fit in self.notes)

    @property
    def rubs(self) -> int:
        """Melody notes that rub without clashing."""
        return sum(fit.fit.rubs for fit in self.notes)

    @property
    def bass_words(self) -> str:
        """What the bass line does here, in words."""
        return bass_words(self.bass)


def same_kind(symbol: ChordSymbol | None, chord_symbol: ChordSymbol | None) -> bool:
    """Whether two chords are twins: the same root and kind, whatever their colour and bass."""
    if symbol is None or chord_symbol is None:
        return False
    return symbol.root.pitch_class == chord_symbol.root.pitch_class and symbol.kind == chord_symbol.kind


@for_a_song
@lru_cache(maxsize=4096)
def sounds(chord: ChordSymbol) -> tuple[int, frozenset[int]]:
    """The pitch class of the bass, and all that sound: what a chord is to the ear."""
    root = chord.root.pitch_class
    tones = {(root + degree_semitones(label)) % 12 for label in chord.degrees}
    return chord.bass_name.pitch_class, frozenset(tones | {chord.bass_name.pitch_class})


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
    keys: Sequence[Key],
    melody: Sequence[NoteOver] = (),
    *,
    rules_off: Collection[str] = (),
    untouched: Collection[int] = (),
    loop: bool = False,
    styles: Sequence[Style | None] = (),
) -> list[Proposal]:
    """Everything the rules find, by place, the best first: by the melody's verdict, then by how
    far it goes from the function.

    ``keys`` is the local key of each spot; ``melody`` is in time order; ``untouched`` are written
    chords that stay as they are; in a ``loop`` the first chord follows the last. ``styles``, one a spot, say
    how far families go from the function.
    """
    chords = [spot.chord for spot in spots]
    afters = goals(chords, loop)
    rules = tuple(rule.id for rule in RULES.values() if rule.id not in rules_off)
    proposals: list[Proposal] = []
    for index, spot in enumerate(spots):
        ask()
        if spot.chord is None or spot.written in untouched:
            continue
        before = spots[index - 1].chord if index else chords[-1] if loop and len(chords) > 1 else None
        more = index + 1 < len(spots)
        after = spots[index + 1].chord if more else afters[index] if loop else None
        place = Place(spot.chord, spot.beats, before, after, keys[index])
        over = [note for note in melody if _overlaps(note, spot)]
        style = styles[index] if styles else None
        own = [_judged(rule, draft, place, spot, over, style=style) for rule, draft in _kept(place, rules)]
        if _OVER_TWO in rules and index + 2 < len(spots) and spots[index + 1].written not in untouched:
            own += _over_two(spots[index : index + 3], place, melody, style)
        proposals += mixed(own)
    return proposals


def _over_two(
    spots: Sequence[Spot], place: Place, melody: Sequence[NoteOver], style: Style | None
) -> Iterator[Proposal]:
    """Four fifths backwards from the chord behind two, in the place of both: 6, 2, 5, 1 into 4."""
    one, other, goal = spots[0], spots[1], spots[2].chord
    if goal is None or other.chord is None or one.part or other.part or min(one.beats, other.beats) < 2:
        return
    if goal.kind not in ("major", "minor"):
        return
    four = in_row(backwards_from(goal), place.key, goal)
    if same_kind(place.before, four[0]):
        return
    rows = []
    for spot, pair in ((one, four[:2]), (other, four[2:])):
        lengths = split(spot.beats, 2)
        assert lengths is not None
        rows.append(tuple(Timed(chord, beats) for chord, beats in zip(pair, lengths, strict=True)))
    names = ", ".join(chord.pretty for chord in four)
    draft = Draft(rows[0], f"four fifths fall into {goal.pretty}, two in each of two places: {names}")
    over = [[note for note in melody if _overlaps(note, spot)] for spot in (one, other)]
    first = _judged(RULES[_OVER_TWO], draft, replace(place, after=four[2]), one, over[0], style=style)
    notes = (*first.notes, *melody_fit(rows[1], other, over[1], place.key))
    ends = () if place.before is None else (place.before.bass_name,)
    yield replace(
        first, joint=False, notes=notes, clash=clash_share(notes), then=((other.written, rows[1]),),
        bass=(*ends, *(chord.bass_name for chord in four), goal.bass_name),
        bass_was=(*ends, place.chord.bass_name, other.chord.bass_name, goal.bass_name),
    )  # fmt: skip


def mixed(proposals: Sequence[Proposal]) -> list[Proposal]:
    """The proposals of one place in the order in which they are read: what clashes with the tune last; the
    others by how far they go from the function, those that a player expects there before others, and each
    the later the more of its family stand before it. The first six are of four families, where there are so
    many."""
    rest = sorted(
        proposals,
        key=lambda proposal: (proposal.clash, proposal.rubs, proposal.price, GROUPS.index(proposal.group)),
    )
    clean = [proposal for proposal in rest if proposal.safe]
    ordered: list[Proposal] = []
    taken: Counter[str] = Counter()
    rules: Counter[str] = Counter()
    far = {id(proposal): _distance(proposal) for proposal in clean}
    while clean and len(ordered) < SHOWN_FIRST:
        ask()
        missing = _FAMILIES - len(taken)
        among = clean
        if _FIRST - _FAMILIES <= len(ordered) < _FIRST and missing >= _FIRST - len(ordered):
            among = [proposal for proposal in clean if proposal.group not in taken] or clean
        best = min(
            among,
            key=lambda proposal: (
                far[id(proposal)] + _AGAIN * taken[proposal.group] + _SAME_RULE * rules[proposal.rule]
            ),
        )
        clean = [proposal for proposal in clean if proposal is not best]
        ordered.append(best)
        taken[best.group] += 1
        rules[best.rule] += 1
    late = {id(proposal) for proposal in clean}
    return [*ordered, *(proposal for proposal in rest if not proposal.safe or id(proposal) in late)]


def _distance(proposal: Proposal) -> int:
    """How far a proposal is by itself, in hundredths of a half step of distance from the function."""
    return (
        proposal.price
        - _EXPECTED * proposal.first
        + _RUB * proposal.rubs
        + _LONGER * (len(proposal.every_chord) - 1)
    )


@for_a_song
@lru_cache(maxsize=1024)
def _kept(place: Place, rules: tuple[str, ...]) -> tuple[tuple[Rule, Draft], ...]:
    """The drafts that change anything, each once, spelled as players read them. Songs say the same again, and
    so do questions about them."""
    return tuple(_found(place, [RULES[rule] for rule in rules]))


def _found(place: Place, rules: Sequence[Rule]) -> Iterator[tuple[Rule, Draft]]:
    seen: set[tuple[tuple[int, frozenset[int], Fraction], ...]] = {((*sounds(place.chord), place.beats),)}
    for rule, draft in _drafts(place, rules):
        ask()
        chords = [timed.chord for timed in draft.chords]
        spelled = in_row(chords, place.key, place.after, as_written=place.chord.root)
        row = tuple(replace(timed, chord=symbol) for timed, symbol in zip(draft.chords, spelled, strict=True))
        reason = _reworded(draft.reason, draft.chords, row)
        heard = tuple((*sounds(timed.chord), timed.beats) for timed in row)
        if heard not in seen and not _repeats(row, place):
            seen.add(heard)
            yield rule, Draft(row, reason + _unresolved(row, place), draft.first)


def _reworded(reason: str, drafted: Sequence[Timed], row: Sequence[Timed]) -> str:
    """The reason with the chords spelled as they stand."""
    for timed, other in zip(drafted, row, strict=True):
        if timed.chord.root != other.chord.root:
            reason = reason.replace(timed.chord.pretty, other.chord.pretty)
            if timed.chord.root.alter:
                reason = reason.replace(timed.chord.root.pretty, other.chord.root.pretty)
    return reason


def _repeats(row: Sequence[Timed], place: Place) -> bool:
    """Whether a row says a chord twice in a row, or what its neighbour says, where the chart did
    not. A chord that only changes its bass is no repetition: that is the point of it."""
    chords = [timed.chord for timed in row]
    if any(sounds(symbol) == sounds(chord_symbol) for symbol, chord_symbol in pairwise(chords)):
        return True
    ends = ((place.before, chords[0]), (place.after, chords[-1]))
    own = sounds(place.chord)
    if any(symbol is not None and sounds(symbol) == sounds(new) != own for symbol, new in ends):
        return True
    return any(
        same_kind(neighbour, symbol)
        and not same_kind(neighbour, place.chord)
        and (neighbour is not None and neighbour.bass_name.pitch_class == symbol.bass_name.pitch_class)
        for neighbour, symbol in ends
    )


def _unresolved(row: Sequence[Timed], place: Place) -> str:
    """What is said where a dominant that was put in leads nowhere."""
    last, after = row[-1].chord, place.after
    if after is None or not is_dominant(last) or last.sus or same_kind(last, place.chord):
        return ""
    falls = (last.root.pitch_class - after.root.pitch_class) % 12
    return "" if falls in (7, 1, 11, 2, 10, 0) else f"; it does not resolve into {after.pretty}"


def _drafts(place: Place, rules: Sequence[Rule]) -> Iterator[tuple[Rule, Draft]]:
    """What each rule finds, and then what composing rules find in that."""
    composing = [rule for rule in rules if rule.id in _COMPOSING]
    direct = [(rule, draft) for rule in rules for draft in rule.find(place)]
    yield from sorted(direct, key=lambda one: (not one[1].first, one[0].price))  # of two that sound alike
    for rule, draft in direct:
        single = len(draft.chords) == 1 and rule.joint and rule.id not in _COMPOSING
        if single and is_dominant(draft.chords[0].chord):
            changed = replace(place, chord=draft.chords[0].chord)
            for further in composing:
                for second in further.find(changed):
                    yield further, Draft(second.chords, f"{draft.reason}; then {second.reason}")


def variants(proposal: Proposal, after: ChordSymbol | None, key: Key) -> list[Proposal]:
    """The proposal with its roots kept and other qualities: where it puts in twos and dominants a
    half-diminished two, a flat ninth, a raised fifth; where a chord stands by itself, or is borrowed, other
    colours that the key has. The proposal itself comes first; at most a dozen, the plainest first, each with
    the melody's verdict of its own."""
    return [_turned(proposal, row, key) for row in _variant_rows(proposal, after, key)]


def _turned(proposal: Proposal, row: tuple[Timed, ...], key: Key) -> Proposal:
    """Other chords of the same lengths on the same roots, under the same tune."""
    new = {id(old.chord): timed.chord for old, timed in zip(proposal.chords, row, strict=True)}
    notes = tuple(
        NoteFit(fit.note, chord, _fit_of(fit.note, chord, key))
        for fit in proposal.notes
        for chord in (new.get(id(fit.chord), fit.chord),)
    )
    return replace(proposal, chords=row, notes=notes, clash=clash_share(notes))


def _fit_of(note: NoteOver, chord: ChordSymbol, key: Key) -> Fit:
    return fit(note.key, chord, key, quarters=note.quarters, strong=note.strong, stepwise=note.stepwise)


def _variant_rows(proposal: Proposal, after: ChordSymbol | None, key: Key) -> list[tuple[Timed, ...]]:
    coloured = len(proposal.chords) == 1 or proposal.group == BORROWED
    follows = [*(timed.chord for timed in proposal.chords[1:]), after]
    options: list[tuple[str, ...]] = []
    for timed, next_chord in zip(proposal.chords, follows, strict=True):
        own = timed.chord.quality
        if timed.chord.bass is not None or timed.chord.upper is not None or timed.chord.sus:
            options.append((own,))
        elif pulls(timed.chord, next_chord) and is_dominant(timed.chord):
            options.append((own, *(quality for quality in _FIVES if quality != own)))
        elif next_chord is not None and is_dominant(next_chord) and own in _TWOS:
            options.append((own, *(quality for quality in _TWOS if quality != own)))
        else:
            more = _colours(timed.chord, key) if coloured else ()
            options.append((own, *(quality for quality in more if quality != own)))
    rows = sorted(product(*(range(len(each)) for each in options)), key=lambda row: (sum(row), row))
    return [
        tuple(
            Timed(
                on(timed.chord.root, options[k][choice]) if len(options[k]) > 1 else timed.chord, timed.beats
            )
            for k, (timed, choice) in enumerate(zip(proposal.chords, row, strict=True))
        )
        for row in rows[:12]
    ]


def _colours(chord: ChordSymbol, key: Key) -> tuple[str, ...]:
    """Other colours of a chord that leave its kind: those whose added tones are of the key."""
    here = key.pitch_classes | sounds(chord)[1]
    every = _COLOURS.get(chord.kind, ())
    return tuple(quality for quality in every if sounds(on(chord.root, quality))[1] <= here)


def _overlaps(note: NoteOver, spot: Spot) -> bool:
    return note.start_quarters < spot.end_quarters and spot.start_quarters < (
        note.start_quarters + note.quarters
    )


def _judged(
    rule: Rule,
    draft: Draft,
    place: Place,
    spot: Spot,
    over: Sequence[NoteOver],
    *,
    style: Style | None,
) -> Proposal:
    chords = draft.chords
    notes = tuple(melody_fit(chords, spot, over, place.key))
    ends = [[chord.bass_name] if chord is not None else [] for chord in (place.before, place.after)]
    bass = (*ends[0], *(timed.chord.bass_name for timed in chords), *ends[1])
    was = (*ends[0], place.chord.bass_name, *ends[1])
    twins = any(same_kind(timed.chord, other.chord) for timed, other in pairwise(chords))
    return Proposal(
        spot.written, spot.part, rule.id, group=rule.group,
        price=rule.price if style is None else style.price(rule),
        joint=rule.joint and not twins,
        chords=chords, reason=draft.reason, bass=bass, bass_was=was, notes=notes, clash=clash_share(notes),
        first=draft.first,
        of_dominant=is_pull(place) and place.chord.kind in ("dominant", "major"),
    )  # fmt: skip


def melody_fit(chords: Sequence[Timed], spot: Spot, over: Sequence[NoteOver], key: Key) -> Iterator[NoteFit]:
    """Each melody note, or part of it, over each chord of a row that stands in a spot."""
    start = spot.start_quarters
    for timed in chords:
        end = start + timed.beats * spot.unit
        for note in over:
            begins = max(note.start_quarters, start)
            stops = min(note.start_quarters + note.quarters, end)
            if begins < stops:
                strong = note.strong if begins == note.start_quarters else begins == start
                part = replace(note, start_quarters=begins, quarters=stops - begins, strong=strong)
                yield NoteFit(part, timed.chord, _fit_of(part, timed.chord, key))
        start = end


def clash_share(notes: Sequence[NoteFit]) -> float:
    """The share of the melody's weight that clashes, 0..1."""
    weights = [float(fit.note.quarters) * (_STRONG if fit.note.strong else _WEAK) for fit in notes]
    clashing = [w for w, fit in zip(weights, notes, strict=True) if fit.fit.kind == FitKind.CLASH]
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
