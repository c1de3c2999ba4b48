"""Hands on the chosen leaf: entering a grip, changing it in place, keeping it."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QDialog, QMenu

from yellow_hinge.errors import Problem, YellowHingeError
from yellow_hinge.song.edits import Edit
from yellow_hinge.song.grip_edits import WHERE, Where, change_grip, keep, keep_as_take, keeping, on_root
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.hinges_page.faces import FACES
from yellow_hinge.ui.hinges_page.state import Selection
from yellow_hinge.ui.hinges_page.ways_out import AllWaysOut
from yellow_hinge.voicing import handling
from yellow_hinge.voicing.handling import Keys
from yellow_hinge.voicing.shape import Voicing

if TYPE_CHECKING:
    from yellow_hinge.ui.hinges_page.grip_state import Spelled
    from yellow_hinge.ui.hinges_page.view import HingesPage

#: So many bars are listed where a grip would be kept.
_MOST_BARS = 8
_MY_GRIP = next(face for face in FACES if face.id == "grip")


class HandsOn:
    """What the commands and clicks on grips do. A grip that is being entered is on trial; a change in
    place of one that is kept is an edit."""

    def __init__(self, page: HingesPage) -> None:
        self._page = page
        self._sounding: frozenset[int] = frozenset()
        self.where_menu: QMenu | None = None

    @property
    def _song(self) -> Song:
        return self._page.document.song

    @property
    def _index(self) -> int:
        return self._page.state.selection.index

    def _say(self, what: str, remedy: str) -> None:
        self._page.said.emit((Problem("My grip", what, remedy),))

    # --- entering ---

    def click(self, key: int, side: str) -> None:
        """A key joins a hand, or is let go; the face for one's own grips opens."""
        keys = self._page.grips.clicked(self._song, self._index, key, side)
        if keys is None:
            self._say(
                f"the {side} hand has no finger left", "let a key go first, or give it to the other hand"
            )
            return
        self._page.face = _MY_GRIP
        self.enter(keys)

    def enter(self, keys: Keys, spelled: Spelled = ()) -> None:
        """Other keys for the chosen leaf, on trial until they are kept."""
        self._page.grips.enter(self._song, self._index, keys, spelled)
        self.put_on_trial()
        self._page.show_all()

    def play(self, sounding: frozenset[int]) -> None:
        """Keys that are played: with every new one, what sounds then is the grip; letting go changes
        nothing, so that it can be looked at with free hands."""
        new = sounding - self._sounding
        self._sounding = sounding
        if new:
            self.enter(handling.split(sounding, self._song.hands))

    def put_on_trial(self) -> None:
        """Show the grip that is being entered for the chosen leaf in its place."""
        page, state = self._page, self._page.state
        if state.selection.on_hinge or not self._song.slots or page.face is not _MY_GRIP:
            return
        draft = page.grips.draft(self._song, self._index)
        if draft is not None and self._song.slots[self._index].chord is not None:
            state.start_trial(page.grips.desk.voicing(self._song, self._index, draft.keys))

    def clear(self) -> None:
        """All keys let go, to begin anew."""
        self._page.face = _MY_GRIP
        self.enter(Keys())
        self._page.grip.forget_text()

    def give_up(self) -> None:
        """The grip that was being entered is forgotten."""
        if self._song.slots:
            self._page.grips.give_up(self._song, self._index)

    # --- out of reach ---

    def ask_ways_out(self) -> None:
        """Show what would be done to every grip that is out of reach; do it when that is wanted."""
        from yellow_hinge.tasks.song.ways_out import first_ways, take_first_ways  # noqa: PLC0415 - rarely wanted

        rows = first_ways(self._song, self._page.document.solved.reductions)
        if rows and AllWaysOut(rows, self._page).exec() == QDialog.DialogCode.Accepted:
            self._apply(take_first_ways(self._song, rows))

    # --- keeping ---

    def voicing(self) -> Voicing | None:
        """The grip that is entered or in use, where there is one."""
        song, index = self._song, self._index
        if not song.slots or self._page.state.selection.on_hinge or song.slots[index].chord is None:
            return None
        keys = self._page.grips.keys(song, index)
        if not (keys.left or keys.right):
            return None
        return self._page.grips.desk.voicing(song, index, keys)

    def keep(self) -> None:
        """Keep it for this chord."""
        voicing = self.voicing()
        if voicing is not None:
            self._apply(change_grip(self._song, self._index, voicing, "My grip"))

    def ask_where(self) -> None:
        """Ask in which chords to keep it, with how many each answer takes and where they are."""
        voicing = self.voicing()
        if voicing is None:
            return
        if self.where_menu is None:
            self.where_menu = QMenu(self._page)
            self.where_menu.setAccessibleName("Where to keep my grip")
        menu = self.where_menu
        menu.clear()
        rounds = len(self._song.columns[self._song.column_of[self._index]])
        for number, (where, words) in enumerate(WHERE.items(), 1):
            said = self._where_words(voicing, where)
            action = menu.addAction(f"&{number}  {words[0].upper()}{words[1:]}: {said}")
            action.triggered.connect(lambda _=False, where=where: self.keep_where(voicing, where))
            action.setEnabled(where != "round" or rounds > 1)
        button = self._page.grip.where_button
        near = button if button.isVisible() else self._page.row_view
        menu.popup(near.mapToGlobal(QPoint(0, -menu.sizeHint().height() if near is button else 0)))
        menu.setActiveAction(menu.actions()[1])

    def _where_words(self, voicing: Voicing, where: Where) -> str:
        song, found = self._song, keeping(self._song, self._index, voicing, where)
        bars = list(dict.fromkeys(song.slots[one].bar for one in found.slots))
        listed = ", ".join(map(str, bars[:_MOST_BARS])) + (" ..." if len(bars) > _MOST_BARS else "")
        own = "grip of your own gives way", "grips of your own give way"
        gone = f"; {counted(found.replaced, *own)}" if found.replaced else ""
        stay = f"; {counted(len(found.lost), 'chord')} left as it is" if found.lost else ""
        chords = counted(len(found.slots), "chord")
        return f"{chords}, {'bar' if len(bars) == 1 else 'bars'} {listed}{gone}{stay}"

    def keep_where(self, voicing: Voicing, where: Where) -> None:
        """Keep it in these places."""
        self._apply(keep(self._song, self._index, voicing, where))

    def keep_take(self) -> None:
        """Keep it in a take of its own."""
        voicing = self.voicing()
        if voicing is not None:
            self._apply(keep_as_take(self._song, self._index, voicing, "My grip"))

    def keep_shape(self, name: str) -> None:
        """Write the shape of the hand that clicks go to into the player's recipes."""
        from yellow_hinge.tasks.settings.library import keep_recipe  # noqa: PLC0415 - these bring NumPy
        from yellow_hinge.voicing.own_shapes import recipe_of  # noqa: PLC0415

        page, voicing = self._page, self.voicing()
        chord = self._song.slots[self._index].chord
        if voicing is None or chord is None:
            return
        side = page.grips.hand
        shape = voicing.hand(side)
        if not shape.keys:
            self._say(f"the {side} hand holds nothing", "choose the hand whose shape you mean (J)")
            return
        if not name.strip():
            page.grip.name.setFocus()
            self._say("your shape has no name yet", "write one in the field, then keep it again")
            return
        try:
            recipe = recipe_of(shape, side, chord, name, page.document.library)
            library = keep_recipe(recipe)
        except YellowHingeError as error:
            page.said.emit(error.problems)
            return
        page.grip.name.clear()
        self._apply(change_grip(self._song, self._index, voicing, f"My shape {recipe.name}"))
        page.document.learn(library)

    def _apply(self, edit: Edit) -> None:
        """What was entered is part of the song now."""
        self.give_up()
        self._page.state.end_trial()
        self._page.document.apply(edit)
        self._page.grip.forget_text()
        self._page.row_view.setFocus()
        self._page.show_all()

    def name_in_chart(self, chord: ChordSymbol) -> None:
        """The chosen chord is called by another name from now on."""
        from yellow_hinge.tasks.song.chart_names import name_in_chart  # noqa: PLC0415 - brings NumPy

        page = self._page
        if self._song.slots[self._index].at.part:
            self._say("this chord is part of a swap", "give it back first (R), then name it")
            return
        page.document.apply(name_in_chart(self._song, self._index, chord, page.document.library))

    # --- in place ---

    def change(self, words: str, keys: Keys | None) -> None:
        """Other keys in the chosen leaf, heard at once."""
        page = self._page
        if keys is None:
            self._say(f"{words.lower()}: there is no key or finger for that", "try the other way")
            return
        if page.grips.draft(self._song, self._index) is not None:
            self.enter(keys)
        else:
            voicing = page.grips.desk.voicing(self._song, self._index, keys)
            page.state.end_trial()
            page.document.apply(change_grip(self._song, self._index, voicing, words))
        page.audition()

    def invert(self, side: str, up: bool) -> None:
        keys = self._page.grips.inverted(self._song, self._index, side, up)
        self.change(f"{'Next' if up else 'Previous'} inversion, {side} hand", keys)

    def octave(self, side: str, octaves: int) -> None:
        keys = self._page.grips.by_octaves(self._song, self._index, side, octaves)
        self.change(f"{side.capitalize()} hand an octave {'up' if octaves > 0 else 'down'}", keys)

    def slide(self, way: str, up: bool) -> None:
        """The whole grip higher or lower: its shape by half steps, or along the scale or its own tones."""
        keys = self._page.grips.slid(self._song, self._index, way, up)
        self.change(f"Grip {'up' if up else 'down'}, {way}", keys)

    def carry(self, step: int) -> None:
        """The same shape in the next or the previous chord, on the root that is there, and one goes along."""
        page, song, voicing = self._page, self._song, self.voicing()
        to = self._index + step
        while 0 <= to < len(song.slots) and song.slots[to].chord is None:
            to += step
        if voicing is None or not 0 <= to < len(song.slots):
            self._say("there is no further chord", "go the other way")
            return
        here, there = song.slots[self._index].chord, song.slots[to].chord
        assert here is not None and there is not None
        moved = on_root(voicing, here, there, song.hands)
        if moved is None:
            self._say("the keyboard ends before that root", "take the grip an octave from there first (U, D)")
            return
        if page.grips.draft(song, self._index) is not None:
            self.keep()
        keys = Keys(moved.left.keys, moved.right.keys)
        page.select(Selection(to))
        self.change(f"Same shape on {there.root.pretty}", keys)

    def choose_note(self, direction: int) -> None:
        self._page.grips.choose_note(self._song, self._index, direction)
        self._page.show_all()

    def step(self, up: bool) -> None:
        """The chosen note to the next chord tone."""
        self.change(f"Note {'up' if up else 'down'}", self._page.grips.stepped(self._song, self._index, up))

    def hand_over(self) -> None:
        keys = self._page.grips.with_note(self._song, self._index, handling.handed_over)
        self.change("Note to the other hand", keys)

    def drop(self) -> None:
        keys = self._page.grips.with_note(self._song, self._index, handling.dropped)
        self.change("Drop a note", keys)

    def add(self) -> None:
        self.change("Add a note", self._page.grips.more(self._song, self._index))

    def drag(self, key: int, to: int) -> None:
        """A note dragged on the leaf."""
        self.change("Move a note", handling.moved(self._page.grips.keys(self._song, self._index), key, to))


