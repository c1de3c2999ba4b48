"""What a taste says, and how it was learnt, as text and as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from yellow_hinge.motion.counts import price_of
from yellow_hinge.tasks.taste.learning import OwnRow
from yellow_hinge.tasks.taste.said import by_change, from_choices, price_words, what_is_paid
from yellow_hinge.tasks.taste.taste import Taste
from yellow_hinge.theory.pretty import counted
from yellow_hinge.voicing.recipes import School

_MOST_SHAPES = 6


def taste_report(taste: Taste, school: School) -> dict[str, Any]:
    """The prices with their reasons, in half steps for a school."""
    return {
        "schema": "yellow-hinge/taste/1",
        "school": taste.school,
        "prices": [
            {
                "id": name, "what": what_is_paid(name), "share": share,
                "ours": price_of(school, name) / 100,
                "theirs": round(price_of(school, name) * share) / 100,
                "choices": taste.choices.get(name, 0),
            }
            for name, share in by_change(taste)
        ],
        "shapes": dict(sorted(taste.shapes.items(), key=lambda row: (-row[1], row[0]))),
    }  # fmt: skip


def learnt_report(taste: Taste, rows: Sequence[OwnRow], school: School) -> dict[str, Any]:
    """The same with what it was learnt from, and the agreement with rows that were left out."""
    return {
        **taste_report(taste, school),
        "rows": [row.name for row in rows],
        "choices": sum(grip is not None for row in rows for grip in row.grips),
        "agreement": {"hands": taste.sure.of, "before": taste.sure.before, "after": taste.sure.after},
    }


def taste_words(taste: Taste, school: School) -> str:
    """Every price in a line, the furthest from ours first."""
    if not taste.shares:
        return "Nothing was learnt: the program's own prices hold."
    lines = [
        f"{price_words(name, share, school)}{from_choices(taste.choices.get(name, 0))}"
        for name, share in by_change(taste)
    ]
    liked = sorted(taste.shapes.items(), key=lambda row: (-row[1], row[0]))
    named = [f"{name} ({count})" for name, count in liked if name.partition(" ")[2]][:_MOST_SHAPES]
    return "\n".join([*lines, *([f"Shapes taken most: {', '.join(named)}"] if named else [])])


def learnt_text(taste: Taste, rows: Sequence[OwnRow], school: School) -> str:
    """What was learnt, and how sure it is."""
    grips = sum(grip is not None for row in rows for grip in row.grips)
    words = f"Learnt from {counted(grips, 'grip')} in {counted(len(rows), 'row')}."
    if len(rows) > 1:
        words += (
            f" Of {taste.sure.of} hands the program had {taste.sure.before} exactly so; with what the other "
            f"rows say it has {taste.sure.after}."
        )
    return f"{words}\n{taste_words(taste, school)}"
