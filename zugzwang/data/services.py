"""Which services can provide a source of a site."""

from urllib.parse import urlsplit

from zugzwang.core.facts.grains import SERVED
from zugzwang.errors import Invalid

ADDRESS_MAX = 500


def check_service(source: str, address: str) -> None:
    """Raises Invalid where no service provides such a source, or none can be at this address."""
    parts = urlsplit(address)
    if source not in SERVED:
        raise Invalid(f"“{source}” is not a kind of data for services.", f"Sources: {', '.join(SERVED)}.", "source")
    if parts.scheme not in ("http", "https") or not parts.hostname or len(address) > ADDRESS_MAX:
        raise Invalid(
            f"“{address}” is not an address of a service.", "Write it as https://data.shop.example/search.", "address"
        )
    if parts.username or parts.password:
        raise Invalid("Addresses must not contain passwords: readers of the site see them.", "Use the token field.", "address")
