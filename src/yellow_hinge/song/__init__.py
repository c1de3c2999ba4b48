"""The document: a song with its hands, choices and history. Values only, no engines."""
