"""Numbers that were decided: constants of modules, defaults of fields and of parameters, numbers in files of
data. They stand a second time in ``tests/data/constants``, so that a slip of the pen is seen where no
example comes near it. Whoever decides anew runs the test with ``PRINT_ANEW=1`` and reads what changed; new
numbers come in then too.
"""

from __future__ import annotations

import ast
import inspect
import os
import pkgutil
import tomllib
from collections.abc import Callable, Iterator, Mapping, Set
from dataclasses import fields, is_dataclass
from fractions import Fraction
from hashlib import blake2b
from importlib import import_module
from pathlib import Path
from types import FunctionType, ModuleType
from typing import Any

from msgspec import Struct

_FOLDER = Path(__file__).parent / "data" / "constants"
#: What is longer is kept as a digest.
_MOST = 300


def numbers_of(room: str) -> tuple[dict[str, str], dict[str, str]]:
    """The numbers of a room as they are, and as they were written down."""
    path, found = _FOLDER / f"{room}.tsv", dict(_of_room(room))
    if os.environ.get("PRINT_ANEW"):
        path.parent.mkdir(exist_ok=True)
        path.write_text("".join(f"{name}\t{value}\n" for name, value in found.items()), "utf-8")
    lines = path.read_text("utf-8").splitlines() if path.exists() else []
    return found, dict(line.split("\t") for line in lines)


def _of_room(room: str) -> Iterator[tuple[str, str]]:
    top = import_module(f"yellow_hinge.{room}")
    names = [one.name for one in pkgutil.walk_packages(getattr(top, "__path__", []), f"{top.__name__}.")]
    for name in (top.__name__, *sorted(names)):
        yield from _of_module(import_module(name))
    for file in sorted(Path(top.__path__[0]).glob("data/*.toml")) if hasattr(top, "__path__") else ():
        rows = [one for part in tomllib.loads(file.read_text("utf-8")).values() if isinstance(part, list)
                for one in part]  # fmt: skip
        for row in rows:
            for name, value in row.items():
                if _has_number(value):
                    yield f"{room}.data.{file.stem}.{row['id']}.{name}", _short(_said(value))


def _of_module(module: ModuleType) -> Iterator[tuple[str, str]]:
    where = module.__name__.removeprefix("yellow_hinge.")
    for name in _assigned(ast.parse(inspect.getsource(module))):
        value = getattr(module, name, None)
        if _has_number(value):
            yield f"{where}.{name}", _short(_said(value))
    for name, value in vars(module).items():
        if getattr(value, "__module__", "") == module.__name__:
            for inner, default in _defaults(value):
                yield f"{where}.{name}.{inner}", _short(_said(default))


def _assigned(tree: ast.Module) -> Iterator[str]:
    """Names of constants that a module itself gives a value."""
    for node in tree.body:
        targets = node.targets if isinstance(node, ast.Assign) else [getattr(node, "target", None)]
        for target in targets:
            for one in target.elts if isinstance(target, ast.Tuple) else [target]:
                if isinstance(one, ast.Name) and one.id.lstrip("_").isupper():
                    yield one.id


def _defaults(thing: Any) -> Iterator[tuple[str, Any]]:
    """Defaults of a class's fields and of its methods' parameters, or of a function's."""
    if isinstance(thing, type):
        if issubclass(thing, Struct):
            values = thing.__struct_defaults__
            names = thing.__struct_fields__[len(thing.__struct_fields__) - len(values) :]
            found = list(zip(names, values, strict=True))
        else:
            found = [(one.name, one.default) for one in fields(thing)] if is_dataclass(thing) else []
            found += [(name, value) for name, value in vars(thing).items() if name.lstrip("_").isupper()]
        yield from ((name, value) for name, value in found if _has_number(value))
        for name, method in vars(thing).items():
            if isinstance(method, FunctionType) and method.__module__ == thing.__module__:
                yield from ((f"{name}.{inner}", value) for inner, value in _defaults(method))
    elif callable(thing):
        yield from _of_parameters(thing)


def _of_parameters(function: Callable[..., Any]) -> Iterator[tuple[str, Any]]:
    try:
        parameters = inspect.signature(function).parameters.values()
    except (TypeError, ValueError):
        return
    yield from ((one.name, one.default) for one in parameters if _has_number(one.default))


def _has_number(value: Any) -> bool:
    """Whether there is anything to write down: a number, and nothing but plain values beside it."""
    return any(isinstance(one, int | float | Fraction) for one in _parts(value)) and not any(
        isinstance(one, _Other) for one in _parts(value)
    )


class _Other:
    """What is no plain value."""


def _parts(value: Any) -> Iterator[Any]:
    if isinstance(value, str | bytes | int | float | Fraction | range) or value is None:
        yield 0 if isinstance(value, range) else value
    elif isinstance(value, Mapping):
        for pair in value.items():
            yield from _parts(pair)
    elif isinstance(value, tuple | list | Set):
        for one in value:
            yield from _parts(one)
    elif isinstance(value, Struct):
        for name in value.__struct_fields__:
            yield from _parts(getattr(value, name))
    else:
        yield _Other()


def _said(value: Any) -> str:
    """A value in words that are the same in every run."""
    if isinstance(value, Mapping):
        return "{" + ", ".join(f"{_said(key)}: {_said(one)}" for key, one in value.items()) + "}"
    if isinstance(value, Set):
        return "{" + ", ".join(sorted(map(_said, value))) + "}"
    if isinstance(value, tuple | list):
        return "(" + ", ".join(map(_said, value)) + ")"
    if isinstance(value, Struct):
        told = (f"{name}={_said(getattr(value, name))}" for name in value.__struct_fields__)
        return f"{type(value).__name__}({', '.join(told)})"
    return str(value) if isinstance(value, Fraction) else repr(value)


def _short(words: str) -> str:
    return (
        words
        if len(words) <= _MOST
        else f"{len(words)} signs, {blake2b(words.encode(), digest_size=8).hexdigest()}"
    )
