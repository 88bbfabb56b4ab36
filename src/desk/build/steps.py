"""The steps of a build: from the assembly's own order, with what must come out first, what is checked, and what may not be skipped.

Minutes and checks are common practice, no source, where they are not the person's own; the makers' manuals come first.
"""

from collections.abc import Iterator, Mapping, Sequence

from desk.build.assembling import put_in
from desk.build.making import Making, Sheet, filters_of, slug
from desk.build.panels import HELD_BY_FANS, at_mount
from desk.build.rebuild import Touched, take_out, touched_by
from desk.build.shapes import BuildLoose, BuildPump, BuildStep
from desk.job.difference import changes, panels_in_words
from desk.job.names import as_radiator
from desk.together.fit import assembly_in
from engine.plan.rebuild import Change

BOARD_LEADS_MIN = 10.0  # common practice, no source
LEAD_MIN, CHECK_MIN, PAPER_MIN, CURVE_MIN, PURGE_MIN, TRIM_MIN = 1.5, 2.0, 0.5, 4.0, 15.0, 20.0  # common practice, no source
LEAK_WAIT_MIN = 30.0  # common practice, no source; an open loop waits as long as its makers say, often a day
OPEN_LOOP_MIN = 60.0  # common practice, no source: filling and bleeding with the machine unpowered
RUN_MIN = 30.0  # common practice, no source: long enough for most coolers to settle


def steps_of(m: Making) -> tuple[list[BuildStep], list[str], list[str]]:
    """The steps, why there is no order of them where there is none, and what must lie on the table."""
    order = assembly_in(m.resolver, m.layout)
    before = assembly_in(m.resolver, m.start) if m.start else None
    for x in (order, before):
        if x and x.ring:
            return [], [f"{d.first} before {d.second}, since {d.why}" for d in x.ring], []
    sheet = Sheet()
    touched = touched_by(m, order, before) if m.start and before else None
    kit = kit_of(m, touched)
    beside = _beside(m)
    plugs = [c for c in beside if c.kind == "plug"]
    if touched is not None and not touched.anything:
        first = [_prepare(m, sheet, [])] if plugs else []
        _power(m, sheet, [_changed(m, sheet, beside, first)] if beside else [], opened=bool(plugs))
        return sheet.steps, [], []
    safe = _prepare(m, sheet, kit)
    out = take_out(m, sheet, before, touched, safe) if before and touched else {}
    placed = put_in(m, sheet, order, touched, out, safe)
    leads = _leads(m, sheet, placed)
    leads += [_changed(m, sheet, plugs, [safe, *placed.values()])] if plugs else []  # its panels go back with the others at the end
    closed = _close(m, sheet, [*placed.values(), *leads], bool(touched is None or touched.moves_loop))
    _power(m, sheet, closed, opened=True)
    return sheet.steps, [], kit


def _beside(m: Making) -> list[Change]:
    """What a rebuild changes beside parts: panels, what is blocked, and which fans are plugged in."""
    return [c for c in changes(m.resolver.doc, m.start, m.layout) if c.kind in ("panel", "plug")] if m.start else []


def _changed(m: Making, sheet: Sheet, done: Sequence[Change], after: Sequence[str]) -> str:
    kinds = {c.kind: words for c in done for kind, words in (("panel", "panels"), ("plug", "plugs")) if c.kind == kind}
    words = " and ".join(kinds.values()).capitalize() + " as this layout has them"
    caution = ("glass" if _has_glass(m) else "sharp") if "panel" in kinds else "fan"
    return sheet.add("beside", "close", words, sum(m.minutes(c.kind) for c in done), after, [c.order or c.words for c in done], caution)


def _has_glass(m: Making) -> bool:
    return "glass" in [*(p.kind for p in m.resolver.doc.case.panels), *(p.kind for p in m.layout.panels.values())]


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
        details=["Filters too: clean them while they are out."] if filters_of(m) else (),
        caution="glass",
    )
    if not _has_glass(m):
        sheet.steps[-1].caution = "sharp"
    return sheet.add(
        "manuals",
        "before",
        "The manuals of case, cooler and board lie open",
        1.0,
        [kit, panels],
        details=["Where one says otherwise than this sheet, it leads."],
    )


def _leads(m: Making, sheet: Sheet, placed: Mapping[str, str]) -> list[str]:
    """One step a header, and one for every lead that no header is named for."""
    done = []
    all_in = list(placed.values())
    if "board" in placed:
        done.append(
            sheet.add(
                "lead_board",
                "leads",
                "The board's own leads: main power, processor power, the front's switch, lights, sound and ports",
                BOARD_LEADS_MIN,
                all_in,
                [
                    "Power plugs until the latch clicks; both plugs of the processor's power where the board has two.",
                    "The front's leads as the board's manual draws them; drives with power and data.",
                ],
                caution="lead",
            )
        )
    for x in m.headers:
        if not x.plugs:
            continue
        limit = "its limit is not known: see its manual" if x.limit_a is None else f"it is made for {x.limit_a:.2f} A"
        known = len(x.plugs) > len(x.unknown)
        details = [f"At the start {x.sum_a:.2f} A, {limit}." if known else f"What is drawn at the start is not given; {limit}."]
        if x.unknown and known:
            details.append(f"Not counted, as no current is given: {', '.join(x.unknown)}.")
        if x.verdict == "overloaded":
            details.append("This is too much: move one elsewhere before power.")
        done.append(
            sheet.add(
                f"lead_{slug(x.header)}",
                "leads",
                f"On {x.header}: {', '.join(x.plugs)}",
                LEAD_MIN * len(x.plugs),
                all_in,
                details,
                caution="lead",
                gate=x.verdict == "overloaded",
            )
        )
    if m.lights:
        done.append(
            sheet.add(
                "lights",
                "leads",
                f"Lights, one after the other: {', '.join(m.lights)}",
                LEAD_MIN * len(m.lights),
                all_in,
                [
                    "Each is plugged into the one before it; the first into the board or its controller.",
                    "Look at the plug before you push it.",
                ],
                caution="lightPlug",
            )
        )
    if m.loose:
        names = ", ".join(x.name for x in m.loose)
        details = list(_where_to(m.loose))
        done.append(sheet.add("lead_other", "leads", f"Plug in: {names}", LEAD_MIN * len(m.loose), all_in, details, caution="lead"))
    return done


