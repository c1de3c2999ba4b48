"""What the plan does for a simulated player: ten songs, 20 minutes a day, 30 days, 50 players, two laws of
learning. Slips at the worst change, in the mean, and their root mean square (which counts both) after it, as
ratios to playing the songs from start to end for the same minutes, to drilling what is worst without spacing,
and to the best that can be.

The best that can be has the same drills and knows each player's own numbers: it gives the seconds of all days
to drills so that the mean square of the slips is lowest at the end, greedily by the greatest gain a second.
Its strokes take as long as those of the plan do on the average (both climb the same ladder); it loses no
second between drills, never drills what works, and has every round whole: a bound rather than a rival.

Where minutes are scarce: one song of 24 chords, 8 minutes a day, 14 days; the median over songs, players and
laws.

Prints ratios; asserts nothing. Run: python benchmarks/practice_plan.py [players]
"""

from __future__ import annotations

import os
import sys
from dataclasses import replace
from multiprocessing import Pool

import numpy as np

from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.learner import DAY_FULL, SLIP_TEACHES, Floats, Law, Learner
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.plan import BREAK, breaks_in
from yellow_hinge.practice.portions import Market
from yellow_hinge.practice.simulate import Order, Simulation
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.practice.room import piece_of
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

DAYS, MINUTES = 30, 20.0
SCARCE_DAYS, SCARCE_MINUTES = 14, 8.0
STEP_S = 30.0
LAWS: tuple[Law, ...] = ("power", "exponential")
ORDERS: tuple[Order, ...] = ("weakest", "song", "worst")
CHARTS = (
    """title: Tar Barrel
key: F
tempo: 100
[Haul]
| Fmaj7 | D7b9 | Gm9 | C13 | Am7 | D7 | Gm7 C7 | Fmaj7 |
[Rest]
| Bbmaj7 | Bbm6 | Am7 | Abdim7 | Gm7 | C7 | F6 | F6 |
""",
    """title: Iron Ladder
key: Db
tempo: 150
[Rung]
| Dbmaj7 | G13 | Gbmaj9 | C7b9 | Fm9 | E7 | A13 | Abm9 |
[Top]
| Gbmaj7 | F7#9 | Bbm9 | Eb13 | Ebm9 | Ab13 | Dbmaj9 | Ab7sus |
""",
    """title: Flat Water
key: C
tempo: 60
[Drift]
| C | Am | F | G | C | F | Dm7 G | C |
""",
    """title: Lock Keeper
key: Eb
tempo: 120
[Gate]
| Ebmaj9 | Cm9 | Fm9 | Bb13 | Gm7 | C7b9 | Fm7 Bb7 | Ebmaj7 |
[Sluice]
| Abmaj7 | Db9 | Gm7 | C7 | F13 | Bb9sus | Eb69 | Bb7 |
""",
    """title: Paper Anchor
key: Am
tempo: 92
[Drop]
| Am9 | D13 | Gmaj9 | Cmaj7 | F#m7b5 | B7b9 | Em9 | E7 |
[Weigh]
| Dm9 | G13 | Cmaj9 | Fmaj7 | Bm7b5 | E7b9 | Am6 | E7#9 |
""",
    """title: Night Tide
key: Bb
tempo: 72
[Ebb]
| Bbmaj9 | Bdim7 | Cm9 | F13 | Dm7 | G7b9 | Cm7 F7 | Bb6 |
""",
    """title: Copper Rain
key: E
tempo: 132
[Fall]
| Emaj9 | C#m9 | F#m9 | B13 | G#m7 | C#7b9 | F#m7 B7 | Emaj7 |
[Pour]
| Amaj7 | D9 | G#m7 | C#7 | F#13 | B9sus | E69 | B7 |
""",
)


def pieces() -> list[Piece]:
    """Ten songs, voiced."""
    library = builtin_library()
    planner = Planner(library)
    songs = [demo_song(name) for name in DEMO_SONGS] + [Song(parse_chart(text)) for text in CHARTS]
    return [piece_of(voice_song(song, library, planner).song, library) for song in songs]


PIECES: list[Piece] = []


def _begin(given: list[Piece]) -> None:
    PIECES[:] = given


def one(job: tuple[Law, str, int], days: int = DAYS, minutes: float = MINUTES) -> tuple[float, float, float]:
    """Slips of one player after the last day: the worst, the mean, the root mean square."""
    law, order, seed = job
    simulation = Simulation(PIECES, law, days, minutes, seed)
    if order == "best":
        planned = Simulation(PIECES, law, days, minutes, seed)
        list(planned.run("weakest"))
        shares = [share for _, _, share, _, _ in planned.played]
        slips = best(simulation.learner, float(1 / np.mean(1 / np.array(shares))), days, minutes)
    else:
        list(simulation.run(order))  # type: ignore[arg-type] # one of ORDERS
        slips = simulation.slips
    return float(slips.max()), float(slips.mean()), float(np.sqrt((slips**2).mean()))


def scarce(job: tuple[Law, str, int]) -> tuple[float, float, float]:
    return one(job, SCARCE_DAYS, SCARCE_MINUTES)


