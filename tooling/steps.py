"""Set-up steps. Each runs once and again only when one of its inputs changed (a stamp holds their hash)."""

import fcntl
import hashlib
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from glob import glob
from pathlib import Path

from tooling.places import IS_ROOT, PYTHON, ROOT, STAMPS, STATIC, VENV, WORK


class StepFailed(Exception):
    """A set-up step could not finish; the text says what failed and what to do."""


@dataclass(frozen=True)
class Step:
    """One stamped step: ``inputs`` are globs below the checkout, ``made`` must exist afterwards."""

    name: str
    inputs: Sequence[str]
    made: Sequence[Path]
    run: Callable[[], None]

    def digest(self) -> str:
        found = hashlib.sha256(f"{self.name}\0{sys.version}".encode())
        for pattern in self.inputs:
            for path in sorted(ROOT.glob(pattern)):
                if path.is_file():
                    found.update(f"{path.relative_to(ROOT)}\0".encode())
                    found.update(path.read_bytes())
        return found.hexdigest()

    def ensure(self) -> None:
        stamp = STAMPS / self.name
        digest = self.digest()
        if stamp.is_file() and stamp.read_text() == digest and all(p.exists() for p in self.made):
            return
        started = time.monotonic()
        print(f"moth: {self.name} ...", flush=True)
        self.run()
        STAMPS.mkdir(parents=True, exist_ok=True)
        stamp.write_text(digest)
        print(f"moth: {self.name} done in {time.monotonic() - started:.1f} s", flush=True)


def run(command: Sequence[str | Path], **extra: object) -> None:
    """Run a command in the checkout; its output goes to a log that is shown only on failure."""
    WORK.mkdir(parents=True, exist_ok=True)
    result = subprocess.run(  # type: ignore[call-overload]
        [str(part) for part in command],
        cwd=ROOT,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        **extra,
    )
    if result.returncode:
        tail = "\n".join(result.stdout.splitlines()[-25:])
        raise StepFailed(f"{' '.join(map(str, command))} failed:\n{tail}")


# The package that simplifies meshes is built where it is installed.
PACKAGES_TO_RUN = ("postgresql", "g++")
# Shaders that were sent out are executed by the software Vulkan of the last two.
PACKAGES_TO_TEST = ("chromium", "glslang-tools", "libvulkan1", "mesa-vulkan-drivers")
PROGRAMS = {"postgresql": "initdb", "g++": "g++", "chromium": "chromium", "glslang-tools": "glslangValidator"}
# What packages without a program bring.
WITHOUT_PROGRAM = {
    "libvulkan1": "/usr/lib/*/libvulkan.so.1",
    "mesa-vulkan-drivers": "/usr/share/vulkan/icd.d/lvp_icd.*.json",
}


def is_installed(package: str) -> bool:
    """Whether what a Debian package brings is there."""
    return any(glob(WITHOUT_PROGRAM[package])) if package in WITHOUT_PROGRAM else program(PROGRAMS[package]) is not None


def program(name: str) -> Path | None:
    """A program's path on PATH or in Debian's PostgreSQL folders, the newest first."""
    found = shutil.which(name)
    if found:
        return Path(found)
    folders = sorted(Path("/usr/lib/postgresql").glob("*/bin"), key=lambda p: int(p.parts[-2]), reverse=True)
    return next((folder / name for folder in folders if (folder / name).exists()), None)


def ensure_packages(packages: Sequence[str]) -> None:
    """Install Debian packages whose program is missing; without root, say the exact line to run."""
    missing = [name for name in packages if not is_installed(name)]
    if not missing:
        return
    if not IS_ROOT:
        raise StepFailed(
            "These Debian packages are missing and only root may install them. Run this line, then try again:\n"
            f"  sudo apt-get install -y --no-install-recommends {' '.join(missing)}"
        )
    print(f"moth: installing {' '.join(missing)} ...", flush=True)
    # Debian's package would otherwise start a cluster of its own at once.
    settings = Path("/etc/postgresql-common/createcluster.conf")
    if not settings.exists():
        settings.parent.mkdir(parents=True, exist_ok=True)
        settings.write_text("create_main_cluster = false\n")
    quiet = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    run(["apt-get", "update"], env=quiet)
    run(["apt-get", "install", "-y", "--no-install-recommends", *missing], env=quiet)


