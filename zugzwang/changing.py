"""The one way to change a site: permission, transaction, audit and version belong together.

A use case is a function of an actor and a site, decorated with `changes_site`; callers give it the site's slug. Inside, the
site is locked and all is stored or nothing: its rows, what it notes (`data.audit.note`) and the plan's version. So nothing is
announced before it exists, and nothing is done that the activity log does not know.

What costs time – reading drafts, typesetting, compiling patterns, computing findings – is done before, outside the
transaction: SQLite has one write lock. `tests/test_changing.py` holds every use case to this.
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
    """Make a use case of a function. `own`: only the site's owners may; else whoever may change it. `plan`: it changes what
    people decided, so every list shows it at once."""

    def wrap(use_case: UseCase[P, Result]) -> BySlug[P, Result]:
        @wraps(use_case)
        def change(actor: Actor, slug: str, *args: P.args, **named: P.kwargs) -> Result:
            allowed = actor.site_to_own if own else actor.site_to_change
            allowed(slug)  # whoever may not is refused without waiting for others' writes
            with transaction.atomic():
                Site.objects.select_for_update().filter(slug=slug).first()
                site = allowed(slug)
                result = use_case(actor, site, *args, **named)
                if plan:
                    plan_changed(site)
                return result

        return cast(BySlug[P, Result], change)

    return wrap
