"""Rules for a stretch: obeyed by every chord that can, priced before they are set, kept and switched off."""

from __future__ import annotations

from functools import cache

import pytest
from msgspec.structs import replace

from yellow_hinge.formats import project_file
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import Store
from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import change_key, choose, settle, wish_for_chord, wish_for_section
from yellow_hinge.song.model import Song
from yellow_hinge.song.rule_edits import (
    Stretch,
    drop_rule,
    set_rule,
    slots_in,
    switch_hold,
    switch_rule_for_hand,
    switch_wish,
)
from yellow_hinge.tasks.song.rule_desk import RuleDesk
from yellow_hinge.tasks.song.sentences import sentences
from yellow_hinge.tasks.song.voice_song import Voiced, remarks, voice_song
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.hand_rules import INVERSIONS, TOPS, HandRule, merged
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Hold, Voicing

LIBRARY = builtin_library()
STORE = Store(LIBRARY)
CHART = """key: G
form: Quay Rope
[Quay]
| Gmaj7 | Em7 | Am7 | D7 |
[Rope]
| Cmaj7 | Bm7 Em7 | Am7 | Gmaj7 |
"""
WHOLE, FIRST, LAST = Stretch("song"), Stretch("chord", 0), Stretch("section", 5)
RULES = (
    HandRule("left", "octave"), HandRule("left", "single"), HandRule("right", "notes", 3),
    HandRule("right", "top", "3"), HandRule("right", "inversion", 1), HandRule("right", "highest", 72),
    HandRule("left", "lowest", 43), HandRule("left", "family", "shell-root-seventh"),
    HandRule("left", "rest"),
)  # fmt: skip


@cache
def song() -> Song:
    return Song(parse_chart(CHART))


def solved(one: Song) -> Voiced:
    return voice_song(one, LIBRARY, Planner(LIBRARY, STORE))


def row(one: Song) -> list[Voicing]:
    return [solved(one).song.voicing(slot.index) or Voicing() for slot in one.slots]


def keeps(rule: HandRule, voicing: Voicing) -> bool:
    """Said anew from the keys and degrees that sound."""
    shape = voicing.hand(rule.side)
    if rule.kind == "rest":
        return not shape.keys
    steps = [high - low for low, high in zip(shape.keys, shape.keys[1:], strict=False)]
    return {
        "octave": steps == [12],
        "single": len(shape.keys) == 1,
        "notes": len(shape.keys) == rule.value,
        "top": shape.degrees[-1] in TOPS.get(str(rule.value), ()),
        "inversion": rule.kind == "inversion" and shape.degrees[0] in INVERSIONS[int(str(rule.value))][1],
        "highest": rule.kind == "highest" and max(shape.keys) <= int(str(rule.value)),
        "lowest": rule.kind == "lowest" and min(shape.keys) >= int(str(rule.value)),
        "family": shape.recipe == rule.value,
    }[rule.kind]


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: rule.words())
@pytest.mark.parametrize("stretch", [WHOLE, LAST, FIRST], ids=lambda one: one.scope)
def test_every_chord_that_can_obeys_and_the_price_is_true(rule: HandRule, stretch: Stretch) -> None:
    priced = RuleDesk(LIBRARY).price(song(), stretch, rule, lambda _: True)
    ruled = set_rule(song(), stretch, rule).song
    assert priced.more == solved(ruled).answer.cost - solved(song()).answer.cost
    inside = slots_in(song(), stretch)
    assert len(inside) == {"song": 9, "section": 5, "chord": 1}[stretch.scope] == priced.chords
    for index in inside:
        assert keeps(rule, row(ruled)[index]) or index in priced.cannot
    for index in priced.cannot:
        said = remarks(solved(ruled), LIBRARY)[index]
        assert any("cannot obey" in words for words in said)
    if rule.kind != "rest":  # one hand has less to do
        assert priced.more >= 0


def test_who_cannot_obey_goes_without_it_and_nothing_fails() -> None:
    sus = Song(parse_chart("| C | Gsus | C |\n"))
    priced = RuleDesk(LIBRARY).price(sus, WHOLE, HandRule("right", "top", "3"), lambda _: True)
    assert priced.cannot == (1,)
    ruled = set_rule(sus, WHOLE, HandRule("right", "top", "3")).song
    assert [voicing.right.degrees[-1] for voicing in row(ruled)][::2] == ["3", "3"]
    unknown = set_rule(sus, WHOLE, HandRule("left", "family", "gone")).song
    assert solved(unknown).answer.cost == solved(sus).answer.cost


