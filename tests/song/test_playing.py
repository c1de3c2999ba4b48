"""What the hands play through a song: textures by chord, section and take, rolls, tune and pedal."""

from __future__ import annotations

from fractions import Fraction
from functools import cache

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.patterns import Pattern, Stroke, builtin_patterns
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import vary_with_copy, with_voicings
from yellow_hinge.song.groove import RiffNote, Texture
from yellow_hinge.song.groove_edits import (
    change_groove,
    mark_pedal,
    only_rhythm,
    set_riff,
    set_texture,
    texture_at,
    use_pattern,
    with_groove,
)
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing, lighter
from yellow_hinge.song.walk import drum_events, perform, tempo_changes, walk
from yellow_hinge.tasks.rhythm.checks import check_rhythm
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

TEXT = """key: C
tempo: 120
[Quay] x2
| C | F:2 G7:2 |
[Pier]
| Am | C |
"""
WHATS = {stroke.what for pattern in builtin_patterns().values() for stroke in pattern.strokes}
LEFT, RIGHT = (48, 55), (64, 67, 72)


def voiced(text: str = TEXT, left: tuple[int, ...] = LEFT, right: tuple[int, ...] = RIGHT) -> Song:
    song = song_of(text)
    labels = ("R", "5", "3")
    voicing = Voicing(HandShape(left, labels[: len(left)], ""), HandShape(right, labels[: len(right)], ""))
    return with_voicings(song, [voicing] * len(song.columns))


def textured(song: Song, where: object, **changes: object) -> Song:
    return set_texture(song, where, "x", changes).song  # type: ignore[arg-type]


def of(song: Song, part: str) -> list[NoteEvent]:
    return [one for one in walk(song) if one.part == part]


def test_nothing_said_is_one_stroke_a_chord() -> None:
    song = voiced()
    assert len(walk(song)) == 5 * len(song.slots)
    assert {one.velocity for one in walk(song)} == {64, 68} and not any(one.ornament for one in walk(song))
    played = perform(song).notes
    assert [replace(one, velocity=0) for one in played] == [replace(one, velocity=0) for one in walk(song)]
    assert [one.down for one in perform(song).pedal] == [True, False] * len(song.slots)
    bare = textured(song, None, pedal="none")
    assert perform(bare).pedal == ()


def test_the_nearest_texture_goes_first() -> None:
    song = textured(voiced(), None, left="pulses", touch=1)
    song = textured(song, ("Quay", 0), left="bass-chord")
    song = textured(song, ("Quay", 2), left="stop", touch=-2)
    song = textured(song, At(1), left="off-beats")
    found = [(one.left, one.touch) for one in (song.texture(k) for k in range(len(song.slots)))]
    assert found == [("bass-chord", 1), ("off-beats", 1), ("bass-chord", 1),
                     ("stop", -2), ("off-beats", -2), ("stop", -2), ("pulses", 1), ("pulses", 1)]  # fmt: skip
    assert of(song, "left")[0].velocity == 74
    bare = textured(song, At(1), left=None)
    assert bare.arrangement.groove.chords == {} and texture_at(bare.arrangement.groove, At(1)) == Texture()
    assert texture_at(song.arrangement.groove, None) == Texture(left="pulses", touch=1)


def test_a_take_for_one_round_has_its_own_rhythm() -> None:
    song = vary_with_copy(voiced(), "Quay", 2).song
    other = song.route["Quay", 2]
    song = set_texture(song, None, "x", {"right": "pulses"}, other).song
    assert [song.texture(k).right for k in (0, 3, 6)] == ["held", "pulses", "held"]
    assert len([one for one in of(song, "right") if one.slot == 3]) == 12


def test_a_pattern_of_ones_own_goes_into_the_project() -> None:
    mine = Pattern("mine", "Mine", (Stroke(Fraction(0), "top"), Stroke(Fraction(5, 2), "bottom")))
    song = use_pattern(voiced(), None, "right", mine, own=True).song
    assert [(one.start_quarters, one.key) for one in of(song, "right")[:2]] == [(0, 72), (Fraction(5, 2), 64)]
    gone = with_groove(song, replace(song.arrangement.groove, patterns=()))
    assert [one.key for one in of(gone, "right")[:3]] == list(RIGHT)  # an unknown name is held
    assert song.arrangement.groove.used == {"mine"}


