#!/usr/bin/env python3
"""Outputs are as they were kept: standard output, errors, exit status and files of every call.

Call: same.py BUILD PROJECT [keep]

RMG_TEST_GROUPS="3 17" makes the calls of these groups only, counted from 0.

`calls` has a call a line ("~" before it: a long one, made with RMG_TEST_ALL=1 only); a line "= FILE: {...}" makes a fault file of one fault first, and
"@ COMMAND" is a command of the shell that makes other files. What they
gave stands in `kept.txt`; "keep" writes it anew. Times are cut out. JSON is compared by value:
fields that were added since are named in ADDED, everything else must be equal. Pictures are
compared by their bytes where cairo and the fonts are those they were kept with."""
import concurrent.futures
import difflib
import hashlib
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))
ALL = bool(os.environ.get("RMG_TEST_ALL")) or sys.argv[3:] == ["keep"]
KEPT = os.path.join(HERE, "kept.txt")
# fields of JSON results that did not exist when the outputs were kept
ADDED = set()
CUT = [
    (re.compile(r'(seconds_wall": ?)[0-9.e+-]+'), r"\g<1>0"),
    (re.compile(r"20[2-9]\d-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d)?Z?)?"), "-"),
    (re.compile(r"(accesses in )[0-9.]+ \w+"), r"\g<1>-"),
]


def read_calls():
    """[(fault file or None, fault, [call, ...])]: calls of one group follow each other."""
    groups = [(None, None, [])]
    for line in open(os.path.join(HERE, "calls"), encoding="utf-8"):
        line = line.rstrip("\n")
        if not line or line.startswith("#"):
            continue
        if line.startswith("= "):
            name, fault = line[2:].split(": ", 1)
            groups.append((name, fault, []))
        elif line == "--":
            groups.append((None, None, []))
        else:
            groups[-1][2].append(line)
    return [g for g in groups if g[2]]


def machine(build):
    """What pictures depend on besides this project."""
    said = subprocess.run("pkg-config --modversion cairo freetype2 fontconfig; fc-match monospace file; "
                          "fc-match sans file", shell=True, capture_output=True, text=True).stdout
    return hashlib.sha256(said.encode()).hexdigest()[:16]


def text_of(data):
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        return "sha256 " + hashlib.sha256(data).hexdigest() + "\n"
    for pattern, to in CUT:
        text = pattern.sub(to, text)
    return text


def run_text(data):
    """A run file without what the clock on the wall said."""
    run = json.loads(data)
    run["seconds_wall"] = 0
    for part in [run, *run.values()]:
        passes = part.get("passes") if isinstance(part, dict) else None
        for one in passes if isinstance(passes, list) else []:
            one[5] = 0
    return json.dumps(run)


def run_group(group, build, project):
    name, fault, calls = group
    results = []
    if None in calls:
        return [(None, None)] * len(calls)
    with tempfile.TemporaryDirectory() as room:
        os.symlink(os.path.join(project, "demo"), os.path.join(room, "demo"))
        shutil.copy(os.path.join(HERE, "..", "..", "LICENSE"), os.path.join(room, "LICENSE"))
        os.mkdir(os.path.join(room, "out"))
        if name:
            with open(os.path.join(room, name), "w", encoding="utf-8") as f:
                f.write("faults: [" + fault + "]\n")
        path = build + ":" + os.environ["PATH"]
        before = {}
        for call in calls:
            if call.startswith("@ "):
                subprocess.run(["sh", "-c", call[2:]], cwd=room, check=True, env=dict(os.environ, PATH=path))
                continue
            if call.startswith("~"):
                call = call[1:]
                if not ALL:
                    results.append((None, None))
                    continue
            start = time.monotonic()
            done = subprocess.run(["sh", "-c", "rimeglass " + call], cwd=room, stdin=subprocess.DEVNULL,
                                  capture_output=True, env=dict(os.environ, PATH=path), timeout=300)
            if os.environ.get("RMG_TEST_TIMES"):
                print("%6.2f s  %s: %s" % (time.monotonic() - start, name, call), file=sys.stderr)
            parts = ["status %d\n" % done.returncode, "out\n" + text_of(done.stdout),
                     "err\n" + text_of(done.stderr)]
            for file in sorted(os.listdir(os.path.join(room, "out"))):
                data = open(os.path.join(room, "out", file), "rb").read()
                if before.get(file) == data:
                    continue
                before[file] = data
                if file.endswith(".job"):
                    parts.append("file %s\n" % file)
                elif file.endswith(".run"):
                    parts.append("run %s %s\n" % (file, hashlib.sha256(text_of(run_text(data).encode()).encode()).hexdigest()))
                elif file.endswith((".png", ".svg")):
                    parts.append("picture %s %s\n" % (file, hashlib.sha256(data).hexdigest()))
                else:
                    parts.append("file %s\n%s" % (file, text_of(data)))
            title = (name + ": " + fault + "\n" if name else "") + call
            results.append((title, parts))
    return results


