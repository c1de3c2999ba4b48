"""Take the pictures in docs/screenshots from the demo data. One command, no display needed; names of pictures
behind the folder take those alone."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import datetime, timedelta
from functools import partial
from pathlib import Path

from msgspec.structs import replace

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# The player's own files stay as they are, and are not shown.
os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()

from PySide6.QtCore import QCoreApplication

from yellow_hinge.practice.log import Done, Log
from yellow_hinge.practice.simulate import FIRST_DAY, Simulation
from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import wish_for_section
from yellow_hinge.song.rule_edits import Stretch, set_rule
from yellow_hinge.sound.keyboards import Struck
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.practice.desk import log_path
from yellow_hinge.tasks.practice.room import piece_of
from yellow_hinge.tasks.settings.display import Display
from yellow_hinge.ui.main import make_window
from yellow_hinge.ui.pages.hands.view import HandsPage
from yellow_hinge.ui.pages.hinges.state import Selection
from yellow_hinge.ui.pages.hinges.view import HingesPage
from yellow_hinge.ui.pages.keys.view import KeysPage
from yellow_hinge.ui.pages.practise.view import PractisePage
from yellow_hinge.ui.pages.rhythm.view import RhythmPage
from yellow_hinge.ui.pages.sheet.view import SheetPage
from yellow_hinge.ui.pages.swaps.view import SwapsPage
from yellow_hinge.ui.pages.takes.view import TakesPage
from yellow_hinge.ui.theme import make_application
from yellow_hinge.ui.window import Window
from yellow_hinge.ui.worker import Worker
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.handling import Keys

_DAYS = 4
FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"


def settle(window: Window) -> None:
    """Let the search end and everything be painted."""
    while window.document.worker.running or any(one.running for one in window.page.findChildren(Worker)):
        QCoreApplication.processEvents()
        time.sleep(0.005)  # the search needs the interpreter too
    for _ in range(20):
        QCoreApplication.processEvents()


def song_page(window: Window) -> None:
    window.go_to("Song")


def hands_page(window: Window) -> None:
    window.go_to("Hands")
    assert isinstance(window.page, HandsPage)
    window.page.trying.play(48)
    window.page.trying.play(62)


def hinges(window: Window, index: int, on_hinge: bool = False) -> HingesPage:
    """The workbench with something chosen."""
    window.go_to("Hinges")
    assert isinstance(window.page, HingesPage)
    window.page.walking.select(Selection(index, on_hinge))
    return window.page


def hinges_leaf(window: Window) -> None:
    hinges(window, 3)


def rules(window: Window) -> None:
    """Rules and wishes of all kinds, one that rests, and the price of a new one."""
    document = window.document
    document.apply(set_rule(document.song, Stretch("section", 0), HandRule("right", "top", "3")))
    document.apply(set_rule(document.song, Stretch("song"), HandRule("left", "highest", 57, on=False)))
    taste = Taste(melody="clear", rules=document.song.arrangement.tastes["Verse"].rules)
    document.apply(wish_for_section(document.song, "Verse", taste))
    settle(window)
    view = hinges(window, 3)
    view.commands["face-rules"].run()
    view.side.wishes.choose_scope(1)
    panel = view.side.wishes.rules
    panel.kind_box.setCurrentIndex(panel.kind_box.findData("octave"))
    panel.kind_box.activated.emit(panel.kind_box.currentIndex())


def ladder(window: Window) -> None:
    hinges(window, 4)
    window.go_to("Swaps")
    settle(window)
    view = window.page
    assert isinstance(view, SwapsPage)
    view.commands["face-ladder"].run()
    settle(window)
    for _ in range(2):
        view.commands["mark"].run()
        view.commands["list-up"].run()


def swaps_face(window: Window, name: str) -> SwapsPage:
    """A face of the Swaps page, when it has found what it shows."""
    window.go_to("Swaps")
    settle(window)
    view = window.page
    assert isinstance(view, SwapsPage)
    view.commands[f"face-{name}"].run()
    settle(window)
    return view


def formulas(window: Window) -> None:
    swaps_face(window, "formulas")


def grid(window: Window) -> None:
    """The best combination of two swaps."""
    view = swaps_face(window, "grid")
    for _ in range(2):
        view.commands["list-down"].run()


def grip(window: Window) -> None:
    """A grip of the player's own on trial, as it would be typed or played."""
    view = hinges(window, 4)
    view.commands["face-grip"].run()
    view.entering.enter(Keys((42, 52), (57, 61, 68)))


def board(window: Window) -> None:
    """What may stand over a bass on its way to the next chord."""
    hinges(window, 5)
    swaps_face(window, "board")


def swaps(window: Window) -> None:
    hinges(window, 5)
    window.go_to("Swaps")
    settle(window)
    view = window.page
    assert isinstance(view, SwapsPage)
    view.weighing.work_out()
    settle(window)
    view.weighing.take_point(3)
    settle(window)
    view.swapping.choose(5)


