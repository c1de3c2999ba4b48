"""The chart as text, with what came of reading it."""

from __future__ import annotations

from PySide6.QtGui import QTextCharFormat, QTextCursor
from PySide6.QtWidgets import QTextEdit, QWidget

from yellow_hinge.errors import Problem
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.song.editor import ChartEditor
from yellow_hinge.ui.theme import color

_HELP = (
    "Bars between |, chords share a bar unless :beats is given, % repeats a bar, "
    "[Verse] x2 begins a section, |1. and |2. endings, form: the order. Symbols (Dm7) or numbers "
    "(2m7). melody: C#5:2 B4:1 | r:3 gives the tune, lyrics: its words."
)


class ChartPanel(QWidget):
    """The text, wrong places underlined in it and listed below, or how a chart is written."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self._document = document
        self.editor = ChartEditor()
        self.editor.setMinimumHeight(110)  # some lines, in a small window too
        self.editor.edited.connect(document.type_text)
        self.verdict = kit.label()
        self.problems = kit.listing("What is to mend in the chart", self._go_to_row)
        self.problems.setWordWrap(True)
        self.problems.setMaximumHeight(132)
        self.help = kit.label("quiet", _HELP)
        layout = kit.column(self)
        layout.addWidget(kit.heading("Chart"))
        layout.addWidget(self.editor, 1)
        kit.add_all(layout, (self.verdict, self.problems, self.help))

    def refresh(self) -> None:
        """What came of reading the text."""
        checked = self._document.checked
        self.verdict.setText(checked.verdict)
        self.verdict.setObjectName("wrong" if checked.problems else "quiet")
        self.verdict.style().polish(self.verdict)
        self.problems.clear()
        for problem in checked.problems:
            self.problems.addItem(f"{problem.place}: {problem.what}\n→ {problem.remedy}")
        self.problems.setVisible(bool(checked.problems))
        self.help.setVisible(not checked.problems)
        self.mark()

    def mark(self) -> None:
        """Underline each wrong place in the text."""
        form = QTextCharFormat()
        form.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
        form.setUnderlineColor(color("wrong"))
        form.setForeground(color("wrong"))
        marks = []
        for problem in self._document.checked.problems:
            cursor = self._cursor_over(problem)
            if cursor is not None:
                mark = QTextEdit.ExtraSelection()
                mark.format, mark.cursor = form, cursor
                marks.append(mark)
        self.editor.setExtraSelections(marks)

    def _cursor_over(self, problem: Problem) -> QTextCursor | None:
        """The wrong place as a selection of the text; None where the line is not there."""
        block = self.editor.document().findBlockByNumber(problem.line - 1)
        if not block.isValid():
            return None
        last = block.position() + block.length() - 1
        start = min(block.position() + max(0, problem.column - 1), last)
        cursor = QTextCursor(block)
        cursor.setPosition(start)
        cursor.setPosition(min(start + max(1, problem.length), last), QTextCursor.MoveMode.KeepAnchor)
        return cursor

    def _go_to_row(self, place: int) -> None:
        self.go_to(self._document.checked.problems[place])

    def go_to(self, problem: Problem) -> None:
        """The caret to a wrong place."""
        cursor = self._cursor_over(problem)
        if cursor is not None:
            cursor.setPosition(cursor.selectionStart())
            self.editor.setTextCursor(cursor)
        self.editor.setFocus()


class Mending(Part):
    """Going to what is to mend. ``panel`` shows the text."""

    panel: ChartPanel

    @command("next-problem", "Next place to mend", "F8",
             tip="Go to the next place of the chart that could not be read",
             when=lambda self: bool(self.document.checked.problems))  # fmt: skip
    def next_problem(self) -> None:
        """To the next wrong place behind the caret, from the last one to the first."""
        caret = self.panel.editor.textCursor()
        here = (caret.blockNumber() + 1, caret.positionInBlock() + 1)
        problems = self.document.checked.problems
        behind = [problem for problem in problems if (problem.line, problem.column) > here]
        self.panel.go_to((behind or list(problems))[0])

    def readable(self, then: str) -> bool:
        """Whether the text has no places to mend; what could be done ``then`` is said where it has."""
        self.document.read_draft()
        if self.document.history.draft is None:
            return True
        what, remedy = "there are places to mend in it", f"mend them; {then}"
        self.said.emit((Problem("chart", what, remedy),))
        return False
