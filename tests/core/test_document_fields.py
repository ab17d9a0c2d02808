"""A field of the document and an operation are declared at one place: whatever knows them finds them there."""

import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[2]
PACKAGE = "velvet_moth"

# The declaration of a field and the line of the record that has it, as somebody who adds one would write them.
DECLARATION = """
def _check_weather(weather: str, title: str) -> str:
    if weather == "frogs":
        raise OperationRefused("This is no weather.", title, "Choose another.")
    return weather.strip()


WEATHER = DocumentField(
    _check_weather, lambda before, after: f"made the weather {after}", lambda before, after: f"the weather is {after}"
)
"""
LINE = '    weather: TextureId = field(default="", metadata=described(scene.WEATHER))\n'
AFTER = '    environment: TextureId = field(default="", metadata=described(scene.ENVIRONMENT))\n'

OPERATION = """
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.records import Whole
from velvet_moth.core.operations.fields import set_field
from velvet_moth.core.operations.operation import Operation


@dataclass(frozen=True)
class Shout(Operation):
    times: Whole
    op: Literal["shout"] = "shout"

    def apply(self, graph):
        return replace(graph, title=graph.title + "!" * self.times), set_field("title", graph.title)

    def words(self, graph):
        return "shouted"
"""

PROBE = """
import random
from dataclasses import replace
from pydantic import ValidationError
from tests.support.edits import random_operation
from tests.support.graphs import enamel
from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.editing.comparison import differences, operations_between
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.operations import set_field
from velvet_moth.store.codec import operation_from_json, operation_to_json
from velvet_moth.store.importing import rebound
from velvet_moth.web.api.schemas import EditRequest

graph = enamel()
operation = set_field("weather", " rain ")
wet, undo = operation.apply(graph)
assert (wet.weather, undo.apply(wet)[0]) == ("rain", graph), "applied and undone"
assert operation.words(graph) == "made the weather  rain ", "in the history"
try:
    set_field("weather", "frogs").apply(graph)
    raise AssertionError("refused")
except OperationRefused as error:
    assert "no weather" in error.what

document = graph_to_json(wet)
assert document["weather"] == "rain" and graph_from_json(document) == wet, "written and read"
for wrong, words in ((7, "A text is needed"), ("frogs", "no weather")):
    try:
        graph_from_json({**document, "weather": wrong})
        raise AssertionError("read what is wrong")
    except FileRefused as error:
        assert words in error.what and "weather" in error.where, error
mended = []
assert graph_from_json({**document, "weather": 7}, mended=mended).weather == "" and mended

assert differences(graph, wet).elsewhere == ("the weather is rain",), "compared"
assert operations_between(graph, wet, "back").apply(graph)[0] == wet, "brought back"
assert rebound(wet, {"rain": "snow"}).weather == "snow" and "rain" in wet.texture_ids(), "copied between graphs"

data = {"op": "set_weather", "value": " rain "}
assert operation_to_json(operation) == data and operation_from_json(data) == operation, "in the interface"
try:
    operation_from_json({"op": "set_weather", "value": 7})
    raise AssertionError("taken")
except ValidationError:
    pass
assert EditRequest.model_validate({"revision": 0, "operation": data}).operation == operation, "taken"
assert {"SetWeather", "Shout"} <= set(EditRequest.model_json_schema()["$defs"]), "described"
assert operation_from_json({"op": "shout", "times": 2}).apply(graph)[0].title == "Ferry enamel!!"
drawn = {random_operation(graph, random.Random(seed)).op for seed in range(400)}
assert {"set_weather", "shout"} <= drawn, "drawn at random"
"""


class Declared(unittest.TestCase):
    def test_a_new_field_is_everywhere_at_once(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for name in (PACKAGE, "tests"):
                shutil.copytree(
                    ROOT / name, Path(folder) / name, ignore=shutil.ignore_patterns("static", "__pycache__", "browser")
                )
            document = Path(folder) / PACKAGE / "core/document"
            record = (document / "graph.py").read_text()
            self.assertIn(AFTER, record)
            (document / "graph.py").write_text(record.replace(AFTER, AFTER + LINE))
            with (document / "scene.py").open("a") as scene:
                scene.write(DECLARATION)
            operations = Path(folder) / PACKAGE / "core/operations"
            (operations / "shout.py").write_text(OPERATION)
            with (operations / "__init__.py").open("a") as every:
                every.write("from velvet_moth.core.operations import shout\n")
            done = subprocess.run([sys.executable, "-c", PROBE], cwd=folder, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stderr[-3000:])
