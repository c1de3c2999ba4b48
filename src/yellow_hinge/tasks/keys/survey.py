"""The same song in twelve keys: figures of each, where it begins best and why, and what becomes of grips that
are carried over as they are."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import Cancelled, NoSolution
from yellow_hinge.hands.geometry import is_black, span_mm
from yellow_hinge.motion.describe import held_row, hinges
from yellow_hinge.motion.figures import amount_words
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import store_of
from yellow_hinge.song.edits import with_arrangement
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.keys.moved import shown_in, twelve_keys
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.pitch import as_named, pitch_for_key
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.register import mud
from yellow_hinge.voicing.rules import broken
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish

_SIDES = ("left", "right")
#: Twelve searches share the time of three where they cannot be finished.
_PATIENCE = 0.25
#: Below this key (C3) a song is said to go down: a third still stands clearly there.
_LOW_FROM = 48
_DEGREES = {
    "R": "root", "b9": "flat ninth", "9": "ninth", "#9": "sharp ninth", "b3": "third", "3": "third",
    "11": "fourth", "#11": "sharp eleventh", "b5": "flat fifth", "5": "fifth", "#5": "sharp fifth",
    "b13": "flat thirteenth", "6": "sixth", "13": "thirteenth", "bb7": "sixth", "b7": "seventh",
    "7": "seventh", "B": "bass",
}  # fmt: skip


class Carried(Struct, frozen=True):
    """The grips of the song's own key, moved as they are: what they cost there in all (hundredths of a half
    step; None where that cannot be said), and what fails, in words."""

    effort: int | None
    fails: tuple[str, ...]
    voicings: tuple[Voicing, ...]


class KeyFigures(Struct, frozen=True):
    """A key of the survey. ``profile`` has the half steps of each change; ``stretch_share`` is the widest
    stretch against that hand's reach; ``black`` the share of black keys; ``mud`` in hundredths, over all
    chords."""

    key: Key
    voiced: Voiced
    motion: int
    largest: int
    lowest: int
    highest: int
    stretch_mm: float
    stretch_share: float
    black: float
    mud: int
    profile: tuple[int, ...]
    start: str
    why: str = ""
    carried: Carried | None = None

    @property
    def effort(self) -> int:
        """In hundredths of a half step."""
        return self.voiced.answer.cost


def survey(
    song: Song, library: Library, progress: Progress = always, carry: bool = True,
    deliver: Callable[[list[KeyFigures]], object] = lambda _: None,
) -> list[KeyFigures]:  # fmt: skip
    """The song in all twelve keys, from its own upwards by half steps, each solved; with ``carry`` also with
    the grips of its own key. ``deliver`` gets the keys that there are so far, as they come; only all of them
    say why. Raises as :func:`tasks.voice_song.voice_song`."""
    store = store_of(library)
    planner = Planner(library, patience=_PATIENCE)
    songs = [shown_in(song, key) for key in twelve_keys(song.key)]
    found: list[KeyFigures] = []
    for count, moved in enumerate(songs):
        figures = figures_of(voice_song(moved, library, planner))
        if carry:
            home = found[0].voiced.song if found else figures.voiced.song
            figures = replace(figures, carried=_carried(home, figures, library, planner))
        found.append(figures)
        store.forget_steps()  # no other key has them
        deliver([*found])
        if not progress((count + 1) / len(songs)):
            raise Cancelled
    return [replace(figures, why=why_of(figures, found)) for figures in found]


def figures_of(voiced: Voiced) -> KeyFigures:
    """The figures of a solved song in its key."""
    song, hands = voiced.song, voiced.song.hands
    voicings = [song.voicing(slot.index) or Voicing() for slot in song.slots]
    keys = [key for voicing in voicings for key in voicing.keys]
    chords = [slot.chord for slot in song.slots]
    changes = hinges(held_row(chords, voicings))
    spans = [(span_mm(shape.keys[0], shape.keys[-1], hands.octave_mm), getattr(hands, side).reach_mm)
             for voicing in voicings for side in _SIDES if (shape := voicing.hand(side)).keys]  # fmt: skip
    return KeyFigures(
        song.key, voiced, sum(report.motion_st for report in changes),
        largest=max((report.largest_st for report in changes), default=0), lowest=min(keys, default=0),
        highest=max(keys, default=0),
        stretch_mm=max((wide for wide, _ in spans), default=0.0),
        stretch_share=max((wide / reach for wide, reach in spans), default=0.0),
        black=sum(map(is_black, keys)) / max(1, len(keys)),
        mud=sum(mud(tuple(sorted(v.keys))) for v in voicings),
        profile=tuple(report.motion_st for report in changes), start=_start(song),
    )  # fmt: skip


def _start(song: Song) -> str:
    """How the first chord lies: "root below, A2; third on top, C#5"."""
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if slot.chord is None or voicing is None or not voicing.keys:
            continue
        shapes = [voicing.hand(side) for side in _SIDES]
        pitches = [pair for shape in shapes for pair in zip(shape.keys, shape.degrees, strict=True)]
        (low, below), (high, above) = min(pitches), max(pitches)
        return (f"{_DEGREES.get(below, below)} below, {note_name(low, song.key)}; "
                f"{_DEGREES.get(above, above)} on top, {note_name(high, song.key)}")  # fmt: skip
    return ""


def note_name(midi_key: int, key: Key) -> str:
    """A key with its octave, as the song's key spells it."""
    return as_named(str(pitch_for_key(midi_key, key.prefers_flats)))


