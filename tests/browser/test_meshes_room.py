"""The room of meshes by hand: brought in, looked at, read another way, deleted and brought back, stood on by a graph."""

import re
from dataclasses import replace

import numpy as np

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import lit, wait_until
from tests.support.meshes import sample_mesh
from velvet_moth.core.forms import form
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.intake import as_source

BALL = replace(as_source(form("sphere")), depth="float")


def file_of(name: str, data: bytes) -> dict[str, object]:
    return {"name": name, "mimeType": "application/octet-stream", "buffer": data}


class Room(WorkbenchCase):
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

    def test_meshes_come_in_and_what_is_wrong_with_one_stops_no_other(self) -> None:
        self.go()
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
        self.page.locator("#ways").get_by_role("button", name="Green", pressed=True).wait_for()
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
