"""The export page by hand: a language, a shape, a wrong prefix, back, the package; a baked file, opened by another

reader; a page that stands alone."""

import io
import json
import zipfile
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import numpy as np
from playwright.sync_api import Page, Route

from tests.browser.bench_page import WithWorker, WorkbenchCase
from tests.support.browser import array_of, lit, wait_until


class Exporting(WorkbenchCase):
    def text(self) -> str:
        return str(self.page.evaluate("() => document.querySelector('#text').innerText"))

    def test_what_is_chosen_is_shown_kept_in_the_address_and_downloaded(self) -> None:
        self.context.grant_permissions(["clipboard-read", "clipboard-write"])
        self.open("Ferry enamel")
        self.page.get_by_role("link", name="Export").click()
        self.page.wait_for_url("**/export")
        self.page.get_by_role("combobox", name="Language").select_option(label="WGSL")
        wait_until("it is WGSL", lambda: "fn moth_surface(" in self.text())
        self.assertIn("ferry_enamel.wgsl", self.page.locator("#text-head").inner_text())
        self.page.get_by_role("radio", name="With its light").check()
        wait_until("it is lit", lambda: "fn moth_lit(" in self.text())
        prefix = self.page.get_by_role("textbox", name="Names begin with")
        prefix.fill("no good; ")
        prefix.press("Enter")
        self.page.get_by_role("alert").get_by_text("A prefix has").wait_for()
        self.expect_refusal(422)
        prefix.fill("ferry_")
        prefix.press("Tab")
        wait_until("names begin so", lambda: "fn ferry_lit(" in self.text())
        self.assertIn("--language wgsl", self.page.locator("#command").inner_text())
        self.page.reload()
        wait_until("it is kept", lambda: "fn ferry_lit(" in self.text())
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download package").click()
        with zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes())) as archive:
            names = archive.namelist()
            self.assertIn("fn ferry_lit(", archive.read("ferry_enamel.wgsl").decode())
            bound = json.loads(archive.read("parameters.json"))
        self.assertEqual(len([name for name in names if name.startswith("textures/")]), 2, names)
        self.page.locator("#text-changes", has_text="the same as on").wait_for()
        self.assertEqual(bound["language"], "WGSL")
        for _ in range(2):
            self.page.go_back()
        wait_until("the first shape is back", lambda: "fn moth_surface(" in self.text())
        # What has changed since it left; from a node to its lines, and from a line to the card.
        self.page.get_by_role("button", name="Copy text").click()
        graph = self.page.url.split("/")[-2]
        value = {"op": "set_value", "node": "turning", "input": "power", "value": [0.7]}
        state = self.page.request.get(f"{self.live.url}/api/graphs/{graph}").json()
        key = self.page.evaluate("() => document.querySelector('meta[name=csrf]').content")
        self.page.request.post(
            f"{self.live.url}/api/graphs/{graph}/operations",
            data={"revision": state["revision"], "operation": value},
            headers={"X-CSRFToken": key, "Referer": self.page.url},
        )
        self.page.reload()
        self.page.locator("#text-changes", has_text="since").wait_for()
        self.assertGreater(self.page.locator("#text li.changed").count(), 0)
        self.page.get_by_role("combobox", name="Lines of a node").select_option(label="Flake mask")
        line = self.page.locator("#text li.pointed").first
        line.wait_for()
        node = line.get_attribute("data-node")
        line.click()
        self.page.wait_for_url(f"**/graphs/*#{node}")
        wait_until("the card is chosen", lambda: self.page.evaluate("() => [...moth.pane.selection]") == [node])
        # And back to its lines by a key.
        self.page.keyboard.press("e")
        self.page.wait_for_url(f"**/export#{node}")
        self.page.locator(f"#text li.pointed[data-node={node}]").first.wait_for()
        self.page.go_back()
        self.settle()
        self.page.go_back()
        wait_until("the text is back", lambda: "fn moth_surface(" in self.text())
        self.page.get_by_role("link", name="Ferry enamel").click()
        self.settle()

    def test_the_shape_of_the_text_and_of_its_textures(self) -> None:
        self.open("Bronze gear")
        self.page.get_by_role("link", name="Export").click()
        self.page.get_by_role("checkbox", name="An entry point goes along").check()
        wait_until("it is a whole stage", lambda: "void main()" in self.text())
        self.page.get_by_role("checkbox", name="Fewer bits where it is safe").check()
        wait_until(
            "some values have fewer bits", lambda: "mediump vec" in self.text() or "mediump float" in self.text()
        )
        self.page.locator("#words li", has_text="no result is off by more than").wait_for()
        self.page.get_by_role("combobox", name="Language").select_option(label="WGSL")
        wait_until("it is WGSL", lambda: "@fragment fn moth_pixel_shader" in self.text())
        self.assertTrue(self.page.get_by_role("checkbox", name="Fewer bits where it is safe").is_disabled())
        self.page.locator("#proof", has_text="Executed on").wait_for()
        self.page.get_by_role("combobox", name="Language").select_option(label="HLSL, shader model 6")
        self.page.get_by_role("checkbox", name="Put numbers together").check()
        wait_until("one texture fewer", lambda: "red Texture of" in self.text())
        self.page.get_by_role("combobox", name="No side of a texture longer than").select_option(label="256 pixels")
        names = self.page.get_by_role("textbox", name="Names of textures")
        names.fill("{colour}")
        names.press("Tab")
        wait_until("the command has it", lambda: "{colour}" in self.page.locator("#command").inner_text())
        self.page.get_by_role("link", name="Download package").click()
        self.page.get_by_role("alert").get_by_text("The pattern names 'colour'").wait_for()
        box = self.page.get_by_role("alert").bounding_box()
        self.assertTrue(box and box["y"] + box["height"] <= self.page.evaluate("() => innerHeight"), "it is seen")
        self.assertTrue(self.page.locator("#text-changes").is_hidden(), "nothing has left")
        self.expect_refusal(422)
        names.fill("gear_{role}")
        names.press("Tab")
        wait_until("the command has it", lambda: "gear_{role}" in self.page.locator("#command").inner_text())
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download package").click()
        with zipfile.ZipFile(io.BytesIO(download.value.path().read_bytes())) as archive:
            self.assertIn("textures/gear_data.png", archive.namelist())
            self.assertIn("min16float", archive.read("bronze_gear.hlsl").decode())


