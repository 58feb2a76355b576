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


def address_of(request: HttpRequest) -> str:
    """The caller's address: what a front on this machine says, where there is one, or that of the connection."""
    address = str(request.META.get("REMOTE_ADDR") or "127.0.0.1")
    forwarded = request.headers.get("X-Real-IP", "")
    return forwarded if forwarded and settings.IS_BEHIND_TLS and address in _LOOPBACK else address


def has_to_wait(request: HttpRequest) -> bool:
    """Whether too many sign-ins from the caller's address failed of late, whatever names they gave.

    Ask before a password is compared: guessing then costs no computing time. An IPv6 network (/64) counts as one
    address, since one caller may have all of its addresses.
    """
    recent = AccessAttempt.objects.filter(attempt_time__gte=timezone.now() - settings.AXES_COOLOFF_TIME)
    here = network_of(address_of(request))
    # Only addresses of IPv6 hold a colon, and only their networks have to be computed.
    rows = recent.filter(ip_address__contains=":") if ":" in here else recent.filter(ip_address=here)
    failures = rows.values_list("ip_address", "failures_since_start")
    return sum(count for address, count in failures if network_of(address or "") == here) >= MOST_FAILURES


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
