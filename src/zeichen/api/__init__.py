"""The web face of the product: routes that check a request, call one function and shape the reply."""

from zeichen.api.app import create_app

__all__ = ["create_app"]
