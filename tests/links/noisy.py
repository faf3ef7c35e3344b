#!/usr/bin/env python3
"""A bad cable: runs a program and passes its bytes on, both ways, but loses, doubles or changes one in
N of them; or cuts off after so many.

Usage: noisy.py SEED ONE-IN [CUT-AFTER] -- COMMAND..."""
import os
import random
import subprocess
import sys
import threading

split = sys.argv.index("--")
seed, one_in, cut = (list(map(int, sys.argv[1:split])) + [0])[:3]
child = subprocess.Popen(sys.argv[split + 1:], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
passed = 0


def carry(source, sink, dice):
    global passed
    while data := os.read(source, 4096):
        out = bytearray()
        for byte in data:
            passed += 1
            if cut and passed > cut:
                child.kill()
                os._exit(0)
            kind = dice.randrange(3) if one_in and dice.randrange(one_in) == 0 else 3
            if kind == 1:
                out += bytes((byte, byte))
            elif kind == 2:
                out.append(byte ^ 1 << dice.randrange(8))
            elif kind == 3:
                out.append(byte)
        os.write(sink, out)
    os._exit(0)


threading.Thread(target=carry, args=(0, child.stdin.fileno(), random.Random(seed)), daemon=True).start()
carry(child.stdout.fileno(), 1, random.Random(seed + 1))
