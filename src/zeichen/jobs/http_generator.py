"""A picture generator behind an HTTP address: JSON goes in, PNG pictures come back.

Asked: POST {"prompt": text, "size": "WIDTHxHEIGHT", "n": count, "seed": number}. Answered:
{"images": [...]}, each a PNG as base64 or an address on the same host to fetch it from.
"""

import asyncio
import base64
import binascii
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from urllib.parse import urljoin, urlsplit

import httpx

from zeichen.core.briefing import SketchOrder
from zeichen.core.errors import OutsideError
from zeichen.core.values import require_number
from zeichen.jobs.addresses import checked_address, require_agreed, resolved

PNG_START = b"\x89PNG\r\n\x1a\n"
_MOST_BYTES = 32_000_000
_BUSY = (429, 500, 502, 503, 504)
_USED_UP = (402,)
_FIRST_WAIT_S = 0.5
_SEEN_CHARACTERS = 120


@dataclass(frozen=True, slots=True)
class HttpGeneratorSettings:
    """Where the generator listens and how patient to be with it.

    timeout_s: for one picture, from the first question to its last byte, however often it is asked. allowance:
    pictures that may still be asked for. outside_confirmed: the maker agreed that the wording leaves this machine.
    """

    address: str
    name: str = "local generator"
    licence: str = ""
    timeout_s: float = 60.0
    tries: int = 3
    allowance: int | None = None
    outside_confirmed: bool = False

    def __post_init__(self) -> None:
        require_agreed(checked_address(self.address), outside_confirmed=self.outside_confirmed)
        require_number(self.timeout_s, "Time-out", least=1, most=900, unit="s")
        require_number(self.tries, "Tries", least=1, most=10)
        if self.allowance is not None:
            require_number(self.allowance, "Allowance", least=0, most=1_000_000, unit="pictures")


class HttpGenerator:
    """Asks an HTTP address for pictures; `wait` sleeps between tries and is passed in by tests."""

    def __init__(
        self, settings: HttpGeneratorSettings, *, wait: Callable[[float], Awaitable[None]] = asyncio.sleep
    ) -> None:
        self._settings = settings
        self._address = checked_address(settings.address)
        self._wait = wait

    @property
    def name(self) -> str:
        """Name kept with each sketch."""
        return self._settings.name

    async def draw_png(self, order: SketchOrder) -> bytes:
        """Return the PNG file of an order; cancelling this hangs up.

        Raises
        ------
        OutsideError
            If the generator cannot be reached, stays busy, refuses, has no allowance left, takes longer than it
            may, or answers with something else than a PNG.
        """
        width_px, height_px = order.format.size_px(order.size_px)
        asked = {"prompt": order.wording, "size": f"{width_px}x{height_px}", "n": 1, "seed": order.seed}
        try:
            async with (
                asyncio.timeout(self._settings.timeout_s),
                httpx.AsyncClient(timeout=None, follow_redirects=False, trust_env=False) as client,
            ):
                answer = await self._answered(client, "POST", self._settings.address, json=asked)
                return await self._first_png(client, answer)
        except TimeoutError as error:
            raise OutsideError(
                f"The generator at {self._settings.address} did not give a picture within "
                f"{self._settings.timeout_s:g} s. Check that it runs, or wait longer for it in the Workshop."
            ) from error

    async def _answered(
        self, client: httpx.AsyncClient, method: str, address: str, *, json: object | None = None
    ) -> httpx.Response:
        problem = ""
        for attempt in range(self._settings.tries):
            if attempt:
                await self._wait(_FIRST_WAIT_S * 2 ** (attempt - 1))
            try:
                answer = await self._fetched(client, method, address, json)
            except httpx.HTTPError as error:
                problem = f"cannot be reached ({error or type(error).__name__})"
                continue
            if answer.status_code in _USED_UP:
                raise OutsideError(
                    "The generator says that its allowance is used up. Fill it up there, or use the stand-in studio."
                )
            if answer.status_code in _BUSY:
                problem = f"is busy or failing (status {answer.status_code})"
                continue
            if answer.status_code != 200:
                said = answer.text.strip()[:_SEEN_CHARACTERS]
                raise OutsideError(
                    f"The generator refused with status {answer.status_code}{f': {said}' if said else ''}. "
                    "Check its address in the Workshop."
                )
            return answer
        raise OutsideError(
            f"The generator at {address} {problem}; tried {self._settings.tries} times. "
            "Check that it runs, then run the job again."
        )

    async def _fetched(
        self, client: httpx.AsyncClient, method: str, address: str, json: object | None
    ) -> httpx.Response:
        """Return an answer read whole, but not without end."""
        # What was checked is what is connected to: a name could stand for another number a moment later.
        ip = await resolved(self._address)
        number = f"[{ip}]" if ip.version == 6 else str(ip)
        there = urlsplit(address)._replace(netloc=f"{number}:{self._address.port}").geturl()
        headers = {"Host": self._address.netloc}
        extensions = {"sni_hostname": self._address.host}
        async with client.stream(method, there, json=json, headers=headers, extensions=extensions) as answer:
            data = bytearray()
            async for part in answer.aiter_bytes():
                data += part
                if len(data) > _MOST_BYTES:
                    raise OutsideError(
                        f"The generator's answer is larger than {_MOST_BYTES // 1_000_000} MB. "
                        "Ask it for smaller pictures."
                    )
            kept = [(k, v) for k, v in answer.headers.items() if k != "content-encoding"]
            return httpx.Response(answer.status_code, headers=kept, content=bytes(data))

    async def _first_png(self, client: httpx.AsyncClient, answer: httpx.Response) -> bytes:
        try:
            images = answer.json()["images"]
            first = images[0]
        except RecursionError as error:
            raise OutsideError(
                "The generator's JSON is nested more deeply than Zeichen can follow. Check its address in the Workshop."
            ) from error
        except (ValueError, KeyError, IndexError, TypeError) as error:
            kind = answer.headers.get("content-type", "nothing known")
            raise OutsideError(
                f"The generator answered with {kind}, not with JSON that holds a list of images. "
                "Check its address in the Workshop."
            ) from error
        if not isinstance(first, str):
            raise OutsideError("The generator's images are not text. Expected base64 or an address.")
        return await self._png(client, first)

    async def _png(self, client: httpx.AsyncClient, image: str) -> bytes:
        if image.startswith(("http://", "https://", "/")):
            try:
                address = urljoin(self._settings.address, image)
                host = urlsplit(address).netloc
            except ValueError as error:
                raise OutsideError(
                    f"The generator points to a picture at no address: {image[:80]}"
                ) from error
            if host != self._address.netloc:
                raise OutsideError(
                    f"The generator points to a picture on another host ({host}). "
                    "Only pictures on its own host are fetched."
                )
            data = (await self._answered(client, "GET", address)).content
        else:
            try:
                data = base64.b64decode(image.partition("base64,")[2] or image, validate=True)
            except (binascii.Error, ValueError) as error:
                raise OutsideError(
                    "The generator's picture is neither base64 nor an address on its own host."
                ) from error
        if not data.startswith(PNG_START):
            raise OutsideError("The generator sent a file that is not a PNG picture.")
        return data
