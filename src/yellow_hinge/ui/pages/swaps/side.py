"""The side of the Swaps page: the chosen proposal with reason, bass and melody, and what swaps buy."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from yellow_hinge.reharm.rules import RULES
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.pages.swaps.curve_side import CurveSide
from yellow_hinge.ui.pages.swaps.painted import BassView
from yellow_hinge.ui.pages.swaps.weighing import Weighing
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import scaled
from yellow_hinge.ui.words import Label

_SIDE_WIDTH = 350


class SwapSide(Ground):
    """Shows the state, and whether anything is being weighed."""

    def __init__(self, weighing: Weighing, commands: CommandList) -> None:
        super().__init__("panel")
        self._weighing, self._state = weighing, weighing.state
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        self.title, self.reason = Label(), Label()
        self.title.setObjectName("title")
        self.bass_label, self.melody_label, self.motion_label = Label(), Label(), Label()
        for quiet in (self.bass_label, self.melody_label, self.motion_label):
            quiet.setObjectName("quiet")
        self.bass = BassView()
        for label in (self.title, self.reason, self.bass_label, self.melody_label, self.motion_label):
            label.setWordWrap(True)
        for widget in (
            self.title, self.reason, self.bass, self.bass_label, self.melody_label, self.motion_label,
        ):  # fmt: skip
            layout.addWidget(widget)
        buttons = QHBoxLayout()
        for act, look in (("accept", "first"), ("hear", ""), ("back", "")):
            buttons.addWidget(kit.button(commands, act, look, shy=act == "back"))
        layout.addLayout(buttons)
        layout.addStretch(1)
        self.curve = CurveSide(weighing.state, commands)
        self.curve.touches.connect(weighing.choose_appetite)
        self.curve.styled.connect(weighing.choose_style)
        self.curve.picked.connect(weighing.take_point)
        layout.addWidget(self.curve)
        weighing.worker.busy.connect(self._show_busy)
        weighing.worker.progress.connect(lambda share: self.curve.progress.setValue(int(share * 100)))
        self.fit_text()

    def fit_text(self) -> None:
        self.setFixedWidth(scaled(_SIDE_WIDTH))

    def _show_busy(self, busy: bool) -> None:
        self.curve.show_busy(busy)
        if self._state.proposal is None:
            self._show_proposal()

    def refresh(self) -> None:
        """Everything from the state."""
        self._show_proposal()
        self.curve.refresh()

    def _show_proposal(self) -> None:
        state, proposal = self._state, self._state.proposal
        if proposal is not None:
            title, reason = RULES[proposal.rule].name, f"{proposal.reason[0].upper()}{proposal.reason[1:]}."
        elif self._weighing.worker.running:
            title, reason = "one moment", "What may stand here is being weighed."
        else:
            title, reason = "no proposal here", "Choose another chord on the left, or switch more rules on."
        self.title.setText(title.capitalize())
        self.reason.setText(reason)
        self.bass.show_lines(*((), ()) if proposal is None else (proposal.bass_was, proposal.bass))
        was, now = state.bass_lines()
        self.bass_label.setText(f"Bass now {was}; then {now}" if now else "")
        self.melody_label.setText("\n".join(state.melody_lines()[:4]))
        self.motion_label.setText(state.motion_words())
