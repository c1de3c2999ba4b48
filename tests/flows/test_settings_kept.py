"""Small files of settings: what they are at first, what comes back, what is said of a bad one, and what of a
folder that is closed."""

from __future__ import annotations

import logging
import os
from pathlib import Path

import pytest

from yellow_hinge.errors import BadInput, FileTrouble
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.reharm.styles import builtin_styles
from yellow_hinge.tasks.practice.desk import log_path as practice_path
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.tasks.settings.library import keep_recipe, load_library, own_recipes_path, read_own_recipes
from yellow_hinge.tasks.settings.mistakes import log_path, note, record
from yellow_hinge.tasks.settings.own_files import MAX_BYTES, decoded, keep_text, own_text
from yellow_hinge.tasks.settings.own_keys import OwnKeys
from yellow_hinge.tasks.settings.own_settings import Kept
from yellow_hinge.tasks.settings.own_styles import every_style, known_styles, own_styles_path
from yellow_hinge.tasks.settings.player import Player
from yellow_hinge.tasks.settings.profiles import profiles_path
from yellow_hinge.tasks.settings.stored import forget_everything, stored
from yellow_hinge.tasks.song.drafts import (
    alike,
    changed_lines,
    check,
    checked_as_it_is,
    draft_remarks,
    shown_text,
)
from yellow_hinge.tasks.taste.kept import taste_path
from yellow_hinge.voicing.recipes import builtin_library


def test_the_window_is_as_it_is_at_first_until_somebody_says_otherwise() -> None:
    assert Display.read() == (Display(), ())
    first = Display()
    assert (first.theme, first.text, first.names) == ("light", 100, "letters")
    assert first.walking and not first.calm and not first.above
    assert (first.window, first.split, first.beside) == (None, None, "")
    other = Display("dark", 150, "h", True, False, (1, 2, 3, 4), "Hinges", True, (5, 6))
    other.keep()
    assert Display.read() == (other, ()) and Display.path().read_bytes().endswith(b"}\n")


@pytest.mark.parametrize(
    "data",
    [b"{", b"[]", b'{"text": 101}', b'{"theme": "pink"}', b"\xff", b"[" * 5000, b'{"window": [1, 2, 3]}'],
)
def test_a_bad_file_is_said_and_left_as_it_is(data: bytes) -> None:
    Display.path().parent.mkdir(parents=True)
    Display.path().write_bytes(data)
    display, (problem,) = Display.read()
    assert display == Display() and Display.path().read_bytes() == data
    assert problem.place == str(Display.path()) and "mend or delete" in problem.remedy


def test_unknown_fields_do_no_harm_and_a_folder_is_said() -> None:
    class Small(Kept, frozen=True):
        file = "small.json"
        size: int = 1

    path = Small.path()
    path.parent.mkdir(parents=True)
    path.write_text('{"size": 2, "later": [3]}')
    assert Small.read() == (Small(2), ())
    path.write_text("{}" + " " * 100_000)
    assert Small.read()[0] == Small() and Small.read()[1]
    path.write_text("{}" + " " * 99_998)
    assert Small.read() == (Small(), ())
    path.unlink()
    path.mkdir()
    assert Small.read()[1][0].place == str(path)
    with pytest.raises(FileTrouble):
        Small().keep()


def test_keys_are_given_and_given_back() -> None:
    assert OwnKeys.read() == (OwnKeys(), ())
    keys = (
        OwnKeys().given("Hinges", "lock", ("K",)).given("Hinges", "hear", ()).given("", "undo", ("F4", "U"))
    )
    assert keys.of("Hinges") == {"lock": ("K",), "hear": ()} and keys.of("") == {"undo": ("F4", "U")}
    assert keys.of("Takes") == {}
    keys.keep()
    assert OwnKeys.read() == (keys, ()) and OwnKeys.path().name == "keys.json"
    other = keys.given("Hinges", "lock", None)
    assert other.of("Hinges") == {"hear": ()} and other.of("") == keys.of("")
    assert other.given("Hinges", "hear", None).keys == {"": {"undo": ("F4", "U")}}
    assert keys.given("Hinges", "lock", ("J",)).of("Hinges")["lock"] == ("J",)


# --- text of one's own ---


