"""Formulas in the song: where each fits, what the tune says and what it costs, to be heard and taken."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
)

from yellow_hinge.errors import YellowHingeError
from yellow_hinge.motion.figures import amount_words, more_words
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.formulas import Formula, builtin_formulas
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.formula_desk import Fitting, fittings, weigh
from yellow_hinge.tasks.swaps.formula_keys import InKey, in_every_key
from yellow_hinge.tasks.swaps.own_formulas import (
    MINE,
    MOST_NAME,
    MOST_RUN,
    drop_formula,
    every_formula,
    formula_of,
    keep_formula,
    own_formulas,
)
from yellow_hinge.theory.chord_symbol import pretty_symbol
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui import kit
from yellow_hinge.ui.desk import Desk
from yellow_hinge.ui.entry_field import EntryField
from yellow_hinge.ui.page import Sounding
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given
from yellow_hinge.ui.words import Label, Words
from yellow_hinge.ui.worker import Deliver, Worker

#: So many places are weighed; the others say so.
_MOST_WEIGHED = 24
_HERE, _ANYWHERE = "here", "anywhere"


class FormulaFace(ChordFace):
    """A line for each place where a formula can stand, or for each key that the chosen one can be in; and
    below, a run of the song to be kept as a formula of the player's own."""

    def __init__(self, given: Given) -> None:
        super().__init__(given)
        document = given.document
        self._planner, self._hearing = Desk(document, Planner), Desk(document, Planner)  # heard while weighed
        self.voicing = Worker(self, "formula")
        self.voicing.done.connect(self._hear_voiced)
        self.voicing.failed.connect(lambda error: self.said.emit(error.problems))
        self.found: list[Fitting] = []
        self.keys: list[InKey] = []
        self._of_keys: Formula | None = None
        self._costs: list[int | None] = []
        self._song: Song | None = None
        self.every = dict(builtin_formulas())
        layout = kit.column(self)
        layout.addLayout(self._build_top())
        self.words = Words()
        layout.addWidget(self.words)
        self.list = kit.named(QListWidget(), "Formulas that fit, each with its place")
        self.list.setWordWrap(True)
        self.list.currentRowChanged.connect(lambda _: self._show_why())
        layout.addWidget(self.list, 1)
        self.why = Words()
        layout.addWidget(self.why)
        layout.addLayout(self._build_keeping())
        self.run_words = Words()
        layout.addWidget(self.run_words)
        self.worker.progress.connect(self._show_share)
        self.worker.part.connect(self._take_in)
        self.worker.busy.connect(self._show_busy)

    def _build_top(self) -> QHBoxLayout:
        top = QHBoxLayout()
        places = (("that hold this chord", _HERE), ("anywhere in the song", _ANYWHERE))
        self.where = kit.choice("Where formulas are looked for", "", self._ask, places)
        families = dict.fromkeys((*(formula.family for formula in self.every.values()), MINE))
        kinds = (("every kind", ""), *((family, family) for family in families))
        self.family = kit.choice("Kind of formula", "", self._ask, kinds)
        kit.add_all(top, (Label("Formulas"), self.where, self.family))
        top.addStretch(1)
        return top

    def _build_keeping(self) -> QHBoxLayout:
        """A run from the chosen chord on, with a name."""
        row = QHBoxLayout()
        self.run = kit.number("Chords of the formula of your own", (1, MOST_RUN), suffix=" chords from here")
        self.run.setValue(4)
        self.run.valueChanged.connect(lambda _: self._show_run())
        self.name = EntryField()
        self.name.setMaxLength(MOST_NAME)
        self.name.setPlaceholderText("a name for it")
        kit.named(self.name, "Name of the formula of your own", "Return keeps the run under this name")
        self.name.textChanged.connect(lambda _: self.changed.emit())
        self.name.kept.connect(self.keep_run)
        kit.add_all(row, (Label("Your own:"), self.run))
        row.addWidget(self.name, 1)
        return row

    # --- looking ---

    def look(self) -> None:
        """What fits the song as it is."""
        self._show_run()
        if self._of_keys is None or self._song is not self.document.song:
            self._ask()

    def _ask(self) -> None:
        song, planner, library = self.document.song, self._planner(), self.document.library
        self._of_keys, self.keys = None, []
        if not 0 <= self.index < len(song.slots):
            self._take_in(None)
            return
        written = song.slots[self.index].at.written
        here, family = self.where.currentData() == _HERE, self.family.currentData()

        def job(progress: Progress, deliver: Deliver) -> object:
            formulas = every_formula()
            every = [fitting for formula in formulas.values() if family in ("", formula.family)
                     for fitting in fittings(song, formula)]  # fmt: skip
            wanted = [fitting for fitting in every if not here or written in fitting.written]
            wanted.sort(key=lambda fitting: (fitting.formula.family != MINE, fitting.clashes, fitting.bar))
            deliver((song, formulas, wanted, []))  # to be read, and taken, while they are weighed
            return song, formulas, wanted, weigh(song, wanted[:_MOST_WEIGHED], library, planner, progress)

        self.found, self._costs = [], []  # those of another chord are not to be taken
        self._show()
        self.words.setText("Looking for what fits here...")
        self.worker.start(job)

    def _take_in(self, result: Any) -> None:
        chosen = self._chosen
        if isinstance(result, list):
            self.keys = result
        elif result is None:
            self.found, self._costs, self._song = [], [], None
        else:
            self._song, self.every, found, costs = result
            rest: list[int | None] = [None] * (len(found) - len(costs))
            rows = sorted(zip(found, [*costs, *rest], strict=True), key=_rank)
            self.found, self._costs = [one for one, _ in rows], [cost for _, cost in rows]
        self._show(self.found.index(chosen) if chosen in self.found else 0)

    def _show_share(self, share: float) -> None:
        if self._of_keys is None:
            self.words.setText(f"{self._words()} Weighing them: {share:.0%}.")
        else:
            self.words.setText(f"Playing it in every key: {share:.0%}. Escape stops it.")

    def _show_busy(self, busy: bool) -> None:
        if not busy:  # also where it was stopped
            self.words.setText(self._words())

    def _show(self, chosen: int = 0) -> None:
        lines = [_line(fitting, cost) for fitting, cost in zip(self.found, self._costs, strict=True)]
        if self._of_keys is not None:
            lines = [_key_line(key) for key in self.keys]
        kit.fill(self.list, lines, chosen)
        self.words.setText(self._words())
        self._show_why()
        self.changed.emit()

    def _words(self) -> str:
        if self._of_keys is not None:
            return f"{self._of_keys.name} in twelve keys, in fourths. H plays one; U goes back to the places."
        if self.found:
            places = counted(len(self.found), "place")
            return f"{places}. Return puts one there as swaps; U shows it in twelve keys."
        if self.family.currentData() == MINE and not any(
            formula.family == MINE for formula in self.every.values()
        ):
            return "You have none yet: below, say how many chords from here, name them, and press Return."
        return "None fits: look anywhere in the song, or choose another chord."

    def _show_why(self) -> None:
        formula = self._of_keys or (None if self._chosen is None else self._chosen.formula)
        self.why.setText(
            ""
            if formula is None
            else f"{formula.name}: {formula.why}{_played_words(formula)}{self.kept_words()}"
        )
        self.changed.emit()

    @property
    def _chosen(self) -> Fitting | None:
        place = self.list.currentRow()
        return self.found[place] if self._of_keys is None and 0 <= place < len(self.found) else None

    @property
    def _key(self) -> InKey | None:
        place = self.list.currentRow()
        return self.keys[place] if self._of_keys is not None and 0 <= place < len(self.keys) else None

    # --- a run of one's own ---

    @property
    def last(self) -> int:
        """The last slot of the run; it ends with the song at the latest."""
        return min(self.index + self.run.value(), len(self.document.song.slots)) - 1

    @property
    def can_keep(self) -> bool:
        """Whether there is a run, and a name for it."""
        return self.index >= 0 and self.last >= self.index and bool(self.name.text().strip())

    def _show_run(self) -> None:
        slots = self.document.song.slots[max(0, self.index) : self.last + 1]
        chords = " ".join(pretty_symbol(slot.chord) for slot in slots)
        self.run_words.setText(
            f"{chords}: kept in numbers with grips, rhythm and small notes, for any song and any key."
            if chords else ""
        )  # fmt: skip
        self.changed.emit()

    def keep_run(self) -> None:
        """The run becomes a formula in the player's file."""
        if not self.can_keep:
            return
        try:
            made = formula_of(self.document.song, self.index, self.last, self.name.text(), own_formulas())
            keep_formula(made)
        except YellowHingeError as error:
            self.said.emit(error.problems)
            return
        self.name.clear()
        self.family.setCurrentIndex(self.family.findData(MINE))
        self.where.setCurrentIndex(self.where.findData(_ANYWHERE))
        self._ask()

    @property
    def own_chosen(self) -> Formula | None:
        """The player's own formula that is chosen."""
        formula = self._of_keys or (None if self._chosen is None else self._chosen.formula)
        return formula if formula is not None and formula.family == MINE else None

    def forget(self) -> None:
        """The chosen formula of the player's own goes out of the file; what was put into songs stays."""
        formula = self.own_chosen
        if formula is None:
            return
        try:
            drop_formula(formula.id)
        except YellowHingeError as error:
            self.said.emit(error.problems)
        self._ask()

    # --- acting ---

    def step(self, direction: int) -> None:
        kit.walk(self.list, direction)

    def turn(self) -> None:
        """The chosen formula in every key, or the places again."""
        fitting, song = self._chosen, self.document.song
        if self._of_keys is not None or fitting is None:
            self._ask()
            return
        formula, library, planner = fitting.formula, self.document.library, self._planner()
        self._of_keys, self.keys, self._song = formula, [], song
        self.list.clear()
        self.worker.start(lambda progress, _: in_every_key(formula, song, library, planner, progress))

    def can(self, act: str) -> bool:
        allowed = {
            "turn": self._of_keys is not None or self._chosen is not None,
            "keep_run": self.can_keep, "forget": self.own_chosen is not None,
        }  # fmt: skip
        return allowed.get(act, False)

    @property
    def ready(self) -> bool:
        return self._chosen is not None or (self._key is not None and self._key.voiced is not None)

    def edit(self, whole: bool) -> Edit | None:
        del whole
        fitting, song = self._chosen, self.document.song
        return (
            None if fitting is None or self._song is not song else fitting.edit(song, self.document.library)
        )

    def audition(self) -> None:
        """The formula in its place, with the chords around it; or by itself in the chosen key."""
        fitting, key = self._chosen, self._key
        if key is not None and key.voiced is not None:
            own_song = key.voiced.song
            self.hear.emit(Sounding(own_song, 0))
        edit = None if fitting is None else self.edit(whole=True)
        if fitting is None or edit is None:
            return
        song, library, planner, written = edit.song, self.document.library, self._hearing(), fitting.written
        self.voicing.start(lambda progress, _: (voice_song(song, library, planner, progress).song, written))

    def _hear_voiced(self, result: tuple[Song, frozenset[int]]) -> None:
        """The formula with grips, from the chord before it to the one behind."""
        song, written = result
        own = [slot.index for slot in song.slots if slot.at.written in written]
        first, last = own[0], own[0]
        while last + 1 in own:
            last += 1
        self.hear.emit(Sounding(song, max(0, first - 1), min(len(song.slots) - 1, last + 1)))

    def close_face(self) -> None:
        super().close_face()
        self.voicing.close()


