"""What can be done on the Swaps page: walking, swapping, weighing, switching rules, and its faces."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from yellow_hinge.reharm.rules import RULES
from yellow_hinge.ui.commands import Command
from yellow_hinge.ui.swaps_page.face_commands import face_commands

if TYPE_CHECKING:
    from yellow_hinge.ui.swaps_page.view import SwapsPage

#: The trade curve goes up to so many swaps.
MOST_SWAPS = 8


def page_commands(page: SwapsPage) -> list[Command]:
    """All of them, in the order of the menu."""
    return [
        *_walking(page), *_swapping(page), *face_commands(page), *_weighing(page), *rule_commands(page),
    ]  # fmt: skip


def _walking(page: SwapsPage) -> list[Command]:
    return [
        Command("forward", "Next chord", lambda: page.step(1), ("Right",)),
        Command("backward", "Chord before", lambda: page.step(-1), ("Left",)),
        Command("list-down", "Down the list", lambda: page.step_list(1), ("Down",),
                tip="To the next proposal"),
        Command("list-up", "Up the list", lambda: page.step_list(-1), ("Up",),
                tip="To the proposal before"),
        Command("every", "All proposals", page.show_every, ("A",),
                tip="All proposals for this chord, or the first dozen again",
                checked=lambda: page.state.every),
    ]  # fmt: skip


def _swapping(page: SwapsPage) -> list[Command]:
    state = page.state
    chosen = lambda: state.proposal is not None  # noqa: E731 - read anew each time
    return [
        Command("hear", "Hear", page.audition, ("H",),
                tip="Hear it between its neighbours, before anything is changed",
                enabled=lambda: page.grip_face.ready if page.grip_face
                else state.proposal in state.weighed),
        Command("accept", "Take", page.accept, ("Return",), tip="Put it in place; undo takes it back",
                enabled=lambda: page.grip_face.ready if page.grip_face else chosen()),
        Command("back", "Give back", page.give_back, ("R",), tip="The chart's own chord comes back",
                enabled=lambda: state.swapped),
        Command("variant", "Other qualities", page.next_variant, ("V",),
                tip="The same roots with a half-diminished two, a flat ninth, a raised fifth... in turn",
                enabled=chosen),
        Command("keep", "Keep as it is", page.toggle_kept, ("X",), tip="No swap ever takes this chord",
                enabled=lambda: state.at is not None, checked=lambda: state.kept),
    ]  # fmt: skip


def _weighing(page: SwapsPage) -> list[Command]:
    return [
        Command("curve", "Work it out", page.work_out, ("C",),
                tip=f"The least effort with 0 to {MOST_SWAPS} swaps",
                enabled=lambda: bool(page.state.song.slots)),
        Command("turn", "Take the turning point", lambda: page.take_point(page.state.least), ("T",),
                tip="As many swaps as lower the effort, all at once",
                enabled=lambda: page.state.least > 0),
        Command("learn-style", "Learn my style", page.learn_style,
                tip="From the swaps of this take that you took, and those beside them that you left",
                enabled=lambda: bool(page.state.song.arrangement.swaps)),
        Command("stop", "Cancel", page.stop, ("Escape",), tip="Stop the weighing",
                enabled=lambda: page.weighing),
    ]  # fmt: skip


def rule_commands(page: SwapsPage) -> list[Command]:
    """A switch for each rule of reharmonisation."""
    return [
        Command(f"rule-{rule.id}", rule.name, partial(page.toggle_rule, rule.id), menu="Rules",
                tip=f"Propose swaps by this rule: {rule.name}",
                checked=partial(page.rule_on, rule.id))
        for rule in RULES.values()
    ]  # fmt: skip
