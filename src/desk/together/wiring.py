"""Leads and headers of a layout, its stock and its cost, and an existing machine against it, from a job document."""

from collections import Counter
from collections.abc import Iterator
from math import ceil
from typing import Literal

from desk.job.resolve import Resolver
from documents.job.case import MountDoc, PointDoc
from documents.job.models import ControllerDoc, FanDoc, LayoutDoc, PlugDoc
from engine.findings.finding import Finding
from engine.wiring.asfound import Deviation, Meant, Seen, audit
from engine.wiring.currents import HeaderBox, Hole, Mismatch, Plug, Wiring, wiring
from engine.wiring.sharing import Branch, Lead, shared


def fan_name(mount: str, layer: str) -> str:
    """How a fan is called where its lead is meant; two may stand at one mount."""
    return f"the {'inner ' if layer == 'inner' else ''}fan at {mount.upper()}"


def wiring_of(resolver: Resolver, layout: LayoutDoc) -> Wiring:
    """The books of the layout's leads. A powered hub is a header of its own that loads the board with nothing."""
    plugs = tuple(x.plug for x in leads_of(resolver, layout) if x.plug.header or not _unheard_of(x.plug))
    holes = tuple(Hole(h.id, h.centre_mm.x, h.centre_mm.y, h.centre_mm.z) for h in resolver.doc.case.routing_holes)
    return wiring(tuple(_headers(resolver, layout)), plugs, holes)


def _headers(resolver: Resolver, layout: LayoutDoc) -> Iterator[HeaderBox]:
    board = resolver.parts["boards"].get(resolver.setting(layout, "board") or "")
    for h in board.headers if board else ():
        yield HeaderBox(h.id, h.kind, h.limit_a, tuple(h.modes), *_at(h.at_mm))
    for name in dict.fromkeys(p.via for p in layout.wiring if p.via):
        hub: ControllerDoc = resolver.parts["controllers"][name]
        if hub.kind != "splitter":
            yield HeaderBox(f"{hub.id}", "hub", hub.limit_a, tuple(hub.modes), *_at(hub.at_mm))


def _at(place: PointDoc | None) -> tuple[float | None, float | None, float | None]:
    return (place.x, place.y, place.z) if place else (None, None, None)


def _unheard_of(plug: Plug) -> bool:
    """A pump of which nobody has said what it draws is not missed in the books."""
    return plug.kind == "pump" and plug.current_a is None


def leads_of(resolver: Resolver, layout: LayoutDoc) -> Iterator[Lead]:
    """Whatever is plugged in somewhere: fans that run, the cooler's own, pumps; keyed as the document's ``wiring`` does."""
    plugged = {(p.of, p.layer): p for p in layout.wiring}
    for place in layout.fans:
        if place.state != "running":
            continue
        fan: FanDoc = resolver.parts["fans"][place.fan]
        speed, curve = resolver.pace(layout, place)
        name, key = fan_name(place.mount, place.layer), (place.mount, place.layer)
        plug = _plug(resolver, plugged.get(key), name, place.mount, fan, speed < 100 or curve is not None, curve)
        yield Lead(key, plug, place.group or curve or f"{speed:g} %")
    machine = resolver.machine(layout.id)
    cpu_at = PointDoc(x=machine.cpu_x_mm, y=0, z=machine.cpu_z_mm)
    cooler = resolver.cpu_cooler(layout)
    if cooler and cooler.kind in ("tower", "downdraft"):
        fan = resolver.parts["fans"][resolver.setting(layout, "cooler_fan") or cooler.fan]
        pct = resolver.setting(layout, "cooler_fan_pct")
        curve = resolver.setting(layout, "cooler_curve")
        slowed = curve is not None or (pct is not None and pct < 100)
        for n in range(resolver.setting(layout, "cooler_fans") or cooler.fans):
            key = ("cooler_fan", "outer" if n == 0 else "inner")
            own = plugged.get(key) or plugged.get(("cooler_fan", "outer"))
            yield Lead(key, _plug(resolver, own, "the cooler's fan", None, fan, slowed, curve, cpu_at), "cooler", of_cooler=True)
    for loop, given in zip(machine.loops, resolver.working_loops(layout), strict=True):
        of = "pump:card" if loop is machine.card_loop else "pump"
        part = resolver.parts["coolers"].get(given.cooler)
        own = plugged.get((of, "outer"))
        plug = Plug(
            "the pump of the card's loop" if of != "pump" else "the pump",
            None,
            "pump",
            part.pump_current_a if part else None,
            "4pin",
            part.pump_lead_mm if part else None,
            own.extension_mm if own else 0.0,
            _header(resolver, own),
            loop.pump_pct < 100 or loop.pump_curve is not None,
            loop.pump_curve is not None,
            *_at(cpu_at),
        )
        yield Lead((of, "outer"), plug, of)