def _where_to(loose: Sequence[BuildLoose]) -> Iterator[str]:
    """As they may be shared out, or by what rule."""
    told = [f"{x.name} on {x.proposed}" for x in loose if x.proposed]
    left = [x for x in loose if not x.proposed]
    if told:
        yield "Nobody has chosen headers for these; with currents, plugs and ways counted they may go so:"
        yield "; ".join(told) + "."
    if pumps := ", ".join(x.name for x in left if x.pump):
        yield f"{pumps}: on the board's pump header, else on one that gives a constant full speed."
    alike: dict[str, list[str]] = {}
    for x in left:
        if not x.pump:
            alike.setdefault(x.drive, []).append(x.name)
    if alike:
        yield f"A header each, or on one splitter what is driven alike: {'; '.join(', '.join(names) for names in alike.values())}."
    if left:
        yield "All that hangs on one header draws less at its start than the board's manual allows there. Write each header on the map."


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
    back = panels_in_words(m.resolver.doc, m.layout)
    lines = [f"As this layout says, {'; '.join(back)}." if back else "All panels on.", "No film left on glass or front."]
    lines.append(f"Filters back in: {', '.join(filters_of(m))}." if filters_of(m) else "")
    return [sheet.add("restore", "close", "Panels, filters and screws back: nothing is left on the table", 4.0, done, lines, "glass")]


_LEAK_LONG = "As long as the loop's makers say, often a day."


def _power(m: Making, sheet: Sheet, closed: Sequence[str], opened: bool) -> None:
    """``opened`` False: no lead and no part differs, the case stays shut."""
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
            f"sight_{slug(f.mount)}_{f.layer}",
            "power",
            f"{at_mount(f)} {'draws in' if f.blows == 'intake' else 'blows out'}: seen, or felt with a strip of paper",
            PAPER_MIN,
            [first],
            ["Paper is drawn to a grille by a fan that draws in, pushed off by one that blows out. Not through the guard."],
            caution="fanMore",
            sight=True,
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
                [*(_pump_words(p) for p in m.pumps), "Gurgling for more than some minutes: off, and look at the heights."],
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
        pump.append(
            sheet.add(
                "pump_trim",
                "power",
                "Pump trimmed: as slow as it is not heard, no slower",
                TRIM_MIN,
                [pump[-1]],
                [
                    "Under full load lower it in steps of a tenth, ten minutes each; back by one step where the coolant warms by more than "
                    "1 K or the processor by more than 2 K.",
                    "Then constant, with an alarm on its speed.",
                ],
                caution="pump",
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
        "Set speeds and curves as the cards say" if m.curves else "Set the fans' speeds as listed here",
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


def _pump_words(p: BuildPump) -> str:
    how = f"on curve {p.curve}, which firmware may slow without a word" if p.curve else f"constant, {p.pct:.0f} %"
    return f"{p.of}: {how}; read its speed in the firmware."


def kit_of(m: Making, touched: Touched | None) -> list[str]:
    """What must lie on the table: parts that this build moves, with their screws."""
    lines: dict[str, int] = {}
    start = {(f.mount, f.layer, f.fan, f.direction) for f in m.start.fans} if m.start else set()
    new = [f for f in m.fans if (f.mount, f.layer, f.fan, f.blows) not in start]
    for f in new:
        lines[f.name] = lines.get(f.name, 0) + 1
    tapping = 4 * sum(f.screws.startswith("4 self") for f in new)
    machine = 4 * sum(f.screws.startswith("4 machine") for f in new)
    found = ["board, processor, memory, drives, supply and card as the list of parts says"] if m.start is None else []
    found += [f"{n} × {name}" for name, n in lines.items()]
    found += [f"{tapping} self-tapping fan screws"] if tapping else []
    found += [f"{machine} machine screws of the radiator's thread, as long as their drawings say"] if machine else []
    moved = [r for r in m.radiators if touched is None or f"radiator at {', '.join(x.upper() for x in r.mounts)}" in touched.come]
    found += [as_radiator(r.name) + ("" if r.screws == HELD_BY_FANS else " with its short screws") for r in moved]
    if m.cooler and (touched is None or "cooler" in (*touched.come, *touched.in_the_way)):
        found.append(f"{m.cooler.name or m.cooler.id} with the bracket for this socket, paste, pure alcohol, a lint-free cloth")
    vias = dict.fromkeys(f.lead.via for f in m.fans if f.lead.via)
    found += [f"{x}, with its own power lead if it has one" for x in vias]
    found += ["a cross-head screwdriver, ties, a pen for labels, a strip of thin paper, a torch"]
    return found
