#!/usr/bin/env python3
"""Boards told in prose become files through "board new" alone, and a fault drawn at random is named.

Usage: prose.py BUILD SOURCE [SEED]"""

import json
import os
import random
import re
import subprocess
import sys
import tempfile

MOST_ANSWERS = 45
FAULTS = 8  # of each board


def answers_of(text):
    """What a person who has read the text types, question by question."""
    text = " ".join(text.split())
    head = re.search(
        r"This is the ([\w ]+?), (?:revision (\w+)|and no revision[^.]*)\. Its bus has (\d+) data "
        r"bits and (\d+) address lines, and no pages\.(?: Its addresses count (\w+)\.)?", text)
    given = [head[1], head[2] or "", head[3], head[4]]
    if head[5]:
        given.append(head[5])
    given.append("no")
    for first, last, kind, name, note in re.findall(
            r"From (\w+) to (\w+) there is (\w+), called ([\w ]+?)(?: \(([^)]*)\))?\.", text):
        given.append(f"{first}-{last} {kind} {name}" + (f"; {note}" if note else ""))
    given.append("done")
    for bank in re.findall(r"The bank (\w+) is made of the part (\w+)(.*?) and answers from (\w+) to "
                           r"(\w+)(.*?)\. Its chips sit, from left to right, in ([\w -]+)"
                           r"(?:, the leftmost holding ([\w-]+))?; they are fitted by (\w+)\.", text):
        name, part, facts, first, last, where, sockets, bits, mount = bank
        given += [name, part]
        own = re.search(r"a (\w+) of (\d+) data lines?, (\d+) address lines and (\d+) row", facts)
        if own:
            given.append(" ".join(own.groups()))
        given += [f"{first}-{last}{where}", "", sockets]  # the lines as proposed
        if bits:
            given.append(bits)
        given.append(mount)
    given.append("done")
    level = re.search(r"nothing drives (?:reads (\w+)|is not known)\.", text)
    given.append(level[1] or "not known")
    return given


def write_board(tool, given, file):
    made = subprocess.run([tool, "board", "new", file], input="\n".join(given) + "\n", text=True,
                          capture_output=True, check=False)
    if made.returncode or made.stderr:
        sys.exit(f"{file}: status {made.returncode}\n{made.stderr}\n{made.stdout[-800:]}")
    if len(open(file, encoding="utf-8").readlines()) >= 60:
        sys.exit(f"{file} has 60 lines or more")
    if os.path.exists(file + ".answers"):
        sys.exit(f"{file}.answers is left behind")
    subprocess.run([tool, "board", "check", file], check=True, stdout=subprocess.DEVNULL)


def chips_of(board):
    """Sockets of RAM that a test reaches, with the data bits they hold."""
    tested = [r for r in board["regions"] if r["kind"] == "ram"]
    limits = [[int(x, 16) for x in r["range"].split("-")] for r in tested]
    chips = []
    for bank in board["banks"]:
        first = int(bank["range"].split("-")[0], 16)
        if any(low <= first <= high for low, high in limits):
            chips += [(socket, bits) for socket, bits in bank["data"].items()]
    return chips


def name_fault(tool, file, board, dice, folder):
    socket, bits = dice.choice(chips_of(board))
    kind = dice.choice(["output stuck", "cell stuck", "data pin open", "chip missing"])
    fault = f"  - {{kind: {kind}, socket: {socket}"
    if kind == "output stuck":
        fault += f", bit: D{dice.choice(bits)}, level: {dice.randrange(2)}"
    elif kind == "data pin open":
        fault += f", bit: D{dice.choice(bits)}"
    elif kind == "cell stuck":
        fault += f", bit: D{dice.choice(bits)}, cell: {dice.randrange(1024)}, level: 1"
    faults = os.path.join(folder, "fault.yaml")
    with open(faults, "w", encoding="utf-8") as out:
        out.write(f"faults:\n{fault}}}\n")
    run = subprocess.run([tool, "test", file, "--on", "sim:" + faults, "--plan", "quick", "--passes",
                          "2", "--json", "-"], text=True, capture_output=True, check=False)
    if run.returncode != 1:
        sys.exit(f"{file}, {fault}: status {run.returncode}\n{run.stderr}")
    first = json.loads(run.stdout)["suspects"][0]["site"]
    if first != socket:
        sys.exit(f"{file}, {fault}: {first} is named")


def main():
    tool = os.path.join(sys.argv[1], "rimeglass")
    texts = os.path.join(sys.argv[2], "tests", "prose")
    seed = int(sys.argv[3]) if len(sys.argv) > 3 else 18
    dice = random.Random(seed)
    with tempfile.TemporaryDirectory() as folder:
        for name in ("loom", "tower", "ferry"):
            with open(os.path.join(texts, name + ".txt"), encoding="utf-8") as text:
                given = answers_of(text.read())
            if len(given) > MOST_ANSWERS:
                sys.exit(f"{name}: {len(given)} answers")
            file = os.path.join(folder, name + ".yaml")
            write_board(tool, given, file)
            shown = subprocess.run([tool, "board", "show", file, "--json", "-"], text=True,
                                   capture_output=True, check=True)
            for _ in range(FAULTS):
                name_fault(tool, file, json.loads(shown.stdout), dice, folder)
            print(f"{name}: {len(given)} answers, {FAULTS} faults named (seed {seed})")


main()
