"""The window. Each page is a folder: ``state`` thinks without Qt, ``view`` shows."""
