"""The types of what the server sends and takes, as the scripts' type checker reads them.

``python -m tooling.script_types`` writes them; with ``--check`` it fails where they are not up to date.
"""

import re
import subprocess
import sys

from tooling.places import PYTHON, ROOT

TYPES = ROOT / "velvet_moth/web/static/js/types.d.ts"
BANNER = "/** The types of what the server sends and takes, made by `./moth types`; for the type checker only. */"
# The tool says in comments what a tuple's type says already.
_LENGTHS = re.compile(r"^ *(\* @(min|max)Items \d+|/\*\*\n( *\* @(min|max)Items \d+\n)+ *\*/)\n", re.MULTILINE)


def made() -> str:
    """The text of the file, from the declarations of the core and of the interface."""

    def output(command: list[str], given: str) -> str:
        return subprocess.run(command, cwd=ROOT, input=given, check=True, stdout=subprocess.PIPE, text=True).stdout

    schema = output([str(PYTHON), "-m", "velvet_moth.web.api.script_types"], "")
    text = output(["node_modules/.bin/json2ts", "--no-additionalProperties", "--bannerComment", BANNER], schema)
    return output(["node_modules/.bin/prettier", "--stdin-filepath", str(TYPES)], _LENGTHS.sub("", text))


def main(arguments: list[str]) -> int:
    """Writes the file, or says that it is old."""
    text = made()
    if "--check" not in arguments:
        TYPES.write_text(text)
    elif TYPES.read_text() != text:
        print(f"{TYPES.relative_to(ROOT)} is not what the server sends now: run ./moth types")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
