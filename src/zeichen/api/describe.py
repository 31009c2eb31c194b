"""Prints the API's description (OpenAPI), from which the front end's types are generated, or how traces start."""

import json
import sys

from zeichen.api.app import create_app
from zeichen.api.schemas import TraceBody

if __name__ == "__main__":
    if sys.argv[1:] == ["trace-defaults"]:
        print(json.dumps(TraceBody().model_dump(mode="json"), indent=2))
    else:
        json.dump(create_app().openapi(), sys.stdout, indent=1)
