"""Changes to a song: each takes a song and gives the changed one."""

from __future__ import annotations

import difflib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from yellow_hinge.song.model import Ask, Choice, ChordAt, Settings, Song, Taste
from yellow_hinge.voicing.shape import Voicing


@dataclass(frozen=True, slots=True)
class Edit:
    """A changed song with the label that undo shows. Edits of one ``gesture`` undo together."""

    song: Song
    label: str
    gesture: str | None = None


def replace_chart(song: Song, read: Song) -> Song:
    """Take title, key, meter, tempo, bars and text of a newly read chart; keep the hands, and
    keep the choices, wishes and swaps of all chords that are still there."""
    settings = replace(song.settings, numbering=read.settings.numbering)
    matched = _matching(
        [(str(slot.chord), slot.beats) for slot in song.written],
        [(str(slot.chord), slot.beats) for slot in read.written],
    )
    swaps = {matched[old]: chords for old, chords in song.swaps.items() if old in matched}
    after = replace(
        song, title=read.title, key=read.key, meter=read.meter, tempo=read.tempo,
        sections=read.sections, chart=read.chart, choices=(), asks=(), swaps=swaps, settings=settings,
        keys_set={matched[old]: key for old, key in song.keys_set.items() if old in matched},
        untouched=frozenset(matched[old] for old in song.untouched if old in matched),
    )  # fmt: skip
    return _with_kept(song, after)


def _matching(before: Sequence[object], after: Sequence[object]) -> dict[int, int]:
    """Old place -> new place of all that two rows have in common, in order."""
    matcher = difflib.SequenceMatcher(None, before, after, autojunk=False)
    return {
        old + offset: new + offset
        for old, new, size in matcher.get_matching_blocks()
        for offset in range(size)
    }


def _with_kept(before: Song, after: Song) -> Song:
    """``after`` with the choices and wishes of those chords of ``before`` that it still has."""
    matched = _matching([str(slot.chord) for slot in before.slots], [str(slot.chord) for slot in after.slots])
    choices: list[Choice | None] = [None] * len(after.slots)
    asks: list[Ask | None] = [None] * len(after.slots)
    for old, new in matched.items():
        choices[new] = before.choices[old] if old < len(before.choices) else None
        asks[new] = before.asks[old] if old < len(before.asks) else None
    return replace(after, choices=tuple(choices), asks=tuple(asks) if any(asks) else ())


def change_swaps(song: Song, swaps: Mapping[int, tuple[ChordAt, ...]]) -> Song:
    """Other swaps, by place of the written chord; what sounds as before keeps its voicing."""
    return _with_kept(song, replace(song, swaps=dict(swaps), choices=(), asks=()))


def give_back(song: Song, written: int) -> Song:
    """The chart's own chord comes back in one place."""
    return change_swaps(song, {place: row for place, row in song.swaps.items() if place != written})


def with_rule(song: Song, rule: str, on: bool) -> Song:
    """Switch a swap rule on or off for the song."""
    off = set(song.settings.rules_off) - {rule} | (set() if on else {rule})
    return replace(song, settings=replace(song.settings, rules_off=tuple(sorted(off))))


def ask_of_chord(song: Song, index: int, ask: Ask) -> Song:
    """Fix something of one chord, or give it a taste of its own."""
    asks = list(song.asks) + [None] * (len(song.slots) - len(song.asks))
    asks[index] = ask if ask != Ask() else None
    return replace(song, asks=tuple(asks) if any(asks) else ())


def taste_of_section(song: Song, section: str, taste: Taste) -> Song:
    """Give a section a taste of its own; an empty one takes it away."""
    tastes = {name: kept for name, kept in song.tastes.items() if name != section}
    if taste != Taste():
        tastes[section] = taste
    return replace(song, tastes=tastes)


def change_settings(song: Song, settings: Settings) -> Song:
    """Other hands, school, colour or bass. Voicings that are not locked are to be solved anew."""
    return replace(song, settings=settings)


def choose(song: Song, index: int, voicing: Voicing, locked: bool) -> Song:
    """Put a voicing into one slot."""
    choices = list(song.choices) + [None] * (len(song.slots) - len(song.choices))
    choices[index] = Choice(voicing, locked)
    return replace(song, choices=tuple(choices))


def set_lock(song: Song, index: int, locked: bool) -> Song:
    """Lock or unlock what a slot holds. The slot must have a voicing."""
    voicing = song.voicing(index)
    assert voicing is not None
    return choose(song, index, voicing, locked)


def with_voicings(song: Song, voicings: Sequence[Voicing]) -> Song:
    """Put in a whole answer; locks stay."""
    choices = tuple(Choice(voicing, song.locked(index)) for index, voicing in enumerate(voicings))
    return replace(song, choices=choices)
