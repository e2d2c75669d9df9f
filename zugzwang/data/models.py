"""The database tables. Everything belongs to a site; access.py says who may see it."""

import secrets

from django.conf import settings
from django.db import models

from zugzwang.data.block_store import PayloadField
from zugzwang.data.fields import JSONField


def next_version() -> int:
    """A number that no version had before, except with a chance of one in 2⁶²."""
    return secrets.randbelow(2**62)


class Site(models.Model):
    slug = models.SlugField(unique=True)
    name = models.CharField(max_length=200)
    address = models.URLField()
    brand_patterns = JSONField(default=list)
    # Cleaning rules, as data/rules.py writes them; empty: all defaults.
    rules = JSONField(default=dict)
    min_impressions = models.PositiveIntegerField(default=100)
    currency = models.CharField(max_length=3, default="", blank=True)  # currency sign or code of its amounts; empty: not set
    own_curve = JSONField(null=True)
    # The site's own instructions for a text service (core.drafts.help): task → instruction.
    instructions = JSONField(default=dict)
    # Changes with every change to the site's facts or cleaning; cache keys contain it. It is random, not counted, so a
    # database restored from a copy never matches another one's cache.
    data_version = models.BigIntegerField(default=next_version)
    # Changes with every change to decisions, moves, events or settings.
    plan_version = models.BigIntegerField(default=next_version)
    overview = JSONField(default=dict)  # the site's state (intake/overview.py), as last computed
    archived_at = models.DateTimeField(null=True)  # read-only: no changes and no fetching
    deleted_at = models.DateTimeField(null=True)  # visible only to its owners, who can restore it for a while

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    class Role(models.TextChoices):
        READER = "reader"
        ANALYST = "analyst"
        OWNER = "owner"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.ANALYST)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "user"], name="one_membership_a_site")]


class Preferences(models.Model):
    """A person's reading preferences; empty means the default."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="preferences")
    language = models.CharField(max_length=8, default="", blank=True)  # of numbers and dates
    time_zone = models.CharField(max_length=64, default="", blank=True)  # IANA; empty: the browser's
    currency = models.CharField(max_length=3, default="", blank=True)  # for sites without their own
    single_keys = models.BooleanField(default=True)  # whether single-letter keys are active (WCAG 2.1.4)


class Invitation(models.Model):
    """An address that makes someone a member of a site, once, until it expires or is revoked."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="invitations")
    email = models.EmailField()
    role = models.CharField(max_length=10, choices=Membership.Role.choices)
    digest = models.CharField(max_length=64, unique=True)
    token = models.TextField()  # encrypted
    ends_on = models.DateField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    taken_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class PersonalToken(models.Model):
    """A script's credential: it may do no more than its owner, and less where its sites and role say so."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="personal_tokens")
    name = models.CharField(max_length=100)
    digest = models.CharField(max_length=64, unique=True)  # SHA-256; the token itself is shown once and not stored
    begins = models.CharField(max_length=8)  # its first letters, to recognise it
    sites = models.ManyToManyField(Site, related_name="+")
    role = models.CharField(max_length=10, choices=Membership.Role.choices)
    ends_on = models.DateField()
    used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class AuditEntry(models.Model):
    """An entry of the activity log: written, never changed; it outlives its subject."""

    site = models.ForeignKey(Site, null=True, on_delete=models.SET_NULL, related_name="+")
    slug = models.CharField(max_length=50, default="", blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    who = models.CharField(max_length=150)  # their name then; "operator" on the command line, "clock" for scheduled work
    what = models.CharField(max_length=20)
    about = models.CharField(max_length=500, default="", blank=True)
    details = JSONField(default=dict)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["site", "-id"], name="audit_of_a_site")]


class Page(models.Model):
    """An address of the site; blocks contain its id."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="pages")
    text = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "text"], name="one_page_an_address")]


