"""What a command declares of itself."""

import argparse
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Command:
    """A command by its ``name``: what its options are, and what it does with them, whose docstring is its help."""

    name: str
    add_options: Callable[[argparse.ArgumentParser], None]
    run: Callable[[argparse.Namespace], None]
