"""The entry point: commands go to the command line, everything else opens the window."""

from __future__ import annotations

import sys

from yellow_hinge.cli import COMMANDS, run


def main() -> int:
    """Dispatch. The window's libraries are loaded only when it opens."""
    arguments = sys.argv[1:]
    if arguments and (arguments[0] in COMMANDS or arguments[0].startswith("-")):
        return run(arguments)
    from yellow_hinge.ui.main import open_window  # noqa: PLC0415 - Qt is heavy; commands go without

    return open_window(arguments)


if __name__ == "__main__":
    sys.exit(main())
