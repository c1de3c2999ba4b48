"""Formulas of the player's own: made of a run, kept, and played again elsewhere."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from made import song_of
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput, FileTrouble
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.formulas import Formula, builtin_formulas, home_key
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.rhythm.patterns import Pattern, Stroke
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.edits import with_arrangement
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import set_riff, set_texture, with_pattern
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.reports.lists import formulas_report
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.formula_desk import fittings
from yellow_hinge.tasks.swaps.formula_keys import in_every_key
from yellow_hinge.tasks.swaps.own_formulas import (
    drop_formula,
    formula_of,
    keep_formula,
    own_formulas,
    own_formulas_path,
)
from yellow_hinge.theory.keys import ALL_KEYS
from yellow_hinge.theory.spelling import moved
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
CHART = "title: Slack Water\nkey: F\n[A]\n| Fmaj7 | Gm9 | C13 | Fmaj9 |\n"
ELSEWHERE = (
    "title: Weir\nkey: Bb\n[A]\n| Bbmaj7 | Cm7 F7 | Bbmaj7 | Gm7 |\n[B]\n| Cm7 | F7 | Bbmaj7 | Bbmaj7 |\n"
)
OWN = Pattern("limp", "Limp", (Stroke(Fraction(0), "bottom"), Stroke(Fraction(3, 2), "upper")), counts=2)


def solved(text: str) -> Song:
    return voice_song(song_of(text), LIBRARY, Planner(LIBRARY)).song


def rich() -> Song:
    """The chart with a pattern of one's own, a small note and a line on its second chord."""
    song = solved(CHART)
    slot = song.slots[1]
    song = with_pattern(song, OWN)
    song = set_texture(song, slot.at, "x", {"left": "limp", "right": "off-beats", "pedal": "chord"}).song
    song = set_riff(song, slot.at, [RiffNote(Fraction(1, 2), Fraction(1), 77, "right")]).song
    right = song.voicing(1).right.keys  # type: ignore[union-attr]
    fill = Fill("right", right[-1], song.voicing(2).right.keys[-1], right[-1] - 1, Fraction(3), Fraction(1))  # type: ignore[union-attr]
    asks = {slot.at: Ask(fills=(fill,))}
    return with_arrangement(song, 0, replace(song.arrangement, asks=asks))


def turn(song: Song | None = None) -> Formula:
    return formula_of(song or rich(), 1, 3, "My  way home", {})


def test_a_run_becomes_numbers_with_grips_rhythm_and_notes() -> None:
    song = rich()
    one = turn(song)
    assert (one.id, one.name, one.family, one.minor) == ("my-way-home", "My way home", "mine", False)
    assert [(c.number, c.beats) for c in one.chords] == [("2m9", 4), ("5-13", 4), ("1maj9", 4)]
    assert "Slack Water, bar 2, in F major" in one.why
    for number, played in enumerate(one.played):
        voicing = song.voicing(number + 1)
        assert voicing is not None
        assert tuple(65 + st for st in played.left) == voicing.left.keys
        assert tuple(65 + st for st in played.right) == voicing.right.keys
    first = one.played[0]
    assert (first.left_pattern, first.right_pattern, first.pedal) == ("limp", "off-beats", "chord")
    assert [note.st for note in first.line] == [12] and len(first.small) == 1
    assert one.patterns == (OWN,) and not one.played[1].small


@given(st.sampled_from(ALL_KEYS))
def test_the_home_note_is_the_one_nearest_to_middle_c(key: object) -> None:
    home = home_key(key)  # type: ignore[arg-type]
    assert home % 12 == key.tonic.pitch_class % 12 and 54 <= home <= 65  # type: ignore[attr-defined]


