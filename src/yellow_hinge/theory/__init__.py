"""Pitch, spelling, chords, numbers, keys and tensions. No hands, no arrays, no files."""
