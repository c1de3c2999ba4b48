"""The Rhythm page: the counting strip, patterns, feel and lines."""
