"""A player's own recipes: joined to the schools, or refused with plain messages."""

from __future__ import annotations

from pathlib import Path

import pytest

from made import song_of
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.song.arrangement import Ask, Taste
from yellow_hinge.song.at import At
from yellow_hinge.tasks.settings import library as library_module
from yellow_hinge.tasks.settings.library import load_library, own_recipes_path
from yellow_hinge.tasks.song.known import with_known_schools
from yellow_hinge.voicing.recipes import Library, builtin_library

OWN = """schema = "yellow-hinge/recipes/1"
[[recipe]]
id = "my-grip"
name = "my grip"
hands = ["right"]
slots = ["5", "9", "3"]
schools = ["solo"]
source = "mine"
[[recipe]]
id = "my-bass"
name = "my bass"
hands = ["left"]
slots = ["R", "9"]
source = "mine"
"""


def test_own_recipes_join_the_schools_they_name(tmp_path: Path) -> None:
    path = tmp_path / "recipes.toml"
    path.write_text(OWN)
    library = load_library(path)
    assert [s.id for s in library.schools.values() if "my-grip" in s.right] == ["solo"]
    assert all("my-bass" in s.left_self and "my-bass" in s.left_bassist for s in library.schools.values())
    assert load_library(tmp_path / "none.toml") is builtin_library()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (("my-grip", "close-triad"), "this id is taken"),
        (('["solo"]', '["sole"]'), "there is no school"),
        (('"5", "9", "3"', '"5", "Z"'), "unknown role"),
        (("[[recipe]]", "[[recipe"), "recipes.toml"),
    ],
)
def test_bad_own_recipes_are_refused_plainly(
    change: tuple[str, str], words: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:  # fmt: skip
    path = tmp_path / "recipes.toml"
    path.write_text(OWN.replace(*change, 1))
    with pytest.raises(BadInput) as caught:
        load_library(path)
    assert words in str(caught.value)
    monkeypatch.setattr(library_module, "own_recipes_path", lambda: path)
    assert run(["schools"]) == 2
    assert words in capsys.readouterr().err


def test_the_folder_is_the_player_s_own() -> None:
    assert own_recipes_path().name == "recipes.toml" and "yellow-hinge" in str(own_recipes_path())


def test_schools_that_are_not_there_are_replaced_and_said(library: Library) -> None:
    asks = {At(0): Ask(Taste(school="tuba")), At(1): Ask(Taste(school="tuba", colour=1))}
    song = song_of("[A]\n| C | F |", "brass", tastes={"A": Taste(school="band", colour=2)}, asks=asks)
    known, said = with_known_schools(song, library, "x.yhinge")
    assert [one.what for one in said] == ["there is no school 'brass' here", "there is no school 'tuba' here"]
    assert known.arrangement.school == "solo" and known.arrangement.tastes == song.arrangement.tastes
    assert known.arrangement.asks == {At(1): Ask(Taste(colour=1))}
    assert with_known_schools(known, library, "x") == (known, ())
