"""What a job's runs taught, kept while neither they nor the case they were made in changes."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import replace

from desk.forecast.document import Memory
from desk.job.conditions import AS_RUN, as_it_was, only_redrawn
from desk.learn.document import Learning
from desk.learn.lessons import known
from desk.learn.readings import LeftAside, readings
from desk.learn.swept import Sweep, swept
from desk.verdict.study import Settings
from documents.job.models import JobDoc, LayoutDoc
from engine.verdict.candidate import Candidate
from server.apps.bench import selectors as bench
from server.apps.sounds.selectors import sweeps_of
from server.apps.verdicts import selectors

LESSONS: Memory[Learning] = Memory(16)
CHANGED = "its layout was changed since: {what}"


def learning_for(job_id: int, doc: JobDoc) -> Learning:
    """Of the job's valid runs, about a document as it stands on the screen. Runs of a layout that is another now teach nothing of it."""
    names = bench.run_names(job_id)
    run = {layout for _, layout in names}
    sha = hashlib.sha256(selectors.state_of(job_id, Settings(), ()).encode())
    sweeps = sweeps_of(job_id, doc)
    sha.update(repr(sweeps).encode())
    run |= {x.layout for x in sweeps if not x.drawn}
    lesson = doc.model_copy(update={"layouts": [x for x in doc.layouts if x.id in run]})
    sha.update(lesson.model_dump_json(include={"case", "parts", "base", "curves", "room", "layouts"}, exclude_unset=True).encode())
    sha.update(repr(known(doc, [name for own in names.values() for name in own]).said).encode())  # which hang on all layouts
    key = sha.hexdigest()
    kept = LESSONS.get(key)
    if kept is None:
        by_load, here = bench.named_candidates(job_id)
        if here != names:  # a run came in meanwhile: once more, with it
            return learning_for(job_id, doc)
        kept = _learned(job_id, doc, by_load, names, sweeps)
        LESSONS.put(key, kept)
    return kept.told_of(doc)


def _learned(
    job_id: int,
    doc: JobDoc,
    candidates: Mapping[str, Sequence[Candidate]],
    names: Mapping[tuple[str, str], list[str]],
    sweeps: Sequence[Sweep],
) -> Learning:
    changed = bench.changed_layouts(job_id, doc)
    then = {key: drawn for key in changed if (drawn := bench.drawn_then(job_id, key)) and only_redrawn(changed[key])}
    known = {x.id for x in doc.layouts}
    before = [LayoutDoc.model_validate(drawn | {"id": as_it_was(key, AS_RUN)}) for key, drawn in then.items() if key in known]
    renamed = {key: as_it_was(key, AS_RUN) for key in then}
    by_load = {
        load: [replace(c, name=renamed.get(c.name, c.name)) for c in own if c.name in renamed or c.name not in changed]
        for load, own in candidates.items()
    }
    sound = swept(doc, sweeps)
    called = {(load, renamed.get(layout, layout)): own for (load, layout), own in names.items()}
    whole = doc.model_copy(update={"layouts": [*doc.layouts, *before, *sound.layouts]})
    found = readings(whole, by_load, called, selectors.earlier_gaps(job_id))
    for (_, layout), own in names.items():
        if layout in changed and layout not in then:
            found.left_aside += [LeftAside(name, CHANGED.format(what="; ".join(changed[layout][:3])), layout) for name in own]
    return Learning.of(whole, sound.beside(found))
