"""Project files, unknown fields, and writing that never leaves half a file."""

from __future__ import annotations

import errno
import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from msgspec.structs import replace

from conftest import DATA, FERRY
from made import DECIDED, WALK, F, charts, decided_song, held, song_of
from yellow_hinge.errors import BadInput, FileTrouble
from yellow_hinge.formats import project_file
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.project_v1 import upgraded_chart
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Arrangement, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import copy_take, set_lock, vary_with_copy
from yellow_hinge.song.model import Song, Take
from yellow_hinge.tasks.files.opening import DEMO_SONGS, Unsaved, demo_song, open_song, save_song
from yellow_hinge.tasks.files.recovery import Keeper
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Voicing

LIBRARY = builtin_library()
Raw = dict[str, Any]


@pytest.fixture(scope="module")
def song() -> Song:
    """A solved song with other hands, two takes and a lock."""
    own = song_of(FERRY, "band", colour=1, bass="bassist")
    solved = voice_song(replace(own, hands=HandProfile().with_reach(10, 9)), LIBRARY, Planner(LIBRARY)).song
    return vary_with_copy(set_lock(solved, 2, True).song, "End", 2).song


def raw_of(song: Song) -> Raw:
    raw: Raw = json.loads(project_file.write(song))
    return raw


def read_raw(raw: Raw) -> project_file.Opened:
    return project_file.read(json.dumps(raw).encode(), "x.yhinge")


def test_a_project_reads_back_as_it_was(song: Song) -> None:
    assert project_file.read(project_file.write(song)).song == song


