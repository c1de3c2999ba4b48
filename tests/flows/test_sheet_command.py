"""The sheet command, as it is called."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pypdf
import pytest

from yellow_hinge.cli import run

CHART = "title: Weir\nkey: C\n[A]\n| Dm9 | G13 | Cmaj9 |\nmelody: | A4:4 | B4:4 | G4:4 |\n"


def called(*arguments: str, cwd: Path, text: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "yellow_hinge", *arguments], cwd=cwd, input=text, capture_output=True,
        text=True, check=False, timeout=120,
    )  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("kind", ["crib", "score", "lead", "keys", "practice"])
def test_every_kind_is_written(kind: str, tmp_path: Path) -> None:
    done = called("sheet", "-", "out.pdf", "--kind", kind, "--paper", "letter", cwd=tmp_path, text=CHART)
    assert done.returncode == 0, done.stderr
    assert done.stdout == "out.pdf\n"
    page = pypdf.PdfReader(tmp_path / "out.pdf").pages[0]
    assert round(float(page.mediabox.width)) == 612
    text = page.extract_text().replace(" ", "")
    assert "Weir" in text and "Dm9" in text


@pytest.mark.long
def test_options_of_voice_count_and_further_pages_have_numbers(tmp_path: Path) -> None:
    chart = "title: Weir\nkey: C\n" + "".join(f"[P{n}]\n| Dm9 | G13 | Cmaj9 |\n" for n in range(9))
    done = called("sheet", "-", "out.svg", "--large", "--key", "Eb", cwd=tmp_path, text=chart)
    assert done.returncode == 0, done.stderr
    names = sorted(path.name for path in tmp_path.glob("out*.svg"))
    assert {"out.svg", "out-2.svg"} <= set(names) and done.stdout.split()[:2] == ["out.svg", "out-2.svg"]
    assert len(done.stdout.split()) == len(names)
    assert "Fm9" in (tmp_path / "out.svg").read_text("utf-8")  # moved to the key that was asked for


@pytest.mark.long
@pytest.mark.parametrize(
    ("arguments", "text", "words"),
    [
        (("sheet", "-", "out.doc"), CHART, "use .pdf, .svg, .png"),
        (("sheet", "-", "out.pdf"), "key: C\n", "chords"),
        (("sheet", "-", "none/out.pdf"), CHART, "none"),
        (("sheet", "-", "out.pdf", "--kind", "poem"), CHART, "poem"),
    ],
)
def test_what_is_wrong_is_said(arguments: tuple[str, ...], text: str, words: str, tmp_path: Path) -> None:
    done = called(*arguments, cwd=tmp_path, text=text)
    assert done.returncode == 2 and words in done.stderr and "Traceback" not in done.stderr
    assert list(tmp_path.iterdir()) == []


def test_without_anything_to_paint_with_it_says_so(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    chart = tmp_path / "a.txt"
    chart.write_text(CHART)
    assert run(["sheet", str(chart), str(tmp_path / "a.pdf")]) == 2
    assert "nothing to paint with" in capsys.readouterr().err
