"""The command line under every circumstance: closed and full streams, old terminals, folders that
cannot be read, interruption. Nothing ends in a traceback."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import pytest

from made import WALK
from yellow_hinge.cli import COMMANDS, run
from yellow_hinge.cli.parser import parser

pytestmark = pytest.mark.long  # many starts, or many searches


@pytest.fixture
def chart(tmp_path: Path) -> str:
    path = tmp_path / "walk.txt"
    path.write_text(WALK, "utf-8")
    return str(path)


def shell(line: str, *arguments: str, **environment: str) -> subprocess.CompletedProcess[bytes]:
    """A line of shell in which ``yh`` is the command line; arguments are $1, $2 ..."""
    start = f'yh() {{ "{sys.executable}" -m yellow_hinge "$@"; }}\n{line}'
    done = subprocess.run(
        ["bash", "-c", start, "bash", *arguments], env={**os.environ, **environment}, capture_output=True,
        check=False, timeout=60,
    )  # fmt: skip
    assert b"Traceback" not in done.stderr + done.stdout
    return done


@pytest.mark.long
@pytest.mark.parametrize(
    ("line", "code", "words"),
    [
        ('yh voice "$1" > /dev/full', 1, b"standard output: it is lost (no space left on device)"),
        ('yh voice "$1" --json > /dev/full', 1, b"no space left"),
        ('yh voice "$1" >&-', 1, b"standard output is closed"),
        ("yh schools >&-", 1, b"standard output is closed"),
        ("yh schools | true; exit ${PIPESTATUS[0]}", 1, b"broken pipe"),
        ("yh --help > /dev/full", 1, b"standard output"),
        ("yh voice - <&-", 2, b"standard input: it is closed"),
        ("yh judge - <&-", 2, b"standard input: it is closed"),
        ("yh check - <&-", 2, b"standard input: it is closed"),
        ('yh voice "$1" 2>&- > /dev/null', 0, b""),
        ("yh voice nothing.txt 2>&-", 2, b""),
        ("yh voice nothing.txt 2> /dev/full", 2, b""),
        ("yh voice /dev/zero", 2, b"it is a device: only a plain file is read"),
        ('mkfifo "$1.pipe"; yh voice "$1.pipe"', 2, b"it is a pipe"),
        ("yh voice /", 2, b"it is a folder"),
        ("yh voice $'\\xff\\xfe.txt'", 2, b"no such file"),
        ('yh convert "$1" /dev/null', 2, b"no suffix"),
        ('yh convert "$1" /proc/x.txt', 2, b"could not be written"),
        ("yh voice \"$1\" --swaps $(printf '9%.0s' {1..5000})", 2, b"--swaps"),
        ("yh voice \"$1\" --reach $(printf '9%.0s' {1..5000}),9", 2, b"--reach"),
        ("yh name $'C3,\\xff'", 2, b"no note"),
        ("yh name ''", 2, b"no note"),
    ],
)  # fmt: skip
def test_streams_files_and_options(chart: str, line: str, code: int, words: bytes) -> None:
    done = shell(line, chart)
    assert done.returncode == code, done.stderr
    assert words in done.stderr and len(done.stderr) < 700


@pytest.mark.long
@pytest.mark.parametrize("encoding", ["ascii", "latin-1", "utf-8", "cp437"])
def test_old_terminals_get_signs_as_they_are_typed(chart: str, encoding: str) -> None:
    text = shell('yh swaps "$1"', chart, PYTHONIOENCODING=encoding).stdout.decode(encoding)
    assert ("♭" in text) == (encoding == "utf-8") and "?" not in text
    plain = json.loads(shell('yh swaps "$1" --json', chart, PYTHONIOENCODING="utf-8").stdout)
    assert json.loads(shell('yh swaps "$1" --json', chart, PYTHONIOENCODING=encoding).stdout) == plain


@pytest.mark.long
def test_the_c_locale_is_good_enough(chart: str) -> None:
    done = shell('yh voice "$1"', chart, LC_ALL="C", PYTHONUTF8="0", PYTHONCOERCECLOCALE="0")
    assert done.returncode == 0 and b"Rope Walk" in done.stdout


@pytest.mark.long
def test_a_config_folder_that_cannot_be_read_is_said_and_gone_around(tmp_path: Path) -> None:
    folder = tmp_path / "yellow-hinge"
    (folder / "recipes.toml").mkdir(parents=True)
    long = "/" + "a" * 5000
    for home, words in ((str(tmp_path), b"it is a folder"), (long, b"too long"), ("/dev/null", b"")):
        done = shell("yh schools", XDG_CONFIG_HOME=home, XDG_STATE_HOME=home)
        assert done.returncode == 0 and words in done.stderr and b"solo" in done.stdout
    (folder / "recipes.toml").rmdir()
    (folder / "recipes.toml").write_bytes(b"recipe = 5\n")
    done = shell("yh schools", XDG_CONFIG_HOME=str(tmp_path))
    assert done.returncode == 2 and b"[[recipe]]" in done.stderr


def started(chart: str, handler: str, school: str = "open") -> subprocess.Popen[bytes]:
    """A long command that says when it begins, with a handler of SIGINT that is not inherited from the
    tests."""
    ready = (
        "import signal, sys; from yellow_hinge.__main__ import main; "
        f"signal.signal(signal.SIGINT, signal.{handler}); print('ready', file=sys.stderr, flush=True); "
    )
    command = [sys.executable, "-c", f"{ready} sys.exit(main())", "keys", chart, "--json", "--school", school]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    assert process.stderr is not None and process.stderr.readline() == b"ready\n"
    return process


@pytest.mark.parametrize("after_s", [*(k / 1000 for k in range(11)), 0.02, 0.05, 0.1, 0.3, 1.0])
def test_interrupted_is_130(chart: str, after_s: float) -> None:
    with started(chart, "default_int_handler") as process:
        time.sleep(after_s)
        process.send_signal(signal.SIGINT)
        out, error = process.communicate(timeout=30)
    assert process.returncode == 130 and error.strip().endswith(b"interrupted") and out == b""
    assert b"Traceback" not in error


@pytest.mark.long
def test_whoever_is_started_deaf_to_interruptions_stays_so(chart: str) -> None:
    with started(chart, "SIG_IGN", school="solo") as process:
        for _ in range(3):
            process.send_signal(signal.SIGINT)
            time.sleep(0.02)
        out, error = process.communicate(timeout=60)
    assert process.returncode == 0 and error == b"" and len(json.loads(out)["keys"]) == 12


def test_a_mistake_of_ours_is_said_in_a_line(
    chart: str, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    from yellow_hinge.cli import song_commands

    monkeypatch.setattr(song_commands, "voice_song", lambda *_: 1 // 0)
    assert run(["voice", chart]) == 1
    said = capsys.readouterr().err
    assert "our mistake" in said and "mistakes.log" in said and said.count("\n") == 1


def test_every_command_is_known_at_the_door() -> None:
    actions: Any = parser()._subparsers
    assert set(actions._group_actions[0].choices) == set(COMMANDS)


# --- check ---


def checked(capsys: pytest.CaptureFixture[str], *files: str) -> tuple[int, list[dict[str, Any]]]:
    code = run(["check", *files, "--json"])
    return code, json.loads(capsys.readouterr().out)["files"]


def test_check_reads_everything_and_says_all(
    chart: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for name in ("walk.yhinge", "walk.musicxml", "walk.chart"):
        assert run(["convert", chart, str(tmp_path / name)]) == 0
    (tmp_path / "bad.txt").write_text("key: Z\n| H | C:9 |\n")
    (tmp_path / "x.xyz").write_bytes(b"")
    (tmp_path / "own.toml").write_text('schema = "yellow-hinge/recipes/1"\n')
    (tmp_path / "hands.json").write_text('{"schema": "yellow-hinge/hands/1", "profiles": {}}')
    good = [
        chart,
        *(str(tmp_path / name) for name in ("walk.yhinge", "walk.musicxml", "own.toml", "hands.json")),
    ]
    code, found = checked(capsys, *good)
    assert code == 0 and [one["file"] for one in found] == good
    assert all(one["ok"] and one["problems"] == [] for one in found)
    code, found = checked(capsys, chart, str(tmp_path / "bad.txt"), str(tmp_path / "x.xyz"), "gone.txt")
    assert code == 2 and [one["ok"] for one in found] == [True, False, False, False]
    assert len(found[1]["problems"]) == 3
    assert ".xyz is no format" in found[2]["problems"][0]["what"]
    assert set(found[1]["problems"][0]) == {"place", "what", "remedy"}
    assert run(["check", chart]) == 0 and capsys.readouterr().out == f"{chart}: good\n"


def test_check_says_what_a_search_would_refuse_and_what_is_no_error(
    chart: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "walk.yhinge"
    run(["convert", chart, str(path)])
    project = json.loads(path.read_text())
    project["draft"] = "| Qx |"
    path.write_text(json.dumps(project))
    code, [found] = checked(capsys, str(path))
    assert code == 0 and found["ok"] and "1 place to mend" in found["problems"][0]["what"]
    project["takes"][0]["school"] = "brass"
    path.write_text(json.dumps(project))
    code, [found] = checked(capsys, str(path))
    assert code == 2 and "no school 'brass'" in found["problems"][-1]["what"]
