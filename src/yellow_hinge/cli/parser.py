"""The commands and options of the command line. What a command runs is named,
``module.function`` of this room: only that is loaded."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, NoReturn

from yellow_hinge import __version__
from yellow_hinge.cli.streams import out
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.sheet.kinds import KIND_IDS
from yellow_hinge.song.groove import PEDALS


class _Parser(argparse.ArgumentParser):
    """argparse with our form of message: ``place: what: remedy``."""

    def error(self, message: str) -> NoReturn:
        raise BadInput(Problem(self.prog, message, f"see {self.prog} --help"))

    def _print_message(self, message: str, _file: object = None) -> None:
        """Help and version are output as any other."""
        out(message.rstrip("\n"))


if TYPE_CHECKING:
    Commands = argparse._SubParsersAction[_Parser]


def parser() -> argparse.ArgumentParser:
    top = _Parser(
        prog="yellow-hinge",
        description="Two-hand voicings for chord progressions. Without a command the window opens.",
    )
    top.add_argument("--version", action="version", version=f"yellow-hinge {__version__}")
    subparsers = top.add_subparsers(dest="command", metavar="COMMAND")

    _add_song_commands(subparsers)
    _add_others(subparsers)
    _add_taste_commands(subparsers)
    return top


def _add_song_commands(found: Commands) -> None:
    """What voices a song."""
    voice = found.add_parser("voice", help="voice a chart, MusicXML or project file")
    voice.add_argument("file", metavar="FILE", help="a file, or - for chart text on standard input")
    _add_voice_options(voice)
    voice.add_argument("--takes", type=int, metavar="K", help="list K takes that differ audibly")
    voice.add_argument("--json", action="store_true", help="print JSON")
    voice.set_defaults(run="song_commands.voice")

    events = found.add_parser("events", help="say what sounds when, the pedal included")
    events.add_argument("file", metavar="FILE", help="a file, or - for chart text on standard input")
    _add_voice_options(events)
    events.add_argument(
        "--takes", type=int, metavar="K", help="as for voice; events are those of the song's own row"
    )
    events.add_argument("--feel", choices=("straight", "swing"), help="even eighths, or 2:1")
    events.add_argument("--take", metavar="NAME", help="a take of the project, by its name or its number")
    events.add_argument("--pedal", choices=PEDALS, help="how the pedal goes all through")
    events.add_argument("--json", action="store_true", help="print JSON")
    events.set_defaults(run="song_commands.events")


def _add_others(found: Commands) -> None:
    swaps = found.add_parser("swaps", help="list other chords for each place, with melody fit")
    swaps.add_argument("file", metavar="FILE")
    swaps.add_argument("--key", help="the key, or the key to transpose to: A, Bb, F#m")
    _add_style(swaps)
    _add_taste(swaps)
    swaps.add_argument("--json", action="store_true", help="print JSON")
    swaps.set_defaults(run="song_commands.swaps")

    keys = found.add_parser("keys", help="solve the same song in twelve keys")
    keys.add_argument("file", metavar="FILE")
    _add_hand_options(keys)
    _add_taste(keys)
    keys.add_argument("--json", action="store_true", help="print JSON (always)")
    keys.set_defaults(run="song_commands.keys")

    name = found.add_parser("name", help="name chords given as notes, lowest is the bass")
    name.add_argument("chords", nargs="+", metavar="CHORD", help="48,55,64 or C3,G3,E4")
    name.add_argument("--key", help="say the numbers of this key as well")
    name.add_argument("--json", action="store_true", help="print JSON")
    name.set_defaults(run="plain_commands.name")

    shapes = found.add_parser("candidates", help="list every shape for chord symbols")
    shapes.add_argument("symbols", nargs="+", metavar="SYMBOL")
    _add_hand_options(shapes)
    shapes.add_argument("--json", action="store_true", help="print JSON (always)")
    shapes.set_defaults(run="grip_commands.candidates")

    judge = found.add_parser("judge", help="say what grips are, lack and cost, one a line")
    judge.add_argument("file", metavar="FILE", help="lines such as  Dm7: D3 C4 ; F4 A4, or -")
    _add_hand_options(judge)
    judge.add_argument("--json", action="store_true", help="print JSON")
    judge.set_defaults(run="grip_commands.judge")

    schools = found.add_parser("schools", help="list the schools")
    schools.add_argument("--json", action="store_true", help="print JSON")
    schools.set_defaults(run="plain_commands.schools")

    patterns = found.add_parser("patterns", help="list the patterns that hands can play")
    patterns.add_argument("--json", action="store_true", help="print JSON")
    patterns.set_defaults(run="plain_commands.patterns")

    formulas = found.add_parser("formulas", help="list runs of chords in numbers, with the reason they work")
    formulas.add_argument("--json", action="store_true", help="print JSON")
    formulas.set_defaults(run="plain_commands.formulas")

    _add_sheet(found)
    _add_practice(found)

    check = found.add_parser("check", help="read files of any format and say every problem")
    check.add_argument("files", nargs="+", metavar="FILE", help="a file, or - for chart text")
    check.add_argument("--json", action="store_true", help="print JSON")
    check.set_defaults(run="file_commands.check")

    convert = found.add_parser("convert", help="convert between formats, by suffix")
    convert.add_argument("file", metavar="FILE")
    convert.add_argument("out", metavar="OUT")
    convert.add_argument("--song", type=int, metavar="N", help="which of several in ABC or ChordPro, from 1")
    convert.set_defaults(run="file_commands.convert")


def _add_sheet(found: Commands) -> None:
    sheet = found.add_parser("sheet", help="write a page as PDF, SVG or PNG")
    sheet.add_argument("file", metavar="FILE", help="a file, or - for chart text on standard input")
    sheet.add_argument("out", metavar="OUT", help="a file that ends with .pdf, .svg or .png")
    sheet.add_argument("--kind", choices=KIND_IDS, default="crib", help="what is written down")
    sheet.add_argument("--paper", choices=("a4", "letter", "a5"), default="a4")
    sheet.add_argument("--across", action="store_true", help="the paper lies across")
    sheet.add_argument("--large", action="store_true", help="large print")
    sheet.add_argument("--plain", action="store_true", help="black and white")
    sheet.add_argument("--written-out", action="store_true", help="every round by itself, no repeats")
    sheet.add_argument("--numbers", action="store_true", help="numbers in place of symbols (crib)")
    sheet.add_argument("--degrees", action="store_true", help="degrees below the notes")
    _add_voice_options(sheet)
    sheet.set_defaults(run="song_commands.sheet")


def _add_taste_commands(found: Commands) -> None:
    taste = found.add_parser("taste", help="learn what a player likes from their own rows, or show it")
    what = taste.add_subparsers(dest="what", metavar="learn|show", required=True)
    learn = what.add_parser("learn", help="prices under which these rows cost least")
    learn.add_argument("files", nargs="+", metavar="GRIPS", help="pages of grips, a song each")
    learn.add_argument("--out", required=True, metavar="FILE", help="where the taste is written")
    _add_hand_options(learn)
    learn.add_argument("--json", action="store_true", help="print JSON")
    learn.set_defaults(run="taste_commands.learn")
    show = what.add_parser("show", help="what a taste says, in words")
    show.add_argument("file", metavar="FILE", help="a file that taste learn wrote")
    show.add_argument("--json", action="store_true", help="print JSON")
    show.set_defaults(run="taste_commands.show")


def _add_practice(found: Commands) -> None:
    practice = found.add_parser("practice", help="plan what to practise, try a plan, or read the log")
    what = practice.add_subparsers(dest="what", metavar="plan|simulate|log", required=True)
    for name, words, count in (
        ("plan", "what to practise today, in blocks with their reasons", "+"),
        ("simulate", "let a simulated player practise for some days", "+"),
        ("log", "what has been practised, and how sure each change is", "*"),
    ):
        parser = what.add_parser(name, help=words)
        parser.add_argument("files", nargs=count, metavar="FILE", help="songs, in their order on the shelf")
        parser.add_argument("--minutes", type=float, default=20.0, metavar="M", help="minutes a day (20)")
        days = 30 if name == "simulate" else 1
        parser.add_argument("--days", type=int, default=days, metavar="D", help=f"days ({days})")
        parser.add_argument("--order", choices=("weakest", "song"), default="weakest",
                         help="by the plan, or from start to end")  # fmt: skip
        parser.add_argument("--log", metavar="LOG", help="a practice log other than one's own")
        parser.add_argument("--seed", type=int, default=1, metavar="S", help="which simulated player (1)")
        parser.add_argument("--apart", action="store_true", help="hands apart first")
        parser.add_argument("--json", action="store_true", help="print JSON")
        parser.set_defaults(run=f"practice_commands.{name}")
    parser.add_argument("--csv", action="store_true", help="print every try as CSV")
    parser.add_argument("--forget", action="store_true", help="delete what is known of these songs, for good")


def _add_hand_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--key", help="the key, or the key to transpose to: A, Bb, F#m")
    parser.add_argument("--school", help="an id of: yellow-hinge schools")
    parser.add_argument("--reach", metavar="LH,RH", help="widest easy intervals on white keys: 10th,9th")
    parser.add_argument("--bass", choices=("self", "bassist"), help="who plays the bass")
    parser.add_argument("--colour", type=int, choices=range(4), help="0 plain to 3 rich")


def _add_taste(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--taste", metavar="FILE", help="prices that taste learn found in a player's rows")


def _add_voice_options(parser: argparse.ArgumentParser) -> None:
    _add_hand_options(parser)
    _add_taste(parser)
    parser.add_argument("--swaps", type=int, metavar="N", help="swap N chords, where so many fit the tune")
    _add_style(parser)
    parser.add_argument("--loop", action="store_true", help="lead from the last chord back to the first")
    parser.add_argument("--hands", choices=("both", "left", "right"), help="which hands play")
    parser.add_argument(
        "--top", dest="top_line", choices=("still", "free", "sings"),
        help="the top line stays where it can, goes as it comes, or sings",
    )  # fmt: skip
    _add_rhythm_options(parser)


def _add_style(parser: argparse.ArgumentParser) -> None:
    words = "which swaps are near: hymn, gospel, soul, bebop, film, bossa, or mine"
    parser.add_argument("--style", metavar="ID", help=words)


def _add_rhythm_options(parser: argparse.ArgumentParser) -> None:
    for hand in ("left", "right"):
        words = f"what the {hand} hand plays, an id of: yellow-hinge patterns"
        parser.add_argument(f"--{hand}-pattern", metavar="ID", help=words)
    words = "how full each section is as it is played, 1 (bare) to 5: 1,2,4,2"
    parser.add_argument("--arc", metavar="LEVELS", help=words)
