"""MusicXML: lead sheets in, two engraved staves with chord symbols out."""

from yellow_hinge.formats.musicxml.reader import MAX_BYTES, read
from yellow_hinge.formats.musicxml.writer import write

__all__ = ["MAX_BYTES", "read", "write"]
