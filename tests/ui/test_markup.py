"""Names that look like mark-up are shown as they were written."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QLabel, QWidget
from pytestqt.qtbot import QtBot

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.edits import rename_take
from yellow_hinge.song.model import Song
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.words import plain

from .conftest import PAGES, settle, show

EVIL = "<img src=x><b>Quay</b>"
CHART = f"title: {EVIL}\ncomposer: {EVIL}\nkey: C\n[{EVIL}]\n| C | Dm7 | G7 | C |\n"


def _tips(view: QAbstractItemView) -> list[str]:
    rows = [view.model().index(row, 0) for row in range(view.model().rowCount())] if view.model() else []
    return [str(row.data(Qt.ItemDataRole.ToolTipRole) or "") for row in rows]


def test_a_song_called_by_mark_up_is_shown_as_written_on_every_page(window: Window, qtbot: QtBot) -> None:
    song = Song(parse_chart(CHART))
    window.document.start_over(rename_take(song, song.takes[0].id, EVIL[:40]).song, None)
    settle(window, qtbot)
    seen = 0
    for kind in PAGES:
        page = show(window, qtbot, kind).name
        qtbot.wait(20)
        for widget in window.findChildren(QWidget):
            assert "<img" not in widget.toolTip(), (page, widget, widget.toolTip())
            if isinstance(widget, QLabel) and "<img" in widget.text():
                seen += 1
                assert widget.textFormat() == Qt.TextFormat.PlainText, (page, widget.text())
            if isinstance(widget, QAbstractItemView):
                assert not any("<img" in tip for tip in _tips(widget)), (page, widget)
    assert seen > 2


def test_words_for_tooltips_and_questions() -> None:
    assert plain("R&B, 2\nat 3") == "R&B, 2\nat 3"
    assert plain("a<b\n&") == "<qt>a&lt;b<br>&amp;</qt>"