def why_of(figures: KeyFigures, every: Sequence[KeyFigures]) -> str:
    """What speaks for a key and against it, in words."""
    order = sorted(every, key=lambda key_figures: key_figures.effort)
    more = figures.effort - order[0].effort
    parts = ["the least effort of all keys" if more == 0 else
             f"{amount_words(more)} of effort more than in {order[0].key.pretty}"]  # fmt: skip
    low = note_name(figures.lowest, figures.key)
    stays = "stays above C3" if figures.lowest >= _LOW_FROM else f"goes down to {low}"
    parts.append(f"{figures.start.partition(' below')[0]} below at the beginning; it {stays}")
    if figures.mud > 2 * min(key_figures.mud for key_figures in every) + 50:
        parts.append("it lies low: the muddiest chords weigh")
    parts.append(f"the widest stretch takes {figures.stretch_share:.0%} of the reach")
    parts.append(f"{figures.black:.0%} black keys")
    return "; ".join(parts)


# --- grips carried over ---


def _carried(home: Song, there: KeyFigures, library: Library, planner: Planner) -> Carried:
    moved = _all_locked(shown_in(home, there.key))
    voicings = tuple(moved.voicing(slot.index) or Voicing() for slot in moved.slots)
    try:
        effort: int | None = planner.price(progression(moved, library))
    except NoSolution:
        effort = None
    return Carried(effort, tuple(dict.fromkeys(_fails(moved, there.voiced.answer.row_wishes))), voicings)


def _all_locked(song: Song) -> Song:
    """Every chord keeps the grip it has."""
    for take in song.takes:
        choices = {at: replace(choice, locked=True) for at, choice in take.arrangement.choices.items()}
        song = with_arrangement(song, take.id, replace(take.arrangement, choices=choices))
    return song


def _fails(moved: Song, wishes: Sequence[Wish | None]) -> Iterator[str]:
    """What rules the carried grips break, in words: reach, register, mud, doubled tones."""
    for slot, wish in zip(moved.slots, wishes, strict=True):
        voicing = moved.voicing(slot.index)
        if voicing is None or wish is None or slot.chord is None:
            continue
        for one in broken(wish, voicing):
            yield f"{slot.chord.pretty}: {one.words}"
