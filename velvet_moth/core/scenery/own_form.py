"""The graph's own form or mesh as what lies behind: decals fall on it."""

from collections.abc import Mapping

from velvet_moth.core.forms.basic import plane
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.scenery.backdrops import declared_backdrop


def _plaster() -> Surface:
    """Plain and pale, so that what lies on it is seen."""
    return Surface(
        {**default_surface().channels, "base_colour": constant(0.42, 0.41, 0.39), "roughness": constant(0.8)}
    )


@declared_backdrop("Its form or mesh", _plaster, Camera(), Camera(), is_own=True)
def own_form() -> Mapping[str, Mesh]:
    """The form or mesh that the graph stands on, for decals to fall on."""
    return {"form": plane(2)}
