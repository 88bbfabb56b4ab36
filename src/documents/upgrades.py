"""Steps from an older version of a format to the next, so that what was ever written keeps opening.

A step takes the parsed JSON of one version and returns that of the next; it changes nothing that it was given. A file of every
version that was ever released lies in ``tests/held`` and must open.
"""

from collections.abc import Callable, Mapping
from typing import Any

from documents.errors import DocumentError, Fault

Raw = dict[str, Any]
Step = Callable[[Raw], Raw]


def _record_1(raw: Raw) -> Raw:
    """The method of judging was a whole number; engine and product were not kept."""
    return raw | {"method": f"{raw.get('method', 1)}.0.0", "engine": "", "product": ""}


# By format: the version that is written now, and the steps that lead to it.
CURRENT: Mapping[str, int] = {
    "oventa-job": 1,
    "oventa-parts": 1,
    "oventa-case": 1,
    "oventa-verdict-record": 2,
}
STEPS: Mapping[tuple[str, int], Step] = {
    ("oventa-verdict-record", 1): _record_1,
}


def upgraded(raw: Mapping[str, Any]) -> Raw:
    """The document as its newest version writes it. Raises DocumentError for a version that was never written, or is newer."""
    name, found = str(raw.get("format")), dict(raw)
    newest = CURRENT[name]
    while (version := _whole(found.get("version"))) != newest:
        step = STEPS.get((name, version))
        if step is None:
            what = f"version {found.get('version')!r} is not one this program reads"
            raise DocumentError([Fault("version", what, f"Use version {newest} or an older one, or a newer program.")])
        found = step(found) | {"version": version + 1}
    return found


def _whole(version: Any) -> int:
    """A version as it is written; -1 for anything else, true and 1.0 included."""
    return version if type(version) is int else -1
