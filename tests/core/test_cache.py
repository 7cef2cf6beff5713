"""What is kept: bounded by bytes, the least used first, the same from many threads."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from hypothesis import given
from hypothesis import strategies as st

from plentar.core.cache import Cache


def text_cache(most_bytes: int) -> Cache[int, str]:
    return Cache("texts", most_bytes, len)


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 40)), max_size=60))
def test_whatever_is_kept_the_bound_holds_and_the_last_that_fits_is_there(steps):
    cache = text_cache(100)
    for key, size in steps:
        assert cache.keep(key, "x" * size) == "x" * size
        assert cache.held_bytes <= 100
        assert cache.get(key) == "x" * size


def test_the_least_recently_used_goes_first():
    cache = text_cache(30)
    for key in (1, 2, 3):
        cache.keep(key, "x" * 10)
    cache.get(1)
    cache.keep(4, "x" * 10)
    assert [cache.get(key) is not None for key in (1, 2, 3, 4)] == [True, False, True, True]


def test_what_is_larger_than_the_cache_is_handed_out_and_drops_nothing():
    cache = text_cache(30)
    cache.keep(1, "x" * 20)
    assert cache.keep(2, "x" * 31) == "x" * 31
    assert cache.get(2) is None
    assert cache.get(1) is not None


def test_the_newest_may_be_kept_alone_however_large():
    cache = Cache("texts", 30, len, newest=True)
    cache.keep(1, "x" * 20)
    cache.keep(2, "x" * 50)
    assert (cache.get(1), cache.get(2), cache.held_bytes) == (None, "x" * 50, 50)
    cache.keep(3, "x" * 20)
    assert (cache.get(2), cache.get(3), cache.held_bytes) == (None, "x" * 20, 20)


def test_replacing_a_value_counts_it_once():
    cache = text_cache(100)
    for size in (40, 10, 60):
        cache.keep(1, "x" * size)
    assert (len(cache), cache.held_bytes) == (1, 60)
    cache.clear()
    assert (len(cache), cache.held_bytes) == (0, 0)


def test_many_threads_leave_the_books_in_order():
    cache = text_cache(500)

    def work(seed: int) -> None:
        for step in range(400):
            key = (seed * 7 + step * 13) % 50
            assert cache.get_or_make(key, lambda key=key: "x" * (key + 1)) == "x" * (key + 1)

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(work, range(8)))
    held = sum(len(cache.get(key) or "") for key in range(50))
    assert held == cache.held_bytes <= 500
