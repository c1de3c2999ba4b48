"""The middle of the Swaps page: the chord's heading, the letters of the faces, the one that is open, and
what is done on it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QStackedWidget, QWidget

from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import command
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Faces
from yellow_hinge.ui.page import Part
from yellow_hinge.ui.pages.swaps.face import ChordFace, Given, SwapFace
from yellow_hinge.ui.pages.swaps.proposals_face import ProposalsFace
from yellow_hinge.ui.words import OneLine


def _bass(given: Given) -> ChordFace:
    from yellow_hinge.ui.pages.swaps.held_face import HeldFace  # noqa: PLC0415 - what it works with comes along

    return HeldFace(given)


def _formulas(given: Given) -> ChordFace:
    from yellow_hinge.ui.pages.swaps.formula_face import FormulaFace  # noqa: PLC0415 - likewise

    return FormulaFace(given)


def _grid(given: Given) -> ChordFace:
    from yellow_hinge.ui.pages.swaps.grid_face import GridFace  # noqa: PLC0415 - likewise

    return GridFace(given)


def _board(given: Given) -> ChordFace:
    from yellow_hinge.ui.pages.swaps.board_face import BoardFace  # noqa: PLC0415 - likewise

    return BoardFace(given)


def _ladder(given: Given) -> ChordFace:
    from yellow_hinge.ui.pages.swaps.ladder_face import LadderFace  # noqa: PLC0415 - likewise

    return LadderFace(given)


FACES = (
    SwapFace("proposals", "Proposals", "E", "Chords that may stand here, with reason and melody fit",
             ProposalsFace, says={"mark": "Mark for the grid"}),
    SwapFace("bass", "Other bass", "B", "The right hand stays; another bass, or a line, goes under it",
             _bass, buttons=("hear", "accept", "take-whole")),
    SwapFace("formulas", "Formulas", "F", "Runs of chords that work, and where they fit",
             _formulas, buttons=("hear", "accept", "turn-face", "keep-run", "forget"),
             says={"turn-face": "Twelve keys"}),
    SwapFace("grid", "Grid", "G", "A few swaps as switches: every combination with what it costs",
             _grid, buttons=("hear", "accept", "take-whole", "turn-face", "mark"),
             says={"take-whole": "Keep as a take", "turn-face": "By effort, by bass",
              "mark": "Hold the right hands"}),
    SwapFace("board", "Board", "I", "A degree, where it goes, and every upper chord that may stand over it",
             _board, buttons=("hear", "accept", "turn-face"), says={"turn-face": "Next inversion"}),
    SwapFace("ladder", "Colour ladder", "O", "One voice moves: every chord that it passes through; walks",
             _ladder, buttons=("hear", "accept", "mark", "take-whole"),
             says={"take-whole": "Take marked", "turn-face": "Close, spread", "mark": "Mark"}),
)  # fmt: skip
#: What the commands of faces are called where a face does not say otherwise.
_USUALLY = {"take-whole": "Take the line", "turn-face": "Held longer", "mark": "Next line"}


def _can(act: str) -> Callable[[Any], bool]:
    return lambda part: part.face.can(act)


def _called(command_id: str) -> Callable[[Any], str]:
    return lambda part: part.faces.open.says.get(command_id, _USUALLY[command_id])


class OnFace(Part):
    """What is done on the face that is open."""

    def __init__(self, document: Document, faces: Faces[SwapFace]) -> None:
        super().__init__(document)
        self.faces = faces
        self.made: dict[str, ChordFace] = {}

    @property
    def face(self) -> ChordFace:
        """The one that is open."""
        return self.made.get(self.faces.open.id, self.first)  # while it is being made

    @command("list-down", "Down the list", "Down", given=(1,), tip="To the next proposal")
    @command("list-up", "Up the list", "Up", given=(-1,), tip="To the proposal before")
    def step(self, direction: int) -> None:
        self.face.step(direction)

    @command("hear", "Hear", "H", tip="Hear it between its neighbours, before anything is changed",
             when=lambda self: self.face.hearable)  # fmt: skip
    def audition(self) -> None:
        self.face.audition()

    @command("accept", "Take", "Return", tip="Put it in place; undo takes it back",
             when=lambda self: self.face.ready)  # fmt: skip
    def take(self) -> None:
        self.face.take()

    @command("take-whole", "Take all", "Shift+Return", when=_can("take_whole"), now=_called("take-whole"),
             tip="The whole bass line; the marked rungs as a walk; the combination as a take of its own"
             )  # fmt: skip
    def take_whole(self) -> None:
        self.face.take_whole()

    @command("next-place", "Next place or voice", ".", given=(1,), when=_can("across"),
             tip="The next place of the run; voice of the ladder; the next of a row of grid or board"
             )  # fmt: skip
    @command("place-before", "Place or voice before", ",", given=(-1,), when=_can("across"))
    def across(self, direction: int) -> None:
        self.face.across(direction)

    @command("turn-face", "Held longer, or lying otherwise", "U", when=_can("turn"), now=_called("turn-face"),
             tip="The hand held through more; the ladder close, spread, as it is; a formula in all keys; "
                 "the best first by effort or by how far the bass moves")  # fmt: skip
    def turn(self) -> None:
        self.face.turn()

    @command("keep-run", "Keep as a formula", "S", given=("keep_run",), when=_can("keep_run"),
             tip="The chords from here, with grips, rhythm and small notes, under the name beside them"
             )  # fmt: skip
    @command("forget", "Forget it", "Delete", given=("forget",), when=_can("forget"),
             tip="The chosen formula of your own goes out of your file; songs that have it keep it"
             )  # fmt: skip
    @command("mark", "Next line, or mark", "M", given=("mark",), when=_can("mark"), now=_called("mark"),
             checked=lambda self: self.face.holds,
             tip="A proposal for the grid of combinations; the next line that walks down; on the ladder "
                 "the next step of a walk of your own; in the grid the right hands as they are now"
             )  # fmt: skip
    @command("hear-walk", "Hear the walk", "D", given=("hear_walk",), when=_can("hear_walk"),
             tip="The walk that is chosen in the list")  # fmt: skip
    @command("take-walk", "Take the walk", "W", given=("take_walk",), when=_can("take_walk"),
             tip="Put the walk that is chosen in the list in place")  # fmt: skip
    def act(self, name: str) -> None:
        """What not every face has, by the name of its method."""
        getattr(self.face, name)()

    @command("stop", "Cancel", "Escape", tip="Stop the weighing",
             when=lambda self: self.face.weighs or self.first.weighs)  # fmt: skip
    def stop(self) -> None:
        """Nothing more is worked out, on the page and on its open face."""
        for face in (self.first, self.face):
            face.stop()

    @property
    def first(self) -> ProposalsFace:
        """That of the proposals."""
        first = self.made[FACES[0].id]
        assert isinstance(first, ProposalsFace)
        return first


class FaceStack(QWidget):
    """Shows one face at a time; each is made when it is first wanted."""

    def __init__(self, given: Given, acts: OnFace) -> None:
        super().__init__()
        self._given, self._acts = given, acts
        layout = kit.column(self)
        self.heading = OneLine("title")
        self.heading.setWordWrap(True)
        layout.addWidget(self.heading)
        self._stack = QStackedWidget()
        self._make(FACES[0])
        layout.addWidget(acts.faces.row(given.commands))
        layout.addWidget(self._stack, 1)
        buttons = QHBoxLayout()
        self._buttons: dict[str, list[QAbstractButton]] = {}
        for face in FACES:
            self._buttons[face.id] = [
                kit.button(given.commands, act, "first" if act == "accept" else "") for act in face.buttons
            ]
            for button in self._buttons[face.id]:
                buttons.addWidget(button)
        layout.addLayout(buttons)
        self.open()

    def open(self) -> None:
        """Show the face that is open."""
        face = self._acts.faces.open
        if face.id not in self._acts.made:
            self._make(face)
        self._stack.setCurrentWidget(self._acts.face)
        for own, buttons in self._buttons.items():
            for button in buttons:
                button.setVisible(own == face.id)

    def _make(self, row: SwapFace) -> None:
        face = self._acts.made[row.id] = row.make(self._given)
        face.hear.connect(self._acts.hear)
        face.said.connect(self._acts.said)
        face.changed.connect(self._given.commands.refresh if face.alone else self._acts.shown)
        self._stack.addWidget(face)

    def close_faces(self) -> None:
        """The window closes."""
        for face in self._acts.made.values():
            face.close_face()
