#!/usr/bin/env python3
"""Calls of the tool drawn at random: options of each command's own help, in any number and order, with
values that fit, hardly fit or do not. Whatever the call is, it ends with a status from 0 to 3 and within
its time; 2 says what was wrong on standard error; nothing crashes; and no file that it was given to read
is changed.

Usage: random_calls.py BUILD PROJECT [COUNT [SEED]]"""
import collections
import concurrent.futures
import hashlib
import os
import pathlib
import random
import re
import shutil
import subprocess
import sys
import tempfile

BUILD, PROJECT = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2]).resolve()
COUNT, SEED = (int(w) for w in (sys.argv[3:] + ["300", "1"][len(sys.argv) - 3:])[:2])
TOOL = BUILD / "rimeglass"
SECONDS = 60
STATUSES = collections.Counter()
BOARD = "demo/boards/lampdriver.yaml"
BOARDS = [BOARD, "demo/boards/halvorn64.yaml", "demo/shapes/paged.yaml", "demo/shapes/interleaved.yaml", "none.yaml",
          "demo/catalogue.yaml"]
FAULTS = ["sim:", "sim:demo/faults/halvorn64-u19.yaml", "sim:demo/faults/halvorn64-contact.yaml", "sim:none.yaml", "sim",
          "link:run:true", "gdb:run:false", "prompt:demo/prompts/look.yaml,run:true", "ram:64K", "usb:1", ""]
IMAGES = ["demo/images/gauge.hex", "demo/images/halvorn64-system-2.1.bin", "demo/images/halvorn64-characters-1.bin",
          "none.bin", "."]
WORDS = ["U1", "U19", "U2", "lower", "upper", "lamp", "D0", "D7", "A5", "all", "", "é", "0", "-1", "x" * 300, "%s%n", "--", ";"]
NUMBERS = ["1", "2", "0", "3", "7", "60", "-1", "0x10", "10h", "$10", "08", "99999999999999999999", "1e9", "nan", "1.5", ""]
TIMES = ["1s", "90s", "0s", "1m", "5x", "-1s", "s", "1h2"]
RANGES = ["0x0-0xFF", "0x000-0x3FF", "0x3FF-0x0", "0-0", "0x8000-0x8FFF", "0-", "a-b", "0x0-0xFFFFFFFFFFFFFFFF"]
BY_VALUE = {  # placeholder of the help: what to draw from
    "FILE": ["out.json", "out.png", "out.svg", "out.pdf", "out.bin", "out.hex", "out.yaml", "-", "missing/out.json", "/dev/null"],
    "TARGET": FAULTS, "BOARD": BOARDS, "OTHER": BOARDS, "TIME": TIMES, "N": NUMBERS, "FIRST-LAST": RANGES, "SIZE": ["4K", "16384", "0", "1G", "x"],
    "MARCH": ["MATS+", "March C-", "any(w0); up(r0,w1)", "up(", "none"], "NAME|TEXT": ["MATS+", "any(w0); up(r0)", "w0", ""],
    "NAME|FILE": ["quick", "full", "deep", "demo/plans/noisy.yaml", "none", BOARD], "RUN": ["u19.run", "none.run", BOARD],
    "CLASSES": ["SAF", "SAF,TF", "none", "static", ","], "FORM": ["raw", "intel", "motorola", "8x8", "8x10/16", "0x0", "99x1"],
    "NUMBER": NUMBERS, "RATE": ["300", "9600", "19200", "50", "x"], "US": ["1", "0.5", "0", "-1", "x"],
    "WHAT": ["clock=1000000", "supply=4750,temperature=31", "noise", "ones", "bits", "difference", "word", "x=1", ""],
    "LIST": ["rows", "noisy-lines,rows", "x"], "PART": ["4116", "6116", "27128", "none"], "KIND": ["dram", "sram", "rom", "x"],
    "ADDRESS": ["0x100", "0x9C40", "$100", "0xFFFFFFFF", "-1", "x"], "BYTE": ["0xFF", "0", "256"], "COUNTS": ["3 1", "good", "0 0", "x"],
    "MASK": ["0x01", "0x80", "0x100", "x"],
}
FIRST = {  # the words of a command itself
    "board": [["show", "check"], BOARDS], "probe": [BOARDS, ["0x100", "0x3FF", "lamp", "x"], ["0=0", "255=127", "0=", ""]], "test": [BOARDS],
    "diagnose": [["u19.run", "none.run", BOARD]], "job": [["show", "changed", "saw", "note", "undo", "measured", "report"], ["a.job", "none.job"],
                                                       ["swap U2 U3", "starts", "x", "U2 whole"]],
    "log": [["demo/boards/halvorn64.yaml"] + BOARDS, ["demo/logs/columns.txt", "none.txt"]], "testrom": [BOARDS], "explain": [["March C-", "full", "any(w0); up(r0)", "x", ""]],
    "dump": [BOARDS, WORDS], "verify": [BOARDS, WORDS, IMAGES], "identify": [IMAGES], "image": [IMAGES],
    "part": [["list", "show", "find", "fits"], ["4116", BOARD, "x"], ["U1", "U2"], ["2114", "x"]],
    "chip": [["stock", "6810", "4164", "x"], ["a.stock", "none.stock"]],
}


