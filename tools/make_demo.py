"""Solve the demo charts and write them as project files. Run after any change of weights."""

from __future__ import annotations

from pathlib import Path

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.patterns import HELD
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.song.groove import Groove, Texture
from yellow_hinge.song.groove_edits import set_riff, set_texture
from yellow_hinge.song.model import FIRST_TAKE, Song, Take
from yellow_hinge.tasks.files.opening import DEMO_SONGS, save_song
from yellow_hinge.tasks.rhythm.checks import check_rhythm
from yellow_hinge.tasks.rhythm.riff_text import read_riff_text
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

FOLDER = Path(__file__).parent.parent / "src" / "yellow_hinge" / "demo"
SCHOOLS = {"lantern-ferry": "solo", "copper-kite": "band", "salt-stairs": "guide"}


#: How each song is played.
GROOVES = {
    "lantern-ferry": Groove(
        Texture("waltz-lifted", "waltz-leading"),
        {("Landing", 0): Texture("root-fifth-tenth-waltz", "waltz-broken")},
        slowing=3, ending="rolled",
    ),
    "copper-kite": Groove(
        Texture("held-again", "ands-of-two-and-four"),
        {("Tail in the wind", 0): Texture("held", "one-and-two-and")},
        swing=34, ending="held", drums="rim", bass_line="swing-two",
    ),
    "salt-stairs": Groove(
        Texture("held", "ballad-core"),
        {("Stairs", 0): Texture("rocking", "held-top-again")},
        build=True, slowing=4, ending="rolled", roll_ms=60,
    ),
}  # fmt: skip
#: Song -> where (the last slot of a section) and what its riff is.
RIFFS = {
    "lantern-ferry": ("Landing", "r:1 E5:1/2 G#5:1/2 B5:1"),
    "copper-kite": ("Vamp", "r:2 E5:1/2 D5:1/2 B4:1"),
    "salt-stairs": ("Stairs", "r:1 G5:1 F5:1/2 Eb5:1/2 Bb4:1"),
}


def with_riff(name: str, song: Song) -> Song:
    """The song with its riff."""
    section, text = RIFFS[name]
    last = [slot for slot in song.slots if slot.section == section][-1]
    return set_riff(song, last.at, read_riff_text(text)).song


def playable(song: Song) -> Song:
    """The song with chords held where their pattern would hide what changes."""
    for one in check_rhythm(song):
        if one.kind == "hidden":
            song = set_texture(song, song.slots[one.slot].at, "Held", {one.hand: HELD}).song
    return song


def main() -> None:
    library = builtin_library()
    for name in DEMO_SONGS:
        chart = parse_chart((FOLDER / f"{name}.txt").read_text("utf-8"))
        song = Song(chart, (Take(0, FIRST_TAKE, Arrangement(SCHOOLS[name], groove=GROOVES[name])),))
        voiced = voice_song(song, library, Planner(library))
        song = voice_song(playable(with_riff(name, voiced.song)), library, Planner(library)).song
        save_song(song, FOLDER / f"{name}.yhinge", library)
        print(f"{name}: {len(song.slots)} chords, cost {voiced.answer.cost / 100:g}")


if __name__ == "__main__":
    main()
