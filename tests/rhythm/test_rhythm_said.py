"""What rhythm makes of meters, patterns, touch, drums and the pedal, held against tables."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import pytest
from msgspec.structs import replace

from conftest import cases
from constants import numbers_of
from yellow_hinge.rhythm.band import DrumBar, drums
from yellow_hinge.rhythm.counts import counts_of, fits, grid_of, groups, in_words, laid, said_at
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.rhythm.fullness import ARCS, notes_in, shape, strokes_a_quarter, textures, variant
from yellow_hinge.rhythm.own import restruck, rungs_at, with_rungs, with_what, written_out
from yellow_hinge.rhythm.patterns import Stroke, builtin_patterns
from yellow_hinge.rhythm.perform import BarAt, Feel, Pedalled, pedalling, performed
from yellow_hinge.rhythm.played_in import Played, on_grid
from yellow_hinge.rhythm.realise import Grip, Stretch, joined, realise, strokes_of, untangled
from yellow_hinge.rhythm.rungs import rungs_of, what_strikes
from yellow_hinge.rhythm.struck import Struck, strongest
from yellow_hinge.rhythm.time import Meter, beats_text, share
from yellow_hinge.rhythm.touch import Edges, as_a_person, phrases_of, shaped, swell, weight

PATTERNS = builtin_patterns()
SWELLS = [-6.0, -6.0, 0.0, 6.0, -4.24, -6.0, -6.0]
F = Fraction


def meter_of(text: str) -> Meter:
    beats, _, unit = text.partition("/")
    return Meter(int(beats), int(unit))


def bars_in(meter: Meter, count: int) -> list[BarAt]:
    return [BarAt(meter.quarters * number, meter) for number in range(count)]


def note(event: NoteEvent) -> str:
    return f"{event.start_quarters}+{event.quarters}:{event.key}v{event.velocity}{event.way[:1]}"


def strokes(row: tuple[Stroke, ...]) -> str:
    return " ".join(f"{one.at}{'' if one.counts is None else f'+{one.counts}'}:{one.what}{one.way[:1]}"
                    f"{one.touch[:1]}{'_' * one.tied}" for one in row)  # fmt: skip


def meters(text: str) -> str:
    """Counts of a bar; what one says at its eighths; how hard its eighths are; a length in groups."""
    meter = meter_of(text)
    eighths = [F(k, 2) for k in range(int(meter.quarters * 2))]
    said = ",".join(said_at(at, meter) or "-" for at in (*eighths, F(1, 4), F(1, 3)))
    weights = ",".join(str(weight(float(at), meter)) for at in (*eighths, F(1, 4)))
    cells = " ".join(str(groups(meter.beats, cell)).replace(" ", "") for cell in (2, 3, 4))
    grids = [grid_of(places, meter) for places in ((F(0),), (F(1, 2),), (F(1, 4),), (F(1, 3),), (F(1, 12),))]
    steps = ([0, 1], eighths[1::2], eighths, [F(1, 3)])
    words = "; ".join(in_words(list(map(F, row)), meter) for row in steps)
    return f"{','.join(map(str, counts_of(meter)))} | {said} | {weights} | {cells} | {grids} | {words}"


def drummer(text: str, kind: str, swing: str) -> str:
    """Two bars, the first and the last of a section."""
    meter = meter_of(text)
    bars = [DrumBar(F(0), meter, first=True), DrumBar(meter.quarters, meter, last=True)]
    found = list(drums(bars, kind, swing == "swing"))
    assert all(one.quarters == F(1, 8) and one.part == "drums" and one.slot == -1 for one in found)
    return " ".join(f"{one.start_quarters}:{one.key}v{one.velocity}" for one in found)


def pattern(name: str, text: str) -> str:
    """Laid over a bar, half a bar and from its middle; written out; its notes and strokes; another one."""
    own, meter = PATTERNS[name], meter_of(text)
    half = meter.quarters / 2
    rows = (
        laid(own, meter, F(0), meter.quarters),
        laid(own, meter, F(0), half),
        laid(own, meter, half, half),
    )
    mine = written_out(own, meter, "mine-1", "x" * 90)
    at = mine.strokes[0].at
    told = (
        *map(strokes, rows), f"{mine.unit}/{mine.counts} {strokes(mine.ending)}", strokes(mine.fill),
        f"{strokes(mine.short)} {len(mine.name)} {mine.family} {mine.meters}",
        f"{notes_in(own, meter, 3)} {strokes_a_quarter(own, meter)} {fits(own, meter)}",
        variant(own, own.hands[0], meter, PATTERNS).id, sorted(rungs_at(mine, at, 4)),
        strokes(with_rungs(mine, at, frozenset({0, 2}), 4).strokes[:3]),
        strokes(with_what(mine, at, "top").strokes[:2]), strokes(with_what(mine, at, None).strokes[:2]),
        strokes(restruck(mine, at, touch="hard").strokes[:2]),
        strokes(strokes_of(own, Stretch(F(0), F(0), meter.quarters, meter, 0), "fill")),
    )  # fmt: skip
    return " | ".join(map(str, told))


GRIPS = {"three": Grip((48, 55, 64), 7, 40, 76, frozenset({0, 2, 4, 5, 7, 9, 11})), "one": Grip((60,), None),
         "four": Grip((45, 52, 57, 60), 4, 40, 67), "none": Grip(())}  # fmt: skip


def played(name: str, text: str, grip: str, form: str) -> str:
    """The notes of a stretch in the second half of a bar and one after it, joined and untangled."""
    own, meter, after = PATTERNS[name], meter_of(text), GRIPS["three"]
    half = meter.quarters / 2
    stretch = Stretch(half, half, half, meter, 3)
    first = realise(own, GRIPS[grip], after, stretch, "left", velocity=70, form=form)  # type: ignore[arg-type]
    second = realise(
        own, after, None, Stretch(meter.quarters, F(0), half, meter, 4), "left", velocity=126, form=""
    )
    return " ".join(map(note, untangled(joined([first, second]))))


def performance(text: str, swing: str, tempo: str) -> str:
    """Eighths, a roll and a tremolo as they sound, with touch by place and voice, and a little uneven."""
    meter, quarter_ms = meter_of(text), 60000 / int(tempo)
    bars, end = bars_in(meter, 9), meter.quarters * 9
    phrases = phrases_of(bars, (0, 5), end)
    rolled = [NoteEvent(F(1), key, F(1), 70, "left", 0, "rolled") for key in (40, 47, 52)]
    shaken = [NoteEvent(F(2), key, F(1), 70, "right", 0, "tremolo") for key in (64, 67)]
    plain = [NoteEvent(F(k, 2), 60 + k, F(1, 2), 125 if k % 3 else 4, "right", 0) for k in range(9)]
    edges = {0: Edges(40, 67)}
    feel = Feel(int(swing), True, 40)
    shaped_ones = shaped([*rolled, *shaken, *plain], bars, phrases, edges)
    found = performed(shaped_ones, bars, feel, lambda _: quarter_ms, lambda _: F(0))
    person = as_a_person(found[:4], 3, lambda _: quarter_ms)
    spans = " ".join(f"{start}-{stop}" for start, stop in phrases)
    share_ = feel.first_share(quarter_ms)
    return f"{spans} | {share_} | {' '.join(map(note, found))} | {' '.join(map(note, person))}"


def pedal(text: str) -> str:
    """Stretches as start:length:changes[:h][:until]."""
    row = []
    for number, part in enumerate(text.split()):
        start, quarters, changes, *rest = part.split(":")
        until = next((F(one[1:]) for one in rest if one.startswith("u")), None)
        row.append(Pedalled(F(start), F(quarters), number, tuple(map(F, filter(None, changes.split(",")))),
                            "h" in rest, until))  # fmt: skip
    found = pedalling(row, lambda _: 600.0)
    return " ".join(f"{one.start_quarters}{'+' if one.down else '-'}{one.slot}" for one in found)


def arc(levels: str, text: str, tempo: str, swing: str) -> str:
    """The patterns of each level."""
    row = tuple(map(int, levels.split()))
    found = textures(row, meter_of(text), float(tempo), swing == "swing", PATTERNS)
    return " ".join(f"{level}:{one.left.id}/{one.right.id}" for level, one in sorted(found.items()))


def rungs(what: str, size: str) -> str:
    found = rungs_of(what, int(size))
    return f"{sorted(found)} {' '.join(what_strikes(found, int(size)))}"


TABLES: dict[str, tuple[Callable[..., str], int]] = {
    "meters": (meters, 1), "drums": (drummer, 3), "patterns": (pattern, 2), "played": (played, 4),
    "performed": (performance, 3), "pedal": (pedal, 1), "arcs": (arc, 4), "rungs": (rungs, 2),
}  # fmt: skip


@pytest.mark.parametrize(("name", "case", "wanted"), cases("rhythm", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


@pytest.mark.parametrize(
    ("kind", "count", "levels"),
    [("flat", 3, "3 3 3"), ("rising", 5, "1 2 3 4 5"), ("rising", 1, "1"), ("rising", 3, "1 3 5"),
     ("wave", 5, "1 3 5 3 1"), ("wave", 1, "1"), ("quiet", 4, "3 4 4 1"), ("quiet", 1, "3"),
     ("verse", 6, "2 4 3 3 5 4"), ("verse", 1, "2")],
)  # fmt: skip
def test_shapes_of_an_arc(kind: str, count: int, levels: str) -> None:
    sections = tuple("ABCABC"[:count])
    assert kind in ARCS and " ".join(map(str, shape(kind, sections))) == levels


def test_what_grips_of_several_rhythms_need() -> None:
    low, high = Struck(2, 4, True, 36, 52), Struck(3, 0, False, 40, 0)
    assert strongest([low, high]) == Struck(3, 0, False, 36, 0)
    assert strongest([low, replace(low, least=1, most=5, floor=38, ceiling=50)]) == Struck(2, 5, True, 36, 52)
    assert [low.off(n) for n in (0, 1, 2, 4, 5, 7)] == [2, 1, 0, 0, 1, 3] and high.off(9) == 0
    assert [low.off_st(key, False) for key in (34, 36, 60, 61)] == [2, 0, 0, 1]
    assert [low.off_st(key, True) for key in (42, 43, 67, 68)] == [1, 0, 0, 1]
    assert [high.off_st(key, False) for key in (39, 40, 90)] == [1, 0, 0]


def test_a_tune_played_in_lies_on_the_grid() -> None:
    row = [Played(60, 0.1, 0.9), Played(64, 0.05, 0.4), Played(62, 1.24, 1.3), Played(65, 1.26, 1.9),
           Played(67, 2.6, 2.7)]  # fmt: skip
    found = on_grid(row, F(1, 2))
    assert [(one.start, one.end, one.key) for one in found] == [
        (F(0), F(1, 2), 64), (F(1), F(3, 2), 62), (F(3, 2), F(2), 65), (F(5, 2), F(3), 67),
    ]  # fmt: skip


def test_beats_are_shared_and_written() -> None:
    assert share(F(4), (None, F(1), None)) == (F(3, 2), F(1), F(3, 2)) and share(F(2), (F(2),)) == (F(2),)
    for total, given in ((F(4), (F(5), None)), (F(4), (F(4), None)), (F(4), (F(3),))):
        with pytest.raises(ValueError, match="beats are given"):
            share(total, given)
    written = [beats_text(F(*one)) for one in ((2, 1), (3, 2), (4, 3), (1, 8), (1, 16))]
    assert written == ["2", "1.5", "4/3", "0.125", "1/16"]
    assert [round(swell(one), 2) for one in (-1, 0, 0.3, 0.6, 0.9, 1, 2)] == SWELLS


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("rhythm")
    assert {name: now.get(name) for name in decided} == decided != {}
