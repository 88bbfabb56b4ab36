"""Python environment, front end and Debian's chromium: each set up once, and again when its lock changes."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

from launcher.steps import SetupError, fingerprint, fresh, run, say, stamp

RETRY = "Read the message above and run the command again."
NETWORK = "Check the network connection (set-up needs the package registries once) and run the command again."


def python(root: Path, level: str) -> str:
    """Path of the environment's Python with the locked packages of ``level`` (base or dev)."""
    venv = root / ".venv"
    binary = venv / ("Scripts/python.exe" if os.name == "nt" else "bin/python")
    levels = ["base", "dev"] if level == "dev" else ["base"]
    if not binary.exists():
        remedy = "Install Python's venv module (on Debian: apt-get install python3-venv) and try again."
        run("Making the Python environment", [sys.executable, "-m", "venv", str(venv)], remedy)
    for name in levels:
        lock = root / "requirements" / f"{name}.txt"
        mark = fingerprint([lock])
        if not fresh(venv / f".{name}.stamp", mark):
            install = [str(binary), "-m", "pip", "install", "-qq", "--disable-pip-version-check", "--require-hashes", "-r", str(lock)]
            run(f"Installing Python packages ({name})", install, NETWORK)
            stamp(venv / f".{name}.stamp", mark)
    return str(binary)


KEPT_VERSIONS = 4  # of each compiled function: going back to an older state of the sources compiles nothing


def _kernels(root: Path) -> Path:
    """Where compiled kernels are kept, each by what it does (``engine/compiled``): nothing stale is ever run."""
    return root / "var" / "kernels"


def engine(root: Path, binary: str) -> None:
    """The engine's kernels, compiled for this machine; a second or two where only sources around them changed."""
    mark = fingerprint([root / "src" / "engine", root / "requirements" / "base.txt"])
    if fresh(_kernels(root) / ".stamp", mark):
        return
    _kernels(root).mkdir(parents=True, exist_ok=True)
    command = [binary, "-m", "cli", "warm"]
    run("Looking after the engine's kernels (the first time about a minute)", command, RETRY, env=environment(root))
    _prune(_kernels(root))
    stamp(_kernels(root) / ".stamp", mark)


def _prune(folder: Path) -> None:
    """Leaves the newest versions of each function; folders are those of older ways of keeping."""
    for old in folder.iterdir():
        if old.is_dir():
            shutil.rmtree(old, ignore_errors=True)
    by_function: dict[str, list[Path]] = {}
    for index in sorted(folder.glob("*.nbi"), key=lambda p: -p.stat().st_mtime):
        by_function.setdefault(index.name.rsplit("-", 1)[0], []).append(index)
    for versions in by_function.values():
        for index in versions[KEPT_VERSIONS:]:
            for file in folder.glob(f"{index.name.removesuffix('.nbi')}.*"):
                file.unlink(missing_ok=True)


def environment(root: Path) -> dict[str, str]:
    """Environment of every Python process: the source folder on the path, one BLAS thread (two are slower here)."""
    return {
        "OVENTA_KERNELS": str(_kernels(root)),
        **os.environ,
        "PYTHONPATH": os.pathsep.join([str(root / "src"), str(root)]),
        "DJANGO_SETTINGS_MODULE": "server.config.settings",
        "OPENBLAS_NUM_THREADS": "1",
        "PYTHONUNBUFFERED": "1",
        "PYDANTIC_DISABLE_PLUGINS": "__all__",  # it has none, and looking for them takes a tenth of a second
        "PYTHONDONTWRITEBYTECODE": "",  # ours is compiled once, not at every start
    }


def node_modules(root: Path) -> Path:
    """Front-end packages as locked.

    ``npm install --no-save`` honours the lock and its integrity sums and leaves it as it is; ``npm ci`` refuses a lock
    that lacks other platforms' optional builds, which some registries omit.
    """
    front = root / "frontend"
    if not shutil.which("npm"):
        raise SetupError("npm is not installed", "Install Node.js 20 or newer with npm (on Debian: apt-get install nodejs npm).")
    mark = fingerprint([front / "package.json", front / "package-lock.json"])
    if not fresh(front / "node_modules/.stamp", mark):
        run("Installing front-end packages", ["npm", "install", "--no-save", "--no-audit", "--no-fund"], NETWORK, cwd=front)
        stamp(front / "node_modules/.stamp", mark)
    return front


def _api_types(root: Path, front: Path) -> None:
    """TypeScript types of the API, made from its committed description: they are not kept, so they cannot differ from it."""
    made, mark = front / "src/shared/api/generated.d.ts", fingerprint([root / "docs/api/openapi.json", front / "package-lock.json"])
    if not made.is_file() or not fresh(front / "node_modules/.api-types.stamp", mark):
        run("Writing the types of the API", ["npm", "run", "-s", "types"], "Read the message above.", cwd=front)
        stamp(front / "node_modules/.api-types.stamp", mark)


def frontend(root: Path) -> None:
    """The built front end in frontend/dist."""
    front = node_modules(root)
    _api_types(root, front)
    mark = fingerprint([front / "src", front / "index.html", front / "vite.config.ts", front / "package-lock.json"])
    if not fresh(front / "dist/.stamp", mark):
        run("Building the front end", ["npm", "run", "-s", "build"], "Read the message above; the source has a mistake.", cwd=front)
        stamp(front / "dist/.stamp", mark)


def everything(root: Path, level: str) -> str:
    """Python environment with compiled kernels, and the front end: neither needs the other, so they are made side by side."""
    from concurrent.futures import ThreadPoolExecutor  # here: most commands do without

    with ThreadPoolExecutor(2) as beside:
        front = beside.submit(frontend, root)
        binary = python(root, "base")
        more = beside.submit(python, root, level)
        engine(root, binary)
        more.result()
        front.result()
    return binary


def chromium() -> str:
    """Path of a chromium for the browser tests; installs Debian's when that may be done."""
    found = shutil.which("chromium") or shutil.which("chromium-browser")
    if found:
        return found
    remedy = "Ask somebody who may install packages to run: apt-get install chromium"
    if not shutil.which("apt-get"):
        raise SetupError("chromium is not installed and this is not a Debian system", "Install chromium by your system's own way.")
    prefix = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if prefix and (not shutil.which("sudo") or subprocess.call([*prefix, "true"], stderr=subprocess.DEVNULL)):
        raise SetupError("chromium is not installed and you may not install packages", remedy)
    run("Reading the package lists", [*prefix, "apt-get", "update", "-qq"], NETWORK)
    run("Installing chromium", [*prefix, "apt-get", "install", "-y", "-qq", "--no-install-recommends", "chromium"], remedy)
    say("  chromium is there")
    return shutil.which("chromium") or "/usr/bin/chromium"