def shared_out(resolver: Resolver, layout: LayoutDoc) -> list[PlugDoc]:
    """Leads of which nobody has said where they go, shared out among the board's free headers; what was chosen stays as it is."""
    taken = {p.header for p in layout.wiring} | {p.via for p in layout.wiring if p.via}
    headers = [h for h in _headers(resolver, layout) if h.id not in taken and h.kind != "hub"]
    branches = [
        Branch(
            c.id, c.outputs, c.lead_mm, None if c.kind == "splitter" else HeaderBox(c.id, "hub", c.limit_a, tuple(c.modes), *_at(c.at_mm))
        )
        for c in resolver.doc.parts.controllers
        if c.id not in taken
    ]
    loose = [x for x in leads_of(resolver, layout) if x.plug.header is None]
    machine = resolver.machine(layout.id)
    known = [h for h in _headers(resolver, layout) if h.kind == "fan" and h.x_mm is not None and h.z_mm is not None]
    beside = min(known, key=lambda h: abs((h.x_mm or 0) - machine.cpu_x_mm) + abs((h.z_mm or 0) - machine.cpu_z_mm), default=None)
    found = shared(loose, headers, branches, beside.id if beside else None)
    return [
        PlugDoc.model_validate(
            {"of": of, "header": place.header}
            | ({"layer": layer} if layer != "outer" else {})
            | ({"via": place.via} if place.via else {})
            | ({"extension_mm": place.extension_mm} if place.extension_mm else {})
        )
        for (of, layer), place in found.items()
    ]


def _header(resolver: Resolver, own: PlugDoc | None) -> str | None:
    """The header that carries the current: a powered hub brings its own."""
    if own is None:
        return None
    hub = resolver.parts["controllers"].get(own.via or "")
    return hub.id if hub and hub.kind != "splitter" else own.header


def _plug(
    resolver: Resolver,
    own: PlugDoc | None,
    name: str,
    mount: str | None,
    fan: FanDoc,
    slowed: bool,
    curve: str | None,
    at: PointDoc | None = None,
) -> Plug:
    place = at or next(m.centre_mm for m in resolver.doc.case.mounts if m.id == mount)
    via = resolver.parts["controllers"].get(own.via or "") if own else None
    extra = (own.extension_mm if own else 0.0) + (via.lead_mm if via else 0.0)
    return Plug(
        name, mount, "fan", fan.current_a, fan.connector, fan.lead_mm, extra, _header(resolver, own), slowed, curve is not None, *_at(place)
    )


_WORDS: dict[str, tuple[Literal["error", "warning", "note"], str, str, str]] = {
    "full_speed_only": (
        "warning",
        "On {header} cannot be slowed: {plug}",
        "Its plug is {connector}; the header slows {modes} fans only, so it turns at full speed whatever the layout says.",
        "Use a header that slows by voltage for 3-pin fans, or a fan of the other kind.",
    ),
    "pump_slowed": (
        "warning",
        "Slowed by its header: {plug}",
        "It is set to less than full speed or follows a curve; some presets lower it without a word.",
        "Give it a constant header at full speed, and an alarm on its speed.",
    ),
    "pump_on_fan_header": (
        "note",
        "On the fan header {header}: {plug}",
        "Fan headers follow a curve by default, also after an update of the board's firmware.",
        "Use the pump header, or set this one to a constant full speed and check it after every update.",
    ),
    "default_curve": (
        "note",
        "On the board's own curve until you set one: {plug}",
        "A newly added fan follows the header's default; a comparison by noise is spoilt by it.",
        "Set {header} to the speed that the layout says, or give the fan a curve.",
    ),
    "not_plugged": (
        "note",
        "Without a header yet: {plug}",
        "The board's headers are known, and none is named for it.",
        "Choose its header under leads, or have the leads shared out there.",
    ),
}


