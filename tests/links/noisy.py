#!/usr/bin/env python3
"""A bad cable: runs a program and passes its bytes on, both ways, but loses, doubles or changes one in
N of them; or, after so many, is cut, or has something else at its end.

Usage: noisy.py SEED ONE-IN [CUT-AFTER [HOW]] -- COMMAND...
  HOW   cut        nothing comes any more, and the end is told (the standard)
        mute       nothing comes any more
        forever    letters without end
        nonsense   lines that answer nothing
        megabyte   a megabyte in one line, then nothing
        again      the last line, again and again"""
import os
import random
import subprocess
import sys
import threading
import time

split = sys.argv.index("--")
seed, one_in, cut = (list(map(int, sys.argv[1:split][:3])) + [0])[:3]
how = (sys.argv[1:split] + ["cut"])[3] if split > 4 else "cut"
child = subprocess.Popen(sys.argv[split + 1:], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
passed = 0
latest = bytearray()


def misbehave():
    child.kill()
    try:
        while how == "forever":
            os.write(1, b"xyz" * 99)
        while how == "nonsense":
            os.write(1, b"Ready.\r\n")
            time.sleep(0.001)
        while how == "again":
            os.write(1, (bytes(latest).splitlines(keepends=True) or [b"\n"])[-1])
            time.sleep(0.001)
        if how == "megabyte":
            for _ in range(1 << 10):
                os.write(1, b"A" * 1024)
        if how != "cut":
            time.sleep(60)
    except OSError:  # nobody listens any more
        pass
    os._exit(0)


def carry(source, sink, dice):
    global passed
    while data := os.read(source, 4096):
        out = bytearray()
        for byte in data:
            passed += 1
            if cut and passed > cut:
                misbehave()
            kind = dice.randrange(3) if one_in and dice.randrange(one_in) == 0 else 3
            if kind == 1:
                out += bytes((byte, byte))
            elif kind == 2:
                out.append(byte ^ 1 << dice.randrange(8))
            elif kind == 3:
                out.append(byte)
        if sink == 1:
            latest.extend(out)
            del latest[:-400]
        os.write(sink, out)
    os._exit(0)


threading.Thread(target=carry, args=(0, child.stdin.fileno(), random.Random(seed)), daemon=True).start()
carry(child.stdout.fileno(), 1, random.Random(seed + 1))
