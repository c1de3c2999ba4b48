"""Work that nobody wants any more stops in the middle of whatever it does."""

from __future__ import annotations

import threading
from collections.abc import Callable

import numpy as np
import pytest

from made import song_of
from yellow_hinge.errors import Cancelled
from yellow_hinge.lattice import compiled, kernel
from yellow_hinge.stopping import ask, while_wanted
from yellow_hinge.tasks.song.session import Session
from yellow_hinge.tasks.swaps.desk import SwapDesk
from yellow_hinge.voicing.recipes import Library

pytestmark = pytest.mark.long


def test_asking_goes_by_thread_and_by_block() -> None:
    heard: list[bool] = []

    def asked_well() -> bool:
        ask()
        return True

    ask()
    with while_wanted(lambda: False):
        other = threading.Thread(target=lambda: heard.append(asked_well()))
        other.start()
        other.join()
        with while_wanted(lambda: True):
            ask()
        with pytest.raises(Cancelled):
            ask()
    ask()
    assert heard == [True]


def stopping_at(count: int) -> tuple[list[int], Callable[[], bool]]:
    """A check that says no from the ``count``-th question on; what it has heard."""
    asked = [0]

    def wanted() -> bool:
        asked[0] += 1
        return asked[0] < count

    return asked, wanted


@pytest.mark.parametrize("product", [kernel.min_plus, compiled.min_plus])
def test_a_long_product_asks_on_the_way_and_gives_the_same(product: kernel.MinPlus) -> None:
    random = np.random.default_rng(1)
    first = random.integers(0, 900, (700, 180), dtype=np.int32)
    second = random.integers(0, 900, (180, 700), dtype=np.int32)
    asked, wanted = stopping_at(1000)
    with while_wanted(wanted):
        whole = product(first, second)
    assert 2 <= asked[0] < 1000
    assert (whole[::50] == (first[::50, :, None] + second[None]).min(axis=1)).all()
    with while_wanted(stopping_at(2)[1]), pytest.raises(Cancelled):
        product(first, second)


@pytest.mark.parametrize("share", [0.0, 0.2, 0.5, 0.8, 0.95])
def test_a_search_can_be_stopped_anywhere_and_taken_up_again(library: Library, share: float) -> None:
    song = song_of("| Cmaj7 | Am9 | Dm7 G7 | C6 |", loop=True)
    Session(library)(song, 10)  # what every session shares is laid out once, and asks then
    asked, wanted = stopping_at(10**9)
    with while_wanted(wanted):
        whole = Session(library)(song, 10)
    session = Session(library)
    with while_wanted(stopping_at(1 + int(share * asked[0]))[1]), pytest.raises(Cancelled):
        session(song, 10)
    again = session(song, 10)
    assert whole.voiced is not None and again.voiced is not None
    assert again.voiced.song == whole.voiced.song and again.alternatives == whole.alternatives


def test_weighing_swaps_can_be_stopped(library: Library) -> None:
    song = song_of("| Cmaj7 | Am7 | Dm7 | G7 | Cmaj7 |")
    SwapDesk(library).curve(song, 2, lambda _: True)  # what every desk shares is laid out once, and asks then
    desk = SwapDesk(library)
    asked, wanted = stopping_at(10**9)
    with while_wanted(wanted):
        whole = desk.curve(song, 2, lambda _: True)
    for share in (0.1, 0.5, 0.9):
        other = SwapDesk(library)
        with while_wanted(stopping_at(int(share * asked[0]))[1]), pytest.raises(Cancelled):
            other.curve(song, 2, lambda _: True)
        assert [one.cost for one in other.curve(song, 2, lambda _: True)] == [one.cost for one in whole]
