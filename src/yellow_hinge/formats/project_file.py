"""The project file: JSON, versioned, described in docs/project-file.md.

The chart text is the truth about the bars; the ids of its chords, hands and takes stand beside it.
Fields that this version does not know are kept and written back where they stood.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence, Set
from typing import Any

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import chart_text, json_in
from yellow_hinge.formats.project_fields import AskIn, ChoiceIn, ProjectIn, TakeIn, TasteIn, read_note
from yellow_hinge.formats.project_groove import groove_in, groove_out
from yellow_hinge.formats.project_v1 import from_version_1
from yellow_hinge.formats.unknown_fields import beyond, merged_in
from yellow_hinge.formats.values import made, plain, read_beats
from yellow_hinge.song.arrangement import Arrangement, Ask, Choice, Taste
from yellow_hinge.song.at import At
from yellow_hinge.song.chart import Chart, ChordAt
from yellow_hinge.song.model import Song, Take
from yellow_hinge.stopping import unbroken
from yellow_hinge.theory.chord_symbol import parse_chord, symbol_text
from yellow_hinge.theory.keys import Key, parse_key
from yellow_hinge.voicing.hand_rules import HandRule
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.shape import Hold, Voicing

SCHEMA = "yellow-hinge/project/"
VERSION = 2
SUFFIX = ".yhinge"
MAX_BYTES = 20_000_000

Raw = dict[str, Any]
#: version -> what turns such a file into the next version's, and what it could not take along.
UPGRADES: dict[int, Callable[[Raw], tuple[Raw, list[Problem]]]] = {1: from_version_1}


class Opened(Struct, frozen=True):
    """A project as it was read; ``problems`` are remarks about what was left out, ``draft`` is chart
    text that could not be read when it was saved, ``digest`` the fingerprint of its file. ``names_b_flat``:
    a B was taken for B flat, since other chords have German names."""

    song: Song
    problems: tuple[Problem, ...] = ()
    draft: str | None = None
    digest: str | None = None
    names_b_flat: bool = False


# --- reading -----------------------------------------------------------------------------


def read(data: bytes, place: str = "project") -> Opened:
    """Read a project. Raises :class:`BadInput` with the place of the first wrong field, or
    every problem of its chart."""
    decoded, remarks = json_in.load(data, place, "open another file, or an older copy of the project")
    if not isinstance(decoded, dict):
        raise BadInput(Problem(place, "this is not a project file", "open another file"))
    raw, problems = _upgraded(decoded, place)
    problems += remarks
    try:
        with unbroken():
            project = made(raw, ProjectIn)
    except msgspec.ValidationError as error:
        raise BadInput(
            Problem(place, str(error), "mend this field, or open an older copy of the project")
        ) from None
    chart = chart_text.parse_chart(project.chart)
    if len(project.ids) == len(chart.written):
        chart = replace(chart, ids=tuple(project.ids))
    reader = _Reader(chart, place, problems)
    known = {take.id for take in project.takes}
    song = Song(
        chart,
        tuple(reader.take(take, known) for take in project.takes),
        project.current if project.current in known else project.takes[0].id,
        {(leg.section, leg.round): leg.take for leg in project.route if leg.take in known},
        project.hands,
        lift_st=project.lift_st,
        keys_chosen=reader.keys_chosen(project.keys_chosen),
        id=project.id,
    )
    return Opened(_with_unknown(song, raw), tuple(reader.problems), project.draft)


def _upgraded(raw: Raw, place: str) -> tuple[Raw, list[Problem]]:
    schema = raw.get("schema")
    number = schema.removeprefix(SCHEMA) if isinstance(schema, str) else ""
    whole = strict.whole(number)
    if whole is None or whole < 1:
        raise BadInput(Problem(place, f"schema is {schema!r}", "open a Yellow Hinge project"))
    if whole > VERSION:
        raise BadInput(
            Problem(
                place,
                f"the project was saved by a newer version ({schema})",
                "update Yellow Hinge to open it",
            )
        )
    problems: list[Problem] = []
    for version in range(whole, VERSION):
        try:
            raw, more = UPGRADES[version](raw)
        except (KeyError, TypeError, AttributeError, ValueError, IndexError) as error:
            what = f"a field of a version {version} project is wrong ({error})"
            raise BadInput(Problem(place, what, "mend it, or open an older copy of the project")) from None
        problems += [replace(problem, place=place) for problem in more]
    return raw, problems


class _Reader:
    """Turns what was read into values; what does not fit the chart is left out with a remark."""

    def __init__(self, chart: Chart, place: str, problems: Sequence[Problem]) -> None:
        self._chart, self._place = chart, place
        self.problems = list(problems)

    def _leave_out(self, what: str) -> None:
        self.problems.append(Problem(self._place, what, "it was left out"))

    def keys_chosen(self, read_in: Sequence[str]) -> frozenset[Key]:
        """The keys to practise; one that is none is left out."""
        keys = set()
        for text in read_in:
            try:
                keys.add(parse_key(text))
            except BadInput:
                self._leave_out(f"{text!r} among the keys to practise is no key")
        return frozenset(keys)

    def take(self, read_in: TakeIn, known: Set[int]) -> Take:
        arrangement = Arrangement(
            **_same(read_in, Arrangement),
            hands=read_in.playing,
            levels=tuple(sorted(read_in.levels.items())),
            tastes={name: _taste(taste) for name, taste in read_in.tastes.items()},
            choices=self._by_chord(read_in.choices, _choice, "the voicing"),
            asks=self._by_chord(read_in.asks, _ask, "the wishes"),
            swaps=self._swaps(read_in),
            keys_set={at: parse_key(key) for at, key in self._ids(read_in.keys_set, "the local key").items()},
            untouched=frozenset(self._chart.by_id) & read_in.untouched,
            groove=groove_in(read_in.groove, self._by_chord),
            prices=None if read_in.prices is None else OwnPrices(**_same(read_in.prices, OwnPrices)),
        )
        return Take(
            read_in.id, read_in.name, arrangement, twin=read_in.twin if read_in.twin in known else None
        )

    def _by_chord(self, read_in: Mapping[str, Any], make: Callable[[Any], Any], what: str) -> dict[At, Any]:
        found: dict[At, Any] = {}
        for name, value in read_in.items():
            at = read_at(name)
            if at is not None and at.written in self._chart.by_id:
                found[at] = make(value)
            else:
                self._leave_out(f"{what} of chord {name} has no chord in the chart")
        return found

    def _ids(self, read_in: Mapping[str, Any], what: str) -> dict[int, Any]:
        return {at.written: value for at, value in self._by_chord(read_in, lambda one: one, what).items()}

    def _swaps(self, read_in: TakeIn) -> dict[int, tuple[ChordAt, ...]]:
        swaps: dict[int, tuple[ChordAt, ...]] = {}
        for written, row in self._ids(read_in.swaps, "the swap").items():
            try:
                chords = tuple(ChordAt(parse_chord(symbol), read_beats(beats)) for symbol, beats in row)
                whole = sum(at.beats for at in chords) == self._chart.by_id[written].beats
                fits = whole and all(at.beats > 0 for at in chords)
            except (BadInput, ValueError):
                fits = False
            if fits:
                swaps[written] = chords
            else:
                self._leave_out(f"the swap of chord {written} does not fit the chart")
        return swaps


def read_at(name: str) -> At | None:
    """ "12" or "12.1"."""
    written, _, part = name.partition(".")
    if not all(word.isascii() and word.isdigit() and len(word) < 10 for word in (written, part or "0")):
        return None
    return At(int(written), int(part or "0"))


#: Fields of a file that are not what they are called in the program, or have to be looked at.
_OTHERWISE = frozenset(
    (
        "hands",
        "levels",
        "tastes",
        "choices",
        "asks",
        "swaps",
        "keys_set",
        "untouched",
        "groove",
        "pedal",
        "fills",
        "prices",
    )
)


def _same(read_in: msgspec.Struct, kind: type[Struct]) -> dict[str, Any]:
    """The values of what was read that the kind has under the same name, as they are."""
    names = set(read_in.__struct_fields__) & set(kind.__struct_fields__) - _OTHERWISE
    return {name: getattr(read_in, name) for name in names}


def _taste(read_in: TasteIn) -> Taste:
    pedal = None if read_in.pedal is None else read_note(read_in.pedal)
    return Taste(**_same(read_in, Taste), hands=read_in.hands, pedal=pedal)


def _choice(read_in: ChoiceIn) -> Choice:
    return Choice(Voicing(read_in.left.shape, read_in.right.shape), read_in.locked, read_in.own)


def _ask(read_in: AskIn) -> Ask:
    shapes = {side: None if shape is None else shape.shape
              for side, shape in (("left", read_in.left), ("right", read_in.right))}  # fmt: skip
    return Ask(_taste(read_in.taste), Hold(**{**_same(read_in, Hold), **shapes}), read_in.fills)


# --- writing -----------------------------------------------------------------------------


def write(song: Song, draft: str | None = None) -> bytes:
    """The project as JSON text. The chart is written if the song never had a text."""
    project = merged_in(_project_out(song), song.unknown)
    if draft is not None:
        project["draft"] = draft
    project["takes"] = [merged_in(_take_out(take), take.unknown) for take in song.takes]
    return (json.dumps(project, ensure_ascii=False, indent=1) + "\n").encode()


def _project_out(song: Song) -> Raw:
    return {
        "schema": f"{SCHEMA}{VERSION}",
        "id": song.own_id,
        "chart": song.chart.text or chart_text.write(song.chart).decode(),
        "ids": [written.id for written in song.chart.written],
        "hands": plain(song.hands),
        "lift_st": song.lift_st,
        "keys_chosen": sorted(str(key) for key in song.keys_chosen),
        "current": song.current,
        "route": [
            {"section": section, "round": turn, "take": take}
            for (section, turn), take in sorted(song.route.items())
        ],
        "takes": [],
    }


#: Fields of a take that stand in the file as they are.
_AS_THEY_ARE = ("school", "colour", "bass", "melody", "inverted", "loop", "rules_off", "rules", "shift_st",
                "top_line", "plan", "style")  # fmt: skip


def _take_out(take: Take) -> Raw:
    arrangement = take.arrangement
    out = {
        "id": take.id,
        "name": take.name,
        **{name: plain(getattr(arrangement, name)) for name in _AS_THEY_ARE},
        "playing": arrangement.hands,
        "levels": dict(arrangement.levels),
        "tastes": {name: _taste_out(taste) for name, taste in arrangement.tastes.items()},
        "choices": {_at_out(at): _choice_out(choice) for at, choice in sorted(arrangement.choices.items())},
        "asks": {_at_out(at): _ask_out(ask) for at, ask in sorted(arrangement.asks.items())},
        "swaps": {
            str(at): [_chord_out(chord) for chord in row] for at, row in sorted(arrangement.swaps.items())
        },
        "keys_set": {str(at): str(key) for at, key in sorted(arrangement.keys_set.items())},
        "untouched": sorted(arrangement.untouched),
        "groove": groove_out(arrangement.groove, _at_out),
        "prices": None if arrangement.prices is None else plain(arrangement.prices),
        "twin": take.twin,
    }
    return {name: out[name] for name in TakeIn.__struct_fields__}


def _at_out(at: At) -> str:
    return f"{at.written}.{at.part}" if at.part else str(at.written)


def _choice_out(choice: Choice) -> Raw:
    return {**plain(choice.voicing), "locked": choice.locked, **({"own": True} if choice.own else {})}


def _taste_out(taste: Taste) -> Raw:
    out = {name: getattr(taste, name) for name in taste.said}
    if taste.pedal is not None:
        out["pedal"] = str(taste.pedal)
    more = {"rules": plain(taste.rules), "off": sorted(taste.off)}
    return out | {name: value for name, value in more.items() if value}


def _ask_out(ask: Ask) -> Raw:
    out = {name: plain(getattr(ask.hold, name)) for name in ask.hold.said}
    more = {"fills": plain(ask.fills), "off": sorted(ask.hold.off)}
    return {"taste": _taste_out(ask.taste), **out, **{name: value for name, value in more.items() if value}}


def _chord_out(at: ChordAt) -> tuple[str, str]:
    return symbol_text(at.chord), str(at.beats)


# --- fields of newer versions ------------------------------------------------------------

#: Fields that are written only when they say something, by where they stand.
_OPTIONAL = {
    "asks": set(AskIn.__struct_fields__),
    "tastes": set(TasteIn.__struct_fields__),
    "taste": set(TasteIn.__struct_fields__),
    "rules": set(HandRule.__struct_fields__),
    "choices": {"own"},
}


def _with_unknown(song: Song, raw: Raw) -> Song:
    """The song with everything of the file that this version does not write itself."""
    takes = tuple(
        replace(take, unknown=beyond(one, _take_out(take), _OPTIONAL))
        for take, one in zip(song.takes, raw["takes"], strict=True)
    )
    return replace(
        song,
        takes=takes,
        unknown=beyond({**raw, "takes": []}, {**_project_out(song), "draft": None}, _OPTIONAL),
    )
