"""What the Song page thinks: the words of its controls."""

from __future__ import annotations

from yellow_hinge.hands.profile import LARGEST_REACH, reach_words
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import Register
from yellow_hinge.theory.pitch import STEP_LETTERS
from yellow_hinge.voicing.recipes import School

#: Below a fourth no hand plays chords; the list still begins at a third, for one-note hands.
REACHES = tuple(range(3, LARGEST_REACH + 1))
COLOUR_WORDS = ("As written", "Ninths", "Rich", "Altered")
COLOUR_HELP = (
    "Only the notes that the symbols name.",
    "Ninths and sevenths where the key allows them.",
    "Also elevenths and thirteenths where the key allows them.",
    "Also altered tensions on dominants.",
)
CAUTION = (
    "Set what feels easy, not what is just possible. Never force a stretch: rest when it aches, "
    "stop at pain or numbness, and ask a teacher or clinician."
)
#: What becomes of the player's own grips in another key.
REGISTERS: tuple[tuple[str, Register], ...] = (
    ("stay in their region", "region"),
    ("move up with the key", "shifted"),
)


def facts(chart: Chart) -> str:
    """Key, meter, tempo and composer of a chart in a line."""
    words = f"{chart.key.pretty}, {chart.meter}, {chart.tempo} beats a minute"
    return f"{words}, by {chart.composer}" if chart.composer else words


def reach_label(reach: int) -> str:
    """The interval with its white keys: tenth (C to E)."""
    return f"{reach_words(reach)} (C to {STEP_LETTERS[(reach - 1) % 7]})"


def school_label(school: School) -> str:
    """The name, and who has the bass unless the player says otherwise."""
    bass = "own bass" if school.bass == "self" else "with bassist"
    return f"{school.name}, {bass}"
