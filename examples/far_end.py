#!/usr/bin/env python3
"""The smallest far end that does (docs/link.md): 1 KiB of memory, lines without a check.

    rimeglass test demo/boards/lampdriver.yaml --on link:run:examples/far_end.py

In place of the list stands whatever reads and writes your memory. "stuck" as an argument: D5 reads 1."""
import sys

memory = [0] * 0x400
stuck = 0x20 if "stuck" in sys.argv else 0
greeted = False
latest = ""
for line in sys.stdin:
    number, _, request = line.split("*")[0].strip().partition(" ")
    words = request.split() or [""]
    if words[0] != "hello" and latest.startswith(number + " "):
        print(latest, flush=True)  # asked for again: not carried out twice
        continue
    answer = "no intent"
    if words[0] == "hello":
        greeted, answer = True, "ok link=1 word=FF last=3FF name=list"
    elif not greeted:
        answer = "no hello"
    elif words[0] == "read" and len(words) == 2:
        answer = f"ok {memory[int(words[1], 16)] | stuck:02X}"
    elif words[0] == "write" and len(words) == 3:
        memory[int(words[1], 16)] = int(words[2], 16)
        answer = "ok"
    latest = f"{number} {answer}"
    print(latest, flush=True)
