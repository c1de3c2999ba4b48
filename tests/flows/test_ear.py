"""What a listener minds and likes: every chord is the chord that was written, nothing rubs, tones go
where they lead, the top line goes somewhere, endings end; and ``judge`` says so."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from made import chord, song_of
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.explain import explain_change
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.weights import LINE, weights_of, with_top_line
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.judge import Player, judge_row
from yellow_hinge.tasks.grips.page import read_grips
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.coverage import other_chords
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

pytestmark = pytest.mark.long  # many starts, or many searches

WIDE = HandProfile().with_reach(10, 10)


def judged(lines: str, library: Library, school: str = "solo", bass: str = "self") -> list[set[str]]:
    """By grip the ids of all that is broken or marked; lines are told apart by strokes."""
    player = Player(Arrangement(school, 3, bass), WIDE)  # type: ignore[arg-type]
    row = judge_row(read_grips(lines.replace(" | ", "\n"), None), parse_key("C"), player, library)
    return [{one.rule for one in (*grip.broken, *grip.marks)} for grip in row.grips]


# --- identity and rubs ---------------------------------------------------------------------


@pytest.mark.parametrize(
    ("grip", "rule"),
    [
        ("Am6: A2 A3 ; F#4 C5 D5", "identity"), ("Am6: A2 A3 ; F#4 C5 E5", ""),
        ("Eb/Bb: Bb2 G3 ; Eb4 G4 C5", "identity"), ("Eb/Bb: Bb2 G3 ; Eb4 G4 Bb4", ""),
        ("Eb/Bb: Bb2 G3 ; D4 Eb4 G4", "identity"), ("Ebmaj7/Bb: Bb2 G3 ; D4 G4 Eb5", ""),
        ("Eb: Eb2 Bb2 ; Eb4 G4 C5", ""),
        ("Bm7b5: B2 F3 ; A3 D4 G4", "identity"), ("Bm7b5: B2 F3 ; A3 D4 E4", ""),
        ("Dm7: D3 C4 ; F4 G4 B4", "identity"), ("Dm7: D3 C4 ; F4 A4 E5", ""),
        ("G9sus: G2 D3 ; F4 C5", "coverage"), ("G9sus: G2 D3 ; F4 A4", "coverage"),
        ("G9sus: G2 D3 ; A3 C4", "coverage"), ("G9sus: G2 D3 ; F4 A4 C5", ""),
        ("C7alt: C3 E3 ; Bb3 F#4", "coverage"), ("C7alt: C3 E3 ; Bb3 D#4 F#4", ""),
        ("C7alt: C3 E3 ; Bb3 Db4", "coverage"), ("C7alt: C3 E3 ; Bb3 Db4 Ab4", ""),
        ("Cadd9: C3 C4 ; E4 D5", "coverage"), ("Cadd9: C3 G3 ; E4 D5", ""),
        ("C7#9: C3 Bb3 ; D#4 G4 E5", "ninth"), ("C7#9: C3 Bb3 ; E4 G4 D#5", ""),
        ("Am6: A2 E3 ; F#4 B4 C5", "rub"), ("Am6: A2 E3 ; C4 F#4 B4", ""),
    ],
)  # fmt: skip
def test_a_grip_is_the_chord_that_is_written(grip: str, rule: str, library: Library) -> None:
    (found,) = judged(grip, library)
    wrong = found & {"identity", "coverage", "ninth", "rub"}
    assert rule in wrong if rule else not wrong


@pytest.mark.parametrize(
    ("grip", "school", "growls"),
    [
        ("Am11: A2 E3 ; D#4 F4 C5", "open", True), ("Am9: A2 G3 ; E4 F#4 B4", "open", False),
        ("Cm9: C3 Bb3 ; D4 Eb4 G4", "open", True), ("Cm9: C3 Bb3 ; D4 Eb4 G4", "solo", True),
        ("Dm9: D3 C4 ; E4 F4 A4", "solo", False),
    ],
)  # fmt: skip
def test_a_second_growls_below_e4(grip: str, school: str, growls: bool, library: Library) -> None:
    assert ("second" in judged(grip, library, school)[0]) == growls


@pytest.mark.parametrize(
    ("school", "banned"), [("solo", 1), ("singer", 1), ("spread", 1), ("open", 0), ("band", 0)]
)
def test_where_a_rub_under_the_top_is_a_ban_and_where_a_price(
    school: str, banned: int, library: Library
) -> None:
    asked = Wish(chord("Cmaj7"), parse_key("C"), library.schools[school], 3, "self", WIDE)
    found = candidates(asked, library)
    rubbing = [
        j
        for j, shape in enumerate(found.right)
        if len(shape.keys) > 1 and shape.keys[-1] - shape.keys[-2] == 1
    ]
    assert not rubbing if banned else rubbing and weights_of(asked.school).rub_on_top >= 500


CHORDS = (
    "C", "Cm", "C6", "Cm6", "C69", "Cmaj7", "C7", "Cm7", "Cm7b5", "C9", "C13", "C7b9", "C7alt", "C9sus",
    "Cadd9", "C/E", "C/G", "Cmaj7/E", "Cm7/Bb",
)  # fmt: skip


def another(own: ChordSymbol, voicing: Voicing, bass: int | None) -> bool:
    """By plain counting: whether tones beyond the symbol make a dominant seventh on another root, or over an
    inversion any triad or seventh chord."""
    heard = {key % 12 for key in (*voicing.keys, *([] if bass is None else [bass]))}
    written = {(own.root.pitch_class + degree_semitones(label)) % 12 for label in own.degrees}
    written |= {(own.root.pitch_class + step) % 12 for step in (1, 3, 6, 8) if own.alt}
    written.add(own.bass_name.pitch_class)
    forms: list[tuple[int, ...]] = [(0, 4, 7, 10)]
    if own.bass is not None and own.bass.pitch_class != own.root.pitch_class:
        forms += [(0, 4, 7), (0, 3, 7), (0, 4, 7, 11), (0, 3, 7, 10)]
    for root in range(12):
        if root == own.root.pitch_class:
            continue
        for form in forms:
            tones = {(root + step) % 12 for step in form}
            if tones <= heard and not tones <= written:
                return True
    return False


@pytest.mark.parametrize("school", ["solo", "spread", "singer", "band", "open", "sixes"])
@pytest.mark.parametrize("colour", [0, 2, 3])
def test_every_voicing_of_a_school_is_its_chord(school: str, colour: int, library: Library) -> None:
    bass = library.schools[school].bass
    for symbol in CHORDS:
        own = chord(symbol)
        asked = Wish(own, parse_key("C"), library.schools[school], colour, bass, HandProfile())
        found = candidates(asked, library)
        legal = [(i, j) for i in range(len(found.left)) for j in range(len(found.right)) if found.legal[i, j]]
        below = own.bass_name.pitch_class + 36 if asked.heard_below is not None else None
        for i, j in legal[:: max(1, len(legal) // 150)]:
            voicing = Voicing(found.left[i], found.right[j])
            assert not another(own, voicing, below), (symbol, voicing.keys)
            if own.alt:
                assert {"b9", "#9"} & {*voicing.degrees}


def test_a_written_chord_may_be_what_it_is() -> None:
    """The symbol's own tones already make another chord of it: nothing is asked of the colour."""
    own = frozenset({0, 3, 7, 10})
    assert not list(other_chords(own, own, True))


