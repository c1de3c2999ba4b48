"""What the tasks find over small songs, held against tables."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import pytest

from conftest import cases
from constants import numbers_of
from made import song_of
from yellow_hinge.hands.profile import HandProfile, parse_reach
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.patterns import Hand
from yellow_hinge.song.edits import change_hands, choose, settle
from yellow_hinge.song.groove_edits import change_groove, set_riffs
from yellow_hinge.song.model import Song
from yellow_hinge.stopping import always
from yellow_hinge.tasks.grips.own_grip import GripDesk, called, over_basses, read_typed
from yellow_hinge.tasks.grips.shape_desk import ShapeDesk
from yellow_hinge.tasks.keys.survey import survey
from yellow_hinge.tasks.rhythm.line_desk import propose_line, read_riff, scale_words, scales_over
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.tasks.song.solved import Solved
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.song.ways_out import first_ways, take_first_ways, ways_out
from yellow_hinge.tasks.swaps.colour_ladder import FORMS, LadderDesk
from yellow_hinge.tasks.swaps.function_board import board, degrees_of, goal_grip, goals, inversions
from yellow_hinge.tasks.swaps.grid import swap_grid, switches_of
from yellow_hinge.tasks.swaps.held_hand import RUNS, HeldDesk
from yellow_hinge.tasks.takes.arc import laid_arc, read_arc
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.keys import parse_key
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


def own_grips(name: str, index: str, typed: str, reach: str) -> str:
    """A grip of one's own in the place of a chord: all that is said about it."""
    found_keys, spelled = read_typed(typed)
    tried = GripDesk(LIBRARY).tried(solved(name, reach), int(index), found_keys, spelled)
    if tried is None:
        return "none"
    changes = [
        None if one is None else (one.motion_st, one.largest_st) for one in (tried.before, tried.after)
    ]
    ways = [f"{way.words}{keys(way.voicing)}" for way in GripDesk(LIBRARY).ways_out(tried)[:2]]
    return " | ".join(
        str(said) for said in (
            tried.agreement, *tried.degrees, *tried.remarks, *tried.lies, tried.sounds, tried.effort_words,
            changes, tried.cost, tried.used, ways,
        )
    )  # fmt: skip


def names(played: str, symbol: str, key: str, below: str) -> str:
    """What notes are called in the chart's place, and over the twelve basses."""
    typed, _ = read_typed(played)
    every, here, written = (*typed.left, *typed.right), parse_key(key), parse_chord(symbol)
    assert written is not None
    chord, reading = called(every, written, here, int(below) if below else None)
    over = " ".join(f"{one.bass}={','.join(str(name.chord) for name in one.names)}"
                    for one in over_basses(every, here))  # fmt: skip
    return f"{chord} {reading} | {over}"


def sessions(name: str, most: str, reach: str) -> str:
    """A song solved with all that comes of it: reasons, ranks, smaller changes, other rows."""
    parts: list[Solved] = []
    found = Session(LIBRARY)(solved(name, reach), int(most), deliver=parts.append)
    ranks = " ".join(",".join(str(one.extra) for one in row) for row in found.alternatives)
    better = " ".join(
        "-" if one is None else f"{one.at}:{one.saved_st},{one.extra}" for one in found.betterments
    )
    offers = "; ".join(
        f"{one.trade} {one.motion_st} {one.held} {one.changing} {one.differ}" for one in found.offers
    )
    told = [(one.effort is not None, len(one.alternatives), len(one.offers)) for one in parts]
    assert found.effort is not None
    return f"{found.effort.cost} | {ranks} | {better} | {offers} | {found.families[0]} | {told}"


def stretches(name: str, index: str, typed: str, reach: str) -> str:
    """A grip that is locked out of reach, and how it could be played."""
    song, (own, _) = solved(name, reach), read_typed(typed)
    locked = choose(song, int(index), GripDesk(LIBRARY).voicing(song, int(index), own)).song
    rows = first_ways(locked, ways_out(locked, LIBRARY))
    edit = take_first_ways(locked, rows)
    told = " / ".join(row.words.replace("\n", " ") for row in rows)
    return f"{told} | {edit.label} | {keys(edit.song.voicing(int(index)))}"


def shapes(name: str, index: str, text: str) -> str:
    """All voicings of a chord that a filter keeps: how many, the cheapest, and what more could be asked."""
    every = ShapeDesk(LIBRARY).everything(solved(name), int(index), always)
    shown = every.filtered(text)
    some = [f"{keys(shown[k].voicing)}{shown[k].extra}" for k in range(min(2, len(shown)))]
    return f"{len(every)} {len(shown)} {some} {every.counts(text)[:4]}"


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "boards": (boards, 3), "held": (held, 3), "ladder": (ladder, 3), "arcs": (arcs, 3),
    "surveyed": (surveyed, 2), "lines": (lines, 4), "grids": (grids, 2), "own_grips": (own_grips, 4),
    "names": (names, 4), "sessions": (sessions, 3), "stretches": (stretches, 4), "shapes": (shapes, 3),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("tasks", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("tasks")
    assert {name: now.get(name) for name in decided} == decided != {}
