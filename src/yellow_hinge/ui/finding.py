"""Whatever can be wanted, by its words: acts, places and names of a song, what ships, what is explained."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial

from msgspec import Struct

from yellow_hinge.rhythm.patterns import Pattern
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.glossary import WORDS, Word, found_in
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.ui.commands import Command, always
from yellow_hinge.voicing.recipes import School

#: So many are listed: who wants others says more.
MOST_FOUND = 40
#: Signs, as they are typed.
_TYPED = str.maketrans("♯♭−", "#b-")
_WORD = re.compile(r"[^\s,.:;()]+")
_SIGNS = {"#": "sharp", "b": "flat", "##": "double sharp", "bb": "double flat"}


class Thing(Struct, frozen=True):
    """Something that can be found: what it is called, which kind of thing it is, where it is, and what
    choosing it does (``go``). ``more`` is looked through as well; ``can``: whether it is possible now;
    ``act``: the id of an act, whose key can be changed."""

    words: str
    kind: str
    where: str
    go: Callable[[], object]
    keys: str = ""
    more: str = ""
    can: Callable[[], bool] = always
    act: str = ""


def ranked(query: str, things: Iterable[Thing], most: int = MOST_FOUND) -> list[Thing]:
    """Those in which every word of a query begins a word, the nearest first: what it is called goes before
    its kind and place, those before what is said of it; a short name before a long one. Without a query all,
    as they come."""
    asked = _WORD.findall(query.lower())
    rows = [(far, number, thing) for number, thing in enumerate(things) if (far := _far(asked, thing))]
    return [thing for _, _, thing in sorted(rows, key=lambda row: row[:2])[:most]]


def _far(asked: Sequence[str], thing: Thing) -> tuple[int, int] | None:
    """How far a thing is from what is asked for; None where a word of that is nowhere in it."""
    texts = (thing.words, f"{thing.kind} {thing.where} {thing.keys}", thing.more)
    known = [_WORD.findall(_plain(text)) for text in texts]
    total = 0
    for word in asked:
        near = [
            place * 4 + (word != one) + (one is not words[0])
            for place, words in enumerate(known)
            for one in words
            if one.startswith(word)
        ]
        if not near:
            return None
        total += min(near)
    return total, len(thing.words) if asked else 0


def _plain(text: str) -> str:
    """Small letters, with signs as they are typed."""
    return text.lower().translate(_TYPED)


def spoken(name: NoteName) -> str:
    """A note as one says it: "A flat"."""
    text = str(name)
    return f"{text[0]} {_SIGNS[text[1:]]}" if text[1:] else text


def _chord_words(chord: ChordSymbol) -> str:
    return " ".join((str(chord), spoken(chord.root), chord.kind, *chord.degrees))


def acts(
    where: str, commands: Iterable[Command], to_page: Callable[[str], object],
    refused: Callable[[Command], object],
) -> Iterator[Thing]:  # fmt: skip
    """What can be done on a page: it is gone to, and the act done; where it cannot be done, that is said."""

    def run(command: Command) -> None:
        if where:
            to_page(where)
        if not command.try_run():
            refused(command)

    for command in commands:
        yield Thing(
            command.said.replace("...", ""), "act", where, partial(run, command), keys=command.key_words,
            more=f"{command.words} {command.menu} {command.tip}", can=command.enabled, act=command.id,
        )  # fmt: skip


def in_song(
    song: Song, to_slot: Callable[[int], object], to_take: Callable[[int], object]
) -> Iterator[Thing]:
    """Sections, chords, bars and takes of a song. A chord is listed once for each bar that it stands in."""
    for index, name in sorted(song.section_starts.items()):
        yield Thing(name, "section", "Hinges", partial(to_slot, index), more=f"bar {song.slots[index].bar}")
    seen: set[tuple[str, int]] = set()
    bars: set[int] = set()
    for slot in song.slots:
        if slot.bar not in bars:
            bars.add(slot.bar)
            yield Thing(f"bar {slot.bar}", "bar", "Hinges", partial(to_slot, slot.index), more=slot.section)
        if slot.chord is not None and (str(slot.chord), slot.bar) not in seen:
            seen.add((str(slot.chord), slot.bar))
            yield Thing(
                f"{slot.chord.pretty}, bar {slot.bar}", "chord", "Hinges", partial(to_slot, slot.index),
                more=f"{_chord_words(slot.chord)} {slot.section}",
            )  # fmt: skip
    for take in song.takes:
        words = "the take that is worked on" if take.id == song.current else ""
        yield Thing(take.name, "take", "Takes", partial(to_take, take.id), more=words)


def patterns(known: Mapping[str, Pattern], to_pattern: Callable[[Pattern], object]) -> Iterator[Thing]:
    """Patterns for the hands."""
    for pattern in known.values():
        more = f"{pattern.family} {' '.join(pattern.hands)} hand {' '.join(pattern.meters)}"
        yield Thing(pattern.name, "pattern", "Rhythm", partial(to_pattern, pattern), more=more)


def words(seen: str, chord: ChordSymbol | None, hear: Callable[[Word], object]) -> Iterator[Thing]:
    """Words of theory, those that can be read now first, each with what it means."""
    here = found_in(seen)
    for word in (*here, *(one for one in WORDS if one not in here)):
        said = word.explained(chord)
        yield Thing(word.name, f"word: {said}", "", partial(hear, word), more=" ".join((*word.forms, said)))


def page_helps(page: str, text: str, to_help: Callable[[str], object]) -> Iterator[Thing]:
    """What is said of a page, paragraph by paragraph."""
    for paragraph in text.split("\n\n"):
        plain = paragraph.replace("**", "").replace("\n", " ")
        yield Thing(
            plain.partition(": ")[0].partition(". ")[0], "help", page, partial(to_help, page), more=plain
        )


def schools(known: Mapping[str, School], take: Callable[[str], object]) -> Iterator[Thing]:
    """Schools, to be played in from now."""
    for school in known.values():
        yield Thing(f"Play as {school.name}", "school", "Hinges", partial(take, school.id), more=school.about)
