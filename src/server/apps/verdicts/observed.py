"""What was seen, heard and done in the runs that count, as a record keeps it."""

import base64
import io
import warnings

from PIL import Image, ImageOps

from desk.verdict.record import MOST_OBSERVED, MOST_PICTURE_TEXT, Observation
from desk.words.bench import EVENTS, HEARD, MARKS, SEEN
from server.apps.bench.models import Mark

WORDS = {**EVENTS, **SEEN, **HEARD}
KINDS = ("seen", "heard", "event", "note")
MOST_PICTURES = 12
LONGEST_PX = 900
MOST_PIXELS = 50_000_000  # of a picture that is opened: more than a phone takes, and some 150 MB


def observations(job_id: int) -> list[Observation]:
    """Of the valid runs of a job, in their order; the first dozen pictures as small copies, without what a camera writes into them."""
    counted = Mark.objects.filter(run__job_id=job_id, run__state="valid", kind__in=KINDS)
    marks = counted.select_related("run").defer("picture").order_by("run_id", "at_s", "id")
    found: list[Observation] = []
    pictures = 0
    for mark in marks[:MOST_OBSERVED]:
        has_one = bool(mark.picture_type)
        picture = small_copy(bytes(mark.picture or b"")) if has_one and pictures < MOST_PICTURES else ""  # one at a time
        pictures += bool(picture)
        said = [WORDS.get(mark.tag, mark.tag.replace("_", " ")) or MARKS[mark.kind], mark.text]
        found.append(
            Observation(
                run=mark.run.name,
                layout=mark.run.layout_key,
                kind=mark.kind,
                words=": ".join(x for x in said if x),
                at_s=mark.at_s,
                until_s=mark.until_s,
                left_out=mark.drop,
                x_mm=mark.x_mm,
                z_mm=mark.z_mm,
                picture=picture,
                picture_elsewhere=has_one and not picture,
            )
        )
    return found


def small_copy(data: bytes) -> str:
    """A JPEG of at most LONGEST_PX as data; empty for what cannot be read as a picture, or is too large to be opened."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    return ""
                opened.draft("RGB", (LONGEST_PX, LONGEST_PX))
                shown = ImageOps.exif_transpose(opened).convert("RGB")
        shown.thumbnail((LONGEST_PX, LONGEST_PX))
        out = io.BytesIO()
        shown.save(out, "JPEG", quality=80)
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        return ""
    text = "data:image/jpeg;base64," + base64.b64encode(out.getvalue()).decode()
    return text if len(text) <= MOST_PICTURE_TEXT else ""
