"""Prints the API's description (OpenAPI), from which the front end's types are generated."""

import json
import sys

from zeichen.api.app import create_app

if __name__ == "__main__":
    json.dump(create_app().openapi(), sys.stdout, indent=1)
