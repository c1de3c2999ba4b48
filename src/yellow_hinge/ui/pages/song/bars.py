"""Bars on the laid-out chart: chords typed in place, bars put in, split, taken out, copied. The text says the
same at once."""

from __future__ import annotations

from PySide6.QtGui import QGuiApplication

from yellow_hinge.errors import Problem
from yellow_hinge.formats.chart_text import Cells, bars_in
from yellow_hinge.tasks.song.drafts import check
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.song.chart_panel import Mending
from yellow_hinge.ui.pages.song.form_view import FormView


def any_bar(part: Bars) -> bool:
    """Whether there is a bar to do anything with."""
    return bool(part.document.song.chart.written)


class Bars(Part):
    """Acts on the chosen bars of the ``form``; ``mending`` says whether the text can be read."""

    form: FormView
    mending: Mending

    def type_chord(self, place: int, at: int, word: str) -> None:
        """Another chord in the place of one."""
        cells = self._cells()
        if cells is not None:
            self._put(cells.with_chord(place, at, word), word)

    @command("bar-in", "Put in a bar", "Alt+Insert", menu="Bars", when=any_bar,
             tip="Behind the chosen bar, with its last chord once more, to be typed over")  # fmt: skip
    def put_in(self) -> None:
        cells, form = self._cells(), self.form
        if cells is None:
            return
        chord = cells.cell(form.place).chords.split()[-1].partition(":")[0]
        if self._put(cells.inserted(form.place, f"| {chord} |"), "a bar there"):
            self._go(form.place + 1, 0)
            form.write("")

    @command("bar-split", "Split the bar", "Alt+S", menu="Bars", when=any_bar,
             tip="The chords from the chosen one on become a bar of their own")  # fmt: skip
    def split(self) -> None:
        cells, form = self._cells(), self.form
        if cells is not None and self._put(cells.split(form.place, form.at), "the bar split there"):
            self._go(form.place + 1, 0)

    @command("chord-divide", "Divide the chord", "Alt+D", menu="Bars", when=any_bar,
             tip="The chosen chord twice, each half as long, to be typed over")  # fmt: skip
    def divide(self) -> None:
        cells, form = self._cells(), self.form
        if cells is not None and self._put(cells.divided(form.place, form.at), "the chord divided there"):
            self._go(form.place, form.at + 1)
            form.write("")

    @command("bars-out", "Delete the bars", "Alt+Delete", menu="Bars", when=any_bar,
             tip="The chosen bars, with their tune and words")  # fmt: skip
    def take_out(self) -> None:
        cells, stretch = self._cells(), self.form.stretch
        if cells is not None and self._put(cells.without(stretch), "the song without these bars"):
            self._go(stretch[0], 0)

    @command("bars-copy", "Copy the bars", "Ctrl+Alt+C", menu="Bars", when=any_bar,
             tip="The chosen bars, with their tune and words, as chart text into the clipboard")  # fmt: skip
    def copy(self) -> None:
        cells = self._cells()
        if cells is not None:
            QGuiApplication.clipboard().setText(cells.copied(self.form.stretch))

    @command("bars-cut", "Cut the bars", "Ctrl+Alt+X", menu="Bars", when=any_bar,
             tip="Copied into the clipboard and deleted here")  # fmt: skip
    def cut(self) -> None:
        self.copy()
        self.take_out()

    @command("bars-paste", "Paste bars", "Ctrl+Alt+V", menu="Bars", when=any_bar,
             tip="Bars from the clipboard, behind the chosen ones")  # fmt: skip
    def paste(self) -> None:
        text, cells = QGuiApplication.clipboard().text(), self._cells()
        if cells is None:
            return
        if not bars_in(text):
            self._say("clipboard", "there are no bars in it", "copy bars first, or text like | C | G7 |")
            return
        last = self.form.stretch[-1]
        before = len(cells)
        if self._put(cells.inserted(last, text), "these bars there"):
            self._go(last + len(self._bars()) - before, 0)

    def _cells(self) -> Cells | None:
        """The bars of the text; None, said, where it is still to be mended."""
        if not self.mending.readable("then bars can be changed in the laid-out chart too"):
            return None
        return Cells(self.document.text, self.document.song.chart)

    def _bars(self) -> range:
        return range(sum(len(section.every_bar) for section in self.document.song.chart.sections))

    def _put(self, text: str, what: str) -> bool:
        """Put other text in place where it can be read; what stands in the way is said, and nothing
        changes."""
        problems = check(text).problems
        if problems:
            self._say(
                f"bar {self.form.place + 1} of the text", f"{what}: {problems[0].what}", problems[0].remedy
            )
            return False
        self.document.put_text(text)
        return True

    def _go(self, place: int, at: int) -> None:
        self.form.choose(place, at)
        self.form.setFocus()

    def _say(self, place: str, what: str, remedy: str) -> None:
        self.said.emit((Problem(place, what, remedy),))
