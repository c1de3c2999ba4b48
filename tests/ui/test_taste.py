"""A taste in the window: asked for, learnt from what is saved, seen, struck out, laid over a take,
forgotten."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from yellow_hinge.song.edits import differing
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.taste.kept import open_taste, taste_of, taste_path
from yellow_hinge.tasks.taste.taste import Taste
from yellow_hinge.ui.pages.hands.view import HandsPage
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.window import Window

from .conftest import button, click, pick, press, settle, show, undo

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def saved(window: Window, qtbot: QtBot, tmp_path: Path) -> Path:
    """Where the song lies: Ctrl+S writes it there."""
    path = tmp_path / "song.yhinge"
    window.document.save(path)
    rest(window, qtbot)
    assert not window.message.isVisible()  # nothing is a choice yet: nothing is asked
    return path


def rest(window: Window, qtbot: QtBot) -> None:
    """Wait for the search, and for what is learnt."""
    settle(window, qtbot)
    qtbot.waitUntil(lambda: not window.document.taste.worker.running, timeout=60_000)
    settle(window, qtbot)


def choose_others(window: Window, qtbot: QtBot, count: int) -> None:
    """Take other voicings than the program's on Hinges, by keys: fuller ones from the list."""
    page = show(window, qtbot, HingesPage)
    done = 0
    for index in [column[0] for column in window.document.song.columns][1:]:
        window.document.choose(index)
        settle(window, qtbot)
        now = window.document.song.voicing(index)
        assert now is not None
        others = [one.voicing for one in window.document.solved.others(index)]
        fuller = [k for k, one in enumerate(others) if len(one.right.keys) > len(now.right.keys)]
        if not fuller or done == count:
            continue
        model = page.side.leaf.list.model()
        page.side.leaf.list.setCurrentIndex(model.index(fuller[0], 0))
        press(window, qtbot, K.Key_T)
        press(window, qtbot, K.Key_L)
        settle(window, qtbot)
        assert window.document.song.locked(index)
        done += 1
    assert done == count


def save(window: Window, qtbot: QtBot) -> None:
    qtbot.keyClick(window.page.focus, K.Key_S, CTRL)
    rest(window, qtbot)


def answer(window: Window, qtbot: QtBot, words: str) -> None:
    found = [one for one in window.message.findChildren(QPushButton) if one.text() == words]
    assert window.message.isVisible() and len(found) == 1
    click(qtbot, found[0])
    rest(window, qtbot)


def taste_face(window: Window, qtbot: QtBot) -> HandsPage:
    page = show(window, qtbot, HandsPage)
    if page.taste.isHidden():
        qtbot.keyClick(page.focus, K.Key_T)
    rest(window, qtbot)
    return page


@pytest.fixture
def learnt(window: Window, qtbot: QtBot, saved: Path) -> Taste:
    """A song of eight choices, and the answer that they may be learnt from."""
    choose_others(window, qtbot, 8)
    save(window, qtbot)
    answer(window, qtbot, "Learn")
    taste = window.document.taste.taste
    assert taste is not None
    return taste


@pytest.mark.long
def test_it_asks_first_and_learns_what_is_saved(window: Window, qtbot: QtBot, saved: Path) -> None:
    choose_others(window, qtbot, 2)
    assert taste_of("") is None
    save(window, qtbot)
    assert "2 chords here are your own choice" in window.message.text.text()
    answer(window, qtbot, "Close")  # that is no answer
    assert taste_of("") is None and window.document.taste.taste is None
    save(window, qtbot)
    assert not window.message.isVisible()  # and not asked again before the next start
    page = taste_face(window, qtbot)
    qtbot.keyClick(page.focus, K.Key_L)
    rest(window, qtbot)
    assert len([one for one in (taste_of("") or Taste()).chosen if one.own]) == 2
    undo(window, qtbot)
    save(window, qtbot)
    assert not window.message.isVisible()  # asked once
    rest(window, qtbot)
    assert (
        len([one for one in (taste_of("") or Taste()).chosen if one.own]) == 1
    )  # what is undone is no choice


