"""A verdict as a sentence, and what to try next."""

from __future__ import annotations

from collections.abc import Sequence

from yellow_hinge.motion.hinge import interval_words
from yellow_hinge.practice.listening import Note, Verdict, hands_that_slipped

#: Faults that are said one by one; more of them are counted.
_MOST_SAID = 3
#: Faults in one stroke from which one should look without playing in time.
_LOST = 4


def sentence(verdict: Verdict) -> str:
    """What happened at a stroke: "Right middle finger played E, wanted E♭: a half step too high. The rest
    stayed: good."."""
    if verdict.clean:
        return _clean(verdict)
    faults = verdict.faults
    if not any(note.fault in ("right", "wrong", "octave", "extra") for note in verdict.notes):
        return "Nothing was played here."
    said = [_fault(verdict, note) for note in faults[:_MOST_SAID]]
    if len(faults) > _MOST_SAID:
        said.append(f"{len(faults) - _MOST_SAID} more were wrong.")
    said += _timing(verdict)
    rest = _rest(verdict)
    return " ".join([*said, rest] if rest else said)


def _clean(verdict: Verdict) -> str:
    if verdict.off_s is None:
        return "Right."
    return "Right, and in time."


def _fault(verdict: Verdict, note: Note) -> str:
    stroke = verdict.stroke
    if note.wanted is None:
        assert note.played is not None
        return f"{stroke.name(note.played)} was struck besides."
    who = stroke.who(note.wanted)
    who = f"{who[:1].upper()}{who[1:]}"
    if note.played is None:
        return f"{who}: {stroke.name(note.wanted)} was missing."
    if note.fault == "octave":
        octaves = abs(note.played - note.wanted) // 12
        far = "an octave" if octaves == 1 else f"{octaves} octaves"
        return f"{who} played the right {stroke.name(note.wanted)} {far} too {_way(note)}."
    far = interval_words(note.played - note.wanted)
    names = f"played {stroke.name(note.played)}, wanted {stroke.name(note.wanted)}"
    return f"{who} {names}: {far} too {_way(note)}."


def _way(note: Note) -> str:
    assert note.played is not None and note.wanted is not None
    return "high" if note.played > note.wanted else "low"


def _timing(verdict: Verdict) -> list[str]:
    found = []
    if verdict.late or verdict.early:
        assert verdict.off_s is not None
        way = "late" if verdict.late else "early"
        found.append(f"{abs(verdict.off_s) * 1000:.0f} ms {way}.")
    if verdict.loose:
        found.append(f"The notes came {verdict.spread_s * 1000:.0f} ms apart: strike them together.")
    return found


def _rest(verdict: Verdict) -> str:
    """What went well besides, where anything did."""
    right = [note for note in verdict.notes if note.fault == "right"]
    if not right or not verdict.faults:
        return "The notes were right." if right else ""
    time = " and in time" if verdict.off_s is not None and not (verdict.late or verdict.early) else ""
    if len(right) == 1:
        assert right[0].wanted is not None
        name = verdict.stroke.name(right[0].wanted)
        return f"{name} stayed: good." if verdict.kept else f"{name} was right{time}."
    if len(verdict.kept) == len(right):
        return "The rest stayed: good."
    return f"The rest was right{time}."


def advice(verdicts: Sequence[Verdict], both_hands: bool) -> str:
    """What to try next, after a round or a stroke; empty where it was clean."""
    bad = [verdict for verdict in verdicts if not verdict.clean]
    if not bad:
        return ""
    hands = {side for verdict in bad for side in hands_that_slipped(verdict)}
    if any(len(verdict.faults) >= _LOST for verdict in bad):
        return "Find the grip without the click first, then once slowly."
    if both_hands and len(hands) == 1:
        return f"Try the {hands.pop()} hand alone once."
    if not hands and all(verdict.late for verdict in bad):
        return "The change wants more time: one step slower."
    if not hands and all(verdict.early for verdict in bad):
        return "There is time: listen for the click."
    return "Once more, a little slower."


#: Of a round of a hand that rests all through.
NOTHING_TO_PLAY = "This hand rests here: there is nothing to play. Choose the other hand, or both."


def round_words(verdicts: Sequence[Verdict]) -> str:
    """A round in a line: "7 of 8 changes clean"."""
    changes = [verdict for verdict in verdicts if verdict.stroke.change >= 0 and not verdict.stroke.backwards]
    clean = sum(verdict.clean for verdict in changes)
    if changes and clean == len(changes):
        return "Clean." if len(changes) == 1 else f"All {len(changes)} changes clean."
    return f"{clean} of {len(changes)} changes clean."
