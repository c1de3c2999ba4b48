"""Opening a MusicXML file safely: packed or plain, well-formed, without entities, of a score's size."""

from __future__ import annotations

import io
import zipfile
from typing import Any
from xml.etree import ElementTree as ET

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser

from yellow_hinge import strict
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.text_kinds import refuse_others

#: Limits on hostile input.
MAX_BYTES = MAX_UNPACKED_BYTES = 12_000_000
MAX_ELEMENTS, MAX_DEPTH = 200_000, 60
#: Members of a packed score, and how many times its size a member may unpack to.
MAX_MEMBERS, MAX_RATIO = 400, 200
#: Bytes from one > to the next: an element with hundreds of thousands of attributes takes seconds.
MAX_RUN = 100_000
#: The field of our own files that says in which part the tune is ("none": in none), so that they reopen as
#: they were.
TUNE_FIELD = "yellow-hinge-tune"


def unpacked(data: bytes, place: str) -> bytes:
    """The score inside a compressed file; other data as it is."""
    if len(data) > MAX_BYTES:
        raise BadInput(
            Problem(place, f"{len(data)} bytes are too large for a lead sheet", "export the lead sheet alone")
        )
    refuse_others(data, place, b"PK")
    if not data.startswith(b"PK"):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if len(archive.infolist()) > MAX_MEMBERS:
                what = f"{len(archive.infolist())} files are packed in it"
                raise BadInput(Problem(place, what, "export the lead sheet alone"))
            return _member(archive, _score_name(archive, place), place)
    except BadInput:
        raise
    except Exception as error:  # what a damaged archive makes the library raise has no end
        what = f"the compressed file is damaged ({type(error).__name__}: {error})"
        raise BadInput(Problem(place, what, "export it once more")) from None


def _member(archive: zipfile.ZipFile, name: str, place: str) -> bytes:
    """A packed file, never unpacked beyond the limits, whatever the archive says of its size."""
    info = archive.getinfo(name)
    most = min(MAX_UNPACKED_BYTES, MAX_RATIO * max(info.compress_size, 1000))
    with archive.open(info) as member:
        data = member.read(most + 1)
    if len(data) > most:
        raise BadInput(Problem(place, "the packed score is too large", "export the lead sheet alone"))
    return data


def _score_name(archive: zipfile.ZipFile, place: str) -> str:
    container = "META-INF/container.xml"
    if container in archive.namelist():
        rootfile = parsed(_member(archive, container, place), place).find(".//{*}rootfile")
        if rootfile is not None and rootfile.get("full-path") in archive.namelist():
            return str(rootfile.get("full-path"))
    for name in archive.namelist():
        if name.endswith((".xml", ".musicxml")) and not name.startswith("META-INF"):
            return name
    raise BadInput(Problem(place, "the compressed file holds no score", "export it once more"))


def packed(score: bytes) -> bytes:
    """A score as a compressed file (.mxl)."""
    container = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<container><rootfiles>'
        '<rootfile full-path="score.musicxml" media-type="application/vnd.recordare.musicxml+xml"/>'
        "</rootfiles></container>\n"
    )
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("META-INF/container.xml", container)
        archive.writestr("score.musicxml", score)
    return buffer.getvalue()


class _TooMuch(Exception):
    """The file has more in it than any score."""


class _Builder(ET.TreeBuilder):
    """Builds the tree as long as it stays a sensible one."""

    def __init__(self) -> None:
        super().__init__()
        self._depth = self._count = 0

    def start(self, tag: str, attrs: Any) -> ET.Element:
        self._depth, self._count = self._depth + 1, self._count + 1 + len(attrs)
        if self._depth > MAX_DEPTH or self._count > MAX_ELEMENTS:
            raise _TooMuch
        return super().start(tag, attrs)

    def end(self, tag: str) -> ET.Element:
        self._depth -= 1
        return super().end(tag)


def parsed(data: bytes, place: str) -> ET.Element:
    if max(map(len, data.split(b">"))) > MAX_RUN:
        raise BadInput(
            Problem(place, f"an element is longer than {MAX_RUN:,} bytes", "export the score once more")
        )
    try:
        parser = DefusedXMLParser(target=_Builder())
        parser.feed(data)
        root: ET.Element = parser.close()
    except _TooMuch:
        what = f"it has more than {MAX_ELEMENTS:,} elements, or they are nested more than {MAX_DEPTH} deep"
        raise BadInput(Problem(place, what, "export the lead sheet alone")) from None
    except ET.ParseError as error:
        line, column = error.position
        raise BadInput(
            Problem(
                f"{place}, line {line}, column {column + 1}", "this is not well-formed XML",
                "export the score once more", line, column + 1,
            )
        ) from None  # fmt: skip
    except DefusedXmlException:
        raise BadInput(
            Problem(
                place,
                "the file defines entities, which a score never needs",
                "do not open files of unknown origin; export it once more",
            )
        ) from None
    except (ValueError, LookupError) as error:
        raise BadInput(Problem(place, f"this is not XML ({error})", "open a MusicXML score")) from None
    return root


def text_of(element: ET.Element | None, path: str, default: str = "") -> str:
    found = None if element is None else element.find(path)
    return default if found is None or found.text is None else " ".join(found.text.split())


def whole_of(element: ET.Element | None, path: str, default: int) -> int:
    value = strict.decimal(text_of(element, path))
    return default if value is None else int(value)
