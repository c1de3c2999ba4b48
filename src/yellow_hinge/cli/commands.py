"""What each command does: a thin skin on tasks."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

from yellow_hinge.cli import BAD_INPUT
from yellow_hinge.cli.streams import is_unicode, out, read_input, say
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.chart_text import MAX_BYTES, decode, parse_chart
from yellow_hinge.formats.files import read_bytes
from yellow_hinge.hands.profile import parse_reach
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.patterns import builtin_patterns
from yellow_hinge.song.edits import change_hands, lead_back, settle
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune import melody_keys
from yellow_hinge.tasks.check_file import check_data, check_file, check_report
from yellow_hinge.tasks.describe_song import local_keys
from yellow_hinge.tasks.files import VOICED_SUFFIXES, open_song, save_song
from yellow_hinge.tasks.formula_desk import formulas_report, formulas_text
from yellow_hinge.tasks.judge import Player, judge_row, read_grips
from yellow_hinge.tasks.key_survey import survey
from yellow_hinge.tasks.keys import to_key
from yellow_hinge.tasks.patterns import own_patterns, with_patterns
from yellow_hinge.tasks.reharmonise import explain_swaps, find_swaps, point_with, trade_curve
from yellow_hinge.tasks.report import (
    candidates_report,
    judge_report,
    judge_text,
    keys_report,
    names_report,
    schools_report,
    swaps_report,
    swaps_text,
    voice_report,
    voice_text,
)
from yellow_hinge.tasks.rhythm_report import (
    events_report,
    events_text,
    patterns_report,
    patterns_text,
    with_feel,
)
from yellow_hinge.tasks.voice_song import Voiced, voice_song, voice_takes
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library

MOST_TAKES, MOST_SWAPS = 12, 24


def _settled(options: argparse.Namespace, song: Song, library: Library) -> Song:
    """The song with the hands and wishes of the options, in its current take."""
    changes = {name: getattr(options, name, None) for name in ("school", "bass", "colour", "hands")}
    if options.school is not None:
        library.school(options.school, "--school")
    if options.reach is not None:
        song = change_hands(song, song.hands.with_reach(*parse_reach(options.reach))).song
    return settle(song, **{name: value for name, value in changes.items() if value is not None}).song


def _player(options: argparse.Namespace, library: Library) -> Player:
    song = _settled(options, Song(), library)
    return Player(song.arrangement, song.hands)


def read_song(name: str) -> Song:
    """The song of a file; what is to be said of it is said."""
    if name == "-":
        return Song(parse_chart(decode(read_input(MAX_BYTES), "standard input")))
    opened = open_song(Path(name))
    for problem in opened.problems:
        say(problem)
    return opened.song


def _song(options: argparse.Namespace, library: Library) -> Song:
    """The song of FILE with the options' key and hands."""
    return _settled(options, _in_key(read_song(options.file), options.key), library)


def _in_key(song: Song, key: str | None) -> Song:
    """The song in another key; what cannot be carried there is said."""
    if key is None:
        return song
    edit = to_key(song, parse_key(key, "--key"))
    for words in (*edit.lost, *edit.remarks):
        say(Problem("--key", words, "look at it in the new key"))
    return edit.song


def _voiced(options: argparse.Namespace, library: Library, planner: Planner) -> tuple[Voiced, list[str]]:
    """The song of FILE with the options' rhythm and swaps, voiced; and what is to be said of the swaps."""
    if options.swaps is not None and not 0 <= options.swaps <= MOST_SWAPS:
        raise BadInput(Problem("--swaps", f"{options.swaps} swaps", f"ask for 0 to {MOST_SWAPS}"))
    song = lead_back(_song(options, library), options.loop).song
    song = with_patterns(song, options.left_pattern, options.right_pattern)
    _say_missing_tune(song, library)
    if not options.swaps:
        return voice_song(song, library, planner, progress_of("voicing")), []
    found = find_swaps(song)
    curve = trade_curve(song, library, planner, options.swaps, progress_of("swaps"), found)
    voiced = point_with(curve, options.swaps).voiced
    return voiced, explain_swaps(song, voiced.song, found)


def events(options: argparse.Namespace, library: Library) -> None:
    voiced, _ = _voiced(options, library, Planner(library))
    song = with_feel(voiced.song, options.feel)
    if options.json:
        print_json(events_report(song, library))
    else:
        out(events_text(song, library))


def voice(options: argparse.Namespace, library: Library) -> None:
    if options.takes is not None and not 1 <= options.takes <= MOST_TAKES:
        raise BadInput(Problem("--takes", f"{options.takes} takes", f"ask for 1 to {MOST_TAKES}"))
    planner = Planner(library)
    voiced, reasons = _voiced(options, library, planner)
    song = voiced.song
    takes = (
        []
        if options.takes is None
        else voice_takes(song, library, planner, options.takes, progress_of("takes"))
    )
    if options.json:
        print_json(voice_report(voiced, library, takes))
    else:
        out("\n".join((voice_text(voiced, library), *reasons)))


