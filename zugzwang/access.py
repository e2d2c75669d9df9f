"""Who may see and change what: asked here and nowhere else."""

from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db.models import QuerySet

from zugzwang.data.models import Membership, Site
from zugzwang.errors import NotAllowed, NotFound


@dataclass(frozen=True)
class Actor:
    """Who asks: a signed-in user, or the operator of the machine (`user` is None) at the command line."""

    user: User | None

    def sites(self) -> QuerySet[Site]:
        if self.user is None or self.user.is_superuser:
            return Site.objects.all()
        return Site.objects.filter(memberships__user=self.user)

    def site(self, slug: str) -> Site:
        """The site, if the actor may see it; a site that one may not see does not exist for them."""
        site = self.sites().filter(slug=slug).first()
        if site is None:
            known = ", ".join(self.sites().values_list("slug", flat=True)[:10]) or "none yet"
            raise NotFound(f"There is no site “{slug}” that you may see.", f"Sites that you may see: {known}.")
        return site

    def may_change(self, site: Site) -> bool:
        if self.user is None or self.user.is_superuser:
            return True
        return Membership.objects.filter(site=site, user=self.user, role=Membership.Role.ANALYST).exists()

    def site_to_change(self, slug: str) -> Site:
        site = self.site(slug)
        if not self.may_change(site):
            raise NotAllowed(f"You may look at {site.name} but not change it.", "Ask an analyst of the site.")
        return site


OPERATOR = Actor(None)