class Documents(WorkbenchCase):
    def test_a_document_is_seen_copied_downloaded_and_opened_again(self) -> None:
        self.context.grant_permissions(["clipboard-read", "clipboard-write"])
        self.open("Ferry enamel")
        self.page.get_by_role("link", name="Export").click()
        self.page.get_by_role("radio", name="Material document").check()
        text = self.page.locator("#material-text")
        wait_until("it is there", lambda: "<gltf_pbr" in text.inner_text())
        self.page.get_by_role("button", name="Copy text").click()
        self.page.locator(".notice", has_text="copied").wait_for()
        copied = self.page.evaluate("() => navigator.clipboard.readText()")
        self.assertEqual("".join(copied.split()), "".join(text.inner_text().split()))
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download document").click()
        self.page.goto(self.live.url)
        path = download.value.path().with_suffix(".zip")
        download.value.save_as(path)
        self.page.locator("#import-file").set_input_files(path)
        self.page.wait_for_url("**/graphs/*")
        self.settle()
        self.assertEqual(self.state("document")["title"], "ferry enamel")
        self.assertTrue(self.state("document")["parameters"])


class Baking(WithWorker, WorkbenchCase):
    def test_a_graph_is_baked_fetched_and_opened_by_another_reader(self) -> None:
        self.open("Silt splash")
        self.page.get_by_role("link", name="Export").click()
        self.page.get_by_role("radio", name="Baked glTF").check()
        self.page.get_by_text("Nothing is baked yet").wait_for()
        self.page.get_by_label("Size of the textures").select_option("128")
        self.page.get_by_label("Between islands").fill("900")
        self.page.get_by_role("button", name="Bake", exact=True).click()
        # The browser itself says what a field takes.
        self.assertEqual(self.page.locator("input[name=padding]:invalid").count(), 1)
        self.page.get_by_label("Between islands").fill("4")
        self.page.get_by_role("button", name="Bake", exact=True).click()
        card = self.page.locator(".baked-file")
        card.get_by_text("of 255").wait_for()
        self.assertIn("From behind", card.inner_text())
        with self.page.expect_download() as download:
            card.get_by_role("link", name="Download GLB").click()
        self.assertEqual(download.value.suggested_filename, "silt_splash.glb")
        found = self.opened_elsewhere(download.value.path().read_bytes())
        self.assertEqual(found["materials"], ["Defaults"])
        self.assertEqual(found["size"], 128)
        self.assertIn("Lime wash", found["variants"])
        self.assertGreater(found["shown"], 0.05, "a share of the picture is the form")

    def opened_elsewhere(self, glb: bytes) -> dict[str, Any]:
        """What three.js's own reader makes of a file, on a page that knows nothing of the program."""
        page = self.page.context.new_page()
        served = {"/": _READER.encode(), "/file.glb": glb}
        kinds = {".js": "text/javascript", "/": "text/html", ".glb": "model/gltf-binary"}

        def answer(route: Route) -> None:
            path = urlsplit(route.request.url).path
            kind = next(kind for end, kind in kinds.items() if path.endswith(end))
            route.fulfill(body=served.get(path) or (_THREE / path[1:]).read_bytes(), content_type=kind)

        page.route("http://reader.test/**", answer)
        page.goto("http://reader.test/")
        page.wait_for_function("() => globalThis.found !== undefined")
        found: dict[str, Any] = page.evaluate("() => found")
        page.close()
        return found