def test_what_is_wider_than_the_hand_is_rolled_in_milliseconds() -> None:
    song = voiced(left=(40, 52, 59))
    assert Playing(song).too_wide(0, "left") and not Playing(song).too_wide(0, "right")
    assert {one.way for one in of(song, "left")} == {"rolled"}
    heard = [one for one in perform(song).notes if one.part == "left" and one.slot == 0]
    starts = [float(one.start_quarters) for one in heard]
    assert starts == pytest.approx([0, 0.07, 0.14], abs=0.002)  # 35 ms at 120 a minute
    slow = perform(change_groove(song, "x", roll_ms=70).song)
    assert float(slow.notes[-1].start_quarters) > float(perform(song).notes[-1].start_quarters)
    easy = change_groove(song, "x").song
    easy = replace(easy, hands=replace(easy.hands, left=replace(easy.hands.left, reach_mm=400)))
    assert {one.way for one in of(easy, "left")} == {""}


def test_the_pedal_follows_chords_halves_stretches_and_marks() -> None:
    song = voiced()

    def moves(one: Song) -> list[tuple[float, bool]]:
        return [(round(float(p.start_quarters), 2), p.down) for p in perform(one).pedal][:4]

    assert moves(textured(song, None, pedal="chord")) == [(0.22, True), (4, False), (4.22, True), (6, False)]
    assert moves(textured(song, None, pedal="half")) == [(0.22, True), (2, False), (2.22, True), (4, False)]
    assert moves(textured(song, None, pedal="bridge")) == []
    assert moves(textured(voiced(left=(40, 52, 59)), None, pedal="bridge"))[0] == (0.22, True)
    held = textured(textured(song, None, pedal="chord"), At(1), pedal="hold")
    assert moves(held) == [(0.22, True), (6, False), (6.22, True), (8, False)]
    marked = mark_pedal(song, At(0), (Fraction(1),)).song
    assert moves(marked)[:2] == [(1.22, True), (4, False)]
    assert mark_pedal(marked, At(0), None).song.arrangement.groove.pedal_marks == {}
    up = mark_pedal(textured(song, None, pedal="chord"), At(0), ()).song
    assert moves(up)[0] == (4.22, True)


def test_riffs_sound_over_their_chord_in_every_round() -> None:
    song = set_riff(
        voiced(), At(1), [RiffNote(Fraction(1), Fraction(1, 2), 79), RiffNote(Fraction(3), Fraction(1), 81)]
    ).song
    riff = of(song, "riff")
    assert [(one.start_quarters, one.key) for one in riff] == [(5, 79), (13, 79)]  # behind the chord is none
    assert all(one.ornament for one in riff)
    assert set_riff(song, At(1), []).song.arrangement.groove.riffs == {}


def test_the_right_hand_plays_the_tune_over_its_core() -> None:
    text = "key: C\n| C | F |\nmelody: E5:2 G5:2 | A5:3 r:1\n"
    song = textured(voiced(text), None, tune=True, right="pulses")
    right = of(song, "right")
    tune = [(one.start_quarters, one.key, one.quarters) for one in right if one.key > 73]
    assert tune == [(0, 76, 2), (2, 79, 2), (4, 81, 3)]
    core = {one.key for one in right if one.slot == 0 and one.key <= 73}
    assert core == {64, 67, 72}
    assert [one.part for one in perform(song, melody=True).notes if one.part == "melody"] == []
    low = textured(voiced("key: C\n| C |\nmelody: G4:4\n"), None, tune=True)
    assert {one.key for one in of(low, "right")} == {64, 67}  # what lies too near below the tune rests


def test_touch_and_density_grow_by_section() -> None:
    song = textured(voiced(), None, right="pulses-eighths")
    built = change_groove(song, "x", build=True).song
    first, last = (Playing(built).pattern(k, "right") for k in (0, 7))
    assert (first.id, last.id) == ("pulses-short", "pulses-eighths") or first.level < last.level
    loud = [one.velocity for one in of(built, "right")]
    assert loud[0] == 60 and loud[-1] == 76 - 14  # the last stroke is an and, soft
    same = lighter(last, {last.id: last}, "right", song.slots[0])
    assert same is last


