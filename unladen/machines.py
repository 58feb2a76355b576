"""Encodes on other machines: a Dask scheduler takes the same pure functions, bytes in and bytes out.

Its workers must run this version of the product, since they import it. Bodies travel to them; nothing is kept there.
"""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import Executor
from contextlib import contextmanager

from unladen.errors import UnladenError

_SECONDS = 10


class MachinesMissing(UnladenError):
    """No scheduler answers at the address, or it has no workers."""


@contextmanager
def on_machines(address: str) -> Iterator[tuple[Executor, int]]:
    """An executor on a scheduler such as `tcp://10.0.0.5:8786`, and how many threads its workers have.

    Raises `MachinesMissing`.
    """
    from distributed import Client  # slow to import, and few need it

    try:
        client = Client(address, timeout=_SECONDS, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        raise MachinesMissing(f"the scheduler at {address} does not answer ({error})") from error
    with client:
        try:
            client.wait_for_workers(1, timeout=_SECONDS)  # they may just be starting
        except TimeoutError:
            raise MachinesMissing(f"the scheduler at {address} has no workers") from None
        threads = sum(client.nthreads().values())
        # Pure functions: a worker that died may be replaced, but not for ever by an image that kills them.
        with client.get_executor(pure=False, retries=1) as pool:
            yield pool, threads
