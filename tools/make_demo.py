"""Solve the demo charts and write them as project files. Run after any change of weights."""

from __future__ import annotations

from pathlib import Path

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.model import FIRST_TAKE, Song, Take
from yellow_hinge.tasks.files import DEMO_SONGS, save_song
from yellow_hinge.tasks.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

FOLDER = Path(__file__).parent.parent / "src" / "yellow_hinge" / "demo"
SCHOOLS = {"lantern-ferry": "solo", "copper-kite": "band", "salt-stairs": "guide"}


def main() -> None:
    library = builtin_library()
    for name in DEMO_SONGS:
        chart = parse_chart((FOLDER / f"{name}.txt").read_text("utf-8"))
        song = Song(chart, (Take(0, FIRST_TAKE, Arrangement(SCHOOLS[name])),))
        voiced = voice_song(song, library, Planner(library))
        save_song(voiced.song, FOLDER / f"{name}.yhinge", library)
        print(f"{name}: {len(song.slots)} chords, cost {voiced.answer.cost / 100:g}")


if __name__ == "__main__":
    main()
