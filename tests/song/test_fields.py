"""Every field of an arrangement through everything that can happen to a song."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import pytest
from msgspec.structs import replace

from made import DECIDED, WALK, F, chord, decided_song, held
from yellow_hinge.formats import project_file
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.arrangement import WISHES, Arrangement, Ask, Choice, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.carry import FIELDS
from yellow_hinge.song.chart import ChordAt
from yellow_hinge.song.edits import (
    Edit,
    change_key,
    change_swaps,
    copy_take,
    edit_chart,
    give_back,
    go_to_take,
    rename_take,
)
from yellow_hinge.song.groove import Groove
from yellow_hinge.song.history import History
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.shape import Hold

NAMES = list(Arrangement.__struct_fields__)
each_field = pytest.mark.parametrize("name", NAMES)


def value(song: Song, name: str) -> object:
    return getattr(song.arrangement, name)


def retyped(song: Song, change: Callable[[str], str]) -> Edit:
    text = change(song.chart.text)
    assert text != song.chart.text
    return edit_chart(song, parse_chart(text))


def test_every_wish_of_a_taste_is_known() -> None:
    assert set(Taste.__struct_fields__) == {*WISHES, "rules", "off"}


def test_every_field_has_a_row_and_an_example() -> None:
    assert set(FIELDS) == set(NAMES) == set(DECIDED)
    assert all(getattr(Arrangement(), name) != DECIDED[name] for name in NAMES)


@each_field
def test_through_a_chart_edit_before_and_behind(name: str) -> None:
    song = decided_song(name)
    for change in (
        lambda text: text.replace("| C | Am7", "| Bb | C | Am7"),
        lambda text: text.replace("[Walk]", "[Intro]\n| F | F |\n[Walk]"),
        lambda text: text.replace("| G7 |", "| G7 | F |").replace("B4:4", "B4:4 | r:4"),
        lambda text: text.replace("| C |\n", "| C |\n[Tail]\n| F | G7 |\n"),
        lambda text: text.replace("Am7:2 Dm7:2", "Am7"),
        lambda text: text.replace("tempo", "tempo").replace("title: Rope Walk", "title: Rope Way"),
    ):
        after = retyped(song, change)
        assert value(after.song, name) == DECIDED[name]
        assert after.lost == ()
        assert str(after.song.chart.by_id[F].chord) == "F"


GROOVE: Groove = DECIDED["groove"]  # type: ignore[assignment]
AT_THE_CHORD: dict[str, tuple[object, str]] = {
    "groove": (replace(GROOVE, riffs={}), "the riff of F in bar 3"),
    "choices": ({}, "the locked voicing of F in bar 3"),
    "asks": ({At(F): Ask(Taste(colour=3))}, "what is kept and the small notes of F in bar 3"),
    "swaps": ({}, "the swap of F in bar 3"),
}


@each_field
def test_through_another_kind_of_the_chord(name: str) -> None:
    """On the same root the chord stays itself; what hung on its notes is lost and said."""
    after = retyped(decided_song(name), lambda text: text.replace("| F |", "| Fmaj7 |"))
    wanted, lost = AT_THE_CHORD.get(name, (DECIDED[name], ""))
    assert value(after.song, name) == wanted
    assert after.lost == ((lost,) if lost else ())


GONE: dict[str, tuple[object, str]] = {
    "groove": (
        replace(GROOVE, riffs={}, chords={}, pedal_marks={}),
        "the pattern of F in bar 3; the riff of F in bar 3; the pedal of F in bar 3",
    ),
    "choices": ({}, "the locked voicing of F in bar 3"),
    "asks": ({}, "the wishes and what is kept and the small notes of F in bar 3"),
    "swaps": ({}, "the swap of F in bar 3"),
    "keys_set": ({}, "the local key of F in bar 3"),
    "untouched": (frozenset(), "the keeping as it is of F in bar 3"),
}


@each_field
def test_through_the_loss_of_the_chord(name: str) -> None:
    after = retyped(decided_song(name), lambda text: text.replace("| F |", "| B7 |"))
    wanted, lost = GONE.get(name, (DECIDED[name], ""))
    assert value(after.song, name) == wanted
    assert after.lost == (tuple(lost.split("; ")) if lost else ())


@each_field
def test_through_the_loss_of_the_section(name: str) -> None:
    text = WALK[: WALK.index("[Walk]")] + WALK[WALK.index("[Bridge]") :]
    after = edit_chart(decided_song(name), parse_chart(text))
    bare = replace(GROOVE, riffs={}, chords={}, pedal_marks={}, sections={})
    more = {
        "tastes": ({}, "the wishes for Walk"),
        "groove": (bare, f"the rhythm of Walk; {GONE['groove'][1]}"),
    }
    wanted, lost = (GONE | more).get(name, (DECIDED[name], ""))
    assert value(after.song, name) == wanted
    assert after.lost == (tuple(lost.split("; ")) if lost else ())


@each_field
def test_a_renamed_section_keeps_its_wishes(name: str) -> None:
    after = retyped(decided_song(name), lambda text: text.replace("[Walk]", "[Stroll]"))
    strolls = {("Stroll", turn): one for (_, turn), one in GROOVE.sections.items()}
    named = {
        "tastes": {"Stroll": DECIDED["tastes"]["Walk"]},  # type: ignore[index]
        "groove": replace(GROOVE, sections=strolls),
    }
    wanted = named.get(name, DECIDED[name])
    assert value(after.song, name) == wanted and after.lost == ()


@each_field
def test_typed_away_and_back_within_a_gesture_nothing_is_lost(name: str) -> None:
    song = decided_song(name)
    gone = edit_chart(song, parse_chart(WALK.replace("| F |", "| B7 |")), "typing 1", song)
    back = edit_chart(gone.song, parse_chart(WALK), "typing 1", song)
    assert value(back.song, name) == DECIDED[name] and back.lost == ()


@each_field
@pytest.mark.parametrize("register", ["region", "shifted"])
@pytest.mark.parametrize("keys", [["Eb"], ["G", "Ab"], ["F#", "Db", "B"], ["A", "A", "D"]])
def test_through_other_keys_and_back(name: str, register: str, keys: list[str]) -> None:
    song = decided_song(name)
    there = song
    for key in [*keys, "C"]:
        edit = to_key(there, parse_key(key), register)  # type: ignore[arg-type]
        assert edit.lost == ()
        there = edit.song
    assert value(there, name) == DECIDED[name]
    assert there.chart.written == song.chart.written
    assert there.tune == song.tune


def test_every_field_moves_into_another_key() -> None:
    """F lies a minor third higher: all that has a pitch has moved by it, the rest has not."""
    moved = change_key(decided_song(), parse_key("Eb")).song.arrangement
    ask = moved.asks[At(F)]
    assert moved.choices == {At(F): Choice(held(44), True)}
    assert ask.taste == Taste(colour=3)
    assert ask.hold == Hold(
        right=held(44).right, top=72, lowest=43, left_recipe="root", off=frozenset({"top"})
    )
    assert ask.fills == (Fill("right", 72, 74, 73, Fraction(3), Fraction(1)),)
    assert moved.swaps == {F: (ChordAt(chord("Fm9"), Fraction(2)), ChordAt(chord("Fb7"), Fraction(2)))}
    assert moved.keys_set == {F: parse_key("Db")}
    assert moved.tastes["Walk"].pedal == NoteName(3).above(2, 3)
    for name in ("school", "colour", "bass", "melody", "hands", "inverted", "loop", "levels", "rules_off",
                 "untouched", "rules"):  # fmt: skip
        assert getattr(moved, name) == DECIDED[name]
    [note] = moved.groove.riffs[At(F)]
    assert note.key == 77 + 3 and replace(moved.groove, riffs=GROOVE.riffs) == GROOVE


@each_field
def test_through_a_swap_beside_it_and_its_return(name: str) -> None:
    song = decided_song(name)
    new = (ChordAt(chord("Db9"), Fraction(4)),)
    swapped = change_swaps(song, {4: new})
    kept = value(swapped.song, name)
    assert kept == DECIDED[name] if name != "swaps" else kept == {**song.arrangement.swaps, 4: new}
    back = give_back(swapped.song, 4)
    assert value(back.song, name) == DECIDED[name]
    assert swapped.lost == back.lost == ()


@each_field
def test_through_a_swap_of_the_chord_itself_and_its_return(name: str) -> None:
    song = decided_song(*({name} - {"swaps"} or {"colour"}))
    new = (ChordAt(chord("Dm7"), Fraction(2)), ChordAt(chord("Db7"), Fraction(2)))
    swapped = change_swaps(song, {F: new})
    sounding = [str(slot.chord).split("/")[0] for slot in swapped.song.slots if slot.at.written == F]
    assert sounding == ["Dm7", "Db7"] * 2  # over the pedal note of a taste
    back = give_back(swapped.song, F)
    assert back.song.arrangement == song.arrangement
    assert back.song.slots == song.slots
    assert swapped.lost == back.lost == ()


@each_field
def test_through_a_copy_of_the_take(name: str) -> None:
    song = decided_song(name)
    copied = copy_take(song, "Second").song
    assert copied.current == 1 and copied.take.name == "Second"
    assert value(copied, name) == DECIDED[name]
    other = rename_take(copied, 1, "Third").song
    back = go_to_take(other, 0).song
    assert value(back, name) == DECIDED[name] and back.take.name == "First take"


@each_field
def test_through_the_disk(name: str) -> None:
    song = decided_song(name)
    again = project_file.read(project_file.write(song))
    assert again.problems == ()
    assert value(again.song, name) == DECIDED[name]
    assert again.song == song


@each_field
def test_through_undo_and_redo(name: str) -> None:
    bare = Song(parse_chart(WALK))
    history = History(bare)
    song = decided_song(name)
    history.push(Edit(replace(bare, takes=song.takes), "decide"))
    history.push(edit_chart(history.song, parse_chart("| B7 |")))
    assert history.undo() and value(history.song, name) == DECIDED[name]
    assert history.undo() and history.song is bare
    assert history.redo() and value(history.song, name) == DECIDED[name]


# --- the fields of the song itself -------------------------------------------------------


def whole_song() -> Song:
    """Two takes, one sounding in the second round of the walk; fields of a newer version."""
    song = decided_song()
    second = copy_take(song, "Rich").song
    return replace(
        second, current=0, route={("Walk", 2): 1}, hands=song.hands.with_reach(10, 9), unknown={"later": [1]},
        keys_chosen=frozenset({parse_key("Eb"), parse_key("F#m")}),
    )  # fmt: skip


@pytest.mark.parametrize("name", ["takes", "current", "route", "hands", "unknown", "keys_chosen"])
def test_the_song_keeps_its_own_fields(name: str) -> None:
    song = whole_song()
    for after in (
        retyped(song, lambda text: text.replace("| G7 |", "| G7 | F |").replace("B4:4", "B4:4 | r:4")).song,
        project_file.read(project_file.write(song)).song,
        to_key(to_key(song, parse_key("Eb")).song, parse_key("C")).song,
        give_back(change_swaps(song, {4: (ChordAt(chord("Db9"), Fraction(4)),)}).song, 4).song,
    ):
        assert getattr(after, name) == getattr(song, name)


def test_both_takes_follow_their_chart_and_key() -> None:
    song = whole_song()
    gone = retyped(song, lambda text: text.replace("| F |", "| B7 |"))
    assert [take.arrangement.choices for take in gone.song.takes] == [{}, {}]
    moved = to_key(song, parse_key("D")).song
    assert [take.arrangement.choices for take in moved.takes] == [{At(F): Choice(held(43), True)}] * 2


def test_a_route_follows_the_names_of_sections() -> None:
    song = whole_song()
    renamed = retyped(song, lambda text: text.replace("[Walk]", "[Stroll]")).song
    assert renamed.route == {("Stroll", 2): 1}
    gone = edit_chart(song, parse_chart("[Other]\n| C |\n[And]\n| D |\n[More]\n| E |")).song
    assert gone.route == {}


def test_a_fixed_grip_goes_along_into_another_key() -> None:
    grip = HandRule("left", "grip", (41, 48))
    song = decided_song("school")
    ruled = replace(song, takes=(replace(song.take, arrangement=replace(song.arrangement, rules=(grip,))),))
    assert change_key(ruled, parse_key("Eb")).song.arrangement.rules == (replace(grip, value=(44, 51)),)
    high = replace(grip, value=(120, 127))
    gone = replace(ruled, takes=(replace(ruled.take, arrangement=replace(song.arrangement, rules=(high,))),))
    moved = change_key(gone, parse_key("Eb"))
    assert moved.song.arrangement.rules == () and "beyond the keyboard" in moved.lost[0]
