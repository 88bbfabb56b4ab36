"""The data package: a zip that opens with general tools (Frictionless data package) and comes back as the same job.

``datapackage.json`` describes every file; ``job.oventa.json`` is the job document with ``runs`` and ``verdicts`` added; readings lie
in ``runs/<n>.csv``, the analysis in ``analysis/<n>.json``, pictures in ``pictures/``.
"""

import io
import json
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from engine.runs.series import RunLog
from formats.errors import DocumentError, Fault
from formats.runlog.writer import write_log

JOB = "job.oventa.json"
DESCRIPTION = "datapackage.json"
MOST_BYTES = 2 * 1024**3
UNITS = {"c": "°C", "w": "W", "rpm": "1/min", "mhz": "MHz", "dba": "dB(A)", "pct": "%", "s": "s", "v": "V", "pa": "Pa", "m3h": "m³/h"}


@dataclass(frozen=True)
class PackedRun:
    """``meta`` is what the job document says of it; ``log`` None in a run without readings."""

    meta: dict[str, Any]
    log: RunLog | None
    analysis: Mapping[str, Any] = field(default_factory=dict)
    pictures: Mapping[str, bytes] = field(default_factory=dict)


@dataclass(frozen=True)
class Package:
    job: dict[str, Any]
    runs: list[PackedRun]
    verdicts: list[dict[str, Any]]


def write_package(package: Package) -> bytes:
    """The zip's bytes; the same package gives the same files."""
    out = io.BytesIO()
    resources: list[dict[str, Any]] = []
    runs = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for n, run in enumerate(package.runs, start=1):
            meta = dict(run.meta)
            if run.log is not None:
                meta["file"] = f"runs/{n:03d}.csv"
                file.writestr(meta["file"], write_log(run.log))
                resources.append(_table(meta["file"], f"run-{n:03d}", str(meta.get("name", "")), run.log))
            file.writestr(f"analysis/{n:03d}.json", _json(run.analysis))
            resources.append(_other(f"analysis/{n:03d}.json", f"analysis-{n:03d}", "application/json"))
            for name, data in run.pictures.items():
                file.writestr(name, data)
                media = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
                resources.append(_other(name, name.replace("/", "-").rsplit(".", 1)[0], media))
            runs.append(meta)
        file.writestr(JOB, _json({**package.job, "runs": runs, "verdicts": package.verdicts}))
        resources.insert(0, _other(JOB, "job", "application/json"))
        description = {
            "name": "oventa-job",
            "title": package.job.get("name", ""),
            "profile": "data-package",
            "resources": resources,
        }
        file.writestr(DESCRIPTION, _json(description))
    return out.getvalue()


def _table(path: str, name: str, title: str, log: RunLog) -> dict[str, Any]:
    fields = [{"name": "elapsed_s", "type": "number", "unit": "s"}]
    for channel in log.channels:
        unit = UNITS.get(channel.rsplit("_", 1)[-1], "")
        fields.append({"name": channel, "type": "number", **({"unit": unit} if unit else {})})
    schema = {"fields": fields, "missingValues": [""], "primaryKey": ["elapsed_s"]}
    return {
        "name": name,
        "title": title,
        "path": path,
        "profile": "tabular-data-resource",
        "format": "csv",
        "mediatype": "text/csv",
        "encoding": "utf-8",
        "schema": schema,
    }


def _other(path: str, name: str, media: str) -> dict[str, Any]:
    return {"name": name, "path": path, "mediatype": media, "format": path.rsplit(".", 1)[-1]}


def _json(content: Any) -> str:
    return json.dumps(content, indent=1, ensure_ascii=False) + "\n"


def is_package(data: bytes) -> bool:
    return data.startswith(b"PK\x03\x04")


@dataclass(frozen=True)
class Opened:
    """What a package holds: the job document as parsed JSON without its runs, and each run's meta with its files' bytes."""

    job: dict[str, Any]
    runs: list[tuple[dict[str, Any], bytes | None]]
    pictures: dict[str, bytes]
    verdicts: list[dict[str, Any]]


def open_package(data: bytes) -> Opened:
    """Reads a package without trusting it: only the files the job names are read. Raises DocumentError."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as file:
            names = {i.filename: i for i in file.infolist()}
            if JOB not in names:
                raise DocumentError([Fault(JOB, "the zip holds no job", "Choose a data package that was saved here.")])
            if sum(i.file_size for i in names.values()) > MOST_BYTES:
                raise DocumentError([Fault("$", "the package unpacks to more than 2 GB", "Split the job.")])
            job = json.loads(file.read(JOB))
            runs, verdicts = job.pop("runs", []), job.pop("verdicts", [])
            found = []
            for i, meta in enumerate(runs):
                path = meta.pop("file", None)
                if path is not None and path not in names:
                    raise DocumentError([Fault(f"runs[{i}].file", f"{path!r} is not in the zip", "Save the package again.")])
                found.append((meta, file.read(path) if path else None))
            wanted = {m["picture"] for meta, _ in found for m in meta.get("marks", []) if m.get("picture")}
            pictures = {name: file.read(name) for name in wanted if name in names}
            return Opened(job, found, pictures, verdicts)
    except (zipfile.BadZipFile, json.JSONDecodeError, UnicodeDecodeError, AttributeError, TypeError) as error:
        raise DocumentError([Fault("$", f"the package cannot be read ({error})", "Save it again where it came from.")]) from error
