"""Hostile input for the fuzzer: pieces that no reader likes, and ways to bend what is good."""

from __future__ import annotations

import copy
import io
import json
import random
import zipfile
from collections.abc import Callable, Iterator
from typing import Any
from xml.etree import ElementTree as ET

_NUMBERS = """0 -1 1e9999999 1e999 nan inf ² ٣ 0.1 1/0 3/1999999999 2.5e3 -0 0x10 1_000 ٣/٤ 00001 1. .5 ½
4294967296 9999999999999999999"""
NUMBERS = (*_NUMBERS.split(), "1" * 400)
SIGNS = tuple("\ud800\u2028\x85\x0b\r\0\u202e\ufeffé𝄪♯\t '\"\\<&[]{}|/:~%;,()#-_")
_CHORDS = """C Am7 Bb13 F#m7b5 G7alt C/E D//C N.C. Csus24 C7(b9,#5) Cm(maj7) E7#9#5 C69/G Ebmaj7#11 Cdim(maj7)
C5 C(no3) 2-9 b7-9 V7/ii ii7 1add9"""
CHORDS = tuple(_CHORDS.split())
_CHART_WORDS = """| | | |1. |2. (2/4) (99/3) % :2 :3/2 :1.5 title: form: [A] melody: lyrics: C5:2 Bb4:1/3 r:1
E5:4~ E5:1~ Lan-tern _ \\- # [ ]"""
_HEADINGS = ("key: Ab", "key: Zz", "meter: 7/8", "tempo: 84", "pickup: 1", "[A] x2", "[B] x99")
CHART_WORDS = (*CHORDS, *NUMBERS, *_CHART_WORDS.split(), *_HEADINGS, "numbers: roman", "\n", "\n")


def random_chart(rng: random.Random) -> bytes:
    """A chart out of the grammar, mostly right."""
    meter = rng.choice(["4/4", "3/4", "6/8", "7/8", "2/4"])
    beats = int(meter[0])
    lines = ["title: Rope", f"key: {rng.choice(['C', 'Eb', 'F#m', 'A'])}", f"meter: {meter}"]
    if rng.random() < 0.3:
        lines += ["pickup: 1", "melody: E4:1"]
    names = rng.sample(["A", "B", "Coda", "Verse"], rng.randint(1, 3))
    if rng.random() < 0.4:
        lines.insert(3, f"form: {' '.join(rng.choices(names, k=rng.randint(1, 5)))}")
    for name in names:
        lines.append(f"[{name}]{rng.choice(['', ' x2', ' x3'])}")
        bars = [_bar(rng, beats) for _ in range(rng.randint(1, 6))]
        if rng.random() < 0.3:
            bars.insert(rng.randint(1, len(bars)), f"|1. {_bar(rng, beats)} |2. {_bar(rng, beats)}")
        lines.append("| " + " | ".join(bars).replace("| |", "|") + " |")
        if rng.random() < 0.5:
            lines.append("melody: " + " | ".join(_tune(rng, beats) for _ in bars))
            if rng.random() < 0.5:
                lines.append("lyrics: " + " | ".join(rng.choice(["la", "Lan-", "_", ""]) for _ in bars))
    return "\n".join(lines).encode()


def _bar(rng: random.Random, beats: int) -> str:
    if rng.random() < 0.1:
        return "%" if rng.random() < 0.5 else f"(2/4) {rng.choice(CHORDS[:12])}"
    if rng.random() < 0.3:
        return f"{rng.choice(CHORDS[:12])}:1 {rng.choice(CHORDS[:12])}:{beats - 1}"
    return " ".join(rng.choices(CHORDS[:12], k=rng.randint(1, 2)))


def _tune(rng: random.Random, beats: int) -> str:
    notes = [f"{rng.choice(['C5', 'E5', 'Bb4', 'r', 'F#4'])}:1" for _ in range(beats)]
    return " ".join(notes) if rng.random() < 0.8 else f"{rng.choice(['C5', 'r'])}:{beats}"


# --- bending -----------------------------------------------------------------------------


def flip_bytes(rng: random.Random, data: bytes) -> bytes:
    """Bytes changed, taken out, doubled, or put in."""
    out = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        place = rng.randrange(len(out) + 1)
        what = rng.randrange(5)
        if what == 0 and out:
            out[place % len(out)] = rng.randrange(256)
        elif what == 1:
            del out[place : place + rng.randint(1, 8)]
        elif what == 2:
            out[place:place] = bytes(rng.randrange(256) for _ in range(rng.randint(1, 4)))
        elif what == 3:
            out[place:place] = out[place : place + rng.randint(1, 60)]
        elif out:
            out[place % len(out)] ^= 1 << rng.randrange(8)
    return bytes(out)


def bend_text(words: tuple[str, ...]) -> Callable[[random.Random, bytes], bytes]:
    """Words changed, put in, taken out, doubled, or repeated many times."""

    def bend(rng: random.Random, data: bytes) -> bytes:
        text = data.decode("utf-8", "replace")
        for _ in range(rng.choice([1, 1, 2, 3, 8])):
            place = rng.randrange(len(text) + 1)
            new = rng.choice(words) if rng.random() < 0.7 else rng.choice(SIGNS)
            what = rng.randrange(6)
            if what == 0:
                new *= rng.choice([1, 2, 50, 1500])
            if what in (0, 1):
                text = f"{text[:place]}{new}{text[place:]}"
            elif what == 2:
                text = text[:place] + new + text[place + len(new) :]
            elif what == 3:
                text = text[:place] + text[place + rng.randint(1, 20) :]
            elif what == 4:
                lines = text.split("\n")
                lines.insert(rng.randrange(len(lines) + 1), rng.choice(lines))
                text = "\n".join(lines)
            else:
                pieces = text.split(" ")
                pieces[rng.randrange(len(pieces))] = new
                text = " ".join(pieces)
        return text.encode("utf-8", "surrogatepass")

    return bend


