"""Scenes: what is looked at, from where, in which light, before what; and all that is the same over a picture of one."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.tracks.targets import LOOKS, Stood, stood_with
from velvet_moth.core.document.values import Value
from velvet_moth.core.emitting.emitter import IDLE_INPUTS, NO_EMITTER, Emitter, EmitterSource, seconds_seen
from velvet_moth.core.emitting.emitter import reach_of as reach_of_emitter
from velvet_moth.core.emitting.spurting import sources_of
from velvet_moth.core.forms import AS_MADE, Pose, form, form_kind, is_form, posed
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.forms.view import Camera, Rig, view_of_box
from velvet_moth.core.language.expr import Array, Expr
from velvet_moth.core.language.inputs import MOST_LAMPS
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.backdrop import BACKDROP, even, synthetic_backdrop
from velvet_moth.core.lighting.decal_buffers import EMPTY_BUFFERS
from velvet_moth.core.lighting.decals import NO_DECAL, NO_DECAL_INPUTS, Decal
from velvet_moth.core.lighting.environment import ENVIRONMENT, diffuse_harmonics, environment_map, imported_map
from velvet_moth.core.lighting.harmonics import harmonics_inputs
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.lighting.shadow import SUN_DEPTH, nothing_casts, reach_of, sun_axes
from velvet_moth.core.lighting.shown import Appearance
from velvet_moth.core.lighting.spread import AT_ONCE, Spread
from velvet_moth.core.render.tracing.instancing import instanced, nothing_of
from velvet_moth.core.scenery.backdrops import BACKDROPS, backdrop


@dataclass(frozen=True)
class PartSurface:
    """A part of the backdrop in another surface: ``light_behind`` of a graph's surface, bare and as decals leave it,

    with the values and textures of that graph.
    """

    part: str
    light: Expr
    under_decals: Expr
    values: tuple[tuple[tuple[str, str], Value], ...] = ()
    textures: tuple[tuple[Hashable, Texture], ...] = ()


@dataclass(frozen=True, eq=False)
class Spurt:
    """What spurts where decals are thrown: the form and emitter of another graph, how it looks, its values and textures."""

    look: Appearance
    form: Mesh
    emitter: Emitter
    values: Mapping[tuple[str, str], Value]
    textures: Mapping[Hashable, Texture]


@dataclass(frozen=True)
class Scene:
    """What is looked at, from where, in which light, when, and what lies behind."""

    form: str = "mooring"
    camera: Camera = field(default_factory=Camera)
    rig: Rig = field(default_factory=Rig)
    time: float = 0.0
    backdrop: str = ""
    decals: tuple[Decal, ...] = ()
    spread: Spread = AT_ONCE
    environment_texture: Texture | None = None
    part_surfaces: tuple[PartSurface, ...] = ()
    pose: Pose = AS_MADE
    brought: Mesh | None = None
    emitter: Emitter = NO_EMITTER
    sources: tuple[EmitterSource, ...] = ()
    spurt: Spurt | None = None

    @property
    def form_itself(self) -> Mesh:
        """What is looked at, as it is made: the form, or a mesh that was brought in in its place."""
        return form(self.form) if self.brought is None else self.brought

    @property
    def mesh(self) -> Mesh:
        """What is looked at, as it stands in the world."""
        return posed_form(self.form_itself, self.pose)

    @property
    def environment(self) -> Texture:
        """The rig's surroundings, or those of a picture in their place."""
        return (
            environment_map(self.rig.key)
            if self.environment_texture is None
            else imported_map(self.environment_texture)
        )

    @classmethod
    def of(cls, key: str, rig: str = "open_dock", behind: str = "") -> "Scene":
        """A form from where it is first seen, under a rig as it first stands, before a backdrop."""
        kept = BACKDROPS.get(behind)
        stood = kept if kept and not kept.is_own else (form_kind(key) if is_form(key) else None)
        view = stood.view if stood else Camera()
        decals = BACKDROPS[behind].decals if behind in BACKDROPS else ()
        return cls(key, view, RIGS[rig].rig if rig in RIGS else Rig(), 0.0, behind, decals)

    @property
    def still(self) -> "Scene":
        """The scene as a backdrop depends on it, which stands still unless a surface of its parts moves."""
        return replace(self, time=self.time if self.part_surfaces else 0.0, decals=())

    @classmethod
    def of_graph(cls, graph: Graph, brought: Mesh | None = None, variant: str = "", time: float = 0.0) -> "Scene":
        """The scene a graph is judged in at a time (seconds); ``brought`` is the mesh it stands on, where it does."""
        scene = replace(cls.of(graph.form, graph.rig, graph.backdrop), time=time)
        return scene.judging(graph, brought).keyed(graph, variant)

    def keyed(self, graph: Graph, variant: str = "", looks_on: bool = False) -> "Scene":
        """The scene as the keys of a variant have it at its time; with ``looks_on`` the eye and the light stay where they are."""
        values = graph.keyed_values(variant, self.time) if graph.tracks or graph.variants else {}
        if looks_on:
            values = {target: value for target, value in values.items() if target not in LOOKS}
        own = self.sources[0] if self.sources else None
        stood = stood_with(Stood(self.camera, self.rig, self.decals, own), values)
        sources = self.sources if stood.source is None else (stood.source,)
        return replace(self, camera=stood.camera, rig=stood.rig, decals=stood.decals, sources=sources)

    def judging(self, graph: Graph, brought: Mesh | None = None) -> "Scene":
        """The scene with a graph's decals and pose, and with a mesh that was ``brought`` in in the place of the form.

        From where that is seen whole, unless it stands before a backdrop.
        """
        stands = self.backdrop and not backdrop(self.backdrop).is_own
        camera = self.camera if brought is None or stands else view_of_box(*brought.box)
        camera = replace(camera, distance=camera.distance * graph.pose.largest)
        made = replace(
            self,
            camera=camera,
            decals=decals_of(graph),
            spread=graph.spread,
            pose=graph.pose,
            brought=brought,
            emitter=graph.emitter,
            sources=(graph.emitter.own_source,) if graph.emitter.is_on else (),
        )
        return made if self.backdrop or not graph.emitter.is_on else replace(made, camera=first_view_of(made))


