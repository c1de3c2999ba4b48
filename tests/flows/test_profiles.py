"""Kept hand profiles on disk."""

from __future__ import annotations

from pathlib import Path

import pytest
from msgspec.structs import replace

from yellow_hinge.errors import BadInput
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.tasks.settings.profiles import drop_profile, keep_profile, load_profiles


def test_profiles_are_kept_replaced_and_forgotten(tmp_path: Path) -> None:
    path = tmp_path / "new" / "hands.json"
    assert load_profiles(path) == {}
    wide = replace(HandProfile().with_reach(10, 9), roll=True, octave_mm=152.0)
    keep_profile("Mine", HandProfile(), path)
    keep_profile("Mine", wide, path)
    keep_profile("Small", HandProfile().with_reach(7, 7), path)
    assert load_profiles(path)["Mine"] == wide
    drop_profile("Mine", path)
    assert list(load_profiles(path)) == ["Small"]


@pytest.mark.parametrize("text", ["", "{", '{"schema": "other", "profiles": {}}', '{"schema": 1}', "\xff"])
def test_a_file_that_is_not_ours_is_left_alone(tmp_path: Path, text: str) -> None:
    path = tmp_path / "hands.json"
    path.write_text(text, "latin-1")
    for action in (lambda: load_profiles(path), lambda: keep_profile("Me", HandProfile(), path)):
        with pytest.raises(BadInput) as trouble:
            action()
        assert "move it away" in trouble.value.problems[0].remedy
    assert path.read_text("latin-1") == text
