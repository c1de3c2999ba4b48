"""The counting strip, scrolled to where one is."""

from __future__ import annotations

from PySide6.QtCore import Qt

from yellow_hinge.ui.pages.rhythm.state import RhythmState
from yellow_hinge.ui.pages.rhythm.strip import HEIGHT, StripView
from yellow_hinge.ui.quiet import QuietScroll
from yellow_hinge.ui.theme import scaled


class StripArea(QuietScroll):
    """As wide as there is room, as high as the strip."""

    def __init__(self, state: RhythmState) -> None:
        super().__init__()
        self._state = state
        self.strip = StripView(state)
        self.setWidgetResizable(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(self.strip)
        self.fit_text()

    def fit_text(self) -> None:
        self.setFixedHeight(scaled(HEIGHT + 14))

    def follow_cursor(self) -> None:
        """The cursor is in sight."""
        if self._state.song.slots:
            x = int(self.strip.x_of(self._state.index, self._state.place))
            self.ensureVisible(scaled(x), 10, 160, 0)

    def show_place(self, quarters: float | None) -> None:
        """A place of the song sounds now; None: all is silent."""
        self.strip.line = quarters
        x = None if quarters is None else self.strip.x_at(quarters)
        if x is not None:
            self.ensureVisible(scaled(x), 10, 120, 0)
        self.strip.update()
