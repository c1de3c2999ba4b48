"""Changes to how a take is played. What they change is told by :data:`Where`: the whole take, a section with
its round (0: all rounds), or a chord."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from fractions import Fraction
from typing import Any

from msgspec.structs import replace

from yellow_hinge.rhythm.patterns import Pattern
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import Edit, with_arrangement
from yellow_hinge.song.groove import Groove, RiffNote, Texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing

Where = tuple[str, int] | At | None


def with_groove(song: Song, groove: Groove, take_id: int | None = None) -> Song:
    """The song with another groove in one take, the current one where none is named."""
    take_id = song.current if take_id is None else take_id
    arrangement = replace(song.take_of(take_id).arrangement, groove=groove)
    return with_arrangement(song, take_id, arrangement)


def texture_at(groove: Groove, where: Where) -> Texture:
    """What is said at a place, and only there."""
    if where is None:
        return groove.whole
    texture = groove.chords.get(where) if isinstance(where, At) else groove.sections.get(where)
    return texture or Texture()


def set_texture(
    song: Song, where: Where, label: str, changes: Mapping[str, Any], take_id: int | None = None
) -> Edit:
    """Another texture at a place; a change to None leaves that to what stands around it."""
    groove = song.take_of(song.current if take_id is None else take_id).arrangement.groove
    texture = replace(texture_at(groove, where), **changes)
    return Edit(with_groove(song, _put(groove, where, texture), take_id), label)


def _put(groove: Groove, where: Where, texture: Texture) -> Groove:
    if where is None:
        return replace(groove, whole=texture)
    said = texture != Texture()
    if isinstance(where, At):
        chords = {at: one for at, one in groove.chords.items() if at != where}
        return replace(groove, chords={**chords, where: texture} if said else chords)
    parts = {part: one for part, one in groove.sections.items() if part != where}
    return replace(groove, sections={**parts, where: texture} if said else parts)


def change_groove(song: Song, label: str, take_id: int | None = None, **changes: Any) -> Edit:
    """Other fields of the groove: swing, ending, band."""
    groove = song.take_of(song.current if take_id is None else take_id).arrangement.groove
    return Edit(with_groove(song, replace(groove, **changes), take_id), label)


def with_pattern(song: Song, pattern: Pattern, take_id: int | None = None) -> Song:
    """The song with a pattern of the player's own, so that it sounds wherever the project is opened."""
    groove = song.take_of(song.current if take_id is None else take_id).arrangement.groove
    others = tuple(one for one in groove.patterns if one.id != pattern.id)
    return with_groove(song, replace(groove, patterns=(*others, pattern)), take_id)


def use_pattern(
    song: Song, where: Where, hand: str, pattern: Pattern, own: bool, *, take_id: int | None = None
) -> Edit:
    """A hand plays a pattern at a place; the player's ``own`` goes into the project with it."""
    if own:
        song = with_pattern(song, pattern, take_id)
    words = f"{hand.capitalize()} hand: {pattern.name}"
    return set_texture(song, where, words, {hand: pattern.id}, take_id)


def set_riff(song: Song, at: At, notes: Iterable[RiffNote], take_id: int | None = None) -> Edit:
    """The line of one's own over a chord; none takes it away."""
    groove = song.take_of(song.current if take_id is None else take_id).arrangement.groove
    row = tuple(sorted(notes, key=lambda note: (note.at_beats, note.key)))
    riffs = {one: kept for one, kept in groove.riffs.items() if one != at} | ({at: row} if row else {})
    return Edit(with_groove(song, replace(groove, riffs=riffs), take_id), "Riff" if row else "No riff")


def set_riffs(song: Song, rows: dict[At, tuple[RiffNote, ...]], label: str) -> Edit:
    """The lines over several chords of the current take at once."""
    groove = song.arrangement.groove
    riffs = {at: row for at, row in {**groove.riffs, **rows}.items() if row}
    return Edit(with_groove(song, replace(groove, riffs=riffs)), label)


def mark_pedal(song: Song, at: At, places: Iterable[Fraction] | None, take_id: int | None = None) -> Edit:
    """Where in a chord (beats) the pedal is changed; none: it is up; None: as its texture says."""
    groove = song.take_of(song.current if take_id is None else take_id).arrangement.groove
    marks = {one: kept for one, kept in groove.pedal_marks.items() if one != at}
    if places is not None:
        marks[at] = tuple(sorted(set(places)))
    label = "Pedal as the texture" if places is None else "Pedal"
    return Edit(with_groove(song, replace(groove, pedal_marks=marks), take_id), label)


def only_rhythm(before: Song, after: Song) -> bool:
    """Whether two songs differ in nothing but how they are played, or in the keys chosen to practise, and
    their patterns need the same of the grips, so that the voicings stay."""

    def bare(song: Song) -> Song:
        takes = tuple(
            replace(take, arrangement=replace(take.arrangement, groove=Groove())) for take in song.takes
        )
        return replace(song, takes=takes, keys_chosen=frozenset())

    if before.chart is not after.chart or bare(before) != bare(after):
        return False
    playing, other = Playing(before), Playing(after)
    return all(playing.struck(slot.index) == other.struck(slot.index) for slot in before.slots)
