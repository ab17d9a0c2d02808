"""What was run to show that the languages are equal, with the numbers: written by ``python -m tests.proof``."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from pydantic import TypeAdapter

RECORD = Path(__file__).with_suffix(".json")


@dataclass(frozen=True)
class Proof:
    """One language: which ``compilers`` took how many texts of ``graphs`` demo graphs, and ``random`` ones; all ``nodes`` too.

    Where texts were executed, ``device`` says on what: ``values`` were compared with NumPy, of which ``beyond`` differ by more than a
    step of 255, and none by more than ``largest``. ``elsewhere`` says where else it runs.
    """

    compilers: str
    graphs: int
    random: int
    nodes: int
    refused: int
    device: str = ""
    values: int = 0
    beyond: int = 0
    largest: float = 0.0
    elsewhere: str = ""

    @property
    def words(self) -> str:
        """All of it in a line."""
        taken = (
            f"{self.compilers} accepted all {self.nodes} nodes, {self.graphs} demo graphs and {self.random} random ones"
            if not self.refused
            else f"{self.compilers} refused {self.refused} texts"
        )
        if not self.device:
            return f"{taken}. {self.elsewhere or 'It was not executed here.'}"
        return (
            f"{taken}. Executed on {self.device}: {self.beyond} of {self.values:,} values are off NumPy by more than a step of 255, "
            f"none by more than {self.largest:.5f}."
        )


PROOFS = TypeAdapter(dict[str, Proof])


@cache
def proofs() -> Mapping[str, Proof]:
    """What was run for each language, by its key."""
    return PROOFS.validate_json(RECORD.read_bytes())