def test_rules_together() -> None:
    both = set_rule(set_rule(song(), WHOLE, RULES[1]).song, LAST, HandRule("right", "notes", 3)).song
    for index, voicing in enumerate(row(both)):
        assert len(voicing.left.keys) == 1
        assert index < 4 or len(voicing.right.keys) == 3


def test_narrower_rules_go_first_and_those_that_rest_do_not_hold() -> None:
    wide, narrow = HandRule("left", "notes", 2), HandRule("left", "notes", 1)
    assert merged((wide,), (narrow,)) == (narrow,)
    assert merged((wide,), (replace(narrow, on=False),)) == (wide,)
    one = set_rule(set_rule(song(), WHOLE, wide).song, FIRST, narrow).song
    assert [len(voicing.left.keys) for voicing in row(one)][:2] == [1, 2]
    again = set_rule(one, WHOLE, HandRule("left", "notes", 3)).song
    assert again.arrangement.rules == (HandRule("left", "notes", 3),)  # one of a kind


def test_of_two_that_contradict_each_other_the_later_one_wins_and_that_is_said() -> None:
    octave, three = HandRule("left", "octave"), HandRule("left", "notes", 3)
    desk = RuleDesk(LIBRARY)
    for first, second in ((octave, three), (three, octave)):
        one = set_rule(song(), WHOLE, first).song
        priced = desk.price(one, WHOLE, second, lambda _: True)
        assert priced.cannot == () and priced.beaten_by == ()
        assert priced.yields == ((first, tuple(range(9))),)
        both = row(set_rule(one, WHOLE, second).song)
        assert all(keeps(second, voicing) and not keeps(first, voicing) for voicing in both)
    alone = desk.price(song(), WHOLE, three, lambda _: True)
    other = desk.price(
        set_rule(song(), WHOLE, three).song, WHOLE, HandRule("right", "notes", 3), lambda _: True
    )
    again = desk.price(
        set_rule(song(), WHOLE, three).song, WHOLE, HandRule("left", "notes", 2), lambda _: True
    )
    assert alone.yields == other.yields == again.yields == ()


def test_a_narrower_rule_wins_and_that_is_said_before() -> None:
    octave, three = HandRule("left", "octave"), HandRule("left", "notes", 3)
    one = set_rule(song(), FIRST, octave).song
    priced = RuleDesk(LIBRARY).price(one, WHOLE, three, lambda _: True)
    assert priced.cannot == (0,) and priced.beaten_by == (octave,) and priced.yields == ()
    both = row(set_rule(one, WHOLE, three).song)
    assert keeps(octave, both[0]) and all(keeps(three, voicing) for voicing in both[1:])
    assert merged((three,), (octave,)) == (three, octave) and merged((octave,), (three,)) == (octave, three)
    assert merged((octave, three), (replace(octave, on=True),)) == (three, octave)


def test_a_fixed_grip_stays_where_it_belongs() -> None:
    grip = HandRule("left", "grip", (43, 50))
    ruled = set_rule(Song(parse_chart("| G | Gmaj7 | G6 |\n")), WHOLE, grip).song
    assert {voicing.left.keys for voicing in row(ruled)} == {(43, 50)}
    moved = change_key(ruled, parse_key("Bb")).song
    [rule] = moved.arrangement.rules
    assert isinstance(rule.value, tuple) and rule.value[1] - rule.value[0] == 7
    assert (rule.value[0] - 43) % 12 == (parse_key("Bb").tonic.pitch_class - ruled.key.tonic.pitch_class) % 12


def test_strict_symbols_have_nothing_else() -> None:
    rich = settle(Song(parse_chart("| C | F | G7 | C |\n")), colour=3).song
    strict = set_rule(rich, WHOLE, HandRule("both", "strict")).song
    for slot, voicing in zip(strict.slots, row(strict), strict=True):
        assert slot.chord is not None
        assert {slot.chord.label_of(key % 12) for key in voicing.keys} <= set(slot.chord.degrees)


