"""How Gunicorn runs the application and the previews; the address comes from the command line."""

import ctypes
import os
import signal

from gunicorn.arbiter import Arbiter
from gunicorn.workers.base import Worker

_PR_SET_PDEATHSIG = 1  # prctl(2)

worker_class = "server.front.Front"
threads = int(os.environ.get("MULE_THREADS", "16"))
worker_connections = 2000
# Nothing steers it but signals; its socket would lie at one place for all that run here.
control_socket_disable = True
keepalive = 15
timeout = 300
loglevel = "warning"
# A worker that was killed is there again as fast as a process forks.
preload_app = True


def post_fork(server: Arbiter, worker: Worker) -> None:
    """A worker ends with its master: it would hold the port, and the next master could not listen."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != server.pid:
        os._exit(1)
