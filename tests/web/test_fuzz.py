"""The JSON interface under calls drawn from its own description: never a failure, whatever is sent."""

import os

from tests.support.fuzz import fuzz
from tests.web.test_web import WebCase
from velvet_moth.web.api.description import description

# Of each address. More with MOTH_CALLS in the environment.
CALLS = int(os.environ.get("MOTH_CALLS", "6"))
# The addresses are shared out over so many tests.
PARTS = 3


class Fuzzed(WebCase):
    def check(self, part: slice) -> None:
        self.app.config["PROPAGATE_EXCEPTIONS"] = False
        found = fuzz(self.app, CALLS, part)
        self.assertEqual(found.wrong, [])
        done = sum(count for (_, status), count in found.answers.items() if status < 300)
        self.assertGreater(done, found.answers.total() // 25, found.answers)
        self.assertLess(found.slowest[0], 5.0, found.slowest)

    def test_no_call_fails(self) -> None:
        self.check(slice(0, None, PARTS))

    def test_no_call_of_the_next_fails(self) -> None:
        self.check(slice(1, None, PARTS))

    def test_no_call_of_the_last_fails(self) -> None:
        self.check(slice(2, None, PARTS))

    def test_every_address_is_described(self) -> None:
        told = self.client.get("/api").get_json()
        self.assertEqual(told, description(self.app))
        addresses = {rule.rule for rule in self.app.url_map.iter_rules() if rule.rule.startswith("/api/")}
        # News have no end, and the key is for the pages of this program alone.
        self.assertEqual(len(addresses - {"/api/events", "/api/key"}), len(told["paths"]))
        edit = told["paths"]["/api/graphs/{key}/operations"]["post"]
        self.assertIn("operation", str(edit["requestBody"]))
