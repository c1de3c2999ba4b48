"""Grips of a player's own through ``judge``: read, named, measured, and what they lack."""

from __future__ import annotations

import json
from pathlib import Path
from random import Random

import numpy as np
import pytest

from made import song_of
from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.arrangement import Arrangement
from yellow_hinge.tasks.grips.judge import Player, judge, judge_row
from yellow_hinge.tasks.grips.page import read_grips
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import ChordSymbol, parse_chord
from yellow_hinge.theory.identify import identify
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.candidates import candidates
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.wish import Wish

PLAYER = Player(Arrangement(), HandProfile())
#: symbol, left ; right, bass -> degrees of both hands, a name among the first three
GRIPS = [
    ("Dm7: D3 C4 ; F4 A4", "self", "R b7 b3 5", "Dm7"),
    ("G13: F3 B3 ; E4 A4", "bassist", "b7 3 13 9", "G13"),
    ("C13: C3 Bb3 ; E4 A4", "self", "R b7 3 13", "C13"),
    ("Am7: C3 E3 ; G3 B3", "bassist", "b3 5 b7 9", "Am9"),
    ("Fmaj9: A3 C4 ; E4 G4", "bassist", "3 5 7 9", "Fmaj9"),
    ("C6: C3 G3 ; A3 E4", "self", "R 5 6 3", "C6"),
    ("C69: E3 A3 ; D4 G4", "bassist", "3 6 9 5", "C69"),
    ("G7sus: G2 D3 ; F3 C4", "self", "R 5 b7 11", "G7sus"),
    ("D/C: C3 ; D4 F#4 A4", "self", "b7 R 3 5", "D/C"),
    ("E7#9: E2 B2 ; G#3 D4 G4", "self", "R 5 3 b7 #9", "E7#9"),
    ("Bb//C: C3 E3 G3 ; Bb3 D4 F4", "self", "R 3 5 b7 9 11", "Bb//C"),
    ("C7: ; E4 Bb4", "bassist", "3 b7", "C7"),
    ("Bm7b5: B2 A3 ; D4 F4", "self", "R b7 b3 b5", "Bm7b5"),
    ("Cm(maj7): C3 Eb3 ; G3 B3", "self", "R b3 5 7", "Cm(maj7)"),
]


@pytest.mark.parametrize("case", GRIPS, ids=lambda case: case[0])
def test_grips_get_their_degrees_and_names(case: tuple[str, str, str, str], library: Library) -> None:
    line, bass, degrees, name = case
    player = Player(Arrangement("open", 3, bass), HandProfile())  # type: ignore[arg-type]
    (grip,) = read_grips(line, None)
    judged = judge(grip, None, player, library)
    assert " ".join(judged.voicing.degrees) == degrees
    assert name in [str(one.chord) for one in judged.names[:3]]
    assert judged.legal, judged.broken
    assert judged.effort == sum(term.cost for term in judged.terms)
    assert all(one.reading and "  " not in one.reading for one in judged.names)


@pytest.mark.parametrize(
    ("line", "first"),
    [
        ("C/F: F2 C3 ; C4 E4 G4", "C/F"), ("G/A: A2 E3 ; B3 D4 G4", "G/A"), ("G/A: A2 ; B3 D4 G4", "G/A"),
        ("G/A: A2 E3 ; B3 D4", "Asus24"),  # a tone of the triad is missing
        ("G/A: A2 C#3 ; B3 D4 G4", "A11"), ("Am7: A2 E3 ; C4 G4", "Am7"), ("C6: C3 G3 ; A3 E4", "C6"),
    ],
)  # fmt: skip
def test_what_sounds_whole_is_named_as_the_chart_has_it(line: str, first: str, library: Library) -> None:
    (grip,) = read_grips(line, None)
    assert str(judge(grip, None, PLAYER, library).names[0].chord) == first


def test_what_a_grip_lacks_and_doubles_is_said_and_never_refused(library: Library) -> None:
    (grip,) = read_grips("C7: C2 C4 ; G4 C5", None)
    judged = judge(grip, parse_key("F"), PLAYER, library)
    assert set(judged.missing) == {"3", "b7"} and judged.doubled == ("R",)
    rules = {one.rule for one in judged.broken}
    assert {"reach", "coverage"} <= rules and not judged.legal
    assert judged.reach("left") == "out" and judged.reach("right") == "easy"
    assert judged.effort > 0
    (foreign,) = read_grips("C: C3 ; C#4 F#4", None)
    assert judge(foreign, None, PLAYER, library).voicing.degrees == ("R", "b9", "#11")


