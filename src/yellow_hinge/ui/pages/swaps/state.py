"""What the Swaps page thinks: the chosen chord, its proposals, their weights, the trade curve."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.figures import figures, half_steps, more_words
from yellow_hinge.reharm.appetite import Appetite
from yellow_hinge.reharm.proposals import SHOWN_FIRST, Proposal, bass_words, chords_for_note, variants
from yellow_hinge.reharm.regions import function_of
from yellow_hinge.rhythm.time import beats_text
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import ChordAt, Written
from yellow_hinge.song.kept_hands import let_go_words
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.theory.chord_symbol import ChordSymbol, pretty_symbol
from yellow_hinge.theory.keys import ALL_KEYS, Key
from yellow_hinge.theory.pitch import NoteName, name_for_pitch_class
from yellow_hinge.theory.pretty import pretty_accidentals, pretty_degree
from yellow_hinge.theory.tension import FitKind

if TYPE_CHECKING:
    from yellow_hinge.tasks.song.voice_song import Voiced
    from yellow_hinge.tasks.swaps.reharmonise import TradePoint


#: Chords named for a melody note.
MOST_FITTING = 16


class Found(Struct, frozen=True):
    """What the search for swaps gave for a song: proposals and local keys."""

    song: Song
    proposals: tuple[Proposal, ...]
    keys: tuple[Key, ...]


class Line(Struct, frozen=True):
    """A row of the list: a group's heading (no proposal), or a proposal in words."""

    title: str
    detail: str = ""
    figure: str = ""
    melody: str = ""
    proposal: Proposal | None = None


def _question(song: Song) -> Song:
    """What swaps are found and weighed for: the song without the voicings that are not locked."""
    takes = tuple(
        replace(
            take,
            arrangement=replace(
                take.arrangement,
                choices={at: choice for at, choice in take.arrangement.choices.items() if choice.locked},
            ),
        )
        for take in song.takes
    )
    return replace(song, takes=takes)


