"""For a line over the chords: scale, guide tones and what to aim for, in words."""

from __future__ import annotations

from yellow_hinge.motion.hinge import SIDES, Held
from yellow_hinge.reharm.lines import Scale, guide_line, passage_scales, scale_for, targets
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pretty import pretty_accidentals, pretty_degree


def scale_at(song: Song, index: int, key: Key) -> Scale | None:
    """The scale over a slot; None over "no chord"."""
    chord = song.slots[index].chord
    return None if chord is None else scale_for(chord, _after(song, index), key)


def _after(song: Song, index: int) -> ChordSymbol | None:
    return song.slots[index + 1].chord if index + 1 < len(song.slots) else None


def free_hand(held: Held) -> str | None:
    """The hand that rests beside one that plays; None where both play, or neither."""
    left, right = (bool(held.hand(side)[0].keys) for side in SIDES)
    return None if left == right else "right" if left else "left"


def guide_words(song: Song, index: int, key: Key) -> str:
    """For the hand that is free: the scale, the guide tone and what leads on, in a line."""
    scale, chord = scale_at(song, index, key), song.slots[index].chord
    if scale is None or chord is None:
        return ""
    guide = guide_line([slot.chord for slot in song.slots])[index]
    parts = [str(scale)]
    parts += [f"guide tone {guide.note.pretty}"] if guide is not None else []
    aims = targets(chord, _after(song, index), key)[:1]
    parts += [f"next: {pretty_accidentals(aims[0])}"] if aims else []
    return f"For a line: {'; '.join(parts)}. S says more."


def soloing_words(song: Song, index: int, key: Key) -> str:
    """For playing a line over a slot: scale and why, guide tone, what to aim for, and the scales that
    serve the whole song."""
    scale, chord = scale_at(song, index, key), song.slots[index].chord
    if scale is None or chord is None:
        return "No chord: rest, or hold the last line."
    chords = [slot.chord for slot in song.slots]
    guide = guide_line(chords)[index]
    lines = [f"{scale}: {scale.why}."]
    if guide is not None:
        lines.append(f"Guide-tone line: {guide.note.pretty} ({pretty_degree(guide.degree)}).")
    aims = targets(chord, _after(song, index), key)
    if aims:
        lines.append(f"Into the next chord: {pretty_accidentals('; '.join(aims))}.")
    lines += [
        f"Whole song: {passage_scale.scale}, {passage_scale.scale.why}; over the others take care."
        for passage_scale in passage_scales(chords, song.key_here, 2)
    ]
    return "\n".join(lines)
