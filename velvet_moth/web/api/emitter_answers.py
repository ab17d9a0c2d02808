"""What answers about emitters hold."""

from typing_extensions import TypedDict

from velvet_moth.core.emitting.emitter import EmitterSource
from velvet_moth.core.forms.view import Camera


class InstancePass(TypedDict):
    """The shaders that paint some numbers of each instance, and the textures they go to."""

    vertex: str
    fragment: str
    textures: list[str]


class EmitterState(TypedDict):
    """What the stage draws of an emitter: its instances of each source, what its passes read, its curves over life as pixels

    (float32 RGBA in base64, ``width`` by ``height``), where they come from, how far from the origin they are at most (m), and the
    eye that sees them whole.
    """

    passes: list[InstancePass]

    slots: int
    inputs: dict[str, list[float]]
    curves: str
    width: int
    height: int
    sources: list[EmitterSource]
    reach: float
    view: Camera


class SpurtRead(TypedDict):
    """The graph that spurts where this one's decals are thrown, and what tells its states apart."""

    graph: str
    title: str
    stamp: str


class SpurtChoice(TypedDict):
    graph: str
    title: str


class SpurtChoices(TypedDict):
    graphs: list[SpurtChoice]
