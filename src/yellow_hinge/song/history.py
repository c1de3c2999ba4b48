"""Undo and redo: a record of whole songs, old and new, grouped by gesture.

Songs are frozen and share their parts, so keeping them costs little.
"""

from __future__ import annotations

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song

#: How many steps are kept.
DEPTH = 400


class History:
    """The song as it is, with the way back and forth. ``clean`` is what is on disk."""

    def __init__(self, song: Song) -> None:
        self._past: list[Edit] = []
        self._future: list[Edit] = []
        self._now = Edit(song, "")
        self._clean = song

    @property
    def song(self) -> Song:
        return self._now.song

    @property
    def undo_label(self) -> str | None:
        return self._now.label if self._past else None

    @property
    def redo_label(self) -> str | None:
        return self._future[-1].label if self._future else None

    @property
    def modified(self) -> bool:
        return self._now.song is not self._clean

    def mark_clean(self, song: Song) -> None:
        """``song`` is what the file now holds."""
        self._clean = song

    def push(self, edit: Edit) -> None:
        """Record an edit; one that continues the gesture before it joins it."""
        joins = edit.gesture is not None and edit.gesture == self._now.gesture
        if not joins:
            self._past.append(self._now)
            del self._past[:-DEPTH]
        self._future.clear()
        self._now = edit

    def amend(self, song: Song) -> None:
        """Complete the latest step with what follows from it (such as a new solution)."""
        if self._now.song is self._clean and not self._past:
            self._clean = song
        self._now = Edit(song, self._now.label, self._now.gesture)

    def undo(self) -> bool:
        if not self._past:
            return False
        self._future.append(self._now)
        self._now = self._past.pop()
        return True

    def redo(self) -> bool:
        if not self._future:
            return False
        self._past.append(self._now)
        self._now = self._future.pop()
        return True
