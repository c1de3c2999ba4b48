"""The map of the open song's changes by how sure they are, without Qt."""

from __future__ import annotations

from yellow_hinge.practice.drills import Drill
from yellow_hinge.practice.plan import Shelf, why_words

#: How many of the weakest are said in words.
_MOST = 8


def sureness(shelf: Shelf) -> list[tuple[float, int, str]]:
    """For each change of the first song in playing order: how sure it is (0..1; -1: a rest), its tries, and
    words."""
    piece = shelf.pieces[0]
    found = []
    for place, change in enumerate(piece.row):
        if change < 0:
            found.append((-1.0, 0, "rest"))
            continue
        sureness = shelf.sureness(0, change)
        words = f"{piece.changes[change].words}, bar {piece.stands[place].bar}"
        found.append((1 - sureness.slip(shelf.now), sureness.tries, words))
    return found


def weakest(shelf: Shelf) -> list[tuple[int, str]]:
    """The weakest changes of the first song in words, each with its first stand."""
    piece = shelf.pieces[0]
    rows = []
    for change in sorted(range(len(piece.changes)), key=lambda k: -shelf.slip(0, k))[:_MOST]:
        stand = piece.changes[change].places[0]
        sureness = shelf.sureness(0, change)
        tried = f"{sureness.slips} of {sureness.tries} slipped" if sureness.tries else "not tried yet"
        words = f"{piece.changes[change].words}, bar {piece.stands[stand].bar}"
        why = why_words(shelf, Drill("change", 0, ((stand, stand + 1),)))
        rows.append((stand, f"{words}\n{sureness.slip(shelf.now):.0%} slips expected, {tried}; {why}"))
    return rows
