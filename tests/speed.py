"""How fast the machine is at the moment, where a test has to say that something does not take long."""

import time

_USUAL_SECONDS = 0.008
"""What the loop below takes on a usual machine of 2026 that does nothing else (measured)."""


def how_slow():
    """How many times longer than usual plain work takes now; at least 1."""
    began = time.thread_time()
    sum(place * place for place in range(100_000))
    return max(1.0, (time.thread_time() - began) / _USUAL_SECONDS)
