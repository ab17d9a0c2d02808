"""Reads the Formula lines of nodes as mathematics, by themselves: a second interpreter that knows nothing of the nodes.

A line is parts between semicolons. A part is ``value``, ``Output = value`` or ``choice: value``, and definitions ``name =
value`` between commas; what follows a full stop is for people. Products may stand without a sign, and bind tighter than a
division: ``a / 2 pi`` is a / (2 pi). ``|v|`` is the length of a vector, ``v.xy`` are components, ``(a, b)`` puts together.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]
_TOKEN = re.compile(r"\s*(\d+\.?\d*(?:e-?\d+)?|[A-Za-z_][A-Za-z_0-9]*|<=|>=|[-+*/^()|,?:<>=.;])")


class NotMathematics(ValueError):
    """A line, or a part of one, that is words."""


def _dot(a: Numbers, b: Numbers) -> Numbers:
    return np.asarray(np.sum(a * b, axis=0))


def _length(v: Numbers) -> Numbers:
    return np.asarray(np.sqrt(_dot(v, v)) if v.ndim > 2 else np.abs(v))


def _smoothstep(low: Any, high: Any, value: Any) -> Any:
    t = np.clip((value - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _rotate(v: Numbers, angle: Any) -> Numbers:
    return np.stack((v[0] * np.cos(angle) - v[1] * np.sin(angle), v[0] * np.sin(angle) + v[1] * np.cos(angle)))


def _normalise(*parts: Any) -> Numbers:
    v = parts[0] if len(parts) == 1 else _together(parts)
    return np.asarray(v / _length(v))


def _together(parts: tuple[Any, ...]) -> Numbers:
    shape = max([(1, 1), *(np.shape(p)[-2:] for p in parts if np.ndim(p) > 1)], key=lambda s: (len(s), s))
    flat = [c for p in parts for c in (p if np.ndim(p) > 2 else [p])]
    return np.stack([np.broadcast_to(c, shape) for c in flat]).astype(np.float64)


FUNCTIONS: Mapping[str, Callable[..., Any]] = {
    "sin": np.sin,
    "cos": np.cos,
    "acos": np.arccos,
    "atan": np.arctan2,
    "sqrt": np.sqrt,
    "ln": np.log,
    "floor": np.floor,
    "ceil": np.ceil,
    "fract": lambda x: x - np.floor(x),
    "sign": np.sign,
    "abs": np.abs,
    "min": np.minimum,
    "max": np.maximum,
    "clamp": lambda x, low, high: np.minimum(np.maximum(x, low), high),
    "mix": lambda a, b, t: a + (b - a) * t,
    "modulo": lambda a, b: a - b * np.floor(a / b),
    "smoothstep": _smoothstep,
    "dot": _dot,
    "cross": lambda a, b: np.cross(a, b, axis=0),
    "normalise": _normalise,
    "rotate": _rotate,
    "luminance": lambda c: 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2],
}
_COMPONENTS = "xyzw"
_COLOURS = str.maketrans("rgba", "xyzw")


def tokens(text: str) -> list[str]:
    found, at = [], 0
    while at < len(text.rstrip()):
        match = _TOKEN.match(text, at)
        if match is None:
            raise NotMathematics(f"{text[at:]!r} is no mathematics")
        found.append(match[1])
        at = match.end()
    return found


@dataclass
class _Reader:
    """A recursive descent over tokens that works out the value as it goes."""

    left: list[str]
    names: Mapping[str, Any]
    is_in_bars: bool = False

    def next(self) -> str:
        return self.left[0] if self.left else ""

    def take(self, *wanted: str) -> str:
        if self.next() in wanted and self.left:
            return self.left.pop(0)
        return ""

    def need(self, wanted: str) -> None:
        if not self.take(wanted):
            raise NotMathematics(f"{wanted} is missing before {self.left}")

    def choice(self) -> Any:
        first = self.comparison()
        if not self.take("?"):
            return first
        yes = self.choice()
        self.need(":")
        no = self.choice()
        return np.where(first, yes, no)

    def comparison(self) -> Any:
        first = self.sum()
        sign = self.take("<", ">", "<=", ">=")
        if not sign:
            return first
        second = self.sum()
        return {"<": first < second, ">": first > second, "<=": first <= second, ">=": first >= second}[sign]

    def sum(self) -> Any:
        value = -self.product() if self.take("-") else self.product()
        while sign := self.take("+", "-"):
            value = value + self.product() if sign == "+" else value - self.product()
        return value

    def product(self) -> Any:
        value = self.together()
        while sign := self.take("*", "/"):
            value = value * self.together() if sign == "*" else value / self.together()
        return value

    def together(self) -> Any:
        """Factors that stand beside each other."""
        value = self.power()
        while self.next() and (self.next()[0].isalnum() or self.next() == "(" or self.opens_bars()):
            value = value * self.power()
        return value

    def opens_bars(self) -> bool:
        return self.next() == "|" and not self.is_in_bars

    def power(self) -> Any:
        base = self.components()
        return base ** (-self.power() if self.take("-") else self.power()) if self.take("^") else base

    def components(self) -> Any:
        value = self.atom()
        while self.take("."):
            letters = (self.left.pop(0) if self.left else "?").translate(_COLOURS)
            if np.ndim(value) < 3 or set(letters) - set(_COMPONENTS):
                raise NotMathematics(f"there is no .{letters}")
            picked = [value[_COMPONENTS.index(c)] for c in letters]
            value = picked[0] if len(picked) == 1 else np.stack(picked)
        return value

    def several(self, end: str) -> tuple[Any, ...]:
        found = [self.choice()]
        while self.take(","):
            found.append(self.choice())
        self.need(end)
        return tuple(found)

    def atom(self) -> Any:
        token = self.next()
        if self.take("("):
            found = self.several(")")
            return found[0] if len(found) == 1 else _together(found)
        if self.take("|"):
            self.is_in_bars = True
            value = self.choice()
            self.need("|")
            self.is_in_bars = False
            return _length(np.asarray(value))
        if token and token[0].isdigit():
            return np.float64(self.left.pop(0))
        for count in (3, 2, 1):
            name = " ".join(self.left[:count])
            if name in FUNCTIONS and self.left[1:2] == ["("]:
                del self.left[:2]
                return FUNCTIONS[name](*self.several(")"))
            if name in self.names:
                del self.left[:count]
                found = self.names[name]
                return found() if callable(found) else found
        raise NotMathematics(f"{token!r} is not known")


def value_of(text: list[str], names: Mapping[str, Any]) -> Any:
    """What some tokens are worth; ``names`` are values, or functions that give one."""
    reader = _Reader(list(text), names)
    found = reader.choice()
    if reader.left:
        raise NotMathematics(f"{reader.left} is left over")
    return found


def _split(found: list[str], at: str) -> list[list[str]]:
    """Tokens between separators that stand in no bracket."""
    parts: list[list[str]] = [[]]
    depth = 0
    for token in found:
        depth += (token == "(") - (token == ")")
        if token == at and depth == 0:
            parts.append([])
        else:
            parts[-1].append(token)
    return parts


@dataclass(frozen=True)
class Line:
    """A line in parts: definitions by name, and values in order with what stands before each (an output or a choice)."""

    definitions: Mapping[str, list[str]]
    values: tuple[tuple[str, list[str]], ...]

    def worth(self, names: Mapping[str, Any]) -> list[tuple[str, Any]]:
        """Each value by the names given; ``that`` is the value before."""
        known = dict(names)
        for name, text in self.definitions.items():
            known[name] = lambda text=text: value_of(text, known)
        found: list[tuple[str, Any]] = []
        for before, text in self.values:
            found.append((before, value_of(text, known)))
            known["that"] = found[-1][1]
        return found


def read_line(text: str, outputs: list[str], choices: list[str]) -> Line:
    """A Formula line for a node of such outputs (lower case) and choices; NotMathematics where it is words."""
    definitions: dict[str, list[str]] = {}
    values: list[tuple[str, list[str]]] = []
    # A sentence after a full stop is for people; a point in a number or before a component is none.
    for part in _split(tokens(re.split(r"\.(?:\s+[A-Z]|$)", text)[0]), ";"):
        for item in _split(part, ","):
            name = " ".join(item[: item.index("=")]) if "=" in item else ""
            chosen = " ".join(item[: item.index(":")]) if ":" in item and "?" not in item[: item.index(":")] else ""
            if chosen and chosen not in choices:
                raise NotMathematics(f"{chosen} is no choice")
            if name:
                definitions[name.lower() if name.lower() in outputs else name] = item[item.index("=") + 1 :]
            if name.lower() in outputs:
                values.append((name.lower(), item[item.index("=") + 1 :]))
            elif name:
                continue
            else:
                values.append((chosen, item[item.index(":") + 1 :] if chosen else item))
    return Line(definitions, tuple(values))
