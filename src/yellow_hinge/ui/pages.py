"""The pages, in the order of the rail. A new one is its folder, with a row of its own, and a name here."""

from __future__ import annotations

from yellow_hinge.ui import (
    hands_page,
    hinges_page,
    keys_page,
    practise_page,
    rhythm_page,
    sheet_page,
    song_page,
    swaps_page,
    takes_page,
)

_ROWS = (
    song_page.ROW, hands_page.ROW, hinges_page.ROW, swaps_page.ROW, takes_page.ROW, keys_page.ROW,
    rhythm_page.ROW, practise_page.ROW, sheet_page.ROW,
)  # fmt: skip
PAGES = tuple(sorted(_ROWS, key=lambda row: row.order))
