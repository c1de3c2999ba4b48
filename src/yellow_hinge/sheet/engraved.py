"""Engraved music: MusicXML to pages of SVG by verovio, taken apart into drawing and words, so that the words
are set in the face of the page, can be searched, and are drawn by whoever paints it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from importlib.resources import files
from itertools import accumulate, pairwise
from typing import Any
from xml.etree import ElementTree as ET

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.sheet.page import (
    MARGIN_MM,
    POINT_MM,
    Box,
    Filler,
    Item,
    Metrics,
    Options,
    Page,
    Picture,
    Sheet,
    Text,
    fitted,
    shortened,
)

#: Verovio's units to a millimetre, at a scale of 100.
_UNITS_MM = 10.0
#: Our face is wider than the one that verovio leaves room for.
_FACE_SHARE = 0.9
#: What begins nearer to the edge than this stands above the clef.
_INDENT_MM = 22.0
#: How large a letter is that stands beside a sign of the music face.
_SIGN_SHARE = 0.56
#: A half note in front of a tempo. No face of letters has one: it is drawn.
HALF = "\ueca3"
_HALF_NOTE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 12 34">'
    b'<g fill="none" stroke="black" stroke-width="1.6">'
    b'<ellipse cx="5.4" cy="29" rx="4.4" ry="2.9" transform="rotate(-28 5.4 29)"/>'
    b'<path d="M9.4 27.6 V1"/></g></svg>'
)
#: What each line of a page has in its drawing.
_SYSTEM = 'class="system"'
_SVG = "{http://www.w3.org/2000/svg}"
#: Signs of the music face among the words, as the letters they stand for.
_SIGNS = {
    "\uea63": "♭♭", "\uea64": "♭", "\uea65": "♮", "\uea66": "♯", "\uea67": "♯♯",
    "\ue260": "♭", "\ue261": "♮", "\ue262": "♯", "\ue263": "♯♯", "\ue264": "♭♭", "\ued60": "♭", "\ued61": "♮",
    "\ued62": "♯", "\ue870": "°", "\ue871": "ø", "\ue873": "Δ", "\ue1d5": "♩", "\ueca5": "♩", "\ueca7": "♪",
    HALF: HALF, "\U0001d12a": "♯♯", "\U0001d12b": "♭♭", "\ue1e7": ".", "\uecb7": ".",
}  # fmt: skip


class _Run(Struct, frozen=True):
    """A part of words; ``sign``: it is in the music face, whose sizes are others."""

    words: str
    size: float
    bold: bool
    italic: bool
    sign: bool


def engraved_sheet(
    score: bytes,
    title: str,
    composer: str,
    under: str,
    options: Options,
    *,
    metrics: Metrics,
    percent: int = 86,
) -> Sheet:
    """A score over as many pages as it needs; ``percent`` is how large its staves are. Raises
    :class:`BadInput` where the score cannot be engraved."""
    filler = Filler(title, composer, under, options, metrics)
    top = filler.head(first=True)[0]
    width, height = options.size
    room = (width - 2 * MARGIN_MM, filler.bottom - top, round(percent * options.scale))
    toolkit = _toolkit(*room, "auto")
    _load(toolkit, score.decode(), title)
    in_lines, starts = _in_lines(score, _capacity(toolkit))
    toolkit = _toolkit(*room, "line")
    _load(toolkit, in_lines, title)
    drawn = _drawn(toolkit)
    systems = [svg.count(_SYSTEM) for svg in drawn]
    if len(systems) > 1 and systems[-1] == 1:  # a line alone on a page: pages share them
        each = -(-sum(systems) // len(systems))
        toolkit = _toolkit(*room, "encoded")
        _load(toolkit, _on_pages(in_lines, starts[each::each]), title)
        drawn = _drawn(toolkit)
    pages = []
    for number, svg in enumerate(drawn, 1):
        items = list(_page(svg, MARGIN_MM, top, width - 2 * MARGIN_MM, metrics))
        around = (*filler.head(number == 1)[1], *filler.foot(number, len(drawn)))
        pages.append(Page(width, height, (*around, *items)))
    return Sheet(title, tuple(pages))


def _load(toolkit: Any, score: str, title: str) -> None:
    if not toolkit.loadData(score):
        what = "the score could not be engraved"
        raise BadInput(Problem(title, what, "export it as MusicXML and look at it elsewhere"))


def _drawn(toolkit: Any) -> list[str]:
    """The pages as the engraver draws them."""
    return [toolkit.renderToSVG(number) for number in range(1, toolkit.getPageCount() + 1)]


def _capacity(toolkit: Any) -> int:
    """How many bars a line holds, by the engraver's own lines."""
    lines = [line for svg in _drawn(toolkit) for line in svg.split(_SYSTEM)[1:]]
    counts = sorted(line.count('class="measure"') for line in lines)
    return max(2, counts[(len(counts) - 1) // 2]) if counts else 4


def lines_of(sections: Sequence[int], capacity: int) -> list[int]:
    """How many bars each line has, of sections of so many bars: a section begins a line where the one before
    is at least half full, and no line has a single bar where there are two."""
    stretches: list[int] = []
    for bars in sections:
        last = _shared(stretches[-1], capacity)[-1] if stretches else capacity
        if last > 1 and 2 * last >= capacity:
            stretches.append(bars)
        else:
            stretches[-1] += bars
    if len(stretches) > 1 and stretches[-1] == 1:
        stretches[-2:] = [stretches[-2] + 1]
    return [bars for stretch in stretches for bars in _shared(stretch, capacity)]


def _shared(bars: int, capacity: int) -> list[int]:
    """Bars on as few lines as hold them, about as many on each."""
    lines = -(-bars // capacity)
    if bars > 1 and bars // lines < 2:
        lines = bars // 2
    return [bars // lines + (number < bars % lines) for number in range(lines)]


def _in_lines(score: bytes, capacity: int) -> tuple[str, list[int]]:
    """The score with lines that begin where sections do, if that leaves none half empty; and the measures
    that begin one."""
    root = _root(score.decode())
    _stack_fingers(root)
    part = root.find("part")
    measures = [] if part is None else part.findall("measure")
    begin = [0]
    for place, element in enumerate(measures):
        mark = element.find("print")
        if mark is not None:
            element.remove(mark)
            begin += [place] if place else []
    bars = lines_of([end - first for first, end in pairwise([*begin, len(measures)])], capacity)
    starts = [0, *accumulate(bars)][:-1]
    for place in starts[1:]:
        measures[place].insert(0, ET.Element("print", {"new-system": "yes"}))
    return ET.tostring(root, encoding="unicode"), starts


def _stack_fingers(root: ET.Element) -> None:
    """All fingers of a chord at its lowest note: the engraver puts them one over the other then, in order.
    At notes of their own the finger of a note that stands aside, as in a second, comes beside the lowest."""
    lowest: ET.Element | None = None
    for note in root.iter("note"):
        if note.find("chord") is None:
            lowest = note.find("notations/technical")
            continue
        own = note.find("notations/technical")
        if own is not None and lowest is not None:
            lowest.extend(own.findall("fingering"))
            own.clear()


def _on_pages(score: str, firsts: Sequence[int]) -> str:
    """The score with pages that begin with some measures."""
    root = _root(score)
    measures = root.findall("part")[0].findall("measure")
    for place in firsts:
        mark = measures[place].find("print")
        assert mark is not None
        mark.set("new-page", "yes")
    return ET.tostring(root, encoding="unicode")


def _root(score: str) -> ET.Element:
    return ET.fromstring(score[score.index("<score-partwise") :])


def _toolkit(width: float, height: float, percent: int, breaks: str) -> Any:
    import verovio  # noqa: PLC0415 - heavy, and only scores need it

    verovio.enableLog(verovio.LOG_OFF)
    toolkit = verovio.toolkit(False)  # where its faces lie is known to the thread that loaded it alone
    toolkit.setResourcePath(str(files("verovio") / "data"))
    share = _UNITS_MM * 100 / percent
    toolkit.setOptions(
        {
            "pageWidth": round(width * share), "pageHeight": round(height * share), "scale": percent,
            "header": "none", "footer": "none", "breaks": breaks,
            "font": "Bravura", "svgViewBox": True,
            "pageMarginLeft": 0, "pageMarginRight": 0, "pageMarginTop": 20, "pageMarginBottom": 0,
            "smuflTextFont": "none", "adjustPageHeight": False, "lyricSize": 4.0, "spacingStaff": 8,
            "spacingSystem": 12,
        }
    )  # fmt: skip
    return toolkit


def _page(svg: str, x: float, y: float, width: float, metrics: Metrics) -> Iterator[Item]:
    """The drawing without words, and the words."""
    root = ET.fromstring(svg)
    inner = next(element for element in root.iter(f"{_SVG}svg") if element is not root)
    box = [float(word) for word in (inner.get("viewBox") or "").split()]
    scale = width / box[2]
    margin = next(element for element in inner.iter(f"{_SVG}g") if element.get("class") == "page-margin")
    shift = [float(word) for word in re.findall(r"-?[0-9.]+", margin.get("transform", "")) or ("0", "0")]
    _drop_placeholders(inner)
    frame = _Frame(x + shift[0] * scale, y + shift[1] * scale, scale, x + width)
    marks = list(_taken_out(inner, frame))
    words = list(_words(inner, frame, metrics))
    yield Picture(x, y, width, box[3] * scale, _drawing(root, inner))
    yield from words
    yield from _boxed(marks, x, x + width, metrics)


def _drop_placeholders(inner: ET.Element) -> None:
    """What stands for something that is drawn elsewhere, such as the milestones of sections."""
    for parent in list(inner.iter()):
        for child in list(parent):
            if "placeholder" in child.get("class", "").split():
                parent.remove(child)


def _drawing(root: ET.Element, inner: ET.Element) -> bytes:
    """The same as one plain SVG: the inner one becomes a group, since many painters skip a nested one."""
    whole = ET.Element("svg", {"viewBox": inner.get("viewBox") or ""})
    for child in root:
        if child.tag == f"{_SVG}defs":
            whole.append(child)
    group = ET.SubElement(
        whole, "g", {"color": "black", "fill": "black", "stroke": "black", "stroke-width": "0"}
    )
    group.extend(list(inner))
    for element in whole.iter():
        element.tag = element.tag.removeprefix(_SVG)
        for name in ("id", "class", "style"):
            if not (name == "id" and element.get("id", "").startswith("E")):
                element.attrib.pop(name, None)
        if element.tag in ("path", "polyline", "polygon", "rect") and "stroke-width" in element.attrib:
            element.attrib.setdefault("stroke", "black")
    body: bytes = ET.tostring(whole, encoding="utf-8")
    text = body.decode().replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
    return text.replace("ns0:href", "xlink:href").encode()


class _Frame(Struct, frozen=True):
    """Where the drawing lies on its page, in millimetres, how large one of its units is, and where the page
    ends."""

    x: float
    y: float
    scale: float
    right: float


def _taken_out(inner: ET.Element, frame: _Frame) -> Iterator[Text]:
    """The names of sections, taken out of the drawing with their frames; where each one begins: at its bar
    line, which the engraver has in their middle, and above the symbols of its line, where nothing else is."""
    for system in inner.iter(f"{_SVG}g"):
        if system.get("class") != "system":
            continue
        groups = [one for one in system.iter(f"{_SVG}g") if one.get("class") == "reh"]
        marks = [mark for group in groups for mark in _marks(group, frame)]
        harms = (one for one in system.iter(f"{_SVG}g") if one.get("class") == "harm")
        tops = [place[1] for one in harms if (place := _place(one)) is not None]
        for mark in marks:
            over = frame.y + min(tops) * frame.scale - 1.4 * mark.size * POINT_MM if tops else mark.y
            yield replace(mark, y=min(over, *(one.y for one in marks), mark.y))
        for group in groups:
            for child in list(group):
                group.remove(child)


def _marks(group: ET.Element, frame: _Frame) -> Iterator[Text]:
    for element in group.iter(f"{_SVG}text"):
        runs = [run for run in _runs(element, 0.0, False, False) if run.words.strip()]
        place = _place(element)
        if runs and place is not None:
            size = _FACE_SHARE * max(run.size for run in runs) * frame.scale / POINT_MM
            words = " ".join("".join(run.words for run in runs).split())
            yield Text(frame.x + place[0] * frame.scale, frame.y + place[1] * frame.scale, words, size)


def _boxed(marks: Sequence[Text], left: float, right: float, metrics: Metrics) -> Iterator[Item]:
    """Names of sections in their frames, within the page and each before the next one of its line: smaller
    where that is needed, and cut where that is not enough."""
    for mark in marks:
        pad = mark.size * POINT_MM * 0.25
        behind = [one.x for one in marks if abs(one.y - mark.y) < 1.0 and one.x > mark.x]
        end = min([right, *(x - 4 * pad for x in behind)])
        start = mark.x if mark.x - left > _INDENT_MM else left
        room = end - start - 2 * pad
        size = fitted(mark.words, room, mark.size, metrics)
        words = shortened(mark.words, room, size, metrics)
        wide, tall = metrics.width_mm(words, size), mark.size * POINT_MM
        yield Box(start, mark.y - tall, wide + 2 * pad, tall * 1.35, outline="ink", width=0.2)
        yield Text(start + pad, mark.y, words, size)


def _words(inner: ET.Element, frame: _Frame, metrics: Metrics) -> Iterator[Item]:
    """All words, taken out of the drawing."""
    parents = {child: parent for parent in inner.iter() for child in parent}
    for element in list(inner.iter(f"{_SVG}text")):
        runs = [run for run in _runs(element, 0.0, False, False) if run.words.strip()]
        place = _place(element)
        if runs and place is not None:
            text = " ".join("".join(run.words for run in runs).split())
            plain = [run.size for run in runs if not run.sign] or [runs[0].size * _SIGN_SHARE]
            size = _FACE_SHARE * max(plain) * frame.scale / POINT_MM
            side = {"middle": "middle", "end": "right"}.get(_anchor(element), "left")
            left, base = frame.x + place[0] * frame.scale, frame.y + place[1] * frame.scale
            if HALF in text:
                before, text = (part.strip() for part in text.split(HALF, 1))
                if before:
                    yield Text(left, base, before, size)
                    left += metrics.width_mm(f"{before} ", size)
                tall = size * POINT_MM
                yield Picture(left, base - tall, tall * 12 / 34, tall * 1.06, _HALF_NOTE)
                left += tall * 0.55
            bold, italic = any(run.bold for run in runs), all(run.italic for run in runs)
            if side == "left":  # our face is wider: a symbol at the end of a line would leave the page
                size = fitted(text, frame.right - left, size, metrics, bold)
            yield Text(left, base, text, size, bold, side=side, italic=italic)  # type: ignore[arg-type]
        parents[element].remove(element)


def _place(element: ET.Element) -> tuple[float, float] | None:
    """Where words begin: at the text or at the first part of it that says so."""
    for one in element.iter():
        if one.get("x") and one.get("y"):
            return float((one.get("x") or "0").split()[0]), float((one.get("y") or "0").split()[0])
    return None


def _anchor(element: ET.Element) -> str:
    return next((one.get("text-anchor") or "" for one in element.iter() if one.get("text-anchor")), "")


def _runs(element: ET.Element, size: float, bold: bool, italic: bool) -> Iterator[_Run]:
    match = re.match(r"[0-9.]+", element.get("font-size") or "")
    size = float(match[0]) if match else size
    bold = (element.get("font-weight") or ("bold" if bold else "")) == "bold"
    italic = (element.get("font-style") or ("italic" if italic else "")) == "italic"
    if element.text and (element.text.strip() or not len(element)):
        words = "".join(_SIGNS.get(sign, sign) for sign in element.text if not _odd(sign))
        yield _Run(words, size, bold, italic, element.get("font-family") == "Bravura")
    for child in element:
        yield from _runs(child, size, bold, italic)


def _odd(sign: str) -> bool:
    """A sign of the music face that has no letter."""
    return "\ue000" <= sign <= "\uf8ff" and sign not in _SIGNS