def lanes(window: Window) -> None:
    """A take for a bassist beside the first one, which sounds in the second verse."""
    window.go_to("Takes")
    view = window.page
    assert isinstance(view, TakesPage)
    for command in ("pair", "up", "work", "down", "forward", "route"):
        settle(window)
        view.commands[command].run()
    settle(window)


def keys(window: Window) -> None:
    window.go_to("Keys")
    settle(window)
    view = window.page
    assert isinstance(view, KeysPage)
    for _ in range(3):
        view.commands["down"].run()
    view.commands["mark"].run()


def rhythm(window: Window) -> None:
    """A pattern for each hand, small notes, and what is said of them."""
    hinges(window, 7)
    window.go_to("Rhythm")
    view = window.page
    assert isinstance(view, RhythmPage)
    view.commands["small-all"].run()
    window.playback.stop()
    view.commands["first"].run()


def sheet(kind: str, window: Window) -> None:
    """A kind of sheet, on the page that shows it."""
    window.go_to("Sheet")
    view = window.page
    assert isinstance(view, SheetPage)
    view.paging.choose(kind)
    while view.state.stale:
        settle(window)


def practised(window: Window) -> PractisePage:
    """Four days of practice by a simulated player, the last one yesterday, on the page that shows them."""
    piece = piece_of(window.document.song, window.document.library)
    player = Simulation([piece], "power", _DAYS, 6, seed=4)
    list(player.run("weakest"))
    today = datetime.now().astimezone()
    later = timedelta(days=(today - FIRST_DAY).days - _DAYS)
    log = Log(log_path())
    log.forget()
    log.add([replace(one, at=one.at + later) for one in player.tries], [(piece.id, piece.title)])
    for day in range(_DAYS):
        at = FIRST_DAY + later + timedelta(days=day)
        session = log.begin(at, 6, [piece.id], [])
        log.finish(session, Done(0, at, 6, 54))
        log.end(session, at)
    log.close()
    window.go_to(PractisePage.name)
    view = window.page
    assert isinstance(view, PractisePage)
    while not view.state.ready:
        settle(window)
    return view


def practise(window: Window) -> None:
    """A drill that waits for the right notes; one of them was wrong."""
    view = practised(window)
    window.devices.choose(window.devices.screen.name)
    view.commands["start"].run()
    runner = view.state.runner
    assert runner is not None
    for stroke in runner.strokes[:1]:
        for key in stroke.keys:
            window.devices.feed(Struck(key, 70))
        for key in stroke.keys:
            window.devices.feed(Struck(key, 0))
    wanted = runner.strokes[1]
    for key in (*wanted.left, *wanted.right[:-1], wanted.right[-1] + 1):
        window.devices.feed(Struck(key, 70))
    view.show_now()


def practise_map(window: Window) -> None:
    window.looks.switch_theme()
    view = practised(window)
    view.commands["face-map"].run()
    view.choosing.choose_change(7)


def hinges_dark(window: Window) -> None:
    window.looks.switch_theme()
    hinges(window, 2)


SHOTS: tuple[tuple[str, str, Callable[[Window], None]], ...] = (
    ("song-light", "salt-stairs", song_page),
    ("hands-light", "lantern-ferry", hands_page),
    ("hinges-light", "lantern-ferry", hinges_leaf),
    ("rules-light", "lantern-ferry", rules),
    ("grip-light", "lantern-ferry", grip),
    ("board-light", "salt-stairs", board),
    ("swaps-light", "salt-stairs", swaps),
    ("ladder-light", "lantern-ferry", ladder),
    ("formulas-light", "salt-stairs", formulas),
    ("grid-light", "lantern-ferry", grid),
    ("lanes-light", "lantern-ferry", lanes),
    ("keys-light", "salt-stairs", keys),
    ("rhythm-light", "lantern-ferry", rhythm),
    ("practise-light", "salt-stairs", practise),
    ("map-dark", "salt-stairs", practise_map),
    ("crib-light", "lantern-ferry", partial(sheet, "crib")),
    ("score-light", "salt-stairs", partial(sheet, "score")),
    ("lead-light", "salt-stairs", partial(sheet, "lead")),
    ("hinges-dark", "salt-stairs", hinges_dark),
)


def main(folder: Path, only: list[str]) -> None:
    app = make_application()
    folder.mkdir(parents=True, exist_ok=True)
    for name, song, arrange in SHOTS:
        if only and name not in only:
            continue
        Display().keep()
        window = make_window(demo_song(song))
        window.resize(1280, 800)
        window.show()
        window.document.solve()
        settle(window)
        arrange(window)
        settle(window)
        window.grab().save(str(folder / f"{name}.png"))
        window.document.history.mark_clean(window.document.song, window.document.history.draft)
        window.close()
        print(folder / f"{name}.png")
    del app


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER, sys.argv[2:])
