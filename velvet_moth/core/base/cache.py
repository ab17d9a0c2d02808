"""Caches that never grow beyond a stated bound. ``/api/caches`` shows all there are, with what each holds."""

import weakref
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from threading import Condition
from typing import Any, Generic, TypeVar

from cachetools import LRUCache, cached

Made = TypeVar("Made")


@dataclass(frozen=True)
class CacheState:
    """How full a cache is: ``holds`` of at most ``most`` of a ``unit``."""

    name: str
    holds: int
    most: int
    unit: str


_every: "weakref.WeakSet[BoundedCache[Any]]" = weakref.WeakSet()


def cache_states() -> list[CacheState]:
    """All caches of this process, by name."""
    return sorted((cache.state for cache in _every), key=lambda state: state.name)


class BoundedCache(Generic[Made]):
    """Keeps what was used last. ``size`` says how much of a ``unit`` a thing holds. Safe from several threads."""

    def __init__(self, name: str, most: int, size: Callable[[Made], int] = lambda _: 1, unit: str = "entries") -> None:
        self.name, self.most, self.unit = name, most, unit
        # One thing is kept however large it is.
        self._things: LRUCache[Hashable, Made] = LRUCache(most, getsizeof=lambda made: min(size(made), most))
        self._condition = Condition()
        self._made = cached(self._things, key=lambda key, make: key, condition=self._condition)(
            lambda key, make: make()
        )
        _every.add(self)

    @property
    def state(self) -> CacheState:
        """How full it is now."""
        return CacheState(self.name, int(self._things.currsize), self.most, self.unit)

    def find(self, key: Hashable) -> Made | None:
        """The thing under that key, where it is held."""
        with self._condition:
            return self._things.get(key)

    def get(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """The thing under that key, made once where it is not held, however many ask."""
        with self._condition:
            if key in self._things:
                return self._things[key]
        found: Made = self._made(key, make)
        return found

    def drop(self, key: Hashable) -> None:
        """Forgets the thing under that key."""
        with self._condition:
            self._things.pop(key, None)

    def clear(self) -> None:
        """Drops everything; for tests and measuring."""
        with self._condition:
            self._things.clear()
