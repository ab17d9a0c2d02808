"""Every operation on a stack is undone by its inverse, reads back as it was written, and leaves a stack that reads back."""

import random
import unittest
from collections import Counter
from typing import Any

import numpy as np
from pydantic import TypeAdapter, ValidationError

from tests.support.edits import StackDraws
from velvet_moth.core.baking.operations import AnyStackOperation
from velvet_moth.core.baking.stack import MeshStack, mesh_stack_from_json, mesh_stack_to_json
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.making.beginnings import BEGINNINGS
from velvet_moth.core.making.recipe import Recipe, recipe_from_json, recipe_to_json
from velvet_moth.core.stacks.operations import (
    AddOutput,
    AddStep,
    AddStroke,
    MoveStep,
    RemoveStep,
    SetStepSetting,
    StackOperation,
    replace_texture,
)
from velvet_moth.core.stacks.stack import Stack, problems
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of

STACK: TypeAdapter[StackOperation] = TypeAdapter(AnyStackOperation)


WRITTEN: dict[type[Stack], tuple[Any, Any]] = {
    Recipe: (recipe_from_json, recipe_to_json),
    MeshStack: (mesh_stack_from_json, mesh_stack_to_json),
}


def begun(name: str) -> Recipe:
    return recipe_from_json(BEGINNINGS[name])


class RandomEdits(unittest.TestCase):
    def test_whatever_is_done_is_undone_and_reads_back(self) -> None:
        taken: Counter[str] = Counter()
        begun_with = [begun(sorted(BEGINNINGS)[seed % len(BEGINNINGS)]) for seed in range(12)]
        painted: Stack = MeshStack("Steps")
        for _ in range(2):
            painted = AddStep("paint").apply(painted)[0]
            painted = AddStroke(painted.steps[-1].id, Stroke(text_of(np.ones((2, WIDTH), np.float32)), ("red",))).apply(
                painted
            )[0]
        for seed, stack in enumerate([*begun_with, *[MeshStack("Steps")] * 6, *[painted] * 6]):
            draw, recipe = random.Random(seed), stack
            from_json, to_json = WRITTEN[type(stack)]
            for _ in range(120):
                drawn = StackDraws(recipe, draw, wild=0.1).operation()
                try:
                    operation = STACK.validate_python(STACK.dump_python(drawn))
                    after, inverse = operation.apply(recipe)
                except (OperationRefused, ValidationError) as refusal:
                    self.assertTrue(str(refusal))
                    continue
                taken[operation.op] += 1
                self.assertTrue(operation.words(recipe))
                kept = STACK.validate_python(STACK.dump_python(inverse, mode="json"))
                self.assertEqual(kept.apply(after)[0], recipe, operation)
                self.assertEqual(from_json(to_json(after)), after)
                problems(after)
                recipe = after
        self.assertEqual(set(taken), {kind.op for kind in StackOperation.kinds}, "each is taken now and then")


class Rules(unittest.TestCase):
    def test_what_comes_from_a_step_goes_with_it_and_comes_back(self) -> None:
        recipe = begun("Grain")
        for operation in (
            AddStep("invert"),
            AddStep("blend"),
            SetStepSetting("blend_1", "over", {"step": "invert_1"}),
            AddOutput("invert_1", "picture"),
        ):
            recipe = operation.apply(recipe)[0]
        after, inverse = RemoveStep("invert_1").apply(recipe)
        self.assertNotIn("over", after.steps[-1].values)
        self.assertEqual([o.step for o in after.outputs], [o.step for o in recipe.outputs if o.step != "invert_1"])
        self.assertEqual(inverse.apply(after)[0], recipe)

    def test_refusals_say_what_to_do(self) -> None:
        recipe = begun("Grain")
        first = recipe.steps[0].id
        cases: list[tuple[StackOperation, str]] = [
            (AddStep("weave"), "There is no step 'weave'."),
            (MoveStep(first, 9), "There is no place 10."),
            (SetStepSetting(first, "cells", 0), "Cells takes a number from 1"),
            (SetStepSetting(first, "colour of the sea", 0), "has nothing called"),
            (AddOutput(first, "smell"), "has no layer 'smell'"),
            (RemoveStep("gone"), "This step is no longer in the stack."),
        ]
        for operation, words in cases:
            with self.assertRaises(OperationRefused) as caught:
                operation.apply(recipe)
            self.assertIn(words, caught.exception.what)
            self.assertTrue(caught.exception.mend)

    def test_a_texture_is_replaced_in_tiles_too(self) -> None:
        maps = {"base_colour": {"texture": "old"}, "roughness": {"texture": "other"}}
        stack: Any = {"name": "Set", "size": [64, 64], "steps": [{"id": "a", "step": "tile_palette", "values": {}}]}
        stack["steps"][0]["values"]["tiles"] = [{"name": "", "maps": maps}]
        after = replace_texture(recipe_from_json(stack), "old", "new").apply(recipe_from_json(stack))[0]
        self.assertEqual(after.textures(), {"new", "other"})
