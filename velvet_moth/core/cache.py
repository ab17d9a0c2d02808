"""A memory of made things that never grows beyond so many bytes."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Made = TypeVar("Made")


class ByteCache(Generic[Made]):
    """Keeps what was used last. ``size`` tells how many bytes a thing holds; safe from several threads."""

    def __init__(self, most_bytes: int, size: Callable[[Made], int]) -> None:
        self.most_bytes = most_bytes
        self.size = size
        self.held = 0
        self._things: OrderedDict[Hashable, Made] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """The thing under that key, made where it is not held; what makes too much room needed is let go."""
        with self._lock:
            if key in self._things:
                self._things.move_to_end(key)
                return self._things[key]
        made = make()
        with self._lock:
            if key not in self._things:
                self._things[key] = made
                self.held += self.size(made)
            while self.held > self.most_bytes and len(self._things) > 1:
                _, dropped = self._things.popitem(last=False)
                self.held -= self.size(dropped)
        return made
