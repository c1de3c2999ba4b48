"""What the Hinges page thinks: the selection, the trial, and every text it shows."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile, strain_words
from yellow_hinge.motion.figures import Effort, amount_words, effort_words, figures, half_steps, more_words
from yellow_hinge.motion.hinge import SIDES, Held, HingeReport
from yellow_hinge.reharm.connections import Connection
from yellow_hinge.reharm.lines import Scale
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.edits import choose, with_voicings
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.rhythm.small_notes import small_notes
from yellow_hinge.tasks.song.describe_song import Row, row
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol, pretty_symbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pretty import counted, pretty_accidentals, pretty_degree, pretty_signed
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.ui.keyboard_values import Ghost, KeyMark
from yellow_hinge.ui.pages.hinges.soloing import free_hand, guide_words, scale_at
from yellow_hinge.ui.pages.hinges.wishes_state import top_line_of
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing, spell

if TYPE_CHECKING:
    from yellow_hinge.motion.explain import Term
    from yellow_hinge.motion.place import Alternative
    from yellow_hinge.tasks.song.solved import Betterment, Offer
    from yellow_hinge.voicing.reductions import Reduction

#: Reasons shown for a voicing and for a change.
VOICING_REASONS, HINGE_REASONS = 2, 7
#: From these shares, in hundredths of a half step, mud, rubbing notes and stretches are marked.
AUDIBLE = {"mud": 45, "rub": 25, "wide": 1, "roll": 1}
LABELS = ("names", "degrees", "fingers")


class Selection(Struct, frozen=True):
    """A leaf, or the hinge behind it."""

    index: int = 0
    on_hinge: bool = False

    def step(self, direction: int, leaves: int, loop: bool = False) -> Selection:
        """One place along leaf, hinge, leaf... ``direction`` is 1 or -1. A loop ends with a
        hinge."""
        place = 2 * self.index + self.on_hinge + direction
        place = max(0, min(place, 2 * leaves - 2 + loop))
        return Selection(place // 2, place % 2 == 1)


class AlternativeLine(Struct, frozen=True):
    """One row of the list: its voicing, what it costs, and why, in words."""

    voicing: Voicing
    cost: str
    notes: str
    reason: str
    current: bool


class HingesState:
    """The page's own state over a song. ``trial`` is a voicing put in place to be heard, ``offer`` the
    number of another row that stands in the song's place for the same purpose (0: none)."""

    def __init__(self, library: Library) -> None:
        self.library = library
        self.song = Song()
        self.row = Row((), (), ())
        self._range: tuple[Row, bool, tuple[int, int]] | None = None
        self.selection = Selection()
        self.trial: Voicing | None = None
        self.offer = 0
        self.label = LABELS[0]
        self.melody = False
        self._keys: tuple[Song, tuple[Key, ...]] | None = None
        self.playing = -1
        self.effort: Effort | None = None

    def learn(self, library: Library) -> None:
        """Other recipes from now on."""
        self.library = library

    def take(self, song: Song, described: Row) -> None:
        """Another song or solution; the selection stays where it can, a trial ends."""
        self.song, self.row, self.trial, self.offer = song, described, None, 0
        last = max(0, len(song.slots) - 1)
        beyond = self.selection.on_hinge and self.selection.index >= len(described.hinges)
        if self.selection.index > last or beyond:
            self.selection = Selection(last)

    # --- selection and trial ---

    def step(self, direction: int) -> None:
        """Walk to the next leaf or hinge; a trial does not walk along."""
        loop = self.song.arrangement.loop and len(self.song.slots) > 1
        self.select(self.selection.step(direction, len(self.song.slots), loop))

    def select(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            if self.trial is not None:
                self.end_trial()

    def start_trial(self, voicing: Voicing) -> None:
        """Put a voicing into the chosen leaf, for looking and listening only."""
        self.end_trial()
        self.trial = voicing
        self._put(choose(self.song, self.selection.index, voicing, False).song)

    def start_offer(self, number: int, offer: Offer) -> None:
        """Put another row in the place of the song's, for looking and listening only."""
        self.end_trial()
        self.offer = number
        self._put(with_voicings(self.song, offer.voicings))

    def _put(self, song: Song) -> None:
        self._before = (self.song, self.row)
        self.song, self.row = song, row(song, self.library)

    @property
    def trying(self) -> bool:
        """Whether what is shown is not the song itself."""
        return self.trial is not None or self.offer > 0

    def end_trial(self) -> None:
        """The song itself is shown again."""
        if self.trying:
            self.trial, self.offer = None, 0
            self.song, self.row = self._before

    def next_label(self) -> None:
        """Names, degrees, fingers in turn."""
        self.label = LABELS[(LABELS.index(self.label) + 1) % len(LABELS)]

    # --- what is shown ---

    @property
    def empty_words(self) -> str:
        """What to do next where there is nothing to show."""
        if not self.song.slots:
            return "There are no chords yet. Go to Song (Ctrl+1) and type a chart."
        if not any(held.voicing.keys for held in self.row.held):
            return "No voicings yet. The message below says what stands in the way."
        return ""

    def tab_label(self, held: Held, side: str, position: int) -> str:
        """What stands on a note's tab."""
        shape, fingers = held.hand(side)
        if self.label == "fingers":
            return str(fingers[position])
        if self.label == "degrees":
            return pretty_degree(shape.degrees[position])
        return held.name(side, shape.keys[position]).pretty

    def key_range(self) -> tuple[int, int]:
        """Lowest and highest key of the song, with a little air. Asked for every note that is painted,
        found once a row."""
        if self._range is None or self._range[0] is not self.row or self._range[1] != self.melody:
            self._range = self.row, self.melody, self._key_range()
        return self._range[2]

    def _key_range(self) -> tuple[int, int]:
        keys = [key for held in self.row.held for key in held.voicing.keys]
        keys += [key for key in self.row.bassist if key is not None]
        if keys and self.melody:
            keys += [fit.note.key for fits in self.row.melody for fit in fits]
        return (min(keys) - 2, max(keys) + 2) if keys else (48, 72)

    def total_words(self, exact: bool) -> str:
        """The line about the whole song: its effort by shares, which take it is, or whether it is
        proven to be the least."""
        voicings = [held.voicing for held in self.row.held]
        total = figures(voicings, self.song.arrangement.loop)
        if self.effort is None or self.trying:
            on = f"Row {self.offer + 1} on trial: " if self.offer else ""
            return f"{on}{half_steps(total.motion_st)}, {counted(total.held, 'note')} held"
        words = effort_words(self.effort, total.motion_st)
        return f"{words}. Least effort" if exact else words

    def chosen_title(self) -> str:
        slot = self.song.slots[self.selection.index]
        if self.selection.on_hinge:
            after = self.song.slots[self.after(self.selection.index)]
            return f"{_symbol(slot.chord)} → {_symbol(after.chord)}"
        return _symbol(slot.chord)

    def after(self, index: int) -> int:
        """The leaf behind a hinge; behind the last one of a loop stands the first leaf."""
        return (index + 1) % len(self.song.slots)

    def chosen_place(self) -> str:
        """Bar, beat, number and section of the chosen leaf."""
        slot = self.song.slots[self.selection.index]
        number = (
            ""
            if slot.chord is None
            else f", {pretty_accidentals(self.song.number_of(slot.chord, slot.key))} in {slot.key.pretty}"
        )
        section = f", {slot.section}" if slot.section else ""
        rounds = len(self.song.columns[self.song.column_of[slot.index]])
        section += f", round {slot.round} of {rounds} alike" if rounds > 1 else ""
        if slot.take != self.song.current:
            section += f", take {self.song.take_of(slot.take).name}"
        was = f". Swapped: the chart has {slot.was.pretty} (R gives it back)" if slot.was else ""
        return f"Bar {slot.bar}, beat {float(slot.beat):g}{section}{number}{was}"

    def pair_line(self, families: Sequence[tuple[str, str, str]]) -> str:
        """What both hands make together, if that is a family of its own, and how wide they are."""
        index = self.selection.index
        held = self.row.held[index]
        if held.chord is None or not held.voicing.keys:
            return ""
        both = families[index][2] if index < len(families) and not self.trying else ""
        return f"Both hands: {both}. {self.stretch_words()}" if both else self.stretch_words()

    def taste_line(self, ours: Voicing | None) -> str:
        """That the player's taste decided in the chosen leaf, and what stands there without it."""
        slot = self.song.slots[self.selection.index]
        if ours is None or slot.chord is None or self.trying:
            return ""
        hands = (ours.left.pitches(slot.chord), ours.right.pitches(slot.chord))
        notes = " | ".join(" ".join(pitch.pretty for pitch in hand) for hand in hands if hand)
        return f"Taste decided here; the program's own prices would have {notes}."

    def stretch_words(self) -> str:
        """How wide both hands are, as a player says it."""
        held, profile = self.row.held[self.selection.index], self.song.hands
        strains = [
            f"{side} {strain_words(profile.strain(hand, held.hand(side)[0].keys))}"
            + (" (roll it with the pedal)" if profile.rolls(hand, held.hand(side)[0].keys) else "")
            for side, hand in (("left", profile.left), ("right", profile.right))
        ]
        return f"Stretch: {', '.join(strains)}."

    def melody_line(self) -> str:
        """How the melody sits on the chosen chord."""
        index = self.selection.index
        fits = self.row.melody[index] if index < len(self.row.melody) else ()
        words = [f"{fit.note.pitch.pretty} {fit.fit.kind}" for fit in fits]
        clashes = [
            f"{fit.note.pitch.pretty} is {fit.fit.reason}" for fit in fits if fit.fit.kind == FitKind.CLASH
        ]
        return "; ".join(clashes) if clashes else ", ".join(words)

    # --- lines and connections ---

    def key_at(self, index: int) -> Key:
        """The local key of a slot, found once per song."""
        if self._keys is None or self._keys[0] is not self.song:
            self._keys = (self.song, local_keys(self.song))
        return self._keys[1][self.song.slots[index].place]

    def scale_here(self) -> Scale | None:
        """The scale over the chosen chord."""
        index = self.selection.index
        return scale_at(self.song, index, self.key_at(index)) if index < len(self.song.slots) else None

    def free_hand(self) -> str | None:
        """The hand of the chosen leaf that rests beside one that plays."""
        index = self.selection.index
        return free_hand(self.row.held[index]) if index < len(self.row.held) else None

    def fill_choices(self) -> list[tuple[Connection, bool]]:
        """What may lead through the chosen change, and whether it is taken."""
        index = self.selection.index
        if not self.selection.on_hinge or self.trying:
            return []
        connections = small_notes(self.song, index, self.key_at(index))
        taken = set(self.song.ask(index).fills)
        return [(connection, set(connection.fills) <= taken) for connection in connections]

    def with_fill(self, connection: Connection, on: bool) -> Ask:
        """The chosen chord's wishes with a connection taken or left; one voice has one at a time."""
        ask = self.song.ask(self.selection.index)
        voices = {(fill.hand, fill.start_key) for fill in connection.fills}
        kept = tuple(fill for fill in ask.fills if (fill.hand, fill.start_key) not in voices)
        return replace(ask, fills=kept + connection.fills if on else kept)

    def marks(self, terms: Sequence[Sequence[Term]], index: int) -> list[str]:
        """The words "mud" and "rub" where that weighs audibly, "wide" and "roll" near the end of a reach."""
        if index >= len(terms) or self.offer or (self.trial is not None and index == self.selection.index):
            return []
        found = [term.mark for term in terms[index] if term.mark and term.cost >= AUDIBLE[term.mark]]
        return sorted(set(found))

    def better(self, betterments: Sequence[Betterment | None]) -> Betterment | None:
        """What would make the chosen change smaller, where anything would."""
        index = self.selection.index
        return betterments[index] if self.selection.on_hinge and index < len(betterments) else None

    @property
    def can_vary(self) -> bool:
        """Whether the chosen chord's section has other rounds, and this one no take of its own."""
        slot = self.song.slots[self.selection.index]
        rounds = {other.round for other in self.song.slots if other.section == slot.section}
        return len(rounds) > 1 and (slot.section, slot.round) not in self.song.route

    # --- the keyboard ----------------------------------------------------------------------

    def key_marks(self) -> dict[int, KeyMark]:
        """What the keyboard shows of the chosen leaf: degrees and fingers, and the bassist's note."""
        held = self.row.held[self.selection.index]
        marks: dict[int, KeyMark] = {}
        bass = self.row.bassist[self.selection.index]
        if bass is not None and held.chord is not None:
            marks[bass] = KeyMark("bass", held.chord.bass_name.pretty, "bass")
        for side in SIDES:
            shape, fingers = held.hand(side)
            for key, degree, finger in zip(shape.keys, shape.degrees, fingers, strict=True):
                marks[key] = KeyMark(side, pretty_degree(degree), str(finger))
        return marks

    def ghosts(self) -> list[Ghost]:
        """The way to the next chord."""
        index = self.selection.index
        if index >= len(self.row.hinges):
            return []
        ghosts = []
        for side in SIDES:
            motion = self.row.hinges[index].hand(side)
            ghosts += [Ghost(side, start, to) for start, to in motion.pairs]
            ghosts += [Ghost(side, None, key) for key in motion.entered]
            ghosts += [Ghost(side, key, None) for key in motion.left]
        return ghosts

    def chosen_words(self) -> str:
        """What is chosen, for whoever hears the screen."""
        if self.selection.on_hinge:
            return f"{self.chosen_title()}: {self.row.hinges[self.selection.index].words}"
        return f"{self.chosen_title()}, {self.chosen_place()}: {self.grip_words()}"

    def grip_words(self) -> str:
        """What each hand takes of the chosen leaf, low to high."""
        held = self.row.held[self.selection.index]
        hands = ((side, held.voicing.hand(side).keys) for side in SIDES)
        said = (
            f"{side} {' '.join(held.name(side, key).pretty for key in keys)}" for side, keys in hands if keys
        )
        return "; ".join(said) or "nothing is played"

    def keyboard_words(self) -> str:
        """What the keyboard shows, in a line."""
        words = f"On the keys: degree, and finger below. {self.stretch_words()}"
        if not self.ghosts():
            return words
        after = self.song.slots[self.after(self.selection.index)].chord
        return f"{words} Above: the way to {_symbol(after)}; yellow stays."

    def top_way(self, index: int) -> str:
        """What the top line does in the section of a slot: a value of ``TOP_LINES``."""
        arrangement = self.song.arrangement
        section = arrangement.tastes.get(self.song.slots[index].section)
        said = None if section is None else top_line_of(section)
        usual = self.library.schools[arrangement.school].top
        return said or top_line_of(arrangement.own_taste) or ("arc" if usual == "sings" else usual)

    def betterment_words(self, better: Betterment | None) -> str:
        """What would make the chosen change smaller."""
        if better is None:
            return "No listed voicing makes this change clearly smaller."
        chord = self.song.slots[better.at].chord
        return (
            f"It could take {half_steps(better.saved_st)} less with another {_symbol(chord)}; "
            f"the song as a whole would pay {amount_words(max(0, better.extra))} more."
        )

    def hand_lines(self, families: Sequence[tuple[str, str, str]] = ()) -> list[tuple[str, str]]:
        """(hand, words) for the chosen leaf: the shape's family, then note, degree and finger."""
        index = self.selection.index
        held = self.row.held[index]
        said = families[index] if index < len(families) and not self.trying else ("", "", "")
        lines = []
        for side in ("left", "right"):
            shape, fingers = held.hand(side)
            if held.chord is None or not shape.keys:
                free = side == self.free_hand()
                guide = guide_words(self.song, index, self.key_at(index)) if free else ""
                lines.append((side, f"is free. {guide}" if free else "rests"))
                continue
            notes = [
                f"{pitch.pretty} ({pretty_degree(degree)}, finger {finger})"
                for pitch, degree, finger in zip(
                    shape.pitches(held.chord), shape.degrees, fingers, strict=True
                )
            ]
            recipe = self.library.recipes.get(shape.recipe)
            name = said[side == "right"] or (recipe.name if recipe else "own shape")
            lines.append((side, f"{name}: {', '.join(notes)}"))
        return lines

    def warnings(self, profile: HandProfile) -> list[str]:
        """What a locked or tried voicing breaks."""
        held = self.row.held[self.selection.index]
        found = []
        for side, hand in (("left", profile.left), ("right", profile.right)):
            excess = profile.excess_mm(hand, held.hand(side)[0].keys)
            if excess > 0:
                found.append(
                    f"{side.capitalize()} hand: out of reach by {excess:.0f} mm. Do not force it; "
                    "unlock it or take a smaller shape."
                )
        return found

    def hinge_numbers(self, report: HingeReport) -> list[tuple[str, str, str]]:
        """(figure, label, how it came about) for the chosen hinge."""
        return [
            (str(report.motion_st), "half steps in all",
             "The distances of all moving notes added up, both hands."),
            (f"{report.left.motion_st}, {report.right.motion_st}", "left hand, right hand",
             "Half steps of each hand."),
            (str(report.held), "notes held", "Notes that stay on their key."),
            (str(report.largest_st), "largest move", "Half steps of the note that goes farthest."),
            (f"{report.entered}, {report.left_off}", "notes come, go",
             "Notes that begin or end where the chords have different numbers of notes."),
            (f"{pretty_signed(report.bass_st)}, {pretty_signed(report.top_st)}", "lowest, highest note",
             "Moves of the lowest and the highest note, in half steps."),
        ]  # fmt: skip

    def reasons(self, terms: Sequence[Sequence[Term]], most: int) -> str:
        """The reasons for what is chosen, dearest first, in half steps."""
        index = self.selection.index
        if self.trying or index >= len(terms) or not terms[index]:
            return ""
        lines = [f"{term.cost / 100:.1f}  {term.phrase}" for term in terms[index][:most]]
        return "\n".join(lines)

    def alternative_lines(
        self, ranked: Sequence[Alternative], ways_out: Sequence[Reduction] = ()
    ) -> list[AlternativeLine]:
        """The list at the side for the chosen leaf; ways to play what is out of reach come first."""
        index = self.selection.index
        held = self.row.held[index]
        if held.chord is None:
            return []
        lines = [
            AlternativeLine(way.voicing, "fits", _notes(held.chord, way.voicing), way.words, False)
            for way in ways_out
        ]
        return [*lines, *map(self.alternative_line, ranked)]

    def alternative_line(self, alternative: Alternative) -> AlternativeLine:
        """A line of the list for the chosen leaf."""
        held = self.row.held[self.selection.index]
        notes = "" if held.chord is None else _notes(held.chord, alternative.voicing)
        voicing, other = held.voicing, alternative.voicing
        current = (other.left.keys, other.right.keys) == (voicing.left.keys, voicing.right.keys)
        return AlternativeLine(
            other, more_words(alternative.extra), notes, self._reason(alternative), current
        )

    def _reason(self, alternative: Alternative) -> str:
        """The two recipes in the player's words."""
        names = [
            self.library.recipes[shape.recipe].name
            for shape in (alternative.voicing.left, alternative.voicing.right)
            if shape.recipe in self.library.recipes
        ]
        return " + ".join(names)


def _notes(chord: ChordSymbol, voicing: Voicing) -> str:
    """The notes of both hands by name."""
    return " | ".join(
        " ".join(
            spell(chord, key, degree).pretty for key, degree in zip(shape.keys, shape.degrees, strict=True)
        )
        for shape in (voicing.left, voicing.right)
    )


def _symbol(chord: ChordSymbol | None) -> str:
    return pretty_symbol(chord)


def offer_words(offer: Offer, chords: int) -> tuple[str, ...]:
    """A row in figures: its effort; then half steps, and what it trades against the first."""
    effort = f"{offer.effort.cost / 100:.0f}"
    return (
        effort,
        f"Effort {effort}: {half_steps(offer.motion_st)}, {counted(offer.held, 'note')} held, "
        f"{counted(offer.changing, 'note')} coming or going.",
        f"Against the first row: {offer.trade}." if offer.trade else "The least effort of all rows.",
        f"{offer.differ} of {chords} chords differ from the first row.",
    )
