"""The library and every page's accessibility and fit."""

import io
import json

import cv2
import numpy as np
from hypothesis import Phase, given, settings
from sqlalchemy import update
from sqlalchemy.orm import Session

from tests.browser.bench_page import WorkbenchCase
from tests.support import random_graphs
from tests.support.browser import wait_until
from tests.support.databases import graph_id
from tooling.places import ROOT
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import GraphFile, write_graph_file
from velvet_moth.store.models import PaintedRow

AXE = (ROOT / "node_modules/axe-core/axe.min.js").read_text()

CLIPPED = """() => [...document.querySelectorAll('h1, h2, h3, button, label, p, span, li, input')]
  .filter((e) => e.offsetParent && !e.matches('.sr-only') && e.children.length === 0)
  .filter((e) => e.clientWidth && e.scrollWidth > e.clientWidth + 1)
  .map((e) => (e.value || e.textContent).trim()).filter((t) => t)"""


class LibraryCase(WorkbenchCase):
    def tile(self, title: str):
        return self.page.locator(".graph-tile").filter(has=self.page.get_by_role("heading", name=title, exact=True))

    def act(self, title: str, action: str) -> None:
        self.tile(title).get_by_role("button").click()
        self.page.get_by_role("menuitem", name=action).click()


class Tags(LibraryCase):
    def test_graphs_are_tagged_and_found_by_their_tags(self) -> None:
        self.page.goto(self.live.url)
        self.act("Slate step", "Tags …")
        field = self.page.get_by_role("textbox", name="Tags")
        field.fill("Stone, " + "x" * 30)
        self.page.locator("dialog").get_by_role("button", name="Keep").click()
        self.page.locator(".notice", has_text="A tag is a word or two").wait_for()
        self.expect_refusal(422)
        self.assertEqual(field.input_value(), "Stone, " + "x" * 30, "nothing typed is lost")
        field.fill("Stone, wet quay ")
        self.page.locator("dialog").get_by_role("button", name="Keep").click()
        self.page.get_by_role("link", name="wet quay 1").click()
        self.page.wait_for_url("**tags=wet*")
        self.assertEqual(self.page.locator("#graphs .graph-tile h3").all_inner_texts(), ["Slate step"])
        self.assertIn("stone · wet quay", self.page.locator("#graphs").inner_text())
        self.page.get_by_role("link", name="wet quay 1").click()
        self.page.get_by_role("searchbox", name="Find by title or tag").fill("t QUAY")
        self.page.keyboard.press("Enter")
        self.page.wait_for_url("**q=t*")
        self.assertEqual(self.page.locator("#graphs .graph-tile h3").all_inner_texts(), ["Slate step"])


