"""The disk: what is kept when a file is written, and what is never read or written."""

from __future__ import annotations

import fcntl
import os
import socket
import stat
from collections.abc import Callable
from pathlib import Path

import pytest

from yellow_hinge.errors import FileTrouble
from yellow_hinge.formats import files
from yellow_hinge.formats.files import own_folder, read_bytes, sweep, write_atomically


def refused(action: Callable[[], object]) -> str:
    with pytest.raises(FileTrouble) as caught:
        action()
    (problem,) = caught.value.problems
    assert problem.place and problem.remedy and len(str(problem)) < 500
    return problem.what


# --- writing ---


def test_what_is_new_gets_the_usual_rights_and_nothing_is_left_beside_it(tmp_path: Path) -> None:
    path = tmp_path / "x"
    write_atomically(path, b"1")
    mask = os.umask(0)
    os.umask(mask)
    assert stat.S_IMODE(path.stat().st_mode) == 0o666 & ~mask
    assert list(tmp_path.iterdir()) == [path]


def test_rights_and_attributes_of_the_old_file_are_kept(tmp_path: Path) -> None:
    path = tmp_path / "x"
    write_atomically(path, b"1")
    path.chmod(0o640)
    try:
        os.setxattr(path, "user.mood", b"bright")
    except OSError:
        marked = False  # a file system without attributes
    else:
        marked = True
    write_atomically(path, b"2")
    assert path.stat().st_mode & 0o777 == 0o640 and path.read_bytes() == b"2"
    assert not marked or os.getxattr(path, "user.mood") == b"bright"


@pytest.mark.parametrize("relative", [True, False])
def test_a_symbolic_link_stays_one(tmp_path: Path, relative: bool) -> None:
    (tmp_path / "real").mkdir()
    target, link = tmp_path / "real" / "song", tmp_path / "link"
    link.symlink_to(Path("real/song") if relative else target)
    write_atomically(link, b"first")  # it led nowhere yet
    write_atomically(link, b"second")
    assert link.is_symlink() and target.read_bytes() == b"second"
    assert list((tmp_path / "real").iterdir()) == [target]


def test_links_in_a_circle_are_refused(tmp_path: Path) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    one.symlink_to(other)
    other.symlink_to(one)
    refused(lambda: write_atomically(one, b"x"))
    refused(lambda: read_bytes(one, 10))
    assert one.is_symlink()


def test_another_name_of_the_same_file_still_is(tmp_path: Path) -> None:
    path, other = tmp_path / "x", tmp_path / "y"
    path.write_bytes(b"a long text that was there")
    os.link(path, other)
    write_atomically(path, b"short")
    assert other.read_bytes() == b"short" and path.samefile(other)
    assert sorted(tmp_path.iterdir()) == [path, other]


