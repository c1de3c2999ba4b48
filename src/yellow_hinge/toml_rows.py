"""Files of rows in TOML (recipes, schools, patterns, formulas): they name their schema, a table is a row."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Protocol, TypeVar

import tomli
from msgspec import ValidationError

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.stopping import unbroken

Raw = dict[str, Any]


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


_Row = TypeVar("_Row", bound=_HasId)


def read_rows(
    text: str, place: str, table: str, schema: str, read: Callable[[Raw, Raw], _Row]
) -> dict[str, _Row]:
    """The rows of a file by id. ``read`` makes one of a table, and of the whole file in case it refers to
    other places; it raises ``ValueError`` or ``msgspec.ValidationError`` with what is wrong. Raises
    :class:`BadInput` with every bad row."""
    return rows_in(loaded(text, place), place, table, schema, read)


def rows_in(
    data: Raw, place: str, table: str, schema: str, read: Callable[[Raw, Raw], _Row]
) -> dict[str, _Row]:
    """The same of a file that was loaded, for one that has several tables."""
    problems: list[Problem] = []
    if data.get("schema") != schema:
        what = f"schema is {data.get('schema')!r}"
        problems.append(Problem(place, what, f'begin the file with schema = "{schema}"'))
    rows: dict[str, _Row] = {}
    for number, raw in enumerate(_tables(data, place, table), 1):
        where = f"{place}: {table} {number} ({raw.get('id', 'no id')})"
        try:
            with unbroken():
                row = read(raw, data)
        except (ValidationError, ValueError) as error:
            problems.append(Problem(where, str(error), "mend this row; the head of the file says how"))
            continue
        if row.id in rows:
            problems.append(Problem(where, "this id is taken", "give one of them another id"))
        rows[row.id] = row
    if problems:
        raise BadInput(problems)
    return rows


def loaded(text: str, place: str) -> Raw:
    """A file of TOML. Raises :class:`BadInput` with the place of the first fault."""
    try:
        return tomli.loads(text)
    except (ValueError, RecursionError) as error:
        what = str(error) or "it is nested too deep"
        raise BadInput(Problem(place, what, "mend the TOML at this place")) from None


def _tables(data: Raw, place: str, table: str) -> list[Raw]:
    listed = data.get(table, [])
    if isinstance(listed, list) and all(isinstance(raw, dict) for raw in listed):
        return listed
    remedy = f"begin each row with [[{table}]] on a line of its own"
    raise BadInput(Problem(f"{place}: {table}", "it is no row of tables", remedy))


def row_text(table: str, values: Mapping[str, Any]) -> str:
    """A row of such a file: words, numbers, and lists of them."""
    return (
        "\n".join([f"[[{table}]]", *(f"{name} = {_value(value)}" for name, value in values.items())]) + "\n"
    )


def _value(value: Any) -> str:
    if isinstance(value, (list, tuple)):
        return f"[{', '.join(map(_value, value))}]"
    if isinstance(value, bool):
        return str(value).lower()
    return quoted(value) if isinstance(value, str) else str(value)


def quoted(text: str) -> str:
    """A word as it stands in such a file."""
    inner = text.replace("\\", "\\\\").replace('"', '\\"')
    return '"' + "".join(sign if sign.isprintable() else " " for sign in inner) + '"'
