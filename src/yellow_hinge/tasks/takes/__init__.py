"""Takes beside each other, from plain to rich, along an arc, and place against place.

- ``arc``: An arc over a song: how full each section is as it is played, and the takes that make it so.
- ``desk``: Takes beside each other: each solved for the whole song, what the route costs at its joints,
  joints made smooth, and two takes compared chord by chord.
- ``ladder``: From plain to rich in steps: each keeps the grips of the one before where its own shapes have
  them, and brings as few new ones at a time as the player wants to learn.
- ``places``: Two places of a song beside each other: what differs in notes, rhythm and fingers, in a
  sentence.
"""
