"""MIDI and MusicXML, read back by libraries that are not ours."""

from __future__ import annotations

import io
import zipfile
from collections import defaultdict
from fractions import Fraction

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import DATA, FERRY
from made import engraver, held, song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import midi, musicxml
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.formats.harmony import Degree, read_kind, write_kind
from yellow_hinge.formats.musicxml.parsing import MAX_UNPACKED_BYTES
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import demo_song
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.chord_symbol import parse_chord
from yellow_hinge.theory.pitch import NoteName
from yellow_hinge.voicing.recipes import builtin_library

SYMBOLS = [
    line.split("\t")[0] for line in (DATA / "symbols.tsv").read_text("utf-8").splitlines() if "\t" in line
]
LIBRARY = builtin_library()


@pytest.fixture(scope="module")
def voiced() -> Song:
    return voice_song(song_of(FERRY), LIBRARY, Planner(LIBRARY)).song


# --- MIDI ---


def test_midi_has_both_hands_on_their_tracks(voiced: Song) -> None:
    file = mido.MidiFile(file=io.BytesIO(midi.write(voiced)))
    names = [track.name for track in file.tracks]
    assert names == ["Lantern Ferry", "Left hand", "Right hand", "Melody"]
    assert next(m for m in file.tracks[0] if m.type == "set_tempo").tempo == round(60e6 / 84)
    meter = next(m for m in file.tracks[0] if m.type == "time_signature")
    assert (meter.numerator, meter.denominator) == (3, 4)
    texts = [m.text for m in file.tracks[0] if m.type == "text"]
    assert texts == [str(slot.chord) for slot in voiced.slots]
    for track, side in ((file.tracks[1], "left"), (file.tracks[2], "right")):
        assert sounding(track) == wanted(voiced, side)


def sounding(track: mido.MidiTrack) -> dict[tuple[int, int], int]:
    """(start tick, key) -> length in ticks."""
    now, open_, notes = 0, {}, {}
    for message in track:
        now += message.time
        if message.type == "note_on" and message.velocity:
            open_[message.note] = now
        elif message.type in ("note_on", "note_off"):
            start = open_.pop(message.note)
            notes[start, message.note] = now - start
    assert not open_
    return notes


def wanted(song: Song, side: str) -> dict[tuple[int, int], int]:
    notes = {}
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        assert voicing
        for key in getattr(voicing, side).keys:
            notes[int(slot.start_quarters * 480), key] = int(slot.quarters * 480)
    return notes


def test_bassist_has_a_track_of_his_own() -> None:
    song = demo_song("copper-kite")
    bass = row(song, LIBRARY).bassist
    file = mido.MidiFile(file=io.BytesIO(midi.write(song, bass)))
    track = next(track for track in file.tracks if track.name == "Bassist")
    starts = {start for start, _ in sounding(track)}
    assert {int(slot.start_quarters * 480) for slot in song.slots} <= starts


# --- harmony elements ---


@pytest.mark.parametrize("symbol", [s for s in SYMBOLS if "//" not in s and "alt" not in s])
def test_every_symbol_survives_the_harmony_element(symbol: str) -> None:
    chord = parse_chord(symbol)
    assert chord is not None
    kind, degrees = write_kind(chord)
    again = read_kind(kind, degrees, chord.root, chord.bass)
    assert again.degrees == chord.degrees
    assert again.bass_name == chord.bass_name


KINDS = {
    "major": "R 3 5", "minor": "R b3 5", "augmented": "R 3 #5", "diminished": "R b3 b5",
    "dominant": "R 3 5 b7", "major-seventh": "R 3 5 7", "minor-seventh": "R b3 5 b7",
    "diminished-seventh": "R b3 b5 bb7", "augmented-seventh": "R 3 #5 b7",
    "half-diminished": "R b3 b5 b7", "major-minor": "R b3 5 7", "major-sixth": "R 3 5 6",
    "minor-sixth": "R b3 5 6", "dominant-ninth": "R 9 3 5 b7", "major-ninth": "R 9 3 5 7",
    "minor-ninth": "R 9 b3 5 b7", "dominant-11th": "R 9 3 11 5 b7", "major-11th": "R 9 3 11 5 7",
    "minor-11th": "R 9 b3 11 5 b7", "dominant-13th": "R 9 3 5 13 b7", "major-13th": "R 9 3 5 13 7",
    "minor-13th": "R 9 b3 11 5 13 b7", "suspended-second": "R 9 5", "suspended-fourth": "R 11 5",
    "power": "R 5", "Neapolitan": "R 3 5", "Italian": "R 3 b7", "French": "R 3 b5 b7",
    "German": "R 3 5 b7", "Tristan": "R b3 b5 b7", "pedal": "R",
}  # fmt: skip


