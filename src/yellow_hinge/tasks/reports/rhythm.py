"""What the command line says of rhythm."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from msgspec.structs import replace

from yellow_hinge.song.groove_edits import with_groove
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import perform
from yellow_hinge.tasks.song.describe_song import bassist_keys
from yellow_hinge.voicing.recipes import Library

#: What ``--feel`` means, 0 (even) to 100 (2:1).
FEELS = {"straight": 0, "swing": 100}


def with_feel(song: Song, feel: str | None) -> Song:
    """The song with another feel; None: as it is."""
    if feel is None:
        return song
    return with_groove(song, replace(song.arrangement.groove, swing=FEELS[feel]))


def with_pedal(song: Song, way: str) -> Song:
    """The song with one way of the pedal all through, whatever is said for stretches."""
    groove = song.arrangement.groove
    stretches = {place: replace(texture, pedal=None) for place, texture in groove.sections.items()}
    chords = {at: replace(texture, pedal=None) for at, texture in groove.chords.items()}
    whole = replace(groove.whole, pedal=way)
    return with_groove(song, replace(groove, whole=whole, sections=stretches, chords=chords, pedal_marks={}))


def _number(quarters: Fraction) -> float:
    return round(float(quarters), 6)


def events_report(song: Song, library: Library) -> dict[str, Any]:
    """What sounds when, all that a MIDI file or a sound file of the song has, the pedal and the bars; in
    quarters from the first bar line, the pickup before 0."""
    heard = perform(song, bassist_keys(song, library), melody=True)
    return {
        "events": [
            {
                "beat": _number(event.start_quarters), "beats": _number(event.quarters), "midi": event.key,
                "part": event.part, "velocity": event.velocity, "chord": event.slot,
                "ornament": event.ornament,
            }
            for event in heard.notes
        ],
        "pedal": [{"beat": _number(event.start_quarters), "down": event.down} for event in heard.pedal],
        "bars": [
            {"beat": _number(bar.start_quarters), "meter": str(bar.bar.meter)} for bar in song.chart.played
        ],
    }  # fmt: skip


def events_text(song: Song, library: Library) -> str:
    """The same, a line each."""
    report = events_report(song, library)
    lines = [f"{one['beat']:9.3f} {one['beats']:7.3f} {one['part']:6} {one['midi']:3} {one['velocity']:3}"
             for one in report["events"]]  # fmt: skip
    return "\n".join(["    beat   beats part   key touch", *lines])
