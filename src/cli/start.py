"""What makes a short command start quickly: for a process of one thread that ends soon, and for nothing else."""

import gc
import importlib
import sys

COMPILED = ("forecast", "findings", "explain", "air")
SHORT = (*COMPILED, "analyse", "compare", "plan", "fit")
UNUSED = ("scipy.linalg", "cffi")
LOOKED_FOR_BY = ("numba.np.arraymath", "numba.core.typing.cffi_utils")


def quickly(command: str) -> None:
    """Before a command's own modules are loaded. Collecting garbage takes a fifth of a short command's time, for memory that its end
    gives back; the compiler's look for libraries that no kernel uses takes half a second.
    """
    if command in SHORT:
        gc.disable()
    if command in COMPILED and "numba" not in sys.modules:
        _load_without(UNUSED, LOOKED_FOR_BY)


def _load_without(unused: tuple[str, ...], users: tuple[str, ...]) -> None:
    """Loads modules that look for libraries and do without where they are not there. No other thread may be loading anything."""
    hidden = [name for name in unused if name not in sys.modules]
    sys.modules.update(dict.fromkeys(hidden))  # type: ignore[arg-type]  # None: looked for, and not there
    try:
        for user in users:
            importlib.import_module(user)
    finally:
        for name in hidden:
            del sys.modules[name]
