"""A client that hangs up ends what was done for it: nobody waits for the answer any more.

Starlette tells a route of a hang-up only if it asks; this asks for all of them and cancels the route, which ends
the worker it waits for. What a route has begun to keep is kept: writes run in threads, which are not cancelled.
"""

import asyncio
import contextlib

from starlette.types import ASGIApp, Message, Receive, Scope, Send

# So many parts of a request's body wait here; the client is slowed down beyond.
_MOST_WAITING = 4


class Hangups:
    """ASGI middleware around the whole app."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        arrived: asyncio.Queue[Message] = asyncio.Queue(_MOST_WAITING)
        answered = False

        async def send_on(message: Message) -> None:
            nonlocal answered
            await send(message)
            if message["type"] == "http.response.body" and not message.get("more_body", False):
                answered = True

        work = asyncio.ensure_future(self._app(scope, arrived.get, send_on))

        async def listen() -> None:
            while True:
                message = await receive()
                await arrived.put(message)
                if message["type"] == "http.disconnect":
                    if not answered:
                        work.cancel()
                    return

        listening = asyncio.ensure_future(listen())
        try:
            await asyncio.wait([work])
        except asyncio.CancelledError:
            work.cancel()
            raise
        finally:
            listening.cancel()
        # A cancelled route has nobody to tell; any other error goes to the server as it would have.
        with contextlib.suppress(asyncio.CancelledError):
            await work
