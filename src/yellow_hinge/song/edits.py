"""Changes to a song: each takes a song and gives the changed one."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from dataclasses import dataclass, replace

from yellow_hinge.song.model import Choice, Settings, Song
from yellow_hinge.voicing.shape import Voicing


@dataclass(frozen=True, slots=True)
class Edit:
    """A changed song with the label that undo shows. Edits of one ``gesture`` undo together."""

    song: Song
    label: str
    gesture: str | None = None


def replace_chart(song: Song, read: Song) -> Song:
    """Take title, key, meter, tempo, bars and text of a newly read chart; keep the hands, and
    keep the choices of all chords that are still there."""
    kept: list[Choice | None] = [None] * len(read.slots)
    before = [str(slot.chord) for slot in song.slots]
    after = [str(slot.chord) for slot in read.slots]
    matcher = difflib.SequenceMatcher(None, before, after, autojunk=False)
    for old, new, size in matcher.get_matching_blocks():
        for offset in range(size):
            if old + offset < len(song.choices):
                kept[new + offset] = song.choices[old + offset]
    settings = replace(song.settings, numbering=read.settings.numbering)
    return replace(
        song, title=read.title, key=read.key, meter=read.meter, tempo=read.tempo,
        sections=read.sections, chart=read.chart, choices=tuple(kept), settings=settings,
    )  # fmt: skip


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