class Query(models.Model):
    """A query as searched; blocks contain its id."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="queries")
    text = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "text"], name="one_query_a_text")]


class Job(models.Model):
    """A background job: its kind, progress and outcome."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"
        CANCELLED = "cancelled"

    class Kind(models.TextChoices):
        LOAD = "load"
        REFRESH = "refresh"
        CRAWL = "crawl"
        ABOVE = "above"
        REPORT = "report"
        ARCHIVE = "archive"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="jobs")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    kind = models.CharField(max_length=10, choices=Kind.choices, default=Kind.LOAD)
    title = models.CharField(max_length=300)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    step = models.CharField(max_length=200, default="")
    done_share = models.FloatField(default=0.0)
    cancel_requested = models.BooleanField(default=False)
    attempts = models.PositiveIntegerField(default=0)
    request = JSONField(default=dict)
    outcome = JSONField(default=dict)
    log = JSONField(default=list)  # lines: {"at": time, "line": text}
    # Refused rows as gzip-compressed CSV, for download.
    refused_rows = models.BinaryField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    heard_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class Heartbeat(models.Model):
    """The last sign of a background process: "clock" or "worker"."""

    name = models.CharField(max_length=20, unique=True)
    at = models.DateTimeField()


class JobPart(models.Model):
    """What a long job has fetched so far; a resumed job continues after its last part."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    state = JSONField(default=dict)
    payload = models.BinaryField()

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_part_a_number")]


class Load(models.Model):
    """One load: its source, its author, its effect. It can be undone."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="loads")
    source = models.CharField(max_length=20)
    name = models.CharField(max_length=300)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="loads")
    job = models.ForeignKey(Job, null=True, on_delete=models.SET_NULL, related_name="loads")
    report = JSONField(default=dict)
    first_day = models.DateField(null=True)
    last_day = models.DateField(null=True)
    rows = models.PositiveIntegerField(default=0)
    made_at = models.DateTimeField(auto_now_add=True)
    taken_back_at = models.DateTimeField(null=True)
    taken_back_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    class Meta:
        ordering = ["-made_at", "-id"]


class LoadPart(models.Model):
    """The rows of a load for one grain and month, as read. Blocks are built from these in the order of loads; without a load's
    parts, the block is as if it had never been made.
    """

    load = models.ForeignKey(Load, on_delete=models.CASCADE, related_name="parts")
    grain = models.CharField(max_length=20)
    month = models.DateField()
    mode = models.CharField(max_length=10)
    rows = models.PositiveIntegerField()
    payload = PayloadField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["load", "grain", "month"], name="one_part_a_month")]


class Block(models.Model):
    """The facts of one site, grain and month; only blocks.py knows its layout. A table without days is one block."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="blocks")
    grain = models.CharField(max_length=20)
    month = models.DateField()
    first_day = models.DateField(null=True)
    last_day = models.DateField(null=True)
    rows = models.PositiveIntegerField()
    # The days of the month with data, one bit each from the lowest; null in blocks from before this field.
    days = models.PositiveIntegerField(null=True)
    checksum = models.CharField(max_length=64)
    crc = models.BigIntegerField(null=True)  # CRC-32 of the payload, checked on every read; null: written before this field
    payload = PayloadField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "grain", "month"], name="one_block_a_month")]


class Event(models.Model):
    """A dated event that may explain a change: a search engine update, a release, a campaign."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="events")
    load = models.ForeignKey(Load, null=True, on_delete=models.CASCADE, related_name="events")
    first_day = models.DateField()
    last_day = models.DateField()
    title = models.CharField(max_length=300)
    kind = models.CharField(max_length=60, default="")
    note = models.TextField(default="")

    class Meta:
        ordering = ["first_day", "id"]


class ColumnMemory(models.Model):
    """The columns that an analyst chose for a file with this header; suggested for the next such file."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="column_memories")
    header = models.CharField(max_length=64)  # checksum of the column names
    source = models.CharField(max_length=20)
    mapping = JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "header"], name="one_memory_a_header")]


class Connection(models.Model):
    """A service that provides a source of the site, and how to ask it (docs/services.md)."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="connections")
    source = models.CharField(max_length=20)
    address = models.CharField(max_length=500)
    token = models.CharField(max_length=1_200, default="", blank=True)  # encrypted: see sealing.py
    private_allowed = models.BooleanField(default=False)
    nightly = models.BooleanField(default=False)
    requested_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "source"], name="one_connection_a_source")]


