"""Drives every reader with hostile input: grammar and structure bent, bytes flipped, pieces of other
files let in. A reader may give a value or say what is wrong, with place and remedy; anything else is a
fault, as is more than 2 s of one processor, or 300 MB.

Each input is read in a child process that can be killed. The same seed gives the same inputs.
Run: python tools/fuzz.py [--count 100000] [--seed 1] [--readers chart,project] [--coverage]
"""

from __future__ import annotations

import argparse
import io
import json
import multiprocessing
import random
import resource
import sys
import tempfile
import time
import tomllib
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import lru_cache
from importlib.resources import files
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any
from xml.etree import ElementTree as ET

from bending import (
    CHART_WORDS,
    CHORDS,
    NUMBERS,
    bend_json,
    bend_text,
    bend_toml,
    bend_xml,
    bend_zip,
    flip_bytes,
    random_chart,
)
from msgspec.structs import replace

from yellow_hinge.errors import MOST_PROBLEMS, Problem, YellowHingeError
from yellow_hinge.formats import (
    abc_in,
    abc_out,
    chart_text,
    chordpro,
    midi,
    midi_in,
    musicxml,
    over_words,
    project_file,
)
from yellow_hinge.formats.values import plain
from yellow_hinge.hands.profile import parse_reach
from yellow_hinge.practice.log import Done, Log, Try
from yellow_hinge.practice.piece import ChangeId
from yellow_hinge.reharm.formulas import formula_text
from yellow_hinge.reharm.styles import Style, read_styles, style_text
from yellow_hinge.rhythm.band import DRUMS
from yellow_hinge.rhythm.patterns import builtin_patterns, pattern_out
from yellow_hinge.song.at import At
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import encode
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.files.pasted import recognise
from yellow_hinge.tasks.files.played_midi import read_midi
from yellow_hinge.tasks.grips.names import names_report
from yellow_hinge.tasks.grips.page import read_grips
from yellow_hinge.tasks.rhythm.riff_text import read_riff_text
from yellow_hinge.tasks.settings.library import read_own_recipes
from yellow_hinge.tasks.settings.profiles import read_profiles
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.swaps.own_formulas import formula_of, own_formulas_in
from yellow_hinge.tasks.taste.kept import read_taste, taste_text
from yellow_hinge.tasks.taste.prices import Pair
from yellow_hinge.tasks.taste.taste import Chosen, Sure, Taken, Taste
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.numbers import parse_number
from yellow_hinge.theory.roman import parse_roman
from yellow_hinge.voicing.recipes import builtin_library

#: Limits for one input.
MOST_S, MOST_BYTES = 2.0, 300_000_000
MOST_SIGNS = 500
_KEY = parse_key("C")
_ABC_WORDS = (
    "|:", ":|", "::", "[1", "|2", "|]", '"Am7"', "(3", "^g", "__a", "z4", "[M:3/4]", "K:D", "L:1/8",
    "w: a-b _ *", ">", "<", "-", "{ab}", "!segno!", "!D.S.!", "Z4", "X:2", "V:2", "P:B", "/", "12", "\\\n",
)  # fmt: skip
_PRO_WORDS = ("{soc}", "{eoc}", "{chorus}", "{sog}", "| . . |", "%", "{key: D}", "{time: 3/4}", "[C]", "[|]",
              "{t: x}")  # fmt: skip
_NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)
_TRY = Try(_NOON, ChangeId("s", 0, At(3), At(4, 1), "F"), "both", "change", 96.5, 0.75, True, "no")
_OVER = b"Quay\nKey: G\n\n[Verse 1]\n  G    D7\nthe lamp is lit\nChorus:\nC  G\nrow\n"


# --- what is read ------------------------------------------------------------------------


@dataclass(frozen=True)
class Reader:
    """``read`` takes bytes; ``parsed`` says whether they pass the first stage of reading; ``seeds`` are
    good inputs and ``words`` pieces of the grammar; ``bend`` changes the structure of a good input."""

    name: str
    read: Callable[[bytes], object]
    parsed: Callable[[bytes], bool]
    seeds: tuple[bytes, ...]
    words: tuple[str, ...]
    bend: Callable[[random.Random, bytes], bytes]
    share: int = 10


