"""What the Keys page shows, without Qt."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from yellow_hinge.motion.figures import amount_words, half_steps
from yellow_hinge.song.edits import Edit, choose_key, take_in_key, with_voicings
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import shown_in
from yellow_hinge.theory.keys import Key

if TYPE_CHECKING:
    from yellow_hinge.tasks.keys.survey import KeyFigures

#: Orders of the rows: half steps from one key to the next, and in words.
ORDERS: tuple[tuple[int, str], ...] = ((1, "half steps up"), (5, "fourths"), (7, "fifths"))
MOST_FAILS = 6


class KeysState:
    """The survey of a song, the order of its rows, and the key that is chosen."""

    def __init__(self) -> None:
        self.song = Song()
        self.found: tuple[KeyFigures, ...] = ()  #: as they come, the song's own first
        self.whole = False  #: whether these are all
        self.order = 0
        self.chosen = 0  #: row
        self.carried = False  #: whether the grips of the song's own key are looked at

    def take(self, song: Song) -> None:
        """Another song: its survey is still to come."""
        if not self.same(song):
            self.forget()
        self.song = song

    def forget(self) -> None:
        """What was found is worked out anew."""
        self.found, self.whole = (), False

    def same(self, song: Song) -> bool:
        """Whether a song has the same survey: the keys that are chosen in it change none."""
        old = self.song
        return song is old or (song.chart is old.chart and replace(old, keys_chosen=song.keys_chosen) == song)

    def take_found(self, song: Song, found: Sequence[KeyFigures], whole: bool = True) -> None:
        """The survey of a song, or what there is of it; that of another one comes too late."""
        if self.same(song):
            row = self.row
            self.found, self.whole = tuple(found), whole
            self.chosen = min(self.chosen, max(0, len(found) - 1))
            if row is not None:
                self._choose(row.key)

    def _choose(self, key: Key) -> None:
        """The row of a key, wherever it is now."""
        self.chosen = next((at for at, row in enumerate(self.rows) if row.key == key), self.chosen)

    @property
    def rows(self) -> list[KeyFigures]:
        """The keys in the chosen order, the song's own first; those that are still to come are left out."""
        step, count = ORDERS[self.order][0], len(self.found)
        return [self.found[k * step % 12] for k in range(12) if k * step % 12 < count]

    @property
    def row(self) -> KeyFigures | None:
        """The chosen key."""
        rows = self.rows
        return rows[self.chosen] if self.chosen < len(rows) else None

    @property
    def best(self) -> Key | None:
        """The key with the least effort, once all are known."""
        return min(self.found, key=lambda figures: figures.effort).key if self.whole else None

    def next_order(self) -> None:
        """The next order; the chosen key stays chosen."""
        row = self.row
        self.order = (self.order + 1) % len(ORDERS)
        if row is not None:
            self._choose(row.key)

    def step(self, direction: int) -> None:
        """Another row."""
        self.chosen = max(0, min(len(self.found) - 1, self.chosen + direction))

    def here(self, carried: bool | None = None) -> Song | None:
        """The song in the chosen key: solved there, or with the grips carried over."""
        row = self.row
        if row is None:
            return None
        if not (self.carried if carried is None else carried) or row.carried is None:
            return replace(row.voiced.song, keys_chosen=self.song.keys_chosen)
        moved = shown_in(self.song, row.key)
        columns = [row.carried.voicings[column[0]] for column in moved.columns]
        return with_voicings(moved, columns)

    def opened(self) -> Edit | None:
        """The song in the chosen key, with the grips that are looked at; carried ones are locked."""
        row, song = self.row, self.here()
        if row is None or song is None:
            return None
        if self.carried:
            takes = []
            for take in song.takes:
                choices = {
                    at: replace(choice, locked=True) for at, choice in take.arrangement.choices.items()
                }
                takes.append(replace(take, arrangement=replace(take.arrangement, choices=choices)))
            song = replace(song, takes=tuple(takes))
        return Edit(song, f"Key {row.key.pretty}")

    def as_take(self) -> Edit | None:
        """A take that sounds in the chosen key, with the grips that are looked at locked; the song keeps its
        own key."""
        edit = self.opened()
        return None if edit is None else take_in_key(self.song, edit.song)

    @property
    def keys_chosen(self) -> list[Key]:
        """The keys to practise and to print, from C upwards."""
        return sorted(self.song.keys_chosen, key=lambda key: (key.tonic.pitch_class, key.minor))

    def marked(self, key: Key) -> bool:
        """Whether a key is chosen for practice and print."""
        return key in self.song.keys_chosen

    def mark(self) -> Edit | None:
        """The chosen row's key is one to practise and to print, or no longer."""
        row = self.row
        return None if row is None else choose_key(self.song, row.key, not self.marked(row.key))

    def figures_words(self) -> str:
        """The chosen key in figures."""
        row = self.row
        if row is None:
            return ""
        return (
            f"Effort {row.effort / 100:.0f}, {half_steps(row.motion)}, largest move {row.largest}. "
            f"Stretch {row.stretch_mm:.0f} mm, {row.stretch_share:.0%} of the reach. "
            f"{row.black:.0%} black keys."
        )

    def carried_words(self) -> str:
        """What becomes of the grips of the song's own key, in the chosen one."""
        row = self.row
        if row is None or row.carried is None:
            return ""
        carried = row.carried
        if row.key == self.song.key:
            return "This is the song's own key."
        if carried.effort is None:
            return "The grips of the song's key cannot be weighed here."
        more = carried.effort - row.effort
        cost = f"{amount_words(abs(more))} {'more' if more >= 0 else 'less'}"
        words = f"As they are carried over they would cost {cost}"
        if not carried.fails:
            return f"{words}, and all of them can be held."
        shown = "; ".join(carried.fails[:MOST_FAILS])
        rest = len(carried.fails) - MOST_FAILS
        end = f"; and {rest} more." if rest > 0 else "."
        return f"{words}, and {len(carried.fails)} would break a rule: {shown}{end}"
