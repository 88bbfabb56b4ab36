"""The data package: a zip that opens with general tools (Frictionless data package) and comes back as the same job.

``datapackage.json`` describes every file; ``job.oventa.json`` is the job document with ``runs`` and ``verdicts`` added; readings lie
in ``runs/<n>.csv``, the analysis in ``analysis/<n>.json``, pictures in ``pictures/``.
"""

import io
import json
import struct
import zipfile
import zlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from documents.errors import DocumentError, Fault
from documents.job.reader import path_of
from documents.json_in import parse_json
from documents.package.said import ClipSaid, GapSaid, LevelSaid, RunSaid, VerdictSaid, unknown
from documents.runlog.writer import write_log
from engine.runs.series import RunLog

JOB = "job.oventa.json"
DESCRIPTION = "datapackage.json"
MEGABYTE = 1024**2
MOST_BYTES = 1024 * MEGABYTE  # of all files that are read, unpacked
MOST_JOB, MOST_LOG, MOST_PICTURE = 64 * MEGABYTE, 128 * MEGABYTE, 8 * MEGABYTE
MOST_RUNS, MOST_FILES, PIECE = 2000, 20_000, MEGABYTE // 4
MOST_CLIPS, MOST_CLIP = 400, 512 * MEGABYTE
MOST_GAPS = 20_000
_AGAIN = "Save the package again where it came from."
T = TypeVar("T", bound=BaseModel)
UNITS = {"c": "°C", "w": "W", "rpm": "rpm", "mhz": "MHz", "dba": "dB(A)", "pct": "%", "s": "s", "v": "V", "pa": "Pa", "m3h": "m³/h"}


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
    clips: Sequence[tuple[dict[str, Any], bytes]] = ()
    levels: Sequence[dict[str, Any]] = ()
    earlier: Sequence[dict[str, Any]] = ()  # repeats of the person's other jobs, which its verdict rests on too


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
        clips = []
        for n, (said, data) in enumerate(package.clips, start=1):
            name = f"clips/{n:03d}.wav"
            file.writestr(name, data)
            resources.append(_other(name, f"clip-{n:03d}", "audio/wav"))
            clips.append({"file": name, **said})
        heard = ({"clips": clips} if clips else {}) | ({"levels": list(package.levels)} if package.levels else {})
        heard |= {"earlier": list(package.earlier)} if package.earlier else {}
        file.writestr(JOB, _json({**package.job, "runs": runs, "verdicts": package.verdicts, **heard}))
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
class OpenedRun:
    """What is said of a run, its readings' text, and its marks' pictures by their names in the zip."""

    said: RunSaid
    text: bytes | None
    pictures: dict[str, bytes]


@dataclass(frozen=True)
class Opened:
    """A package's job document as parsed JSON without its runs; runs are read one after another, so that few are in memory at a time."""

    job: dict[str, Any]
    said: list[RunSaid]
    verdicts: list[VerdictSaid]
    unknown_fields: list[str]
    file: "_Zip"
    clips: list[ClipSaid] = field(default_factory=list)
    levels: list[LevelSaid] = field(default_factory=list)
    earlier: list[GapSaid] = field(default_factory=list)

    def clip(self, said: ClipSaid) -> bytes:
        """A clip's file. Raises DocumentError for one that is damaged or too large."""
        return self.file.read(said.file, MOST_CLIP)

    def runs(self) -> Iterator[OpenedRun]:
        """Each run with its files. Raises DocumentError for a file that is damaged or too large."""
        for said in self.said:
            pictures = {m.picture: self.file.read(m.picture, MOST_PICTURE) for m in said.marks if m.picture}
            yield OpenedRun(said, self.file.read(said.file, MOST_LOG) if said.file else None, pictures)