def _text(data: bytes) -> str:
    """As arguments of a command arrive."""
    return data.decode("utf-8", "surrogateescape")


def _is_text(data: bytes) -> bool:
    try:
        return "\0" not in data.decode()
    except UnicodeDecodeError:
        return False


def _no_stage(_: bytes) -> bool:
    return True


def _read_chart(data: bytes) -> None:
    chart = chart_text.read(data).chart
    again = chart_text.parse_chart(chart_text.write(chart).decode())
    if (again.sections, again.form, again.pickup_melody) != (chart.sections, chart.form, chart.pickup_melody):
        raise AssertionError("what was written reads otherwise")
    _ = Song(chart).slots


def _read_project(data: bytes) -> None:
    opened = project_file.read(data)
    again = project_file.read(project_file.write(opened.song, opened.draft))
    if again.song != opened.song:
        raise AssertionError("what was saved reads otherwise")
    _said(opened.problems)
    if len(opened.song.slots) < 60:
        progression(opened.song, builtin_library())


def _read_score(data: bytes) -> None:
    found = musicxml.read(data)
    _said(found.problems)
    encode(Song(found.chart), ".txt", builtin_library())


def _well_formed(parse: Callable[[bytes], object]) -> Callable[[bytes], bool]:
    def parsed(data: bytes) -> bool:
        try:
            parse(data)
        except Exception:
            return False
        return True

    return parsed


_is_toml = _well_formed(lambda data: tomllib.loads(data.decode()))


