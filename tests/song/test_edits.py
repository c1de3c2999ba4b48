"""Each edit: what it changes, what it says, what it leaves alone, and the way back."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import pytest
from msgspec.structs import replace

from made import WALK, F, chord, decided_song, held, marked, song_of, symbols
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.arrangement import Arrangement, Ask, Choice, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import (
    MOST_NAME,
    Edit,
    change_hands,
    change_key,
    change_swaps,
    choose,
    copy_take,
    drop_take,
    edit_chart,
    free_name,
    give_back,
    go_to_take,
    keep_as_it_is,
    keep_row,
    lead_back,
    out_of_bounds,
    rename_take,
    set_local_key,
    set_lock,
    settle,
    switch_rule,
    take_over,
    vary_round,
    vary_with_copy,
    wish_for_chord,
    wish_for_section,
    with_voicings,
)
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.shape import HandShape, Voicing

TWO = (ChordAt(chord("Dm9"), Fraction(2)), ChordAt(chord("Db7"), Fraction(2)))


def two_takes() -> Song:
    """A plain first take and a second one with everything decided; the first is worked on."""
    song = marked(song_of(WALK))
    second = copy_take(song, "Rich").song
    rich = replace(second.takes[1], arrangement=decided_song().arrangement)
    return replace(second, takes=(second.takes[0], rich), current=0)


EDITS: list[tuple[Callable[[Song], Edit], str]] = [
    (lambda s: edit_chart(s, parse_chart("| C |")), "Change chart"),
    (lambda s: change_key(s, parse_key("Eb")), "Change key to E♭ major"),
    (lambda s: change_hands(s, HandProfile().with_reach(10, 9)), "Change hands"),
    (lambda s: settle(s, school="band"), "Change school"),
    (lambda s: settle(s, colour=3), "Change colour"),
    (lambda s: settle(s, bass="bassist"), "Change bass"),
    (lambda s: settle(s, melody="top"), "Change what the tune means"),
    (lambda s: settle(s, hands="left"), "Change which hands play"),
    (lambda s: settle(s, inverted=True), "Inverted basses"),
    (lambda s: settle(s, levels=(("bass", 1),)), "Change what matters"),
    (lambda s: lead_back(s, True), "Lead back to the beginning"),
    (lambda s: switch_rule(s, "tritone", False, "tritone substitution"), "Switch off tritone substitution"),
    (lambda s: wish_for_chord(s, 3, Ask(Taste(colour=1))), "Wishes for F"),
    (lambda s: wish_for_section(s, "Walk", Taste(colour=1)), "Wishes for Walk"),
    (lambda s: choose(s, 3, held(41)), "Lock F"),
    (lambda s: choose(s, 3, held(41), locked=False), "Take F"),
    (lambda s: set_lock(s, 3, True), "Lock F"),
    (lambda s: change_swaps(s, {F: TWO}), "Swap"),
    (lambda s: keep_as_it_is(s, F, True), "Keep as it is"),
    (lambda s: set_local_key(s, F, parse_key("Bb")), "Local key B♭ major"),
    (lambda s: copy_take(s, "Third"), "New take Third"),
    (lambda s: keep_row(s, [held(40)] * len(s.columns), "Row 2"), "Keep Row 2"),
    (lambda s: rename_take(s, 0, "Plain"), "Rename take to Plain"),
    (lambda s: go_to_take(s, 1), "Go to Rich"),
    (lambda s: drop_take(s, 1), "Drop Rich"),
    (lambda s: vary_round(s, "Walk", 2, 1), "Rich in Walk, round 2"),
    (lambda s: vary_with_copy(s, "Walk", 2), "Vary Walk, round 2"),
    (lambda s: take_over(s, 1, frozenset({F})), "From Rich"),
]


@pytest.mark.parametrize(("edit", "label"), EDITS, ids=[label for _, label in EDITS])
def test_each_edit_has_its_label_and_its_way_back(edit: Callable[[Song], Edit], label: str) -> None:
    song = two_takes()
    history = History(song)
    done = edit(song)
    assert done.song != song
    assert done.label == label
    history.push(done)
    assert history.undo_label == label
    assert history.undo() and history.song is song
    assert history.redo() and history.song is done.song


def test_what_changes_nothing_is_the_same_song() -> None:
    song = two_takes()
    for edit in (
        give_back(song, F), keep_as_it_is(song, F, False), set_local_key(song, F, None),
        wish_for_chord(song, 3, Ask()), wish_for_section(song, "Walk", Taste()),
        switch_rule(song, "tritone", True), settle(song, school="solo"), change_hands(song, HandProfile()),
        vary_round(song, "Walk", 2, None), set_lock(song, 3, False), change_key(song, parse_key("C"), WALK),
        lead_back(song, False), edit_chart(song, parse_chart(WALK)),
    ):  # fmt: skip
        assert edit.song == song


# --- the arrangement ---------------------------------------------------------------------


def test_wishes_go_to_the_take_that_is_worked_on() -> None:
    song = two_takes()
    after = settle(song, school="spread", colour=1).song
    assert after.takes[1] == song.takes[1]
    assert (after.arrangement.school, after.arrangement.colour) == ("spread", 1)
    assert after.arrangement.choices == song.arrangement.choices
    with pytest.raises(TypeError, match="choices"):
        settle(song, choices={})


def test_rules_are_switched_off_once_and_on_again() -> None:
    song = song_of(WALK)
    off = switch_rule(switch_rule(song, "pedal", False).song, "borrowed", False).song
    off = switch_rule(off, "pedal", False).song
    assert off.arrangement.rules_off == ("borrowed", "pedal")
    assert switch_rule(switch_rule(off, "pedal", True).song, "borrowed", True).song == song


def test_a_wish_for_one_chord_holds_in_all_its_rounds_and_nowhere_else() -> None:
    song = song_of(WALK)
    ask = Ask(Taste(colour=2))
    second_round = 5 + 3
    after = wish_for_chord(song, second_round, ask).song
    assert [index for index in range(len(after.slots)) if after.ask(index) == ask] == [3, second_round]


def test_narrower_wishes_go_before_wider_ones() -> None:
    song = wish_for_section(song_of(WALK), "Walk", Taste("band", colour=3)).song
    song = wish_for_chord(song, 1, Ask(Taste(colour=0))).song
    assert [(song.taste(i).school, song.taste(i).colour) for i in (0, 1, 10)] == [
        ("band", 3), ("band", 0), (None, None),
    ]  # fmt: skip
    assert wish_for_section(song, "Walk", Taste()).song.arrangement.tastes == {}
    assert wish_for_chord(song, 1, Ask()).song.arrangement.asks == {}


def test_tastes_over_and_beyond_each_other() -> None:
    wide, narrow = Taste("band", 2, hands="left"), Taste(colour=0, held_top=True)
    assert narrow.over(wide) == Taste("band", 0, held_top=True, hands="left")
    assert narrow.over(wide).beyond(wide) == narrow
    assert wide.beyond(wide) == Taste()


def test_a_pedal_note_lies_under_its_section() -> None:
    song = wish_for_section(song_of(WALK), "Walk", Taste(pedal=NoteName(4))).song
    assert symbols(song)[:5] == ["C/G", "Am7/G", "Dm7/G", "F/G", "G7"]
    assert symbols(song)[10:] == ["E7", "Am", "C"]
    assert [str(slot.was) for slot in song.slots[3:5]] == ["F", "None"]


# --- voicings ----------------------------------------------------------------------------


def test_a_choice_is_locked_in_every_round_of_its_take() -> None:
    song = two_takes()
    after = choose(song, 8, held(41)).song
    assert [i for i in range(len(after.slots)) if after.locked(i)] == [3, 8]
    assert after.voicing(3) == after.voicing(8) == held(41)
    assert after.takes[1] == song.takes[1]
    free = set_lock(after, 3, False).song
    assert not free.locked(8) and free.voicing(8) == held(41)


def test_locks_are_kept_when_an_answer_is_put_in() -> None:
    song = set_lock(marked(song_of(WALK)), 1, True).song
    again = with_voicings(song, [Voicing()] * len(song.columns))
    assert again.locked(1) and not again.locked(0)
    assert again.voicing(1) == Voicing() == again.voicing(0)
    assert choose(again, 0, held(40), False).song.voicing(0) == held(40)


def test_an_answer_reaches_every_take_that_sounds() -> None:
    song = vary_with_copy(marked(song_of(WALK)), "Walk", 2).song
    assert len(song.columns) == 5 + 5 + 3
    after = marked(song)
    firsts = [after.voicing(column[0]).left.keys[0] for column in after.columns]  # type: ignore[union-attr]
    assert firsts == [40 + k for k in range(len(song.columns))]
    with pytest.raises(ValueError, match="argument"):
        with_voicings(song, [Voicing()])


# --- swaps -------------------------------------------------------------------------------


def test_a_swap_splits_its_chord_in_every_round_says_what_was_and_goes_back() -> None:
    song = song_of(WALK)
    swapped = change_swaps(song, {F: TWO}).song
    assert symbols(swapped) == ["C", "Am7", "Dm7", "Dm9", "Db7", "G7"] * 2 + ["E7", "Am", "C"]
    last = swapped.slots[4]
    assert (last.bar, last.beat, last.beats, str(last.was), last.at) == (3, 3, 2, "F", At(F, 2))
    assert (last.start_quarters, last.quarters, last.place) == (10, 2, 3)
    assert sum(slot.quarters for slot in swapped.slots) == swapped.chart.length_quarters
    assert give_back(swapped, F).song == song


def test_voicings_of_untouched_chords_stay_through_a_swap_and_its_end() -> None:
    song = marked(song_of(WALK))
    swapped = change_swaps(song, {F: TWO}).song
    kept = [swapped.voicing(i) for i in range(6)]
    assert kept[:3] == [song.voicing(i) for i in range(3)]
    assert kept[3:5] == [None, None] and kept[5] == song.voicing(4)
    assert give_back(swapped, F).song.voicing(3) == song.voicing(3)


def test_a_lock_on_a_swapped_chord_is_said_when_it_goes() -> None:
    song = change_swaps(song_of(WALK), {F: TWO}).song
    locked = choose(song, 4, held(49)).song
    assert locked.slots[4].at == At(F, 2)
    gone = give_back(locked, F)
    assert gone.lost == ("the locked voicing of D♭7 in bar 3",)
    assert gone.song.arrangement.choices == {}


def test_what_stays_in_another_swap_keeps_what_it_has() -> None:
    song = choose(change_swaps(song_of(WALK), {F: TWO}).song, 4, held(49)).song
    other = change_swaps(song, {F: (ChordAt(chord("Ab7"), Fraction(1)), ChordAt(chord("Db7"), Fraction(3)))})
    assert other.lost == ()
    assert other.song.arrangement.choices == {At(F, 2): Choice(held(49), True, True)}


def test_the_charts_own_chord_among_the_parts_keeps_its_voicing() -> None:
    song = choose(song_of(WALK), 3, held(41)).song
    with_own = (ChordAt(chord("Gm7"), Fraction(2)), ChordAt(chord("F"), Fraction(2)))
    swapped = change_swaps(song, {F: with_own}).song
    assert swapped.arrangement.choices[At(F, 2)] == Choice(held(41), True, True)
    assert At(F, 1) not in swapped.arrangement.choices
    moved = choose(swapped, 4, held(43)).song
    assert give_back(moved, F).song.arrangement.choices == {At(F): Choice(held(43), True, True)}


def test_a_swap_keeps_the_wishes_of_its_place() -> None:
    song = wish_for_chord(song_of(WALK), 3, Ask(Taste(colour=2))).song
    swapped = change_swaps(song, {F: TWO}).song
    assert [swapped.ask(i).taste.colour for i in (3, 4)] == [2, 2]
    back = give_back(swapped, F)
    assert back.song == song and back.lost == ()


def test_kept_chords_and_local_keys_are_of_their_take() -> None:
    song = two_takes()
    after = set_local_key(keep_as_it_is(song, F, True).song, 1, parse_key("G")).song
    assert after.arrangement.untouched == {F} and after.arrangement.keys_set == {1: parse_key("G")}
    assert after.takes[1] == song.takes[1]
    assert set_local_key(after, 1, None).label == "Local key as found"
    assert set_local_key(keep_as_it_is(after, F, False).song, 1, None).song == song


# --- keys --------------------------------------------------------------------------------


def test_a_song_moves_as_its_text_does() -> None:
    song = decided_song()
    moved = to_key(song, parse_key("Eb")).song
    assert replace(parse_chart(moved.chart.text), text="") == replace(moved.chart, text="")
    assert [str(one.chord) for one in moved.chart.written][:4] == ["Eb", "Cm7", "Fm7", "Ab"]


@pytest.mark.parametrize(
    ("register", "keys", "lowest"),
    [("region", ["F", "G", "A"], [46, 36, 38]), ("shifted", ["F", "G", "A"], [46, 48, 50])],
)
def test_the_register_rule_is_the_players_choice(register: str, keys: list[str], lowest: list[int]) -> None:
    """A grip on F2: the nearer way, or always upwards; it hangs on the key alone, not on the way."""
    song = choose(song_of(WALK), 3, held(41)).song
    found = []
    for key in keys:
        song = to_key(song, parse_key(key), register).song  # type: ignore[arg-type]
        voicing = song.voicing(3)
        assert voicing is not None
        found.append(voicing.left.keys[0])
    assert found == lowest


def test_what_leaves_the_hands_is_named() -> None:
    shape = HandShape((41, 43, 48), ("R", "9", "5"), "own")
    song = choose(song_of(WALK), 3, Voicing(shape, HandShape((57, 60), ("3", "5"), "own"))).song
    assert to_key(song, parse_key("D")).remarks == ()
    high = choose(song_of(WALK), 3, Voicing(HandShape((65,), ("R",)), HandShape((69, 72), ("3", "5")))).song
    assert to_key(high, parse_key("A"), "shifted").remarks == ("bar 3, D: out of the left hand's register",)
    wide = Voicing(HandShape((35, 53), ("#11", "R")), HandShape((69, 72), ("3", "5")))
    assert out_of_bounds(choose(song_of(WALK), 3, wide).song) == ("bar 3, F: out of reach for the left hand",)
    unlocked = choose(song_of(WALK), 3, wide, locked=False).song
    assert out_of_bounds(unlocked) == ()


def test_the_outermost_keys_belong_to_the_hands() -> None:
    song = song_of(WALK)
    left, right = song.hands.left, song.hands.right
    for low, high, said in (
        (left.lowest_key, right.highest_key, ()),
        (left.lowest_key - 1, right.highest_key, ("left",)),
        (left.lowest_key, right.highest_key + 1, ("right",)),
        (left.lowest_key - 1, right.highest_key + 1, ("left", "right")),
    ):
        grip = Voicing(HandShape((low,), ("R",)), HandShape((high,), ("5",)))
        wanted = tuple(f"bar 3, F: out of the {side} hand's register" for side in said)
        assert out_of_bounds(choose(song, 3, grip).song) == wanted


LESS = "small notes of C in bar 1"


@pytest.mark.parametrize(
    ("beats", "left_over", "said"),
    [("4", [0, 3], ""), ("7/2", [0], LESS), ("3", [0], LESS), ("1/2", [], LESS)],
)
def test_small_notes_stay_where_their_chord_has_room(beats: str, left_over: list[int], said: str) -> None:
    fills = tuple(Fill("right", 69, 71, 70, Fraction(at), Fraction(1)) for at in (0, 3))
    song = song_of("| C | F |", asks={At(0): Ask(fills=fills)})
    edit = edit_chart(
        song, parse_chart(f"| C:{beats} G:{4 - Fraction(beats)} | F |" if said else "| C | F | G |")
    )
    assert [fill.offset_beats for fill in edit.song.ask(0).fills] == left_over
    assert edit.lost == ((said,) if said else ())


def test_what_would_lie_beyond_the_keyboard_is_lost_and_said() -> None:
    top = Voicing(HandShape((41,), ("R",)), HandShape((125,), ("R",)))
    edit = change_key(choose(song_of(WALK), 3, top).song, parse_key("E"))
    assert edit.lost == ("a locked voicing that would lie beyond the keyboard",)
    assert edit.song.arrangement.choices == {}


def test_a_key_line_typed_over_numbers_moves_everything() -> None:
    text = "key: C\n[Walk]\n| 1 | 6m7 | 2m7 | 4 |\n"
    song = choose(song_of(text), 3, held(41)).song
    edit = edit_chart(song, parse_chart(text.replace("key: C", "key: D")))
    assert edit.lost == () and symbols(edit.song) == ["D", "Bm7", "Em7", "G"]
    assert edit.song.voicing(3) == held(43) and edit.song.locked(3)
    plain = edit_chart(choose(song_of(WALK), 3, held(41)).song, parse_chart(WALK.replace("key: C", "key: D")))
    assert plain.song.voicing(3) == held(41)  # symbols stay what they are


# --- takes -------------------------------------------------------------------------------


def test_keeping_a_row_locks_it_in_a_take_of_its_own() -> None:
    song = marked(song_of("| C | N.C. | F |"))
    rows = [held(40), Voicing(), held(41)]
    kept = keep_row(song, rows, "Low")
    assert kept.song.take.name == "Low" and kept.song.takes[0] == song.takes[0]
    assert [kept.song.voicing(i) for i in (0, 2)] == [held(40), held(41)]
    assert [kept.song.locked(i) for i in range(3)] == [True, False, True]


def test_names_of_takes_differ_and_are_not_empty() -> None:
    song = song_of(WALK)
    assert free_name(song, "  First   take ") == "First take 2"
    assert free_name(song, "") == "First take 2"
    assert len(free_name(song, "x" * 500)) == MOST_NAME
    assert rename_take(song, 0, "First take").song == song
    assert rename_take(song, 0, " ").song.take.name == "First take"
    copied = copy_take(copy_take(song).song).song
    assert [take.name for take in copied.takes] == ["First take", "First take 2", "First take 3"]
    assert len({take.id for take in copied.takes}) == 3


def test_dropping_takes() -> None:
    song = vary_round(two_takes(), "Walk", 2, 1).song
    dropped = drop_take(song, 1).song
    assert [take.id for take in dropped.takes] == [0] and dropped.route == {}
    other = drop_take(song, 0).song
    assert other.current == 1 and other.route == {("Walk", 2): 1}
    assert drop_take(dropped, 0).song == dropped  # the last one stays


def test_a_round_may_be_varied_and_made_alike_again() -> None:
    song = marked(song_of(WALK))
    varied = vary_with_copy(song, "Walk", 2).song
    assert varied.current == 0 and varied.route == {("Walk", 2): 1}
    assert varied.takes[1].name == "Walk 2"
    changed = choose(varied, 8, held(41)).song
    assert changed.voicing(3) == song.voicing(3) and changed.voicing(8) == held(41)
    assert [slot.take for slot in changed.slots] == [0] * 5 + [1] * 5 + [0] * 3
    alike = vary_round(changed, "Walk", 2, None).song
    assert alike.voicing(8) == song.voicing(3)
    assert alike.takes[1].arrangement.choices[At(F)] == Choice(held(41), True, True)  # still there


def in_one_key(song: Song) -> Song:
    """The takes in the song's own key."""
    takes = (replace(take, arrangement=replace(take.arrangement, shift_st=0)) for take in song.takes)
    return replace(song, takes=tuple(takes))


