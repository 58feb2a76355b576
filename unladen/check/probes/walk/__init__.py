"""The page used: observing a walk, comparing two walks, and wording what differs."""

from __future__ import annotations

from unladen.check.probes.spec import Probe
from unladen.check.probes.walk.comparing import compare
from unladen.check.probes.walk.observing import observe

PROBE = Probe("walk", observe, judges=compare, when="acting", slow=True)
