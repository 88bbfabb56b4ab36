"""Benches, runs and what belongs to them. A run's readings lie in compressed columns: one block per channel and stretch of rows.

While a run is live its readings are the bench's batches, one row per acknowledged post; when it ends they become blocks.
"""

from django.db import models
from django.utils import timezone

from documents.package.said import ends_s
from server.apps.jobs.models import Job, Layout


class Bench(models.Model):
    """A place where a machine is run. Its clock is that of its readings."""

    name = models.CharField(max_length=80, unique=True)
    token_hash = models.CharField(max_length=64)
    made_at = models.DateTimeField(auto_now_add=True)
    made_up = models.BooleanField(default=False)
    suite = models.JSONField(default=dict)  # of a plan that runs by itself (apps/bench/suite); empty without one

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class Session(models.Model):
    """One sender's numbered posts; ``offset_s`` takes its clock to the bench's; ``rate`` is over 1 for stand-ins that hurry.

    Where the sender's clock jumped, ``turns`` keeps the offsets before, for posts of then that come late.
    """

    bench = models.ForeignKey(Bench, on_delete=models.CASCADE, related_name="sessions")
    key = models.CharField(max_length=64)
    source = models.CharField(max_length=80, blank=True)
    offset_s = models.FloatField()
    rate = models.FloatField(default=1.0)
    loads = models.JSONField(default=list)  # that it puts on itself; empty where a person does
    last_seq = models.PositiveBigIntegerField(default=0)
    last_s = models.FloatField(default=0.0)
    heard_at = models.DateTimeField()
    turns = models.JSONField(default=list)  # [first seq, offset_s] of each stretch between two jumps of its clock; empty without one

    class Meta:
        constraints = [models.UniqueConstraint(fields=["bench", "key"], name="session_once")]

    def __str__(self) -> str:
        return f"{self.bench_id} {self.source}"


class Batch(models.Model):
    """One acknowledged post: compressed JSON of its times (bench clock) and channels."""

    bench = models.ForeignKey(Bench, on_delete=models.CASCADE, related_name="batches")
    session = models.ForeignKey(Session, on_delete=models.CASCADE, related_name="batches")
    seq = models.PositiveBigIntegerField()
    first_s = models.FloatField()
    last_s = models.FloatField()
    data = models.BinaryField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["session", "seq"], name="batch_once")]
        indexes = [models.Index(fields=["bench", "last_s"])]

    def __str__(self) -> str:
        return f"{self.session_id} {self.seq}"


class Instrument(models.Model):
    """An instrument the server reads itself: a logger or chamber by SCPI over TCP, a sound meter by its lines of text."""

    bench = models.ForeignKey(Bench, on_delete=models.CASCADE, related_name="instruments")
    kind = models.CharField(max_length=20)
    address = models.CharField(max_length=120)
    channels = models.JSONField(default=dict)
    every_s = models.FloatField(default=5.0)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.kind} {self.address}"


