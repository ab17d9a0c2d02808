"""What nodes give over whole arrays, against their formulas written anew in double precision."""

import unittest
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.language.expr import Expr, constant, sampler, uniform
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import BOOL, P_NUMBER, float_of_width
from velvet_moth.core.lighting.backdrop import BACKDROP, even
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.shadow import SUN_DEPTH, nothing_casts
from velvet_moth.core.render.swatches import SIZE, dome, draw_inputs

Doubles = NDArray[np.float64]
DRAW = np.random.default_rng(8)
DOME = {name: values.astype(np.float64) for name, values in dome().items()}
U, V = DOME["uv"]
NORMAL, PLACE = DOME["normal"], DOME["position"]
TANGENT = DOME["tangent"][:3]
# Where the dome is not seen edge-on, so that neighbouring pixels lie near each other.
MIDDLE = np.hypot(U - 0.5, V - 0.5) < 0.3


def drawn(width: int = 1, low: float = -2.0, high: float = 2.0) -> Doubles:
    """Random values for every pixel, (rows, columns) or (width, rows, columns)."""
    shape = (SIZE, SIZE) if width == 1 else (width, SIZE, SIZE)
    return DRAW.uniform(low, high, shape).astype(np.float32).astype(np.float64)


def outputs(
    key: str,
    settings: Mapping[str, Any] | None = None,
    textures: Mapping[str, Texture] | None = None,
    ground: Mapping[str, Any] | None = None,
    **given: Any,
) -> dict[str, Doubles]:
    """All outputs of a node by their keys. Arrays, numbers and tuples are its inputs; the others carry their defaults.

    ``ground`` are surface inputs in the place of the dome's; ``textures`` are by the input's key.
    """
    kind = CATALOGUE[key]
    values: dict[str, Any] = {}
    inputs: dict[str, Any] = {}
    for name, port in kind.inputs.items():
        if port.type.name == "texture":
            inputs[name] = sampler(name)
        elif name not in given:
            inputs[name] = surface(port.source) if port.source else constant(*port.default)
        elif isinstance(given[name], Surface):
            inputs[name] = given[name]
        elif np.ndim(given[name]) >= 2:
            array = np.asarray(given[name])
            values[name] = array if array.dtype == bool else array.astype(np.float32)
            type_ = BOOL if array.dtype == bool else float_of_width(1 if array.ndim == 2 else len(array))
            inputs[name] = uniform(name, type_)
        else:
            inputs[name] = constant(*np.atleast_1d(given[name]))
    chosen = tuple((name, (settings or {}).get(name, s.default)) for name, s in kind.settings.items())
    around = {**dome(), **draw_inputs(), "time": np.float32(2.0).reshape(1, 1)}
    around |= {name: np.asarray(values, dtype=np.float32) for name, values in (ground or {}).items()}
    made = kind.build(inputs, chosen)
    plain: dict[str, Expr] = {}
    for name, built in made.items():
        plain |= {f"{name}.{c}": e for c, e in built.channels.items()} if isinstance(built, Surface) else {name: built}
    found = evaluate(list(plain.values()), Bindings(around, values, dict(textures or {})))
    return {name: np.asarray(value, dtype=np.float64) for name, value in zip(plain, found, strict=True)}


def unit(vector: Doubles) -> Doubles:
    return np.asarray(vector / np.linalg.norm(vector, axis=0))


def dot(a: Doubles, b: Doubles) -> Doubles:
    return np.asarray(np.sum(a * b, axis=0))