def _played_words(formula: Formula) -> str:
    """What a formula of the player's own brings beside its chords."""
    if not formula.played:
        return ""
    small = sum(len(each.small) for each in formula.played)
    parts = ["its grips", "its rhythm"]
    if small:
        parts.append("one small note" if small == 1 else f"{small} small notes")
    if any(each.line for each in formula.played):
        parts.append("a line")
    return f" It brings {', '.join(parts[:-1])} and {parts[-1]}."


def _key_line(key: InKey) -> str:
    chords = " ".join(chord.pretty for chord in key.chords)
    if key.voiced is None:
        return f"{key.key.pretty}: {chords}. {key.trouble}."
    return f"{key.key.pretty}: {chords}. Effort {amount_words(key.voiced.answer.cost)}."


def _rank(pair: tuple[Fitting, int | None]) -> tuple[bool, int, bool, int]:
    """The player's own first; then what fits the tune, by effort; what is not weighed last."""
    fitting, cost = pair
    return fitting.formula.family != MINE, fitting.clashes, cost is None, cost or 0


def _line(fitting: Fitting, cost: int | None) -> str:
    chords = [chord.pretty for chord, _ in groupby(fitting.formula.in_key(fitting.key))]
    tune = (
        "the tune fits"
        if not fitting.clashes
        else f"it rubs against {counted(fitting.clashes, 'note')} of the tune"
    )
    effort = "not weighed" if cost is None else f"{more_words(cost)} half steps of effort"
    return f"{fitting.formula.name}, bar {fitting.bar}: {' '.join(chords)}. {effort}; {tune}."
