"""The Song page: the chart with live checking, the form as read, hands and school on top."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, Part, Sounding
from yellow_hinge.ui.pages.song.bars import Bars
from yellow_hinge.ui.pages.song.chart_panel import ChartPanel, Mending
from yellow_hinge.ui.pages.song.decisions import Decisions
from yellow_hinge.ui.pages.song.form_state import before_the_form
from yellow_hinge.ui.pages.song.form_view import FormView
from yellow_hinge.ui.pages.song.state import facts
from yellow_hinge.ui.pages.song.tune_strip import TuneStrip
from yellow_hinge.ui.theme import scaled, text_scale
from yellow_hinge.ui.words import OneLine

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys


#: Pixels in which the first of the facts, the key, can be read.
_LEAST_FACTS = 110


class SongPage(Page):
    """The page."""

    name = "Song"
    works_empty = True

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(document, parent)
        self._build()
        for signal in (document.renewed, document.read):
            signal.connect(self._show_check)
        self.refresh()
        self._show_check()

    def make_parts(self) -> Sequence[Part]:
        self.mending, self.bars = Mending(self.document), Bars(self.document)
        self.bars.mending = self.mending
        return self.mending, self.bars

    # --- building ---

    def _build(self) -> None:
        self.decisions = Decisions(self.document)
        self.decisions.readable = self.mending.readable
        self.chart = self.mending.panel = ChartPanel(self.document)
        self.editor = self.chart.editor
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 12, 18, 12)
        layout.setSpacing(10)
        layout.addWidget(self.decisions)
        columns = QHBoxLayout()
        columns.setSpacing(16)
        columns.addWidget(self.chart, 11)
        columns.addLayout(self._build_form(), 13)
        layout.addLayout(columns, 1)

    def _build_form(self) -> QVBoxLayout:
        layout, top = QVBoxLayout(), QHBoxLayout()
        self.form_title, self.form_facts = OneLine("title"), OneLine()
        self.form_facts.setMinimumWidth(_LEAST_FACTS)  # a title of any length leaves room for them
        top.addWidget(self.form_title)
        top.addWidget(self.form_facts, 1)
        layout.addLayout(top)
        self.form_order = kit.label("quiet")
        layout.addWidget(self.form_order)
        self.form = self.bars.form = FormView()
        self.form.typed.connect(self.bars.type_chord)
        self.form.moved.connect(self._chord_chosen)
        acts = (
            "bar-in", "bar-split", "chord-divide", "bars-copy", "bars-cut", "bars-paste", "bars-out",
        )  # fmt: skip
        kit.menu_on(self.form, self.commands, *acts)
        self.form.asked.connect(lambda act: self.commands[act].try_run())
        scroll = self.form_area = kit.named(QScrollArea(), "The form as it was read")
        scroll.setWidget(self.form)
        scroll.setWidgetResizable(True)
        scroll.viewport().setAutoFillBackground(False)
        self.form.setAutoFillBackground(False)
        layout.addWidget(scroll, 1)
        onwards = kit.button(self.commands, "onwards", "first")
        layout.addLayout(kit.row(kit.button(self.commands, "tune-in"), onwards))
        return layout

    @cached_property
    def tune(self) -> TuneStrip:
        """What takes the tune from a keyboard, made when it is first wanted."""
        strip = TuneStrip(self.document)
        strip.starts.connect(self._click_wanted)
        strip.over.connect(self.editor.setFocus)
        layout = self.layout()
        assert layout is not None
        layout.addWidget(strip)
        return strip

    # --- showing ---

    @property
    def focus(self) -> QWidget:
        return self.editor

    def dress(self) -> None:
        super().dress()
        self.chart.mark()

    def refresh(self) -> None:
        """Take over the document as it is now. The text is the document's from the first key on, so
        that there is nothing to do about it unless undo, another key or another song changed it."""
        song = self.document.song
        self.editor.show_text(self.document.text)
        self.decisions.refresh()
        self.form_title.setText(song.title or "Untitled")
        self.form_facts.setText(facts(song.chart))
        order = before_the_form(song.chart)
        self.form_order.setText(order)
        self.form_order.setVisible(bool(order))
        self.form.show_song(song)

    def _show_check(self) -> None:
        self.chart.refresh()
        self.commands.refresh()

    # --- acting ---

    @command("tune-in", "Play the tune in", "Ctrl+T",
             tip="On a keyboard (Ctrl+K chooses it), by step or to the click",
             when=lambda self: bool(self.document.song.slots))  # fmt: skip
    def play_tune_in(self) -> None:
        """Take the tune from a keyboard; not over text that is still to be mended."""
        if self.mending.readable("then a tune can be played in"):
            self.tune.open_strip()

    @command("onwards", "See the hinges", tip="Go to the voicings of this chart")
    def go_on(self) -> None:
        self.wants.emit("Hinges")

    def _click_wanted(self, slot: int) -> None:
        self.hear.emit(Sounding(self.document.song, slot, count_in=True))

    def _chord_chosen(self) -> None:
        """The player is at this chord, on every page; it is seen."""
        box = self.form.box
        if box is not None:
            middle = box.rect.center() * text_scale()
            self.form_area.ensureVisible(int(middle.x()), int(middle.y()), 0, scaled(box.rect.height()))
        written = self.document.song.chart.written
        bars = [written_bar.bar - 1 for written_bar in written]
        if self.form.place in bars:
            index = bars.index(self.form.place) + self.form.at
            slots = self.document.song.slots
            first = (slot.index for slot in slots if slot.at.written == written[index].id)
            self.document.choose(next(first, self.document.chosen))

    def show_held(self, held: HeldKeys) -> None:
        if "tune" in vars(self):  # it has been made
            self.tune.show_held(held)

    def show_began(self) -> None:
        if "tune" in vars(self):
            self.tune.begin()

    def show_playing(self, slot: int) -> None:
        if slot < 0 and "tune" in vars(self):
            self.tune.finish()
