"""The entry point: commands go to the command line, everything else opens the window."""

from __future__ import annotations

import gc
import sys
from typing import TYPE_CHECKING

from yellow_hinge.cli import COMMANDS, run

if TYPE_CHECKING:
    from yellow_hinge.sheet.page import Press


def main() -> int:
    """Dispatch. The window's libraries are loaded only when it opens."""
    arguments = sys.argv[1:]
    gc.disable()  # what is loaded stays: looking for rubbish among it takes a tenth of the time it needs
    if arguments and (arguments[0] in COMMANDS or arguments[0].startswith("-")):
        return run(arguments, _press() if arguments[0] == "sheet" else None)
    import yellow_hinge.ui.ahead  # noqa: F401, PLC0415 - before Qt
    from yellow_hinge.ui.main import open_window  # noqa: PLC0415 - Qt is heavy; commands go without

    return open_window(arguments)


def _press() -> Press:
    """What sheets are painted with: the only command that needs the window's libraries."""
    from yellow_hinge.ui.sheet_painter import QtPress  # noqa: PLC0415

    return QtPress()


if __name__ == "__main__":
    sys.exit(main())
