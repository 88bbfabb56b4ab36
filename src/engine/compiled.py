"""The one decorator of the engine's kernels: compiled to machine code, kept on disk, free of the interpreter's lock."""

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., Any])


def compiled(function: F) -> F:
    """``function`` compiled at its first call and kept in NUMBA_CACHE_DIR; arithmetic as numpy's (no exception on 1/0)."""
    return cast(F, numba.njit(cache=True, nogil=True, error_model="numpy")(function))
