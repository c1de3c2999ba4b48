"""What the measures of a score say about the order in which they are played: bar lines, signs and words."""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction
from xml.etree import ElementTree as ET

from yellow_hinge import strict
from yellow_hinge.formats.form_in import MOST_TIMES, Signs

#: A direction begins with its sign, or follows a word that leads to it; within a sentence it is none.
_LED = r"^\W*(?:(?:then|and|last time|end of)\s+)?"
_ON = r"(?=\W*$|\s+(?:al|alla|to|till|until|senza|con|without|with|and|then|e poi|[0-9])|\s*[(\u2013-])"
_CAPO = re.compile(rf"{_LED}(?:d\.? ?c\.?|da capo){_ON}", re.I)
_SEGNO = re.compile(rf"{_LED}(?:d\.? ?s\.?|dal segno){_ON}", re.I)
_TO_CODA = re.compile(rf"{_LED}(?:to|al|alla)\s+(?:the\s+)?coda\b.{{0,12}}$", re.I)
_FINE = re.compile(r"^\W*fine\W*$", re.I)


def signs_of(measures: Sequence[Sequence[ET.Element]]) -> list[Signs]:
    """The signs of each measure, from all parts that have it."""
    found = []
    for parts in measures:
        signs = Signs()
        for element in parts:
            _read(element, signs)
        found.append(signs)
    codas = [one for one in found if one.coda]
    if (
        len(codas) > 1
        and any(one.jump for one in found)
        and not any(one.to_coda is not None for one in found)
    ):
        for coda in codas[:-1]:  # the same sign says where the coda is gone to, and where it is
            coda.coda, coda.to_coda = False, coda.coda_at
    return found


def _read(measure: ET.Element, signs: Signs) -> None:
    started = False
    for child in measure:
        if child.tag == "note":
            started = True
        elif child.tag == "barline":
            _barline(child, signs)
        elif child.tag in ("direction", "sound"):
            _direction(child, signs, started)


def _barline(element: ET.Element, signs: Signs) -> None:
    repeat, ending = element.find("repeat"), element.find("ending")
    if repeat is not None and repeat.get("direction") == "forward":
        signs.begins = True
    elif repeat is not None:
        signs.ends = max(2, min(MOST_TIMES, strict.whole(repeat.get("times", "")) or 2))
    if ending is not None and ending.get("type") == "start":
        numbers = (strict.whole(word) for word in re.split(r"[,\s.]+", ending.get("number", "")))
        signs.ending = frozenset(
            number for number in numbers if number and number <= MOST_TIMES
        ) or frozenset({1})
    elif ending is not None:
        signs.closes = True
    signs.segno |= element.find("segno") is not None or bool(element.get("segno"))
    signs.coda |= element.find("coda") is not None or bool(element.get("coda"))


def _direction(element: ET.Element, signs: Signs, started: bool) -> None:
    """Signs and words; what the sound element says goes before what is printed."""
    sound = element if element.tag == "sound" else element.find("sound")
    said = {} if sound is None else sound.attrib
    kinds = [kind for one in element.findall("direction-type") for kind in one]
    words = " ".join(" ".join((kind.text or "").split()) for kind in kinds if kind.tag == "words")
    mark = next((" ".join((kind.text or "").split()) for kind in kinds if kind.tag == "rehearsal"), "")
    signs.mark = signs.mark or mark
    signs.segno |= "segno" in said or any(kind.tag == "segno" for kind in kinds)
    place = Fraction(1) if started else Fraction(0)
    if "tocoda" in said or (_TO_CODA.search(words) and not (_CAPO.search(words) or _SEGNO.search(words))):
        signs.to_coda = place
    else:
        here = "coda" in said or any(kind.tag == "coda" for kind in kinds)
        signs.coda_at = place if here and not signs.coda else signs.coda_at
        signs.coda |= here
    if said.get("dacapo") == "yes" or _CAPO.search(words):
        signs.jump = "capo"
    elif "dalsegno" in said or _SEGNO.search(words):
        signs.jump = "segno"
    elif said.get("fine") or _FINE.match(words):
        signs.fine = True
