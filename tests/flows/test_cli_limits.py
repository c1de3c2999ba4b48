"""Each side of every limit of the command line, its defaults, and what it says while it works; in this
process, so that every line is seen to be executed."""

from __future__ import annotations

import io
import json
import sys
from pathlib import Path

import pytest
from msgspec.structs import replace

from constants import numbers_of
from yellow_hinge.cli import is_command, run, streams
from yellow_hinge.cli.reading import progress_of
from yellow_hinge.errors import FileTrouble
from yellow_hinge.formats import project_file
from yellow_hinge.song.edits import copy_take, go_to_take, with_arrangement
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.walk import perform
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.reports.rhythm import with_pedal
from yellow_hinge.tasks.song.describe_song import bassist_keys
from yellow_hinge.voicing.recipes import builtin_library

TINY = "title: Quay\nkey: C\n| C | F |\n"


@pytest.fixture
def tiny(tmp_path: Path) -> str:
    path = tmp_path / "quay.txt"
    path.write_text(TINY, "utf-8")
    return str(path)


SONGS = "{t: Reed}\n{key: C}\n[C]oh\n{ns}\n{t: Slate}\n{key: D}\n[D]one\n"


@pytest.mark.parametrize(
    ("number", "title", "said"),
    [
        ("", "Reed", "2 songs are in it: Reed, Slate"), ("1", "Reed", ""), ("2", "Slate", ""),
        ("0", "", "no song number 0 in it"), ("3", "", "no song number 3"),
    ],
)  # fmt: skip
def test_one_of_several_songs(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], number: str, title: str, said: str
) -> None:
    path, out = tmp_path / "songs.cho", tmp_path / "song.chart"
    path.write_text(SONGS)
    code = run(["convert", str(path), str(out), *(["--song", number] if number else [])])
    told = capsys.readouterr().err
    assert code == (0 if title else 2) and said in told and ("songs are" in told) == (number == "")
    assert not title or f"title: {title}" in out.read_text()