def _environment() -> None:
    if not PYTHON.exists():
        run([sys.executable, "-m", "venv", "--clear", VENV])


def _pip(lock: str) -> None:
    _environment()
    run([PYTHON, "-m", "pip", "install", "--quiet", "--no-deps", "--require-hashes", "-r", lock])


def _npm() -> None:
    if shutil.which("npm") is None:
        raise StepFailed("npm is missing. Install Node.js 20 or newer with npm, then try again.")
    run(["npm", "ci", "--ignore-scripts", "--no-audit", "--no-fund"])


VENDOR = {
    "three": "node_modules/three/build",
    "three-addons": "node_modules/three/examples/jsm/controls",
    "three-mesh-bvh": "node_modules/three-mesh-bvh/build",
    "dagre": "node_modules/@dagrejs/dagre/dist",
    "instrument-sans": "node_modules/@fontsource-variable/instrument-sans/files",
    "fira-mono": "node_modules/@fontsource/fira-mono/files",
}
VENDOR_FILES = {
    "three": ("three.module.js", "three.core.js"),
    "three-addons": ("OrbitControls.js",),
    "three-mesh-bvh": ("index.module.js",),
    "dagre": ("dagre.esm.js",),
    "instrument-sans": ("instrument-sans-latin-wght-normal.woff2", "instrument-sans-latin-ext-wght-normal.woff2"),
    "fira-mono": ("fira-mono-latin-400-normal.woff2", "fira-mono-latin-500-normal.woff2"),
}


def _vendor() -> None:
    shutil.rmtree(STATIC / "vendor", ignore_errors=True)
    for folder, names in VENDOR_FILES.items():
        target = STATIC / "vendor" / folder
        target.mkdir(parents=True)
        for name in names:
            shutil.copy(ROOT / VENDOR[folder] / name, target / name)


_STYLE_OUTPUT = ("-o", STATIC / "build" / "app.css")


def _styles() -> None:
    (STATIC / "build").mkdir(parents=True, exist_ok=True)
    run(("node_modules/.bin/tailwindcss", "--minify", "-i", "velvet_moth/web/styles/app.css", *_STYLE_OUTPUT))


PIP_APP = Step("python packages", ["requirements/app.txt"], [PYTHON], lambda: _pip("requirements/app.txt"))
PIP_DEV = Step(
    "python test packages", ["requirements/dev.txt"], [PYTHON.with_name("ruff")], lambda: _pip("requirements/dev.txt")
)
NPM = Step("npm packages", ["package-lock.json"], [ROOT / "node_modules/.bin/tailwindcss"], _npm)
FILES = Step("shipped files", ["package-lock.json", "tooling/steps.py"], [STATIC / "vendor/three"], _vendor)
STYLES = Step(
    "styles",
    [
        "package-lock.json",
        "velvet_moth/web/styles/*.css",
        "velvet_moth/web/templates/**/*",
        "velvet_moth/web/static/js/**/*.js",
    ],
    [STATIC / "build/app.css"],
    _styles,
)


def prepare(for_tests: bool = False) -> None:
    """Bring everything the application (or its tests) needs up to date, side by side where possible."""

    def python_side() -> None:
        PIP_APP.ensure()
        if for_tests:
            PIP_DEV.ensure()

    def script_side() -> None:
        NPM.ensure()
        FILES.ensure()
        STYLES.ensure()

    packages = (*PACKAGES_TO_RUN, *PACKAGES_TO_TEST) if for_tests else PACKAGES_TO_RUN
    WORK.mkdir(parents=True, exist_ok=True)
    with (WORK / "preparing.lock").open("w") as lock, ThreadPoolExecutor(3) as pool:
        # Two commands at once would install into one another's files.
        fcntl.flock(lock, fcntl.LOCK_EX)
        running = [pool.submit(ensure_packages, packages), pool.submit(python_side), pool.submit(script_side)]
        for job in running:
            job.result()
