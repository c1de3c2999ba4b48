"""What is said about rows, swaps and grips, and what a song asks of each chord."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from made import WALK, chord, held, song_of
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.figures import figures
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Ask, Taste
from yellow_hinge.song.edits import (
    change_swaps,
    choose,
    set_local_key,
    settle,
    vary_with_copy,
    wish_for_chord,
    wish_for_section,
)
from yellow_hinge.tasks.grips.judge import Player, judge_row
from yellow_hinge.tasks.grips.page import read_grips
from yellow_hinge.tasks.reports.grips import judge_report
from yellow_hinge.tasks.reports.song import voice_report
from yellow_hinge.tasks.song.describe_song import melody_fits, row, sounding_symbol, who_has_bass
from yellow_hinge.tasks.song.local_keys import goals_in, local_keys
from yellow_hinge.tasks.song.problem import octave_shift, progression
from yellow_hinge.tasks.song.session import trade_words
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.reharmonise import accept, chords_of, explain_swaps, find_swaps, tune
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing


def grip(left: tuple[int, ...], right: tuple[int, ...]) -> Voicing:
    return Voicing(HandShape(left, ("R",) * len(left)), HandShape(right, ("5",) * len(right)))


BASE = [grip((40,), (60, 64)), grip((43,), (60, 65))]


@pytest.mark.parametrize(
    ("other", "words"),
    [
        (BASE, "the same figures in other grips"),
        ([grip((40,), (60, 64)), grip((42,), (60, 65))], "1 half step fewer"),
        ([grip((40,), (60, 64)), grip((45,), (60, 65))], "2 half steps more"),
        ([grip((38,), (60, 64)), grip((41,), (60, 65))], "the bass lies lower"),
        ([grip((42,), (60, 64)), grip((45,), (60, 65))], "the bass lies higher"),
        ([grip((40,), (63, 67)), grip((43,), (63, 68))], "the top lies higher"),
        ([grip((40,), (55, 60, 64)), grip((43,), (55, 60, 65))], "fuller chords"),
        ([grip((40,), (64,)), grip((43,), (65,))], "thinner chords"),
        ([grip((40,), (60, 64)), grip((43,), (60, 65, 69))], "1 more coming or going, the top lies higher"),
    ],
)  # fmt: skip
def test_what_a_row_trades_in_words(other: list[Voicing], words: str) -> None:
    assert trade_words(figures(other, False), figures(BASE, False), other, BASE).startswith(words)
    turned = trade_words(figures(BASE, False), figures(other, False), BASE, other)
    assert (turned == words) == (other is BASE)


@pytest.mark.parametrize(
    ("symbol", "low", "has_bass", "shown"),
    [
        ("C", 36, True, "C"), ("C", 40, True, "C/E"), ("C", 43, True, "C/G"), ("C7", 46, True, "C7/Bb"),
        ("C", 40, False, "C"), ("C/E", 43, True, "C/E"), ("C", 42, True, "C"), ("D//C", 50, True, "D//C"),
    ],
)  # fmt: skip
def test_a_chord_is_shown_as_its_bass_makes_it(symbol: str, low: int, has_bass: bool, shown: str) -> None:
    assert str(sounding_symbol(chord(symbol), held(low), has_bass)) == shown
    assert str(sounding_symbol(chord(symbol), Voicing(), has_bass)) == symbol


def test_who_has_the_bass(library: Library) -> None:
    assert [
        who_has_bass(song_of(WALK, school, bass=bass).arrangement, library)
        for school, bass in (("solo", None), ("band", None), ("solo", "bassist"), ("band", "self"))
    ] == ["self", "bassist", "bassist", "self"]


def test_a_song_described_before_it_is_solved(library: Library) -> None:
    song = song_of(WALK, "band", loop=True)
    described = row(song, library)
    assert len(described.held) == len(described.hinges) == 13
    assert all(held_.chord is None for held_ in described.held) and len(described.bassist) == 13
    assert [len(fits) for fits in melody_fits(song)][:5] == [1, 1, 1, 1, 1]
    assert row(song_of("| C |", loop=True), library).hinges == ()
    assert row(song_of(WALK, "solo"), library).bassist == (None,) * 13


def test_every_round_of_a_chord_is_in_one_local_key() -> None:
    song = set_local_key(song_of(WALK), 3, parse_key("Bb")).song
    keys = local_keys(song)
    assert str(keys[3]) == str(keys[8]) == "Bb"
    other = vary_with_copy(song, "Walk", 2).song  # that round's take has the key as well
    assert str(local_keys(other)[8]) == "Bb"
    free = set_local_key(other, 3, None).song
    assert str(local_keys(free)[3]) == "C" and str(local_keys(free)[8]) == "Bb"


# --- what is asked -----------------------------------------------------------------------


def test_wishes_come_from_the_take_that_sounds(library: Library) -> None:
    song = wish_for_section(song_of(WALK), "Walk", Taste("band", 1, "clear")).song
    varied = vary_with_copy(song, "Walk", 2).song
    varied = wish_for_chord(varied, 8, Ask(Taste("guide"), Hold(top=67))).song
    problem = progression(varied, library)
    wishes = [place.wish for place in problem.places]
    assert problem.plays == tuple(range(13))
    assert [w.school.id for w in wishes if w] == ["band"] * 8 + ["guide", "band"] + ["solo"] * 3
    first, second = wishes[3], wishes[8]
    assert first is not None and second is not None
    assert (first.colour, second.colour) == (1, 1) and (first.hold, second.hold) == (None, Hold(top=67))
    assert first.clear_of == second.clear_of == 72  # the C5 that is held over F
    assert [place.where for place in problem.places][3] == "bar 3, F"


def test_a_rest_no_chord_and_one_hand(library: Library) -> None:
    song = song_of("| C | N.C. | F |\n")
    song = wish_for_chord(song, 2, Ask(Taste(hands="rest"))).song
    problem = progression(choose(song, 2, held(41)).song, library)
    assert [place.wish is None for place in problem.places] == [False, True, True]
    assert [place.lock for place in problem.places] == [None, None, None]
    single = choose(song_of("| C | F |"), 1, Voicing(HandShape(), HandShape((60, 65), ("5", "R")))).song
    wish = progression(single, library).places[1].wish
    assert wish is not None and wish.hands == "right"  # a grip of one hand is taken as that
    both = progression(choose(song_of("| C | F |"), 1, held(41)).song, library).places[1].wish
    assert both is not None and both.hands == "both"


def test_where_each_chord_goes() -> None:
    song = song_of("| C | C | Dm7:2 G7:2 | C |\n")
    assert [str(one) for one in goals_in(song)] == ["Dm7", "Dm7", "G7", "C", "None"]
    assert [str(one) for one in goals_in(settle(song, loop=True).song)][-1] == "Dm7"
    swapped = accept(song, next(p for p in find_swaps(song) if p.at == 3 and len(p.chords) == 2)).song
    parts = [slot.index for slot in swapped.slots if slot.at.written == 3]
    assert goals_in(swapped)[parts[0]] == swapped.slots[parts[1]].chord
    assert str(goals_in(swapped)[parts[1]]) == "C"


@pytest.mark.parametrize(
    ("keys", "shift"), [([], 0), ([72, 76], 0), ([48, 52], 24), ([60], 12), ([96, 98], -12), ([40, 88], 0)]
)
def test_a_tune_moves_by_whole_octaves_into_the_hand(keys: list[int], shift: int) -> None:
    hand = HandProfile().right
    found = octave_shift(keys, hand)
    assert found % 12 == 0
    best = min(hand.home_low + 5, hand.highest_key - 11)

    def outside(step: int) -> int:
        return sum(max(0, best - key - step) + max(0, key + step - hand.highest_key) for key in keys)

    assert all(outside(found) <= outside(12 * octaves) for octaves in range(-5, 6))
    assert found == shift or keys == [40, 88]


# --- swaps and grips ---------------------------------------------------------------------


def test_each_swap_says_its_own_reason() -> None:
    song = song_of(WALK)
    found = find_swaps(song)
    pair = [max((p for p in found if p.at == at), key=lambda p: len(p.chords)) for at in (4, 5)]
    both = change_swaps(song, {one.at: chords_of(one) for one in pair}).song

    def told(reasons: list[str]) -> list[str]:
        new = [", ".join(timed.chord.pretty for timed in one.chords if timed.chord) for one in pair]
        old = [
            f"bar {bar}: {shown} for {name}: "
            for bar, shown, name in zip((4, 9), new, ("G7", "E7"), strict=True)
        ]
        return [start + reason for start, reason in zip(old, reasons, strict=True)]

    assert explain_swaps(song, both, found) == told([one.reason for one in pair])
    assert explain_swaps(both, both, found) == []
    assert explain_swaps(song, both, []) == told(["", ""])


def test_the_tune_of_a_whole_song_has_its_pickup() -> None:
    song = song_of("pickup: 1\nmelody: E5:1\n| C |\nmelody: D5:4\n")
    assert [(note.start_quarters, note.key) for note in tune(song)] == [(-1, 76), (0, 74)]


def test_efforts_are_told_in_half_steps(library: Library) -> None:
    judged = judge_row(read_grips("Dm7: D3 C4 ; F4 A4\nG13: G2 F3 ; E4 B4\n", None), None, Player(), library)
    report = judge_report(judged)
    assert [one["effort"] for one in report["results"]] == [one.effort / 100 for one in judged.grips]
    assert judged.least is not None and report["least_effort"] == judged.least / 100
    voiced = voice_song(song_of(WALK), library, Planner(library))
    told = voice_report(voiced, library)
    assert told["totals"]["cost"] == voiced.answer.cost / 100
    assert told["totals"]["optimal"] and told["totals"]["gap"] == 0
    assert [one["bar"] for one in told["chords"]] == [1, 2, 2, 3, 4, 5, 6, 6, 7, 8, 9, 10, 11]
    rounds = [one["lh"]["midi"] for one in told["chords"]]
    assert rounds[:5] == rounds[5:10]


def test_a_song_of_rounds_costs_what_its_rows_cost(library: Library) -> None:
    """The answer by column, the figures as it is played."""
    voiced = voice_song(song_of(WALK), library, Planner(library))
    assert len(voiced.answer.voicings) == 8 and len(voiced.answer.row) == 13
    assert voiced.effort.cost == voiced.answer.cost
    told = figures(voiced.answer.row, False)
    assert told.motion_st > 0
    moved = replace(voiced.answer, plays=tuple(range(8)))
    assert figures(moved.row, False).motion_st < told.motion_st
