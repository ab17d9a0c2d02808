"""The commands of ./moth."""

import argparse
import contextlib
import os
import secrets
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from types import FrameType

from tooling.places import MADE_FILES, PYTHON, ROOT, WORK, cluster_folder
from tooling.postgres import Cluster
from tooling.steps import StepFailed, prepare

FIRST_PORT = 8610


class Stopped(Exception):
    """SIGINT or SIGTERM arrived."""


@contextlib.contextmanager
def _signals_stop() -> Iterator[None]:
    def stop(number: int, _: FrameType | None) -> None:
        raise Stopped(signal.Signals(number).name)

    before = {s: signal.signal(s, stop) for s in (signal.SIGINT, signal.SIGTERM)}
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


def _web_port(wanted: int | None) -> int:
    """The wanted port, or the first free one from 8610 on."""
    for port in [wanted] if wanted else range(FIRST_PORT, FIRST_PORT + 100):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise StepFailed(f"Port {wanted or FIRST_PORT} is in use. Choose another: ./moth up --port NUMBER")


def _secret_file() -> str:
    path = WORK / "secret"
    if not path.exists():
        WORK.mkdir(parents=True, exist_ok=True)
        with open(os.open(path, os.O_CREAT | os.O_WRONLY, 0o600), "w") as file:
            file.write(secrets.token_urlsafe(32))
    return str(path)


def _environment(**more: str) -> dict[str, str]:
    return {**os.environ, "PYTHONPATH": str(ROOT), **more}


def up(options: argparse.Namespace) -> int:
    """Serve until stopped."""
    prepare()
    with _signals_stop():
        try:
            with Cluster(cluster_folder()).serving() as address:
                port = str(_web_port(options.port))
                child = subprocess.Popen(
                    [str(PYTHON), "-m", "velvet_moth.web.serve", _secret_file(), port, str(MADE_FILES)],
                    cwd=ROOT,
                    env=_environment(MOTH_DATABASE=f"{address}/velvet_moth"),
                )
                try:
                    return child.wait()
                finally:
                    child.terminate()
                    child.wait()
        except Stopped as stopped:
            print(f"moth: stopped by {stopped}", flush=True)
            return 0


def test(options: argparse.Namespace) -> int:
    """Check the code, then run every test on a database of its own; ends with the counts."""
    prepare(for_tests=True)
    with _signals_stop(), Cluster(WORK_TESTS, durable=False).serving() as address:
        environment = _environment(MOTH_TEST_SERVER=address)
        return subprocess.call([str(PYTHON), "-m", "tests.run", *options.names], cwd=ROOT, env=environment)


# Root's test data must be readable for PostgreSQL's own user, as the real data must.
WORK_TESTS = cluster_folder().with_name(cluster_folder().name + "-tests")

CHECKS: tuple[tuple[str, Sequence[str]], ...] = (
    ("ruff", (".venv/bin/ruff", "check", ".")),
    ("ruff format", (".venv/bin/ruff", "format", "--check", ".")),
    ("mypy", (".venv/bin/mypy",)),
    ("imports", (".venv/bin/lint-imports", "--no-cache")),
    ("eslint", ("node_modules/.bin/eslint", ".")),
    ("types of scripts", ("node_modules/.bin/tsc", "--project", "tsconfig.json")),
    ("script format", ("node_modules/.bin/prettier", "--check", "velvet_moth/web/static/js", "velvet_moth/web/styles")),
)


def check(_: argparse.Namespace) -> int:
    """Lint, types and format; prints what failed."""
    prepare(for_tests=True)
    running = [
        (name, subprocess.Popen(command, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True))
        for name, command in CHECKS
    ]
    failed = 0
    for name, process in running:
        output, _ = process.communicate()
        print(f"{'ok    ' if process.returncode == 0 else 'FAILED'} {name}", flush=True)
        if process.returncode:
            failed += 1
            print(output)
    return 1 if failed else 0


def _tool(options: argparse.Namespace) -> int:
    """A command of the application that needs no server."""
    prepare()
    return subprocess.call([str(PYTHON), "-m", "velvet_moth.cli", options.command, *options.rest], env=_environment())


def main(arguments: Sequence[str]) -> int:
    parser = argparse.ArgumentParser(prog="./moth", description="Velvet Moth: node-based real-time shaders.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    serve = commands.add_parser("up", help="install what is missing, start the database, serve")
    serve.add_argument("--port", type=int, help=f"the web port (default: the first free one from {FIRST_PORT})")
    serve.set_defaults(run=up)
    tests = commands.add_parser("test", help="set up and run every test")
    tests.add_argument("names", nargs="*", help="test modules or folders, e.g. tests.core (default: all)")
    tests.set_defaults(run=test)
    commands.add_parser("check", help="lint, types and format").set_defaults(run=check)
    tools = {
        "compile": "write a graph file's shader",
        "render": "draw a graph file's picture",
        "texture": "make the textures of a stack, or convert a picture",
    }
    for name, words in tools.items():
        tool = commands.add_parser(name, help=words, add_help=False)
        tool.add_argument("rest", nargs=argparse.REMAINDER)
        tool.set_defaults(run=_tool)
    options = parser.parse_args(list(arguments))
    started = time.monotonic()
    try:
        return int(options.run(options))
    except StepFailed as failure:
        print(f"moth: {failure}", file=sys.stderr)
        return 2
    except (Stopped, KeyboardInterrupt):
        print(f"moth: stopped after {time.monotonic() - started:.0f} s", file=sys.stderr)
        return 130
