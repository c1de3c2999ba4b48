"""The commands of the Swaps page's faces: which one is open, and what is done on the two that work on
the grip."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.swaps_page.face import FACES

if TYPE_CHECKING:
    from yellow_hinge.ui.swaps_page.view import SwapsPage

#: Which of them stand as buttons beside the faces' own, by face.
FACE_BUTTONS = {
    "bass": ("hear", "accept", "take-whole"),
    "formulas": ("hear", "accept"),
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

    def other(ladder: str, bass: str) -> str:
        return ladder if page.face == "ladder" else bass

    return [
        *open_,
        Command("take-whole", "Take all", partial(on_face, "take", True), ("Shift+Return",),
                tip="The whole bass line; or the marked rungs as a walk", enabled=there,
                now=lambda: other("Take marked", "Take the line")),
        Command("next-place", "Next place or voice", partial(on_face, "across", 1), (".",),
                tip="The next place of the run; the next voice of the ladder", enabled=there),
        Command("place-before", "Place or voice before", partial(on_face, "across", -1), (",",),
                enabled=there),
        Command("turn-face", "Held longer, or lying otherwise", partial(on_face, "turn"), ("U",),
                tip="The hand held through more; the ladder close, spread, as it is", enabled=there,
                now=lambda: other("Close, spread", "Held longer")),
        Command("mark", "Next line, or mark the rung", partial(on_face, "mark"), ("M",),
                tip="The next line that walks down; on the ladder the next step of a walk of your own",
                enabled=there, now=lambda: other("Mark", "Next line")),
        Command("hear-walk", "Hear the walk", partial(on_face, "hear_walk"), ("D",),
                tip="The walk that is chosen in the list", enabled=walks),
        Command("take-walk", "Take the walk", partial(on_face, "take_walk"), ("W",),
                tip="Put the walk that is chosen in the list in place", enabled=walks),
    ]  # fmt: skip


def _is_open(page: SwapsPage, name: str) -> bool:
    return page.face == name