class SwapsState:
    """The page's own state over a song. ``chosen`` is the place of a written chord in the chart."""

    def __init__(self) -> None:
        self.song = Song()
        self.found: Found | None = None
        self.chosen = 0
        self.proposal: Proposal | None = None
        self.weighed: Mapping[Proposal, Voiced] = {}
        self.base: Voiced | None = None
        self.appetite: Appetite = "fits"
        self.curves: Mapping[Appetite, Sequence[TradePoint]] = {}
        self.every = False
        self.turned: dict[Proposal, Proposal] = {}
        #: Proposals of one place in the order in which the player takes them.
        self.liked: Callable[[list[Proposal]], list[Proposal]] = list
        #: Proposals marked for the grid, by written chord: the row that would stand there.
        self.marked: dict[int, tuple[ChordAt, ...]] = {}

    def take(self, song: Song) -> None:
        """Another song; what was found for the old one no longer counts. Other voicings make no
        other question."""
        if song is self.song:
            return
        same = _question(song) == _question(self.song)
        self.song = song
        if same:
            return
        self.curves, self.found, self.weighed, self.base, self.turned = {}, None, {}, None, {}
        self.chosen = max(0, min(self.chosen, len(song.written) - 1))
        if not song.written:
            self.proposal = None

    def take_found(self, recovered: Found, base: Voiced | None, weighed: Mapping[Proposal, Voiced]) -> None:
        """Proposals have been found and weighed; the chosen one stays where it is still there."""
        if _question(recovered.song) == _question(self.song):
            self.found, self.base, self.weighed = recovered, base, weighed
            if self.proposal not in self.here:
                self.proposal = next(iter(self.here), None)

    def choose(self, place: int) -> None:
        """Another chord."""
        self.chosen = max(0, min(place, len(self.song.written) - 1))
        self.weighed, self.every = {}, False
        self.proposal = next(iter(self.here), None)

    # --- the chosen chord ---

    @property
    def written(self) -> Written | None:
        """The chosen chord as it is written; None in an empty song."""
        written = self.song.written
        return written[self.chosen] if self.chosen < len(written) else None

    @property
    def at(self) -> int | None:
        """Its id."""
        return None if self.written is None else self.written.id

    @property
    def first(self) -> Slot | None:
        """Where it is first played, as if nothing were swapped; None where the form leaves it out."""
        return None if self.at is None else self.song.firsts.get(self.at)

    @property
    def sounding_slot(self) -> int:
        """The slot in which it, or what stands for it, sounds first."""
        first = self.first
        here = (slot.index for slot in self.song.slots if first is not None and slot.place == first.place)
        return next(here, 0)

    def stands_on(self, song: Song, slot: int) -> bool:
        """Whether the chosen chord is the one behind a sounding slot."""
        return slot < len(song.slots) and song.slots[slot].at.written == self.at

    @property
    def key(self) -> Key:
        """The local key of the chosen chord; that of its bar where none was found."""
        if self.found is not None and self.first is not None:
            return self.found.keys[self.first.place]
        return self.song.key_here if self.written is None else self.written.key

    @property
    def key_set(self) -> Key | None:
        """The local key that the player has set here."""
        return None if self.at is None else self.song.arrangement.keys_set.get(self.at)

    @property
    def kept(self) -> bool:
        return self.at in self.song.arrangement.untouched

    @property
    def swapped(self) -> bool:
        return self.at in self.song.arrangement.swaps

    # --- its proposals ---

    @property
    def here(self) -> tuple[Proposal, ...]:
        """The proposals of the chosen place, in their order: what a player expects there first, families
        mixed, what clashes last; those of families that this player takes come forward. Those with other
        qualities chosen stand as they were chosen."""
        proposals = () if self.found is None else self.found.proposals
        here = [proposal for proposal in proposals if proposal.at == self.at]
        if self.song.arrangement.style is None:  # a style says its own order
            here = self.liked(here)
        return tuple(self.turned.get(proposal, proposal) for proposal in here)

    @property
    def shown(self) -> tuple[Proposal, ...]:
        """What is listed: the first dozen, or all when they were asked for."""
        return self.here if self.every else self.here[:SHOWN_FIRST]

    @property
    def curve(self) -> Sequence[TradePoint]:
        """The trade curve for what may be touched."""
        return self.curves.get(self.appetite, ())

    @property
    def turn(self) -> int:
        """The number of swaps from which on a further one raises the effort; -1: none does."""
        costs = [(point.swaps, point.cost) for point in self.curve]
        rising = (before[0] for before, after in pairwise(costs) if after[1] > before[1])
        return next(rising, -1)

    @property
    def least(self) -> int:
        """How many swaps lower the effort as far as it goes; 0 where none does or nothing is known."""
        return self.turn if self.turn >= 0 else self.curve[-1].swaps if self.curve else 0

    def next_variant(self) -> bool:
        """The chosen proposal with other qualities of its twos and dominants, in turn; False where
        there is nothing to choose."""
        base = next(
            (proposal for proposal, other in self.turned.items() if other == self.proposal), self.proposal
        )
        if base is None or self.found is None:
            return False
        rows = variants(base, self._after(base), self.key)
        if len(rows) < 2:
            return False
        now = rows.index(self.proposal) if self.proposal in rows else 0
        self.proposal = rows[(now + 1) % len(rows)]
        self.turned[base] = self.proposal
        return True

    def _after(self, proposal: Proposal) -> ChordSymbol | None:
        """The chord behind the one that a proposal takes, where that is first played."""
        slots, at = self.song.slots, At(proposal.at, proposal.part)
        index = next((slot.index for slot in slots if slot.at == at), len(slots))
        return slots[index + 1].chord if index + 1 < len(slots) else None

    def heard(self) -> tuple[Song, int, int] | None:
        """The song with the proposal in place, and the slots from the chord before it to the one
        behind; None while it has not been weighed."""
        if self.proposal is None or self.proposal not in self.weighed or self.first is None:
            return None
        song, place = self.weighed[self.proposal].song, self.first.place
        if self.proposal.rounds:
            places = (slot for slot in song.plain_slots if slot.at.written == self.proposal.at)
            place = next(slot.place for slot in places if (slot.section, slot.round) in self.proposal.rounds)
        own = [slot.index for slot in song.slots if slot.place == place]
        further = sum(len(row) for _, row in self.proposal.then)
        return song, max(0, own[0] - 1), min(len(song.slots) - 1, own[-1] + 1 + further)

    def step(self, direction: int) -> None:
        """Walk the proposals of the chosen place."""
        here = self.shown
        if here:
            place = here.index(self.proposal) if self.proposal in here else 0
            self.proposal = here[max(0, min(len(here) - 1, place + direction))]

    # --- marks for the grid ---

    def _in_grid(self, proposal: Proposal) -> bool:
        if proposal.at not in self.marked:
            return False
        from yellow_hinge.tasks.swaps.reharmonise import row_with  # noqa: PLC0415 - loaded with the desk

        return self.marked.get(proposal.at) == row_with(self.song, proposal)

    @property
    def is_marked(self) -> bool:
        """Whether the chosen proposal is marked for the grid."""
        return self.proposal is not None and self._in_grid(self.proposal)

    def mark(self) -> bool:
        """The chosen proposal is a switch of the grid, or no longer; one proposal of a chord can be."""
        if self.proposal is None or self.proposal.rounds or self.proposal.then:
            return False
        from yellow_hinge.tasks.swaps.reharmonise import row_with  # noqa: PLC0415 - loaded with the desk

        if self.is_marked:
            del self.marked[self.proposal.at]
        else:
            self.marked[self.proposal.at] = row_with(self.song, self.proposal)
        return True

    # --- words ---

    def heading(self) -> str:
        """The chosen chord, its place, key and function."""
        written, first = self.written, self.first
        if written is None:
            return "There are no chords yet. Go to Song (Ctrl+1) and type a chart."
        if first is None:
            return f"{_shown(written.chord)}: not played, the form leaves {written.section} out"
        if written.chord is None:
            return f"Bar {first.bar}: no chord"
        number = pretty_accidentals(self.song.number_of(written.chord, written.key))
        words = f"Bar {first.bar}, beat {float(first.beat):g}: {written.chord.pretty} ({number})"
        if self.found is None:
            return words
        row = self.song.plain_slots
        after = row[first.place + 1].chord if first.place + 1 < len(row) else None
        return f"{words} {function_of(written.chord, after, self.key).words}"

    def lines(self) -> list[Line]:
        """The list, the best first, each with its group; at its end how many more there are."""
        rows = [
            Line(
                chords_words(proposal),
                proposal.reason,
                self.figure(proposal),
                self._aside(proposal),
                proposal,
            )
            for proposal in self.shown
        ]
        if not rows and self.written is not None:
            nothing = "No swap fits here: choose another chord, or switch more rules on."
            rows.append(Line("Looking for what may stand here..." if self.found is None else nothing))
        more = len(self.here) - len(self.shown)
        if more:
            rows.append(Line(f"{more} more: press A to see them all"))
        return rows

    def _aside(self, proposal: Proposal) -> str:
        marked = " · marked for the grid" if self._in_grid(proposal) else ""
        return f"{proposal.group} · {melody_words(proposal)}{marked}"

    def figure(self, proposal: Proposal) -> str:
        """What the proposal adds to or takes from the effort of the whole song, in half steps."""
        if self.base is None or proposal not in self.weighed:
            return ""
        return more_words(self.weighed[proposal].answer.cost - self.base.answer.cost)

    def motion_words(self) -> str:
        """Half steps of the whole song with the chosen proposal, and as it is."""
        if self.base is None or self.proposal is None or self.proposal not in self.weighed:
            return ""
        voiced = self.weighed[self.proposal]
        kept = let_go_words(self.song, voiced.song)
        return f"{half_steps(motion_st(voiced))} in the song, now {motion_st(self.base)}.{kept}"

    def swapped_words(self) -> list[str]:
        """Every swap of the take: bar, what stands there, for what."""
        by_id, words = {one.id: one for one in self.song.written}, []
        for written, row in self.song.arrangement.swaps.items():
            first = self.song.firsts.get(written)
            if first is not None:
                chords, own = ", ".join(_shown(at.chord) for at in row), _shown(by_id[written].chord)
                words.append((first.place, f"Bar {first.bar}: {chords} for {own}"))
        return [line for _, line in sorted(words)]

    def melody_lines(self) -> list[str]:
        """How the chosen proposal sits under the melody, note by note; clashes first."""
        if self.proposal is None:
            return []
        if not self.proposal.notes:
            return ["No melody here: judge by ear."]
        notes = sorted(self.proposal.notes, key=lambda fit: fit.fit.kind != FitKind.CLASH)
        return [
            f"{fit.note.pitch.pretty} over {fit.chord.pretty}: {fit.fit.kind.value} ({fit.fit.reason})"
            for fit in notes
        ]

    def bass_lines(self) -> tuple[str, str]:
        """The bass line before and after, in words."""
        if self.proposal is None:
            return "", ""
        return bass_words(self.proposal.bass_was), self.proposal.bass_words

    def note_choices(self) -> list[tuple[NoteName, str]]:
        """The twelve notes as the song's key spells them."""
        names = [name_for_pitch_class(place, self.song.key_here.prefers_flats) for place in range(12)]
        return [(name, name.pretty) for name in names]

    def fitting_words(self, note: NoteName) -> str:
        """The chords that a long melody note fits, those of the local key first."""
        found = chords_for_note(note, self.key)[:MOST_FITTING]
        return ", ".join(f"{chord.pretty} ({pretty_degree(how.degree)})" for chord, how in found)

    def key_choices(self) -> list[tuple[Key | None, str]]:
        """Keys that the player can set for the chosen chord."""
        choices = "as found"
        if self.found is not None and self.key_set is None:
            choices = f"as found: {self.key.pretty}"
        usual = sorted((key for key in ALL_KEYS if abs(key.fifths) <= 6), key=lambda key: key.tonic.step)
        return [(None, choices), *((key, key.pretty) for key in usual)]


def _shown(chord: ChordSymbol | None) -> str:
    return pretty_symbol(chord)


def chords_words(proposal: Proposal) -> str:
    """The chords with their beats where there are several."""
    if len(proposal.every_chord) == 1:
        return proposal.chords[0].chord.pretty
    rows = (proposal.chords, *(row for _, row in proposal.then))
    return " | ".join(
        "  ".join(f"{timed.chord.pretty}·{beats_text(timed.beats)}" for timed in row) for row in rows
    )


def melody_words(proposal: Proposal) -> str:
    """The melody's verdict in a word or two."""
    if not proposal.notes:
        return "no melody"
    if proposal.safe:
        return "fits the melody"
    notes = {fit.note.pitch.pretty for fit in proposal.notes if fit.fit.kind == FitKind.CLASH}
    return f"clashes: {', '.join(sorted(notes))}"


def motion_st(voiced: Voiced) -> int:
    """Half steps of a whole voiced song, the way back of a loop among them."""
    return figures(voiced.answer.row, voiced.answer.loop).motion_st
