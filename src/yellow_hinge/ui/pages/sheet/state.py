"""What the Sheet page thinks, without Qt: the kind, how it looks, and which page is shown how large."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from yellow_hinge.sheet.page import PAPERS, Options, Sheet
from yellow_hinge.song.model import Song

PAPER_WORDS = {"a4": "A4", "letter": "Letter", "a5": "A5"}
#: What a sheet shows, by the field of the options: words, and the kinds that it is for.
SHOWN: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("keyboards", "small keyboards", ("crib",)),
    ("numbers", "numbers for symbols", ("crib",)),
    ("degrees", "degrees", ("crib", "hinges")),
    ("fingers", "fingers", ("crib", "score", "hinges")),
    ("moves", "the move in words", ("crib",)),
    ("counts", "beats and patterns", ("crib",)),
    ("words", "words of the song", ("crib", "score", "lead")),
    ("tune", "the tune above", ("score",)),
    ("written_out", "repeats written out", ("score", "lead")),
)
ZOOMS = (0.5, 0.7, 0.85, 1.0, 1.25, 1.5, 2.0, 3.0)
assert set(PAPERS) == set(PAPER_WORDS)


class SheetState:
    """The chosen kind and options; the sheet that was made of them, and of which song."""

    def __init__(self) -> None:
        self.song = Song()
        self.kind = "crib"
        self.options = Options()
        self.shape: str | int = ""  #: in all keys: every grip, that of a slot, or a formula by its id
        self.sheet: Sheet | None = None
        self.made_of: object = None  #: song, kind and options of the sheet
        self.page = 0
        self.zoom: float | None = None  #: None: the page fits

    @property
    def wanted(self) -> tuple[Song, str, Options, str | int]:
        """What the sheet hangs on."""
        return self.song, self.kind, self.options, self.shape if self.kind == "keys" else ""

    @property
    def stale(self) -> bool:
        """Whether there is no sheet of what is wanted."""
        return self.made_of != self.wanted

    def take(self, made_of: object, sheet: Sheet) -> None:
        """A sheet is there; that of something else comes too late."""
        if made_of == self.wanted:
            self.sheet, self.made_of = sheet, made_of
            self.page = min(self.page, len(sheet.pages) - 1)

    def choose(self, kind: str) -> None:
        """Another kind, from its first page on."""
        if kind != self.kind:
            self.kind, self.page = kind, 0

    def settle(self, **changes: Any) -> None:
        """Other options."""
        self.options = replace(self.options, **changes)

    def turn(self, step: int) -> None:
        """Another page."""
        count = 0 if self.sheet is None else len(self.sheet.pages)
        self.page = max(0, min(count - 1, self.page + step))

    def closer(self, step: int, now: float) -> None:
        """The next zoom, from the one that is shown."""
        others = [one for one in ZOOMS if (one > now + 0.01 if step > 0 else one < now - 0.01)]
        if others:
            self.zoom = others[0] if step > 0 else others[-1]

    def words(self) -> str:
        """Which page is shown."""
        if self.sheet is None:
            return ""
        return f"page {self.page + 1} of {len(self.sheet.pages)}"
