"""The thinking half of the Swaps page and of the wishes panel, without a window."""

from __future__ import annotations

from collections import Counter

import pytest

from made import song_of
from yellow_hinge.motion.figures import more_words
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Ask, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import choose, settle, wish_for_chord, wish_for_section
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.tasks.swaps.reharmonise import accept, find_swaps
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.ui.pages.hinges.wishes_state import (
    FIXABLE,
    SCOPES,
    colours,
    fixed_words,
    melodies,
    pedals,
    schools,
    takes_for_round,
    taste_at,
    unsaid,
    with_fixed,
    with_register,
)
from yellow_hinge.ui.pages.swaps.state import Found, SwapsState, chords_words, melody_words, motion_st
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

BASE: Voiced = voice_song(song_of("| C |"), builtin_library(), Planner(builtin_library()))


def found_for(song: Song) -> Found:
    return Found(song, tuple(find_swaps(song)), local_keys(song))


@pytest.fixture
def state() -> SwapsState:
    made = SwapsState()
    song = demo_song("salt-stairs")
    made.take(song)
    give(made, found_for(song))
    return made


def give(state: SwapsState, found: Found) -> None:
    """Proposals without weights."""
    state.take_found(found, BASE, {})


def test_an_empty_song_says_what_to_do() -> None:
    state = SwapsState()
    assert "type a chart" in state.heading()
    assert state.lines() == [] and state.melody_lines() == [] and state.bass_lines() == ("", "")
    state.step(1)
    assert state.proposal is None and state.swapped_words() == []


def test_the_list_is_short_the_best_first_and_walked_within_its_ends(state: SwapsState) -> None:
    assert state.found is not None
    counts = Counter(one.at for one in state.found.proposals)
    state.choose(state.song.chart.by_id[counts.most_common(1)[0][0]].index)
    lines = state.lines()
    listed = [line.proposal for line in lines if line.proposal]
    assert listed == list(state.here[:12]) and len(state.here) > 12
    assert lines[-1].proposal is None and f"{len(state.here) - 12} more" in lines[-1].title
    assert [one.clash for one in state.here] == sorted(one.clash for one in state.here)
    first = state.proposal
    state.step(-1)
    assert state.proposal == first == state.here[0]
    for _ in range(40):
        state.step(1)
    assert state.proposal == state.here[11]
    state.every = True
    assert len([line for line in state.lines() if line.proposal]) == len(state.here)
    for _ in range(99):
        state.step(1)
    assert state.proposal == state.here[-1]


def test_other_qualities_come_in_turn(state: SwapsState) -> None:
    at = next(one.at for one in find_swaps(state.song) if one.rule == "two-five" and one.at)
    state.choose(at)
    state.proposal = base = next(one for one in state.here if one.rule == "two-five")
    seen = []
    while state.next_variant() and state.proposal != base:
        assert state.proposal is not None and state.proposal in state.here
        seen.append(chords_words(state.proposal))
    assert len(seen) == len(set(seen)) > 3 and state.proposal == base
    assert state.proposal.chords[0].chord.root == base.chords[0].chord.root


def test_the_heading_says_place_number_and_function(state: SwapsState) -> None:
    state.choose(5)
    assert state.heading() == "Bar 4, beat 3: C7♭9 (6-7♭9) leads a fifth down to F"
    state.choose(999)
    assert "Bar 24" in state.heading() and "rests in E♭ major" in state.heading()
    state.choose(-5)
    assert state.chosen == 0


def test_the_melody_s_verdict_begins_with_what_clashes(state: SwapsState) -> None:
    assert state.found is not None
    clashing = next(one for one in state.found.proposals if not one.safe)
    state.choose(state.song.chart.by_id[clashing.at].index)
    state.proposal = clashing
    assert "clash" in state.melody_lines()[0] and melody_words(clashing).startswith("clashes: ")
    fitting = next(one for one in state.found.proposals if one.safe and one.notes)
    assert melody_words(fitting) == "fits the melody"
    silent = find_swaps(song_of("| G7 | C |"))[0]
    assert melody_words(silent) == "no melody"
    state.take(song_of("| G7 | C |"))
    give(state, found_for(state.song))
    assert state.melody_lines() == ["No melody here: judge by ear."]


def test_chords_in_words_with_their_beats(state: SwapsState) -> None:
    assert state.found is not None
    split = next(one for one in state.found.proposals if len(one.chords) == 2)
    assert chords_words(split).count("·") == 2
    whole = next(one for one in state.found.proposals if len(one.chords) == 1)
    assert chords_words(whole) == whole.chords[0].chord.pretty


def test_what_was_found_for_another_song_does_not_count(state: SwapsState) -> None:
    old = state.found
    state.take(song_of("| C | F |"))
    assert old is not None
    give(state, old)
    assert state.found is None and state.here == ()


