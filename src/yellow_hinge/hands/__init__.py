"""Key geometry, reach and fingering. Knows keys and hands, never chords."""
