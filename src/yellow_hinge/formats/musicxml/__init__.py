"""MusicXML: lead sheets in, scores out."""

from yellow_hinge.formats.musicxml.parsing import packed
from yellow_hinge.formats.musicxml.reader import MAX_BYTES, read
from yellow_hinge.formats.musicxml.writer import write

__all__ = ["MAX_BYTES", "packed", "read", "write"]
