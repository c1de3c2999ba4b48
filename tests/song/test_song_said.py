"""What a song plays, held against a table: a take by its rhythm, and what sounds of it."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import pytest
from msgspec.structs import replace

from conftest import cases
from constants import numbers_of
from made import song_of
from yellow_hinge.rhythm.events import NoteEvent
from yellow_hinge.song.at import At
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.groove import Groove, RiffNote, Texture
from yellow_hinge.song.groove_edits import with_groove
from yellow_hinge.song.model import Song
from yellow_hinge.song.playing import Playing
from yellow_hinge.song.walk import clicks, count_in_before, perform, quarter_ms, walk
from yellow_hinge.voicing.shape import HandShape, Voicing

CHART = """meter: 4/4
tempo: 100
[A] x2
| Dm7 G7 | Cmaj7 |
melody: F5:1 A5:1 G5:2 | E5:3 r:1
[B]
| (3/4) Am7 | (3/4) F6:2 G7:1 |
"""
#: Left hand | right hand of each written chord.
GRIPS = (
    ((38, 48), (53, 57, 60)), ((43, 53), (55, 59, 62)), ((36, 47), (55, 59, 64)), ((45, 55), (60, 64)),
    ((41, 50), (57, 60, 65)), ((43, 53), (59, 62, 65)),
)  # fmt: skip
PARTS = ("left", "right", "bass", "melody", "riff", "drums", "click")


def song() -> Song:
    """A song whose chords have grips."""
    plain = song_of(CHART)
    grips = [
        Voicing(HandShape(left, ("R",) * len(left)), HandShape(right, ("R",) * len(right)))
        for left, right in GRIPS
    ]
    return with_voicings(plain, grips)


def with_rhythm(left: str, right: str, settings: str) -> Song:
    """The song with patterns and settings: ``swing=67 touch=1``."""
    given: dict[str, object] = {}
    for word in settings.split():
        name, _, value = word.partition("=")
        number, said = value.lstrip("-").isdigit(), value in ("yes", "no")
        given[name] = int(value) if number else value == "yes" if said else value
    texture = Texture(left or None, right or None)
    own = {name: given.pop(name) for name in list(given) if name in Texture.__struct_fields__}
    groove = replace(Groove(replace(texture, **own)), **given)
    made = song()
    if groove.person == 9:  # one row has a line as well
        note = RiffNote(Fraction(1, 2), Fraction(1), 76)
        groove = replace(groove, riffs={At(made.slots[2].at.written): (note,)})
    return with_groove(made, groove)


def notes(events: list[NoteEvent], most: int = 5) -> str:
    """How many, how hard in all, and the first and the last of them."""
    said = [f"{one.start_quarters}+{one.quarters}:{one.key}v{one.velocity}" for one in events]
    shown = [*said[:most], *(["...", *said[-2:]] if len(said) > most + 2 else said[most:])]
    return f"{len(events)}/{sum(one.velocity for one in events)} {' '.join(shown)}"


def played(left: str, right: str, settings: str) -> str:
    """As it is performed with the tune, part by part; the pedal; how long it lasts; what is not played."""
    made = with_rhythm(left, right, settings)
    bass = tuple(36 + slot.index for slot in made.slots)[:3] if settings.endswith("slowing=2") else ()
    found = perform(made, bass, melody=True)
    parts = [
        f"{part} {notes([one for one in found.notes if one.part == part])}"
        for part in PARTS
        if any(one.part == part for one in found.notes)
    ]
    pedal = " ".join(f"{one.start_quarters}{'+' if one.down else '-'}" for one in found.pedal[:8])
    playing = Playing(made)
    left_out = sum(len(playing.left_out(slot.index)) for slot in made.slots)
    struck = " ".join(
        f"{playing.struck(slot.index)[0].least}{playing.struck(slot.index)[1].least}" for slot in made.slots
    )
    lasts = found.tempo.seconds(float(made.chart.length_quarters))
    alone = perform(made, bass, band=False)
    more = (f"{len(alone.notes)} without a band", f"{len(walk(made, bass, True))} written")
    return " | ".join(
        (*parts, f"pedal {len(found.pedal)} {pedal}", f"{lasts:.3f} s", f"{left_out} out", struck, *more)
    )


TABLES: dict[str, tuple[Callable[..., str], int]] = {"played": (played, 3)}


@pytest.mark.parametrize(("name", "case", "wanted"), cases("song", TABLES))
def test_what_the_tables_say(name: str, case: list[str], wanted: str) -> None:
    assert TABLES[name][0](*case) == wanted


def test_clicks_are_higher_on_the_one() -> None:
    made = song()
    row = list(clicks(made))
    assert (
        notes(row, 4)
        == "22/1980 0+1/4:76v90 1+1/4:77v90 2+1/4:77v90 3+1/4:77v90 ... 20+1/4:77v90 21+1/4:77v90"
    )
    start, before = count_in_before(made, Fraction(16))
    assert start == 13 and [(one.start_quarters, one.key, one.velocity, one.part) for one in before] == [
        (13, 76, 90, "click"), (14, 77, 90, "click"), (15, 77, 90, "click"),
    ]  # fmt: skip
    assert [round(quarter_ms(made)(Fraction(at))) for at in (0, 16, 21)] == [600, 600, 600]


def test_building_up_goes_in_even_steps() -> None:
    sections = "".join(f"[{name}]\n| Dm7 |\n" for name in "ABCDEF")
    made = song_of(f"meter: 4/4\n{sections}")
    built = Playing(with_groove(made, replace(Groove(), build=True)))
    plain = Playing(made)
    assert [
        built.velocity(index, "left") - plain.velocity(index, "left") for index in range(len(made.slots))
    ] == [-8, -5, -2, 2, 5, 8]


def test_numbers_are_as_they_were_decided() -> None:
    now, decided = numbers_of("song")
    assert {name: now.get(name) for name in decided} == decided != {}