def options_of(command):
    """[(--name, placeholder or "")] of the help."""
    text = subprocess.run([TOOL, command, "--help"], capture_output=True, text=True, check=True).stdout
    return re.findall(r"^  (--[a-z-]+)(?:=(\S+))?  ", text, re.M)


def pick(dice, choices):
    """Mostly one of the first two, which are right somewhere."""
    return dice.choice(choices[:2] if dice.random() < 0.8 else choices)


def draw(dice, command, options):
    words = [command]
    for choices in FIRST[command]:
        if dice.random() < 0.97:
            words.append(pick(dice, choices))
    for name, value in dice.choices(options, k=dice.choice((0, 1, 1, 2, 2, 3, 5))):
        drawn = pick(dice, BY_VALUE.get(value, WORDS)) if dice.random() < 0.95 else dice.choice(WORDS + NUMBERS)
        words += [f"{name}={drawn}" if value else name]
    if command == "log" and dice.random() < 0.8:
        words += ["--profile", "demo/profiles/columns.yaml"]
    if command in ("test", "dump", "verify") and dice.random() < 0.8:
        words += ["--on", pick(dice, FAULTS), *(["--passes", "1"] if command == "test" else ["--readings", "1"])]
    return words


def sums(folder):
    return {str(p): hashlib.sha256(p.read_bytes()).hexdigest() for p in sorted(folder.rglob("*")) if p.is_file()}


def one(number, options, start):
    dice = random.Random(f"{SEED} {number}")
    command = dice.choice(sorted(FIRST))
    words = draw(dice, command, options[command])
    folder = pathlib.Path(tempfile.mkdtemp(dir=start.parent))
    shutil.copytree(start, folder, dirs_exist_ok=True, symlinks=True)
    try:
        done = subprocess.run([str(TOOL), *words], cwd=folder, capture_output=True, timeout=SECONDS, stdin=subprocess.DEVNULL,
                              env={**os.environ, "LC_ALL": "C.UTF-8", "ASAN_OPTIONS": "exitcode=99", "UBSAN_OPTIONS": "halt_on_error=1:exitcode=99",
                                   "LSAN_OPTIONS": f"exitcode=99:print_suppressions=0:suppressions={PROJECT}/tests/whole/kept.supp"})
        STATUSES[done.returncode] += 1
        wrong = done.returncode not in (0, 1, 2, 3) or (done.returncode == 2 and not done.stderr.strip())
        if sums(PROJECT / "demo") != DEMO:
            return f"{words}: a file of the demo was changed"
        return f"{words}: status {done.returncode}: {done.stderr[-900:].decode(errors='replace')}" if wrong else ""
    except subprocess.TimeoutExpired:
        return f"{words}: not ended after {SECONDS} s"
    except ValueError as error:  # a NUL in a word
        return f"{words}: {error}"
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def main():
    global DEMO
    DEMO = sums(PROJECT / "demo")
    options = {command: options_of(command) for command in FIRST}
    wrong = []
    with tempfile.TemporaryDirectory() as top, concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        start = pathlib.Path(top) / "start"
        start.mkdir()
        os.symlink(PROJECT / "demo", start / "demo")
        for words in (["test", "demo/boards/halvorn64.yaml", "--on", "sim:demo/faults/halvorn64-u19.yaml", "--record", "u19.run"],
                      ["job", "new", "a.job", BOARD]):
            subprocess.run([str(TOOL), *words], cwd=start, capture_output=True, check=False)
        for result in pool.map(lambda n: one(n, options, start), range(COUNT)):
            if result:
                wrong.append(result)
                print(result, flush=True)
    accepted = sum(count for status, count in STATUSES.items() if status != 2)
    print(f"random calls: {COUNT}, seed {SEED}, {accepted} of them not refused: {len(wrong)} wrong")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