def test_text_is_read_as_far_as_it_may_be_long(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "own.toml"
    assert own_text(path) is None
    keep_text(path, "♭ one\n")
    assert own_text(path) == "♭ one\n"
    path.write_bytes(b"\xef\xbb\xbfwith a mark")
    assert own_text(path) == "with a mark"
    path.write_bytes(b"a" * MAX_BYTES)
    assert own_text(path) == "a" * MAX_BYTES
    path.write_bytes(b"a" * (MAX_BYTES + 1))
    with pytest.raises(FileTrouble, match="too large"):
        own_text(path)
    with pytest.raises(BadInput) as caught:
        decoded(b"ab\xff", "a file")
    assert caught.value.problems[0].place == "a file, byte 3"
    with pytest.raises(FileTrouble) as trouble:
        keep_text(path / "below" / "a.toml", "x")
    assert trouble.value.problems[0].place == str(path / "below")


def test_recipes_of_ones_own_stand_behind_those_that_ship() -> None:
    built_in = builtin_library()
    assert load_library() is built_in
    recipe = next(iter(built_in.recipes.values()))
    from msgspec.structs import replace

    mine = replace(recipe, id="mine-one", name="One of mine")
    library = keep_recipe(mine)
    assert list(library.recipes)[-1] == "mine-one" and own_recipes_path().exists()
    before = own_recipes_path().read_text()
    again = keep_recipe(replace(mine, id="mine-two", name="Another of mine"))
    assert list(again.recipes)[-2:] == ["mine-one", "mine-two"]
    assert own_recipes_path().read_text().startswith(before.rstrip("\n"))
    assert list(load_library().recipes) == list(again.recipes)
    assert "mine-one" in read_own_recipes(before.encode(), "a file", built_in).recipes
    kept = own_recipes_path().read_bytes()
    with pytest.raises(BadInput):
        keep_recipe(mine)  # its id is taken
    assert own_recipes_path().read_bytes() == kept


def test_a_bad_file_of_styles_stands_in_nobodys_way() -> None:
    assert every_style() == builtin_styles() == known_styles()
    own_styles_path().parent.mkdir(parents=True, exist_ok=True)
    own_styles_path().write_text("no toml [")
    assert known_styles() == builtin_styles()
    with pytest.raises(BadInput):
        every_style()


# --- mistakes ---


def test_a_mistake_is_written_down_and_said_to_nobody_else(caplog: pytest.LogCaptureFixture) -> None:
    with caplog.at_level(logging.DEBUG):
        note("a small thing")
        try:
            raise KeyError("what it was")
        except KeyError as error:
            told = record(error, "a search")
    assert caplog.records == []  # no log of others hears of it
    written = log_path().read_text("utf-8")
    assert "a small thing" in written and "a search: Yellow Hinge" in written
    assert "KeyError: 'what it was'" in written and "test_settings_kept.py" in written
    (problem,) = told.problems
    assert problem.place == "a search" and "KeyError" in problem.what and str(log_path()) in problem.remedy


# --- drafts ---


@pytest.mark.parametrize(
    ("before", "after", "lines"),
    [
        ("a\nb\nc", "a\nb\nc", (2, 2)), ("a\nb\nc", "a\nX\nc", (1, 1)), ("a\nb\nc", "a\nX\nY\nc", (1, 2)),
        ("", "a\nb", (0, 1)), ("a\nb\n", "a\n", (1, 1)), ("ab", "aab", (0, 0)), ("a\nb", "Xa\nbY", (0, 1)),
    ],
)  # fmt: skip
def test_where_a_change_begins_and_ends(before: str, after: str, lines: tuple[int, int]) -> None:
    assert changed_lines(before, after) == lines


@pytest.mark.parametrize(
    ("one", "other", "signs"),
    [("", "", 0), ("abc", "abc", 3), ("abc", "abd", 2), ("abc", "ab", 2), ("b", "a", 0)],
)
def test_how_long_two_texts_are_alike(one: str, other: str, signs: int) -> None:
    assert alike(one, other) == signs == alike(other, one)


def test_what_a_text_reads_as_is_said() -> None:
    from yellow_hinge.song.model import Song

    good, bad = check("key: D\n| D | G A |\n"), check("| Hx | C |\n| Cfoo |\n| Zz |")
    assert good.verdict == "Read: 2 bars, 3 chords in D major" and good.problems == ()
    assert bad.chart is None and bad.verdict == "3 places to mend; the song stays as it was"
    assert check("").chart is None or shown_text(check("").chart) == ""  # type: ignore[arg-type]
    (kept,) = draft_remarks(good)
    assert "not in the song yet" in kept.what
    (said,) = draft_remarks(bad)
    assert said.what.startswith(bad.verdict) and said.what.count(";") == 2 and "line 3" not in said.what
    chart = parse_chart("| C |")
    assert checked_as_it_is(Song(chart), None).chart is chart
    assert checked_as_it_is(Song(chart), "| Hx |").chart is None
    assert shown_text(chart) == "| C |"


# --- everything ------------------------------------------------------------------------------


def test_everything_that_is_stored_is_forgotten_and_nothing_else(tmp_path: Path) -> None:
    for number, folder in enumerate(stored()):
        (folder / "deep").mkdir(parents=True)
        (folder / "deep" / f"{number}.json").write_text("{}")
    song = tmp_path / "song.yhinge"
    song.write_text("x")
    forget_everything()
    assert not any(folder.exists() for folder in stored()) and song.exists()
    forget_everything()  # nothing is there: nothing is wrong


def test_what_cannot_be_deleted_is_said_and_the_rest_is_gone(monkeypatch: pytest.MonkeyPatch) -> None:
    for folder in stored():
        folder.mkdir(parents=True)
        (folder / "a.json").write_text("{}")
    first = next(iter(stored()))
    unlink = os.unlink

    def deny(path: str, **more: int) -> None:
        if (
            str(path).endswith("a.json")
            and Path(f"/proc/self/fd/{more.get('dir_fd', -1)}").resolve() == first
        ):
            raise PermissionError(13, "Permission denied")
        unlink(path, **more)

    monkeypatch.setattr(os, "unlink", deny)
    with pytest.raises(FileTrouble, match=r"a\.json"):
        forget_everything()
    assert [folder.exists() for folder in stored()] == [True, False, False]


def test_every_folder_of_ours_is_among_them(tmp_path: Path) -> None:
    for path in (
        profiles_path(),
        Display.path(),
        practice_path(),
        log_path(),
        Player.path(),
        taste_path("Ida"),
    ):
        assert any(path.is_relative_to(folder) for folder in stored()), path
