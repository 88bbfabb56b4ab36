"""The one decorator of the engine's kernels: compiled to machine code, kept on disk, free of the interpreter's lock.

What is kept is named by what a function *does*: its byte code, the constants it reads, the records it takes and the kernels it calls.
A changed comment compiles nothing, a changed constant compiles all that read it, and stale machine code is never run.
"""

import builtins
import dis
import hashlib
import os
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path
from types import CodeType, FunctionType, ModuleType
from typing import Any, TypeVar, cast

import numba
import numpy as np
from numba.core.caching import _CacheLocator

CONSTANT, EXTENDED, GLOBAL = set(dis.hasconst), dis.EXTENDED_ARG, dis.opmap["LOAD_GLOBAL"]
F = TypeVar("F", bound=Callable[..., Any])
KEPT_IN = Path(os.environ.get("OVENTA_KERNELS") or Path(__file__).resolve().parents[2] / "var" / "kernels")


@cache
def meaning(function: Any) -> str:
    """SHA-256 over what a function does, hexadecimal; two functions that differ in comments or lines only have the same."""
    digest = hashlib.sha256()
    for word in (numba.__version__, *_meant(cast(FunctionType, function))):
        digest.update(word.encode() + b"\0")
    return digest.hexdigest()


def _meant(function: FunctionType) -> Iterator[str]:
    yield function.__qualname__
    yield from _steps(function.__code__)
    yield from (repr(d) for d in function.__defaults__ or ())
    names = set(_names(function.__code__))
    for taken in function.__annotations__.values():
        yield from _value(taken, names)
    for name in sorted(set(_globals(function.__code__))):
        if name in function.__globals__:
            yield name
            yield from _value(function.__globals__[name], names)
        elif not hasattr(builtins, name):
            where = f"{function.__module__}.{function.__qualname__}"
            raise NameError(f"{where} reads {name}, which is not there yet; define it before the kernel")


def _inner(code: CodeType) -> Iterator[CodeType]:
    yield code
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            yield from _inner(constant)


def _steps(code: CodeType) -> Iterator[str]:
    """Byte code with its constants in place, without lines, files and what documents it."""
    for one in _inner(code):
        yield " ".join((*one.co_names, *one.co_varnames, *one.co_freevars))
        for op, argument in _operations(one):
            if op not in CONSTANT:
                yield f"{op} {argument}"
            elif not isinstance(one.co_consts[argument], CodeType):
                yield f"{op} {one.co_consts[argument]!r}"


def _operations(code: CodeType) -> Iterator[tuple[int, int]]:
    """Operation and argument; the standard library's own way takes a fifth of a second of every start."""
    high, steps = 0, code.co_code
    for op, low in zip(steps[::2], steps[1::2], strict=True):
        argument = high | low
        high = argument << 8 if op == EXTENDED else 0
        yield op, argument


def _names(code: CodeType) -> Iterator[str]:
    for one in _inner(code):
        yield from one.co_names


def _globals(code: CodeType) -> Iterator[str]:
    for one in _inner(code):
        yield from (one.co_names[argument >> 1] for op, argument in _operations(one) if op == GLOBAL)


def _value(value: Any, names: set[str]) -> Iterator[str]:
    """A global as a kernel sees it: machine code freezes constants, and reads records by the place of their fields."""
    if isinstance(value, ModuleType):
        yield value.__name__
        for name in sorted(names & set(vars(value))) if value.__name__.startswith("engine.") else ():
            yield name
            yield from _value(getattr(value, name), names)
    elif isinstance(value, FunctionType) or hasattr(value, "py_func"):
        yield meaning(getattr(value, "py_func", value))
    elif hasattr(value, "_fields"):
        yield f"{value.__name__} {' '.join(value._fields)}"
        yield from (str(kind) for kind in getattr(value, "__annotations__", {}).values())
    elif isinstance(value, np.ndarray):
        yield f"{value.dtype} {value.shape} {value.tobytes().hex()}"
    else:
        yield repr(value)


class Kept(_CacheLocator):
    """Tells the compiler where machine code is kept, by the meaning of its function: several versions lie side by side."""

    def __init__(self, function: Any) -> None:
        self._meaning = meaning(function)

    def get_cache_path(self) -> str:
        return str(KEPT_IN)

    def get_source_stamp(self) -> str:
        return self._meaning

    def get_disambiguator(self) -> str:
        return self._meaning[:16]

    @classmethod
    def from_function(cls, py_func: Any, py_file: str) -> "Kept":
        found = cls(py_func)
        KEPT_IN.mkdir(parents=True, exist_ok=True)
        return found


setattr(numba.config, "CACHE_LOCATOR_CLASSES", f"{__name__}.Kept")  # noqa: B010  (its module says of none of its settings)


def compiled(function: F) -> F:
    """``function`` compiled at its first call and kept; arithmetic as numpy's (no exception on 1/0)."""
    return cast(F, numba.njit(cache=True, nogil=True, error_model="numpy")(function))
