"""Rhythm by real keys and clicks: patterns, strokes, pedal, riffs, lines, feel, and what is said of it."""

from __future__ import annotations

from fractions import Fraction

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.formats import project_file
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.groove import Groove, Texture
from yellow_hinge.song.groove_edits import with_groove
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.settings.patterns import own_patterns, own_patterns_path
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, colours, pick, press, settle, show, type_chart, undo

K, CTRL = Qt.Key, Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def rhythm(window: Window, qtbot: QtBot) -> RhythmPage:
    settle(window, qtbot)
    bare = with_groove(window.document.song, Groove())
    window.document.apply(Edit(bare, "As it is held"))
    settle(window, qtbot)
    view = show(window, qtbot, RhythmPage)
    quiet(view, qtbot)
    return view


def quiet(view: RhythmPage, qtbot: QtBot) -> None:
    """Wait until what is to be said is there."""
    qtbot.waitUntil(lambda: not view.remarks.worker.running, timeout=10_000)
    qtbot.wait(20)


def take(view: RhythmPage, qtbot: QtBot, name: str) -> None:
    """Click on the picture of a pattern."""
    names = [one.name for one in view.side.patterns.model.lines]
    place = view.side.patterns.model.index(names.index(name))
    view.side.patterns.list.scrollTo(place)
    at = view.side.patterns.list.visualRect(place).center()
    qtbot.mouseClick(view.side.patterns.list.viewport(), Qt.MouseButton.LeftButton, pos=at)


def hit(
    view: RhythmPage, qtbot: QtBot, point: QPointF, which: Qt.MouseButton = Qt.MouseButton.LeftButton
) -> None:
    qtbot.mouseClick(view.strip, which, pos=point.toPoint())


def struck_last(window: Window) -> str:
    """The last stroke of the changed pattern."""
    return str(window.document.song.arrangement.groove.patterns[0].strokes[-1])


@pytest.mark.long
def test_a_pattern_is_chosen_for_a_section_heard_and_undone(
    window: Window, rhythm: RhythmPage, qtbot: QtBot
) -> None:
    before = window.document.song
    assert "Right on 1: held" in rhythm.words.text() and "Say it: 1 & 2 & 3 &" in rhythm.words.text()
    take(rhythm, qtbot, "Broken in three, turning")
    qtbot.waitUntil(lambda: window.playback.playing, timeout=5000)
    song = window.document.song
    assert song.arrangement.groove.sections == {("Verse", 0): Texture(right="waltz-broken")}
    assert "Right on every count and every &: broken in three, turning" in rhythm.words.text()
    assert song.texture(0).right == "waltz-broken" and song.texture(len(song.slots) - 1).right == "held"
    qtbot.waitUntil(lambda: not window.document.worker.running, timeout=20_000)
    grips = [window.document.song.voicing(k) for k in range(9)]  # solved anew: it strikes three notes
    assert all(grip is not None and len(grip.right.keys) >= 3 for grip in grips)
    take(rhythm, qtbot, "Held, rolled from the bottom")
    qtbot.waitUntil(lambda: not window.document.worker.running, timeout=20_000)
    take(rhythm, qtbot, "One short stroke, then silence")
    assert not window.document.worker.running  # it needs no other notes: no voicing changes
    window.playback.stop()
    undo(window, qtbot, 2)
    rhythm.strip.setFocus()
    undo(window, qtbot)
    assert window.document.song == before


def test_the_other_hand_and_one_chord(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_J)
    assert rhythm.side.patterns.hand.text() == "Left hand (J)"
    pick(qtbot, rhythm.side.patterns.scope, "chord")
    take(rhythm, qtbot, "Bass, chord, chord")
    song = window.document.song
    assert song.arrangement.groove.chords == {song.slots[0].at: Texture(left="waltz")}
    assert (song.texture(0).left, song.texture(1).left) == ("waltz", "held")
    assert "Left on every count: bass, chord, chord." in rhythm.words.text()
    rhythm.side.patterns.scope.setCurrentIndex(rhythm.side.patterns.scope.count() - 1)
    rhythm.side.patterns.scope.activated.emit(rhythm.side.patterns.scope.count() - 1)
    assert window.document.song.arrangement.groove.chords == {}


