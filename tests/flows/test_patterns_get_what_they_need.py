"""The search gives patterns the notes that they strike; the pedal holds them whole and makes no mud; what
hands cannot do is said. Over songs that no price was set by."""

from __future__ import annotations

from fractions import Fraction
from itertools import combinations

import pytest

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.terms import pair_costs
from yellow_hinge.motion.weights import Weights, bass_top_key, weights_of
from yellow_hinge.rhythm.counts import fits
from yellow_hinge.rhythm.patterns import (
    HANDS,
    MOST_NEEDED,
    NOTES_FOR,
    Hand,
    Pattern,
    builtin_patterns,
    notes_for,
    pattern_in,
    pattern_out,
)
from yellow_hinge.rhythm.realise import strokes_of, struck
from yellow_hinge.rhythm.struck import Struck
from yellow_hinge.song.edits import change_hands, settle
from yellow_hinge.song.groove_edits import only_rhythm, set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing, stretch_of
from yellow_hinge.song.rule_edits import Stretch, set_rule
from yellow_hinge.song.walk import perform
from yellow_hinge.tasks.rhythm.checks import check_rhythm
from yellow_hinge.tasks.settings.patterns import with_patterns
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import remarks, voice_song
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.limits import too_low
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
PATTERNS = builtin_patterns()
ROWS = (
    "Abmaj7 | Fm9 | Bbm7 | Eb13 | C7b9 | Fm | Dbmaj7 Dbm6 | Ab6",
    "E | B/D# | C#m7 | A | F#m7 | B7sus | E/G# | A B7",
    "Dm7 | G7 | Cm7 | F7 | Bbmaj7 | Em7b5 | A7 | Dm",
)
CHORD_STROKES = ("upper", "lower")


def song(row: str, meter: str, school: str = "solo") -> Song:
    return settle(song_of(f"meter: {meter}\ntempo: 90\n[A]\n| {row} |\n"), school=school).song


def played(row: str, pattern: Pattern, hand: Hand, school: str = "solo") -> Song:
    meter = next((one for one in ("4/4", "3/4", "6/8", "5/4", "7/8") if one in pattern.meters), "4/4")
    names = {"left": pattern.id if hand == "left" else None, "right": pattern.id if hand == "right" else None}
    made = with_patterns(song(row, meter, school), **names)
    return voice_song(made, LIBRARY, Planner(LIBRARY)).song


EVERY = [(one, hand) for one in PATTERNS.values() for hand in one.hands]


@pytest.mark.parametrize(("pattern", "hand"), EVERY, ids=lambda one: getattr(one, "id", one))
def test_chord_strokes_are_chords_and_the_pedal_is_clear(pattern: Pattern, hand: Hand) -> None:
    row = ROWS[len(pattern.id) % len(ROWS)]
    made = played(row, pattern, hand)
    playing = Playing(made)
    single = every = 0
    for slot in made.slots:
        grip = playing.grip(slot.index, hand)
        form = playing.form(slot.index)
        for stroke in strokes_of(playing.pattern(slot.index, hand), stretch_of(slot), form):
            if stroke.what in CHORD_STROKES or (stroke.what == "all" and pattern.needs > 1):
                every += 1
                single += len(struck(stroke.what, grip, None)) < 2
    assert single * 10 <= every
    assert [one for one in check_rhythm(made) if one.kind == "pedal"] == []
    _no_mud(made)


