"""What a step is: one decorated function. Its signature gives what can be set, its docstring the help."""

import inspect
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Union, get_args, get_origin

from velvet_moth.core.catalogue.settings import Setting, whole
from velvet_moth.core.making.layer import Canvas, Layer

# Gives a picture at the size it is needed in.
Supply = Callable[[Canvas], Layer]


@dataclass(frozen=True)
class PlacedTile:
    """A tile as a step gets it: for each map that is set a picture, or one value all over."""

    name: str
    maps: Mapping[str, Union[Supply, tuple[float, ...]]]


SEED = whole(0, 9999, "another number is another picture of the same kind")


@dataclass(frozen=True)
class Step:
    """A kind of step. ``layers`` are the names of what it makes, the first one what the next step goes on with.

    ``wrong`` says why its settings do not go together; empty where they do.
    """

    key: str
    name: str
    group: str
    help: str
    settings: Mapping[str, Setting]
    layers: tuple[str, ...]
    run: Callable[..., Any] = field(repr=False)
    wrong: Callable[[Mapping[str, Any]], str] = field(repr=False, default=lambda values: "")

    @property
    def begins(self) -> bool:
        """Whether it needs no picture to begin with."""
        return all(s.kind != "picture" or s.optional for s in self.settings.values())


STEPS: dict[str, Step] = {}
GROUPS = ("Begin", "Shapes", "Adjust", "Height", "Combine", "Sets")


def step(
    name: str,
    group: str,
    layers: tuple[str, ...] = ("picture",),
    wrong: Callable[[Mapping[str, Any]], str] = lambda values: "",
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Declares a step. The function takes the canvas and its settings, and gives a Layer or one for each name."""

    def declare(function: Callable[..., Any]) -> Callable[..., Any]:
        key = function.__name__
        if key in STEPS or group not in GROUPS or not function.__doc__:
            raise TypeError(f"The step {key} is declared twice, lacks its help, or names no known group.")
        settings: dict[str, Setting] = {}
        for parameter in list(inspect.signature(function).parameters.values())[1:]:
            if get_origin(parameter.annotation) is not Annotated:
                raise TypeError(f"{key}: {parameter.name} says nothing of what it takes.")
            declared: Setting = get_args(parameter.annotation)[1]
            has_default = parameter.default is not inspect.Parameter.empty
            default = parameter.default if has_default else declared.default
            settings[parameter.name] = replace(declared.named(parameter.name), default=default)
            unfit = settings[parameter.name].check(parameter.default) if has_default else ""
            if unfit:
                raise TypeError(f"{key}: the default of {parameter.name} does not fit. {unfit}")
        STEPS[key] = Step(
            key,
            name,
            group=group,
            help=inspect.cleandoc(function.__doc__),
            settings=settings,
            layers=layers,
            run=function,
            wrong=wrong,
        )
        return function

    return declare


def made(found: Step, canvas: Canvas, values: Mapping[str, Any]) -> dict[str, Layer]:
    """What a step gives, by the names of its layers."""
    result = found.run(canvas, **values)
    return dict(zip(found.layers, (result,) if isinstance(result, Layer) else result, strict=True))