HOSTILE: tuple[Any, ...] = (
    *(
        None,
        True,
        -1,
        0,
        1,
        5,
        400,
        127,
        128,
        10**17,
        10**30,
        1.5,
        1e300,
        [],
        {},
        [[]],
        [None],
        {"a": 1},
        [1, 2],
    ),
    *("", "x", "C", "A" * 3000, "\ud800", "9" * 400, "1e9999", "١", "3/2", "0/0", "12.1", "-1"),
    *([0] * 300, {"": {}}),
)


def bend_tree(rng: random.Random, value: Any) -> Any:
    """A value somewhere in a tree changed, taken out, doubled, renamed, or nested deep."""
    value = copy.deepcopy(value)
    for _ in range(rng.choice([1, 1, 1, 2, 4])):
        spots = list(_spots(value))
        if not spots:
            return rng.choice(HOSTILE)
        holder, name = rng.choice(spots)
        what = rng.randrange(6)
        if what < 3:
            holder[name] = copy.deepcopy(rng.choice(HOSTILE))
        elif what == 3:
            del holder[name]
        elif what == 4:
            other, there = rng.choice(spots)
            try:
                holder[name] = copy.deepcopy(other[there])
            except (KeyError, IndexError):
                continue
        elif isinstance(holder, dict):
            holder[str(rng.choice(HOSTILE))] = holder.get(name)
        else:
            deep: Any = holder[name]
            for _ in range(rng.choice([3, 70, 400])):
                deep = [deep]
            holder[name] = deep
    return value


def _spots(value: Any) -> Iterator[tuple[Any, Any]]:
    """Every place in a tree: what holds it, and its name there."""
    stack = [value]
    while stack:
        one = stack.pop()
        pairs = one.items() if isinstance(one, dict) else enumerate(one) if isinstance(one, list) else ()
        for name, inner in pairs:
            yield one, name
            stack.append(inner)


def bend_json(rng: random.Random, data: bytes) -> bytes:
    """A JSON value bent, and its chart text with it."""
    value = json.loads(data)
    if isinstance(value, dict) and isinstance(value.get("chart"), str) and rng.random() < 0.3:
        value["chart"] = bend_text(CHART_WORDS)(rng, value["chart"].encode()).decode("utf-8", "surrogatepass")
    try:
        text = json.dumps(bend_tree(rng, value), ensure_ascii=rng.random() < 0.5)
    except RecursionError:  # bent too deep to be written by anybody
        text = "[" * 5000
    return text.encode("utf-8", "surrogatepass")


_TOML_WORDS = (*NUMBERS, "recipe = 5", "[[recipe]]", "[" * 40, "{", "}", "hands", "slots", 'build = "any"')


def bend_toml(rng: random.Random, data: bytes) -> bytes:
    """A line of a recipe with another value, or any other change of the text."""
    if rng.random() < 0.3:
        return bend_text(_TOML_WORDS)(rng, data)
    lines = data.decode().split("\n")
    rows = [place for place, line in enumerate(lines) if "=" in line and not line.startswith("#")]
    values = (
        "5",
        "[]",
        "{}",
        '""',
        '"x"',
        "[[1]]",
        "true",
        "-1",
        "1e999",
        '["R", "3"]',
        '["left"]',
        "9" * 30,
    )
    for place in rng.sample(rows, rng.choice([1, 1, 2])):
        name, _, value = lines[place].partition("=")
        new = rng.choice([*values, value, value])
        lines[place] = (
            f"{name} = {new}" if rng.random() < 0.8 else f"{rng.choice(['id', 'spacing', 'x'])} = {new}"
        )
    return "\n".join(lines).encode()


def bend_xml(rng: random.Random, data: bytes) -> bytes:
    """Elements of a score changed, doubled, moved, taken out; their text and attributes too."""
    root = ET.fromstring(data)
    for _ in range(rng.choice([1, 1, 2, 5])):
        every = list(root.iter())
        one = rng.choice(every)
        what = rng.randrange(7)
        if what == 0:
            one.text = rng.choice((*NUMBERS, *CHORDS, "major", "none", "A" * 900, ""))
        elif what == 1 and len(one):
            one.remove(rng.choice(list(one)))
        elif what == 2 and len(one):
            one.append(copy.deepcopy(rng.choice(list(one))))
        elif what == 3:
            one.set(
                rng.choice(["tempo", "implicit", "type", "number", "id"]),
                rng.choice((*NUMBERS, "yes", "start")),
            )
        elif what == 4:
            one.tag = rng.choice(every).tag
        elif what == 5 and len(one):
            children = list(one)
            one.insert(rng.randrange(len(children)), copy.deepcopy(rng.choice(every)))
        else:
            one.text = str(rng.choice((-1, 0, 99, 10**9)))
    return bytes(ET.tostring(root, encoding="utf-8"))


def bend_zip(rng: random.Random, data: bytes) -> bytes:
    """A packed score with a bent score, other names, or other sizes."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    what = rng.randrange(5)
    names = list(members)
    if what < 3:
        members[names[-1]] = bend_xml(rng, members[names[-1]])
    elif what == 3:
        members[rng.choice(names)] = rng.choice([b"", b"\0" * 3_000_000, b"<a/>", b"<container/>"])
    else:
        members[f"{rng.choice(['x', '../x', 'META-INF/x', 'a/' * 50])}.xml"] = members.pop(rng.choice(names))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", rng.choice([zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED])) as archive:
        for name, inside in members.items():
            archive.writestr(name, inside)
    packed = out.getvalue()
    return flip_bytes(rng, packed) if rng.random() < 0.3 else packed
