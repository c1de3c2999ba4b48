"""The side of the workbench: what is chosen, and of a leaf the face that is open."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.pages.hinges.leaf_side import LeafSide
from yellow_hinge.ui.pages.hinges.part import Bench
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import scaled
from yellow_hinge.ui.words import Label

if TYPE_CHECKING:
    from yellow_hinge.ui.pages.hinges.grip_side import GripSide
    from yellow_hinge.ui.pages.hinges.hinge_side import HingeSide
    from yellow_hinge.ui.pages.hinges.names_side import NamesSide
    from yellow_hinge.ui.pages.hinges.solo_side import SoloSide
    from yellow_hinge.ui.pages.hinges.wishes_view import WishesView

_SIDE_WIDTH = 330
Panel = TypeVar("Panel", bound=QWidget)


class BenchSide(Ground):
    """Shows the bench. Only the leaves' side is made at once: they come first. ``grip_made``: the one for
    grips of one's own is there; ``name_wanted`` carries a name for the chosen chord."""

    grip_made = Signal()
    name_wanted = Signal(object)

    def __init__(self, bench: Bench, commands: CommandList) -> None:
        super().__init__("panel")
        self._bench, self._commands = bench, commands
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        self.title, self.place, self.warning = Label(), Label(), Label()
        for label, kind in ((self.title, "title"), (self.place, "quiet"), (self.warning, "wrong")):
            label.setObjectName(kind)
            label.setWordWrap(kind != "title")
        self.leaf = LeafSide(bench.document, bench.state, commands)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.leaf)
        self.tabs = bench.faces.row(commands)
        for widget in (self.title, self.tabs, self.place, self.warning):
            layout.addWidget(widget)
        layout.addWidget(self.stack, 1)
        self.fit_text()

    # --- what is made when it is first wanted ---

    @cached_property
    def hinge(self) -> HingeSide:
        """The change to the next chord."""
        from yellow_hinge.ui.pages.hinges.hinge_side import HingeSide  # noqa: PLC0415 - the leaves come first

        return self._added(HingeSide(self._bench.document, self._bench.state, self._commands))

    @cached_property
    def grip(self) -> GripSide:
        """The player's own grips."""
        from yellow_hinge.ui.pages.hinges.grip_side import GripSide  # noqa: PLC0415 - the leaves come first

        bench = self._bench
        panel = self._added(GripSide(bench.document, bench.state, bench.grips, self._commands))
        vars(self)["grip"] = panel
        self.grip_made.emit()
        return panel

    @cached_property
    def names(self) -> NamesSide:
        """Names and basses."""
        from yellow_hinge.ui.pages.hinges.names_side import NamesSide  # noqa: PLC0415 - the leaves come first

        panel = self._added(NamesSide(self._bench.document, self._bench.state, self._bench.grips))
        panel.wanted.connect(self.name_wanted)
        return panel

    @cached_property
    def solo(self) -> SoloSide:
        """For a line over the chords."""
        from yellow_hinge.ui.pages.hinges.solo_side import SoloSide  # noqa: PLC0415 - the leaves come first

        return self._added(SoloSide(self._bench.state))

    @cached_property
    def wishes(self) -> WishesView:
        """School, colour and rules."""
        from yellow_hinge.ui.pages.hinges.wishes_view import WishesView  # noqa: PLC0415 - the leaves come first

        return self._added(WishesView(self._bench.document, self._bench.state))

    def _added(self, panel: Panel) -> Panel:
        self.stack.addWidget(panel)
        return panel

    # --- showing ---

    def fit_text(self) -> None:
        self.setFixedWidth(scaled(_SIDE_WIDTH))

    def close_side(self) -> None:
        """The window closes."""
        self.leaf.filter.close_bar()
        if "wishes" in vars(self):
            self.wishes.rules.worker.close()

    def refresh(self) -> None:
        """Everything from the bench."""
        state = self._bench.state
        some, leaf = bool(state.song.slots), not state.selection.on_hinge
        self.stack.setVisible(some)
        self.tabs.setVisible(some and leaf)
        warnings = state.warnings(state.song.hands) if some and leaf else []
        self.warning.setText(" ".join(warnings))
        self.warning.setVisible(bool(warnings))
        if not some:
            self.title.setText("Nothing chosen")
            self.place.setText("Type a chart on the Song page first.")
            return
        self.title.setText(state.chosen_title())
        self.place.setText(state.chosen_place() if leaf else "The change from one chord to the next")
        panel = self._panel()
        self.stack.setCurrentWidget(panel)
        panel.refresh()

    def _panel(self) -> LeafSide | HingeSide | GripSide | NamesSide | SoloSide | WishesView:
        if self._bench.state.selection.on_hinge:
            return self.hinge
        match self._bench.faces.open.id:
            case "others":
                return self.leaf
            case "grip":
                return self.grip
            case "names":
                return self.names
            case "rules":
                return self.wishes
            case _:
                return self.solo
