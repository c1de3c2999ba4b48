"""The song in other keys: everything moves along. Loads no arrays."""

from __future__ import annotations

from yellow_hinge.formats.chart_text import transpose_text
from yellow_hinge.song.edits import Edit, Register, change_key, key_move
from yellow_hinge.song.model import Song
from yellow_hinge.theory.keys import Key, plainest_key


def to_key(song: Song, key: Key, register: Register = "region") -> Edit:
    """The song in another key, its chart's text with it; what is lost or falls out of reach is said
    in the edit."""
    text = song.chart.text
    return change_key(song, key, transpose_text(text, key_move(song, key)) if text else "", register)


def shown_in(song: Song, key: Key, register: Register = "region") -> Song:
    """The song in another key to look at, to play or to print, in the usual names of its chords there."""
    return change_key(song, key, register=register, usual=True).song


def twelve_keys(home: Key) -> tuple[Key, ...]:
    """The song's own key as it is spelled, and the others from there upwards by half steps, each in
    its plainest spelling."""
    tonic = home.tonic.pitch_class
    return (home, *(plainest_key(tonic + step, home.minor) for step in range(1, 12)))
