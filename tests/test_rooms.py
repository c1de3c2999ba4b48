"""The import contract: kept by the tree, and caught when it is broken."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


def lint(folder: Path) -> subprocess.CompletedProcess[str]:
    program = (
        "import sys; sys.path.insert(0, 'src'); from importlinter.cli import lint_imports; "
        "sys.exit(lint_imports(cache_dir=None, no_cache=True))"
    )
    return subprocess.run(
        [sys.executable, "-c", program], cwd=folder, capture_output=True, text=True, check=False
    )


def copy(tmp_path: Path) -> Path:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


def test_the_tree_keeps_the_contract(tmp_path: Path) -> None:
    done = lint(copy(tmp_path))
    assert done.returncode == 0, done.stdout


@pytest.mark.parametrize(
    ("file", "line"),
    [
        ("theory/planted.py", "import yellow_hinge.song.model"),
        ("song/planted.py", "import yellow_hinge.lattice.tree"),
        ("song/planted.py", "import numpy"),
        ("tasks/planted.py", "import PySide6"),
        ("sound/planted.py", "import yellow_hinge.hands.profile"),
        ("practice/planted.py", "import PySide6"),
        ("practice/planted.py", "import yellow_hinge.sound.player"),
        ("song/planted.py", "import yellow_hinge.practice.plan"),
        ("newroom/__init__.py", ""),
        ("ui/song_page/planted.py", "import yellow_hinge.ui.pages.hinges.state"),
        ("ui/hands_page/planted.py", "import yellow_hinge.ui.window"),
    ],
)
def test_a_planted_violation_is_caught(tmp_path: Path, file: str, line: str) -> None:
    planted = copy(tmp_path) / "src" / "yellow_hinge" / file
    planted.parent.mkdir(exist_ok=True)
    planted.write_text(line + "\n")
    done = lint(tmp_path)
    assert done.returncode != 0, done.stdout
