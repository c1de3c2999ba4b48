"""Sheets of a song, by kind."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime
from itertools import groupby

from msgspec import Struct
from msgspec.structs import replace

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.formats import musicxml
from yellow_hinge.motion.figures import half_steps
from yellow_hinge.motion.plan import Planner
from yellow_hinge.practice.build import opening
from yellow_hinge.practice.history import sure_of
from yellow_hinge.practice.piece import Piece
from yellow_hinge.practice.plan import Block, Shelf, Wishes, plan
from yellow_hinge.reharm.formulas import Formula
from yellow_hinge.sheet.crib import Played, crib_sheet
from yellow_hinge.sheet.engraved import engraved_sheet
from yellow_hinge.sheet.hinges import hinges_sheet
from yellow_hinge.sheet.kinds import KIND_IDS
from yellow_hinge.sheet.moves import move_sentence
from yellow_hinge.sheet.page import Metrics, Options, Sheet
from yellow_hinge.sheet.practice_page import Part, Task, practice_sheet
from yellow_hinge.sheet.shapes import InKeys, shapes_sheet
from yellow_hinge.song.chart import Bar, Chart
from yellow_hinge.song.grip_edits import on_root
from yellow_hinge.song.model import Song
from yellow_hinge.tasks.keys.moved import twelve_keys
from yellow_hinge.tasks.practice.room import piece_of
from yellow_hinge.tasks.song.describe_song import row
from yellow_hinge.tasks.swaps.formula_keys import in_every_key
from yellow_hinge.tasks.swaps.own_formulas import every_formula
from yellow_hinge.theory.chord_symbol import ChordSymbol
from yellow_hinge.theory.keys import Key
from yellow_hinge.theory.spelling import usual
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing

#: Changes that a practice page has, and grips that a page of all keys has.
_MOST_CHANGES, MOST_GRIPS = 8, 24
_FOURTH_ST = 5
#: A page to practise from knows no log: it plans a first day of so many minutes, whenever that is.
FIRST_MINUTES, _NO_DAY = 20.0, datetime(2000, 1, 1, tzinfo=UTC)


class Asked(Struct, frozen=True):
    """What a sheet is made of; ``shape`` is what the one of all keys shows: every grip, that of a slot, or a
    formula by its id."""

    song: Song
    library: Library
    options: Options
    metrics: Metrics
    shape: str | int = ""


def sheet_of(
    song: Song, library: Library, kind: str, options: Options, metrics: Metrics, *, shape: str | int = ""
) -> Sheet:
    """A sheet of one of :data:`sheet.kinds.KINDS`. Raises :class:`BadInput` where there is nothing to write
    down."""
    if not song.slots:
        raise BadInput(Problem("sheet", "there are no chords yet", "write a chart first"))
    return MAKERS[kind](Asked(song, library, options, metrics, shape))


def sheets_of(
    songs: Sequence[Song], library: Library, kind: str, options: Options, metrics: Metrics
) -> Sheet:
    """The sheets of several songs, one after the other. Raises as :func:`sheet_of`."""
    made = [sheet_of(song, library, kind, options, metrics) for song in songs]
    if not made:
        raise BadInput(Problem("sheet", "there are no songs", "put some on the shelf first"))
    return replace(made[0], pages=tuple(page for sheet in made for page in sheet.pages))


def _crib(asked: Asked) -> Sheet:
    found = row(asked.song, asked.library)
    return crib_sheet(Played(asked.song, found.held, found.hinges), asked.options, asked.metrics)


def _hinges(asked: Asked) -> Sheet:
    found = row(asked.song, asked.library)
    return hinges_sheet(Played(asked.song, found.held, found.hinges), asked.options, asked.metrics)


def _score(asked: Asked) -> Sheet:
    """Two staves with symbols, fingers and pedal, and the tune above them if it is wanted."""
    song, options = asked.song, asked.options
    found = row(song, asked.library)
    fingers = [(held.left_fingers, held.right_fingers) for held in found.held] if options.fingers else ()
    own = song if options.words else replace(song, chart=_wordless(song))
    score = musicxml.write(
        own, found.bassist, fingers, "" if options.tune else "hands", engraved=True,
        written_out=options.written_out,
    )  # fmt: skip
    return engraved_sheet(
        score, _title(song), song.chart.composer, _under(song), options, metrics=asked.metrics
    )


def _lead(asked: Asked) -> Sheet:
    song, options = asked.song, asked.options
    own = song if options.words else replace(song, chart=_wordless(song))
    score = musicxml.write(own, only="lead", engraved=True, written_out=options.written_out)
    return engraved_sheet(
        score, _title(song), song.chart.composer, _under(song), options, metrics=asked.metrics, percent=100
    )


def _wordless(song: Song) -> Chart:
    """The chart without its words."""
    chart = song.chart

    def bare(bars: tuple[Bar, ...]) -> tuple[Bar, ...]:
        return tuple(replace(bar, words=()) for bar in bars)

    sections = tuple(
        replace(section, bars=bare(section.bars), endings=tuple(bare(ending) for ending in section.endings))
        for section in chart.sections
    )
    return replace(chart, sections=sections, pickup_words=())


def _title(song: Song) -> str:
    return song.title or "Untitled"


def _under(song: Song) -> str:
    take = f" · {song.take.name}" if len(song.takes) > 1 else ""
    return f"{song.key_here.pretty} · {song.meter}{take}"


# --- shapes in all keys ------------------------------------------------------------------------


def _keys(asked: Asked) -> Sheet:
    """The different grips of a song, or one of them, each on twelve roots; or a formula in twelve keys."""
    song, library, options, shape = asked.song, asked.library, asked.options, asked.shape
    if isinstance(shape, str) and shape:
        formula = every_formula()[shape]
        rows = in_every_key(formula, song, library, Planner(library))
        songs = [(in_key.key, in_key.voiced.song) for in_key in rows if in_key.voiced is not None]
        return formula_sheet(formula, songs, options, asked.metrics)
    only = shape if isinstance(shape, int) else None
    shapes: list[InKeys] = []
    seen: set[tuple[str, tuple[tuple[int, ...], ...]]] = set()
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if slot.chord is None or voicing is None or not voicing.keys or only not in (None, slot.index):
            continue
        low = min(voicing.keys)
        form = tuple(tuple(key - low for key in hand.keys) for hand in (voicing.left, voicing.right))
        if (slot.chord.quality, form) in seen:
            continue
        seen.add((slot.chord.quality, form))
        aside = f"from bar {slot.bar}"
        shapes.append(InKeys(slot.chord.pretty, aside, tuple(_twelve(slot.chord, voicing, song))))
    shown = shapes[:MOST_GRIPS]
    return shapes_sheet(song.title, song.chart.composer, shown, options, asked.metrics)


def _twelve(chord: ChordSymbol, voicing: Voicing, song: Song) -> Iterator[tuple[ChordSymbol, Voicing]]:
    """A grip from its own root on in fourths, each where it lies best for the hands."""
    keys = {key.tonic.pitch_class: key for key in twelve_keys(Key(chord.root))}
    for count in range(12):
        root = keys[(chord.root.pitch_class + count * _FOURTH_ST) % 12].tonic
        letters = (root.step - chord.root.step) % 7
        symbol = usual(chord.transposed(letters, (root.pitch_class - chord.root.pitch_class) % 12))
        moved = on_root(voicing, chord, symbol, song.hands)
        if moved is not None:
            yield symbol, moved


def formula_sheet(
    formula: Formula, songs: list[tuple[Key, Song]], options: Options, metrics: Metrics
) -> Sheet:
    """A formula in twelve keys: a row of its grips for each."""
    shapes = [
        InKeys(key.pretty, " ".join(symbol.pretty for symbol in formula.as_read(key)), tuple(_grips(song)))
        for key, song in songs
    ]
    return shapes_sheet(formula.name, "", shapes, options, metrics)


def _grips(song: Song) -> Iterator[tuple[ChordSymbol, Voicing]]:
    for slot in song.slots:
        voicing = song.voicing(slot.index)
        if slot.chord is not None and voicing is not None:
            yield slot.chord, voicing


# --- to practise --------------------------------------------------------------------------------


def _practice(asked: Asked) -> Sheet:
    """The changes that ask most, a plan for a first day, then the sections, then the whole."""
    song, piece = asked.song, piece_of(asked.song, asked.library)
    changes = Part("The changes that ask most", list(_changes(piece)))
    blocks = plan(Shelf([piece], sure_of([piece], (), _NO_DAY), _NO_DAY), Wishes(FIRST_MINUTES))
    first = Part(f"A first day of {FIRST_MINUTES:g} minutes", [_block_task(block) for block in blocks])
    sections = Part("Section by section", _sections(song))
    keys = sorted(song.keys_chosen, key=lambda key: key.fifths)
    whole = [Task("All of it, once through", "at a tempo at which everything is clean", 3)]
    whole += [Task(f"All of it in {key.pretty}", "one of the keys you chose", 2) for key in keys]
    parts = [part for part in (changes, first, sections, Part("The whole", whole)) if part.tasks]
    return practice_sheet(song.title, song.chart.composer, parts, asked.options, asked.metrics)


def _changes(piece: Piece) -> Iterator[Task]:
    """The changes that are likeliest to slip, each once, in playing order: what moves, and how far."""
    hardest = sorted(piece.changes, key=lambda change: -opening(change, piece))[:_MOST_CHANGES]
    for change in sorted(hardest, key=lambda change: change.places):
        report = change.report
        why = f"{half_steps(report.motion_st)}, largest move {report.largest_st}. {move_sentence(report)}"
        bar = piece.stands[change.places[0]].bar
        yield Task(f"Bar {bar}: {change.words}, there and back", why, 5)


def _block_task(block: Block) -> Task:
    tempo = f", {block.from_tempo} to {block.to_tempo} beats a minute" if block.to_tempo else ""
    return Task(f"{block.minutes:g} min: {block.what}{tempo}", block.why, 1)


def _sections(song: Song) -> list[Task]:
    tasks: list[Task] = []
    for name, group in groupby(song.slots, key=lambda slot: slot.section):
        slots = list(group)
        bars = f"bars {slots[0].bar} to {slots[-1].bar}"
        if not any(task.what.startswith(f"{name or 'Song'},") for task in tasks):
            for hands in ("left hand alone", "right hand alone", "both hands"):
                tasks.append(Task(f"{name or 'Song'}, {bars}: {hands}", "slow first, up by small steps", 3))
    return tasks


#: How each kind is made.
MAKERS: dict[str, Callable[[Asked], Sheet]] = {
    "crib": _crib, "hinges": _hinges, "score": _score, "lead": _lead, "keys": _keys, "practice": _practice,
}  # fmt: skip
assert set(MAKERS) == set(KIND_IDS)