def wiring_findings(resolver: Resolver, layout_id: str) -> list[Finding]:
    """Headers that carry too much, leads that do not reach, plugs on the wrong kind of header."""
    layout = resolver.layout(layout_id)
    books = wiring_of(resolver, layout)
    found = plug_findings(resolver, layout)
    for x in books.headers:
        if x.verdict in ("overloaded", "near"):
            over = x.verdict == "overloaded"
            found.append(
                Finding(
                    code="header_overloaded" if over else "header_near_limit",
                    severity="error" if over else "warning",
                    kind="physics",
                    mounts=x.mounts,
                    what=f"{x.header} carries {'more than' if over else 'nearly all that'} it may",
                    because=f"{len(x.plugs)} plugs draw {x.sum_a:.2f} A; it is made for {x.limit_a:.2f} A.",
                    do="Move a fan to another header, or use a powered hub; never join two supplies' +12 V. The board's manual leads.",
                )
            )
    for lead in books.leads:
        if lead.spare_mm < 0:
            found.append(
                Finding(
                    code="lead_too_short",
                    severity="warning",
                    kind="practice",
                    mounts=(lead.mount,) if lead.mount else (),
                    what=f"The lead of {lead.name} does not reach {lead.header}",
                    because=f"The way along the frame is about {lead.needed_mm:.0f} mm, the lead {lead.there_mm:.0f} mm.",
                    do=f"Add an extension of {50 * ceil(-lead.spare_mm / 50)} mm, or take a nearer header.",
                )
            )
    alike: dict[tuple[str, str], list[Mismatch]] = {}
    for m in books.mismatches:
        alike.setdefault((m.code, m.header.id if m.header else ""), []).append(m)
    return [*found, *(_mismatch(same) for same in alike.values())]


def _mismatch(same: list[Mismatch]) -> Finding:
    """One finding for all plugs that are wrong in the same way on the same header."""
    m = same[0]
    severity, what, because, do = _WORDS[m.code]
    name = " and ".join(x.plug.name for x in same) if len(same) < 3 else f"{len(same)} plugs"
    words = {"plug": name, "header": m.header.id if m.header else "", "connector": m.plug.connector.replace("pin", "-pin")}
    words["modes"] = " and ".join(x.replace("pin", "-pin") for x in m.header.modes) if m.header else ""
    return Finding(
        code=m.code,
        severity=severity,
        kind="practice",
        mounts=tuple(dict.fromkeys(x.plug.mount for x in same if x.plug.mount)),
        what=what.format(**words),
        because=because.format(**words),
        do=do.format(**words),
    )


def fans_used(resolver: Resolver, layout: LayoutDoc) -> Counter[str]:
    """How many fans of each kind a layout needs from the pile; those that come with the cooler are not from there."""
    used = Counter(p.fan for p in layout.fans)
    cooler = resolver.cpu_cooler(layout)
    if cooler and cooler.kind in ("tower", "downdraft"):
        fan = resolver.setting(layout, "cooler_fan") or cooler.fan
        count = resolver.setting(layout, "cooler_fans") or cooler.fans
        with_it = cooler.fans if fan == cooler.fan else 0
        if fan and count > with_it:
            used[fan] += count - with_it
    return used


