"""A site's services and dated events: add, change, remove."""

from datetime import date
from urllib.parse import urlsplit

from zugzwang.access import Actor
from zugzwang.changing import changes_site
from zugzwang.data import audit
from zugzwang.data.models import Connection, Event, Site
from zugzwang.data.sealing import sealed
from zugzwang.data.services import check_service
from zugzwang.errors import Invalid, NotFound
from zugzwang.intake.outside import origin_of
from zugzwang.names import checked_name


def connections(site: Site) -> list[Connection]:
    return list(Connection.objects.filter(site=site).order_by("source"))


def without_password(address: str) -> str:
    """An address as readers may see it."""
    parts = urlsplit(address)
    return parts._replace(netloc=parts.netloc.rpartition("@")[2]).geturl()


@changes_site()
def connect(
    actor: Actor, site: Site, source: str, address: str, token: str | None, private_allowed: bool, nightly: bool
) -> Connection:
    """Connect a site's source to a service, in place of an earlier one. `token` None: unchanged."""
    check_service(source, address.strip())
    if private_allowed and not (actor.user is None or actor.user.is_superuser):
        message = "Only the administrator can allow private addresses for a service."
        raise Invalid(message, "Ask your administrator.", "private_allowed")
    changed: dict[str, object] = {"address": address.strip(), "private_allowed": private_allowed, "nightly": nightly}
    stored = Connection.objects.filter(site=site, source=source).first()
    if token is not None:
        changed["token"] = sealed(token.strip())
    elif stored is not None and stored.token and origin_of(stored.address) != origin_of(address.strip()):
        # A token belongs to one service and is sent to no other.
        raise Invalid("The address has changed, and the token belongs to the old one.", "Give its token.", "token")
    audit.note(actor.user, site, "connect", source, address=without_password(address.strip()))
    return Connection.objects.update_or_create(site=site, source=source, defaults=changed)[0]


@changes_site()
def disconnect(actor: Actor, site: Site, source: str) -> None:
    if not Connection.objects.filter(site=site, source=source).delete()[0]:
        raise NotFound("This connection does not exist.", "Check the list of connections.")
    audit.note(actor.user, site, "disconnect", source)


def events(site: Site) -> list[Event]:
    return list(Event.objects.filter(site=site))


@changes_site(plan=True)
def add_event(actor: Actor, site: Site, first_day: date, last_day: date | None, title: str, kind: str, note: str) -> Event:
    last = last_day or first_day
    if last < first_day:
        raise Invalid("The event ends before it begins.", "Swap the two days.", "last_day")
    title = checked_name(title, "title", 300)
    return Event.objects.create(
        site=site, first_day=first_day, last_day=last, title=title, kind=kind.strip()[:60], note=note.strip()
    )


@changes_site(plan=True)
def remove_event(actor: Actor, site: Site, event_id: int) -> None:
    if not Event.objects.filter(site=site, id=event_id).delete()[0]:
        raise NotFound("This event does not exist.", "Check the list of events.")
