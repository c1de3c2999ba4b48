"""What the commands do that need no search, lists and names: nothing heavy is loaded for them."""

from __future__ import annotations

import argparse

from yellow_hinge.cli.library import own_library
from yellow_hinge.cli.streams import out, print_json
from yellow_hinge.rhythm.patterns import builtin_patterns
from yellow_hinge.tasks.grips.names import names_report
from yellow_hinge.tasks.reports.lists import (
    formulas_report,
    formulas_text,
    patterns_report,
    patterns_text,
    schools_report,
)
from yellow_hinge.tasks.settings.patterns import own_patterns
from yellow_hinge.theory.keys import parse_key


def schools(options: argparse.Namespace) -> None:
    library = own_library()
    if options.json:
        print_json(schools_report(library))
        return
    out("\n".join(f"{school.id:8} {school.name}: {school.about}" for school in library.schools.values()))


def patterns(options: argparse.Namespace) -> None:
    every = {**builtin_patterns(), **own_patterns()}
    if options.json:
        print_json(patterns_report(every))
    else:
        out(patterns_text(every))


def formulas(options: argparse.Namespace) -> None:
    if options.json:
        print_json(formulas_report())
    else:
        out(formulas_text())


def name(options: argparse.Namespace) -> None:
    key = None if options.key is None else parse_key(options.key, "--key")
    report = names_report(options.chords, key)
    if options.json:
        print_json(report)
        return
    lines = []
    for text, result in zip(options.chords, report["results"], strict=True):
        names = ", ".join(f"{name['symbol']} ({name['reading']})" for name in result["names"])
        lines.append(f"{text}: {names or 'no name fits'}")
    out("\n".join(lines))
