"""From a song to a problem for the planner: what is wanted of every chord."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.motion.place import Place, Progression
from yellow_hinge.motion.priced import priced
from yellow_hinge.motion.weights import stressed, with_top_line
from yellow_hinge.rhythm.fullness import LEVELS
from yellow_hinge.rhythm.struck import Struck, strongest
from yellow_hinge.song.arrangement import Arrangement, Ask, Melody
from yellow_hinge.song.model import Slot, Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.tune import melody_keys
from yellow_hinge.tasks.song.local_keys import goals_in, local_keys
from yellow_hinge.tasks.song.top_line import Lines
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.tension import leads_to_minor
from yellow_hinge.voicing.hand_rules import of_kind
from yellow_hinge.voicing.recipes import Library, School
from yellow_hinge.voicing.shape import Hands, TopLine
from yellow_hinge.voicing.wish import Wish, for_grip

NOTHING_ASKED = Ask()
_OCTAVES = range(-5, 6)


def wish_for(
    chord: ChordSymbol,
    key: Key | None,
    arrangement: Arrangement,
    hands: HandProfile,
    library: Library,
    *,
    melody: int | None = None,
    ask: Ask = NOTHING_ASKED,
    after: ChordSymbol | None = None,
) -> Wish:
    """What the take and the player ask of one chord. Raises :class:`BadInput` for an unknown
    school.

    ``key`` is the local key, ``after`` the next chord. ``melody`` is the melody key over the
    chord, in the octave where it is to lie; what it means is said by the chord's or the section's
    taste (both in ``ask``), else by the take, else by the school.
    """
    school = school_of(arrangement, ask, library)
    colour = arrangement.colour if ask.taste.colour is None else ask.taste.colour
    rules = ask.taste.rules
    if any(of_kind(rules, "strict")):
        colour = 0
    inverted = arrangement.inverted if ask.taste.inverted is None else ask.taste.inverted
    wish = Wish(
        chord,
        key,
        school,
        school.colour if colour is None else colour,
        arrangement.bass or school.bass,
        profile=hands,
        hold=ask.hold.awake if ask.hold.names else None,
        to_minor=leads_to_minor(chord, after),
        hands=_hands(ask, arrangement),
        inverted=inverted,
        rules=tuple(rule for rule in rules if rule.of_chords),
    )
    mode = melody_mode(ask, arrangement, school)
    if melody is None or mode == "free":
        return wish
    if mode == "clear":
        return replace(wish, clear_of=melody)
    if mode == "room":
        return replace(wish, clear_of=melody, room_for=melody)
    return replace(wish, top=melody) if wish.plays("right") else wish


def school_of(arrangement: Arrangement, ask: Ask, library: Library) -> School:
    """A chord's school with the player's prices, and with what they have set of them."""
    base = library.school(ask.taste.school or arrangement.school)
    if arrangement.prices is not None:
        base = priced(base, arrangement.prices)
    sung = with_top_line(base, top_line_of(arrangement, ask, base))
    return stressed(sung, arrangement.levels, bool(ask.taste.held_top))


def top_line_of(arrangement: Arrangement, ask: Ask, school: School) -> TopLine:
    """What the top line does over a chord."""
    return ask.taste.top_line or arrangement.top_line or school.top


def placed(wish: Wish, song: Song, slot: Slot, ask: Ask, lines: Lines, *, part: tuple[bool, bool]) -> Wish:
    """The wish with what a slot's place asks of the top line and of the ending; ``part`` as in
    :meth:`Lines.at`."""
    arrangement = song.decided(slot.index)
    top, plan = top_line_of(arrangement, ask, wish.school), ask.taste.plan or arrangement.plan or "arc"
    line = lines.at(slot, wish, top, plan, part)
    level = song.texture(slot.index).level
    if line.aim is not None and level is not None:
        line = replace(line, aim=line.aim + LEVELS[level].lift_st)
    return replace(wish, line=line)


def part_of_swap(song: Song, slot: Slot) -> tuple[bool, bool]:
    """Whether a slot is the first, and the last, of what stands for its written chord."""
    near = (slot.index - 1, slot.index + 1)
    others = [song.slots[k].place if 0 <= k < len(song.slots) else None for k in near]
    return others[0] != slot.place, others[1] != slot.place


def _hands(ask: Ask, arrangement: Arrangement) -> Hands:
    """Which hands play: as wished, without those that rest."""
    wished: Hands = ask.taste.hands or arrangement.hands
    resting = {rule.side for rule in of_kind(ask.taste.rules, "rest")}
    if not resting or wished == "rest":
        return wished
    if "both" in resting or resting >= {"left", "right"} or wished in resting:
        return "rest"
    return "right" if "left" in resting else "left"


def melody_mode(ask: Ask, arrangement: Arrangement, school: School) -> Melody:
    """What the tune means for the hands over a chord."""
    return ask.taste.melody or arrangement.melody or school.melody


def asked(song: Song, slot: Slot) -> Ask:
    """What is asked of a slot, its section's wishes among it; a hand that has a line rests from chords."""
    taste, busy = song.taste(slot.index), song.in_line(slot.index)
    if busy and taste.hands is None and song.decided(slot.index).hands == "both":
        hands: Hands = "rest" if len(busy) > 1 else "left" if "right" in busy else "right"
        taste = replace(taste, hands=hands)
    return replace(song.ask(slot.index), taste=taste)