@pytest.mark.parametrize(("kind", "degrees"), KINDS.items())
def test_every_kind_of_the_standard_is_read(kind: str, degrees: str) -> None:
    assert " ".join(read_kind(kind, [], NoteName(0), None).degrees) == degrees


@pytest.mark.parametrize(
    ("kind", "degrees", "symbol"),
    [
        ("dominant", [Degree(9, -1, "add")], "C7b9"),
        ("dominant", [Degree(5, 1, "alter"), Degree(9, 1, "add")], "C7(#5,#9)"),
        ("dominant-13th", [Degree(11, 1, "add")], "C13#11"),
        ("major", [Degree(9, 0, "add")], "Cadd9"),
        ("major", [Degree(2, 0, "add")], "Cadd9"),
        ("suspended-fourth", [Degree(7, 0, "add")], "C7sus"),
        ("dominant", [Degree(3, 0, "subtract"), Degree(4, 0, "add")], None),
        ("minor-seventh", [Degree(5, -1, "alter")], "Cm7b5"),
        ("major-seventh", [Degree(5, 1, "alter")], "Cmaj7#5"),
        ("major", [Degree(7, 1, "add")], "Cmaj7"),
    ],
)
def test_degrees_alter_the_kind(kind: str, degrees: list[Degree], symbol: str | None) -> None:
    chord = read_kind(kind, degrees, NoteName(0), None)
    if symbol is None:
        assert "3" not in chord.degrees and "11" in chord.degrees
    else:
        wanted_chord = parse_chord(symbol)
        assert wanted_chord is not None
        assert chord.degrees == wanted_chord.degrees


@given(st.text(max_size=12), st.integers(-20, 20), st.integers(-3, 3))
def test_odd_kinds_and_degrees_complain_plainly(kind: str, value: int, alter: int) -> None:
    for name in (kind, "dominant"):
        try:
            read_kind(name, [Degree(value, alter, "add")], NoteName(0), None)
        except ValueError as error:
            assert str(error)


# --- MusicXML out ---


def test_music21_reads_our_score(voiced: Song) -> None:
    from music21 import chord, converter, harmony, note, stream

    score = converter.parseData(musicxml.write(voiced).decode(), format="musicxml")
    assert isinstance(score, stream.Score)
    parts = [part.expandRepeats() for part in score.parts]
    assert len(parts) == 3
    tune, *parts = parts
    symbols = list(tune.recurse().getElementsByClass(harmony.ChordSymbol))
    assert [s.root().name.replace("-", "b") for s in symbols] == [
        str(s.chord.root) for s in voiced.slots if s.chord
    ]
    for part, side in zip(parts, ("right", "left"), strict=True):
        heard: dict[Fraction, set[int]] = defaultdict(set)
        for element in part.flatten().notes:
            if isinstance(element, harmony.ChordSymbol) or (element.tie and element.tie.type != "start"):
                continue
            assert isinstance(element, chord.Chord | note.Note)
            heard[Fraction(element.offset)].update(pitch.midi for pitch in element.pitches)
        assert heard == {
            slot.start_quarters: set(getattr(voiced.voicing(slot.index), side).keys) for slot in voiced.slots
        }
        spelled = {p.nameWithOctave.replace("-", "b") for e in part.flatten().notes
                   if not isinstance(e, harmony.ChordSymbol) for p in e.pitches}  # fmt: skip
        own = {str(p) for slot in voiced.slots if slot.chord
               for p in getattr(voiced.voicing(slot.index), side).pitches(slot.chord)}  # fmt: skip
        assert spelled == own


def test_verovio_engraves_our_score(voiced: Song) -> None:
    toolkit = engraver()
    assert toolkit.loadData(musicxml.write(voiced).decode())
    drawing = toolkit.renderToSVG(1)
    written = len({voiced.chart.played[slot.bar - 1].place for slot in voiced.slots})
    assert drawing.count('class="staff"') == 3 * written
    assert drawing.count('class="harm"') == len(voiced.chart.written)


@pytest.mark.parametrize("name", ["lantern-ferry", "copper-kite", "salt-stairs"])
def test_our_score_reads_back_as_the_same_chords(name: str) -> None:
    song = demo_song(name)
    again = Song(musicxml.read(musicxml.write(song)).chart)
    assert [str(s.chord) for s in again.slots] == [str(s.chord) for s in song.slots]
    assert [(s.bar, s.beat, s.beats) for s in again.slots] == [(s.bar, s.beat, s.beats) for s in song.slots]
    assert (again.key, again.meter, again.tempo, again.title) == (
        song.key,
        song.meter,
        song.tempo,
        song.title,
    )


