"""Reading the order in which sections are played."""

from __future__ import annotations

from collections.abc import Sequence

from yellow_hinge.formats.chart_text.complaints import Complaints, Place

#: Entries of a form, far beyond any song: a limit on hostile input.
MAX_ENTRIES = 400


def read_form(complaints: Complaints, text: str, place: Place, names: Sequence[str]) -> tuple[str, ...]:
    """The names in order, the longest that fits each time; blanks and commas part them. ``place`` is
    where the text stands without its outer blanks."""
    by_length = sorted(filter(None, names), key=len, reverse=True)
    before = place.column - (len(text) - len(text.lstrip()))
    found: list[str] = []
    index = 0
    while index < len(text):
        if text[index] == "," or text[index].isspace():
            index += 1
            continue
        name = next((name for name in by_length if _stands_at(name, text, index)), None)
        if name is None:
            word = text[index:].split(",", maxsplit=1)[0].split(maxsplit=1)[0]
            known = ", ".join(filter(None, names)) or "none yet"
            at = Place(place.line, before + index, len(word))
            complaints.add(at, f"{word!r} is no section", f"sections are: {known}")
        elif len(found) == MAX_ENTRIES:
            complaints.add(place, f"more than {MAX_ENTRIES} entries", "give sections an xN instead")
            break
        else:
            found.append(name)
        index += len(word if name is None else name)
    return tuple(found)


def _stands_at(name: str, text: str, index: int) -> bool:
    end = index + len(name)
    return text.startswith(name, index) and (end == len(text) or text[end] in " \t,")
