"""What requests for exports hold."""

from typing import Annotated, Literal

from pydantic import Field

from velvet_moth.core.exporting.baked.glb import BakeChoices
from velvet_moth.core.exporting.choices import LONGEST_PREFIX, Choices
from velvet_moth.core.exporting.package import NAMES
from velvet_moth.web.api.schemas import Key, Strict

_Word = Annotated[str, Field(max_length=32)]
# As a form sends a box that is ticked.
_Ticked = Literal["", "yes"]


class ExportRequest(Strict):
    """A language and a shape by their keys, what names begin with, and the variant whose values are the defaults."""

    language: _Word = Choices.language
    shape: _Word = Choices.shape
    prefix: Annotated[str, Field(max_length=LONGEST_PREFIX * 4)] = Choices.prefix
    variant: Key = ""
    switches: _Ticked = ""
    entry: _Ticked = ""
    reduced: _Ticked = ""
    packed: _Ticked = ""

    @property
    def choices(self) -> Choices:
        """What is asked, as the core takes it."""
        return Choices(
            self.language,
            self.shape,
            self.prefix,
            self.variant,
            switches=bool(self.switches),
            entry=bool(self.entry),
            reduced=bool(self.reduced),
            packed=bool(self.packed),
        )


class PackageRequest(ExportRequest):
    """Also the format of the textures, the most pixels a side (0 for any), their names, and whether the form or mesh goes along."""

    textures: _Word = "png"
    most: Annotated[int, Field(ge=0, le=16384)] = 0
    names: Annotated[str, Field(max_length=100)] = NAMES
    mesh: _Ticked = ""


class MaterialRequest(Strict):
    """The variant whose values are the defaults, and the format of the textures."""

    variant: Key = ""
    textures: _Word = "png"


class BakeRequest(Strict):
    """How a graph is baked; without a moment (s) at the first at which there is something to see."""

    size: int = BakeChoices.size
    padding: int = BakeChoices.padding
    moment: Annotated[float, Field(ge=0, le=3600, allow_inf_nan=False)] | None = None
    variant: Key = ""
    has_variants: bool = True

    @property
    def choices(self) -> BakeChoices:
        """What is asked, as the core takes it."""
        return BakeChoices(self.size, self.padding, self.moment, self.variant, self.has_variants)
