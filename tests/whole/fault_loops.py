#!/usr/bin/env python3
"""Every command with its N-th allocation or file call failing, once and from then on.

Usage: fault_loops.py BUILD PROJECT [every|SHARE]   (every: all N; SHARE: one N in so many)

Each call must end in one of these ways:
  same      status, output and files are those of a call in which nothing fails
  orderly   status 2 or 3, or what a fault of the memory calls for, with a message on stderr; every
            file is as it was, or whole and as it should be
  aborted   GLib ends the process where its own memory fails (in its regular expressions by signal 11);
            files as above
Anything else is wrong and is listed: another answer with status 0 or 1, a crash, a file that is
damaged, a file with another name left behind, a call that does not end.
"""
import concurrent.futures
import contextlib
import json
import os
import pathlib
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile

BUILD, PROJECT = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2])
SHARE = 1 if sys.argv[3:] == ["every"] else int(sys.argv[3]) if sys.argv[3:] else 97
TOOL = BUILD / "rimeglass"
INTERPOSE = BUILD / "tests" / "libinterpose.so"

BOARD = """board: small
word: 8
addresses: words
address-lines: 12
undriven: high
drawing: {width: 100, height: 80}
regions:
  - {name: ram, kind: ram, range: 0x000-0x0FF}
  - {name: rom, kind: rom, range: 0x800-0xFFF}
  - {name: free, kind: empty, range: 0x600-0x6FF}
banks:
  - {name: low, range: 0x000-0x3FF, part: 2114, lines: A0-A9, data: {U1: D0-D3, U2: D4-D7}}
  - {name: rom, range: 0x800-0xFFF, part: 2716, lines: A0-A10, data: {U3: D0-D7}}
sockets:
  - {names: U1-U2, mount: socket, at: [20, 20], step: [20, 0]}
  - {names: U3, mount: socket, at: [20, 50], image: rom.bin}
test-rom:
  processor: Z80
  clock: 4000000
  socket: U3
  serial: {port: 0x10, bit: 0}
  lamp: {port: 0x10, bit: 1}
"""
FAULTS = """faults:
  - {kind: output stuck, socket: U1, bit: D1, level: 0, one-in: 30}
  - {kind: cell stuck, socket: U2, bit: D5, cell: 0x21, level: 1}
"""
WHEN = r"\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d)?Z?)?"  # of the wall's clock
PLAN = "plan: own\nsteps:\n  - wiring\n  - {march: MATS++, background: random}\n  - copy\n"
PROFILE = """profile: own
lines:
  - {match: '^BAD (?<address>[0-9A-F]+) (?<wrote>[0-9A-F]+) (?<read>[0-9A-F]+)$', is: failure}
  - {match: '^PASS$', is: pass}
"""
LINES = "BAD 021 00 20\nBAD 022 FF DF\nPASS\n"
ANSWERS = """- board: Own
- revision: A
- word: 8
- address-lines: 12
- pages: "no"
- region: 0x000-0x3FF ram work
- region: done
- bank: work
- part: 2114
- range: 0x000-0x3FF
- feeds: A0-A9
- sockets: U1-U2
- bits: D0-D3 D4-D7
- mount: socket
- bank: done
- undriven: not known
"""
STOCK = json.dumps({"rimeglass_chip": 1, "part": "6810", "label": "A0", "lot": "", "when": "2026-01-02T03:04:05Z",
                    "state": "good", "good": True, "text": "all 128 words right in 1 pass", "cells": 128, "failing": 0,
                    "passes": 1, "read_1_for_0": 0, "pin": 0, "supply_mv": 5000, "holds_ms": -1, "gives_way_ms": 0,
                    "cas_ns": 0}) + "\n"
FAR_ENDS = {  # programs that a stream starts
    "far": "tests/links/far.py last=FFF stuck=20-23:4",
    "gdb": "tests/links/stub.py gdb 20-23:4",
    "look": "demo/prompts/monitor.py look last=FFF stuck=20-23:4",
    "pod": "tests/links/stub.py pod stuck=20-20:4",
}
CATALOGUE = "images:\n  - {name: other, size: 3, crc32: \"352441c2\"}\n"

