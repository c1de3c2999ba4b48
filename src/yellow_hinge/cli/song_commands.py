"""What the commands do that voice a song: a thin skin on tasks."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from yellow_hinge import strict
from yellow_hinge.cli.library import own_library
from yellow_hinge.cli.reading import in_key, in_style, progress_of, read_song, song_of, taste_in
from yellow_hinge.cli.streams import out, print_json, say
from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.plan import Planner
from yellow_hinge.reharm.proposals import Proposal
from yellow_hinge.rhythm.patterns import HANDS
from yellow_hinge.song.edits import go_to_take, lead_back
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune import melody_keys
from yellow_hinge.tasks.keys.survey import survey
from yellow_hinge.tasks.reports.rhythm import (
    events_report,
    events_text,
    with_feel,
    with_pedal,
)
from yellow_hinge.tasks.reports.song import (
    keys_report,
    swaps_report,
    swaps_text,
    voice_report,
    voice_text,
)
from yellow_hinge.tasks.settings.patterns import with_patterns
from yellow_hinge.tasks.song.local_keys import local_keys
from yellow_hinge.tasks.song.voice_song import Voiced, voice_song, voice_takes
from yellow_hinge.tasks.swaps.reharmonise import explain_swaps, find_swaps, point_with, trade_curve
from yellow_hinge.tasks.takes.arc import laid_arc, read_arc
from yellow_hinge.voicing.recipes import Library

if TYPE_CHECKING:
    from yellow_hinge.tasks.taste.taste import Taste

MOST_TAKES, MOST_SWAPS = 12, 24


def _voiced(options: argparse.Namespace, library: Library, planner: Planner) -> tuple[Voiced, list[str]]:
    """The song of FILE with the options' rhythm and swaps, voiced; and what is to be said of the swaps."""
    if options.swaps is not None and not 0 <= options.swaps <= MOST_SWAPS:
        raise BadInput(Problem("--swaps", f"{options.swaps} swaps", f"ask for 0 to {MOST_SWAPS}"))
    song = song_of(options, library)
    if getattr(options, "take", None) is not None:
        song = _take_of(song, options.take)
    song = lead_back(song, options.loop).song
    song = with_patterns(song, options.left_pattern, options.right_pattern)
    _say_missing_tune(song, library)
    if options.arc is not None:
        row = read_arc(options.arc, song)
        fixed = dict(zip(HANDS, (options.left_pattern, options.right_pattern), strict=True))
        song = laid_arc(song, row, library, {hand: name for hand, name in fixed.items() if name})
    if not options.swaps:
        return voice_song(song, library, planner, progress_of("voicing")), []
    proposals = find_swaps(song)
    curve = trade_curve(song, library, planner, options.swaps, progress_of("swaps"), proposals=proposals)
    voiced = point_with(curve, options.swaps).voiced
    return voiced, explain_swaps(song, voiced.song, proposals)


def _take_of(song: Song, name: str) -> Song:
    """The song with a take of a name, or of a number from 1, as the one that sounds."""
    takes = [take for take in song.takes if take.name.casefold() == name.casefold()]
    number = strict.whole(name)
    if not takes and number is not None and 1 <= number <= len(song.takes):
        takes = [song.takes[number - 1]]
    if not takes:
        names = ", ".join(take.name for take in song.takes)
        raise BadInput(Problem("--take", f"there is no take {name!r}", f"there are: {names}"))
    return replace(go_to_take(song, takes[0].id).song, route={})


def events(options: argparse.Namespace) -> None:
    library = own_library()
    voiced, _ = _voiced(options, library, Planner(library))
    song = with_feel(voiced.song, options.feel)
    if options.pedal is not None:
        song = with_pedal(song, options.pedal)
    if options.json:
        print_json(events_report(song, library))
    else:
        out(events_text(song, library))


def voice(options: argparse.Namespace) -> None:
    library = own_library()
    if options.takes is not None and not 1 <= options.takes <= MOST_TAKES:
        raise BadInput(Problem("--takes", f"{options.takes} takes", f"ask for 1 to {MOST_TAKES}"))
    planner = Planner(library)
    voiced, reasons = _voiced(options, library, planner)
    song = voiced.song
    takes = (
        []
        if options.takes is None
        else voice_takes(song, library, planner, options.takes, progress_of("takes"))
    )
    if options.json:
        print_json(voice_report(voiced, library, takes))
    else:
        out("\n".join((voice_text(voiced, library), *reasons)))


def _say_missing_tune(song: Song, library: Library) -> None:
    """The melody schools hang everything from a tune: say where there is none."""
    arrangement = song.arrangement
    wants = arrangement.melody or library.school(arrangement.school).melody
    if wants == "top" and not any(melody_keys(song)):
        place = f"school {arrangement.school}"
        what = "it wants a tune on top, and the chart has none"
        say(Problem(place, what, "write one under the bars: melody: E4:2 G4:2"))


def swaps(options: argparse.Namespace) -> None:
    song = in_style(in_key(read_song(options.file), options.key), options.style)
    found = find_swaps(song)
    if options.taste is not None:
        found = _as_taken(taste_in(options), found)
    if options.json:
        print_json(swaps_report(song, local_keys(song), found))
    else:
        out(swaps_text(song, found))


def _as_taken(taste: Taste, found: list[Proposal]) -> list[Proposal]:
    """Proposals, place by place, with the families first that a player takes."""
    from yellow_hinge.tasks.taste.lists import proposals_for  # noqa: PLC0415 - only where it is asked for

    by_place: dict[int, list[Proposal]] = {}
    for proposal in found:
        by_place.setdefault(proposal.at, []).append(proposal)
    return [proposal for row in by_place.values() for proposal in proposals_for(taste, row)]


def keys(options: argparse.Namespace) -> None:
    library = own_library()
    print_json(keys_report(survey(song_of(options, library), library, progress_of("keys")), library))


def sheet(options: argparse.Namespace) -> None:
    """A sheet of the song as it is kept, or voiced with the options."""
    library = own_library()
    from yellow_hinge.sheet.page import Options, strange_problem  # noqa: PLC0415 - only sheets need it
    from yellow_hinge.tasks.sheets.kinds import sheet_of  # noqa: PLC0415

    press, target = options.press, Path(options.out)
    if press is None:
        raise BadInput(Problem("sheet", "there is nothing to paint with here", "start it as yellow-hinge"))
    press.check(target)
    song = _voiced(options, library, Planner(library))[0].song
    wanted = Options(
        options.paper, options.across, options.large, options.plain, degrees=options.degrees,
        numbers=options.numbers,
        written_out=options.written_out,
    )  # fmt: skip
    made = sheet_of(song, library, options.kind, wanted, press.metrics())
    strange = press.strange(made)
    if strange:
        say(strange_problem(strange, options.out))
    for path in press.write(made, target, options.plain):
        out(str(path))
