"""The one cache: bounded, and safe to use from any thread."""

from concurrent.futures import ThreadPoolExecutor

from tin_bucket.cache import LockedCache


def test_what_was_used_longest_ago_goes_first():
    cache = LockedCache(2)
    cache.put("a", 1)
    cache.put("b", 2)
    assert cache.get("a") == 1
    cache.put("c", 3)
    assert [cache.get(key) for key in "abc"] == [1, None, 3]


def test_a_value_that_is_larger_than_the_cache_is_kept_alone():
    cache = LockedCache(10, len)
    cache.put("small", "xx")
    cache.put("large", "x" * 50)
    assert (cache.get("small"), len(cache)) == (None, 1)
    cache.put("small", "xx")
    assert cache.get("large") is None


def test_threads_that_make_the_same_value_go_on_with_one_of_them():
    cache = LockedCache(4)
    with ThreadPoolExecutor(4) as threads:
        made = list(threads.map(lambda _: cache.get_or_make("key", object), range(200)))
    assert len({id(one) for one in made}) == 1


def test_many_threads_put_take_and_drop():
    cache = LockedCache(5)

    def work(turn):
        for step in range(2_000):
            key = (turn * step) % 17
            cache.put(key, key)
            assert cache.get_or_make(key, lambda key=key: key) == key
            if step % 50 == 0:
                cache.drop(lambda one: one % 2 == 0)
                cache.pop(key)
        return len(cache)

    with ThreadPoolExecutor(4) as threads:
        assert max(threads.map(work, range(1, 5))) <= 5
