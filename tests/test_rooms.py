"""The import contract: kept by the tree, and caught when it is broken."""

from __future__ import annotations

import ast
import re
import shutil
import subprocess
import sys
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "yellow_hinge"
TASKS, PAGES = SOURCE / "tasks", SOURCE / "ui" / "pages"


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


#: Who may not import what.
FORBIDDEN = [
    ("theory", "yellow_hinge.song.model"),
    ("song", "yellow_hinge.lattice.tree"),
    ("song", "numpy"),
    ("tasks", "PySide6"),
    ("sound", "yellow_hinge.hands.profile"),
    ("practice", "PySide6"),
    ("practice", "yellow_hinge.sound.player"),
    ("song", "yellow_hinge.practice.plan"),
    ("ui/pages/song", "yellow_hinge.ui.pages.hinges.state"),
    ("ui/pages/hands", "yellow_hinge.ui.window"),
]


def test_planted_violations_are_caught(tmp_path: Path) -> None:
    tree = copy(tmp_path) / "src" / "yellow_hinge"
    for number, (folder, module) in enumerate(FORBIDDEN):
        (tree / folder / f"planted_{number}.py").write_text(f"import {module}\n")
    done = lint(tmp_path)
    assert done.returncode != 0
    for number, (_, module) in enumerate(FORBIDDEN):
        assert re.search(rf"planted_{number} -> {re.escape(module)}", done.stdout), (number, module)


def test_a_room_that_nobody_placed_is_caught(tmp_path: Path) -> None:
    room = copy(tmp_path) / "src" / "yellow_hinge" / "newroom"
    room.mkdir()
    (room / "__init__.py").write_text("")
    done = lint(tmp_path)
    assert done.returncode != 0 and "newroom" in done.stdout


def test_a_circle_is_caught_where_only_types_need_it(tmp_path: Path) -> None:
    tree = copy(tmp_path) / "src" / "yellow_hinge" / "song"
    for name, other in (("planted_a", "planted_b"), ("planted_b", "planted_a")):
        (tree / f"{name}.py").write_text(
            f"from typing import TYPE_CHECKING\n\nif TYPE_CHECKING:\n    import yellow_hinge.song.{other}\n"
        )
    done = lint(tmp_path)
    assert done.returncode != 0 and "planted_a" in done.stdout


@pytest.mark.parametrize("folder", sorted(path.parent.name for path in TASKS.glob("*/__init__.py")))
def test_the_face_of_a_folder_names_all_that_is_in_it(folder: str) -> None:
    face = (TASKS / folder / "__init__.py").read_text("utf-8")
    named = set(re.findall(r"^- ``(\w+)``", face, re.MULTILINE))
    assert named == {file.stem for file in (TASKS / folder).glob("*.py")} - {"__init__"}


@cache
def nodes(path: Path) -> tuple[ast.AST, ...]:
    """All that a file consists of."""
    return tuple(ast.walk(ast.parse(path.read_text("utf-8"))))


def classes(path: Path) -> list[ast.ClassDef]:
    return [node for node in ast.parse(path.read_text("utf-8")).body if isinstance(node, ast.ClassDef)]


@pytest.mark.parametrize(
    "path", sorted(PAGES.glob("*/*.py")), ids=lambda path: f"{path.parent.name}-{path.stem}"
)
def test_pages_and_their_parts_stay_small(path: Path) -> None:
    """What a page does is in its parts: each of them, and the page, is read in a sitting."""
    for found in classes(path):
        if {"Page", "WorkedPage", "Part"} & {getattr(base, "id", "") for base in found.bases} or (
            found.name.endswith("Page") or path.stem == "view"
        ):
            methods = [node for node in found.body if isinstance(node, ast.FunctionDef)]
            assert len(methods) <= 20, f"{found.name}: {len(methods)} methods"
            assert found.end_lineno is not None and found.end_lineno - found.lineno < 200, found.name


#: Written for a compiler, which knows arguments by their places alone.
COMPILED = {"lattice/compiled.py", "motion/compiled.py"}


def test_no_call_gives_more_than_five_arguments_by_their_place() -> None:
    bad = []
    for path in sorted(SOURCE.rglob("*.py")):
        if path.relative_to(SOURCE).as_posix() in COMPILED:
            continue
        for node in nodes(path):
            if isinstance(node, ast.Call) and sum(not isinstance(arg, ast.Starred) for arg in node.args) > 5:
                bad.append(f"{path}:{node.lineno}")
    assert not bad


def test_names_are_nouns_of_the_trade() -> None:
    """What a thing is called that could be anything stays rare among what is bound."""
    bound, vague = 0, 0
    for path in SOURCE.rglob("*.py"):
        for node in nodes(path):
            if isinstance(node, ast.arg) or (isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store)):
                name = node.arg if isinstance(node, ast.arg) else node.id
                bound, vague = bound + 1, vague + (name in ("one", "own", "found", "other", "now"))
    assert vague <= 0.024 * bound, (vague, bound)
