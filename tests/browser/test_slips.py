"""Slips: what a card has to say, on a sheet beside it."""

from tests.browser.bench_page import WorkbenchCase
from tests.support.browser import wait_until

# What a slip covers that it must leave free: ends of its card's wires (with 6 px around), and the card itself.
COVERED = """(id) => {
    const { slips, view, wires, pane } = moth.pane;
    slips.open(id);
    const [slip, card, box] = [slips.slips.get(id).element, moth.pane.cards.get(id).element, pane].map((e) =>
        e.getBoundingClientRect());
    const covers = (x, y, by) =>
        x > slip.left - by && x < slip.right + by && y > slip.top - by && y < slip.bottom + by;
    const ends = wires.endsOf(id).map((end) => view.toPane(end));
    const inside = slip.left >= box.left && slip.right <= box.right && slip.top >= box.top && slip.bottom <= box.bottom;
    return [
        ends.filter(([x, y]) => covers(x + box.left, y + box.top, 6)).length,
        covers((card.left + card.right) / 2, (card.top + card.bottom) / 2, 0),
        inside,
        slip.width,
    ];
}"""


class Slips(WorkbenchCase):
    def test_a_second_press_opens_and_no_card_changes_its_size(self) -> None:
        self.open("Boathouse tiles")
        page, card = self.page, self.page.locator(".card[data-node='glaze']")
        before = card.bounding_box()
        card.locator("h3").click()
        self.assertEqual(page.locator(".slip").count(), 0, "selecting opens nothing")
        card.locator("h3").click()
        slip = page.locator(".slip")
        slip.wait_for()
        self.assertEqual(card.bounding_box(), before)
        cut = "(s) => [...s.querySelectorAll('.input-name')].filter((n) => n.scrollWidth > n.clientWidth).length"
        self.assertEqual(slip.evaluate(cut), 0)
        page.mouse.click(*self.empty_place())
        slip.wait_for(state="detached")

    def test_no_slip_covers_its_card_or_an_end_of_its_wires(self) -> None:
        self.open("Basin water")
        for zoom in (1, 0.4, 2.2):
            self.page.evaluate("(zoom) => { moth.pane.fit(); moth.pane.view.zoomBy(zoom); }", zoom)
            for node in [key for key in self.nodes() if key != "dock"]:
                with self.subTest(node, zoom=zoom):
                    self.page.evaluate("(id) => moth.pane.focus(id)", node)
                    self.assertEqual(self.page.evaluate(COVERED, node), [0, False, True, 288])

    def test_escape_closes_what_was_opened_last_wherever_the_keyboard_is(self) -> None:
        self.open("Basin shimmer")
        page = self.page
        shown = lambda: page.evaluate(  # noqa: E731 - asked after each press
            """() => [".menu", ".slip", "#finder", "#texture-drawer", ".stage-alone", ".card.selected"].filter((s) => {
                const e = document.querySelector(s); return e && !e.hidden; })"""
        )
        self.select("wide")
        page.locator("#textures-open").click()
        page.locator("#texture-drawer .texture-tile").first.wait_for()
        page.locator("#finder-open").click()
        self.select("wide_map")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="More", exact=True).click()
        page.locator(".menu").wait_for()
        page.locator("#stage").focus()
        wanted = [".menu", ".slip", "#finder", "#texture-drawer", ".card.selected"]
        for gone in (".menu", ".slip", "#finder", "#texture-drawer", ".card.selected"):
            self.assertEqual(shown(), wanted)
            page.keyboard.press("Escape")
            wanted.remove(gone)
        self.assertEqual(shown(), [])

    def test_the_keyboard_goes_in_and_out_and_a_kept_slip_stays(self) -> None:
        self.open("Basin shimmer")
        page = self.page
        slip = self.open_slip("wide_map")
        field = slip.locator("[data-focus='slip.wide_map.strength']")
        field.fill("0.7")
        field.press("Enter")
        wait_until("it is kept", lambda: self.nodes()["wide_map"]["values"]["strength"] == [0.7])
        self.settle()
        before = slip.bounding_box()
        slip.get_by_role("button", name="Move slip").press("ArrowUp")
        self.assertNotEqual(slip.bounding_box(), before)
        page.keyboard.press("Escape")
        self.assertEqual(slip.count(), 0)
        self.assertEqual(page.evaluate("() => document.activeElement.dataset.node"), "wide_map")
        self.open_slip("wide_map").get_by_role("button", name="Keep open").press("Enter")
        self.open_slip("wide")
        self.assertEqual(page.locator(".slip").count(), 2)
        page.keyboard.press("Escape")
        self.assertEqual(page.locator(".slip").get_attribute("data-node"), "wide_map")
        self.select("wide_map")
        page.keyboard.press("Delete")
        slip.wait_for(state="detached")
        page.keyboard.press("Control+z")
