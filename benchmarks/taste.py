"""How much nearer the first row comes to players whose prices are not ours: players with six hidden prices,
each off by two to three times, learnt from rows of some of our songs and tried on others. Prints, by how many
chords it was learnt from, the share of hands that have to be corrected on new songs, against none learnt; the
same for a player who takes another grip in one choice of five, and for one who chooses by chance.
Run: python benchmarks/taste.py [players]
"""

from __future__ import annotations

import random
import sys
from pathlib import Path

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.taste.learning import OwnRow, learn
from yellow_hinge.tasks.taste.taste import Taste, tasted
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import Voicing

SONGS = Path(__file__).parent / "songs.tsv"
HIDDEN = (
    "left_move", "right_move", "bass_move", "top_move", "enter", "leave", "held_long", "gap", "high_bass",
    "mud", "seconds", "colour", "left_self_2", "left_self_3", "right_2", "right_3", "right_4", "aim",
    "tendency", "echo",
)  # fmt: skip
#: How many songs are learnt from, of 8 to 16 chords each, and how many are tried.
LEARNT_FROM, TRIED = (1, 2, 4, 8), 8


def songs() -> list[Song]:
    found = []
    for line in SONGS.read_text("utf-8").splitlines():
        if line and not line.startswith("#"):
            name, key, chart = line.split("\t")[:3]
            rows = chart.replace("] ", "]\n").replace(" [", "\n[")
            found.append(Song(parse_chart(f"title: {name}\nkey: {key}\n{rows}\n")))
    return found


def row(song: Song, library: Library) -> tuple[Voicing, ...]:
    return Planner(library).solve(progression(song, library)).row


def chosen(song: Song, library: Library, dice: random.Random, noise: float) -> OwnRow:
    """What a player has for a song: the row of least effort at their prices; where they slip, what they would
    have had at other prices."""
    others = row(song, tasted(library, Taste({name: dice.choice((0.3, 3.0)) for name in HIDDEN})))
    grips = [
        other if dice.random() < noise else own for own, other in zip(row(song, library), others, strict=True)
    ]
    return OwnRow(song.title, song, tuple(grips))


def corrections(rows: list[OwnRow], library: Library) -> int:
    return sum(
        grip.hand(side).keys != found.hand(side).keys
        for own in rows
        for grip, found in zip(own.grips, row(own.song, library), strict=True)
        if grip is not None
        for side in ("left", "right")
    )


def main() -> None:
    ours, every = builtin_library(), songs()
    players = int(sys.argv[1]) if len(sys.argv) > 1 else 6
    for words, noise in (("steady", 0.0), ("one in five", 0.2), ("by chance", 1.0)):
        wrong = dict.fromkeys((0, *LEARNT_FROM), 0)
        chords = 0
        for seed in range(players):
            dice = random.Random(seed)
            hidden = Taste({name: dice.choice((1 / 3, 0.4, 2.5, 3.0)) for name in dice.sample(HIDDEN, 6)})
            theirs = tasted(ours, hidden)
            new = [chosen(song, theirs, dice, 0.0 if noise < 1 else 1.0) for song in every[-TRIED:]]
            known = [chosen(song, theirs, dice, noise) for song in every[: max(LEARNT_FROM)]]
            wrong[0] += corrections(new, ours)
            for count in LEARNT_FROM:
                taste = learn(known[:count], ours).taste
                wrong[count] += corrections(new, tasted(ours, taste))
            chords += sum(len(own.grips) for own in new)
        shares = ", ".join(f"{count} songs {wrong[count] / max(1, wrong[0]):.2f}" for count in LEARNT_FROM)
        print(f"{words}: {wrong[0]} of {2 * chords} hands to correct; after {shares}", flush=True)


if __name__ == "__main__":
    main()