def test_numbers_notes_and_comments_are_read() -> None:
    text = "# my grips\n\n2m7: 50 60 ; 65 69\nV7: G2,F3 ; B3\nC: ; c4 e4\n"
    grips = read_grips(text, parse_key("C"))
    assert [str(grip.chord) for grip in grips] == ["Dm7", "G7", "C"]
    assert grips[0].left == (50, 60) and grips[2].left == () and grips[2].right == (60, 64)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "there are no grips"),
        ("Dm7 D3 ; F4", "there is no colon"),
        ("H: D3", "note letter"),
        ("C: ;", "there are no notes"),
        ("C: X9 ;", "is no note"),
        ("C: C3 D3 E3 F3 G3 A3 ;", "notes in one hand"),
        ("N.C.: C3", "no chord has no grip"),
        ("C: ²", "is no note"),
    ],
)
def test_bad_lines_are_named_with_a_remedy(text: str, words: str) -> None:
    with pytest.raises(BadInput) as trouble:
        read_grips(f"G: G2 ; B3 D4\n{text}" if text else text, None, "grips.txt")
    problem = trouble.value.problems[0]
    assert words in problem.what or words in str(problem)
    assert problem.remedy and problem.place.startswith("grips.txt")
    assert not text or "line 2" in problem.place


def test_a_row_of_grips_is_a_progression(library: Library) -> None:
    song = song_of("key: C\n| Dm7 | G7 | C |")
    best = voice_song(song, library, Planner(library))
    lines = []
    for slot in best.song.slots:
        voicing = best.song.voicing(slot.index)
        assert voicing is not None
        hands = " ; ".join(" ".join(map(str, voicing.hand(side).keys)) for side in ("left", "right"))
        lines.append(f"{slot.chord}: {hands}")
    row = judge_row(read_grips("\n".join(lines), parse_key("C")), parse_key("C"), PLAYER, library)
    assert row.least is not None and abs(row.least - best.answer.cost) <= 30
    assert row.effort >= row.least - 1 and len(row.hinges) == 2
    worse = [lines[0], "G7: G1 F2 ; B5 D6", *lines[2:]]
    other = judge_row(read_grips("\n".join(worse), parse_key("C")), parse_key("C"), PLAYER, library)
    assert other.effort > row.effort and other.least == row.least
    assert not other.grips[1].legal and other.grips[0].legal


def test_judge_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "grips.txt"
    path.write_text("Dm7: D3 C4 ; F4 A4\nG13: G2 F3 ; E4 B4\nC: ; C4 E4 G4\n")
    assert run(["judge", str(path), "--key", "C", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    wanted = {"symbol", "lh", "rh", "legal", "broken", "degrees", "missing", "doubled", "span_mm", "reach",
              "fingers", "names", "effort", "marks"}  # fmt: skip
    assert all(set(one) == wanted for one in report["results"])
    assert report["results"][0]["degrees"] == {"lh": ["R", "b7"], "rh": ["b3", "5"]}
    assert report["results"][2]["lh"] == [] and report["results"][2]["legal"]
    assert len(report["hinges"]) == 2 and report["least_effort"] > 0
    assert run(["judge", str(path), "--school", "open", "--colour", "3"]) == 0
    text = capsys.readouterr().out
    assert "Dm7" in text and "half steps." in text and "Effort of the row" in text


def test_grips_are_named_as_their_player_does_within_three() -> None:
    """Grips of three schools for thirty symbols, named from their notes alone: root, third, seventh and bass
    as the player has them."""
    symbols = [
        "C",
        "Am",
        "Dm7",
        "G7",
        "Cmaj7",
        "F6",
        "Bm7b5",
        "E7b9",
        "Fm6",
        "Cadd9",
        "Gsus",
        "G7sus",
        "D9",
        "C13",
        "Cmaj9",
        "Dm9",
        "Am11",
        "Fmaj7#11",
        "Bb7#11",
        "G13",
        "Cdim7",
        "Fm(maj7)",
        "C/E",
        "G/B",
        "Am7/G",
        "D/F#",
        "C69",
        "Ebmaj7",
        "Ab7",
        "Db9",
    ]
    library, chance = builtin_library(), Random(7)
    named = count = 0
    for symbol in symbols:
        chord = parse_chord(symbol)
        assert chord is not None
        for school in ("solo", "spread", "melody"):
            wish = Wish(chord, parse_key("C"), library.school(school), 1, "self", HandProfile())
            found = candidates(wish, library)
            pairs = [(int(i), int(j)) for i, j in np.argwhere(found.legal)]
            for i, j in chance.sample(pairs, min(3, len(pairs))):
                names = identify(found.left[i].keys + found.right[j].keys)[:3]
                named += any(_same(name.chord, chord) for name in names)
                count += 1
    assert count > 200 and named >= 0.95 * count


def _same(one: ChordSymbol, other: ChordSymbol) -> bool:
    return one.root.pitch_class == other.root.pitch_class and (
        (one.third, one.seventh, one.bass_name.pitch_class)
        == (other.third, other.seventh, other.bass_name.pitch_class)
    )