def progression(song: Song, library: Library) -> Progression:
    """The song as a problem for the planner: one place a column, as it stands where it is first
    played."""
    firsts = [song.slots[column[0]] for column in song.columns]
    keys, afters = local_keys(song), goals_in(song)
    asks = [asked(song, slot) for slot in firsts]
    melody, lines = tune_on_top(song, library, firsts, asks), Lines(song)
    playing, row = Playing(song), []
    for slot, ask, over in zip(firsts, asks, melody, strict=True):
        wish = None
        if slot.chord is not None:
            wish = wish_for(
                slot.chord, keys[slot.place], song.decided(slot.index), song.hands, library, melody=over,
                ask=ask,
                after=afters[slot.index],
            )  # fmt: skip
        lock = song.voicing(slot.index) if song.locked(slot.index) else None
        if wish is not None:
            wish = placed(wish, song, slot, ask, lines, part=part_of_swap(song, slot))
            wish = replace(wish, struck=struck_in(playing, song.columns[song.column_of[slot.index]]))
        if wish is not None and lock is not None:
            wish = for_grip(wish, lock)
        resting = wish is None or wish.hands == "rest"
        row.append(Place(None if resting else wish, None if resting else lock, slot.where))
    return Progression(tuple(row), song.column_of, song.arrangement.loop)


def struck_in(playing: Playing, slots: Sequence[int]) -> tuple[Struck, Struck]:
    """What the rhythm needs of grips that are one decision for several slots."""
    left, right = zip(*(playing.struck(index) for index in slots), strict=True)
    return strongest(left), strongest(right)


# --- the tune on top ---------------------------------------------------------------------


def tune_on_top(
    song: Song, library: Library, slots: Sequence[Slot], asks: Sequence[Ask]
) -> tuple[int | None, ...]:
    """For each of some slots its melody key; where the right hand has the tune on top, moved by whole
    octaves into its register: all of the song by one shift, so that the tune's own intervals stay.
    Where no shift holds it all, each section has a shift of its own."""
    over = melody_keys(song)
    keys = [over[slot.index] for slot in slots]
    on_top: dict[int, int] = {}
    for number, (slot, ask, key) in enumerate(zip(slots, asks, keys, strict=True)):
        arrangement = song.decided(slot.index)
        school = library.school(ask.taste.school or arrangement.school)
        if key is not None and melody_mode(ask, arrangement, school) == "top":
            on_top[number] = key
    shifts = _shifts(song.hands.right, on_top, [slot.section for slot in slots])
    return tuple(None if key is None else key + shifts.get(number, 0) for number, key in enumerate(keys))


def _shifts(hand: Hand, keys: Mapping[int, int], sections: Sequence[str]) -> dict[int, int]:
    """For each place the half steps by which its note of the tune moves, whole octaves."""
    whole = octave_shift(list(keys.values()), hand)
    if all(hand.lowest_key <= key + whole <= hand.highest_key for key in keys.values()):
        return dict.fromkeys(keys, whole)
    by_section: dict[str, list[int]] = {}
    for number in keys:
        by_section.setdefault(sections[number], []).append(number)
    return {
        number: octave_shift([keys[one] for one in shifts], hand)
        for shifts in by_section.values()
        for number in shifts
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
