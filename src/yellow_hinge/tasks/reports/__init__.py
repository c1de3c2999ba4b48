"""What the command line prints.

- ``grips``: What the command line says of shapes and of grips, one's own included.
- ``lists``: What there is to choose from, as the command line lists it: schools, patterns, formulas.
  Nothing here loads the search.
- ``rhythm``: What the command line says of rhythm.
- ``song``: What the command line prints: the JSON of the fixed contract, and plain text.
- ``taste``: What a taste says, and how it was learnt.
"""
