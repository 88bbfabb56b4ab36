"""Figures of layouts and the picked layout."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404

from engine.verdict.candidate import Candidate
from engine.verdict.compare import judged_channels, layout_figure
from server.apps.bench.selectors import candidates
from server.apps.jobs.models import Layout
from server.apps.verdicts.models import Verdict


def figures(found: list[Candidate]) -> list[dict[str, Any]]:
    """Mean of each layout's runs per channel, with its 95 % half-width."""
    rows = []
    for candidate in found:
        for channel in judged_channels(candidate):
            figure = layout_figure(found, candidate, channel)
            if figure is not None:
                settled = all(run.settled for run in candidate.judged)
                rows.append(
                    {
                        "layout": candidate.name,
                        "channel": channel,
                        "value": figure[0],
                        "band": figure[1],
                        "runs": len(candidate.judged),
                        "settled": settled,
                    }
                )
    return rows


@transaction.atomic
def give_verdict(job_id: int, layout_key: str, reason: str, margin_k: float) -> Verdict:
    """Records a decision with the figures it rested on; earlier verdicts stay."""
    get_object_or_404(Layout, job_id=job_id, key=layout_key)
    rested_on = {"figures": figures(candidates(job_id))}
    return Verdict.objects.create(job_id=job_id, layout_key=layout_key, reason=reason.strip(), margin_k=margin_k, figures=rested_on)
