"""The border of the command line: nothing gets through it but a message and an exit code."""

from __future__ import annotations

import gc
from importlib import import_module
from typing import TYPE_CHECKING

from yellow_hinge.cli import BAD_INPUT, COMMANDS, NO_SOLUTION, OUR_MISTAKE, OUTPUT_LOST, streams
from yellow_hinge.cli.parser import parser
from yellow_hinge.errors import BadInput, NoSolution, Problem, YellowHingeError
from yellow_hinge.interruption import end_in_order

if TYPE_CHECKING:
    from yellow_hinge.sheet.page import Press


def guarded(arguments: list[str], press: Press | None = None) -> int:
    """Run a command; whatever goes wrong is said on standard error."""
    streams.prepare()
    try:
        return _run(arguments, press)
    except SystemExit as end:  # help and version
        return end.code if isinstance(end.code, int) else 0
    except YellowHingeError as error:
        streams.say("\n".join(str(problem) for problem in error.problems))
        return NO_SOLUTION if isinstance(error, NoSolution) else BAD_INPUT
    except streams.OutputLost as lost:
        streams.say(f"standard output: it is lost ({lost}): print to where there is room, and read it all")
        return OUTPUT_LOST
    except Exception as error:
        from yellow_hinge.tasks.settings.mistakes import record  # noqa: PLC0415 - mostly never needed

        streams.say(record(error, "yellow-hinge"))
        return OUR_MISTAKE


def _neither(word: str) -> Problem:
    """A word that is neither a command nor a file."""
    from difflib import get_close_matches  # noqa: PLC0415 - mostly never needed

    near = get_close_matches(word, COMMANDS, 1, 0.5)
    nearest = f"the nearest command is {near[0]}; " if near else ""
    what = f"{word!r} is neither a command nor a file"
    return Problem("yellow-hinge", what, f"{nearest}see yellow-hinge --help")


def _run(arguments: list[str], press: Press | None) -> int:
    word = arguments[0] if arguments else ""
    if word and word not in COMMANDS and not word.startswith("-"):
        raise BadInput(_neither(word))
    options = parser().parse_args(arguments)
    options.press = press
    module, name = options.run.split(".")
    command = getattr(import_module(f"yellow_hinge.cli.{module}"), name)
    gc.freeze()
    gc.enable()  # loading went without
    end_in_order()
    code = command(options)
    return code if isinstance(code, int) else 0
