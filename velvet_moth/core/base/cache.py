"""A memory of made things that never grows beyond so many bytes."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Made = TypeVar("Made")


class ByteCache(Generic[Made]):
    """Keeps what was used last. ``size`` tells how many bytes a thing holds. Safe from several threads."""

    def __init__(self, most_bytes: int, size: Callable[[Made], int]) -> None:
        self.most_bytes = most_bytes
        self.size = size
        self.held = 0
        self._things: OrderedDict[Hashable, Made] = OrderedDict()
        self._making: dict[Hashable, Lock] = {}
        self._lock = Lock()

    def find(self, key: Hashable) -> Made | None:
        """The thing under that key, where it is held."""
        with self._lock:
            return self._things.get(key)

    def get(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """The thing under that key, made once where it is not held, however many ask; what takes too much room is let go."""
        with self._lock:
            if key in self._things:
                self._things.move_to_end(key)
                return self._things[key]
            making = self._making.setdefault(key, Lock())
        with making:
            with self._lock:
                if key in self._things:
                    return self._things[key]
            try:
                made = make()
            finally:
                with self._lock:
                    self._making.pop(key, None)
            with self._lock:
                if key not in self._things:
                    self._things[key] = made
                    self.held += self.size(made)
                while self.held > self.most_bytes and len(self._things) > 1:
                    _, dropped = self._things.popitem(last=False)
                    self.held -= self.size(dropped)
        return made

    def clear(self) -> None:
        with self._lock:
            self._things.clear()
            self.held = 0
