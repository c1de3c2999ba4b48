"""What the tasks find over small songs, held against tables."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import pytest

from conftest import cases
from made import song_of
from yellow_hinge.hands.profile import HandProfile, parse_reach
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.edits import change_hands, settle
from yellow_hinge.song.groove_edits import change_groove, set_riffs
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.survey import survey
from yellow_hinge.tasks.rhythm.line_desk import propose_line, read_riff, scale_words, scales_over
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.colour_ladder import FORMS, LadderDesk
from yellow_hinge.tasks.swaps.function_board import board, degrees_of, goal_grip, goals, inversions
from yellow_hinge.tasks.swaps.grid import swap_grid, switches_of
from yellow_hinge.tasks.swaps.held_hand import RUNS, HeldDesk
from yellow_hinge.tasks.takes.arc import laid_arc, read_arc
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import Voicing

LIBRARY = builtin_library()
SONGS = {
    "weir": "key: C\n[A]\n| Dm9 | G7 | Cmaj7 | C/E |\nmelody: | D5:4 | F5:4 | E5:4 | C5:4 |\n",
    "silt": "key: Gm\nmeter: 3/4\ntempo: 70\n[A] x2\n| Gm7 | C7:2 F7:1 |\n[B]\n"
    "| Bbmaj7/D | Ebmaj7 | Am7b5 D7b9 | Gm6 |\n",
    "rope": "key: A\nmeter: 6/8\n[Verse]\n| A6 F#m7 | Bm11 E13sus |\n[End]\n| Dmaj7#11 | A/C# N.C. |\n",
}


@cache
def solved(name: str, reach: str = "10th,9th", school: str = "solo", swing: int = 0) -> Song:
    """A small song, voiced."""
    song = change_hands(song_of(SONGS[name]), HandProfile().with_reach(*parse_reach(reach))).song
    song = change_groove(settle(song, school=school).song, "Swing", swing=swing).song
    return voice_song(song, LIBRARY, Planner(LIBRARY)).song


def keys(voicing: Voicing | None) -> str:
    return "-" if voicing is None else f"{voicing.left.keys}/{voicing.right.keys}".replace(" ", "")


def boards(name: str, index: str, reach: str) -> str:
    """The board of a chord: its goal and degrees, useful cells with how they lie, and its goal's grip."""
    song = solved(name, reach)
    found = board(song, int(index), next(iter(goals(song, int(index))), None))
    if found is None:
        return "none"
    useful = [cell for row in found.cells for cell in row if cell.useful]
    lying = [(cell, inversions(found, cell, LIBRARY)) for cell in useful]
    told = " ".join(
        f"{cell.upper}={cell.chord}:{cell.clashes}"
        + "".join(f",{keys(one.voicing)}{one.from_st}>{one.to_st}" for one in rows[:3])
        for cell, rows in lying[:6]
    )
    degrees = " ".join(f"{one.number}{one.name}" for one in degrees_of(found))
    goal = keys(goal_grip(found, LIBRARY))
    ways = sum(len(rows) for _, rows in lying)
    return (
        f"{found.bass}>{found.goal} {found.stays} {found.best} {len(useful)} {ways} | {told} | {degrees} | "
        f"{goal}"
    )


def held(name: str, index: str, run: str) -> str:
    """A hand held over other basses: each bass, its effort, lines that go down."""
    desk, song = HeldDesk(LIBRARY), solved(name)
    found = desk.look(song, int(index), RUNS[int(run)])
    if found is None:
        return "none"
    again = desk.look(solved(name, "8th,8th"), int(index), RUNS[int(run)])
    basses = " ".join(f"{one.bass}={one.chord}{'!' * bool(one.clashes)}" for one in found.spots[0].basses)
    lines = " ".join(f"{line.places}{line.more}" for line in found.descents[:3]).replace(", ", ",")
    steps = [found.steps(found.now, spot) for spot in range(len(found.spots))]
    return (
        f"{found.before} {found.after} {found.now} {steps} {desk.more(found, found.now)} | {basses} | "
        f"{found.singles[0]} | {lines} | {None if again is None else again.singles[0]}"
    )


