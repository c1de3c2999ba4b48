"""What can be done on the Rhythm page."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from yellow_hinge.rhythm.fullness import ARCS
from yellow_hinge.rhythm.patterns import HANDS
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.page import Face

if TYPE_CHECKING:
    from yellow_hinge.ui.rhythm_page.view import RhythmPage

FACES = (
    Face("patterns", "Patterns", "E", "What a hand plays on which count, for a chord, a section or the song"),
    Face("feel", "Feel", "F", "Pedal, touch, swing, endings, drums and bass"),
    Face("lines", "Lines", "L", "Riffs of your own, proposed lines, small notes on the way"),
)  # fmt: skip


def page_commands(page: RhythmPage) -> list[Command]:
    """All of them, in the order of the menu."""
    return [
        *_walking(page), *_strokes(page), *_hearing(page), *_faces(page), *_lines(page), *_arc(page),
    ]  # fmt: skip


def _walking(page: RhythmPage) -> list[Command]:
    return [
        Command("forward", "To the next count", lambda: page.step(1), ("Right",), enabled=page.any_chord),
        Command("backward", "To the count before", lambda: page.step(-1), ("Left",), enabled=page.any_chord),
        Command("next-chord", "To the next chord", lambda: page.step_chord(1), ("Shift+Right",),
                enabled=page.any_chord),
        Command("chord-before", "To the chord before", lambda: page.step_chord(-1), ("Shift+Left",),
                enabled=page.any_chord),
        Command("lane-up", "Lane above", lambda: page.step_lane(-1), ("Up",),
                tip="Riff, right hand, left hand, pedal"),
        Command("lane-down", "Lane below", lambda: page.step_lane(1), ("Down",),
                tip="Riff, right hand, left hand, pedal"),
        Command("first", "First chord", lambda: page.go_to_chord(0), ("Home",), enabled=page.any_chord),
        Command("last", "Last chord", lambda: page.go_to_chord(-1), ("End",), enabled=page.any_chord),
    ]  # fmt: skip


def _strokes(page: RhythmPage) -> list[Command]:
    state = page.state

    def in_hand() -> bool:
        return page.any_chord() and state.lane in HANDS

    return [
        Command("toggle", "Stroke", page.toggle, ("Return",),
                tip="Put a stroke at the count, or take it away; in the pedal's lane a change of the pedal, "
                "in the riff's lane take the note away", enabled=page.any_chord),
        *(
            Command(f"rung-{n}", f"Rung {n}", partial(page.toggle_rung, n - 1), (str(n),),
                    tip=f"The {('lowest', 'second', 'third', 'fourth', 'fifth')[n - 1]} note of the grip, "
                    "on or off at the count", enabled=in_hand)
            for n in range(1, 6)
        ),
        Command("whole", "Whole grip", partial(page.strike, "all"), ("0",), tip="Strike the whole grip",
                enabled=in_hand),
        Command("next-what", "Strike something else", partial(page.next_what, 1), (".",),
                tip="Whole grip, bottom, top, upper, lower, octave, fifth ... in turn", enabled=in_hand),
        Command("what-before", "Strike what came before", partial(page.next_what, -1), (",",),
                enabled=in_hand),
        Command("way", "Rolled, crushed, slid", page.next_way, ("W",),
                tip="The stroke plainly, rolled, shaken, with a crushed half step, or slid into, in turn",
                enabled=in_hand),
        Command("harder", "Harder", partial(page.touch, "hard"), ("+", "="), enabled=in_hand),
        Command("softer", "Softer", partial(page.touch, "soft"), ("-",), enabled=in_hand),
    ]  # fmt: skip


def _hearing(page: RhythmPage) -> list[Command]:
    return [
        Command("hear", "Hear", page.audition, ("H",), tip="Hear the chosen chord and the next one",
                enabled=page.any_chord),
        Command("other", "Hear the other pattern", page.hear_other, ("X",),
                tip="The pattern before in its place, and back again: the two in turn",
                enabled=lambda: page.state.other is not None),
        Command("hand", "Hand", page.switch_hand, ("J",), tip="Patterns for the other hand",
                now=lambda: f"{page.state.hand.capitalize()} hand"),
        Command("simpler", "Simpler pattern", page.simpler, ("G",),
                tip="What is said below goes away with it", enabled=page.can_simplify),
    ]  # fmt: skip


def _faces(page: RhythmPage) -> list[Command]:
    return [
        Command(f"face-{face.id}", face.words, partial(page.show_face, face), (face.key,), "Side", face.tip,
                checked=partial(page.shows, face))
        for face in FACES
    ]  # fmt: skip


def _arc(page: RhythmPage) -> list[Command]:
    return [
        Command("arc", "Draw the arc", page.go_to_arc, ("A",), "Arc",
                "How full each section is: arrows, 1 to 5, Return", enabled=page.any_chord),
        *(
            Command(f"arc-{kind}", f"Arc: {words}", partial(page.shape_arc, kind), (), "Arc",
                    "Every level has texture, notes, register and touch of its own", enabled=page.any_chord)
            for kind, words in ARCS.items()
        ),
        Command("arc-away", "No arc", page.drop_arc, (), "Arc", "The take again of which it was made",
                enabled=page.has_arc),
        Command("compare-bar", "Compare bars", partial(page.compare, False), ("B",), "Compare",
                "Mark this bar; in another one: what it has otherwise", enabled=page.any_chord),
        Command("compare-round", "Compare sections", partial(page.compare, True), ("Shift+B",), "Compare",
                "Mark this round of the section; in another one: what it has otherwise",
                enabled=page.any_chord),
    ]  # fmt: skip


def _lines(page: RhythmPage) -> list[Command]:
    return [
        Command("line", "Propose a line", page.propose_line, ("P",),
                tip="A line over this section, as the side says", enabled=page.any_chord),
        Command("line-away", "No line", page.drop_line, (), tip="No riffs over this section",
                enabled=page.has_riffs),
        Command("small-all", "Small notes", page.small_notes, ("N",),
                tip="All small notes on the way that fit this section", enabled=page.any_chord),
        Command("small-none", "None of them", page.no_small_notes, (), tip="No small notes in this section",
                enabled=page.any_chord),
    ]  # fmt: skip