def test_a_mix_takes_some_chords_from_another_take() -> None:
    song = in_one_key(two_takes())
    mixed = take_over(song, 1, frozenset({F})).song
    one, rich = mixed.arrangement, song.takes[1].arrangement
    assert mixed.takes[1:] == song.takes[1:] and mixed.current == song.current
    assert one.choices[At(F)] == replace(rich.choices[At(F)], locked=True)
    assert one.choices[At(0)] == song.arrangement.choices[At(0)]
    assert one.swaps == rich.swaps and one.keys_set == rich.keys_set and one.untouched == rich.untouched
    assert one.school == "solo" and one.tastes == {} and one.levels == ()
    # their wishes hold for the chord, said beyond what holds around it
    wanted = rich.taste(At(F), "Walk").over(rich.own_taste)
    assert one.taste(At(F), "Walk").over(one.own_taste) == wanted
    assert one.asks[At(F)].hold == rich.asks[At(F)].hold


def test_what_comes_from_a_take_in_another_key_comes_into_this_one() -> None:
    song = two_takes()  # the other one sounds a half step up
    mixed = take_over(song, 1, frozenset({F})).song.arrangement
    theirs = song.takes[1].arrangement
    there, here = theirs.choices[At(F)].voicing, mixed.choices[At(F)].voicing
    assert here.left.keys == tuple(key - 1 for key in there.left.keys)
    assert here.right.keys == tuple(key - 1 for key in there.right.keys)
    assert [str(one.chord) for one in mixed.swaps[F]] == ["C#m9", "C7"] and mixed.shift_st == 0
    plain = in_one_key(song)
    assert take_over(plain, 1, frozenset({F})).song.arrangement.choices[At(F)].voicing == there