def best(learner: Learner, share: float, days: int, minutes: float) -> Floats:
    """Slips at the end, (changes,), if the seconds of all days go where they lower most, at a share of the
    tempo."""
    market = Market(PIECES, np.zeros(len(learner.start)))  # nothing slips: everything at full tempo
    market.round_s /= share
    portion = np.maximum(market.round_s, np.ceil(STEP_S / market.round_s) * market.round_s)
    given = market.tries * np.repeat(portion / market.round_s, np.diff([*market.starts, len(market.changes)]))
    fading = learner.fading(np.arange(days - 1, -1, -1.0))[:, None]
    left = np.full(days, (minutes - BREAK * breaks_in(minutes)) * 60)
    tries = np.zeros((days, len(learner.start)))
    strength = np.zeros(len(learner.start))
    gains: Floats | None = None
    while (left > 0).any():
        slips = learner.by_strength(strength)
        taught = given * (1 - (1 - SLIP_TEACHES) * slips[market.changes])
        before = tries[:, market.changes]
        more = fading * DAY_FULL * np.log((DAY_FULL + before + taught) / (DAY_FULL + before))
        drilled = replace(
            learner, start=learner.start[market.changes], floor=learner.floor[market.changes],
            need=learner.need[market.changes],
        )  # fmt: skip
        after = drilled.by_strength(strength[market.changes] + more)
        lowered = slips[market.changes] ** 2 - after**2
        gains = np.add.reduceat(lowered, market.starts, axis=1) / portion
        gains[left <= 0] = -1
        day, drill = np.unravel_index(int(gains.argmax()), gains.shape)
        own = slice(market.starts[drill], [*market.starts, len(market.changes)][drill + 1])
        strength[market.changes[own]] += more[day, own]
        tries[day, market.changes[own]] += taught[own]
        left[day] -= portion[drill]
    return learner.by_strength(strength)


def short_songs() -> list[Piece]:
    """Songs of 24 chords: the first section of a chart, the second one, and the first again."""
    library = builtin_library()
    planner, found = Planner(library), []
    for text in CHARTS:
        names = [line[1:-1] for line in text.splitlines() if line.startswith("[")]
        if len(names) == 2:
            head, rest = text.split("[", 1)
            song = Song(parse_chart(f"{head}form: {names[0]} {names[1]} {names[0]}\n[{rest}"))
            found.append(piece_of(voice_song(song, library, planner).song, library))
    return found


def say_scarce(players: int) -> None:
    """The plan against start to end, and against the best that can be, where minutes are scarce."""
    orders = ("weakest", "song", "best")
    rows: list[dict[str, tuple[float, float, float]]] = []
    for piece in short_songs():
        jobs = [(law, order, seed) for law in LAWS for seed in range(players) for order in orders]
        with Pool(os.cpu_count(), _begin, ([piece],)) as pool:
            found = pool.map(scarce, jobs, chunksize=6)
        rows += [dict(zip(orders, found[k : k + 3], strict=True)) for k in range(0, len(found), 3)]
    for order, words in (("weakest", "plan"), ("best", "best that can be")):
        ratio = np.median([np.array(row[order]) / np.array(row["song"]) for row in rows], axis=0)
        print(f"24 chords, {SCARCE_MINUTES:g} minutes, {SCARCE_DAYS} days: {words:16} / start to end  "
              f"worst {ratio[0]:.2f}  mean {ratio[1]:.2f}  (medians)")  # fmt: skip


def main() -> int:
    players = int(sys.argv[1]) if len(sys.argv) > 1 else 50
    jobs = [(law, order, seed) for law in LAWS for order in (*ORDERS, "best") for seed in range(players)]
    with Pool(os.cpu_count(), _begin, (pieces(),)) as pool:
        found = dict(zip(jobs, pool.map(one, jobs, chunksize=4), strict=True))
    print(f"{players} players, {DAYS} days of {MINUTES:g} minutes, {len(CHARTS) + len(DEMO_SONGS)} songs")
    words = {"song": "start to end", "worst": "worst first, unspaced", "best": "best that can be"}
    for law in LAWS:
        rows = {
            order: np.array([found[law, order, seed] for seed in range(players)])
            for order in (*ORDERS, "best")
        }
        for name, said in words.items():
            ratio = rows["weakest"] / rows[name]
            means, most = ratio.mean(axis=0), np.quantile(ratio, 0.95, axis=0)
            print(f"{law:12} plan / {said:22} worst {means[0]:.2f} (95 % below {most[0]:.2f})  "
                  f"mean {means[1]:.2f} ({most[1]:.2f})  root mean square {means[2]:.2f} "
                  f"({most[2]:.2f})")  # fmt: skip
        ratio = rows["weakest"] / rows["song"]
        worst, mean = (ratio[:, 0] <= 0.8).mean(), (ratio[:, 1] <= 1.0).mean()
        print(f"{law:12} wanted against start to end: worst at most 0.8 for {worst:.0%} of the players, "
              f"mean no worse for {mean:.0%}")  # fmt: skip
    say_scarce(max(2, players // 5))
    return 0


if __name__ == "__main__":
    sys.exit(main())
