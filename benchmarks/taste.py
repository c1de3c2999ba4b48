"""How much nearer the first row comes to players whose prices are not ours: players with six hidden prices,
each off by two to three times, who correct the program's rows of some of our songs, chord by chord, until the
rest is theirs, and whose taste is learnt from those choices alone. Prints the corrections that new songs need
until the row is theirs, by how many choices were made before, against none learnt; the same for players who
take another grip in one choice of five, and for players who do so in every choice. Then, for six players
whose rows were written by hand (players.tsv), the hands that are exactly theirs, each song by what the
others say. Run: python benchmarks/taste.py [players]
"""

from __future__ import annotations

import random
import sys
from collections import defaultdict
from pathlib import Path

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import choose, settle
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.page import locked, read_page
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.taste.choices import learnt_from_song
from yellow_hinge.tasks.taste.learning import OwnRow, learn
from yellow_hinge.tasks.taste.taste import Taste
from yellow_hinge.voicing.own_prices import OwnPrices
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import Voicing

SONGS, PLAYERS = (Path(__file__).parent / name for name in ("songs.tsv", "players.tsv"))
HIDDEN = (
    "left_move", "right_move", "bass_move", "top_move", "enter", "leave", "held_long", "gap", "high_bass",
    "mud", "seconds", "colour", "left_self_2", "left_self_3", "right_2", "right_3", "right_4", "aim",
    "tendency", "echo",
)  # fmt: skip
#: After how many choices it is looked at, and how many of the songs are tried then.
AFTER, TRIED = (0, 10, 20, 40), 8
#: Of so many voicings a player who slips takes any.
OTHERS = 12
Grips = dict[int, Voicing]


def songs() -> list[Song]:
    found = []
    for line in SONGS.read_text("utf-8").splitlines():
        if line and not line.startswith("#"):
            name, key, chart = line.split("\t")[:3]
            rows = chart.replace("] ", "]\n").replace(" [", "\n[")
            found.append(Song(parse_chart(f"title: {name}\nkey: {key}\n{rows}\n")))
    return found


class Player:
    """Somebody with hidden prices, who slips in some of their choices."""

    def __init__(self, library: Library, seed: int, noise: float, hidden: OwnPrices) -> None:
        self._library, self._noise, self._hidden = library, noise, hidden
        self._dice = random.Random(seed)
        self._planner = Planner(library)

    def voiced(self, song: Song, prices: OwnPrices | None) -> Song:
        with_prices = settle(song, prices=prices).song
        return voice_song(with_prices, self._library, self._planner).song

    def corrected(self, song: Song, prices: OwnPrices | None) -> tuple[Song, int]:
        """The program's row, corrected chord by chord until the rest is as they would have it, and how many
        corrections that took. Where they slip, they take any of the voicings that come next."""
        song, count = self.voiced(song, prices), 0
        while True:
            wanted = grips(self.voiced(song, self._hidden))
            at = next((k for k, own in grips(song).items() if not same(own, wanted[k])), None)
            if at is None:
                return song, count
            voicing = wanted[at]
            if self._dice.random() < self._noise:
                ranked = list(self._planner.alternatives(OTHERS))
                voicing = self._dice.choice(ranked[song.column_of[at]]).voicing
            song, count = self.voiced(choose(song, at, voicing).song, prices), count + 1


def grips(song: Song) -> Grips:
    """By the slot where a column is first played."""
    return {column[0]: song.voicing(column[0]) or Voicing() for column in song.columns}


def same(one: Voicing, other: Voicing) -> bool:
    return one.left.keys == other.left.keys and one.right.keys == other.right.keys


def main() -> None:
    ours, every = builtin_library(), songs()
    players = int(sys.argv[1]) if len(sys.argv) > 1 else 6
    for words, noise in (("steady", 0.0), ("one in five", 0.2), ("by chance", 1.0)):
        needed = dict.fromkeys(AFTER, 0)
        for seed in range(players):
            dice = random.Random(seed)
            shares = {name: dice.choice((1 / 3, 0.4, 2.5, 3.0)) for name in dice.sample(HIDDEN, 6)}
            hidden = OwnPrices(shares)
            player, steady = (Player(ours, seed, one, hidden) for one in (noise, 0.0))
            known = every[:-TRIED]
            dice.shuffle(known)
            taste, made = Taste(), 0
            for after in AFTER:
                while made < after and known:
                    song = known.pop()
                    song, count = player.corrected(song, taste.prices(""))
                    made += count
                    taste = learnt_from_song(taste, song, ours)
                new = every[-TRIED:]
                needed[after] += sum(steady.corrected(song, taste.prices(""))[1] for song in new)
        shares_of = ", ".join(f"{after} choices {needed[after] / needed[0]:.2f}" for after in AFTER)
        print(f"{words}: {needed[0]} corrections; after {shares_of}", flush=True)


def by_hand() -> None:
    library, rows = builtin_library(), defaultdict(list)
    for line in PLAYERS.read_text("utf-8").splitlines():
        if not line.startswith("#"):
            player, title, key, grips = line.split("\t")
            page = read_page(f"title: {title}\nkey: {key}\n{grips}\n", title)
            song = Song(page.chart)
            held = locked(song, page, library)
            rows[player].append(OwnRow(title, song, tuple(held.voicing(slot.index) for slot in held.slots)))
    for player, own in rows.items():
        sure = learn(own, library).sure
        print(
            f"{player}: {sure.before / sure.of:.2f} of the hands, learnt {sure.after / sure.of:.2f}",
            flush=True,
        )


if __name__ == "__main__":
    main()
    by_hand()
