"""What the program prints for songs of two harbours, to the letter: voicings, moves, reasons, swaps,
keys, judgements. The pages were read as a player reads them; what changes here is heard by players."""

from __future__ import annotations

import os
import re
from pathlib import Path

import pytest

from conftest import DATA
from yellow_hinge.cli import run

pytestmark = pytest.mark.long

PRINTED = DATA / "printed"
TIDE, SHORT, GRIPS = (str(PRINTED / name) for name in ("tide.txt", "short.txt", "grips.txt"))
#: Page -> what is asked for.
PAGES: dict[str, list[str]] = {
    "voice-tide": ["voice", TIDE],
    "voice-tide-band": ["voice", TIDE, "--school", "band", "--reach", "10th,9th"],
    "voice-tide-guide-loop": ["voice", TIDE, "--school", "guide", "--loop"],
    "voice-tide-melody": ["voice", TIDE, "--school", "melody", "--colour", "2"],
    "voice-tide-key": ["voice", TIDE, "--key", "Db"],
    "voice-tide-swaps": ["voice", TIDE, "--swaps", "3"],
    "voice-short-json": ["voice", SHORT, "--takes", "2", "--json"],
    "voice-short-spread-json": ["voice", SHORT, "--school", "spread", "--bass", "bassist", "--json"],
    "voice-short-right": ["voice", SHORT, "--hands", "right"],
    "voice-short-left": ["voice", SHORT, "--hands", "left", "--reach", "8th,8th"],
    "swaps-tide": ["swaps", TIDE],
    "swaps-short-json": ["swaps", SHORT, "--json"],
    "keys-short-json": ["keys", SHORT, "--json"],
    "judge": ["judge", GRIPS, "--key", "Cm"],
    "judge-json": ["judge", GRIPS, "--key", "Cm", "--json"],
    "judge-band-json": ["judge", GRIPS, "--bass", "bassist", "--school", "band", "--reach", "8th,7th",
                        "--json"],
    "name-json": ["name", "C3,E3,Bb3,D4", "D3,F#3,C4", "60,63,66,69", "G2,C4,E4", "--json"],
    "candidates-json": ["candidates", "Bb7alt", "Dm7/G", "C5", "H", "--school", "sixes", "--json"],
    "schools": ["schools", "--json"],
}  # fmt: skip


def printed(arguments: list[str], capsys: pytest.CaptureFixture[str]) -> str:
    """Without what a run takes in time, and without the folder of the tests."""
    assert run(arguments) == 0
    text = capsys.readouterr().out.replace(f"{PRINTED}{os.sep}", "")
    return re.sub(r'("seconds": )[0-9.e-]+', r"\1...", text)


@pytest.mark.parametrize("page", PAGES)
def test_every_page_to_the_letter(page: str, capsys: pytest.CaptureFixture[str]) -> None:
    """Written anew by PRINT_ANEW=1, to be read before it is kept."""
    text, file = printed(PAGES[page], capsys), Path(PRINTED / f"{page}.page")
    if os.environ.get("PRINT_ANEW"):
        file.write_text(text, "utf-8")
    assert text == file.read_text("utf-8")
