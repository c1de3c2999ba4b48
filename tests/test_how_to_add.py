"""The guide for adding things, walked: its blocks are planted in a copy of the tree, and tried there."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
GUIDE = (ROOT / "docs" / "how-to-add.md").read_text("utf-8")
PLACED = re.compile(
    r"\*\*(?:New file `(?P<new>[^`]+)`|In `(?P<file>[^`]+)`, before `(?P<anchor>[^`]+)`|"
    r"At the end of `(?P<end>[^`]+)`)\*\*\n\n```\w+\n(?P<text>.*?)```",
    re.DOTALL,
)
#: What is tried with each part planted; all of them print "as it should".
TRIALS = {
    "A school": """
        from yellow_hinge.cli import run
        assert run(["schools"]) == 0 and run(["voice", "chart.txt", "--school", "rocking"]) == 0
    """,
    "A family of swaps": """
        from yellow_hinge.reharm.rules import RULES
        from yellow_hinge.formats.chart_text import parse_chart
        from yellow_hinge.song.model import Song
        from yellow_hinge.tasks.swaps.reharmonise import find_swaps
        song = Song(parse_chart("key: C\\n| C | Am7 | Dm7 | G7 |\\n"))
        found = [one for one in find_swaps(song) if one.rule == "bright-six"]
        assert "bright-six" in RULES and [str(one.chords[0].chord) for one in found] == ["Amaj7"]
    """,
    "A format": """
        from pathlib import Path
        from yellow_hinge.cli import run
        from yellow_hinge.tasks.files.formats import EXPORTS, READ_SUFFIXES, SONG_FILES
        assert run(["convert", "chart.txt", "a.bars"]) == 0
        assert Path("a.bars").read_text() == "C\\nAm7\\nDm7\\nG7\\n"
        assert run(["convert", "a.bars", "b.chart"]) == 0 and "Am7" in Path("b.chart").read_text()
        assert run(["check", "a.bars"]) == 0 and ".bars" in READ_SUFFIXES
        assert "Bars, a line each (*.bars)" in EXPORTS and "*.bars" in SONG_FILES
    """,
    "A sheet": """
        from yellow_hinge.ui.sheet_painter import QtPress
        from yellow_hinge.cli import run
        assert run(["sheet", "chart.txt", "out.pdf", "--kind", "names"], QtPress()) == 0
    """,
    "A page": """
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from yellow_hinge.tasks.files.opening import demo_song
        from yellow_hinge.ui import theme
        from yellow_hinge.ui.main import make_window
        app = theme.make_application([])
        window = make_window(demo_song("lantern-ferry"))
        window.show()
        QTest.qWaitForWindowActive(window)
        QTest.keyClick(window, Qt.Key.Key_0, Qt.KeyboardModifier.ControlModifier)
        assert window.page.name == "Mirror" and window.page.list.count() == len(window.document.song.slots)
        assert window.page.commands["hear"].enabled() and window.page.list.item(0).text()
        QTest.keyClick(window, Qt.Key.Key_F1)
        assert "on its head" in window.key_list.text.toPlainText()
    """,
    "A face": """
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from yellow_hinge.tasks.files.opening import demo_song
        from yellow_hinge.ui import theme
        from yellow_hinge.ui.main import make_window
        app = theme.make_application([])
        window = make_window(demo_song("lantern-ferry"))
        window.show()
        window.go_to("Swaps")
        QTest.keyClick(window.page.focus, Qt.Key.Key_K)
        face = window.page.on_face.face
        assert type(face).__name__ == "EchoFace" and face.isVisible() and face.words.text() == "Chord 1."
        QTest.keyClick(window.page.focus, Qt.Key.Key_Right)
        assert face.words.text() == "Chord 2." and window.page.commands["accept"].enabled()
    """,
}


def parts() -> dict[str, str]:
    return dict(part.split("\n", 1) for part in GUIDE.split("\n## ")[1:])


def plant(text: str, tree: Path) -> int:
    """Every block of a part in its place; how many there are."""
    count = 0
    for found in PLACED.finditer(text):
        count += 1
        if found["new"]:
            target = tree / found["new"]
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_text(found["text"], "utf-8")
            continue
        target = tree / (found["file"] or found["end"])
        before = target.read_text("utf-8")
        whole = not found["text"].startswith(" ")  # and no row of a table: two lines are left free around it
        if found["end"]:
            after = before.rstrip("\n") + "\n\n\n" + found["text"]
        else:
            assert before.count(found["anchor"]) == 1, f"{found['anchor']!r} in {target}"
            after = before.replace(found["anchor"], found["text"] + "\n\n" * whole + found["anchor"])
        target.write_text(after, "utf-8")
    return count


def tried(program: str, tree: Path) -> str:
    """What a program says that runs on a tree."""
    lines = program.strip("\n").splitlines()
    indent = len(lines[0]) - len(lines[0].lstrip())
    text = "\n".join(line[indent:] for line in lines) + "\nprint('as it should')\nimport os\nos._exit(0)\n"
    text = text.replace("print('as it should')", "print('as it should', flush=True)")
    environment = os.environ | {"PYTHONPATH": str(tree / "src"), "QT_QPA_PLATFORM": "offscreen",
                                "HOME": str(tree)}  # fmt: skip
    done = subprocess.run(
        [sys.executable, "-c", text], cwd=tree, env=environment, capture_output=True, text=True, check=False,
        timeout=120,
    )  # fmt: skip
    return done.stdout + done.stderr


def test_every_part_with_an_example_is_tried() -> None:
    with_blocks = {name for name, text in parts().items() if PLACED.search(text)}
    assert with_blocks == set(TRIALS)
    assert len(PLACED.findall(GUIDE)) == GUIDE.count("```") // 2  # no block without a place


@pytest.mark.long
@pytest.mark.parametrize("name", TRIALS)
def test_the_guide_is_true(name: str, tmp_path: Path) -> None:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__"))
    (tmp_path / "chart.txt").write_text("key: C\n| C | Am7 | Dm7 | G7 |\n")
    assert plant(parts()[name], tmp_path) > 0
    said = tried(TRIALS[name], tmp_path)
    assert "as it should" in said, said[-2000:]
    said = subprocess.run(
        [sys.executable, "-m", "ruff", "check", "--config", str(ROOT / "pyproject.toml"), "src"],
        cwd=tmp_path, capture_output=True, text=True, check=False,
    ).stdout  # fmt: skip
    assert "All checks passed" in said, said[-2000:]