def test_whatever_may_be_decided_is_in_the_project_in_the_copies_and_among_hostile_inputs(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """The fuzzer's project has something in every field: a field that is new must be put there too."""
    monkeypatch.syspath_prepend(str(Path(__file__).parents[2] / "tools"))
    import fuzz

    seed = fuzz.readers()["project"].seeds[3]
    opened = project_file.read(seed)
    take = opened.song.arrangement
    choices, asks = list(take.choices.values()), list(take.asks.values())
    assert take.prices is not None
    for decided in (take, take.tastes["A"], choices[0], asks[0], take.groove, take.groove.whole, take.prices):
        usual = type(decided)(*([Voicing()] if decided is choices[0] else []))  # type: ignore[arg-type]
        bare = [name for name in usual.__struct_fields__ if getattr(decided, name) == getattr(usual, name)]
        assert bare in ([], ["hands"], ["right"]), type(decided)  # both hands play; one pattern is enough
    again = project_file.read(project_file.write(opened.song))
    assert again.song == opened.song and not opened.problems and not again.problems
    keeper = Keeper()
    keeper.keep(Unsaved(opened.song, "| C |"))
    assert read_raw(json.loads(keeper.copy.read_bytes())["project"]).song == opened.song
    keeper.drop()


@settings(max_examples=40)
@given(charts())
def test_a_song_without_text_gets_one(chart: Chart) -> None:
    song = Song(chart)
    again = project_file.read(project_file.write(song)).song
    assert replace(again.chart, text="") == chart and again.slots == song.slots


def test_unknown_fields_are_kept_where_they_stood(song: Song) -> None:
    raw = raw_of(song)
    raw["later"] = {"x": [1]}
    raw["hands"]["glove"] = "wool"
    raw["takes"][1]["mood"] = {"bright": True}
    raw["takes"][0]["choices"]["2"]["left"]["finger"] = 3
    raw["takes"][0]["tastes"] = {"Verse": {"colour": 1, "smell": "tar"}}
    raw["takes"][0]["asks"] = {"0": {"taste": {"colour": 1, "deep": 1}, "wide": [2]}}
    assert raw_of(read_raw(raw).song) == raw


def test_unknown_fields_go_with_what_they_hang_on(song: Song) -> None:
    raw = raw_of(song)
    raw["takes"][0]["choices"]["2"]["finger"] = 3
    read = read_raw(raw).song
    bare = replace(read, takes=tuple(replace(t, arrangement=Arrangement()) for t in read.takes))
    assert raw_of(bare)["takes"][0]["choices"] == {}
    copied = copy_take(read).song
    assert len(raw_of(copied)["takes"]) == 3


def test_unfinished_songs_can_be_kept() -> None:
    read = project_file.read(project_file.write(song_of(FERRY))).song
    assert not read.solved and read.arrangement == Arrangement()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda raw: raw.update(schema="yellow-hinge/project/99"), "newer version"),
        (lambda raw: raw.update(schema="yellow-hinge/project/0"), "schema"),
        (lambda raw: raw.update(schema="yellow-hinge/project/²"), "schema"),
        (lambda raw: raw.update(schema="other"), "schema"),
        (lambda raw: raw.pop("schema"), "schema"),
        (lambda raw: raw.pop("chart"), "chart"),
        (lambda raw: raw.update(chart="| H |"), "note letter"),
        (lambda raw: raw["hands"]["left"].update(reach_mm=9000), "reach_mm"),
        (lambda raw: raw["hands"]["left"].update(most_notes=9), "most_notes"),
        (lambda raw: raw["hands"]["left"].update(lowest_key=100), "ascend"),
        (lambda raw: raw["hands"].update(octave_mm=1), "octave_mm"),
        (lambda raw: raw["takes"][0].update(bass="drummer"), "bass"),
        (lambda raw: raw["takes"][0].update(colour=7), "<= 3 - at `$.takes[0].colour`"),
        (lambda raw: raw["takes"][0].update(levels={"bass": 3}), "<= 2 - at `$.takes[0].levels"),
        (lambda raw: raw["takes"][0]["choices"]["0"]["left"].update(keys=[60, 50]), "ascending"),
        (lambda raw: raw["takes"][0]["choices"]["0"]["left"].update(degrees=["Q"] * 4), "degrees"),
        (lambda raw: raw["takes"][1].update(id=0), "ids of their own"),
        (lambda raw: raw.update(takes=[]), "takes must be"),
        (lambda raw: raw.update(ids=[1, 1]), "ids must be different"),
        (lambda raw: raw.update(lift_st=40), "lift_st"),
        (lambda raw: raw.update(keys_chosen=3), "keys_chosen"),
        (lambda raw: raw["takes"][0].update(tastes={"Verse": {"colour": 7}}), "<= 3 - at `$.takes[0].tastes"),
        (lambda raw: raw["takes"][0].update(tastes={"Verse": {"pedal": "H"}}), "pedal must be a note"),
        (lambda raw: raw["takes"][0].update(tastes={"Verse": {"melody": "loud"}}), "melody"),
        (lambda raw: raw["takes"][0].update(asks={"0": fill_of(key=300)}), "<= 127 - at"),
        (lambda raw: raw["takes"][0].update(asks={"0": fill_of(offset_beats="1/0")}), "length in beats"),
        (lambda raw: raw["takes"][0].update(asks={"0": fill_of(beats="0")}), "above 0"),
        (lambda raw: raw["takes"][0].update(keys_set={"0": "H"}), "not a key"),
        (lambda raw: raw["takes"][0].update(swaps={"0": [1]}), "array"),
    ],
)
def test_damaged_projects_name_the_field(song: Song, change: Callable[[Raw], object], words: str) -> None:
    raw = raw_of(song)
    change(raw)
    with pytest.raises(BadInput) as caught:
        read_raw(raw)
    assert words in str(caught.value)
    assert caught.value.problems[0].remedy


def fill_of(**other: object) -> Raw:
    fill = {"hand": "left", "start_key": 1, "end_key": 2, "key": 3, "offset_beats": "1", "beats": "1"}
    return {"fills": [fill | other]}


