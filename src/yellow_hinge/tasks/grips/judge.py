"""What a player's own grips are, lack and break; and what they cost as a row.

A grip is always accepted: what it breaks is said, never refused.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import NoSolution
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.hands.fingering import fingerings
from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.motion.describe import held_row, hinges
from yellow_hinge.motion.effort import effort_of
from yellow_hinge.motion.explain import WIDE_FROM_SHARE, Term, explain_voicing
from yellow_hinge.motion.hinge import HingeReport
from yellow_hinge.motion.marks import marks
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.regions import goals
from yellow_hinge.song.arrangement import Arrangement, Ask
from yellow_hinge.song.model import FIRST_TAKE, Song, Take
from yellow_hinge.tasks.grips.page import Grip
from yellow_hinge.tasks.song.problem import placed, wish_for
from yellow_hinge.tasks.song.top_line import Lines
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.identify import Name, identify
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.theory.pitch import DEGREES
from yellow_hinge.voicing.naming import classify
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.rules import Broken, broken
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish, for_grip

_ORDER = list(DEGREES)
SIDES = ("left", "right")


class Judged(Struct, frozen=True):
    """A grip with all that there is to say about it: rules that it breaks, and ``marks``, what is remarked as
    a matter of taste; ``effort`` in hundredths of a half step."""

    grip: Grip
    wish: Wish
    voicing: Voicing
    broken: tuple[Broken, ...]
    missing: tuple[str, ...]
    doubled: tuple[str, ...]
    names: tuple[Name, ...]
    terms: tuple[Term, ...]
    marks: tuple[Broken, ...]
    fingers: tuple[tuple[int, ...], tuple[int, ...]]

    @property
    def legal(self) -> bool:
        return not self.broken

    @property
    def effort(self) -> int:
        return sum(term.cost for term in self.terms)

    def span_mm(self, side: str) -> float:
        keys = self.voicing.hand(side).keys
        return span_mm(keys[0], keys[-1], self.wish.profile.octave_mm) if keys else 0.0

    def reach(self, side: str) -> str:
        """ "easy", "wide" (close to the comfortable reach, or beyond it and still possible) or
        "out"."""
        return reach_word(self.wish.profile, self.wish.hand(side), self.voicing.hand(side).keys)


def reach_word(profile: HandProfile, hand: Hand, keys: tuple[int, ...]) -> str:
    """How a shape lies in a hand: "easy", "wide" or "out"."""
    if profile.roll_excess_mm(hand, keys) > 0:
        return "out"
    return "wide" if profile.strain(hand, keys) >= WIDE_FROM_SHARE else "easy"


class JudgedRow(Struct, frozen=True):
    """Grips as a progression: each judged, the changes between them, the row's effort, and the
    least effort that there is for the same chords (None where nothing else can be found)."""

    grips: tuple[Judged, ...]
    hinges: tuple[HingeReport, ...]
    effort: int
    least: int | None


# --- judging -------------------------------------------------------------------------


class Player(Struct, frozen=True):
    """Under whose school and hands grips are judged."""

    arrangement: Arrangement = Arrangement()
    hands: HandProfile = HandProfile()


def judge(
    grip: Grip, key: Key | None, player: Player, library: Library, after: ChordSymbol | None = None
) -> Judged:
    """Everything about one grip under a player's school and hands."""
    wish = wish_for(grip.chord, key, player.arrangement, player.hands, library, after=after)
    return judged(grip, wish, key or parse_key("C"), library)


def judged(grip: Grip, wish: Wish, key: Key, library: Library) -> Judged:
    """Everything about one grip where ``wish`` is wanted, ``key`` being the local key."""
    voicing = classify(grip.left, grip.right, grip.chord, key, library)
    wish = for_grip(wish, voicing)
    brokens = broken(wish, voicing)
    every = [*voicing.degrees, *filter(None, [wish.heard_below])]
    missing = [min(group, key=_ORDER.index) for group in wish.needed if not group & set(every)]
    doubled = sorted({label for label in every if every.count(label) > 1}, key=_ORDER.index)
    fingers = tuple(
        fingerings(voicing.hand(side).keys, side == "left")[0][1] if voicing.hand(side).keys else ()
        for side in SIDES
    )
    return Judged(
        grip, wish, voicing, broken=brokens, missing=tuple(missing), doubled=tuple(doubled),
        names=_names(grip, wish, voicing),
        terms=explain_voicing(wish, voicing), marks=_beyond(brokens,
                                                            marks([wish], [voicing], closes=False)[0]),
        fingers=(fingers[0], fingers[1]),
    )  # fmt: skip


