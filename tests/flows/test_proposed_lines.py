"""Proposed lines: chord tones on the beat, steps into them, runs, riffs, one scale for all, the bass."""

from __future__ import annotations

from fractions import Fraction
from itertools import pairwise

import pytest

from made import song_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.lead_lines import LineSpan, propose
from yellow_hinge.reharm.lines import passage_scales
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import set_riffs
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune import strong_places
from yellow_hinge.tasks.rhythm.line_desk import propose_line, read_riff, scale_words, scales_over
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.tension import FitKind, fit
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
CHARTS = (
    "key: C\n| Dm7 | G7 | Cmaj7 | A7b9 | Dm7 | G7 | Em7 A7 | Cmaj7 |\n",
    "key: Gm\nmeter: 3/4\n| Gm7 | Cm7 | F7 | Bbmaj7 | Ebmaj7 | Am7b5 | D7b9 | Gm6 |\n",
)


@pytest.fixture(scope="module", params=CHARTS)
def song(request: pytest.FixtureRequest) -> Song:
    return voice_song(song_of(request.param), LIBRARY, Planner(LIBRARY)).song


def line(song: Song, kind: str, density: int, seed: int = 1, **more: object) -> list[tuple[RiffNote, ...]]:
    rows = propose_line(song, range(len(song.slots)), kind, density, seed=seed, **more)  # type: ignore[arg-type]
    return [rows[slot.at] for slot in song.slots]


@pytest.mark.parametrize("density", [1, 2, 4])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_chord_tones_stand_on_beats_and_steps_lead_into_them(song: Song, density: int, seed: int) -> None:
    rows = line(song, "approach", density, seed)
    goals = [row[0].key for row in rows]
    for slot, row, goal in zip(song.slots, rows, [*goals[1:], None], strict=True):
        assert slot.chord is not None
        beats = [note for note in row if note.at_beats.denominator == 1]
        for note in beats[:1] if density == 1 else beats:
            assert slot.chord.label_of(note.key % 12) is not None
        assert slot.chord.label_of(row[0].key % 12) in ("3", "b3", "b7", "7", "6", "11")
        following = [*row[1:], None if goal is None else RiffNote(Fraction(0), Fraction(1), goal)]
        for note, after in zip(row, following, strict=True):
            weak = note.at_beats.denominator > 1 and (note.at_beats + note.beats).denominator == 1
            if after is not None and (weak or (density == 1 and note is row[-1] and len(row) > 1)):
                assert 1 <= abs(after.key - note.key) <= 2
        assert not any(a.key == b.key for a, b in pairwise(row))
    assert rows == line(song, "approach", density, seed) != line(song, "approach", density, seed + 7)


def test_targets_go_against_the_bass_where_they_can() -> None:
    def span(symbol: str, bass: int) -> LineSpan:
        return LineSpan(parse_chord(symbol), Fraction(4), parse_key("C"), bass=bass)

    for bass, goes in ((36, 1), (60, -1)):  # the bass falls, and rises, by an octave
        rows = propose([span("Cmaj7", 48), span("Fmaj7", bass)], "guide", 1, 60, 84, start=71, seed=1)
        assert (rows[1][0].key - rows[0][0].key) * goes > 0


@pytest.mark.parametrize("density", [1, 2, 4])
def test_runs_go_up_to_the_top_and_down_to_the_bottom(song: Song, density: int) -> None:
    low, high = 60, 79
    rows = line(song, "run", density, bounds=(low, high))
    keys = [note.key for row in rows for note in row]
    assert min(keys) >= low and max(keys) <= high and max(keys) - min(keys) >= 12
    assert not any(a == b for a, b in pairwise(keys))
    turns = sum((b - a) * (c - b) < 0 for a, b, c in zip(keys, keys[1:], keys[2:], strict=False))
    assert turns <= len(keys) / 4
    tonality, strong = local_keys(song), strong_places(song)
    for slot, row in zip(song.slots, rows, strict=True):
        assert slot.chord is not None
        for note in row:
            at = slot.start_quarters + note.at_beats * slot.meter.quarters_per_beat
            if at in strong:
                assert fit(note.key % 12, slot.chord, tonality[slot.place]).kind != FitKind.CLASH


def test_a_run_over_one_scale_has_no_other_note(song: Song) -> None:
    scale = scales_over(song, range(len(song.slots)))[0].scale.pitch_classes
    for kind in ("run", "scale", "riff"):
        rows = line(song, kind, 2, scale=scale)
        off = [note.key for row in rows for note in row if note.key % 12 not in scale]
        assert len(off) <= (len(rows) if kind == "scale" else 0)  # a target may lie outside


def test_a_riff_is_one_figure_over_all_chords(song: Song) -> None:
    rows = line(song, "riff", 1)
    longest = max(slot.beats for slot in song.slots)
    figures = {
        tuple((note.at_beats, note.beats) for note in row)
        for slot, row in zip(song.slots, rows, strict=True)
        if slot.beats == longest
    }
    assert max(map(len, figures)) >= 3 and len(figures) <= 2  # a note that the other hand plays is left out
    faster = line(song, "riff", 4)
    assert max(map(len, faster)) > max(map(len, rows))
    for slot, row in zip(song.slots, rows, strict=True):
        assert slot.chord is not None
        for note in row:
            if note.at_beats.denominator == 1:
                kind = fit(note.key % 12, slot.chord, local_keys(song)[slot.place]).kind
                assert kind != FitKind.CLASH


@pytest.mark.parametrize("kind", ["approach", "run", "riff", "scale", "thirds", "guide"])
def test_every_proposed_note_says_its_degree_and_why(song: Song, kind: str) -> None:
    rows = propose_line(song, range(len(song.slots)), kind, 2)
    made = set_riffs(song, rows, "Line").song
    for index in range(len(song.slots)):
        for reading in read_riff(made, index):
            assert reading.degree and (reading.reason or reading.kind == FitKind.CLASH)


def test_scales_for_a_passage_say_where_to_take_care() -> None:
    chords = [parse_chord(symbol) for symbol in ("C7", "F7", "G7")]
    found = {str(one.scale): one for one in passage_scales(chords, parse_key("C"), most=9)}
    assert {"C blues scale", "A blues scale", "C major pentatonic", "A minor pentatonic"} <= set(found)
    assert found["C blues scale"].scale.pitch_classes == {0, 3, 5, 6, 7, 10}
    assert found["A blues scale"].scale.pitch_classes == {9, 0, 2, 3, 4, 7}
    made = song_of("key: C\n| C | F7 | Bdim7 | C |\n")
    words = [scale_words(made, range(4), one) for one in scales_over(made, range(4))]
    assert all(one.endswith("fits every chord") or "take care over" in one for one in words)
    assert all(one.fits >= other.fits for one, other in pairwise(scales_over(made, range(4))))
    assert scale_words(made, [0], scales_over(made, [0])[0]).endswith("fits every chord")
