"""The tables. Everything belongs to a site; who may see a site is told in access.py."""

from django.conf import settings
from django.db import models


class Site(models.Model):
    slug = models.SlugField(unique=True)
    name = models.CharField(max_length=200)
    address = models.URLField()
    brand_patterns = models.JSONField(default=list)
    min_impressions = models.PositiveIntegerField(default=100)
    own_curve = models.JSONField(null=True)
    # Raised by every change to the site's facts; what is computed from them is cached under it.
    data_version = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    class Role(models.TextChoices):
        READER = "reader"
        ANALYST = "analyst"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.ANALYST)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "user"], name="one_membership_a_site")]


class Page(models.Model):
    """An address of the site; blocks hold its id."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="pages")
    text = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "text"], name="one_page_an_address")]


class Query(models.Model):
    """A query as searched; blocks hold its id."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="queries")
    text = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "text"], name="one_query_a_text")]


class Block(models.Model):
    """The facts of one site, grain and month; its layout is known to blocks.py alone."""

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="blocks")
    grain = models.CharField(max_length=20)
    month = models.DateField()
    first_day = models.DateField()
    last_day = models.DateField()
    rows = models.PositiveIntegerField()
    checksum = models.CharField(max_length=64)
    payload = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["site", "grain", "month"], name="one_block_a_month")]


class Job(models.Model):
    """Long work: what it is, how far it is, and what came of it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"
        CANCELLED = "cancelled"

    site = models.ForeignKey(Site, on_delete=models.CASCADE, related_name="jobs")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    title = models.CharField(max_length=300)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    step = models.CharField(max_length=200, default="")
    done_share = models.FloatField(default=0.0)
    cancel_asked = models.BooleanField(default=False)
    request = models.JSONField(default=dict)
    outcome = models.JSONField(default=dict)
    # Every refused row as gzip-compressed CSV, for download.
    refused_rows = models.BinaryField(null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    heard_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "-id"]
