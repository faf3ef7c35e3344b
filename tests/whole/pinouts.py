#!/usr/bin/env python3
"""The table of parts against drawing libraries that others made.

Call: pinouts.py BUILD PROJECT [DRAWINGS]

Each row of host/part/checked.h names a symbol of the KiCad libraries or of Lepton EDA (unpacked
below DRAWINGS). Its pins are held against those that "rimeglass part list --json" prints: same
number, same meaning. A symbol may leave supplies out, and number its data lines from 1; a part for
which there is a symbol that is not named is no fault. Whatever differs is printed; status 1."""
import json
import os
import re
import subprocess
import sys

KICAD = "/usr/share/kicad/symbols/Memory_%s.kicad_sym"


def read_list(text):
    """A KiCad file: nested lists of words."""
    stack = [[]]
    for word in re.finditer(r'"((?:\\.|[^"\\])*)"|[()]|[^\s()"]+', text):
        if word.group(0) == "(":
            stack.append([])
        elif word.group(0) == ")":
            done = stack.pop()
            stack[-1].append(done)
        else:
            stack[-1].append(word.group(1) if word.group(1) is not None else word.group(0))
    return stack[0][0]


def of(items, name):
    return [i for i in items if isinstance(i, list) and i and i[0] == name]


def kicad(library, name):
    symbols = {s[1]: s for s in of(read_list(open(KICAD % library, encoding="utf-8").read()), "symbol")}
    found = symbols[name]
    while of(found, "extends"):
        found = symbols[of(found, "extends")[0][1]]
    pins = {}
    for part in [found] + of(found, "symbol"):
        for pin in of(part, "pin"):
            pins[int(of(pin, "number")[0][1])] = of(pin, "name")[0][1]
    return pins


def lepton(folder, name):
    for below in ("memory", "74"):
        file = os.path.join(folder, "usr/share/lepton-eda/sym", below, name + ".sym")
        if os.path.exists(file):
            text = open(file, encoding="utf-8", errors="replace").read()
            numbers = re.findall(r"^pinnumber=(\d+)$", text, re.M)
            labels = re.findall(r"^pinlabel=(.*)$", text, re.M)
            assert len(numbers) == len(labels), file
            return {int(n): l for n, l in zip(numbers, labels)}
    raise FileNotFoundError(name)


def meaning(name):
    """What a library means with a pin's name: a role and, of address and data lines, a number."""
    name = re.sub(r"[~{}\\_#]|/VPP$|/Vpp$", "", name).upper()
    for pattern, role in ((r"A(\d+)$", "address"), (r"(?:DI|DO|DQ|I/O|IO|D|O|Q)(\d+)$", "data"),
                          (r"(?:DIN|DOUT|D|Q)$", "data"), (r"(?:NC|-)?$", "not connected"),
                          (r"(?:VCC|VDD|GND|VSS|VBB)$", "supply"), (r"(?:WE|W)$", "write"),
                          (r"(?:VPP|PGM)$", "program"), (r"RAS$", "row strobe"),
                          (r"CAS$", "column strobe"), (r"(?:CE|CS|E|S)\d?$", "select"),
                          (r"(?:OE|G)$", "output enable")):
        found = re.match(pattern, name)
        if found:
            return role, int(found.group(1)) if found.groups() and found.group(1) else None
    return name, None


def alike(ours, theirs, part):
    """May these be the same pin? PGM of a flash chip is its write pin; G of a PROM selects it."""
    if ours == theirs:
        return True
    pair = {ours, theirs}
    return pair in ({"write", "program"}, {"select", "output enable"}) and part["kind"] == "rom" or \
        pair == {"select", "output enable"} and part["number"].startswith("74")


def held(part, theirs):
    wrong, order = [], {}
    for pin in part["pins"]:
        name = theirs.get(pin["pin"])
        if name is None:
            if pin["role"] not in ("supply", "not connected"):
                wrong.append("pin %d, %s, is not there" % (pin["pin"], pin["name"]))
            continue
        role, number = meaning(name)
        if not alike(pin["role"], role, part):
            wrong.append("pin %d is %s, there %s" % (pin["pin"], pin["name"], name))
        elif role == "address" and "A%d" % number != pin["name"]:
            wrong.append("pin %d is %s, there %s" % (pin["pin"], pin["name"], name))
        elif role == "data" and number is not None:
            order[pin["pin"]] = (int(re.sub(r"\D", "", pin["name"])), number)
    # data lines: the same number, or all counted from one more
    shifts = {ours - there for ours, there in order.values()}
    if len(shifts) > 1:
        wrong.append("data lines: %s" % sorted(order.items()))
    for number in theirs:
        if number > len(part["pins"]):
            wrong.append("there is a pin %d" % number)
    return wrong


def main():
    build, project = sys.argv[1:3]
    drawings = sys.argv[3] if len(sys.argv) > 3 else "/"
    listed = json.loads(subprocess.run([os.path.join(build, "rimeglass"), "part", "list", "--json",
                                        "-"], check=True, capture_output=True).stdout)
    parts = {p["number"]: p for p in listed["parts"]}
    rows = re.findall(r'^CHECKED\("(.*)", "(.*)"\)$',
                      open(os.path.join(project, "host/part/checked.h"), encoding="utf-8").read(), re.M)
    bad = 0
    for number, where in rows:
        words = where.split()
        theirs = kicad(words[1], words[2]) if words[0] == "kicad" else lepton(drawings, words[1])
        wrong = held(parts[number], theirs)
        for line in wrong:
            print("pinouts: %s against %s: %s" % (number, where, line))
        bad += bool(wrong)
        # a check that cannot fail is none: with two pins changed over it must
        spoilt = dict(theirs)
        pins = [n for n in theirs if meaning(theirs[n])[0] == "address"]
        spoilt[pins[0]], spoilt[pins[1]] = theirs[pins[1]], theirs[pins[0]]
        if not held(parts[number], spoilt):
            print("pinouts: %s: two address pins changed over are not seen" % number)
            bad += 1
    print("pinouts: %d of %d parts held against drawing libraries, %d differ" %
          (len(rows), len(parts), bad))
    return 1 if bad or len(rows) < 20 else 0


sys.exit(main())