def _names(grip: Grip, wish: Wish, voicing: Voicing) -> tuple[Name, ...]:
    """Names of all that is heard; the symbol's own spelling decides."""
    names = {key % 12: name for key, name in grip.spelled}
    for label in (*grip.chord.degrees, "R"):
        name = grip.chord.root.degree(label)
        names.setdefault(name.pitch_class, name)
    keys, left = list(voicing.keys), len(voicing.left.keys)
    if wish.heard_below is not None:
        left = 0  # the bassist has what the chord stands on
        bass = grip.chord.bass_name.pitch_class
        below = [key for key in range(24, 60) if key % 12 == bass and key < min(keys)]
        keys.insert(0, below[-1] if below else bass)
        names.setdefault(bass, grip.chord.bass_name)
    return tuple(
        _as_written(identify(keys, names, left=left or None), grip.chord, frozenset(k % 12 for k in keys))
    )


def _as_written(names: list[Name], chord: ChordSymbol, heard: frozenset[int]) -> list[Name]:
    """Names with that of the chart first where all its tones sound: also where a slash bass has its own
    fifth, which nobody would write."""
    tones = {chord.root.degree(label).pitch_class for label in chord.degrees}
    if not tones <= heard:
        return names
    own = next((name for name in names if str(name.chord) == str(chord)), None)
    bass = chord.bass_name.pitch_class
    if own is None and chord.bass is not None and heard <= tones | {bass, (bass + 7) % 12}:
        own = Name(chord, f"{replace(chord, bass=None)} over {chord.bass} and its fifth", names[0].score)
    return names if own is None else [own, *(name for name in names if name is not own)]


def judge_row(grips: Sequence[Grip], key: Key | None, player: Player, library: Library) -> JudgedRow:
    """Every grip, and all of them as a progression."""
    chords = [grip.chord for grip in grips]
    alone = [
        judge(grip, key, player, library, after) for grip, after in zip(grips, goals(chords), strict=True)
    ]
    wishes = _in_their_places([judged.wish for judged in alone], player)
    said = marks(wishes, [judged.voicing for judged in alone])
    row = tuple(
        replace(
            judged,
            wish=wish,
            terms=explain_voicing(wish, judged.voicing),
            marks=_beyond(judged.broken, brokens),
        )
        for judged, wish, brokens in zip(alone, wishes, said, strict=True)
    )
    held = held_row(chords, [judged.voicing for judged in row])
    effort = _row_effort(row, library)
    return JudgedRow(row, hinges(held), effort, _least(row, library))


def _beyond(broken: Sequence[Broken], said: Sequence[Broken]) -> tuple[Broken, ...]:
    """What is remarked that no broken rule says already."""
    known = {one.rule for one in broken}
    return tuple(one for one in said if one.rule not in known)


def _in_their_places(wishes: Sequence[Wish], player: Player) -> list[Wish]:
    """The wishes of a row with what their places ask of the top line and of the ending: the row is one
    section, a bar for each chord."""
    chart = parse_chart("".join(f"| {wish.chord} " for wish in wishes) + "|\n")
    song = Song(chart, (Take(0, FIRST_TAKE, player.arrangement),), hands=player.hands)
    lines, nothing = Lines(song), Ask()
    return [
        placed(wish, song, slot, nothing, lines, part=(True, True))
        for wish, slot in zip(wishes, song.slots, strict=True)
    ]


def _row_effort(judged: Sequence[Judged], library: Library) -> int:
    """The effort of the player's own row, by the prices of the search."""
    planner = Planner(library)
    answer = planner.solve(Progression.of([Place(one.wish, one.voicing) for one in judged]))
    return effort_of(answer).cost


def _least(judged: Sequence[Judged], library: Library) -> int | None:
    """The least effort of any row for the same chords and hands."""
    free = [Place(one.wish, None, str(one.grip.chord)) for one in judged]
    try:
        return Planner(library).solve(Progression.of(free)).cost
    except NoSolution:
        return None
