"""What a step is: one decorated function. Its signature gives what can be set, its docstring the help."""

import inspect
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, get_args, get_origin

from velvet_moth.core.catalogue.settings import Setting


def _never(values: Mapping[str, Any]) -> str:
    return ""


@dataclass(frozen=True)
class Step:
    """A kind of step. ``layers`` are the names of what it makes, the first one what the next step goes on with; ``gives``
    is the kind of each layer, which is that of the settings it can be taken for.

    One that ``reshapes`` changes what all steps below it work on. ``wrong`` says why its settings do not go together;
    empty where they do.
    """

    key: str
    name: str
    group: str
    help: str
    settings: Mapping[str, Setting]
    gives: Mapping[str, str]
    reshapes: bool = False
    run: Callable[..., Any] = field(repr=False, default=lambda: None)
    wrong: Callable[[Mapping[str, Any]], str] = field(repr=False, default=_never)

    @property
    def layers(self) -> tuple[str, ...]:
        """The names of what it makes."""
        return tuple(self.gives)

    @property
    def begins(self) -> bool:
        """Whether it needs nothing of the steps above it."""
        return all(not s.takes_steps or s.optional for s in self.settings.values())


@dataclass(frozen=True)
class Family:
    """Steps that work on the same, and the words for what their stacks make.

    ``layer`` is the name and the kind of what a step makes where it says nothing else; outputs are made of that kind alone,
    and ``instead`` says what helps with any other.
    ``noun`` is what comes of a stack, kept in one of ``depths``; ``places`` are names for where it goes, where there are
    only so many. Without a ``fewest`` of 1 a stack may be empty.
    """

    noun: str
    groups: tuple[str, ...]
    layer: str
    depths: tuple[str, ...]
    most_outputs: int
    places: tuple[str, ...] = ()
    fewest: int = 1
    instead: str = "Choose another layer."
    steps: dict[str, Step] = field(default_factory=dict)

    def step(
        self,
        name: str,
        group: str,
        layers: tuple[str, ...] | Mapping[str, str] = (),
        reshapes: bool = False,
        wrong: Callable[[Mapping[str, Any]], str] = _never,
    ) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        """Declares a step. The function takes what it works on and its settings, and gives a layer or one for each name.

        ``layers`` are their names, or their kinds by name.
        """
        gives = layers if isinstance(layers, Mapping) else dict.fromkeys(layers or (self.layer,), self.layer)

        def declare(function: Callable[..., Any]) -> Callable[..., Any]:
            key = function.__name__
            if key in self.steps or group not in self.groups or not function.__doc__:
                raise TypeError(f"The step {key} is declared twice, lacks its help, or names no known group.")
            self.steps[key] = Step(
                key,
                name,
                group=group,
                help=inspect.cleandoc(function.__doc__),
                settings=_settings_of(function),
                gives=gives,
                reshapes=reshapes,
                run=function,
                wrong=wrong,
            )
            return function

        return declare


def _settings_of(function: Callable[..., Any]) -> dict[str, Setting]:
    settings: dict[str, Setting] = {}
    for parameter in list(inspect.signature(function).parameters.values())[1:]:
        where = f"{function.__name__}: {parameter.name}"
        if get_origin(parameter.annotation) is not Annotated:
            raise TypeError(f"{where} says nothing of what it takes.")
        declared: Setting = get_args(parameter.annotation)[1]
        has_default = parameter.default is not inspect.Parameter.empty
        default = parameter.default if has_default else declared.default
        settings[parameter.name] = replace(declared.named(parameter.name), default=default)
        unfit = settings[parameter.name].check(parameter.default) if has_default else ""
        if unfit:
            raise TypeError(f"The default of {where} does not fit. {unfit}")
    return settings
