"""Lead sheets as others write them: form, bars, voices, parts, words and every kind of chord symbol."""

from __future__ import annotations

import io
import zipfile
from fractions import Fraction
from itertools import groupby
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec import Struct

from yellow_hinge.errors import BadInput
from yellow_hinge.formats import chart_text, musicxml
from yellow_hinge.formats.imported import Imported
from yellow_hinge.song.chart import Chart
from yellow_hinge.theory.chord_symbol import parse_chord

STEPS = "CDEFGAB"
#: A chord of its own for each of many bars: seven letters, seven alterations with kinds.
KINDS = ("major", "minor", "dominant", "major-seventh", "minor-seventh", "half-diminished", "augmented")


def symbol(number: int) -> str:
    step, kind = STEPS[number % 7], KINDS[number // 7 % 7]
    return f"<harmony><root><root-step>{step}</root-step></root><kind>{kind}</kind></harmony>"


def note(step: str, octave: int = 4, quarters: float = 4, more: str = "", before: str = "") -> str:
    return (
        f"<note>{before}<pitch><step>{step}</step><octave>{octave}</octave></pitch>"
        f"<duration>{int(quarters * 4)}</duration>{more}</note>"
    )


REST = "<note><rest/><duration>16</duration></note>"


def score(measures: list[str], attributes: str = "", parts: str = "", extra: str = "") -> bytes:
    """A score of measures, each given as what stands in it."""
    head = (
        f"<attributes><divisions>4</divisions><key><fifths>0</fifths></key>"
        f"<time><beats>4</beats><beat-type>4</beat-type></time>{attributes}</attributes>"
    )
    rows = "".join(
        body if body.startswith("<measure")
        else f'<measure number="{n}">{head if n == 1 else ""}{body}</measure>'
        for n, body in enumerate(measures, 1)
    )  # fmt: skip
    rows = rows.replace("HEAD", head)
    return (
        f'<?xml version="1.0"?><score-partwise version="4.0">{extra}<part-list>'
        '<score-part id="P1"><part-name>x</part-name></score-part></part-list>'
        f'<part id="P1">{rows}</part>{parts}</score-partwise>'
    ).encode()


def played(chart: Chart) -> list[str]:
    return [str(one.written.chord) for one in chart.placed]


def order(imported: Imported, count: int) -> list[int]:
    """Which of the numbered measures each played bar is."""
    names = {str(musicxml.read(score([symbol(n) + REST])).chart.written[0].chord): n for n in range(count)}
    return [names[one] for one in played(imported.chart)]


LEFT, RIGHT = '<barline location="left">{}</barline>', '<barline location="right">{}</barline>'
BEGIN = LEFT.format('<repeat direction="forward"/>')
BACK = RIGHT.format('<repeat direction="backward"/>')


def ending(numbers: str, back: bool, length: int = 1) -> tuple[str, str]:
    """What stands before and behind the bars of an ending."""
    closes = '<repeat direction="backward"/>' if back else ""
    kind = "stop" if back else "discontinue"
    return (
        LEFT.format(f'<ending number="{numbers}" type="start"/>'),
        RIGHT.format(f'<ending number="{numbers}" type="{kind}"/>{closes}'),
    )


def words(text: str, sound: str = "") -> str:
    return (
        f"<direction><direction-type><words>{text}</words></direction-type>"
        f"{f'<sound {sound}/>' if sound else ''}</direction>"
    )


def bars(count: int, before: dict[int, str] | None = None, after: dict[int, str] | None = None) -> list[str]:
    return [(before or {}).get(n, "") + symbol(n) + REST + (after or {}).get(n, "") for n in range(count)]


ONE, TWO = ending("1", True), ending("2", False)
FIRST_TWO, THIRD = ending("1, 2", True), ending("3", False)
SEGNO = "<direction><direction-type><segno/></direction-type></direction>"
CODA = "<direction><direction-type><coda/></direction-type></direction>"

FORMS = {
    "a repeat of all": (3, {}, {2: BACK}, [0, 1, 2, 0, 1, 2]),
    "a repeat within": (4, {1: BEGIN}, {2: BACK}, [0, 1, 2, 1, 2, 3]),
    "three times": (
        3, {1: BEGIN}, {1: BACK.replace('"backward"', '"backward" times="3"')}, [0, 1, 1, 1, 2],
    ),
    "two endings": (
        5, {0: BEGIN, 2: ONE[0], 3: TWO[0]}, {2: ONE[1], 3: TWO[1]}, [0, 1, 2, 0, 1, 3, 4],
    ),
    "one ending for two rounds": (
        4, {1: FIRST_TWO[0], 2: THIRD[0]}, {1: FIRST_TWO[1], 2: THIRD[1]}, [0, 1, 0, 1, 0, 2, 3],
    ),
    "two repeats without a beginning": (4, {}, {1: BACK, 3: BACK}, [0, 1, 0, 1, 2, 3, 2, 3]),
    "from the head to the end": (
        4, {}, {1: words("Fine", 'fine="yes"'), 3: words("D.C. al Fine", 'dacapo="yes"')},
        [0, 1, 2, 3, 0, 1],
    ),
    "in words alone": (4, {}, {1: words("Fine"), 3: words("D.C. al Fine")}, [0, 1, 2, 3, 0, 1]),
    "from the sign to the coda": (
        6, {1: SEGNO, 4: CODA},
        {2: words("To Coda", 'tocoda="coda"'), 3: words("D.S. al Coda", 'dalsegno="segno"')},
        [0, 1, 2, 3, 1, 2, 4, 5],
    ),
    "the coda before the bar": (
        6, {1: SEGNO, 4: CODA, 2: words("To Coda")}, {3: words("D.S. al Coda")},
        [0, 1, 2, 3, 1, 4, 5],
    ),
    "a coda by its signs alone": (
        6, {1: SEGNO, 4: CODA}, {2: CODA, 3: words("D.S. al Coda")}, [0, 1, 2, 3, 1, 2, 4, 5],
    ),
    "no repeats after the jump": (
        4, {0: BEGIN, 1: ONE[0], 2: TWO[0]}, {1: ONE[1], 2: TWO[1], 3: words("D.C.", 'dacapo="yes"')},
        [0, 1, 0, 2, 3, 0, 2, 3],
    ),
    "a last ending that runs on": (
        5, {0: BEGIN, 1: ONE[0], 2: LEFT.format('<ending number="2" type="start"/>')}, {1: ONE[1]},
        [0, 1, 0, 2, 3, 4],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", FORMS)
def test_the_form_is_written_out(name: str) -> None:
    count, before, after, wanted = FORMS[name]
    imported = musicxml.read(score(bars(count, before, after)))
    assert order(imported, count) == wanted
    assert imported.problems == ()
    chart = imported.chart
    assert chart_text.parse_chart(chart.text) == chart


def test_plain_forms_are_sections_with_times_and_endings() -> None:
    count, before, after, _ = FORMS["two endings"]
    chart = musicxml.read(score(bars(count, before, after))).chart
    assert [(s.name, s.times, len(s.endings)) for s in chart.sections] == [("A", 2, 2), ("B", 1, 0)]
    assert chart.form == () and len(chart.written) == 5
    marks = {n: f"<direction><direction-type><rehearsal>{name}</rehearsal></direction-type></direction>"
             for n, name in ((0, "Verse"), (2, "Bridge"))}  # fmt: skip
    chart = musicxml.read(score(bars(4, {0: marks[0] + BEGIN, 2: marks[2]}, {3: BACK}))).chart
    assert [s.name for s in chart.sections] == ["Verse", "Bridge"]
    assert chart.form == ("Verse", "Bridge", "Verse", "Bridge")


def test_signs_that_lead_nowhere_are_said() -> None:
    imported = musicxml.read(score(bars(3, {}, {1: words("D.S. al Coda")})))
    assert order(imported, 3) == [0, 1, 2] and "a sign that is not there" in imported.problems[0].what
    imported = musicxml.read(score(bars(3, {}, {0: words("To Coda"), 2: words("D.C. al Coda")})))
    assert (
        order(imported, 3) == [0, 1, 2, 0, 1, 2] and "a coda that is not there" in imported.problems[0].what
    )


def test_repeats_without_end_are_refused() -> None:
    measures = bars(2) + [symbol(n) + REST + BACK.replace('"/>', '" times="16"/>') for n in range(400)]
    many = [one for one in measures for _ in range(1)]
    imported = musicxml.read(score(many[:50]))
    assert len(imported.chart.played) > 50
    with pytest.raises(BadInput):
        musicxml.read(score([symbol(0) + REST + BACK.replace('"/>', '" times="16"/>')] * 600))


class Block(Struct, frozen=True):
    """A stretch, once, or repeated, with endings of a bar each."""

    body: int
    times: int
    endings: int


blocks = st.builds(Block, st.integers(1, 3), st.integers(1, 4), st.integers(0, 3))


@settings(deadline=None, max_examples=60)
@given(st.lists(blocks, min_size=1, max_size=4))
def test_any_row_of_repeats_is_played_as_it_is_built(row: list[Block]) -> None:
    before: dict[int, str] = {}
    after: dict[int, str] = {}
    wanted: list[int] = []
    at = 0
    for block in row:
        body = list(range(at, at + block.body))
        if block.endings > 1:
            before[at] = BEGIN
            for number in range(block.endings):
                place = at + block.body + number
                opens, closes = ending(str(number + 1), number + 1 < block.endings)
                before[place] = before.get(place, "") + opens
                after[place] = closes
                wanted += [*body, place]
            at += block.body + block.endings
        else:
            if block.times > 1:
                before[at] = BEGIN
                after[at + block.body - 1] = BACK.replace('"/>', f'" times="{block.times}"/>')
            wanted += body * block.times
            at += block.body
    imported = musicxml.read(score(bars(at, before, after)))
    assert order(imported, at) == wanted and imported.problems == ()
    assert imported.chart.form == ()


# --- bars ---


def test_a_pickup_and_the_short_last_bar() -> None:
    pickup = f'<measure number="0" implicit="yes">HEAD{note("G", 4, 1)}</measure>'
    last = f'<measure number="2">{symbol(1)}{note("D", 4, 3)}</measure>'
    chart = musicxml.read(score([pickup, symbol(0) + note("C"), last])).chart
    assert chart.pickup == 1 and str(chart.pickup_melody[0].pitch) == "G4"
    bars_ = chart.sections[0].bars
    assert (str(bars_[0].meter), str(bars_[1].meter), bars_[1].alone) == ("4/4", "3/4", True)
    assert [float(start) for start, _, _ in chart.tune] == [-1, 0, 4]


def test_a_pickup_with_a_chord_is_a_bar_of_its_own() -> None:
    pickup = f'<measure number="0" implicit="yes">HEAD{symbol(4)}{note("G", 4, 1)}</measure>'
    chart = musicxml.read(score([pickup, symbol(0) + note("C")])).chart
    assert played(chart) == ["G", "C"] and str(chart.meter) == "4/4" and chart.pickup == 0
    assert str(chart.sections[0].bars[0].meter) == "1/4"


def test_a_bar_that_is_split_is_one_bar_again() -> None:
    first = symbol(0) + note("C")
    left = f'<measure number="2">{symbol(1)}{note("D", 4, 3)}</measure>'
    right = f'<measure number="X1" implicit="yes">{symbol(2)}{note("E", 4, 1)}</measure>'
    chart = musicxml.read(score([first, left, right, symbol(3) + note("F")])).chart
    assert [[(str(c.chord), c.beats) for c in bar.chords] for bar in chart.sections[0].bars] == [
        [("C", 4)], [("D", 3), ("E", 1)], [("F", 4)],
    ]  # fmt: skip
    split = [first, left.replace("</measure>", f"{BACK}</measure>"), right, symbol(3) + note("F")]
    imported = musicxml.read(score(split))
    assert played(imported.chart) == ["C", "D", "C", "D", "E", "F"] and imported.problems == ()


def test_bars_without_tune_keep_the_tune_in_its_place() -> None:
    chart = musicxml.read(score([symbol(0), symbol(1), symbol(2) + note("A")])).chart
    assert [(float(start), str(pitch)) for start, _, pitch in chart.tune] == [(8, "A4")]


def test_meters_and_keys_change() -> None:
    change = ("<attributes><key><fifths>-3</fifths><mode>minor</mode></key>"
              "<time><beats>3+2</beats><beat-type>8</beat-type></time></attributes>")  # fmt: skip
    chart = musicxml.read(score([symbol(0) + note("C"), change + symbol(1) + note("D", 4, 2.5)])).chart
    last = chart.sections[0].bars[1]
    assert (str(last.meter), str(last.key), last.alone) == ("5/8", "Cm", False)


def test_a_metronome_mark_counts_its_own_note() -> None:
    mark = ("<direction><direction-type><metronome><beat-unit>quarter</beat-unit><beat-unit-dot/>"
            "<per-minute>c. 80</per-minute></metronome></direction-type></direction>")  # fmt: skip
    assert musicxml.read(score([mark + symbol(0) + note("C")])).chart.tempo == 120
    both = mark.replace("</direction>", '<sound tempo="66"/></direction>')
    assert musicxml.read(score([both + symbol(0) + note("C")])).chart.tempo == 66


def test_lengths_that_no_bar_has_are_said() -> None:
    odd = symbol(0) + note("C", 4, 4).replace("<duration>16", "<duration>13").replace("4</divisions>", "")
    imported = musicxml.read(score([odd.replace("13", "17")]))
    assert imported.problems == () or "17" in str(imported.problems) or "4.25" in str(imported.problems)
    strange = note("C").replace("<duration>16", "<duration>15") + "<forward><duration>0</duration></forward>"
    assert str(musicxml.read(score([symbol(0) + strange])).chart.sections[0].bars[0].meter) == "15/16"


# --- voices and parts ---


def test_the_highest_voice_is_the_tune_all_through() -> None:
    two = (
        symbol(0) + note("C", 4, 4, "<voice>2</voice>") + "<backup><duration>16</duration></backup>"
        + note("E", 5, 4, "<voice>1</voice>")
    )  # fmt: skip
    one = symbol(1) + note("F", 5, 4, "<voice>1</voice>")
    chart = musicxml.read(score([two, one, two])).chart
    assert [str(pitch) for _, _, pitch in chart.tune] == ["E5", "F5", "E5"]


def test_slashes_cues_graces_and_other_staves_are_no_tune() -> None:
    body = (
        symbol(0) + note("B", 4, 1, "<notehead>slash</notehead>") + note("C", 5, 1, before="<cue/>")
        + "<note><grace/><pitch><step>D</step><octave>5</octave></pitch></note>"
        + note("E", 5, 2) + "<backup><duration>16</duration></backup>" + note("C", 6, 4, "<staff>2</staff>")
    )  # fmt: skip
    tune = musicxml.read(score([body])).chart.tune
    assert [(float(start), str(pitch)) for start, _, pitch in tune] == [(2, "E5")]


def test_a_stretch_in_slashes_is_no_tune() -> None:
    style = '<attributes><measure-style><slash type="{}"/></measure-style></attributes>'
    measures = [
        symbol(0) + style.format("start") + note("B"), symbol(1) + note("B"),
        style.format("stop") + symbol(2) + note("E", 5),
    ]  # fmt: skip
    tune = musicxml.read(score(measures)).chart.tune
    assert [(float(start), str(pitch)) for start, _, pitch in tune] == [(8, "E5")]


def test_stacked_notes_give_the_top_one_wherever_it_stands() -> None:
    body = (
        symbol(0) + note("E", 5, 4) + note("C", 5, 4, before="<chord/>") + note("G", 5, 4, before="<chord/>")
    )
    assert [str(pitch) for _, _, pitch in musicxml.read(score([body])).chart.tune] == ["G5"]


def test_ties_and_tuplets() -> None:
    third = "<note><pitch><step>C</step><octave>5</octave></pitch><duration>{}</duration>{}</note>"
    notes = "".join(third.format(2, "") for _ in range(3)) + third.format(6, '<tie type="start"/>')
    body = f"{symbol(0)}<attributes><divisions>3</divisions></attributes>{notes}"
    after = "<attributes><divisions>4</divisions></attributes>" + symbol(1)
    after += note("C", 5, 4, '<tie type="stop"/>')
    chart = musicxml.read(score([body, after])).chart
    assert [(start, length) for start, length, _ in chart.tune] == [
        (0, Fraction(2, 3)), (Fraction(2, 3), Fraction(2, 3)), (Fraction(4, 3), Fraction(2, 3)), (2, 6),
    ]  # fmt: skip


def other_part(body: str, attributes: str = "") -> str:
    head = f"<attributes><divisions>2</divisions>{attributes}</attributes>"
    return f'<part id="P2"><measure number="1">{head}{body}</measure></part>'


def test_the_tune_may_stand_in_another_part() -> None:
    sung = "<note><pitch><step>A</step><octave>4</octave></pitch><duration>8</duration>{}</note>"
    for lyric, wanted in (("", "C4"), ("<lyric><text>oh</text></lyric>", "A4")):
        chart = musicxml.read(score([symbol(0) + note("C")], parts=other_part(sung.format(lyric)))).chart
        assert [str(pitch) for _, _, pitch in chart.tune] == [wanted]
    chart = musicxml.read(score([symbol(0) + REST], parts=other_part(sung.format("")))).chart
    assert [str(pitch) for _, _, pitch in chart.tune] == ["A4"]


@pytest.mark.parametrize(
    ("transpose", "chord", "tune", "key"),
    [
        ("<diatonic>-1</diatonic><chromatic>-2</chromatic>", "Bb", "D4", "Bb"),
        ("<chromatic>-2</chromatic>", "Bb", "D4", "Bb"),
        ("<diatonic>-5</diatonic><chromatic>-9</chromatic>", "Eb", "G3", "Eb"),
        ("<chromatic>0</chromatic><octave-change>-1</octave-change>", "C", "E3", "C"),
    ],
)
def test_transposing_parts_are_read_as_they_sound(transpose: str, chord: str, tune: str, key: str) -> None:
    made = musicxml.read(score([symbol(0) + note("E")], f"<transpose>{transpose}</transpose>")).chart
    assert played(made) == [chord] and str(made.tune[0][2]) == tune and str(made.key) == key


# --- words ---


def test_words_by_verse_with_joined_and_held_syllables() -> None:
    def sung(step: str, *lyrics: tuple[int, str, str]) -> str:
        return note(step, 4, 1, "".join(
            f'<lyric number="{verse}"><syllabic>{how}</syllabic><text>{text}</text></lyric>'
            for verse, how, text in lyrics
        ))  # fmt: skip

    body = (
        BEGIN + symbol(0) + sung("C", (1, "begin", "lan"), (2, "single", "quay"))
        + sung("D", (1, "end", "tern")) + sung("E") + sung("F", (1, "single", "on_the")) + BACK
    )  # fmt: skip
    chart = musicxml.read(score([body])).chart
    assert "lyrics: lan-tern _ on\\_the" in chart.text and "lyrics: quay" in chart.text
    assert chart.sections[0].times == 2 and len(chart.sections[0].bars[0].words) == 2


# --- chord symbols ---


def harmony(inner: str) -> bytes:
    return score([f"<harmony>{inner}</harmony>" + REST])


ROOT = "<root><root-step>{}</root-step></root>"


@pytest.mark.parametrize(
    ("inner", "symbol_"),
    [
        (ROOT.format("C") + "<kind>major</kind><inversion>1</inversion>", "C/E"),
        (ROOT.format("C") + "<kind>minor-seventh</kind><inversion>3</inversion>", "Cm7/Bb"),
        (ROOT.format("C") + '<kind text="7alt">other</kind>', "C7alt"),
        (ROOT.format("C") + '<kind text="m9">made-up</kind>', "Cm9"),
        (ROOT.format("C") + '<kind text="7#9">dominant</kind>', "C7#9"),
        (ROOT.format("C") + '<kind text="MA">major</kind>', "C"),
        (ROOT.format("C") + "<kind>tristan</kind>", "Cm7b5"),
        (ROOT.format("D") + "<kind>major</kind>" + ROOT.format("C") + "<kind>dominant</kind>", "D//C7"),
        ("<function>ii</function><kind>minor-seventh</kind>", "Dm7"),
        ("<numeral><numeral-root>5</numeral-root></numeral><kind>dominant</kind>", "G7"),
        (ROOT.format("C") + "<kind>major</kind><bass><bass-step>B</bass-step>"
         "<bass-alter>-1</bass-alter></bass>", "C/Bb"),
        (ROOT.format("C") + "<kind>dominant</kind><degree><degree-value>13</degree-value>"
         "<degree-alter>-1</degree-alter><degree-type>add</degree-type></degree>", "C7b13"),
    ],
)  # fmt: skip
def test_chord_symbols_of_every_make(inner: str, symbol_: str) -> None:
    imported = musicxml.read(harmony(inner))
    wanted = parse_chord(symbol_)
    found = imported.chart.written[0].chord
    assert found is not None and wanted is not None
    assert (found.root, found.bass_name, set(found.degrees)) == (
        wanted.root,
        wanted.bass_name,
        set(wanted.degrees),
    )
    assert imported.problems == ()


def test_what_cannot_be_read_is_no_chord_and_not_the_one_before() -> None:
    odd = "<harmony><root><root-step>D</root-step></root><kind>made-up</kind></harmony>"
    imported = musicxml.read(score([symbol(0) + REST, odd + REST, symbol(2) + REST]))
    assert played(imported.chart) == ["C", "None", "E"]
    assert imported.problems[0].place.endswith("bar 2") and "made-up" in imported.problems[0].what


@pytest.mark.parametrize("value", [2, 4, 5, 6, 7, 9, 11, 13])
@pytest.mark.parametrize("alter", [-1, 0, 1])
@pytest.mark.parametrize("action", ["add", "alter", "subtract"])
def test_every_degree_and_alteration_is_read_or_said(value: int, alter: int, action: str) -> None:
    degree = (f"<degree><degree-value>{value}</degree-value><degree-alter>{alter}</degree-alter>"
              f"<degree-type>{action}</degree-type></degree>")  # fmt: skip
    own = f"<harmony>{ROOT.format('C')}<kind>dominant</kind>{degree}</harmony>"
    imported = musicxml.read(score([symbol(1) + REST, own + REST]))
    chord = imported.chart.written[1].chord
    if chord is None or imported.problems:
        assert imported.problems[0].place.endswith("bar 2")
        return
    semitones = {2: 2, 4: 5, 5: 7, 6: 9, 7: 10, 9: 2, 11: 5, 13: 9}[value] + alter
    sounding = {(chord.root.degree(label).pitch_class) % 12 for label in chord.degrees}
    assert (semitones % 12 in sounding) == (action != "subtract") or action == "subtract"


# --- held against other readers ---


@pytest.mark.long
def test_corpora_that_others_ship_are_read_as_they_read_them() -> None:
    """Every piece with chord symbols that music21 ships: chords by root and bass, and the tune, in the order
    in which they are played."""
    import music21
    from music21 import converter, harmony, stream

    found = 0
    for path in sorted((Path(music21.__file__).parent / "corpus").rglob("*.mxl")):
        with zipfile.ZipFile(io.BytesIO(path.read_bytes())) as archive:
            text = b"".join(archive.read(name) for name in archive.namelist() if name.endswith("xml"))
        if text.count(b"<harmony") < 5:
            continue
        found += 1
        chart = musicxml.read(path.read_bytes(), path.name).chart
        whole = converter.parse(path)
        assert isinstance(whole, stream.Score)
        part = max(whole.parts, key=lambda p: len(list(p.recurse().getElementsByClass(harmony.ChordSymbol))))
        assert isinstance(part, stream.Part)
        theirs = part.expandRepeats()
        rows = [p.expandRepeats().flatten() for p in whole.parts]
        symbols = [one for row in rows for one in row.getElementsByClass(harmony.ChordSymbol)
                   if not isinstance(one, harmony.NoChord)]  # fmt: skip
        symbols.sort(key=lambda one: float(one.offset))
        wanted = [(float(one.offset), one.root().pitchClass, one.bass().pitchClass) for one in symbols]
        wanted = [next(group) for _, group in groupby(wanted, key=lambda one: one[1:])]
        shift = float(chart.pickup_quarters)
        own = [(float(one.start_quarters) + shift, one.written.chord.root.pitch_class % 12,
                one.written.chord.bass_name.pitch_class % 12)
               for one in chart.placed if one.written.chord is not None]  # fmt: skip
        assert [next(group) for _, group in groupby(own, key=lambda one: one[1:])] == wanted
        notes = {(float(one.offset), max(pitch.midi for pitch in one.pitches))
                 for one in theirs.stripTies().flatten().notes
                 if not isinstance(one, harmony.Harmony) and not one.duration.isGrace}  # fmt: skip
        assert {(float(start) + shift, pitch.key) for start, _, pitch in chart.tune} == notes
    assert found >= 3
