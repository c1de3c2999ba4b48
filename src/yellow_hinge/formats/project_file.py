"""The project file: JSON, versioned, described in docs/project-file.md.

The chart text is the truth about the bars; hands and choices stand beside it. Fields that
this version does not know are kept and written back where they stood.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from fractions import Fraction
from typing import Any, Literal

import msgspec

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text
from yellow_hinge.formats.imported import Imported
from yellow_hinge.hands.profile import Hand, HandProfile
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.model import Ask, Bass, Choice, ChordAt, Melody, Settings, Song, Taste
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.pitch import DEGREES, NoteName, read_note_name
from yellow_hinge.voicing.shape import Hands, HandShape, Hold, Voicing

SCHEMA = "yellow-hinge/project/"
VERSION = 1
SUFFIX = ".yhinge"
MAX_BYTES = 20_000_000
MOST_TAKES = 12

#: version -> what turns such a file into the next version's.
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}


class HandIn(msgspec.Struct):
    """One hand on disk; lengths in mm, keys as MIDI numbers."""

    reach_mm: float
    most_notes: int
    lowest_key: int
    highest_key: int
    home_low: int
    home_high: int
    possible_mm: float | None = None

    def __post_init__(self) -> None:
        if not 10 <= self.reach_mm <= 400:
            raise ValueError(f"reach_mm must be 10..400, not {self.reach_mm}")
        if self.possible_mm is not None and not 10 <= self.possible_mm <= 400:
            raise ValueError(f"possible_mm must be 10..400, not {self.possible_mm}")
        if not 1 <= self.most_notes <= 5:
            raise ValueError(f"most_notes must be 1..5, not {self.most_notes}")
        if not 0 <= self.lowest_key < self.highest_key <= 127:
            raise ValueError("lowest_key and highest_key must ascend within 0..127")


class HandsIn(msgspec.Struct):
    left: HandIn
    right: HandIn
    octave_mm: float
    roll: bool = False
    interlock: bool = False

    def __post_init__(self) -> None:
        if not 100 <= self.octave_mm <= 200:
            raise ValueError(f"octave_mm must be 100..200, not {self.octave_mm}")


class SettingsIn(msgspec.Struct):
    school: str
    colour: int | None
    bass: Bass | None
    hands: HandsIn
    loop: bool = False
    take: int = 0
    melody: Melody | None = None
    levels: dict[str, int] = {}
    rules_off: tuple[str, ...] = ()
    playing: Hands = "both"
    inverted: bool = False

    def __post_init__(self) -> None:
        for name, level in self.levels.items():
            if not -2 <= level <= 2:
                raise ValueError(f"level {name!r} must be -2..2, not {level}")
        if not 0 <= self.take <= MOST_TAKES:
            raise ValueError(f"take must be 0..{MOST_TAKES}, not {self.take}")


class ShapeIn(msgspec.Struct):
    keys: tuple[int, ...]
    degrees: tuple[str, ...]
    recipe: str

    def __post_init__(self) -> None:
        ascending = all(a < b for a, b in zip(self.keys, self.keys[1:], strict=False))
        if len(self.keys) > 5 or not ascending or not all(0 <= key <= 127 for key in self.keys):
            raise ValueError("keys must be at most 5 ascending MIDI keys")
        if len(self.degrees) != len(self.keys) or not set(self.degrees) <= set(DEGREES):
            raise ValueError("degrees must name each key's place in the chord")


class ChoiceIn(msgspec.Struct):
    left: ShapeIn
    right: ShapeIn
    locked: bool


class TasteIn(msgspec.Struct, omit_defaults=True):
    school: str | None = None
    colour: int | None = None
    melody: Melody | None = None
    pedal: str | None = None
    held_top: bool | None = None
    hands: Hands | None = None
    inverted: bool | None = None

    def __post_init__(self) -> None:
        if self.colour is not None and not 0 <= self.colour <= 3:
            raise ValueError(f"colour must be 0..3, not {self.colour}")
        if self.pedal is not None and _note(self.pedal) is None:
            raise ValueError(f"pedal must be a note such as A or Bb, not {self.pedal!r}")


class FillIn(msgspec.Struct):
    hand: Literal["left", "right"]
    start_key: int
    end_key: int
    key: int
    offset_beats: str
    beats: str

    def __post_init__(self) -> None:
        if not all(0 <= key <= 127 for key in (self.start_key, self.end_key, self.key)):
            raise ValueError("the keys of a fill must be MIDI keys")
        if not (_beats(self.offset_beats) > 0 and _beats(self.beats) > 0):
            raise ValueError("a fill's beats must be above 0")


class AskIn(msgspec.Struct, omit_defaults=True):
    taste: TasteIn = msgspec.field(default_factory=TasteIn)
    left: ShapeIn | None = None
    right: ShapeIn | None = None
    top: int | None = None
    bass: int | None = None
    left_recipe: str | None = None
    right_recipe: str | None = None
    lowest: int | None = None
    highest: int | None = None
    fills: list[FillIn] = []


class SwapIn(msgspec.Struct):
    """What stands for a written chord: symbols with their beats as fractions ("3/2")."""

    written: int
    chords: list[tuple[str, str]]


class ProjectIn(msgspec.Struct):
    schema: str
    chart: str
    settings: SettingsIn
    choices: list[ChoiceIn | None]
    asks: list[AskIn | None] = []
    tastes: dict[str, TasteIn] = {}
    swaps: list[SwapIn] = []
    keys_set: dict[int, str] = {}
    untouched: list[int] = []


def read(data: bytes, place: str = "project") -> Imported:
    """Read a project. Raises :class:`BadInput` with the place of the first wrong field, or
    every problem of its chart."""
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise BadInput(Problem(place, f"this is not a project file ({error})", "open another file")) from None
    if not isinstance(raw, dict):
        raise BadInput(Problem(place, "this is not a project file", "open another file"))
    raw = _upgraded(raw, place)
    try:
        project = msgspec.convert(raw, ProjectIn, strict=False)
    except (msgspec.ValidationError, RecursionError) as error:
        raise BadInput(
            Problem(place, str(error), "mend this field, or open an older copy of the project")
        ) from None
    song = chart_text.parse_chart(project.chart)
    settings = replace(_settings(project.settings), numbering=song.settings.numbering)
    tastes = {name: _taste(taste) for name, taste in project.tastes.items()}
    swaps, problems = _swaps(project.swaps, song, place)
    song = replace(song, settings=settings, tastes=tastes, swaps=swaps, unknown=_unknown(raw))
    song = replace(
        song,
        keys_set={at: parse_key(key) for at, key in project.keys_set.items() if 0 <= at < len(song.written)},
        untouched=frozenset(at for at in project.untouched if 0 <= at < len(song.written)),
    )
    asks = tuple(None if one is None else _ask(one) for one in project.asks[: len(song.slots)])
    song = replace(song, asks=asks if any(asks) else ())  # pedals among them decide the chords
    choices, more = _choices(project.choices, song, place)
    return Imported(replace(song, choices=choices), problems + more)


def _swaps(
    read_in: list[SwapIn], song: Song, place: str
) -> tuple[dict[int, tuple[ChordAt, ...]], tuple[Problem, ...]]:
    """Swaps that fit the chart's chords; others are left out with a remark."""
    swaps, problems = {}, []
    for swap in read_in:
        try:
            chords = tuple(ChordAt(parse_chord(symbol), Fraction(beats)) for symbol, beats in swap.chords)
            whole = sum(at.beats for at in chords) == song.written[swap.written].beats
            fits = swap.written >= 0 and whole and all(at.beats > 0 for at in chords)
        except (BadInput, ValueError, ZeroDivisionError, IndexError):
            fits = False
        if fits:
            swaps[swap.written] = chords
        else:
            what = f"the swap of chord {swap.written + 1} does not fit the chart"
            problems.append(Problem(place, what, "it was left out"))
    return swaps, tuple(problems)