def _read_log(data: bytes) -> None:
    """What is read of a log, and that one may go on with it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "log.sqlite"
        path.write_bytes(data)
        log = Log(path)
        try:
            log.tries(), log.titles(), log.sessions(), log.unfinished(_NOON)
            log.add([_TRY], [("s", "S")])
            log.finish(log.begin(_NOON, 5, ["s"], []), Done(0, _NOON, 1, 60))
            log.forget("s")
        finally:
            log.close()


def _log() -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        log = Log(Path(folder) / "log.sqlite")
        log.add([_TRY] * 60, [("s", "S")])
        log.finish(log.begin(_NOON, 5, ["s"], [{"what": "x"}]), Done(0, _NOON, 1, 60))
        log.close()
        return log.path.read_bytes()


def _taste() -> bytes:
    pair = Pair(
        {"enter": 1.5, "gap": -2.0}, {"left root-fifth": -1}, "S", "bar 1, C", "C3 G3 ; E4", "C3 ; E4"
    )
    taste = Taste(
        {"enter": 0.5, "right_4": 2.0}, {"left root-fifth": 4}, "solo", choices={"enter": 3},
        sure=Sure(4, 1, 3),
        chosen=(Chosen("s/0/1.0", "solo", pair), Chosen("s/0/row", "solo", pair, struck=True)),
        songs=(Taken("s", "S", "4/4 swing", ("other bass",), ("passing",), ("left waltz",)),),
    )  # fmt: skip
    return taste_text(taste, builtin_library().school("solo")).encode()


def _styles() -> bytes:
    return style_text(Style("mine", "mine", "mine", {"passing": -40}, {"tritone": 30})).encode()


def _unzipped(data: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        if not archive.namelist():
            raise ValueError


# --- the readers -------------------------------------------------------------------------


@lru_cache(maxsize=1)
def readers() -> dict[str, Reader]:
    """Everything that reads what somebody else wrote."""
    library = builtin_library()
    demos = [demo_song(name) for name in DEMO_SONGS]
    charts = tuple(song.chart.text.encode() for song in demos)
    scores = tuple(musicxml.write(song) for song in demos)
    small = Song(chart_text.parse_chart("title: S\n[A] x2\n| C | F:2 G7:2 |\nmelody: E5:4 | F5:2 D5:2\n"))
    projects = (*(project_file.write(song) for song in demos[:2]), project_file.write(small, "| C | Qx |"))
    projects += (_decided(projects[-1]),)
    kept = Path(__file__).parent.parent / "tests" / "data" / "project_1"
    projects += tuple(file.read_bytes() for file in sorted(kept.glob("*.yhinge"))[:2])
    hands = plain(small.hands)
    profiles = json.dumps(
        {"schema": "yellow-hinge/hands/1", "profiles": {"me": hands, "small": hands}}
    ).encode()
    shipped = (files("yellow_hinge.voicing") / "data" / "recipes.toml").read_text("utf-8")
    own = (shipped[: shipped.index("[[")] + _OWN_RECIPE).encode()
    symbols, notes = tuple(word.encode() for word in CHORDS), (b"C3,E3,G3,B3", b"48,55,64", b"G2,C4,E4")
    grips = (b"Dm7: D3 C4 ; F4 A4\nG7: 43 53 ; 59 64\n# x\nC: C3 G3 ; E4 G4 C5",)
    tunes, songs = (tuple(write(song.chart) for song in demos) for write in (abc_out.write, chordpro.write))
    played = tuple(midi.write(song) for song in demos)
    own_formula = formula_text(formula_of(demos[0], 0, 3, "x", {}))
    formulas = (f'schema = "yellow-hinge/formulas/1"\n\n{own_formula}'.encode(),)
    text = lambda words, read, name, seeds, share: Reader(  # noqa: E731
        name, read, _is_text, seeds, words, bend_text(words), share
    )
    pieces = (*CHORDS, *NUMBERS, "/", "//", "V/", "maj", "b9", "(", ")", "add", "sus", "alt", "no3")
    rows = (
        text(CHART_WORDS, _read_chart, "chart", charts, 30),
        text(pieces, lambda data: parse_chord(_text(data)), "symbol", symbols, 6),
        text(pieces, lambda data: parse_number(_text(data), _KEY), "number", symbols, 4),
        text(pieces, lambda data: parse_roman(_text(data), _KEY), "roman", symbols, 4),
        text(pieces, lambda data: parse_key(_text(data)), "key", (b"A", b"F#m", b"Bb minor"), 2),
        text((*NUMBERS, "10th", "ninth", ","), lambda data: parse_reach(_text(data)), "reach",
             (b"10th,9th", b"tenth,octave", b"9"), 2),
        text((*pieces, "C3", "49", ","),
             lambda data: names_report(_text(data).split(" ")), "names", notes, 4),
        text(("C3:1", "r", "+", ":1/3", "E4+G4:1.5", "9"), lambda data: read_riff_text(_text(data)), "riff",
             (b"C3:1 E3:1/2 r G3+C4:3/2",), 2),
        text((*pieces, "C3", "49", ";", ":"), lambda data: read_grips(chart_text.decode(data), _KEY), "grips",
             grips, 5),
        Reader("project", _read_project, _well_formed(json.loads), projects, (), bend_json, 18),
        Reader("profiles", lambda data: read_profiles(data, "hands.json"), _well_formed(json.loads),
               (profiles,), (), bend_json, 5),
        Reader("recipes", lambda data: read_own_recipes(data, "own.toml", library),
               _well_formed(lambda data: tomllib.loads(data.decode())), (own,), (), bend_toml, 6),
        Reader("formulas", lambda data: own_formulas_in(_text(data), "formulas.toml"),
               _well_formed(lambda data: tomllib.loads(data.decode())), formulas, (), bend_toml, 4),
        Reader("taste", lambda data: read_taste(_text(data), "taste.toml"), _is_toml, (_taste(),), (),
               bend_toml, 5),
        Reader("styles", lambda data: read_styles(_text(data), "styles.toml"), _is_toml, (_styles(),), (),
               bend_toml, 3),
        Reader("log", _read_log, lambda data: data.startswith(b"SQLite format 3"), (_log(),), (),
               flip_bytes, 4),
        text((*pieces, *_PRO_WORDS, *_ABC_WORDS, "\n", "[Verse]"),
             lambda data: recognise(data.decode("utf-8", "replace")), "pasted", (*charts, *tunes, _OVER), 6),
        text(_ABC_WORDS, lambda data: abc_in.read(data, "tune.abc"), "abc", tunes, 8),
        text((*pieces, *_PRO_WORDS), lambda data: chordpro.read(data, "song.cho"), "chordpro", songs, 6),
        text((*pieces, "|", "\n", "Verse:", "[Bridge]", "key: D", "1", "5-7"),
             lambda data: over_words.read(data, "song.txt"), "words", (_OVER,), 6),
        Reader("midi", lambda data: read_midi(data, "a.mid"), _well_formed(midi_in.read), played, (),
               flip_bytes, 8),
        Reader("score", _read_score, _well_formed(ET.fromstring), scores, (), bend_xml, 10),
        Reader("packed", _read_score, _well_formed(_unzipped), tuple(map(_packed, scores)), (), bend_zip, 4),
    )  # fmt: skip
    return {row.name: row for row in rows}


def _packed(score: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        container = '<container><rootfiles><rootfile full-path="score.musicxml"/></rootfiles></container>'
        archive.writestr("META-INF/container.xml", container)
        archive.writestr("score.musicxml", score)
    return out.getvalue()


_OWN_RECIPE = """
[[recipe]]
id = "own-shape"
name = "own shape"
hands = ["right"]
slots = ["R", "3|5", "7"]
spacing = "close"
inversions = "all"
kinds = ["seventh"]
schools = ["solo"]
source = "own"
"""


def _groove() -> dict[str, Any]:
    pattern = next(iter(builtin_patterns().values()))
    texture = {"left": "mine", "pedal": "auto", "touch": 1, "tune": True, "fill": True, "tune_octave": 1,
               "level": 3}  # fmt: skip
    return {
        "whole": texture, "sections": [{"section": "A", "round": 1, "touch": -1}], "chords": {"0": texture},
        "patterns": [pattern_out(replace(pattern, id="mine"))], "pedal_marks": {"0": ["0", "3/2"]},
        "riffs": {"0": [{"at": "0", "beats": "1/2", "key": 72, "hand": "right"}]}, "swing": 60,
        "swing_by_tempo": False, "roll_ms": 50, "build": True, "slowing": 3, "ending": "held",
        "count_in": True, "drums": next(name for name in DRUMS if name), "bass_line": "mine", "person": 3,
        "arc_of": 0,
    }  # fmt: skip


def _decided(data: bytes) -> bytes:
    """A project with something in every field."""
    project = json.loads(data)
    shape = {"keys": [48, 55], "degrees": ["R", "5"], "recipe": "root-fifth"}
    right = {"keys": [64, 67, 72], "degrees": ["3", "5", "R"], "recipe": "close-triad"}
    fill = {"hand": "right", "start_key": 64, "end_key": 65, "key": 66, "offset_beats": "3", "beats": "1/2"}
    rules = [{"side": "left", "kind": "notes", "value": 3}, {"side": "right", "kind": "octave", "on": False}]
    line = {"rules": rules, "top_line": "sings", "plan": "arc", "style": "mine"}
    taste = {"school": "band", "colour": 2, "melody": "top", "pedal": "G", "held_top": True, "hands": "both",
             "inverted": True, "off": ["colour"], **line}  # fmt: skip
    prices = {"shares": {"enter": 0.5}, "shapes": {"left root-fifth": 3}, "school": "solo", "whose": "me"}
    project["takes"][0].update(
        **line, prices=prices, groove=_groove(), shift_st=2, school="band",
        colour=1, bass="self", melody="clear", playing="both", inverted=True, loop=True, levels={"mud": 1},
        rules_off=["tritone"], tastes={"A": taste},
        choices={"0": {"left": shape, "right": right, "locked": True, "own": True}},
        asks={"1": {"taste": taste, "left": shape, "right": right, "left_recipe": "root-fifth", "top": 72,
                    "bass": 48, "lowest": 40, "highest": 80, "right_recipe": "close-triad", "fills": [fill],
                    "off": ["top"]}},
        swaps={"1": [["Dm7", "1"], ["G7", "1"]]}, keys_set={"2": "F"}, untouched=[0],
    )  # fmt: skip
    second = {**project["takes"][0], "id": 7, "name": "Other", "swaps": {}}
    project["takes"].append(second)
    return json.dumps(
        {**project, "route": [{"section": "A", "round": 2, "take": 7}], "newer": {"a": 1}}
    ).encode()


def inputs(reader: Reader, count: int, seed: str) -> Iterator[bytes]:
    """So many hostile inputs for a reader."""
    for number in range(count):
        rng = random.Random(f"{seed} {reader.name} {number}")
        data = (
            random_chart(rng) if reader.name == "chart" and rng.random() < 0.5 else rng.choice(reader.seeds)
        )
        kind = rng.random()
        if kind < 0.8:
            data = reader.bend(rng, data)
        elif kind < 0.95:
            data = flip_bytes(rng, data)
        else:
            other = rng.choice(reader.seeds)
            data = data[: rng.randrange(len(data) + 1)] + other[rng.randrange(len(other) + 1) :]
        yield data


# --- judging -----------------------------------------------------------------------------


def _said(problems: tuple[Problem, ...]) -> None:
    """What a message must be. Raises AssertionError."""
    assert len(problems) <= MOST_PROBLEMS, f"{len(problems)} problems at once"
    for one in problems:
        assert one.place.strip() and one.what.strip() and one.remedy.strip(), f"no place or remedy: {one!r}"
        assert len(str(one)) <= MOST_SIGNS, f"a message of {len(str(one))} signs"
        str(one).encode("utf-8")


def fault_of(reader: Reader, data: bytes) -> str | None:
    """What is wrong with how a reader takes an input; None when all is well."""
    started = time.process_time()
    try:
        reader.read(data)
    except YellowHingeError as error:
        try:
            assert error.problems, "nothing is said"
            _said(error.problems)
        except (AssertionError, UnicodeError) as complaint:
            return f"message: {complaint}"
    except BaseException as error:
        where = traceback.extract_tb(error.__traceback__)[-1]
        return f"{type(error).__name__} at {Path(where.filename).name}:{where.lineno}"
    spent = time.process_time() - started
    return f"{spent:.1f} s" if spent > MOST_S else None


@dataclass
class Tally:
    """What came of the inputs of one reader."""

    tried: int = 0
    parsed: int = 0
    accepted: int = 0
    slowest_s: float = 0.0
    faults: Counter[str] = field(default_factory=Counter)
    examples: dict[str, bytes] = field(default_factory=dict)

    def note(self, fault: str, data: bytes) -> None:
        kind = fault if not fault[0].isdigit() else "too slow"
        self.faults[kind] += 1
        self.examples.setdefault(kind, data)


def _child(connection: Connection, name: str) -> None:
    """Reads what comes until nothing does. Memory beyond what the program itself takes is limited."""
    reader = readers()[name]
    for seed in reader.seeds:
        fault_of(reader, seed)
    size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + MOST_BYTES, size + MOST_BYTES))
    connection.send(None)
    while (data := connection.recv()) is not None:
        begun = time.process_time()
        fault = fault_of(reader, data)
        connection.send((fault, time.process_time() - begun))


class Killable:
    """A child that reads for us, and another one where it had to be killed."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._context = multiprocessing.get_context("spawn")
        self._start()

    def _start(self) -> None:
        self._end, theirs = self._context.Pipe()
        self._process = self._context.Process(target=_child, args=(theirs, self._name), daemon=True)
        self._process.start()
        self._end.recv()

    def read(self, data: bytes) -> tuple[str | None, float]:
        """The fault of an input, and the seconds of processor it took."""
        self._end.send(data)
        waited = 0.0
        while not self._end.poll(0.5):
            waited += 0.5
            if not self._process.is_alive():
                self._start()
                return "the process died", 0.0
            if waited > 10 * MOST_S:  # the machine may be busy: what it took is measured within
                self._process.kill()
                self._start()
                return f"{waited:.1f} s, killed", waited
        try:
            answer: tuple[str | None, float] = self._end.recv()
        except EOFError:
            self._start()
            return "the process died", 0.0
        return answer

    def close(self) -> None:
        self._end.send(None)
        self._process.join(5)


