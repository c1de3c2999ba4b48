"""The commands of the Swaps page's faces: which one is open, and what is done on the two that work on
the grip."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.swaps_page.face import FACES

if TYPE_CHECKING:
    from yellow_hinge.ui.swaps_page.view import SwapsPage

#: Which of them stand as buttons beside the faces' own, by face.
FACE_BUTTONS = {
    "proposals": ("mark",),
    "bass": ("hear", "accept", "take-whole"),
    "formulas": ("hear", "accept", "turn-face", "keep-run", "forget"),
    "grid": ("hear", "accept", "take-whole", "turn-face", "mark"),
    "board": ("hear", "accept", "turn-face"),
    "ladder": ("hear", "accept", "mark", "take-whole"),
}


def face_commands(page: SwapsPage) -> list[Command]:
    """The commands of the faces."""
    open_ = [
        Command(face.id, face.words, partial(page.open_face, face.id), (face.key,), menu="Show", tip=face.tip,
                checked=partial(_is_open, page, face.id))
        for face in FACES
    ]  # fmt: skip

    def on_face(act: str, *given: object) -> None:
        face = page.grip_face
        if face is not None:
            getattr(face, act)(*given)

    def there() -> bool:
        return page.grip_face is not None and page.grip_face.ready

    def walks() -> bool:
        face = page.grip_face
        return face is not None and face.walks_chosen

    def by_face(**words: str) -> Callable[[], str]:
        return lambda: words.get(page.face, words["bass"])

    def on_grip() -> bool:
        return there() and page.face in ("bass", "ladder")

    def turns() -> bool:
        return on_grip() or can("turn")

    def can(act: str) -> bool:
        face = page.grip_face
        return face is not None and face.can(act)

    def walks_across() -> bool:
        return can("across") or (there() and page.face != "formulas")

    def marked() -> bool:
        face = page.grip_face
        return page.state.is_marked if page.face == "proposals" else face is not None and face.holds

    def marks() -> bool:
        if page.grip_face is None:
            return page.state.proposal is not None
        return on_grip() or page.face == "grid"

    return [
        *open_,
        Command("take-whole", "Take all", partial(on_face, "take", True), ("Shift+Return",),
                tip="The whole bass line; the marked rungs as a walk; the combination as a take of its own",
                enabled=lambda: there() and page.face not in ("formulas", "board"),
                now=by_face(ladder="Take marked", grid="Keep as a take", bass="Take the line")),
        Command("next-place", "Next place or voice", partial(on_face, "across", 1), (".",),
                tip="The next place of the run; voice of the ladder; the next of a row of grid or board",
                enabled=walks_across),
        Command("place-before", "Place or voice before", partial(on_face, "across", -1), (",",),
                enabled=walks_across),
        Command("turn-face", "Held longer, or lying otherwise", partial(on_face, "turn"), ("U",),
                tip="The hand held through more; the ladder close, spread, as it is; a formula in all keys; "
                    "the best first by effort or by how far the bass moves",
                enabled=turns,
                now=by_face(ladder="Close, spread", bass="Held longer", formulas="Twelve keys",
                            board="Next inversion", grid="By effort, by bass")),
        Command("keep-run", "Keep as a formula", partial(on_face, "keep_run"), ("S",),
                tip="The chords from here, with grips, rhythm and small notes, under the name beside them",
                enabled=lambda: can("keep_run")),
        Command("forget", "Forget it", partial(on_face, "forget"), ("Delete",),
                tip="The chosen formula of your own goes out of your file; songs that have it keep it",
                enabled=lambda: can("forget")),
        Command("mark", "Next line, or mark", page.mark, ("M",),
                tip="A proposal for the grid of combinations; the next line that walks down; on the ladder "
                    "the next step of a walk of your own; in the grid the right hands as they are now",
                enabled=marks, now=by_face(proposals="Mark for the grid", ladder="Mark", bass="Next line",
                                           grid="Hold the right hands"),
                checked=marked),
        Command("hear-walk", "Hear the walk", partial(on_face, "hear_walk"), ("D",),
                tip="The walk that is chosen in the list", enabled=walks),
        Command("take-walk", "Take the walk", partial(on_face, "take_walk"), ("W",),
                tip="Put the walk that is chosen in the list in place", enabled=walks),
    ]  # fmt: skip


def _is_open(page: SwapsPage, name: str) -> bool:
    return page.face == name
