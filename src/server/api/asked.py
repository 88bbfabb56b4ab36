"""What is asked of a document as it stands on the screen, and the oracle that answers."""

from typing import Any

from django.http import HttpRequest

from desk.forecast.document import Oracle, PointMemory, Question
from desk.job.places import outside
from desk.learn.document import LearnedOracle
from documents.job.reader import check_job
from server.api.door import viewer_of
from server.api.schema import Schema
from server.apps.jobs.selectors import job_for
from server.apps.verdicts.learned import learning_for

MEMORY = PointMemory()


class InsightIn(Schema):
    """A document as it stands on the screen, and which layout under which load and room is asked about.

    ``learned_job``: the job whose runs have taught; None: from sheets alone.
    """

    document: dict[str, Any]
    question: Question = Question()
    learned_job: int | None = None


def oracle_for(request: HttpRequest, data: InsightIn) -> Oracle:
    """As the job's runs have taught, where that is asked for, they taught anything, and the question is of settled layouts."""
    q, doc = data.question, check_job(data.document).doc
    if data.learned_job is None or q.load == "own" or q.target_dba is not None or q.minutes is not None or outside(doc.case):
        return Oracle(doc, q, MEMORY)
    learning = learning_for(job_for(viewer_of(request), data.learned_job).pk, doc)
    return LearnedOracle(learning, q, MEMORY) if learning.anything else Oracle(doc, q, MEMORY)
