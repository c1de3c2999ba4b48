"""The Song page: the chart with live checking, the form as read, hands and school on top."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QTextCharFormat, QTextCursor
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from yellow_hinge.errors import Problem
from yellow_hinge.song.edits import change_hands, settle
from yellow_hinge.tasks.keys.moved import to_key
from yellow_hinge.theory.keys import ALL_KEYS
from yellow_hinge.ui.access import Choice
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.page import Page, Sounding
from yellow_hinge.ui.song_page.editor import ChartEditor
from yellow_hinge.ui.song_page.form_state import before_the_form
from yellow_hinge.ui.song_page.form_view import FormView
from yellow_hinge.ui.song_page.state import (
    CAUTION,
    COLOUR_HELP,
    COLOUR_WORDS,
    REACHES,
    REGISTERS,
    facts,
    reach_label,
    school_label,
)
from yellow_hinge.ui.song_page.tune_strip import TuneStrip
from yellow_hinge.ui.theme import Theme
from yellow_hinge.ui.words import OneLine

if TYPE_CHECKING:
    from yellow_hinge.sound.keyboards import HeldKeys


class SongPage(Page):
    """The page."""

    name = "Song"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(document, parent)
        self._build()
        document.renewed.connect(self.show_check)
        document.read.connect(self.show_check)
        self.refresh()
        self.show_check()

    def make_commands(self) -> Sequence[Command]:
        return [
            Command("next-problem", "Next place to mend", self.next_problem, ("F8",),
                    tip="Go to the next place of the chart that could not be read",
                    enabled=lambda: bool(self.document.checked.problems)),
            Command("tune-in", "Play the tune in", self.play_tune_in, ("Ctrl+T",),
                    tip="On a keyboard (Ctrl+K chooses it), by step or to the click",
                    enabled=lambda: bool(self.document.song.slots)),
            Command("onwards", "See the hinges", lambda: self.wants.emit("Hinges"),
                    tip="Go to the voicings of this chart"),
        ]  # fmt: skip

    @property
    def focus(self) -> QWidget:
        return self.editor

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
        self._build_wishes()
        self._build_reach_and_key()
        for column, (word, widget) in enumerate(
            (
                ("School", self.school), ("Bass", self.bass), ("Colour", self.colour),
                ("Left hand reaches", self.left_reach), ("Right hand reaches", self.right_reach),
                ("Key", self.key), ("In another key, own grips", self.register),
            )
        ):  # fmt: skip
            label = QLabel(word)
            label.setObjectName("quiet")
            label.setBuddy(widget)
            widget.setAccessibleName(word)
            grid.addWidget(label, 0, column)
            grid.addWidget(widget, 1, column)
            grid.setColumnStretch(column, 3 if widget is self.school else 2)
        caution = QLabel(CAUTION)
        caution.setObjectName("quiet")
        caution.setWordWrap(True)
        grid.addWidget(caution, 2, 0, 1, 7)
        return panel

    def _build_wishes(self) -> None:
        library = self.document.library
        self.school = self._combo(
            [(school_label(school), school.id) for school in library.schools.values()],
            "School: which shapes each hand may take", lambda: self._settle("school", self.school),
        )  # fmt: skip
        for row, school in enumerate(library.schools.values()):
            self.school.setItemData(row, school.about, Qt.ItemDataRole.ToolTipRole)
        self.colour = self._combo(
            [("By school", None), *((word, i) for i, word in enumerate(COLOUR_WORDS))],
            "Colour: how far past the symbols a voicing may go\n"
            + "\n".join(f"{word}: {what}" for word, what in zip(COLOUR_WORDS, COLOUR_HELP, strict=True)),
            lambda: self._settle("colour", self.colour),
        )
        self.bass = self._combo(
            [("By school", None), ("My left hand", "self"), ("The bassist", "bassist")],
            "Who plays the bass", lambda: self._settle("bass", self.bass),
        )  # fmt: skip

    def _build_reach_and_key(self) -> None:
        reaches = [(reach_label(reach), reach) for reach in REACHES]
        self.left_reach, self.right_reach = (
            self._combo(
                reaches, f"Widest easy interval of the {side} hand, on white keys", self._reach_chosen
            )
            for side in ("left", "right")
        )
        self.key = self._combo(
            [(key.pretty, str(key)) for key in ALL_KEYS],
            "Key: choosing another one moves the whole chart, and what you decided on it",
            self._key_chosen,
        )
        self.register = self._combo(
            list(REGISTERS),
            "What your own grips and kept notes do when the key changes: the nearer way up or down, or "
            "always upwards with the key",
            lambda: None,
        )

    @staticmethod
    def _combo(items: Sequence[tuple[str, object]], tip: str, changed: Callable[[], None]) -> QComboBox:
        box = Choice()
        for words, value in items:
            box.addItem(words, value)
        box.setToolTip(tip)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        box.activated.connect(lambda _: changed())
        return box

    def _build_text(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        heading = QLabel("Chart")
        heading.setObjectName("heading")
        layout.addWidget(heading)
        self.editor = ChartEditor()
        self.editor.setMinimumHeight(110)  # some lines, in a small window too
        self.editor.edited.connect(self.document.type_text)
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
            "[Verse] x2 begins a section, |1. and |2. endings, form: the order. Symbols (Dm7) or numbers "
            "(2m7). melody: C#5:2 B4:1 | r:3 gives the tune, lyrics: its words."
        )
        self.help.setObjectName("quiet")
        self.help.setWordWrap(True)
        layout.addWidget(self.help)
        return layout

    def _build_form(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        top = QHBoxLayout()
        self.form_title = OneLine("title")
        self.form_facts = OneLine()
        top.addWidget(self.form_title)
        top.addWidget(self.form_facts, 1)
        layout.addLayout(top)
        self.form_order = QLabel()
        self.form_order.setObjectName("quiet")
        self.form_order.setWordWrap(True)
        layout.addWidget(self.form_order)
        self.form = FormView()
        scroll = QScrollArea()
        scroll.setAccessibleName("The form as it was read")
        scroll.setWidget(self.form)
        scroll.setWidgetResizable(True)
        scroll.viewport().setAutoFillBackground(False)
        self.form.setAutoFillBackground(False)
        layout.addWidget(scroll, 1)
        below = QHBoxLayout()
        for command in ("tune-in", "onwards"):
            below.addWidget(self.commands.bind(QPushButton(), command))
        layout.addLayout(below)
        return layout

    # --- showing ---

    def set_theme(self, theme: Theme) -> None:
        super().set_theme(theme)
        self.form.theme = theme
        self._mark(self.document.checked.problems)
        self.form.update()

    def refresh(self) -> None:
        """Take over the document as it is now. The text is the document's from the first key on, so
        that there is nothing to do about it unless undo, another key or another song changed it."""
        song = self.document.song
        self.editor.show_text(self.document.text)
        wishes, hands = song.arrangement, song.hands
        for box, value in (
            (self.school, wishes.school), (self.colour, wishes.colour), (self.bass, wishes.bass),
            (self.key, str(song.key)), (self.left_reach, hands.left.reach),
            (self.right_reach, hands.right.reach),
        ):  # fmt: skip
            box.setCurrentIndex(box.findData(value))
        self.form_title.setText(song.title or "Untitled")
        self.form_facts.setText(facts(song.chart))
        order = before_the_form(song.chart)
        self.form_order.setText(order)
        self.form_order.setVisible(bool(order))
        self.form.show_song(song)

    def show_check(self) -> None:
        """What came of reading the text."""
        checked = self.document.checked
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
        self.commands.refresh()

    def _mark(self, problems: tuple[Problem, ...]) -> None:
        """Underline each wrong place in the text."""
        form = QTextCharFormat()
        form.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
        form.setUnderlineColor(QColor(self.theme.wrong))
        form.setForeground(QColor(self.theme.wrong))
        marks = []
        for problem in problems:
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

    def _go_to_problem(self, item: QListWidgetItem) -> None:
        self._go_to(self.document.checked.problems[self.problems.row(item)])

    def _go_to(self, problem: Problem) -> None:
        cursor = self._cursor_over(problem)
        if cursor is not None:
            cursor.setPosition(cursor.selectionStart())
            self.editor.setTextCursor(cursor)
        self.editor.setFocus()

    def next_problem(self) -> None:
        """To the next wrong place behind the caret, from the last one to the first."""
        caret = self.editor.textCursor()
        here = (caret.blockNumber() + 1, caret.positionInBlock() + 1)
        problems = self.document.checked.problems
        behind = [one for one in problems if (one.line, one.column) > here]
        self._go_to((behind or list(problems))[0])

    # --- the tune ---

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

    def play_tune_in(self) -> None:
        """Take the tune from a keyboard; not over text that is still to be mended."""
        if self._readable("then a tune can be played in"):
            self.tune.open_strip()

    def _readable(self, then: str) -> bool:
        """Whether the text has no places to mend; what could be done ``then`` is said where it has."""
        self.document.read_draft()
        if self.document.history.draft is None:
            return True
        what, remedy = "there are places to mend in it", f"mend them; {then}"
        self.said.emit((Problem("chart", what, remedy),))
        return False

    def _click_wanted(self, slot: int) -> None:
        self.hear.emit(Sounding(self.document.song, self.document.row, slot, count_in=True))

    def show_held(self, held: HeldKeys) -> None:
        if "tune" in vars(self):  # it has been made
            self.tune.show_held(held)

    def show_playing(self, slot: int) -> None:
        if slot < 0 and "tune" in vars(self):
            self.tune.finish()

    # --- acting ---

    def _settle(self, field: str, box: QComboBox) -> None:
        value = box.currentData()  # before reading shows the boxes anew
        self.document.read_draft()
        self.document.apply(settle(self.document.song, **{field: value}))

    def _key_chosen(self) -> None:
        key = next(key for key in ALL_KEYS if str(key) == self.key.currentData())
        if not self._readable("then it can move to another key"):
            self.key.setCurrentIndex(self.key.findData(str(self.document.song.key)))
            return
        song = self.document.song
        if key != song.key:
            self.document.apply(to_key(song, key, self.register.currentData()))

    def _reach_chosen(self) -> None:
        reaches = self.left_reach.currentData(), self.right_reach.currentData()
        self.document.read_draft()
        song = self.document.song
        hands = song.hands.with_reach(*reaches)
        self.document.apply(change_hands(song, hands, "Change reach"))
