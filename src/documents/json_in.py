"""JSON from outside: read strictly, so that whatever is let in can be stored, sent on and read by a browser.

Refused are: what is not JSON (``NaN`` and ``Infinity`` too), numbers that are not finite or beyond 64 bits, halves of characters, text with
a null character, and nesting deeper than any document here has.
"""

import math
from typing import Any

from pydantic_core import from_json

from documents.errors import DocumentError, Fault

DEEPEST = 60
LARGEST_INTEGER = 2**63 - 1  # what a database column and most other programs hold
_BOMS = ((b"\xff\xfe\x00\x00", "utf-32"), (b"\x00\x00\xfe\xff", "utf-32"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
_SYNTAX = "Check commas, quotes and brackets near the place named."


def parse_json(data: bytes | str, where: str = "$") -> Any:
    """Parsed JSON of bytes or text. Raises DocumentError, whose fault names ``where`` or the path within it."""
    if isinstance(data, str):
        data = data.encode("utf-8", "surrogatepass")
    data = _utf8(data, where)
    try:
        found = from_json(data, allow_inf_nan=False)
    except ValueError as error:
        raise DocumentError([Fault(where, f"not JSON: {error}", _SYNTAX)]) from error
    _check(found, where)
    return found


def _utf8(data: bytes, where: str) -> bytes:
    if data.startswith(b"\xef\xbb\xbf"):
        return data[3:]
    for mark, encoding in _BOMS:
        if data.startswith(mark):
            return data.decode(encoding, "replace").encode()
    try:
        data.decode()
    except UnicodeDecodeError as error:
        raise DocumentError([Fault(where, "the file is not UTF-8 text", "Save it as UTF-8 JSON.")]) from error
    return data


def _check(found: Any, where: str) -> None:
    """Walks the whole without recursion; the first thing that cannot be kept is named by its path."""
    if (fault := _bad(found)) is not None:
        raise DocumentError([Fault(where, *fault)])
    stack: list[tuple[Any, str, int]] = [(found, where, 0)]
    while stack:
        holder, path, depth = stack.pop()
        if not isinstance(holder, dict | list):
            continue
        if depth >= DEEPEST:
            raise DocumentError([Fault(path, f"nested more than {DEEPEST} deep", "Write it flatter; no document here needs that.")])
        for key, item in holder.items() if isinstance(holder, dict) else enumerate(holder):
            if isinstance(item, dict | list):
                stack.append((item, _step(path, key), depth + 1))
            elif (fault := _bad(item) or _bad(key)) is not None:
                raise DocumentError([Fault(_step(path, key), *fault)])


def _step(path: str, key: Any) -> str:
    if isinstance(key, int):
        return f"{path}[{key}]"
    return str(key)[:60] if path == "$" else f"{path}.{str(key)[:60]}"


def _bad(value: Any) -> tuple[str, str] | None:
    if isinstance(value, float) and not math.isfinite(value):
        return "the number is too large", "Give a finite number."
    if isinstance(value, int) and abs(value) > LARGEST_INTEGER:
        return "the whole number is too large", f"Give one of at most {LARGEST_INTEGER}."
    if isinstance(value, str) and "\0" in value:
        return "the text holds a null character", "Take it out."
    return None
