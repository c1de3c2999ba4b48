"""A song as it is practised, the shelf of an evening, plans and reports.

- ``desk``: Practice for whoever asks: songs ready to be practised, the log in its place, plans and reports.
- ``room``: From a voiced song to a piece that is practised, and to what is known of its changes.
- ``shelf``: The shelf: the songs of an evening in their order, kept between runs as a list of files.
"""
