"""Permissions: who may see and change what. Every check is made here.

Readers look, analysts change a site's contents, owners manage its members and can delete it. An administrator of the
installation (a superuser) may do everything on every site. A script with a token may do what its owner may, limited to the
token's sites and role.
"""

from collections.abc import Collection
from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db.models import QuerySet

from zugzwang.data.models import Membership, PersonalToken, Site
from zugzwang.errors import NotAllowed, NotFound

Role = Membership.Role
# Ascending.
RANKS = {Role.READER: 1, Role.ANALYST: 2, Role.OWNER: 3}


@dataclass(frozen=True)
class Actor:
    """Who makes a request: a signed-in user, perhaps through a `token`, or the operator at the command line (`user` is
    None)."""

    user: User | None
    token: PersonalToken | None = None

    @property
    def name(self) -> str:
        return self.user.get_username() if self.user else "operator"

    def sites(self, deleted: bool = False) -> QuerySet[Site]:
        """The sites that the actor may see; with `deleted`, the deleted sites that can still be restored."""
        stored = Site.objects.filter(deleted_at__isnull=not deleted)
        if self.token is not None:
            stored = stored.filter(id__in=self.token.sites.values("id"))
        if self.user is None or self.user.is_superuser:
            return stored
        return stored.filter(memberships__user=self.user)

    def site(self, slug: str) -> Site:
        """The site with this slug. Raises NotFound where the actor may not see it, as if it did not exist."""
        site = self.sites().filter(slug=slug).first()
        if site is None:
            known = ", ".join(self.sites().values_list("slug", flat=True)[:10]) or "none yet"
            raise NotFound(f"There is no site “{slug}” that you may see.", f"Sites that you may see: {known}.")
        return site

    def roles(self, sites: Collection[Site]) -> dict[int, str]:
        """The actor's role by site id; sites without a role are left out."""
        if self.user is None or self.user.is_superuser:
            stored: dict[int, str] = dict.fromkeys((site.id for site in sites), Role.OWNER)
        else:
            stored = dict(Membership.objects.filter(site__in=list(sites), user=self.user).values_list("site_id", "role"))
        if self.token is None:
            return stored
        most = self.token.role
        return {site: min((role, most), key=lambda one: RANKS[Role(one)]) for site, role in stored.items()}

    def role(self, site: Site) -> str | None:
        """The actor's role on a site; None without one."""
        return self.roles([site]).get(site.id)

    def changeable(self, sites: Collection[Site]) -> set[int]:
        """The ids of the sites that the actor may change."""
        roles = self.roles(sites)
        return {one.id for one in sites if one.archived_at is None and roles.get(one.id) in (Role.ANALYST, Role.OWNER)}

    def may_change(self, site: Site) -> bool:
        return site.id in self.changeable([site])

    def may_own(self, site: Site) -> bool:
        """Whether the actor may manage the site's members and delete it. Scripts never may."""
        return self.token is None and self.role(site) == Role.OWNER

    def site_to_change(self, slug: str) -> Site:
        site = self.site(slug)
        if self.may_change(site):
            return site
        if site.archived_at is not None:
            raise NotAllowed(f"{site.name} is archived and read-only.", "An owner can unarchive it.")
        raise NotAllowed(f"You can view {site.name}, but not change it.", "Ask an analyst of the site.")

    def site_to_own(self, slug: str) -> Site:
        site = self.site(slug)
        if not self.may_own(site):
            raise NotAllowed(f"Only owners can do this on {site.name}.", "Ask one of them.")
        return site


OPERATOR = Actor(None)
