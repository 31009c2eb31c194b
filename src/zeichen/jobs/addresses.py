"""Addresses that may be asked for pictures: what they name, and whether what is sent there leaves this machine.

On this machine anything goes. Elsewhere only after the maker has confirmed that the wording leaves the machine, over
plain http only within the house (RFC 1918, RFC 4193), and never to link-local addresses (RFC 3927, RFC 4291), where
routers and hosting machines keep their secrets.
"""

import asyncio
import ipaddress
import re
import socket
from dataclasses import dataclass
from urllib.parse import urlsplit

from zeichen.core.errors import InvalidInputError, OutsideError

IpAddress = ipaddress.IPv4Address | ipaddress.IPv6Address
_EXAMPLE = "Write it like http://127.0.0.1:7000/draw."
# RFC 1123, 2.1: letters, digits and hyphens between single dots.
_NAME = re.compile(r"(?!-)[A-Za-z0-9-]{1,63}(?<!-)(\.(?!-)[A-Za-z0-9-]{1,63}(?<!-))*")
_PLAIN = re.compile(r"[\x21-\x7e]+")
_NETLOC = re.compile(r"(?:\[[^\[\]]+\]|[^:\[\]]+)(?::[0-9]+)?")
_HERE = "localhost"


@dataclass(frozen=True, slots=True)
class Address:
    """A checked address. ip: what its host is, where that is written as a number."""

    text: str
    scheme: str
    host: str
    port: int
    ip: IpAddress | None

    @property
    def is_here(self) -> bool:
        """Whether it is on this machine."""
        return self.host == _HERE if self.ip is None else self.ip.is_loopback

    @property
    def netloc(self) -> str:
        """Host and port as they stand in the address."""
        return urlsplit(self.text).netloc


def checked_address(text: str) -> Address:
    """Return an address that can be asked.

    Raises
    ------
    InvalidInputError
        If it is broken, strange, or one that is never asked.
    """
    try:
        parts = urlsplit(text)
        host, port = parts.hostname or "", parts.port
    except ValueError as error:
        raise InvalidInputError(f"“{text}” is no address of a generator: {error}. {_EXAMPLE}") from error
    if parts.scheme not in ("http", "https") or not host or not _PLAIN.fullmatch(text) or "\\" in text:
        raise InvalidInputError(f"“{text}” is no address of a generator. {_EXAMPLE}")
    if parts.username is not None or parts.password is not None:
        raise InvalidInputError("A generator's address holds no name and no password. Leave them out.")
    if not _NETLOC.fullmatch(parts.netloc):
        raise InvalidInputError(f"“{text}” is no address of a generator: its host is broken. {_EXAMPLE}")
    if port == 0:
        raise InvalidInputError(f"“{text}” has the port 0, where nobody listens. {_EXAMPLE}")
    ip = _ip_of(host, text)
    if ip is not None:
        _require_askable(ip, text)
        if parts.scheme == "http" and ip.is_global:
            raise _plain_to_public(text)
    return Address(text, parts.scheme, host, port or (443 if parts.scheme == "https" else 80), ip)


def require_agreed(address: Address, *, outside_confirmed: bool) -> None:
    """Raise InvalidInputError if an address is not on this machine and the maker has not agreed to that."""
    if not address.is_here and not outside_confirmed:
        raise InvalidInputError(
            f"{address.host} is not this machine: the wording of your briefs would leave it. Confirm that in the "
            "Workshop, or choose an address on this machine."
        )


async def resolved(address: Address) -> IpAddress:
    """Return the number to connect to, held against the same rules as one written out.

    Raises
    ------
    OutsideError
        If the name is not known, or stands for an address that is never asked.
    """
    if address.ip is not None:
        return address.ip
    loop = asyncio.get_running_loop()
    try:
        found = await loop.getaddrinfo(address.host, address.port, type=socket.SOCK_STREAM)
    except OSError as error:
        raise OutsideError(
            f"The generator's name {address.host} is not known here ({error.strerror or error}). Check its address in "
            "the Workshop."
        ) from error
    numbers = [ipaddress.ip_address(str(entry[4][0]).partition("%")[0]) for entry in found]
    try:
        for ip in numbers:
            _require_askable(ip, address.text)
            if address.host == _HERE and not ip.is_loopback:
                raise InvalidInputError("The name localhost does not stand for this machine here.")
            if address.scheme == "http" and ip.is_global:
                raise _plain_to_public(address.text)
    except InvalidInputError as error:
        raise OutsideError(str(error)) from error
    return numbers[0]


def _ip_of(host: str, text: str) -> IpAddress | None:
    """Return the number a host is written as; None for a name; InvalidInputError for what only looks like either."""
    try:
        ip = ipaddress.ip_address(host)
    except ValueError:
        last = host.rsplit(".", 1)[-1]
        # 127.1, 0x7f.1 and 2130706433 are read as 127.0.0.1 by some programs and as names by others.
        if not _NAME.fullmatch(host) or re.fullmatch(r"[0-9]+|0[xX][0-9a-fA-F]*", last):
            raise InvalidInputError(
                f"“{text}” names no host: “{host}” is neither a name nor a number."
            ) from None
        return None
    if isinstance(ip, ipaddress.IPv6Address):
        if ip.scope_id is not None:
            raise InvalidInputError(f"“{text}” holds a zone (%), which is link-local. That is never asked.")
        return ip.ipv4_mapped or ip
    return ip


def _require_askable(ip: IpAddress, text: str) -> None:
    inner = ip.ipv4_mapped if isinstance(ip, ipaddress.IPv6Address) else None
    ip = inner or ip
    if ip.is_link_local or ip.is_unspecified or ip.is_multicast or (ip.is_reserved and not ip.is_loopback):
        kind = "link-local" if ip.is_link_local else "no address of a single machine"
        raise InvalidInputError(f"“{text}” is never asked: {ip} is {kind}. {_EXAMPLE}")


def _plain_to_public(text: str) -> InvalidInputError:
    return InvalidInputError(
        f"“{text}” is a public address: the wording would cross the internet for anyone to read. Use https."
    )
