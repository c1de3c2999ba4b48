"""What there is to choose from, as the command line lists it: schools, patterns, formulas. Nothing here loads
the search."""

from __future__ import annotations

from typing import Any

from yellow_hinge.rhythm.patterns import Patterns
from yellow_hinge.tasks.swaps.own_formulas import every_formula
from yellow_hinge.voicing.recipes import Library


def schools_report(library: Library) -> dict[str, Any]:
    """All schools with what they mean."""
    return {
        "schools": [
            {
                "id": school.id,
                "name": school.name,
                "about": school.about,
                "bass": school.bass,
                "colour": school.colour,
            }
            for school in library.schools.values()
        ]
    }


def patterns_report(patterns: Patterns) -> dict[str, Any]:
    """Every pattern with the hands and meters it is for; no meters: any."""
    return {
        "patterns": [
            {
                "id": pattern.id, "name": pattern.name, "family": pattern.family,
                "hands": list(pattern.hands),
                "meters": list(pattern.meters), "level": pattern.level, "feel": pattern.feel,
                "needs": pattern.needs, "pedal": pattern.pedal,
                "strokes": [str(stroke) for stroke in pattern.strokes],
            }
            for pattern in patterns.values()
        ]
    }  # fmt: skip


def patterns_text(patterns: Patterns) -> str:
    """The same, a line each."""
    return "\n".join(
        f"{pattern.id:26} {pattern.name} ({pattern.family}; {', '.join(pattern.hands)}; "
        f"{', '.join(pattern.meters) or 'any meter'}; level {pattern.level})"
        for pattern in patterns.values()
    )


def formulas_report() -> dict[str, Any]:
    """Every formula in numbers, with the reason it works; the player's own with the grips in half steps from
    the home note."""
    return {
        "formulas": [
            {
                "id": formula.id, "name": formula.name, "family": formula.family, "minor": formula.minor,
                "numbers": [chord.number for chord in formula.chords],
                "beats": [float(chord.beats) for chord in formula.chords], "why": formula.why,
                **({"grips": [(each.left, each.right) for each in formula.played]} if formula.played else {}),
            }
            for formula in every_formula().values()
        ]
    }  # fmt: skip


def formulas_text() -> str:
    """The same, a line each."""
    return "\n".join(
        f"{formula.id:26} {' '.join(chord.number for chord in formula.chords)}: {formula.name}. {formula.why}"
        for formula in every_formula().values()
    )
