"""The song in other keys.

- ``moved``: The song in other keys: everything moves along. Loads no arrays.
- ``survey``: The same song in twelve keys: figures of each, where it begins best and why, and what becomes
  of grips that are carried over as they are.
"""
