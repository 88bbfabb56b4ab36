"""Python environment, front end and Debian's chromium: each set up once, and again when its lock changes."""

import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Collection
from pathlib import Path

from launcher.steps import SetupError, fingerprint, fresh, run, say, stamp

RETRY = "Read the message above and run the command again."
NETWORK = "Check the network connection (set-up needs the package registries once) and run the command again."


def python(root: Path, level: str) -> str:
    """Path of the environment's Python with the locked packages of ``level`` (base or dev)."""
    binary = _virtual(root)
    for name in ("base", "dev") if level == "dev" else ("base",):
        lock, mark = root / "requirements" / f"{name}.txt", _stamp_of(root, name)
        if not fresh(mark, fingerprint([lock])):
            _install(f"Installing Python packages ({name})", binary, lock)
            stamp(mark, fingerprint([lock]))
    return binary


def _virtual(root: Path) -> str:
    venv = root / ".venv"
    binary = venv / ("Scripts/python.exe" if os.name == "nt" else "bin/python")
    if not binary.exists():
        remedy = "Install Python's venv module (on Debian: apt-get install python3-venv) and try again."
        run("Making the Python environment", [sys.executable, "-m", "venv", str(venv)], remedy)
    return str(binary)


def _stamp_of(root: Path, level: str) -> Path:
    return root / ".venv" / f".{level}.stamp"


def _install(words: str, binary: str, lock: Path, *more: str) -> None:
    pip = [binary, "-m", "pip", "install", "-qq", "--disable-pip-version-check", "--require-hashes", *more, "-r", str(lock)]
    run(words, pip, NETWORK)


COMPILER = (  # what compiling the kernels needs of the packages, which is a third of them by time
    "annotated-types",
    "charset-normalizer",
    "llvmlite",
    "numba",
    "numpy",
    "pydantic",
    "pydantic-core",
    "scipy",
    "typing-extensions",
    "typing-inspection",
)


def packages_of_the_compiler(root: Path) -> str:
    """Path of the environment's Python, with at least those packages that the kernels are compiled with, as locked."""
    binary, lock = _virtual(root), root / "requirements" / "base.txt"
    if not fresh(_stamp_of(root, "base"), fingerprint([lock])):
        some = root / ".venv" / "compiler.txt"
        some.write_text(part_of_lock(lock.read_text(encoding="utf-8"), COMPILER), encoding="utf-8")
        _install("Installing Python packages (those of the compiler)", binary, some, "--no-deps")
    return binary


def part_of_lock(lock: str, names: Collection[str]) -> str:
    """The lines of a lock that pin ``names``, with their sums."""
    told, within = [], False
    for line in lock.splitlines():
        if line[:1].isalnum():
            within = line.split("==")[0].split("[")[0] in names
        if within and not line.lstrip().startswith("#"):
            told.append(line)
    return "\n".join(told) + "\n"


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


def everything(root: Path, level: str, prepare: Callable[[str], None] | None = None) -> str:
    """Python environment with compiled kernels, and the front end, side by side as far as they do not need each other.

    ``prepare`` is given the environment's Python once all packages are there, while kernels may still be compiled.
    """
    from concurrent.futures import ThreadPoolExecutor  # here: most commands do without

    with ThreadPoolExecutor(2) as beside:
        front = beside.submit(frontend, root)
        binary = packages_of_the_compiler(root)
        kernels = beside.submit(engine, root, binary)
        python(root, level)
        if prepare:
            prepare(binary)
        kernels.result()
        front.result()
    return binary


CHROMIUMS = ("chromium-headless-shell", "chromium", "chromium-browser")  # the first draws no window of its own and is a fifth faster


def chromium() -> str:
    """Path of a chromium for the browser tests; installs Debian's when that may be done."""
    if found := _chromium():
        return found
    remedy = "Ask somebody who may install packages to run: apt-get install chromium"
    if not shutil.which("apt-get"):
        raise SetupError("chromium is not installed and this is not a Debian system", "Install chromium by your system's own way.")
    prefix = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if prefix and (not shutil.which("sudo") or subprocess.call([*prefix, "true"], stderr=subprocess.DEVNULL)):
        raise SetupError("chromium is not installed and you may not install packages", remedy)
    run("Reading the package lists", [*prefix, "apt-get", "update", "-qq"], NETWORK)
    install = [*prefix, "apt-get", "install", "-y", "-qq", "--no-install-recommends"]
    try:
        run("Installing chromium", [*install, CHROMIUMS[0]], remedy)
    except SetupError:  # older releases have no such package
        run("Installing chromium whole", [*install, CHROMIUMS[1]], remedy)
    say("  chromium is there")
    return _chromium() or "/usr/bin/chromium"


def _chromium() -> str | None:
    return next((path for name in CHROMIUMS if (path := shutil.which(name))), None)