class Run(models.Model):
    """One run of one layout. A run is never deleted: ``state`` void keeps it out of comparisons, with a reason.

    draft: being prepared or live on a bench; superseded: another run took its place, which ``void_reason`` names.
    """

    STATES = [("draft", "draft"), ("valid", "valid"), ("void", "void"), ("superseded", "superseded")]

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="runs")
    layout = models.ForeignKey(Layout, null=True, on_delete=models.SET_NULL, related_name="runs")
    layout_key = models.CharField(max_length=60)
    name = models.CharField(max_length=200)
    source_name = models.CharField(max_length=255)
    imported_at = models.DateTimeField(auto_now_add=True)
    made_at = models.DateTimeField(null=True)  # when it began: by the log's own clock, at the bench or as typed; else unknown
    duration_s = models.FloatField()
    rows = models.PositiveIntegerField()
    typed_room_c = models.FloatField(null=True)
    window_s = models.FloatField(null=True)
    state = models.CharField(max_length=10, choices=STATES, default="valid")
    void_reason = models.CharField(max_length=300, blank=True)
    columns = models.JSONField(default=list)
    notes = models.JSONField(default=list)
    analysis = models.JSONField(default=dict)
    bench = models.ForeignKey(Bench, null=True, on_delete=models.SET_NULL, related_name="runs")
    protocol = models.JSONField(default=dict)  # the version it was made with, whole
    load = models.CharField(max_length=10, blank=True)
    planned = models.CharField(max_length=60, blank=True)  # id of the planned run
    asked = models.JSONField(default=dict)  # what the layout asked for when the run was prepared: desk.job.asked
    made_with = models.JSONField(default=dict)  # case, parts and setting of the layout when it was made: desk.job.conditions
    drawn = models.JSONField(default=dict)  # the layout as the document drew it when the run was made: desk.job.conditions
    held = models.JSONField(default=dict)  # what was held constant, and at what value
    loop_filled_at = models.DateTimeField(null=True)  # where the loop or its pump was new
    acknowledged = models.JSONField(default=list)  # cautions that were read
    traits = models.JSONField(default=list)  # what lowers generality: sponsored, delidded, improvised ...
    microphone = models.JSONField(default=dict)
    background_dba = models.FloatField(null=True)
    stood_still = models.BooleanField(default=False)  # said of typed figures: they did not move any more when they were read
    by_hand = models.JSONField(default=list)  # readings typed: {channel, at_s, value, state, point}
    alarms = models.JSONField(default=list)
    edits = models.JSONField(default=list)  # what was changed after the run was made: {at, what}
    armed = models.BooleanField(default=True)
    waived = models.BooleanField(default=False)
    prepared_at = models.DateTimeField(default=timezone.now)
    started_s = models.FloatField(null=True)  # on the bench's clock
    ended_s = models.FloatField(null=True)
    ended_why = models.CharField(max_length=20, blank=True)

    class Meta:
        ordering = ["layout_key", "id"]
        constraints = [
            models.UniqueConstraint(fields=["bench"], condition=models.Q(state="draft"), name="one_live_run_per_bench"),
        ]

    def __str__(self) -> str:
        return self.name


class ReadingBlock(models.Model):
    """Readings of one channel as zlib-compressed little-endian float32, in row order; channel ``elapsed_s`` holds the times."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="blocks")
    channel = models.CharField(max_length=60)
    first_row = models.PositiveIntegerField()
    count = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["channel", "first_row"]
        constraints = [models.UniqueConstraint(fields=["run", "channel", "first_row"], name="block_once")]

    def __str__(self) -> str:
        return f"{self.run_id} {self.channel}"


class Mark(models.Model):
    """Something that happened or was seen in a run, at ``at_s`` of it; ``drop`` leaves its stretch out of every figure."""

    KINDS = [("event", "event"), ("seen", "seen"), ("heard", "heard"), ("note", "note"), ("alarm", "alarm")]

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="marks")
    kind = models.CharField(max_length=10, choices=KINDS)
    tag = models.CharField(max_length=40, blank=True)
    text = models.CharField(max_length=500, blank=True)
    at_s = models.FloatField()
    until_s = models.FloatField(null=True)
    drop = models.BooleanField(default=False)  # a stretch without an end takes DROP_S
    x_mm = models.FloatField(null=True)
    z_mm = models.FloatField(null=True)
    picture = models.BinaryField(null=True)
    picture_type = models.CharField(max_length=20, blank=True)

    class Meta:
        ordering = ["at_s", "id"]

    @property
    def ends_s(self) -> float:
        return ends_s(self.at_s, self.until_s, self.drop)

    def __str__(self) -> str:
        return f"{self.kind} {self.tag}"


class ColumnMemory(models.Model):
    """What a column heading of a source meant the last time a person said so; a source is known by all its headings."""

    source = models.CharField(max_length=64, blank=True)
    heading = models.CharField(max_length=200)
    channel = models.CharField(max_length=60, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "heading"], name="heading_once_a_source")]

    def __str__(self) -> str:
        return self.heading