def _beats(text: str) -> Fraction:
    try:
        return Fraction(text)
    except ZeroDivisionError:
        raise ValueError(f"{text!r} is no length in beats") from None


def _note(text: str) -> NoteName | None:
    found = read_note_name(text)
    return found[0] if found is not None and found[1] == len(text) else None


def _taste(read_in: TasteIn) -> Taste:
    pedal = None if read_in.pedal is None else _note(read_in.pedal)
    return Taste(
        read_in.school, read_in.colour, read_in.melody, pedal, read_in.held_top,
        read_in.hands, read_in.inverted,
    )  # fmt: skip


def _ask(read_in: AskIn) -> Ask:
    plain = ("top", "bass", "left_recipe", "right_recipe", "lowest", "highest")
    left, right = (None if one is None else _shape(one) for one in (read_in.left, read_in.right))
    hold = Hold(left, right, **{name: getattr(read_in, name) for name in plain})
    fills = tuple(
        Fill(f.hand, f.start_key, f.end_key, f.key, _beats(f.offset_beats), _beats(f.beats))
        for f in read_in.fills
    )
    return Ask(_taste(read_in.taste), hold, fills)


def _upgraded(raw: dict[str, Any], place: str) -> dict[str, Any]:
    schema = raw.get("schema")
    number = schema.removeprefix(SCHEMA) if isinstance(schema, str) else ""
    if not number.isdigit() or int(number) < 1:
        raise BadInput(Problem(place, f"schema is {schema!r}", "open a Yellow Hinge project"))
    if int(number) > VERSION:
        raise BadInput(
            Problem(
                place,
                f"the project was saved by a newer version ({schema})",
                "update Yellow Hinge to open it",
            )
        )
    for version in range(int(number), VERSION):
        raw = UPGRADES[version](raw)
    return raw


