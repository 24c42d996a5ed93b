"""A Nod that serves for a measurement."""

import os
import subprocess
import sys
import time
import urllib.request
from contextlib import contextmanager
from pathlib import Path

from tests.ports import free_run

BIN = Path(sys.executable).parent


@contextmanager
def serving(data):
    port = free_run(4)
    environment = os.environ | {"NOD_DATA_DIR": str(data), "NOD_PORT": str(port), "NOD_PASSWORD_COST": "1"}
    process = subprocess.Popen(
        [BIN / "nod", "serve"], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    url = f"http://127.0.0.1:{port}"
    try:
        for _ in range(200):
            try:
                urllib.request.urlopen(f"{url}/healthz", timeout=1).close()
                break
            except OSError:
                time.sleep(0.1)
        yield url, process.pid
    finally:
        process.terminate()
        process.wait()