@pytest.mark.parametrize(
    "chart", ["meter: 6/8\n| C F G |", "meter: 5/4\n| C F G7 Am |", "| C N.C. | C D E F G |"]
)
def test_odd_lengths_and_rests_are_written_whole(chart: str) -> None:
    from music21 import converter, stream

    song = voice_song(song_of(chart), LIBRARY, Planner(LIBRARY)).song
    score = converter.parseData(musicxml.write(song).decode(), format="musicxml")
    assert isinstance(score, stream.Score)
    for measure in score.parts[0].getElementsByClass("Measure"):
        assert abs(float(measure.duration.quarterLength) - song.meter.beats * 4 / song.meter.unit) < 0.01


# --- MusicXML in ---

LEAD = """<?xml version="1.0"?>
<score-partwise version="4.0"><work><work-title>Quay</work-title></work>
<part-list><score-part id="P1"><part-name>x</part-name></score-part></part-list>
<part id="P1"><measure number="1">
<attributes><divisions>2</divisions><key><fifths>-1</fifths></key><time><beats>4</beats><beat-type>4</beat-type></time></attributes>
<direction><direction-type><words>a</words></direction-type><sound tempo="96"/></direction>
<harmony><root><root-step>F</root-step></root><kind>major-seventh</kind></harmony>
<note><pitch><step>A</step><octave>4</octave></pitch><duration>4</duration><voice>1</voice></note>
<harmony><root><root-step>D</root-step></root><kind>minor-seventh</kind></harmony>
<note><pitch><step>C</step><octave>5</octave></pitch><duration>2</duration><voice>1</voice></note>
<note><rest/><duration>2</duration><voice>1</voice></note>
</measure><measure number="2">
<note><pitch><step>B</step><alter>-1</alter><octave>4</octave></pitch><duration>8</duration><voice>1</voice></note>
</measure></part></score-partwise>"""


def test_a_lead_sheet_is_read_with_its_melody() -> None:
    chart = musicxml.read(LEAD.encode()).chart
    assert (chart.title, str(chart.key), chart.tempo) == ("Quay", "F", 96)
    assert [(str(one.chord), one.beats) for one in chart.written] == [("Fmaj7", 2), ("Dm7", 2), ("Dm7", 4)]
    tune = [(str(n.pitch), n.beats) for bar in chart.sections[0].bars for n in bar.melody]
    assert tune == [("A4", 2), ("C5", 1), ("None", 1), ("Bb4", 4)]
    assert parse_chart(chart.text) == chart


def test_a_lead_sheet_written_by_another_library() -> None:
    from music21 import harmony, key, metadata, meter, note, stream
    from music21.musicxml.m21ToXml import GeneralObjectExporter

    part = stream.Part()
    for number, (figure, pitch) in enumerate((("Am7", "C5"), ("D7", "F#5"), ("GM7", "B4")), 1):
        measure = stream.Measure(number=number)
        if number == 1:
            measure.append([key.KeySignature(1), meter.TimeSignature("4/4")])
        measure.insert(0, harmony.ChordSymbol(figure))
        measure.append(note.Note(pitch, quarterLength=4))
        part.append(measure)
    score = stream.Score([part])
    score.metadata = metadata.Metadata(title="Other")
    chart = musicxml.read(GeneralObjectExporter(score).parse()).chart
    assert [str(one.chord) for one in chart.written] == ["Am7", "D7", "Gmaj7"]
    assert [str(bar.melody[0].pitch) for bar in chart.sections[0].bars] == ["C5", "F#5", "B4"]


def packed(name: str, data: bytes, container: str | None = None) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        if container is not None:
            archive.writestr("META-INF/container.xml", container)
        archive.writestr(name, data)
    return buffer.getvalue()


def test_compressed_scores_are_read() -> None:
    container = '<container><rootfiles><rootfile full-path="in/x.xml"/></rootfiles></container>'
    for data in (packed("in/x.xml", LEAD.encode(), container), packed("y.musicxml", LEAD.encode())):
        assert len(musicxml.read(data).chart.written) == 3