def _no_mud(made: Song) -> None:
    """By a measure of its own: what begins while the pedal is down rings until it is up; two keys that do not
    belong to the same grip, and were not struck together, lie neither a half step apart nor too low."""
    heard = perform(made, band=False)
    downs = [one for one in heard.pedal if one.down]
    ups = [one for one in heard.pedal if not one.down]
    assert all(down.start_quarters < up.start_quarters for down, up in zip(downs, ups, strict=True))
    playing = Playing(made)
    for down, up in zip(downs, ups, strict=True):
        hands = [one for one in heard.notes if one.part in HANDS]
        begun = [one for one in hands if one.start_quarters < up.start_quarters]
        ringing = [one for one in begun if one.end_quarters > down.start_quarters]
        assert len({made.slots[one.slot].chord for one in ringing}) == 1  # no harmony rings into another
        for a, b in combinations(ringing, 2):
            low, high = sorted((a.key, b.key))
            together = a.start_quarters < b.end_quarters and b.start_quarters < a.end_quarters
            grip = {key for hand in HANDS for key in playing.grip(a.slot, hand).keys}
            if not (together or {low, high} <= grip):
                assert high - low not in (1, 13)
                between = any(low < one.key < high for one in ringing)
                assert between or not too_low(low, high)


@pytest.mark.parametrize("school", ["band", "guide", "spread", "open", "melody"])
@pytest.mark.parametrize("name", ["waltz", "stride", "five-strokes", "rocking", "off-beats"])
def test_in_every_school(school: str, name: str) -> None:
    pattern = PATTERNS[name]
    made = played(ROWS[2], pattern, "left", school)
    sizes = [len(Playing(made).grip(slot.index, "left").keys) for slot in made.slots]
    assert sum(size < min(3, pattern.needs) for size in sizes) * 10 <= len(sizes)


def test_what_hands_cannot_do_is_said_with_its_number() -> None:
    made = song(ROWS[0], "3/4")
    small = replace_most(made, 2)
    voiced = voice_song(with_patterns(small, "waltz", None), LIBRARY, Planner(LIBRARY))
    said = [words for row in remarks(voiced, LIBRARY) for words in row]
    assert "the left hand's pattern strikes 3 notes: here it has 2" in said
    thin = [one for one in check_rhythm(voiced.song) if one.kind == "thin"]
    assert thin and all(one.hand == "left" and "strikes 3 notes, the grip has 2" in one.words for one in thin)
    assert PATTERNS[thin[0].simpler].needs <= 2
    plain = voice_song(with_patterns(song(ROWS[0], "3/4"), "waltz", None), LIBRARY, Planner(LIBRARY))
    assert not any("pattern strikes" in words for row in remarks(plain, LIBRARY) for words in row)


def replace_most(made: Song, most: int) -> Song:
    from msgspec.structs import replace

    return change_hands(made, replace(made.hands, left=replace(made.hands.left, most_notes=most))).song


def test_what_the_player_says_goes_before_what_a_pattern_needs() -> None:
    made = with_patterns(song(ROWS[1], "3/4"), "waltz", None)
    wish = progression(made, LIBRARY).places[0].wish
    assert wish is not None and wish.struck_by("left") == Struck(3) and wish.struck_by("right") == Struck(1)
    for kind, value in (("notes", 1), ("single", None), ("octave", None)):
        ruled = set_rule(made, Stretch("song"), HandRule("left", kind, value)).song  # type: ignore[arg-type]
        own = progression(ruled, LIBRARY).places[0].wish
        assert own is not None and own.struck_by("left") == Struck()


def test_the_price_of_a_note_too_few() -> None:
    made = with_patterns(song(ROWS[1], "3/4"), "waltz", None)
    plain = progression(song(ROWS[1], "3/4"), LIBRARY).places[0].wish
    waltz = progression(made, LIBRARY).places[0].wish
    assert plain is not None and waltz is not None
    found, weights = candidates(waltz, LIBRARY), weights_of(waltz.school)
    more = pair_costs(waltz, found, weights) - pair_costs(plain, found, weights)
    places = len(set(waltz.recipes_of("left")))  # shapes that the pattern brings stand last in the list
    for row, legal, shape in zip(more, found.legal, found.left, strict=True):
        lacks = max(0, 3 - len(shape.keys)) * weights.struck
        assert all(abs(int(price) - lacks) <= places for price in row[legal])
    assert Weights().struck == 2000 and Weights().struck_low == 120