def test_the_file_keeps_it_beside_others(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "formulas.toml"
    assert own_formulas(path) == {}
    one, other = turn(), replace(turn(), id="other", name='A "b" \\ c')
    keep_formula(one, path)
    assert keep_formula(other, path) == {one.id: one, "other": other} == own_formulas(path)
    keep_formula(replace(one, why="Other."), path)
    assert [each.why for each in own_formulas(path).values()] == ["Other.", other.why]
    assert drop_formula("other", path) == own_formulas(path) and "other" not in own_formulas(path)
    assert formula_of(rich(), 1, 3, "My way home", own_formulas(path)).id == "my-way-home-2"


def test_what_cannot_be_written_leaves_the_file(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(FileTrouble):
        keep_formula(turn(), tmp_path / "file" / "formulas.toml")
    path = tmp_path / "formulas.toml"
    path.write_text("schema = 3")
    with pytest.raises(BadInput):
        keep_formula(turn(), path)
    assert path.read_text() == "schema = 3"


@pytest.mark.parametrize(
    ("old", "new", "words"),
    [
        ('"limp"', '"nobody"', "no pattern"), ('pedal = "chord"', 'pedal = "x"', "no pedal"),
        ("left = [", "left = [99, ", "a grip is"), ("small = [\"right", "small = [\"foot", "write HAND"),
        ('line = ["right 12', 'line = ["right a', "write HAND"), ("touch", "toch", "toch"),
        ('id = "my-way-home"', f'id = "{next(iter(builtin_formulas()))}"', "that ships"),
        ('chords = ["2m9 4", ', "chords = [", "of every chord"),
    ],
)  # fmt: skip
def test_bad_files_are_said_with_the_place(tmp_path: Path, old: str, new: str, words: str) -> None:
    path = tmp_path / "formulas.toml"
    keep_formula(replace(turn(), played=tuple(replace(p, touch=1) for p in turn().played)), path)
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))
    with pytest.raises(BadInput) as caught:
        own_formulas(path)
    assert any(words in one.what for one in caught.value.problems)


@pytest.mark.parametrize(
    ("chart", "name", "remedy"),
    [
        (CHART, " ", "a name"), ("key: C\n[A]\n| C | N.C. | G |\n", "x", "without N.C."),
        ("key: C\n[A]\n| C | F |\nmeter: 3/4\n| G | C |\n", "x", "one meter"),
    ],
)  # fmt: skip
def test_what_is_no_formula_is_said(chart: str, name: str, remedy: str) -> None:
    song = solved(chart)
    with pytest.raises(BadInput) as caught:
        formula_of(song, 0, len(song.slots) - 1, name, {})
    assert remedy in caught.value.problems[0].remedy


def test_without_grips_there_is_none_yet() -> None:
    with pytest.raises(BadInput) as caught:
        formula_of(song_of(CHART), 0, 2, "x", {})
    assert "grips" in caught.value.problems[0].remedy


def test_it_is_put_in_another_place_with_everything() -> None:
    one, song = turn(), solved(ELSEWHERE)
    found = {fit.bar: fit for fit in fittings(song, one)}
    whole, half = found[5], found[2]  # as long, and half as long
    after = voice_song(whole.edit(song, LIBRARY).song, LIBRARY, Planner(LIBRARY)).song
    here = [slot for slot in after.slots if slot.section == "B"][:3]
    assert [str(slot.chord) for slot in here] == ["Cm9", "F13", "Bbmaj9"]
    for number, slot in enumerate(here):
        voicing, played = after.voicing(slot.index), one.played[number]
        assert voicing is not None and after.locked(slot.index)
        keys = (*voicing.left.keys, *voicing.right.keys)
        assert [key - keys[0] for key in keys] == [
            st - (*played.left, *played.right)[0] for st in (*played.left, *played.right)
        ]
        assert voicing.left.degrees and voicing.right.degrees
    texture = after.arrangement.groove.chords[here[0].at]
    assert (texture.left, texture.right, texture.pedal) == ("limp", "off-beats", "chord")
    assert after.arrangement.groove.patterns == (OWN,)
    small = after.ask(here[0].index).fills[0]
    assert small.start_key in after.voicing(here[0].index).right.keys  # type: ignore[union-attr]
    assert (small.offset_beats, small.beats) == (3, 1)
    assert after.arrangement.groove.riffs[here[0].at][0].at_beats == Fraction(1, 2)
    quick = half.edit(song, LIBRARY).song
    short = [slot for slot in quick.slots if slot.bar in (2, 3)]
    assert [str(slot.chord) for slot in short] == ["Cm7", "Cm9", "F13", "Bbmaj9"]
    assert [slot.beats for slot in short] == [2, 2, 2, 2]
    note = quick.ask(short[1].index).fills[0]
    assert (note.offset_beats, note.beats) == (Fraction(3, 2), Fraction(1, 2))
    assert quick.arrangement.groove.riffs[short[1].at][0].beats == Fraction(1, 2)