def grip_commands(page: HingesPage) -> list[Command]:
    """Everything about grips, as commands."""

    def can() -> bool:
        return page.can_grip()

    def hands() -> HandsOn:
        return page.hands_on

    def slide(way: str, up: bool) -> None:
        hands().slide(way, up)

    def carry(step: int) -> None:
        hands().carry(step)

    def note_chosen() -> bool:
        return can() and page.grips.note is not None

    inverting = [
        Command(f"inversion-{way}-{side}", f"{words} inversion, {side}",
                partial(page.invert, side, way == "up"), (key,), "Grip", enabled=can,
                tip=f"The {side} hand in its {words.lower()} inversion; heard at once, undone with Ctrl+Z")
        for side, way, words, key in (
            ("right", "up", "Next", "PgUp"), ("right", "down", "Previous", "PgDown"),
            ("left", "up", "Next", "Shift+PgUp"), ("left", "down", "Previous", "Shift+PgDown"),
        )
    ]  # fmt: skip
    octaves = [
        Command(f"octave-{way}-{side}", f"Octave {way}, {side}",
                partial(page.octave, side, 1 if way == "up" else -1), (key,), "Grip",
                f"The {side} hand an octave {way}", enabled=can)
        for side, way, key in (
            ("right", "up", "U"), ("right", "down", "D"), ("left", "up", "Shift+U"),
            ("left", "down", "Shift+D"),
        )
    ]  # fmt: skip
    slides = [
        Command(f"slide-{way.replace(' ', '-')}-{to}", f"Grip {to}, {way}",
                partial(slide, way, to == "up"), (key,), "Grip",
                f"Both hands {words} {to}; heard at once, undone with Ctrl+Z", enabled=can)
        for way, words, keys in (
            ("half step", "a half step", ("Shift+Up", "Shift+Down")),
            ("scale", "a step of the scale", (">", "<")),
            ("inversion", "to the next of its tones", (")", "(")),
        )
        for to, key in zip(("up", "down"), keys, strict=True)
    ]  # fmt: skip
    slides += [
        Command(f"carry-{words}", f"Same shape, {words} chord", partial(carry, step), (key,), "Grip",
                f"The same shape on the root of the {words} chord, kept there; one goes along", enabled=can)
        for words, step, key in (("next", 1, "Shift+Right"), ("previous", -1, "Shift+Left"))
    ]  # fmt: skip
    notes = [
        Command("note-next", "Next note", lambda: hands().choose_note(1), (".",), "Grip",
                "Choose a note of the chord, from below upwards", enabled=can),
        Command("note-before", "Note before", lambda: hands().choose_note(-1), (",",), "Grip",
                "Choose a note of the chord, from above downwards", enabled=can),
        Command("note-up", "Note up", lambda: hands().step(True), ("+",), "Grip",
                "The chosen note to the next chord tone above", enabled=note_chosen),
        Command("note-down", "Note down", lambda: hands().step(False), ("-",), "Grip",
                "The chosen note to the next chord tone below", enabled=note_chosen),
        Command("note-over", "Note to the other hand", lambda: hands().hand_over(), ("C",), "Grip",
                "The other hand takes the chosen note", enabled=note_chosen),
        Command("note-drop", "Drop the note", lambda: hands().drop(), ("Delete",), "Grip",
                "Leave the chosen note out", enabled=note_chosen),
        Command("note-add", "Add a note", lambda: hands().add(), ("Insert",), "Grip",
                "One more chord tone on top of the hand that clicks go to", enabled=can),
    ]  # fmt: skip
    keeping = [
        Command("switch-hand", "Other hand", page.switch_hand, ("J",), "Grip",
                "Keys that are clicked go to the other hand", enabled=can,
                now=lambda: f"Clicks: {page.grips.hand} hand"),
        Command("clear-grip", "Clear", lambda: hands().clear(), ("Backspace",), "Grip",
                "Let all keys go, to enter a grip from nothing", enabled=can),
        Command("keep-grip", "Keep here", lambda: hands().keep(), ("Return",), "Grip",
                "Keep my grip for this chord, whatever rule it breaks; the search goes around it",
                enabled=page.entering),
        Command("keep-where", "Keep where...", lambda: hands().ask_where(), ("P",), "Grip",
                "Keep my grip in this round, in every round, wherever the chord is, or on any root",
                enabled=page.can_keep),
        Command("ways-out-all", "Ways out for all...", lambda: hands().ask_ways_out(), ("Shift+W",), "Grip",
                "For every grip that is out of reach the first way to play it, shown before it is done",
                enabled=lambda: bool(page.document.solved.reductions)),
        Command("keep-grip-take", "Keep as a take", lambda: hands().keep_take(), ("Q",), "Grip",
                "Keep my grip in a take of its own; this take stays as it is", enabled=page.can_keep),
        Command("keep-shape", "Keep as my shape", page.keep_shape, ("F",), "Grip",
                "Write the shape of the hand that clicks go to into my recipes, for every key",
                enabled=page.can_keep),
    ]  # fmt: skip
    return [*keeping, *inverting, *octaves, *slides, *notes]
