"""What moves between two voicings, what it costs, and the smoothest row of voicings."""