@pytest.mark.long
def test_never_is_remembered(window: Window, qtbot: QtBot, saved: Path) -> None:
    choose_others(window, qtbot, 1)
    save(window, qtbot)
    answer(window, qtbot, "Never")
    taste = taste_of("")
    assert taste is not None and not taste.on and not taste.chosen
    save(window, qtbot)
    assert not window.message.isVisible() and not (taste_of("") or Taste()).chosen
    face = taste_face(window, qtbot).taste
    assert face.nothing.isVisible() and not window.page.commands["taste-on"].checked()  # type: ignore[misc]
    click(qtbot, button(face, "Learn from songs that are saved, and begin new takes with it"), QPoint(8, 8))
    rest(window, qtbot)
    assert (taste_of("") or Taste(on=False)).on


@pytest.mark.long
def test_what_was_learnt_is_seen_heard_and_struck_out(window: Window, qtbot: QtBot, learnt: Taste) -> None:
    page = taste_face(window, qtbot)
    face, own = page.taste, [one for one in reversed(learnt.chosen) if one.own]
    assert face.isVisible() and not page.reach.isVisible() and not face.nothing.isVisible()
    assert face.list.count() == len(own) and "rather than" in face.list.item(0).text()
    assert f"from {len(own)} choices" in face.sure.text() and page.title.text().startswith("Your taste")
    strikes: list[object] = []
    page.strikes.connect(strikes.append)
    row = face.list.visualItemRect(face.list.item(1))
    click(qtbot, face.list.viewport(), QPoint(row.center().x(), row.center().y()))
    assert strikes == [own[1].keys]
    click(qtbot, face.list.viewport(), QPoint(row.left() + 12, row.center().y()))  # its tick
    rest(window, qtbot)
    taste = taste_of("") or Taste()
    assert [one.id for one in taste.chosen if one.struck and one.own] == [own[1].id]
    assert face.list.item(1).checkState() == Qt.CheckState.Unchecked and taste.sure.of < learnt.sure.of
    pick(qtbot, face.school, "band")
    rest(window, qtbot)
    assert (taste_of("") or Taste()).school == "band" and (taste_of("") or Taste()).shares == {}


@pytest.mark.long
def test_what_is_done_quickly_is_all_done(window: Window, qtbot: QtBot, learnt: Taste) -> None:
    """Two ticks, the switch and another player, before anything was learnt anew."""
    page = taste_face(window, qtbot)
    own = [one for one in reversed(learnt.chosen) if one.own]
    for place in (0, 2):
        row = page.taste.list.visualItemRect(page.taste.list.item(place))
        click(qtbot, page.taste.list.viewport(), QPoint(row.left() + 12, row.center().y()))
    page.commands["taste-on"].try_run()
    window.document.taste.belong_to("Ida")
    rest(window, qtbot)
    taste = taste_of("") or Taste()
    assert {one.id for one in taste.chosen if one.struck and one.own} == {own[0].id, own[2].id}
    assert not taste.on and taste_of("Ida") is None and window.document.taste.taste is None


@pytest.mark.long
def test_it_is_laid_over_a_take_only_when_asked(window: Window, qtbot: QtBot, learnt: Taste) -> None:
    document = window.document
    before = document.song
    assert learnt.shares and before.arrangement.prices is None
    page = taste_face(window, qtbot)
    qtbot.waitUntil(lambda: page.tasting.compared is not None, timeout=30_000)
    assert "it decides" in page.taste.in_song.text()
    heard: list[Song] = []
    page.hear.connect(lambda sounding: heard.append(sounding.song))
    for _ in range(2):
        qtbot.keyClick(page.focus, K.Key_B)
    assert page.tasting.compared is not None
    assert heard == [page.tasting.compared.theirs, page.tasting.compared.ours]
    window.playback.stop()
    qtbot.keyClick(page.focus, K.Key_N)
    rest(window, qtbot)
    assert len(document.song.takes) == 2 and document.song.takes[0] == before.takes[0]
    mine = document.song.arrangement
    assert mine.prices == learnt.prices("")
    changed = differing(document.song, before)
    assert changed and not any(before.locked(index) for index in changed)
    assert {k for k, one in enumerate(document.solved.ours) if one is not None}
    hinges = show(window, qtbot, HingesPage)
    document.choose(next(k for k, one in enumerate(document.solved.ours) if one is not None))
    settle(window, qtbot)
    assert "the program's own prices would have" in hinges.side.leaf.taste_label.text()
    document.choose(next(k for k, one in enumerate(document.solved.ours) if one is None))
    settle(window, qtbot)
    assert not hinges.side.leaf.taste_label.isVisible()
    page = taste_face(window, qtbot)
    assert button(page.taste, "Take it off this take (U)").isVisible()
    qtbot.keyClick(page.focus, K.Key_U)
    rest(window, qtbot)
    assert document.song.arrangement.prices is None and not document.solved.ours
    qtbot.keyClick(page.focus, K.Key_U)
    rest(window, qtbot)
    assert document.song.arrangement.prices == learnt.prices("")


