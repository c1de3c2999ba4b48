"""Scales, guide tones, targets, and small notes on the way, by properties and cases."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise, product

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.formats import project_file
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.connections import Connection, Places, connections
from yellow_hinge.reharm.lines import SCALES, guide_line, passage_scales, scale_for, targets
from yellow_hinge.song.edits import wish_for_chord, with_voicings
from yellow_hinge.song.playing import fills_sounding
from yellow_hinge.song.walk import walk
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.identify import QUALITIES
from yellow_hinge.theory.keys import ALL_KEYS, Key, parse_key
from yellow_hinge.theory.pitch import degree_semitones
from yellow_hinge.theory.spelling import by_function
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing


def chord(text: str) -> ChordSymbol:
    found = parse_chord(text)
    assert found is not None
    return found


@given(st.sampled_from(QUALITIES), st.sampled_from(["C", "Eb", "F#"]), st.sampled_from(ALL_KEYS))
def test_a_scale_holds_every_tone_of_its_chord(quality: str, root: str, key: Key) -> None:
    one = chord(f"{root}{quality}")
    tones = {(one.root.pitch_class + degree_semitones(label)) % 12 for label in one.degrees}
    scale = scale_for(one, None, key)
    assert tones <= scale.pitch_classes and scale.name in SCALES and scale.why


@pytest.mark.parametrize(
    ("row", "key", "name"),
    [
        ("Dm7 G7", "C", "dorian"),
        ("G7 C", "C", "mixolydian"),
        ("Fmaj7 C", "C", "lydian"),
        ("E7b9 Am", "Am", "phrygian dominant"),
        ("Db7 C", "C", "lydian dominant"),
        ("G7alt C", "C", "altered"),
        ("Bm7b5 E7", "Am", "locrian"),
        ("Am(maj7) D7", "G", "melodic minor"),
        ("C#dim7 Dm7", "C", "whole-half diminished"),
    ],
)
def test_scales_by_cases(row: str, key: str, name: str) -> None:
    first, second = map(chord, row.split())
    assert scale_for(first, second, parse_key(key)).name == name


rows = st.lists(st.sampled_from(["Cmaj7", "Dm7", "G7", "Am7", "Fm6", "Bb9sus", "C", "E5", "-"]), max_size=5)


@given(rows)
def test_the_guide_line_is_the_calmest(row: list[str]) -> None:
    chords = [None if word == "-" else chord(word) for word in row]
    line = guide_line(chords)
    assert len(line) == len(chords)
    notes = [one.note.pitch_class for one in line if one is not None]
    assert [one is None for one in line] == [one is None for one in chords]
    for one, tone in zip(chords, line, strict=True):
        assert one is None or (tone is not None and one.root.degree(tone.degree) == tone.note)
    if None in chords or not chords:
        return
    guides = ("3", "b3", "11", "b7", "7", "6")
    choices = [
        [one.root.degree(label).pitch_class for label in guides if label in one.degrees]
        or [one.root.pitch_class]
        for one in chords
        if one is not None
    ]

    def motion(places: tuple[int, ...] | list[int]) -> int:
        return sum(min((b - a) % 12, (a - b) % 12) for a, b in pairwise(places))

    assert motion(notes) == min(motion(places) for places in product(*choices))


def test_targets_and_scales_for_a_passage() -> None:
    key = parse_key("C")
    assert targets(chord("G7"), chord("C"), key) == ["E is there already and becomes its 3"]
    assert targets(chord("Dm7"), chord("G7"), key)[0].startswith("B is there")
    assert targets(chord("G7"), None, key) == []
    found = passage_scales([chord("Am7"), None, chord("Dm7"), chord("Em7")], key)
    assert {str(one.scale) for one in found} >= {"A minor pentatonic"}
    assert all(one.fits + len(one.careful) == 3 for one in found)


def shape(keys: list[int]) -> HandShape:
    return HandShape(tuple(sorted(keys)), ("R",) * len(keys))


voicing = st.builds(
    Voicing,
    st.lists(st.integers(40, 58), min_size=1, max_size=3, unique=True).map(shape),
    st.lists(st.integers(60, 76), min_size=1, max_size=4, unique=True).map(shape),
)
lengths = st.sampled_from([Fraction(1, 2), Fraction(1), Fraction(2), Fraction(3), Fraction(4)])


@given(voicing, voicing, lengths)
def test_small_notes_fit_into_the_beats_left_over(before: Voicing, after: Voicing, beats: Fraction) -> None:
    for one in connections(before, after, (chord("Dm7"), chord("G7")), beats, parse_key("C")):
        assert one.words and one.fills
        assert one.fills[0].offset_beats > 0
        ends = [fill.offset_beats + fill.beats for fill in one.fills]
        if one.kind == "grip before":
            assert set(ends) == {beats} and len(one.fills) == len(after.right.keys)
        else:
            octaves = one.words.count("in octaves")
            voice = one.fills[: len(one.fills) // 2] if octaves else one.fills
            assert ends[: len(voice)] == [*(fill.offset_beats for fill in voice[1:]), beats]
            if octaves:
                assert before.left.keys == (voice[0].start_key, voice[0].start_key + 12)
                assert [fill.key - 12 for fill in one.fills[len(voice) :]] == [fill.key for fill in voice]
        for fill in one.fills:
            assert fill.start_key in before.hand(fill.hand).keys
            assert fill.end_key in after.hand(fill.hand).keys
            assert fill.key not in (fill.start_key, fill.end_key)


def grips(left: list[int], right: list[int]) -> Voicing:
    return Voicing(shape(left), shape(right))


@pytest.mark.parametrize(
    ("symbols", "before", "after", "beats", "said"),
    [
        ("C F", grips([36], [60, 64, 67]), grips([41], [60, 65, 69]), "4", [
            "Passing bass by scale steps: C D E F, on count 3 and 4 of the chord, a beat each",
            "Passing bass by half steps: C D♯ E F, on count 3 and 4 of the chord, a beat each",
            "Lead-in note from a half step away: G G♯ A, on count 4 of the chord, a beat"]),
        ("G7 C", grips([43], [59, 62, 65]), grips([36], [60, 64, 72]), "4", [
            "Passing bass by scale steps: G E D C, on count 3 and 4 of the chord, a beat each",
            "Passing bass by half steps: G D C♯ C, on count 3 and 4 of the chord, a beat each",
            "Inner line through the half step between: D D♯ E, on count 4 of the chord, a beat",
            "Lead-in note from a half step away: F B C, on count 4 of the chord, a beat"]),
        # too short for two notes, too short for a beat; a bass that moves by step is not walked to
        ("C F", grips([36], [60, 64]), grips([41], [60, 65]), "1", [
            "Passing bass by scale steps: C E F, on count 1.5 of the chord, half a beat",
            "Lead-in note from a half step away: E F♯ F, on count 1.5 of the chord, half a beat"]),
        ("C Dm", grips([36, 43], [60, 64]), grips([38, 48], [62, 65]), "2", [
            "Inner line through the half step between: C C♯ D, on count 2 of the chord, a beat",
            "Lead-in note from a half step away: E F♯ F, on count 2 of the chord, a beat"]),
        ("C D", grips([36], [60]), grips([38], [60]), "4", []),
        ("C F", grips([36], [60, 64]), grips([41], [60, 65]), "1/2", []),
    ],
)  # fmt: skip
def test_small_notes_in_words(
    symbols: str, before: Voicing, after: Voicing, beats: str, said: list[str]
) -> None:
    one, other = (chord(text) for text in symbols.split())
    found = connections(before, after, (one, other), Fraction(beats), parse_key("C"))
    lines = [connection.words for connection in found if connection.kind not in ("slide", "grip before")]
    assert lines == said


def test_a_slide_and_the_next_grip_from_below() -> None:
    before, after = grips([36], [60, 64, 67]), grips([41], [60, 65, 69])
    found = connections(before, after, (chord("C"), chord("F")), Fraction(4), parse_key("C"))
    words = {one.kind: one.words for one in found}
    assert words["slide"] == "Slide from G♯ into A, just before it"
    assert "grip before" not in words or len(before.right.keys) == 3
    wider = connections(
        before, grips([41], [62, 66, 70]), (chord("C"), chord("D")), Fraction(4), parse_key("C")
    )
    [grip] = [one for one in wider if one.kind == "grip before"]
    assert [fill.key for fill in grip.fills] == [61, 65, 69]
    assert {(fill.offset_beats, fill.beats) for fill in grip.fills} == {(Fraction(7, 2), Fraction(1, 2))}


HALF = Fraction(1, 2)


def between(before: Voicing, after: Voicing, free: dict[str, Places]) -> list[Connection]:
    return connections(before, after, (chord("C"), chord("F")), Fraction(4), parse_key("C"), free=free)


def test_lead_in_notes_fall_on_counts_that_the_pattern_leaves_free() -> None:
    before, after = grips([36], [60, 64, 67]), grips([41], [60, 65, 69])
    found = between(
        before, after, {"right": Places((Fraction(1), 3 * HALF, 5 * HALF), (Fraction(0), Fraction(3)))}
    )
    top = next(one for one in found if one.kind == "lead-in note")
    assert [(fill.offset_beats, fill.beats) for fill in top.fills] == [(5 * HALF, 1)]
    assert top.words.endswith("G G♯ A, on count 3.5 of the chord, left free by the pattern")
    none = between(before, after, {"right": Places(())})
    assert next(one for one in none if one.kind == "lead-in note").fills[0].offset_beats == 3


def test_a_passing_bass_takes_the_place_of_the_last_strokes() -> None:
    before, after = grips([36], [60, 64, 67]), grips([41], [60, 65, 69])
    strokes = (Fraction(0), Fraction(1), 5 * HALF, 7 * HALF)
    found = between(before, after, {"left": Places((Fraction(3),), strokes)})
    bass = next(one for one in found if one.kind == "passing bass")
    assert [(fill.offset_beats, fill.beats) for fill in bass.fills] == [(5 * HALF, 1), (7 * HALF, HALF)]
    assert bass.words.endswith("C D E F, in place of the pattern's stroke on count 3.5 and 4.5 of the chord")
    few = between(before, after, {"left": Places((), (Fraction(0), Fraction(2)))})
    assert next(one for one in few if one.kind == "passing bass").fills[0].offset_beats == 2


def test_a_passing_bass_under_an_octave_moves_both_notes() -> None:
    after = grips([41], [60, 65, 69])
    moved = next(
        one for one in between(grips([36, 48], [60, 64, 67]), after, {}) if one.kind == "passing bass"
    )
    assert [(fill.start_key, fill.key) for fill in moved.fills] == [(36, 38), (36, 40), (48, 50), (48, 52)]
    assert "in octaves, on count 3 and 4" in moved.words
    for others in ([36], [36, 43], [36, 43, 48], [36, 47]):
        plain = between(grips(others, [60, 64, 67]), after, {})
        assert all("octaves" not in one.words for one in plain)


@pytest.mark.parametrize(
    ("symbol", "key", "read"),
    [
        ("D#m7", "C", "Ebm7"), ("D#m7", "E", "D#m7"), ("D#dim7", "C", "D#dim7"), ("Cbmaj7", "C", "Bmaj7"),
        ("G#7/B#", "C", "Ab7/C"), ("C/D#", "C", "C/Eb"), ("Am/Ab", "C", "Am/G#"), ("C7/A#", "C", "C7/Bb"),
        ("Fb", "Cb", "Fb"), ("G#m", "B", "G#m"), ("F/Cb", "C", "F/B"),
    ],
)  # fmt: skip
def test_chords_are_spelled_as_players_read_them(symbol: str, key: str, read: str) -> None:
    assert str(by_function(chord(symbol), parse_key(key), None)) == read


def test_taken_small_notes_sound_are_kept_and_end_when_their_voice_goes_elsewhere(library: Library) -> None:
    song = song_of("key: C\n| C | Ab7 | D | Bbmaj7 |")
    song = voice_song(song, library, Planner(library)).song
    index, one = next(
        (slot.index, found[0])
        for slot in song.slots[:-1]
        if (found := connections(
            song.voicing(slot.index) or Voicing(), song.voicing(slot.index + 1) or Voicing(),
            (slot.chord or chord("C"), song.slots[slot.index + 1].chord or chord("C")), slot.beats, song.key,
        ))
    )  # fmt: skip
    filled = wish_for_chord(song, index, replace(song.ask(index), fills=one.fills)).song
    plain, played = walk(song), walk(filled)
    assert len(played) == len(plain) + len(one.fills)
    fill = one.fills[0]
    cut = next(e for e in played if e.slot == index and e.key == fill.start_key)
    assert cut.quarters == fill.offset_beats
    assert project_file.read(project_file.write(filled)).song == filled
    elsewhere = [Voicing(HandShape((40,), ("R",)), HandShape((88,), ("R",)))] * 4
    assert fills_sounding(with_voicings(filled, elsewhere), index) == ()
    last = wish_for_chord(song, 3, replace(song.ask(3), fills=one.fills)).song
    assert fills_sounding(last, 3) == ()