def parts_behind(scene: Scene) -> Mapping[str, Mesh]:
    """The parts of what lies behind, which may be the form itself."""
    kept = backdrop(scene.backdrop)
    return dict.fromkeys(kept.parts(), scene.mesh) if kept.is_own else kept.parts()


def mesh_behind(scene: Scene) -> Mesh:
    """All of what lies behind as one."""
    kept = backdrop(scene.backdrop)
    return scene.mesh if kept.is_own else kept.mesh()


def shown_mesh(scene: Scene) -> Mesh:
    """What is drawn of a scene: the form as it stands, or all instances that there are at its time."""
    if not scene.emitter.is_on:
        return scene.mesh
    return _instances(scene.mesh, scene.emitter, scene.sources, scene.time, tuple(scene.camera.position))


@lru_cache(maxsize=8)
def _instances(
    mesh: Mesh, emitter: Emitter, sources: tuple[EmitterSource, ...], time: float, eye: tuple[float, ...]
) -> Mesh:
    return instanced(mesh, emitter, sources, time, np.array(eye)) or nothing_of(mesh)


def spurting(scene: Scene) -> Scene | None:
    """What spurts in a scene as a scene of its own, before the same backdrop; None where nothing does."""
    sources = sources_of(scene.decals)
    if scene.spurt is None or not sources:
        return None
    found = scene.spurt
    return replace(
        scene, brought=found.form, pose=AS_MADE, emitter=found.emitter, sources=sources, decals=(), spurt=None
    )


def first_view_of(scene: Scene) -> Camera:
    """The eye that sees an emitter's instances whole, at a moment at which there are many."""
    then = replace(scene, time=seconds_seen(scene.emitter), camera=Camera())
    return view_of_box(*shown_mesh(then).box)


@lru_cache(maxsize=32)
def posed_form(mesh: Mesh, pose: Pose) -> Mesh:
    """A form as it stands in the world."""
    return posed(mesh, pose)


def first_moment(graph: Graph) -> float:
    """The moment (s) at which there is something to see of a graph: 0, unless its instances or decals come later."""
    if graph.emitter.is_on and not KINDS[graph.kind].is_projected:
        moment = seconds_seen(graph.emitter)
    else:
        begins = max((decal.born for decal in graph.decals), default=0.0)
        moment = begins + (1.0 if graph.spread.speed > 0.0 and graph.decals else 0.0)
    return round(min(moment, graph.timing.length), 2)


