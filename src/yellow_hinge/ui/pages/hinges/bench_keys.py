"""The keyboard under the row: the chosen leaf, the way on, and the keys that may be clicked."""

from __future__ import annotations

from PySide6.QtWidgets import QSizePolicy

from yellow_hinge.ui.keyboard import KeyboardView
from yellow_hinge.ui.pages.hinges.part import Bench

#: Lowest and highest key that it shows at the least.
_SHOWN_KEYS = (41, 79)


class BenchKeys(KeyboardView):
    """Shows the bench."""

    def __init__(self, bench: Bench) -> None:
        super().__init__()
        self._bench = bench
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.MinimumExpanding)

    def refresh(self) -> None:
        """The chosen leaf as it is now."""
        state, leaf = self._bench.state, not self._bench.state.selection.on_hinge
        if not state.song.slots or state.empty_words:
            self.show_chord((48, 84), {}, ())
            return
        low, high = state.key_range()
        keys = (min(low, _SHOWN_KEYS[0]), max(high, _SHOWN_KEYS[1]))
        self.show_chord(keys, state.key_marks(), state.ghosts(), state.keyboard_words())
        self.show_chosen(self._bench.grips.note if leaf else None)
        free = state.free_hand() if leaf else None
        solo = leaf and (self._bench.faces.open.id == "solo" or free)
        scale = state.scale_here() if solo else None
        hand = getattr(state.song.hands, free) if free else None
        self.show_scale(scale.pitch_classes if scale else frozenset(), hand)
