"""What a page does when the database is away, its key is out of date, or something kept cannot be read."""

from playwright.sync_api import Route
from sqlalchemy import text

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import wait_until


class UnderFire(WorkbenchCase):
    def test_an_edit_waits_for_a_database_that_is_away(self) -> None:
        self.open("Quay pebbles")
        away = [0]

        def answer(route: Route) -> None:
            away[0] += 1
            if away[0] > 2:
                return route.continue_()
            error = {"code": "database-away", "what": "The database does not answer just now.", "where": "", "mend": ""}
            route.fulfill(status=503, json={"error": error}, headers={"Retry-After": "2"})

        self.page.route("**/operations", answer)
        before = self.state("revision")
        self.page.evaluate("() => void moth.model.edit({ op: 'set_title', value: 'Kept pebbles' })")
        self.page.locator(".notice", has_text="The database does not answer just now. Your edit is kept").wait_for()
        wait_until("the edit is in", lambda: self.state("document")["title"] == "Kept pebbles")
        self.assertEqual(self.state("revision"), before + 1)
        self.page.evaluate("() => moth.model.undo()")
        self.settle()
        self.expect_refusal(503)

    def test_a_lost_cookie_costs_no_edit(self) -> None:
        self.open("Quay pebbles")
        self.context.clear_cookies()
        before = self.state("revision")
        self.page.evaluate("() => moth.model.edit({ op: 'set_title', value: 'Pebbles again' })")
        wait_until("the edit is in", lambda: self.state("document")["title"] == "Pebbles again")
        self.assertEqual(self.state("revision"), before + 1)
        self.page.evaluate("() => moth.model.undo()")
        self.settle()
        self.expect_refusal(400)

    def test_what_cannot_be_read_is_said_on_its_tile_and_can_go(self) -> None:
        spoil = "update graphs set document = jsonb_set(document, '{version}', '99'), trouble = null, state = 'spoilt'"
        with self.live.engine.begin() as connection:
            connection.execute(text(f"{spoil} where title = 'Silt splash'"))
            connection.execute(text("update graphs set changed = now() where title = 'Silt splash'"))
        self.page.goto(self.live.url)
        tile = self.page.locator('.graph-tile[data-title="Silt splash"]')
        tile.get_by_text("version 99").wait_for()
        tile.get_by_role("button").click()
        with self.page.expect_download() as download:
            self.page.get_by_role("menuitem", name="Export as it is kept").click()
        self.assertIn('"version": 99', download.value.path().read_text())
        tile.get_by_role("button").click()
        self.page.get_by_role("menuitem", name="Delete").click()
        tile.wait_for(state="hidden")
        self.page.get_by_role("button", name="Undo").click()
        tile.wait_for()

    def test_more_tiles_come_as_they_are_scrolled_to_and_are_found_by_title(self) -> None:
        with self.live.engine.begin() as connection:
            columns = "project_id, title, revision, nodes, variants, kind, uses, reads, backdrop_graphs, tags, mesh, trouble, document, undo, redo"
            values = columns.replace("title", "'Shelf ' || n").replace("trouble", "''")
            connection.execute(
                text(
                    f"insert into graphs (state, changed, {columns}) select md5(n::text), now() - n * interval '1 day',"
                    f" {values} from graphs, generate_series(1, 70) n where title = 'Quay pebbles'"
                )
            )
        self.page.goto(self.live.url)
        tiles = self.page.locator("#graphs .graph-tile")
        self.assertEqual(tiles.count(), 60)

        def scrolled() -> bool:
            self.page.locator("#graphs .graph-tile").last.scroll_into_view_if_needed()
            return tiles.count() > 70

        wait_until("all tiles are there", scrolled)
        self.page.get_by_role("searchbox", name="Find by title or tag").fill("shelf 69")
        self.page.keyboard.press("Enter")
        self.page.wait_for_url("**q=shelf*")
        self.assertEqual(tiles.count(), 1)
        self.page.get_by_role("searchbox", name="Find by title or tag").fill("nothing so named")
        self.page.keyboard.press("Enter")
        self.page.get_by_text("No graph has nothing so named in its title or tags.").wait_for()