def test_it_slows_down_and_the_last_chord_is_held() -> None:
    song = voiced()
    assert tempo_changes(song) == ((0, 120),)
    slow = change_groove(song, "x", slowing=2).song
    rates = [float(rate) for start, rate in tempo_changes(slow) if start >= 16]
    assert rates == sorted(rates, reverse=True) and rates[-1] == pytest.approx(78) and len(rates) == 8
    held = change_groove(slow, "x", ending="rolled").song
    assert tempo_changes(held)[-1][0] == 20 and float(tempo_changes(held)[-1][1]) == pytest.approx(49.5)
    assert perform(held).tempo.seconds(24) > perform(slow).tempo.seconds(24) > perform(song).tempo.seconds(24)
    pulses = textured(held, None, left="pulses", right="pulses")
    last = [one for one in walk(pulses) if one.slot == 7]
    assert (
        len(last) == 5 and {one.way for one in last} == {"rolled"} and {one.quarters for one in last} == {4}
    )
    plain = textured(change_groove(song, "x", ending="held").song, None, left="stride")
    assert {one.key for one in of(plain, "left") if one.slot == 7} == {36, 48}
    whole = change_groove(song, "x", slowing=8).song
    assert tempo_changes(whole)[0][0] == 0


def test_a_fill_ends_a_section() -> None:
    song = textured(voiced(), None, right="pulses", fill=True)
    counts = {slot.index: len({e.start_quarters for e in of(song, "right") if e.slot == slot.index})
              for slot in song.slots}  # fmt: skip
    assert counts == {0: 4, 1: 2, 2: 3, 3: 4, 4: 2, 5: 3, 6: 4, 7: 4}


def test_the_band_plays_only_where_it_is_wanted() -> None:
    song = voiced()
    assert drum_events(song) == [] and not [e for e in perform(song).notes if e.part in ("bass", "drums")]
    band = change_groove(song, "x", drums="brush", bass_line="swing-two").song
    parts = {one.part for one in perform(band).notes}
    assert parts == {"left", "right", "bass", "drums"}
    bass = [(one.start_quarters, one.key) for one in perform(band).notes if one.part == "bass"][:4]
    assert bass == [(0, 36), (2, 43), (4, 29), (6, 31)]
    assert {one.part for one in perform(band, band=False).notes} == {"left", "right"}
    with_bassist = [(36,) * 8, (None,) * 8]
    assert [one for one in perform(song, with_bassist[0]).notes if one.part == "bass"]
    assert not [one for one in perform(song, with_bassist[1]).notes if one.part == "bass"]


def test_only_rhythm_is_told_from_the_rest() -> None:
    song = voiced()
    assert only_rhythm(song, textured(song, None, left="pulses"))
    assert only_rhythm(song, change_groove(song, "x", swing=50).song)
    assert not only_rhythm(song, voiced(left=(47,)))
    assert not only_rhythm(song, vary_with_copy(song, "Quay", 2).song)


ONE_HANDED = [
    song_of(text, hands=hands)
    for text in (
        "key: C\n| Cm9 |\n", "| N.C. | N.C. |\n", "meter: 2/4\n| C:1/2 F:3/2 | G7 |\n",
        "meter: 3/4\n| C | F:1 G:2 |\nmelody: E5:3 | A4:3\n",
    )
    for hands in ("both", "left", "right", "rest")
]  # fmt: skip


@cache
def solved(number: int) -> Song:
    library = builtin_library()
    return voice_song(ONE_HANDED[number], library, Planner(library)).song


@given(
    number=st.integers(0, len(ONE_HANDED) - 1),
    counts=st.integers(0, 3),
    strokes=st.lists(
        st.tuples(st.integers(0, 3), st.sampled_from(sorted(WHATS)), st.none() | st.integers(1, 9)),
        max_size=3,
    ),
    hand=st.sampled_from(("left", "right")),
    texture=st.fixed_dictionaries(
        {"tune": st.none() | st.just(True), "pedal": st.sampled_from((None, "half", "bridge", "hold"))}
    ),
    ending=st.sampled_from(("", "held", "rolled")),
)
def test_no_pattern_on_no_hand_ever_fails(
    number: int, counts: int, strokes: list[tuple[int, str, int | None]], hand: str,
    texture: dict[str, object], ending: str,
) -> None:  # fmt: skip
    """Patterns as long as the chord (no counts), of one stroke or none, on hands that rest."""
    row = tuple(
        Stroke(at=Fraction(at, 2), what=what, counts=None if lasts is None else Fraction(lasts))
        for at, what, lasts in strokes
    )
    pattern = Pattern("own", "Own", counts=counts, strokes=row)
    song = use_pattern(solved(number), None, hand, pattern, True).song
    song = textured(change_groove(song, "x", ending=ending).song, None, **texture)
    check_rhythm(song)
    for one in (*walk(song), *perform(song, melody=True).notes):
        assert one.quarters > 0 and one.key in range(128)
        assert song.arrangement.hands in ("both", one.part) or texture["tune"] or one.part == "melody"
