"""Scores that we write: valid, complete, and the same song when they are opened again."""

from __future__ import annotations

import re
from fractions import Fraction
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from conftest import DATA
from made import charts, engraver, song_of
from yellow_hinge.formats import musicxml
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.musicxml.score_out import Only
from yellow_hinge.motion.plan import Planner
from yellow_hinge.rhythm.events import Fill
from yellow_hinge.song.arrangement import Ask
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import vary_with_copy, with_arrangement
from yellow_hinge.song.groove import RiffNote
from yellow_hinge.song.groove_edits import change_groove, set_riff, set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.formats import score_of
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
PLANNER = Planner(LIBRARY)
SYMBOLS = [
    line.split("\t")[0] for line in (DATA / "symbols.tsv").read_text("utf-8").splitlines() if "\t" in line
]
ROUNDS = """title: Quay Song
composer: A. Maker
key: D
meter: 4/4
tempo: 96
pickup: 1
melody: A4:1
lyrics: We
[Verse] x2
| D | G6:3 A7:1 |1. Bm7 |2. Em9 | A13 |
melody: D5:4 | B4:3 C#5:1 | D5:4 | E5:4 | C#5:4
lyrics: walk | by wa- | ter | light | now
lyrics: run | by moon- | light
[Bridge] x2
| F#m7b5 | B7b9 |
melody: r:4 | D#5:4/3 C#5:4/3 B4:4/3
[End]
| Bb//C | Dadd9 |
"""


@pytest.fixture(scope="module")
def schema() -> object:
    import music21
    from lxml import etree

    path = Path(music21.__file__).parent / "musicxml" / "musicxml.xsd"
    text = path.read_text("utf-8")
    for name in ("xml", "xlink"):
        text = text.replace(
            f"http://www.musicxml.org/xsd/{name}.xsd", (DATA / "xsd" / f"{name}.xsd").as_uri()
        )
    return etree.XMLSchema(etree.fromstring(text.encode()))


def check(schema: object, data: bytes) -> None:
    from lxml import etree

    body = data[data.index(b"<score-partwise") :]
    tree = etree.fromstring(body)
    schema.assertValid(tree)  # type: ignore[attr-defined]


def solved(text: str) -> Song:
    return voice_song(song_of(text), LIBRARY, PLANNER).song


def busy(song: Song) -> Song:
    """With everything that a take can add to notes."""
    at = song.slots[0].at
    song = set_texture(song, None, "x", {"left": "bass-chord", "right": "off-beats", "pedal": "half"}).song
    song = set_riff(song, song.slots[1].at, [RiffNote(Fraction(1, 3), Fraction(1, 3), 78, "right")]).song
    song = change_groove(song, "x", slowing=2, bass_line="held").song
    right = song.voicing(0).right.keys  # type: ignore[union-attr]
    fill = Fill("right", right[-1], right[-1], right[-1] + 1, Fraction(3), Fraction(1, 2))
    asks = {at: Ask(fills=(fill,))}
    return with_arrangement(song, song.current, replace(song.arrangement, asks=asks))


def heard(chart: Chart) -> list[tuple[object, ...]]:
    """What a chart plays: chords, tune, meters, keys, tempi."""
    return [
        tuple((one.start_quarters, str(one.written.chord)) for one in chart.placed),
        tuple((start, length, str(pitch)) for start, length, pitch in chart.tune),
        tuple((one.start_quarters, one.bar.meter, one.bar.key) for one in chart.played),
        chart.tempos, (chart.title, chart.composer, chart.pickup_quarters),
    ]  # fmt: skip


def words(chart: Chart) -> list[tuple[int, tuple[str, ...]]]:
    """The words of each bar as it is sung."""
    found = []
    for one in chart.played:
        rows = one.bar.words
        row = rows[one.round - 1] if one.round <= len(rows) else ()
        found.append((one.number, tuple(syllable.text for syllable in row)))
    return found


@pytest.mark.parametrize("name", DEMO_SONGS)
def test_demo_songs_are_valid_and_reopen_as_they_were(name: str, schema: object) -> None:
    song = demo_song(name)
    for own in (song, busy(song)):
        data = score_of(own, LIBRARY)
        check(schema, data)
        again = musicxml.read(data)
        assert heard(again.chart) == heard(song.chart) and again.problems == ()


