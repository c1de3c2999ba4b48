"""The entry point: commands go to the command line, everything else opens the window."""

from __future__ import annotations

import gc
import sys

from yellow_hinge import interruption


def main() -> int:
    """Dispatch. The window's libraries are loaded only when it opens."""
    interruption.leave_at_once()
    gc.disable()  # what is loaded stays: looking for rubbish among it takes a tenth of the time it needs
    from yellow_hinge.cli import is_command  # noqa: PLC0415 - an interruption meets as little as can be before

    arguments = sys.argv[1:]
    if arguments and is_command(arguments[0]):
        code = _command(arguments)
        interruption.too_late()
        return code
    import yellow_hinge.ui.ahead  # noqa: F401, PLC0415 - before Qt
    from yellow_hinge.ui.main import open_window  # noqa: PLC0415 - Qt is heavy; commands go without

    interruption.end_as_killed()
    return open_window(arguments)


def _command(arguments: list[str]) -> int:
    from yellow_hinge.cli import run  # noqa: PLC0415 - see above

    if arguments[0] != "sheet":
        return run(arguments)
    from yellow_hinge.ui.sheet_painter import QtPress  # noqa: PLC0415 - the only command with the window's libraries

    return run(arguments, QtPress())


if __name__ == "__main__":
    sys.exit(main())
