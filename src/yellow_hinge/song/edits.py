"""Changes to a song. Each takes a song and gives an :class:`Edit`: the changed song, the label that
undo shows, and in words what could not be carried along."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.song import carry
from yellow_hinge.song.arrangement import Arrangement, Ask, Choice, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Chart, ChordAt, Move, move_between, nearest_st
from yellow_hinge.song.matching import matched
from yellow_hinge.song.model import FIRST_TAKE, Song, Take
from yellow_hinge.theory.keys import Key
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.shape import Voicing

#: How a player's own notes follow into another key: they stay in their region of the keyboard, at
#: most a tritone away, or they lie as far above the first key as the new one does.
Register = Literal["region", "shifted"]
MOST_TAKES, MOST_NAME = 24, 60


class Edit(Struct, frozen=True):
    """A changed song with the label that undo shows. Edits of one ``gesture`` undo together; ``lost``
    says what could not be kept, ``remarks`` what is to be looked at."""

    song: Song
    label: str
    gesture: str | None = None
    lost: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()


# --- the arrangements of a song ----------------------------------------------------------


def with_arrangement(song: Song, take_id: int, arrangement: Arrangement) -> Song:
    """The song with another arrangement in one take."""
    takes = tuple(
        replace(take, arrangement=arrangement) if take.id == take_id else take for take in song.takes
    )
    return replace(song, takes=takes)


def with_prices(song: Song, prices: OwnPrices | None) -> Song:
    """The song with a player's prices in all takes, or the program's own."""
    return replace(song, takes=_in_all(song, lambda arrangement: replace(arrangement, prices=prices)))


def _changed(song: Song, take_id: int, **changes: Any) -> Song:
    return with_arrangement(song, take_id, replace(song.take_of(take_id).arrangement, **changes))


def _in_all(song: Song, change: Callable[[Arrangement], Arrangement]) -> tuple[Take, ...]:
    return tuple(replace(take, arrangement=change(take.arrangement)) for take in song.takes)


# --- chart and key -----------------------------------------------------------------------


def edit_chart(song: Song, read: Chart, gesture: str | None = None, since: Song | None = None) -> Edit:
    """Another chart. Decisions of all takes stay with the chords that are still there.

    ``since`` is the song at the beginning of a gesture: decisions are carried from there, so that
    what is deleted and typed again within it has lost nothing. A chart of another title that has no bar of
    the old one is another song: nothing is poured into it.
    """
    base = _in_key_of(song if since is None else since, read)
    if _is_another(base.chart, read):
        return Edit(Song(read, hands=song.hands), "New song", gesture)
    chart, by = matched(base.chart, read)
    takes = _in_all(base, lambda arrangement: carry.recharted(arrangement, by))
    route = {
        (by.sections[section], turn): take
        for (section, turn), take in base.route.items()
        if section in by.sections
    }
    after = replace(base, chart=chart, takes=takes, route=route, hands=song.hands, id=base.own_id)
    return Edit(after, "Change chart", gesture, _once(by.lost))


def _is_another(before: Chart, after: Chart) -> bool:
    """Whether a chart is of another song, and not an edit of the one before."""
    bars = [
        {
            (bar.chords, bar.melody, bar.line, bar.left_line)
            for section in chart.sections
            for bar in section.every_bar
        }
        for chart in (before, after)
    ]
    return before.title != after.title and bool(before.title) and not bars[0] & bars[1]


def _in_key_of(song: Song, read: Chart) -> Song:
    """The song in the key of a chart that was read, where that chart is the old one in another key:
    its key line was written anew over numbers, or all of it was written in the new key."""
    if read.key == song.key or read.key.minor != song.key.minor:
        return song
    moved = change_key(song, read.key).song
    now = Counter(written.chord for written in read.written)
    before, after = (
        (now & Counter(written.chord for written in chart.written)).total()
        for chart in (song.chart, moved.chart)
    )
    return moved if after > before else song


def _once(words: Sequence[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(words))


def key_move(song: Song, key: Key) -> Move:
    """How everything moves into another key. The tune never drifts: every way back to a key brings
    it back."""
    step = nearest_st(key.tonic.pitch_class - song.key.tonic.pitch_class)
    tune_st = nearest_st(song.lift_st + step) - nearest_st(song.lift_st)
    return replace(move_between(song.key, key), tune_st=tune_st)


def change_key(
    song: Song, key: Key, text: str = "", register: Register = "region", usual: bool = False
) -> Edit:
    """The song in another key: chords, tune, locks, grips, wishes, swaps, local keys and small notes
    move along. ``text`` is the chart's text in that key, where it had one; ``usual`` as in :class:`Move`.

    What then lies out of a hand's reach or register is named in the remarks.
    """
    move = replace(key_move(song, key), usual=usual)
    step = nearest_st(key.tonic.pitch_class - song.key.tonic.pitch_class)
    lift = _lift(song.lift_st + step, register)
    by = carry.Transposed(move, lift - song.lift_st)
    chart = replace(song.chart.moved(move), text=text)
    takes = _in_all(song, lambda arrangement: carry.transposed(arrangement, by))
    after = replace(song, chart=chart, takes=takes, lift_st=lift, id=song.own_id)
    return Edit(after, f"Change key to {key.pretty}", None, _once(by.lost), out_of_bounds(after))


def _lift(total_st: int, register: Register) -> int:
    """How far own notes lie above where they were decided: a matter of the key alone, so that every
    way back to a key gives the same."""
    return nearest_st(total_st) if register == "region" else total_st % 12


def out_of_bounds(song: Song) -> tuple[str, ...]:
    """Locked voicings that a hand cannot reach, or that lie out of its register, in words."""
    bounds: list[str] = []
    for column in song.columns:
        slot = song.slots[column[0]]
        voicing = song.voicing(slot.index)
        if voicing is None or not song.locked(slot.index) or slot.chord is None:
            continue
        bounds += beyond(voicing, song.hands, slot.where)
    return tuple(bounds)


def beyond(voicing: Voicing, hands: HandProfile, where: str) -> Iterator[str]:
    """What of a voicing a hand cannot reach, or has out of its register, in words."""
    for side, hand in (("left", hands.left), ("right", hands.right)):
        keys = voicing.hand(side).keys
        if keys and not hands.can_reach(hand, keys):
            yield f"{where}: out of reach for the {side} hand"
        elif keys and (keys[0] < hand.lowest_key or keys[-1] > hand.highest_key):
            yield f"{where}: out of the {side} hand's register"


# --- hands and taste ---------------------------------------------------------------------


def change_hands(song: Song, hands: HandProfile, label: str = "Change hands") -> Edit:
    """Other hands. Voicings that are not locked are to be solved anew."""
    return Edit(replace(song, hands=hands), label)


#: Arrangement field -> label of its change.
_LABELS = {
    "school": "Change school", "colour": "Change colour", "bass": "Change bass",
    "melody": "Change what the tune means", "hands": "Change which hands play",
    "inverted": "Inverted basses", "loop": "Loop", "levels": "Change what matters",
    "rules_off": "Switch a rule", "top_line": "Change what the top line does",
    "plan": "Change how the top line lies", "style": "Change the style of swaps",
    "prices": "Change whose prices hold",
}  # fmt: skip


def settle(song: Song, label: str | None = None, **changes: Any) -> Edit:
    """Other wishes for the whole take: school, colour, bass, melody, hands, inverted, loop, levels,
    rules_off, top_line, plan, style, prices. Raises ``TypeError`` for another field."""
    unknown = set(changes) - set(_LABELS)
    if unknown:
        raise TypeError(f"not a wish for the whole take: {', '.join(sorted(unknown))}")
    if label is None:
        old = song.arrangement
        label = next((_LABELS[n] for n in changes if changes[n] != getattr(old, n)), "Change wishes")
    return Edit(_changed(song, song.current, **changes), label)


def choose_key(song: Song, key: Key, on: bool) -> Edit:
    """A key is one of those to practise and to print, or no longer."""
    chosen = song.keys_chosen | {key} if on else song.keys_chosen - {key}
    return Edit(replace(song, keys_chosen=chosen), f"{'Choose' if on else 'No longer choose'} {key.pretty}")


def lead_back(song: Song, on: bool) -> Edit:
    """Make the song a loop, or not."""
    return settle(song, "Lead back to the beginning" if on else "End at the end", loop=on)


def switch_rule(song: Song, rule: str, on: bool, name: str = "") -> Edit:
    """Switch a swap rule on or off."""
    off = set(song.arrangement.rules_off) - {rule} | (set() if on else {rule})
    label = f"Switch {'on' if on else 'off'} {name or rule}"
    return settle(song, label, rules_off=tuple(sorted(off)))


def wish_for_chord(song: Song, index: int, ask: Ask) -> Edit:
    """Fix something of one chord, or give it a taste of its own."""
    slot = song.slots[index]
    asks = {at: kept for at, kept in song.decided(index).asks.items() if at != slot.at}
    if ask != Ask():
        asks[slot.at] = ask
    return Edit(_changed(song, slot.take, asks=asks), f"Wishes for {_symbol(song, index)}")


def wish_for_section(song: Song, section: str, taste: Taste) -> Edit:
    """Give a section a taste of its own; an empty one takes it away."""
    tastes = {name: kept for name, kept in song.arrangement.tastes.items() if name != section}
    if taste != Taste():
        tastes[section] = taste
    return Edit(_changed(song, song.current, tastes=tastes), f"Wishes for {section or 'the section'}")


def _symbol(song: Song, index: int) -> str:
    chord = song.slots[index].chord
    return "no chord" if chord is None else chord.pretty


# --- voicings ----------------------------------------------------------------------------


def choose(song: Song, index: int, voicing: Voicing, locked: bool = True) -> Edit:
    """Put a voicing into a chord and lock it there."""
    label = f"{'Lock' if locked else 'Take'} {_symbol(song, index)}"
    return Edit(_with_choice(song, index, Choice(voicing, locked, locked)), label)


def set_lock(song: Song, index: int, locked: bool) -> Edit:
    """Lock or unlock what a chord holds. It must have a voicing."""
    voicing = song.voicing(index)
    assert voicing is not None
    label = f"{'Lock' if locked else 'Unlock'} {_symbol(song, index)}"
    return Edit(_with_choice(song, index, Choice(voicing, locked, locked)), label)


def _with_choice(song: Song, index: int, choice: Choice) -> Song:
    slot = song.slots[index]
    return _changed(song, slot.take, choices={**song.decided(index).choices, slot.at: choice})


def with_voicings(song: Song, voicings: Sequence[Voicing]) -> Song:
    """Put in a whole answer, one voicing a column (:attr:`Song.columns`); locks stay."""
    choices: dict[int, dict[At, Choice]] = {}
    for column, voicing in zip(song.columns, voicings, strict=True):
        slot = song.slots[column[0]]
        take_choices = choices.setdefault(slot.take, dict(song.take_of(slot.take).arrangement.choices))
        kept = song.decided(slot.index).choices.get(slot.at, Choice(voicing))
        take_choices |= {song.slots[index].at: replace(kept, voicing=voicing) for index in column}
    for take_id, take_choices in choices.items():
        if take_choices != song.take_of(take_id).arrangement.choices:
            song = _changed(song, take_id, choices=take_choices)
    return song


# --- swaps -------------------------------------------------------------------------------


def change_swaps(
    song: Song, rows: Mapping[int, tuple[ChordAt, ...]], label: str = "Swap", take_id: int | None = None
) -> Edit:
    """Other chords in the place of written ones, by their ids; an empty row gives the chart's own
    chord back. What was decided on chords that sound on stays with them."""
    take_id = song.current if take_id is None else take_id
    arrangement, lost = song.take_of(take_id).arrangement, []
    by_id = {one.id: one for one in song.written_in(take_id)}
    for written, row in rows.items():
        by = carry.Swapped(by_id[written], arrangement.swaps.get(written, ()), row)
        arrangement = carry.swapped(arrangement, by)
        lost += by.lost
    return Edit(with_arrangement(song, take_id, arrangement), label, None, _once(lost))


def give_back(song: Song, written: int, take_id: int | None = None) -> Edit:
    """The chart's own chord comes back in one place."""
    return change_swaps(song, {written: ()}, "Give back", take_id)


