"""Styles of swaps: rows of data, what they do to the order, and one's own learnt from what was taken."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import pytest

from made import chord, song_of
from yellow_hinge.errors import BadInput
from yellow_hinge.reharm.proposals import Proposal, Spot, proposals, variants
from yellow_hinge.reharm.rules import GROUPS, RULES
from yellow_hinge.reharm.styles import (
    LEAST_TAKEN,
    MOST_WEIGHT,
    STYLES_SCHEMA,
    Style,
    builtin_styles,
    learned,
    read_styles,
    style_of,
    style_text,
)
from yellow_hinge.song.arrangement import Taste
from yellow_hinge.song.edits import settle, wish_for_section
from yellow_hinge.tasks.settings.own_styles import every_style
from yellow_hinge.tasks.swaps.desk import learn_style
from yellow_hinge.tasks.swaps.reharmonise import chords_of, find_swaps
from yellow_hinge.theory.keys import parse_key


def listed(row: str, style: Style | None, at: int = 1) -> list[Proposal]:
    spots = [Spot(chord(word), Fraction(4 * k), Fraction(4), k) for k, word in enumerate(row.split())]
    found = proposals(spots, [parse_key("C")] * len(spots), styles=[style] * len(spots))
    return [one for one in found if one.at == at]


def test_six_styles_ship_and_each_says_what_it_does() -> None:
    styles = builtin_styles()
    assert list(styles) == ["hymn", "gospel", "soul", "bebop", "film", "bossa"]
    for one in styles.values():
        assert one.name and one.words and set(one.families) <= set(GROUPS) and set(one.rules) <= set(RULES)


@pytest.mark.parametrize(("style", "near", "far"), [
    ("bebop", "tritone", "slash"), ("hymn", "walk-up", "tritone"), ("film", "minor-plagal", "tritone"),
    ("gospel", "minor-plagal", "relative"), ("soul", "richer", "tritone"), ("bossa", "richer", "minor-line"),
])  # fmt: skip
def test_a_style_brings_some_nearer_and_others_farther(style: str, near: str, far: str) -> None:
    one = builtin_styles()[style]
    assert one.price(RULES[near]) < RULES[near].price or RULES[near].price == 0
    assert one.price(RULES[far]) > RULES[far].price


def test_the_order_follows_the_style_and_nothing_is_lost() -> None:
    plain = listed("Dm7 G7 C", None)
    places = {}
    for name in ("hymn", "bebop"):
        found = listed("Dm7 G7 C", builtin_styles()[name])
        assert {(one.rule, one.chords) for one in found} == {(one.rule, one.chords) for one in plain}
        places[name] = [one.rule for one in found].index("tritone")
    assert places["bebop"] < places["hymn"]
    assert min(one.price for one in listed("Dm7 G7 C", Style("x", "x", "x", {"sus and colour": -300}))) == 0


@pytest.mark.parametrize(("row", "words"), [
    ('id = "a"\nname = "A"\nwords = "w"\nfamilies = { "loud" = 3 }', "families are stronger pull"),
    ('id = "a"\nname = "A"\nwords = "w"\nrules = { "gone" = 3 }', "rules go by id"),
    ('id = "a"\nname = "A"\nwords = "w"\nrules = { "tritone" = 301 }', "-300..300, not 301"),
    ('id = "a"\nname = "A"\nwords = "w"\nrules = { "tritone" = -301 }', "-300..300, not -301"),
    ('id = "a"\nname = "A"', "words"),
])  # fmt: skip
def test_a_bad_row_is_said(row: str, words: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_styles(f'schema = "{STYLES_SCHEMA}"\n[[style]]\n{row}\n')
    assert words in caught.value.problems[0].what
    ends = f'id = "a"\nname = "A"\nwords = "w"\nrules = {{ "tritone" = {MOST_WEIGHT} }}'
    assert read_styles(f'schema = "{STYLES_SCHEMA}"\n[[style]]\n{ends}\n')["a"].price(RULES["tritone"]) == 370


def test_an_unknown_style_is_refused_with_those_there_are() -> None:
    with pytest.raises(BadInput) as caught:
        style_of("waltz", builtin_styles())
    assert "hymn, gospel" in caught.value.problems[0].remedy


def test_a_style_is_for_a_song_or_a_section() -> None:
    song = song_of("key: C\n[A]\n| C | Dm7 | G7 | C |\n[B]\n| C | Dm7 | G7 | C |\n")
    whole = settle(song, style="bebop").song
    part = wish_for_section(whole, "B", Taste(style="hymn")).song
    prices = [one.price for one in find_swaps(part) if one.rule == "tritone"]
    assert prices == [builtin_styles()[name].price(RULES["tritone"]) for name in ("bebop", "hymn")]
    gone = settle(song, style="gone").song
    assert [one.price for one in find_swaps(gone)] == [one.price for one in find_swaps(song)]


def test_ones_own_style_is_learnt_from_what_was_taken(tmp_path: Path) -> None:
    song = song_of("key: C\n[A]\n| C | Am7 | Dm7 | G7 | Em7 | A7 | Dm7 | G7 | C | D7 | G7 | C |\n")
    found = find_swaps(song)
    pulls = [one for one in found if one.group == "stronger pull"]
    taken = {one.at: chords_of(one) for one in reversed(pulls)}
    assert len(taken) >= LEAST_TAKEN
    path = tmp_path / "styles.toml"
    style = learn_style(found, taken, path)
    assert style.families["stronger pull"] < 0 < max(style.families.values())
    assert every_style(path)["mine"] == style and list(every_style(path))[:6] == list(builtin_styles())
    few = dict(list(taken.items())[: LEAST_TAKEN - 1])
    with pytest.raises(BadInput) as caught:
        learn_style(found, few, path)
    assert f"only {LEAST_TAKEN - 1} of its swaps" in caught.value.problems[0].what
    assert every_style(path)["mine"] == style  # the file stays
    path.write_text(style_text(Style("other", "Other", "w")))
    os.utime(path, ns=(1, 1))
    assert "mine" not in every_style(path) and every_style(path)["other"].name == "Other"  # read again
    path.unlink()
    assert every_style(path) == dict(builtin_styles())


def test_what_never_came_up_says_nothing() -> None:
    style = learned(["tritone"] * 4, ["relative"] * 4, "mine")
    assert style is not None and style.families == {"stronger pull": -18, "same job": 75}
    assert learned(["tritone"] * 3, [], "mine") is None
    for taken, left, families in (
        (
            ["tritone"] * 6 + ["relative"] * 2,
            ["tritone"] * 3 + ["relative"] * 9,
            {"stronger pull": -13, "same job": 46},
        ),
        (["relative"] * 5, ["tritone"] * 11, {"stronger pull": 106, "same job": -38}),
    ):
        found = learned(taken, left, "mine")
        assert found is not None and found.families == families
    assert read_styles(style_text(Style("a", 'A "b"', "w")))["a"].name == 'A "b"'


def test_other_colours_of_the_key_by_variants() -> None:
    richer = next(one for one in listed("G7 C F", None) if one.rule == "richer")
    qualities = {one.chords[0].chord.quality for one in variants(richer, chord("F"), parse_key("C"))}
    assert {"maj7", "maj9", "add9", "6", "69"} <= qualities
    four = next(one for one in listed("C Am7 Dm7", None) if one.rule == "borrowed")
    assert {one.chords[0].chord.root.pitch_class for one in variants(four, chord("Dm7"), parse_key("C"))} == {
        8
    }
    step = next(one for one in listed("C F C", None) if one.rule == "secondary")
    for one in variants(step, chord("C"), parse_key("C")):
        assert one.chords[0].chord == chord("F")  # what stays of the chord keeps its colour