def test_a_mix_of_a_whole_section_takes_its_wishes() -> None:
    song = in_one_key(two_takes())
    ids = frozenset(one.id for one in song.chart.written if one.section == "Walk")
    one = take_over(song, 1, ids).song.arrangement
    rich = song.takes[1].arrangement
    assert one.tastes == rich.tastes
    for written in ids:
        wanted = rich.taste(At(written), "Walk").over(rich.own_taste)
        assert one.taste(At(written), "Walk").over(one.own_taste) == wanted
    assert one.choices[At(5)] == song.arrangement.choices[At(5)]
    own = take_over(song, 0, ids).song.arrangement
    choices = song.arrangement.choices
    kept = {at: replace(choice, locked=choice.locked or at.written in ids) for at, choice in choices.items()}
    assert own == replace(song.arrangement, choices=kept)


def test_an_arrangement_finds_what_it_holds() -> None:
    arrangement = Arrangement(choices={At(1): Choice(held(40), True), At(2): Choice(held(41))})
    assert arrangement.voicing(At(1)) == held(40) and arrangement.voicing(At(9)) is None
    assert [arrangement.locked(At(k)) for k in (1, 2, 9)] == [True, False, False]
    assert arrangement.ask(At(1)) == Ask()


BUOY = "title: Buoy\nkey: F\n[Buoy]\n| Bb | Gm7:2 C7:2 |\n"


