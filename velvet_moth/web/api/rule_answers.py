"""What answers about rules of placing and throws hold."""

from typing_extensions import TypedDict

from velvet_moth.core.base.points import Axis
from velvet_moth.core.emitting.emitter import EmitterSource
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.throwing.curve import RuleCurve
from velvet_moth.core.throwing.placing import Made, Seen, Throw
from velvet_moth.core.workbench.judging import Measured, Verdict


class NamedRule(TypedDict):
    id: int
    name: str


class RuleList(TypedDict):
    rules: list[NamedRule]


class RulePartState(TypedDict):
    """A part of every rule; the heights of a ``fixed`` one stay as they are."""

    name: str
    words: str
    across: Axis
    up: Axis
    first: RuleCurve
    fixed: bool


class RuleState(TypedDict):
    """A rule with the curve of every part; ``changed_parts`` differ from the first rule."""

    id: int
    revision: int
    name: str
    curves: dict[str, RuleCurve]
    changed_parts: list[str]
    undo: str
    redo: str


class SplashState(TypedDict):
    """What came of a throw: its decals, where something spurts, and how they were found."""

    throw: Throw
    decals: list[Decal]
    sources: list[EmitterSource]
    made: list[Made]
    seen: list[Seen]
    words: list[str]


class Splashes(TypedDict):
    splashes: list[SplashState]


class JudgementState(TypedDict):
    """What many throws have shown. ``throws`` are those of the sheet, row by row from the upper left, ``columns`` in a row."""

    id: str
    verdicts: list[Verdict]
    throws: list[Throw]
    measured: list[Measured]
    columns: int
    tile: int
    rule: str
