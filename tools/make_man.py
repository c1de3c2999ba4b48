"""Writes the manual page from the commands and options themselves. Run: python tools/make_man.py"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from yellow_hinge import __version__
from yellow_hinge.cli.parser import parser

PAGE = Path(__file__).parent.parent / "packaging" / "yellow-hinge.1"
HEAD = f""".TH YELLOW-HINGE 1 "" "Yellow Hinge {__version__}" "User Commands"
.SH NAME
yellow-hinge \\- two-hand voicings for chord progressions
.SH SYNOPSIS
.B yellow-hinge
.RI [ FILE ]
.br
.B yellow-hinge
.I COMMAND
.RI [ OPTION \\|.\\|.\\|.\\|]
.SH DESCRIPTION
Yellow Hinge takes the chords of a song and chooses, for each hand, which notes to play, so that neighbouring
chords move smoothly: the least voice motion that the player's hands, the melody and the style allow.
Without a command the window opens, with
.I FILE
or with a demo song; F1 in it explains the page that is shown.
"""
TAIL = r""".SH EXIT STATUS
0: done. 1: output lost, or a mistake of the program, which is written down. 2: bad input. 3: readable input
that no legal voicing exists for. 130: interrupted.
.SH FILES
.TP
.I $XDG_CONFIG_HOME/yellow-hinge/
hands, and recipes, patterns and formulas of one's own
.TP
.I $XDG_DATA_HOME/yellow-hinge/
the log of practice and the songs of the evening
.TP
.I $XDG_STATE_HOME/yellow-hinge/
copies of unsaved work, recent files, and mistakes.log
.SH CAUTION
Playing can hurt. Practise in short blocks with breaks, never force a stretch, keep the volume moderate, stop
at pain, and see a teacher or clinician when it stays.
"""


def page() -> str:
    """The whole page, as roff."""
    return (
        HEAD
        + ".SH COMMANDS\n"
        + "".join(_command(name, one, words) for name, one, words in _commands(parser()))
        + TAIL
    )


def _commands(found: argparse.ArgumentParser) -> Iterator[tuple[str, argparse.ArgumentParser, str]]:
    """Every command with its parser and what it does, in the order of the help."""
    for action in found._actions:
        if isinstance(action, argparse._SubParsersAction):
            words = {choice.dest: choice.help or "" for choice in action._choices_actions}
            for name, one in action.choices.items():
                yield name, one, words[name]
                yield from ((f"{name} {sub}", *rest) for sub, *rest in _commands(one))  # type: ignore[misc]


def _command(name: str, one: argparse.ArgumentParser, words: str) -> str:
    lines = [f".SS {_roff(name)}", _roff(words[:1].upper() + words[1:]) + "."]
    for action in one._actions:
        if not isinstance(action, argparse._HelpAction | argparse._SubParsersAction):
            lines += [".TP", _form(action), _roff(action.help or "")]
    return "\n".join(lines) + "\n"


def _form(action: argparse.Action) -> str:
    """An option or an argument, as it is typed."""
    value = action.metavar or "|".join(map(str, action.choices or ())) or action.dest.upper()
    if not action.option_strings:
        return rf"\fI{_roff(str(value))}\fR"
    flag = rf"\fB{_roff(action.option_strings[-1])}\fR"
    return flag if action.nargs == 0 else rf"{flag} \fI{_roff(str(value))}\fR"


def _roff(text: str) -> str:
    return text.replace("\\", r"\e").replace("-", r"\-")


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
