"""What makes a short command start quickly: for a process of one thread that ends soon, and for nothing else."""

import gc
import importlib
import sys
from types import ModuleType

COMPILED = ("forecast", "findings", "explain", "air")
SHORT = (*COMPILED, "analyse", "compare", "plan", "fit")
UNUSED = ("scipy.linalg", "cffi")
LOOKED_FOR_BY = ("numba.np.arraymath", "numba.core.typing.cffi_utils")
JUDGED = ("analyse", "compare")
ONLY_NAMED = ("f2py", "testing")  # of numpy: a Fortran compiler and a test tool, whose names alone are copied
NAMED_BY = "scipy.special"


def quickly(command: str) -> None:
    """Before a command's own modules are loaded. Collecting garbage takes a fifth of a short command's time, for memory that its end
    gives back; the compiler's look for libraries that no kernel uses takes half a second, a copy of all of numpy's names a seventh.
    """
    if command in SHORT:
        gc.disable()
    if command in COMPILED and "numba" not in sys.modules:
        _load_without(UNUSED, LOOKED_FOR_BY)
    if command in JUDGED and NAMED_BY not in sys.modules:
        _load_by_name(ONLY_NAMED, NAMED_BY)


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


def _load_by_name(only_named: tuple[str, ...], user: str) -> None:
    """Loads a module that names parts of numpy which it does not use, without those parts. No other thread may be loading anything."""
    import numpy as np

    named = [name for name in only_named if f"numpy.{name}" not in sys.modules]
    for name in named:
        sys.modules[f"numpy.{name}"] = ModuleType(f"numpy.{name}")
        setattr(np, name, sys.modules[f"numpy.{name}"])
    try:
        importlib.import_module(user)
    finally:
        for name in named:
            del sys.modules[f"numpy.{name}"]
            delattr(np, name)
