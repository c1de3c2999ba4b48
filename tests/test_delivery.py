"""What is delivered: a wheel that holds everything and runs, the manual page, versions pinned."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tomllib
import zipfile
from importlib import metadata
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

from yellow_hinge.formats.project_file import SUFFIX

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tools"))
try:
    from make_man import PAGE, page
finally:
    sys.path.pop(0)
SOURCE = ROOT / "src"
PROJECT: dict[str, Any] = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
DELIVERED = {
    "share/applications/yellow-hinge.desktop", "share/mime/packages/yellow-hinge.xml",
    "share/man/man1/yellow-hinge.1", "share/icons/hicolor/scalable/apps/yellow-hinge.svg",
}  # fmt: skip
LOCKED = "E: Could not get lock /var/lib/dpkg/lock-frontend. It is held by process 12 (apt-get)"
#: Opens the window and closes it again.
OPENING = """
import sys
from PySide6.QtCore import QTimer
import yellow_hinge
from yellow_hinge.__main__ import main
from yellow_hinge.ui import main as opening
assert yellow_hinge.__file__.startswith(sys.argv.pop()), yellow_hinge.__file__
made, real = [], opening.make_window
def make(song):
    made.append(real(song))
    QTimer.singleShot(500, made[0].close)
    return made[0]
