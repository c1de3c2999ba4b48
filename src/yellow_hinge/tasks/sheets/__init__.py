"""Sheets of a song.

- ``kinds``: Sheets of a song, by kind.
"""