# title, words, files that it writes
COMMANDS = [
    ("board check", "board check board.yaml", []),
    ("board show", "board show board.yaml --json o.json", ["o.json"]),
    ("probe", "probe board.yaml 0x10 --on sim:faults.yaml --json o.json", ["o.json"]),
    ("test", "test board.yaml --on sim:faults.yaml --plan plan.yaml --passes 3 --record o.run "
             "--json o.json", ["o.run", "o.json"]),
    ("test --picture", "test board.yaml --on sim:faults.yaml --march MATS+ --passes 1 --no-replay "
                       "--picture o.svg", ["o.svg"]),
    ("test --keep", "test board.yaml --on sim: --march MATS+ --passes 1 --keep --json o.json",
     ["o.json"]),
    ("test --resume", "test --resume old.run --passes 5 --json o.json", ["old.run", "o.json"]),
    ("test ram:", "test --on ram:64K --march MATS --passes 1 --json o.json", ["o.json"]),
    ("diagnose", "diagnose old.run --json o.json", ["o.json"]),
    ("explain", "explain MATS+ --json o.json", ["o.json"]),
    ("shortest", "explain --shortest SAF --write o.yaml", ["o.yaml"]),
    ("plan-for",
     "explain --plan-for 1s --access-us 700 --board board.yaml --write o.yaml", ["o.yaml"]),
    ("dump", "dump board.yaml U3 --on sim: --write o.bin --json o.json", ["o.bin", "o.json"]),
    ("verify", "verify board.yaml U3 --on sim: --json o.json", ["o.json"]),
    ("test link:", "test board.yaml --on link:run:./far --march MATS --passes 1 --json o.json", ["o.json"]),
    ("test gdb:", "test board.yaml --on gdb:run:./gdb --march MATS --passes 1 --json o.json", ["o.json"]),
    ("test prompt:", "test board.yaml --on prompt:look.yaml,run:./look --range 0x20-0x2F --march MATS --passes 1 "
                     "--json o.json", ["o.json"]),
    ("chip", "chip 6810 --unchecked-pinout --on link:run:./pod --march MATS --passes 1 --label A1 "
             "--stock old.stock --json o.json", ["old.stock", "o.json"]),
    ("chip stock", "chip stock old.stock --best 1", []),
    ("chip grades", "chip grades old.run", []),
    ("part fits", "part fits board.yaml U3 2732", []),
    ("testrom", "testrom board.yaml --write o.bin --profile o.yaml --json o.json", ["o.bin", "o.yaml", "o.json"]),
    ("board new", "board new o.yaml --answers answers.yaml --defaults", ["o.yaml"]),
    ("log", "log board.yaml lines.txt --profile profile.yaml --json o.json", ["o.json"]),
    ("job new", "job new o.job board.yaml --owner me --symptom wrong", ["o.job"]),
    ("job changed", "job changed old.job swap U1 U2", ["old.job"]),
    ("job show", "job show old.job --json o.json", ["o.json"]),
    ("job report", "job report old.job --html o.html", ["o.html"]),
    ("log --blinks", "log board.yaml --blinks good --json o.json", ["o.json"]),
    ("identify", "identify rom.bin --catalogue cat.yaml --json o.json", ["o.json"]),
    ("identify --add", "identify rom.bin --catalogue cat.yaml --add --name new", ["cat.yaml"]),
    ("image", "image rom.bin --repeat 4K --as intel --write o.hex --json o.json",
     ["o.hex", "o.json"]),
    ("image --split", "image rom.bin --split o.even,o.odd", ["o.even", "o.odd"]),
]