def _settings(read_in: SettingsIn) -> Settings:
    hands = read_in.hands
    levels = tuple(sorted(read_in.levels.items()))
    return Settings(
        read_in.school, read_in.colour, read_in.bass, profile_from(hands),
        loop=read_in.loop, take=read_in.take, melody=read_in.melody, levels=levels,
        rules_off=read_in.rules_off, hands=read_in.playing, inverted=read_in.inverted,
    )  # fmt: skip


def profile_from(hands: HandsIn) -> HandProfile:
    """A hand profile as it stands on disk."""
    return HandProfile(_hand(hands.left), _hand(hands.right), hands.octave_mm, hands.roll, hands.interlock)


def profile_out(profile: HandProfile) -> dict[str, Any]:
    """A hand profile for the disk."""
    return {
        "octave_mm": profile.octave_mm,
        "roll": profile.roll,
        "interlock": profile.interlock,
        "left": _hand_out(profile.left),
        "right": _hand_out(profile.right),
    }


def _hand(read_in: HandIn) -> Hand:
    return Hand(**{name: getattr(read_in, name) for name in read_in.__struct_fields__})


def _choices(
    read_in: list[ChoiceIn | None], song: Song, place: str
) -> tuple[tuple[Choice | None, ...], tuple[Problem, ...]]:
    """Voicings beyond the chart's chords are dropped with a remark."""
    choices = tuple(
        None if one is None else Choice(Voicing(_shape(one.left), _shape(one.right)), one.locked)
        for one in read_in[: len(song.slots)]
    )
    if len(read_in) <= len(song.slots):
        return choices, ()
    what = f"{len(read_in)} voicings for {len(song.slots)} chords"
    return choices, (Problem(place, what, "the surplus ones were left out"),)


def _shape(read_in: ShapeIn) -> HandShape:
    return HandShape(read_in.keys, read_in.degrees, read_in.recipe)


