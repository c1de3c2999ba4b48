"""What is played in 2,000 chords of broken sixteenths in both hands, as a share of a second of one core;
and a step of scrolling the counting strip over them, as a share of a frame at 60 a second.

Run: python benchmarks/rhythm.py
"""

from __future__ import annotations

import os
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QCoreApplication

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import perform
from yellow_hinge.ui.document import Document
from yellow_hinge.ui.rhythm_page.view import RhythmPage
from yellow_hinge.ui.theme import make_application
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

CHORDS, FRAME_S = 2000, 1 / 60


def long_song() -> Song:
    """Two thousand chords with four notes in each hand."""
    bars = " | ".join(("Cmaj7", "Am7", "Dm7", "G13") * (CHORDS // 4))
    song = Song(parse_chart(f"key: C\ntempo: 90\n[A]\n| {bars} |\n"))
    labels = ("R", "3", "5", "7")
    grip = Voicing(HandShape((48, 52, 55, 59), labels, ""), HandShape((64, 67, 71, 74), labels, ""))
    song = with_voicings(song, [grip] * len(song.columns))
    hands = {"left": "sixteenths-up", "right": "sixteenths-turning", "pedal": "half"}
    return set_texture(song, None, "", hands).song


def main() -> None:
    song = long_song()
    song.slots  # noqa: B018 - is there before anything is played
    began = time.process_time()
    notes = len(perform(song).notes)
    print(f"events: {notes} notes, {time.process_time() - began:.2f} of a second")
    app = make_application()
    page = RhythmPage(Document(builtin_library(), song, lambda: None))  # type: ignore[arg-type,return-value]
    page.resize(1160, 750)
    page.show()
    QCoreApplication.processEvents()
    bar, steps = page.area.horizontalScrollBar(), []
    for step in range(300):
        began = time.process_time()
        bar.setValue(step * 40)
        QCoreApplication.processEvents()
        steps.append(time.process_time() - began)
    steps.sort()
    middle, slow = (steps[int(len(steps) * share)] / FRAME_S for share in (0.5, 0.95))
    print(f"scrolling: {middle:.2f} of a frame in the middle, {slow:.2f} for 95 of 100")
    page.close_page()
    del app


if __name__ == "__main__":
    main()
