"""The thinking halves of the pages and the worker, without a window."""

from __future__ import annotations

import threading

import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from constants import numbers_of
from made import song_of
from yellow_hinge.errors import BadInput, Cancelled, Problem
from yellow_hinge.motion.explain import Term
from yellow_hinge.motion.figures import Effort
from yellow_hinge.song.edits import choose, copy_take, wish_for_chord
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.song.drafts import check
from yellow_hinge.tasks.song.solved import Betterment, Offer
from yellow_hinge.theory.pretty import pretty_accidentals, pretty_degree, pretty_signed
from yellow_hinge.ui.pages.hinges.soloing import soloing_words
from yellow_hinge.ui.pages.hinges.state import HingesState, Selection, offer_words
from yellow_hinge.ui.pages.song.state import reach_label
from yellow_hinge.ui.worker import Deliver, Worker
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import HandShape, Voicing


@pytest.fixture
def state(library: Library) -> HingesState:
    made = HingesState(library)
    song = demo_song("salt-stairs")
    made.take(song, row(song, library))
    return made


def test_selection_walks_and_stays_inside() -> None:
    place = Selection()
    seen = [place := place.step(1, 3) for _ in range(6)]
    assert seen == [
        Selection(0, True),
        Selection(1),
        Selection(1, True),
        Selection(2),
        Selection(2),
        Selection(2),
    ]
    assert Selection(0).step(-1, 3) == Selection(0)


def test_texts_of_a_leaf(state: HingesState) -> None:
    state.select(Selection(2))
    assert state.chosen_title() == "A♭maj9"
    assert state.chosen_place() == "Bar 3, beat 1, Verse, round 1 of 2 alike, 4maj9 in E♭ major"
    (left, words), _ = state.hand_lines()
    assert left == "left" and "guide tones" in words and "finger" in words
    held = state.row.held[2]
    labels = []
    for _ in range(3):
        labels.append(state.tab_label(held, "left", 0))
        state.next_label()
    shape, fingers = held.hand("left")
    name = shape.pitches(held.chord)[0].name.pretty if held.chord else ""
    assert labels == [name, pretty_degree(shape.degrees[0]), str(fingers[0])]
    low, high = state.key_range()
    assert low < min(k for k in state.row.bassist if k) and high > 60


def test_texts_of_a_hinge(state: HingesState) -> None:
    state.select(Selection(0, True))
    report = state.row.hinges[0]
    numbers = state.hinge_numbers(report)
    assert numbers[0][0] == str(report.motion_st) and all(how for _, _, how in numbers)


def test_a_shorter_song_pulls_the_selection_in(state: HingesState, library: Library) -> None:
    state.select(Selection(30, True))
    short = demo_song("copper-kite")
    state.take(short, row(short, library))
    assert state.selection == Selection(24)
    state.take(Song(), row(Song(), library))
    assert state.selection == Selection(0) and "no chords yet" in state.empty_words


def test_unsolved_songs_say_what_to_do(state: HingesState, library: Library) -> None:
    bare = song_of(demo_song("copper-kite").chart.text)
    state.take(bare, row(bare, library))
    assert "No voicings yet" in state.empty_words


def test_a_trial_beyond_the_reach_is_said(state: HingesState) -> None:
    state.start_trial(Voicing(HandShape((36, 60), ("5", "3"), ""), HandShape((64,), ("9",), "")))
    (warning,) = state.warnings(state.song.hands)
    assert "out of reach by" in warning and "Do not force it" in warning
    state.select(Selection(4))
    assert state.trial is None and not state.warnings(state.song.hands)


def test_locked_voicings_out_of_reach_warn_in_the_report(library: Library) -> None:
    from yellow_hinge.motion.plan import Planner
    from yellow_hinge.tasks.reports.song import voice_report
    from yellow_hinge.tasks.song.voice_song import voice_song

    wide = Voicing(HandShape((36, 64), ("R", "3"), ""), HandShape((67, 71), ("5", "7"), ""))
    song = choose(song_of("| Cmaj7 | F |"), 0, wide, True).song
    report = voice_report(voice_song(song, library, Planner(library)), library)
    assert "left hand out of reach" in report["chords"][0]["warnings"][0]
    assert report["chords"][0]["lh"]["midi"] == [36, 64]


