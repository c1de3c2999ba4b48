"""Rhythm and lines: what cannot be played, riffs, proposed lines and small notes.

- ``checks``: What a player checks of a rhythm: too fast, two places at once, hands that meet, stretches,
  changes that are not heard, and mud under the pedal.
- ``line_desk``: Riffs and lines over a stretch of the song: proposals, and what their notes are over each
  chord.
- ``riff_text``: A riff as it is typed: notes with their length in beats, one after the other.
- ``small_notes``: Small notes on the way, over a stretch of the song, on the counts that the patterns leave
  free.
"""
