"""What a page works with over the recipes of the document."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from yellow_hinge.ui.document import Document
from yellow_hinge.voicing.recipes import Library

Works = TypeVar("Works")


class Desk(Generic[Works]):
    """Made when it is first asked for, mostly by a job off the interface thread: it brings NumPy, and the
    first paint goes before. Other recipes make another one."""

    def __init__(self, document: Document, make: Callable[[Library], Works]) -> None:
        self._document, self._make = document, make
        self._made: tuple[Library, Works] | None = None

    def __call__(self) -> Works:
        library = self._document.library
        if self._made is None or self._made[0] is not library:
            self._made = library, self._make(library)
        return self._made[1]
