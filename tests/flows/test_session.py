"""A song kept solved: what comes first, what an edit costs, and what is shared."""

from __future__ import annotations

import gc
import weakref
from collections.abc import Callable

import pytest
from msgspec.structs import replace

from made import WALK, F, held, song_of
from yellow_hinge import remembering
from yellow_hinge.errors import BadInput, Cancelled, NoSolution
from yellow_hinge.hands.fingering import fingerings
from yellow_hinge.hands.profile import HandProfile
from yellow_hinge.lattice.cache import ByteCache
from yellow_hinge.motion import store as store_module
from yellow_hinge.motion.distance import hand_motion
from yellow_hinge.motion.plan import Planner
from yellow_hinge.motion.store import store_of
from yellow_hinge.reharm import regions
from yellow_hinge.song.arrangement import Ask, Taste
from yellow_hinge.song.edits import choose, keep_row, vary_with_copy, wish_for_chord
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import to_key, twelve_keys
from yellow_hinge.tasks.keys.survey import survey
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.tasks.song.solved import NOTHING, Solved
from yellow_hinge.tasks.song.voice_song import voice_song, voice_takes
from yellow_hinge.tasks.song.ways_out import first_ways, take_first_ways, ways_out
from yellow_hinge.theory.keys import parse_key
from yellow_hinge.voicing.recipes import Library, builtin_library
from yellow_hinge.voicing.shape import HandShape, Hold, Voicing

pytestmark = pytest.mark.long


def test_the_row_comes_first_then_ranks_then_other_rows(library: Library) -> None:
    parts: list[Solved] = []
    shares: list[float] = []
    whole = Session(library)(song_of(WALK), 6, lambda share: shares.append(share) or True, parts.append)  # type: ignore[func-returns-value]
    row, said, ranked = parts
    assert row.voiced is not None and row.exact and row.effort is None
    assert row == Solved(row.voiced)
    assert said.effort == row.voiced.effort and said.alternatives == () and said.offers == ()
    assert len(said.families) == len(said.voicing_terms) == len(row.voiced.song.slots) == 13
    assert len(said.hinge_terms) == 12
    assert ranked.alternatives and ranked.offers == () and ranked.voiced is row.voiced
    assert [len(others) for others in ranked.alternatives] == [6] * 13
    assert whole.alternatives == ranked.alternatives and len(whole.offers) > 1
    assert whole.offers[0].trade == "" and all(offer.trade for offer in whole.offers[1:])
    assert whole.offers[0].effort == said.effort
    assert shares == sorted(shares) and shares[0] > 0 and shares[-1] <= 1
    assert NOTHING.ways_out(0) == NOTHING.others(0) == () and not NOTHING.exact


def test_rounds_are_alike_and_ranked_alike(library: Library) -> None:
    solved = Session(library)(song_of(WALK), 4)
    assert solved.voiced is not None
    song = solved.voiced.song
    for index in range(5):
        assert song.voicing(index) == song.voicing(index + 5)
        assert solved.alternatives[index] == solved.alternatives[index + 5]


@pytest.fixture(scope="module")
def used() -> Session:
    """One that has solved other songs before, in whatever order the tests come."""
    return Session(builtin_library())


EDITS: dict[str, Callable[[Song], Song]] = {
    "as it is": lambda song: song,
    "a wish": lambda song: wish_for_chord(song, 3, Ask(Taste(colour=3))).song,
    "a lock": lambda song: choose(song, 3, held(41)).song,
    "a round of its own": lambda song: vary_with_copy(song, "Walk", 2).song,
    "another school": lambda _: song_of(WALK, "band", loop=True),
    "another key": lambda song: to_key(song, parse_key("Eb")).song,
}


@pytest.mark.parametrize("edit", EDITS)
def test_a_session_that_is_used_gives_what_a_fresh_one_gives(
    library: Library, used: Session, edit: str
) -> None:
    first = used(song_of(WALK), 3).voiced
    assert first is not None
    one = EDITS[edit](first.song)
    kept, fresh = used(one, 3), Session(library)(one, 3)
    assert kept.voiced is not None and fresh.voiced is not None
    assert kept.voiced.song == fresh.voiced.song
    assert (kept.alternatives, kept.offers) == (fresh.alternatives, fresh.offers)