def test_a_bass_struck_below_may_lie_higher() -> None:
    made = with_patterns(song(ROWS[1], "4/4"), "stride", None)
    below = progression(made, LIBRARY).places[0].wish
    plain = progression(song(ROWS[1], "4/4"), LIBRARY).places[0].wish
    assert below is not None and plain is not None
    assert below.struck_by("left") == Struck(4, below=True)
    assert (bass_top_key(plain), bass_top_key(below)) == (50, 58)


def test_another_pattern_that_needs_more_is_solved_again() -> None:
    made = song(ROWS[0], "3/4")
    assert only_rhythm(made, set_texture(made, None, "x", {"left": "held-rolled"}).song)
    assert not only_rhythm(made, set_texture(made, None, "x", {"left": "waltz"}).song)
    waltz = set_texture(made, None, "x", {"left": "waltz"}).song
    assert only_rhythm(waltz, set_texture(waltz, None, "x", {"left": "waltz-lifted"}).song)
    assert not only_rhythm(made, set_texture(made, None, "x", {"level": 4}).song)


def test_the_right_hand_needs_nothing_while_it_plays_the_tune() -> None:
    made = set_texture(song(ROWS[0], "4/4"), None, "x", {"right": "rocking"}).song
    assert Playing(made).struck(0)[1] == Struck(3)
    assert Playing(set_texture(made, None, "x", {"tune": True}).song).struck(0)[1] == Struck()


# --- what patterns say ---


@pytest.mark.parametrize(
    ("strokes", "needs"),
    [
        (["1 all"], 1), (["1 bottom", "2 upper"], 3), (["1 lower"], 3), (["1 outer", "2 inner"], 3),
        (["1 outer"], 2), (["1 b2"], 2), (["1 b3"], 3), (["1 t4"], 3), (["1 octaves", "2 fifth"], 1),
    ],
)  # fmt: skip
def test_what_strokes_need(strokes: list[str], needs: int) -> None:
    pattern = pattern_in({"id": "a", "name": "A", "strokes": strokes})
    assert pattern.needs == notes_for(pattern.strokes) == needs
    assert "needs" not in pattern_out(pattern) and pattern_in(pattern_out(pattern)) == pattern


@pytest.mark.parametrize(
    ("needs", "read"), [(0, False), (1, True), (MOST_NEEDED, True), (MOST_NEEDED + 1, False)]
)
def test_needs_are_read(needs: int, read: bool) -> None:
    row = {"id": "a", "name": "A", "strokes": ["1 all"], "needs": needs, "pedal": "dry"}
    if not read:
        with pytest.raises(ValueError, match="needs must be 1"):
            pattern_in(row)
        return
    pattern = pattern_in(row)
    assert pattern.needs == needs and pattern.pedal == "dry" and pattern_in(pattern_out(pattern)) == pattern


def test_every_pattern_that_ships_says_what_it_needs() -> None:
    assert set(NOTES_FOR.values()) == {2, 3}
    for one in PATTERNS.values():
        assert one.needs >= notes_for(one.strokes) or one.counts == 0
        assert one.bass_below == (one.strokes[0].what in ("below", "octaves"))
    families = {one.family for one in PATTERNS.values()}
    assert {"bossa", "shuffle", "ballad", "gospel", "off-beats", "in six"} <= families
    dry = {one.id for one in PATTERNS.values() if one.pedal == "dry"}
    assert {"stop", "off-beats", "shuffle-rocking", "swing-four"} <= dry and "waltz" not in dry
    assert all(fits(one, stretch_meter(one)) for one in PATTERNS.values())


def stretch_meter(pattern: Pattern):  # type: ignore[no-untyped-def]
    from yellow_hinge.rhythm.time import Meter

    return Meter(*map(int, pattern.meters[0].split("/")))


def test_a_fraction_of_a_bar_is_played_too() -> None:
    made = played(ROWS[0], PATTERNS["waltz"], "left")
    short = [slot for slot in made.slots if slot.beats < 3]
    assert short and all(slot.quarters == Fraction(3, 2) for slot in short)
