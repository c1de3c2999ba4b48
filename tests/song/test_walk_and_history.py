"""From song to sound, and undo."""

from __future__ import annotations

from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import FERRY
from made import held, marked, song_of
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import Edit, choose, wish_for_chord
from yellow_hinge.song.history import DEPTH, History
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import fills_sounding
from yellow_hinge.song.tune import melody_keys, melody_over, strong_places
from yellow_hinge.song.walk import tempo_map, walk


def titled(title: str) -> Song:
    return Song(Chart(title))


@given(st.lists(st.sampled_from(["edit", "type", "undo", "redo", "amend"]), max_size=40))
def test_history_against_a_plain_list(actions: list[str]) -> None:
    songs = iter(titled(str(number)) for number in range(1000))
    start = next(songs)
    history = History(start)
    past: list[tuple[Song, str | None]] = []
    future: list[tuple[Song, str | None]] = []
    now, gesture = start, None
    for action in actions:
        if action in ("edit", "type"):
            song = next(songs)
            if not (action == "type" and gesture == "typing"):
                past.append((now, gesture))
            now, future, gesture = song, [], "typing" if action == "type" else None
            history.push(Edit(song, action, gesture))
        elif action == "amend":
            now = next(songs)
            history.amend(now)
        elif action == "undo" and past:
            future.append((now, gesture))
            now, gesture = past.pop()
            assert history.undo()
        elif action == "redo" and future:
            past.append((now, gesture))
            now, gesture = future.pop()
            assert history.redo()
        assert history.song is now
        assert (history.undo_label is None) == (not past)
        assert (history.redo_label is None) == (not future)


def test_history_knows_what_is_saved_and_forgets_the_oldest() -> None:
    history = History(titled("a"))
    history.amend(titled("solved"))
    assert not history.modified
    edited = titled("b")
    history.push(Edit(edited, "x"))
    assert history.modified and history.undo_label == "x"
    history.amend(titled("solved"))
    assert history.modified
    history.mark_clean(history.song)
    assert not history.modified
    history.amend(titled("solved again"))
    assert not history.modified  # what a search finds is no reason to save
    for number in range(DEPTH + 5):
        history.push(Edit(titled(str(number)), "x"))
    steps = 0
    while history.undo():
        steps += 1
    assert steps == DEPTH
    assert history.redo_label == "x"
    assert not History(Song()).undo() and not History(Song()).redo()


def test_the_walk_plays_each_chord_once_at_its_time() -> None:
    song = marked(song_of(FERRY))
    events = walk(song, (28,) * len(song.slots), melody=True)
    assert list(events) == sorted(events)
    for slot in song.slots:
        own = [e for e in events if e.slot == slot.index]
        assert {e.part for e in own} == {"left", "right", "bass"}
        assert {e.start_quarters for e in own} == {slot.start_quarters}
        assert {e.quarters for e in own} == {slot.quarters}
    tune = [(e.start_quarters, e.key) for e in events if e.part == "melody"]
    assert tune == [(0, 73), (2, 71), (3, 76), (6, 78), (7, 76)]
    assert not [e for e in walk(song) if e.part in ("melody", "bass")]
    assert all(1 <= e.velocity <= 127 for e in events)


def test_eighths_are_half_a_quarter_long() -> None:
    song = marked(song_of("meter: 6/8\npickup: 1\nmelody: E5:1\n| C:4 F:2 | G |\nmelody: D5:6 | r:6\n"))
    events = walk(song, melody=True)
    assert [(e.start_quarters, e.quarters) for e in events if e.part == "left"] == [(0, 2), (2, 1), (3, 3)]
    half = Fraction(1, 2)
    assert [(e.start_quarters, e.quarters) for e in events if e.part == "melody"] == [(-half, half), (0, 3)]
    assert tempo_map(song).seconds(3.0) - tempo_map(song).seconds(0.0) == 6 * 60 / 100


def test_slots_without_voicing_are_silent() -> None:
    assert walk(song_of("| C | N.C. |")) == ()


def with_fill(fill: Fill, loop: bool = False) -> Song:
    """C with C2 and C4 E4 to F with F2 and F4 A4, and a small note on the way."""
    song = song_of("| C | F |", loop=loop)
    song = choose(choose(song, 0, held(36)).song, 1, held(41)).song
    return wish_for_chord(song, 0, Ask(fills=(fill,))).song


def test_a_small_note_takes_its_voice_on() -> None:
    fill = Fill("right", 60, 65, 62, Fraction(3), Fraction(1))
    events = [e for e in walk(with_fill(fill)) if e.slot == 0 and e.part == "right"]
    assert [(e.key, e.start_quarters, e.quarters) for e in events] == [(60, 0, 3), (64, 0, 4), (62, 3, 1)]


def test_small_notes_sound_as_long_as_both_chords_have_what_they_join() -> None:
    fits = Fill("right", 60, 65, 62, Fraction(3), Fraction(1))
    for wrong in (
        replace(fits, start_key=61), replace(fits, end_key=66), replace(fits, hand="left"),
        replace(fits, beats=Fraction(2)),
    ):  # fmt: skip
        assert fills_sounding(with_fill(wrong), 0) == ()
    assert fills_sounding(with_fill(fits), 0) == (fits,)
    assert fills_sounding(with_fill(fits), 1) == ()
    back = Fill("right", 65, 60, 64, Fraction(3), Fraction(1))
    for loop, sounding in ((True, (back,)), (False, ())):
        song = wish_for_chord(with_fill(fits, loop), 1, Ask(fills=(back,))).song
        assert fills_sounding(song, 1) == sounding


def test_melody_over_chords_by_time() -> None:
    song = song_of("meter: 4/4\n| C:2 Am7:2 | G7 |\nmelody: E5:3 F5:0.5 G5:0.5 | D5:4\n")
    over = melody_over(song)
    assert [[(str(n.pitch), n.quarters) for n in notes] for notes in over] == [
        [("E5", 2)],
        [("E5", 1), ("F5", Fraction(1, 2)), ("G5", Fraction(1, 2))],
        [("D5", 4)],
    ]
    assert [n.strong for n in over[1]] == [True, False, False]
    assert [n.stepwise for n in over[1]] == [True, True, True]
    assert not melody_over(song_of("| C |\nmelody: E5:4\n"))[0][0].stepwise
    assert melody_keys(song) == (76, 76, 74)
    assert melody_keys(song_of("| C | D |\nmelody: r:2 E5:2 |\n")) == (76, None)


def test_first_and_middle_beats_are_strong() -> None:
    song = song_of("| C |\nmeter: 3/4\n| D |\nmeter: 6/8\n| E |\n")
    assert sorted(strong_places(song)) == [0, 2, 4, 7, Fraction(17, 2)]