def free_mounts(resolver: Resolver, layout: LayoutDoc) -> Iterator[tuple[MountDoc, list[tuple[FanDoc, int | None]]]]:
    """Mounts where no fan stands, with the fans that fit them and how many of each lie over; None where nobody has counted."""
    doc, used = resolver.doc, fans_used(resolver, layout)
    have = doc.stock.fans if doc.stock else {}
    left = {f.id: have[f.id] - used[f.id] if f.id in have else None for f in doc.parts.fans}
    standing = {p.mount for p in layout.fans}
    for mount in doc.case.mounts:
        if mount.id not in standing:
            yield mount, [(f, left[f.id]) for f in doc.parts.fans if f.size_mm in mount.sizes_mm]


def plug_findings(resolver: Resolver, layout: LayoutDoc) -> list[Finding]:
    """More leads than there are plugs: a header takes one, a splitter, hub or controller as many as it has outputs."""
    controllers = resolver.parts["controllers"]
    leads: dict[str, list[tuple[str, str]]] = {}  # where they go -> names of what goes there, with its mount; a splitter has none
    outputs: dict[str, int] = {}
    for plug in layout.wiring:
        part = controllers.get(plug.via or plug.header)  # a hub with its own supply may be named like a header
        place = plug.header
        if plug.via:
            own = (part.name or part.id if part else plug.via, "")
            place = f"{own[0]} on {plug.header}"
            if (part is None or part.kind == "splitter") and own not in leads.get(plug.header, ()):
                leads.setdefault(plug.header, []).append(own)
        outputs[place] = part.outputs if part else 1
        leads.setdefault(place, []).append((_OWN_NAMES[plug.of], "") if plug.of in _OWN_NAMES else (plug.of.upper(), plug.of))
    found = []
    for place, there in leads.items():
        most = outputs.get(place, 1)
        if len(there) > most:
            found.append(
                Finding(
                    code="too_few_plugs",
                    severity="error",
                    kind="physics",
                    mounts=tuple(dict.fromkeys(mount for _, mount in there if mount)),
                    what=f"{place} has {most} {'plug' if most == 1 else 'plugs'} for {len(there)} leads",
                    because=f"{', '.join(name for name, _ in there)} are all to go there.",
                    do="Take another header for some of them, or a splitter or hub with more outputs; mind its current.",
                )
            )
    return found


_OWN_NAMES = {"cooler_fan": "the cooler's fan", "pump": "the pump", "pump:card": "the pump of the card's loop"}


def stock_findings(resolver: Resolver, layout_id: str) -> list[Finding]:
    """Fans that the layout needs and that are not on hand."""
    doc, layout = resolver.doc, resolver.layout(layout_id)
    if doc.stock is None:
        return []
    found = []
    for fan, used in fans_used(resolver, layout).items():
        have = doc.stock.fans.get(fan)
        if have is not None and used > have:
            name = resolver.parts["fans"][fan].name or fan
            found.append(
                Finding(
                    code="stock_short",
                    severity="warning",
                    kind="practice",
                    mounts=tuple(dict.fromkeys(p.mount for p in layout.fans if p.fan == fan)),
                    what=f"{used - have} of {name} are missing",
                    because=f"The layout needs {used}, {have} are on hand.",
                    do="Use another fan on hand, or put them on the shopping list.",
                )
            )
    return found


def audit_of(layout: LayoutDoc) -> list[Deviation]:
    """The machine as it was found against the layout; empty where nobody has looked yet."""
    if not layout.as_found:
        return []
    meant = tuple(Meant(p.mount, p.layer, p.direction, p.state == "running") for p in layout.fans)
    return audit(meant, tuple(Seen(s.mount, s.layer, s.direction, s.plugged, s.turning, s.filter) for s in layout.as_found))


def audit_findings(resolver: Resolver, layout_id: str) -> list[Finding]:
    """Each difference between the layout and the machine as it was found."""
    return [
        Finding(
            code=f"found_{d.code}",
            severity="note" if d.code in ("filter_dusty", "not_looked_at") else "warning",
            kind="practice",
            mounts=(d.mount,),
            what=d.what,
            because="So it was found when the machine was looked at; the forecast is for the layout as meant.",
            do=d.do,
        )
        for d in audit_of(resolver.layout(layout_id))
    ]
