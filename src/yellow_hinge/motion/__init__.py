"""What moves between two voicings, what it costs, and the row of voicings of least effort."""