# --- tones that lead on ----------------------------------------------------------------------


@pytest.mark.long
@pytest.mark.parametrize(
    ("row", "broken"),
    [
        ("G7: G2 F3 ; B3 D4 | C: C3 E3 ; C4 G4", set()),
        ("G7: G2 F3 ; B3 D4 | C: C3 G3 ; C4 E4", {"tendency"}),  # the seventh climbs
        ("G7: G2 F3 ; B3 D4 | Cm7: C3 Eb3 ; Bb3 G4", set()),  # the third falls to the next seventh
        ("G7: G2 F3 ; B3 D4 | C6: C3 E3 ; A3 G4", {"tendency"}),
        ("G7: G2 F3 ; B3 D4 | C6: C3 E3 ; C4 A4", set()),
        ("G7sus: G2 F3 ; C4 D4 | C: C3 E3 ; C4 G4", set()),
        ("G7sus: G2 F3 ; C4 D4 | C: C3 E3 ; E4 G4", {"tendency"}),
        ("G7b9: G2 F3 ; Ab3 B3 | C: C3 E3 ; G3 C4", set()),
        ("G7b9: G2 F3 ; Ab3 B3 | C: C3 E3 ; A3 C4", {"tendency"}),
        ("G7: G2 F3 ; B3 D4 | Am: A2 G3 ; A3 E4", set()),  # it does not fall by a fifth
        ("Gm7: G2 F3 ; Bb3 D4 | C: C3 G3 ; C4 E4", set()),  # nothing leads on
    ],
)
def test_tones_go_where_they_lead(row: str, broken: set[str], library: Library) -> None:
    assert judged(row, library, "open")[1] & {"tendency"} == broken


