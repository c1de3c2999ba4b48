"""Undo and redo: a record of whole songs, old and new, grouped by gesture.

Songs are frozen and share their parts, so keeping them costs little.
"""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.song.edits import Edit
from yellow_hinge.song.model import Song

#: How many steps are kept.
DEPTH = 400


class _Step(Struct, frozen=True):
    """What an edit led to. ``draft`` is chart text that is not in the song (yet), None where the
    song's own text stands."""

    song: Song
    draft: str | None = None
    label: str = ""
    gesture: str | None = None

    def same(self, step: _Step) -> bool:
        """Whether both hold the same, however they came about."""
        return self.song is step.song and self.draft == step.draft


class History:
    """The song as it is and the text that is being typed on it, with the way back and forth.
    ``modified`` asks what is on disk."""

    def __init__(self, song: Song, draft: str | None = None) -> None:
        self._past: list[_Step] = []
        self._future: list[_Step] = []
        self._now = self._clean = _Step(song, draft)

    @property
    def song(self) -> Song:
        return self._now.song

    @property
    def past(self) -> tuple[Song, ...]:
        """The song as it was, step by step; what was undone is not in it."""
        return tuple(step.song for step in self._past)

    @property
    def draft(self) -> str | None:
        """Chart text that is not in the song: unread, or to be mended."""
        return self._now.draft

    @property
    def undo_label(self) -> str | None:
        return self._now.label if self._past else None

    @property
    def redo_label(self) -> str | None:
        return self._future[-1].label if self._future else None

    @property
    def modified(self) -> bool:
        return not self._now.same(self._clean)

    def mark_clean(self, song: Song, draft: str | None = None) -> None:
        """This is what the file now holds."""
        self._clean = _Step(song, draft)

    def mark_dirty(self) -> None:
        """No file holds what is there."""
        self._clean = _Step(Song())

    def push(self, edit: Edit, draft: str | None = None) -> None:
        """Record an edit; one that continues the gesture before it joins it."""
        self._record(_Step(edit.song, draft, edit.label, edit.gesture))

    def type(self, draft: str | None, label: str, gesture: str) -> None:
        """Record text that was typed and not read yet."""
        self._record(_Step(self.song, draft, label, gesture))

    def _record(self, step: _Step) -> None:
        joins = step.gesture is not None and step.gesture == self._now.gesture
        if not joins:
            self._past.append(self._now)
            del self._past[:-DEPTH]
        self._future.clear()
        self._now = step

    def amend(self, song: Song) -> None:
        """Complete the latest step with what follows from it (such as a new solution). That alone
        is no reason to save."""
        step = replace(self._now, song=song)
        if not self.modified:
            self._clean = step
        self._now = step

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
