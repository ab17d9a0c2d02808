"""Forms: the meshes a surface is judged on, each one function that returns a Mesh."""

from velvet_moth.core.forms import hair, instances, plants, sheets, solids
from velvet_moth.core.forms.basic import box, plane, sphere
from velvet_moth.core.forms.mesh import FORMS, Mesh, form, form_kind, is_form
from velvet_moth.core.forms.mooring import mooring
from velvet_moth.core.forms.plants import reeds
from velvet_moth.core.forms.pose import AS_MADE, Pose, posed

__all__ = [
    "AS_MADE",
    "FORMS",
    "Mesh",
    "Pose",
    "box",
    "form",
    "form_kind",
    "hair",
    "instances",
    "is_form",
    "mooring",
    "plane",
    "plants",
    "posed",
    "reeds",
    "sheets",
    "solids",
    "sphere",
]
