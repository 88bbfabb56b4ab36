"""Times and places of marks that are no numbers: an earlier version took them in, and no browser could read the list any more."""

import math

from django.db import migrations


def make_finite(apps, _editor):
    for mark in apps.get_model("bench", "Mark").objects.defer("picture").select_related("run"):
        odd = [n for n in ("at_s", "until_s", "x_mm", "z_mm") if getattr(mark, n) is not None and not math.isfinite(getattr(mark, n))]
        if not odd:
            continue
        for name in odd:
            end = mark.run.duration_s if math.isfinite(mark.run.duration_s) else 0.0
            setattr(mark, name, end if name == "at_s" else None)
        said = f"{mark.text} (its time or place was no number)".strip()
        mark.text = said[:500]
        mark.save(update_fields=["at_s", "until_s", "x_mm", "z_mm", "text"])


class Migration(migrations.Migration):
    dependencies = [("bench", "0003_clock_turns")]
    operations = [migrations.RunPython(make_finite, migrations.RunPython.noop)]
