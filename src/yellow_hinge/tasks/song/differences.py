"""What two states of a song differ in, in a few words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.matching import matched
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.drafts import check


def difference(before: Song | None, after: Song, draft: str | None = None) -> str:
    """What ``after`` has that ``before`` has not; the whole song in figures where there is none
    before; nothing where nothing differs that a player decided or typed."""
    if before is None:
        bars = len(after.chart.played)
        parts = [f"never saved, {_count(bars, 'bar')}"]
    else:
        parts = [*_charts(before, after), *_decisions(before, after)]
    if draft is not None:
        places = len(check(draft).problems)
        parts.append("text" + (f" with {_count(places, 'place')} to mend" if places else " not read yet"))
    return ", ".join(parts)


def _count(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


def _charts(before: Song, after: Song) -> list[str]:
    if before.chart.text == after.chart.text and before.chart == after.chart:
        return []
    _, by = matched(before.chart, after.chart)
    other = sum(str(written.chord) != str(now.chord) for written, now in by.pairs.values())
    new = len(after.chart.written) - len(by.pairs)
    gone = len(before.chart.written) - len(by.pairs)
    words = [(other, "changed"), (new, "new"), (gone, "gone")]
    said = [f"{_count(number, 'chord')} {what}" for number, what in words if number]
    return said or ["the text around the chords"]


#: Field of an arrangement -> what a difference in it is called. In those that hold entries each one that
#: differs counts, and has a word for several; in ``choices`` what the player locked.
WORDS: dict[str, tuple[str, str]] = {
    "school": ("the school", ""), "colour": ("the colour", ""), "bass": ("who has the bass", ""),
    "melody": ("what the tune means", ""), "hands": ("which hands play", ""),
    "inverted": ("inverted basses", ""), "loop": ("the way back", ""),
    "levels": ("what matters", ""), "rules_off": ("rules switched off", ""),
    "tastes": ("section with wishes", "sections with wishes"), "choices": ("own grip", "own grips"),
    "rules": ("the rules for a stretch", ""), "groove": ("the rhythm", ""),
    "asks": ("chord with wishes", "chords with wishes"), "swaps": ("swap", "swaps"),
    "keys_set": ("local key", "local keys"),
    "shift_st": ("the key of a take", ""), "top_line": ("what the top line does", ""),
    "plan": ("how the top line lies", ""), "style": ("the style of swaps", ""),
    "prices": ("whose taste it is voiced with", ""),
    "untouched": ("chord kept as it is", "chords kept as they are"),
}  # fmt: skip


def _decisions(before: Song, after: Song) -> list[str]:
    old = {take.id: take for take in before.takes}
    counts = dict.fromkeys(WORDS, 0)
    for take in after.takes:
        then = old[take.id].arrangement if take.id in old else Arrangement()
        for name in WORDS:
            counts[name] += _differ(_decided(then, name), _decided(take.arrangement, name))
    parts = [_said(name, number) for name, number in counts.items() if number]
    names = [[(take.id, take.name) for take in song.takes] for song in (before, after)]
    others = {
        "the takes": names[0] != names[1],
        "which take sounds where": before.route != after.route,
        "the hands": before.hands != after.hands,
        "the keys to practise": before.keys_chosen != after.keys_chosen,
    }
    return parts + [words for words, differ in others.items() if differ]


def _said(name: str, number: int) -> str:
    one, several = WORDS[name]
    return f"{number} {one if number == 1 else several}" if several else one


def _decided(arrangement: Arrangement, name: str) -> Mapping[Any, Any]:
    """A field as entries; what a search chose by itself is no decision."""
    value = getattr(arrangement, name)
    if name == "choices":
        return {at: choice for at, choice in value.items() if choice.locked}
    if isinstance(value, frozenset):
        return dict.fromkeys(value, True)
    return value if isinstance(value, Mapping) else {name: value}


def _differ(one: Mapping[Any, Any], other: Mapping[Any, Any]) -> int:
    return sum(one.get(key) != other.get(key) for key in {*one, *other})
