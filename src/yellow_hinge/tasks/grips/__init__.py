"""A player's own grips: pages of them, what they are, lack and cost, and every shape of a chord.

- ``judge``: What a player's own grips are, lack and break; and what they cost as a row.
- ``names``: Names of chords that are given as notes.
- ``own_grip``: A player's own grip in its place in a song: what it is called, what it lacks, how it lies in
  the hands, how it leads on, and what it costs against the one in use.
- ``page``: A page of somebody's grips as a song, and a song as such a page (docs/grips-text.md).
- ``shape_desk``: All voicings of a chord, beyond the best ones, filtered, each with its price.
"""
