"""Which chord is which after an edit, and random edits: nothing of an untouched chord is ever lost."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from functools import partial

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec import Struct
from msgspec.structs import replace

from made import chord, held, song_of
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.arrangement import Ask, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import (
    change_swaps,
    choose,
    copy_take,
    edit_chart,
    give_back,
    keep_as_it_is,
    set_local_key,
    settle,
    wish_for_chord,
)
from yellow_hinge.song.history import History
from yellow_hinge.song.matching import matched
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.theory.keys import ALL_KEYS, parse_key


def kept(before: str, after: str) -> list[int | None]:
    """For each chord of the new chart which one of the old one it is, None for a new one."""
    old = parse_chart(before)
    chart, by = matched(old, parse_chart(after))
    assert len({one.id for one in chart.written}) == len(chart.written)
    return [one.id if one.id in by.pairs else None for one in chart.written]


@pytest.mark.parametrize(
    ("before", "after", "which"),
    [
        ("| C | F | C | G |", "| C | F | C | G |", [0, 1, 2, 3]),
        # equal chords are told apart by their surroundings
        ("| C | F | C | G |", "| F | C | G |", [1, 2, 3]),
        ("| C | F | C | G |", "| C | C | F | C | G |", [0, None, 1, 2, 3]),
        ("| C | F | C | G |", "| C | F | G |", [0, 1, 3]),
        ("| C | F | C | G | C |", "| C | G | C |", [0, 3, 4]),
        ("| D | C | F | C | G |", "| D | F | C | G |", [0, 2, 3, 4]),
        ("| A | C | B | C | D |", "| A | B | C | D |", [0, 2, 3, 4]),
        # another kind on the same root is the same chord, another root is not
        ("| C | Am7 | G |", "| C | Am9 | G |", [0, 1, 2]),
        ("| C | Am7 | G |", "| C | Em7 | G |", [0, None, 2]),
        ("| C | N.C. | G |", "| C | F | G |", [0, None, 2]),
        ("| C | N.C. | G |", "| Dm | C | N.C. | G |", [None, 0, 1, 2]),
        # a chord that only lasts otherwise is the same
        ("| C:3 F:1 |", "| C:1 F:3 |", [0, 1]),
        # sections by name, or by place where one was renamed; what is left over by content
        ("[A]\n| C | F |\n[B]\n| C | G |", "[B]\n| C | G |\n[A]\n| C | F |", [2, 3, 0, 1]),
        ("[A]\n| C | F |\n[B]\n| C | G |", "[A]\n| C | F |\n[New]\n| C | G |", [0, 1, 2, 3]),
        ("[A]\n| C | F |\n[B]\n| D | G |", "[A]\n| C | F | D | G |", [0, 1, 2, 3]),
        ("[A]\n| C | F |1. E |2. E |", "[A]\n| C | F |1. E |2. Em |", [0, 1, 2, 3]),
        ("| C | F |", "| D | E |", [None, None]),
    ],
)
def test_which_chord_is_which(before: str, after: str, which: list[int | None]) -> None:
    assert kept(before, after) == which


def test_new_chords_never_take_an_old_ones_id() -> None:
    song = Song(parse_chart("| C | F | G |"))
    shorter = edit_chart(song, parse_chart("| C | F |")).song
    longer = edit_chart(shorter, parse_chart("| C | F | G |")).song
    assert [one.id for one in longer.chart.written] == [0, 1, 2]
    twice = edit_chart(longer, parse_chart("| C | B | F | G |")).song
    assert [one.id for one in twice.chart.written] == [0, 3, 1, 2]


@settings(max_examples=60)
@given(st.lists(st.sampled_from("CDE"), max_size=7), st.lists(st.sampled_from("CDE"), max_size=7))
def test_as_many_chords_as_stand_in_the_same_order_are_found_again(old: list[str], new: list[str]) -> None:
    """Against the longest common subsequence by trying all of them; further ones may have moved."""
    before, after = (parse_chart("| X |".replace("X", " | ".join([*row, "B"]))) for row in (old, new))
    _, by = matched(before, after)
    pairs = list(by.pairs.values())
    assert all(str(one.chord) == str(other.chord) for one, other in pairs)
    assert len({other.index for _, other in pairs}) == len(pairs)
    assert len(pairs) >= longest([*old, "B"], [*new, "B"])


def longest(one: Sequence[str], other: Sequence[str]) -> int:
    if not one or not other:
        return 0
    if one[0] == other[0]:
        return 1 + longest(one[1:], other[1:])
    return max(longest(one[1:], other), longest(one, other[1:]))


# --- random edits ------------------------------------------------------------------------

#: Chords that differ in root and kind, so that each is known by its symbol whatever else happens.
NAMES = ("C", "Dm7", "E7", "Fmaj9", "G6", "Am9", "Bdim7", "Eb7", "Abmaj7", "Bb13", "Dbm7", "F#m7b5")


class Known(Struct):
    """What an oracle knows of a chord: that it was locked on a key, wished for, kept, in a key."""

    low: int
    colour: int
    kept: bool
    key_up: int  # the local key's tonic, in half steps above the home note


class Story:
    """A song with its chords as a plain list, and what was decided on each, by its symbol in C."""

    def __init__(self) -> None:
        self.song = song_of(self.text(NAMES[:5]))
        self.names = list(NAMES[:5])
        self.known: dict[str, Known] = {}
        self.home = parse_key("C")

    @staticmethod
    def text(names: Sequence[str]) -> str:
        return "key: C\n" + "\n".join(f"| {name} |" for name in names) + "\n"

    def retype(self, names: list[str]) -> None:
        """Another chart, typed in the song's key."""
        self.song = edit_chart(self.song, parse_chart(self._typed(names))).song
        self.names = names
        self.known = {name: one for name, one in self.known.items() if name in names}

    def _typed(self, names: Sequence[str]) -> str:
        plain = Song(parse_chart(self.text(names)))
        return to_key(plain, self.home).song.chart.text

    def decide(self, place: int, number: int) -> None:
        """Everything that can be decided on one chord."""
        name = self.names[place]
        step = self.song.lift_st
        key = ALL_KEYS[number]
        up = key.tonic.pitch_class - self.home.tonic.pitch_class
        known = Known(40 + number - step, number % 4, number % 2 == 0, up)
        at = self.song.chart.written[place].id
        song = choose(self.song, place, held(40 + number)).song
        song = wish_for_chord(song, place, Ask(Taste(colour=known.colour))).song
        song = keep_as_it_is(song, at, known.kept).song
        self.song = set_local_key(song, at, key).song
        self.known[name] = known

    def check(self) -> None:
        """Everything that is known is still there."""
        song, arrangement = self.song, self.song.arrangement
        for place, name in enumerate(self.names):
            written = song.chart.written[place]
            known = self.known.get(name)
            at = At(written.id)
            assert arrangement.locked(at) == (known is not None)
            assert (written.id in arrangement.untouched) == (known is not None and known.kept)
            if known is not None:
                voicing = arrangement.voicing(at)
                assert voicing is not None and voicing.left.keys == (known.low + song.lift_st,)
                assert arrangement.ask(at).taste.colour == known.colour
                key = arrangement.keys_set[written.id]
                assert (key.tonic.pitch_class - self.home.tonic.pitch_class - known.key_up) % 12 == 0
        assert len(arrangement.choices) == len(self.known)


