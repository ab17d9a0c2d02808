"""What a dialect declares: everything that languages for shaders spell in different ways."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from velvet_moth.core.language.types import TEXTURE, Type


@dataclass(frozen=True)
class EntryText:
    """What an entry point for pixels is made of.

    ``given`` are the types by name of what comes from vertices, in the order of their locations; ``blocks`` are structures by the
    name of the constant that holds one; ``targets`` is the number of targets, which the ``lines`` set as ``target_0`` and so on.
    """

    given: Mapping[str, str]
    blocks: Mapping[str, str]
    targets: int
    lines: Sequence[str]

    @property
    def body(self) -> str:
        """The statements, a line each."""
        return "".join(f"  {line}\n" for line in self.lines)


@dataclass(frozen=True, eq=False, kw_only=True)
class Dialect:
    """One language, as patterns for ``str.format``; the printer and the rules of the primitives fill them in.

    Declarations are as in C where a language says nothing else.

    - ``types`` names the types; ``wide`` is a value of a type in every component.
    - ``local``, ``unset`` and ``private`` declare a value of a function, one that is set later, and one that all functions see.
    - ``function`` and ``procedure`` are the heads of functions with one result and with several, which go through an ``out``:
      as a parameter, as the argument of a call, and as what is set inside.
    - ``member`` is a line of a structure; ``structure`` a whole one.
    - ``functions`` gives own names of functions by GLSL's. ``has_overloads``: functions of other types may have one name;
      ``mixes_widths``: built-in functions take a number beside vectors.
    - ``chosen`` is one of two by a yes or no: width, condition, yes, no; ``where`` by comparing two values, in each component: width, operator, both, yes, no.
    - ``sample`` and ``size`` read a texture and its pixels; ``along_x`` and ``along_y`` are differences to the next pixel on the right
      and upwards; ``between_rows`` is the latter in whichever way rows are counted.
    - ``cell_random`` is the function of that name (see ``core/base/hashing.py``).
    - ``texture`` declares one with its sampler: name, and number among all, from 0; ``texture_parameter`` and ``texture_argument``
      hand both over to a function.
    - ``switch`` declares a yes or no that is settled where the text is built: name, number among all, value; ``switch_name`` is how such
      names are written.
    - ``reduced`` declares a value of a function that a device may hold with fewer bits; None where a language leaves no such choice.
    - ``entry`` is an entry point for pixels, whose ``entry_name`` is fixed where a language wants it so; in it, ``front`` says whether the front is seen, and ``place`` where the pixel is, from the
      lower left, for a screen of a size in pixels.
    - ``suffix`` is that of a file; ``before`` are lines at the very beginning of a text.
    - ``further`` are functions that patterns here rely on, by name.
    """

    key: str
    name: str
    types: Mapping[Type, str]
    wide: str
    local: str = "{type} {name} = {value};"
    unset: str = "{type} {name};"
    private: str
    parameter: str = "{type} {name}"
    function: str = "{type} {name}({parameters})"
    procedure: str = "void {name}({parameters})"
    out_parameter: str = "out {type} {name}"
    out_argument: str = "{name}"
    out_target: str = "{name}"
    member: str = "{type} {name};"
    structure: str = "struct {name} {{\n{members}\n}};"
    chosen: Callable[[int, str, str, str], str]
    where: Callable[[int, str, str, str, str, str], str]
    sample: str
    size: str
    along_x: str
    along_y: str
    between_rows: str
    cell_random: str
    texture: str
    texture_parameter: str
    texture_argument: str
    switch: str = "#ifndef {name}\n#define {name} {value}\n#endif"
    reduced: str | None
    front: str
    place: str
    entry: Callable[[EntryText], str]
    suffix: str
    before: tuple[str, ...] = ()
    switch_name: Callable[[str], str] = str.upper
    entry_name: str = ""
    functions: Mapping[str, str] = field(default_factory=dict)
    has_overloads: bool = True
    mixes_widths: bool = True
    further: Mapping[str, str] = field(default_factory=dict)

    def typed(self, kind: Type, name: str) -> str:
        """A parameter of a function."""
        return (
            self.texture_parameter.format(name=name)
            if kind is TEXTURE
            else self.parameter.format(type=self.types[kind], name=name)
        )

    def handed(self, kind: Type, text: str) -> str:
        """An argument of a call."""
        return self.texture_argument.format(name=text) if kind is TEXTURE else text

    def called(self, name: str) -> str:
        """What a function that GLSL has is called."""
        return self.functions.get(name, name)

    def helper(self, name: str, *types: Type) -> str:
        """What a function of our own is called for such arguments."""
        return name if self.has_overloads else "_".join((name, *(str(t.width) for t in types)))

    def widened(self, text: str, given: Type, wanted: Type) -> str:
        """A value in every component of a type; as it is where it has that type."""
        return text if given is wanted else self.wide.format(type=self.types[wanted], value=text)

    def number(self, text: str, wanted: Type) -> str:
        """A number beside a value of a type, as an argument of a built-in function."""
        return text if self.mixes_widths or wanted.width == 1 else self.wide.format(type=self.types[wanted], value=text)

    def defined(self, result: Type, name: str, parameters: Mapping[str, Type], text: str) -> str:
        """A function of one line."""
        listed = ", ".join(self.typed(kind, name) for name, kind in parameters.items())
        head = self.function.format(type=self.types[result], name=name, parameters=listed)
        return f"{head} {{ return {text}; }}"