def _say_missing_tune(song: Song, library: Library) -> None:
    """The melody schools hang everything from a tune: say where there is none."""
    arrangement = song.arrangement
    wants = arrangement.melody or library.school(arrangement.school).melody
    if wants == "top" and not any(melody_keys(song)):
        place = f"school {arrangement.school}"
        what = "it wants a tune on top, and the chart has none"
        say(Problem(place, what, "write one under the bars: melody: E4:2 G4:2"))


def progress_of(what: str) -> Callable[[float], bool]:
    """Shows a share on standard error when that is a terminal."""
    if not sys.stderr.isatty():
        return lambda _: True

    def show(share: float) -> bool:
        end = "\r" if share < 1 else "\r" + " " * 30 + "\r"
        with suppress(OSError, ValueError):
            print(f"{what}: {share:.0%}", end=end, file=sys.stderr, flush=True)
        return True

    return show


def judge(options: argparse.Namespace, library: Library) -> None:
    key = None if options.key is None else parse_key(options.key, "--key")
    if options.file == "-":
        text, place = decode(read_input(MAX_BYTES), "standard input"), "standard input"
    else:
        text, place = decode(read_bytes(Path(options.file), MAX_BYTES), options.file), options.file
    row = judge_row(read_grips(text, key, place), key, _player(options, library), library)
    if options.json:
        print_json(judge_report(row))
    else:
        out(judge_text(row))


def swaps(options: argparse.Namespace, library: Library) -> None:
    song = _in_key(read_song(options.file), options.key)
    del library
    if options.json:
        print_json(swaps_report(song, local_keys(song), find_swaps(song)))
    else:
        out(swaps_text(song, find_swaps(song)))


def keys(options: argparse.Namespace, library: Library) -> None:
    print_json(keys_report(survey(_song(options, library), library, progress_of("keys")), library))


def name(options: argparse.Namespace, library: Library) -> None:
    del library
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


def candidates(options: argparse.Namespace, library: Library) -> None:
    key = None if options.key is None else parse_key(options.key, "--key")
    print_json(candidates_report(options.symbols, key, _player(options, library), library))


def schools(options: argparse.Namespace, library: Library) -> None:
    if options.json:
        print_json(schools_report(library))
        return
    out("\n".join(f"{one.id:8} {one.name}: {one.about}" for one in library.schools.values()))


def patterns(options: argparse.Namespace, library: Library) -> None:
    del library
    every = {**builtin_patterns(), **own_patterns()}
    if options.json:
        print_json(patterns_report(every))
    else:
        out(patterns_text(every))


def formulas(options: argparse.Namespace, library: Library) -> None:
    del library
    if options.json:
        print_json(formulas_report())
    else:
        out(formulas_text())


def check(options: argparse.Namespace, library: Library) -> int:
    """Read every file, whatever it holds; exit 2 if any has an error."""
    found = []
    for name in options.files:
        if name == "-":
            found.append(check_data(name, read_input(MAX_BYTES), library))
        else:
            found.append(check_file(Path(name), library))
    if options.json:
        print_json(check_report(found))
    else:
        out("\n".join(line for one in found for line in one.lines))
    return 0 if all(one.ok for one in found) else BAD_INPUT


def convert(options: argparse.Namespace, library: Library) -> None:
    song, target = read_song(options.file), Path(options.out)
    if target.suffix.lower() in VOICED_SUFFIXES and not song.solved:
        song = voice_song(song, library, Planner(library), progress_of("voicing")).song
    save_song(song, target, library)


def sheet(options: argparse.Namespace, library: Library) -> None:
    """A sheet of the song as it is kept, or voiced with the options."""
    from yellow_hinge.sheet.page import Options  # noqa: PLC0415 - only sheets need it
    from yellow_hinge.tasks.sheets import sheet_of  # noqa: PLC0415

    press, target = options.press, Path(options.out)
    if press is None:
        raise BadInput(Problem("sheet", "there is nothing to paint with here", "start it as yellow-hinge"))
    press.check(target)
    song = _voiced(options, library, Planner(library))[0].song
    wanted = Options(options.paper, options.across, options.large, options.plain, degrees=options.degrees)
    made = sheet_of(song, library, options.kind, wanted, press.metrics())
    for path in press.write(made, target, options.plain):
        out(str(path))


def print_json(value: Any) -> None:
    """Print a value as JSON."""
    out(json.dumps(value, ensure_ascii=not is_unicode()))
