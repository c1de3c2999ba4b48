"""A sheet of 500 chords against the 5 s of one core that it may take; and what a score of them takes.

Run: python benchmarks/sheets.py
"""

from __future__ import annotations

import os
import time

from msgspec.structs import replace

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.sheet.kinds import KIND_IDS
from yellow_hinge.sheet.page import Options
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.sheets.kinds import sheet_of
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.ui.sheet_painter import QtPress, pdf_bytes
from yellow_hinge.voicing.recipes import builtin_library

MAY_TAKE_S = 5.0
_ROW = "| Dm9 | G13 | Cmaj9 | A7b9 | Fm6 | Bb13 | Ebmaj7 | Abmaj7 | Dm7b5 | G7b9 |\n"


def main() -> None:
    library = builtin_library()
    text = "title: Long\nkey: C\n" + "".join(f"[Part {n}]\n{_ROW}" for n in range(50))
    song = voice_song(Song(parse_chart(text)), library, Planner(library)).song
    metrics = QtPress().metrics()
    print(f"a song of {len(song.slots)} chords, as PDF; shares of {MAY_TAKE_S:g} s of one core")
    for kind in KIND_IDS:
        begun = time.process_time()
        sheet = sheet_of(replace(song), library, kind, Options(), metrics)
        data = pdf_bytes(sheet)
        share = (time.process_time() - begun) / MAY_TAKE_S
        print(f"  {kind:9} {share:.2f}  ({len(sheet.pages)} pages, {len(data) // 1000} kB)")


if __name__ == "__main__":
    main()