def test_two_patterns_in_turn(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    take(rhythm, qtbot, "Bass, chord, chord")
    take(rhythm, qtbot, "Broken in three, turning")
    rhythm.strip.setFocus()
    for wanted in ("waltz", "waltz-broken", "waltz"):
        press(window, qtbot, K.Key_X)
        assert window.document.song.texture(0).right == wanted and window.playback.playing


def test_patterns_are_found_by_typing_and_taken_by_return(
    window: Window, rhythm: RhythmPage, qtbot: QtBot
) -> None:
    rhythm.side.patterns.filter.setFocus()
    qtbot.keyClicks(rhythm.side.patterns.filter, "short chords")
    assert [one.id for one in rhythm.side.patterns.model.lines] == ["waltz-lifted"]
    rhythm.side.patterns.list.setFocus()
    qtbot.keyClick(rhythm.side.patterns.list, K.Key_Down)
    qtbot.keyClick(rhythm.side.patterns.list, K.Key_Return)
    assert window.document.song.texture(0).right == "waltz-lifted"
    rhythm.side.patterns.filter.clear()
    names = [one.name for one in rhythm.side.patterns.model.lines]
    assert len(names) > 40
    places = {one.id: k for k, one in enumerate(rhythm.side.patterns.model.lines)}
    assert places["waltz"] < places["six-broken"]  # made for three first


def test_strokes_are_put_and_taken_and_kept_as_mine(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_Right, 2)  # the second count
    press(window, qtbot, K.Key_Return)
    song = window.document.song
    own = song.arrangement.groove.patterns[0]
    assert own.name == "Held, changed" and own.meters == ("3/4",)
    assert [str(one) for one in own.strokes] == ["1 all for 3", "2 all"]
    assert song.texture(0).right == own.id and "Right on 1, 2: held, changed" in rhythm.words.text()
    press(window, qtbot, K.Key_Right, 2)
    press(window, qtbot, K.Key_3)  # the third rung alone
    press(window, qtbot, K.Key_Plus)
    assert struck_last(window) == "3 top hard"
    press(window, qtbot, K.Key_Period)
    assert struck_last(window) == "3 upper hard"
    press(window, qtbot, K.Key_Comma)
    press(window, qtbot, K.Key_0)
    assert struck_last(window) == "3 all hard"
    press(window, qtbot, K.Key_Return)
    assert len(window.document.song.arrangement.groove.patterns[0].strokes) == 2
    assert rhythm.side.patterns.own.isVisible()
    rhythm.side.patterns.name.selectAll()
    qtbot.keyClicks(rhythm.side.patterns.name, "Quay side")
    qtbot.keyClick(rhythm.side.patterns.name, K.Key_Return)
    assert list(own_patterns()) == ["quay-side"] and window.document.song.texture(0).right == "quay-side"
    assert not rhythm.side.patterns.own.isVisible()
    again = project_file.read(project_file.write(window.document.song)).song
    assert again.arrangement.groove == window.document.song.arrangement.groove


def test_rungs_and_counts_are_clicked(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    strip = rhythm.strip
    hit(rhythm, qtbot, strip.place_of(1, Fraction(1), "left"))
    assert (rhythm.state.index, rhythm.state.place, rhythm.state.lane) == (1, 1, "left")
    assert window.document.chosen == 1 and window.document.song.arrangement.groove.patterns == ()
    hit(rhythm, qtbot, strip.place_of(1, Fraction(1), "left", rung=0))  # the same place again strikes
    assert struck_last(window) == "2 bottom"
    for _ in range(2):
        hit(rhythm, qtbot, strip.place_of(1, Fraction(2), "left", rung=2))
    assert struck_last(window) == "3 top"
    rungs = [(one.at, set(one.rungs)) for one in rhythm.state.strokes(1, "left")]
    assert rungs == [(0, {0, 1, 2}), (1, {0}), (2, {2})]


@pytest.mark.long
def test_the_pedal_is_marked_by_key_and_heard_as_marked(
    window: Window, rhythm: RhythmPage, qtbot: QtBot
) -> None:
    press(window, qtbot, K.Key_Down, 3)
    assert rhythm.state.lane == "pedal"
    press(window, qtbot, K.Key_Return)
    press(window, qtbot, K.Key_Right, 2)
    press(window, qtbot, K.Key_Return)
    song = window.document.song
    assert song.arrangement.groove.pedal_marks == {song.slots[0].at: (1,)}  # at first it goes by itself, on 1
    assert rhythm.state.pedal(0) == ((1,), False)
    press(window, qtbot, K.Key_Return)
    assert window.document.song.arrangement.groove.pedal_marks == {song.slots[0].at: ()}
    undo(window, qtbot, 3)
    assert window.document.song.arrangement.groove.pedal_marks == {}


def test_riffs_are_typed_said_and_never_lost(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_L)
    field = rhythm.side.lines.field
    field.setFocus()
    qtbot.keyClicks(field, "E5:1/2 H9 r:1")
    qtbot.keyClick(field, K.Key_Return)
    assert "'H9' is no note" in rhythm.side.lines.wrong.text() and field.text() == "E5:1/2 H9 r:1"
    assert window.document.song.arrangement.groove.riffs == {}
    before = window.document.song.arrangement.groove
    field.selectAll()
    qtbot.keyClicks(field, "E5:1/2 Db5:1/2 r:1 A#4:1")
    qtbot.keyClick(field, K.Key_Return)
    song = window.document.song
    assert replace(song.arrangement.groove, riffs={}) == before  # no pattern of the section, nothing else
    [(at, notes)] = song.arrangement.groove.riffs.items()
    assert at == song.slots[0].at and [(n.at_beats, n.key) for n in notes] == [
        (0, 76),
        (Fraction(1, 2), 73),
        (2, 70),
    ]
    assert window.playback.playing and not rhythm.side.lines.wrong.isVisible()
    said = [rhythm.side.lines.notes.item(k).text() for k in range(3)]
    assert said[0].startswith("E5, 5; finger") and "a target" not in said[0]
    assert "rubs" in said[2]
    assert rhythm.side.lines.field.text() == "E5:1/2 Db5:1/2 r:1 A#4:1"  # spelled as it was typed
    press(window, qtbot, K.Key_Up)
    press(window, qtbot, K.Key_Return)  # in the riff's lane: the note at the cursor goes
    assert [n.key for n in window.document.song.arrangement.groove.riffs[at]] == [73, 70]
    assert rhythm.side.lines.field.text() == "r:1/2 C#5:1/2 r:1 A#4:1"  # another riff: as the key has it


def test_a_riff_is_played_in(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_L)
    qtbot.keyClick(window, K.Key_K, CTRL)
    keys = window.devices.screen
    window.devices.choose(keys.name)
    pick(qtbot, rhythm.side.lines.length, "1/2")
    for key in (76, 73):
        qtbot.mouseClick(keys, Qt.MouseButton.LeftButton, pos=keys.place_of(key).toPoint())
    assert rhythm.side.lines.field.text() == "E5:1/2 C#5:1/2"
    qtbot.keyClick(rhythm.side.lines.field, K.Key_Return)
    [notes] = window.document.song.arrangement.groove.riffs.values()
    assert [note.key for note in notes] == [76, 73]
    window.devices.choose("No keyboard")


def test_a_line_is_proposed_for_the_section_and_taken_away(
    window: Window, rhythm: RhythmPage, qtbot: QtBot
) -> None:
    press(window, qtbot, K.Key_L)
    pick(qtbot, rhythm.side.lines.kind, "scale")
    pick(qtbot, rhythm.side.lines.density, 2)
    rhythm.strip.setFocus()
    press(window, qtbot, K.Key_P)
    song = window.document.song
    own = [slot for slot in song.slots if (slot.section, slot.round) == ("Verse", 1)]
    riffs = song.arrangement.groove.riffs
    assert set(riffs) == {slot.at for slot in own}
    assert all(60 <= note.key <= 84 for row in riffs.values() for note in row)
    rhythm.side.lines.seed.setValue(2)
    press(window, qtbot, K.Key_P)
    other = window.document.song.arrangement.groove.riffs
    assert other != riffs
    rhythm.side.lines.seed.setValue(1)
    press(window, qtbot, K.Key_P)
    assert window.document.song.arrangement.groove.riffs == riffs  # the same number, the same line
    click(qtbot, button(rhythm, "No line"))
    assert window.document.song.arrangement.groove.riffs == {}


def test_all_small_notes_with_one_key(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_N)
    song = window.document.song
    section = [slot.index for slot in song.slots if (slot.section, slot.round) == ("Verse", 1)]
    count = sum(len(song.ask(k).fills) for k in section)
    assert count >= 5
    press(window, qtbot, K.Key_L)
    assert rhythm.side.lines.small.text().startswith(f"{count} in this section")
    click(qtbot, button(rhythm, "None of them"))
    assert not any(window.document.song.ask(k).fills for k in section)
    rhythm.strip.setFocus()
    undo(window, qtbot, 2)
    assert window.document.song.arrangement.asks == {}


@pytest.mark.long
def test_feel_is_chosen_and_kept(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_F)
    feel = rhythm.side.feel
    chosen = {"pedal": "chord", "touch": -1, "swing": 67, "ending": "rolled", "drums": "brush"}
    for field, value in {**chosen, "bass_line": "swing-two"}.items():
        pick(qtbot, feel.boxes[field], value)
    for field in ("tune", "build", "count_in"):
        feel.ticks[field].setFocus()
        qtbot.keyClick(feel.ticks[field], K.Key_Space)
    feel.spins["slowing"].setValue(3)
    groove = window.document.song.arrangement.groove
    assert groove.sections == {("Verse", 0): Texture(pedal="chord", touch=-1, tune=True)}
    assert (groove.swing, groove.ending, groove.drums, groove.bass_line) == (
        67,
        "rolled",
        "brush",
        "swing-two",
    )
    assert groove.build and groove.count_in and groove.slowing == 3
    octave = feel.boxes["tune_octave"]
    assert isinstance(octave, Choice) and octave.isVisible()
    assert octave.currentText() == "where most chords fit"
    pick(qtbot, octave, -1)
    groove = window.document.song.arrangement.groove
    assert groove.sections["Verse", 0].tune_octave == -1
    feel.ticks["tune"].setFocus()
    qtbot.keyClick(feel.ticks["tune"], K.Key_Space)
    assert not octave.isVisible()
    assert window.transport.band.isVisible() and window.transport.band.isChecked()
    window.transport.band.setFocus()
    qtbot.keyClick(window.transport.band, K.Key_Space)
    assert not window.playback.with_band
    press(window, qtbot, K.Key_F)
    assert rhythm.side.patterns.isVisible()


def test_the_line_moves_while_it_sounds(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    assert rhythm.strip.line is None
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: (rhythm.strip.line or 0) > 0.3, timeout=10_000)
    press(window, qtbot, K.Key_Space)
    qtbot.waitUntil(lambda: rhythm.strip.line is None, timeout=5000)


@pytest.mark.long
def test_what_cannot_be_played_is_said_with_what_would_do(
    window: Window, rhythm: RhythmPage, qtbot: QtBot
) -> None:
    window.transport.tempo.setFocus()
    fast = type_chart(window, qtbot, "key: C\ntempo: 160\n| C | F | G7 | C |\n")
    assert fast.document.song.tempo == 160
    view = show(window, qtbot, RhythmPage)
    take(view, qtbot, "Four light pulses to a count")
    quiet(view, qtbot)
    said = view.list.item(0).text()
    assert "strokes a second at this tempo" in said and "Would do: Pulses" in said
    assert view.heading.text().startswith("To look at (")
    view.strip.setFocus()
    press(window, qtbot, K.Key_G)
    quiet(view, qtbot)
    song = window.document.song
    assert song.texture(0).right != "pulses-sixteenths" and song.texture(1).right == "pulses-sixteenths"
    assert not [one for one in view.remarks.found if one.slot == 0 and one.hand == "right"]


def test_walking_by_chords_and_to_the_ends(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    press(window, qtbot, K.Key_End)
    assert window.document.chosen == len(window.document.song.slots) - 1
    assert rhythm.area.horizontalScrollBar().value() > 0
    press(window, qtbot, K.Key_Home)
    qtbot.keyClick(rhythm.strip, K.Key_Right, SHIFT)
    assert (rhythm.state.index, rhythm.state.place) == (1, 0)
    press(window, qtbot, K.Key_Left)  # the last place of the chord before
    assert (rhythm.state.index, rhythm.state.place) == (0, Fraction(5, 2))
    qtbot.keyClick(rhythm.strip, K.Key_Left, SHIFT)
    press(window, qtbot, K.Key_Left)
    assert rhythm.state.index == 0


def test_an_empty_page_says_what_to_do(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    window.document.start_over(Song(), None)
    number = [row.name for row in window._rows].index("Rhythm") + 1
    qtbot.keyClick(window, K(K.Key_0 + number), CTRL)
    assert window.page is rhythm and window.stage.empty
    for key in (K.Key_Return, K.Key_Right, K.Key_P, K.Key_N, K.Key_1, K.Key_X, K.Key_G, K.Key_H):
        press(window, qtbot, key)
    press(window, qtbot, K.Key_L)
    assert window.stage.empty and window.document.song.slots == ()


def test_a_bad_file_of_own_patterns_is_said_and_stays(window: Window, qtbot: QtBot) -> None:
    path = own_patterns_path()
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(
        'schema = "yellow-hinge/patterns/1"\n[[pattern]]\nid = "x"\nname = "X"\nstrokes = ["0 all"]\n'
    )
    view = show(window, qtbot, RhythmPage)
    assert "does not begin with a count" in window.message.text.text()
    press(window, qtbot, K.Key_Return)
    view.side.patterns.name.setFocus()
    qtbot.keyClick(view.side.patterns.name, K.Key_Return)
    assert "does not begin with a count" in window.message.text.text() and '"0 all"' in path.read_text()


def test_held_is_the_only_yellow(window: Window, rhythm: RhythmPage, qtbot: QtBot) -> None:
    take(rhythm, qtbot, "Broken in three, turning")
    seen = colours(rhythm)
    assert rhythm.theme.left in seen and rhythm.theme.right in seen and rhythm.theme.held not in seen
