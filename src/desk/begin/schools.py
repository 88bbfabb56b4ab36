"""Layouts to start from, one for each way practitioners build; put together from the mounts and fans at hand."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from documents.job.case import MountDoc
from documents.job.models import FanDoc, JobDoc

Raw = dict[str, Any]


@dataclass(frozen=True)
class Starter:
    """One school's layout for this case: ``layout`` as the document writes it, without id; ``remark`` says what it stands for."""

    key: str
    name: str
    remark: str
    layout: Raw


def starters(doc: JobDoc) -> list[Starter]:
    """Every school whose mounts and fans are there, in a fixed order."""
    makers = (_front_to_rear, _bottom_to_top, _chimney, _few, _radiator_out, _radiator_in, _bench)
    found = [make(doc) for make in makers]
    return [s for s in found if s is not None]


def _fan_for(doc: JobDoc, mount: MountDoc) -> FanDoc | None:
    return next((f for f in sorted(doc.parts.fans, key=lambda f: -f.size_mm) if f.size_mm in mount.sizes_mm), None)


def _place(doc: JobDoc, chosen: Callable[[MountDoc], str | None]) -> list[Raw]:
    fans = []
    for mount in doc.case.mounts:
        way, fan = chosen(mount), _fan_for(doc, mount)
        if way and fan:
            fans.append({"mount": mount.id, "fan": fan.id, "direction": way, "speed_pct": 80})
    return fans


def _by_face(ways: dict[str, str]) -> Callable[[MountDoc], str | None]:
    return lambda m: ways.get(m.face)


def _made(key: str, name: str, remark: str, fans: list[Raw], **more: Any) -> Starter | None:
    return Starter(key, name, remark, {"name": name, "fans": fans, **more}) if fans else None


def _front_to_rear(doc: JobDoc) -> Starter | None:
    fans = _place(doc, _by_face({"front": "intake", "rear": "exhaust"}))
    return _made("front_to_rear", "front to rear", "in at the front, out at the rear; the common build", fans)


def _bottom_to_top(doc: JobDoc) -> Starter | None:
    if not any(m.face == "bottom" for m in doc.case.mounts):
        return None
    fans = _place(doc, _by_face({"bottom": "intake", "top": "exhaust", "rear": "exhaust"}))
    return _made("bottom_to_top", "bottom to top", "in below the card, out above; feeds the card first", fans)


def _chimney(doc: JobDoc) -> Starter | None:
    cooler = next((c for c in doc.parts.coolers if c.id == doc.base.cooler), None)
    if not cooler or cooler.kind != "tower" or not any(m.face == "top" for m in doc.case.mounts):
        return None
    fans = _place(doc, _by_face({"front": "intake", "bottom": "intake", "top": "exhaust"}))
    return _made("chimney", "chimney", "the tower blows up and the top takes its air", fans, cooler_direction="up")


def _few(doc: JobDoc) -> Starter | None:
    """One in, one out: what many cases come with."""
    mounts = doc.case.mounts
    front = max((m for m in mounts if m.face in ("front", "bottom")), key=lambda m: m.centre_mm.z, default=None)
    rear = next((m for m in mounts if m.face == "rear"), next((m for m in mounts if m.face == "top"), None))
    chosen = {m.id: way for m, way in ((front, "intake"), (rear, "exhaust")) if m}
    return _made("few", "one in, one out", "as many cases come; the one to beat", _place(doc, lambda m: chosen.get(m.id)))


def _bench(doc: JobDoc) -> Starter | None:
    """No case: what the same parts reach with air all round."""
    cooler = next((c for c in doc.parts.coolers if c.id == doc.base.cooler), None)
    if not cooler or cooler.kind in ("sealed", "open_loop"):
        return None
    layout = {"name": "open bench", "fans": [], "open_bench": True}
    return Starter("open_bench", "open bench", "the same parts without walls: the zero line of every chart", layout)


def _radiator(doc: JobDoc, face: str, way: str, key: str, name: str, remark: str) -> Starter | None:
    cooler = next((c for c in doc.parts.coolers if c.kind == "sealed"), None)
    rows = [r for r in doc.case.rails if r.face == face]
    for rail in rows or (None,):
        mounts = [m for m in doc.case.mounts if m.face == face and (rail is None or m.id in rail.mounts)]
        for part in sorted(doc.parts.radiators, key=lambda r: -r.sections):
            fits = [m for m in mounts if part.section_mm in m.sizes_mm]
            wanted = not rail or not rail.radiators_mm or part.sections * part.section_mm in rail.radiators_mm
            if cooler and wanted and len(fits) >= part.sections:
                taken = [m.id for m in fits[: part.sections]]
                others = {"front": "intake", "rear": "exhaust", "bottom": "intake"} | ({} if face == "top" else {"top": "exhaust"})
                others.pop(face, None)
                fans = _place(doc, lambda m, t=taken, o=others: way if m.id in t else o.get(m.face))  # type: ignore[misc]
                place = {"radiator": part.id, "mounts": taken, "tubes": "bottom" if face == "front" else "rear"}
                return _made(key, name, remark, fans, cooler=cooler.id, radiator=place)
    return None


def _radiator_out(doc: JobDoc) -> Starter | None:
    remark = "the radiator on top blows out; its heat leaves, the card's air goes through it"
    return _radiator(doc, "top", "exhaust", "radiator_out", "radiator on top, out", remark)


def _radiator_in(doc: JobDoc) -> Starter | None:
    remark = "the radiator in front breathes fresh air; its heat goes to the card"
    return _radiator(doc, "front", "intake", "radiator_in", "radiator in front, in", remark)