def test_figures_are_differences_of_whole_songs(library: Library) -> None:
    song = song_of("key: C\n| Dm7 | G7 | Cmaj7 |")
    state = SwapsState()
    state.take(song)
    (_, found, keys), base, weighed = SwapDesk(library).look(song, 1, lambda _: True)
    give(state, Found(song, found, keys))
    state.choose(1)
    assert state.figure(state.here[0]) == "" and state.heard() is None
    state.take_found(Found(song, found, keys), base, weighed)
    for one in state.here:
        assert base is not None
        change = weighed[one].answer.cost - base.answer.cost
        assert state.figure(one) == more_words(change)
        state.proposal = one
        assert state.motion_words().startswith(str(motion_st(weighed[one])))
        assert weighed[one].song.arrangement.swaps.keys() == {1}
        heard = state.heard()
        assert heard == (weighed[one].song, 0, len(one.chords) + 1)


def test_swaps_in_words_and_keys_to_choose(state: SwapsState) -> None:
    assert state.found is not None
    proposal = next(one for one in state.found.proposals if one.at == 5)
    swapped = accept(state.song, proposal).song
    state.take(swapped)
    assert state.swapped_words()[0].startswith("Bar 4: ") and "for C7♭9" in state.swapped_words()[0]
    state.choose(5)
    assert state.swapped
    assert state.key_choices()[0] == (None, "as found")
    give(state, found_for(swapped))
    assert state.key_choices()[0][1] == "as found: E♭ major"
    assert (parse_key("F#m"), "F♯ minor") in state.key_choices()


def test_chords_for_a_note_follow_the_local_key(state: SwapsState) -> None:
    words = state.fitting_words(NoteName(1, -1))
    assert ("A♭maj7" not in words and "E♭7 (♭7)" in words) or "B♭m7" in words
    names = [said for _, said in state.note_choices()]
    assert names[1] == "D♭" and len(names) == 12


def test_wishes_fix_what_stands_there_and_let_it_go(library: Library) -> None:
    song = demo_song("lantern-ferry")
    for field, _ in FIXABLE:
        asked = wish_for_chord(song, 2, with_fixed(song, 2, field, True)).song
        assert asked.ask(2).hold.names == (field,)
        assert fixed_words(song, 2, field, library)
        assert with_fixed(asked, 2, field, False) == Ask()
    empty = song_of("| C |")
    assert fixed_words(empty, 0, "top", library) == "" and with_fixed(empty, 0, "top", True) == Ask()
    own = choose(song, 2, Voicing(HandShape((40,), ("R",), "?"), HandShape((70,), ("5",), "?")), False).song
    assert fixed_words(own, 2, "left_recipe", library) == "own shape"


def test_wishes_of_each_scope_stand_by_themselves(library: Library) -> None:
    song = wish_for_section(demo_song("lantern-ferry"), "Verse", Taste(colour=3)).song
    song = wish_for_chord(song, 0, Ask(Taste(school="guide"))).song
    song = settle(song, melody="clear").song
    assert [taste_at(song, 0, scope) for scope in SCOPES] == [
        Taste(school="guide"),
        Taste(colour=3),
        Taste(song.arrangement.school, song.arrangement.colour, "clear", hands="both", inverted=False),
    ]
    for scope in SCOPES:
        for choices in (schools(library, unsaid(scope)), colours(unsaid(scope)), melodies(unsaid(scope))):
            assert choices.rows[0] == (None, unsaid(scope))
            assert all(choices.place(value) == place for place, (value, _) in enumerate(choices.rows))
    assert pedals(song).place(NoteName(0)) == 1 and pedals(song).place("nothing such") == 0
    assert [said[:2] for _, said in pedals(demo_song("salt-stairs")).rows[2:3]] == ["D♭"]


def test_a_register_is_kept_as_it_stands(library: Library) -> None:
    song = demo_song("lantern-ferry")
    kept = with_register(song, 2, True)
    voicing = song.voicing(2)
    assert voicing is not None
    assert (kept.hold.lowest, kept.hold.highest) == (voicing.keys[0], voicing.keys[-1])
    assert with_register(wish_for_chord(song, 2, kept).song, 2, False) == Ask()
    assert takes_for_round(song).rows == ((None, "First take (this take)"),)


def test_other_voicings_are_no_other_question(state: SwapsState, library: Library) -> None:
    song, found = state.song, state.found
    state.choose(5)
    voicing = song.voicing(0)
    assert voicing is not None
    moved = choose(song, 2, voicing, locked=False).song
    state.take(moved)
    assert state.found is found and state.song is moved
    state.take(choose(song, 2, voicing).song)  # a lock is one
    assert state.found is None


def test_a_chord_that_the_form_leaves_out_is_said() -> None:
    state = SwapsState()
    state.take(song_of("form: B\n[A]\n| C |\n[B]\n| D |\n"))
    assert state.heading() == "C: not played, the form leaves A out"
    assert state.first is None and state.sounding_slot == 0 and str(state.key) == "C"
    state.choose(1)
    assert state.heading().startswith("Bar 1, beat 1: D")


def test_a_part_of_a_swap_is_swapped_further(library: Library) -> None:
    song = song_of("key: C\n| Dm7 | G7 | Cmaj7 |")
    split = next(one for one in find_swaps(song) if len(one.chords) == 2)
    twice = accept(song, split).song
    state = SwapsState()
    state.take(twice)
    give(state, found_for(twice))
    state.choose(twice.chart.by_id[split.at].index)
    parts = {one.part for one in state.here}
    assert parts == {1, 2} and state.swapped
    assert {slot.at for slot in twice.slots if slot.at.part} == {At(split.at, 1), At(split.at, 2)}
