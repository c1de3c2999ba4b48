"""Pasted text before it becomes a song: what it was taken for, and what each line is."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.formats.text_in import Asked
from yellow_hinge.tasks.files.pasted import Recognised, recognise
from yellow_hinge.tasks.grips.page import Page
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui import kit
from yellow_hinge.ui.words import Label, Words

_MOST_PROBLEMS = 4


class PasteDialog(QDialog):
    """The text can still be changed; what it is taken for follows."""

    def __init__(self, text: str, has_chords: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Paste as a song")
        self.resize(760, 560)
        layout = QVBoxLayout(self)
        layout.addWidget(
            Label("Chords over words, rows of chords, grips (Dm7: D3 C4 ; F4), ChordPro, ABC, chart text:")
        )
        self.text = kit.named(QPlainTextEdit(text), "Text that becomes a song")
        self.text.textChanged.connect(self._look)
        layout.addWidget(self.text, 3)
        self.words = Words()
        layout.addWidget(self.words)
        self.song = kit.named(QComboBox(), "Which of the songs")
        self.song.currentIndexChanged.connect(self._look)
        self.b_flat = QCheckBox("German names: B is B flat")
        self.b_flat.setChecked(True)
        self.b_flat.toggled.connect(self._look)
        for asked in (self.song, self.b_flat):
            asked.hide()
            layout.addWidget(asked)
        self.lines = kit.listing("What each line was taken for")
        layout.addWidget(self.lines, 2)
        self.buttons = QDialogButtonBox()
        self.make = self.buttons.addButton("Make it a song", QDialogButtonBox.ButtonRole.AcceptRole)
        self.lay = self.buttons.addButton("Onto this song's chords", QDialogButtonBox.ButtonRole.AcceptRole)
        self.lay.setToolTip("The grips are locked in the chords that they match, by order and symbol")
        self.lay.clicked.connect(self._chosen_over)
        self._has_chords = has_chords
        self._titles: tuple[str, ...] = ()  # of the songs that are offered
        self.over: Page | None = None  #: a page of grips that is to be laid over the song
        self.buttons.addButton(QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        layout.addWidget(self.buttons)
        self.found: Recognised = recognise(text)
        self._look()
        if self.make.isEnabled():  # what is understood at once needs one key more
            self.make.setFocus()

    def _chosen_over(self) -> None:
        self.over = self.found.page

    def _look(self) -> None:
        self.found = recognised = self._recognised()
        self.make.setEnabled(recognised.chart is not None)
        self.lay.setVisible(self._has_chords and recognised.page is not None)
        shown = recognised.problems[:_MOST_PROBLEMS]
        said = "".join(f"\n{problem.place}: {problem.what}. → {problem.remedy}." for problem in shown)
        chart = recognised.chart
        if chart is None:
            self.words.setText(f"Taken for {recognised.words}, and not understood yet.{said}")
        else:
            bars, chords = len(chart.played), sum(written.chord is not None for written in chart.written)
            self.words.setText(
                f"Taken for {recognised.words}: "
                f"{counted(chords, 'chord')}, {counted(bars, 'bar')} as played, "
                f"in {chart.key.pretty}{self._grips()}.{said}"
            )
        rows = (f"{kind:8} {text}" if kind else text for kind, text in recognised.lines if text.strip())
        kit.fill(self.lines, rows)

    def _recognised(self) -> Recognised:
        """What the text is, with what it leaves open as it stands below it."""
        text = self.text.toPlainText()
        recognised = recognise(text)
        if recognised.titles != self._titles:
            self._titles = recognised.titles
            with QSignalBlocker(self.song):
                self.song.clear()
                self.song.addItems(recognised.titles)
        self.song.setVisible(len(self._titles) > 1)
        number = max(0, self.song.currentIndex()) if len(self._titles) > 1 else None
        if number is not None:
            recognised = recognise(text, Asked(number))
        self.b_flat.setVisible(recognised.names_b_flat)
        if recognised.names_b_flat:
            recognised = recognise(text, Asked(number, self.b_flat.isChecked()))
        return recognised

    def _grips(self) -> str:
        count = sum(grip is not None for grip in self.found.page.grips) if self.found.page else 0
        return f", {counted(count, 'grip')} to lock" if count else ""
