"""Timing a call and telling a figure, for all measurements."""

import statistics
import time


def timed(act, times):
    """Median seconds of one call."""
    spans = []
    for _ in range(times):
        begin = time.perf_counter()
        act()
        spans.append(time.perf_counter() - begin)
    return statistics.median(spans)


def timed_pair(one, other, times):
    """Median seconds of each, taken in turns, so that a drift of the machine falls on both."""
    spans = [(timed(one, 1), timed(other, 1)) for _ in range(times)]
    return tuple(statistics.median(each) for each in zip(*spans, strict=True))


def tell(what, ours, bare, unit="ms"):
    scale = 1000 if unit == "ms" else 1
    print(
        f"{what:44} {ours * scale:9.2f} {unit}   bare {bare * scale:9.2f} {unit}   ratio {ours / bare:5.2f}", flush=True
    )
