"""What the workbench thinks about the player's own grips: the one that is being entered, how it reads,
and how grips are changed in place."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec import Struct

from yellow_hinge.motion.figures import half_steps
from yellow_hinge.motion.hinge import SIDES
from yellow_hinge.song.at import At
from yellow_hinge.song.model import Song
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.pitch import NoteName, Pitch, degree_semitones
from yellow_hinge.theory.pretty import pretty_accidentals
from yellow_hinge.voicing import handling
from yellow_hinge.voicing.handling import Keys
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

if TYPE_CHECKING:
    from yellow_hinge.tasks.grips.own_grip import GripDesk, OverBass, Tried
    from yellow_hinge.theory.identify import Name
    from yellow_hinge.voicing.reductions import Reduction

Spelled = tuple[tuple[int, NoteName], ...]
#: Names that are listed.
_MOST_NAMES = 5


class Draft(Struct, frozen=True):
    """A grip that is being entered for a chord."""

    chord: ChordSymbol | None
    keys: Keys


class GripState:
    """Grips of the player's own. A draft stays with its chord until it is kept or given up."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.hand = "right"
        self.note: int | None = None
        self._drafts: dict[At, Draft] = {}
        self._spelled: dict[At, tuple[Keys, Spelled]] = {}  #: how a chord's notes were typed last
        self._wide: dict[At, tuple[Keys, tuple[Reduction, ...]]] = {}
        self._read: tuple[tuple[Song, int, Keys], Tried | None] | None = None

    @cached_property
    def desk(self) -> GripDesk:
        """What judges, loaded when it is first asked: it brings NumPy."""
        from yellow_hinge.tasks.grips.own_grip import GripDesk  # noqa: PLC0415

        return GripDesk(self._library)

    def learn(self, library: Library) -> None:
        """Other recipes from now on."""
        self._library, self._read = library, None
        self.__dict__.pop("desk", None)

    # --- what is entered ---

    def draft(self, song: Song, index: int) -> Draft | None:
        """What is being entered for a chord, as long as it is that chord."""
        if index >= len(song.slots):
            return None
        draft = self._drafts.get(song.slots[index].at)
        return draft if draft is not None and draft.chord == song.slots[index].chord else None

    def enter(self, song: Song, index: int, keys: Keys, spelled: Spelled = ()) -> None:
        """Other keys for a chord, not kept yet."""
        slot = song.slots[index]
        self._drafts[slot.at] = Draft(slot.chord, keys)
        if spelled:
            self._spelled[slot.at] = keys, spelled

    def give_up(self, song: Song, index: int) -> None:
        """Nothing is being entered for a chord any more."""
        self._drafts.pop(song.slots[index].at, None)

    def forget(self) -> None:
        """Another song: nothing is being entered."""
        self._drafts.clear()
        self._spelled.clear()
        self._wide.clear()
        self.note = None

    def keys(self, song: Song, index: int) -> Keys:
        """What a chord holds, or what is being entered for it."""
        draft = self.draft(song, index)
        if draft is not None:
            return draft.keys
        voicing = song.voicing(index) or Voicing()
        return Keys(voicing.left.keys, voicing.right.keys)

    def switch_hand(self) -> None:
        """The other hand gets the keys that are clicked."""
        self.hand = "left" if self.hand == "right" else "right"

    def clicked(self, song: Song, index: int, key: int, side: str) -> Keys | None:
        """The keys with one more, or without the one that was clicked; None where no finger is free."""
        keys = self.keys(song, index)
        if keys.side_of(key) is not None:
            return handling.dropped(keys, key)
        return handling.added(keys, side, key)

    # --- how it reads ---

    def reading(self, song: Song, index: int) -> Tried | None:
        """Everything about what is entered or in use, found once."""
        keys = self.keys(song, index)
        asked = (song, index, keys)
        if self._read is None or self._read[0][0] is not song or self._read[0][1:] != asked[1:]:
            self._read = asked, self.desk.tried(song, index, keys, self._names_typed(song, index))
        return self._read[1]

    def _names_typed(self, song: Song, index: int) -> Spelled:
        """The names that were typed for the notes of a chord, as long as it holds these."""
        keys, spelled = self._spelled.get(song.slots[index].at, (Keys(), ()))
        return spelled if keys == self.keys(song, index) else ()

    def lines(self, song: Song, index: int) -> list[tuple[str, str]]:
        """(heading, words) about what is entered or in use."""
        tried = self.reading(song, index)
        if tried is None:
            return []
        left, right = tried.degrees
        degrees = f"left {left or 'rests'}, right {right or 'rests'}"
        names = [f"{name.chord.pretty}: {pretty_reading(name)}" for name in tried.called[:_MOST_NAMES]]
        lines = [("Called", "\n".join(names[:3])), ("In the chart", tried.agreement), ("Degrees", degrees)]
        if tried.remarks:
            lines.append(("Worth knowing", "; ".join(tried.remarks)))
        lines.append(("In the hands", "\n".join(tried.lies)))
        if tried.sounds:
            lines.append(("Sound", tried.sounds))
        if tried.before is not None:
            lines.append((f"From before: {half_steps(tried.before.motion_st)}", tried.before.pretty_words))
        if tried.after is not None:
            lines.append((f"On to the next: {half_steps(tried.after.motion_st)}", tried.after.pretty_words))
        return [*lines, ("Effort", tried.effort_words)]

    def typed(self, song: Song, index: int) -> str:
        """The keys as one would type them: "D3 G3 ; B3 F#4"."""
        tried, chord = self.reading(song, index), song.slots[index].chord
        if tried is None or chord is None:
            return ""
        names = dict(self._names_typed(song, index))
        left, right = (
            " ".join(
                str(Pitch(pitch.key, names.get(pitch.key, pitch.name)))
                for pitch in tried.voicing.hand(side).pitches(chord)
            )
            for side in SIDES
        )
        return f"{left} ; {right}" if left else right

    def names(self, song: Song, index: int) -> tuple[Name, ...]:
        """What the notes are called, best first."""
        tried = self.reading(song, index)
        return () if tried is None else tried.called

    def names_by_hand(self, song: Song, index: int, most: int = 4) -> list[tuple[str, Name]]:
        """(hand, name) for what each hand plays by itself; two notes may be the guide tones of a chord."""
        from yellow_hinge.theory.identify import identify  # noqa: PLC0415 - its tables take a while

        keys, chord = self.keys(song, index), song.slots[index].chord
        own = () if chord is None else (chord.root.degree(label) for label in chord.degrees)
        spelled = {name.pitch_class: name for name in own}
        return [
            (side, name)
            for side in SIDES
            for name in (identify(keys.hand(side), spelled, most) if len(keys.hand(side)) > 1 else ())
        ]

    def over_basses(self, song: Song, index: int, side: str = "") -> tuple[OverBass, ...]:
        """What each bass makes of one hand, the right one unless it rests."""
        from yellow_hinge.tasks.grips.own_grip import over_basses  # noqa: PLC0415 - brings NumPy

        keys = self.keys(song, index)
        upper = keys.hand(side) if side else keys.right or keys.left
        return over_basses(upper, song.slots[index].key) if upper else ()

    # --- out of reach ---

    def ways(self, song: Song, index: int) -> tuple[Keys, tuple[Reduction, ...]] | None:
        """A wide grip that is being entered, and the ways to play it in the school's order; they stay to
        be compared while one of them is looked at. None where nothing is out of reach."""
        draft, tried = self.draft(song, index), self.reading(song, index)
        if draft is None or tried is None:
            return None
        at = song.slots[index].at
        reductions = self.desk.ways_out(tried)
        if reductions:
            self._wide[at] = draft.keys, reductions
        kept = self._wide.get(at)
        if kept is None or draft.keys not in (kept[0], *(keys_of(way) for way in kept[1])):
            self._wide.pop(at, None)
            return None
        return kept

    # --- changing in place ---

    def slid(self, song: Song, index: int, way: str, up: bool) -> Keys | None:
        """The whole grip a half step, a step in the scale, or an inversion higher or lower."""
        keys = self.keys(song, index)
        if way == "half step":
            return handling.slid(keys, 1 if up else -1)
        own = frozenset(key % 12 for key in (*keys.left, *keys.right))
        tones = own if way == "inversion" else self.desk.scale(song, index)
        return handling.slid_in(keys, tones, up)

    def choose_note(self, song: Song, index: int, direction: int) -> None:
        """The next note of the chord, from the lowest of the left hand to the highest of the right."""
        keys = self.keys(song, index)
        every = sorted([*keys.left, *keys.right])
        if not every:
            self.note = None
        elif self.note not in every:
            self.note = every[0 if direction > 0 else -1]
        else:
            place = every.index(self.note) + direction
            self.note = every[max(0, min(len(every) - 1, place))]

    def with_note(self, song: Song, index: int, change: Callable[[Keys, int], Keys | None]) -> Keys | None:
        """The keys with the chosen note changed; the note that comes instead is chosen then."""
        before = self.keys(song, index)
        if self.note is None or before.side_of(self.note) is None:
            return None
        after = change(before, self.note)
        if after is not None:
            came = {*after.left, *after.right} - {*before.left, *before.right}
            if came or self.note not in {*after.left, *after.right}:
                self.note = min(came, default=None)
        return after

    def stepped(self, song: Song, index: int, up: bool) -> Keys | None:
        """The chosen note on the next chord tone."""
        tones = tones_of(song.slots[index].chord)
        return self.with_note(song, index, lambda keys, key: handling.stepped(keys, key, up, tones))

    def more(self, song: Song, index: int) -> Keys | None:
        """One more chord tone on top of the hand, the next one that is free."""
        keys, tones = self.keys(song, index), tones_of(song.slots[index].chord)
        row = keys.hand(self.hand)
        start = row[-1] + 1 if row else (48 if self.hand == "left" else 60)
        for key in range(start, handling.HIGHEST_PIANO_KEY + 1):
            if key % 12 in tones and keys.side_of(key) is None:
                return handling.added(keys, self.hand, key)
        return None


def keys_of(way: Reduction) -> Keys:
    """The keys of a way out."""
    return Keys(way.voicing.left.keys, way.voicing.right.keys)


def tones_of(chord: ChordSymbol | None) -> frozenset[int]:
    """The pitch classes of a chord, its bass among them."""
    if chord is None:
        return frozenset()
    tones = {(chord.root.pitch_class + degree_semitones(label)) % 12 for label in chord.degrees}
    return frozenset({*tones, chord.bass_name.pitch_class})


def nearest_tone(key: int, steps: int, chord: ChordSymbol) -> int:
    """The chord tone nearest to ``steps`` half steps from a key, on that side of it; the key itself where
    none is nearer."""
    tones = tones_of(chord)
    wanted = key + steps
    way = range(key + 1, key + 25) if steps > 0 else range(key - 24, key)
    return min((one for one in way if one % 12 in tones), key=lambda one: abs(one - wanted), default=key)


def pretty_reading(name: Name) -> str:
    """How a name reads the notes, without saying the name again."""
    plain = str(name.chord).partition("/")[0]
    return pretty_accidentals(name.reading.removeprefix(plain).strip() or name.reading)
