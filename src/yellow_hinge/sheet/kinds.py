"""The kinds of sheets there are, for everybody who lists them: page, command line, dialogs. Loads nothing."""

from __future__ import annotations

from typing import NamedTuple


class Kind(NamedTuple):
    """A kind of sheet: its id, what it is called, its letter on the Sheet page, and what it is for."""

    id: str
    words: str
    key: str
    tip: str


KINDS = (
    Kind("crib", "Crib sheet", "C", "Chord by chord what each hand takes, on small keyboards and in words"),
    Kind("score", "Score", "S", "Two engraved staves with symbols, fingers and pedal; the tune above"),
    Kind("lead", "Lead sheet", "L", "Tune, words and chord symbols"),
    Kind("keys", "Shapes in all keys", "K", "Every different grip of the song on twelve keyboards"),
    Kind(
        "hinges",
        "Leaves and hinges",
        "H",
        "Every chord by the height of its notes, and how each goes to the next",
    ),
    Kind("practice", "Practice page", "P", "What asks most, with boxes to tick"),
)
KIND_IDS = tuple(kind.id for kind in KINDS)