class Library(LibraryCase):
    def test_rename_duplicate_delete_with_undo(self) -> None:
        self.page.goto(self.live.url)
        self.act("Quay pebbles", "Duplicate")
        self.tile("Quay pebbles copy").wait_for()
        self.act("Quay pebbles copy", "Rename")
        self.page.get_by_role("textbox", name="Rename graph").fill("Chalk pebbles")
        self.page.keyboard.press("Enter")
        self.tile("Chalk pebbles").wait_for()
        self.act("Chalk pebbles", "Delete")
        self.tile("Chalk pebbles").wait_for(state="hidden")
        self.page.get_by_role("button", name="Undo").click()
        self.tile("Chalk pebbles").wait_for()
        self.act("Chalk pebbles", "Delete")
        self.tile("Chalk pebbles").wait_for(state="hidden")
        self.page.reload()
        self.assertEqual(self.tile("Chalk pebbles").count(), 0)
        self.assertGreaterEqual(self.page.locator(".graph-tile").count(), 4)

    def test_every_graph_has_its_picture(self) -> None:
        self.page.goto(self.live.url)
        loaded = (
            "() => [...document.querySelectorAll('.graph-tile img')].every((i) => i.complete && i.naturalWidth === 320)"
        )
        # What is far below is loaded once somebody comes near it.
        for tile in self.page.locator(".graph-tile").all():
            tile.scroll_into_view_if_needed()
        wait_until("all pictures are there", lambda: self.page.evaluate(loaded))

    def test_a_picture_that_stands_in_is_replaced(self) -> None:
        of_graph = PaintedRow.graph_id == graph_id(self.live.engine, "Slate step")
        with Session(self.live.engine) as session, session.begin():
            session.execute(update(PaintedRow).where(of_graph).values(program="another"))
        self.page.goto(self.live.url)
        picture = self.tile("Slate step").locator("img")
        picture.scroll_into_view_if_needed()
        shown = "(image) => image.complete && image.naturalWidth === 320 && image.src.includes('fresh=1')"
        wait_until("it is painted here", lambda: picture.evaluate(shown), 30)
        self.page.reload()
        picture.scroll_into_view_if_needed()
        wait_until("it is there at once", lambda: picture.evaluate("(image) => image.naturalWidth === 320"))
        self.assertNotIn("fresh", picture.get_attribute("src") or "")

    def test_graphs_are_sorted_as_one_likes(self) -> None:
        self.page.goto(self.live.url)
        titles = lambda: self.page.locator("#graphs .graph-tile h3").all_inner_texts()  # noqa: E731 - asked twice
        before = titles()
        self.page.get_by_role("combobox", name="Order").select_option("By title")
        self.page.wait_for_url("**sort=title**")
        self.assertEqual(titles(), sorted(before, key=str.lower))
        self.assertNotEqual(titles(), before)
        # The whole tile is a link: a press on its title opens it.
        title = self.page.locator(".graph-tile h3").first.bounding_box()
        assert title
        self.page.mouse.click(title["x"] + 20, title["y"] + 8)
        self.page.wait_for_url("**/graphs/*")

    def test_starter_import_and_back(self) -> None:
        self.page.goto(self.live.url)
        self.page.get_by_role("button", name="Flake enamel").click()
        self.page.wait_for_url("**/graphs/*")
        self.settle()
        self.assertEqual(len(self.nodes()), 20)
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Export").click()
            self.page.get_by_role("link", name="Graph file").click()
        text = download.value.path().read_text()
        self.page.go_back()
        self.page.go_back()
        self.tile("Flake enamel").wait_for()
        changed = {**json.loads(text), "title": "From a file"}
        upload = {"name": "x.json", "mimeType": "application/json", "buffer": json.dumps(changed).encode()}
        self.page.locator("#import-file").set_input_files(upload)
        self.page.wait_for_url("**/graphs/*")
        self.settle()
        self.assertEqual(self.state("document")["title"], "From a file")
        self.page.goto(self.live.url)
        self.page.locator("#import-file").set_input_files({**upload, "buffer": b"{]"})
        self.page.locator(".notice", has_text="This is not JSON").wait_for()
        self.expect_refusal(422)

    def test_textures_come_in_and_wrong_files_are_told(self) -> None:
        self.page.goto(self.live.url)
        self.page.get_by_role("button", name="Add texture").click()
        self.page.get_by_text("Import pictures").click()
        picture = self.page.locator("dialog input[type=file]")
        picture.set_input_files({"name": "holiday.png", "mimeType": "image/png", "buffer": b"not a picture"})
        self.page.locator("dialog").get_by_role("button", name="Import", exact=True).click()
        self.page.locator(".notice", has_text="no picture that can be read").wait_for()
        _, png = cv2.imencode(".png", np.full((8, 8, 3), 200, np.uint8))
        good = {"name": "chalk_normal.png", "mimeType": "image/png", "buffer": io.BytesIO(png.tobytes()).read()}
        picture.set_input_files(good)
        self.page.get_by_label("Read as").select_option("data")
        self.page.locator("dialog").get_by_role("button", name="Import", exact=True).click()
        self.page.locator("dialog .texture-tile", has_text="chalk_normal").wait_for()
        self.expect_refusal(422)


