"""The steps of a build: from the assembly's own order, with what must come out first, what is checked, and what may not be skipped.

Minutes and checks are common practice, no source, where they are not the person's own; the makers' manuals come first.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from hashlib import sha256
from types import MappingProxyType

from desk.build.panels import HELD_BY_FANS
from desk.build.shapes import BuildFan, BuildHeader, BuildRadiator, BuildStep, Chapter
from desk.job.resolve import Resolver
from desk.together.fit import assembly_in
from documents.job.models import CoolerDoc, LayoutDoc, PanelStateDoc
from engine.fit.assembly import Assembly, Before
from engine.plan.rebuild import MINUTES, Kind

# Minutes of hand work for parts that a rebuild between two layouts never touches, and for checks; common practice, no source.
PART_MIN: Mapping[str, float] = MappingProxyType({"power supply": 12.0, "board": 15.0, "memory": 2.0})
LEAD_MIN, CHECK_MIN, PAPER_MIN, CURVE_MIN, PURGE_MIN = 1.5, 2.0, 0.5, 4.0, 15.0  # common practice, no source
LEAK_WAIT_MIN = 30.0  # common practice, no source; an open loop waits as long as its makers say, often a day
OPEN_LOOP_MIN = 60.0  # common practice, no source: filling and bleeding with the machine unpowered
RUN_MIN = 30.0  # common practice, no source: long enough for most coolers to settle
FITTED = PanelStateDoc()


@dataclass
class Sheet:
    """Steps as they are written, with the one that everything in a chapter waits for."""

    steps: list[BuildStep] = field(default_factory=list)

    def add(
        self,
        ident: str,
        chapter: Chapter,
        words: str,
        minutes: float,
        after: Iterable[str] = (),
        details: Iterable[str] = (),
        caution: str | None = None,
        gate: bool = False,
        fan: BuildFan | None = None,
    ) -> str:
        own = [x for x in dict.fromkeys(after) if x]
        lines = [x for x in details if x]
        key = sha256("\n".join([words, *lines]).encode()).hexdigest()[:12]
        self.steps.append(
            BuildStep(
                id=ident,
                chapter=chapter,
                words=words,
                details=lines,
                after=own,
                minutes=minutes,
                caution=caution,
                gate=gate,
                key=key,
                mount=fan.mount if fan else None,
                layer=fan.layer if fan else None,
            )
        )
        return ident


@dataclass(frozen=True)
class Making:
    """What the steps are written from. ``start``: the layout that stands now, None for an empty case."""

    resolver: Resolver
    layout: LayoutDoc
    start: LayoutDoc | None
    fans: Sequence[BuildFan]
    radiators: Sequence[BuildRadiator]
    headers: Sequence[BuildHeader]
    curves: bool

    def minutes(self, kind: Kind) -> float:
        return self.resolver.doc.practice.minutes.get(kind, MINUTES[kind])

    @property
    def cooler(self) -> CoolerDoc | None:
        return self.resolver.cpu_cooler(self.layout)

    @property
    def loops(self) -> bool:
        return bool(self.resolver.loops(self.layout))

    @property
    def open_loop(self) -> bool:
        return any(self.resolver.parts["coolers"][x.cooler].kind == "open_loop" for x in self.resolver.loops(self.layout))


def steps_of(m: Making) -> tuple[list[BuildStep], list[str], list[str]]:
    """The steps, why there is no order of them where there is none, and what must lie on the table."""
    order = assembly_in(m.resolver, m.layout)
    before = assembly_in(m.resolver, m.start) if m.start else None
    for x in (order, before):
        if x and x.ring:
            return [], [f"{d.first} before {d.second}, since {d.why}" for d in x.ring], []
    sheet = Sheet()
    touched = _touched(m, order, before) if m.start and before else None
    kit = kit_of(m, touched)
    if touched is not None and not touched.anything:
        _power(m, sheet, [], opened=False)
        return sheet.steps, [], []
    safe = _prepare(m, sheet, kit)
    out = _take_out(m, sheet, before, touched, safe) if before and touched else {}
    placed = _put_in(m, sheet, order, touched, out, safe)
    leads = _leads(m, sheet, placed)
    closed = _close(m, sheet, [*placed.values(), *leads], bool(touched is None or touched.moves_loop))
    _power(m, sheet, closed, opened=True)
    return sheet.steps, [], kit


@dataclass(frozen=True)
class Touched:
    """Parts of a rebuild: what changes, and what comes out and goes back only because it is in the way, with the demand it stands for."""

    gone: tuple[str, ...]
    come: tuple[str, ...]
    in_the_way: Mapping[str, Before]

    @property
    def anything(self) -> bool:
        return bool(self.gone or self.come)

    @property
    def moves_loop(self) -> bool:
        return any(x.startswith("radiator") or x == "cooler" for x in (*self.gone, *self.come, *self.in_the_way))


def _touched(m: Making, order: Assembly, before: Assembly) -> Touched:
    assert m.start is not None
    old, new = _parts(m, m.start, before), _parts(m, m.layout, order)
    gone = tuple(x for x in before.order if old.get(x) != new.get(x))
    come = tuple(x for x in order.order if old.get(x) != new.get(x))
    way: dict[str, Before] = {}
    for assembled, parts in ((before, gone), (order, come)):
        for part in parts:
            for d in _behind(part, assembled.demands):
                if d.second in old and d.second not in gone:
                    way.setdefault(d.second, d)
    return Touched(gone, come, way)


def _behind(part: str, demands: Sequence[Before]) -> Iterator[Before]:
    """Demands by which other parts stand in the way of one, near ones first."""
    seen, todo = {part}, [part]
    while todo:
        here = todo.pop(0)
        for d in demands:
            if d.first == here and d.second not in seen:
                seen.add(d.second)
                todo.append(d.second)
                yield d


def _parts(m: Making, layout: LayoutDoc, order: Assembly) -> dict[str, object]:
    """By the name of a part what it is and how it stands: two layouts share the part where these are equal."""
    r = m.resolver
    found: dict[str, object] = {}
    for name in order.order:
        if name.startswith("fan at "):
            mount = name.removeprefix("fan at ").lower()
            found[name] = sorted((f.layer, f.fan, f.direction) for f in layout.fans if f.mount.lower() == mount)
        elif name.startswith("radiator at "):
            mounts = [x.lower() for x in name.removeprefix("radiator at ").split(", ")]
            place = next(p for loop in r.loops(layout) for p in loop.radiators if [x.lower() for x in p.mounts] == mounts)
            fans = sorted((f.mount, f.layer, f.fan, f.direction) for f in layout.fans if f.mount in place.mounts)
            found[name] = (place.model_dump_json(), fans)
        elif name == "cooler":
            own = ("cooler", "cooler_fan", "cooler_fans", "cooler_fan_side", "cooler_fan_lift_mm", "cooler_direction")
            found[name] = [r.setting(layout, x) if hasattr(r.doc.base, x) else getattr(layout, x) for x in own]
        elif name == "card":
            found[name] = (r.setting(layout, "card"), layout.card_orientation)
        else:
            found[name] = r.setting(layout, {"power supply": "supply"}.get(name, name))
    return found


def _prepare(m: Making, sheet: Sheet, kit_lines: Sequence[str]) -> str:
    off = sheet.add(
        "mains_off",
        "before",
        "Shut down, switch off at the supply, pull the mains plug, press the power button once"
        if m.start
        else "Nothing is plugged into the mains yet: leave it so until the sheet says",
        1.0,
        details=["Touch bare metal of the case now and then, or wear an earthed strap."],
        caution="mains",
        gate=True,
    )
    kit = sheet.add(
        "kit", "before", "Lay out and count everything", 5.0, [off], details=kit_lines, caution="static" if not m.start else "fan"
    )
    panels = sheet.add(
        "panels_off",
        "before",
        "Take off the side panels and the front; keep their screws apart",
        2.0,
        [off],
        details=["Filters too: clean them while they are out."] if _filters(m) else (),
        caution="glass",
    )
    found = [d for d in m.resolver.doc.case.panels if d.kind == "glass"]
    if not found:
        sheet.steps[-1].caution = "sharp"
    return sheet.add(
        "manuals",
        "before",
        "The manuals of case, cooler and board lie open",
        1.0,
        [kit, panels],
        details=["Where one says otherwise than this sheet, it leads."],
    )


def _take_out(m: Making, sheet: Sheet, before: Assembly, touched: Touched, safe: str) -> dict[str, str]:
    """Steps by part, in the reverse of the order in which they went in."""
    done: dict[str, str] = {}
    leaving = {*touched.gone, *touched.in_the_way}
    for name in reversed(before.order):
        if name not in leaving:
            continue
        waits = [done[d.second] for d in before.demands if d.first == name and d.second in done]
        why = touched.in_the_way.get(name)
        back = f"It is in the way of {why.first}: {why.why}. It goes back as it was." if why else ""
        details = [back]
        if name == "cooler":
            details += ["Warm it first under a light load: cold paste holds fast.", "Turn it a little, then lift; clean both faces."]
        done[name] = sheet.add(
            f"out_{_slug(name)}",
            "out",
            f"Take out the {name}" if not name.startswith("fan") else f"Take out the {name}, its lead first",
            _minutes(m, name, out=True),
            [safe, *waits],
            details,
            caution=_caution(name, m, out=True),
        )
    return done


def _put_in(m: Making, sheet: Sheet, order: Assembly, touched: Touched | None, out: Mapping[str, str], safe: str) -> dict[str, str]:
    done: dict[str, str] = {}
    for name in order.order:
        if touched is not None and name not in touched.come and name not in touched.in_the_way:
            continue
        freed = [out[d.second] for d in order.demands if d.first == name and d.second in out]
        waits = [safe, *([out[name]] if name in out else []), *freed]
        waits += [done[d.first] for d in order.demands if d.second == name and d.first in done]
        if name.startswith("fan at "):
            mount = name.removeprefix("fan at ").lower()
            for fan in [f for f in m.fans if f.mount.lower() == mount]:
                done[name] = _fan_step(m, sheet, fan, waits)
                waits = [*waits, done[name]]
        elif name.startswith("radiator at "):
            done[name] = _radiator_steps(m, sheet, name, waits)
        elif name == "cooler":
            done[name] = _cooler_steps(m, sheet, waits)
        else:
            done[name] = sheet.add(
                f"in_{_slug(name)}", "in", _in_words(m, name), _minutes(m, name), waits, _in_details(name), _caution(name, m)
            )
    return done


def _fan_step(m: Making, sheet: Sheet, fan: BuildFan, waits: Sequence[str]) -> str:
    way = "blowing in" if fan.blows == "intake" else "blowing out"
    return sheet.add(
        f"fan_{_slug(fan.mount)}_{fan.layer}",
        "in",
        f"Fan {fan.name} at {fan.mount.upper()}, {way}",
        m.minutes("put"),
        waits,
        [
            f"From {fan.seen_from} you see its {fan.side_seen} side, from {fan.inside_from} its {fan.side_inside} side.",
            f"Lead out at the corner: {fan.exit}.",
            f"{fan.screws}.",
            f"Write on its lead: {fan.label}.",
        ],
        caution="fan",
        fan=fan,
    )


def _radiator_steps(m: Making, sheet: Sheet, name: str, waits: Sequence[str]) -> str:
    panel = next(r for r in m.radiators if name == f"radiator at {', '.join(x.upper() for x in r.mounts)}")
    slug = _slug(name)
    fans = [f for f in m.fans if f.mount in panel.mounts]
    last = list(waits)
    for fan in fans:
        last = [_fan_step(m, sheet, fan, last)]
        step = sheet.steps[-1]
        step.words = step.words.replace(" at ", " on the radiator at ", 1)
    return sheet.add(
        f"in_{slug}",
        "in",
        f"{name[0].upper()}{name[1:]}: hang it and screw it on",
        m.minutes("radiator"),
        last,
        [
            f"From outside in: {'; '.join(panel.layers)}.",
            f"Its tubes leave at the {panel.tubes}, in wide bends, held by nothing but their own spring.",
            f"Screws: {panel.screws}.",
            "Every screw first by two turns, then tight in a cross.",
        ],
        caution="radiator",
    )


def _cooler_steps(m: Making, sheet: Sheet, waits: Sequence[str]) -> str:
    cooler = m.cooler
    name = (cooler.name or cooler.id) if cooler else "cooler"
    block = m.loops
    bracket = sheet.add(
        "cooler_bracket",
        "in",
        f"Bracket of {name} for this very socket",
        6.0,
        waits,
        ["Backplate behind the board, posts in the right holes; every bag of the kit that is left over is another socket's."],
        caution="tighten",
    )
    clean = sheet.add(
        "cooler_clean", "in", "Both faces clean and dry", 2.0, [bracket], ["A lint-free cloth, a little pure alcohol."], "solvent"
    )
    film = sheet.add(
        "cooler_film",
        "in",
        "The film is off the cold plate: look at it, feel it",
        0.5,
        [clean],
        ["A film that stays on overheats the processor within minutes.", "Films on fans and panels too."],
        caution="film",
        gate=True,
    )
    paste = sheet.add(
        "cooler_paste",
        "in",
        "Paste: a pea in the middle, or a thin even coat on a large lid",
        1.0,
        [film],
        ["Paste that came on the plate counts once: after a lift it is cleaned off and new."],
        caution="paste",
    )
    way = m.layout.cooler_direction
    details = ["Opposite screws in turn, two turns each, until they stop; no force beyond that."]
    if block:
        details.append("Its badge as you want to read it; the tubes without a kink.")
    elif way:
        details.append(f"Its air leaves towards the {'front' if way == 'front' else way}.")
    seat = sheet.add(
        "cooler_seat",
        "in",
        f"Seat {'the block of ' if block else ''}{name}, tighten in a star",
        max(m.minutes("cooler") - 9.5, 3.0),
        [paste],
        details,
        caution="cooler",
    )
    if m.resolver.setting(m.layout, "cooler_fan") or (cooler and cooler.fan):
        seat = sheet.add(
            "cooler_fans",
            "in",
            "Clip the cooler's fan on, its arrow the way the air goes",
            2.0,
            [seat],
            [f"Raised by {m.layout.cooler_fan_lift_mm:.0f} mm over the memory." if m.layout.cooler_fan_lift_mm else ""],
            caution="fan",
        )
    return seat


def _leads(m: Making, sheet: Sheet, placed: Mapping[str, str]) -> list[str]:
    """One step a header, and one for every lead that no header is named for."""
    done = []
    all_in = list(placed.values())
    for x in m.headers:
        if not x.plugs:
            continue
        limit = "its limit is not known: see its manual" if x.limit_a is None else f"of {x.limit_a:.2f} A that it is made for"
        details = [f"At the start they draw {x.sum_a:.2f} A, {limit}."]
        if x.unknown:
            details.append(f"Not counted, as no current is given: {', '.join(x.unknown)}.")
        if x.verdict == "overloaded":
            details.append("This is too much: move one elsewhere before power.")
        done.append(
            sheet.add(
                f"lead_{_slug(x.header)}",
                "leads",
                f"On {x.header}: {', '.join(x.plugs)}",
                LEAD_MIN * len(x.plugs),
                all_in,
                details,
                caution="lead",
                gate=x.verdict == "overloaded",
            )
        )
    loose = [f for f in m.fans if f.running and not f.lead.to]
    if loose:
        names = ", ".join(f.label for f in loose)
        done.append(
            sheet.add(
                "lead_other",
                "leads",
                f"Plug in: {names}",
                LEAD_MIN * len(loose),
                all_in,
                ["No header is named for them: choose one under leads, so that currents and lengths are checked."],
                caution="lead",
            )
        )
    return done


def _close(m: Making, sheet: Sheet, waits: Sequence[str], leak: bool) -> list[str]:
    waits = list(waits) or [sheet.steps[-1].id]
    tidy = sheet.add(
        "cables",
        "close",
        "Every cable tied: none touches a blade, none lies before a fan or vent",
        8.0,
        waits,
        ["Turn each rotor once by hand: nothing rubs."],
        caution="fanMore",
    )
    done = [tidy]
    if m.open_loop and leak:
        fill = sheet.add(
            "fill",
            "close",
            "Fill and bleed the loop with the machine unpowered",
            OPEN_LOOP_MIN,
            [tidy],
            ["Only the pump has power."],
            "openLoop",
        )
        done = [
            sheet.add(
                "leak", "close", "Wait, then look at every fitting with dry paper", LEAK_WAIT_MIN, [fill], [_LEAK_LONG], "coolant", True
            )
        ]
    elif m.loops and leak:
        done = [
            sheet.add("leak", "close", "Dry paper along block, tubes and radiator: it stays dry", CHECK_MIN, [tidy], (), "coolant", True)
        ]
    back = [f"{face} panel: {s.state.replace('_', ' ')}" for face, s in m.layout.panels.items() if s.state != FITTED.state]
    lines = [f"As this layout says, {'; '.join(back)}." if back else "All panels on.", "No film left on glass or front."]
    lines.append(f"Filters back in: {', '.join(_filters(m))}." if _filters(m) else "")
    return [sheet.add("restore", "close", "Panels, filters and screws back: nothing is left on the table", 4.0, done, lines, "glass")]


_LEAK_LONG = "As long as the loop's makers say, often a day."


def _power(m: Making, sheet: Sheet, closed: Sequence[str], opened: bool) -> None:
    """``opened`` False: nothing but speeds differs, the case stays shut."""
    first = ""
    if opened:
        first = sheet.add(
            "first_power",
            "power",
            "Mains on, start once, hand on the switch",
            2.0,
            closed,
            ["Every fan turns, nothing rubs, no smell; off at once otherwise."],
            caution="run",
        )
    seen = [
        sheet.add(
            f"sight_{_slug(f.mount)}_{f.layer}",
            "power",
            f"{f.label.replace(' in', ' draws in').replace(' out', ' blows out')}: seen, or felt with a strip of paper",
            PAPER_MIN,
            [first],
            ["Paper is drawn to a grille by a fan that draws in, pushed off by one that blows out. Not through the guard."],
            caution="fanMore",
            fan=f,
        )
        for f in m.fans
        if f.running and opened
    ]
    pump = []
    if m.loops and opened:
        pump.append(
            sheet.add(
                "pump",
                "power",
                "The pump runs at the speed it was set to, and is heard by nobody who is not close",
                CHECK_MIN,
                [first],
                ["Read its speed in the firmware; gurgling for more than some minutes: off, and look at the heights."],
                caution="pump",
                gate=True,
            )
        )
        pump.append(
            sheet.add(
                "purge",
                "power",
                "Air out of the loop: a quarter of an hour at full pump, tilted a little now and then",
                PURGE_MIN,
                [pump[-1]],
                ["Radiator highest. It is done when nothing gurgles; what is left gathers at the highest point."],
                caution="coolant",
            )
        )
    preset = sheet.add(
        "presets",
        "power",
        "Firmware: no preset touches the pump, no new fan is left on the board's own curve",
        CURVE_MIN,
        [first],
        ["Quiet presets often slow the pump too; after every update look again."],
        gate=True,
    )
    curves = sheet.add(
        "curves",
        "power",
        "Set speeds and curves as the cards say" if m.curves else "Set the speeds as the panels say",
        CURVE_MIN,
        [preset],
        [f"{f.label}: {f.speed_pct:.0f} %, about {f.speed_rpm:.0f} rpm" for f in m.fans if f.running and not f.curve],
    )
    run = sheet.add(
        "commission",
        "after",
        "A run at full load, held against the forecast and the reference run",
        RUN_MIN,
        [curves, *seen, *pump],
        ["Hand its log in under units: what is as it should be is told, and what is likely wrong where it is not."],
        caution="run",
    )
    again = [run]
    if m.loops and opened:
        again.append(sheet.add("leak_warm", "after", "Look for leaks once more, warm", CHECK_MIN, [run], (), "coolant", True))
    sheet.add("keep", "after", "Keep the run as this machine's baseline; note the day for the first cleaning", 1.0, again)


def kit_of(m: Making, touched: Touched | None) -> list[str]:
    """What must lie on the table: parts that this build moves, with their screws."""
    lines: dict[str, int] = {}
    start = {(f.mount, f.layer, f.fan, f.direction) for f in m.start.fans} if m.start else set()
    new = [f for f in m.fans if (f.mount, f.layer, f.fan, f.blows) not in start]
    for f in new:
        lines[f.name] = lines.get(f.name, 0) + 1
    tapping = 4 * sum(f.screws.startswith("4 self") for f in new)
    machine = 4 * sum(f.screws.startswith("4 machine") for f in new)
    found = [f"{n} × {name}" for name, n in lines.items()]
    found += [f"{tapping} self-tapping fan screws"] if tapping else []
    found += [f"{machine} machine screws of the radiator's thread, as long as the panels say"] if machine else []
    moved = [r for r in m.radiators if touched is None or f"radiator at {', '.join(x.upper() for x in r.mounts)}" in touched.come]
    found += [f"radiator {r.name}" + ("" if r.screws == HELD_BY_FANS else " with its short screws") for r in moved]
    if m.cooler and (touched is None or "cooler" in (*touched.come, *touched.in_the_way)):
        found.append(f"{m.cooler.name or m.cooler.id} with the bracket for this socket, paste, pure alcohol, a lint-free cloth")
    vias = dict.fromkeys(f.lead.via for f in m.fans if f.lead.via)
    found += [f"{x}, with its own power lead if it has one" for x in vias]
    found += ["a cross-head screwdriver, ties, a pen for labels, a strip of thin paper, a torch"]
    return found


def _filters(m: Making) -> list[str]:
    return [f"{p.face} ({p.filter})" for p in m.resolver.doc.case.panels if p.filter != "none"]


def _in_words(m: Making, name: str) -> str:
    r = m.resolver
    kinds = {
        "card": ("card", "cards"),
        "board": ("board", "boards"),
        "memory": ("memory", "memory"),
        "power supply": ("supply", "supplies"),
    }
    setting, kind = kinds.get(name, (name, ""))
    part = r.parts.get(kind, {}).get(r.setting(m.layout, setting) or "")
    told = f" {part.name or part.id}" if part else ""
    upright = ", upright" if name == "card" and m.layout.card_orientation == "upright" else ""
    return f"{name[0].upper()}{name[1:]}{told}{upright}"


def _in_details(name: str) -> list[str]:
    return {
        "power supply": ["Its fan towards the vent it breathes through; modular leads plugged before it is out of reach."],
        "board": ["Rear plate first; a stand-off under every hole and none elsewhere; all screws loose, then tight."],
        "memory": ["Latches open, straight down, until both click."],
        "card": [
            "Latch open, level, until it clicks; screw it to the slot plate; prop it up if it hangs. Its power leads whole, none split."
        ],
    }.get(name, [])


def _caution(name: str, m: Making, out: bool = False) -> str | None:
    if name.startswith("fan"):
        return "fan"
    if name.startswith("radiator"):
        return "radiator"
    if name == "cooler":
        return "hot" if out else "cooler"
    return {"power supply": "supply", "board": "static", "memory": "static", "card": "cardStrain"}.get(name)


def _minutes(m: Making, name: str, out: bool = False) -> float:
    if name.startswith("fan"):
        return m.minutes("take_out" if out else "put")
    if name.startswith("radiator"):
        return m.minutes("radiator") / (2 if out else 1)
    if name in ("cooler", "card"):
        return m.minutes("cooler" if name == "cooler" else "card") / (2 if out else 1)
    return PART_MIN[name] / (2 if out else 1)


def _slug(name: str) -> str:
    return "".join(c if c.isalnum() else "_" for c in name.lower()).strip("_")
