"""Starts the server on 127.0.0.1 and says when it is ready.

Environment: WATTAXIS_PORT (default 8000), WATTAXIS_PROXIES (addresses of proxies in front, by commas; of nobody else it is believed who asks),
WATTAXIS_PROCESSES (web processes, default 1; more need WATTAXIS_BROKER, the address of a Redis, to be as one).
"""

import os
import socket
import sys
import threading
import time
import urllib.request
from importlib import import_module
from pathlib import Path

import django
import uvicorn
from uvicorn.supervisors import Multiprocess

WEB = Path(__file__).resolve().parents[1] / "web"


class Server(uvicorn.Server):
    """Tells the address once the start-up is complete."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Start, then tell."""
        await super().startup(sockets)
        if not self.should_exit:
            tell(self.config)


def tell(config: uvicorn.Config) -> None:
    """Say where it is reached."""
    print(f"Wattaxis is ready: http://{config.host}:{config.port}  (Ctrl-C ends it)", flush=True)


def tell_when_reached(config: uvicorn.Config) -> None:
    """Say so as soon as one of several processes answers."""
    while True:
        time.sleep(0.2)
        try:
            urllib.request.urlopen(f"http://{config.host}:{config.port}/healthz", timeout=5).close()
        except OSError:
            continue
        return tell(config)


def serve(config: uvicorn.Config) -> None:
    """By one process, or by several that are started again when they die."""
    if config.workers == 1:
        Server(config).run()
        return
    threading.Thread(target=tell_when_reached, args=(config,), daemon=True).start()
    Multiprocess(config, [config.bind_socket()]).run()


def main() -> int:
    """Refuse a busy port or a place that cannot be written in plain words, then serve."""
    port = int(os.environ.get("WATTAXIS_PORT", "8000"))
    processes = int(os.environ.get("WATTAXIS_PROCESSES", "1"))
    if processes > 1 and not os.environ.get("WATTAXIS_BROKER"):
        print(
            "Several web processes need a Redis to be as one: name it by WATTAXIS_BROKER=redis://... , or leave WATTAXIS_PROCESSES out.",
            file=sys.stderr,
        )
        return 1
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            print(f"Port {port} is in use, perhaps by another Wattaxis. Choose another: WATTAXIS_PORT={port + 1} make demo", file=sys.stderr)
            return 1
    sys.path.insert(0, str(WEB))
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
    try:
        django.setup()
        problem = import_module("config.storage").problem_at_start()
    except OSError as error:  # the settings make the folder and the secret key
        problem = f"The folder for the database cannot be used ({error}). Name another one by WATTAXIS_VAR."
    if problem:
        print(problem, file=sys.stderr)
        return 1
    # Who a request comes from is believed of the proxies that are named, and of nobody else.
    proxies = os.environ.get("WATTAXIS_PROXIES", "")
    behind = {"proxy_headers": bool(proxies), "forwarded_allow_ips": proxies}
    how = {"log_level": "warning", "timeout_graceful_shutdown": 2, "workers": processes, **behind}
    serve(uvicorn.Config("config.asgi:application", host="127.0.0.1", port=port, **how))
    return 0


if __name__ == "__main__":
    sys.exit(main())
