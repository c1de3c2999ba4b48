"""The Song page: chart, key, hands and school."""
