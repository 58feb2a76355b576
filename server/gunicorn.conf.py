"""How Gunicorn runs the application and the previews; the address comes from the command line."""

import os

worker_class = "server.front.Front"
threads = int(os.environ.get("MULE_THREADS", "16"))
worker_connections = 2000
# Nothing steers it but signals; its socket would lie at one place for all that run here.
control_socket_disable = True
keepalive = 15
timeout = 300
loglevel = "warning"
