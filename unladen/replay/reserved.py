"""Which IP addresses belong to the open internet.

By the special-purpose registries of IANA for IPv4 and IPv6 (RFC 6890 and its updates) and those for multicast (RFC
5771) and global unicast (RFC 4291, 2.4). A list of our own, since Python's differs from release to release; both must
agree.
"""

from __future__ import annotations

import ipaddress

# Network and what it is for.
IPV4 = {
    "0.0.0.0/8": "this network",
    "10.0.0.0/8": "private use",
    "100.64.0.0/10": "shared by carriers",
    "127.0.0.0/8": "loopback",
    "169.254.0.0/16": "link-local",
    "172.16.0.0/12": "private use",
    "192.0.0.0/24": "protocol assignments",
    "192.0.2.0/24": "documentation",
    "192.31.196.0/24": "name servers that answer for the inside (AS112)",
    "192.52.193.0/24": "multicast tunnels",
    "192.88.99.0/24": "relays from IPv6",
    "192.168.0.0/16": "private use",
    "192.175.48.0/24": "name servers that answer for the inside (AS112)",
    "198.18.0.0/15": "measurements",
    "198.51.100.0/24": "documentation",
    "203.0.113.0/24": "documentation",
    "224.0.0.0/4": "multicast",
    "240.0.0.0/4": "reserved, and broadcast",
}
# Within the one block of global unicast; all else is refused anyway.
GLOBAL_IPV6 = "2000::/3"
IPV6 = {
    "2001::/23": "protocol assignments, tunnels among them",
    "2001:db8::/32": "documentation",
    "2002::/16": "holds an IPv4 address",
    "2620:4f:8000::/48": "name servers that answer for the inside (AS112)",
    "3fff::/20": "documentation",
}
_REFUSED = [ipaddress.ip_network(network) for network in (*IPV4, *IPV6)]
_GLOBAL = ipaddress.ip_network(GLOBAL_IPV6)


def is_public(address: str) -> bool:
    """Whether an IP address belongs to the open internet; an IPv4 address within a mapped one is judged itself.

    Raises `ValueError` for what is no address.
    """
    ip = ipaddress.ip_address(address.partition("%")[0])
    if isinstance(ip, ipaddress.IPv6Address):
        if ip.ipv4_mapped is not None:
            return is_public(str(ip.ipv4_mapped))
        if ip not in _GLOBAL:
            return False
    return ip.is_global and not any(ip in network for network in _REFUSED if network.version == ip.version)
