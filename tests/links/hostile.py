#!/usr/bin/env python3
"""Far ends of every way that turn bad at a random moment: they go mute, talk without end, say what answers
nothing, a megabyte, or the last line again and again. The call ends soon, says that it is not complete, and
is sure of nothing: what is behind such an end is healthy.

Usage: hostile.py BUILD SOURCE [MOMENTS]"""
import concurrent.futures
import os
import random
import re
import sys
import time

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from common import LAMP, Bench, Failed  # noqa: E402

HOWS = ("cut", "mute", "forever", "nonsense", "megabyte", "again")
SOON = 45  # seconds, with six calls side by side on a busy machine: several waits of three seconds
SMALL = ("--march", "March C-", "--passes", "1", "--range", "0x000-0x02F")
STUB = f"{sys.executable} tests/links/stub.py"
# title, words before and after the target, kind of target, program, bytes that pass before it turns bad
WAYS = (
    ("link", ("test", LAMP), SMALL, "link:run:", f"{sys.executable} tests/links/far.py last=FFF", 2000),
    ("debug link", ("test", LAMP), SMALL, "gdb:run:", f"{STUB} gdb", 9000),
    ("prompt", ("test", LAMP), SMALL, "prompt:demo/prompts/look.yaml,run:",
     f"{sys.executable} demo/prompts/monitor.py look last=FFF", 9000),
    ("pod", ("chip", "6810", "--unchecked-pinout"), ("--passes", "3"), "link:run:", f"{STUB} pod", 900),
    ("dump", ("dump", LAMP, "U1"), ("--readings", "1", "--write", "{image}"), "link:run:",
     f"{sys.executable} tests/links/far.py last=FFF", 4000),
)
ACCUSED = ("BAD", "HALF GOOD", "NOT AS MARKED", "SHORTED", "WRONG WAY")


def turns_bad(bench, way, how, seed):
    title, before, after, kind, program, most = way
    at = random.Random(f"{title} {how} {seed}").randrange(1, most)
    image = os.path.join(bench.folder, f"{title}-{how}-{seed}.bin")
    target = f"{kind}{sys.executable} tests/links/noisy.py 1 0 {at} {how} -- {program}"
    began = time.monotonic()
    done = bench.call(*before, "--on", target, *(word.format(image=image) for word in after))
    took = time.monotonic() - began
    what = f"{title}, {how} after {at} bytes: status {done.returncode}, {took:.1f} s\n{done.stdout}\n{done.stderr}"
    if done.returncode not in (2, 3) or took > SOON:
        raise Failed(what)
    if not (done.stderr.strip() or "NOT TESTED" in done.stdout) or any(word in done.stdout for word in ACCUSED):
        raise Failed(what)
    sure = re.findall(r"^How sure: (?:more than )?(\d+) %|\((?:more than )?(\d+) %(?:\)$|;)", done.stdout, re.M)
    if any(int(a or b) >= 50 for a, b in sure):
        raise Failed("too sure: " + what)
    if os.path.exists(image):
        raise Failed("an image was written: " + what)


def healthy(bench, way):
    """The same calls are fine where nothing turns bad."""
    title, before, after, kind, program, _ = way
    bench.expect([*before, "--on", kind + program, *(w.format(image=os.path.join(bench.folder, "fine")) for w in after)], 0)


def main():
    bench = Bench(sys.argv[1])
    moments = int(sys.argv[3]) if len(sys.argv) > 3 else 2
    os.chdir(sys.argv[2])
    with concurrent.futures.ThreadPoolExecutor(6) as pool:  # much of their time is waiting
        calls = [pool.submit(healthy, bench, way) for way in WAYS]
        calls += [pool.submit(turns_bad, bench, way, how, seed) for way in WAYS for how in HOWS for seed in range(moments)]
        for done in calls:
            done.result()
    print(f"hostile: {len(WAYS)} ways, {len(HOWS)} manners, {moments} moments each: {len(calls)} calls, none accused with confidence")


if __name__ == "__main__":
    try:
        main()
    except Failed as failed:
        sys.exit(str(failed))
