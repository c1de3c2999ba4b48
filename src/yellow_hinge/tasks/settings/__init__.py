"""What a player keeps between runs: own recipes, patterns, styles and hands, looks, recent files, and where
all of it lies.

- ``display``: How a player wants the window to look and to say notes: kept between runs in a small file.
- ``library``: The library of recipes with the player's own file, where there is one.
- ``mistakes``: Mistakes of ours: written down where a player finds them, and said in plain words.
- ``own_files``: The player's own files beside those that ship: recipes, patterns, formulas.
- ``own_keys``: Keys that the player gave to acts, kept between runs in a small file.
- ``own_settings``: Settings kept between runs, each group in a small file of its own. What cannot be read
  is as it is at first.
- ``own_styles``: Styles of swaps: those that ship, and the player's own.
- ``patterns``: The patterns that ship with the player's own file behind them.
- ``player``: Who plays: kept between runs in a small file.
- ``practice_settings``: How a player practises: kept between runs in a small file. What cannot be read is
  as it is at first.
- ``profiles``: Hand profiles that a player keeps, by name, in the configuration folder.
- ``recent``: The files that were opened or saved last, kept between runs.
- ``stored``: What the program stores and where, and how to forget all of it.
- ``state_folder``: Where the program keeps what it needs from one run to the next: recovery copies, the
  log, and the folders it wrote in.
"""
