"""What the Swaps page thinks: the chosen chord, its proposals, their weights, the trade curve."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

from yellow_hinge.motion.figures import figures, half_steps
from yellow_hinge.reharm.proposals import SHOWN_FIRST, Proposal, bass_words, chords_for_note, variants
from yellow_hinge.reharm.regions import function_of
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.describe_song import melody_fits
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.theory.pitch import NoteName, name_for_pitch_class
from yellow_hinge.theory.tension import FitKind
from yellow_hinge.ui.hinges_page.state import pretty_accidentals, pretty_degree

if TYPE_CHECKING:
    from yellow_hinge.tasks.reharmonise import TradePoint
    from yellow_hinge.tasks.voice_song import Voiced


#: Chords named for a melody note.
MOST_FITTING = 16


@dataclass(frozen=True)
class Found:
    """What the search for swaps gave for a song: proposals and local keys."""

    song: Song
    proposals: tuple[Proposal, ...]
    keys: tuple[Key, ...]


@dataclass(frozen=True)
class Line:
    """A row of the list: a group's heading (no proposal), or a proposal in words."""

    title: str
    detail: str = ""
    figure: str = ""
    melody: str = ""
    proposal: Proposal | None = None


class SwapsState:
    """The page's own state over a song."""

    def __init__(self) -> None:
        self.song = Song()
        self.found: Found | None = None
        self.chosen = 0
        self.proposal: Proposal | None = None
        self.weighed: Mapping[Proposal, Voiced] = {}
        self.base: Voiced | None = None
        self.curve: Sequence[TradePoint] = ()
        self.every = False
        self.turned: dict[Proposal, Proposal] = {}

    def take(self, song: Song) -> None:
        """Another song; what was found for the old one no longer counts."""
        if song is not self.song:
            fresh = song.written != self.song.written or song.settings != self.song.settings
            self.song = song
            if fresh or song.swaps or song.untouched or song.keys_set:
                self.curve = ()
            self.found, self.weighed, self.base, self.turned = None, {}, None, {}
            self.chosen = min(self.chosen, max(0, len(song.written) - 1))
            if not song.written:
                self.proposal = None

    def take_found(self, found: Found) -> None:
        """Proposals have been found; the chosen one stays where it is still there."""
        if found.song is self.song:
            self.found = found
            if self.proposal not in self.here:
                self.proposal = next(iter(self.here), None)

    def choose(self, written: int) -> None:
        """Another place."""
        self.chosen = max(0, min(written, len(self.song.written) - 1))
        self.weighed, self.every = {}, False
        self.proposal = next(iter(self.here), None)

    @property
    def here(self) -> tuple[Proposal, ...]:
        """The proposals of the chosen place, the best first: by the melody's verdict, then by how
        far they go from the function and what they cost. Those with other qualities chosen stand
        as they were chosen."""
        found = () if self.found is None else self.found.proposals
        own = sorted((one for one in found if one.at == self.chosen), key=self._rank)
        return tuple(self.turned.get(one, one) for one in own)

    def _rank(self, one: Proposal) -> tuple[float, int, int]:
        voiced = self.weighed.get(one)
        more = 0 if voiced is None or self.base is None else voiced.answer.cost - self.base.answer.cost
        return one.clash, one.rubs, one.price + max(0, more)

    @property
    def shown(self) -> tuple[Proposal, ...]:
        """What is listed: the first dozen, or all when they were asked for."""
        return self.here if self.every else self.here[:SHOWN_FIRST]

    @property
    def turn(self) -> int:
        """The number of swaps from which on a further one raises the effort; -1: none does."""
        costs = [(point.swaps, point.cost) for point in self.curve]
        rising = (before[0] for before, after in pairwise(costs) if after[1] > before[1])
        return next(rising, -1)

    def next_variant(self) -> bool:
        """The chosen proposal with other qualities of its twos and dominants, in turn; False where
        there is nothing to choose."""
        base = next((one for one, other in self.turned.items() if other == self.proposal), self.proposal)
        if base is None or self.found is None:
            return False
        slots = [slot for slot in self.song.slots if slot.written > base.at]
        after = slots[0].chord if slots else None
        rows = variants(base, after, self.found.keys[base.at])
        if len(rows) < 2:
            return False
        now = rows.index(self.proposal) if self.proposal in rows else 0
        self.proposal = rows[(now + 1) % len(rows)]
        self.turned[base] = self.proposal
        return True

    @property
    def swapped(self) -> bool:
        return self.chosen in self.song.swaps

    def step(self, direction: int) -> None:
        """Walk the proposals of the chosen place."""
        here = self.shown
        if here:
            place = here.index(self.proposal) if self.proposal in here else 0
            self.proposal = here[max(0, min(len(here) - 1, place + direction))]

    # --- words ---

    def heading(self) -> str:
        """The chosen chord, its place, key and function."""
        if not self.song.written:
            return "There are no chords yet. Go to Song (Ctrl+1) and type a chart."
        slot = self.song.written[self.chosen]
        if slot.chord is None:
            return f"Bar {slot.bar}: no chord"
        number = pretty_accidentals(self.song.number_of(slot.chord))
        words = f"Bar {slot.bar}, beat {float(slot.beat):g}: {slot.chord.pretty} ({number})"
        if self.found is None:
            return words
        key = self.found.keys[self.chosen]
        more = self.chosen + 1 < len(self.song.written)
        after = self.song.written[self.chosen + 1].chord if more else None
        return f"{words} {function_of(slot.chord, after, key).words}"

    def lines(self) -> list[Line]:
        """The list, the best first, each with its group; at its end how many more there are."""
        rows = [
            Line(chords_words(one), one.reason, self.figure(one), f"{one.group} · {melody_words(one)}", one)
            for one in self.shown
        ]
        more = len(self.here) - len(rows)
        if more:
            rows.append(Line(f"{more} more: press A to see them all"))
        return rows

    def figure(self, proposal: Proposal) -> str:
        """What the proposal adds to or takes from the effort of the whole song, in half steps."""
        if self.base is None or proposal not in self.weighed:
            return ""
        change = (self.weighed[proposal].answer.cost - self.base.answer.cost) / 100
        return f"{change:+.1f}".replace("-", "−") if abs(change) >= 0.05 else "±0"

    def motion_words(self) -> str:
        """Half steps of the whole song with the chosen proposal, and as it is."""
        if self.base is None or self.proposal is None or self.proposal not in self.weighed:
            return ""
        voiced = self.weighed[self.proposal]
        return f"{half_steps(motion_st(voiced))} in the song, now {motion_st(self.base)}"

    def swapped_words(self) -> list[str]:
        """Every swap of the song: bar, what stands there, for what."""
        words = []
        for place, row in sorted(self.song.swaps.items()):
            slot = self.song.written[place]
            chords = ", ".join("N.C." if at.chord is None else at.chord.pretty for at in row)
            was = "" if slot.chord is None else slot.chord.pretty
            words.append(f"Bar {slot.bar}: {chords} for {was}")
        return words

    def melody_lines(self) -> list[str]:
        """How the chosen proposal sits under the melody, note by note; clashes first."""
        if self.proposal is None:
            return []
        if not self.proposal.notes:
            return ["No melody here: judge by ear."]
        notes = sorted(self.proposal.notes, key=lambda one: one.fit.kind != FitKind.CLASH)
        return [
            f"{one.note.pitch.pretty} over {one.chord.pretty}: {one.fit.kind.value} ({one.fit.reason})"
            for one in notes
        ]

    def bass_lines(self) -> tuple[str, str]:
        """The bass line before and after, in words."""
        if self.proposal is None:
            return "", ""
        return bass_words(self.proposal.bass_was), self.proposal.bass_words

    def clash_count(self, song: Song) -> int:
        """Melody notes that clash in a song as it stands."""
        return sum(one.fit.kind == FitKind.CLASH for fits in melody_fits(song) for one in fits)

    def note_choices(self) -> list[tuple[NoteName, str]]:
        """The twelve notes as the song's key spells them."""
        names = [name_for_pitch_class(place, self.song.key.prefers_flats) for place in range(12)]
        return [(name, name.pretty) for name in names]

    def fitting_words(self, note: NoteName) -> str:
        """The chords that a long melody note fits, those of the local key first."""
        key = self.song.key if self.found is None else self.found.keys[self.chosen]
        found = chords_for_note(note, key)[:MOST_FITTING]
        return ", ".join(f"{chord.pretty} ({pretty_degree(how.degree)})" for chord, how in found)

    def key_choices(self) -> list[tuple[Key | None, str]]:
        """Keys that the player can set for the chosen chord."""
        found = "as found"
        if self.found is not None and self.chosen not in self.song.keys_set:
            found = f"as found: {self.found.keys[self.chosen].pretty}"
        usual = sorted((key for key in ALL_KEYS if abs(key.fifths) <= 6), key=lambda key: key.tonic.step)
        return [(None, found), *((key, key.pretty) for key in usual)]


def chords_words(proposal: Proposal) -> str:
    """The chords with their beats where there are several."""
    if len(proposal.chords) == 1:
        return proposal.chords[0].chord.pretty
    return "  ".join(f"{one.chord.pretty}·{beats_text(one.beats)}" for one in proposal.chords)


def melody_words(proposal: Proposal) -> str:
    """The melody's verdict in a word or two."""
    if not proposal.notes:
        return "no melody"
    if proposal.safe:
        return "fits the melody"
    notes = {one.note.pitch.pretty for one in proposal.notes if one.fit.kind == FitKind.CLASH}
    return f"clashes: {', '.join(sorted(notes))}"


def motion_st(voiced: Voiced) -> int:
    """Half steps of a whole voiced song, the way back of a loop among them."""
    return figures(voiced.answer.voicings, voiced.answer.loop).motion_st
