"""``python -m velvet_moth.cli COMMAND``"""

import argparse
import sys

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.cli.blocks import BLOCKS
from velvet_moth.cli.compile import COMPILE
from velvet_moth.cli.export import EXPORT
from velvet_moth.cli.mesh import MESH
from velvet_moth.cli.render import RENDER
from velvet_moth.cli.texture import TEXTURE
from velvet_moth.core.base.errors import MothError

COMMANDS = (COMPILE, EXPORT, RENDER, TEXTURE, MESH, BLOCKS)


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./moth")
    commands = parser.add_subparsers(required=True)
    for command in COMMANDS:
        own = commands.add_parser(command.name, help=command.run.__doc__)
        command.add_options(own)
        own.set_defaults(run=command.run)
    options = parser.parse_args(arguments)
    try:
        options.run(options)
    except MothError as error:
        print(f"{error.what}\n  where: {error.where}\n  mend:  {error.mend}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