def test_repeats_are_alike_at_the_least_effort() -> None:
    """Against every voicing locked in both of two chords, where their places ask for nothing."""
    plain = settle(Song(parse_chart("| C | Am7 | F | C | G |\n")), top_line="still").song
    ruled = set_rule(plain, WHOLE, HandRule("both", "alike")).song
    assert ruled.column_of[0] == ruled.column_of[3] and plain.column_of[0] != plain.column_of[3]
    voicings = row(ruled)
    assert voicings[0] == voicings[3]
    planner = Planner(LIBRARY, STORE)
    least = None
    for one in planner_alternatives(plain):
        locked = choose(choose(plain, 0, one).song, 3, one).song
        cost = voice_song(locked, LIBRARY, planner).answer.cost
        least = cost if least is None else min(least, cost)
    assert least is not None and solved(ruled).answer.cost <= least
    own = choose(choose(plain, 0, voicings[0]).song, 3, voicings[0]).song
    assert voice_song(own, LIBRARY, planner).answer.cost == solved(ruled).answer.cost


def planner_alternatives(one: Song) -> list[Voicing]:
    """The best voicings of the first chord."""
    planner = Planner(LIBRARY, STORE)
    voice_song(one, LIBRARY, planner)
    return [other.voicing for other in planner.alternatives(25)[0]]


def test_under_another_note_of_the_tune_repeats_go_their_own_way() -> None:
    tune = Song(parse_chart("| C | F | C | C |\nmelody: | E5:4 | F5:4 | G5:4 | E5:4 |\n"))
    ruled = set_rule(settle(tune, melody="top").song, WHOLE, HandRule("both", "alike")).song
    assert ruled.column_of[0] == ruled.column_of[3] != ruled.column_of[2]
    tops = [voicing.right.keys[-1] for voicing in row(ruled)]
    assert tops[0] == tops[3] and tops[2] == tops[0] + 3


def test_a_locked_repeat_stays_out() -> None:
    plain = Song(parse_chart("| C | F | C |\n"))
    other = planner_alternatives(plain)[3]
    ruled = set_rule(choose(plain, 2, other).song, WHOLE, HandRule("both", "alike")).song
    assert ruled.column_of[0] != ruled.column_of[2] and row(ruled)[2] == other


# --- sentences -----------------------------------------------------------------------------


def full() -> Song:
    one = set_rule(song(), WHOLE, HandRule("left", "octave")).song
    one = wish_for_section(one, "Rope", Taste(colour=2, melody="clear")).song
    ask = replace(one.ask(1), hold=Hold(top=71))
    return set_rule(wish_for_chord(one, 1, ask).song, Stretch("chord", 1), HandRule("right", "notes", 4)).song


def test_all_of_it_reads_as_one_list() -> None:
    words = [one.words for one in sentences(full(), LIBRARY)]
    assert words == [
        "The song: left hand: in octaves", "Rope: rich", "Rope: the hands keep off the melody",
        "Bar 2, Em7: right hand: four notes", "Bar 2, Em7: B4 stays on top",
    ]  # fmt: skip
    assert sentences(Song(), LIBRARY) == () == sentences(song(), LIBRARY)


@pytest.mark.parametrize("number", range(5))
def test_each_is_switched_off_and_on_and_dropped_by_itself(number: int) -> None:
    one = full()
    said = sentences(one, LIBRARY)
    off = said[number].switched(one, False).song
    after = sentences(off, LIBRARY)
    assert [s.words for s in after] == [s.words for s in said]
    assert [s.on for s in after] == [k != number for k in range(5)]
    assert project_file.read(project_file.write(off)).song == off
    assert after[number].switched(off, True).song == one
    gone = said[number].dropped(one).song
    assert [s.words for s in sentences(gone, LIBRARY)] == [s.words for s in said if s is not said[number]]


def test_what_rests_does_not_hold() -> None:
    one = set_rule(song(), WHOLE, HandRule("left", "octave")).song
    resting = switch_rule_for_hand(one, WHOLE, one.arrangement.rules[0], False).song
    assert row(resting) == row(song()) != row(one)
    wished = wish_for_section(song(), "Rope", Taste(hands="right")).song
    assert not any(voicing.left.keys for voicing in row(wished)[4:])
    assert row(switch_wish(wished, LAST, "hands", False).song) == row(song())
    high = wish_for_chord(song(), 0, replace(song().ask(0), hold=Hold(top=74))).song
    assert row(high)[0].right.keys[-1] == 74
    assert row(switch_hold(high, 0, "top", False).song) == row(song())
    assert drop_rule(one, WHOLE, one.arrangement.rules[0]).song == song()