def test_rounds_alike_are_written_once_and_reopen(schema: object) -> None:
    song = solved(ROUNDS)
    data = score_of(song, LIBRARY)
    check(schema, data)
    again = musicxml.read(data)
    assert heard(again.chart) == heard(song.chart) and again.problems == ()
    assert words(again.chart) == words(song.chart)
    assert [(s.name, s.times, len(s.endings)) for s in again.chart.sections] == [
        ("Verse", 2, 2), ("Bridge", 2, 0), ("End", 1, 0),
    ]  # fmt: skip
    tree = ET.fromstring(data[data.index(b"<score-partwise") :])
    tune, keyboard = tree.findall("part")
    assert len(tune.findall("measure")) == len(keyboard.findall("measure"))
    assert len(keyboard.findall("measure")) < len(song.chart.played)
    assert [one.findtext("text") for one in tune.iter("lyric")][:2] == ["We", "walk"]


def test_endings_that_come_again_are_written_out(schema: object) -> None:
    song = solved(ROUNDS.replace("x2", "x3"))  # first, second, first ending
    data = score_of(song, LIBRARY)
    check(schema, data)
    again = musicxml.read(data)
    assert heard(again.chart) == heard(song.chart) and again.problems == ()


def test_a_round_of_its_own_is_written_out(schema: object) -> None:
    song = solved("key: C\n[A] x2\n| C | F |\n")
    once = score_of(song, LIBRARY)
    assert once.count(b"<measure ") == 2 and once.count(b"<repeat ") == 2
    varied = vary_with_copy(song, "A", 2).song
    assert score_of(varied, LIBRARY).count(b"<repeat ") == 2  # nothing differs yet
    other = varied.takes[1]
    keys = {at: replace(choice, locked=True) for at, choice in other.arrangement.choices.items()}
    changed = with_arrangement(varied, other.id, replace(other.arrangement, colour=3, choices={}))
    assert keys
    played = voice_song(changed, LIBRARY, PLANNER).song
    data = score_of(played, LIBRARY)
    check(schema, data)
    assert data.count(b"<measure ") == 4 and b"<repeat " not in data and b"A (2)" in data
    assert heard(musicxml.read(data).chart) == heard(song.chart)


@pytest.mark.parametrize("symbol", SYMBOLS)
def test_every_symbol_reopens_as_it_was(symbol: str) -> None:
    song = song_of(f"key: C\n[A]\n| {symbol} | C |\n")
    data = musicxml.write(song)
    assert str(musicxml.read(data).chart.written[0].chord) == str(song.chart.written[0].chord)


def test_degrees_are_not_said_twice() -> None:
    song = song_of("key: C\n[A]\n| C7(b9,#11) |\n")
    text = musicxml.write(song).decode()
    assert text.count("<degree ") == text.count('<degree print-object="no"') > 0
    assert "<degree>" not in text


def test_fingers_stand_at_the_grip() -> None:
    song = solved("key: C\n[A]\n| Dm9 | G13 |\n")
    data = score_of(song, LIBRARY)
    tree = ET.fromstring(data[data.index(b"<score-partwise") :])
    fingers = [one.text for one in tree.iter("fingering")]
    grips = [song.voicing(k) for k in range(2)]
    notes = sum(len(grip.keys) for grip in grips if grip is not None)
    assert len(fingers) == notes and set(fingers) <= set("12345")


def test_a_score_without_tune_does_not_reopen_with_one() -> None:
    song = solved("key: C\n[A]\n| Dm9 | G13 | Cmaj9 |\n")
    assert musicxml.read(score_of(song, LIBRARY)).chart.tune == ()


def test_the_bassist_has_a_staff_and_sounds_where_he_plays() -> None:
    from music21 import converter, stream

    song = demo_song("copper-kite")
    score = converter.parseData(score_of(song, LIBRARY).decode(), format="musicxml")
    assert isinstance(score, stream.Score)
    part = next(p for p in score.parts if p.partName == "Bassist").toSoundingPitch().expandRepeats()
    first = next(iter(part.flatten().notes))
    assert 24 <= first.pitches[0].midi <= 50
    names = {slot.chord.bass_name.pitch_class % 12 for slot in song.slots if slot.chord}
    assert {p.pitchClass for n in part.flatten().notes for p in n.pitches} <= names


def test_engraved_accidentals_are_those_that_are_needed() -> None:
    song = solved("key: C\n[A]\n| C | E7 | Db9 | C |\n")
    data = score_of(song, LIBRARY)
    toolkit = engraver()
    assert toolkit.loadData(data.decode())
    drawing = toolkit.renderToSVG(1)
    tree = ET.fromstring(data[data.index(b"<score-partwise") :])
    assert drawing.count('class="accid"') >= len(list(tree.iter("accidental"))) > 0


