"""Pages as lists of things to paint, in millimetres from the upper left corner; and filling pages with blocks
that are never split."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Literal, Protocol

from msgspec import Struct, field
from msgspec.structs import replace

from yellow_hinge.errors import Problem

#: Width and height of papers, upright.
PAPERS: dict[str, tuple[float, float]] = {
    "a4": (210.0, 297.0),
    "letter": (215.9, 279.4),
    "a5": (148.0, 210.0),
}
#: A point in millimetres.
POINT_MM = 25.4 / 72
MARGIN_MM = 14.0
#: Between columns; and the least width of a chord with its keyboard, in print of usual size.
GAP_MM = 4.0
CELL_MM = 41.0
Side = Literal["left", "middle", "right"]
#: Inks by what they mean; black and white papers have ink for all of them.
Ink = Literal["ink", "quiet", "line", "left", "right", "held", "paper", "soft"]


class Text(Struct, frozen=True):
    """Words on a base line. ``size`` is in points; ``side`` says which end of them ``x`` is."""

    x: float
    y: float
    words: str
    size: float
    bold: bool = False
    ink: Ink = "ink"
    side: Side = "left"
    italic: bool = False


class Rule(Struct, frozen=True):
    """A straight line."""

    x1: float
    y1: float
    x2: float
    y2: float
    width: float = 0.2
    ink: Ink = "ink"


class Box(Struct, frozen=True):
    """A rectangle, filled or outlined or both; ``round`` is the radius of its corners."""

    x: float
    y: float
    w: float
    h: float
    fill: Ink | None = None
    outline: Ink | None = None
    width: float = 0.2
    round: float = 0.0


class Disc(Struct, frozen=True):
    """A circle by its middle."""

    x: float
    y: float
    radius: float
    fill: Ink | None = "ink"
    outline: Ink | None = None
    width: float = 0.3


class Picture(Struct, frozen=True):
    """An engraved drawing: SVG with the view box that fills the place."""

    x: float
    y: float
    w: float
    h: float
    svg: bytes


Item = Text | Rule | Box | Disc | Picture


class Page(Struct, frozen=True):
    """A page by its size and what is on it, in the order of painting."""

    width: float
    height: float
    items: tuple[Item, ...]


class Sheet(Struct, frozen=True):
    """Pages with the title of the whole."""

    title: str
    pages: tuple[Page, ...]


class Metrics(Protocol):
    """How wide words are: whoever paints them says."""

    def width_mm(self, words: str, size: float, bold: bool = False) -> float:
        """The width of words of a size in points."""


class Press(Protocol):
    """Puts sheets into files."""

    def check(self, path: Path) -> None:
        """Raise :class:`BadInput` for a file of no format that it knows."""

    def metrics(self) -> Metrics:
        """How wide its words are."""

    def strange(self, sheet: Sheet) -> str:
        """Letters that no face here has, each once."""

    def write(self, sheet: Sheet, path: Path, plain: bool) -> tuple[Path, ...]:
        """Write a sheet in the format of the suffix; give the files that were written."""


def strange_problem(letters: str, place: str) -> Problem:
    """What to say of letters that no face has."""
    what = f"no face on this machine has {' '.join(letters[:12])}{' ...' if len(letters) > 12 else ''}"
    return Problem(place, what, "they are printed as boxes; install a font that has them")


class Options(Struct, frozen=True):
    """How a sheet looks. ``large``: print to be read from afar; ``plain``: no colours; ``degrees``,
    ``fingers``, ``keyboards``, ``moves``, ``words``, ``counts``: what a crib sheet shows, ``numbers`` in
    place of symbols; ``tune``: a
    score shows it; ``written_out``: every round by itself, no signs of repetition; ``date`` is printed where
    it is given."""

    paper: str = "a4"
    across: bool = False
    large: bool = False
    plain: bool = False
    degrees: bool = False
    fingers: bool = True
    keyboards: bool = True
    moves: bool = True
    words: bool = True
    counts: bool = True
    numbers: bool = False
    tune: bool = True
    written_out: bool = False
    date: str = ""

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of the paper as it lies."""
        width, height = PAPERS[self.paper]
        return (height, width) if self.across else (width, height)

    @property
    def scale(self) -> float:
        """How much larger than usual everything is."""
        return 1.45 if self.large else 0.85 if self.paper == "a5" else 1.0