def test_what_leads_elsewhere_costs_and_is_said(library: Library) -> None:
    school = library.schools["solo"]
    before, after = (Wish(chord(one), parse_key("C"), school, 1, "self", WIDE) for one in ("G7", "C"))
    grips = read_grips("G7: G2 F3 ; B3 D4\nC: C3 E3 ; C4 G4\nC: C3 G3 ; C4 E4", None)
    player = Player(Arrangement("solo", 1, "self"), WIDE)
    first, good, bad = (one.voicing for one in judge_row(grips, parse_key("C"), player, library).grips)
    price = weights_of(school).tendency
    for second, paid in ((good, 0), (bad, price)):
        terms = explain_change(before, after, first, second)
        assert sum(term.cost for term in terms if "lead" in term.phrase) == paid


# --- the top line ----------------------------------------------------------------------------

LONG = "key: C\n[A]\n| C | Am7 | Dm7 | G7 | Em7 | A7 | Dm7 | G7 | C |"


def aims(song: Song, library: Library) -> list[int | None]:
    return [
        None if place.wish is None else place.wish.line.aim for place in progression(song, library).places
    ]


@pytest.mark.parametrize("plan", ["arc", "flat", "rising", "falling"])
def test_a_section_has_a_line(plan: str, library: Library) -> None:
    line = aims(song_of(LONG, top_line="sings", plan=plan), library)
    assert None not in line
    steps = [b - a for a, b in pairwise(line)]  # type: ignore[operator]
    if plan == "flat":
        assert not any(steps)
    if plan in ("rising", "falling"):
        assert all(step >= 0 for step in steps) == (plan == "rising") and any(steps)
    if plan == "arc":
        highest = line.index(max(line))  # type: ignore[type-var]
        assert line.count(line[highest]) == 1 and highest / (len(line) - 1) > 0.5
        assert abs(line[0] - line[-1]) <= 2 and all(step >= 0 for step in steps[:highest])  # type: ignore[operator]


def test_only_a_line_that_sings_has_a_plan(library: Library) -> None:
    for top in ("still", "free"):
        assert not any(aims(song_of(LONG, top_line=top), library))
    own = library.schools["solo"]
    still, free = (weights_of(with_top_line(own, top)) for top in ("still", "free"))
    assert not any(getattr(still, name) for name in LINE) and with_top_line(own, "sings") is own
    assert free.aim == free.held_long == 0 and 0 < free.top_leap < weights_of(own).top_leap


def test_a_line_that_sings_moves_more_than_one_that_stays(library: Library) -> None:
    kept, wide = {}, {}
    for top in ("still", "free", "sings"):
        song = voice_song(song_of(LONG, top_line=top), library, Planner(library)).song
        tops = [v.keys[-1] for v in map(song.voicing, range(len(song.slots))) if v is not None]
        kept[top] = sum(a == b for a, b in pairwise(tops))
        wide[top] = max(tops) - min(tops)
    assert kept["sings"] < kept["still"] and kept["sings"] <= kept["free"] <= kept["still"]
    assert wide["sings"] >= 7 > wide["still"]


# --- endings ---------------------------------------------------------------------------------


def closing(text: str, library: Library, loop: bool) -> list[str]:
    places = progression(song_of(text, loop=loop), library).places
    return ["-" if one.wish is None else one.wish.line.closes for one in places]


@pytest.mark.parametrize(
    ("text", "loop", "closes"),
    [
        ("[A]\n| C | G |\n[B]\n| F | C |", False, ["", "section", "", "song"]),
        ("[A]\n| C | G |\n[B]\n| F | C |", True, ["", "section", "", "section"]),
        ("[A]\n| C | G |\n[B]\n| F | C | N.C. |", False, ["", "section", "", "song", "-"]),
        ("[A] x2\n| C | G |", False, ["", "song"]),  # played alike in both rounds
    ],
)
def test_what_closes_something(text: str, loop: bool, closes: list[str], library: Library) -> None:
    assert closing(text, library, loop) == closes


