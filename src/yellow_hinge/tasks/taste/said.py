"""What a taste says, in a player's words."""

from __future__ import annotations

from yellow_hinge.errors import BadInput
from yellow_hinge.motion.counts import price_of
from yellow_hinge.tasks.taste.taste import Chosen, Taste
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.pitch import read_pitch
from yellow_hinge.theory.pretty import counted
from yellow_hinge.voicing.recipes import School

#: From fewer choices little can be said; and so many prices are said each.
FEW, MOST_SAID = 10, 6
#: What each price is paid for, as somebody takes it more easily or rather avoids it; numbers of notes apart.
WORDS = {
    "left_move": "a left hand that moves", "right_move": "a right hand that moves",
    "bass_move": "a bass that goes far", "top_move": "a top line that moves",
    "held_top": "a top note that stays", "held_long": "a top note that stays for long",
    "top_leap": "leaps of the top line", "aim": "a top line outside its plan",
    "similar": "bass and top that go the same way",
    "parallel": "octaves and fifths in parallel between bass and top",
    "tendency": "sevenths and leading tones that do not go where they lead",
    "still": "hands that stay while the root moves", "large_left": "large moves of the left hand",
    "large_right": "large moves of the right hand", "shape_change": "hands that change their shape",
    "enter": "notes that come in", "leave": "notes that are let go",
    "struck": "grips with other notes than their pattern strikes",
    "struck_low": "a left hand outside its place in the arc", "no_fifth": "triads without their fifth",
    "doubled_third": "doubled thirds", "echo": "a tone twice in the right hand",
    "third_over_third": "a third above a third in the bass",
    "doubled": "doubled sevenths, leading and added tones", "contradiction": "tones that deny each other",
    "minor_ninth": "minor ninths", "mud": "close intervals low down", "gap": "hands that lie apart",
    "hole": "a hole between the hands", "high_bass": "a bass above D3",
    "lone_bass": "a single bass note above Bb2", "low_interval": "intervals below their usual limit",
    "low_second": "seconds low down", "inverted_bass": "chords that stand on another tone than their root",
    "rub_on_top": "a half step under the top note", "seconds": "half steps inside a hand",
    "melody_rub": "notes that rub with the sung melody", "melody_room": "notes in the melody's register",
    "strain": "stretches near the end of the reach", "roll": "rolled chords",
    "home": "hands away from their home", "colour": "more or less colour than is asked for",
    "colour_on_triad": "colour on plain triads", "end_bass": "a high bass at the end",
    "end_turned": "an end on another note than the root", "end_third": "a third twice at the end",
    "end_top": "other top notes at the end", "off_class": "other shapes than the school's own",
    "taste": "shapes further down the school's list",
}  # fmt: skip
_ROWS = {
    "left_self": "the left hand",
    "left_bassist": "a left hand over a bassist",
    "right": "the right hand",
}


#: Prices below it are said with two digits that count, others as whole half steps.
_PLAIN = 10


def what_is_paid(name: str) -> str:
    """What a price is paid for, in words."""
    if name in WORDS:
        return WORDS[name]
    row, _, count = name.rpartition("_")
    return f"{counted(int(count), 'note')} in {_ROWS[row]}"


def price_words(name: str, share: float, school: School) -> str:
    """What a price is instead of what, in half steps: "notes that come in: 1.2 instead of 2"."""
    ours = price_of(school, name) / 100
    learnt, before = (f"{price:.2g}" if price < _PLAIN else f"{price:.0f}" for price in (ours * share, ours))
    return f"{what_is_paid(name)}: {learnt} instead of {before}"


def by_change(taste: Taste) -> list[tuple[str, float]]:
    """Prices by how far they are from ours, the furthest first."""
    return sorted(taste.shares.items(), key=lambda row: (-max(row[1], 1 / row[1]), row[0]))


def learnt_lines(taste: Taste, school: School) -> dict[str, list[str]]:
    """What a player takes more easily ("likes") and "avoids": the prices that moved most, with the choices
    that speak of them, and how many more there are."""
    found: dict[str, list[str]] = {"likes": [], "avoids": []}
    for name, share in by_change(taste):
        if round(price_of(school, name) * (1 - share)):  # a school may have no such price, or hardly any
            line = f"{price_words(name, share, school)}{from_choices(taste.choices.get(name, 0))}"
            found["likes" if share < 1 else "avoids"].append(f"{line[:1].upper()}{line[1:]}")
    for name, lines in found.items():
        more = len(lines) - MOST_SAID
        if more > 0:
            found[name] = [*lines[:MOST_SAID], f"and {more} more, less so"]
    return found


def sure_words(taste: Taste) -> str:
    """How sure it is."""
    sure = taste.sure
    if not sure.of:
        return ""
    words = f"Learnt from {counted(sure.of, 'choice')}, and from what was left as it is beside them."
    if not taste.shares:
        return f"{words} They do not say the same yet: the program's own prices hold."
    if sure.of > 1:
        words += f" Tried one by one on what the others say, {sure.after} of {sure.of} come out as you chose."
    return f"{words} That is little yet." if sure.of < FEW else words


def choice_words(choice: Chosen) -> str:
    """A choice in a line."""
    pair = choice.pair
    took, instead = map(_notes, (pair.took, pair.instead))
    return f"{pair.song or 'Untitled'}, {_place(pair.where)}: {took} rather than {instead}"


def _place(where: str) -> str:
    """A bar and its chord as the player reads it."""
    bar, comma, symbol = where.partition(", ")
    try:
        chord = parse_chord(symbol)
    except BadInput:  # whole rows are of several
        return where
    return where if chord is None else f"{bar}{comma}{chord.pretty}"


def _notes(words: str) -> str:
    """Notes as the player reads them, with a line between the hands."""
    read = (read_pitch(word) or word for word in words.replace(";", "|").split())
    return " ".join(note if isinstance(note, str) else note.pretty for note in read)


def from_choices(count: int) -> str:
    """From how many choices, in brackets."""
    return f" (from {counted(count, 'choice')})" if count else ""