def shifted(item: Item, x: float, y: float) -> Item:
    """A thing so much further right and down."""
    if isinstance(item, Rule):
        return replace(item, x1=item.x1 + x, x2=item.x2 + x, y1=item.y1 + y, y2=item.y2 + y)
    return replace(item, x=item.x + x, y=item.y + y)


class Block(Struct, frozen=True):
    """Something that is never split: how tall it is, and its things from its upper left corner. ``keep``:
    the next block stands on the same page, as behind a heading."""

    height: float
    items: tuple[Item, ...]
    keep: bool = False


def wrapped(words: str, width: float, size: float, metrics: Metrics, bold: bool = False) -> list[str]:
    """Words in lines that are no wider, broken at blanks; a single word that is wider stands alone."""
    lines: list[str] = []
    for word in words.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and metrics.width_mm(longer, size, bold) <= width:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines


def fitted(words: str, width: float, size: float, metrics: Metrics, bold: bool = False) -> float:
    """The size at which words fit, from ``size`` down to half of it."""
    width_mm = metrics.width_mm(words, size, bold)
    return size if width_mm <= width else max(size / 2, size * width / width_mm)


def shortened(words: str, width: float, size: float, metrics: Metrics, bold: bool = False) -> str:
    """Words without so many of their last letters that they fit, with dots in their place."""
    kept = words
    while kept and metrics.width_mm(kept, size, bold) > width:
        kept = f"{kept.rstrip('…')[:-1].rstrip()}…" if kept.rstrip("…") else ""
    return kept


def line_mm(size: float) -> float:
    """From one base line to the next."""
    return size * POINT_MM * 1.28


