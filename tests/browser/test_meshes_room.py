"""The room of meshes by hand: brought in, looked at, read another way, deleted and brought back, stood on by a graph."""

import re
from dataclasses import replace

import numpy as np
from playwright.sync_api import Route

from tests.browser.bench_page import WithWorker, WorkbenchCase
from tests.core.test_baking import ball
from tests.support.browser import lit, wait_until
from tests.support.meshes import sample_mesh
from velvet_moth.core.forms import form
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import as_source

BALL = replace(as_source(form("sphere")), depth="float")
CORK = as_source(ball(0.5, (0.0, 0.5, 0.0)))


def file_of(name: str, data: bytes) -> dict[str, object]:
    return {"name": name, "mimeType": "application/octet-stream", "buffer": data}


class InTheRoom(WorkbenchCase):
    def go(self) -> None:
        self.page.goto(f"{self.live.url}/meshes")
        wait_until("the list is there", lambda: self.page.evaluate("() => !!globalThis.room"))

    def bring(self, *files: dict[str, object]) -> None:
        self.page.locator("#import-files").set_input_files(list(files))
        wait_until("they have come", lambda: self.page.locator("#progress").inner_text() == "")

    def tile(self, name: str):
        return self.page.locator("#tiles .texture-tile").filter(has=self.page.get_by_text(name, exact=True))

    def is_shown(self, name: str) -> None:
        self.page.locator(".about-head h2", has_text=re.compile(f"^{name}$")).wait_for()
        wait_until("it stands there", lambda: self.page.evaluate("() => room.stage.isReady && !room.stage.isBusy"))

    def at_rest(self) -> None:
        steps = "!room.steps.model.waiting && !room.steps.isLooking && !room.painting.looking.underWay"
        ask = f"() => {steps} && !room.painting.brush.underWay && !room.stage.isBusy"
        wait_until("all strokes are kept and seen", lambda: self.page.evaluate(ask))


class Room(InTheRoom):
    def test_a_file_that_comes_before_the_list_is_shown_once_both_are_there(self) -> None:
        held: list[Route] = []

        def hold(route: Route) -> None:
            if held or route.request.method != "GET":
                route.continue_()
            else:
                held.append(route)

        early = replace(BALL, positions=BALL.positions * np.float32(0.7))
        self.page.route("**/api/meshes", hold)
        with self.page.expect_request("**/api/meshes"):
            self.go()
        self.page.locator("#import-files").set_input_files([file_of("Early.obj", FORMATS["obj"].encode(early))])
        held[0].continue_()
        self.is_shown("Early")
        self.assertEqual(self.tile("Early").get_attribute("aria-pressed"), "true")

    def test_meshes_come_in_and_what_is_wrong_with_one_stops_no_other(self) -> None:
        self.go()
        self.page.locator("#tiles .texture-tile").first.wait_for()
        before = self.page.locator("#tiles .texture-tile").count()
        self.bring(
            file_of("broken.glb", b"glTF" + b"\0" * 40),
            file_of("Gate.glb", FORMATS["gltf"].encode(sample_mesh())),
            file_of("Float.obj", FORMATS["obj"].encode(BALL)),
        )
        self.expect_refusal(422)
        self.is_shown("Float")
        self.assertEqual(self.page.locator("#tiles .texture-tile").count(), before + 2)
        self.page.locator(".notice", has_text="2 meshes are here").wait_for()
        self.tile("Gate").click()
        self.is_shown("Gate")
        self.page.get_by_text("Iron strap").wait_for()
        self.page.locator("#facts").get_by_role("button", name="Look at green").click()
        wait_until("it is looked at", lambda: self.page.locator("#channel").input_value() == "vertex_green")
        self.page.locator("#stage").click()
        wait_until("a vertex is read", lambda: "vertex" in self.page.locator("#at-vertex").inner_text())
        self.page.keyboard.press("w")
        self.page.locator("#outlines[aria-pressed=true]").wait_for()
        self.page.locator("#ways").get_by_role("button", name="UVs").click()
        self.page.locator("#layout").wait_for()
        self.page.go_back()
        self.is_shown("Float")
        # Read another way, renamed, deleted and brought back.
        self.page.get_by_label("Unit").select_option("cm")
        self.page.locator(".mesh-counts", has_text="2 × 2 × 2 cm").wait_for()
        self.page.get_by_label("Actions for Float").click()
        self.page.get_by_role("menuitem", name="Rename").click()
        self.page.get_by_role("dialog").get_by_role("textbox").fill("Cork float")
        self.page.keyboard.press("Enter")
        self.is_shown("Cork float")
        self.page.get_by_label("Actions for Cork float").click()
        self.page.get_by_role("menuitem", name="Save as …").click()
        self.page.get_by_label("Format").select_option("ply")
        with self.page.expect_download() as download:
            self.page.get_by_role("button", name="Save", exact=True).click()
        self.assertTrue(download.value.path().read_bytes().startswith(b"ply"))
        self.page.get_by_label("Actions for Cork float").click()
        self.page.get_by_role("menuitem", name="Delete").click()
        self.page.locator(".notice", has_text="Deleted Cork float").get_by_role("button", name="Undo").click()
        self.is_shown("Cork float")

    @lit
    def test_a_graph_stands_on_a_mesh(self) -> None:
        self.go()
        self.bring(file_of("Buoy.glb", FORMATS["gltf"].encode(BALL)))
        self.is_shown("Buoy")
        self.open("Slate step")
        before = self.page.locator("#form").input_value()
        self.page.locator("#form").select_option(label="Buoy")
        wait_until("it stands on it", lambda: self.state("mesh") is not None and self.state("mesh")["name"] == "Buoy")
        self.settle()
        # A new version that comes in elsewhere is followed.
        drawn = self.state("mesh")["drawn"]
        larger = FORMATS["gltf"].encode(replace(BALL, positions=BALL.positions * np.float32(3)))
        headers = {"X-CSRFToken": str(self.page.get_attribute("meta[name=csrf]", "content"))}
        address = f"{self.live.url}/api/meshes/{self.state('mesh')['id']}/file"
        self.page.request.post(address, multipart={"file": file_of("Buoy.glb", larger)}, headers=headers)
        wait_until("it is another one", lambda: self.state("mesh")["drawn"] != drawn)
        wait_until("it is drawn", lambda: self.page.evaluate("() => moth.stage.mesh.geometry.boundingBox.max.x > 2.9"))
        self.page.get_by_role("button", name="Undo").click()
        wait_until("it is back", lambda: self.state("document")["mesh"] == "")
        self.assertEqual(self.page.locator("#form").input_value(), before)


