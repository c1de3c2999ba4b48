"""From a song to a problem for the planner: what is wanted of every chord."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from yellow_hinge.hands.profile import Hand
from yellow_hinge.motion.plan import Place
from yellow_hinge.motion.weights import stressed
from yellow_hinge.reharm.regions import goals
from yellow_hinge.song.model import Ask, Melody, Settings, Slot, Song
from yellow_hinge.song.walk import melody_keys
from yellow_hinge.tasks.describe_song import local_keys
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.tension import leads_to_minor
from yellow_hinge.voicing.recipes import Library, School
from yellow_hinge.voicing.wish import Wish, for_grip

NOTHING_ASKED = Ask()
_OCTAVES = range(-5, 6)


def wish_for(
    chord: ChordSymbol,
    key: Key | None,
    settings: Settings,
    library: Library,
    melody: int | None = None,
    ask: Ask = NOTHING_ASKED,
    after: ChordSymbol | None = None,
) -> Wish:
    """What the settings and the player ask of one chord. Raises :class:`BadInput` for an unknown
    school.

    ``key`` is the local key, ``after`` the next chord. ``melody`` is the melody key over the
    chord, in the octave where it is to lie; what it means is said by the chord's or the section's
    taste (both in ``ask``), else by the song, else by the school.
    """
    base = library.school(ask.taste.school or settings.school)
    school = stressed(base, settings.levels, bool(ask.taste.held_top))
    colour = settings.colour if ask.taste.colour is None else ask.taste.colour
    inverted = settings.inverted if ask.taste.inverted is None else ask.taste.inverted
    wish = Wish(
        chord,
        key,
        school,
        school.colour if colour is None else colour,
        settings.bass or school.bass,
        settings.profile,
        hold=ask.hold if ask.hold.names else None,
        to_minor=leads_to_minor(chord, after),
        hands=ask.taste.hands or settings.hands,
        inverted=inverted,
    )
    mode = melody_mode(ask, settings, school)
    if melody is None or mode == "free":
        return wish
    if mode == "clear":
        return replace(wish, clear_of=melody)
    if mode == "room":
        return replace(wish, clear_of=melody, room_for=melody)
    return replace(wish, top=melody) if wish.plays("right") else wish


def melody_mode(ask: Ask, settings: Settings, school: School) -> Melody:
    """What the tune means for the hands over a chord."""
    return ask.taste.melody or settings.melody or school.melody


def place_words(slot: Slot) -> str:
    """Where a slot is, for messages."""
    return f"bar {slot.bar}, {'no chord' if slot.chord is None else slot.chord}"


def goals_in(song: Song) -> list[ChordSymbol | None]:
    """For every slot the chord that it goes to: the next part of its swap, or the chart's next
    other chord."""
    written = goals([slot.chord for slot in song.written], song.settings.loop)
    found: list[ChordSymbol | None] = []
    for slot, later in zip(song.slots, [*song.slots[1:], None], strict=True):
        inside = later is not None and later.written == slot.written
        found.append(later.chord if later is not None and inside else written[slot.written])
    return found


def places(song: Song, library: Library) -> tuple[Place, ...]:
    """The song as a problem for the planner."""
    asks = [replace(song.ask(slot.index), taste=song.taste(slot.index)) for slot in song.slots]
    keys, melody, afters = local_keys(song), tune_on_top(song, library, asks), goals_in(song)
    row = []
    for slot, ask in zip(song.slots, asks, strict=True):
        wish = None
        if slot.chord is not None:
            wish = wish_for(
                slot.chord, keys[slot.written], song.settings, library, melody[slot.index], ask,
                afters[slot.index],
            )  # fmt: skip
        lock = song.voicing(slot.index) if song.locked(slot.index) else None
        if wish is not None and lock is not None:
            wish = for_grip(wish, lock)
        resting = wish is not None and wish.hands == "rest"
        row.append(Place(None if resting else wish, None if resting else lock, place_words(slot)))
    return tuple(row)


# --- the tune on top ---------------------------------------------------------------------


def tune_on_top(song: Song, library: Library, asks: Sequence[Ask]) -> tuple[int | None, ...]:
    """For each slot its melody key; where the right hand has the tune on top, moved by whole
    octaves into its register: all of the song by one shift, so that the tune's own intervals stay.
    Where no shift holds it all, each section has a shift of its own."""
    keys = melody_keys(song)
    schools = [library.school(ask.taste.school or song.settings.school) for ask in asks]
    on_top = {
        slot.index
        for slot, ask, school in zip(song.slots, asks, schools, strict=True)
        if keys[slot.index] is not None and melody_mode(ask, song.settings, school) == "top"
    }
    shifts = _shifts(song, {index: keys[index] or 0 for index in on_top})
    return tuple(None if key is None else key + shifts.get(index, 0) for index, key in enumerate(keys))


def _shifts(song: Song, keys: Mapping[int, int]) -> dict[int, int]:
    """Slot -> half steps by which its note of the tune moves, whole octaves."""
    hand = song.settings.profile.right
    whole = octave_shift(list(keys.values()), hand)
    if all(hand.lowest_key <= key + whole <= hand.highest_key for key in keys.values()):
        return dict.fromkeys(keys, whole)
    sections: dict[str, list[int]] = {}
    for index in keys:
        sections.setdefault(song.slots[index].section, []).append(index)
    return {
        index: octave_shift([keys[one] for one in own], hand) for own in sections.values() for index in own
    }


def octave_shift(keys: Sequence[int], hand: Hand) -> int:
    """The octaves, in half steps, by which a tune moves so that it lies best in the upper part of
    a hand's register, where there is room for a chord below it; the smallest such move."""
    lowest = min(hand.home_low + 5, hand.highest_key - 11)

    def outside(octaves: int) -> tuple[int, int]:
        moved = [key + 12 * octaves for key in keys]
        far = sum(max(0, lowest - key) + max(0, key - hand.highest_key) for key in moved)
        return far, abs(octaves)

    return 12 * min(_OCTAVES, key=outside) if keys else 0