def test_a_place_that_has_its_chords_gets_its_grips() -> None:
    song = solved(CHART)
    one = turn()
    fits = [fit for fit in fittings(song, one) if fit.bar == 2]
    assert fits and not fits[0].rows
    after = fits[0].edit(song, LIBRARY).song
    assert not after.arrangement.swaps
    assert [after.locked(k) for k in range(4)] == [False, True, True, True]
    assert [after.voicing(k) for k in (1, 2, 3)] == [song.voicing(k) for k in (1, 2, 3)]


def test_another_pattern_of_the_songs_keeps_its_id() -> None:
    song = with_pattern(solved(ELSEWHERE), replace(OWN, strokes=OWN.strokes[:1]))
    after = next(fit for fit in fittings(song, turn()) if fit.bar == 5).edit(song, LIBRARY).song
    assert [one.id for one in after.arrangement.groove.patterns] == ["limp", "limp-2"]
    names = {texture.left for texture in after.arrangement.groove.chords.values()}
    assert "limp-2" in names and "limp" not in names


@settings(deadline=None, max_examples=6)
@given(st.sampled_from(list(builtin_formulas().values())))
def test_every_formula_can_be_played_in_twelve_keys(formula: Formula) -> None:
    song = solved(CHART)
    found = in_every_key(formula, song, LIBRARY, Planner(LIBRARY))
    assert len({one.key.tonic.pitch_class for one in found}) == 12
    for one in found:
        assert one.voiced is not None, one.trouble
        sounding = [slot.chord for slot in one.voiced.song.slots]
        named = [moved(chord, 0, 0, one.key) for chord in formula.in_key(one.key)]
        assert list(dict.fromkeys(sounding)) == list(dict.fromkeys(named))
        total = sum(slot.beats for slot in one.voiced.song.slots)
        assert total % song.meter.beats == 0 and total >= formula.beats


def test_ones_own_grips_are_the_same_in_twelve_keys() -> None:
    found = in_every_key(turn(), solved(CHART), LIBRARY, Planner(LIBRARY))
    shapes = set()
    for one in found:
        assert one.voiced is not None
        row = [one.voiced.song.voicing(k) for k in range(3)]
        first = row[0].keys[0]  # type: ignore[union-attr]
        shapes.add(tuple(tuple(key - first for key in grip.keys) for grip in row if grip is not None))
        assert all(one.voiced.song.locked(k) for k in range(3))
    assert len(shapes) == 1


def test_the_list_of_formulas_has_them(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    keep_formula(turn())
    assert own_formulas_path().is_relative_to(tmp_path)
    row = next(row for row in formulas_report()["formulas"] if row["id"] == "my-way-home")
    assert len(row["grips"]) == 3 and row["family"] == "mine"


@pytest.mark.parametrize(("old", "new", "code"), [("", "", 0), ("left = [", "left = [99, ", 1)])
def test_check_knows_the_file(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], old: str, new: str, code: int
) -> None:
    path = tmp_path / "formulas.toml"
    keep_formula(turn(), path)
    path.write_text(path.read_text().replace(old, new, 1) if old else path.read_text())
    assert (run(["check", str(path)]) != 0) == bool(code)
    said = "".join(capsys.readouterr())
    assert ("a grip is" in said) == bool(code)
