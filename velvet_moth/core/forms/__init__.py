"""Forms: the meshes a surface is judged on, each one function that returns a Mesh."""

from velvet_moth.core.forms import hair, plants, sheets, solids
from velvet_moth.core.forms.basic import box, plane, sphere
from velvet_moth.core.forms.mesh import FORMS, Mesh, form, form_kind, is_form
from velvet_moth.core.forms.mooring import mooring
from velvet_moth.core.forms.plants import reeds

__all__ = [
    "FORMS",
    "Mesh",
    "box",
    "form",
    "form_kind",
    "hair",
    "is_form",
    "mooring",
    "plane",
    "plants",
    "reeds",
    "sheets",
    "solids",
    "sphere",
]