def keep_as_it_is(song: Song, written: int, on: bool) -> Edit:
    """No swap may take this chord, or it may again."""
    untouched = song.arrangement.untouched - {written} | ({written} if on else frozenset())
    return Edit(
        _changed(song, song.current, untouched=untouched), "Keep as it is" if on else "Let it be swapped"
    )


def set_local_key(song: Song, written: int, key: Key | None) -> Edit:
    """The local key from a chord on, as the player hears it; None takes back what was set."""
    keys = {at: kept for at, kept in song.arrangement.keys_set.items() if at != written}
    if key is not None:
        keys[written] = key
    label = "Local key as found" if key is None else f"Local key {key.pretty}"
    return Edit(_changed(song, song.current, keys_set=keys), label)


# --- takes -------------------------------------------------------------------------------


def _new_take(song: Song, name: str, arrangement: Arrangement) -> Take:
    return Take(max(take.id for take in song.takes) + 1, free_name(song, name), arrangement)


def free_name(song: Song, name: str) -> str:
    """The name, cut to a sensible length, with a number behind it where another take has it."""
    name = " ".join(name.split())[:MOST_NAME] or FIRST_TAKE
    taken = {take.name for take in song.takes}
    if name not in taken:
        return name
    base = name.rstrip("0123456789").rstrip() or name
    numbered = (f"{base} {number}" for number in range(2, len(taken) + 3))
    return next(one for one in numbered if one not in taken)