def test_checking_text() -> None:
    assert check("| C |").verdict == "Read: 1 bar, 1 chord in C major"
    assert check("| H |").verdict.startswith("1 place to mend")
    assert reach_label(10) == "tenth (C to E)"
    assert pretty_accidentals("b7-9#11/b3") == "♭7-9♯11/♭3"


# --- the worker ---


def test_the_worker_delivers_on_this_thread(qtbot: QtBot) -> None:
    worker, seen = Worker(), []
    worker.done.connect(
        lambda result: seen.append((result, threading.current_thread() is threading.main_thread()))
    )
    with qtbot.waitSignal(worker.done, timeout=2000):
        worker.start(lambda progress, _: 42 if progress(0.5) else 0)
    assert seen == [(42, True)]
    worker.close()


def test_errors_arrive_as_values(qtbot: QtBot) -> None:
    worker = Worker()

    def job(_: object, __: object) -> None:
        raise BadInput(Problem("here", "wrong", "mend"))

    with qtbot.waitSignal(worker.failed, timeout=2000) as caught:
        worker.start(job)
    assert isinstance(caught.args[0], BadInput)
    worker.close()


def test_a_newer_job_drops_the_older_answer(qtbot: QtBot) -> None:
    worker, gate = Worker(), threading.Event()
    seen: list[object] = []
    worker.done.connect(seen.append)

    def slow(_: object, __: object) -> str:
        gate.wait(2)
        return "old"

    worker.start(slow)
    with qtbot.waitSignal(worker.done, timeout=3000):
        worker.start(lambda _, __: "new")
        gate.set()
    qtbot.wait(50)
    assert seen == ["new"]
    worker.close()


def test_cancel_stops_a_job_that_asks(qtbot: QtBot) -> None:
    worker, ended = Worker(), threading.Event()

    def endless(progress: Progress, _: object) -> None:
        while progress(0.1):
            pass
        ended.set()
        raise Cancelled

    worker.start(endless)
    assert worker.running
    qtbot.wait(20)
    worker.cancel()
    assert not worker.running and ended.wait(2)
    worker.close()


def test_the_try_asks_for_two_keys_and_begins_anew() -> None:
    from yellow_hinge.hands.profile import HandProfile
    from yellow_hinge.ui.pages.hands.state import Try, hand_words, key_words

    tried = Try("right")
    assert "one end" in tried.words(164.5) and tried.applied(HandProfile()) is None
    tried = tried.played(72)
    assert "other end" in tried.words(164.5)
    tried = tried.played(60)
    assert tried.keys == (60, 72) and "164 mm" in tried.words(164.5)
    profile = tried.applied(HandProfile())
    assert profile is not None and profile.right.reach_mm == pytest.approx(164.5)
    assert tried.played(64).keys == (64,)
    near = Try("left", (60, 61))
    assert near.applied(HandProfile()) is not None or "no stretch" in near.words(164.5)
    assert "no stretch" in Try("left", (48, 76)).words(164.5)
    assert key_words(61) == "C♯4" and "octave" in hand_words("right", profile.right)


def test_mud_and_rubbing_notes_are_marked_where_they_weigh(state: HingesState) -> None:
    terms = [
        (Term("low", 60, mark="mud"), Term("beside", 30, mark="rub")),
        (Term("low", 20, mark="mud"),),
        (Term("x", 900),),
    ]
    assert state.marks(terms, 0) == ["mud", "rub"]
    wide = [
        (
            Term("the left hand stretches far", 17, mark="wide"),
            Term("rolls", 150, mark="roll"),
        )
    ]
    assert state.marks(wide, 0) == ["roll", "wide"]
    assert state.marks(terms, 1) == state.marks(terms, 2) == state.marks(terms, 3) == []
    state.start_trial(Voicing(HandShape((48,), ("R",)), HandShape((64,), ("3",))))
    assert state.marks(terms, 0) == []


def test_the_stretch_and_both_hands_in_words(state: HingesState) -> None:
    both = [("", "", "drop 2 of the root position, split between the hands")] * len(state.song.slots)
    assert state.pair_line(both).startswith("Both hands: drop 2")
    assert state.pair_line([]).startswith("Stretch: left ")
    profile = state.song.hands
    tight = replace(profile, roll=True, left=replace(profile.left, reach_mm=40.0, possible_mm=200.0))
    state.song = replace(state.song, hands=tight)
    assert "roll it with the pedal" in state.pair_line([])