@pytest.mark.long
def test_new_songs_begin_with_it_while_it_is_on(window: Window, qtbot: QtBot, learnt: Taste) -> None:
    page = show(window, qtbot, HandsPage)
    qtbot.keyClick(page.focus, K.Key_N, CTRL)
    rest(window, qtbot)
    assert window.document.song.arrangement.prices == learnt.prices("")
    taste_face(window, qtbot)
    window.page.commands["taste-on"].try_run()
    rest(window, qtbot)
    window.document.history.mark_clean(window.document.song, window.document.history.draft)
    qtbot.keyClick(page.focus, K.Key_N, CTRL)
    rest(window, qtbot)
    assert window.document.song.arrangement.prices is None


def test_each_player_has_their_own(window: Window, qtbot: QtBot, learnt: Taste) -> None:
    page = show(window, qtbot, HandsPage)
    page.profile_box.setFocus()
    qtbot.keyClicks(page.profile_box, "Ida")
    click(qtbot, button(page, "Keep"))
    rest(window, qtbot)
    assert window.document.taste.taste is None
    assert taste_face(window, qtbot).title.text().startswith("The taste of Ida")
    assert page.taste.nothing.isVisible()
    assert taste_of("") == learnt or taste_path("").exists()


@pytest.mark.long
def test_it_goes_into_a_file_and_comes_from_one_and_is_forgotten(
    window: Window, qtbot: QtBot, learnt: Taste, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    face = taste_face(window, qtbot).taste
    out = tmp_path / "mine"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), "Taste (*.toml)"))
    click(qtbot, button(face, "Write..."))
    assert open_taste(out.with_suffix(".toml")).shares == learnt.shares
    forget = button(face, "Forget it")
    click(qtbot, forget)
    assert taste_path("").exists()  # cancelled
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Yes)
    click(qtbot, forget)
    rest(window, qtbot)
    assert not taste_path("").exists() and face.nothing.isVisible() and not forget.isVisible()
    (tmp_path / "bad.toml").write_text("schema = 3\n")
    for name, there in (("bad.toml", False), ("mine.toml", True)):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, name=name: (str(tmp_path / name), ""))
        click(qtbot, button(face, "Bring..."))
        rest(window, qtbot)
        assert taste_path("").exists() == there
        assert ("bad.toml" in window.message.text.text()) != there or there
    assert window.document.taste.prices == learnt.prices("")


@pytest.mark.long
def test_a_taste_that_cannot_be_read_is_said_and_left(window: Window, qtbot: QtBot, saved: Path) -> None:
    taste_path("").parent.mkdir(parents=True, exist_ok=True)
    taste_path("").write_text("schema = [")
    choose_others(window, qtbot, 1)
    save(window, qtbot)
    answer(window, qtbot, "Learn")
    assert window.message.isVisible() and "%.toml" in window.message.text.text()
    assert taste_path("").read_text() == "schema = ["


def test_without_choices_it_says_so(window: Window, qtbot: QtBot) -> None:
    page = taste_face(window, qtbot)
    click(qtbot, button(page.taste, "Learn from this song (L)"))
    assert "no chord of this take is a choice of your own" in window.message.text.text()
    qtbot.keyClick(page.focus, K.Key_R)
    assert page.reach.isVisible() and not page.taste.isVisible()
