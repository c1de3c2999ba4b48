"""The choices that songs hold: what is learnt from them, what is not, and what it then decides."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import pytest
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Cancelled
from yellow_hinge.formats.chart_text import parse_chart
from yellow_hinge.motion.counts import NAMES
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import (
    change_swaps,
    choose,
    copy_take,
    differing,
    set_lock,
    settle,
    with_arrangement,
    with_prices,
)  # fmt: skip
from yellow_hinge.song.groove import Texture
from yellow_hinge.song.groove_edits import set_texture
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.tasks.song.voice_song import voice_song
from yellow_hinge.tasks.swaps.reharmonise import find_swaps
from yellow_hinge.tasks.taste.choices import MOST_CHOSEN, learnt_from_song, own_columns, relearnt
from yellow_hinge.tasks.taste.compared import compared
from yellow_hinge.tasks.taste.kept import (
    forget_taste,
    keep_taste,
    open_taste,
    read_taste,
    taste_of,
    taste_path,
    taste_text,
)  # fmt: skip
from yellow_hinge.tasks.taste.lists import kind_of_song, patterns_for, proposals_for, taken_in, with_lists
from yellow_hinge.tasks.taste.prices import Pair
from yellow_hinge.tasks.taste.said import FEW, MOST_SAID, choice_words, learnt_lines, sure_words, what_is_paid
from yellow_hinge.tasks.taste.taste import Chosen, Sure, Taken, Taste, tasted
from yellow_hinge.voicing.own_prices import OwnPrices, by_shares
from yellow_hinge.voicing.recipes import builtin_library
from yellow_hinge.voicing.shape import HandShape, Voicing

LIBRARY = builtin_library()
TEXT = "title: Reed\nkey: C\nmeter: 4/4\n| Cmaj7 | Am7 | Dm7 | G7 | Em7 | A7 | Dm7 G7 | Cmaj7 |\n"
THICK = OwnPrices({"enter": 0.25, "leave": 0.25, "right_3": 4.0, "right_4": 0.25, "right_move": 4.0})


def voiced(song: Song, prices: OwnPrices | None = None) -> Song:
    return voice_song(settle(song, prices=prices).song, LIBRARY, Planner(LIBRARY)).song


@lru_cache(maxsize=1)
def plain() -> Song:
    return replace(voiced(Song(parse_chart(TEXT))), id="reed")


def corrected(count: int = 9) -> Song:
    """Our row with so many of the chords that thick hands would have otherwise."""
    song, wanted = plain(), voiced(plain(), THICK)
    for index in differing(song, wanted)[:count]:
        voicing = wanted.voicing(index)
        assert voicing is not None
        song = choose(song, index, voicing).song
    return replace(voiced(song), id="reed")


@lru_cache(maxsize=1)
def learnt() -> Taste:
    return learnt_from_song(Taste(), corrected(), LIBRARY)


# --- which they are ------------------------------------------------------------------------


def test_only_what_the_player_locked_or_brought_is_a_choice() -> None:
    song = plain()
    voicing = song.voicing(1)
    assert voicing is not None and own_columns(song) == ()
    assert own_columns(choose(song, 1, voicing).song) == own_columns(set_lock(song, 1, True).song) == (1,)
    assert own_columns(choose(song, 1, voicing, locked=False).song) == ()
    assert own_columns(set_lock(set_lock(song, 1, True).song, 1, False).song) == ()
    needed = {at: replace(choice, locked=True) for at, choice in song.arrangement.choices.items()}
    assert own_columns(with_arrangement(song, song.current, replace(song.arrangement, choices=needed))) == ()
    kept = choose(song, 1, voicing).song
    assert own_columns(voiced(kept)) == (1,)  # still there once the rest was found anew


def test_choices_are_said_and_weighed_everything_else_equal() -> None:
    song, taste = corrected(), learnt()
    planner = Planner(LIBRARY)
    own = [choice for choice in taste.chosen if choice.own]
    assert 2 <= len(own) <= len(own_columns(song)) and {choice.school for choice in own} == {"solo"}
    for choice in own:
        index = next(s.index for s in song.slots if choice.id == f"reed/0/{s.at.written}.{s.at.part}")
        slot, held = song.slots[index], song.voicing(index)
        assert held is not None and choice.keys == tuple(sorted(held.keys))
        assert choice.pair.where == slot.where and choice.pair.song == "Reed" and ";" in choice.pair.instead
        locked = replace(
            song, takes=tuple(replace(t, arrangement=_all_locked(t.arrangement)) for t in song.takes)
        )
        ours = next(
            other for ranked in [planner_row(song, index)] for other in ranked
            if _notes(slot.chord, other) == choice.pair.instead
        )  # fmt: skip
        costs = [planner.price(progression(choose(locked, index, one).song, LIBRARY)) for one in (held, ours)]
        assert sum(choice.pair.more.values()) == pytest.approx((costs[1] - costs[0]) / 100, abs=0.1)


def _all_locked(arrangement):  # type: ignore[no-untyped-def]
    choices = {at: replace(choice, locked=True) for at, choice in arrangement.choices.items()}
    return replace(arrangement, choices=choices)


def planner_row(song: Song, index: int) -> list[Voicing]:
    """Every voicing that a chord may have."""
    planner = Planner(LIBRARY)
    free = set_lock(song, index, False).song if song.locked(index) else song
    planner.solve(progression(free, LIBRARY))
    return [found.voicing for found in list(planner.alternatives(5000))[song.column_of[index]]]


def _notes(chord: object, voicing: Voicing) -> str:
    left, right = (" ".join(map(str, hand.pitches(chord))) for hand in (voicing.left, voicing.right))  # type: ignore[arg-type]
    return f"{left} ; {right}".strip()


def test_learnt_it_comes_nearer_and_again_it_is_the_same() -> None:
    song, taste = corrected(), learnt()
    wanted = voiced(plain(), THICK)
    ours, theirs = plain(), voiced(plain(), taste.prices("Ida"))
    assert len(differing(theirs, wanted)) < len(differing(ours, wanted))
    assert taste.sure.after > taste.sure.before and taste.sure.of == len(
        [one for one in taste.chosen if one.own]
    )
    assert learnt_from_song(taste, song, LIBRARY) == taste
    assert any(choice.base.endswith("/row") for choice in taste.chosen)
    assert taste.shapes and all(count > 0 for count in taste.shapes.values())


def test_what_is_given_back_is_forgotten_and_other_takes_and_songs_stay() -> None:
    both = learnt_from_song(learnt(), replace(corrected(3), id="other"), LIBRARY)
    assert {choice.id.partition("/")[0] for choice in both.chosen} == {"reed", "other"}
    back = learnt_from_song(both, plain(), LIBRARY)
    assert {choice.id.partition("/")[0] for choice in back.chosen} == {"other"}
    none = learnt_from_song(learnt(), plain(), LIBRARY)
    assert none.chosen == () and none.shares == {} and none.sure == Sure()
    assert learnt_from_song(Taste(), plain(), LIBRARY) == Taste()


def test_bans_are_not_learnt() -> None:
    growl = Voicing(HandShape((36, 37), ("R", "b9"), "own"), HandShape((60, 64), ("R", "3"), "own"))
    song = voiced(choose(plain(), 0, growl).song)
    assert own_columns(song) == (0,) and learnt_from_song(Taste(), song, LIBRARY).chosen == ()


def test_struck_out_it_teaches_nothing_and_stays_so() -> None:
    taste = learnt()
    choice = next(choice for choice in taste.chosen if choice.own)
    struck = taste.struck(choice.base, True)
    gone = {one.base for one in struck.chosen if one.struck}
    assert gone == {choice.base, *([f"{choice.base.rpartition('/')[0]}/row"])}
    again = relearnt(struck, LIBRARY)
    assert again.sure.of < taste.sure.of and len(again.chosen) == len(taste.chosen)
    saved = learnt_from_song(again, corrected(), LIBRARY)
    assert next(one for one in saved.chosen if one.id == choice.id).struck
    assert relearnt(struck.struck(choice.base, False), LIBRARY) == relearnt(taste, LIBRARY)


def test_for_one_school_the_choices_of_others_do_not_count() -> None:
    assert relearnt(replace(learnt(), school="solo"), LIBRARY).sure == learnt().sure
    elsewhere = relearnt(replace(learnt(), school="band"), LIBRARY)
    assert elsewhere.sure == Sure() and elsewhere.shares == {} and elsewhere.chosen


def test_few_choices_move_prices_little() -> None:
    one = learnt_from_song(Taste(), corrected(1), LIBRARY)
    far = max((max(s, 1 / s) for s in learnt().shares.values()), default=1)
    assert max((max(s, 1 / s) for s in one.shares.values()), default=1) < far


def test_learning_can_be_called_off() -> None:
    with pytest.raises(Cancelled):
        relearnt(learnt(), LIBRARY, lambda share: share <= 0)


def test_no_more_choices_are_kept_than_are_said() -> None:
    many = tuple(Chosen(f"old/0/{k}.0", "solo", Pair({"enter": 1.0}, {})) for k in range(MOST_CHOSEN))
    found = learnt_from_song(Taste(chosen=many), corrected(2), LIBRARY)
    assert len(found.chosen) == MOST_CHOSEN and found.chosen[-1].id.startswith("reed/")


# --- what it decides -----------------------------------------------------------------------


def test_a_take_with_prices_is_as_the_library_of_that_player_has_it() -> None:
    here = voiced(plain(), THICK)
    library = tasted(LIBRARY, THICK)
    there = voice_song(with_prices(plain(), None), library, Planner(library)).song
    assert differing(here, there) == () and differing(here, plain())


def test_prices_move_no_locked_chord_and_no_other_take() -> None:
    song = plain()
    for index in range(3):
        song = set_lock(song, index, True).song
    two = copy_take(song, "mine").song
    after = voiced(two, THICK)
    assert [after.voicing(k) for k in range(3)] == [song.voicing(k) for k in range(3)]
    assert after.takes[0] == two.takes[0] and after.arrangement.prices == THICK
    other = voiced(plain(), replace(THICK, school="band"))
    assert differing(other, plain()) == ()  # they speak of another school


def test_it_is_said_where_a_taste_decided() -> None:
    mine = Session(LIBRARY)(settle(plain(), prices=THICK).song, 4)
    assert mine.voiced is not None
    changed = differing(mine.voiced.song, plain())
    assert [k for k in range(len(plain().slots)) if mine.by_ours(k) is not None] == list(changed)
    assert all(mine.by_ours(k) == plain().voicing(k) for k in changed)
    ours = Session(LIBRARY)(plain(), 4)
    assert ours.ours == () and ours.by_ours(0) is None
    same = Session(LIBRARY)(settle(plain(), prices=OwnPrices()).song, 4)
    assert same.ours == ()


def test_both_rows_are_compared() -> None:
    found = compared(settle(plain(), prices=OwnPrices({"enter": 1.5})).song, THICK, LIBRARY)
    assert differing(found.theirs, voiced(plain(), THICK)) == () == differing(found.ours, plain())
    assert found.changed == differing(found.theirs, found.ours) != ()


# --- lists ---------------------------------------------------------------------------------


def swapped(song: Song) -> tuple[Song, str]:
    proposal = next(one for one in find_swaps(song) if one.part == 0 and not one.then and not one.rounds)
    row = tuple(chord_at for chord_at in proposal_row(proposal))
    return change_swaps(song, {proposal.at: row}).song, proposal.group


def proposal_row(proposal):  # type: ignore[no-untyped-def]
    from yellow_hinge.song.chart import ChordAt

    return [ChordAt(timed.chord, timed.beats) for timed in proposal.chords]


def test_families_and_patterns_of_a_song_are_taken_note_of() -> None:
    song, family = swapped(plain())
    pattern = next(iter(pattern.id for pattern in every_pattern() if "left" in pattern.hands))
    song = set_texture(song, None, "x", {"left": pattern}).song
    taken = taken_in(song, [plain()])
    assert (taken.families, taken.returned, taken.patterns) == ((family,), (), (f"left {pattern}",))
    assert taken.kind == "4/4 straight"
    back = taken_in(plain(), [plain(), song])
    assert (back.families, back.returned, back.patterns) == ((), (family,), ())
    elsewhere = taken_in(plain(), [replace(song, id="another")])
    assert elsewhere.returned == ()
    once = with_lists(with_lists(Taste(), song, []), song, [])
    assert once.songs == (replace(taken, returned=()),)
    assert with_lists(once, plain(), []).songs == ()


def every_pattern():  # type: ignore[no-untyped-def]
    from yellow_hinge.rhythm.patterns import HELD, builtin_patterns

    return [pattern for pattern in builtin_patterns().values() if pattern.id != HELD]


def test_lists_come_in_the_order_of_what_is_taken_and_hide_nothing() -> None:
    here = [one for one in find_swaps(plain()) if one.at == plain().slots[3].at.written]
    last = here[-1].group
    often = Taste(songs=(Taken("a", "A", "", families=(last,) * 30),))
    liked = proposals_for(often, here)
    assert liked[0].group == last and sorted(map(repr, liked)) == sorted(map(repr, here))
    assert proposals_for(None, here) == here == proposals_for(replace(often, on=False), here)
    first = here[0].group
    given = Taste(songs=(Taken("a", "A", "", returned=(first,) * 30),))
    assert proposals_for(given, here)[0].group != first
    patterns = [pattern for pattern in every_pattern() if "right" in pattern.hands]
    name = patterns[-1].id
    kind = kind_of_song(plain())
    chosen = Taste(songs=tuple(Taken(str(k), "A", kind, patterns=(f"right {name}",)) for k in range(20)))
    assert patterns_for(chosen, patterns, "right", kind)[0].id == name
    assert patterns_for(chosen, patterns, "left", kind) == patterns
    assert patterns_for(chosen, patterns, "right", "3/4 swing") == patterns
    swinging = with_arrangement(
        plain(),
        plain().current,
        replace(plain().arrangement, groove=replace(plain().arrangement.groove, swing=60)),
    )
    assert kind_of_song(swinging) == "4/4 swing" and Texture() in swinging.arrangement.groove.textures


def test_shares_begin_with_our_order() -> None:
    counts = {"a": 0, "b": 0, "c": 0}
    order = lambda **more: "".join(by_shares("abc", lambda name: {**counts, **more}[name]))  # noqa: E731
    assert order() == "abc" and order(c=1) == "acb" and order(c=12) == "cab" and order(b=1) == "bac"
    assert "".join(by_shares("abc", lambda _: 0, lambda name: int(name == "a"))) == "bca"
    assert by_shares((), lambda _: 0) == ()


# --- kept, and said ------------------------------------------------------------------------


def test_a_taste_with_its_choices_comes_back_from_its_text(tmp_path: Path) -> None:
    songs = (Taken("a", 'The "A"', "4/4 swing", ("pull",), ("bass", "bass"), ("left waltz",)),)
    taste = replace(learnt(), songs=songs, on=False).struck(learnt().chosen[0].base, True)
    back = read_taste(taste_text(taste, LIBRARY.school("solo")), "it")
    assert replace(back, chosen=()) == replace(taste, chosen=())
    for mine, theirs in zip(taste.chosen, back.chosen, strict=True):
        assert replace(mine, pair=Pair({}, {})) == replace(theirs, pair=Pair({}, {}))
        assert theirs.pair.more == pytest.approx(mine.pair.more, abs=1e-4)
        assert (theirs.pair.took, theirs.keys, theirs.own) == (mine.pair.took, mine.keys, mine.own)
    assert relearnt(back, LIBRARY).sure == relearnt(taste, LIBRARY).sure
    keep_taste(tmp_path / "t.toml", taste, LIBRARY)
    assert open_taste(tmp_path / "t.toml") == back


HEAD = 'schema = "yellow-hinge/taste/1"\n'
CHOICE = '[[choice]]\nid = "a"\nschool = "solo"\nsong = "A"\nwhere = "bar 1"\ntook = ""\ninstead = ""\n'


@pytest.mark.parametrize(
    ("text", "what"),
    [
        (f'{CHOICE}more = [["quiet", 1.0]]\n', "there is no price 'quiet'"),
        (f'{CHOICE}more = [["enter", 1000.1]]\n', "at most 1000"),
        (f'{CHOICE}more = [["enter", nan]]\n', "at most"),
        (f'{CHOICE}more = []\nshapes = [["left a", 1000001]]\n', "counted up to"), (CHOICE, "more"),
        (f'{CHOICE}more = []\n{CHOICE}more = []\n', "this id is taken"),
        ('[[song]]\nid = "a"\ntitle = "A"\n', "kind"), ("sure = [0, 0]\n", "sure"),
        ("sure = [3, -1, 0]\n", "counted from 0"),
        ('on = "yes"\n', "on"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_choices_is_said(text: str, what: str) -> None:
    with pytest.raises(BadInput) as caught:
        read_taste(HEAD + text, "it.toml")
    assert what in str(caught.value) and "it.toml" in str(caught.value)


@pytest.mark.parametrize("more", [-1000, 1000])
def test_choices_at_their_bounds_are_read(more: int) -> None:
    text = f'{HEAD}sure = [0, 0, 0]\n{CHOICE}more = [["enter", {more}.0]]\nshapes = [["left a", -1000000]]\n'
    assert read_taste(text, "it").chosen[0].pair.more == {"enter": more}


def test_each_player_has_a_file_of_their_own() -> None:
    names = ["", "Ida", "ida!", "Ida/..", "../Ida", "Ön", "%", "a b", "a-b"]
    paths = [taste_path(name) for name in names]
    assert len({*paths}) == len(names) and {path.parent for path in paths} == {taste_path("").parent}
    assert taste_path("Ida") == taste_path(" IDA ")
    assert taste_of("Ida") is None
    ida = Taste({"enter": 0.5}, choices={"enter": 1})
    keep_taste(taste_path("Ida"), ida, LIBRARY)
    assert taste_of("Ida") == ida and taste_of("") is None
    forget_taste("Ida")
    forget_taste("Ida")
    assert taste_of("Ida") is None


def test_every_price_has_words_and_the_furthest_come_first() -> None:
    said = [what_is_paid(name) for name in NAMES]
    assert len({*said}) == len(NAMES) and not any("_" in words for words in said)
    solo = LIBRARY.school("solo")
    taste = Taste({"enter": 0.5, "gap": 1.5, "still": 0.25, "right_4": 0.25}, choices={"enter": 2})
    lines = learnt_lines(taste, solo)
    assert lines["likes"][-1] == "Notes that come in: 1 instead of 2 (from 2 choices)"
    assert lines["avoids"] == ["Hands that lie apart: 0.15 instead of 0.1"]  # still costs nothing there
    many = [name for name in NAMES if name in ("enter", "leave", "mud", "aim", "echo", "doubled", "hole")]
    for count, last in ((MOST_SAID, "instead of"), (MOST_SAID + 1, "and 1 more")):
        assert last in learnt_lines(Taste(dict.fromkeys(many[:count], 0.5)), solo)["likes"][-1]


def test_a_choice_is_said_as_its_player_reads_notes() -> None:
    pair = Pair({}, {}, song="Reed", where="bar 2, Bbm7", took="Bb2 Db3 ; F4 G#4", instead="Bb2 ; F4")
    said = choice_words(Chosen("a", "solo", pair))
    assert said == "Reed, bar 2, B\u266dm7: B\u266d2 D\u266d3 | F4 G\u266f4 rather than B\u266d2 | F4"
    many = replace(pair, song="", where="3 chords together")
    assert choice_words(Chosen("a", "solo", many)).startswith("Untitled, 3 chords together: ")


def test_how_sure_it_is_is_said() -> None:
    assert sure_words(Taste()) == ""
    for count, little in ((FEW - 1, True), (FEW, False)):
        taste = Taste({"enter": 0.5}, sure=Sure(count, 0, 7))
        words = sure_words(taste)
        assert words.endswith("That is little yet.") == little
        assert f"from {count} choices" in words and f"7 of {count} come out" in words
        assert sure_words(replace(taste, shares={})).endswith("the program's own prices hold.")
    assert "come out" not in sure_words(Taste({"enter": 0.5}, sure=Sure(1, 0, 0)))
