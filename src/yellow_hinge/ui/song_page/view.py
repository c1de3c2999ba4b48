"""The Song page: the chart with live checking, the form as read, hands and school on top."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QColor, QTextCharFormat, QTextCursor
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import Problem
from yellow_hinge.formats.chart_text import transpose_text
from yellow_hinge.song.model import Settings
from yellow_hinge.theory.keys import ALL_KEYS
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.song_page.form_view import FormView
from yellow_hinge.ui.song_page.state import (
    CAUTION,
    COLOUR_HELP,
    COLOUR_WORDS,
    REACHES,
    ChartCheck,
    check,
    reach_label,
    school_label,
)
from yellow_hinge.ui.theme import LIGHT, Theme, font

#: Pause after the last key stroke before the chart is read, ms.
_TYPING_PAUSE_MS = 350


class SongView(QWidget):
    """The page. ``go_on`` asks for the Hinges page."""

    go_on = Signal()

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("page")
        self.theme = LIGHT
        self._document = document
        self._filling = False
        self.checked = ChartCheck(None, ())
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_TYPING_PAUSE_MS)
        self._timer.timeout.connect(self.read_text)
        self._build()
        self.editor.setFont(font(1.1))
        document.changed.connect(self.refresh)
        self.refresh()

    # --- building ---

    def _build(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 12, 18, 12)
        layout.setSpacing(10)
        layout.addWidget(self._build_hands())
        columns = QHBoxLayout()
        columns.setSpacing(16)
        columns.addLayout(self._build_text(), 11)
        columns.addLayout(self._build_form(), 13)
        layout.addLayout(columns, 1)

    def _build_hands(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        grid = QGridLayout(panel)
        grid.setContentsMargins(16, 10, 16, 10)
        grid.setHorizontalSpacing(14)
        library = self._document.library
        self.school = self._combo(
            [(school_label(school), school.id) for school in library.schools.values()],
            "School: which shapes each hand may take", self._settings_changed,
        )  # fmt: skip
        for row, school in enumerate(library.schools.values()):
            self.school.setItemData(row, school.about, Qt.ItemDataRole.ToolTipRole)
        self.colour = self._combo(
            [("By school", None), *((word, i) for i, word in enumerate(COLOUR_WORDS))],
            "Colour: how far past the symbols a voicing may go\n"
            + "\n".join(f"{word}: {what}" for word, what in zip(COLOUR_WORDS, COLOUR_HELP, strict=True)),
            self._settings_changed,
        )
        self.bass = self._combo(
            [("By school", None), ("My left hand", "self"), ("The bassist", "bassist")],
            "Who plays the bass", self._settings_changed,
        )  # fmt: skip
        reaches = [(reach_label(reach), reach) for reach in REACHES]
        self.left_reach = self._combo(
            reaches, "Widest easy interval of the left hand, on white keys", self._settings_changed
        )
        self.right_reach = self._combo(
            reaches, "Widest easy interval of the right hand, on white keys", self._settings_changed
        )
        self.key = self._combo(
            [(key.pretty, str(key)) for key in ALL_KEYS],
            "Key: choosing another one moves the whole chart",
            self._key_changed,
        )
        for column, (word, widget) in enumerate(
            (
                ("School", self.school), ("Bass", self.bass), ("Colour", self.colour),
                ("Left hand reaches", self.left_reach), ("Right hand reaches", self.right_reach),
                ("Key", self.key),
            )
        ):  # fmt: skip
            label = QLabel(word)
            label.setObjectName("quiet")
            label.setBuddy(widget)
            widget.setAccessibleName(word)
            grid.addWidget(label, 0, column)
            grid.addWidget(widget, 1, column)
        caution = QLabel(CAUTION)
        caution.setObjectName("quiet")
        caution.setWordWrap(True)
        grid.addWidget(caution, 2, 0, 1, 6)
        return panel

    @staticmethod
    def _combo(items: Sequence[tuple[str, object]], tip: str, changed: Callable[[], None]) -> QComboBox:
        box = QComboBox()
        for words, value in items:
            box.addItem(words, value)
        box.setToolTip(tip)
        box.setMinimumContentsLength(9)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.activated.connect(lambda _: changed())
        return box

    def _build_text(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        heading = QLabel("Chart")
        heading.setObjectName("heading")
        layout.addWidget(heading)
        self.editor = QPlainTextEdit()
        self.editor.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.editor.setTabChangesFocus(True)
        self.editor.setAccessibleName("Chart text")
        self.editor.setPlaceholderText("| C | Am7 | Dm7 | G7 |")
        self.editor.textChanged.connect(self._typed)
        layout.addWidget(self.editor, 1)
        self.verdict = QLabel()
        self.verdict.setWordWrap(True)
        layout.addWidget(self.verdict)
        self.problems = QListWidget()
        self.problems.setWordWrap(True)
        self.problems.setMaximumHeight(132)
        self.problems.setAccessibleName("What is to mend in the chart")
        self.problems.itemActivated.connect(self._go_to_problem)
        self.problems.itemClicked.connect(self._go_to_problem)
        layout.addWidget(self.problems)
        self.help = QLabel(
            "Bars between |, chords share a bar unless :beats is given, % repeats a bar, "
            "[Verse] x2 begins a section. Symbols (Dm7) or numbers (2m7). "
            "melody: C#5:2 B4:1 | r:3 gives the tune."
        )
        self.help.setObjectName("quiet")
        self.help.setWordWrap(True)
        layout.addWidget(self.help)
        return layout

    def _build_form(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        top = QHBoxLayout()
        self.form_title = QLabel()
        self.form_title.setObjectName("title")
        self.form_facts = QLabel()
        self.form_facts.setObjectName("quiet")
        top.addWidget(self.form_title)
        top.addWidget(self.form_facts, 1)
        layout.addLayout(top)
        self.form = FormView()
        scroll = QScrollArea()
        scroll.setWidget(self.form)
        scroll.setWidgetResizable(True)
        scroll.viewport().setAutoFillBackground(False)
        self.form.setAutoFillBackground(False)
        layout.addWidget(scroll, 1)
        onwards = QPushButton("See the hinges (Ctrl+3)")
        onwards.setToolTip("Go to the voicings of this chart")
        onwards.clicked.connect(self.go_on)
        layout.addWidget(onwards)
        return layout

    # --- showing ---

    def set_theme(self, theme: Theme) -> None:
        self.theme = self.form.theme = theme
        self._mark(self.checked.problems)
        self.form.update()

    def refresh(self) -> None:
        """Take over the document as it is now; text that is being mended is left alone."""
        song, settings = self._document.song, self._document.song.settings
        self._filling = True
        text = self.editor.toPlainText()
        being_mended = bool(text) and self.checked.song is None
        if text != song.chart and not being_mended:
            self.editor.setPlainText(song.chart)
            self._show_check(check(song.chart) if song.chart else ChartCheck(song, ()))
        profile = settings.profile
        for box, value in (
            (self.school, settings.school), (self.colour, settings.colour),
            (self.bass, settings.bass), (self.key, str(song.key)),
            (self.left_reach, profile.left.reach), (self.right_reach, profile.right.reach),
        ):  # fmt: skip
            box.setCurrentIndex(box.findData(value))
        self._filling = False
        self.form_title.setText(song.title or "Untitled")
        self.form_facts.setText(f"{song.key.pretty}, {song.meter}, {song.tempo} beats a minute")
        self.form.show_song(song)

    def show_text(self, text: str) -> None:
        """Put another text into the editor and read it at once, whatever stood there before."""
        self._filling = True
        self.editor.setPlainText(text)
        self._filling = False
        self._show_check(check(text))

    def _show_check(self, checked: ChartCheck) -> None:
        self.checked = checked
        self.verdict.setText(checked.verdict)
        self.verdict.setObjectName("wrong" if checked.problems else "quiet")
        self.verdict.style().polish(self.verdict)
        self.problems.clear()
        for problem in checked.problems:
            item = QListWidgetItem(f"{problem.place}: {problem.what}\n→ {problem.remedy}")
            self.problems.addItem(item)
        self.problems.setVisible(bool(checked.problems))
        self.help.setVisible(not checked.problems)
        self._mark(checked.problems)

    def _mark(self, problems: tuple[Problem, ...]) -> None:
        """Underline each wrong place in the text."""
        marks = []
        for problem in problems:
            block = self.editor.document().findBlockByNumber(problem.line - 1)
            if not block.isValid():
                continue
            cursor = QTextCursor(block)
            column = min(problem.column - 1, max(0, block.length() - 1))
            cursor.setPosition(block.position() + max(0, column))
            end = min(
                block.position() + column + max(1, problem.length), block.position() + block.length() - 1
            )
            cursor.setPosition(max(end, cursor.position()), QTextCursor.MoveMode.KeepAnchor)
            mark = QTextEdit.ExtraSelection()
            form = QTextCharFormat()
            form.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            form.setUnderlineColor(QColor(self.theme.wrong))
            form.setForeground(QColor(self.theme.wrong))
            mark.format = form
            mark.cursor = cursor
            marks.append(mark)
        self.editor.setExtraSelections(marks)

    def _go_to_problem(self, item: QListWidgetItem) -> None:
        problem = self.checked.problems[self.problems.row(item)]
        cursor = QTextCursor(self.editor.document().findBlockByNumber(problem.line - 1))
        cursor.movePosition(
            QTextCursor.MoveOperation.Right, QTextCursor.MoveMode.MoveAnchor, max(0, problem.column - 1)
        )
        self.editor.setTextCursor(cursor)
        self.editor.setFocus()

    # --- acting ---

    def _typed(self) -> None:
        if not self._filling:
            self._timer.start()

    def read_text(self) -> None:
        """Check the text now; a good one becomes the song."""
        self._timer.stop()
        self._show_check(check(self.editor.toPlainText()))
        if self.checked.song is not None:
            self._document.replace_chart(self.checked.song)

    def _key_changed(self) -> None:
        if self._filling or self.checked.song is None:
            return
        key = next(key for key in ALL_KEYS if str(key) == self.key.currentData())
        if key != self.checked.song.key:
            self.editor.setPlainText(transpose_text(self.editor.toPlainText(), key))
            self.read_text()

    def _settings_changed(self) -> None:
        if self._filling:
            return
        before = self._document.song.settings
        left, right = self.left_reach.currentData(), self.right_reach.currentData()
        profile = before.profile
        if (left, right) != (profile.left.reach, profile.right.reach):
            profile = profile.with_reach(left, right)
        settings: Settings = replace(
            before, school=self.school.currentData(), colour=self.colour.currentData(),
            bass=self.bass.currentData(), profile=profile,
        )  # fmt: skip
        self._document.change_settings(settings, _what_changed(before, settings))


def _what_changed(before: Settings, after: Settings) -> str:
    """The label of the undo step."""
    for field, words in (("school", "Change school"), ("colour", "Change colour"), ("bass", "Change bass")):
        if getattr(before, field) != getattr(after, field):
            return words
    return "Change reach"
