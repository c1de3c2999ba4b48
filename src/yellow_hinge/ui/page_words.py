"""What each page is for and how one begins on it: what F1 says first. The words are in ``pages.md``."""

from __future__ import annotations

from importlib.resources import files


def page_words(name: str) -> str:
    """The words of a page, as Markdown: paragraphs with their keys in bold."""
    text = (files("yellow_hinge.ui") / "pages.md").read_text("utf-8")
    parts = dict(part.split("\n", 1) for part in text.split("\n## ")[1:])
    return parts[name].strip()
