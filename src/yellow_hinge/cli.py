"""The command line: a thin skin on tasks. Exit 0 done, 2 bad input, 3 no solution.

argparse and not a larger library, because commands must start in a third of a second.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn

from yellow_hinge import __version__
from yellow_hinge.errors import BadInput, NoSolution, Problem, YellowHingeError
from yellow_hinge.formats.chart_text import MAX_BYTES, decode, parse_chart
from yellow_hinge.formats.files import read_bytes
from yellow_hinge.hands.profile import parse_reach
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import change_hands, lead_back, settle
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import melody_keys
from yellow_hinge.tasks.describe_song import local_keys
from yellow_hinge.tasks.files import VOICED_SUFFIXES, open_song, save_song
from yellow_hinge.tasks.judge import Player, judge_row, read_grips
from yellow_hinge.tasks.keys import to_key
from yellow_hinge.tasks.library import load_library
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
from yellow_hinge.tasks.voice_song import voice_keys, voice_song, voice_takes
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library

BAD_INPUT, NO_SOLUTION = 2, 3
COMMANDS = ("voice", "candidates", "judge", "name", "schools", "swaps", "keys", "convert")
MOST_TAKES, MOST_SWAPS = 12, 24


class _Parser(argparse.ArgumentParser):
    """argparse with our form of message: ``place: what: remedy``."""

    def error(self, message: str) -> NoReturn:
        raise BadInput(Problem(self.prog, message, f"see {self.prog} --help"))


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="yellow-hinge",
        description="Two-hand voicings for chord progressions. Without a command the window opens.",
    )
    parser.add_argument("--version", action="version", version=f"yellow-hinge {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")

    voice = commands.add_parser("voice", help="voice a chart, MusicXML or project file")
    voice.add_argument("file", metavar="FILE", help="a file, or - for chart text on standard input")
    _add_hand_options(voice)
    voice.add_argument("--swaps", type=int, metavar="N", help="swap N chords, where so many fit the tune")
    voice.add_argument("--loop", action="store_true", help="lead from the last chord back to the first")
    voice.add_argument("--hands", choices=("both", "left", "right"), help="which hands play")
    voice.add_argument("--takes", type=int, metavar="K", help="list K takes that differ audibly")
    voice.add_argument("--json", action="store_true", help="print JSON")
    voice.set_defaults(run=_voice)

    swaps = commands.add_parser("swaps", help="list other chords for each place, with melody fit")
    swaps.add_argument("file", metavar="FILE")
    swaps.add_argument("--key", help="the key, or the key to transpose to: A, Bb, F#m")
    swaps.add_argument("--json", action="store_true", help="print JSON")
    swaps.set_defaults(run=_swaps)

    keys = commands.add_parser("keys", help="solve the same song in twelve keys")
    keys.add_argument("file", metavar="FILE")
    _add_hand_options(keys)
    keys.add_argument("--json", action="store_true", help="print JSON (always)")
    keys.set_defaults(run=_keys)

    name = commands.add_parser("name", help="name chords given as notes, lowest is the bass")
    name.add_argument("chords", nargs="+", metavar="CHORD", help="48,55,64 or C3,G3,E4")
    name.add_argument("--key", help="say the numbers of this key as well")
    name.add_argument("--json", action="store_true", help="print JSON")
    name.set_defaults(run=_name)

    found = commands.add_parser("candidates", help="list every shape for chord symbols")
    found.add_argument("symbols", nargs="+", metavar="SYMBOL")
    _add_hand_options(found)
    found.add_argument("--json", action="store_true", help="print JSON (always)")
    found.set_defaults(run=_candidates)

    judge = commands.add_parser("judge", help="say what grips are, lack and cost, one a line")
    judge.add_argument("file", metavar="FILE", help="lines such as  Dm7: D3 C4 ; F4 A4, or -")
    _add_hand_options(judge)
    judge.add_argument("--json", action="store_true", help="print JSON")
    judge.set_defaults(run=_judge)

    schools = commands.add_parser("schools", help="list the schools")
    schools.add_argument("--json", action="store_true", help="print JSON")
    schools.set_defaults(run=_schools)

    convert = commands.add_parser("convert", help="convert between formats, by suffix")
    convert.add_argument("file", metavar="FILE")
    convert.add_argument("out", metavar="OUT")
    convert.set_defaults(run=_convert)
    return parser


def _add_hand_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--key", help="the key, or the key to transpose to: A, Bb, F#m")
    parser.add_argument("--school", help="an id of: yellow-hinge schools")
    parser.add_argument("--reach", metavar="LH,RH", help="widest easy intervals on white keys: 10th,9th")
    parser.add_argument("--bass", choices=("self", "bassist"), help="who plays the bass")
    parser.add_argument("--colour", type=int, choices=range(4), help="0 plain to 3 rich")


def _settled(options: argparse.Namespace, song: Song, library: Library) -> Song:
    """The song with the hands and wishes of the options, in its current take."""
    changes = {name: getattr(options, name, None) for name in ("school", "bass", "colour", "hands")}
    if options.school is not None:
        library.school(options.school)
    if options.reach is not None:
        song = change_hands(song, song.hands.with_reach(*parse_reach(options.reach))).song
    return settle(song, **{name: value for name, value in changes.items() if value is not None}).song


def _player(options: argparse.Namespace, library: Library) -> Player:
    song = _settled(options, Song(), library)
    return Player(song.arrangement, song.hands)


def _read_song(name: str) -> Song:
    if name == "-":
        return Song(parse_chart(decode(sys.stdin.buffer.read(MAX_BYTES + 1), "standard input")))
    opened = open_song(Path(name))
    for problem in opened.problems:
        print(problem, file=sys.stderr)
    return opened.song


def _song(options: argparse.Namespace, library: Library) -> Song:
    """The song of FILE with the options' key and hands."""
    return _settled(options, _in_key(_read_song(options.file), options.key), library)


