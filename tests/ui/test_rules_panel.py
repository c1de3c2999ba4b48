"""Rules for a stretch in the real window: priced, set, let rest and dropped, by key and click."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from yellow_hinge.ui.pages.hinges.rules_panel import RulesPanel
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.window import Window
from yellow_hinge.voicing.hand_rules import HandRule

from .conftest import button, click, page, pick, press, settle, undo

K = Qt.Key


def opened(window: Window, qtbot: QtBot) -> tuple[HingesPage, RulesPanel]:
    view = page(window, HingesPage)
    press(window, qtbot, K.Key_W)
    panel = view.side.wishes.rules
    rest(panel, qtbot)
    return view, panel


def rest(panel: RulesPanel, qtbot: QtBot) -> None:
    """Wait for the price."""
    qtbot.waitUntil(lambda: not panel.worker.running, timeout=60_000)


def chosen(panel: RulesPanel, qtbot: QtBot, side: str, kind: str, value: object = None) -> None:
    pick(qtbot, panel.side_box, side)
    pick(qtbot, panel.kind_box, kind)
    if value is not None:
        pick(qtbot, panel.value_box, value)
    rest(panel, qtbot)


@pytest.mark.long
def test_a_rule_for_a_section_is_priced_set_let_rest_and_dropped(window: Window, qtbot: QtBot) -> None:
    view, panel = opened(window, qtbot)
    document = window.document
    assert panel.hint.isVisible() and not panel.list.isVisible()
    click(qtbot, view.side.wishes.scopes.button(1))
    chosen(panel, qtbot, "right", "top", "3")
    assert panel.priced is not None and panel.priced.more > 0
    assert "more effort in the song" in panel.price.text()
    sus = [k for k, slot in enumerate(document.song.slots) if slot.chord is not None and slot.chord.sus]
    inside = [k for k in sus if document.song.slots[k].section == document.song.slots[0].section]
    inside.append(5)  # of B minor ninth the ninth would rub under the third
    assert {document.song.slots[k].at for k in panel.priced.cannot} == {
        document.song.slots[k].at for k in inside
    }
    assert "cannot obey" in panel.price.text()
    before = document.song
    click(qtbot, panel.set_button)
    settle(window, qtbot)
    section = document.song.slots[0].section
    assert document.song.arrangement.tastes[section].rules == (HandRule("right", "top", "3"),)
    for slot in document.song.slots:
        if (
            slot.section == section
            and slot.chord is not None
            and slot.chord.third
            and str(slot.chord) != "Bm9"
        ):
            voicing = document.song.voicing(slot.index)
            assert voicing is not None and voicing.right.degrees[-1] in ("3", "b3")
    assert panel.list.count() == 1 and panel.list.item(0).text() == f"{section}: right hand: 3 on top"
    panel.list.setFocus()
    panel.list.setCurrentRow(0)
    qtbot.keyClick(panel.list, K.Key_Space)
    settle(window, qtbot)
    assert [document.song.voicing(k) for k in range(5)] == [before.voicing(k) for k in range(5)]
    assert panel.list.item(0).checkState() == Qt.CheckState.Unchecked
    qtbot.keyClick(panel.list, K.Key_Delete)
    settle(window, qtbot)
    assert panel.list.count() == 0 and section not in document.song.arrangement.tastes
    undo(window, qtbot)
    assert panel.list.count() == 1


def test_a_rule_that_contradicts_another_says_which_one_wins(window: Window, qtbot: QtBot) -> None:
    view, panel = opened(window, qtbot)
    click(qtbot, view.side.wishes.scopes.button(2))
    chosen(panel, qtbot, "left", "octave")
    assert "contradicts" not in panel.price.text()
    click(qtbot, panel.set_button)
    settle(window, qtbot)
    chosen(panel, qtbot, "left", "notes", 3)
    assert "It contradicts “Left hand: in octaves” and wins there: " in panel.price.text()


@pytest.mark.long
def test_rules_of_every_scope_read_as_one_list(window: Window, qtbot: QtBot) -> None:
    view, panel = opened(window, qtbot)
    for scope, side, kind, value in (
        (2, "left", "single", None),
        (0, "right", "notes", 4),
        (2, "both", "alike", None),
    ):
        click(qtbot, view.side.wishes.scopes.button(scope))
        chosen(panel, qtbot, side, kind, value)
        click(qtbot, button(view, "Set this rule"))
        settle(window, qtbot)
    pick(qtbot, view.side.wishes.boxes["hands"], "right")
    settle(window, qtbot)
    words = [panel.list.item(k).text() for k in range(panel.list.count())]
    assert len(words) == 4 and words[0].endswith("the right hand alone")
    assert any("a chord that comes again sounds as before" in one for one in words)
    assert words[-1].startswith("Bar 1") and words[-1].endswith("four notes")
    box = panel.list.visualItemRect(panel.list.item(0))
    click(qtbot, panel.list.viewport(), QPoint(box.left() + 12, box.center().y()))
    settle(window, qtbot)
    assert window.document.song.arrangement.hands == "both"


def test_the_grip_that_is_there_becomes_a_rule(window: Window, qtbot: QtBot) -> None:
    _, panel = opened(window, qtbot)
    voicing = window.document.song.voicing(0)
    assert voicing is not None
    chosen(panel, qtbot, "left", "grip")
    assert panel.rule == HandRule("left", "grip", voicing.left.keys)
    assert panel.priced is not None and panel.priced.cannot == ()
