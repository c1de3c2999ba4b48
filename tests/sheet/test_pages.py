"""Sheets as lists of things to paint: nothing off the page, nothing split, nothing said twice."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from made import charts, held, song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.formats import musicxml
from yellow_hinge.motion.plan import Planner
from yellow_hinge.sheet.engraved import lines_of
from yellow_hinge.sheet.keyboard import keyboard, span_of
from yellow_hinge.sheet.kinds import KIND_IDS
from yellow_hinge.sheet.moves import move_sentence
from yellow_hinge.sheet.page import (
    MARGIN_MM,
    PAPERS,
    POINT_MM,
    Block,
    Box,
    Disc,
    Filler,
    Options,
    Picture,
    Rule,
    Sheet,
    Text,
    fitted,
    shortened,
    wrapped,
)
from yellow_hinge.song.chart import Chart
from yellow_hinge.song.edits import choose, choose_key, vary_with_copy, with_voicings
from yellow_hinge.song.groove_edits import change_groove
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.files.opening import DEMO_SONGS, demo_song
from yellow_hinge.tasks.grips.page import read_song
from yellow_hinge.tasks.sheets.kinds import sheet_of
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
PLANNER = Planner(LIBRARY)


class Letters:
    """Every letter is half as wide as it is high."""

    def width_mm(self, words: str, size: float, bold: bool = False) -> float:
        return len(words) * size * POINT_MM * (0.56 if bold else 0.5)


METRICS = Letters()


def solved(text: str) -> Song:
    return voice_song(song_of(text), LIBRARY, PLANNER).song


def texts(sheet: Sheet) -> list[str]:
    return [item.words for page in sheet.pages for item in page.items if isinstance(item, Text)]


def check(sheet: Sheet) -> None:
    """Everything lies within the margins of its page."""
    for page in sheet.pages:
        right, bottom = page.width - MARGIN_MM + 0.6, page.height - MARGIN_MM + 0.6
        for item in page.items:
            if isinstance(item, Text):
                wide = METRICS.width_mm(item.words, item.size, item.bold)
                left = item.x - {"left": 0, "middle": wide / 2, "right": wide}[item.side]
                assert left >= MARGIN_MM - 0.6, item
                assert left + wide <= right or " " not in item.words, item
                assert MARGIN_MM - 0.6 <= item.y <= bottom, item
            elif isinstance(item, Rule):
                assert max(item.x1, item.x2) <= right and max(item.y1, item.y2) <= bottom
            elif isinstance(item, Box):
                assert item.x >= MARGIN_MM - 1.5 and item.x + item.w <= right + 1.5
                assert item.y + item.h <= bottom
            elif isinstance(item, Disc):
                assert item.x + item.radius >= MARGIN_MM and item.x - item.radius <= right
            else:
                assert isinstance(item, Picture) and item.svg.startswith(b"<svg")


options = st.builds(
    Options, st.sampled_from(list(PAPERS)), st.booleans(), st.booleans(), st.booleans(), st.booleans(),
    st.booleans(), st.booleans(), st.booleans(), st.booleans(), st.booleans(), st.booleans(),
    st.sampled_from(["", "5 May 2031"]),
)  # fmt: skip


@pytest.mark.long
@given(
    st.sampled_from(sorted(DEMO_SONGS)),
    options,
    st.sampled_from([kind for kind in KIND_IDS if kind not in ("score", "lead")]),
)
@settings(deadline=None, max_examples=120)
def test_nothing_is_off_the_page(name: str, options: Options, kind: str) -> None:
    check(sheet_of(demo_song(name), LIBRARY, kind, options, METRICS))


@pytest.mark.long
@pytest.mark.parametrize("kind", ["score", "lead"])
@pytest.mark.parametrize("paper", PAPERS)
def test_engraved_pages_have_their_words_and_their_drawing(kind: str, paper: str) -> None:
    song = demo_song("salt-stairs")
    sheet = sheet_of(song, LIBRARY, kind, Options(paper=paper), METRICS)
    every = texts(sheet)
    symbols = {slot.chord.pretty for slot in song.slots if slot.chord}
    assert symbols <= set(every), symbols - set(every)
    assert {"Verse", "Stairs", "salt", "Salt Stairs"} <= set(every)
    assert all(any(isinstance(item, Picture) for item in page.items) for page in sheet.pages)
    assert [f"{n} of {len(sheet.pages)}" in every for n in range(1, len(sheet.pages) + 1)]
    drawing = next(item for item in sheet.pages[0].items if isinstance(item, Picture)).svg
    assert b"<text" not in drawing and drawing.count(b"<svg") == 1
    bare = sheet_of(song, LIBRARY, kind, Options(words=False, fingers=False), METRICS)
    assert "salt" not in texts(bare)


def test_a_long_song_goes_over_many_pages_and_nothing_is_lost() -> None:
    chart = "key: C\n" + "".join(f"[Part {n}]\n| Dm9 | G13 | Cmaj9 | A7b9 |\n" for n in range(40))
    song = solved(chart)
    sheet = sheet_of(song, LIBRARY, "crib", Options(), METRICS)
    check(sheet)
    assert len(sheet.pages) > 5
    headings = [words for words in texts(sheet) if words.startswith("Part ")]
    assert headings == [f"Part {n}" for n in range(40)]
    assert sum(words == "Dm9" for words in texts(sheet)) == 40
    for page in sheet.pages:  # no heading stands alone at the foot of a page
        heads = [item for item in page.items if isinstance(item, Text) and item.words.startswith("Part ")]
        symbols = [item.y for item in page.items if isinstance(item, Text) and item.words == "Dm9"]
        assert all(any(y > head.y for y in symbols) for head in heads)


def test_rounds_that_are_alike_are_said_and_others_shown() -> None:
    song = solved("key: C\n[A] x3\n| Dm9 | G13 |\n[B]\n| Cmaj9 |\n")
    every = texts(sheet_of(song, LIBRARY, "crib", Options(), METRICS))
    assert "A, round 2 (bars 3 to 4): as before." in every and every.count("Dm9") == 1
    varied = vary_with_copy(song, "A", 2).song
    other = choose(varied, 2, held(50)).song
    every = texts(sheet_of(other, LIBRARY, "crib", Options(), METRICS))
    assert "A, round 2: as before, except" in every
    assert every.count("Dm9") == 2 and every.count("G13") == 1
    assert "A, round 3 (bars 5 to 6): as before." in every


def test_a_crib_sheet_shows_what_it_is_asked_for() -> None:
    song = demo_song("salt-stairs")
    plain = Options(keyboards=False, degrees=False, fingers=False, moves=False, words=False, counts=False)
    bare = texts(sheet_of(song, LIBRARY, "crib", plain, METRICS))
    full = texts(sheet_of(song, LIBRARY, "crib", Options(degrees=True, date="5 May 2031"), METRICS))
    assert not any(words.startswith("fingers") or words[2:7] == "beats" or "“" in words for words in bare)
    assert any(words.startswith("fingers ") for words in full)
    assert "4 beats" in full and "“salt on”" in full and "5 May 2031" in full
    held_row = row(song, LIBRARY)
    sentence = move_sentence(held_row.hinges[0])
    assert sentence.split(",")[0].split()[0] in {words.split()[0] for words in full}
    found = sheet_of(song, LIBRARY, "crib", plain, METRICS)
    assert not any(isinstance(item, Box) for page in found.pages for item in page.items)


@pytest.mark.parametrize(
    ("sung", "cut"),
    [
        ("salt on", "“salt on”"),
        ("W" * 60, "“WWW"),  # a syllable that is wider than its cell by itself
        ("salt " + "W" * 60, "“salt…”"),
        ("W" * 60 + "-salt", "“WWW"),
    ],
)
def test_words_that_are_too_wide_are_cut(sung: str, cut: str) -> None:
    """Where a blank is, else anywhere; a word of any length comes to an end."""
    song = solved(f"key: C\n[A]\n| C | F |\nmelody: C5:2 D5:2 | E5:4\nlyrics: {sung} | on\n")
    words = texts(sheet_of(song, LIBRARY, "crib", Options(), METRICS))
    cue = next(one for one in words if one.startswith("“"))
    assert cue.startswith(cut) and cue.endswith("”") and cue.count("…") == ("W" in sung)


def test_a_crib_sheet_has_the_lines_of_hands() -> None:
    song = solved("key: C\n[A]\n| C | F | C | F |\nline: r:2 D5+F5:1 E5:1~ | E5:2 C5:2 | r:4 | A4:4\n")
    found = "|".join(texts(sheet_of(song, LIBRARY, "crib", Options(fingers=False), METRICS)))
    assert "R line: rest 2, D5+F5 1, E5 3" in found.replace("|", " ")
    assert "R line: held 2, C5 2" in found and "R line: A4 4" in found and "L line" not in found
    twice = solved("key: C\n[A] x2\n| C | F |\nline left: C3:4 | F3:4\n")
    found = "|".join(texts(sheet_of(twice, LIBRARY, "crib", Options(), METRICS)))
    assert "L line: C3 4|R|fingers " in found and "round 2 (bars 3 to 4): as before" in found


@pytest.mark.parametrize(
    ("grip", "words"),
    [
        ("Dm11: D2 A2 ; G4 C5", ["without third"]), ("Dm11: D2 F3 ; G4 C5", []),
        ("Dm11: D2 A2 ; F4 C5", ["without eleventh"]), ("C13: C2 ; E4", ["without seventh and thirteenth"]),
        ("C7b9: C2 ; E4 Bb4", ["without ♭9"]), ("Csus: C2 G2 ; C4 G4", ["without eleventh"]),
        ("C6: C2 ; E4 G4", ["without sixth"]), ("C5: C2 ; C4", []),
        ("Cm7b5: C2 ; Eb4 G4 Bb4", ["without ♭5"]),
    ],
)  # fmt: skip
def test_what_a_grip_has_not_of_its_name_is_said(grip: str, words: list[str]) -> None:
    song = read_song(f"key: C\n{grip}\n".encode(), "it", LIBRARY).song
    found = texts(sheet_of(song, LIBRARY, "crib", Options(), METRICS))
    assert [one for one in found if one.startswith("without")] == words


def test_numbers_stand_for_symbols_where_that_is_wished() -> None:
    song = solved("key: C\n[A]\n| C | Am7 | C//Am |\n")
    for wished, size in ((False, 8.5), (True, 13)):
        sheet = sheet_of(song, LIBRARY, "crib", Options(numbers=wished), METRICS)
        sizes = {item.words: item.size for item in sheet.pages[0].items if isinstance(item, Text)}
        assert [sizes[words] for words in ("1", "6m7", "1//6m")] == [size] * 3
        assert sizes["Am7"] == 21.5 - size


def test_no_double_flats_where_the_symbol_has_none() -> None:
    for kind in ("crib", "hinges", "keys"):
        song = solved("key: C\n[A]\n| Cdim7 | Ebm7b5 |\n")
        assert "♭♭" not in "|".join(texts(sheet_of(song, LIBRARY, kind, Options(), METRICS)))
    own = solved("key: C\n[A]\n| Bbb |\n")
    assert {"B♭♭", "♭♭7"} <= {*texts(sheet_of(own, LIBRARY, "crib", Options(), METRICS))}


def test_moves_are_short_sentences() -> None:
    song = with_voicings(song_of("| C | C | C | C |"), [held(48), held(48), held(50), held(48)])
    hinges = row(song, LIBRARY).hinges
    assert move_sentence(hinges[0]) == "All stays."
    assert move_sentence(hinges[1]).endswith("right hand up a whole step.")
    chords = solved("key: C\n[A]\n| Dm9 | G13 | Cmaj9 | C6 |\n")
    for report in row(chords, LIBRARY).hinges:
        words = move_sentence(report)
        assert (
            words[0].isupper() and words.endswith(".") and (("the rest stays" in words) == bool(report.held))
        )


@given(st.lists(st.integers(21, 108), min_size=1, max_size=9, unique=True), st.data())
@settings(deadline=None)
def test_keys_are_marked_in_their_place(keys: list[int], data: st.DataObject) -> None:
    keys = sorted(keys)
    cut = data.draw(st.integers(0, len(keys)))
    stays = data.draw(st.lists(st.sampled_from(keys), unique=True))
    span = span_of([keys])
    assert span[0] <= keys[0] and keys[-1] <= span[1]
    items = keyboard(keys[:cut], keys[cut:], stays, span, 40, height=10)
    squares = [item.x + item.w / 2 for item in items if isinstance(item, Box) and item.fill == "left"]
    discs = [item.x for item in items if isinstance(item, Disc)]
    pins = [item for item in items if isinstance(item, Box) and item.fill == "held"]
    assert (len(squares), len(discs), len(pins)) == (cut, len(keys) - cut, len(stays))
    assert squares == sorted(squares) and discs == sorted(discs)
    assert all(-1 <= x <= 41 for x in (*squares, *discs)) and all(pin.y >= 10 for pin in pins)


def test_shapes_are_on_twelve_roots() -> None:
    song = solved("key: C\n[A]\n| Dm9 | G13 | Dm9 |\n")
    sheet = sheet_of(song, LIBRARY, "keys", Options(), METRICS)
    check(sheet)
    every = texts(sheet)
    roots = {words for words in every if words.endswith("m9")}
    assert len(roots) == 12 and sum(words.endswith("13") for words in every) >= 12


def test_a_practice_page_has_boxes_reasons_and_the_caution() -> None:
    song = choose_key(demo_song("lantern-ferry"), parse_key("Bb"), True).song
    sheet = sheet_of(song, LIBRARY, "practice", Options(), METRICS)
    check(sheet)
    every = " ".join(texts(sheet))
    assert "where something hurts, stop" in every and "half steps, largest move" in every
    assert "All of it in B♭ major" in every
    assert sum(isinstance(item, Box) for page in sheet.pages for item in page.items) > 30


@pytest.mark.parametrize("kind", KIND_IDS)
def test_without_chords_there_is_nothing_to_write(kind: str) -> None:
    with pytest.raises(BadInput):
        sheet_of(Song(), LIBRARY, kind, Options(), METRICS)


@given(charts())
@settings(deadline=None, max_examples=15)
def test_any_chart_can_be_written_down(chart: Chart) -> None:
    song = Song(chart)
    if not song.slots:
        return
    for kind in ("crib", "practice"):
        check(sheet_of(song, LIBRARY, kind, Options(), METRICS))


@given(st.text(alphabet="ab ", max_size=60), st.floats(5, 60))
def test_words_are_wrapped_and_none_is_lost(words: str, width: float) -> None:
    lines = wrapped(words, width, 9, METRICS)
    assert " ".join(lines) == " ".join(words.split())
    assert all(METRICS.width_mm(line, 9) <= width or " " not in line for line in lines)
    size = fitted(words, width, 9, METRICS)
    assert 4.5 <= size <= 9


@given(st.text(alphabet="ab c…", max_size=40), st.floats(0, 60))
def test_words_are_shortened_only_as_far_as_needed(words: str, width: float) -> None:
    kept = shortened(words, width, 9, METRICS)
    assert not kept or METRICS.width_mm(kept, 9) <= width
    if METRICS.width_mm(words, 9) <= width:
        assert kept == words
    elif kept:
        assert kept.endswith("…") and words.startswith(kept.rstrip("…"))


@pytest.mark.parametrize("composer", ["", "Bartholomew Maximilian Featherstonehaughcholmondeleymarjori"])
def test_a_long_title_leaves_the_composer_its_room(composer: str) -> None:
    title = "The Unaccountably Long-Winded Ballad of the Lighthousekeeperswidowerscousin of " + "Under" * 20
    for name in (title, "Short"):
        _, items = Filler(name, composer, "under", Options(), METRICS).head(True)
        head = [item for item in items if isinstance(item, Text)][: 1 + bool(composer)]
        ends = head[0].x + METRICS.width_mm(head[0].words, head[0].size, True)
        right = PAPERS["a4"][0] - MARGIN_MM
        begins = right - METRICS.width_mm(head[1].words, head[1].size) if composer else right + 0.1
        assert MARGIN_MM < ends < begins and (head[0].words == name) == (name == "Short")


@given(st.lists(st.tuples(st.floats(3, 120), st.booleans()), max_size=30))
def test_blocks_are_never_split(rows: list[tuple[float, bool]]) -> None:
    filler = Filler("Title", "", "under", Options(), METRICS)
    blocks = [Block(height, (Box(0, 0, 10, height),), keep) for height, keep in rows]
    filler.add(blocks)
    sheet = filler.sheet()
    boxes = [(number, item.y, item.h) for number, page in enumerate(sheet.pages)
             for item in page.items if isinstance(item, Box)]  # fmt: skip
    assert len(boxes) == len(rows)
    assert all(y + h <= filler.bottom + 0.01 for _, y, h in boxes)
    assert boxes == sorted(boxes)


def test_scores_are_engraved_in_any_thread() -> None:
    """The engraver keeps where its faces lie for each thread by itself."""
    song = demo_song("lantern-ferry")
    with ThreadPoolExecutor(2) as pool:
        made = [pool.submit(sheet_of, song, LIBRARY, "lead", Options(), METRICS) for _ in range(4)]
        assert all("Aadd9" in texts(one.result()) for one in made)
    assert "Aadd9" in texts(sheet_of(song, LIBRARY, "lead", Options(), METRICS))


def test_lines_of_a_score_begin_with_sections_and_are_even() -> None:
    song = demo_song("salt-stairs")
    sheet = sheet_of(song, LIBRARY, "lead", Options(), METRICS)
    items = [item for page in sheet.pages for item in page.items if isinstance(item, Text)]
    left = {item.words: item.x for item in items if item.words in ("Verse (2)", "Stairs")}
    assert left and all(x < MARGIN_MM + 12 for x in left.values())
    assert not any(a is not b and a.words == "Stairs" and abs(a.x - b.x) < 8 and abs(a.y - b.y) < 2
                   for a in items for b in items)  # fmt: skip


@pytest.mark.parametrize(
    ("sections", "capacity", "lines"),
    [
        ((8,), 4, [4, 4]), ((5,), 4, [3, 2]), ((9,), 4, [3, 3, 3]), ((3,), 2, [3]), ((5,), 2, [3, 2]),
        ((1,), 4, [1]), ((1, 1, 1), 2, [3]),
        ((2, 2), 4, [2, 2]),  # half full: the section begins a line
        ((1, 4), 4, [3, 2]),  # less: it goes on
        ((4, 1), 4, [3, 2]), ((4, 4, 1), 4, [4, 3, 2]), ((2, 1, 1), 4, [2, 2]), ((7, 3), 5, [4, 3, 3]),
    ],
)  # fmt: skip
def test_lines_begin_with_sections_and_none_has_a_single_bar(
    sections: tuple[int, ...], capacity: int, lines: list[int]
) -> None:
    assert lines_of(sections, capacity) == lines
    assert sum(lines) == sum(sections)


@given(st.lists(st.integers(1, 17), min_size=1, max_size=8), st.integers(2, 8))
def test_lines_hold_all_bars_and_few_more_than_they_can(sections: list[int], capacity: int) -> None:
    lines = lines_of(sections, capacity)
    assert sum(lines) == sum(sections) and max(lines) <= max(3, capacity + 1)
    assert min(lines) >= 2 or sum(sections) == 1


def test_a_line_alone_on_a_page_shares_the_pages() -> None:
    sheet = sheet_of(demo_song("copper-kite"), LIBRARY, "score", Options(), METRICS)
    last = [item.words for item in sheet.pages[-1].items if isinstance(item, Text)]
    assert len(sheet.pages) == 2 and last.count("G13") == 2  # two systems on the second page, not one


def test_rounds_are_written_out_where_that_is_wished() -> None:
    song = demo_song("salt-stairs")
    repeated = texts(sheet_of(song, LIBRARY, "lead", Options(), METRICS))
    written = texts(sheet_of(song, LIBRARY, "lead", Options(written_out=True), METRICS))
    assert "Verse (2)" not in repeated and "Verse (2)" in written
    assert repeated.count("salt") == written.count("salt") == 1 and written.count("Cm9") > repeated.count(
        "Cm9"
    )


def test_fingers_of_a_chord_stand_over_each_other_in_order() -> None:
    """Also where two of its notes lie side by side, as a second does, in either hand."""
    page = b"title: Seconds\nBb7: Bb2 Ab3 ; F4 C5 D5\nFm7: F2 Eb3 F3 ; G4 Ab4 Eb5\n"
    song = read_song(page, "it", LIBRARY).song
    items = sheet_of(song, LIBRARY, "score", Options(), METRICS).pages[0].items
    columns: dict[float, list[tuple[float, str]]] = {}
    for item in items:
        if isinstance(item, Text) and item.words in "12345":
            columns.setdefault(round(item.x, 1), []).append((-item.y, item.words))
    stacks = ["".join(words for _, words in sorted(column)) for column in columns.values()]
    assert sorted(stacks) == [
        "125",
        "51134",
        "521",
    ]  # from below; the left hand's may stand under the right's


@pytest.mark.parametrize("kind", ["lead", "score"])
def test_words_without_a_tune_are_printed_under_slashes(kind: str) -> None:
    song = solved("key: C\n[A]\n| C | F G |\nlyrics: down by the | tar works\n")
    every = texts(sheet_of(song, LIBRARY, kind, Options(), METRICS))
    assert {"down by the", "tar", "works"} <= {*every} or {"down", "tar", "works"} <= {*every}
    assert b"unpitched" not in musicxml.write(song) and b"<lyric" in musicxml.write(song)
    assert b"slash" in musicxml.write(song, only="lead", engraved=True)


def test_sections_stand_above_the_symbols_and_long_names_within_the_page() -> None:
    name = f"A part {'with a name that is much longer than a line ' * 5}".strip()
    parts = ("| C | F |\nmelody: A5:4 | C6:4\n", "| G | C |\nmelody: D6:4 | C5:4\n")
    song = solved(f"key: C\n[{name}]\n{parts[0]}[Two]\n{parts[1]}")
    sheet = sheet_of(song, LIBRARY, "lead", Options(), METRICS)
    items = [item for item in sheet.pages[0].items if isinstance(item, Text)]
    long, two = (next(item for item in items if item.words.startswith(word)) for word in ("A part", "Two"))
    symbols = sorted(item.y for item in items if item.words in ("C", "F", "G"))
    assert long.y < symbols[0] and two.y < symbols[-1] and long.words.endswith("…")
    boxes = [item for item in sheet.pages[0].items if isinstance(item, Box)]
    assert len(boxes) == 2 and all(box.x >= MARGIN_MM - 0.01 for box in boxes)
    assert all(box.x + box.w <= sheet.pages[0].width - MARGIN_MM for box in boxes)


def test_half_notes_swing_storeys_and_double_flats_are_printed() -> None:
    song = solved("meter: 2/2\ntempo: 80\n| C//Bb | Ebbmaj7 |\nmelody: C5:2 | C5:2\n")
    sheet = sheet_of(change_groove(song, "x", swing=100).song, LIBRARY, "lead", Options(), METRICS)
    words = texts(sheet)
    assert "C//B♭" in words and "E♭♭maj7" in words
    assert not any("\ue000" <= one <= "\uf8ff" for one in "".join(words))
    assert any(one.startswith("Swing") for one in words)
    plain = sheet_of(song, LIBRARY, "lead", Options(), METRICS)
    assert "= 80" in texts(plain) and not any(one.startswith(("half", "Swing")) for one in texts(plain))
    assert (
        sum(isinstance(item, Picture) for item in plain.pages[0].items) == 2
    )  # the staves, and the half note


def test_leaves_and_hinges_show_what_moves_is_held_comes_and_goes() -> None:
    song = solved("| C | Am |\n")
    slots = [song.voicing(k) for k in range(2)]
    sheet = sheet_of(song, LIBRARY, "hinges", Options(), METRICS)
    words = texts(sheet)
    assert "C" in words and "Am" in words
    found = row(song, LIBRARY)
    report = found.hinges[0]
    items = [item for page in sheet.pages for item in page.items]
    assert sum(isinstance(item, Box) and item.fill == "held" for item in items) == report.held
    assert (words.count("new"), words.count("off")) == (report.entered, report.left_off)
    assert str(report.motion_st) in words
    assert all(one is not None for one in slots)
    marks = sum(isinstance(item, Disc) for item in items)
    assert marks == sum(len(one.right.keys) for one in slots if one is not None)


def test_many_chords_go_over_rows_and_pages_within_the_paper() -> None:
    song = solved("| C Am F G | Em Dm G7 C |\n| Am7 D7 | Gmaj7 Cmaj7 | F#m7b5 B7 | Em |\n")
    for options in (Options("a5"), Options(large=True, degrees=True), Options(across=True)):
        for page in sheet_of(song, LIBRARY, "hinges", options, METRICS).pages:
            for item in page.items:
                if isinstance(item, Box):
                    assert item.x >= 0 and item.x + item.w <= page.width and item.y + item.h <= page.height
