"""What stacks of steps have in common on their way to the page, whatever they work on."""

import base64

from velvet_moth.core.pictures.formats import Samples, write_png
from velvet_moth.core.stacks.step import Step
from velvet_moth.web.api.catalogue import setting_state
from velvet_moth.web.api.texture_answers import StepKind


def described_step(step: Step) -> StepKind:
    """A kind of step as the page needs it."""
    return {
        "key": step.key,
        "name": step.name,
        "group": step.group,
        "help": step.help,
        "layers": list(step.layers),
        "gives": dict(step.gives),
        "reshapes": step.reshapes,
        "begins": step.begins,
        "settings": [setting_state(setting) for setting in step.settings.values()],
    }


def picture_address(samples: Samples) -> str:
    """A small picture as the address of a PNG."""
    return "data:image/png;base64," + base64.b64encode(write_png(samples, 1)).decode()
