"""Practice for whoever asks: songs ready to be practised, the log in its place, plans and reports."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from msgspec.structs import asdict
from platformdirs import user_data_path

from yellow_hinge.practice.history import sure_of, weeks
from yellow_hinge.practice.log import Log, Try, as_rows
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.plan import Block, Shelf, Wishes, plan
from yellow_hinge.practice.simulate import Order, Simulation
from yellow_hinge.stopping import Progress, always, ask
from yellow_hinge.theory.pretty import counted

LOG_NAME = "practice.sqlite"
#: What may be asked for.
MOST_MINUTES, MOST_DAYS = 240.0, 365
CAUTION = (
    "Short blocks with breaks, slow first, small rises in tempo. Keep hands and shoulders loose and begin at "
    "moderate volume, above all with headphones. Stop at pain or numbness, and see a teacher or clinician."
)


def log_path() -> Path:
    """Where the practice log lies: in the data folder."""
    return user_data_path("yellow-hinge") / LOG_NAME


def log_at(path: Path | None = None) -> Log:
    """The log in a file; in its usual place where none is named."""
    return Log(path or log_path())


def tries_of(log: Log, pieces: Sequence[Piece]) -> list[Try]:
    """What is known of some songs; nothing where there is no log yet, and none is made."""
    return log.tries([piece.id for piece in pieces]) if log.path.exists() else []


def shelf_of(pieces: Sequence[Piece], log: Log, moment: datetime) -> Shelf:
    """Songs with what is known of their changes."""
    return Shelf(pieces, sure_of(pieces, tries_of(log, pieces), moment), moment)


def block_row(block: Block) -> dict[str, Any]:
    """A block as it is printed and kept."""
    return {
        "drill": block.kind, "what": block.what, "hands": block.hands, "from_tempo": block.from_tempo,
        "to_tempo": block.to_tempo, "minutes": block.minutes, "why": block.why,
    }  # fmt: skip


def plan_report(
    pieces: Sequence[Piece], log: Log, wishes: Wishes, moment: datetime, days: int = 1
) -> dict[str, Any]:
    """The plan of today as JSON has it; with ``days`` also those of the days to come, as far as they can be
    known: each as if what comes before went as expected."""
    shelf = shelf_of(pieces, log, moment)
    blocks = plan(shelf, wishes)
    minutes = round(sum(block.minutes for block in blocks), 1)
    found: dict[str, Any] = {"minutes": minutes, "blocks": [block_row(block) for block in blocks]}
    if days > 1:
        found["days"] = [
            {"day": number, "blocks": [block_row(block) for block in own]}
            for number, own in enumerate(ahead(shelf, wishes, days), 1)
        ]
    return found


def ahead(shelf: Shelf, wishes: Wishes, days: int) -> Iterator[tuple[Block, ...]]:
    """The plans of some days, each as if what comes before went as expected."""
    from yellow_hinge.practice.forecast import days_ahead  # noqa: PLC0415 - rarely wanted

    yield from days_ahead(shelf, wishes, days)


def plan_text(report: dict[str, Any]) -> str:
    """A plan to read."""
    lines = [f"{report['minutes']:g} minutes"]
    for block in report["blocks"]:
        tempo = f", {block['from_tempo']} to {block['to_tempo']}" if block["to_tempo"] else ""
        hands = {"both": "both hands", "none": ""}.get(block["hands"], f"{block['hands']} hand")
        lines.append(f"{block['minutes']:4.1f} min  {block['what']}{tempo}{', ' * bool(hands)}{hands}")
        lines.append(f"          {block['why']}")
    return "\n".join([*lines, "", CAUTION])


def simulate_report(
    pieces: Sequence[Piece],
    minutes: float,
    days: int,
    order: Order,
    seed: int,
    *,
    progress: Progress = always,
    log: Log | None = None,
) -> dict[str, Any]:
    """A simulated player practises; day by day as JSON has it. What is played is written into ``log``."""
    simulation = Simulation(pieces, "power", days, minutes, seed)
    found = []
    for day in simulation.run(order):
        ask()
        progress(day.day / days)
        found.append({**asdict(day), "worst": round(day.worst, 4), "mean": round(day.mean, 4)})
    if log is not None:
        log.add(list(simulation.tries), [(piece.id, piece.title) for piece in pieces])
    return {"days": found}


def simulate_text(report: dict[str, Any]) -> str:
    """The days to read: the first, each seventh and the last."""
    days = report["days"]
    shown = [day for day in days if day["day"] in (1, len(days)) or day["day"] % 7 == 0]
    rows = [
        f"day {day['day']:3}: {day['minutes']:g} minutes, slips at the worst change {day['worst']:.0%}, "
        f"in the mean {day['mean']:.1%}"
        for day in shown
    ]
    return "\n".join(rows)


def log_report(pieces: Sequence[Piece], log: Log, moment: datetime) -> dict[str, Any]:
    """What the log says: of some songs, or of all where none is named."""
    there = log.path.exists()
    titles = log.titles() if there else {}
    every = (log.tries([piece.id for piece in pieces]) if pieces else log.tries()) if there else []
    sure = sure_of(pieces, every, moment)
    shelf = Shelf(pieces, sure, moment)
    sessions = log.sessions() if there else []
    return {
        "tries": as_rows(every, titles),
        "changes": [
            {
                "song": piece.title, "change": change.words, "bar": piece.stands[change.places[0]].bar,
                "tries": sureness.tries, "slips": sureness.slips, "slip": round(sureness.slip(moment), 4),
                "due": None if sureness.last is None else sureness.due(moment),
            }
            for number, piece in enumerate(pieces)
            for index, change in enumerate(piece.changes)
            for sureness in (shelf.sureness(number, index),)
        ],
        "weeks": [
            {**asdict(week), "monday": week.monday.isoformat()} for week in weeks(sessions, every, moment)
        ],
    }  # fmt: skip


def log_text(report: dict[str, Any]) -> str:
    """What the log says, to read: the weakest changes first."""
    if not report["tries"] and not report["changes"]:
        return "Nothing has been practised yet."
    lines = [counted(len(report["tries"]), "try", "tries")]
    lines += [
        f"week of {week['monday']}: {week['minutes']:.0f} minutes, {counted(week['tries'], 'try', 'tries')}, "
        f"{week['clean']:.0%} clean"
        for week in report["weeks"]
    ]
    for row in sorted(report["changes"], key=lambda row: -row["slip"]):
        tried = (
            f"slips in {counted(row['tries'], 'try', 'tries')}: {row['slips']}"
            if row["tries"]
            else "not tried"
        )
        lines.append(f"{row['slip']:4.0%}  {row['change']}, bar {row['bar']} of {row['song']}: {tried}")
    return "\n".join(lines)


def log_csv(tries: Sequence[Try], titles: dict[str, str]) -> str:
    """Every try in a line of a table."""
    text = io.StringIO()
    rows = as_rows(tries, titles)
    flat = [
        {
            **row,
            "from": "{written}.{part}".format(**row["from"]),
            "to": "{written}.{part}".format(**row["to"]),
        }
        for row in rows
    ]
    names = ["at", "song", "title", "take", "from", "to", "key", "hands", "drill", "tempo", "share", "clean",
             "words"]  # fmt: skip
    writer = csv.DictWriter(text, names)
    writer.writeheader()
    writer.writerows(flat)
    return text.getvalue()