def test_no_second_song_in_a_file_of_one(
    tiny: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for name in (tiny, str(tmp_path / "quay.musicxml")):
        run(["convert", tiny, str(tmp_path / "quay.musicxml")])
        assert run(["convert", name, str(tmp_path / "x.chart"), "--song", "2"]) == 2
        assert "no song number 2" in capsys.readouterr().err and not (tmp_path / "x.chart").exists()


@pytest.mark.parametrize(
    ("command", "option", "good", "bad", "words"),
    [
        ("voice", "--takes", ("1", "12"), ("0", "13", "-1"), "ask for 1 to 12"),
        ("voice", "--swaps", ("0", "24"), ("-1", "25"), "ask for 0 to 24"),
        ("voice", "--colour", ("0", "3"), ("-1", "4"), "0, 1, 2, 3"),
        ("practice plan", "--minutes", ("1", "240"), ("0.9", "240.5", "nan", "inf"), "ask for 1 to 240"),
        pytest.param(
            "practice plan", "--days", ("1", "365"), ("0", "366"), "ask for 1 to 365", marks=pytest.mark.long
        ),
        ("practice simulate --days 1 --minutes 1", "--seed", ("0", "7"), ("-1",), "from 0 on"),
    ],
)
def test_each_side_of_every_limit(
    tiny: str, tmp_path: Path, capsys: pytest.CaptureFixture[str], command: str, option: str,
    good: tuple[str, ...], bad: tuple[str, ...], words: str,
) -> None:  # fmt: skip
    log = ["--log", str(tmp_path / "log.db")] if command.startswith("practice") else []
    for value in good:
        assert run([*command.split(), tiny, *log, f"{option}={value}"]) == 0, value
        assert capsys.readouterr().out
    for value in bad:
        assert run([*command.split(), tiny, *log, f"{option}={value}"]) == 2, value
        said = capsys.readouterr()
        assert said.out == "" and words in said.err and option in said.err


def test_a_plan_is_for_twenty_minutes_and_one_day_unless_said(
    tiny: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    log = ["--log", str(tmp_path / "log.db"), "--json"]
    answers = []
    for more in ([], ["--minutes=20", "--days=1", "--order=weakest"], ["--minutes=30"], ["--days=2"]):
        assert run(["practice", "plan", tiny, *log, *more]) == 0
        answers.append(json.loads(capsys.readouterr().out))
    assert answers[0] == answers[1] and answers[2] != answers[0] != answers[3]


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


def test_how_far_it_is_is_said_on_a_terminal_and_wiped_away(monkeypatch: pytest.MonkeyPatch) -> None:
    said = Terminal()
    monkeypatch.setattr(sys, "stderr", said)
    show = progress_of("voicing")
    assert show(0.0) and show(0.5) and show(1.0)
    assert said.getvalue() == "voicing: 0%\rvoicing: 50%\rvoicing: 100%\r" + " " * 30 + "\r"


def test_elsewhere_nothing_is_said_of_it(monkeypatch: pytest.MonkeyPatch) -> None:
    said = io.StringIO()
    monkeypatch.setattr(sys, "stderr", said)
    assert progress_of("voicing")(0.5) and said.getvalue() == ""


def test_a_terminal_that_went_away_stops_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    said = Terminal()
    monkeypatch.setattr(sys, "stderr", said)
    show = progress_of("voicing")
    said.close()
    assert show(0.5)


@pytest.mark.parametrize(
    ("school", "melody", "said"),
    [("melody", False, True), ("singer", False, False), ("melody", True, False), ("solo", False, False)],
)
def test_a_school_that_wants_a_tune_says_so_where_there_is_none(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], school: str, melody: bool, said: bool
) -> None:
    path = tmp_path / "quay.txt"
    path.write_text(TINY + ("melody: | E5:4 | F5:4 |\n" if melody else ""), "utf-8")
    assert run(["voice", str(path), "--school", school, "--json"]) == 0
    assert ("it wants a tune on top" in capsys.readouterr().err) == said


@pytest.mark.parametrize("command", ["voice", "events", "swaps", "judge", "schools", "patterns", "formulas"])
def test_text_for_people_and_json_for_programs(
    tiny: str, tmp_path: Path, capsys: pytest.CaptureFixture[str], command: str
) -> None:
    grips = tmp_path / "grips.txt"
    grips.write_text("Dm7: D3 C4 ; F4 A4\n", "utf-8")
    files = {"voice": [tiny], "events": [tiny], "swaps": [tiny], "judge": [str(grips)]}.get(command, [])
    assert run([command, *files]) == 0
    text = capsys.readouterr().out
    with pytest.raises(json.JSONDecodeError):
        json.loads(text)
    assert run([command, *files, "--json"]) == 0
    assert json.loads(capsys.readouterr().out)


class Page:
    """Standard output with an encoding, or with none."""

    def __init__(self, encoding: str | None) -> None:
        self.encoding = encoding
        self.text = ""

    def write(self, text: str) -> None:
        self.text += text

    def flush(self) -> None:
        """All of it is there."""


@pytest.mark.parametrize(
    ("encoding", "wide"),
    [("utf-8", True), ("UTF-16", True), ("utf8", True), ("ascii", False), ("latin-1", False), (None, False)],
)
def test_json_is_escaped_where_output_has_no_room_for_signs(
    monkeypatch: pytest.MonkeyPatch, encoding: str | None, wide: bool
) -> None:
    page = Page(encoding)
    monkeypatch.setattr(sys, "stdout", page)
    assert streams.is_unicode() == wide
    streams.print_json("♭é")
    assert page.text == ('"♭é"\n' if wide else '"\\u266d\\u00e9"\n')


def test_output_that_has_no_name_for_its_signs_gets_ascii(monkeypatch: pytest.MonkeyPatch) -> None:
    class Bare:
        def write(self, _: str) -> None:
            """Takes what it gets."""

    monkeypatch.setattr(sys, "stdout", Bare())
    assert not streams.is_unicode()


@pytest.mark.parametrize(("given", "most", "read"), [(5, 3, 4), (4, 3, 4), (3, 3, 3), (0, 3, 0)])
def test_standard_input_is_read_one_byte_further_than_it_may_be_long(
    monkeypatch: pytest.MonkeyPatch, given: int, most: int, read: int
) -> None:
    monkeypatch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(b"abcdefgh"[:given])))
    assert streams.read_input(most) == b"abcdefgh"[:read]


