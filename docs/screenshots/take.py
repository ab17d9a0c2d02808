"""Takes the pictures of this folder from a running ./moth up with a fresh demo.

Run: .venv/bin/python -m docs.screenshots.take http://127.0.0.1:8610
"""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.support.browser import ARGUMENTS, CHROMIUM, wait_until

HERE = Path(__file__).parent


def shoot(page: Page, name: str) -> None:
    page.screenshot(path=HERE / f"{name}.png")


def open_graph(page: Page, home: str, title: str) -> None:
    page.goto(home)
    page.get_by_role("link", name=f"Open {title}").click()
    page.wait_for_url("**/graphs/*")
    ready = (
        "() => window.moth?.stage.isReady && moth.stage.isAtBest && !moth.stage.isBusy"
        " && [...document.querySelectorAll('#variants canvas')].every((c) => c.dataset.painted)"
    )
    wait_until("the workbench is painted", lambda: page.evaluate(ready))


def main(home: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=list(ARGUMENTS))
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        in_view = (
            "() => [...document.images].filter((i) => i.offsetParent && i.getBoundingClientRect().top < innerHeight)"
            ".every((i) => i.complete && i.naturalWidth)"
        )
        page.goto(home)
        page.evaluate("() => localStorage.setItem('moth.hint', '99')")
        loaded = "() => [...document.images].every((i) => i.complete && i.naturalWidth)"
        wait_until("the pictures are loaded", lambda: page.evaluate(in_view))
        shoot(page, "library")
        page.goto(f"{home}/textures")
        still = "() => !room.stack.isLooking && !!room.viewer.levels"
        for tile, name, tab in (("Dock leaf colour", "textures", "How it is made"),):
            page.locator("#tiles .texture-tile", has_text=tile).click()
            page.get_by_role("button", name=tab).click()
            wait_until("the texture is seen", lambda: page.evaluate(still))
            wait_until("its steps are seen", lambda: page.evaluate(in_view))
            page.mouse.move(560, 420)
            shoot(page, name)
        page.goto(f"{home}/meshes")
        page.locator(".about-head").wait_for()
        wait_until("its picture is there", lambda: page.evaluate(loaded))
        page.locator("#tiles .texture-tile", has_text="Rudder board").click()
        page.locator(".about-head h2", has_text="Rudder board").wait_for()
        page.locator("#facts-tabs").get_by_role("button", name="Steps").click()
        page.locator(".step-name", has_text="Curvature").click()
        wait_until("the step is seen", lambda: page.locator("#at-vertex").inner_text().startswith("Curvature"))
        wait_until("the mesh is seen", lambda: page.evaluate("() => room.stage.isReady && room.stage.isAtBest"))
        shoot(page, "meshes")
        page.locator("#tiles .texture-tile", has_text="Weir stream").click()
        page.locator("#tiles .texture-tile[aria-pressed=true]", has_text="Weir stream").wait_for()
        page.locator(".step-name", has_text="Relaxed").click()
        with page.expect_response("**/stack/lines"):
            page.get_by_label("Directions are seen").select_option("streamlines")
        page.locator(".step-name", has_text="Comb").scroll_into_view_if_needed()
        wait_until("the flow is seen", lambda: page.evaluate("() => room.stage.isReady && room.stage.isAtBest"))
        shoot(page, "combing")
        page.goto(f"{home}/blocks")
        page.locator("#tiles .texture-tile", has_text="Lock-keeper's house").click()
        page.locator(".about-head h2", has_text="Lock-keeper's house").wait_for()
        page.locator("#stage").hover(position={"x": 330, "y": 480})
        wait_until("its palette is seen", lambda: page.evaluate(in_view))
        wait_until("the house is seen", lambda: page.evaluate("() => room.stage.isReady && room.stage.isAtBest"))
        shoot(page, "blocks")
        open_graph(page, home, "Ferry enamel")
        shoot(page, "workbench")
        page.locator("#stage").click(position={"x": 236, "y": 150})
        page.locator("#pins li").wait_for()
        shoot(page, "pin")
        open_graph(page, home, "Bronze gear")
        page.goto(f"{page.url.split('?')[0]}/export?as=baked&size=512")
        page.get_by_role("button", name="Bake", exact=True).click()
        wait_until("it is baked", lambda: page.locator(".baked-file img").count() > 0)
        wait_until("its sides are seen", lambda: page.evaluate(loaded))
        shoot(page, "export")
        for title, name in (
            ("Ferrywoman's braid", "hair"),
            ("Basin water", "water"),
        ):
            open_graph(page, home, title)
            scene = "() => !moth.model.state.document.backdrop || !!moth.stage.backdrop.loaded"
            wait_until("the scene is there", lambda ask=scene: page.evaluate(ask))
            wait_until("it is drawn", lambda: page.evaluate("() => moth.stage.isAtBest && !moth.stage.isBusy"))
            shoot(page, name)
        drawn = "() => moth.stage.isAtBest && !moth.stage.isBusy"
        open_graph(page, home, "Thrown at the quay")
        wait_until("the quay is there", lambda: page.evaluate("() => !!moth.stage.backdrop.loaded"))
        page.evaluate("() => moth.stage.setTime(4)")
        page.get_by_role("tab", name="Throw").click()
        page.get_by_role("button", name="Throw by hand").click()
        box = page.locator("#stage").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] * 0.62, box["y"] + box["height"] * 0.42
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 70, y - 50, steps=4)
        page.mouse.up()
        wait_until("it has landed", lambda: page.evaluate("() => moth.decals.thrown.splashes.length"))
        page.evaluate("() => moth.stage.setTime(4.14)")
        page.locator("#decal-tab-throw .throw-made").scroll_into_view_if_needed()
        wait_until("it is drawn", lambda: page.evaluate(drawn))
        shoot(page, "throwing")
        open_graph(page, home, "Steam ribbon")
        wait_until("the deck is there", lambda: page.evaluate("() => !!moth.stage.backdrop.loaded"))
        page.locator("#emitter").scroll_into_view_if_needed()
        wait_until("it is drawn", lambda: page.evaluate(drawn))
        shoot(page, "ribbon")
        open_graph(page, home, "Gravel quay patch")
        page.locator("#stage-more").click()
        page.get_by_role("menuitem", name="Paint on the mesh").click()
        page.locator("#painting .brush-strokes li").first.wait_for()
        box = page.locator("#stage").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] * 0.56, box["y"] + box["height"] * 0.42)
        wait_until("it is drawn", lambda: page.evaluate("() => moth.stage.isAtBest && !moth.stage.isBusy"))
        shoot(page, "painting")
        open_graph(page, home, "Basin water")
        page.locator("#cost").click()
        page.locator("dialog.cost-sheet").wait_for()
        shoot(page, "cost")
        page.keyboard.press("Escape")
        open_graph(page, home, "Ferry crate")
        page.locator("#stage-more").click()
        page.get_by_role("menuitem", name="Show all variants").click()
        wait_until("all are drawn", lambda: page.locator("#variant-grid canvas[data-painted]").count() == 4)
        shoot(page, "variants")
        open_graph(page, home, "Boathouse wall")
        page.get_by_role("button", name="Open the curve of Peeling").click()
        page.evaluate("() => (moth.tracks.view.show(0, 14), moth.stage.setTime(8.5))")
        page.locator(".key[data-target='crackle']").nth(0).click()
        page.locator(".key[data-target='crackle']").nth(1).click(modifiers=["Shift"])
        wait_until("it is drawn", lambda: page.evaluate("() => moth.stage.isAtBest && !moth.stage.isBusy"))
        painted = "() => [...document.querySelectorAll('#variants canvas')].every((c) => c.dataset.painted)"
        wait_until("the variants are", lambda: page.evaluate(painted))
        shoot(page, "timeline")
        open_graph(page, home, "Basin shimmer")
        page.locator("#graph-pane").focus()
        page.keyboard.press("h")
        page.get_by_label("Name of the version").fill("Calm evening")
        page.get_by_role("button", name="Keep version").click()
        page.get_by_role("button", name="Compare Calm evening").wait_for()
        page.evaluate("() => moth.pane.select(['wide', 'wide_drift', 'wide_map'])")
        page.locator("#graph-pane").focus()
        page.keyboard.press("r")
        page.keyboard.type("Wide ripples")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Frame Wide ripples, 3 cards").wait_for()
        for field, text in (("wide_map.strength", "0.9"), ("wide.tiling", "3 3")):
            page.locator(f".card [data-focus='{field}']").fill(text)
            page.keyboard.press("Enter")
            wait_until("it is saved", lambda: page.evaluate("() => moth.model.unsaved === 0"))
        page.get_by_role("button", name="Compare Calm evening").click()
        page.locator("#comparison figure").first.wait_for()
        wait_until("both pictures are there", lambda: page.evaluate(in_view))
        page.get_by_role("button", name="Fit", exact=True).click()
        wait_until(
            "the stage is still",
            lambda: page.evaluate("() => moth.stage.isReady && moth.stage.isAtBest && !moth.stage.isBusy"),
        )
        page.locator("#notices").evaluate("(e) => e.replaceChildren()")
        shoot(page, "history")
        for path, name in (("/nodes", "nodes"), ("/nodes/splash", "node")):
            page.goto(home + path)
            wait_until("the pictures are loaded", lambda: page.evaluate(in_view))
            shoot(page, name)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1].rstrip("/"))
