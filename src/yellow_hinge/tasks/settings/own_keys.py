"""Keys that the player gave to acts, kept between runs in a small file."""

from __future__ import annotations

from collections.abc import Mapping

from yellow_hinge.tasks.settings.own_settings import Kept


class OwnKeys(Kept, frozen=True):
    """The keys of acts that have others than they came with, by the page ("" for what is done everywhere) and
    the act there; an act may have none."""

    file = "keys.json"

    keys: Mapping[str, Mapping[str, tuple[str, ...]]] = {}

    def of(self, where: str) -> Mapping[str, tuple[str, ...]]:
        """Those of a page."""
        return self.keys.get(where, {})

    def given(self, where: str, act: str, keys: tuple[str, ...] | None) -> OwnKeys:
        """An act with other keys; None gives it back those that it came with."""
        rest = {one: kept for one, kept in self.of(where).items() if one != act}
        here = rest if keys is None else {**rest, act: keys}
        pages = {**self.keys, where: here}
        return OwnKeys({page: acts for page, acts in pages.items() if acts})