class RuleChange(models.Model):
    """The cleaning rules before and after a change; either can be restored."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="rule_changes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    made_at = models.DateTimeField(auto_now_add=True)
    before = JSONField()
    after = JSONField()
    words = models.CharField(max_length=300)

    class Meta:
        ordering = ["-made_at", "-id"]


class Decision(models.Model):
    """An analyst's decision about a row (page and query), a page, or the clash over a query; of several on one subject the
    latest that is not undone counts.
    """

    class Choice(models.TextChoices):
        UNITE = "unite"
        POINT = "point"
        REFOCUS = "refocus"
        FEED = "feed"
        RETIRE = "retire"
        ACCEPT = "accept"
        DISMISS = "dismiss"
        SNOOZE = "snooze"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="decisions")
    page = models.ForeignKey(Page, null=True, on_delete=models.CASCADE, related_name="+")
    query = models.ForeignKey(Query, null=True, on_delete=models.CASCADE, related_name="+")
    choice = models.CharField(max_length=10, choices=Choice.choices)
    lead = models.ForeignKey(Page, null=True, on_delete=models.CASCADE, related_name="+")
    note = models.TextField(default="", blank=True)
    until = models.DateField(null=True)  # snoozed until this day
    decided_on = models.DateField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    taken_back_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class Move(models.Model):
    """One thing to do for a row (page and query), a page, or the pages of a query. Its expected gain is stored as reported
    when the move was made, so later data do not change the basis of the decision.
    """

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="moves")
    page = models.ForeignKey(Page, null=True, on_delete=models.CASCADE, related_name="+")
    query = models.ForeignKey(Query, null=True, on_delete=models.CASCADE, related_name="+")
    # The decision on a clash that this move carries out; undoing it deletes the move if no one has changed it since.
    decision = models.ForeignKey(Decision, null=True, on_delete=models.SET_NULL, related_name="moves")
    finding = models.CharField(max_length=20, default="", blank=True)
    reason = models.TextField(default="", blank=True)
    gain = models.FloatField(null=True)  # clicks a month
    gain_cautious = models.FloatField(null=True)
    evidence = models.CharField(max_length=16, default="too little data")
    kind = models.CharField(max_length=10)
    effort = models.CharField(max_length=10)
    state = models.CharField(max_length=12, default="to do")
    note = models.TextField(default="", blank=True)
    new_title = models.TextField(default="", blank=True)
    new_description = models.TextField(default="", blank=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    due = models.DateField(null=True)
    made_on = models.DateField(null=True)
    recrawl_on = models.DateField(null=True)  # when search engines were asked to recrawl the page
    outcome = JSONField(null=True)  # as saved
    # Increases with every change; callers pass the version that they are based on.
    version = models.PositiveIntegerField(default=1)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    dropped_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class MoveChange(models.Model):
    """A field of a move before and after a change; `version`: the move's version after it."""

    move = models.ForeignKey(Move, on_delete=models.CASCADE, related_name="changes")
    version = models.PositiveIntegerField()
    field = models.CharField(max_length=20)
    before = JSONField(null=True)
    after = JSONField(null=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-version", "id"]


class MainQuery(models.Model):
    """The main query that someone chose for a page instead of the suggested one."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="main_queries")
    page = models.ForeignKey(Page, on_delete=models.CASCADE, related_name="+")
    query = models.ForeignKey(Query, on_delete=models.CASCADE, related_name="+")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "page"], name="one_main_query_a_page")]


class PlannedLink(models.Model):
    """A decision about a suggested link: accepted, with its sentence and anchor, or dismissed for a reason. The next crawl
    shows whether it was set.
    """

    class Choice(models.TextChoices):
        ACCEPTED = "accepted"
        REFUSED = "refused"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="planned_links")
    source = models.ForeignKey(Page, on_delete=models.CASCADE, related_name="+")  # the page to edit
    target = models.ForeignKey(Page, on_delete=models.CASCADE, related_name="+")
    choice = models.CharField(max_length=10, choices=Choice.choices)
    anchor = models.TextField(default="", blank=True)
    sentence = models.TextField(default="", blank=True)
    note = models.TextField(default="", blank=True)
    move = models.ForeignKey(Move, null=True, on_delete=models.SET_NULL, related_name="links")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["site", "source", "target"], name="one_choice_a_link")]


class TopicEdit(models.Model):
    """An edit of topics (core.topics.edits), stored by query, so it survives new data."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="topic_edits")
    kind = models.CharField(max_length=10)
    queries = JSONField()  # ids
    name = models.CharField(max_length=200, default="", blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class Draft(models.Model):
    """A text being written for a page of the site, or for a page to write. Its text is HTML (core.drafts.text)."""

    class State(models.TextChoices):
        OPEN = "open"
        DONE = "done"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="drafts")
    page = models.ForeignKey(Page, null=True, on_delete=models.SET_NULL, related_name="+")
    query = models.ForeignKey(Query, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=200)
    title = models.TextField(default="", blank=True)
    description = models.TextField(default="", blank=True)
    text = models.TextField(default="", blank=True)
    before = JSONField(null=True)  # title, description and text of the page as crawled when the draft was started
    state = models.CharField(max_length=10, choices=State.choices, default=State.OPEN)
    done_on = models.DateField(null=True)
    move = models.ForeignKey(Move, null=True, on_delete=models.SET_NULL, related_name="drafts")
    # Increases with every change of the text; callers pass the version that they are based on.
    version = models.PositiveIntegerField(default=1)
    # The writer: one window of one person, until its signs of life stop.
    writer = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    writer_window = models.CharField(max_length=40, default="", blank=True)
    writer_heard_at = models.DateTimeField(null=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now_add=True)
    dropped_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-changed_at", "-id"]


class DraftVersion(models.Model):
    """An earlier version of a draft; saves of one person within some minutes are one version."""

    draft = models.ForeignKey(Draft, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()  # the draft's version when this one was last saved
    title = models.TextField(default="", blank=True)
    description = models.TextField(default="", blank=True)
    text = models.TextField(default="", blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    begun_at = models.DateTimeField(auto_now_add=True)
    made_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["draft", "number"], name="one_draft_version_a_number")]


class Trial(models.Model):
    """A test of a change, with its question asked beforehand (core.trials). Units are pages ([page, null]) or rows ([page,
    query]).
    """

    class Design(models.TextChoices):
        BEFORE_AFTER = "before-after"
        RANDOMISED = "randomised"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="trials")
    name = models.CharField(max_length=200)
    change = models.TextField()  # the change, in words
    kind = models.CharField(max_length=10)  # of the change (core.worth.moves)
    hope = models.TextField(default="", blank=True)
    design = models.CharField(max_length=12, choices=Design.choices)
    measure = models.CharField(max_length=12)
    changed = JSONField()
    unchanged = JSONField(default=list)  # for a randomised test: the other of each pair, in the same order
    out = JSONField(default=list)  # excluded control units: {"unit": …, "why": …}
    seed = models.PositiveIntegerField(default=0)
    first_day = models.DateField()
    weeks = models.PositiveSmallIntegerField()
    power = JSONField(default=dict)  # the detectable effects, as computed at its start
    before = JSONField(default=dict)  # the test pages before the change: page → title, description, text
    verdict = JSONField(null=True)  # as concluded, permanently
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    read_at = models.DateTimeField(null=True)
    dropped_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-first_day", "-id"]


