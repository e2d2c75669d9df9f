"""Every change of a site takes one path: permission, transaction, audit and version (zugzwang/changing.py)."""

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest
from django.contrib.auth.models import User
from django.db import connection

from zugzwang import changing
from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.data.audit import note
from zugzwang.data.models import AuditEntry, Membership, Site
from zugzwang.errors import Invalid, NotAllowed

CODE = Path(changing.__file__).parent
# Who asks whether a site may be changed without changing it in the same breath, and why.
ASKS_FIRST = {
    "cli/serving.py": "looks at who sends a large body before it is read",
    "cli/management/commands/load.py": "a load has a transaction of its own, behind the reading of its file",
    "cli/management/commands/refresh.py": "the operator's, before the job",
    "api/intake.py": "uploads are kept in a folder",
    "api/drafts.py": "before a draft's text or page is read; what is stored goes the one way",
    "api/people.py": "archives and the activity log are read by owners",
    "api/plan.py": "what came of a move is computed, then stored the one way",
    "api/reports.py": "before an upload is read",
    "intake/cleaning.py": "patterns are compiled before the transaction",
    "intake/jobs.py": "pages of others are looked for before the transaction",
    "intake/loading.py": "blocks are encoded before the transaction, which is blocks.undo's",
    "people/members.py": "one may always leave a site, whoever may change it",
    "plan/drafts.py": "drafts are read and merged before the transaction",
    "plan/proposals.py": "gains are computed before the transaction",
    "plan/reports.py": "reports and logos are made before the transaction",
    "plan/site_archive.py": "an archive is read, not changed",
    "plan/trials.py": "effects are computed before the transaction",
    "subjects/sites.py": "patterns are compiled before the transaction",
}  # fmt: skip
# Notes of what is no change of a site, or that have a transaction of their own.
NOTES_APART = {
    "people/accounts.py", "people/tokens.py", "api/routes.py", "plan/site_archive.py", "intake/loading.py",
}  # fmt: skip


def calls(tree: ast.AST, *names: str) -> Iterator[ast.Call]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Call):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            if name in names:
                yield node


def is_use_case(node: ast.AST) -> bool:
    return isinstance(node, ast.FunctionDef) and any(calls(ast.Module(list(node.decorator_list), []), "changes_site"))  # type: ignore[arg-type]


def test_permission_to_change_is_asked_the_one_way_or_for_a_reason() -> None:
    asked = {
        str(path.relative_to(CODE))
        for path in CODE.rglob("*.py")
        if any(calls(ast.parse(path.read_text()), "site_to_change", "site_to_own"))
    }
    assert asked == set(ASKS_FIRST)


def test_what_is_noted_of_a_site_is_noted_in_its_transaction() -> None:
    separate = set()
    for path in CODE.rglob("*.py"):
        tree = ast.parse(path.read_text())
        within = {call for node in ast.walk(tree) if is_use_case(node) for call in calls(node, "note")}
        if set(calls(tree, "note")) - within:
            separate.add(str(path.relative_to(CODE)))
    # A member who leaves, and who joins by an invitation, are noted within a transaction that is written there.
    assert separate == NOTES_APART | {"people/members.py", "subjects/sites.py"}


@changes_site(plan=True)
def renamed(actor: Actor, site: Site, name: str) -> str:
    assert not connection.atomic_blocks[-1]._from_testcase  # type: ignore[attr-defined]
    site.name = name
    site.save(update_fields=["name"])
    note(actor.user, site, "settings", "name")
    if not name:
        raise Invalid("The site needs a name.", "Write one.", "name")
    return name


def test_a_use_case_is_all_or_nothing_and_renews_the_plan(site: Site, analyst: User) -> None:
    reader = User.objects.create_user("reader")
    Membership.objects.create(site=site, user=reader, role=Membership.Role.READER)
    with pytest.raises(NotAllowed):
        renamed(Actor(reader), site.slug, "Theirs")
    before = Site.objects.get()
    with pytest.raises(Invalid):
        renamed(Actor(analyst), site.slug, "")
    stored = Site.objects.get()
    assert (stored.name, stored.plan_version, AuditEntry.objects.count()) == (before.name, before.plan_version, 0)
    assert renamed(Actor(analyst), site.slug, "Ours") == "Ours"
    stored = Site.objects.get()
    assert (stored.name, stored.plan_version != before.plan_version, AuditEntry.objects.count()) == ("Ours", True, 1)