def test_small_notes_of_one_voice_take_each_other_s_place(state: HingesState) -> None:
    for index in range(len(state.row.hinges)):
        state.select(Selection(index, True))
        choices = state.fill_choices()
        if len(choices) > 1 and choices[0][0].fills[0].start_key == choices[1][0].fills[0].start_key:
            break
    first, second = choices[0][0], choices[1][0]
    state.song = wish_for_chord(state.song, index, state.with_fill(first, True)).song
    assert [taken for _, taken in state.fill_choices()][:2] == [True, False]
    state.song = wish_for_chord(state.song, index, state.with_fill(second, True)).song
    assert [taken for _, taken in state.fill_choices()][:2] == [False, True]
    assert state.with_fill(second, False).fills == ()
    state.select(Selection(index))
    assert state.fill_choices() == []


def test_words_for_a_solo_line(state: HingesState) -> None:
    state.select(Selection(5))
    words = soloing_words(state.song, state.selection.index, state.key_at(state.selection.index))
    assert words.startswith("C phrygian dominant: ") and "Guide-tone line: " in words
    assert "Whole song: E♭ major pentatonic" in words and "becomes its ♭3" in words
    rest = song_of("| C | N.C. |")
    state.take(rest, row(rest, state.library))
    state.select(Selection(1))
    assert state.scale_here() is None and "rest" in soloing_words(
        state.song, state.selection.index, state.key_at(state.selection.index)
    )


def test_a_smaller_change_in_words(state: HingesState) -> None:
    better = Betterment(2, Voicing(), 4, 130)
    assert state.betterment_words(better).startswith("It could take 4 half steps less with another A♭maj9")
    assert state.betterment_words(better).endswith("the song as a whole would pay 1 half step more.")
    assert "No listed voicing" in state.betterment_words(None)


def test_rows_in_figures() -> None:
    offer = Offer((), Effort(1000, 400, 100, 0, 50), 12, 30, 4, 7, "6 half steps fewer")
    words = offer_words(offer, 9)
    assert words[0] == "16" and "12 half steps, 30 notes held, 4 notes coming or going" in words[1]
    assert words[2] == "Against the first row: 6 half steps fewer."
    assert "least effort" in offer_words(replace(offer, trade=""), 9)[2]
    assert words[-1] == "7 of 9 chords differ from the first row."


def test_a_worker_hands_over_parts_before_its_end(qtbot: QtBot) -> None:
    worker, seen = Worker(), []
    worker.part.connect(lambda part: seen.append(("part", part)))
    worker.done.connect(lambda result: seen.append(("done", result)))

    def job(_: Progress, deliver: Deliver) -> int:
        deliver(1)
        deliver(2)
        return 3

    with qtbot.waitSignal(worker.done, timeout=2000):
        worker.start(job)
    assert seen == [("part", 1), ("part", 2), ("done", 3)]
    worker.close()


def test_another_row_on_trial_leaves_the_song_alone(state: HingesState) -> None:
    song, described = state.song, state.row
    voicings = tuple(
        Voicing(HandShape((40,), ("R",), ""), HandShape((64,), ("3",), "")) for _ in song.columns
    )
    offer = Offer(voicings, Effort(0, 0, 0, 0, 0), 0, 0, 0, 0, "")
    state.start_offer(2, offer)
    assert state.trying and state.total_words(True).startswith("Row 3 on trial: ")
    assert state.row.held[4].voicing == voicings[0] and state.fill_choices() == []
    state.start_trial(voicings[1])  # a trial takes the row's place
    assert state.offer == 0 and state.trial == voicings[1]
    state.end_trial()
    assert (state.song, state.row) == (song, described) and not state.trying


def test_another_take_is_named_where_it_sounds(state: HingesState, library: Library) -> None:
    assert state.can_vary
    song = copy_take(state.song, "Rich").song
    song = replace(song, current=0, route={("Verse", 1): 1})
    state.take(song, row(song, library))
    assert "take Rich" in state.chosen_place() and not state.can_vary
    assert pretty_signed(-3) == "−3" and pretty_signed(2) == "+2"


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("ui")
    assert {name: now.get(name) for name in decided} == decided != {}