def _in_key(song: Song, key: str | None) -> Song:
    """The song in another key; what cannot be carried there is said."""
    if key is None:
        return song
    edit = to_key(song, parse_key(key, "--key"))
    for words in (*edit.lost, *edit.remarks):
        print(Problem("--key", words, "look at it in the new key"), file=sys.stderr)
    return edit.song


def _voice(options: argparse.Namespace, library: Library) -> None:
    if options.swaps is not None and not 0 <= options.swaps <= MOST_SWAPS:
        raise BadInput(Problem("--swaps", f"{options.swaps} swaps", f"ask for 0 to {MOST_SWAPS}"))
    if options.takes is not None and not 1 <= options.takes <= MOST_TAKES:
        raise BadInput(Problem("--takes", f"{options.takes} takes", f"ask for 1 to {MOST_TAKES}"))
    song = lead_back(_song(options, library), options.loop).song
    planner = Planner(library)
    _say_missing_tune(song, library)
    reasons: list[str] = []
    if options.swaps:
        found = find_swaps(song)
        curve = trade_curve(song, library, planner, options.swaps, _progress("swaps"), found)
        voiced = point_with(curve, options.swaps).voiced
        reasons, song = explain_swaps(song, voiced.song, found), voiced.song
    else:
        voiced = voice_song(song, library, planner, _progress("voicing"))
    takes = [] if options.takes is None else voice_takes(song, library, planner, options.takes)
    if options.json:
        _print_json(voice_report(voiced, library, takes))
    else:
        print("\n".join((voice_text(voiced, library), *reasons)))


def _say_missing_tune(song: Song, library: Library) -> None:
    """The melody schools hang everything from a tune: say where there is none."""
    arrangement = song.arrangement
    wants = arrangement.melody or library.school(arrangement.school).melody
    if wants == "top" and not any(melody_keys(song)):
        place = f"school {arrangement.school}"
        what = "it wants a tune on top, and the chart has none"
        print(Problem(place, what, "write one under the bars: melody: E4:2 G4:2"), file=sys.stderr)


def _progress(what: str) -> Callable[[float], bool]:
    """Shows a share on standard error when that is a terminal."""
    if not sys.stderr.isatty():
        return lambda _: True

    def show(share: float) -> bool:
        end = "\r" if share < 1 else "\r" + " " * 30 + "\r"
        print(f"{what}: {share:.0%}", end=end, file=sys.stderr, flush=True)
        return True

    return show


def _judge(options: argparse.Namespace, library: Library) -> None:
    key = None if options.key is None else parse_key(options.key, "--key")
    if options.file == "-":
        text, place = decode(sys.stdin.buffer.read(MAX_BYTES + 1), "standard input"), "standard input"
    else:
        text, place = decode(read_bytes(Path(options.file), MAX_BYTES), options.file), options.file
    row = judge_row(read_grips(text, key, place), key, _player(options, library), library)
    if options.json:
        _print_json(judge_report(row))
    else:
        print(judge_text(row))


def _swaps(options: argparse.Namespace, library: Library) -> None:
    song = _in_key(_read_song(options.file), options.key)
    del library
    if options.json:
        _print_json(swaps_report(song, local_keys(song), find_swaps(song)))
    else:
        print(swaps_text(song, find_swaps(song)))


def _keys(options: argparse.Namespace, library: Library) -> None:
    _print_json(keys_report(voice_keys(_song(options, library), library), library))


def _name(options: argparse.Namespace, library: Library) -> None:
    del library
    key = None if options.key is None else parse_key(options.key, "--key")
    report = names_report(options.chords, key)
    if options.json:
        _print_json(report)
        return
    for text, result in zip(options.chords, report["results"], strict=True):
        names = ", ".join(f"{name['symbol']} ({name['reading']})" for name in result["names"])
        print(f"{text}: {names or 'no name fits'}")


def _candidates(options: argparse.Namespace, library: Library) -> None:
    key = None if options.key is None else parse_key(options.key, "--key")
    _print_json(candidates_report(options.symbols, key, _player(options, library), library))


def _schools(options: argparse.Namespace, library: Library) -> None:
    if options.json:
        _print_json(schools_report(library))
        return
    for school in library.schools.values():
        print(f"{school.id:8} {school.name}: {school.about}")


def _convert(options: argparse.Namespace, library: Library) -> None:
    song, out = _read_song(options.file), Path(options.out)
    if out.suffix.lower() in VOICED_SUFFIXES and not song.solved:
        song = voice_song(song, library, Planner(library)).song
    save_song(song, out, library)


def _print_json(value: Any) -> None:
    print(json.dumps(value, ensure_ascii=False))


def run(arguments: list[str]) -> int:
    """Run one command and give its exit code."""
    try:
        options = _parser().parse_args(arguments)
        options.run(options, load_library())
    except YellowHingeError as error:
        print("\n".join(str(problem) for problem in error.problems), file=sys.stderr)
        return NO_SOLUTION if isinstance(error, NoSolution) else BAD_INPUT
    except BrokenPipeError:
        sys.stderr.close()
    return 0
