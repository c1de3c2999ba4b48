"""The taste on the Hands page: what was learnt and how sure it is, the choices it comes from, and what it
would change in the open song."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.pages.hands.tasting import Tasting
from yellow_hinge.ui.quiet import QuietSide
from yellow_hinge.ui.taste import taste_words

if TYPE_CHECKING:
    from yellow_hinge.tasks.taste.taste import Chosen

_NOTHING = (
    "Nothing is learnt yet. Lock a voicing that you like better on Hinges, or bring grips of your own: when "
    "the song is saved the program asks whether to learn from them. What is undone, unlocked or played in "
    "practice teaches nothing."
)


class TasteFace(QWidget):
    """Shows what the part knows."""

    def __init__(self, tasting: Tasting, commands: CommandList, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.tasting = tasting
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Taste")
        layout = kit.column(self, spacing=9)
        layout.addLayout(self._build_switches(commands))
        self.nothing = kit.label("", _NOTHING)
        layout.addWidget(self.nothing)
        columns = QHBoxLayout()
        columns.setSpacing(18)
        columns.addWidget(self._build_learnt(), 1)
        columns.addLayout(self._build_choices(), 1)
        layout.addLayout(columns, 1)
        layout.addLayout(self._build_song(commands))

    def _build_switches(self, commands: CommandList) -> QHBoxLayout:
        row = kit.row(commands.bind(QCheckBox(), "taste-on"))
        self.school = kit.choice(
            "The school it is for", "Prices learnt for all schools, or for one alone", self._school_chosen
        )
        self.school.offer([("For every school", ""), *self._schools()])
        row.addStretch(1)
        row.addWidget(self.school)
        for act in ("taste-import", "taste-export", "taste-forget"):
            row.addWidget(kit.button(commands, act, shy=True))
        return row

    def _build_learnt(self) -> QWidget:
        side = QuietSide()
        self.sure = kit.label("quiet")
        self.lists = {
            name: (kit.heading(words, tip), kit.label())
            for name, words, tip in (
                (
                    "likes",
                    "You take more easily, by effort in half steps",
                    "What costs you less than it costs the program",
                ),
                ("avoids", "You would rather avoid", "What costs you more than it costs the program"),
            )
        }
        side.rows.addWidget(self.sure)
        for widgets in self.lists.values():
            kit.add_all(side.rows, widgets)
        side.rows.addStretch(1)
        return side

    def _build_choices(self) -> QVBoxLayout:
        column = kit.column(spacing=5)
        self.choices_heading = kit.heading("From these choices", "Those without a tick are left out")
        self.list = kit.listing("Choices that were learnt from", self.tasting.hear_choice)
        self.list.itemChanged.connect(
            lambda item: self.tasting.strike(self.list.row(item), item.checkState() == Qt.CheckState.Checked)
        )
        self.list.setWordWrap(True)
        self.list.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # clicked, the letters stay the page's
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        kit.add_all(column, (self.choices_heading, self.list))
        return column

    def _build_song(self, commands: CommandList) -> QHBoxLayout:
        self.in_song = kit.label()
        row = kit.row(self.in_song)
        row.setStretch(0, 1)
        for act in ("taste-learn", "taste-both", "taste-use", "taste-take"):
            row.addWidget(kit.button(commands, act, "first" if act == "taste-learn" else "", shy=True))
        return row

    def _school_chosen(self) -> None:
        self.tasting.own.set_school(self.school.currentData())

    @property
    def title(self) -> str:
        """Whose it is."""
        return f"{_capital(self.tasting.own.owner)}, learnt from your own choices"

    def refresh(self) -> None:
        """Everything from the part; while it learns, what was just chosen stays chosen."""
        tasting = self.tasting
        self.in_song.setText(self._song_words())
        if tasting.own.worker.running:
            return
        choices = tasting.choices
        self.nothing.setVisible(not choices and tasting.prices is None)
        self._show_school()
        self._show_learnt()
        self.choices_heading.setVisible(bool(choices))
        self.list.setVisible(bool(choices))
        kit.fill(self.list, [_choice_words(choice) for choice in choices], self.list.currentRow())
        kit.tick_rows(self.list, [not choice.struck for choice in choices])

    def _show_learnt(self) -> None:
        taste, document = self.tasting.own.taste, self.tasting.document
        found: dict[str, list[str]] = {}
        self.sure.setText("")
        if taste is not None:  # the search is there, and NumPy with it
            from yellow_hinge.tasks.taste.said import learnt_lines, sure_words  # noqa: PLC0415

            school = taste.school or document.song.arrangement.school
            found = learnt_lines(taste, document.library.school(school))
            self.sure.setText(sure_words(taste))
        for name, (heading, label) in self.lists.items():
            lines = found.get(name, [])
            heading.setVisible(bool(lines))
            label.setVisible(bool(lines))
            label.setText("\n".join(lines))

    def _show_school(self) -> None:
        taste = self.tasting.own.taste
        self.school.setVisible(taste is not None)
        if taste is not None:
            self.school.setCurrentIndex(max(0, self.school.findData(taste.school)))

    def _schools(self) -> list[tuple[str, object]]:
        schools = self.tasting.document.library.schools.values()
        return [(f"{school.name} alone", school.id) for school in schools]

    def _song_words(self) -> str:
        tasting = self.tasting
        song, compared = tasting.document.song, tasting.compared
        if not song.slots:
            return ""
        own = song.arrangement.prices
        whose = "" if own is None else f"This take was made with {taste_words(own.whose)}. "
        if tasting.own.worker.running:
            return "Learning..."
        if tasting.prices is None:
            return whose
        if compared is None:
            return f"{whose}Working out what it would change here..."
        count = len(compared.changed)
        if not count:
            return f"{whose}In this song it changes nothing."
        return f"{whose}In this song it decides {count} of {len(song.slots)} chords."


def _choice_words(choice: Chosen) -> str:
    from yellow_hinge.tasks.taste.said import choice_words  # noqa: PLC0415 - brings NumPy

    return choice_words(choice)


def _capital(words: str) -> str:
    return f"{words[:1].upper()}{words[1:]}"
