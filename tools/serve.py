"""Starts the server on 127.0.0.1 and says when it is ready.

Environment: WATTAXIS_PORT (default 8000), WATTAXIS_PROXIES (addresses of proxies in front, by commas; of nobody else it is believed who asks).
"""

import os
import socket
import sys
from importlib import import_module
from pathlib import Path

import django
import uvicorn

WEB = Path(__file__).resolve().parents[1] / "web"


class Server(uvicorn.Server):
    """Tells the address once the start-up is complete."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Start, then tell."""
        await super().startup(sockets)
        if not self.should_exit:
            print(f"Wattaxis is ready: http://{self.config.host}:{self.config.port}  (Ctrl-C ends it)", flush=True)


def main() -> int:
    """Refuse a busy port or a place that cannot be written in plain words, then serve."""
    port = int(os.environ.get("WATTAXIS_PORT", "8000"))
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
    config = uvicorn.Config("config.asgi:application", host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2, **behind)
    Server(config).run()
    return 0


if __name__ == "__main__":
    sys.exit(main())
