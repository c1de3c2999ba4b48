"""What the command line says of shapes and of grips, one's own included."""

from __future__ import annotations

from typing import Any

from yellow_hinge.errors import BadInput
from yellow_hinge.motion.figures import half_steps
from yellow_hinge.tasks.grips.judge import Judged, JudgedRow, Player
from yellow_hinge.tasks.grips.names import names_of
from yellow_hinge.tasks.grips.page import read_symbol
from yellow_hinge.tasks.reports.song import hinge_report
from yellow_hinge.tasks.song.problem import wish_for
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import Library


def candidates_report(
    symbols: list[str], key: Key | None, player: Player, library: Library
) -> dict[str, Any]:
    """Every shape of both hands for each symbol; a bad symbol gives its error in place."""
    return {"results": [_candidates(text, key, player, library) for text in symbols]}


def _candidates(text: str, key: Key | None, player: Player, library: Library) -> dict[str, Any]:
    try:
        chord = read_symbol(text, key)
    except BadInput as error:
        return {"symbol": text, "error": "; ".join(str(problem) for problem in error.problems)}
    if chord is None:
        return {"symbol": text, "lh": [], "rh": [], "pairs": 0}
    found = candidates(wish_for(chord, key, player.arrangement, player.hands, library), library)
    return {
        "symbol": text,
        "lh": [{"midi": list(shape.keys), "recipe": shape.recipe} for shape in found.left],
        "rh": [{"midi": list(shape.keys), "recipe": shape.recipe} for shape in found.right],
        "pairs": int(found.legal.sum()),
    }


def judge_report(row: JudgedRow) -> dict[str, Any]:
    """The ``judge`` object: each grip, the changes between them, and the least effort that the same
    chords need."""
    return {
        "schema": "yellow-hinge/judge/1",
        "results": [_judged(judged) for judged in row.grips],
        "hinges": [hinge_report(report) for report in row.hinges],
        "row_effort": row.effort / 100,
        "least_effort": None if row.least is None else row.least / 100,
    }


def _judged(judged: Judged) -> dict[str, Any]:
    sides = {"lh": "left", "rh": "right"}
    return {
        "symbol": str(judged.grip.chord),
        "lh": list(judged.voicing.left.keys),
        "rh": list(judged.voicing.right.keys),
        "legal": judged.legal,
        "broken": [{"rule": rule.rule, "words": rule.words} for rule in judged.broken],
        "marks": [{"rule": mark.rule, "words": mark.words} for mark in judged.marks],
        "degrees": {short: list(judged.voicing.hand(side).degrees) for short, side in sides.items()},
        "missing": list(judged.missing),
        "doubled": list(judged.doubled),
        "span_mm": {short: round(judged.span_mm(side), 1) for short, side in sides.items()},
        "reach": {short: judged.reach(side) for short, side in sides.items()},
        "fingers": {"lh": list(judged.fingers[0]), "rh": list(judged.fingers[1])},
        "names": names_of(judged.names),
        "effort": judged.effort / 100,
    }


def judge_text(row: JudgedRow) -> str:
    """The same in plain words."""
    lines = []
    for place, judged in enumerate(row.grips):
        hands = " ; ".join(
            " ".join(str(pitch) for pitch in judged.voicing.hand(side).pitches(judged.grip.chord))
            for side in ("left", "right")
        )
        names = ", ".join(str(name.chord) for name in judged.names[:3])
        lines.append(f"{judged.grip.chord!s:12}{hands}  effort {judged.effort / 100:.1f}  ({names})")
        lines += [f"{'':12}{rule.words}" for rule in (*judged.broken, *judged.marks)]
        if place < len(row.hinges):
            lines.append(f"{'':4}{half_steps(row.hinges[place].motion_st)}. {row.hinges[place].words}")
    least = "" if row.least is None else f"; the least for these chords is {row.least / 100:.1f}"
    return "\n".join([*lines, "", f"Effort of the row {row.effort / 100:.1f}{least}."])