Read = Callable[[bytes], tuple[str | None, float]]


def tally_of(
    reader: Reader, count: int, seed: str, read: Callable[[bytes], tuple[str | None, float]]
) -> Tally:
    """Drive one reader."""
    tally = Tally()
    for data in inputs(reader, count, seed):
        fault, spent = read(data)
        tally.tried += 1
        tally.parsed += reader.parsed(data)
        tally.slowest_s = max(tally.slowest_s, spent)
        if fault is not None:
            tally.note(fault, data)
    return tally


def counts(rows: dict[str, Reader], count: int) -> dict[str, int]:
    """The inputs of each reader, by its share."""
    whole = sum(row.share for row in rows.values())
    return {name: max(1, count * row.share // whole) for name, row in rows.items()}


def _in_process(reader: Reader) -> Read:
    def read(data: bytes) -> tuple[str | None, float]:
        begun = time.process_time()
        return fault_of(reader, data), time.process_time() - begun

    return read


def _work(name: str, count: int, seed: str) -> tuple[str, Tally]:
    child = Killable(name)
    try:
        return name, tally_of(readers()[name], count, seed, child.read)
    finally:
        child.close()


def main() -> int:
    options = argparse.ArgumentParser(description=(__doc__ or "").partition("\n")[0])
    options.add_argument("--count", type=int, default=100_000)
    options.add_argument("--seed", default="1")
    options.add_argument("--readers", default="")
    options.add_argument("--coverage", action="store_true", help="in this process, to be run under coverage")
    options.add_argument("--keep", type=Path, help="a folder for an example of each fault")
    given = options.parse_args()
    rows = readers()
    if given.readers:
        rows = {name: rows[name] for name in given.readers.split(",")}
    jobs = counts(rows, given.count)
    tallies: dict[str, Tally] = {}
    if given.coverage:
        for name, reader in rows.items():
            tallies[name] = tally_of(reader, jobs[name], given.seed, _in_process(reader))
            print(_line(name, tallies[name]), flush=True)
    else:
        from concurrent.futures import ThreadPoolExecutor  # noqa: PLC0415

        with ThreadPoolExecutor(multiprocessing.cpu_count()) as pool:
            running = [pool.submit(_work, name, jobs[name], given.seed) for name in rows]
            for job in running:
                name, tally = job.result()
                tallies[name] = tally
                print(_line(name, tally), flush=True)
    return _summed_up(tallies, given.keep)


def _line(name: str, tally: Tally) -> str:
    share = tally.parsed / max(1, tally.tried)
    return (
        f"{name:9} {tally.tried:7,} inputs, {share:.0%} pass the first stage, "
        f"{sum(tally.faults.values())} faults, slowest {tally.slowest_s:.2f} s"
    )


def _summed_up(tallies: dict[str, Tally], keep: Path | None) -> int:
    tried = sum(tally.tried for tally in tallies.values())
    parsed = sum(tally.parsed for tally in tallies.values())
    faults = sum(sum(tally.faults.values()) for tally in tallies.values())
    print(f"{tried:,} inputs, {parsed / max(1, tried):.0%} pass the first stage, {faults} faults")
    for name, tally in tallies.items():
        for fault, number in tally.faults.most_common():
            print(f"  {name}: {number} x {fault}\n      {tally.examples[fault][:160]!r}")
            if keep is not None:
                keep.mkdir(parents=True, exist_ok=True)
                safe = "".join(sign if sign.isalnum() else "-" for sign in fault)[:60]
                (keep / f"{name}-{safe}").write_bytes(tally.examples[fault])
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
