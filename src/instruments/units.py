"""Made-up units of a batch: a short run of the stand-in's instruments on a machine with chips and paste of its own, and maybe a fault."""

from dataclasses import replace

import numpy as np

from desk.care.commission import Reference
from engine.coupled.operating_point import loaded
from engine.coupled.transient import run
from engine.errors import ImpossibleInputError
from engine.learn.faults import Cause, Variant, faults_of
from engine.machine import Machine
from engine.runs.series import RunLog
from instruments.standin import read_off

MINUTES, EVERY_S = 12.0, 3.0
CHIP = 0.02  # no source: one sigma of how chips of one kind differ


def made_up_unit(reference: Reference, cause: Cause, seed: int) -> RunLog:
    """Raises ImpossibleInputError for a fault that this layout cannot have."""
    rng = np.random.default_rng([seed, 77])
    plain = reference.machine
    own = _piece(plain, rng)
    variant = Variant(1.0, own, reference.parameters)
    if cause != "none":
        possible = [f for f in faults_of(own, reference.parameters) if f.cause == cause]
        if not possible:
            raise ImpossibleInputError("this layout cannot have that fault", "cause", "Choose another one.")
        fault = possible[int(rng.integers(len(possible)))]
        variant = fault.variants[len(fault.variants) // 2]
    machine = loaded(variant.machine, "both" if reference.load not in ("cpu", "card") else reference.load)
    rows = run(machine, MINUTES, EVERY_S, parameters=variant.parameters)
    log = read_off(machine, rows, EVERY_S, rng)
    channels = dict(log.channels)
    for f in machine.fans:
        if not f.running:
            channels[f.channel] = np.zeros_like(channels[f.channel])
    channels["room_c"] = channels["room_c"] + variant.probe_share * np.array([r.air_rear_k for r in rows])
    return RunLog(log.elapsed_s, channels)


def _piece(m: Machine, rng: np.random.Generator) -> Machine:
    card = m.card and replace(m.card, r_k_per_w=m.card.r_k_per_w * float(np.exp(rng.normal(0, CHIP))))
    return replace(m, cpu=replace(m.cpu, r_jc_k_per_w=m.cpu.r_jc_k_per_w * float(np.exp(rng.normal(0, CHIP)))), card=card)
