"""Where to keep a grip of one's own: the answers with the chords that each takes."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QMenu, QPushButton, QWidget

from yellow_hinge.song.grip_edits import WHERE, Where, keeping
from yellow_hinge.song.model import Song
from yellow_hinge.theory.pretty import counted
from yellow_hinge.voicing.shape import Voicing

#: So many bars are listed where a grip would be kept.
_MOST_BARS = 8


class WhereMenu(QMenu):
    """Asks for which chords; ``chosen`` carries the voicing and the answer."""

    chosen = Signal(object, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Where to keep my grip")

    def ask(self, song: Song, index: int, voicing: Voicing, button: QPushButton, row: QWidget) -> None:
        """Open above its button, or over the row where that is not shown."""
        self.clear()
        rounds = len(song.columns[song.column_of[index]])
        for number, (where, words) in enumerate(WHERE.items(), 1):
            said = _places(song, index, voicing, where)
            action = self.addAction(f"&{number}  {words[0].upper()}{words[1:]}: {said}")
            action.triggered.connect(lambda _=False, where=where: self.chosen.emit(voicing, where))
            action.setEnabled(where != "round" or rounds > 1)
        near = button if button.isVisible() else row
        self.popup(near.mapToGlobal(QPoint(0, -self.sizeHint().height() if near is button else 0)))
        self.setActiveAction(self.actions()[1])


def _places(song: Song, index: int, voicing: Voicing, where: Where) -> str:
    kept = keeping(song, index, voicing, where)
    bars = list(dict.fromkeys(song.slots[slot].bar for slot in kept.slots))
    listed = ", ".join(map(str, bars[:_MOST_BARS])) + (" ..." if len(bars) > _MOST_BARS else "")
    grips = "grip of your own gives way", "grips of your own give way"
    gone = f"; {counted(kept.replaced, *grips)}" if kept.replaced else ""
    stay = f"; {counted(len(kept.lost), 'chord')} left as it is" if kept.lost else ""
    chords = counted(len(kept.slots), "chord")
    return f"{chords}, {'bar' if len(bars) == 1 else 'bars'} {listed}{gone}{stay}"
