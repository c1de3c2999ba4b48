"""What the application does, end to end: a song in, a result or an edit out. No Qt."""
