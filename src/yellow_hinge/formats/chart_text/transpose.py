"""Chart text in another key, its layout and comments untouched."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from yellow_hinge.formats.chart_text.tokens import BAR_METER, ENDING, LINES, TOKEN, header, row_kind
from yellow_hinge.song.chart import Move
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.theory.numbers import looks_like_number
from yellow_hinge.theory.pitch import read_pitch
from yellow_hinge.theory.roman import looks_like_roman


def transpose_text(text: str, move: Move) -> str:
    """The same chart in another key. The text must be a valid chart.

    Symbols, key lines and melody move; numbers stay as they are, since they follow the key line.
    """
    lines, bars_begun, has_key, here = [], False, False, move
    for line in text.splitlines(keepends=True):
        body = line.rstrip("\r\n")
        ending = line[len(body) :]
        heading = header(body)
        if heading and heading[0] == "key":
            here = move.within(parse_key(heading[1].strip()))
            body = f"{body[: body.index(':') + 1]} {here.new}"
            has_key = has_key or not bars_begun
        elif row_kind(body) in ("melody", *LINES):
            body = _replace_tokens(body, partial(_moved_note, move=here), body.index(":") + 1)
        elif "|" in body and not heading and row_kind(body) is None and not body.lstrip().startswith("#"):
            body = _replace_tokens(body, partial(_moved_chord, move=here), 0)
            bars_begun = True
        lines.append(body + ending)
    return ("" if has_key else f"key: {move.new}\n") + "".join(lines)


def _replace_tokens(line: str, change: Callable[[str], str], after: int) -> str:
    def moved(token: str) -> str:
        word, colon, beats = token.partition(":")
        tie = "~" if not colon and word.endswith("~") else ""
        return f"{change(word.removesuffix('~') if tie else word)}{tie}{colon}{beats}"

    return line[:after] + TOKEN.sub(lambda match: moved(match[0]), line[after:])


def _moved_chord(word: str, move: Move) -> str:
    match = BAR_METER.match(word)
    if match is not None:
        return match[0] + (_moved_chord(word[match.end() :], move) if word[match.end() :] else "")
    if word == "%" or ENDING.match(word):
        return word
    if looks_like_number(word) or looks_like_roman(word) or word.strip("()/0123456789") == "":
        return word
    chord = move.chord(parse_chord(word))
    return word if chord is None else str(chord)


def _moved_note(word: str, move: Move) -> str:
    if "+" in word:
        return "+".join(_moved_note(one, move) for one in word.split("+"))
    pitch = move.pitch(read_pitch(word))
    return word if pitch is None else str(pitch)