def prepare(folder):
    (folder / "board.yaml").write_text(BOARD)
    (folder / "faults.yaml").write_text(FAULTS)
    (folder / "plan.yaml").write_text(PLAN)
    (folder / "cat.yaml").write_text(CATALOGUE)
    (folder / "profile.yaml").write_text(PROFILE)
    (folder / "lines.txt").write_text(LINES)
    (folder / "answers.yaml").write_text(ANSWERS)
    (folder / "old.stock").write_text(STOCK)
    shutil.copy(PROJECT / "demo/prompts/look.yaml", folder)
    for name, words in FAR_ENDS.items():
        (folder / name).write_text(f"#!/bin/sh\nexec {sys.executable} {PROJECT.resolve()}/{words}\n")
        (folder / name).chmod(0o755)
    (folder / "rom.bin").write_bytes(bytes((i * 7 + i // 13) % 256 for i in range(2048)))


def call(folder, words, kind=None, at=0, on=False):
    environment = {k: v for k, v in os.environ.items() if not k.startswith("RMG_")}
    environment.update(LC_ALL="C.UTF-8")
    if kind:
        environment.update(LD_PRELOAD=str(INTERPOSE), RMG_FAIL_KIND=kind, RMG_FAIL_AT=str(at))
        if on:
            environment["RMG_FAIL_ON"] = "1"
        if not at:
            environment["RMG_FAIL_COUNT"] = str(folder.parent / (folder.name + ".count"))
    try:
        return subprocess.run([str(TOOL)] + words.split(), cwd=folder, env=environment, timeout=30,
                              capture_output=True)
    except subprocess.TimeoutExpired:
        return None



def content(path):
    """What a file holds, without times of the wall's clock."""
    if path.suffix == ".job":
        with contextlib.closing(sqlite3.connect(path)) as job:
            return re.sub(WHEN, "", "\n".join(job.iterdump())).encode()
    data = path.read_bytes()
    if path.suffix == ".html":
        # its pictures may be in letters of another font
        return re.sub(WHEN.encode(), b"", re.sub(rb"(?s)<svg.*?</svg>", b"", data))
    if path.suffix == ".run":
        run = json.loads(data)
        results = dict(run.get("latest") or run["boundary"])
        results.pop("seconds_wall")
        results["passes"] = [p[:5] + p[6:] for p in results["passes"]]
        return json.dumps([run["complete"], results], sort_keys=True).encode()
    if path.suffix == ".stock":
        return re.sub(WHEN.encode(), b"", data)
    if path.suffix in (".json", ".svg", ".png"):
        data = re.sub(rb'"when":"[^"]*"', b"", data)
        data = re.sub(rb"about \d+ (single )?accesses a second", b"", data)
        return re.sub(rb'"[a-z_]*seconds_wall": *[-0-9.e]+', b"", data)
    return data


def whole(path):
    """A run file at another pass of the same run; a picture, in letters of another font."""
    if path.suffix in (".svg", ".png"):
        data = path.read_bytes()
        return data.endswith(b"</svg>\n") or data[-8:-4] == b"IEND"
    if path.suffix == ".stock":  # a chip that was not tested is in it too, and as such
        lines = [json.loads(line) for line in path.read_text().splitlines()]
        return len(lines) == 2 and lines[0] == json.loads(STOCK) and lines[1]["state"] == "stopped" \
            and lines[1]["good"] is False
    if path.suffix != ".run":
        return False
    try:
        run = json.loads(path.read_bytes())
        return isinstance(run["boundary"], (dict, type(None))) and run["rimeglass_run"] == 3
    except (ValueError, KeyError):
        return False


def plain(output):
    """Without what was measured of this machine, and where lines were broken for it."""
    output = re.sub(rb"\s+", b" ", output)
    return re.sub(rb"[0-9.]+ s\b|about \d+ (single )?accesses a second", b"", output)


class Loop:
    def __init__(self, top, title, words, writes):
        self.title, self.words, self.writes = title, words, writes
        self.top = top
        self.start = top / (re.sub(r"\W+", "_", title) + "-start")
        self.start.mkdir()
        prepare(self.start)
        if "old.run" in words:
            call(self.start, "test board.yaml --on sim:faults.yaml --march MATS+ --passes 3 "
                             "--record old.run")
        if "old.job" in words:
            call(self.start, "job new old.job board.yaml --owner me")
            call(self.start, "test board.yaml --on sim:faults.yaml --march MATS+ --passes 1 --job old.job")
        self.before = {f: content(self.start / f) if (self.start / f).exists() else None
                       for f in writes}
        good = self.fresh("good")
        self.clean = call(good, words)
        self.after = {f: content(good / f) for f in writes}
        self.names = set(os.listdir(good))

    def fresh(self, name):
        folder = self.top / (self.start.name + "-" + name)
        shutil.copytree(self.start, folder)
        return folder

    def count(self, kind):
        folder = self.fresh("count-" + kind)
        call(folder, self.words, kind)
        number = int((self.top / (folder.name + ".count")).read_text())
        shutil.rmtree(folder)
        return number

    def judge(self, folder, done, kind):
        """'same', 'orderly', 'aborted', or what is wrong."""
        if done is None:
            return "does not end within 30 s"
        strangers = {n for n in os.listdir(folder) if n not in self.names and not n.endswith(".unfinished")}
        if strangers:
            return f"left behind: {', '.join(sorted(strangers))}"
        for f in self.writes:
            path = folder / f
            if not path.exists():
                if self.before[f] is not None:
                    return f"{f} is gone"
                continue
            try:
                now = content(path)
            except (ValueError, KeyError) as error:
                return f"{f} is damaged: {error}"
            if now not in (self.before[f], self.after[f]) and not whole(path):
                if done.returncode not in (2, 3) and done.returncode >= 0:
                    return f"{f} is another one, status {done.returncode}"
                if path.suffix != ".json":
                    return f"{f} is neither the old nor the new one"
                result = json.loads(path.read_bytes())
                if done.returncode == 3 and result.get("complete", result.get("state") != "stopped") is not False:
                    return f"{f} says complete, status 3"
        if done.returncode < 0:
            if done.returncode in (-signal.SIGABRT, -signal.SIGTRAP) or \
                    kind == "memory" and done.returncode == -signal.SIGSEGV and re.search("prompt:|--profile", self.words):
                return "aborted"
            return f"ended by signal {-done.returncode}: {done.stderr[-200:]}"
        if done.returncode == self.clean.returncode:
            missing = [f for f in self.writes if not (folder / f).exists()
                       or (content(folder / f) != self.after[f] and not whole(folder / f))]
            if missing:
                return f"status {done.returncode}, but not written: {', '.join(missing)}"
            if plain(done.stdout) != plain(self.clean.stdout):
                return f"another answer with status {done.returncode}: {done.stderr[-200:]}"
            return "same"
        if done.returncode in (2, 3):
            said = done.stderr.strip() or b"NOT TESTED" in done.stdout  # a verdict says why by itself
            return "orderly" if said else f"status {done.returncode}, no message"
        return f"status {done.returncode} for {self.clean.returncode}: {done.stderr[-200:]}"

    def once(self, kind, at, on):
        folder = self.fresh(f"{kind}-{at}-{int(on)}")
        result = self.judge(folder, call(folder, self.words, kind, at, on), kind)
        shutil.rmtree(folder)
        return result

    def run(self, pool, kind):
        number = self.count(kind)
        share = SHARE if kind == "memory" else max(1, SHARE // 8)
        jobs = {}
        for on in (False, True):
            step = share
            if "--html" in self.words or on and "--picture" in self.words:  # each can take as long as drawing may: a few
                step = max(share, number // 6)
            if "run:" in self.words:  # a way that is lost is waited for
                step = max(share, number // (4 if "prompt:" in self.words else 8))
            for at in range(1 + (len(self.title) * 7) % share, number + 1, step):
                jobs[(at, on)] = pool.submit(self.once, kind, at, on)
        tally, wrong = {"same": 0, "orderly": 0, "aborted": 0}, []
        for (at, on), job in jobs.items():
            result = job.result()
            if result in tally:
                tally[result] += 1
            else:
                wrong.append(f"{kind} call {at}{' and on' if on else ''}: {result}")
        print(f"{self.title:15} {kind:7} {number:7} {len(jobs):6} {tally['same']:6} "
              f"{tally['orderly']:8} {tally['aborted']:8} {len(wrong):6}", flush=True)
        for line in wrong[:20]:
            print(f"    {line}", flush=True)
        return len(wrong)


def main():
    only = os.environ.get("RMG_FAULT_COMMAND")
    kinds = os.environ.get("RMG_FAULT_KIND", "memory file").split()
    wrong = 0
    print("command         fails     calls  tried   same  orderly  aborted  wrong")
    with tempfile.TemporaryDirectory() as top, \
            concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        for title, words, writes in COMMANDS:
            if only and title != only:
                continue
            loop = Loop(pathlib.Path(top), title, words, writes)
            for kind in kinds:
                wrong += loop.run(pool, kind)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
