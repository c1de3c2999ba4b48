"""The demo songs: charts as text, and the same solved as project files."""
