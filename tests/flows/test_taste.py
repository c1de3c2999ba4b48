"""A player's taste: learnt from rows, kept as text, laid over the schools, and used by commands."""

from __future__ import annotations

import json
from functools import lru_cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from yellow_hinge.cli import run
from yellow_hinge.errors import BadInput, Cancelled
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.counts import NAMES, price_of
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.priced import ordered
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.grips.page import write
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.taste.kept import read_taste, taste_text
from yellow_hinge.tasks.taste.learning import OwnRow, learn
from yellow_hinge.tasks.taste.prices import FAR, MARGIN, nearest_shares
from yellow_hinge.tasks.taste.said import price_words
from yellow_hinge.tasks.taste.taste import Sure, Taste, tasted
from yellow_hinge.voicing.own_prices import LEAST_SHARE, MOST_SHARE
from yellow_hinge.voicing.recipes import builtin_library

LIBRARY = builtin_library()
SONGS = (
    "title: Reed\nkey: C\n| Cmaj7 | Am7 | Dm7 | G7 |\n",
    "title: Slate\nkey: F\n| Fmaj7 | Dm7 | Gm7 | C9 |\n",
    "title: Rope\nkey: G\n| G | Em7 | Am7 | D7 |\n",
    "title: Tin\nkey: Bb\n| Bbmaj7 | Gm7 | Cm7 | F7 |\n",
)
#: Somebody who loves notes to come and go, and thick right hands.
FULL = Taste({"enter": 0.25, "leave": 0.25, "right_3": 4.0, "right_4": 0.25, "right_move": 4.0})


def song_of(text: str) -> Song:
    return Song(parse_chart(text))


def rows_of(taste: Taste, texts: tuple[str, ...] = SONGS) -> list[OwnRow]:
    library, rows = tasted(LIBRARY, taste), []
    for text in texts:
        song = song_of(text)
        rows.append(OwnRow(song.title, song, Planner(library).solve(progression(song, library)).row))
    return rows


@lru_cache(maxsize=1)
def learnt() -> Taste:
    return learn(rows_of(FULL), LIBRARY)


# --- prices --------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "share", "said"),
    [("enter", 0.6, "1.2 instead of 2"), ("enter", 4.9, "9.8 instead of 2"),
     ("enter", 5.6, "11 instead of 2"), ("taste", 0.947, "0.0095 instead of 0.01"),
     ("enter", 1.234, "2.5 instead of 2")],
)  # fmt: skip
def test_a_price_is_said_with_two_digits_that_count(name: str, share: float, said: str) -> None:
    assert price_words(name, share, LIBRARY.schools["solo"]).endswith(f": {said}")


@given(st.integers(0, 10_000), st.sampled_from([0.03, 1.0, 30.0]))
@settings(max_examples=25)
def test_no_other_shares_lose_less(seed: int, boldness: float) -> None:
    """Against a search that knows nothing of the problem."""
    dice = np.random.default_rng(seed)
    rows = np.zeros((12, len(NAMES)))
    rows[:, :6] = dice.normal(0, 2, (12, 6)).round(2)

    def loss(shares: np.ndarray) -> float:
        short = np.maximum(0.0, MARGIN - rows[:, :6] @ shares)
        pull = np.minimum(short, FAR)
        return float((shares - 1 - np.log(shares)).sum() + boldness * (pull * (2 * short - pull)).sum())

    found = nearest_shares(rows, boldness)
    own = np.array([found.get(name, 1.0) for name in NAMES[:6]])
    other = minimize(loss, np.ones(6), method="L-BFGS-B", bounds=[(LEAST_SHARE, MOST_SHARE)] * 6)
    assert loss(own) <= other.fun * 1.01 + 1e-3
    assert all(LEAST_SHARE <= share <= MOST_SHARE for share in found.values())


def test_without_choices_prices_are_ours() -> None:
    assert nearest_shares(np.zeros((0, len(NAMES))), 1.0) == {}
    assert nearest_shares(np.zeros((3, len(NAMES))), 1.0) == {}


def test_few_choices_move_prices_little() -> None:
    row = np.zeros((1, len(NAMES)))
    row[0, 0] = -2.0
    [little], [much] = (nearest_shares(np.repeat(row, count, axis=0), 0.03).values() for count in (1, 40))
    assert 1 > little > much >= LEAST_SHARE


# --- learning ------------------------------------------------------------------------------