def test_a_varied_round_is_solved_beside_the_others(library: Library) -> None:
    song = vary_with_copy(song_of(WALK), "Walk", 2).song
    varied = wish_for_chord(song, 8, Ask(Taste("band", 3))).song
    solved = voice_song(varied, library, Planner(library)).song
    assert solved.solved and solved.voicing(3) != solved.voicing(8)
    assert [take.arrangement.choices != {} for take in solved.takes] == [True, True]


def test_what_is_out_of_reach_is_said_with_its_ways_out_in_every_round(library: Library) -> None:
    wide = Voicing(HandShape((41, 57), ("R", "3"), "own"), HandShape((60, 65), ("5", "R"), "own"))
    hands = HandProfile().with_reach(8, 8)
    locked = choose(replace(song_of(WALK, "spread"), hands=hands), 8, wide).song
    solved = Session(library)(locked, 3)
    assert [slot for slot, _ in solved.reductions] == [3, 8]
    assert solved.ways_out(3) == solved.ways_out(8) and solved.ways_out(3) and solved.ways_out(4) == ()
    easy = choose(locked, 8, held(41)).song
    assert Session(library)(easy, 3).reductions == ()


def test_all_that_is_out_of_reach_is_played_otherwise_in_one_step(library: Library) -> None:
    wide = Voicing(HandShape((41, 57), ("R", "3"), "own"), HandShape((60, 65), ("5", "R"), "own"))
    full = Voicing(HandShape((40, 47), ("R", "5"), "own"), HandShape((62, 68, 79), ("b7", "3", "b3"), "own"))
    hands = HandProfile().with_reach(8, 8)
    song = choose(choose(replace(song_of(WALK, "spread"), hands=hands), 8, wide).song, 10, full).song
    found = ways_out(song, library)
    rows = first_ways(song, found)
    assert [row.slot.index for row in rows] == [3, 10]  # a chord each, however often it is played
    assert [row.way for row in rows] == [dict(found)[3][0], dict(found)[10][0]]
    assert rows[0].words.startswith("Bar 3, F: ") and "F2 A3 ; C4 F4" in rows[0].words
    edit = take_first_ways(song, rows)
    assert edit.label == "Ways out of 2 stretches" and ways_out(edit.song, library) == ()
    for row in rows:
        after = edit.song.voicing(row.slot.index)
        assert edit.song.locked(row.slot.index) and after == row.way.voicing
        assert after is not None and after.keys[0] == row.was.keys[0] and " → " in row.words
    assert edit.song.voicing(8) == edit.song.voicing(3)
    assert first_ways(song, ()) == () and take_first_ways(song, ()).song == song


def test_a_grip_that_is_to_be_rolled_stays_as_it_is(library: Library) -> None:
    wide = Voicing(HandShape((41, 57), ("R", "3"), "own"), HandShape((60, 65), ("5", "R"), "own"))
    song = choose(replace(song_of(WALK, "spread"), hands=HandProfile().with_reach(8, 8)), 3, wide).song
    [(_, ways), *_] = ways_out(song, library)
    rolled = [way for way in ways if way.rolled] or [replace(ways[0], rolled=True, voicing=wide)]
    rows = first_ways(song, [(3, (rolled[0],))])
    assert take_first_ways(song, rows).song.voicing(3) == wide and "→" not in rows[0].words


def test_all_pages_share_what_has_been_worked_out(library: Library) -> None:
    store = store_of(library)
    Session(library)(song_of(WALK), 3)
    kept = store.bytes
    voice_song(song_of(WALK), library, Planner(library))
    assert store.bytes == kept > 0  # nothing new had to be made
    assert store_of(library) is store and store_of(replace(library)) is not store


def test_the_store_goes_with_the_last_who_works_with_it(library: Library) -> None:
    own = replace(library)
    session, kept = Session(own), weakref.ref(store_of(own))
    session(song_of(WALK), 3)
    assert kept() is store_of(own)
    del session
    gc.collect()
    assert kept() is None


def test_little_room_changes_no_answer(library: Library, monkeypatch: pytest.MonkeyPatch) -> None:
    wanted = Session(library)(song_of(WALK), 3)
    monkeypatch.setattr(store_module, "_COLUMN_BYTES", 20_000)
    monkeypatch.setattr(store_module, "_LINK_BYTES", 20_000)
    other = replace(library)
    store = store_of(other)
    found = Session(other)(song_of(WALK), 3)
    assert found.voiced is not None and wanted.voiced is not None
    assert found.voiced.song == wanted.voiced.song and found.offers == wanted.offers
    assert store._columns.bytes <= 20_000 and store._links.bytes <= 20_000