class ReportTemplate(models.Model):
    """The contents, look and schedule of a site's reports."""

    class Schedule(models.TextChoices):
        NEVER = ""
        WEEKLY = "weekly"
        MONTHLY = "monthly"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="report_templates")
    name = models.CharField(max_length=200)
    title = models.CharField(max_length=300, default="", blank=True)
    own_name = models.CharField(max_length=300, default="", blank=True)
    contact = models.CharField(max_length=300, default="", blank=True)
    accent = models.CharField(max_length=7)
    logo = models.BinaryField(null=True)  # sanitised (plan/logo.py)
    logo_kind = models.CharField(max_length=3, default="", blank=True)
    language = models.CharField(max_length=8)
    period = models.CharField(max_length=20)  # by name (subjects.report)
    compare = models.CharField(max_length=8)
    parts = JSONField(default=list)  # in order: {"name": …, "words": Markdown}
    schedule = models.CharField(max_length=8, choices=Schedule.choices, default=Schedule.NEVER, blank=True)
    day = models.PositiveSmallIntegerField(default=1)  # of the week (1: Monday) or of the month
    begins = models.DateField(null=True)  # the first day on which the schedule can be due
    recipients = JSONField(default=list)
    message = models.TextField(default="", blank=True)
    # Days that the web version stays readable; 0: the mail has no link.
    link_days = models.PositiveSmallIntegerField(default=30)
    version = models.PositiveIntegerField(default=1)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)
    dropped_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["name", "id"]