class Filler(Struct):
    """Puts blocks on pages, each with the same head and foot."""

    title: str
    composer: str
    under: str
    options: Options
    metrics: Metrics
    _pages: list[list[Item]] = field(default_factory=list)
    _y: float = 0.0

    @property
    def inner(self) -> float:
        """How wide blocks may be."""
        return self.options.size[0] - 2 * MARGIN_MM

    @property
    def bottom(self) -> float:
        return self.options.size[1] - MARGIN_MM - line_mm(8 * self.options.scale)

    def add(self, blocks: Sequence[Block]) -> None:
        """Blocks one below the other, on further pages where they do not fit."""
        for place, block in enumerate(blocks):
            needed, at = block.height, place
            while blocks[at].keep and at + 1 < len(blocks):
                at += 1
                needed += blocks[at].height
            if not self._pages or (self._y + needed > self.bottom and self._y > self._top + 0.01):
                self._new_page()
            self._pages[-1] += [shifted(item, MARGIN_MM, self._y) for item in block.items]
            self._y += block.height

    @property
    def _top(self) -> float:
        return self.head(len(self._pages) == 1)[0]

    def _new_page(self) -> None:
        self._pages.append([])
        self._y, items = self.head(len(self._pages) == 1)
        self._pages[-1] += items

    def head(self, first: bool) -> tuple[float, list[Item]]:
        """Where blocks begin, and what stands above them: all on the first page, a line on others."""
        scale, right = self.options.scale, self.options.size[0] - MARGIN_MM
        if not first:
            size = 8 * scale
            y = MARGIN_MM + size * POINT_MM
            title = shortened(self.title, self.inner, size, self.metrics)
            return y + line_mm(size) * 0.8, [Text(MARGIN_MM, y, title, size, ink="quiet")]
        first_line = MARGIN_MM + 18 * scale * POINT_MM
        wide = self.inner * (0.72 if self.composer else 1.0)
        y, size = first_line, fitted(self.title, wide, 18 * scale, self.metrics, bold=True)
        size = max(size, 12 * scale)
        items: list[Item] = []
        for number, line in enumerate(wrapped(self.title, wide, size, self.metrics, bold=True)):
            y += line_mm(size) if number else 0
            title = shortened(line, wide, size, self.metrics, bold=True)
            items.append(Text(MARGIN_MM, y, title, size, bold=True))
        own = max(8 * scale, fitted(self.composer, self.inner * 0.26, 10 * scale, self.metrics))
        for number, line in enumerate(wrapped(self.composer, self.inner * 0.26, own, self.metrics)):
            composer = shortened(line, self.inner * 0.26, own, self.metrics)
            items.append(Text(right, first_line + number * line_mm(own), composer, own, side="right"))
            y = max(y, first_line + number * line_mm(own))
        y += line_mm(10 * scale)
        for line in wrapped(self.under, self.inner, 9 * scale, self.metrics):
            items.append(Text(MARGIN_MM, y, line, 9 * scale, ink="quiet"))
            y += line_mm(9 * scale)
        return y, items

    def foot(self, number: int, count: int) -> list[Item]:
        """The page's number, and the date if one is wanted."""
        width, height = self.options.size
        size, y = 8 * self.options.scale, height - MARGIN_MM
        found: list[Item] = [
            Text(width - MARGIN_MM, y, f"{number} of {count}", size, ink="quiet", side="right")
        ]
        if self.options.date:
            found.append(Text(MARGIN_MM, y, self.options.date, size, ink="quiet"))
        return found

    def sheet(self) -> Sheet:
        """The pages."""
        if not self._pages:
            self._new_page()
        width, height = self.options.size
        count = len(self._pages)
        pages = (
            Page(width, height, (*items, *self.foot(number, count)))
            for number, items in enumerate(self._pages, 1)
        )
        return Sheet(self.title, tuple(pages))


def heading(words: str, width: float, options: Options, metrics: Metrics, aside: str = "") -> Block:
    """A heading with a line under it; it stays with what comes behind."""
    size = 12 * options.scale
    y = size * POINT_MM * 1.5
    room = width * (0.6 if aside else 1.0)
    own = fitted(words, room, size, metrics, bold=True)
    items: list[Item] = [
        Text(0, y, shortened(words, room, own, metrics, bold=True), own, bold=True),
        Rule(0, y + 1.2, width, y + 1.2, 0.25, ink="line"),
    ]
    if aside:
        small = fitted(aside, width * 0.38, 8.5 * options.scale, metrics)
        shown = shortened(aside, width * 0.38, small, metrics)
        items.append(Text(width, y, shown, small, ink="quiet", side="right"))
    return Block(y + 3.0, tuple(items), keep=True)


def paragraph(words: str, width: float, options: Options, metrics: Metrics, size: float = 9) -> Block:
    """Words over as many lines as they need."""
    size *= options.scale
    lines = wrapped(words, width, size, metrics)
    step = line_mm(size)
    items = tuple(Text(0, step * (number + 0.8), line, size) for number, line in enumerate(lines))
    return Block(step * len(lines) + 1.5, items)


def in_rows(cells: Sequence[Block], width: float, least: float) -> list[Block]:
    """Blocks side by side in rows, as many as are at least ``least`` wide."""
    count, own = columns(width, least)
    rows = []
    for first in range(0, len(cells), count):
        row = cells[first : first + count]
        items = tuple(
            shifted(item, place * (own + GAP_MM), 0) for place, cell in enumerate(row) for item in cell.items
        )
        rows.append(Block(max(cell.height for cell in row) + 2.0, items))
    return rows


def columns(width: float, least: float) -> tuple[int, float]:
    """How many columns of at least ``least`` fit, and how wide each is then."""
    count = max(1, int((width + GAP_MM) // (least + GAP_MM)))
    return count, (width - GAP_MM * (count - 1)) / count