def test_the_cache_forgets_what_was_used_longest_ago() -> None:
    cache: ByteCache[str] = ByteCache(10, len)
    for key in ("a", "b", "c"):
        cache.put(key, key * 3)
    assert cache.get("a") == "aaa"
    cache.put("d", "dddd")  # b has been unused for longest
    assert [key in cache for key in "abcd"] == [True, False, True, True]
    assert cache.bytes == 10 and len(cache) == 3 and cache.get("b") is None
    assert cache.put("e", "x" * 11) == "x" * 11 and "e" not in cache
    cache.put("a", "a")
    assert cache.bytes == 8 and cache.get("a") == "a"


def test_where_another_song_comes_little_is_kept_and_nothing_changes(
    library: Library,
) -> None:
    cache: ByteCache[str] = ByteCache(320, len)
    for key in "abcdefgh":
        cache.put(key, key * 5)
    cache.rest()
    assert [key for key in "abcdefgh" if key in cache] == ["g", "h"] and cache.bytes == 10
    own = replace(library)
    store, session = store_of(own), Session(own)
    wanted, filled = session(song_of(WALK), 3), store.bytes
    columns, links = store_module._COLUMN_BYTES, store_module._LINK_BYTES
    by_song = remembering._tables
    assert {hand_motion, fingerings, regions._cost} <= {*by_song} and hand_motion.cache_info().currsize
    session.rest()
    assert not any(table.cache_info().currsize for table in by_song)
    assert store.bytes <= filled and not store._first and not store._lent
    assert store._columns.bytes <= columns // 32 and store._links.bytes <= links // 32
    found = session(song_of(WALK), 3)
    assert found.voiced is not None and wanted.voiced is not None
    assert found.voiced.song == wanted.voiced.song and found.offers == wanted.offers


def test_twelve_keys_are_spelled_plainly_and_solved(library: Library) -> None:
    names = [str(key) for key in twelve_keys(parse_key("Cb"))]
    assert names == ["Cb", "C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb"]
    assert [str(key) for key in twelve_keys(parse_key("F#m"))][:4] == ["F#m", "Gm", "G#m", "Am"]
    song = choose(song_of("| Dm7 | G7 | C |"), 1, held(43)).song
    found = [one.voiced for one in survey(song, library)]
    assert len(found) == 12 and all(voiced.answer.optimal for voiced in found)
    lows = [voiced.song.voicing(1).left.keys[0] for voiced in found]  # type: ignore[union-attr]
    assert lows == [43, 44, 45, 46, 47, 48, 37, 38, 39, 40, 41, 42]
    with pytest.raises(Cancelled):
        survey(song, library, lambda _: False)


def test_what_cannot_be_solved_says_where(library: Library) -> None:
    session = Session(library)
    with pytest.raises(NoSolution) as caught:
        session(wish_for_chord(song_of(WALK), 3, Ask(hold=Hold(top=21))).song, 3)
    assert [problem.place for problem in caught.value.problems] == ["bar 3, F"]
    with pytest.raises(BadInput):
        session(Song(), 3)
    with pytest.raises(BadInput):
        session(song_of(WALK, "nobody"), 3)
    with pytest.raises(Cancelled):
        session(song_of(WALK), 3, lambda _: False)
    assert session(song_of(WALK), 3).exact  # it goes on


def test_a_kept_row_is_the_row_that_was_heard(library: Library) -> None:
    session, song = Session(library), song_of(WALK)
    solved = session(song, 3)
    assert solved.voiced is not None
    offer = solved.offers[1]
    kept = keep_row(solved.voiced.song, offer.voicings, "Row 2").song
    again = session(kept, 3)
    assert again.voiced is not None and again.voiced.answer.voicings == offer.voicings
    assert again.voiced.answer.cost == offer.effort.cost
    assert len(again.offers) == 1  # all is locked: there is no other row
    assert kept.locked(F) and not song.locked(F)


def test_takes_of_the_search_are_other_rows_of_the_same_song(library: Library) -> None:
    planner = Planner(library)
    rows = voice_takes(song_of(WALK), library, planner, 3)
    assert len({row.answer.voicings for row in rows}) == 3
    assert all(row.song.chart == rows[0].song.chart for row in rows)