@pytest.mark.long
def test_rows_that_were_left_out_come_nearer() -> None:
    found = learnt()
    assert found.sure.of == 32 and found.sure.after > found.sure.before
    assert found.shares["right_4"] < 1
    assert learn(rows_of(FULL), LIBRARY) == found
    assert all(count > 0 for count in found.choices.values())


@pytest.mark.long
def test_new_songs_come_nearer() -> None:
    [new] = rows_of(FULL, ("key: Eb\n| Ebmaj7 | Cm7 | Fm7 | Bb7 |\n",))
    hands = []
    for taste in (Taste(), learnt()):
        library = tasted(LIBRARY, taste)
        row = voice_song(new.song, library, Planner(library)).answer.row
        hands.append(
            sum(
                one.hand(side).keys == own.hand(side).keys  # type: ignore[union-attr]
                for one, own in zip(row, new.grips, strict=True)
                for side in ("left", "right")
            )
        )
    assert hands[1] >= hands[0]


@pytest.mark.long
def test_from_rows_like_ours_nothing_is_learnt() -> None:
    found = learn(rows_of(Taste()), LIBRARY)
    assert found == Taste(sure=Sure(32, 32, 32))


def test_one_row_alone_moves_prices_little() -> None:
    found = learn(rows_of(FULL)[:1], LIBRARY)
    assert found.sure.before == found.sure.after < found.sure.of == 8
    assert all(0.4 < share < 2.5 for share in found.shares.values())


def test_it_can_be_called_off() -> None:
    with pytest.raises(Cancelled):
        learn(rows_of(FULL), LIBRARY, lambda share: share < 0.2)


# --- schools -------------------------------------------------------------------------------


def test_a_taste_changes_prices_and_no_bans() -> None:
    taste = Taste({"enter": 0.5, "right_1": 4.0, "strain": 0.25}, school="solo")
    solo, band = (tasted(LIBRARY, taste).school(name) for name in ("solo", "band"))
    ours = LIBRARY.school("solo")
    assert price_of(solo, "enter") == price_of(ours, "enter") // 2 and band == LIBRARY.school("band")
    assert solo.notes.right[1] == min(10_000, 4 * ours.notes.right[1])
    assert price_of(solo, "strain") == 1  # what costs something does not become free
    assert (solo.widest_gap_st, solo.loose, solo.reduce) == (ours.widest_gap_st, ours.loose, ours.reduce)
    assert set(solo.right) == set(ours.right) and tasted(LIBRARY, Taste()).school("solo").right == ours.right


@pytest.mark.parametrize(
    ("counts", "first"), [({}, "a"), ({"left c": 1}, "a"), ({"left c": 12}, "c"), ({"right c": 12}, "a")]
)
def test_shapes_that_were_taken_often_come_first(counts: dict[str, int], first: str) -> None:
    found = ordered(("a", "b", "c"), "left", counts)
    assert found[0] == first and sorted(found) == ["a", "b", "c"]


# --- as text -------------------------------------------------------------------------------


def test_a_taste_comes_back_from_its_text() -> None:
    taste = Taste(
        {"enter": 0.5, "right_3": 2.25}, {"left root-fifth": 4}, "solo", choices={"enter": 3, "right_3": 0}
    )
    text = taste_text(taste, LIBRARY.school("solo"))
    assert read_taste(text, "it") == taste and "notes that come in: 1 instead of 2" in text
    assert read_taste(taste_text(Taste(), LIBRARY.school("solo")), "it") == Taste()


