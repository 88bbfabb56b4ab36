"""Odd input from a seed: valid JSON spoilt in one to three places, as text, since some of it no JSON writer would write.

Not a copy of what the program looks for: values are drawn from what breaks programs in general, places from the whole of a document.
"""

import copy
import io
import json
import random
import zipfile
from collections.abc import Iterator
from typing import Any

RAW = "\u27ea"  # stands before text that goes into the JSON as it is
VALUES: tuple[Any, ...] = (
    None,
    True,
    False,
    0,
    -1,
    -0.0,
    1e-300,
    1e300,
    -1e300,
    2**31,
    2**53 + 1,
    2**63,
    -(2**63) - 1,
    "",
    " ",
    "x" * 300,
    "x" * 140_000,
    "<script>alert(1)</script>",
    "a\nb",
    "}\n</style><img src=x>",
    "../../etc/passwd",
    "file:///etc/passwd",
    "'; DROP TABLE jobs_job; --",
    "\u202egnp.exe",
    "😀" * 40,
    [],
    {},
    [[]],
    [None],
    {"": ""},
    {"a": {"b": {"c": []}}},
    [1] * 500,
    f"{RAW}Infinity",
    f"{RAW}-Infinity",
    f"{RAW}NaN",
    f"{RAW}1e999",
    f"{RAW}{'9' * 5000}",
    f"{RAW}{'9' * 400}",
    f'{RAW}"\\ud800"',
    f'{RAW}"\\u0000"',
    f"{RAW}{'[' * 3000}{']' * 3000}",
    RAW + '{"a":' * 90 + "1" + "}" * 90,
)


def text(raw: Any) -> str:
    """JSON with what is marked as raw put in as it is."""
    made = json.dumps(raw, ensure_ascii=False)
    for value in VALUES:
        if isinstance(value, str) and value.startswith(RAW):
            made = made.replace(json.dumps(value, ensure_ascii=False), value[1:])
    return made


def spoilt(rng: random.Random, raw: Any, times: int | None = None) -> Any:
    """A copy with one to three places changed, taken out, repeated or added to."""
    made = copy.deepcopy(raw)
    for _ in range(times or rng.randint(1, 3)):
        places = list(_places(made))
        if not places:
            return made
        holder, key = rng.choice(places)
        kind = rng.random()
        if kind < 0.65:
            holder[key] = copy.deepcopy(rng.choice(VALUES))
        elif kind < 0.8:
            del holder[key]
        elif kind < 0.9 and isinstance(holder, list):
            holder.extend(copy.deepcopy(holder[key]) for _ in range(rng.choice((1, 3, 40))))
        elif isinstance(holder, dict):
            holder[rng.choice(("later", "id", "0", "__class__", "é"))] = copy.deepcopy(rng.choice(VALUES))
    return made


def _places(holder: Any) -> Iterator[tuple[Any, Any]]:
    pairs = holder.items() if isinstance(holder, dict) else enumerate(holder) if isinstance(holder, list) else ()
    for key, value in list(pairs):
        yield holder, key
        yield from _places(value)


def zipped(files: dict[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as file:
        for name, data in files.items():
            file.writestr(name, data)
    return out.getvalue()


def files_of(package: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(package)) as file:
        return {name: file.read(name) for name in file.namelist()}


def odd_package(rng: random.Random, files: dict[str, bytes], job: str) -> bytes:
    """A package spoilt in what it says, in its files, or as a zip."""
    kind = rng.random()
    if kind < 0.6:
        return zipped(files | {job: text(spoilt(rng, json.loads(files[job]))).encode("utf-8", "surrogatepass")})
    if kind < 0.8:
        name = rng.choice([n for n in files if n != job])
        changed = {
            "gone": None,
            "empty": b"",
            "zeros": bytes(5000),
            "words": b"hello\n" * 50,
            "cut": files[name][: len(files[name]) // 2],
            "cell": b'elapsed_s,cpu_package_c\n0,"' + b"9" * 200_000 + b'"\n' + b"".join(b"%d,30\n" % i for i in range(40)),
            "huge numbers": b"elapsed_s,cpu_package_c\n" + b"".join(b"%d,%de300\n" % (i, i) for i in range(60)),
            "far time": b"elapsed_s,cpu_package_c\n" + b"".join(b"%d,%d\n" % (i if i < 50 else 500_000_000 + i, 30 + i) for i in range(60)),
            "still": b"elapsed_s,cpu_package_c\n" + b"1,30\n" * 60,
        }[rng.choice(("gone", "empty", "zeros", "words", "cut", "cell", "huge numbers", "far time", "still"))]
        rest = {n: d for n, d in files.items() if n != name}
        return zipped(rest if changed is None else rest | {name: changed})
    whole = bytearray(zipped(files, rng.choice((zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED))))
    if kind < 0.9:
        for _ in range(rng.choice((1, 20, 400))):
            whole[rng.randrange(4, len(whole))] = rng.randrange(256)
        return bytes(whole)
    return bytes(whole[: rng.randrange(4, len(whole))])
