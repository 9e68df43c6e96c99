"""The server as a process of its own, to be killed."""

import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

import httpx

from ulvet.api.guard import WRITE_HEADER


class Served:
    """`ulvet serve` as a process group of its own."""

    def __init__(self, data, port=None):
        self.port = port = port or _free_port()
        self.address = f"http://127.0.0.1:{port}"
        self.process = subprocess.Popen(
            [Path(sys.executable).with_name("ulvet"), "serve", "--port", str(port), "--data", str(data)],
            start_new_session=True,
            stdout=subprocess.DEVNULL,
        )
        for _ in range(600):
            with suppress(httpx.TransportError):
                httpx.get(f"{self.address}/api/jobs")
                return
            time.sleep(0.05)
        raise AssertionError("the server did not start")

    def shelf(self):
        return httpx.get(f"{self.address}/api/shelf", timeout=30).json()

    def releases(self, figure):
        return httpx.get(f"{self.address}/api/figures/{figure}/releases", timeout=30).json()

    def own(self, figure):
        """Say that a figure is its sculptor's own work, without which nothing is released."""
        address = f"{self.address}/api/figures/{figure}"
        source = httpx.get(f"{address}/recipe.json", timeout=30).json()["recipe"]["steps"][0]["source"]
        seen = str(httpx.get(address, timeout=30).json()["revision"])
        step = {"step": {"kind": "credit", "source": source, "terms": "own-work"}, "says": "my own"}
        httpx.post(f"{address}/record", json=step, headers={WRITE_HEADER: "test", "If-Match": seen}, timeout=30)

    def ask_release(self, figure):
        """Whether the release of a figure was taken on."""
        address = f"{self.address}/api/figures/{figure}/releases"
        return httpx.post(address, headers={WRITE_HEADER: "test"}, timeout=30).status_code == 202

    def workers(self):
        """The processes of jobs: copies of the one child that loads the libraries for them."""
        return [job for child in _children(self.process.pid) for job in _children(child)]

    def kill(self, what="both"):
        """Kill the server, a worker of its, or both; whether the server is gone."""
        with suppress(ProcessLookupError, FileNotFoundError):
            if what == "worker":
                for worker in self.workers():
                    os.kill(worker, signal.SIGKILL)
                return False
            if what == "both":
                os.killpg(self.process.pid, signal.SIGKILL)
            self.process.kill()
        self.process.wait()
        return True


def _children(process):
    return [int(child) for child in Path(f"/proc/{process}/task/{process}/children").read_text("utf-8").split()]


def _free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]