def copy_take(song: Song, name: str = "") -> Edit:
    """A new take that begins as the one being worked on, and is worked on from now."""
    take = _new_take(song, name or song.take.name, song.arrangement)
    return Edit(replace(song, takes=(*song.takes, take), current=take.id), f"New take {take.name}")


def keep_row(song: Song, voicings: Sequence[Voicing], name: str) -> Edit:
    """Keep another row of voicings, one a column, as a take of its own: its chords are locked, so
    that it stays the row that was heard."""
    choices = dict(song.arrangement.choices)
    for column, voicing in zip(song.columns, voicings, strict=True):
        slot = song.slots[column[0]]
        if slot.chord is not None:
            choices[slot.at] = Choice(voicing, locked=True, own=True)
    take = _new_take(song, name, replace(song.arrangement, choices=choices))
    return Edit(replace(song, takes=(*song.takes, take), current=take.id), f"Keep {take.name}")


def rename_take(song: Song, take_id: int, name: str) -> Edit:
    """Another name for a take."""
    others = replace(song, takes=tuple(take for take in song.takes if take.id != take_id))
    new = free_name(others, name) if others.takes else " ".join(name.split())[:MOST_NAME] or FIRST_TAKE
    takes = tuple(replace(take, name=new) if take.id == take_id else take for take in song.takes)
    return Edit(replace(song, takes=takes), f"Rename take to {new}")


