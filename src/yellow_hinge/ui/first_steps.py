"""The first hour: seven steps on the real pages, each done when it was done; a strip below says the
next."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from msgspec import Struct, field
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from yellow_hinge.song.model import Song
from yellow_hinge.ui import kit
from yellow_hinge.ui.commands import CommandList
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.playback import Playback
from yellow_hinge.ui.quiet import Ground
from yellow_hinge.ui.theme import dress
from yellow_hinge.ui.words import Words

#: So many chords are walked to.
_WALKED = 3


class Seen(Struct):
    """What the player has done since the steps began: the song then and now, chords come to on Hinges, pages
    on which something was heard, whether a sheet was written, and steps that were agreed to as they are."""

    begun: Song
    song: Song
    walked: set[int] = field(default_factory=set)
    heard: set[str] = field(default_factory=set)
    written: bool = False
    agreed: set[str] = field(default_factory=set)


class Step(Struct, frozen=True):
    """A step: its name, the page where it is done, what to do in words, the acts of the window that help,
    when it is done, and with which words it is agreed to as it is ("": it has to be done)."""

    name: str
    page: str
    words: str
    done: Callable[[Seen], bool]
    acts: tuple[str, ...] = ()
    agree: str = ""


def _locked(song: Song) -> int:
    return sum(song.locked(slot.index) for slot in song.slots)


STEPS: Sequence[Step] = (
    Step("Your song", "Song",
         "Type your chords over the text, paste a song (Ctrl+Shift+V), open one, or play the tune in "
         "(Ctrl+T). Or stay with ours.",
         lambda seen: bool(seen.song.slots) and seen.song.chart.written != seen.begun.chart.written,
         acts=("open",), agree="Stay with ours"),
    Step("Your hands", "Hands",
         "Say how far your hands reach with ease: click the two keys. Nothing will ask for more.",
         lambda seen: seen.song.hands != seen.begun.hands, agree="They fit as they are"),
    Step("Walk the hinges", "Hinges",
         "Press Right a few times. A yellow bar is a note you hold, a curve one that moves.",
         lambda seen: len(seen.walked) >= _WALKED),
    Step("Choose a voicing", "Hinges",
         "Down walks other voicings of the chord, T tries one. Press L to keep what you like: the rest is "
         "solved around it.",
         lambda seen: _locked(seen.song) > _locked(seen.begun)),
    Step("Hear a swap", "Swaps",
         "Choose a chord and press H: another chord in its place. Return takes it, R gives the chart's back.",
         lambda seen: "Swaps" in seen.heard),
    Step("Give it rhythm", "Rhythm",
         "Click a pattern at the side: it is heard at once. Space plays the song.",
         lambda seen: "Rhythm" in seen.heard),
    Step("Write it down", "Sheet",
         "W saves the crib sheet as a PDF, R prints it.",
         lambda seen: seen.written),
)  # fmt: skip


def next_step(seen: Seen) -> int:
    """The first step that is still to be done; all of them: their number."""
    open_ones = (k for k, step in enumerate(STEPS) if not (step.done(seen) or step.name in seen.agreed))
    return next(open_ones, len(STEPS))


class FirstSteps(Ground):
    """The strip below the page: beside it some pages would not fit. ``wants`` carries the page to go to,
    ``left``: the player goes on alone."""

    wants = Signal(str)
    left = Signal()

    def __init__(self, commands: CommandList) -> None:
        super().__init__("panel")
        self.setAccessibleName("First steps")
        self.seen = Seen(Song(), Song())
        self.marks = [kit.label(wraps=False) for _ in STEPS]
        for mark, step in zip(self.marks, STEPS, strict=True):
            mark.setToolTip(step.name)
        self.words = Words()
        self.go, self.agree = QPushButton(), QPushButton()
        self.go.setObjectName("first")
        self.go.clicked.connect(lambda _=False: self.wants.emit(self._step.page))
        self.agree.clicked.connect(lambda _=False: self._agree())
        self.acts = {
            act: kit.button(commands, act) for act in dict.fromkeys(a for s in STEPS for a in s.acts)
        }
        leave = QPushButton("Leave the steps")
        leave.setToolTip("Help has them again")
        leave.clicked.connect(self.left)
        steps, said, layout = QHBoxLayout(), QVBoxLayout(), QHBoxLayout(self)
        layout.setContentsMargins(16, 8, 12, 8)
        steps.setSpacing(14)
        kit.add_all(steps, (kit.label("quiet", "First steps", wraps=False), *self.marks))
        steps.addStretch(1)
        said.addLayout(steps)
        said.addWidget(self.words)
        layout.addLayout(said, 1)
        kit.add_all(layout, (self.go, *self.acts.values(), self.agree, leave))

    @property
    def _step(self) -> Step:
        return STEPS[min(next_step(self.seen), len(STEPS) - 1)]

    def begin(self, song: Song) -> None:
        """From the first step, with the song that is open."""
        self.seen = Seen(song, song)
        self.show_all("")

    def _agree(self) -> None:
        self.seen.agreed.add(self._step.name)
        self.wants.emit(self._step.page)

    def show_all(self, page: str) -> None:
        """What is done, and what comes next; ``page`` is the one that is shown."""
        here, step = next_step(self.seen), self._step
        for number, (mark, one) in enumerate(zip(self.marks, STEPS, strict=True)):
            done = one.done(self.seen) or one.name in self.seen.agreed
            mark.setText(f"{'✓' if done else number + 1}" + f"  {one.name}" * (number == here))
            mark.setAccessibleName(f"{one.name}, done" if done else one.name)
            mark.setObjectName("heading" if number == here else "quiet")
            mark.style().polish(mark)
        over = here == len(STEPS)
        self.words.setText(
            "All seven are done. The finder (/) has everything else; F1 says what a page is for." if over
            else step.words
        )  # fmt: skip
        self.go.setText(f"Go to {step.page}")
        self.go.setVisible(not over and page != step.page)
        self.agree.setText(step.agree)
        self.agree.setVisible(bool(step.agree) and not over)
        for act, button in self.acts.items():
            button.setVisible(act in step.acts and not over)


class Host(Protocol):
    """The window, as far as the steps need it."""

    document: Document
    playback: Playback
    commands: CommandList
    below: QVBoxLayout

    @property
    def page_shown(self) -> str: ...
    def go_to(self, name: str) -> None: ...


class StepsDesk:
    """Sees what is done in the window and says on the strip what comes next."""

    def __init__(self, host: Host) -> None:
        self._host = host
        self.made: list[FirstSteps] = []  #: once it was wanted
        host.document.changed.connect(self.step_on)
        host.document.walked.connect(self._walked)
        host.playback.began.connect(self._began)

    @property
    def on(self) -> bool:
        """Whether the strip is there."""
        return bool(self.made) and not self.made[0].isHidden()

    def toggle(self) -> None:
        """Begin the first steps, or leave them."""
        if self.on:
            self.made[0].hide()
            return
        if not self.made:
            card = FirstSteps(self._host.commands)
            card.wants.connect(self._host.go_to)
            card.left.connect(self.toggle)
            self._host.below.addWidget(card)
            dress(card)
            self.made.append(card)
        self.made[0].begin(self._host.document.song)
        self.made[0].show()
        self.step_on()

    def step_on(self) -> None:
        """Something was done that may be a step."""
        if self.on:
            card = self.made[0]
            card.seen.song = self._host.document.song
            card.show_all(self._host.page_shown)

    def _walked(self) -> None:
        if self.on and self._host.page_shown == "Hinges":
            self.made[0].seen.walked.add(self._host.document.chosen)
            self.step_on()

    def _began(self) -> None:
        if self.on:
            self.made[0].seen.heard.add(self._host.page_shown)
            self.step_on()

    def wrote(self) -> None:
        """A sheet went to paper or to a file."""
        if self.on:
            self.made[0].seen.written = True
            self.step_on()
