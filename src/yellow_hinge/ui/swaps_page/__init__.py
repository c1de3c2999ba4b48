"""The Swaps page: other chords for a place, weighed by ear, melody, bass and motion."""