HEAD = 'schema = "yellow-hinge/taste/1"\n'


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("", "schema is None"), ("schema = 1\n[[price]", "Expected"),
        (f"{HEAD}school = 3\n", "got `int`"),
        (f'{HEAD}[[price]]\nid = "quiet"\nshare = 1.0\n', "there is no price 'quiet'"),
        (f'{HEAD}[[price]]\nid = "enter"\nshare = 0.24\n', "a share is 0.25 to 4"),
        (f'{HEAD}[[price]]\nid = "enter"\nshare = 4.01\n', "a share is 0.25 to 4"),
        (f'{HEAD}[[price]]\nid = "enter"\nshare = nan\n', "a share is 0.25 to 4"),
        (f'{HEAD}[[price]]\nid = "enter"\nshare = 1\nchoices = -1\n', "counted from 0"),
        (f'{HEAD}[[price]]\nid = "enter"\nshare = 1\nloud = 1\n', "loud"),
        (f'{HEAD}[[shape]]\nid = "foot x"\ntaken = 1\n', "a shape is"),
        (f'{HEAD}[[shape]]\nid = "left x"\ntaken = -1\n', "how often"),
        (f'{HEAD}[[shape]]\nid = "left x"\ntaken = 1000001\n', "how often"),
    ],
)  # fmt: skip
def test_what_is_wrong_in_a_file_is_said(text: str, what: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_taste(text, "it.toml")
    assert what in str(caught.value) and "it.toml" in str(caught.value)


@pytest.mark.parametrize("share", [0.25, 4])
def test_shares_at_their_bounds_are_read(share: float) -> None:
    assert read_taste(f'{HEAD}[[price]]\nid = "enter"\nshare = {share}\n', "it").shares == {"enter": share}


# --- commands ------------------------------------------------------------------------------


@pytest.fixture
def pages(tmp_path: Path) -> list[str]:
    library, names = tasted(LIBRARY, FULL), []
    for number, text in enumerate(SONGS):
        song = voice_song(song_of(text), library, Planner(library)).song
        path = tmp_path / f"{number}.grips"
        path.write_bytes(write(song))
        names.append(str(path))
    return names


@pytest.mark.long
def test_a_taste_is_learnt_shown_and_used(
    pages: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = str(tmp_path / "mine.toml")
    assert run(["taste", "learn", *pages, "--out", out, "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["rows"] == ["Reed", "Slate", "Rope", "Tin"] and report["choices"] == 16
    assert report["agreement"]["after"] > report["agreement"]["before"]
    row = next(row for row in report["prices"] if row["id"] == "right_4")
    assert row["theirs"] < row["ours"] and row["choices"] > 0 and "4 notes in the right hand" in row["what"]
    assert run(["taste", "show", out]) == 0
    assert "4 notes in the right hand" in capsys.readouterr().out
    assert run(["taste", "show", out, "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["prices"] == report["prices"]
    chart = tmp_path / "new.txt"
    chart.write_text("key: C\n| Dm7 | G7 | Cmaj7 | A7 |\n")
    rows = []
    for more in ([], ["--taste", out]):
        assert run(["voice", str(chart), "--json", *more]) == 0
        rows.append([chord["rh"]["midi"] for chord in json.loads(capsys.readouterr().out)["chords"]])
    assert rows[0] != rows[1]
    assert run(["keys", str(chart), "--taste", out, "--json"]) == 0
    assert len(json.loads(capsys.readouterr().out)) > 0
    lists = []
    taken = f"[[song]]\nid = 'a'\ntitle = 'A'\nkind = ''\nfamilies = {['other bass'] * 30}\n"
    for song in ("", taken):
        Path(out).write_text(Path(out).read_text() + song)
        assert run(["swaps", str(chart), "--taste", out, "--json"]) == 0
        lists.append(json.loads(capsys.readouterr().out)["proposals"])
    assert lists[0] != lists[1] and lists[1][0]["group"] == "other bass"


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["taste", "show", "gone.toml"], "gone.toml"),
        (["taste", "learn", "gone.grips", "--out", "x.toml"], "gone"),
        (["taste", "learn", "PAGE"], "--out"), (["taste"], "learn|show"),
        (["taste", "learn", "CHART", "--out", "x.toml"], "no grips"),
        (["voice", "CHART", "--taste", "CHART"], "mend the TOML"),
        (["swaps", "CHART", "--taste", "gone.toml"], "gone.toml"),
    ],
)  # fmt: skip
def test_what_a_taste_cannot_be_is_said(
    pages: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch,
    arguments: list[str], words: str,
) -> None:  # fmt: skip
    monkeypatch.chdir(tmp_path)
    Path("chart.txt").write_text("key: C\n| Dm7 | G7 |\n")
    named = {"PAGE": pages[0], "CHART": "chart.txt"}
    assert run([named.get(word, word) for word in arguments]) == 2
    said = capsys.readouterr()
    assert words in said.err and said.out == "" and not Path("x.toml").exists()


def test_one_page_alone_is_said(pages: list[str], tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(["taste", "learn", pages[0], "--out", str(tmp_path / "one.toml")]) == 0
    said = capsys.readouterr()
    assert "prices move little" in said.err and "Learnt from 4 grips in 1 row." in said.out
