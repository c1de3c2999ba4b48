"""Whether two trees do the same: the command line's answers, files it writes, and the window's commands.

For changes of structure, which nobody may notice from outside.
Run: python tools/same.py OTHER [--quick], where OTHER is a checkout of another state (git worktree add).
"""

from __future__ import annotations

import argparse
import hashlib
import os
import re
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).parent.parent
DEMOS = ("copper-kite", "lantern-ferry", "salt-stairs")
SCHOOLS = ("solo", "spread", "singer", "band", "melody", "open", "shapes", "shell")
KINDS = ("crib", "score", "lead")
#: Prints every command of the window: page, words, keys, menu, tip.
LISTING = """
from yellow_hinge.ui import theme
from yellow_hinge.ui.main import make_window
from yellow_hinge.tasks{files} import DEMO_SONGS, demo_song
app = theme.make_application([])
window = make_window(demo_song(DEMO_SONGS[0]))
lists = [("", window.commands), *((row.name, window.page_named(row.name).commands) for row in window._rows)]
for name, found in lists:
    for one in found:
        print(name, one.id, one.words, *one.keys, one.menu, one.tip, sep=" | ")
"""


#: What is asked on the command line: T and S are a long and a short chart, G a page of grips.
ASKED = """
schools --json
schools
patterns --json
patterns
formulas --json
formulas
--help
voice --help
name 48,55,64 C3,G3,Bb3,E4 --json --key F
judge G
judge G --json --school band
swaps T
swaps T --json
candidates Cmaj7 F#m7b5 Bb13 --json
check T S G
check T S --json
keys S --json
voice T --takes 3
voice T --swaps 3
voice T --arc 1,3 --json
voice S --loop --json
voice S --hands left
voice S --hands right
voice none.txt
voice T --school none
practice plan T S --json
practice simulate S --days 5 --json
"""
#: What is asked of each school, and of each demo; D is a demo, O a file to be written.
OF_SCHOOLS = "voice T --school X\nvoice S --school X --json --key Eb"
OF_DEMOS = "voice D --json\nevents D --json\nswaps D --json"
SUFFIXES = ("musicxml", "mid", "abc", "cho", "chart", "txt", "yhinge", "csv", "grips")


def lines(quick: bool) -> list[list[str]]:
    """The words of every command line, with the names above."""
    asked = ASKED.strip().splitlines()
    asked += [line.replace("X", school) for school in SCHOOLS for line in OF_SCHOOLS.splitlines()]
    for demo in DEMOS[:1] if quick else DEMOS:
        asked += [line.replace("D ", f"{demo} ") for line in OF_DEMOS.splitlines()]
        asked += [f"convert {demo} O{demo}.{suffix}" for suffix in SUFFIXES]
        asked += [f"sheet {demo} O{demo}-{kind}.svg --kind {kind}" for kind in KINDS]
    return [line.split() for line in asked]


def files(words: list[str], folder: Path) -> list[str]:
    """With files in the place of their names."""
    data = ROOT / "tests/data/printed"
    named = {"T": data / "tide.txt", "S": data / "short.txt", "G": data / "grips.txt"}
    named |= {demo: ROOT / "src/yellow_hinge/demo" / f"{demo}.yhinge" for demo in DEMOS}
    return [str(folder / word[1:]) if word[0] == "O" else str(named.get(word, word)) for word in words]


def told(tree: Path, words: list[str], folder: Path) -> str:
    """What a command of a tree prints, how it ends, and what it writes; paths of the tree left out."""
    folder.mkdir(exist_ok=True)
    environment = {**os.environ, "PYTHONPATH": str(tree / "src"), "XDG_CONFIG_HOME": str(folder / "config"),
                   "XDG_STATE_HOME": str(folder / "state"), "QT_QPA_PLATFORM": "offscreen"}  # fmt: skip
    done = subprocess.run(
        [sys.executable, *words], env=environment, capture_output=True, text=True, check=False, timeout=600
    )
    out = f"{done.returncode}\n{done.stdout}\n{done.stderr}"
    if words[2:3] == ["convert"] or words[2:3] == ["sheet"]:
        written = Path(words[4])
        out += hashlib.sha256(written.read_bytes()).hexdigest() if written.exists() else "nothing"
    out = re.sub(r'"seconds": [\d.]+', "", out)
    return out.replace(str(folder), "FOLDER").replace(str(tree), "TREE")


def commands(tree: Path, folder: Path) -> str:
    """The window's commands of a tree."""
    files = ".files.opening" if (tree / "src/yellow_hinge/tasks/files").is_dir() else ".files"
    return told(tree, ["-c", LISTING.replace("{files}", files)], folder)


def main() -> int:
    """Print what differs; the exit code says whether anything does."""
    asking = argparse.ArgumentParser(description=__doc__)
    asking.add_argument("other", type=Path)
    asking.add_argument("--quick", action="store_true")
    options = asking.parse_args()
    here, differ = Path(tempfile.mkdtemp()), 0
    ours, theirs = here / "ours", here / "theirs"
    with ThreadPoolExecutor(2) as pool:
        rows = lines(options.quick)
        mine = pool.map(lambda row: told(ROOT, ["-m", "yellow_hinge", *files(row, ours)], ours), rows)
        others = pool.map(
            lambda row: told(options.other, ["-m", "yellow_hinge", *files(row, theirs)], theirs), rows
        )
        for row, one, other in zip(rows, mine, others, strict=True):
            if one != other:
                differ += 1
                print("differs:", *row)
        one, other = commands(ROOT, ours), commands(options.other, theirs)
        if one != other:
            differ += 1
            print("differs: commands of the window")
            sides = one.splitlines(), other.splitlines()
            print(*(f"  + {line}" for line in sides[0] if line not in sides[1]), sep="\n")
            print(*(f"  - {line}" for line in sides[1] if line not in sides[0]), sep="\n")
    print(f"{len(rows) + 1} answers, {differ} differ")
    return int(differ > 0)


if __name__ == "__main__":
    sys.exit(main())
