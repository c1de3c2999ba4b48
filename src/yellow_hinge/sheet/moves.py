"""A hinge in one sentence, short enough to be read while one plays."""

from __future__ import annotations

from collections.abc import Iterator

from yellow_hinge.motion.hinge import SIDES, Held, HingeReport, interval_words


def move_sentence(report: HingeReport) -> str:
    """What each finger does: "Right thumb down a half step, the rest stays."."""
    before, after = report.ends
    if not before.voicing.keys or not after.voicing.keys:
        return ""
    parts = [words for side in SIDES for words in _of_hand(before, after, side, report)]
    moved = report.motion_st or report.entered or report.left_off
    if not moved:
        return "All stays."
    if report.held:
        parts.append("the rest stays")
    text = ", ".join(parts)
    return f"{text[:1].upper()}{text[1:]}."


def _of_hand(before: Held, after: Held, side: str, report: HingeReport) -> Iterator[str]:
    motion = report.hand(side)
    moving = [(start, to) for start, to in motion.pairs if start != to]
    steps = {to - start for start, to in moving}
    if len(moving) > 1 and len(steps) == 1 and not (motion.held or motion.entered or motion.left):
        yield f"{side} hand {_way(steps.pop())}"
        return
    for start, to in moving:
        yield f"{side} {before.finger(side, start)} {_way(to - start)}"
    for key in motion.entered:
        yield f"{side} {after.finger(side, key)} adds {after.printed(side, key)}"
    for key in motion.left:
        yield f"{side} {before.finger(side, key)} lets go"


def _way(step: int) -> str:
    return f"{'up' if step > 0 else 'down'} {interval_words(step)}"