def move_take(song: Song, take_id: int, step: int) -> Edit:
    """A take so many places further down the list (negative: up)."""
    row = [take for take in song.takes if take.id != take_id]
    place = [take.id for take in song.takes].index(take_id)
    row.insert(max(0, min(len(row), place + step)), song.take_of(take_id))
    return Edit(replace(song, takes=tuple(row)), f"Move {song.take_of(take_id).name}")


def differing(one: Song, other: Song) -> tuple[int, ...]:
    """The slots in which two songs with the same chords have other keys."""
    return tuple(
        slot.index
        for slot in one.slots
        if (mine := one.voicing(slot.index)) is not None
        and (theirs := other.voicing(slot.index)) is not None
        and (mine.left.keys, mine.right.keys) != (theirs.left.keys, theirs.right.keys)
    )


def new_take(song: Song, name: str, **wishes: Any) -> Edit:
    """A new take like the one being worked on, with other wishes for all of it; its chords are found anew,
    locked ones kept."""
    choices = {at: choice for at, choice in song.arrangement.choices.items() if choice.locked}
    take = _new_take(song, name, replace(song.arrangement, choices=choices, **wishes))
    return Edit(replace(song, takes=(*song.takes, take), current=take.id), f"New take {take.name}")


def take_over(song: Song, other: int, ids: frozenset[int]) -> Edit:
    """Some written chords of the current take as another take has them; their grips are locked, so that they
    stay what they were there."""
    section_of = {written.id: written.section for written in song.chart.written}
    whole = {written.section for written in song.chart.written} - {
        written.section for written in song.chart.written if written.id not in ids
    }
    by = carry.Mixed(song.arrangement, _in_my_key(song, other), ids, frozenset(whole), section_of)
    mixed = carry.mixed(by)
    choices = {
        at: replace(choice, locked=choice.locked or at.written in ids) for at, choice in mixed.choices.items()
    }
    label = f"From {song.take_of(other).name}"
    return Edit(with_arrangement(song, song.current, replace(mixed, choices=choices)), label)


