"""The NumPy picture of every demo graph against the stage's, in steps of 1/255, from where it is first seen."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import lit, wait_until
from tests.support.graphs import TEXTURES, demo_graph_of, demo_graphs
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.forms import Pose, form
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import MeshReading, as_source, taken_in
from velvet_moth.core.render.tracing.scene import Scene, first_moment
from velvet_moth.core.workbench.session import picture
from velvet_moth.demo.shipped_pictures import demo_mesh

SCENE = "([rig, behind]) => moth.stage.lighting.rig === rig && (!behind || !!moth.stage.backdrop.loaded)"
SIDE = 256
# Seconds at which drops of a throw fly in the demo.
SPURTING = 2.45
# Blades, strands, fibres, flat faces, joints of stones, lace of foam, small waves, drops, wisps and tiles of blocks about a pixel wide are edges everywhere: there a GPU,
# which moves corners to a grid finer than pixels, may show the neighbour.
FINE = {
    "Lock-side reeds",
    "Ferrywoman's braid",
    "Slate bluff",
    "Ferry rudder",
    "Gravel quay patch",
    "Setts on the quay",
    "Slate on the quay",
    "Weir stream",
    "Estuary",
    "Boathouse wall",
    "Splash drops",
    "Steam ribbon",
    "Lock-keeper's house",
    "Block lantern",
}


@lit
class AgainstReference(WorkbenchCase):
    """Away from edges 999 pixels of 1000 are within 2 steps."""

    def compare(self, graph: Graph) -> None:
        self.open(graph.title)
        # A surface of the backdrop is lit by lamps too.
        for rig in (graph.rig, "night_lamps") if graph.backdrop_materials else (graph.rig,):
            with self.subTest(rig=rig):
                self.page.locator("#rig").select_option(rig)
                wait_until("the scene is there", lambda r=rig: self.page.evaluate(SCENE, [r, graph.backdrop]))
                lit = replace(graph, rig=rig)
                # When what spurts is in the air, too.
                for time in (first_moment(graph), *((SPURTING,) if graph.spurt else ())):
                    self.page.evaluate("time => moth.stage.setTime(time)", time)
                    stood = Scene.of_graph(lit, demo_mesh(lit.mesh) if lit.mesh else None, time=time)
                    expected = picture(lit, (SIDE, SIDE), TEXTURES.get, "", stood, demo_graph_of, demo_mesh)
                    self.agree(expected, graph.title in FINE)

    def test_a_form_scaled_and_turned(self) -> None:
        graph = next(graph for graph in demo_graphs() if graph.title == "Slate step")
        self.open(graph.title)
        self.page.locator("#stage-more").click()
        self.page.get_by_role("menuitem", name="Size and turn of the form").click()
        for label, text in (("Size along X, Y and Z", "0.01 1 1"), ("Turn in degrees", "35")):
            self.page.get_by_label(label).fill(text)
            self.page.keyboard.press("Enter")
        self.page.locator(".notice", has_text="A form is 0.05 to 20").wait_for()
        self.expect_refusal(422)
        wait_until("it is turned", lambda: self.state("document")["pose"]["turn"] == 35)
        self.page.get_by_label("Size along X, Y and Z").fill("2 0.7 1")
        self.page.keyboard.press("Enter")
        wait_until("it is scaled", lambda: self.state("document")["pose"]["size"] == [2, 0.7, 1])
        self.page.keyboard.press("Escape")
        self.settle()
        self.page.evaluate("() => moth.stage.resetView()")
        turned = replace(graph, pose=Pose((2.0, 0.7, 1.0), 35.0))
        expected = picture(turned, (SIDE, SIDE), TEXTURES.get, "", Scene.of_graph(turned), demo_graph_of)
        self.agree(expected, is_fine=False)
        while self.state("undo"):
            self.page.keyboard.press("Control+z")
            self.settle()
        self.assertEqual(self.state("document")["pose"], {"size": [1, 1, 1], "turn": 0})

    def test_a_mesh_in_the_place_of_the_form(self) -> None:
        """With its own UVs and vertex colours, a tenth as large and away from the origin."""
        graph = next(graph for graph in demo_graphs() if graph.title == "Slate step")
        own = as_source(form("mooring"))
        placed = own.positions * np.float32(0.1) + np.array((2.0, 0.5, 0.0), dtype=np.float32)
        data = FORMATS["gltf"].encode(replace(own, positions=placed, depth="float"))
        sent = {"name": "Small.glb", "mimeType": "application/octet-stream", "buffer": data}
        self.open(graph.title)
        headers = {"X-CSRFToken": str(self.page.get_attribute("meta[name=csrf]", "content"))}
        answer = self.page.request.post(f"{self.live.url}/api/meshes", multipart={"file": sent}, headers=headers)
        mesh = answer.json()["mesh"]["id"]
        self.page.locator("#form option", has_text="Small").wait_for(state="attached")
        self.page.locator("#form").select_option(label="Small")
        wait_until("it stands on it", lambda: (self.state("mesh") or {}).get("id") == mesh)
        self.settle()
        wait_until(
            "it is drawn",
            lambda: self.page.evaluate("() => moth.stage.brought?.name === 'Small' && !moth.stage.isBusy"),
        )
        brought = taken_in(read_mesh({"a": data}, "a")[0], MeshReading()).mesh
        on_it = replace(graph, mesh=mesh)
        scene = Scene.of_graph(on_it, brought)
        expected = picture(on_it, (SIDE, SIDE), TEXTURES.get, "", scene, meshes={mesh: brought}.get)
        self.agree(expected, is_fine=False)
        self.page.get_by_role("button", name="Undo").click()
        wait_until("it is back", lambda: self.state("document")["mesh"] == "")

    def agree(self, expected: np.ndarray, is_fine: bool) -> None:
        found = self.pixels(SIDE).astype(int)[..., :3]
        there = cv2.erode((expected[..., 3] > 0).astype(np.uint8), np.ones((3, 3))) > 0
        step = cv2.morphologyEx(expected[..., :3], cv2.MORPH_GRADIENT, np.ones((3, 3))).max(axis=-1)
        difference = np.abs(found - expected[..., :3].astype(int))
        self.assertLess(difference[expected[..., 3] > 0].mean(), 0.7 if is_fine else 0.4)
        self.assertLess(difference.mean(), 0.3)
        self.assertLessEqual(np.quantile(difference, 0.99), 2)
        if not is_fine:
            self.assertLessEqual(np.quantile(difference[there & (step < 32)], 0.999), 2)
        self.assertGreater(int((there & (step < 32)).sum()), 1500)


def _test_of(graph: Graph) -> Callable[[AgainstReference], None]:
    return lambda case: case.compare(graph)


# A test for each, so that each says by itself how long it takes.
for _graph in demo_graphs():
    setattr(AgainstReference, f"test_{identifier(_graph.title)}", _test_of(_graph))
