"""A player's taste: prices learnt from their own rows, kept as text, and laid over the schools.

- ``choices``: The choices that a song holds: grips that the player locked or brought, each against what
  the program would have there.
- ``compared``: What a player's prices make of a song: its row with them, and without.
- ``kept``: A taste as a file of readable TOML, and its prices in words.
- ``learning``: A taste out of rows of grips, each against the row that the search would have chosen.
- ``lists``: What a player takes from lists, by song: families of swaps and patterns.
- ``prices``: The nearest prices to ours under which what a player chose is what costs least.
- ``said``: What a taste says, in a player's words.
- ``taste``: A taste as a value, and the library as somebody with that taste sees it.
"""