numbers = st.integers(0, 11)
steps = st.one_of(
    st.tuples(st.just("insert"), numbers, numbers),
    st.tuples(st.just("delete"), numbers, numbers),
    st.tuples(st.just("decide"), numbers, numbers),
    st.tuples(st.just("key"), numbers, numbers),
    st.tuples(st.just("swap"), numbers, numbers),
    st.tuples(st.just("take"), numbers, numbers),
    st.tuples(st.just("undo"), numbers, numbers),
)


def swap_and_back(story: Story, place: int) -> None:
    at = story.song.chart.written[place].id
    row = (ChordAt(chord("A7alt"), Fraction(1)), ChordAt(chord("B7"), Fraction(3)))
    swapped = change_swaps(story.song, {at: row})
    assert swapped.song.slots[place].was is not None
    back = give_back(swapped.song, at)
    assert swapped.lost == back.lost == ()
    story.song = back.song


def undo_and_redo(story: Story) -> None:
    history = History(story.song)
    history.push(settle(story.song, school="band"))
    assert history.undo()
    story.song = history.song


@settings(max_examples=80)
@given(st.lists(steps, max_size=12))
def test_nothing_that_belongs_to_an_untouched_chord_is_ever_lost(
    edits: list[tuple[str, int, int]],
) -> None:
    story = Story()
    for kind, one, other in edits:
        place = one % len(story.names)
        actions: dict[str, Callable[[], object]] = {
            "insert": partial(insert, story, place, other),
            "delete": partial(delete, story, place),
            "decide": partial(story.decide, place, other),
            "key": partial(to_other_key, story, one),
            "swap": partial(swap_and_back, story, place),
            "take": partial(another_take, story),
            "undo": partial(undo_and_redo, story),
        }
        actions[kind]()
        story.check()


def another_take(story: Story) -> None:
    story.song = copy_take(story.song).song


def insert(story: Story, place: int, number: int) -> None:
    fresh = [name for name in NAMES if name not in story.names]
    if fresh:
        name = fresh[number % len(fresh)]
        story.retype([*story.names[:place], name, *story.names[place:]])


def delete(story: Story, place: int) -> None:
    if len(story.names) > 1:
        story.retype([*story.names[:place], *story.names[place + 1 :]])


MAJOR = [parse_key(name) for name in ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")]


def to_other_key(story: Story, number: int) -> None:
    story.home = MAJOR[number]
    story.song = to_key(story.song, story.home).song


def test_the_oracle_sees_a_loss() -> None:
    story = Story()
    story.decide(1, 4)
    story.check()
    arrangement = replace(story.song.arrangement, choices={})
    story.song = replace(story.song, takes=(replace(story.song.take, arrangement=arrangement),))
    with pytest.raises(AssertionError):
        story.check()