class Report(models.Model):
    """A finished report, kept permanently; or one that is due and not yet made (`made_at` is null)."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="reports")
    template = models.ForeignKey(ReportTemplate, null=True, on_delete=models.SET_NULL, related_name="reports")
    due = models.DateField(null=True)  # of a schedule; null: made on request
    name = models.CharField(max_length=200)
    title = models.CharField(max_length=300, default="")
    first = models.DateField(null=True)
    last = models.DateField(null=True)
    compare = models.CharField(max_length=8, default="year")
    parts = JSONField(default=list)  # names, in order
    pdf = models.BinaryField(null=True)
    page = models.TextField(default="")  # self-contained HTML
    problem = models.TextField(default="")  # why it could not be made
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    requested_at = models.DateTimeField(auto_now_add=True)
    made_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-requested_at", "-id"]
        # Each due day of a schedule once, however many processes check.
        constraints = [models.UniqueConstraint(fields=["template", "due"], name="one_report_a_due_day")]


class ReportLink(models.Model):
    """An unguessable address at which a report can be read without signing in, until it expires or is revoked."""

    report = models.ForeignKey(Report, on_delete=models.CASCADE, related_name="links")
    digest = models.CharField(max_length=64, unique=True)  # SHA-256 of the token: the database does not reveal the address
    token = models.TextField()  # encrypted (sealing.py), so it can be copied again
    ends_on = models.DateField()  # the last day
    revoked_at = models.DateTimeField(null=True)
    opened = models.PositiveIntegerField(default=0)
    opened_at = models.DateTimeField(null=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-made_at", "-id"]


class ReportSending(models.Model):
    """A report's mail to one person."""

    class State(models.TextChoices):
        WAITING = "waiting"
        SENT = "sent"
        FAILED = "failed"

    report = models.ForeignKey(Report, on_delete=models.CASCADE, related_name="sendings")
    recipient = models.CharField(max_length=254)
    message = models.TextField(default="", blank=True)
    link = models.ForeignKey(ReportLink, null=True, on_delete=models.SET_NULL, related_name="+")
    # The same for every attempt, so mail programs show it once even where a server accepted it twice.
    message_id = models.CharField(max_length=200)
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    attempts = models.PositiveSmallIntegerField(default=0)
    next_at = models.DateTimeField()
    problem = models.TextField(default="")  # of the last attempt
    sent_at = models.DateTimeField(null=True)
    requested_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-requested_at", "-id"]


class SavedView(models.Model):
    """A named address of the application, visible to everyone who sees the site."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="views")
    name = models.CharField(max_length=100)
    address = models.TextField()  # place and parameters: "pages?sort=clicks"
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["site", "name"], name="one_view_a_name")]