class EveryPage(WorkbenchCase):
    def check(self, what: str) -> None:
        with self.subTest(what):
            report = self.page.evaluate(
                f"async () => {{ {AXE}; return await axe.run({{ resultTypes: ['violations'] }}); }}"
            )
            found = [(v["id"], [n["html"][:150] for n in v["nodes"]]) for v in report["violations"]]
            self.assertEqual(found, [])
            wide = self.page.evaluate("() => document.documentElement.scrollWidth > innerWidth")
            self.assertFalse(wide, "no horizontal scroll")
            self.assertEqual(self.page.evaluate(CLIPPED), [], "no clipped text")

    def test_lists_and_the_reference(self) -> None:
        self.page.goto(self.live.url)
        self.check("library")
        self.page.get_by_role("button", name="Add texture").click()
        self.page.get_by_text("Import pictures").click()
        self.check("texture dialog")
        for path in (
            "/textures",
            "/meshes",
            "/blocks",
            f"/graphs/{graph_id(self.live.engine, 'Ferry enamel')}/export",
            "/nodes",
            "/nodes?q=edge",
            "/nodes/splash",
            "/nodes/layer_stack",
        ):
            self.page.goto(f"{self.live.url}{path}")
            self.check(path)
        self.page.goto(f"{self.live.url}/graphs/999999")
        self.check("error page")
        self.said.clear()

    def test_a_graph(self) -> None:
        for title in ("Ferry enamel", "Slate step"):
            self.open(title)
            self.check(title)
        self.page.locator(".card").first.focus()
        self.page.keyboard.press("Enter")
        self.page.locator(".slip .analysis[data-ready]").wait_for()
        self.check("an open slip")
        self.new_graph()
        self.check("empty graph")
        self.page.set_viewport_size({"width": 820, "height": 900})
        self.page.goto(f"{self.live.url}/graphs/{graph_id(self.live.engine, 'Slate step')}")
        self.settle()
        wide = self.page.evaluate("() => document.documentElement.scrollWidth > innerWidth")
        self.assertFalse(wide, "no horizontal scroll in a narrow window")

    def test_what_is_thrown_and_what_emits(self) -> None:
        self.open("Thrown at the quay")
        # The heads of lanes are cut by design, and say the whole in their titles.
        self.page.get_by_role("button", name="Hide the keys").click()
        for tab in ("Decals", "Throw", "Rule", "Life"):
            self.page.get_by_role("tab", name=tab, exact=True).click()
            if tab == "Throw":
                self.page.get_by_role("button", name="Throw again").click()
                self.page.locator(".throw-made").wait_for()
            self.settle()
            self.check(tab)
        self.page.get_by_role("tab", name="Rule", exact=True).click()
        self.page.locator("[data-focus='rule.part.tilt']").click()
        self.check("a curve of the rule")
        self.open("Steam ribbon")
        self.page.locator("#emitter").scroll_into_view_if_needed()
        self.check("an emitter")

    def test_what_opens_over_a_graph(self) -> None:
        self.open("Boathouse tiles")
        self.page.locator("[data-focus='parameter.glazes']").click()
        self.check("the stops of a gradient")
        self.page.keyboard.press("Escape")
        self.page.locator("#cost").click()
        self.page.locator("dialog.cost-sheet").wait_for()
        self.check("the cost sheet")
        self.page.keyboard.press("Escape")
        self.page.locator("#stage-more").click()
        self.page.get_by_role("menuitem", name="Read the shader").click()
        text = self.page.get_by_label("Shader text")
        wait_until("it is read", lambda: "void main()" in text.inner_text())
        folded = text.inner_text()
        self.page.get_by_role("combobox", name="Values").select_option("Every value outside")
        wait_until("another text", lambda: text.inner_text() != folded)
        self.page.get_by_role("combobox", name="Shader").select_option("Vertices")
        wait_until("that of the vertices", lambda: "gl_Position" in text.inner_text())
        self.check("the shader text")
        self.open("Slate step")
        self.page.get_by_role("button", name="Keys and gestures").click()
        self.check("shortcuts")
        self.page.keyboard.press("Escape")
        self.page.locator("#graph-pane").focus()
        self.page.keyboard.press("Space")
        wait_until("choices are listed", lambda: self.page.locator(".choices li").count() > 10)
        self.check("search")
        self.page.keyboard.press("Escape")

    def test_keys_over_time_and_films(self) -> None:
        self.open("Boathouse wall")
        self.page.get_by_role("button", name="Open the curve of Peeling").click()
        self.page.locator(".key[data-target='crackle']").nth(1).click()
        self.check("lanes, a curve, a chosen key")
        self.page.keyboard.press("Enter")
        self.page.get_by_role("dialog", name="Key of Crackle").wait_for()
        self.check("a key as it is typed")
        self.page.keyboard.press("Escape")
        self.page.locator("#timing").click()
        self.page.get_by_role("dialog", name="Length of the time").wait_for()
        self.check("the length of the time")
        self.page.keyboard.press("Escape")
        self.page.get_by_role("button", name="More", exact=True).click()
        self.page.get_by_role("menuitem", name="Save a film …").click()
        self.page.locator(".film-sheet [role=status]", has_text="frames of").wait_for()
        self.check("asking for a film")

    def test_every_sheet_opens_on_graphs_of_any_make(self) -> None:
        """Drawn at random, with wires that take parts: nothing the page asks of them fails."""

        drawn: list[Graph] = []

        @settings(max_examples=4, derandomize=True, database=None, deadline=None, phases=[Phase.generate])
        @given(random_graphs.graphs())
        def draw(graph: Graph) -> None:
            drawn.append(graph)

        draw()
        parted = [g for g in drawn if any(s.part for n in g.nodes.values() for s in n.wires.values())]
        self.assertGreater(len(parted), 0)
        self.open("Slate step")
        for graph in parted[:2]:
            text = write_graph_file(GraphFile(graph))
            key = self.page.evaluate(
                """async (text) => {
                    const { postForm } = await import("moth/base/api.js");
                    const file = new File([text], "random.moth.json", { type: "application/json" });
                    return (await postForm("/api/graphs/import", { file })).id;
                }""",
                text,
            )
            self.page.goto(f"{self.live.url}/graphs/{key}")
            self.settle()
            for opener, seen in (
                ("#cost", "dialog.cost-sheet"),
                ("#history-open", "#history"),
                ("#textures-open", "#texture-drawer"),
                ("#rename-everywhere", "dialog"),
            ):
                self.page.locator(opener).click()
                self.page.locator(seen).first.wait_for()
                self.page.keyboard.press("Escape")
            for node in list(self.nodes())[:4]:
                if output := next(iter(CATALOGUE[self.nodes()[node]["type"]].outputs), ""):
                    self.page.evaluate("(shown) => moth.model.setShown(shown)", f"{node}.{output}")
                    self.settle()
            self.assertEqual(self.page.get_by_text("on our side").count(), 0)

    def test_panels_beside_a_graph(self) -> None:
        self.open("Slate step")
        self.page.get_by_role("button", name="Edit parameter Moss begins").click()
        self.check("parameter dialog")
        self.page.keyboard.press("Escape")
        self.page.locator("#parameters .colour-field").first.click()
        self.check("colour panel")
        self.page.keyboard.press("Escape")
        self.page.locator("#textures-open").click()
        self.page.locator("#texture-drawer .texture-tile").first.wait_for()
        self.check("textures beside the graph")
        self.page.locator("#history-open").click()
        self.page.get_by_label("Name of the version").fill("First")
        self.page.get_by_role("button", name="Keep version").click()
        self.page.get_by_role("button", name="Compare First").click()
        self.page.locator("#comparison figure").first.wait_for()
        self.check("history and comparison")
        self.page.locator("#rename-everywhere").click()
        self.check("renaming everywhere")
        self.page.keyboard.press("Escape")