def smooth(low: Any, high: Any, value: Any) -> Doubles:
    t = np.clip((value - low) / (high - low), 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def axes() -> tuple[Doubles, Doubles, Doubles]:
    """Tangent, side and normal of the dome, square to each other."""
    along = unit(TANGENT - NORMAL * dot(NORMAL, TANGENT))
    return along, np.cross(NORMAL, along, axis=0) * DOME["tangent"][3], NORMAL


def on_axes(world: Doubles) -> Doubles:
    return np.stack([dot(world, axis) for axis in axes()])


def normal_of(places: Doubles) -> Doubles:
    """The unit normal of a sheet of points seen from +z, by differences over two pixels."""
    across, up = np.gradient(places, axis=2), np.gradient(places, axis=1)
    return unit(np.cross(across, up, axis=0))


def bumpy(size: int = 16) -> Texture:
    """A texture of one level whose four channels are hills that repeat."""
    at = (np.arange(size) + 0.5) / size * 2 * np.pi
    x, y = np.meshgrid(at, at)
    hills = [np.sin(x + c) * np.cos(y - c) * 0.4 + 0.5 for c in range(4)]
    return Texture((np.stack(hills).astype(np.float32),))


def read(texture: Texture, u: Doubles, v: Doubles) -> Doubles:
    """Between the pixels of a level that repeats, as OpenGL ES 3.0 section 3.8.10 tells."""
    level = texture.levels[0].astype(np.float64)
    _, rows, columns = level.shape
    x, y = u * columns - 0.5, v * rows - 0.5
    total = np.zeros((4, *np.shape(u)))
    for dx in (0, 1):
        for dy in (0, 1):
            share = (1 - np.abs(x - np.floor(x) - dx)) * (1 - np.abs(y - np.floor(y) - dy))
            total += (
                level[:, ((np.floor(y) + dy) % rows).astype(int), ((np.floor(x) + dx) % columns).astype(int)] * share
            )
    return total


class FormulaCase(unittest.TestCase):
    def same(self, found: Doubles, expected: Any, within: float = 2e-6, where: Any = None) -> None:
        wide = np.broadcast_to(
            np.asarray(expected, dtype=np.float64), np.broadcast_shapes(found.shape, np.shape(expected))
        )
        off = np.abs(np.broadcast_to(found, wide.shape) - wide)
        self.assertLess(float((off if where is None else off[..., where]).max()), within)

    def table(self, formulas: Mapping[str, Callable[..., Any]], within: float = 2e-6, **ranges: Any) -> None:
        """Each node by its first output, on random values for all inputs that its formula names."""
        for key, formula in formulas.items():
            names = formula.__code__.co_varnames[: formula.__code__.co_argcount]
            given = {name: ranges[name]() if name in ranges else drawn() for name in names}
            with self.subTest(key):
                self.same(next(iter(outputs(key, **given).values())), formula(**given), within)


class Numbers(FormulaCase):
    def test_one_number_makes_another(self) -> None:
        self.table(
            {
                "absolute": lambda value: np.where(value < 0, -value, value),
                "sign_of": lambda value: (value > 0) * 1.0 - (value < 0) * 1.0,
                "fract": lambda value: value % 1,
                "floor": lambda value: value // 1,
                "ceiling": lambda value: -(-value // 1),
                "negate": lambda value: 0 - value,
                "round_off": lambda value, step: (value / step + 0.5) // 1 * step,
                "minimum": lambda a, b: np.where(a < b, a, b),
                "maximum": lambda a, b: np.where(a > b, a, b),
            },
            step=lambda: drawn(1, 0.3, 0.9),
        )
        for key, formula in (("minimum", np.minimum), ("maximum", np.maximum)):
            a, b = drawn(3), drawn(3)
            self.same(outputs(key, a=a, b=b)["result"], formula(a, b))

    def test_angles_are_turns(self) -> None:
        self.table(
            {
                "cosine": lambda value, frequency: np.cos(2 * np.pi * value * frequency),
                "tangent_of_angle": lambda turns: np.tan(2 * np.pi * turns),
                "arc_cosine": lambda value: np.degrees(np.arccos(np.clip(value, -1, 1))) / 360,
                "arc_sine": lambda value: np.degrees(np.arcsin(np.clip(value, -1, 1))) / 360,
                "angle_of": lambda x, y: np.angle(x + 1j * y) / (2 * np.pi),
            },
            within=2e-5,
            turns=lambda: drawn(1, -0.2, 0.2),
        )
        self.same(outputs("tangent_of_angle", turns=0.25)["value"], 0)
        self.same(outputs("angle_of", x=0.0, y=0.0)["value"], 0)

    def test_numbers_are_put_together_and_taken_apart(self) -> None:
        for key, inputs in (
            ("combine_two", "xy"),
            ("combine_three", "xyz"),
            ("combine_four", "xyzw"),
            ("to_colour", ("red", "green", "blue")),
        ):
            given = {name: drawn() for name in inputs}
            (found,) = outputs(key, **given).values()
            self.same(found, np.stack(list(given.values())))
        for key, name, width in (
            ("split_two", "vector", 2),
            ("split_three", "vector", 3),
            ("split_four", "vector", 4),
            ("split_colour", "colour", 3),
        ):
            whole = drawn(width)
            for found, part in zip(outputs(key, **{name: whole}).values(), whole, strict=True):
                self.same(found, part)
        vector, z = drawn(3), drawn()
        self.same(outputs("extend_pair", vector=vector[:2], z=z)["vector"], np.stack((*vector[:2], z)))
        for kept, parts in (("x and y", [0, 1]), ("x and z", [0, 2]), ("y and z", [1, 2])):
            self.same(outputs("shorten_triple", {"kept": kept}, vector=vector)["vector"], vector[parts])
        other = drawn(3)
        self.same(outputs("dot", a=vector, b=other)["value"], dot(vector, other), 5e-6)

    def test_answers(self) -> None:
        a, b = drawn() > 0, drawn() > 0
        self.same(outputs("either", a=a, b=b)["answer"], a | b)
        self.same(outputs("opposite", answer=a)["answer"], ~a)


class Coordinates(FormulaCase):
    def test_they_are_slanted_pushed_mirrored(self) -> None:
        slant, by, front = drawn(2), drawn(2, 0, 1), drawn() > 0
        self.same(outputs("shear", slant=slant)["uv"], np.stack((U + slant[0] * V, V + slant[1] * U)))
        pushed = np.stack((U, V)) + (by - 0.5) * 0.6
        self.same(outputs("push_uv", by=by, strength=0.3)["uv"], pushed)
        seen = outputs("mirror_back", ground={"is_front": front})["uv"]
        self.same(seen, np.stack((np.where(front, U, 1 - U), V)))

    def test_grids(self) -> None:
        found = outputs("cell_number", tiling=(3.0, 5.0))
        self.same(found["cell"], np.stack((U * 3 // 1, V * 5 // 1)))
        self.same(found["uv"], np.stack((U * 3 % 1, V * 5 % 1)))
        away = [np.minimum(c % 1, 1 - c % 1) for c in (U * 3, V * 5)]
        self.same(outputs("grid_distance", tiling=(3.0, 5.0))["distance"], np.minimum(*away))
        far = np.abs(U * 4 % 1 - 0.5)
        stripes = outputs("stripes", count=4.0, width=0.4, softness=0.2)["value"]
        self.same(stripes, 1 - smooth(0.1, 0.3, far), 2e-5)

    def test_stretches_of_time(self) -> None:
        times = drawn(1, 0, 40)
        found = outputs("loop", ground={"time": times}, length=3.0)
        self.same(found["value"], times / 3 % 1, 1e-5)
        self.same(found["round"], times // 3)

    def test_the_forms_own_numbers(self) -> None:
        self.same(outputs("object_position")["position"], DOME["object_position"])
        low, high = np.array([-2.0, 0, -1]).reshape(3, 1, 1), np.array([2.0, 0, 3]).reshape(3, 1, 1)
        inside = outputs("bounds_position", ground={"form_low": low, "form_high": high})["vector"]
        self.same(inside, np.stack((PLACE[0] / 4 + 0.5, np.full_like(U, 0.5), (PLACE[2] + 1) / 4)))
        data = np.array([0.1, 0.2, 0.3, 0.4]).reshape(4, 1, 1)
        for found, given in zip(
            list(outputs("instance_data", ground={"instance_data": data}).values())[:4], data, strict=True
        ):
            self.same(found, given)
        scale = np.array([1.0, 2.0, 0.5]).reshape(3, 1, 1)
        self.same(outputs("form_scale", ground={"form_scale": scale})["vector"], scale)
        front = drawn() > 0
        turned = outputs("form_normal", {"side": "towards the eye"}, ground={"is_front": front})["normal"]
        self.same(turned, np.where(front, NORMAL, -NORMAL))
        self.same(outputs("form_normal", ground={"is_front": front})["normal"], NORMAL)


class Directions(FormulaCase):
    def test_axes_there_and_back(self) -> None:
        given = unit(drawn(3))
        world = outputs("change_space", direction=given)["vector"]
        self.same(world, sum(part * axis for part, axis in zip(given, axes(), strict=True)), 1e-5)
        back = outputs("change_space", {"way": "world to tangent"}, direction=world)["vector"]
        self.same(back, given, 1e-5)

    def test_slopes(self) -> None:
        for facing, share in (("up", NORMAL[1]), ("down", -NORMAL[1]), ("sideways", 1 - np.abs(NORMAL[1]))):
            found = outputs("slope", {"facing": facing}, begins=0.2, ends=0.6)["value"]
            self.same(found, smooth(0.2, 0.6, share), 1e-5)

    def test_light_through(self) -> None:
        rig = draw_inputs()
        sun, colour = (rig[name].astype(np.float64) for name in ("sun_direction", "sun_colour"))
        view = unit(drawn(3))
        tint = np.array([0.35, 0.6, 0.1]).reshape(3, 1, 1)
        found = outputs("light_through", ground={"view_direction": view}, thin=0.7, spread=0.4, sharpness=2.0)["colour"]
        towards = np.clip(dot(view, -unit(sun + NORMAL * 0.4)), 0, 1) ** 2
        self.same(found, tint * 0.7 * colour * towards, 2e-5)

    def test_a_second_highlight_lies_along_the_strands(self) -> None:
        rig = draw_inputs()
        sun, colour = (rig[name].astype(np.float64) for name in ("sun_direction", "sun_colour"))
        view, (along, _, _) = unit(drawn(3)), axes()
        found = outputs(
            "strand_shine", ground={"view_direction": view}, shift=0.2, sharpness=30.0, colour=(1.0, 0.5, 0.2)
        )
        half = unit(view + np.broadcast_to(sun, view.shape))
        across = 1 - dot(unit(along + NORMAL * 0.2), half) ** 2
        lit = np.clip(dot(NORMAL, np.broadcast_to(sun, view.shape)) * 4, 0, 1)
        tint = np.array([1.0, 0.5, 0.2]).reshape(3, 1, 1)
        self.same(found["colour"], tint * colour * across**15 * lit, 1e-3)

    def test_a_cell_gives_any_number_of_random_numbers(self) -> None:
        """Each cell has one colour, its cell is whole, and its numbers have nothing to do with each other."""
        found = outputs("cell_noise", scale=12.0)
        cell, tone, tint = found["cell"], found["random"], found["random_colour"]
        np.testing.assert_array_equal(cell, np.round(cell))
        every = {tuple(c): [] for c in cell.reshape(2, -1).T}
        for place, values in zip(cell.reshape(2, -1).T, np.vstack((tone.ravel(), tint.reshape(3, -1))).T, strict=True):
            every[tuple(place)].append(values)
        for values in every.values():
            self.assertLess(np.ptp(values, axis=0).max(), 1e-6)
        means = np.array([values[0] for values in every.values()])
        self.assertGreater(len(means), 60)
        self.assertLess(np.abs(np.corrcoef(means.T) - np.eye(4)).max(), 0.35)

    def test_reliefs_are_the_normals_of_what_they_make(self) -> None:
        height = 0.3 * np.sin(PLACE[0] * 3) * np.cos(PLACE[1] * 2)
        sheets = {
            "bump": (PLACE + NORMAL * height * 0.5, {"height": height, "depth": 0.5}),
            "offset_normal": (PLACE + np.stack((height, 0 * height, -height)), {}),
        }
        sheets["offset_normal"][1]["offset"] = np.stack((height, 0 * height, -height))
        for key, (sheet, given) in sheets.items():
            with self.subTest(key):
                agrees = dot(outputs(key, **given)["normal"], on_axes(normal_of(sheet)))
                self.assertGreater(float(agrees[MIDDLE].min()), 0.99)
                flat = {name: np.zeros_like(value) for name, value in given.items() if name != "depth"}
                self.same(outputs(key, **flat)["normal"][2], 1, 5e-3, MIDDLE)

    def test_a_flat_face_is_square_to_its_pixels(self) -> None:
        found = outputs("face_normal")
        self.same(np.linalg.norm(found["world"], axis=0), 1, 1e-5, MIDDLE)
        # A pixel and its neighbours to the right and above, of which every second pixel's differences are taken.
        here, right, above = (DOME["moved_position"][:, s::2, t::2] for s, t in ((0, 0), (0, 1), (1, 0)))
        for side in (right - here, above - here):
            self.same(dot(found["world"][:, ::2, ::2], unit(side)), 0, 1e-4, MIDDLE[::2, ::2])
        self.same(found["normal"], on_axes(found["world"]), 1e-5)


class Behind(FormulaCase):
    def test_what_lies_behind(self) -> None:
        behind = {BACKDROP: even(0.2, 0.3, 0.4, 4.5)}
        depth = 4.5 - DOME["camera_distance"]
        self.same(outputs("colour_behind", None, behind)["colour"], np.array([0.2, 0.3, 0.4]).reshape(3, 1, 1))
        self.same(outputs("depth_fade", None, behind, over=1.2)["value"], np.clip(depth / 1.2, 0, 1), 1e-5)
        pattern, shallow = drawn(1, 0, 1), 1 - np.clip(depth / 1.4, 0, 1)
        foam = outputs("shallow_foam", None, behind, depth=1.4, pattern=pattern, softness=0.3)["value"]
        self.same(foam, smooth(1 - shallow, 1 - shallow + 0.3, pattern), 2e-5)

    def test_the_sun_comes_past_what_casts(self) -> None:
        self.same(outputs("sun_reach", None, {SUN_DEPTH: nothing_casts()})["value"], 1)
        self.same(outputs("sun_reach", None, {SUN_DEPTH: even(9.0, 0, 0, 1)})["value"], 0)


class Pictures(FormulaCase):
    def test_a_level_of_detail_is_read_between_its_two(self) -> None:
        levels = Texture(tuple(np.full((4, 4 >> n, 4 >> n), 0.2 * n + 0.1, np.float32) for n in range(3)))
        for level, expected in ((0.0, 0.1), (0.5, 0.2), (1.75, 0.45), (9.0, 0.5), (-3.0, 0.1)):
            self.same(outputs("texture_at_level", None, {"texture": levels}, level=level)["red"], expected)
        hills = bumpy()
        found = outputs("texture_at_level", None, {"texture": hills})
        for channel, part in zip(("red", "green", "blue", "alpha"), read(hills, U, V), strict=True):
            self.same(found[channel], part, 1e-5)

    def test_frames_follow_each_other(self) -> None:
        numbers = np.array([[3.0, 4.0], [1.0, 2.0]]).repeat(2, axis=0).repeat(2, axis=1) / 4
        sheet = {"texture": Texture((np.repeat(numbers[None], 4, axis=0).astype(np.float32),))}
        times = drawn(1, 0, 8)
        given: dict[str, Any] = {"uv": (0.5, 0.5), "columns": 2.0, "rows": 2.0, "rate": 1.5, "time": times}
        frame = times * 1.5
        this, following = (np.floor(frame) % 4 + 1) / 4, ((np.floor(frame) + 1) % 4 + 1) / 4
        cut = outputs("frame_sequence", {"between": "cut"}, sheet, **given)["red"]
        self.same(cut, this, 1e-5)
        blend = outputs("frame_sequence", None, sheet, **given)["red"]
        self.same(blend, this + (following - this) * (frame % 1), 1e-4)

    def test_heights_become_slopes(self) -> None:
        hills = bumpy()
        step = 1 / 16
        du, dv = (
            (read(hills, U + dx, V + dy)[0] - read(hills, U - dx, V - dy)[0]) / (2 * step)
            for dx, dy in ((step, 0.0), (0.0, step))
        )
        expected = unit(np.stack((-du * 0.08, -dv * 0.08, np.ones_like(du))))
        self.same(outputs("height_to_normal", None, {"height": hills}, depth=0.08)["normal"], expected, 1e-4)

    def test_a_texture_flows_between_two_readings(self) -> None:
        hills = {"texture": bumpy()}
        given: dict[str, Any] = {"direction": drawn(2, -0.5, 0.5), "strength": 0.3, "speed": 0.7, "offset": 0.2}
        first, second, share = outputs("flow", **given).values()
        a, b = (read(hills["texture"], *uv) for uv in (first, second))
        found = outputs("flow_texture", None, hills, **given)
        self.same(found["green"], (a + (b - a) * share)[1], 1e-4)

    def test_two_textures_from_three_sides(self) -> None:
        both = {"sides": even(0.8, 0.1, 0.0, 1), "top": even(0.0, 0.3, 0.9, 1)}
        for by, at in (("direction", NORMAL[1]), ("height", PLACE[1])):
            found = outputs("triplanar_two", {"by": by}, both, begins=0.2, softness=0.25)
            mask = smooth(-0.05, 0.45, at)
            self.same(found["top"], mask, 1e-5)
            self.same(found["colour"][0], 0.8 * (1 - mask), 1e-5)

    def test_flat_maps_make_no_bumps(self) -> None:
        flat = {"texture": even(0.5, 0.5, 1.0, 1.0)}
        for key in ("triplanar_normal", "drifting_waves"):
            self.same(outputs(key, None, flat)["normal"], np.array([0.0, 0, 1]).reshape(3, 1, 1), 1e-5)

    def test_ageing_begins_with_nothing_ends_with_all_and_never_goes_back(self) -> None:
        """Whatever else is set; seed 6."""
        draw = np.random.default_rng(6)
        shape = (SIZE, SIZE)
        for key, output, ends in (
            ("age_by_mask", "mask", (0.0, 1.0)),
            ("creeping_rust", "mask", (0.0, 1.0)),
            ("wipe", "mask", (0.0, 1.0)),
            ("drying", "wet", (1.0, 0.0)),
            ("crackle", "cracks", (0.0, None)),
        ):
            free = {
                name: draw.uniform(declared.low, declared.high, shape)
                for name, declared in CATALOGUE[key].inputs.items()
                if declared.type is P_NUMBER and name not in ("amount", "seed", "repeat")
            }
            seen = np.stack(
                [np.broadcast_to(outputs(key, amount=a, **free)[output], shape) for a in np.linspace(0, 1, 41)]
            )
            with self.subTest(key):
                np.testing.assert_array_equal(seen[0], ends[0])
                if ends[1] is not None:
                    np.testing.assert_array_equal(seen[-1], ends[1])
                steps = np.diff(seen, axis=0) * (1 if ends[0] == 0.0 else -1)
                self.assertGreaterEqual(steps.min(), -1e-6)
                self.assertGreater(np.ptp(seen[20]), 0.5, "half way it is not everywhere the same")

    def test_one_layer_is_the_map_itself(self) -> None:
        hills = bumpy()
        stored = read(hills, U * 2, V * 2) * 2 - 1
        expected = unit(np.stack((stored[0] * 0.4, stored[1] * 0.4, np.ones_like(U))))
        found = outputs("drifting_waves", {"layers": 1}, {"texture": hills}, tiling=2.0, speed=0.0, strength=0.4)
        self.same(found["normal"], expected, 1e-4)
        lifted = outputs("waves_by_texture", {"layers": 1}, {"texture": hills}, tiling=0.5, height=0.2, speed=0.0)
        height = read(hills, PLACE[0] * 0.5, PLACE[2] * 0.5)[0]
        self.same(lifted["offset"], np.stack((0 * U, 0.2 * (height - 0.5), 0 * U)), 1e-4)

    def test_scattering_keeps_mean_and_contrast(self) -> None:
        even_one = outputs("scattered_texture", None, {"texture": even(0.3, 0.6, 0.9, 1)})["colour"]
        self.same(even_one, np.array([0.3, 0.6, 0.9]).reshape(3, 1, 1), 1e-5)
        grain = DRAW.uniform(0, 1, (4, 64, 64)).astype(np.float32)
        mean = np.broadcast_to(grain.mean(axis=(1, 2), keepdims=True), (4, 1, 1))
        levels = {
            "texture": Texture((grain, *(np.broadcast_to(mean, (4, n, n)) for n in (32, 16, 8, 4, 2, 1))), bias=-2.0)
        }
        uv = np.stack((U, V)) * 0.6
        plain, found = (outputs(key, None, levels, uv=uv)["red"] for key in ("texture", "scattered_texture"))
        self.assertAlmostEqual(float(found.mean()), 0.5, delta=0.04)
        self.assertAlmostEqual(float(found.std() / plain.std()), 1.0, delta=0.2)
        self.assertLess(abs(float(np.corrcoef(found.ravel(), plain.ravel())[0, 1])), 0.3, "and shows other places")

    def test_layers_of_noise_in_space(self) -> None:
        place = drawn(3, -3, 3)
        given: dict[str, Any] = {"place": place, "scale": 2.0, "seed": 4.0}
        one = outputs("fractal_in_space", {"layers": 1}, **given)["value"]
        self.same(one, outputs("noise_in_space", {"kind": "gradient"}, **given)["value"], 1e-5)
        many = outputs("fractal_in_space", {"layers": 5}, **given)["value"]
        self.assertTrue(many.min() >= 0 and many.max() <= 1 and many.std() > 0.05)
        repeated = [outputs("fractal_in_space", place=place + by, scale=2.0, repeat=6.0)["value"] for by in (0.0, 3.0)]
        self.same(repeated[0], repeated[1], 2e-4)


class Layers(FormulaCase):
    def with_channels(self, **channels: Any) -> Surface:
        return Surface({**default_surface().channels, **{k: constant(*np.atleast_1d(v)) for k, v in channels.items()}})

    def test_a_coat_lies_over_the_coat_there_is(self) -> None:
        strength = drawn(1, 0, 1)
        worn = self.with_channels(clear_coat=0.3, coat_roughness=0.4, metallic=0.7)
        found = outputs("coat_over", surface=worn, strength=strength, roughness=0.1)
        self.same(found["surface.clear_coat"], 0.3 + 0.7 * strength)
        self.same(found["surface.coat_roughness"], 0.4 + (0.1 - 0.4) * strength)
        self.same(found["surface.metallic"], 0.7)

    def test_layers_lie_in_their_order(self) -> None:
        masks = {f"{name}_mask": drawn(1, 0, 1) for name in ("first", "second", "third")}
        roughness = {"base": 0.9, "first": 0.2, "second": 0.5, "third": 0.7}
        tilted = unit(np.array([0.6, 0.0, 0.8]).reshape(3, 1, 1)).ravel()
        layers = {name: self.with_channels(roughness=value) for name, value in roughness.items()}
        layers["second"] = self.with_channels(roughness=0.5, normal=tuple(tilted))
        found = outputs("layer_stack", **layers, **masks)
        expected = np.full((SIZE, SIZE), 0.9)
        for name in ("first", "second", "third"):
            expected = expected + (roughness[name] - expected) * masks[f"{name}_mask"]
        self.same(found["surface.roughness"], expected, 1e-5)
        self.same(np.linalg.norm(found["surface.normal"], axis=0), 1, 1e-5)


if __name__ == "__main__":
    unittest.main()
