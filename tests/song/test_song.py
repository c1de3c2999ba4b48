"""Edits, history, and the walk from song to sound."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from conftest import FERRY
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.rhythm.time import beats_text, share
from yellow_hinge.song.edits import Edit, choose, replace_chart, set_lock, with_voicings
from yellow_hinge.song.history import DEPTH, History
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import walk
from yellow_hinge.voicing.shape import HandShape, Voicing


def marked(song: Song) -> Song:
    """Every slot holds a voicing that tells its index."""
    return with_voicings(
        song,
        [
            Voicing(HandShape((40 + i,), ("R",), ""), HandShape((70,), ("5",), ""))
            for i in range(len(song.slots))
        ],
    )


def test_editing_the_chart_keeps_the_choices_of_chords_that_stay() -> None:
    song = set_lock(marked(parse_chart("| C | Am | F | G |")), 3, True)
    after = replace_chart(song, parse_chart("| C | Dm7 | E7 | Am | F | G |"))
    kept = [after.voicing(i) for i in range(6)]
    assert [v.left.keys if v else None for v in kept] == [(40,), None, None, (41,), (42,), (43,)]
    assert after.locked(5) and not after.locked(0)


def test_hands_survive_a_new_chart() -> None:
    song = parse_chart("| C |")
    song = replace(song, settings=replace(song.settings, school="band", colour=3))
    after = replace_chart(song, parse_chart("title: New\n| D |"))
    assert (after.settings.school, after.settings.colour, after.title) == ("band", 3, "New")


def test_locks_are_kept_when_an_answer_is_put_in() -> None:
    song = set_lock(marked(parse_chart("| C | F |")), 1, True)
    again = marked(song)
    assert again.locked(1) and not again.locked(0)
    assert choose(again, 0, Voicing(), False).voicing(0) == Voicing()


@given(st.lists(st.sampled_from(["edit", "type", "undo", "redo", "amend"]), max_size=40))
def test_history_against_a_plain_list(actions: list[str]) -> None:
    songs = iter(Song(title=str(number)) for number in range(1000))
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
    history = History(Song(title="a"))
    history.amend(Song(title="solved"))
    assert not history.modified
    edited = Song(title="b")
    history.push(Edit(edited, "x"))
    assert history.modified
    history.mark_clean(edited)
    assert not history.modified
    for number in range(DEPTH + 5):
        history.push(Edit(Song(title=str(number)), "x"))
    steps = 0
    while history.undo():
        steps += 1
    assert steps == DEPTH
    assert not History(Song()).undo() and not History(Song()).redo()


def test_the_walk_plays_each_chord_once_at_its_time() -> None:
    song = marked(parse_chart(FERRY))
    events = walk(song, (28,) * len(song.slots), melody=True)
    assert list(events) == sorted(events)
    for slot in song.slots:
        own = [e for e in events if e.slot == slot.index]
        assert {e.part for e in own} == {"left", "right", "bass"}
        assert {e.start_beats for e in own} == {slot.start_beats}
        assert {e.length_beats for e in own} == {slot.beats}
    tune = [(e.start_beats, e.key) for e in events if e.part == "melody"]
    assert tune == [(0, 73), (2, 71), (3, 76), (6, 78), (7, 76)]
    assert not [e for e in walk(song) if e.part in ("melody", "bass")]


def test_slots_without_voicing_are_silent() -> None:
    assert walk(parse_chart("| C | N.C. |")) == ()


@given(
    st.lists(st.one_of(st.none(), st.fractions(Fraction(1, 4), 4, max_denominator=4)), min_size=1, max_size=6)
)
def test_shared_beats_add_up(given_beats: list[Fraction | None]) -> None:
    total = Fraction(4)
    try:
        shared = share(total, given_beats)
    except ValueError:
        known = sum((b for b in given_beats if b is not None), Fraction(0))
        assert (
            known > total
            or (None in given_beats and known == total)
            or (None not in given_beats and known != total)
        )
        return
    assert sum(shared) == total
    assert all(b > 0 for b in shared)
    assert all(a in (None, b) for a, b in zip(given_beats, shared, strict=True))
    assert all(Fraction(beats_text(b)) == b for b in shared)