class Alone(WorkbenchCase):
    def seen(self, page: Page, variant: str | None = None) -> np.ndarray:
        """What the stage of a presentation shows from its first view at its first moment, (rows, columns, 4)."""
        if variant is not None:
            page.get_by_role("combobox", name="Variant").select_option(label=variant)
        page.wait_for_function(
            "() => presentation.stage?.isReady && presentation.model.state && !presentation.coming",
        )
        return array_of(page, "() => presentation.stage.snapshot(64, 64)", dtype=np.uint8).astype(int)

    @lit
    def test_a_page_on_a_disk_shows_what_the_stage_does_without_a_network(self) -> None:
        page = self.saved_and_opened("Ferry enamel")
        first, variant = self.seen(page), "Harbour green"
        other = self.seen(page, variant)
        self.assertLessEqual(np.abs(other - self.seen(self.page, variant)).max(), 1)
        self.assertGreater(np.abs(other - first).mean(), 2)
        slider = page.get_by_role("slider").first
        slider.focus()
        slider.press("End")
        self.assertGreater(np.abs(self.seen(page) - other).mean(), 0.2)
        box = page.get_by_label("Parameters").bounding_box()
        assert box is not None
        self.assertLessEqual(box["x"] + box["width"], 400)

    @lit
    def test_what_lies_behind_goes_along(self) -> None:
        self.saved_and_opened("Basin water")

    def saved_and_opened(self, title: str) -> Page:
        """The page of a graph, opened from a file in a narrow window that has no network; it shows what the stage does."""
        self.open(title)
        self.page.get_by_role("link", name="Export").click()
        self.page.get_by_role("radio", name="A page that stands alone").check()
        here = self.seen(self.page)
        with self.page.expect_download() as download:
            self.page.get_by_role("button", name="Save page").click()
        path = download.value.path().with_suffix(".html")
        download.value.save_as(path)
        context = self.browser.new_context(viewport={"width": 400, "height": 800}, offline=True)
        self.addCleanup(context.close)
        page = context.new_page()
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        page.on("pageerror", lambda error: self.said.append(str(error)))
        page.goto(path.as_uri())
        alone = self.seen(page)
        self.assertGreater(np.ptp(here), 60, "there is something to see")
        self.assertLessEqual(np.abs(alone - here).max(), 1)
        self.assertEqual([url for url in asked if not url.startswith(("file:", "data:", "blob:"))], [])
        return page


_THREE = Path(__file__).parents[2] / "node_modules" / "three"
_READER = """<!doctype html><script type="importmap">{"imports": {"three": "/build/three.module.js"}}</script>
<script type="module">
import * as THREE from "three";
import { GLTFLoader } from "/examples/jsm/loaders/GLTFLoader.js";
const { scene, parser } = await new GLTFLoader().loadAsync("/file.glb");
const materials = new Set(), sizes = new Set();
scene.traverse((one) => {
  if (!one.isMesh) return;
  materials.add(one.material.name);
  sizes.add(one.material.map.image.width);
});
const box = new THREE.Box3().setFromObject(scene), centre = box.getCenter(new THREE.Vector3());
const camera = new THREE.PerspectiveCamera(40, 1, 0.01, 100);
camera.position.set(centre.x, centre.y, centre.z + box.getSize(new THREE.Vector3()).length() * 1.5);
camera.lookAt(centre);
scene.background = new THREE.Color(1, 0, 1);
const renderer = new THREE.WebGLRenderer({ preserveDrawingBuffer: true });
renderer.setSize(64, 64);
renderer.render(scene, camera);
const gl = renderer.getContext(), shown = new Uint8Array(64 * 64 * 4);
gl.readPixels(0, 0, 64, 64, gl.RGBA, gl.UNSIGNED_BYTE, shown);
let count = 0;
for (let i = 0; i < shown.length; i += 4) count += shown[i] === 255 && shown[i + 2] === 255 ? 0 : 1;
const variants = parser.json.extensions.KHR_materials_variants.variants.map(({ name }) => name);
globalThis.found = { materials: [...materials], size: [...sizes][0], variants, shown: count / 4096 };
</script>"""