opening.make_window = make
sys.exit(main() or not made[0].document.song.title)
"""


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("dist")
    command = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(folder)]
    subprocess.run(command, cwd=ROOT, check=True, capture_output=True)
    (made,) = folder.glob("*.whl")
    return made


def test_the_wheel_holds_every_file(wheel: Path) -> None:
    names = set(zipfile.ZipFile(wheel).namelist())
    wanted = {
        path.relative_to(SOURCE).as_posix()
        for path in (SOURCE / "yellow_hinge").rglob("*")
        if path.is_file() and path.parent.name != "__pycache__"
    }
    assert wanted and wanted - names == set()
    (data,) = {name.split("/data/")[0] for name in names if "/data/share/" in name}
    assert {name.removeprefix(f"{data}/data/") for name in names if name.startswith(data)} == DELIVERED
    licences = {Path(name).name for name in names if "/licenses/" in name}
    assert licences == {"LICENSE", "OFL.txt", "DejaVu.txt"}


def test_the_wheel_runs_where_the_source_is_not(wheel: Path, tmp_path: Path) -> None:
    """Alone on the path, from an empty home: a voicing, a sheet, and the window."""
    with zipfile.ZipFile(wheel) as packed:
        packed.extractall(tmp_path / "here")
    home = tmp_path / "home"
    home.mkdir()
    place = str(tmp_path / "here")
    environment = {"PATH": os.environ["PATH"], "PYTHONPATH": place, "HOME": str(home)}
    environment |= {"QT_QPA_PLATFORM": "offscreen"}
    for arguments in (["-m", "yellow_hinge", "sheet", "-", "page.pdf"], ["-c", OPENING, place]):
        done = subprocess.run(
            [sys.executable, *arguments], input="| Dm7 | G7 | C |", text=True, capture_output=True,
            check=False, cwd=tmp_path, env=environment,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr
    assert (tmp_path / "page.pdf").read_bytes().startswith(b"%PDF")


def test_the_desktop_finds_projects() -> None:
    lines = (ROOT / "packaging/yellow-hinge.desktop").read_text("utf-8").splitlines()
    entry = dict(line.split("=", 1) for line in lines[1:])
    assert lines[0] == "[Desktop Entry]" and entry["Exec"] == "yellow-hinge %f"
    kind = ElementTree.parse(ROOT / "packaging/yellow-hinge.xml").getroot()[0]
    assert entry["MimeType"] == kind.attrib["type"] + ";"
    assert [one.attrib["pattern"] for one in kind if one.tag.endswith("glob")] == [f"*{SUFFIX}"]


def test_the_manual_page_says_every_command_and_option() -> None:
    assert PAGE.read_text("utf-8") == page(), "run python tools/make_man.py"
    assert all(f"\\-\\-{flag}\\fR" in page() for flag in ("takes", "reach", "forget"))


def test_the_version_is_said_once() -> None:
    from yellow_hinge import __version__

    assert PROJECT["version"] == __version__


def _pinned() -> dict[str, str]:
    """Name -> version of everything that stands in the project file."""
    found: dict[str, str] = {}
    for line in (*PROJECT["dependencies"], *PROJECT["optional-dependencies"]["dev"]):
        match = re.fullmatch(r"([\w.-]+)==([\w.]+)", line)
        assert match, f"{line} is not pinned"
        found[canonicalize_name(match[1])] = str(match[2])
    return found


def test_everything_is_pinned_and_what_is_pinned_is_installed() -> None:
    """What the libraries need themselves too: the same versions on every machine."""
    pinned = _pinned()
    for name, version in pinned.items():
        found = metadata.distribution(name)
        assert found.version == version, name
        for words in found.requires or ():
            needed = Requirement(words)
            if needed.marker is None or needed.marker.evaluate({"extra": ""}):
                assert canonicalize_name(needed.name) in pinned, f"{name} needs {needed.name}"


def test_no_host_is_recorded() -> None:
    """A lock file, or an index in one of the scripts, would name a machine."""
    for name in ("pyproject.toml", "tools/setup.sh", "start", "check", ".ci/run"):
        text = (ROOT / name).read_text("utf-8")
        assert "://" not in text and "index-url" not in text and "find-links" not in text, name


@pytest.mark.parametrize(
    ("attempts", "words", "patience_s", "code"),
    [(0, "", 9, 0), (1, LOCKED, 9, 0), (9, LOCKED, 0, 1), (1, "E: Unable to locate package xvfb", 9, 1)],
)
def test_setting_up_waits_for_whoever_installs_packages(
    tmp_path: Path, attempts: int, words: str, patience_s: int, code: int
) -> None:
    """An apt-get of ours, that fails so many times with those words."""
    script = (
        "#!/bin/sh", f"echo >>{tmp_path}/runs", f"[ $(wc -l <{tmp_path}/runs) -gt {attempts} ] ||",
        f"{{ echo '{words}' >&2; exit 100; }}",
    )  # fmt: skip
    (tmp_path / "apt-get").write_text("\n".join(script))
    (tmp_path / "apt-get").chmod(0o755)
    environment = {
        **os.environ,
        "PATH": f"{tmp_path}:{os.environ['PATH']}",
        "lock_patience_s": str(patience_s),
    }
    done = subprocess.run(
        ["bash", "-c", "source tools/setup.sh; unlocked apt-get install -y xvfb"],
        cwd=ROOT, env=environment, capture_output=True, text=True, check=False, timeout=30,
    )  # fmt: skip
    assert done.returncode == code
    assert ("waiting for it" in done.stdout) == (words == LOCKED and patience_s > 0)
    assert done.stderr.strip() == (words if code else "")
    assert len((tmp_path / "runs").read_text()) == (attempts + 1 if code == 0 else 1)


SHOTS = re.findall(
    r'^    \("([a-z-]+)", "[a-z-]+", ', (ROOT / "tools/make_screenshots.py").read_text(), re.MULTILINE
)


def test_every_picture_is_one_that_is_taken() -> None:
    assert {f"{name}.png" for name in SHOTS} == {path.name for path in (ROOT / "docs/screenshots").iterdir()}


@pytest.mark.long
@pytest.mark.parametrize("name", SHOTS[1::3])
def test_pictures_can_be_taken_anew(name: str, tmp_path: Path) -> None:
    command = [sys.executable, "tools/make_screenshots.py", str(tmp_path), name]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == 0 and (tmp_path / f"{name}.png").stat().st_size > 20_000, done.stderr[-2000:]