@pytest.mark.parametrize("school", ["solo", "spread", "singer"])
@pytest.mark.parametrize(
    "text", ["| F | G7 | C |", "| Dm7 | G7 | Cmaj7 |", "| F#m7 | B7 | E6 |", "| Gm | D7 | Gm | N.C. |"]
)
def test_the_last_chord_lands(school: str, text: str, library: Library) -> None:
    song = voice_song(song_of(text, school), library, Planner(library)).song
    slot = [one for one in song.slots if one.chord is not None][-1]
    last, own = song.voicing(slot.index), slot.chord
    assert last is not None and own is not None
    assert last.keys[0] <= 47 and last.keys[0] % 12 == own.root.pitch_class  # B2 and below
    assert last.degrees.count(own.third or "") == 1
    assert last.degrees[-1] in ("R", own.third, own.fifth)


@given(
    st.lists(st.sampled_from(["C", "Am7", "Dm7", "G7", "F", "E7", "C/E", "Bm7b5"]), min_size=2, max_size=6)
)
@settings(max_examples=15)
def test_one_hand_alone_ends_on_its_root(row: list[str]) -> None:
    library = builtin_library()
    song = song_of(f"| {' | '.join(row)} | Fmaj9 |", hands="left")
    found = voice_song(song, library, Planner(library)).song
    last = found.voicing(len(row))
    assert last is not None and last.left.keys[0] % 12 == 5


# --- what judge marks ------------------------------------------------------------------------


@pytest.mark.long
@pytest.mark.parametrize(
    ("row", "mark"),
    [
        ("G7: G2 F3 ; B3 D4 | C: C3 G3 ; C4 E4", "tendency"),
        ("Am6: A2 A3 ; F#4 C5 D5", "identity"),
        ("Cmaj7: C3 G3 ; E4 B4 C5", "rub"),
        ("G7: G2 B2 ; B3 F4 | C: C3 E3 ; C4 E4", "doubling"),
        ("C: C2 G2 ; C4 E4 G4", "hole"),
        ("C: C2 E2 ; G3 C4", "low"),
        ("C: C3 G3 ; E4 G4 | C: C3 G3 ; E4 A4", "ending"),
        ("F: F2 C3 ; A3 F4 | C: E3 G3 ; G4 C5", "ending"),
        ("F: F2 C3 ; A3 F4 | C: C4 G4 ; C5 E5", "ending"),
        ("C: C3 G3 ; E4 G4 C5 | Dm: D3 A3 ; F4 A4 D5", "parallel"),
        ("C: C3 G3 ; E4 G4 | D: D3 A3 ; F#4 A4", "parallel"),
        ("C: C3 G3 ; E4 C5 | Am: A2 E3 ; E4 C5 | F: F2 C3 ; F4 C5 | C: C3 G3 ; E4 C5", "held"),
        ("C7#9: C3 Bb3 ; D#4 G4 E5", "ninth"),
        ("Cm9: C3 Bb3 ; D4 Eb4 G4", "second"),
    ],
)
def test_judge_marks_what_a_teacher_would(row: str, mark: str, library: Library) -> None:
    assert mark in judged(row, library, "open")[-1] | judged(row, library, "open")[0]


@pytest.mark.parametrize(
    "row",
    [
        "G7: G2 F3 ; B3 D4 | C: C3 E3 ; C4 E4",
        "C: C3 G3 ; E4 C5 | Am: A2 E3 ; E4 C5 | F: F2 C3 ; E4 A4 C5",  # twice, and no more
        "C: C3 G3 ; E4 G4 | C: C2 G2 E3 ; C4 G4",
        "C: C2 G2 ; B3 E4 G4",
        "C: C2 G2 ; A3 C4 E4",
        "C: C3 G3 ; E4 G4 C5 | G: G2 D3 ; D4 G4 B4",
    ],
)
def test_judge_marks_nothing_else(row: str, library: Library) -> None:
    taste = {"tendency", "rub", "doubling", "hole", "low", "ending", "parallel", "held"}
    assert not taste & set().union(*judged(row, library, "open"))
