"""Twelve keys beside each other: against single solves, and with the grips of the song's own key."""

from __future__ import annotations

import pytest

from made import song_of
from yellow_hinge.errors import Cancelled
from yellow_hinge.motion.plan import Planner
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.tasks.keys.survey import KeyFigures, survey
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.rules import legal_voicing
from yellow_hinge.voicing.shape import Voicing

LIBRARY = builtin_library()


@pytest.fixture(scope="module")
def found() -> list[KeyFigures]:
    return survey(demo_song("copper-kite"), LIBRARY)


@pytest.mark.long
def test_every_key_has_the_effort_of_a_single_solve(found: list[KeyFigures]) -> None:
    song = demo_song("copper-kite")
    assert len({one.key for one in found}) == 12 and found[0].key == song.key
    for one in found[::3]:
        alone = voice_song(to_key(song, one.key).song, LIBRARY, Planner(LIBRARY))
        assert alone.answer.cost == one.effort and one.voiced.answer.optimal


def test_carried_grips_are_the_same_grips(found: list[KeyFigures]) -> None:
    home = found[0].voiced.song
    for one in found:
        assert one.carried is not None
        shifts = {
            there - here
            for slot, voicing in zip(home.slots, one.carried.voicings, strict=True)
            for here, there in zip((home.voicing(slot.index) or Voicing()).keys, voicing.keys, strict=True)
        }
        assert len(shifts) == 1 and -7 < shifts.pop() < 7
    own = found[0].carried
    assert own is not None and own.effort == found[0].effort and own.fails == ()


def test_what_fails_is_what_the_rules_say(found: list[KeyFigures]) -> None:
    """Grips that can all be held are never cheaper than those solved for the key."""
    for one in found:
        assert one.carried is not None
        wishes = one.voiced.answer.row_wishes
        legal = all(wish is None or legal_voicing(wish, voicing)
                    for wish, voicing in zip(wishes, one.carried.voicings, strict=True))  # fmt: skip
        assert legal == (one.carried.fails == ())
        if legal:
            assert one.carried.effort is not None and one.carried.effort >= one.effort


def test_the_figures_are_those_of_the_row(found: list[KeyFigures]) -> None:
    for one in found:
        keys = [
            key
            for slot in one.voiced.song.slots
            for key in (one.voiced.song.voicing(slot.index) or Voicing()).keys
        ]
        assert (one.lowest, one.highest) == (min(keys), max(keys))
        assert sum(one.profile) == one.motion and len(one.profile) == len(one.voiced.song.slots) - 1
        assert max(one.profile) >= one.largest > 0 and 0 <= one.black <= 1
        assert one.stretch_share <= 1.01 and one.stretch_mm <= 188
        assert " below, " in one.start and " on top, " in one.start
    least = min(found, key=lambda one: one.effort)
    assert "the least effort of all keys" in least.why
    assert (
        sum("more than in" in one.why for one in found)
        >= 11 - sum(one.effort == least.effort for one in found) + 1
    )


def test_without_carrying_and_stopped() -> None:
    song = song_of("key: C\n| C | N.C. | G7 |\n")
    assert {one.carried for one in survey(song, LIBRARY, carry=False)} == {None}
    with pytest.raises(Cancelled):
        survey(song, LIBRARY, lambda _: False)
