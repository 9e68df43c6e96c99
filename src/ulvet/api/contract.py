"""Prints the OpenAPI contract; the front end's types are generated from it."""

import json
import tempfile
from pathlib import Path

from ulvet.api.app import create_app

if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        print(json.dumps(create_app(Path(folder)).openapi(), sort_keys=True))