@pytest.mark.skipif(os.geteuid() != 0, reason="nobody else can give a file away")
def test_the_owner_stays(tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes(b"1")
    os.chown(path, 1234, 1235)
    path.chmod(0o600)
    write_atomically(path, b"2")
    info = path.stat()
    assert (info.st_uid, info.st_gid, info.st_mode & 0o777) == (1234, 1235, 0o600)
    assert path.read_bytes() == b"2"


def test_where_the_owner_cannot_stay_the_file_itself_is_written(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "x"
    path.write_bytes(b"1")
    number = path.stat().st_ino
    monkeypatch.setattr(files, "_made_alike", lambda *_: False)
    write_atomically(path, b"2")
    assert path.stat().st_ino == number and path.read_bytes() == b"2"
    assert list(tmp_path.iterdir()) == [path]


def test_only_plain_files_are_read_and_written(tmp_path: Path) -> None:
    pipe, folder = tmp_path / "pipe", tmp_path / "folder"
    os.mkfifo(pipe)
    folder.mkdir()
    with socket.socket(socket.AF_UNIX) as own:
        own.bind(str(tmp_path / "socket"))
        for path, what in (
            (pipe, "a pipe"), (folder, "a folder"), (tmp_path / "socket", "a socket"),
            (Path("/dev/null"), "a device"), (Path("/dev/zero"), "a device"),
        ):  # fmt: skip
            assert refused(lambda: write_atomically(path, b"x")) == f"it is {what}"  # noqa: B023
            assert refused(lambda: read_bytes(path, 10)) == f"it is {what}"  # noqa: B023
    assert stat.S_ISFIFO(pipe.stat().st_mode)


def test_read_only_files_are_not_written_over(tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes(b"1")
    path.chmod(0o444)
    assert refused(lambda: write_atomically(path, b"2")) == "it is read-only"
    assert path.read_bytes() == b"1" and list(tmp_path.iterdir()) == [path]


def test_the_longest_names_can_be_written(tmp_path: Path) -> None:
    path = tmp_path / ("n" * 255)
    write_atomically(path, b"1")
    write_atomically(path, b"2")
    assert path.read_bytes() == b"2"
    assert "too long" in refused(lambda: write_atomically(tmp_path / ("n" * 256), b"1"))


def test_folders_that_may_not_be_written(tmp_path: Path) -> None:
    refused(lambda: write_atomically(tmp_path / "missing" / "song.yhinge", b"x"))
    refused(lambda: write_atomically(Path("/proc/song.yhinge"), b"x"))
    refused(lambda: write_atomically(tmp_path / "a\0b", b"x"))


def test_the_folder_is_flushed_too(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    kinds: list[str] = []
    real = os.fsync

    def flushed(handle: int) -> None:
        kinds.append("folder" if stat.S_ISDIR(os.fstat(handle).st_mode) else "file")
        real(handle)

    monkeypatch.setattr(os, "fsync", flushed)
    write_atomically(tmp_path / "x", b"1")
    assert kinds == ["file", "folder"]


def test_what_a_dead_process_was_writing_goes_away(tmp_path: Path) -> None:
    stray, young, busy = (tmp_path / f".yellow-hinge-{name}.tmp" for name in ("a", "b", "c"))
    other = tmp_path / "own.tmp"
    for file in (stray, young, busy, other):
        file.write_bytes(b"x")
        if file != young:
            os.utime(file, (1, 1))
    with busy.open("rb") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        sweep(tmp_path)
    assert sorted(tmp_path.iterdir()) == sorted((young, busy, other))
    sweep(tmp_path / "nowhere")


# --- reading ---


def test_reading_what_is_not_there_or_too_large(tmp_path: Path) -> None:
    assert "no such file" in refused(lambda: read_bytes(tmp_path / "nothing", 10))
    (tmp_path / "big").write_bytes(b"x" * 11)
    assert "too large" in refused(lambda: read_bytes(tmp_path / "big", 10))
    assert read_bytes(tmp_path / "big", 11) == b"x" * 11
    refused(lambda: read_bytes(tmp_path / "a\0b", 10))


def test_names_in_messages_can_be_shown_and_stay_short() -> None:
    odd = Path(os.fsdecode(b"/tmp/\xff\x1b[31m" + b"n" * 400))
    with pytest.raises(FileTrouble) as caught:
        read_bytes(odd, 100)
    name = caught.value.problems[0].place
    assert name.isprintable() and len(name) <= 150 and name.startswith("/tmp/?")
    name.encode("utf-8")


def test_a_folder_of_the_programs_own_is_private_and_one_that_is_there_stays_as_it_is(tmp_path: Path) -> None:
    tmp_path.chmod(0o755)
    made = own_folder(tmp_path / "config" / "yellow-hinge")
    assert own_folder(made) == made
    modes = [stat.S_IMODE(path.stat().st_mode) for path in (tmp_path, made.parent, made)]
    assert modes == [0o755, 0o700, 0o700]
    (tmp_path / "file").write_bytes(b"")
    with pytest.raises(OSError):
        own_folder(tmp_path / "file" / "below")
