"""The one way to change a site: permission, transaction, activity log and version belong together.

A use case is a function of an actor and a site, decorated with `changes_site`; callers pass the site's slug. Inside, the
site is locked, and everything is stored or nothing: rows, log entries (`data.audit.note`) and the plan's version. So
nothing is announced before it exists, and no change is missing from the activity log.

Slow work – reading drafts, typesetting, compiling patterns, computing findings – happens before the transaction, because
SQLite has a single write lock. `tests/test_changing.py` checks every use case.
"""

from collections.abc import Callable
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar, cast

from django.db import transaction

from zugzwang.access import Actor
from zugzwang.data.decided import plan_changed
from zugzwang.data.models import Site

P = ParamSpec("P")
Result = TypeVar("Result")
UseCase = Callable[Concatenate[Actor, Site, P], Result]
BySlug = Callable[Concatenate[Actor, str, P], Result]


def changes_site(own: bool = False, plan: bool = False) -> Callable[[UseCase[P, Result]], BySlug[P, Result]]:
    """Make a use case of a function. `own`: only owners may call it; otherwise anyone who may change the site. `plan`: it
    changes decisions, so every list updates at once.
    """

    def wrap(use_case: UseCase[P, Result]) -> BySlug[P, Result]:
        @wraps(use_case)
        def change(actor: Actor, slug: str, *args: P.args, **named: P.kwargs) -> Result:
            allowed = actor.site_to_own if own else actor.site_to_change
            allowed(slug)  # a refusal does not wait for others' writes
            with transaction.atomic():
                Site.objects.select_for_update().filter(slug=slug).first()
                site = allowed(slug)
                result = use_case(actor, site, *args, **named)
                if plan:
                    plan_changed(site)
                return result

        return cast(BySlug[P, Result], change)

    return wrap