@pytest.mark.parametrize("data", [b"", b"[]", b"\x00\xff", b"[" * 100_000, b"{"])
def test_what_is_no_project_is_refused(data: bytes) -> None:
    with pytest.raises(BadInput):
        project_file.read(data)


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("choices", {"99": {"left": {"keys": [], "degrees": [], "recipe": ""},
                            "right": {"keys": [], "degrees": [], "recipe": ""}, "locked": True}}, "voicing"),
        ("asks", {"x.1": {}}, "wishes"),
        ("swaps", {"99": [["C", "4"]]}, "swap"),
        ("swaps", {"3": [["C", "3"]]}, "does not fit"),
        ("swaps", {"3": [["C", "5"], ["D", "-1"]]}, "does not fit"),
        ("swaps", {"3": [["Cfoo", "4"]]}, "does not fit"),
        ("keys_set", {"-1": "C"}, "local key"),
    ],
)  # fmt: skip
def test_what_does_not_fit_the_chart_is_left_out_with_a_remark(field: str, value: Raw, words: str) -> None:
    raw = raw_of(song_of(WALK))
    raw["takes"][0][field] = value
    opened = read_raw(raw)
    assert len(opened.problems) == 1 and words in opened.problems[0].what
    assert opened.song.arrangement == Arrangement()


def test_takes_and_routes_that_are_not_there_are_not_followed() -> None:
    raw = raw_of(song_of(WALK)) | {"current": 7, "route": [{"section": "Walk", "round": 2, "take": 9}]}
    read = read_raw(raw).song
    assert read.current == 0 and read.route == {}
    assert read_raw(raw_of(decided_song()) | {"ids": [1, 2]}).song.chart.ids == ()


# --- version 1 ---


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_a_kept_version_1_file_of_each_demo_opens(name: str) -> None:
    data = (DATA / "project_1" / f"{name}.yhinge").read_bytes()
    old = json.loads(data)
    opened = project_file.read(data, name)
    song = opened.song
    assert old["schema"].endswith("/1") and opened.problems == ()
    assert song.solved and song.arrangement.school == old["settings"]["school"]
    assert len(song.slots) == len(old["choices"])
    for slot, choice in zip(song.slots, old["choices"], strict=True):
        voicing = song.voicing(slot.index)
        if slot.round == 1 and choice is not None:
            assert voicing is not None
            assert [list(voicing.left.keys), list(voicing.right.keys)] == [
                choice["left"]["keys"], choice["right"]["keys"],
            ]  # fmt: skip
    assert project_file.read(project_file.write(song)).song == song


def version_1(**fields: object) -> Raw:
    """The walk as version 1 kept it."""
    settings = {
        "school": "spread", "colour": 1, "bass": None, "melody": "clear",
        "hands": raw_of(song_of(WALK))["hands"], "levels": {"bass": 1}, "rules_off": ["pedal"],
        "loop": True, "take": 0, "playing": "both", "inverted": False,
    }  # fmt: skip
    return {"schema": "yellow-hinge/project/1", "chart": WALK, "settings": settings} | fields


def voicing_1(key: int, locked: bool = False) -> Raw:
    voicing = held(key)
    sides = (("left", voicing.left), ("right", voicing.right))
    shapes = {side: {"keys": s.keys, "degrees": s.degrees, "recipe": s.recipe} for side, s in sides}
    return {**shapes, "locked": locked}


