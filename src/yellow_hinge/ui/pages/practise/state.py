"""What the Practise page shows, without Qt: the plan, the drill at hand, what was heard."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import datetime

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.motion.hinge import HingeReport, hinge
from yellow_hinge.practice.drills import MOST_CHAIN, Drill, Hands, kind_of
from yellow_hinge.practice.forecast import days_ahead
from yellow_hinge.practice.history import learnt, sure_of
from yellow_hinge.practice.keeping import found_again
from yellow_hinge.practice.ladder import Ladder
from yellow_hinge.practice.listening import Tolerance, Verdict, Way
from yellow_hinge.practice.log import Done, Session, Try
from yellow_hinge.practice.piece import Change, Piece, Stand
from yellow_hinge.practice.plan import Block, Shelf, Wishes, plan, tempi, what_words, why_words
from yellow_hinge.practice.runner import Round, Runner
from yellow_hinge.practice.strokes import Stroke, count_at, length_of, strokes_of
from yellow_hinge.practice.words import sentence
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.practice.room import in_key, piece_of, with_lines
from yellow_hinge.tasks.settings.practice_settings import Settings
from yellow_hinge.theory.pretty import counted
from yellow_hinge.ui.keyboard_values import KeyMark
from yellow_hinge.voicing.recipes import Library

WAYS = {
    "wait": "waits for you", "time": "with the click", "free": "as it comes", "mark": "you say how it was",
}  # fmt: skip
RHYTHMS = {"blocks": "as blocks", "written": "as the take plays", "line": "line over the left hand"}
HANDS: tuple[Hands, ...] = ("both", "left", "right")
#: Minutes of a drill that is chosen by hand, unless it is stopped before.
_OWN_MINUTES = 5.0
#: The same, for one that goes through all keys.
_KEYS_MINUTES = 20.0
EMPTY = "There are no changes yet. Write two chords or more on the Song page (Ctrl+1), and come back."


class Plans(Struct, frozen=True):
    """The blocks of today, and the days to come in words: a guess."""

    blocks: tuple[Block, ...]
    ahead: tuple[str, ...]


def make_plans(shelf: Shelf, settings: Settings) -> Plans:
    """Plan today, and as many days as are wanted."""
    wishes = Wishes(settings.minutes, settings.apart_first)
    ahead = []
    for number, blocks in enumerate(days_ahead(shelf, wishes, settings.days) if settings.days > 1 else ()):
        if number:
            words = "; ".join(dict.fromkeys(block.what for block in blocks if block.drill is not None))
            when = "Tomorrow" if number == 1 else f"In {number} days"
            ahead.append(f"{when}, as it may be\n{words}")
    return Plans(plan(shelf, wishes), tuple(ahead))


class Desk(Struct, frozen=True):
    """What was worked out for the page: the songs with their pieces (those in further keys behind), what is
    known of them, plans, what the log says, and its session of today."""

    songs: tuple[Song, ...]
    shelf: Shelf
    plans: Plans
    session: Session | None
    tries: tuple[Try, ...]
    sessions: tuple[Session, ...]


def with_song(desk: Desk, song: Song, piece: Piece) -> Desk:
    """With one more song behind the others, in another key: it is no part of plans."""
    shelf = desk.shelf
    sure = (*shelf.sure, *sure_of([piece], desk.tries, shelf.now))
    known = Shelf((*shelf.pieces, piece), sure, shelf.now, shelf.songs)
    return replace(desk, songs=(*desk.songs, song), shelf=known)


class PractiseState:
    """The plan, the drill at hand, and what it says."""

    def __init__(self, wall: Callable[[], datetime], write: Callable[[Sequence[Try]], object]) -> None:
        self._wall, self._write = wall, write
        self.settings = Settings()
        self.desk: Desk | None = None
        self.blocks: tuple[Block, ...] = ()
        self.block = 0
        self.done: dict[int, Done] = {}
        self.session: int | None = None
        self.own: Block | None = None  #: a drill that was chosen by hand
        self.hands: Hands | None = None  #: hands that were chosen against the block's
        self.runner: Runner | None = None
        self.last: Verdict | None = None
        self.said, self.next, self.good = "", "", True
        self.chosen = 0  #: the change that is looked at, a stand of the first song
        self.ahead: tuple[str, ...] = ()  #: the days to come
        self._ladders: dict[Drill, Ladder] = {}
        self._keys: list[tuple[int, Library]] = []

    # --- what is practised ---

    def take(self, desk: Desk) -> None:
        """Other songs, or more is known of them. A plan that was begun goes on."""
        self.desk = desk
        self.stop()
        kept = self._found_session(desk)
        if kept is not None:
            self.blocks, self.done, self.session = kept
            open_ones = [k for k in range(len(self.blocks)) if k not in self.done]
            self.block = open_ones[0] if open_ones else len(self.blocks) - 1
            self.ahead = desk.plans.ahead
        else:
            self.take_plans(desk.plans)
        self.chosen = min(self.chosen, max(0, len(self.first.stands) - 2)) if desk.shelf.pieces else 0

    def _found_session(self, desk: Desk) -> tuple[tuple[Block, ...], dict[int, Done], int] | None:
        """The session of today that was begun, if all of its blocks are still what they were."""
        if desk.session is None:
            return None
        found = [found_again(row, desk.shelf.pieces) for row in desk.session.blocks]
        blocks = tuple(block for block in found if block is not None)
        if len(blocks) < len(found) or not blocks:
            return None
        return blocks, {done.block: done for done in desk.session.done}, desk.session.id

    def take_plans(self, plans: Plans) -> None:
        """Another plan, not begun."""
        self.stop()
        self.blocks, self.ahead = plans.blocks, plans.ahead
        self.block, self.done, self.session, self.own = 0, {}, None, None
        self._ladders = {}

    @property
    def ready(self) -> bool:
        """Whether there is anything to practise."""
        return self.desk is not None and bool(self.desk.shelf.own)

    @property
    def first(self) -> Piece:
        """The song that is open."""
        assert self.desk is not None
        return self.desk.shelf.pieces[0]

    @property
    def at_hand(self) -> Block | None:
        """The block that is practised: one of one's own, or of the plan."""
        if self.own is not None:
            return self.own
        return self.blocks[self.block] if self.block < len(self.blocks) else None

    @property
    def drill(self) -> Drill | None:
        block = self.at_hand
        if block is None or block.drill is None:
            return None
        return block.drill if self.hands is None else replace(block.drill, hands=self.hands)

    @property
    def piece(self) -> Piece | None:
        drill = self.drill
        return None if drill is None or self.desk is None else self.desk.shelf.pieces[drill.piece]

    @property
    def song(self) -> Song | None:
        drill = self.drill
        return None if drill is None or self.desk is None else self.desk.songs[drill.piece]

    def hands_words(self) -> str:
        """Which hands play."""
        drill = self.drill
        return "Both hands" if drill is None or drill.hands == "both" else f"{drill.hands.capitalize()} hand"

    # --- own drills ---

    def drills(self) -> list[tuple[str, Drill]]:
        """What can be drilled around the chosen change, in words."""
        if not self.ready:
            return []
        piece, at = self.first, self.chosen
        found: list[tuple[str, Drill]] = []
        for count, words in enumerate(("This change, there and back", "Two changes", "Three", "Four"), 1):
            first = max(0, min(at, len(piece.stands) - 1 - count))
            if count <= MOST_CHAIN and count < len(piece.stands):
                found.append(
                    (words, Drill(kind_of(piece, first, first + count), 0, ((first, first + count),)))
                )
        found += self._phrase(piece, at)
        section = next((span for span in piece.sections if span[0] <= at <= span[1]), None)
        if section is not None and section[1] > section[0]:
            found.append((f"The section {piece.section_words(at)}", Drill("section", 0, (section,))))
        found.append(("The whole song", Drill("song", 0, ((0, len(piece.stands) - 1),))))
        return [(words, drill) for words, drill in found if drill.changes(piece)]

    @staticmethod
    def _phrase(piece: Piece, at: int) -> Iterator[tuple[str, Drill]]:
        """The four bars around a chord; where a hand has a line there, each hand alone as well."""
        span = next((span for span in piece.phrases if span[0] <= at <= span[1]), None)
        if span is None or span[0] == span[1]:
            return
        drill = Drill(kind_of(piece, *span), 0, (span,))
        words = f"The phrase, bars {piece.stands[span[0]].bar} to {piece.stands[span[1]].bar}"
        yield words, drill
        if drill.has_line(piece):
            for side in reversed(drill.sides(piece)):
                yield f"{words}, {side} hand alone", replace(drill, hands=side)

    def choose_own(self, drill: Drill) -> None:
        """A drill beside the plan."""
        assert self.desk is not None
        self.stop()
        piece = self.desk.shelf.pieces[drill.piece]
        start, goal = tempi(self.desk.shelf, drill)
        self.own = Block(
            drill, what_words(piece, drill), start, goal, _OWN_MINUTES, why=why_words(self.desk.shelf, drill)
        )
        self.hands, self._keys = None, []
        self._say("", "")

    def choose_block(self, place: int) -> None:
        """Another block of the plan."""
        if 0 <= place < len(self.blocks):
            self.stop()
            self.block, self.own, self.hands = place, None, None
            self._say("", "")

    # --- through the keys ---

    def through_keys(self, drill: Drill, shifts: Sequence[int], library: Library) -> None:
        """A drill of the open song in one key after the other, some half steps above its own."""
        self.choose_own(drill)
        assert self.own is not None
        self.own = replace(self.own, minutes=_KEYS_MINUTES)
        self._keys = [(shift, library) for shift in shifts[1:]]

    def next_key(self) -> bool:
        """After a clean round the drill goes to the next key, if it goes through keys; whether it did."""
        clean = self.runner is not None and bool(self.runner.rounds) and self.runner.rounds[-1].slips == 0
        if not self._keys or self.own is None or self.own.drill is None or not clean or self.desk is None:
            return False
        shift, library = self._keys.pop(0)
        song = in_key(self.desk.songs[0], shift)
        self.desk = with_song(self.desk, song, piece_of(song, library))
        drill = replace(self.own.drill, piece=len(self.desk.songs) - 1)
        start, goal = tempi(self.desk.shelf, drill)
        what = (
            f"{self.own.what.partition(' · ')[0]} · {song.key.pretty}, {counted(len(self._keys), 'key')} left"
        )
        self.own = Block(drill, what, start, goal, self.own.minutes, why=self.own.why)
        return True

    # --- running ---

    def make_runner(self) -> Runner | None:
        """The drill at hand, ready to begin; None for a break."""
        drill, piece, block = self.drill, self.piece, self.at_hand
        if drill is None or piece is None or block is None or not drill.changes(piece):
            return None
        settings = self.settings
        song = self.song
        if settings.rhythm == "line" and song is not None:
            song = with_lines(song, sorted({stand for stand, _, _ in drill.round(piece)}))
        played = replace(drill, whole=settings.rhythm != "blocks")
        strokes = strokes_of(piece, played, song, settings.rhythm)
        if drill not in self._ladders:
            goal = max(block.to_tempo, block.from_tempo)
            self._ladders[drill] = Ladder(
                block.from_tempo, goal, settings.step / 100, settings.clean_rounds, settings.slips
            )
        ladder = self._ladders[drill]
        way: Way = "time" if settings.way == "mark" else settings.way
        tolerance = Tolerance(settings.early_ms / 1000, settings.late_ms / 1000, settings.roll_ms / 1000)
        count_in = piece.stands[drill.first].meter.quarters
        self.runner = Runner(
            piece, played, strokes, length=length_of(piece, played), ladder=ladder, way=way,
            wall=self._wall, write=self._write, tolerance=tolerance,
            count_in=count_in, latency=(settings.latency_ms or 0) / 1000 if settings.way == "time" else 0.0,
        )  # fmt: skip
        return self.runner

    def stop(self) -> None:
        """Leave the drill."""
        self.runner = None
        self.last = None

    @property
    def running(self) -> bool:
        return self.runner is not None and self.runner.running

    def heard(self, verdicts: Sequence[Verdict]) -> None:
        """Verdicts have come: the last one is said."""
        for verdict in verdicts:
            self.last = verdict
            self._say(sentence(verdict), "", verdict.clean)

    def hinted(self) -> None:
        """What is wrong so far, for who waits for the right notes."""
        hint = None if self.runner is None or self.runner.listener is None else self.runner.listener.hint
        if hint is not None:
            self.last = hint
            wrong = replace(hint, notes=tuple(note for note in hint.notes if note.fault != "missing"))
            self._say(sentence(wrong), "Let go, and take the one that is wanted.", False)

    def round_over(self, done: Round) -> None:
        """A round is over: what is said of it."""
        ladder = None if self.runner is None else self.runner.ladder
        moved = {"up": "One step faster.", "back": "One step back.", "top": "At the goal.", "stay": ""}[
            done.move
        ]
        tempo = "" if ladder is None or not moved else f"{moved} Now {ladder.tempo}."
        slipped = next(
            (
                verdict
                for verdict in reversed(self.runner.verdicts if self.runner else [])
                if not verdict.clean
            ),
            None,
        )
        first = done.words if slipped is None else sentence(slipped)
        rest = " ".join(one for one in ("" if slipped is None else done.words, done.advice, tempo) if one)
        self._say(first, rest, done.slips == 0)

    def learn(self, tries: Sequence[Try]) -> None:
        """Tries were made: the map knows more."""
        desk = self.desk
        if desk is not None:
            shelf = desk.shelf
            known = Shelf(shelf.pieces, learnt(shelf.pieces, shelf.sure, tries), self._wall(), shelf.songs)
            self.desk = replace(desk, tries=(*desk.tries, *tries), shelf=known)

    def finish(self, done: Done) -> bool:
        """A block of the plan is over, the next open one is at hand; whether that was the last one."""
        self.done[done.block] = done
        ended = self.blocks[done.block]
        reached = f" Clean at {done.reached}." if done.reached else ""
        left = [k for k in range(len(self.blocks)) if k not in self.done]
        self._leave_ladder()
        self.runner, self.hands = None, None
        if not left:
            self._say(
                f"{ended.what}: done.{reached}", "That was today's practice. Enough for now: let it rest."
            )
            return True
        self.block = next((k for k in left if k > done.block), left[0])
        self._say(f"{ended.what}: done.{reached}", "Space begins the next block.")
        return False

    def _leave_ladder(self) -> None:
        """A block is over: one that drills the same again climbs anew."""
        if self.drill is not None:
            self._ladders.pop(self.drill, None)

    def own_over(self, reached: int) -> None:
        """A drill of one's own is over."""
        words = f"Clean at {reached}: stop while it is still clean." if reached else "Time is over."
        self._leave_ladder()
        self.runner = None
        self._say(words, "Space: once more. N: back to the plan.")

    def change_tempo(self, steps: int) -> None:
        """The ladder is moved by hand; it holds from the next round."""
        drill = self.drill
        if drill is None:
            return
        if drill not in self._ladders:
            self.make_runner()
        ladder = self._ladders.get(drill)
        if ladder is not None:
            ladder.moved_by_hand(steps)

    def tell(self, words: str, following: str, good: bool = True) -> None:
        """Say something where verdicts stand."""
        self._say(words, following, good)

    def ask_for_mark(self) -> None:
        """The round is over, and nothing listened."""
        self._say("How was it?", "Y: clean. X: there was a slip.")

    def _say(self, words: str, following: str, good: bool = True) -> None:
        self.said, self.next, self.good = words, following, good

    # --- words and pictures ---

    @property
    def stroke(self) -> Stroke | None:
        """What is wanted now; the first stroke before a round has begun."""
        if self.running and self.runner is not None and self.runner.listener is not None:
            return self.runner.listener.stroke or self.runner.strokes[-1]
        drill, piece = self.drill, self.piece
        if drill is None or piece is None:
            return None
        return next(iter(strokes_of(piece, replace(drill, spans=drill.spans[:1]))), None)

    def leaves(self) -> tuple[Stand, Stand, bool] | None:
        """The two stands of the hinge at hand, and whether the second one is wanted now."""
        piece, drill = self.piece, self.drill
        if piece is None or drill is None:
            return None
        runner = self.runner
        if runner is None or runner.listener is None:
            first = drill.first
            return piece.stands[first], piece.stands[first + 1], False
        place = min(runner.listener.place, len(runner.strokes) - 1)
        rows = [stroke.stand for stroke in runner.strokes]
        here = rows[place]
        before = next((row for row in reversed(rows[:place]) if row != here), None)
        if before is None:
            after = next((row for row in rows[place:] if row != here), here)
            return piece.stands[here], piece.stands[after], False
        return piece.stands[before], piece.stands[here], True

    def report(self) -> HingeReport | None:
        """The change between the two leaves."""
        pair = self.leaves()
        return None if pair is None else hinge(pair[0].held, pair[1].held)

    def marks(self) -> dict[int, KeyMark]:
        """The keys that are wanted now, with names and fingers; and those that were wrong."""
        stroke = self.stroke
        found: dict[int, KeyMark] = {}
        if stroke is None:
            return found
        for side, keys in (("left", stroke.left), ("right", stroke.right)):
            for key in keys:
                found[key] = KeyMark(side, stroke.name(key), str(stroke.finger(key) or ""))
        if self.last is not None and not self.last.clean:
            for note in self.last.faults:
                if note.played is not None and note.played not in found:
                    found[note.played] = KeyMark("wrong", self.last.stroke.name(note.played))
        return found

    def key_range(self) -> tuple[int, int]:
        """The keys that the drill needs, with some room."""
        piece, drill = self.piece, self.drill
        keys = [] if piece is None or drill is None else [
            key for stand, _, _ in drill.round(piece) for key in piece.stands[stand].voicing.keys
        ]  # fmt: skip
        low, high = min(keys, default=48) - 3, max(keys, default=72) + 3
        short = max(0, 36 - (high - low))
        return max(21, low - short // 2), min(108, high + (short + 1) // 2)

    @property
    def title(self) -> str:
        """The hinge at hand, large."""
        block, pair = self.at_hand, self.leaves()
        if not self.ready:
            return "Practise"
        if block is None:
            return "Nothing planned"
        if pair is None:
            return block.what
        return f"{pair[0].words}  to  {pair[1].words}"

    @property
    def under_title(self) -> str:
        """Hands, tempo, where the ladder stands."""
        block, drill = self.at_hand, self.drill
        if block is None:
            return ""
        if drill is None:
            return block.why
        hands = "both hands" if drill.hands == "both" else f"{drill.hands} hand alone"
        tempo = f"{block.from_tempo} to {block.to_tempo} beats a minute"
        if self.runner is not None:
            timed = self.settings.way in ("time", "mark")
            tempo = self.runner.ladder.words() if timed else f"goal {block.to_tempo}"
        piece = self.piece
        where = "" if piece is None else f"{piece.title}, bar {piece.stands[drill.first].bar}"
        return f"{where} · {hands} · {tempo} · {RHYTHMS[self.settings.rhythm]}"

    def block_words(self, place: int) -> tuple[str, str]:
        """A block of the plan in two lines."""
        block = self.blocks[place]
        done = self.done.get(place)
        what = block.what
        if self.desk is not None and self.desk.shelf.songs == 1:
            what = what.removesuffix(f" of {self.first.title}").removesuffix(",")
            what = what.removeprefix(f"{self.first.title}, ")
            what = "The whole song" if what == "whole" else f"{what[:1].upper()}{what[1:]}"
        hands = {"both": "", "none": ""}.get(block.hands, f", {block.hands} hand")
        if done is not None:
            reached = f", reached {done.reached}" if done.reached else ""
            return f"✓ {what}{hands}", f"{done.minutes:.0f} min{reached}"
        tempo = f" from {block.from_tempo}" if block.from_tempo else ""
        return f"{what}{hands}", f"{block.minutes:g} min{tempo}: {block.why}"

    @property
    def plan_words(self) -> str:
        """How much of today is done."""
        left = sum(block.minutes for k, block in enumerate(self.blocks) if k not in self.done)
        return f"{len(self.done)} of {len(self.blocks)} done, {left:.0f} minutes left"

    @property
    def counts(self) -> int:
        """Counts of the chord at hand (rounded up)."""
        stroke, piece = self.stroke, self.piece
        if stroke is None or piece is None:
            return 0
        stand = piece.stands[stroke.stand]
        return int(-(-stand.quarters // stand.meter.quarters_per_beat))

    @property
    def chosen_change(self) -> Change | None:
        """The change that was chosen on the map."""
        if not self.ready or self.chosen >= len(self.first.row) or self.first.row[self.chosen] < 0:
            return None
        return self.first.changes[self.first.row[self.chosen]]

    def count_at(self, place: float) -> tuple[int, int, bool]:
        """(counts of the chord that sounds, which of them it is from 1, whether it is the count-in) at a
        place of the round, in quarters."""
        runner, piece = self.runner, self.piece
        return (0, 0, False) if runner is None or piece is None else count_at(runner.drill, piece, place)
