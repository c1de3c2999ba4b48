"""The Swaps page: chords on the left, the open face in the middle, weighing and the curve at the side."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QWidget

from yellow_hinge.ui.document import Document
from yellow_hinge.ui.faces import Faces
from yellow_hinge.ui.page import Page, Part
from yellow_hinge.ui.pages.swaps.face import Given, SwapFace
from yellow_hinge.ui.pages.swaps.faces import FACES, FaceStack, OnFace
from yellow_hinge.ui.pages.swaps.painted import ChipsView
from yellow_hinge.ui.pages.swaps.side import SwapSide
from yellow_hinge.ui.pages.swaps.state import SwapsState
from yellow_hinge.ui.pages.swaps.swapping import Rules, Swapping
from yellow_hinge.ui.pages.swaps.weighing import Weighing
from yellow_hinge.ui.quiet import QuietScroll
from yellow_hinge.ui.theme import scaled

_CHIPS_WIDTH = 220


class SwapsPage(Page):
    """The page: its parts do what is done, here they are wired."""

    name = "Swaps"
    handy = ("hear", "accept", "back", "variant", "mark", "keep")
    twice = "hear"

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        self.state = SwapsState()
        self.state.liked = document.taste.proposals
        super().__init__(document, parent)
        self._open = FACES[0].id
        self._build()

    def make_parts(self) -> Sequence[Part]:
        self.weighing = Weighing(self.document, self.state, self)
        self.swapping = Swapping(self.document, self.weighing)
        self.rules = Rules(self.document, self.state)
        self.faces: Faces[SwapFace] = Faces(self.document, FACES, "Show")
        self.on_face = OnFace(self.document, self.faces)
        self.swapping.moved.connect(self.look)
        return self.swapping, self.on_face, self.faces, self.weighing, self.rules

    # --- building ---

    def _build(self) -> None:
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(12)
        self.chips = ChipsView(self.state)
        self.chips.chosen.connect(self.swapping.choose)
        self.chips_area = QuietScroll()
        self.chips_area.setWidgetResizable(True)
        self.chips_area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.chips_area.setWidget(self.chips)
        self.face_stack = FaceStack(Given(self.weighing, self.rules, self.commands), self.on_face)
        self.side = SwapSide(self.weighing, self.commands)
        self.weighing.worker.busy.connect(lambda _: self.commands.refresh())
        layout.addWidget(self.chips_area)
        layout.addWidget(self.face_stack, 1)
        layout.addWidget(self.side)
        self.fit_text()

    # --- showing ---

    @property
    def focus(self) -> QWidget:
        return self.chips

    def follow(self) -> None:
        if not self.state.stands_on(self.document.song, self.document.chosen):
            self.swapping.choose_slot(self.document.chosen)

    def entered(self) -> None:
        self.swapping.choose_slot(self.document.chosen)

    def close_page(self) -> None:
        self.weighing.worker.close()
        self.face_stack.close_faces()

    def fit_text(self) -> None:
        self.chips_area.setFixedWidth(scaled(_CHIPS_WIDTH))
        self.side.fit_text()

    def refresh(self) -> None:
        """Take over the document; search for proposals when the page is seen."""
        self.state.take(self.document.song)
        if self.isVisible():
            self.look()
        self.show_all()

    def look(self) -> None:
        """Find the proposals of the song as it is, unless they are there."""
        self.state.take(self.document.song)
        self._show_chord()
        self.weighing.look()
        self.show_all()

    def _show_chord(self) -> None:
        if self.isVisible():
            self.on_face.face.show_chord(self.state.sounding_slot)

    def show_all(self) -> None:
        """Everything from the state."""
        state = self.state
        self._show_face()
        self.face_stack.heading.setText(state.heading())
        self.chips.say_chosen(state.heading())
        self.chips.grow()
        place = self.chips.place_of(state.chosen)
        if place is not None:
            self.chips_area.ensureVisible(0, int(place.center().y()), 0, int(place.height()))
        self.on_face.first.refresh()
        self.side.refresh()
        self.commands.refresh()

    def _show_face(self) -> None:
        """Another face is open: it is told which chord is chosen."""
        before = self._open
        self._open = self.faces.open.id
        if self._open != before:
            self.face_stack.open()
            self.side.setVisible(not self.on_face.face.alone)
            self._show_chord()
