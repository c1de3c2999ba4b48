"""The command line as others run it: contract, exit codes, messages."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from conftest import FERRY
from yellow_hinge.cli import run
from yellow_hinge.hands.geometry import span_mm


@pytest.fixture
def chart(tmp_path: Path) -> str:
    path = tmp_path / "ferry.txt"
    path.write_text(FERRY, "utf-8")
    return str(path)


SCHOOLS = ["solo", "band", "guide", "spread", "sixes", "shapes", "singer", "melody", "open"]


def answer(capsys: pytest.CaptureFixture[str], *arguments: str) -> Any:
    assert run(list(arguments)) == 0
    return json.loads(capsys.readouterr().out)


def test_voice_json_keeps_the_contract(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "voice", chart, "--json", "--reach", "10th,9th")
    assert report["schema"] == "yellow-hinge/voice/1"
    assert (report["title"], report["key"], report["school"]) == ("Lantern Ferry", "A", "solo")
    assert set(report) == {"schema", "title", "key", "school", "chords", "hinges", "totals", "takes"}
    chord = report["chords"][3]
    assert {k: chord[k] for k in ("bar", "beat", "beats", "symbol", "number", "was")} == {
        "bar": 3, "beat": 3.0, "beats": 1.0, "symbol": "E9sus", "number": "5-9sus", "was": None,
    }  # fmt: skip
    for chord in report["chords"]:
        assert chord["bassist"] is None and chord["warnings"] == []
        for hand in ("lh", "rh"):
            one = chord[hand]
            assert len(one["midi"]) == len(one["names"]) == len(one["degrees"]) == len(one["fingers"])
            assert one["span_mm"] == round(span_mm(one["midi"][0], one["midi"][-1]), 1)
            assert chord["recipe"][hand]
    assert len(report["hinges"]) == len(report["chords"]) - 1
    for before, after, hinge in zip(report["chords"], report["chords"][1:], report["hinges"], strict=False):
        assert (
            hinge["motion"]
            == sum(abs(m["to"] - m["from"]) for m in hinge["moves"])
            == hinge["lh"] + hinge["rh"]
        )
        assert hinge["held"] == sum(m["to"] == m["from"] for m in hinge["moves"])
        notes = [len(c["lh"]["midi"]) + len(c["rh"]["midi"]) for c in (before, after)]
        assert hinge["entered"] - hinge["left"] == notes[1] - notes[0]
        assert hinge["largest"] == max(abs(m["to"] - m["from"]) for m in hinge["moves"])
        assert hinge["words"].endswith(".")
    totals = report["totals"]
    assert totals["motion"] == sum(h["motion"] for h in report["hinges"]) == totals["lh"] + totals["rh"]
    assert totals["optimal"] is True and totals["cost"] > 0
    assert len(totals["states"]) == len(report["chords"]) and min(totals["states"]) > 0
    assert report["takes"] == []


def test_options_are_obeyed(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    plain = answer(capsys, "voice", chart, "--json", "--colour", "0", "--school", "guide", "--key", "Bb")
    assert plain["key"] == "Bb" and plain["chords"][0]["symbol"] == "Bbadd9"
    assert all(chord["bassist"] is not None for chord in plain["chords"])
    assert plain["chords"][-1]["symbol"] == "Bbmaj7"
    assert set(plain["chords"][-1]["lh"]["degrees"]) == {"3", "7"}
    assert set(plain["chords"][-1]["rh"]["degrees"]) <= {"R", "3", "5", "7"}
    own = answer(capsys, "voice", chart, "--json", "--school", "guide", "--bass", "self")
    assert all(chord["lh"]["degrees"][0] == "R" for chord in own["chords"])


def test_a_loop_has_one_more_hinge(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "voice", chart, "--json", "--loop", "--school", "guide")
    assert len(report["hinges"]) == len(report["chords"])
    last, first = report["chords"][-1], report["chords"][0]
    ends = {(m["from"], m["to"]) for m in report["hinges"][-1]["moves"]}
    assert all(start in last["lh"]["midi"] + last["rh"]["midi"] for start, _ in ends)
    assert all(to in first["lh"]["midi"] + first["rh"]["midi"] for _, to in ends)
    assert report["totals"]["optimal"] and report["totals"]["gap"] == 0


def test_takes_are_whole_reports(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "voice", chart, "--json", "--takes", "3")
    assert len(report["takes"]) == 3
    assert report["takes"][0]["chords"] == report["chords"]
    assert all("takes" not in take and take["schema"] == report["schema"] for take in report["takes"])
    costs = [take["totals"]["cost"] for take in report["takes"]]
    assert report["takes"][0]["trade"] == "" and all(take["trade"] for take in report["takes"][1:])
    assert costs[0] == min(costs)


def test_twelve_keys(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "keys", chart, "--json")
    keys = [one["key"] for one in report["keys"]]
    assert keys == ["A", "Bb", "B", "C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab"]
    for one in report["keys"]:
        assert [c["number"] for c in one["chords"]] == [c["number"] for c in report["keys"][0]["chords"]]


def test_names(capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "name", "48,55,64", "C3,G3,E4", "A2,C4,E4,G4", "--json")
    assert [r["names"][0]["symbol"] for r in report["results"]] == ["C", "C", "Am7"]
    assert report["results"][0]["notes"] == report["results"][1]["notes"] == [48, 55, 64]
    assert run(["name", "48,55,64"]) == 0
    assert "root in the bass" in capsys.readouterr().out


def test_the_melody_school_has_the_tune_on_top(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "voice", chart, "--json", "--school", "melody")
    tops = [chord["rh"]["names"][-1][:-1] for chord in report["chords"]]
    assert tops[:4] == ["C#", "E", "F#", "E"]


def test_the_same_input_gives_the_same_output(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    reports = [answer(capsys, "voice", chart, "--json") for _ in range(2)]
    for report in reports:
        del report["totals"]["seconds"]
    assert reports[0] == reports[1]


def test_plain_text_is_a_crib_sheet(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["voice", chart]) == 0
    text = capsys.readouterr().out
    assert "Lantern Ferry in A" in text and "Left hand" in text and "Effort " in text


def test_candidates(capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(
        capsys, "candidates", "Dm7", "Hx", "2m7", "N.C.", "--key", "C", "--school", "band", "--json"
    )
    good, bad, number, rest = report["results"]
    assert good["symbol"] == "Dm7" and good["pairs"] > 0
    assert {"midi": [53, 57, 60, 64], "recipe": "rootless-from-third"} in good["lh"]
    assert bad["symbol"] == "Hx" and "note letter" in bad["error"]
    assert number["lh"] == good["lh"] and rest["pairs"] == 0


def test_schools(capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "schools", "--json")
    assert [school["id"] for school in report["schools"]] == SCHOOLS
    assert run(["schools"]) == 0
    assert "Guide tones" in capsys.readouterr().out


@pytest.mark.parametrize("suffix", [".mid", ".musicxml", ".yhinge", ".txt"])
def test_convert(chart: str, suffix: str, tmp_path: Path) -> None:
    out = tmp_path / f"out{suffix}"
    assert run(["convert", chart, str(out)]) == 0
    assert out.stat().st_size > 100


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["voice", "/nothing/here.txt"], 2, "no such file"),
        (["voice", "CHART", "--reach", "3rd,3rd"], 3, "bar 2, C#m11: no "),
        (["voice", "CHART", "--reach", "wide"], 2, "--reach: 'wide' is not a reach"),
        (["voice", "CHART", "--school", "jazz"], 2, "use solo, band, guide, spread"),
        (["voice", "CHART", "--key", "H"], 2, "--key: 'H' is not a key"),
        (["voice", "CHART", "--colour", "7"], 2, "colour"),
        (["voice", "CHART", "--takes", "99"], 2, "--takes: 99 takes"),
        (["name", "48,xx"], 2, "48,xx: 'xx' is no note"),
        (["voice", "CHART", "--swaps", "25"], 2, "--swaps: 25 swaps"),
        (["voice", "CHART", "--swaps", "-1"], 2, "--swaps: -1 swaps"),
        (["judge", "/nothing/here.txt"], 2, "no such file"),
        (["voice", "CHART", "--hands", "three"], 2, "three"),
        (["swaps", "/nothing/here.txt"], 2, "no such file"),
        (["voice"], 2, "FILE"),
        (["convert", "CHART", "/nothing/x.mid"], 2, "could not be written"),
        (["convert", "CHART", "x.odd"], 2, ".odd is not a format"),
        (["dance"], 2, "dance"),
    ],
)
def test_errors_say_place_what_and_remedy(
    arguments: list[str], code: int, words: str, chart: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run([chart if word == "CHART" else word for word in arguments]) == code
    caught = capsys.readouterr()
    assert caught.out == ""
    assert words in caught.err
    assert all(line.count(": ") >= 2 for line in caught.err.strip().splitlines())


def shell(*arguments: str, text: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "yellow_hinge", *arguments],
        input=text,
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.mark.long
def test_standard_input_and_several_errors_at_once() -> None:
    good = shell("voice", "-", "--json", text="| Dm7 | G7 | C |")
    assert good.returncode == 0 and len(json.loads(good.stdout)["chords"]) == 3
    bad = shell("voice", "-", text="| Hx | C |\n| Cfoo |\nkey: Z")
    assert bad.returncode == 2 and bad.stdout == ""
    assert [line.split(",")[0] for line in bad.stderr.splitlines()] == ["line 1", "line 2", "line 3"]


def test_commands_load_neither_window_nor_heavy_libraries() -> None:
    program = (
        "import sys; from yellow_hinge.cli import run; run(['schools']); "
        "heavy = ('PySide6', 'music21', 'verovio', 'scipy', 'mido', 'miniaudio'); "
        "print([m for m in heavy if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"


def test_version(capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["--version"]) == 0
    assert "yellow-hinge" in capsys.readouterr().out


@pytest.mark.long
def test_five_hundred_chords(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    path = tmp_path / "long.txt"
    path.write_text("| Dm7 | G7 | Cmaj7 | A7b9 |\n" * 125)
    report = answer(capsys, "voice", str(path), "--json", "--school", "band")
    assert len(report["chords"]) == 500 and report["totals"]["optimal"]


def test_takes_of_a_loop_all_close(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    takes = answer(capsys, "voice", chart, "--loop", "--takes", "3", "--json")["takes"]
    assert len(takes) > 1
    assert all(len(take["hinges"]) == len(take["chords"]) for take in takes)


def test_names_say_their_numbers_in_a_key(capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "name", "D2,A3,C4,E4", "--key", "C", "--json")
    numbers = {name["symbol"]: name["number"] for name in report["results"][0]["names"]}
    assert numbers["Am/D"] == "6m/2"


def test_swaps_lists_every_proposal_with_its_melody(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    report = answer(capsys, "swaps", chart, "--json")
    assert report["schema"] == "yellow-hinge/swaps/1" and len(report["proposals"]) > 12
    for one in report["proposals"]:
        assert sum(timed["beats"] for timed in one["chords"]) == one["beats"]
        clashes = [note for note in one["melody"]["notes"] if note["kind"] == "clash"]
        assert (one["melody"]["fit"] == "clash") == bool(clashes)
    assert {place["function"] for place in report["chords"]} <= {"home", "away", "pull", "colour", "none"}


def test_swaps_are_taken_only_where_they_help(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    plain = answer(capsys, "voice", chart, "--json")
    swapped = answer(capsys, "voice", chart, "--swaps", "2", "--json")
    assert swapped["totals"]["cost"] < plain["totals"]["cost"]
    was = [one["was"] for one in swapped["chords"] if one["was"] is not None]
    assert was and sum(one["beats"] for one in swapped["chords"]) == sum(
        one["beats"] for one in plain["chords"]
    )
    assert run(["voice", chart, "--swaps", "1"]) == 0
    assert " for " in capsys.readouterr().out.splitlines()[-1]
    assert run(["swaps", chart]) == 0
    assert "bar 1" in capsys.readouterr().out


def test_effort_is_shown_by_shares_that_add_up(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    for more in ((), ("--loop",), ("--swaps", "2"), ("--swaps", "2", "--loop", "--takes", "2")):
        report = answer(capsys, "voice", chart, *more, "--json")
        rows = [report, *report["takes"]]
        for one in rows:
            totals = one["totals"]
            assert abs(sum(totals["effort"].values()) - totals["cost"]) < 0.01
            assert set(totals["effort"]) == {"moving", "coming", "sound", "comfort", "style"}
    assert len(report["takes"]) == 2


def test_just_so_many_swaps_are_made(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    plain = answer(capsys, "voice", chart, "--json")
    for wanted in (1, 3):
        report = answer(capsys, "voice", chart, "--swaps", str(wanted), "--json")
        bars = {c["bar"] for c in report["chords"] if c["was"] is not None}
        # the end is played twice, bars 6 and 7 and again 8 and 9: what is swapped there is swapped in both
        assert {bar + 2 for bar in bars if bar in (6, 7)} == {bar for bar in bars if bar in (8, 9)}
        swaps = {(c["bar"] - 2 if c["bar"] in (8, 9) else c["bar"], c["was"]) for c in report["chords"]}
        assert len({one for one in swaps if one[1] is not None}) == wanted
        assert report["chords"][-1]["symbol"] == plain["chords"][-1]["symbol"]


def test_a_style_of_swaps_is_asked_for_by_its_id(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    rows = {}
    for style in ("", "hymn", "bebop"):
        more = ("--style", style) if style else ()
        report = answer(capsys, "swaps", chart, *more, "--json")
        rows[style] = [one["rule"] for one in report["proposals"]]
        assert sorted(rows[style]) == sorted(rows[""])  # all of them, in another order
    assert rows["hymn"] != rows["bebop"] != rows[""]
    assert answer(capsys, "voice", chart, "--swaps", "2", "--style", "gospel", "--json")["chords"]
    for command in ("swaps", "voice"):
        assert run([command, chart, "--style", "waltz"]) == 2
        assert "there is no style 'waltz': take one of hymn, gospel" in capsys.readouterr().err


def test_one_hand_alone_on_the_command_line(chart: str, capsys: pytest.CaptureFixture[str]) -> None:
    for hands, idle, busy in (("left", "rh", "lh"), ("right", "lh", "rh")):
        report = answer(capsys, "voice", chart, "--hands", hands, "--json")
        for one in report["chords"]:
            assert one[idle]["midi"] == [] and one[busy]["midi"]
        assert all(one["entered"] >= 0 for one in report["hinges"])


def test_an_inverted_bass_is_shown_with_its_slash(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "plain.txt"
    path.write_text("key: C\n| C | G | Am | G7 | C |\n")
    report = answer(capsys, "voice", str(path), "--hands", "right", "--json")
    for one in report["chords"]:
        low = one["rh"]["names"][0].rstrip("0123456789")
        root, _, bass = one["symbol"].partition("/")
        assert (bass or root.rstrip("m7")) == low and one["was"] is None


def test_a_school_of_tunes_says_that_it_wants_one(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "plain.txt"
    path.write_text("| C | G |\n")
    assert run(["voice", str(path), "--school", "melody"]) == 0
    assert "wants a tune" in capsys.readouterr().err
    path.write_text("| C | G |\nmelody: E5:4 | D5:4\n")
    assert run(["voice", str(path), "--school", "melody"]) == 0
    assert capsys.readouterr().err == ""


def test_a_borrowed_shape_and_a_yielding_tone_are_said(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "plain.txt"
    path.write_text("| C5 | Cmaj7 |\nmelody: G5:4 | C5:4\n")
    report = answer(capsys, "voice", str(path), "--school", "sixes", "--json")
    assert any("borrowed" in words for words in report["chords"][0]["warnings"])
    report = answer(capsys, "voice", str(path), "--school", "melody", "--json")
    assert report["chords"][1]["symbol"] == "Cmaj7"
    assert any("yields to the tune" in words for words in report["chords"][1]["warnings"])


def test_the_tune_keeps_its_intervals_on_top(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "tune.txt"
    tune = ["G3", "E4", "C4", "A3", "F4", "D4", "B3", "C4"]
    chords = " | ".join(["C", "C", "F", "F", "G", "G", "C", "C"])
    path.write_text(f"| {chords} |\nmelody: {' | '.join(f'{note}:4' for note in tune)}\n")
    report = answer(capsys, "voice", str(path), "--school", "melody", "--json")
    tops = [one["rh"]["midi"][-1] for one in report["chords"]]
    sung = [55, 64, 60, 57, 65, 62, 59, 60]
    shifts = {top - note for top, note in zip(tops, sung, strict=True)}
    assert len(shifts) == 1 and shifts.pop() % 12 == 0


@pytest.mark.parametrize("swaps", ["0", "24"])
def test_as_many_swaps_as_may_be_asked_for(tmp_path: Path, swaps: str) -> None:
    path = tmp_path / "two.chart"
    path.write_text("| C | G7 |\n")
    assert run(["voice", str(path), "--swaps", swaps]) == 0


@pytest.mark.parametrize(("tune", "said"), [("", True), ("melody: E5:4 | r:4\n", False)])
def test_a_tune_that_is_wanted_and_missing_is_said(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], tune: str, said: bool
) -> None:
    """One note of it is a tune; the chords without one go without."""
    path = tmp_path / "tune.chart"
    path.write_text(f"| C | G7 |\n{tune}")
    assert run(["voice", str(path), "--school", "melody"]) == 0
    assert ("it wants a tune on top" in capsys.readouterr().err) == said