def test_a_pickup_as_long_as_the_first_bar_stays_one() -> None:
    """Its measure is full: only what it is called tells that nothing is counted there."""
    chart = parse_chart("meter: 2/2\npickup: 3/2\nform: Two\n[Verse]\n| C |\n[Two]\n| (3/4) C G |\n")
    again = musicxml.read(musicxml.write(Song(chart))).chart
    assert again.pickup_quarters == chart.pickup_quarters == 3
    assert len(again.played) == 1 and heard(again)[:3] == heard(chart)[:3]


@given(charts())
@settings(deadline=None, max_examples=25)
def test_any_chart_is_valid_and_reopens(chart: Chart) -> None:
    song = Song(chart)
    if not song.slots or not any(one.written.chord for one in chart.placed):
        return
    again = musicxml.read(musicxml.write(song)).chart
    assert heard(again)[:3] == heard(chart)[:3]
    assert parse_chart(again.text) == again


@pytest.mark.parametrize(
    ("tune", "only", "ids"),
    [("", "", ["P1"]), ("melody: E5:4\n", "", ["P1", "P2"]), ("melody: E5:4\n", "lead", ["P1"]),
     ("melody: E5:4\n", "hands", ["P1"])],
)  # fmt: skip
def test_parts_are_numbered_from_one(tune: str, only: Only, ids: list[str]) -> None:
    data = musicxml.write(Song(parse_chart(f"| C |\n{tune}")), only=only)
    assert re.findall(r'<part id="(\w+)">', data.decode()) == ids
    assert re.findall(r'<score-part id="(\w+)">', data.decode()) == ids


FORMED = """title: Quay Song
form: {form}
[A]
| C | F | G | {a} |
melody: C5:4 | F4:4 | G4:4 | A4:4
lyrics: one | two | three | four
lyrics: five | six | seven | eight
[B]
| Am | Dm |1. G7 | C |2. E7 | Am |
melody: A4:4 | D5:4 | G4:4 | C5:4 | E5:4 | A4:4
[C] x2
| Fmaj7 | Bb7 |
"""


def engraved(text: str) -> tuple[Chart, Chart, str]:
    """A chart, what its printed lead sheet plays, and the sheet."""
    chart = parse_chart(text)
    data = musicxml.write(Song(chart), only="lead", engraved=True)
    return chart, musicxml.read(data).chart, data.decode()


@pytest.mark.long
@given(st.lists(st.sampled_from("ABC"), min_size=1, max_size=7), st.sampled_from(("Am", "C")))
@settings(deadline=None, max_examples=80)
def test_what_is_printed_with_signs_plays_the_same(form: list[str], last: str) -> None:
    chart, again, data = engraved(FORMED.format(form=" ".join(form), a=last))
    assert heard(again)[:2] == heard(chart)[:2]
    assert len(re.findall("<measure ", data)) <= len(chart.played)


@pytest.mark.parametrize(
    ("form", "measures", "signs"),
    [
        ("A B A", 8, ["D.C. al Fine", "Fine"]),
        ("A C A B", 10, ["D.C. al Coda", "To Coda", "coda"]),
        ("C A B A", 10, ["D.S. al Fine", "Fine", "segno"]),
        ("C A B A C", 12, ["D.S. al Coda", "To Coda", "segno", "coda"]),
        ("A C C A", 6, ["D.C. al Fine", "Fine"]),
        ("C B C", 8, []),  # two measures are not worth it
        ("A B", 8, []),
    ],
)
def test_what_comes_again_later_is_said_by_signs(form: str, measures: int, signs: list[str]) -> None:
    chart, again, data = engraved(FORMED.format(form=form, a="Am"))
    assert len(re.findall("<measure ", data)) == measures
    for sign in ("Fine", "To Coda", "D.C. al Fine", "D.C. al Coda", "D.S. al Fine", "D.S. al Coda"):
        assert (f">{sign}<" in data) == (sign in signs), sign
    assert ("<segno" in data) == ("segno" in signs) and ("<coda" in data) == ("coda" in signs)
    assert heard(again)[:2] == heard(chart)[:2]
    plain = musicxml.write(Song(chart)).decode()
    assert "D.C." not in plain and "Fine<" not in plain


def test_sections_that_come_again_together_are_one_repeat() -> None:
    text = "form: A B A B A B C\n[A]\n| C | F |\n[B]\n| G | Am |\n[C]\n| C |\n"
    chart, again, data = engraved(text)
    assert len(re.findall("<measure ", data)) == 5 and 'direction="forward"' in data and 'times="3"' in data
    assert heard(again)[:2] == heard(chart)[:2]


def test_words_of_later_rounds_stand_below_the_first() -> None:
    _, _, data = engraved(FORMED.format(form="A B A", a="Am"))
    assert [data.index(f">{word}<") > 0 for word in ("one", "five", "eight")] == [True] * 3
    assert data.count('<lyric number="2">') == 4