def _in_my_key(song: Song, other: int) -> Arrangement:
    """What another take decides, in the key of the one that is being worked on."""
    theirs = song.take_of(other).arrangement
    step = nearest_st(song.arrangement.shift_st - theirs.shift_st)
    if not step:
        return theirs
    move = song.move_of(other)
    by = carry.Transposed(move_between(song.key if move is None else move.new, song.key_here), step)
    return carry.transposed(theirs, by)


def take_in_key(song: Song, moved: Song, name: str = "") -> Edit:
    """A new take that sounds in another key, with the chart left as it is. ``moved`` is the song as a whole
    in that key (:func:`change_key`), its current take with the grips that the new one is to have."""
    step = nearest_st(moved.key.tonic.pitch_class - song.key.tonic.pitch_class)
    shift = nearest_st(song.arrangement.shift_st + step)
    key = moved.key_here
    take = _new_take(
        song, name or f"{song.take.name} in {key.pretty}", replace(moved.arrangement, shift_st=shift)
    )
    return Edit(
        replace(song, takes=(*song.takes, take), current=take.id), f"Take in {key.pretty}", None,
        (), out_of_bounds(replace(song, takes=(*song.takes, take), current=take.id)),
    )  # fmt: skip


def go_to_take(song: Song, take_id: int) -> Edit:
    """Work on another take."""
    return Edit(replace(song, current=take_id), f"Go to {song.take_of(take_id).name}")


def drop_take(song: Song, take_id: int) -> Edit:
    """Drop a take, the last one apart; rounds that it sounded in go back to the current one."""
    if len(song.takes) == 1:
        return Edit(song, "Drop take")
    takes = tuple(take for take in song.takes if take.id != take_id)
    current = song.current if song.current != take_id else takes[0].id
    route = {where: take for where, take in song.route.items() if take != take_id}
    return Edit(
        replace(song, takes=takes, current=current, route=route), f"Drop {song.take_of(take_id).name}"
    )


def vary_round(song: Song, section: str, turn: int, take_id: int | None) -> Edit:
    """Let another take sound in one round of a section; None: the current one again."""
    route = {where: take for where, take in song.route.items() if where != (section, turn)}
    if take_id is not None:
        route[section, turn] = take_id
    name = song.take_of(song.current if take_id is None else take_id).name
    return Edit(replace(song, route=route), f"{name} in {section or 'the song'}, round {turn}")


def vary_with_copy(song: Song, section: str, turn: int) -> Edit:
    """Give one round of a section a take of its own, which begins as the one that sounds there."""
    sounding = song.take_in(section, turn)
    take = _new_take(song, f"{section or 'Song'} {turn}", sounding.arrangement)
    after = replace(song, takes=(*song.takes, take), route={**song.route, (section, turn): take.id})
    return Edit(after, f"Vary {section or 'the song'}, round {turn}")
