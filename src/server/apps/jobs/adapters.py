"""Between rows and the open job document, both ways, without loss."""

from typing import Any

from django.core.exceptions import ObjectDoesNotExist

from documents.job.models import PART_KINDS, JobDoc
from engine.errors import OventaError
from server.apps.jobs.models import Case, FanPlacement, Job, Layout, Mount, Panel, Part
from server.database import one_moment

Raw = dict[str, Any]


class UnreadableJobError(OventaError):
    """The rows of a job do not make a document."""

    code = "unreadable_job"


def _without(raw: Raw, *names: str) -> Raw:
    return {key: value for key, value in raw.items() if key not in names}


def store(job: Job, doc: JobDoc) -> None:
    """Writes a checked document into the rows of a job. Layout rows keep their identity, since runs point at them."""
    raw: Raw = doc.model_dump(mode="json", exclude_unset=True)
    case, parts = raw["case"], raw.get("parts", {})
    job.name = raw["name"]
    job.room_temperature_c = raw.get("room", {}).get("temperature_c")
    job.more = _without(raw, "name", "case", "parts", "layouts") | {"_parts": _without(parts, *PART_KINDS), "_given": _given(raw, parts)}
    job.save()
    inner = case["inner_mm"]
    row, _ = Case.objects.update_or_create(
        job=job,
        defaults={
            "name": case.get("name", ""),
            "depth_mm": inner["depth"],
            "height_mm": inner["height"],
            "width_mm": inner["width"],
            "more": _without(case, "panels", "mounts"),
        },
    )
    mounts = _store_case(row, case)
    fans = _store_parts(job, parts)
    _store_layouts(job, raw.get("layouts", []), mounts, fans)


def _given(raw: Raw, parts: Raw) -> list[str]:
    """Which lists the document wrote out, so that an empty list comes back as one."""
    named = [name for name in ("parts", "layouts") if name in raw]
    return named + [k for k in PART_KINDS if k in parts] + [f"case.{k}" for k in ("panels", "mounts") if k in raw["case"]]


def _store_case(row: Case, case: Raw) -> dict[str, Mount]:
    row.panels.all().delete()
    row.mounts.all().delete()
    Panel.objects.bulk_create(
        Panel(case=row, order=i, face=p["face"], kind=p["kind"], more=_without(p, "face", "kind"))
        for i, p in enumerate(case.get("panels", []))
    )
    mounts = [
        Mount(
            case=row,
            order=i,
            key=m["id"],
            face=m["face"],
            x_mm=m["centre_mm"]["x"],
            y_mm=m["centre_mm"]["y"],
            z_mm=m["centre_mm"]["z"],
            more=_without(m, "id", "face"),
        )
        for i, m in enumerate(case.get("mounts", []))
    ]
    return {m.key: m for m in Mount.objects.bulk_create(mounts)}


def _store_parts(job: Job, parts: Raw) -> dict[str, Part]:
    job.parts.all().delete()
    rows = [
        Part(job=job, order=i, kind=kind, key=part["id"], figures=part) for kind in PART_KINDS for i, part in enumerate(parts.get(kind, []))
    ]
    return {p.key: p for p in Part.objects.bulk_create(rows) if p.kind == "fans"}


def _store_layouts(job: Job, layouts: list[Raw], mounts: dict[str, Mount], fans: dict[str, Part]) -> None:
    job.layouts.exclude(key__in=[x["id"] for x in layouts]).delete()
    for i, layout in enumerate(layouts):
        row, _ = Layout.objects.update_or_create(
            job=job,
            key=layout["id"],
            defaults={"order": i, "name": layout.get("name", ""), "more": _without(layout, "id", "fans") | {"_fans": "fans" in layout}},
        )
        row.placements.all().delete()
        FanPlacement.objects.bulk_create(
            FanPlacement(
                layout=row,
                order=n,
                mount=mounts[p["mount"]],
                fan=fans[p["fan"]],
                direction=p["direction"],
                more=_without(p, "mount", "fan", "direction"),
            )
            for n, p in enumerate(layout.get("fans", []))
        )


def document(job: Job) -> Raw:
    """The open document of a job, made from its rows as they stand at one moment: a save beside it replaces many of them."""
    try:
        with one_moment():
            return _document(Job.objects.filter(pk=job.pk).select_related("case").first() or job)
    except (ObjectDoesNotExist, KeyError, TypeError, ValueError, AttributeError) as error:
        do = "Export it as it is stored from the list of jobs, or restore a copy of the database."
        raise UnreadableJobError(f"its rows are not whole ({type(error).__name__}: {error})"[:300], job.name, do) from error


def _document(job: Job) -> Raw:
    more = dict(job.more)
    parts_more, given = more.pop("_parts", {}), set(more.pop("_given", []))
    case = job.case
    panels = [{"face": p.face, "kind": p.kind, **p.more} for p in case.panels.all()]
    mounts = [{"id": m.key, "face": m.face, **m.more} for m in case.mounts.all()]
    case_raw: Raw = {**case.more}
    for name, values in (("panels", panels), ("mounts", mounts)):
        if values or f"case.{name}" in given:
            case_raw[name] = values
    parts: Raw = {**parts_more}
    by_kind: dict[str, list[Raw]] = {kind: [] for kind in PART_KINDS}
    for part in job.parts.all():
        by_kind[part.kind].append(part.figures)
    for kind, values in by_kind.items():
        if values or kind in given:
            parts[kind] = values
    layouts = [_layout(x) for x in job.layouts.prefetch_related("placements__mount", "placements__fan")]
    raw: Raw = {**more, "name": job.name, "case": case_raw}
    if parts or "parts" in given:
        raw["parts"] = parts
    if layouts or "layouts" in given:
        raw["layouts"] = layouts
    return raw


def _layout(row: Layout) -> Raw:
    more = dict(row.more)
    wrote_fans = more.pop("_fans", False)
    fans = [{"mount": p.mount.key, "fan": p.fan.key, "direction": p.direction, **p.more} for p in row.placements.all()]
    return {"id": row.key, **({"fans": fans} if fans or wrote_fans else {}), **more}
