"""Plausible slips of the pen in the core, one line each, and whether the tests of their room see them.

A sample is drawn by the commit, so that it can be repeated and not be chosen. A mutant counts as
caught when a test of its room fails; running out of time does not count. Only tests that execute the
changed line are run, found by one run with coverage first.
Run: python tools/mutants.py [--count 200] [--rooms song,motion] [--seed TEXT]
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

from coverage import CoverageData

ROOT = Path(__file__).parent.parent
PACKAGE = Path("src") / "yellow_hinge"
#: Room -> its tests.
ROOMS = {"song": "song", "tasks": "flows", "reharm": "reharm", "voicing": "voicing", "motion": "motion"}
LONGEST_S = 240
PYTEST = (sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "--hypothesis-seed=1")
WORKERS = os.cpu_count() or 2

COMPARED = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "==",
            ast.In: "not in", ast.NotIn: "in", ast.Is: "is not", ast.IsNot: "is"}  # fmt: skip
SIGNS = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=",
         ast.In: "in", ast.NotIn: "not in", ast.Is: "is", ast.IsNot: "is not"}  # fmt: skip
COUNTED = {ast.Add: ("+", "-"), ast.Sub: ("-", "+"), ast.Mult: ("*", "+"), ast.FloorDiv: ("//", "*"),
           ast.Mod: ("%", "//"), ast.BitAnd: ("&", "|"), ast.BitOr: ("|", "&")}  # fmt: skip
RENAMED = {"min": "max", "max": "min", "any": "all", "all": "any", "sorted": "list"}


@dataclass(frozen=True)
class Mutant:
    """A change of the text of one file: from ``start`` to ``end`` of a line stands ``new``."""

    file: Path
    room: str
    line: int
    start: int
    end: int
    new: str

    def applied(self, source: str) -> str:
        lines = source.splitlines(keepends=True)
        text = lines[self.line - 1].encode()
        lines[self.line - 1] = (text[: self.start] + self.new.encode() + text[self.end :]).decode()
        return "".join(lines)

    def shown(self, source: str) -> str:
        before = source.splitlines()[self.line - 1].strip()
        after = self.applied(source).splitlines()[self.line - 1].strip()
        return f"{self.file}:{self.line}\n    {before}\n    {after}"


def mutants_of(file: Path, room: str) -> Iterator[Mutant]:
    """Every one-line slip that is tried, in the order of the text."""
    source = (ROOT / file).read_text("utf-8")
    tree = ast.parse(source)
    lines = source.splitlines()
    quiet = _unseen(tree)

    def between(left: ast.expr, right: ast.expr, old: str, new: str) -> Iterator[Mutant]:
        if left.end_lineno == right.lineno and left.end_col_offset is not None:
            text = lines[right.lineno - 1].encode()[left.end_col_offset : right.col_offset].decode()
            if text.strip() == old:
                start = left.end_col_offset + text.index(old)
                yield Mutant(file, room, right.lineno, start, start + len(old), new)

    for node in ast.walk(tree):
        if id(node) in quiet:
            continue
        if isinstance(node, ast.Compare) and len(node.ops) == 1:
            kind = type(node.ops[0])
            yield from between(node.left, node.comparators[0], SIGNS[kind], COMPARED[kind])
        elif isinstance(node, ast.BinOp) and type(node.op) in COUNTED:
            yield from between(node.left, node.right, *COUNTED[type(node.op)])
        elif isinstance(node, ast.BoolOp):
            old, new = ("and", "or") if isinstance(node.op, ast.And) else ("or", "and")
            for left, right in zip(node.values, node.values[1:], strict=False):
                yield from between(left, right, old, new)
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            yield Mutant(file, room, node.lineno, node.col_offset, node.operand.col_offset, "")
        elif isinstance(node, ast.Constant):
            yield from _constant(node, file, room)
        elif isinstance(node, ast.Name) and node.id in RENAMED and isinstance(node.ctx, ast.Load):
            end = node.col_offset + len(node.id)
            yield Mutant(file, room, node.lineno, node.col_offset, end, RENAMED[node.id])


def _constant(node: ast.Constant, file: Path, room: str) -> Iterator[Mutant]:
    end = node.end_col_offset
    if node.lineno != node.end_lineno or end is None:
        return
    if isinstance(node.value, bool):
        yield Mutant(file, room, node.lineno, node.col_offset, end, str(not node.value))
    elif isinstance(node.value, int):
        yield Mutant(file, room, node.lineno, node.col_offset, end, str(node.value + 1))


def _unseen(tree: ast.Module) -> set[int]:
    """Nodes whose change says nothing about behaviour: types, and how values are made."""
    found: set[int] = set()
    for node in ast.walk(tree):
        parts: list[ast.AST | None] = []
        if isinstance(node, ast.FunctionDef):
            parts = [
                node.returns,
                *(arg.annotation for arg in ast.walk(node.args) if isinstance(arg, ast.arg)),
            ]
        elif isinstance(node, ast.AnnAssign):
            parts = [node.annotation]
        if isinstance(node, ast.ClassDef | ast.FunctionDef):
            parts += node.decorator_list
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Subscript):
            parts.append(node.value)  # a name for a type
        if isinstance(node, ast.keyword) and node.arg in ("strict", "frozen", "kind", "dict", "weakref"):
            parts.append(node.value)
        for part in parts:
            if part is not None:
                found |= {id(inner) for inner in ast.walk(part)}
    return found


def covering(room: str, folder: Path) -> CoverageData:
    """Which test of a room executes which line."""
    data = folder / f".coverage.{room}"
    environment = os.environ | {"COVERAGE_FILE": str(data), "QT_QPA_PLATFORM": "offscreen"}
    coverage = ["--cov=yellow_hinge", "--cov-context=test", "--cov-report=", "--cov-fail-under=0"]
    command = [*PYTEST, *coverage, f"tests/{ROOMS[room]}"]
    subprocess.run(command, cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL)
    found = CoverageData(str(data))
    found.read()
    return found


def tests_for(mutant: Mutant, data: CoverageData) -> list[str]:
    """The tests to run: those that execute the line, or the whole room for what is run at import."""
    file = next((name for name in data.measured_files() if name.endswith(str(mutant.file))), None)
    contexts = data.contexts_by_lineno(file).get(mutant.line, []) if file else []
    tests = sorted({name.partition("|")[0] for name in contexts if name})
    return [f"tests/{ROOMS[mutant.room]}"] if not tests or "" in contexts else tests


def outcome(mutant: Mutant, tests: list[str], tree: Path) -> str:
    """ "caught", "missed" or "slow", with the mutant planted in a copy of the source. What the chosen
    tests miss the whole room is asked about: what is cached is executed by the first test alone."""
    target = tree / mutant.file.relative_to("src")
    source = (ROOT / mutant.file).read_text("utf-8")
    target.write_text(mutant.applied(source), "utf-8")
    whole = [f"tests/{ROOMS[mutant.room]}"]
    try:
        found = ran(tests, tree)
        return ran(whole, tree) if found == "missed" and tests != whole else found
    finally:
        target.write_text(source, "utf-8")


def ran(tests: list[str], tree: Path) -> str:
    """What some tests say to the source in a tree."""
    environment = os.environ | {"PYTHONPATH": str(tree), "PYTHONDONTWRITEBYTECODE": "1",
                                "QT_QPA_PLATFORM": "offscreen"}  # fmt: skip
    try:
        done = subprocess.run(
            [*PYTEST, "-x", "--no-cov", *tests], cwd=ROOT, env=environment, timeout=LONGEST_S, check=False,
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return "slow"
    return "missed" if done.returncode == 0 else "caught"


def commit() -> str:
    return subprocess.run(
        ["git", "rev-parse", "HEAD"], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout.strip()


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--count", type=int, default=200)
    options.add_argument("--rooms", default=",".join(ROOMS))
    options.add_argument("--seed", default=None)
    given = options.parse_args()
    rooms = given.rooms.split(",")
    every = [
        mutant
        for room in rooms
        for file in sorted((ROOT / PACKAGE / room).rglob("*.py"))
        for mutant in mutants_of(file.relative_to(ROOT), room)
    ]
    seed = given.seed or commit()
    sample = random.Random(seed).sample(every, min(given.count, len(every)))
    print(f"{len(sample)} of {len(every)} mutants, drawn by {seed[:12]}", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        report(sample, rooms, Path(folder))


def report(sample: list[Mutant], rooms: list[str], folder: Path) -> None:
    """Try every mutant and print what was missed, and the shares."""
    data = {room: covering(room, folder) for room in rooms}
    trees: SimpleQueue[Path] = SimpleQueue()
    for number in range(WORKERS):
        shutil.copytree(ROOT / "src", folder / str(number))
        trees.put(folder / str(number))

    def tried(mutant: Mutant) -> str:
        tree = trees.get()
        try:
            return outcome(mutant, tests_for(mutant, data[mutant.room]), tree)
        finally:
            trees.put(tree)

    by_room: Counter[tuple[str, str]] = Counter()
    with ThreadPoolExecutor(WORKERS) as pool:
        for number, (mutant, what) in enumerate(zip(sample, pool.map(tried, sample), strict=True), 1):
            by_room[mutant.room, what] += 1
            if number % 20 == 0:
                print(f"{number} tried", flush=True)
            if what != "caught":
                source = (ROOT / mutant.file).read_text("utf-8")
                print(f"{what}: {mutant.shown(source)}", flush=True)
    for room in rooms:
        own = {what: by_room[room, what] for what in ("caught", "missed", "slow")}
        print(f"{room}: {own}")
    caught = sum(count for (_, what), count in by_room.items() if what == "caught")
    print(f"caught {caught} of {len(sample)}: {100 * caught / len(sample):.1f} % (wanted: at least 80 %)")


if __name__ == "__main__":
    main()
