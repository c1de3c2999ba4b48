"""A song as a sound file, to play along with away from the screen: counted in, faster by rounds, hands left
out."""

from __future__ import annotations

import io
from fractions import Fraction

import numpy as np
from msgspec import Struct

from yellow_hinge.errors import BadInput, Cancelled, Problem
from yellow_hinge.rhythm.events import NoteEvent, PedalEvent
from yellow_hinge.rhythm.time import MAX_TEMPO, MIN_TEMPO, TempoMap
from yellow_hinge.song.model import Song
from yellow_hinge.song.walk import clicks, count_in_before, perform, tempo_changes
from yellow_hinge.sound.instrument import SAMPLE_RATE, Frames, Instrument, best_instrument
from yellow_hinge.sound.player import render
from yellow_hinge.stopping import Progress, always
from yellow_hinge.tasks.song.describe_song import bassist_keys
from yellow_hinge.voicing.recipes import Library

#: The loudest sample: 1 dB below what a file can hold.
PEAK = 10 ** (-1 / 20)
#: How long a file may last, in seconds, and how many rounds it may have.
MOST_S, MOST_ROUNDS = 3600, 50
_FORMATS = {".wav": ("WAV", "PCM_16"), ".flac": ("FLAC", "PCM_16"), ".ogg": ("OGG", "VORBIS")}
_PIECE = 65_536


class SoundWishes(Struct, frozen=True):
    """What a sound file has: so many ``rounds``, from one tempo (beats a minute; 0: the song's own) by even
    steps to another; a bar counted in before the first, a click all through, the tune, the band; and which
    hands are heard."""

    rounds: int = 1
    first_tempo: int = 0
    last_tempo: int = 0
    count_in: bool = False
    click: bool = False
    tune: bool = True
    band: bool = True
    left: bool = True
    right: bool = True

    def check(self, song: Song) -> None:
        """Raise :class:`BadInput` for what no file can be."""
        if not 1 <= self.rounds <= MOST_ROUNDS:
            raise BadInput(Problem("rounds", f"{self.rounds} rounds", f"ask for 1 to {MOST_ROUNDS}"))
        for tempo in (self.first_tempo, self.last_tempo):
            if tempo and not MIN_TEMPO <= tempo <= MAX_TEMPO:
                remedy = f"ask for {MIN_TEMPO} to {MAX_TEMPO}"
                raise BadInput(Problem("tempo", f"{tempo} beats a minute", remedy))
        round_s = float(song.chart.length_quarters / song.meter.quarters_per_beat) / song.tempo * 60
        if sum(round_s / share for share in self.tempi(song)) > MOST_S:
            raise BadInput(Problem("sound", "it would last more than an hour", "ask for fewer rounds"))

    def tempi(self, song: Song) -> list[float]:
        """The tempo of each round, against the song's own."""
        first = self.first_tempo or song.tempo
        last = self.last_tempo or first
        steps = max(1, self.rounds - 1)
        return [(first + (last - first) * turn / steps) / song.tempo for turn in range(self.rounds)]


def sound_file(
    song: Song, library: Library, suffix: str, wishes: SoundWishes, progress: Progress = always
) -> bytes:
    """A song as WAV, FLAC or OGG with nothing louder than -1 dB. Raises :class:`BadInput` for wishes that no
    file can be, and :class:`Cancelled` when ``progress`` says so."""
    wishes.check(song)
    import soundfile  # noqa: PLC0415 - loaded when a file is written

    sound = sound_of(song, library, wishes, best_instrument(), progress)
    form, kind = _FORMATS[suffix]
    buffer = io.BytesIO()
    with soundfile.SoundFile(buffer, "w", SAMPLE_RATE, 2, kind, format=form) as file:
        for start in range(0, len(sound), _PIECE):  # long pieces at once are more than the library bears
            file.write(sound[start : start + _PIECE])
    return buffer.getvalue()


def sound_of(
    song: Song, library: Library, wishes: SoundWishes, instrument: Instrument,
    progress: Progress = always,
) -> Frames:  # fmt: skip
    """All rounds one after the other, (frames, 2) float32, the loudest sample at :data:`PEAK`."""
    heard = perform(song, bassist_keys(song, library), melody=wishes.tune, band=wishes.band)
    muted = {hand for hand, on in (("left", wishes.left), ("right", wishes.right)) if not on}
    notes = [event for event in heard.notes if event.part not in muted]
    notes += list(clicks(song)) if wishes.click else []
    pieces: list[Frames] = []
    for turn, share in enumerate(wishes.tempi(song)):
        events = list(notes)
        if wishes.count_in and not turn:
            begin = min((event.start_quarters for event in notes), default=Fraction(0))
            events += count_in_before(song, begin)[1]
        tempo = TempoMap([(start, rate * Fraction(share)) for start, rate in tempo_changes(song)])
        pieces.append(_round(instrument, events, tempo, heard.pedal, song, last=turn == wishes.rounds - 1))
        if not progress((turn + 1) / wishes.rounds):
            raise Cancelled
    sound = np.concatenate(pieces) if pieces else np.zeros((0, 2), np.float32)
    loudest = float(np.abs(sound).max()) if len(sound) else 0.0
    return (sound * (PEAK / loudest)).astype(np.float32) if loudest else sound


def _round(
    instrument: Instrument, events: list[NoteEvent], tempo: TempoMap, pedal: tuple[PedalEvent, ...],
    song: Song, *, last: bool,
) -> Frames:  # fmt: skip
    """One time through; all but the last end where the next one begins."""
    sound = render(instrument, sorted(events), tempo, pedal)
    if last or not events:
        return sound
    start = min(event.start_quarters for event in events)
    length = tempo.seconds(float(song.chart.length_quarters)) - tempo.seconds(float(min(start, Fraction(0))))
    return sound[: round(length * SAMPLE_RATE)]
