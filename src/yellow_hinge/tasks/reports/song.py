"""What the command line prints: the JSON of the fixed contract, and plain text."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from yellow_hinge.hands.geometry import span_mm
from yellow_hinge.motion.figures import effort_words, figures, half_steps
from yellow_hinge.motion.hinge import Held, HingeReport
from yellow_hinge.reharm.proposals import Proposal
from yellow_hinge.reharm.regions import function_of
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.tasks.keys.survey import KeyFigures
from yellow_hinge.tasks.song.describe_song import Row, row
from yellow_hinge.tasks.song.session import offer_of
from yellow_hinge.tasks.song.voice_song import Voiced, remarks
from yellow_hinge.theory.chord_symbol import NO_CHORD, symbol_text
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pretty import counted
from yellow_hinge.voicing.limits import muddy
from yellow_hinge.voicing.recipes import Library


def voice_report(voiced: Voiced, library: Library, takes: Sequence[Voiced] = ()) -> dict[str, Any]:
    """The ``yellow-hinge/voice/1`` object; in a loop the last hinge leads to the first chord. Each take says
    what it trades against the first one."""
    report = _voice_report(voiced, library)
    report["takes"] = [
        _voice_report(take, library) | {"trade": offer_of(take, takes[0]).trade} for take in takes
    ]
    return report


def _voice_report(voiced: Voiced, library: Library) -> dict[str, Any]:
    song, answer = voiced.song, voiced.answer
    shown = row(song, library)
    profile = song.hands
    warnings = _warnings(voiced, shown, library)
    effort = voiced.effort
    return {
        "schema": "yellow-hinge/voice/1",
        "title": song.title,
        "key": str(song.key),
        "school": song.arrangement.school,
        "chords": [
            {
                "bar": slot.bar,
                "beat": float(slot.beat),
                "beats": float(slot.beats),
                "symbol": symbol_text(slot.chord and (held.chord or slot.chord)),
                "number": NO_CHORD
                if slot.chord is None
                else song.number_of(held.chord or slot.chord, slot.key),
                "was": None if slot.was is None else str(slot.was),
                "recipe": {
                    "lh": held.voicing.left.recipe,
                    "rh": held.voicing.right.recipe,
                },
                "lh": _hand(held, "left", profile.octave_mm),
                "rh": _hand(held, "right", profile.octave_mm),
                "bassist": shown.bassist[slot.index],
                "warnings": warnings[slot.index],
            }
            for slot, held in zip(song.slots, shown.held, strict=True)
        ],
        "hinges": [hinge_report(report) for report in shown.hinges],
        "totals": {
            "motion": sum(report.motion_st for report in shown.hinges),
            "lh": sum(report.left.motion_st for report in shown.hinges),
            "rh": sum(report.right.motion_st for report in shown.hinges),
            "held": sum(report.held for report in shown.hinges),
            "cost": answer.cost / 100,
            "effort": effort.shares(),
            "optimal": answer.optimal,
            "gap": answer.gap / 100,
            "states": [answer.states[place] for place in answer.plays],
            "seconds": round(answer.seconds, 4),
        },
    }


def _warnings(voiced: Voiced, shown: Row, library: Library) -> list[list[str]]:
    """What a player should know of each chord: shapes that were borrowed, tones that yield to the
    tune, and rules that a locked voicing breaks."""
    profile = voiced.song.hands
    found = remarks(voiced, library)
    for own, held in zip(found, shown.held, strict=True):
        for side, hand in (("left", profile.left), ("right", profile.right)):
            keys = held.hand(side)[0].keys
            excess = profile.excess_mm(hand, keys)
            if excess > 0:
                own.append(f"{side} hand out of reach by {excess:.0f} mm")
            if muddy(keys):
                own.append(f"{side} hand too low for a close shape: muddy")
    return found


def _hand(held: Held, side: str, octave_mm: float) -> dict[str, Any]:
    shape, fingers = held.hand(side)
    span = span_mm(shape.keys[0], shape.keys[-1], octave_mm) if shape.keys else 0.0
    return {
        "midi": list(shape.keys),
        "names": [] if held.chord is None else [str(pitch) for pitch in shape.pitches(held.chord)],
        "degrees": list(shape.degrees),
        "fingers": list(fingers),
        "span_mm": round(span, 1),
    }


def hinge_report(report: HingeReport) -> dict[str, Any]:
    return {
        "motion": report.motion_st,
        "lh": report.left.motion_st,
        "rh": report.right.motion_st,
        "held": report.held,
        "entered": report.entered,
        "left": report.left_off,
        "largest": report.largest_st,
        "words": report.words,
        "moves": [
            {"hand": hand, "from": start, "to": to}
            for hand, motion in (("lh", report.left), ("rh", report.right))
            for start, to in motion.pairs
        ],
    }


def keys_report(found: Sequence[KeyFigures], library: Library) -> dict[str, Any]:
    """The ``yellow-hinge/keys/1`` object: the voice report of each key with its figures and reasons."""
    return {
        "schema": "yellow-hinge/keys/1",
        "title": found[0].voiced.song.title,
        "keys": [_voice_report(figures.voiced, library) | _key_figures(figures) for figures in found],
    }


def _key_figures(figures: KeyFigures) -> dict[str, Any]:
    carried = figures.carried
    return {
        "effort": figures.effort / 100, "motion": figures.motion, "largest": figures.largest,
        "lowest": figures.lowest,
        "highest": figures.highest, "stretch_mm": round(figures.stretch_mm, 1),
        "stretch_share": round(figures.stretch_share, 3), "black": round(figures.black, 3),
        "mud": figures.mud / 100,
        "profile": list(figures.profile), "start": figures.start, "why": figures.why,
        "carried": None if carried is None else {
            "effort": None if carried.effort is None else carried.effort / 100, "fails": list(carried.fails),
        },
    }  # fmt: skip


def swaps_report(song: Song, keys: Sequence[Key], proposals: Sequence[Proposal]) -> dict[str, Any]:
    """The ``yellow-hinge/swaps/1`` object: local key and function of every written chord, and all
    proposals with what the melody makes of them."""
    row = song.plain_slots
    afters = [*(slot.chord for slot in row[1:]), None]
    return {
        "schema": "yellow-hinge/swaps/1",
        "title": song.title,
        "key": str(song.key),
        "chords": [
            _place(song, slot)
            | {
                "key": str(key),
                "function": "none" if slot.chord is None else function_of(slot.chord, after, key).name,
            }
            for slot, key, after in zip(row, keys, afters, strict=True)
            if song.firsts[slot.at.written] == slot
        ],
        "proposals": [_proposal(song, proposal) for proposal in proposals],
    }


def _place(song: Song, slot: Slot) -> dict[str, Any]:
    return {
        "bar": slot.bar,
        "beat": float(slot.beat),
        "beats": float(slot.beats),
        "symbol": symbol_text(slot.chord),
        "number": NO_CHORD if slot.chord is None else song.number_of(slot.chord, slot.key),
    }


def _proposal(song: Song, proposal: Proposal) -> dict[str, Any]:
    return _place(song, song.firsts[proposal.at]) | {
        "rule": proposal.rule,
        "group": proposal.group,
        "rounds": [{"section": section, "round": turn} for section, turn in proposal.rounds],
        "chords": [
            {
                "symbol": str(timed.chord),
                "number": song.number_of(timed.chord, song.firsts[proposal.at].key),
                "beats": float(timed.beats),
            }
            for timed in proposal.chords
        ],
        "then": [
            _place(song, song.firsts[at])
            | {"chords": [{"symbol": str(t.chord), "beats": float(t.beats)} for t in row]}
            for at, row in proposal.then
        ],
        "reason": proposal.reason,
        "bass": [str(note) for note in proposal.bass],
        "bass_was": [str(note) for note in proposal.bass_was],
        "melody": {
            "fit": "none" if not proposal.notes else "fits" if proposal.safe else "clash",
            "clash": round(proposal.clash, 3),
            "notes": [
                {
                    "note": str(note.note.pitch),
                    "chord": str(note.chord),
                    "beats": float(note.note.quarters / song.firsts[proposal.at].meter.quarters_per_beat),
                    "kind": note.fit.kind.value,
                    "degree": note.fit.degree,
                    "reason": note.fit.reason,
                }
                for note in proposal.notes
            ],
        },
    }


def swaps_text(song: Song, proposals: Sequence[Proposal]) -> str:
    """All proposals in plain text, by place."""
    lines = []
    for proposal in proposals:
        slot = song.firsts[proposal.at]
        row = " ".join(f"{timed.chord}:{beats_text(timed.beats)}" for timed in proposal.every_chord)
        melody = "" if proposal.safe else "  CLASHES with the melody"
        lines.append(
            f"{f'bar {slot.bar}':10}{slot.chord!s:12}{row:28} {proposal.group}: {proposal.reason}{melody}"
        )
    return "\n".join(lines)


def voice_text(voiced: Voiced, library: Library) -> str:
    """A crib sheet in plain text: chord, both hands, and the move to the next chord."""
    song = voiced.song
    shown = row(song, library)
    lines = [f"{song.title or 'Untitled'} in {song.key}, school {song.arrangement.school}", ""]
    for slot, held in zip(song.slots, shown.held, strict=True):
        lines.append(_text_line(slot, held))
        if slot.index < len(shown.hinges):
            report = shown.hinges[slot.index]
            lines.append(f"{'':10}{half_steps(report.motion_st)}. {report.words}")
    for slot, words in zip(song.slots, remarks(voiced, library), strict=True):
        lines += [f"bar {slot.bar}, {slot.chord}: {word}" for word in words]
    lines += ["", f"{_effort_line(voiced)}. {counted(len(shown.hinges), 'change')}."]
    return "\n".join(lines)


def _effort_line(voiced: Voiced) -> str:
    answer = voiced.answer
    return effort_words(voiced.effort, figures(answer.row, answer.loop).motion_st)


def _text_line(slot: Slot, held: Held) -> str:
    if slot.chord is None:
        return f"{f'bar {slot.bar}':10}N.C."
    hands = [
        " ".join(str(pitch) for pitch in held.hand(side)[0].pitches(slot.chord)) for side in ("left", "right")
    ]
    return f"{f'bar {slot.bar}':10}{held.chord!s:12}{hands[0]:16}| {hands[1]}"