BOMB = """<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">
<!ENTITY c "&b;&b;&b;&b;&b;&b;&b;&b;">]><score-partwise>&c;</score-partwise>"""
OUTSIDE = '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]><score-partwise>&a;</score-partwise>'


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "well-formed"),
        (b"\x00\x01\x02", "well-formed"),
        (LEAD[:-200].encode(), "well-formed"),
        (BOMB.encode(), "entities"),
        (OUTSIDE.encode(), "entities"),
        (b"<html/>", "not a score"),
        (b"<score-timewise/>", "by time"),
        (LEAD.replace("harmony", "direction").encode(), "no chord symbols"),
        (
            LEAD.replace(">minor-seventh<", ">odd<").replace(">major-seventh<", ">odd<").encode(),
            "no chord symbol",
        ),
        (b"PK\x03\x04broken", "damaged"),
        (packed("a.txt", b"x"), "holds no score"),
        (b"<" + b"x" * musicxml.MAX_BYTES, "too large"),
        (packed("x.xml", b" " * (MAX_UNPACKED_BYTES + 1)), "too large"),
        ("<a/>".encode("utf-16")[:7], "XML"),
    ],
)
def test_bad_scores_are_refused_plainly(data: bytes, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        musicxml.read(data, "x.xml")
    assert words in str(caught.value)
    assert all("x.xml" in problem.place for problem in caught.value.problems)


def test_what_cannot_be_taken_over_is_said() -> None:
    odd = LEAD.replace(">minor-seventh<", ">odd<")
    imported = musicxml.read(odd.encode())
    assert len(imported.problems) == 1 and "odd" in imported.problems[0].what
    assert imported.problems[0].remedy
    assert [one.chord is None for one in imported.chart.written] == [False, True, True]


ODD_BARS = """title: Odd Bars
composer: A. Maker
key: F
meter: 6/8
tempo: 120
pickup: 1
[A]
melody: C5:1
| F | Dm7 |
melody: A4:6~ | A4:2 C5:4/3 D5:4/3 E5:4/3
meter: 3/4
tempo: 80
key: Db
| Gb | Ab7:2 Db:1 | (2/4) Db |
melody: Bb4:3 | C5:3 | Db5:2
"""


def test_odd_bars_come_and_go_as_they_are() -> None:
    chart = parse_chart(ODD_BARS)
    song = Song(chart)
    song = with_voicings(song, [held(36 + k) for k in range(len(song.columns))])
    again = musicxml.read(musicxml.write(song)).chart
    assert (again.composer, str(again.key), str(again.meter)) == ("A. Maker", "F", "6/8")
    for one, other in zip(chart.played, again.played, strict=True):
        assert (one.start_quarters, one.bar.meter, one.bar.key) == (
            other.start_quarters, other.bar.meter, other.bar.key,
        )  # fmt: skip
        assert [str(at.chord) for at in one.bar.chords] == [str(at.chord) for at in other.bar.chords]
    assert [rate for _, rate in again.tempos] == [rate for _, rate in chart.tempos] == [60, 40]


def test_a_measure_before_the_first_is_a_pickup() -> None:
    before = (
        '<measure number="0" implicit="yes"><attributes><divisions>2</divisions></attributes>'
        "<note><pitch><step>E</step><octave>4</octave></pitch><duration>2</duration><voice>1</voice></note>"
        "</measure>"
    )
    lead = LEAD.replace('<part id="P1">', f'<part id="P1">{before}')
    chart = musicxml.read(lead.encode()).chart
    assert chart.pickup == 1 and [str(note.pitch) for note in chart.pickup_melody] == ["E4"]
    assert chart.tune[0][:2] == (-1, 1)
    assert len(chart.written) == 3 and str(chart.key) == "F"


def test_midi_follows_meters_tempo_and_pickup() -> None:
    song = Song(parse_chart(ODD_BARS))
    song = with_voicings(song, [held(36 + k) for k in range(len(song.columns))])
    file = mido.MidiFile(file=io.BytesIO(midi.write(song)))
    pickup = 240  # an eighth
    said = {kind: [(at, message) for at, message in timed(file.tracks[0]) if message.type == kind]
            for kind in ("time_signature", "set_tempo", "key_signature")}  # fmt: skip
    assert [(at, m.numerator, m.denominator) for at, m in said["time_signature"]] == [
        (0, 1, 8), (pickup, 6, 8), (pickup + 6 * 480, 3, 4), (pickup + 12 * 480, 2, 4),
    ]  # fmt: skip
    assert [(at, m.key) for at, m in said["key_signature"]] == [(0, "F"), (pickup + 6 * 480, "Db")]
    assert [(at, m.tempo) for at, m in said["set_tempo"]] == [
        (0, 1_000_000), (pickup + 6 * 480, 1_500_000),
    ]  # fmt: skip
    left = sorted({at for at, _ in sounding(file.tracks[1])})
    assert left == [pickup + int(slot.start_quarters * 480) for slot in song.slots]
    tune = sounding(file.tracks[3])
    assert tune[0, 72] == pickup and tune[pickup, 69] == 4 * 480  # tied over the bar line


def timed(track: mido.MidiTrack) -> list[tuple[int, mido.MetaMessage]]:
    """Messages with their ticks."""
    now, found = 0, []
    for message in track:
        now += message.time
        found.append((now, message))
    return found
