"""What can be done on the Practise page."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.page import Face
from yellow_hinge.ui.practise_page.state import RHYTHMS, WAYS

if TYPE_CHECKING:
    from yellow_hinge.ui.practise_page.view import PractisePage

FACES = (
    Face("today", "Today", "T", "The blocks of today, each with its reason"),
    Face("drills", "Drills", "D", "Drills of your own choice, riddles, and the songs of the evening"),
    Face("map", "Map", "M", "The changes of the song by how sure they are"),
    Face("weeks", "Weeks", "W", "Progress over weeks; the log as a file"),
    Face("set", "Set", "E", "Tolerances, the ladder, latency, keys that act"),
)


def page_commands(page: PractisePage) -> Sequence[Command]:
    """All of them; keys, words and tips are said here alone."""
    state = page.state
    some = lambda: page.state.at_hand is not None  # noqa: E731
    ready = lambda: page.state.ready  # noqa: E731
    return [
        Command(
            "start",
            "Start",
            page.start,
            ("Space", "Return"),
            tip="Begin the drill or the break, or stop it; a riddle: my answer",
            enabled=lambda: some() or page.riddling.on,
            now=page.start_words,
        ),
        Command("again", "Again", page.again, ("A",), tip="The round from its beginning", enabled=some),
        Command(
            "next",
            "Next",
            page.next_block,
            ("N",),
            tip="Leave this block for the next; another riddle",
            enabled=lambda: some() or page.riddling.on,
        ),
        Command(
            "hear", "Hear", page.demonstrate, ("H",), tip="How the round sounds at its tempo", enabled=some
        ),
        Command(
            "way",
            "Listening",
            page.next_way,
            ("V",),
            tip="Waits for the right notes; with the click; as it comes; or you say how it was",
            now=lambda: f"Listening: {WAYS[state.settings.way]}",
        ),
        Command(
            "hands",
            "Hands",
            page.next_hands,
            ("B",),
            tip="Both hands, the left one or the right one alone",
            enabled=some,
            now=state.hands_words,
        ),
        Command(
            "rhythm",
            "Rhythm",
            page.next_rhythm,
            ("P",),
            tip="Each grip once; as the take plays it; or a line over the left hand",
            now=lambda: f"Play {RHYTHMS[state.settings.rhythm]}",
        ),
        Command(
            "clean",
            "It was clean",
            partial(page.mark, True),
            ("Y",),
            tip="You say it: the round was clean",
            enabled=page.can_mark,
        ),
        Command(
            "slip",
            "It slipped",
            partial(page.mark, False),
            ("X",),
            tip="You say it: there was a slip",
            enabled=page.can_mark,
        ),
        Command(
            "slower", "Slower", partial(page.change_tempo, -1), ("S",), tip="One step slower", enabled=some
        ),
        Command(
            "faster", "Faster", partial(page.change_tempo, 1), ("F",), tip="One step faster", enabled=some
        ),
        *(
            Command(
                f"face-{face.id}",
                face.words,
                partial(page.open_face, face),
                (face.key,),
                "Side",
                face.tip,
                checked=partial(page.is_open, face),
            )
            for face in FACES
        ),
        Command(
            "plan",
            "Plan anew",
            page.plan_anew,
            (),
            "Today",
            "Other blocks, by what is known now",
            enabled=ready,
        ),
        Command("up", "Up", partial(page.step, -1), ("Up",), "Side", "The entry above, or the change before"),
        Command(
            "down", "Down", partial(page.step, 1), ("Down",), "Side", "The entry below, or the change behind"
        ),
        Command("take", "Take it", page.take_entry, ("Right",), "Side", "Take the entry that is chosen"),
        Command(
            "shelf-add",
            "Add a song...",
            page.filing.add,
            (),
            "Songs of the evening",
            "Put a file on the shelf, behind the others",
        ),
        Command(
            "shelf-away",
            "Take away",
            page.filing.take_away,
            (),
            "Songs of the evening",
            "Take the chosen song off the shelf; its file stays",
            enabled=page.filing.any_on_shelf,
        ),
        Command(
            "shelf-up",
            "Move up",
            partial(page.filing.move, -1),
            (),
            "Songs of the evening",
            "Earlier in the evening",
            enabled=page.filing.any_on_shelf,
        ),
        Command(
            "shelf-down",
            "Move down",
            partial(page.filing.move, 1),
            (),
            "Songs of the evening",
            "Later in the evening",
            enabled=page.filing.any_on_shelf,
        ),
        Command(
            "shelf-print",
            "Save their sheets...",
            page.filing.print_all,
            (),
            "Songs of the evening",
            "The crib sheets of all songs, in their order, in one PDF",
            enabled=ready,
        ),
        Command(
            "latency",
            "Measure latency",
            page.setting.measure_latency,
            (),
            "Set",
            "Play any key with each click; what the device needs is taken off from then on",
        ),
        Command(
            "export-log", "Save the log...", page.filing.export_log, (), "Weeks", "Every try, as CSV or JSON"
        ),
        Command(
            "forget-song",
            "Delete this song's log...",
            page.filing.forget_song,
            (),
            "Weeks",
            "Everything that is known of practising this song, for good",
            enabled=ready,
        ),
    ]