@pytest.mark.parametrize("there", [True, False])
def test_standard_input_that_is_closed_is_said(monkeypatch: pytest.MonkeyPatch, there: bool) -> None:
    stdin = io.TextIOWrapper(io.BytesIO(b"abc"))
    stdin.close()
    monkeypatch.setattr(sys, "stdin", stdin if there else None)
    with pytest.raises(FileTrouble) as caught:
        streams.read_input(3)
    assert caught.value.problems[0].place == "standard input" and "closed" in caught.value.problems[0].what


def test_output_that_is_closed_is_lost(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sys, "stdout", None)
    with pytest.raises(streams.OutputLost, match="standard output is closed"):
        streams.out("a page")
    closed = io.StringIO()
    closed.close()
    monkeypatch.setattr(sys, "stdout", closed)
    with pytest.raises(streams.OutputLost, match="closed file"):
        streams.out("a page")


def test_a_line_for_nobody_is_no_trouble(monkeypatch: pytest.MonkeyPatch) -> None:
    said = io.StringIO()
    monkeypatch.setattr(sys, "stderr", said)
    streams.say("a line")
    assert said.getvalue() == "a line\n"
    said.close()
    streams.say("a line")


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("cli")
    assert {name: now.get(name) for name in decided} == decided != {}


@pytest.mark.parametrize(
    ("word", "said"),
    [
        ("voise", "the nearest command is voice"),
        ("quay.abc", "neither a command nor a file"),
        ("zzzzzz", "--help"),
    ],
)
def test_a_word_that_is_neither_a_command_nor_a_file(
    word: str, said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.chdir(tmp_path)
    assert is_command(word) and run([word]) == 2
    err = capsys.readouterr().err
    assert f"{word!r} is neither" in err and said in err and ("nearest" in err) == (word == "voise")
    (tmp_path / word).write_text(TINY, "utf-8")
    assert not is_command(word)  # a file that is there: the window opens it
    (tmp_path / "voice").write_text(TINY, "utf-8")
    assert is_command("voice") and is_command("-") and is_command("--version")


@pytest.mark.long
def test_events_tell_all_that_is_heard_of_a_take(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    song = demo_song("copper-kite")
    path = tmp_path / "kite.yhinge"
    bare = copy_take(song, "Bare").song
    take = bare.take.arrangement
    bare = with_arrangement(bare, bare.current, replace(take, groove=replace(take.groove, drums="")))
    path.write_bytes(project_file.write(go_to_take(bare, 0).song, None))

    def heard(*options: str) -> tuple[set[str], int, int]:
        assert run(["events", str(path), "--json", *options]) == 0
        report = json.loads(capsys.readouterr().out)
        return {one["part"] for one in report["events"]}, len(report["events"]), len(report["pedal"])

    library = builtin_library()
    whole = perform(song, bassist_keys(song, library), melody=True)
    assert heard() == ({one.part for one in whole.notes}, len(whole.notes), len(whole.pedal))
    assert {"drums", "bass"} <= heard()[0] and "drums" not in heard("--take", "bare")[0]
    assert heard("--take", "2") == heard("--take", "Bare") and heard("--take", "1") == heard()
    assert heard("--pedal", "none")[2] == 0 < heard("--pedal", "chord")[2] < heard("--pedal", "half")[2]
    for wrong in ("3", "0", "Bar"):
        assert run(["events", str(path), "--take", wrong]) == 2
        assert "there are: First take, Bare" in capsys.readouterr().err


def test_a_pedal_for_all_goes_before_what_stretches_say() -> None:
    song = demo_song("salt-stairs")
    part = song.slots[0].section
    own = set_texture(song, (part, 0), "x", {"pedal": "hold"}).song
    own = set_texture(own, own.slots[1].at, "x", {"pedal": "none"}).song
    after = with_pedal(own, "bridge")
    assert {after.texture(slot.index).pedal for slot in after.slots} == {"bridge"}
    assert len({own.texture(slot.index).pedal for slot in own.slots}) > 1
