"""Reading lead sheets from MusicXML.

It is our own, over defusedxml: the libraries that read scores lose chord degrees
or the place of a mistake, and do not guard against hostile files.
"""

from __future__ import annotations

from collections.abc import Sequence
from xml.etree import ElementTree as ET

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats.imported import Imported
from yellow_hinge.formats.lead_sheet import MAX_MEASURES, LeadSheet, Sung, top_voice
from yellow_hinge.formats.musicxml.measures import PartReader
from yellow_hinge.formats.musicxml.parsing import MAX_BYTES, TUNE_FIELD, parsed, text_of, unpacked
from yellow_hinge.formats.musicxml.signs import signs_of

__all__ = ["MAX_BYTES", "MAX_MEASURES", "read"]


def read(data: bytes, place: str = "score") -> Imported:
    """Read a lead sheet (.musicxml, .xml or .mxl): chords, form, keys, meters, tempi, tune and words.

    Chords come from the part that has most symbols, where it has none from others, the tune from the part
    with words, else from that part, else from the first one with notes; everything in sounding pitch. What
    is not taken over is remarked with its bar. Raises :class:`BadInput` for files that are not scores, too
    large, hostile, or without chords.
    """
    root = parsed(unpacked(data, place), place)
    if root.tag not in ("score-partwise", "score-timewise"):
        raise BadInput(Problem(place, f"the file holds <{root.tag}>, not a score", "open a MusicXML score"))
    if root.tag == "score-timewise":
        raise BadInput(
            Problem(place, "the score is stored by time, not by part", "save it as score-partwise")
        )
    parts = root.findall("part")
    named = [len(part.findall("measure/harmony")) for part in parts]
    chosen = parts[named.index(max(named))] if any(named) else None
    if chosen is None:
        raise BadInput(
            Problem(place, "the score has no chord symbols", "add them in the score, or type a chart")
        )
    return _ScoreReader(root, parts, chosen, place).run()


class _ScoreReader(LeadSheet):
    """Takes measures, tune and signs from the parts of a score."""

    def __init__(self, root: ET.Element, parts: Sequence[ET.Element], chosen: ET.Element, place: str) -> None:
        title = text_of(root, "work/work-title") or text_of(root, "movement-title")
        super().__init__(place, title, text_of(root, "identification/creator[@type='composer']"))
        field = f"identification/miscellaneous/miscellaneous-field[@name='{TUNE_FIELD}']"
        self.tune_part = text_of(root, field)  # of our own files: where the tune is, if there is one
        rows = [part.findall("measure") for part in parts]
        if max(map(len, rows)) > MAX_MEASURES:
            raise BadInput(Problem(place, f"{max(map(len, rows))} bars are too many", "split the score"))
        self.measures = PartReader(chosen, self.remark).measures()
        self.signs = signs_of([[row[n] for row in rows if n < len(row)] for n in range(len(self.measures))])
        self.tune = self._tune_of(parts, chosen)
        self._take_chords([part for part in parts if part is not chosen])
        self._take_tempi(parts, chosen)

    # --- which part ---

    def _tune_of(self, parts: Sequence[ET.Element], chosen: ET.Element) -> list[list[Sung]]:
        """The notes of the tune by measure."""
        if self.tune_part == "none":
            return [[] for _ in self.measures]
        element = next((part for part in parts if part.get("id") == self.tune_part), None)
        sung = next((part for part in parts if part.find("measure/note/lyric") is not None), None)
        sung = sung if element is None else element
        order = [part for part in (sung, chosen, *parts) if part is not None]
        for part in dict.fromkeys(order):
            measures = self.measures if part is chosen else PartReader(part, _nothing).measures()
            voice = top_voice(measures)
            if voice:
                rows = [measure.voices.get(voice, []) for measure in measures]
                blank: list[list[Sung]] = [[] for _ in range(len(self.measures) - len(rows))]
                return (rows + blank)[: len(self.measures)]
        return [[] for _ in self.measures]

    def _take_chords(self, parts: Sequence[ET.Element]) -> None:
        """Symbols of other parts, where the one with most of them has none; what contradicts is said."""
        for part in parts:
            if part.find("measure/harmony") is None:
                continue
            for measure, other in zip(self.measures, PartReader(part, _nothing).measures(), strict=False):
                if not measure.chords:
                    measure.chords = other.chords
                elif other.chords and other.chords != measure.chords:
                    what = "another part has other chords"
                    self.remark(measure.number, what, "they are left out; look at them")

    def _take_tempi(self, parts: Sequence[ET.Element], chosen: ET.Element) -> None:
        """Tempo marks may stand in any part, mostly the first."""
        first = parts[0]
        if first is not chosen:
            for measure, other in zip(self.measures, PartReader(first, _nothing).measures(), strict=False):
                measure.tempo, measure.later = measure.tempo or other.tempo, measure.later or other.later


def _nothing(*_: str) -> None:
    """Remarks of a part that is looked through for its notes only."""
