"""Plausible slips of the pen, one line each, and whether the tests of their room see them.

Kinds: a comparison with its neighbour, the wrong end of a list, the least for the most, a condition dropped
(of a filter, a conjunction, a key of a cache), floor for ceiling, a constant halved or one too large,
arguments exchanged, a state not reset, a field not written, a sign turned round; and numbers halved in data
files. Of every room as many are drawn as of every other, and within it as many of each kind; by the commit,
so that it can be repeated and not be chosen. A mutant counts as caught when a test of its room fails, or a
test of the flows, which go through all rooms; running out of time does not count. Only tests that execute the
changed line are run, found by one run with coverage first (kept in a file with --coverage FILE).
Run: python tools/mutants.py [--count 300] [--rooms song,motion] [--seed TEXT] [--coverage FILE]
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections import Counter, defaultdict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import SimpleQueue

from coverage import CoverageData

ROOT = Path(__file__).parent.parent
PACKAGE = Path("src") / "yellow_hinge"
#: Room -> its tests. What the interface thinks is in its files of states; the flows go through all rooms.
ROOMS = {
    "theory": "theory", "hands": "hands", "rhythm": "rhythm", "lattice": "lattice", "voicing": "voicing",
    "motion": "motion", "reharm": "reharm", "song": "song", "practice": "practice", "formats": "formats",
    "sheet": "sheet", "sound": "sound", "tasks": "flows", "cli": "flows", "ui": "ui", "data": "flows",
}  # fmt: skip
FLOWS = "flows"
LONGEST_S = 420
#: So many tests of the flows are asked at the most: they take seconds each.
MOST_FLOWS = 40
PYTEST = (
    sys.executable,
    "-m",
    "pytest",
    "-q",
    "-p",
    "no:cacheprovider",
    "--hypothesis-seed=1",
    "-m",
    "not long",
)
WORKERS = os.cpu_count() or 2

NEIGHBOUR = {ast.Lt: ("<", "<="), ast.LtE: ("<=", "<"), ast.Gt: (">", ">="), ast.GtE: (">=", ">")}
TURNED = {ast.Eq: ("==", "!="), ast.NotEq: ("!=", "=="), ast.In: ("in", "not in"),
          ast.NotIn: ("not in", "in"), ast.Is: ("is", "is not"), ast.IsNot: ("is not", "is")}  # fmt: skip
COUNTED = {ast.Add: ("+", "-"), ast.Sub: ("-", "+"), ast.Mult: ("*", "+"), ast.FloorDiv: ("//", "*"),
           ast.Mod: ("%", "//"), ast.BitAnd: ("&", "|"), ast.BitOr: ("|", "&")}  # fmt: skip
RENAMED = {"min": "max", "max": "min", "any": "all", "all": "any", "sorted": "list"}
ROUNDED = {"floor": "ceil", "ceil": "floor", "round": "int"}
EMPTY = (None, 0, -1, False, "")


@dataclass(frozen=True)
class Mutant:
    """A change of the text of one file: from ``start`` to ``end`` of a line, in bytes, stands ``new``."""

    kind: str
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
        return f"{self.kind}, {self.file}:{self.line}\n    {before}\n    {after}"


class Slips:
    """Every one-line slip of a source file that is tried, in the order of the text."""

    def __init__(self, file: Path, room: str) -> None:
        self.file, self.room = file, room
        source = (ROOT / file).read_text("utf-8")
        self.tree = ast.parse(source)
        self.lines = [line.encode() for line in source.splitlines()]

    def every(self) -> Iterator[Mutant]:
        quiet = _unseen(self.tree)
        for node in ast.walk(self.tree):
            if id(node) not in quiet:
                yield from self._of(node)

    def _of(self, node: ast.AST) -> Iterator[Mutant]:
        match node:
            case ast.Compare() | ast.BinOp() | ast.BoolOp() | ast.UnaryOp() | ast.comprehension():
                yield from self._condition(node)
            case ast.Constant():
                yield from self._constant(node)
            case ast.Subscript(slice=index) if isinstance(node.ctx, ast.Load):
                yield from self._end(index)
            case ast.Call():
                yield from self._call(node)
            case ast.Assign() | ast.Expr():
                yield from self._statement(node)

    def _condition(self, node: ast.AST) -> Iterator[Mutant]:
        match node:
            case ast.Compare(ops=[op]):
                for kind, signs in (("neighbour", NEIGHBOUR), ("turned", TURNED)):
                    if type(op) in signs:
                        yield from self._between(kind, node.left, node.comparators[0], *signs[type(op)])
            case ast.BinOp() if type(node.op) in COUNTED:
                yield from self._between("sign", node.left, node.right, *COUNTED[type(node.op)])
            case ast.BoolOp(values=operands) | ast.comprehension(ifs=operands):
                word = "False" if isinstance(getattr(node, "op", None), ast.Or) else "True"
                for operand in operands:
                    yield from self._instead("condition", operand, word)
            case ast.UnaryOp(op=ast.Not()):
                yield from self._instead("turned", node, self._text(node.operand))

    def _statement(self, node: ast.stmt) -> Iterator[Mutant]:
        match node:
            case ast.Assign(targets=[ast.Attribute()], value=ast.Constant(value=value)) if value in EMPTY:
                yield from self._instead("reset", node, "pass")
            case ast.Expr(value=ast.Call(func=ast.Attribute(attr="clear"))):
                yield from self._instead("reset", node, "pass")
            case ast.Assign(targets=[target], value=ast.Tuple(elts=parts)) if len(parts) > 1:
                name = getattr(target, "id", getattr(target, "attr", ""))
                if re.search("key|wanted|asked|question|known|shown", name):
                    for part in parts:
                        yield from self._instead("cache key", part, "None")

    def _call(self, node: ast.Call) -> Iterator[Mutant]:
        if isinstance(node.func, ast.Name) and node.func.id in RENAMED:
            yield from self._instead("least and most", node.func, RENAMED[node.func.id])
        name = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
        if name in ROUNDED and len(node.args) == 1:
            yield from self._instead(
                "rounding", node.func, self._text(node.func).replace(name, ROUNDED[name])
            )
        plain = [one for one in node.args if isinstance(one, ast.Name | ast.Attribute)]
        if (
            len(node.args) >= 2
            and plain[:2] == node.args[:2]
            and name not in ("isinstance", "getattr", "zip", "min", "max")  # alike either way
        ):
            first, second = node.args[:2]
            if first.lineno == second.end_lineno:
                both = f"{self._text(second)}, {self._text(first)}"
                yield from self._span(
                    "exchanged", first.lineno, first.col_offset, second.end_col_offset, both
                )
        for keyword in node.keywords:
            if keyword.arg and len(node.keywords) + len(node.args) > 1 and name == "replace":
                yield from self._without(keyword)

    def _without(self, part: ast.keyword) -> Iterator[Mutant]:
        """A field that is not written; the comma goes along."""
        if part.lineno == part.end_lineno and part.end_col_offset is not None:
            behind = self.lines[part.lineno - 1][part.end_col_offset :]
            comma = len(behind) - len(behind.lstrip(b", ")) if behind.startswith(b",") else 0
            yield from self._span("field", part.lineno, part.col_offset, part.end_col_offset + comma, "")

    def _end(self, index: ast.expr) -> Iterator[Mutant]:
        if self._text(index) in ("0", "-1"):
            yield from self._instead("wrong end", index, {"0": "-1", "-1": "0"}[self._text(index)])

    def _constant(self, node: ast.Constant) -> Iterator[Mutant]:
        if isinstance(node.value, bool):
            yield from self._instead("turned", node, str(not node.value))
        elif isinstance(node.value, int | float):
            if node.value >= 2:
                half = node.value / 2 if isinstance(node.value, float) else node.value // 2
                yield from self._instead("halved", node, str(half))
            if isinstance(node.value, int):
                yield from self._instead("one more", node, str(node.value + 1))

    def _between(self, kind: str, left: ast.expr, right: ast.expr, old: str, new: str) -> Iterator[Mutant]:
        if left.end_lineno == right.lineno and left.end_col_offset is not None:
            text = self.lines[right.lineno - 1][left.end_col_offset : right.col_offset].decode()
            if text.strip() == old:
                start = left.end_col_offset + text.index(old)
                yield from self._span(kind, right.lineno, start, start + len(old), new)

    def _text(self, node: ast.expr) -> str:
        return self.lines[node.lineno - 1][node.col_offset : node.end_col_offset].decode()

    def _instead(self, kind: str, node: ast.expr | ast.stmt, new: str) -> Iterator[Mutant]:
        if node.lineno == node.end_lineno:
            yield from self._span(kind, node.lineno, node.col_offset, node.end_col_offset, new)

    def _span(self, kind: str, line: int, start: int, end: int | None, new: str) -> Iterator[Mutant]:
        if end is not None and self.lines[line - 1][start:end].decode() != new:
            yield Mutant(kind, self.file, self.room, line, start, end, new)


def slips_of_data(file: Path) -> Iterator[Mutant]:
    """Numbers of a data file, halved."""
    for number, line in enumerate((ROOT / file).read_text("utf-8").splitlines(), 1):
        head = line.partition("#")[0]
        for found in re.finditer(r"(?<![\w./\"-])\d+(?![\w./\"])", head):
            value = int(found[0])
            if value >= 2 and '"' not in head[found.start() :]:
                start, end = len(head[: found.start()].encode()), len(head[: found.end()].encode())
                yield Mutant("data", file, "data", number, start, end, str(value // 2))


def slips_in(room: str) -> list[Mutant]:
    """All that can slip in a room: of the interface in what it thinks, not in what it draws."""
    if room == "data":
        files = sorted((ROOT / PACKAGE).rglob("data/*.toml"))
        return [slip for file in files for slip in slips_of_data(file.relative_to(ROOT))]
    pattern = "*state.py" if room == "ui" else "*.py"
    files = sorted((ROOT / PACKAGE / room).rglob(pattern))
    return [slip for file in files for slip in Slips(file.relative_to(ROOT), room).every()]


def drawn(room: str, count: int, seed: str) -> list[Mutant]:
    """So many of a room, as many of each kind."""
    kinds: dict[str, list[Mutant]] = defaultdict(list)
    for slip in slips_in(room):
        kinds[slip.kind].append(slip)
    chance = random.Random(f"{seed} {room}")
    rows = [chance.sample(row, len(row)) for _, row in sorted(kinds.items())]
    chance.shuffle(rows)
    taken: list[Mutant] = []
    while len(taken) < count and any(rows):
        taken += [row.pop() for row in rows if row][: count - len(taken)]
    return taken


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


def covering(file: Path, rooms: list[str]) -> CoverageData:
    """Which test executes which line."""
    if not file.exists():
        folders = sorted({ROOMS[room] for room in rooms} | {FLOWS})
        environment = os.environ | {"COVERAGE_FILE": str(file), "QT_QPA_PLATFORM": "offscreen"}
        coverage = ["--cov=src/yellow_hinge", "--cov-context=test", "--cov-report=", "--cov-fail-under=0"]
        command = [*PYTEST, "-n", str(WORKERS), *coverage, *(f"tests/{folder}" for folder in folders)]
        subprocess.run(command, cwd=ROOT, env=environment, check=False, stdout=subprocess.DEVNULL)
    found = CoverageData(str(file))
    found.read()
    return found


def tests_for(mutant: Mutant, data: CoverageData) -> list[str]:
    """The tests to run: those that execute the line, its room's before the flows; all where it is executed at
    import, or is data."""
    own = f"tests/{ROOMS[mutant.room]}"
    file = next((name for name in data.measured_files() if name.endswith(str(mutant.file))), None)
    contexts = data.contexts_by_lineno(file).get(mutant.line, []) if file else []
    tests = sorted({name.partition("|")[0] for name in contexts if name})
    mine = [test for test in tests if test.startswith(f"{own}/")]
    flows = [test for test in tests if test.startswith(f"tests/{FLOWS}/") and not own.endswith(FLOWS)]
    chance = random.Random(str(mutant))
    flows = chance.sample(flows, min(MOST_FLOWS, len(flows)))
    if mutant.room == "data":
        return [f"tests/{mutant.file.parts[2]}", f"tests/{FLOWS}"]
    return [own, *flows] if not mine or "" in contexts else [*mine, *flows]


def outcome(mutant: Mutant, tests: list[str], tree: Path) -> str:
    """ "caught", "missed" or "slow", with the mutant planted in a copy of the source."""
    target = tree / mutant.file.relative_to("src")
    source = (ROOT / mutant.file).read_text("utf-8")
    target.write_text(mutant.applied(source), "utf-8")
    try:
        return ran(tests, tree)
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
    options.add_argument("--count", type=int, default=300)
    options.add_argument("--rooms", default=",".join(ROOMS))
    options.add_argument("--seed", default=None)
    options.add_argument("--coverage", type=Path, default=None)
    given = options.parse_args()
    rooms, seed = given.rooms.split(","), given.seed or commit()
    sample = [slip for room in rooms for slip in drawn(room, round(given.count / len(rooms)), seed)]
    print(f"{len(sample)} mutants, drawn by {seed[:12]}", flush=True)
    with tempfile.TemporaryDirectory() as folder:
        report(sample, covering(given.coverage or Path(folder) / "coverage", rooms), Path(folder))


def report(sample: list[Mutant], data: CoverageData, folder: Path) -> None:
    """Try every mutant and print what was missed, and the shares by room and by kind."""
    trees: SimpleQueue[Path] = SimpleQueue()
    for number in range(WORKERS):
        shutil.copytree(ROOT / "src", folder / str(number))
        trees.put(folder / str(number))

    def tried(mutant: Mutant) -> str:
        tree = trees.get()
        try:
            return outcome(mutant, tests_for(mutant, data), tree)
        finally:
            trees.put(tree)

    counts: dict[str, Counter[str]] = defaultdict(Counter)
    with ThreadPoolExecutor(WORKERS) as pool:
        for mutant, what in zip(sample, pool.map(tried, sample), strict=True):
            for group in (mutant.room, f"kind: {mutant.kind}", "all"):
                counts[group][what] += 1
            if what != "caught":
                source = (ROOT / mutant.file).read_text("utf-8")
                print(f"{what}: {mutant.shown(source)}", flush=True)
    for group, found in sorted(counts.items(), key=lambda item: (":" in item[0], item[0])):
        slow = f", {found['slow']} too slow" if found["slow"] else ""
        print(f"{group}: {100 * found['caught'] / found.total():.0f} % of {found.total()} caught{slow}")


if __name__ == "__main__":
    main()
