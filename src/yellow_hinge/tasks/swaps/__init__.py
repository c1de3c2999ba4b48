"""Other chords: proposals, the joint search, formulas, the board, held hands, ladders and the grid.

- ``colour_ladder``: The colour ladder: one chord, one voice that moves, and every chord that it passes
  through; and walks inside a chord that is held or repeated.
- ``desk``: Weighs swaps for a song that changes little from one question to the next.
- ``formula_desk``: Where a formula fits into a song, what the tune says to it and what it costs; put there
  as swaps.
- ``formula_keys``: A formula in every key: as a song of its own in each, with its own grips or with the
  ones that lie best.
- ``function_board``: The function board: a degree in the bass, where it goes, and every triad and seventh
  chord that may stand over it; which of them belong there, which hold the chord without its root, and which
  lie a half step from their neighbours.
- ``grid``: A few swaps as switches: every combination of them, voiced exactly, with what the player weighs.
- ``held_hand``: The right hand held while the bass goes elsewhere: what every bass makes of it, lines that
  walk down under it, and what they cost.
- ``held_through``: Right hands that stay, note for note, while another chord or bass comes under them.
- ``own_formulas``: Formulas of the player's own: made of a run of a song with its grips, rhythm and small
  notes, kept in the player's file, and played again in any place and any key.
- ``reharmonise``: Reharmonise a song: proposals, the joint search, and the way back into the document.
"""
