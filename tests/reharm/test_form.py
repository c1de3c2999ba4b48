"""Proposals know the form: what leads on is another chord in another round."""

from __future__ import annotations

import pytest

from made import song_of
from yellow_hinge.reharm.proposals import Proposal
from yellow_hinge.song.edits import keep_as_it_is
from yellow_hinge.song.model import Song
from yellow_hinge.song.rule_edits import Stretch, set_rule
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.tasks.swaps.reharmonise import accept, find_swaps
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.recipes import builtin_library

FORM = "key: C\n[P] x3\n| C | Am7 | Dm7 | G7 |\n[E]\n| Am | F | C | C |\n"


def last_of(song: Song) -> list[Proposal]:
    """The proposals for the last chord of the first section."""
    at = song.chart.written[3].id
    return [one for one in find_swaps(song) if one.at == at]


@pytest.mark.parametrize(
    "text",
    [
        FORM,
        FORM.replace("[P] x3", "form: P P P E\n[P]"),
        "key: C\nform: P P P E\n[P]\n| C | Am7 | Dm7 | G7 |\n[E]\n| Am | F | C | C |\n",
    ],
)
def test_the_last_chord_sees_every_way_on_and_says_for_which_rounds(text: str) -> None:
    song = song_of(text)
    found = last_of(song)
    into_six = next(one for one in found if one.rule == "secondary")
    assert [str(timed.chord) for timed in into_six.chords] == ["G7", "E7b9"]
    assert into_six.rounds == (("P", 3),) and into_six.reason.endswith("in round 3 of P only")
    home = next(one for one in found if one.rule == "seven-diminished")
    assert home.rounds == (("P", 1), ("P", 2)) and home.reason.endswith("in rounds 1 and 2 of P only")
    everywhere = next(one for one in found if one.rule == "tritone")
    assert everywhere.rounds == () and "only" not in everywhere.reason
    assert not into_six.joint and not home.joint and everywhere.joint
    assert len({one.group for one in found[:6]}) >= 4
    inside = [one for one in find_swaps(song) if one.at == song.chart.written[1].id]
    assert inside and all(one.rounds == () for one in inside)


def test_taking_one_for_one_round_varies_that_round() -> None:
    song = song_of(FORM)
    one = next(one for one in last_of(song) if one.rule == "secondary")
    edit = accept(song, one)
    after = edit.song
    assert edit.label == "Swap G7, in round 3 of P" and len(after.takes) == 2
    rows = [
        [str(slot.chord) for slot in after.slots if (slot.section, slot.round) == ("P", k)] for k in (1, 2, 3)
    ]
    assert rows == [["C", "Am7", "Dm7", "G7"]] * 2 + [["C", "Am7", "Dm7", "G7", "E7b9"]]
    two = accept(song, next(one for one in last_of(song) if one.rule == "seven-diminished")).song
    assert len(two.takes) == 2  # both rounds have the same one
    assert [str(slot.chord) for slot in two.slots if slot.beat == 1][3:12:4] == ["Bdim7", "Bdim7", "G7"]
    voiced = SwapDesk(builtin_library()).weigh(song, one)
    assert voiced.song.solved and len(voiced.song.slots) == len(song.slots) + 1


def test_fifths_backwards_take_two_places_as_one_proposal() -> None:
    """6, 2, 5, 1 into 4, where two chords stand."""
    song = song_of("key: C\n[A]\n| C | Gm7 | C7 | Fmaj7 | G7 |\n[B]\n| C | F | C |\n")
    found = [one for one in find_swaps(song) if one.then]
    assert [one.at for one in found] == [1, 3, 5]  # not into a dominant, nor where a section ends between
    one = found[0]
    assert [str(timed.chord) for timed in one.every_chord] == ["Am7", "D7", "Gm7", "C9"]
    assert one.then[0][0] == 2 and one.reason.startswith("four fifths fall into Fmaj7") and not one.joint
    after = accept(song, one).song
    assert [str(slot.chord) for slot in after.slots[:6]] == ["C", "Am7", "D7", "Gm7", "C9", "Fmaj7"]
    assert sum(slot.quarters for slot in after.slots) == song.chart.length_quarters
    kept = keep_as_it_is(song, 2, True).song
    assert [one.at for one in find_swaps(kept) if one.then] == [3, 5]
    short = song_of("key: C\n[A]\n| C | Gm7:3 C7:1 | Fmaj7 |\n")
    assert not [one for one in find_swaps(short) if one.then and one.at == 1]
    over = song_of("key: C\n[A]\n| C | Gm7 | C7 | F |\nmelody: r:4 | C5:4 | Eb5:4 | F5:4\n")
    into = next(one for one in find_swaps(over) if one.then and one.at == 1)
    assert not into.safe and {str(one.chord) for one in into.notes} == {"Am7", "D7", "Gm7", "C9"}


def test_chords_that_sound_alike_by_a_rule_keep_proposals_of_their_own() -> None:
    """Two written chords in one column: what is proposed for one is never put in the place of the other."""
    plain = song_of("key: C\n[A]\n| C | G7 | C | F |\n[B]\n| Am | G7 | Am | F |\n")
    alike = set_rule(plain, Stretch("song"), HandRule("both", "alike")).song
    assert alike.column_of[1] == alike.column_of[5] != plain.column_of[5]
    assert find_swaps(alike) == find_swaps(plain)
    assert all(one.rounds == () for one in find_swaps(alike))
    assert {one.at for one in find_swaps(alike)} >= {1, 5}
