"""One file per format: ``read`` gives an :class:`Imported`, ``write`` gives bytes."""
