"""What can be done on the workbench, grips apart: walking, trying and locking, the faces of the side,
rows and takes, and what is shown."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication

from yellow_hinge.song.edits import copy_take, drop_take, lead_back
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.hinges_page.faces import FACES
from yellow_hinge.ui.hinges_page.state import Selection

if TYPE_CHECKING:
    from yellow_hinge.ui.hinges_page.view import HingesPage


def page_commands(page: HingesPage) -> list[Command]:
    """All of them, in the order of the menu."""
    return [*_walking(page), *_trying(page), *_faces(page), *_takes_commands(page), *_showing(page)]


def _walking(page: HingesPage) -> list[Command]:
    return [
        Command("forward", "Forward", lambda: page.step(1), ("Right",), tip="To the next leaf or hinge"),
        Command("backward", "Backward", lambda: page.step(-1), ("Left",),
                tip="To the leaf or hinge before"),
        Command("first", "First chord", lambda: page.select(Selection()), ("Home",)),
        Command("last", "Last chord", partial(_to_last, page), ("End",)),
        Command("list-down", "Down the list", lambda: page.leaf.step_list(1), ("Down",),
                tip="Down the other voicings", enabled=page.on_leaf),
        Command("list-up", "Up the list", lambda: page.leaf.step_list(-1), ("Up",),
                tip="Up the other voicings", enabled=page.on_leaf),
    ]  # fmt: skip


def _trying(page: HingesPage) -> list[Command]:
    state = page.state
    return [
        Command("hear", "Hear", page.audition, ("H",),
                tip="Hear the chosen chord between its neighbours, or the chosen change",
                enabled=page.any_chord),
        Command("try", "Try", page.try_alternative, ("T",),
                tip="Put the voicing chosen in the list in place, to look and listen",
                enabled=lambda: state.trial is not None
                or (page.on_leaf() and page.leaf.listed() is not None)),
        Command("end-trial", "Put back", page.end_trial, ("Escape",), tip="End what is on trial",
                enabled=lambda: state.trying),
        Command("lock", "Lock", page.toggle_lock, ("L",),
                tip="Keep this voicing; everything else is solved around it",
                enabled=page.can_lock, now=lambda: "Unlock" if page.locked() else "Lock"),
        Command("better", "Try the smaller change", page.try_better, ("G",),
                tip="Go to the chord that would make this change smaller, its voicing on trial",
                enabled=lambda: state.better(page.document.solved.betterments) is not None),
        Command("give-back", "Give back", page.give_back, ("R",),
                tip="On a swapped chord: the chart's own comes back", enabled=page.is_swapped),
    ]  # fmt: skip


def _faces(page: HingesPage) -> list[Command]:
    """What the side shows of the chosen leaf, one at a time; the same key leads back to the first."""
    return [
        Command(f"face-{face.id}", face.words, partial(page.show_face, face), (face.key,), "Side",
                face.tip, enabled=page.on_leaf, checked=partial(page.shows, face))
        for face in FACES
    ]  # fmt: skip


def _takes_commands(page: HingesPage) -> list[Command]:
    song = lambda: page.document.song  # noqa: E731 - read anew each time
    offers = lambda: page.document.solved.offers  # noqa: E731
    return [
        Command("next-row", "Another row", page.next_row, ("X",),
                tip="Another row for the same chords on trial, in turn",
                enabled=lambda: len(offers()) > 1),
        Command("keep-row", "Keep this row", page.keep_row, ("K",),
                tip="Keep the row on trial as a take, its chords locked",
                enabled=lambda: page.state.offer > 0),
        Command("new-take", "New take", lambda: page.document.apply(copy_take(song())), menu="Takes",
                tip="A copy of this take, to go on with", enabled=page.any_chord),
        Command("next-take", "Next take", page.next_take, ("A",), "Takes", "Work on the next take",
                enabled=lambda: len(song().takes) > 1),
        Command("drop-take", "Drop this take",
                lambda: page.document.apply(drop_take(song(), song().current)), menu="Takes",
                enabled=lambda: len(song().takes) > 1),
        Command("vary-round", "Vary this round", page.vary_round, ("V",), "Takes",
                "Give the round of the chosen chord a take of its own", enabled=page.can_vary),
        Command("loop", "Lead back", partial(_toggle_loop, page), ("B",),
                tip="A vamp: the last chord leads back to the first, which counts too",
                enabled=lambda: len(song().slots) > 1, checked=lambda: song().arrangement.loop),
    ]  # fmt: skip


def _showing(page: HingesPage) -> list[Command]:
    state = page.state
    return [
        Command("picture", "Copy as a picture", partial(_copy_picture, page), ("O",),
                tip="The leaves and hinges that are seen, for other programs", enabled=page.any_chord),
        Command("labels", "Notes", page.next_label, ("N",),
                tip="What stands on the notes: names, degrees or fingers",
                now=lambda: f"Notes: {state.label}"),
        Command("tune", "Tune", page.toggle_melody, ("M",),
                tip="Show the melody over the leaves: filled is a chord tone, a ring a tension, "
                "a dash passes, a cross clashes",
                enabled=lambda: any(state.row.melody), checked=lambda: state.melody),
    ]  # fmt: skip


def _to_last(page: HingesPage) -> None:
    page.select(Selection(max(0, len(page.state.song.slots) - 1)))


def _toggle_loop(page: HingesPage) -> None:
    """Lead back to the first chord, or end with the last one."""
    song = page.document.song
    page.document.apply(lead_back(song, not song.arrangement.loop))


def _copy_picture(page: HingesPage) -> None:
    """The leaves that are seen go to the clipboard."""
    QGuiApplication.clipboard().setPixmap(page.row_view.grab())
    page.document.noted.emit(("The leaves that are seen are in the clipboard as a picture.",))