def test_a_version_1_project_keeps_everything_it_said() -> None:
    """Places count in playing order, rounds written out: F is chord 3, and 8 in the second round."""
    choices = [None, None, None, voicing_1(41, True), voicing_1(43), None, None, None, voicing_1(41, True)]
    raw = version_1(
        choices=choices, asks=[None, None, None, {"taste": {"colour": 3}}],
        tastes={"Walk": {"school": "band"}}, keys_set={"3": "Bb", "8": "Bb"}, untouched=[3, 8],
        later={"x": 1},
    )  # fmt: skip
    opened = read_raw(raw)
    song, arrangement = opened.song, opened.song.arrangement
    assert opened.problems == () and song.takes[0].name == "First take"
    assert (arrangement.school, arrangement.colour, arrangement.melody) == ("spread", 1, "clear")
    assert (arrangement.levels, arrangement.rules_off, arrangement.loop) == ((("bass", 1),), ("pedal",), True)
    assert arrangement.choices[At(F)].locked and not arrangement.choices[At(4)].locked
    assert song.voicing(3) == song.voicing(8) == held(41)
    assert arrangement.asks[At(F)].taste == Taste(colour=3)
    assert arrangement.tastes == {"Walk": Taste("band")}
    assert arrangement.keys_set == {F: DECIDED["keys_set"][F]}  # type: ignore[index]
    assert arrangement.untouched == {F}
    assert song.unknown == {"later": {"x": 1}}


def test_rounds_that_differed_in_version_1_are_said() -> None:
    swap = {"written": 3, "chords": [["Dm9", "2"], ["Db7", "2"]]}
    opened = read_raw(version_1(swaps=[swap], choices=[None] * 3 + [voicing_1(38), voicing_1(49, True)]))
    assert [str(at.chord) for at in opened.song.arrangement.swaps[F]] == ["Dm9", "Db7"]
    assert opened.song.arrangement.choices[At(F, 2)].locked
    assert opened.problems == ()
    other = swap | {"written": 8, "chords": [["Ab7", "4"]]}
    opened = read_raw(version_1(swaps=[swap, other]))
    assert "decided differently" in opened.problems[0].what


@pytest.mark.parametrize(
    ("old", "new"),
    [
        # a tune under several rows ran on over them
        ("[A]\n| C |\n| D |\nmelody: C5:4 | D5:4\n", "[A]\n| C |\nmelody: C5:4\n| D |\nmelody: D5:4\n"),
        # two sections of one name
        ("[A]\n| C |\n[A]\n| D |\n", "[A]\n| C |\n[A 2]\n| D |\n"),
        # the key counted from the beginning wherever it stood
        ("| 1 | 5-7 |\nkey: D\n", "key: D\n| 1 | 5-7 |\n"),
        ("key: C\n| C |\nkey: D\n", "key: D\n| C |\n"),
        ("# a | b |\n| C |\n", "# a | b |\n| C |\n"),
    ],
)
def test_a_version_1_chart_is_written_in_todays_grammar(old: str, new: str) -> None:
    assert upgraded_chart(old) == new
    parse_chart(new)


@pytest.mark.parametrize(
    "damage", [{"choices": 5}, {"settings": None}, {"keys_set": {"x": "C"}}, {"chart": 7}, {"swaps": [{}]}]
)
def test_a_damaged_version_1_project_is_refused_in_words(damage: Raw) -> None:
    with pytest.raises(BadInput):
        read_raw(version_1() | damage)


# --- the disk ---


def test_a_full_disk_leaves_the_old_file(song: Song, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "song.yhinge"
    save_song(song, path, LIBRARY)
    before = path.read_bytes()

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileTrouble) as caught:
        save_song(replace(song, takes=(Take(0, "Other"),)), path, LIBRARY)
    assert "no space left" in str(caught.value)
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


def test_every_format_opens_by_its_suffix(song: Song, tmp_path: Path) -> None:
    for suffix in (".yhinge", ".txt", ".musicxml"):
        path = tmp_path / f"song{suffix}"
        save_song(song, path, LIBRARY)
        assert [str(s.chord) for s in open_song(path).song.slots] == [str(s.chord) for s in song.slots]
    with pytest.raises(BadInput):
        save_song(song, tmp_path / "song.odd", LIBRARY)


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_demo_songs_ship_solved_and_still_are(name: str) -> None:
    """What ships is what the engine finds today; run tools/make_demo.py after a change."""
    song = demo_song(name)
    assert song.solved
    assert any(played.bar.melody for played in song.chart.played)
    assert voice_song(song, LIBRARY, Planner(LIBRARY)).song == song