def without_added(value, known):
    """`value` without fields that were added since, where the kept one does not have them."""
    if isinstance(value, dict) and isinstance(known, dict):
        return {k: without_added(v, known.get(k)) for k, v in value.items()
                if k in known or k not in ADDED}
    if isinstance(value, list) and isinstance(known, list) and len(value) == len(known):
        return [without_added(v, k) for v, k in zip(value, known)]
    return value


def json_in(part):
    head, _, body = part.partition("\n")
    if not body.startswith("{"):
        return None
    try:
        return head, json.loads(body)
    except ValueError:
        return None


def equal(kept, now, same_machine):
    if kept == now:
        return True
    if kept.startswith("picture ") and now.startswith("picture "):
        return not same_machine and kept.split()[1] == now.split()[1]
    a, b = json_in(kept), json_in(now)
    if a and b and a[0] == b[0]:
        return a[1] == without_added(b[1], a[1])
    return False


SPLIT = "\n%%%%%%%% call\n"
PART = "\n%%%% "


def main():
    build, project = map(os.path.abspath, sys.argv[1:3])
    keep = sys.argv[3:] == ["keep"]
    groups = read_calls()
    only = os.environ.get("RMG_TEST_GROUPS")
    if only and not keep:
        only = set(map(int, only.split()))
        groups = [g if i in only else (g[0], g[1], [None for call in g[2] if not call.startswith("@ ")])
                  for i, g in enumerate(groups)]
    with concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        results = [r for rs in pool.map(lambda g: run_group(g, build, project), groups) for r in rs]
    if keep:
        with open(KEPT, "w", encoding="utf-8") as f:
            f.write(machine(build))
            for title, parts in results:
                f.write(SPLIT + title + "".join(PART + p for p in parts))
        print("same: %d calls kept" % len(results))
        return 0
    with open(KEPT, encoding="utf-8") as f:
        kept_machine, *kept = f.read().split(SPLIT)
    same_machine = kept_machine == machine(build)
    wrong = made = 0
    if len(kept) != len(results):
        print("same: %d calls kept, %d made" % (len(kept), len(results)))
        wrong += 1
    for before, (title, parts) in zip(kept, results):
        if title is None:
            continue
        made += 1
        old_title, *old = before.split(PART)
        pieces = [(o, n) for o, n in zip(old, parts)]
        if old_title != title or len(old) != len(parts):
            pieces = [(before, title + "".join(PART + p for p in parts))]
        for o, n in pieces:
            if equal(o, n, same_machine):
                continue
            wrong += 1
            print("same: differs: rimeglass %s" % title)
            for line in list(difflib.unified_diff(o.splitlines(), n.splitlines(), "kept", "now",
                                                  lineterm="", n=1))[:40]:
                print("    " + line[:300])
    print("same: %d calls of %d, %d differences%s" % (made, len(results), wrong,
          "" if same_machine else " (pictures not compared: other cairo or fonts)"))
    return wrong != 0


sys.exit(main())
