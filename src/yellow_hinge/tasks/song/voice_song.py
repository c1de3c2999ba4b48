"""Voice a song: build the problem from the document, solve it, put the answer back."""

from __future__ import annotations

from msgspec import Struct

from yellow_hinge.errors import BadInput, Problem
from yellow_hinge.motion.effort import effort_of
from yellow_hinge.motion.figures import Effort
from yellow_hinge.motion.place import Answer
from yellow_hinge.motion.plan import Planner
from yellow_hinge.song.edits import with_voicings
from yellow_hinge.song.model import Song
from yellow_hinge.song.tune import melody_keys
from yellow_hinge.song.under_tune import octave_words
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.problem import progression
from yellow_hinge.theory.tension import DEGREE_WORDS
from yellow_hinge.voicing.borrow import lender
from yellow_hinge.voicing.recipes import Library
from yellow_hinge.voicing.shape import Voicing
from yellow_hinge.voicing.wish import Wish


class Voiced(Struct, frozen=True):
    """A solved song with its answer."""

    song: Song
    answer: Answer

    @property
    def effort(self) -> Effort:
        """The effort of the row, by its shares."""
        return effort_of(self.answer)


def remarks(voiced: Voiced, library: Library) -> list[list[str]]:
    """For each slot what a player should know about how it was voiced: a school that could not
    play it, a tone that yields to the tune."""
    found: list[list[str]] = []
    written, before = melody_keys(voiced.song), 0
    for slot, wish in zip(voiced.song.slots, voiced.answer.row_wishes, strict=True):
        own: list[str] = []
        note = written[slot.index]
        if wish is not None and wish.top is not None and note is not None:
            octaves, before = (wish.top - note) // 12 - before, (wish.top - note) // 12
            if octaves:
                own.append(f"from here the tune is taken {octave_words(before)} in the right hand")
        lent = None if wish is None else lender(wish.school, library)
        if wish is not None and lent is not None:
            school = library.school(wish.school.id.partition("+")[0]).name
            own.append(f"the school {school} cannot play this with these hands: borrowed from {lent.name}")
        asked = () if wish is None or voiced.song.locked(slot.index) else voiced.song.taste(slot.index).rules
        for rule in asked:
            if rule.of_chords and wish is not None and rule not in wish.rules:
                recipe = library.recipes.get(str(rule.value))
                words = rule.words("" if recipe is None else recipe.name)
                own.append(f"this chord cannot obey the rule: {words[:1].lower()}{words[1:]}")
        own += too_few(slot.index, wish, voiced.song)
        if wish is not None and slot.chord is not None and wish.top is not None:
            sounding = {*(voiced.song.voicing(slot.index) or Voicing()).degrees}
            for label in sorted(wish.yielding - sounding):
                name = slot.chord.root.degree(label)
                own.append(f"{DEGREE_WORDS[label]} ({name}) yields to the tune")
        found.append(own)
    return found


def too_few(index: int, wish: Wish | None, song: Song) -> list[str]:
    """Hands that have fewer notes on a slot than their pattern strikes."""
    voicing = song.voicing(index)
    if wish is None or voicing is None:
        return []
    return [
        f"the {side} hand's pattern strikes {wish.struck_by(side).least} notes: here it has "
        f"{len(voicing.hand(side).keys)}"
        for side in ("left", "right")
        if 0 < len(voicing.hand(side).keys) < wish.struck_by(side).least
    ]


def voice_song(song: Song, library: Library, planner: Planner, progress: Progress = always) -> Voiced:
    """The song with the voicings of least effort, locks kept; in a loop the last chord also leads
    back to the first.

    Raises :class:`BadInput` for a song without chords, :class:`NoSolution` where a chord
    cannot be played, and ``Cancelled``.
    """
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    answer = planner.solve(progression(song, library), progress)
    return Voiced(with_voicings(song, answer.voicings), answer)


def voice_takes(
    song: Song, library: Library, planner: Planner, most: int, progress: Progress = always
) -> list[Voiced]:
    """Up to ``most`` rows for the song that differ audibly, the one with least effort first. Raises as
    :func:`voice_song`."""
    if not song.slots:
        raise BadInput(Problem("song", "there are no chords yet", "write a chart: | C | G7 |"))
    return [
        Voiced(with_voicings(song, answer.voicings), answer)
        for answer in planner.takes(progression(song, library), most, progress)
    ]