def open_package(data: bytes) -> Opened:
    """Reads a package without trusting it: what it says is typed, its files are counted while they are read. Raises DocumentError."""
    zipped = _Zip(data)
    raw = parse_json(zipped.read(JOB, MOST_JOB), JOB)
    if not isinstance(raw, dict):
        raise DocumentError([Fault(JOB, "a job document is a JSON object", "Choose a data package that was saved here.")])
    said = [_typed(RunSaid, x, f"runs[{i}]") for i, x in enumerate(_list(raw.pop("runs", []), "runs", MOST_RUNS))]
    verdicts = [_typed(VerdictSaid, x, f"verdicts[{i}]") for i, x in enumerate(_list(raw.pop("verdicts", []), "verdicts", MOST_RUNS))]
    clips = [_typed(ClipSaid, x, f"clips[{i}]") for i, x in enumerate(_list(raw.pop("clips", []), "clips", MOST_CLIPS))]
    levels = [_typed(LevelSaid, x, f"levels[{i}]") for i, x in enumerate(_list(raw.pop("levels", []), "levels", MOST_RUNS))]
    earlier = [_typed(GapSaid, x, f"earlier[{i}]") for i, x in enumerate(_list(raw.pop("earlier", []), "earlier", MOST_GAPS))]
    for i, clip in enumerate(clips):
        zipped.claim(clip.file, f"clips[{i}]")
    for i, run in enumerate(said):
        named = [run.file, *(m.picture for m in run.marks)]
        for name in named:
            if name is not None:
                zipped.claim(name, f"runs[{i}]")
    left = [p for i, x in enumerate(said) for p in unknown(x, f"runs[{i}]")]
    left += [p for i, x in enumerate(verdicts) for p in unknown(x, f"verdicts[{i}]")]
    left += [p for i, x in enumerate(clips) for p in unknown(x, f"clips[{i}]")]
    left += [p for i, x in enumerate(levels) for p in unknown(x, f"levels[{i}]")]
    left += [p for i, x in enumerate(earlier) for p in unknown(x, f"earlier[{i}]")]
    return Opened(raw, said, verdicts, left, zipped, clips, levels, earlier)


def _list(value: Any, where: str, most: int) -> list[Any]:
    if not isinstance(value, list):
        raise DocumentError([Fault(where, "this is no list", _AGAIN)])
    if len(value) > most:
        raise DocumentError([Fault(where, f"more than {most} entries", "Split the job.")])
    return value


def _typed(model: type[T], raw: Any, where: str) -> T:
    try:
        return model.model_validate(raw)
    except ValidationError as error:
        faults = [Fault(f"{where}.{path_of(e['loc'])}".removesuffix(".$"), e["msg"], _AGAIN) for e in error.errors()[:20]]
        raise DocumentError(faults) from error


class _Zip:
    """A zip whose files are read once each, in pieces, and counted: what it says of their sizes is not believed."""

    def __init__(self, data: bytes) -> None:
        try:
            self._zip = zipfile.ZipFile(io.BytesIO(data))
        except (zipfile.BadZipFile, zlib.error, ValueError, OSError, RuntimeError, NotImplementedError, struct.error) as error:
            raise DocumentError([Fault("$", f"the package cannot be read ({error})", _AGAIN)]) from error
        infos = self._zip.infolist()
        if len(infos) > MOST_FILES:
            raise DocumentError([Fault("$", f"the package holds more than {MOST_FILES} files", "Split the job.")])
        self._infos = {i.filename: i for i in infos}
        if len(self._infos) != len(infos):
            raise DocumentError([Fault("$", "two files of the package have the same name", _AGAIN)])
        if JOB not in self._infos:
            raise DocumentError([Fault(JOB, "the zip holds no job", "Choose a data package that was saved here.")])
        self._left = MOST_BYTES
        self._claimed = {JOB}

    def claim(self, name: str, where: str) -> None:
        """A file belongs to one run or mark only. Raises DocumentError for one that is absent or named twice."""
        if name not in self._infos:
            raise DocumentError([Fault(where, f"{name!r} is not in the zip", "Save the package again.")])
        if name in self._claimed:
            raise DocumentError([Fault(where, f"{name!r} is named a second time", "Save the package again.")])
        self._claimed.add(name)

    def read(self, name: str, most: int) -> bytes:
        """A whole file. Raises DocumentError when it is damaged, or larger than ``most`` or than what is left for the package."""
        parts: list[bytes] = []
        size = 0
        try:
            with self._zip.open(self._infos[name]) as file:
                while piece := file.read(PIECE):
                    size += len(piece)
                    if size > min(most, self._left):
                        what = f"the file unpacks to more than {min(most, self._left) // 1024**2} MB"
                        raise DocumentError([Fault(name, what, "Split the job.")])
                    parts.append(piece)
        except (zipfile.BadZipFile, zlib.error, OSError, RuntimeError, NotImplementedError, EOFError, struct.error, ValueError) as error:
            raise DocumentError([Fault(name, f"the file is damaged ({error})", _AGAIN)]) from error
        self._left -= size
        return b"".join(parts)
