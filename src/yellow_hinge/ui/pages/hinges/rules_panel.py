"""Wishes and rules as one list of sentences, and a new rule with its price before it is set."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from yellow_hinge.motion.figures import amount_words
from yellow_hinge.song.model import Song
from yellow_hinge.song.rule_edits import Stretch, set_rule
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.song.sentences import Sentence, sentences
from yellow_hinge.ui import kit
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.pages.hinges.rules_state import SIDES, VALUED, kinds, usual, values
from yellow_hinge.ui.pages.hinges.state import HingesState
from yellow_hinge.ui.words import Words
from yellow_hinge.ui.worker import Worker
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent

    from yellow_hinge.tasks.song.rule_desk import Priced, RuleDesk

#: Less than this in half steps is not worth a word.
_WORTH_ST = 0.05
_ROW_HEIGHT, _MOST_ROWS, _MOST_NAMED = 26, 6, 4


def _rules(library: Library) -> RuleDesk:
    from yellow_hinge.tasks.song.rule_desk import RuleDesk  # noqa: PLC0415 - brings NumPy

    return RuleDesk(library)


class RulesPanel(QWidget):
    """The list and the form. A tick that is taken away lets a sentence rest; Delete drops it. The desk that
    prices rules is made when it is first needed."""

    def __init__(self, document: Document, state: HingesState, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._document, self._state = document, state
        self._desk = Desk(document, _rules)
        self.scope = "chord"
        self.priced: Priced | None = None
        self._said: tuple[Sentence, ...] = ()
        self.worker = Worker(self, "rules")
        self.worker.done.connect(self._take)
        self.worker.failed.connect(lambda error: self.price.setText(f"{error.problems[0].what}."))
        self._build()

    def _build(self) -> None:
        layout = kit.column(self, spacing=4)
        layout.addWidget(kit.heading("Wishes and rules of this take"))
        self.list = SentenceList(self)
        self.list.itemChanged.connect(self._switched)
        layout.addWidget(self.list)
        self.hint = Words("None yet. Set a rule here, or choose a wish below.")
        layout.addWidget(self.hint)
        layout.addWidget(kit.heading("A new rule"))
        sides = ((words, side) for side, words in SIDES)
        self.side_box, self.kind_box, self.value_box = boxes = (
            kit.choice(*("Hand that the rule is for",) * 2, self._fill_kinds, sides),
            kit.choice(*("What the rule says",) * 2, self._fill_values),
            kit.choice(*("Value of the rule",) * 2, self.ask_price),
        )
        for box in boxes:
            layout.addWidget(kit.narrow(box, letters=12))
        self.price = Words()
        layout.addWidget(self.price)
        self.set_button = QPushButton("Set this rule")
        self.set_button.setObjectName("first")
        self.set_button.clicked.connect(self.set_rule)
        layout.addWidget(self.set_button)
        self._fill_kinds(ask=False)

    # --- the form ---

    @property
    def stretch(self) -> Stretch:
        """What a new rule is for."""
        return Stretch(self.scope, self._state.selection.index)  # type: ignore[arg-type] # one of three words

    @property
    def rule(self) -> HandRule | None:
        """The rule as it is chosen; None while its value is missing."""
        kind, value = self.kind_box.currentData(), self.value_box.currentData()
        if kind is None or (kind in VALUED and value is None):
            return None
        return HandRule(self.side_box.currentData(), kind, value if kind in VALUED else None)

    def _fill_kinds(self, ask: bool = True) -> None:
        every = kinds(self.side_box.currentData())
        self.kind_box.offer(((words, kind) for kind, words in every), self.kind_box.currentData())
        self._fill_values(ask)

    def _fill_values(self, ask: bool = True) -> None:
        side, kind = self.side_box.currentData(), self.kind_box.currentData()
        before = self.value_box.currentData()
        song, index = self._document.song, self._state.selection.index
        rows = values(side, kind, song, index, self._document.library) if song.slots else ()
        first = before if before in [value for value, _ in rows] else usual(kind)
        self.value_box.offer(((words, value) for value, words in rows), first)
        self.value_box.setVisible(kind in VALUED)
        if ask:
            self.ask_price()

    def ask_price(self) -> None:
        """Find what the rule would cost."""
        self.priced = None
        self.set_button.setEnabled(False)
        song, stretch, rule = self._document.song, self.stretch, self.rule
        if rule is None or not song.slots:
            self.price.setText("Nothing sounds here that it could be." if song.slots else "")
            return
        self.price.setText("Working out what it costs...")
        self.worker.start(lambda progress, _: self._price(song, stretch, rule, progress))

    def _price(self, song: Song, stretch: Stretch, rule: HandRule, progress: Progress) -> Priced:
        return self._desk().price(song, stretch, rule, progress)

    def _take(self, priced: Priced) -> None:
        self.priced = priced
        self.set_button.setEnabled(True)
        self.price.setText(price_words(priced, self._document.song))

    def set_rule(self) -> None:
        """Set the rule as it is chosen."""
        if self.rule is not None and self._document.song.slots:
            self._document.apply(set_rule(self._document.song, self.stretch, self.rule))

    # --- the list ---

    def refresh(self, scope: str) -> None:
        """The song as it is now, and whose rules are made."""
        self.scope = scope
        self._said = sentences(self._document.song, self._document.library)
        kit.fill(self.list, (sentence.words for sentence in self._said), self.list.currentRow())
        kit.tick_rows(self.list, [sentence.on for sentence in self._said])
        for row, sentence in enumerate(self._said):
            words = f"{sentence.words}. Take the tick away to let it rest; Delete drops it."
            self.list.item(row).setToolTip(words)
        self.list.setVisible(bool(self._said))
        self.list.setFixedHeight(_ROW_HEIGHT * min(_MOST_ROWS, len(self._said)) + 6)
        self.hint.setVisible(not self._said)
        self._fill_values()

    def _switched(self, item: QListWidgetItem) -> None:
        sentence = self._said[self.list.row(item)]
        on = item.checkState() == Qt.CheckState.Checked
        if on != sentence.on:
            self._document.apply(sentence.switched(self._document.song, on))

    def drop(self) -> None:
        """Drop the chosen sentence."""
        row = self.list.currentRow()
        if 0 <= row < len(self._said):
            self._document.apply(self._said[row].dropped(self._document.song))


class SentenceList(QListWidget):
    """Space ticks, Delete drops."""

    def __init__(self, panel: RulesPanel) -> None:
        super().__init__()
        self._panel = panel
        self.setAccessibleName("Wishes and rules of this take")
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Delete:
            self._panel.drop()
        else:
            super().keyPressEvent(event)


def price_words(priced: Priced, song: Song) -> str:
    """What a rule costs, who cannot obey it, and which rules it contradicts."""
    more = priced.more / 100
    words = "Costs nothing"
    if abs(more) >= _WORTH_ST:
        words = f"{amount_words(abs(priced.more))} {'more' if more > 0 else 'less'} effort in the song"
    if priced.cannot:
        many = f"{len(priced.cannot)} of {priced.chords} chords cannot obey and go without it"
        words = f"{words}; {many}: {_named(song, priced.cannot)}"
    else:
        words = f"{words}; every chord can obey"
    sentences = [words]
    for rule in priced.beaten_by:
        sentences.append(f"\u201c{rule.words()}\u201d wins there: it is set for less")
    for rule, slots in priced.yields:
        where = _named(song, slots)
        sentences.append(f"It contradicts \u201c{rule.words()}\u201d and wins there: {where}")
    return ". ".join(sentences) + "."


def _named(song: Song, slots: tuple[int, ...]) -> str:
    named = [f"{_shown(song, k)} (bar {song.slots[k].bar})" for k in slots[:_MOST_NAMED]]
    rest = len(slots) - len(named)
    return f"{', '.join(named)}{f' and {rest} more' if rest else ''}"


def _shown(song: Song, index: int) -> str:
    chord = song.slots[index].chord
    return "no chord" if chord is None else chord.pretty
