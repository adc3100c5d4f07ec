"""A bounded memory of things that are dear to make."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Thing = TypeVar("Thing")


class LruCache(Generic[Thing]):
    """At most so many things by their keys; the one that was asked for longest ago goes first.
    Threads may share it.

    >>> cache = LruCache[int](2)
    >>> [cache.get(x, lambda x=x: x * 10) for x in (1, 2, 1, 3)], 2 in cache, 1 in cache
    ([10, 20, 10, 30], False, True)
    """

    def __init__(self, most: int) -> None:
        self.most = most
        self._things: OrderedDict[Hashable, Thing] = OrderedDict()
        self._lock = Lock()

    def __contains__(self, key: Hashable) -> bool:
        return key in self._things

    def get(self, key: Hashable, make: Callable[[], Thing]) -> Thing:
        """The thing of a key, made where it is not kept."""
        with self._lock:
            known = self._things.get(key)
            if known is not None:
                self._things.move_to_end(key)
        if known is not None:
            return known
        value = make()
        self.put(key, value)
        return value

    def find(self, key: Hashable) -> Thing | None:
        """The thing of a key, which stays; None where it is not kept."""
        with self._lock:
            return self._things.get(key)

    def put(self, key: Hashable, thing: Thing) -> None:
        """Keep a thing."""
        with self._lock:
            self._things[key] = thing
            self._things.move_to_end(key)
            while len(self._things) > self.most:
                self._things.popitem(last=False)

    def take(self, key: Hashable) -> Thing | None:
        """Take a thing out, for one thread alone; None where it is not kept."""
        with self._lock:
            return self._things.pop(key, None)