@pytest.mark.parametrize(
    ("text", "another"),
    [
        (BUOY, True),
        (BUOY.replace("Buoy\nkey", "Rope Walk\nkey"), False),  # the same title
        (BUOY + "| E7 | F |\n", False),  # a bar of the old one
        (WALK.replace("Rope Walk", "Tar Walk"), False),
        (WALK.replace("Rope Walk", ""), False),
    ],
)
def test_another_title_without_a_bar_of_the_old_song_is_another_song(text: str, another: bool) -> None:
    song = decided_song()
    edit = edit_chart(song, parse_chart(text))
    plain = Song(parse_chart(text), hands=song.hands)
    assert (edit.song == plain and edit.label == "New song" and not edit.lost) == another
    assert (edit.label == "Change chart") != another


def test_a_song_of_another_name_in_another_key_is_still_that_song() -> None:
    song = song_of(WALK)
    moved = change_key(song, parse_key("D")).song.chart
    edit = edit_chart(song, parse_chart(chart_text.write(replace(moved, title="Walk in D")).decode()))
    assert edit.label == "Change chart"


def test_what_looks_like_another_song_while_one_types_is_the_same_in_the_end() -> None:
    song = decided_song()
    half = edit_chart(song, parse_chart("title: Rope\n| Eb |"), "typing").song
    assert half.own_id != song.own_id
    whole = edit_chart(half, parse_chart(WALK.replace("Rope Walk", "Rope")), "typing", song).song
    assert whole.own_id == song.own_id and whole.arrangement == song.arrangement


def test_a_chart_without_a_title_is_typed_on() -> None:
    song = choose(song_of("| C | F |"), 0, held(40)).song
    edit = edit_chart(song, parse_chart("title: Rope\n| G | D |"))
    assert edit.label == "Change chart"


@pytest.mark.parametrize(("chart", "section", "words"), [
    ("| C | F |", "", "the song"), ("[Walk] x2\n| C | F |", "Walk", "Walk"),
])  # fmt: skip
def test_a_varied_round_is_named(chart: str, section: str, words: str) -> None:
    edit = vary_with_copy(song_of(f"key: C\n{chart}\n"), section, 1)
    assert edit.label == f"Vary {words}, round 1"
    assert edit.song.takes[-1].name == f"{section or 'Song'} 1"
    routed = vary_round(edit.song, section, 1, None)
    assert routed.label.endswith(f"in {words}, round 1")