def decals_of(graph: Graph) -> tuple[Decal, ...]:
    """Where the decals of a graph lie: in its own places, or those of its backdrop."""
    return graph.decals or (BACKDROPS[graph.backdrop].decals if graph.backdrop in BACKDROPS else ())


def _number(value: float) -> Array:
    return np.array(value, dtype=np.float32)


def _vector(value: tuple[float, ...] | Floats) -> Array:
    return np.array(value, dtype=np.float32).reshape(-1, 1, 1)


def rig_inputs(rig: Rig, time: float, around: Texture | None = None) -> dict[str, Array]:
    """The per-draw inputs of a rig, as arrays of size 1; ``around`` is another filtered map than its own."""
    right, up = sun_axes(np.array(rig.sun_direction))
    return {
        "time": _number(time),
        "sun_direction": _vector(rig.sun_direction),
        "sun_colour": _vector(rig.sun_colour),
        "sun_right": _vector(tuple(right)),
        "sun_up": _vector(tuple(up)),
        "sun_half": _number(1.0),
        **lamp_inputs(rig),
        **harmonics_inputs(diffuse_harmonics(around or environment_map(rig.key))),
        "rig_turn": _number(rig.rig_turn),
        "exposure": _number(rig.exposure),
    }


def lamp_inputs(rig: Rig) -> dict[str, Array]:
    """Where the lamps of a rig hang and how bright they are; those that are not there are dark."""
    lamps = [(place, lamp.colour) for place, lamp in zip(rig.lamp_places, rig.lamps, strict=True)]
    lamps += [((0.0, 10.0, 0.0), (0.0, 0.0, 0.0))] * (MOST_LAMPS - len(lamps))
    return {
        f"lamp_{part}_{number}": _vector(value)
        for number, (place, colour) in enumerate(lamps, 1)
        for part, value in (("place", place), ("colour", colour))
    }


def camera_inputs(camera: Camera, width: int, height: int) -> dict[str, Array]:
    """The per-draw inputs of an eye."""
    right, up, _ = camera.axes
    return {
        "camera_position": _vector(tuple(camera.position)),
        "camera_right": _vector(tuple(right)),
        "camera_up": _vector(tuple(up)),
        "lens": _vector(camera.lens(width, height)),
    }


def form_inputs(mesh: Mesh) -> dict[str, Array]:
    """The per-draw inputs of a form."""
    low, high = mesh.own.box
    return {
        "form_low": _vector(low),
        "form_high": _vector(high),
        "form_scale": _vector(mesh.scale),
        **IDLE_INPUTS,
        **NO_DECAL_INPUTS,
    }


def draw_inputs(scene: Scene, mesh: Mesh, size: tuple[int, int]) -> dict[str, Array]:
    """Everything that is the same all over a picture of ``size`` (width, height)."""
    half = {"sun_half": _number(sun_half(scene))}
    return {
        **rig_inputs(scene.rig, scene.time, scene.environment),
        **half,
        **form_inputs(mesh),
        **scene.spread.inputs,
        **camera_inputs(scene.camera, *size),
    }


def sun_half(scene: Scene) -> float:
    """Half the side of the picture that the sun sees of a scene, in metres."""
    own = reach_of(scene.form_itself.box) * scene.pose.largest
    if scene.emitter.is_on:
        own = max(
            reach_of_emitter(scene.emitter, source, own) for source in scene.sources or (scene.emitter.own_source,)
        )
    return max(own, reach_of(mesh_behind(scene).box)) if scene.backdrop else own


@lru_cache(maxsize=1)
def _empty_buffers() -> Mapping[Hashable, Texture]:
    """Decal buffers where no decal is; the same textures every time, so that what was made with them is found again."""
    return {key: even(*value) for key, value in EMPTY_BUFFERS.items()}


def stage_textures(rig: str = "open_dock") -> dict[Hashable, Texture]:
    """What stands in for a scene where there is none: in swatches and tests."""
    return {
        ENVIRONMENT: environment_map(rig),
        BACKDROP: synthetic_backdrop(),
        SUN_DEPTH: nothing_casts(),
        **_empty_buffers(),
        **NO_DECAL.textures,
    }
