"""What the scripts of the stage know of the core, on whatever page it stands."""

from velvet_moth.core.catalogue.settings import spoken
from velvet_moth.core.emitting.emitter import INSTANCE, NO_EMITTER
from velvet_moth.core.emitting.per_instance import ACROSS, INSTANCE_TEXTURES
from velvet_moth.core.forms import FORMS
from velvet_moth.core.language.inputs import HARMONICS, MOST_LAMPS
from velvet_moth.core.lighting.backdrop import FAR, grey_light
from velvet_moth.core.lighting.decal_buffers import EMPTY_BUFFERS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.lighting.shadow import NOTHING, SIZE
from velvet_moth.core.render.looks import LOOKS
from velvet_moth.core.scenery.backdrops import BACKDROPS
from velvet_moth.web.pages.settings import StageSettings


def settings_for_stage() -> StageSettings:
    """First views, rigs, looks, and the names of what shaders read."""
    return {
        "views": {key: form.view for key, form in FORMS.items()},
        "cells": {key: form.cells for key, form in FORMS.items() if form.cells},
        "backdrops": {key: behind.view for key, behind in BACKDROPS.items() if not behind.is_own},
        "own_backdrops": [key for key, behind in BACKDROPS.items() if behind.is_own],
        "backdrop_parts": {key: {part: spoken(part) for part in behind.parts()} for key, behind in BACKDROPS.items()},
        "standing": {key: behind.standing for key, behind in BACKDROPS.items() if not behind.is_own},
        "rigs": {
            key: {
                "turn": kind.rig.turn,
                "tilt": kind.rig.tilt,
                "colour": list(kind.rig.sun_colour),
                "exposure": kind.rig.exposure,
                "lamps": list(kind.rig.lamps),
                "far": [*grey_light(kind.rig.exposure), FAR],
            }
            for key, kind in RIGS.items()
        },
        "looks": {key: look.name for key, look in LOOKS.items()},
        "instances": {
            "idle": {
                **{name: list(numbers) for name, numbers in INSTANCE.items()},
                **{name: v.ravel().tolist() for name, v in NO_EMITTER.inputs.items()},
            },
            "textures": list(INSTANCE_TEXTURES),
            "across": ACROSS,
        },
        "lamps": MOST_LAMPS,
        "harmonics": list(HARMONICS),
        "decal_buffers": {**EMPTY_BUFFERS},
        "sun": {"size": SIZE, "nothing": NOTHING},
    }