class Steps(InTheRoom, WithWorker):
    """What is baked on a mesh: by hand from the first step to a graph that reads it."""

    def tab(self, name: str) -> None:
        self.page.locator("#facts-tabs").get_by_role("button", name=name).click()

    def add(self, group: str, name: str) -> None:
        before = self.page.locator(".making-step").count()
        self.page.get_by_role("button", name="Add a step").click()
        self.page.get_by_role("menuitem", name=group).click()
        self.page.get_by_role("menuitem", name=name, exact=True).click()
        wait_until("it is there", lambda: self.page.locator(".making-step").count() == before + 1)

    def seen(self, name: str) -> None:
        """Waits until the step that is open is looked at with all its rays."""
        told = self.page.locator("#at-vertex")
        wait_until("it is seen", lambda: told.inner_text().startswith(name) and "with 8 rays" not in told.inner_text())

    def bake(self) -> None:
        self.page.get_by_role("button", name="Bake", exact=True).click()
        self.page.locator(".notice", has_text="Baked").wait_for()

    @lit
    def test_a_mesh_is_baked_simplified_read_in_a_graph_and_sent_out(self) -> None:
        self.go()
        self.bring(file_of("Cork.glb", FORMATS["gltf"].encode(replace(CORK, colours=None))))
        self.is_shown("Cork")
        self.tab("Steps")
        self.add("Shape", "Height")
        self.seen("Height: 0.000 to 1.000")
        self.add("Change", "Levels")
        dark = self.page.get_by_label("Dark, typed")
        dark.fill("0.5")
        dark.press("Enter")
        wait_until("half of it is dark", lambda: "mean 0.3" in self.page.locator("#at-vertex").inner_text())
        # A wrong move is taken back, and a step that cannot be made says why.
        self.add("Shape", "Distance to a part")
        self.page.locator(".step-wrong", has_text="Choose the part").wait_for()
        self.page.get_by_role("button", name="Undo").click()
        wait_until("it is gone", lambda: self.page.locator(".making-step").count() == 2)
        self.page.locator(".step-name", has_text="Levels").click()
        self.page.get_by_label("Channel for values").select_option("second blue")
        name = self.page.get_by_label("What second blue means")
        name.fill("Tide line")
        name.press("Enter")
        self.add("Light", "Occlusion")
        self.seen("Occlusion")
        self.page.get_by_label("Channel for values").select_option("red")
        self.tab("Distance")
        for level in (1, 2):
            self.page.get_by_role("button", name="Add a level").click()
            self.page.get_by_text(f"Level {level}", exact=True).wait_for()
        self.bake()
        self.page.locator(".levels", has_text="off by").wait_for()
        # Each channel can be looked at, and what a level loses of it.
        self.page.get_by_label("Channel of the vertex data").select_option(label="second blue: Tide line")
        self.page.get_by_role("button", name="Look at what second blue loses at level 2").click()
        self.page.get_by_text("What level 2 loses of second blue").wait_for()
        self.page.get_by_label("Level drawn").select_option("distance")
        self.page.get_by_label("Distance of the eye").fill("1")
        self.page.locator("#ways").get_by_role("button", name="Lit").click()
        wait_until("a level is drawn", lambda: self.page.evaluate("() => room.stage.levelDrawn === 2"))
        # It is all there after a reload, and goes out.
        self.page.reload()
        self.is_shown("Cork")
        self.page.locator("#about .channels", has_text="Tide line").wait_for()
        self.page.get_by_label("Actions for Cork").click()
        self.page.get_by_role("menuitem", name="Save as …").click()
        with self.page.expect_download() as download:
            self.page.get_by_role("button", name="Save", exact=True).click()
        data = download.value.path().read_bytes()
        self.assertIn(b"LOD 2", data)
        saved = read_mesh({"a": data}, "a")[0]
        assert saved.second_colours is not None
        high = (saved.positions[:, 1] - saved.positions[:, 1].min()) / np.ptp(saved.positions[:, 1])
        np.testing.assert_allclose(saved.second_colours[:, 2], np.clip(high * 2 - 1, 0, 1), atol=1e-5)
        # In a graph its meaning stands on the port, and what it does not carry is said.
        self.open("Slate step")
        self.page.locator("#form").select_option(label="Cork")
        wait_until("it stands on it", lambda: self.state("mesh") is not None and self.state("mesh")["name"] == "Cork")
        told = {"id": "told", "type": "vertex_colour", "settings": {"set": "second"}}
        edit = "(operation) => moth.model.edit(operation)"
        self.page.evaluate(edit, {"op": "add_node", "node": told})
        wait_until("it is named", lambda: self.state("names").get("told.blue") == "Tide line")
        wire = {"op": "wire", "node": "dock", "input": "roughness", "from_node": "told", "from_output": "green"}
        self.page.evaluate(edit, wire)
        wait_until("it is said", lambda: "no-channel" in [p["code"] for p in self.state("problems").get("told", [])])

    def test_what_is_wrong_is_mended_by_a_press(self) -> None:
        self.go()
        self.bring(file_of("Tub.glb", FORMATS["gltf"].encode(replace(CORK, uvs=None, tangents=None, colours=None))))
        self.is_shown("Tub")
        self.page.get_by_role("button", name="Unwrap it").click()
        self.page.locator(".notice", has_text="Baked").wait_for()
        self.page.locator(".mesh-counts", has_text="UVs").wait_for()
        wait_until("nothing is wrong", lambda: not self.page.get_by_text("It has no UVs").count())

    def test_a_bake_is_cancelled(self) -> None:
        self.go()
        self.bring(file_of("Keg.glb", FORMATS["gltf"].encode(replace(CORK, positions=CORK.positions * np.float32(2)))))
        self.is_shown("Keg")
        self.tab("Steps")
        self.add("Form", "Subdivide")
        self.add("Light", "Occlusion")
        rays = self.page.get_by_label("Rays, typed")
        rays.fill("1024")
        rays.press("Enter")
        self.page.get_by_label("Channel for values").select_option("red")
        self.page.get_by_role("button", name="Bake", exact=True).click()
        self.page.get_by_role("button", name="Cancel: Baking Keg").click()
        self.page.locator(".notice", has_text="was cancelled").wait_for()
        self.page.locator("#jobs").wait_for(state="hidden")
        self.page.get_by_role("button", name="Bake", exact=True).wait_for()