def ladder(name: str, index: str, form: str) -> str:
    """The rungs of a chord and its walks."""
    desk, song = LadderDesk(LIBRARY), solved(name)
    found = desk.look(song, int(index), FORMS[int(form)])
    if found is None:
        return "none"
    rungs = " ".join(f"{one.step}:{one.key}={one.chord},{one.reach[0]}{one.mud}" for one in found.rungs)
    walks = "; ".join(
        f"{walk.words}: {' '.join(str(stand.chord) for _, stands in walk.rows for stand in stands)}"
        for walk in desk.walks(song, int(index))[:4]
    )
    return f"{found.voices} {found.voice} {found.start} | {rungs} | {walks}"


def arcs(name: str, levels: str, swing: str) -> str:
    """An arc laid over a song: the route, and what each level's take has of patterns and rounds."""
    song = solved(name, swing=int(swing))
    made = laid_arc(song, read_arc(levels, song), LIBRARY)
    told = []
    for take in made.takes:
        groove, colour = take.arrangement.groove, take.arrangement.colour
        rounds = " ".join(
            f"{where[0]}{where[1]}:{one.left}/{one.right}" for where, one in sorted(groove.sections.items())
        )
        whole = groove.whole
        told.append(
            f"{take.id} {whole.left}/{whole.right}/{whole.touch}/{whole.level} {colour} "
            f"{groove.arc_of} {rounds}"
        )
    return f"{made.current} {made.route} | {' | '.join(told)}"


def surveyed(name: str, reach: str) -> str:
    """The best and the worst key, with their figures and reasons."""
    found = survey(solved(name, reach), LIBRARY)
    told = [
        f"{one.voiced.song.key_here} {one.effort} {one.motion} {one.largest} {one.lowest}-{one.highest} "
        f"{one.stretch_mm:.1f} {one.black:.3f} {one.mud} {one.start}: {one.why} "
        f"{None if one.carried is None else (one.carried.effort, len(one.carried.fails))}"
        for one in (found[0], found[-1])
    ]
    return f"{' '.join(str(one.voiced.song.key_here) for one in found)} | {' | '.join(told)}"


def lines(name: str, hand: str, kind: str, seed: str) -> str:
    """A line proposed for a hand over a section, and how it reads."""
    song = solved(name)
    slots = [slot.index for slot in song.slots if slot.section == song.slots[0].section and slot.round == 1]
    side: Hand = "left" if hand == "left" else "right"
    made = set_riffs(song, propose_line(song, slots, kind, 2, side, seed=int(seed)), "Line").song
    readings = "; ".join(
        f"{index}: {', '.join(one.words for one in read_riff(made, index))}" for index in slots
    )
    return f"{readings} | {[scale_words(song, slots, scale) for scale in scales_over(song, slots)[:2]]}"


def grids(name: str, hold: str) -> str:
    """Every combination of the best swaps: effort, half steps, bass and clashes."""
    song, planner = solved(name), Planner(LIBRARY)
    found = swap_grid(
        song, switches_of(song, {}, LIBRARY, planner)[:3], LIBRARY, planner, hold=hold == "hold"
    )
    rows = " ".join(
        f"{''.join(map(str, map(int, one.on)))}:{one.cost},{one.motion_st},"
        f"{one.bass_st},{one.clashes},{one.rubs}"
        for one in found.combinations
    )
    best = [None if one is None else one.on for one in map(found.best, range(4))]
    return f"{' / '.join(one.words for one in found.switches)} | {rows} | {best} {found.unplayable}"


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "boards": (boards, 3), "held": (held, 3), "ladder": (ladder, 3), "arcs": (arcs, 3),
    "surveyed": (surveyed, 2), "lines": (lines, 4), "grids": (grids, 2),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("tasks", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted
