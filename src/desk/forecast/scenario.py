"""Heat that may come later: a machine whose parts draw what one of the job's scenarios adds."""

from dataclasses import replace

from documents.errors import DocumentError, Fault
from documents.job.models import JobDoc
from engine.machine import Machine


def grown(machine: Machine, doc: JobDoc, scenario: str | None) -> Machine:
    """The machine with a scenario's watts; as it is where none is named. Raises DocumentError for one that the job does not have."""
    if scenario is None:
        return machine
    found = next((x for x in doc.scenarios if x.id == scenario), None)
    if found is None:
        have = ", ".join(x.id for x in doc.scenarios) or "none yet"
        raise DocumentError([Fault("scenario", f"there is no scenario {scenario!r}", f"Choose one of: {have}.")])
    cpu = replace(machine.cpu, power_w=machine.cpu.power_w + found.cpu_add_w)
    card = machine.card and replace(machine.card, power_w=machine.card.power_w + found.card_add_w)
    return replace(machine, cpu=cpu, card=card)
