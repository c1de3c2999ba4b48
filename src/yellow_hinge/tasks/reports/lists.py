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
                "id": one.id, "name": one.name, "family": one.family, "hands": list(one.hands),
                "meters": list(one.meters), "level": one.level, "feel": one.feel,
                "needs": one.needs, "pedal": one.pedal,
                "strokes": [str(stroke) for stroke in one.strokes],
            }
            for one in patterns.values()
        ]
    }  # fmt: skip


def patterns_text(patterns: Patterns) -> str:
    """The same, a line each."""
    return "\n".join(
        f"{one.id:26} {one.name} ({one.family}; {', '.join(one.hands)}; "
        f"{', '.join(one.meters) or 'any meter'}; level {one.level})"
        for one in patterns.values()
    )


def formulas_report() -> dict[str, Any]:
    """Every formula in numbers, with the reason it works; the player's own with the grips in half steps from
    the home note."""
    return {
        "formulas": [
            {
                "id": one.id, "name": one.name, "family": one.family, "minor": one.minor,
                "numbers": [chord.number for chord in one.chords],
                "beats": [float(chord.beats) for chord in one.chords], "why": one.why,
                **({"grips": [(each.left, each.right) for each in one.played]} if one.played else {}),
            }
            for one in every_formula().values()
        ]
    }  # fmt: skip


def formulas_text() -> str:
    """The same, a line each."""
    return "\n".join(
        f"{one.id:26} {' '.join(chord.number for chord in one.chords)}: {one.name}. {one.why}"
        for one in every_formula().values()
    )
