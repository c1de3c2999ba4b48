"""A player's taste: prices learnt from their own rows, kept as text, and laid over the schools.

- ``kept``: A taste as a file of readable TOML, and its prices in words.
- ``learning``: A taste out of rows of grips, each against the row that the search would have chosen.
- ``prices``: The nearest prices to ours under which what a player chose is what costs least.
- ``taste``: A taste as a value, and the library as somebody with that taste sees it.
"""
