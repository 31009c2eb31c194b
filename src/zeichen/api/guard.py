"""What every request must be and every reply must carry: local host, own origin, strict policy.

A page from elsewhere that the maker happens to have open must not reach the app through the
browser, so foreign Host headers (DNS rebinding) and foreign Origins are refused.
"""

import json
import secrets

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send


def content_security_policy(nonce: str) -> str:
    """Return the policy: nothing from elsewhere, no inline script; inline style only with this page's nonce.

    Examples
    --------
    >>> "unsafe" in content_security_policy("abc")
    False
    """
    return (
        f"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; img-src 'self' blob: data:; "
        "font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
    )


class Guard:
    """ASGI middleware around the whole app."""

    def __init__(self, app: ASGIApp, *, port: int) -> None:
        self._app = app
        self._hosts = {f"{name}:{port}" for name in ("127.0.0.1", "localhost")}
        self._origins = {f"http://{host}" for host in self._hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host, origin = headers.get("host", ""), headers.get("origin")
        if host not in self._hosts:
            await _refuse(send, f"This app answers on 127.0.0.1 only; the request was for “{host}”.")
            return
        if origin is not None and origin not in self._origins:
            await _refuse(send, f"Requests from “{origin}” are refused. Open the app itself.")
            return
        nonce = secrets.token_urlsafe(16)
        scope.setdefault("state", {})["nonce"] = nonce

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                reply = MutableHeaders(scope=message)
                reply["Content-Security-Policy"] = content_security_policy(nonce)
                reply["X-Content-Type-Options"] = "nosniff"
                reply["Referrer-Policy"] = "no-referrer"
                reply["Cross-Origin-Resource-Policy"] = "same-origin"
                reply["Cross-Origin-Opener-Policy"] = "same-origin"
            await send(message)

        await self._app(scope, receive, send_guarded)


async def _refuse(send: Send, message: str) -> None:
    body = json.dumps({"code": "refused", "message": message}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": 403, "headers": headers})
    await send({"type": "http.response.body", "body": body})
