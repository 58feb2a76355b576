"""Who may sign in, how often one may try, and from where a request comes."""

from __future__ import annotations

from ipaddress import ip_address, ip_network
from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from server.errors import problem

# Wrong passwords from one address within the time for which names are slowed, over all names. Many people share the
# address of an office.
MOST_FAILURES = 30
_LOOPBACK = ("127.0.0.1", "::1")


class Impatient(Exception):
    """Too many wrong passwords came from one place."""


def address_of(request: HttpRequest) -> str:
    """The caller's address: what a front on this machine says, where there is one, or that of the connection."""
    address = str(request.META.get("REMOTE_ADDR") or "127.0.0.1")
    forwarded = request.headers.get("X-Real-IP", "")
    return forwarded if forwarded and settings.IS_BEHIND_TLS and address in _LOOPBACK else address


def expect_patience(request: HttpRequest) -> None:
    """Refuse a sign-in from where too many failed of late, whoever was named; raises `Impatient`.

    The count comes before a password is looked at, so that guessing costs no computing time. Callers of one IPv6
    network (/64) count as one, since any of them has all of its addresses.
    """
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    here = network_of(address_of(request))
    rows = AccessAttempt.objects.filter(attempt_time__gte=since).values_list("ip_address", "failures_since_start")
    if sum(count for address, count in rows if network_of(address or "") == here) >= MOST_FAILURES:
        raise Impatient


def network_of(address: str) -> str:
    """What counts as one caller: an IPv4 address, or the network (/64) of an IPv6 address."""
    try:
        parsed = ip_address(address)
    except ValueError:
        return address
    if parsed.version == 4:
        return str(parsed)
    return str(parsed.ipv4_mapped or ip_network(f"{parsed}/64", strict=False))


def too_often(request: HttpRequest, response: HttpResponse | None = None, credentials: Any = None) -> HttpResponse:
    """For who has tried too many wrong passwords."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    return problem(request, 429, f"Too many wrong passwords. Wait {minutes} minutes, then try again.")
