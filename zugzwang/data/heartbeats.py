"""Whether the background processes are alive: each leaves a sign at intervals, which /readyz and the log compare with the
time.
"""

import logging
from datetime import datetime, timedelta
from typing import Literal, get_args

from django.db import DatabaseError
from django.utils import timezone

from zugzwang.data.models import Heartbeat

Name = Literal["clock", "worker"]
NAMES: tuple[Name, ...] = get_args(Name)
SILENT_AFTER = timedelta(minutes=3)
log = logging.getLogger(__name__)


def beat(name: Name) -> None:
    """Leave a sign; a busy database is no reason to stop working."""
    try:
        Heartbeat.objects.update_or_create(name=name, defaults={"at": timezone.now()})
    except DatabaseError as error:
        log.warning("The heartbeat of the %s has to wait: %s", name, error)


def silent(now: datetime) -> list[str]:
    """The processes without a recent sign, in words; empty if all are alive."""
    heard = dict(Heartbeat.objects.values_list("name", "at"))
    result = []
    for name in NAMES:
        if name not in heard:
            result.append(f"the {name} has never run")
        elif now - heard[name] > SILENT_AFTER:
            result.append(f"the {name} was last heard of {(now - heard[name]).total_seconds() / 60:,.0f} minutes ago")
    return result