_KNOWN: dict[str, Any] = {
    "schema": None,
    "chart": None,
    "choices": None,
    "asks": None,
    "tastes": None,
    "swaps": None,
    "keys_set": None,
    "untouched": None,
    "settings": {
        "school": None,
        "colour": None,
        "bass": None,
        "loop": None,
        "take": None,
        "melody": None,
        "levels": None,
        "rules_off": None,
        "playing": None,
        "inverted": None,
        "hands": {"octave_mm": None, "roll": None, "interlock": None, "left": None, "right": None},
    },
}


def _unknown(raw: Mapping[str, Any], known: Mapping[str, Any] = _KNOWN) -> dict[str, Any]:
    """The fields of ``raw`` that this version does not know, in their nesting."""
    found: dict[str, Any] = {}
    for name, value in raw.items():
        if name not in known:
            found[name] = value
        elif isinstance(known[name], dict) and isinstance(value, dict):
            inner = _unknown(value, known[name])
            if inner:
                found[name] = inner
    return found


def write(song: Song) -> bytes:
    """The project as JSON text. The chart is written if the song never had a text."""
    settings = song.settings
    project = {
        "schema": f"{SCHEMA}{VERSION}",
        "chart": song.chart or chart_text.write(song).decode(),
        "settings": {
            "school": settings.school,
            "colour": settings.colour,
            "bass": settings.bass,
            "loop": settings.loop,
            "take": settings.take,
            "melody": settings.melody,
            "levels": dict(settings.levels),
            "rules_off": settings.rules_off,
            "playing": settings.hands,
            "inverted": settings.inverted,
            "hands": profile_out(settings.profile),
        },
        "tastes": {name: _taste_out(taste) for name, taste in song.tastes.items()},
        "asks": [None if ask is None else _ask_out(ask) for ask in song.asks],
        "swaps": [
            {"written": written, "chords": [_chord_out(at) for at in chords]}
            for written, chords in sorted(song.swaps.items())
        ],
        "keys_set": {str(at): str(key) for at, key in sorted(song.keys_set.items())},
        "untouched": sorted(song.untouched),
        "choices": [
            None if choice is None else {
                "left": _shape_out(choice.voicing.left),
                "right": _shape_out(choice.voicing.right),
                "locked": choice.locked,
            }
            for choice in song.choices
        ],
    }  # fmt: skip
    merged = _merged(project, song.unknown)
    return (json.dumps(merged, ensure_ascii=False, indent=1) + "\n").encode()


def _hand_out(hand: Hand) -> dict[str, Any]:
    return {name: getattr(hand, name) for name in HandIn.__struct_fields__}


def _shape_out(shape: HandShape) -> dict[str, Any]:
    return {"keys": shape.keys, "degrees": shape.degrees, "recipe": shape.recipe}


def _taste_out(taste: Taste) -> dict[str, Any]:
    pairs = ((one.name, getattr(taste, one.name)) for one in fields(taste))
    return {name: str(v) if name == "pedal" else v for name, v in pairs if v is not None}


def _ask_out(ask: Ask) -> dict[str, Any]:
    holds = ((name, getattr(ask.hold, name)) for name in ask.hold.names)
    out = {name: _shape_out(v) if isinstance(v, HandShape) else v for name, v in holds}
    fills = [{one.name: _plain(getattr(fill, one.name)) for one in fields(fill)} for fill in ask.fills]
    return {"taste": _taste_out(ask.taste), **out, **({"fills": fills} if fills else {})}


def _plain(value: Any) -> Any:
    return str(value) if isinstance(value, Fraction) else value


def _chord_out(at: ChordAt) -> tuple[str, str]:
    return "N.C." if at.chord is None else str(at.chord), str(at.beats)


def _merged(own: dict[str, Any], unknown: Mapping[str, Any]) -> dict[str, Any]:
    merged = dict(own)
    for name, value in unknown.items():
        if name not in merged:
            merged[name] = value
        elif isinstance(merged[name], dict) and isinstance(value, Mapping):
            merged[name] = _merged(merged[name], value)
    return merged
