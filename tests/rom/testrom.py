#!/usr/bin/python3
"""Test ROMs as a user meets them, and judged from outside: emulators of others, a whole machine that boots
one, disassemblers and assemblers that give the same bytes back, and our own 6502 held against another.

Call: testrom.py BUILD PROJECT
RMG_TEST_LIST=1 lists the tests' names, RMG_TEST_ONE=NAME makes that one alone."""
import concurrent.futures
import filecmp
import itertools
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time

import capstone

HALVORN, PROFILE = "demo/boards/halvorn64.yaml", "demo/profiles/halvorn-rom.yaml"
# elements too long for short branches, and holds
LONG = "any(w0);hold;up(r0,w1,r1,w0,r0,w1);hold;down(r1,w0,r0,w1,r1,w0,r0);up(r0)"
SELVANE = "demo/boards/selvane.yaml"
# hundreds of each are in scripts/test-long
RANDOM = (("Z80", "6", "3", "lines"), ("Z80", "4", "4", "blinks"), ("6502", "6", "3", "lines"),
          ("6502", "3", "4", "blinks"), ("6809", "8", "3", "lines"), ("6809", "4", "4", "blinks"),
          ("68000", "3", "3", "lines"), ("68000", "2", "4", "blinks"), ("8080", "4", "3", "lines"),
          ("8080", "2", "4", "blinks"), ("8085", "4", "5", "lines"), ("8080-as-Z80", "4", "3", "lines"),
          ("8086", "3", "3", "lines"), ("8088", "6", "3", "lines"), ("8088", "3", "4", "blinks"))
STORY = (("dead-1", 1, "Look at U13", "A9 between U1.39 and U31.10>U31.9"), ("dead-2", 1, "Look at U13", "97 %"),
         ("dead-3", 1, "no chip of the upper bank answers", "97 %"),
         ("dead-4", 0, "No fault: the test ROM reported none in 2 whole passes.", "15 KiB"))
ISAPC = """board: a machine with two banks
word: 8
address-lines: 20
regions:
  - {name: RAM, range: 0x00000-0x0FFFF, kind: ram}
  - {name: ROM, range: 0xF0000-0xFFFFF, kind: rom}
banks:
  - {name: low, range: 0x00000-0x07FFF, part: "62256", lines: A0-A14, data: {U1: D0-D7}}
  - {name: high, range: 0x08000-0x0FFFF, part: "62256", lines: A0-A14, data: {U2: D0-D7}}
  - {name: ROM, range: 0xF0000-0xFFFFF, part: "27512", lines: A0-A15, data: {U3: D0-D7}}
sockets: [{names: U1-U3, mount: socket}]
test-rom:
  processor: "8086"
  clock: 4770000
  socket: U3
  serial: {port: 0xE9, bit: 0, baud: 9600}
"""
# what is changed in the Halvorn's section, and what the answer must say
REFUSED = (("processor: Z80", "processor: Z8", "found \"Z8\""), ("clock: 4000000", "clock: 10", "clock"),
           ("  socket: U5\n", "  socket: U99\n", "found \"U99\", expected a socket of this board"),
           ("serial: {at: 0x4020, bit: 0, baud: 9600}", "serial: {bit: 0, baud: 9600}", "expected \"port\""),
           ("serial: {at: 0x4020, bit: 0", "serial: {at: 0x4020, bit: 9", "bit"),
           ("baud: 9600", "baud: 75", "baud"), ("  socket: U5\n", "", "socket"),
           ("test-rom:\n", "test-rom:\n  march: \"up(w0,\"\n", "neither the name of a march"),
           ("test-rom:\n", "test-rom:\n  hum: 3\n", "hum"))


class Failed(Exception):
    pass


class Bench:
    def __init__(self, build, project):
        self.build, self.project = os.path.abspath(build), os.path.abspath(project)
        self.folder = tempfile.mkdtemp()
        self.numbers = itertools.count()
        self.tool = os.path.join(self.build, "rimeglass")

    def path(self, name):
        return os.path.join(self.folder, name)

    def run(self, *words, status=0, text=True):
        done = subprocess.run(words, capture_output=True, text=text, check=False, cwd=self.project, timeout=300)
        if status is not None and done.returncode != status:
            raise Failed(f"{words}: status {done.returncode}, expected {status}\n{done.stdout}\n{done.stderr}")
        return done

    def expect(self, status, texts, *words):
        done = self.run(self.tool, *words, status=status)
        for text in texts:
            if text not in done.stdout + done.stderr:
                raise Failed(f"{words}: no \"{text}\" in\n{done.stdout}\n{done.stderr}")
        return done

    def changed(self, board, old, new):
        """A copy of a board file with something else in it."""
        with open(os.path.join(self.project, board), encoding="utf-8") as file:
            text = file.read()
        if old not in text:
            raise Failed(f"{board} has no \"{old}\"")
        name = self.path(f"{next(self.numbers)}-{os.path.basename(board)}")  # tests run side by side
        with open(name, "w", encoding="utf-8") as file:
            file.write(text.replace(old, new).replace("../images/", self.project + "/demo/images/"))
        return name

    def machine(self, board, faults, *more):
        return self.run(os.path.join(self.build, "tests/test-rom-board"), board, faults, *more).stdout


def random_faults(bench, case):
    table = bench.path("table-" + "-".join(case))  # what the ROM holds that three cases in four read
    with open(table, "wb") as file:
        file.write(bytes((i * i * 7 + i // 3) % 256 for i in range(1024)))
    done = bench.run(os.path.join(bench.build, "tests/test-rom-random"), *case, table, status=None)
    if done.returncode:
        raise Failed(done.stdout + done.stderr)
    return done.stdout.strip()


def story(bench):
    """The lines that the demo keeps are those that the machine tells, and end at these places."""
    for name, status, *texts in STORY:
        faults = f"demo/faults/halvorn64-{name}.yaml" if status else "-"
        kept = f"demo/logs/{name}.txt"
        told = bench.machine(HALVORN, faults, "--march", "March C-", "--passes", "2")
        with open(os.path.join(bench.project, kept), encoding="ascii", newline="") as file:
            if file.read() != told.replace("\n", "\r\n").replace("\r\r", "\r"):
                raise Failed(f"{kept} is not what the machine tells:\n{told}")
        bench.expect(status, texts, "log", HALVORN, "--profile", PROFILE, kept)
        bench.expect(0, ["tested"] if status != 1 or name != "dead-3" else ["failure"], "log", HALVORN, "--profile",
                     PROFILE, "--check", kept)
    run = bench.path("dead.run")
    first = bench.expect(1, ["U13"], "log", HALVORN, "--profile", PROFILE, "--record", run, "demo/logs/dead-1.txt")
    again = bench.expect(1, ["U13"], "diagnose", run)
    if first.stdout.split("\n\n")[0] != again.stdout.split("\n\n")[0]:
        raise Failed(f"diagnosed otherwise from the run file:\n{first.stdout}\n{again.stdout}")


def noise(bench):
    """Passes that were heard in part, and characters that were lost: what is whole counts."""
    with open(os.path.join(bench.project, "demo/logs/dead-2.txt"), encoding="ascii") as file:
        whole = file.read()
    lines = whole.splitlines(keepends=True)
    broken = lines[3][:6] + "7" + lines[3][7:]
    log = bench.path("noise.txt")
    with open(log, "w", encoding="ascii") as file:
        file.writelines(lines[-6:] + lines[:3] + [broken] + lines[4:] + lines)
    bench.expect(1, ["Look at U13", "97 %"], "log", HALVORN, "--profile", PROFILE, log)
    bench.expect(3, ["its check is wrong"], "log", HALVORN, "--profile", PROFILE, "--check", log)
    other = bench.path("other.txt")
    with open(other, "w", encoding="ascii") as file:
        file.write(re.sub("S D2A8 ..", "S D2A9 00", whole))
    bench.expect(2, ["another board file, or another state of this one"], "log", HALVORN, "--profile", PROFILE, other)


def blinks(bench):
    """Counted at the lamp, and typed in."""
    counts = bench.machine(HALVORN, "demo/faults/halvorn64-u19.yaml", "--blinks").split()[:2]
    bench.expect(1, ["Look at U19"], "log", HALVORN, "--blinks", " ".join(counts))
    bench.expect(0, ["15 KiB"], "log", HALVORN, "--blinks", "good")
    bench.expect(1, ["U5"], "log", HALVORN, "--blinks", "7 1")
    for wrong in ("9 1", "1", "1 99", "x", "1 2 3", ""):
        bench.expect(2, ["expected two counts"], "log", HALVORN, "--blinks", wrong)
    bench.expect(2, ["no section test-rom"], "log", "demo/boards/tarnbeck.yaml", "--blinks", "1 1")


def sums_and_ends(bench):
    """An image whose sum is wrong says so; passes are counted, and after so many something else is started."""
    for board in (HALVORN, "demo/boards/merrow.yaml", "demo/boards/ostrel16.yaml", "demo/boards/quarle.yaml",
                  SELVANE):
        told = bench.machine(board, "-", "--wrong-sum")
        if "\n0R " not in told or "\n0E E1 " not in told:
            raise Failed(f"{board}, its sum wrong:\n{told}")
        log = bench.path(f"{os.path.basename(board)}.txt")
        with open(log, "w", encoding="ascii") as file:
            file.write(told)
        profile = bench.path(f"{os.path.basename(board)}.profile")
        bench.expect(0, ["Written"], "testrom", board, "--profile", profile, "--force")
        bench.expect(1, ["Look at U"], "log", board, "--profile", profile, log)
    for board in (HALVORN, "demo/boards/ostrel16.yaml", SELVANE):
        told = bench.machine(board, "-", "--start-again-after", "2", "--passes", "4")
        passes = re.findall(r"^(\d)E 00", told, re.M)
        if passes != ["0", "1", "0", "1"]:
            raise Failed(f"{board}: passes {passes}\n{told}")
    passes = re.findall(r"^(\d)E 00", bench.machine("demo/boards/ostrel16.yaml", "-", "--passes", "10"), re.M)
    if passes != list("0123456701"):
        raise Failed(f"passes {passes}")


def refusals(bench):
    with open(os.path.join(bench.project, HALVORN), encoding="utf-8") as file:
        board = file.read().replace("../images/", bench.project + "/demo/images/")
    name = bench.path("wrong.yaml")
    for old, new, says in REFUSED:
        if old not in board:
            raise Failed(f"the board file has no \"{old}\"")
        with open(name, "w", encoding="utf-8") as file:
            file.write(board.replace(old, new))
        done = bench.expect(2, [says], "testrom", name)
        if not re.search(r"wrong\.yaml:\d+: ", done.stderr):
            raise Failed(f"no line: {done.stderr}")
    for clock, more, status, says in (("400000", [], 2, "too slow for this rate"), ("624000", [], 2, "--trim"),
                                      ("624000", ["--trim", "1"], 0, "1.5")):
        with open(name, "w", encoding="utf-8") as file:
            file.write(board.replace("clock: 4000000", f"clock: {clock}"))
        bench.expect(status, [says], "testrom", name, *more)
    bench.expect(2, ["no section test-rom"], "testrom", "demo/boards/tarnbeck.yaml")
    bench.expect(2, ["takes", "MATS+ is the shortest"], "testrom", "demo/boards/merrow.yaml", "--march",
                 ";".join(["any(w0)"] + ["up(r0,w1);down(r1,w0)"] * 14))
    bench.expect(2, ["expected 1 to 31"], "testrom", HALVORN, "--lines", "40")
    bench.expect(2, ["\"then\""], "testrom", HALVORN, "--stop-after", "2")
    bench.expect(2, ["expected a board file"], "testrom")
    image = bench.path("kept.bin")
    with open(image, "wb") as file:
        file.write(b"not ours")
    bench.expect(2, ["--force replaces it"], "testrom", HALVORN, "--write", image)
    bench.expect(0, ["Written"], "testrom", HALVORN, "--write", image, "--force")


def images(bench):
    """The files: one a socket, all of a chip, the sum right, what disassemblers give back the same."""
    result = json.loads(bench.expect(0, [], "testrom", "demo/boards/ostrel16.yaml", "--write", bench.path("o.bin"),
                                     "--picture", bench.path("o.png"), "--json", "-").stdout)
    if result["bytes"] != 32768 or result["sockets"] != ["U3", "U2"] or len(result["blinks"]) != 36:
        raise Failed(str(result))
    with open(bench.path("o-U3.bin"), "rb") as high, open(bench.path("o-U2.bin"), "rb") as low:
        both = bytes(b for pair in zip(high.read(), low.read()) for b in pair)
    if len(both) != 32768 or sum(both[:result["bytes_used"]]) % 256:
        raise Failed("the two files together are not the image")
    for board, processor in ((HALVORN, "z80"), ("demo/boards/merrow.yaml", "6502")):
        image, part = bench.path(f"{processor}.bin"), bench.path(f"{processor}.part")
        result = json.loads(bench.expect(0, [], "testrom", board, "--write", image, "--json", "-").stdout)
        with open(image, "rb") as file, open(part, "wb") as used:
            used.write(file.read()[:result["bytes_used"]])
        text, back, origin = bench.path("code.s"), bench.path("back.bin"), f"0x{result['origin']:X}"
        if processor == "z80":
            bench.run("z80dasm", "-g", origin, "-o", text, part)
            bench.run("z80asm", "-o", back, text)
        else:
            bench.run("da65", "-S", origin, "-o", text, part)
            bench.run("ca65", "-o", bench.path("code.o"), text)
            bench.run("ld65", "-t", "none", "-S", origin, "-o", back, bench.path("code.o"))
        if not filecmp.cmp(part, back, shallow=False):
            raise Failed(f"{processor}: disassembled and assembled it is something else")
    with open(bench.path("6502.bin"), "rb") as file:
        if file.read()[-4:-2] != bytes((0x00, 0xF8)):
            raise Failed("the 6502's reset vector is not the first byte")
    for processor, machine, objdump in (("o", "m68k:68000", "m68k-linux-gnu-objdump"), ("q", "i8086", "objdump")):
        if processor == "q":
            bench.expect(0, [], "testrom", "demo/boards/quarle.yaml", "--write", bench.path("q.bin"))
        else:
            with open(bench.path("o.bin"), "wb") as file:
                file.write(both)
        listed = bench.run(objdump, "-D", "-b", "binary", "-m", machine, bench.path(f"{processor}.bin")).stdout
        code = listed.splitlines()[7:120]
        if any("(bad)" in line or ".short" in line for line in code):
            raise Failed(f"{processor}: no code:\n" + "\n".join(code))


def slots(bench):
    """A ROM in a slot: its header, where it is started, what keeps the board's own off; and its lines end at places."""
    faults, profile, log, image = "demo/faults/selvane-u35.yaml", *(bench.path(n) for n in ("s.yaml", "s.txt", "s.bin"))
    slot = "at: slot\n  origin: 0xB000\n  size: 8192\n  header: [0x53, 0x4C, 0x06]\n"
    board = bench.changed(SELVANE, "socket: U7\n", slot)
    bench.expect(0, ["8192 bytes from 0xB000 on, 3 of them its header; started at 0xB003", "own ROM must start it there", "for the slot"],
                 "testrom", board, "--write", image, "--profile", profile)
    bench.expect(0, ["the ROM itself (in the slot)"], "testrom", board, "--legend")
    result = json.loads(bench.expect(0, [], "testrom", board, "--json", "-").stdout)
    if result["sockets"] or result["slot"] != {"first_byte": 0xB000, "header": [0x53, 0x4C, 0x06], "started_at": 0xB003,
                                               "disables": ""}:
        raise Failed(str(result))
    with open(image, "rb") as file:
        data = file.read()
    if len(data) != 8192 or data[:3] != b"SL\x06" or sum(data[3:3 + result["bytes_used"]]) % 256 or data[-2:] != b"\xff\xff":
        raise Failed("the slot's image")
    for more, status, *texts in (((), 1, "Look at U35"), (("--wrong-sum",), 1, "its own sum is not right")):
        with open(log, "w", encoding="ascii") as file:
            file.write(bench.machine(board, faults if not more else "-", *more))
        bench.expect(status, texts, "log", board, "--profile", profile, log)
    top = bench.changed(SELVANE, "socket: U7\n", slot.replace("0xB000", "0xE000") + "  disables: pin 7 to ground\n")
    bench.expect(0, ["must be off: pin 7 to ground"], "testrom", top, "--write", image, "--force")
    with open(image, "rb") as file:
        if file.read()[-2:] != b"\xe0\x03":
            raise Failed("the vector of a slot's ROM at the end is not its first instruction")
    bench.expect(2, ["a 6809 starts at 0xFFFE, where the slot's ROM, 0xB000-0xCFFF, does not answer"], "testrom",
                 bench.changed(SELVANE, "socket: U7\n", slot + "  disables: pin 7 to ground\n"))
    quarle = bench.changed("demo/boards/quarle.yaml", "socket: U7\n", slot.replace("0xB000", "0xD0000"))
    bench.expect(0, ["16 of them its header; started at D001:0000"], "testrom", quarle, "--march", "MATS+")
    for old, new, says in (("at: slot\n  ", "", "expected only where \"at: slot\" stands"), ("size: 8192", "size: 100", "size"),
                           ("0xB000", "0xF000", "end behind the last address"), ("0x53", "0x153", "expected up to 64 bytes"),
                           ("at: slot", "at: slot\n  socket: U7", "a slot has none"), ("at: slot", "at: hole", "socket, slot")):
        bench.expect(2, [says], "testrom", bench.changed(SELVANE, "socket: U7\n", slot.replace(old, new)))


# where each board has its screen, by what is changed in its file; and what stands there of a fault
SCREENS = (
    (SELVANE, "  march: March C-\n", "  march: MATS+\n  screen: {at: 0xB000, columns: 40, rows: 12, letters: 1, dot: 0x5B}\n",
     "demo/faults/selvane-u35.yaml", "DA. 00000000|AA.|DB! 00010000|AB.|FA. 00000000||XB!|MA. 00000000|MB! 00010000|CA.|"),
    ("demo/boards/merrow.yaml", "  march: March C-\n", "  march: MATS+\n  screen: {at: 0xC200, columns: 32, rows: 16}\n",
     "{kind: output stuck, socket: U16, bit: D6, level: 1}",
     "|DA. 00000000|AA.|DB. 00000000|AB.|DC! 01000000|AC.|XC.|MA. 00000000|MB. 00000000|MC! 01000000||||"),
    (HALVORN, "  serial: {at: 0x4020", "  screen: {at: 0x4800, columns: 64, rows: 12, digits: 0x10, letters: 0x81}\n  serial: {at: 0x4020",
     "demo/faults/halvorn64-u19.yaml", "DA. 00000000|AA.|DB! 10000000|AB.|FA. 00000000|XB!|MA. 00000000|MB! 10000000|||"),
    ("demo/boards/ostrel16.yaml", "  lamp:", "  march: MATS+\n  screen: {at: 0x30000, columns: 20, rows: 10, blank: 0}\n  lamp:",
     "{kind: output stuck, socket: U34, bit: D13, level: 1}",
     "DA! 0010000000000000|AA.|DB. 0000000000000000|AB.|XB!|MA! 0010000000000000|MB. 0000000000000000||"),
    ("demo/boards/quarle.yaml", "  lamp:", "  march: MATS+\n  screen: {at: 0xB0123, columns: 40, rows: 10, digits: 0x60}\n  lamp:",
     "{kind: output stuck, socket: U35, bit: D4, level: 0}",
     "DA. 00000000|AA.|DB! 00010000|AB.|XB!|MA. 00000000|MB! 00010000||"))


def screens(bench):
    """A row a step on a screen, by its own codes; the last row tells the pass and how the one before ended."""
    for number, (board, old, new, fault, rows) in enumerate(SCREENS):
        changed = bench.changed(board, old, new)
        if fault.startswith("{"):
            name = bench.path("screen.yaml")
            with open(name, "w", encoding="utf-8") as file:
                file.write(f"faults: [{fault}]\n")
            fault = name
        for more, last in ((("--passes", "2"), "1!"), (("--passes", "1"), "0!")):
            told = bench.machine(changed, fault, "--screen", *more).splitlines()
            if told[:-1] != rows.split("|") or told[-1] != last:
                raise Failed(f"{board} shows\n" + "\n".join(told))
        healthy = bench.machine(changed, "-", "--screen", "--passes", "2").splitlines()
        if [row.replace("!", ".").replace("1", "0") if row else row for row in rows.split("|")] != healthy[:-1] or \
                healthy[-1] != "1.":
            raise Failed(f"{board}, healthy, shows\n" + "\n".join(healthy))
        bench.expect(0, ["Screen: first bars"], "testrom", changed, "--legend")
        bench.expect(0, [f"Screen      address 0x{(0xB000, 0xC200, 0x4800, 0x30000, 0xB0123)[number]:X}"], "testrom", changed, "--march", "MATS+")
        # bars stay where what was written is not read back
        barred = bench.machine(changed, "-", "--screen", "--passes", "2", "--screen-loses", "0x01").splitlines()
        if [row for row, other in zip(barred, healthy) if not row.startswith(other) or (len(row) > 20 or len(other) < 20) and "! ! ! !" not in row]:
            raise Failed(f"{board}, with bars, shows\n" + "\n".join(barred))
        if bench.machine(changed, fault) != bench.machine(board, fault, "--march", "MATS+"):
            raise Failed(f"{board}: with a screen its lines are others")
    alone = bench.changed(SELVANE, "  serial: {at: 0xA000, bit: 7, baud: 4800}\n  lamp: {at: 0xA001, bit: 0}\n",
                          "  screen: {at: 0xB000, columns: 40, rows: 12}\n")
    bench.expect(0, ["Screen: first bars"], "testrom", alone)
    for board, old, new, says in (
            (SELVANE, "  lamp:", "  screen: {at: 0xB000, columns: 40, rows: 9}\n  lamp:", "the screen has 9 rows, 12 are needed"),
            (SELVANE, "  lamp:", "  screen: {at: 0xB000, columns: 11, rows: 16}\n  lamp:", "columns"),
            (SELVANE, "  lamp:", "  screen: {at: 0xFF80, columns: 40, rows: 16}\n  lamp:", "ends behind the last address"),
            (SELVANE, "  lamp:", "  screen: {at: 0xF000, columns: 40, rows: 16}\n  lamp:", "screen: address 0xF000 lies in program"),
            ("demo/boards/ostrel16.yaml", "  lamp:", "  screen: {at: 0x30000, columns: 19, rows: 16}\n  lamp:", "columns")):
        bench.expect(2, [says], "testrom", bench.changed(board, old, new))


INTEL = """board: an old one, with its ROM at the bottom
word: 8
address-lines: 16
first-memory: 0x6000-0x60FF
regions:
  - {name: ROM, range: 0x0000-0x0FFF, kind: rom}
  - {name: more ROM, range: 0x1000-0x17FF, kind: rom}
  - {name: low RAM, range: 0x4000-0x5FFF, kind: ram}
  - {name: high RAM, range: 0x6000-0x7FFF, kind: ram}
banks:
  - {name: ROM, range: 0x0000-0x0FFF, part: 2732, lines: A0-A11, data: {U3: D0-D7}}
  - {name: more, range: 0x1000-0x17FF, part: 2716, lines: A0-A10, data: {U4: D0-D7}}
  - {name: low, range: 0x4000-0x5FFF, part: 6264, lines: A0-A12, data: {U1: D0-D7}}
  - {name: high, range: 0x6000-0x7FFF, part: 6264, lines: A0-A12, data: {U2: D0-D7}}
sockets: [{names: U1-U3, mount: socket}, {names: U4, mount: socket, image: "PROJECT/demo/images/selvane-stars.bin"}]
test-rom: {processor: "PROCESSOR", clock: CLOCK, socket: U3, march: March C-, roms: more ROM,
  serial: {port: 0x10, bit: 7, inverted: yes, baud: 4800}, lamp: {port: 0x10, bit: 0, tone: 1000}}
"""
SMALL = """board: eight kilobytes
word: 8
address-lines: 16
regions:
  - {name: RAM, range: 0x0000-0x1FFF, kind: ram}
  - {name: ports, range: 0x8000-0x80FF, kind: reserved}
  - {name: ROM, range: 0xE000-0xFFFF, kind: rom}
banks:
  - {name: A, range: 0x0000-0x1FFF, part: 6264, lines: A0-A12, data: {U1: D0-D7}}
  - {name: ROM, range: 0xE000-0xFFFF, part: 2764, lines: A0-A12, data: {U2: D0-D7}}
sockets: [{names: U1-U2, mount: socket}]
test-rom: {processor: Z80, clock: 4000000, socket: U2, serial: {port: 0x10, bit: 0}}
"""


def loaded(bench):
    """A program in RAM in the place of the ROM: all but the memory that it lies in is tested, and told as a ROM does."""
    rows = ((SELVANE, "0x0200", "demo/faults/selvane-u35.yaml", "U35"), (HALVORN, "0x100", "demo/faults/halvorn64-u19.yaml", "U19"),
            ("demo/boards/merrow.yaml", "0x5000", "{kind: output stuck, socket: U16, bit: D6, level: 1}", "U16"))
    profile, log, image, run = (bench.path(n) for n in ("l.yaml", "l.txt", "l.bin", "l.run"))
    for board, at, fault, socket in rows:
        if fault.startswith("{"):
            with open(bench.path("loaded.yaml"), "w", encoding="utf-8") as file:
                file.write(f"faults: [{fault}]\n")
            fault = bench.path("loaded.yaml")
        for march in ("MATS+", "March C-") if board == SELVANE else ("MATS+",):
            done = bench.expect(0, ["a program that tests it", f"to load at 0x{int(at, 0):X}", "the program itself lies there",
                                    "for the board's RAM"], "testrom", board, "--load-at", at, "--march", march, "--write", image,
                                "--profile", profile, "--force")
            size = os.path.getsize(image)
            if size % 256 or f" of {size} bytes" not in done.stdout:
                raise Failed(f"{board}: {size} bytes\n{done.stdout}")
            for faults, status, text in (("-", 0, "No fault: the test ROM reported none"), (fault, 1, f"Look at {socket}")):
                with open(log, "w", encoding="ascii") as file:
                    file.write(bench.machine(board, faults, "--load-at", at, "--march", march, "--passes", "2"))
                bench.expect(status, [text], "log", board, "--profile", profile, log, "--record", run, "--force")
                bench.expect(status, [text], "diagnose", run)
    small = bench.path("small.yaml")
    with open(small, "w", encoding="utf-8") as file:
        file.write(SMALL)
    bench.expect(0, ["to load at 0x1000"], "testrom", small, "--load-at", "0x1000")  # it has no more memory than it needs
    if "0M" not in bench.machine(small, "-", "--load-at", "0x1000"):
        raise Failed("a small board's program tells nothing")
    bench.expect(2, ["more than lie between 0x1E00"], "testrom", small, "--load-at", "0x1E00")
    for at, says in (("0x123", "a multiple of 256"), ("0xC000", "no RAM of the board file"), ("hello", "expected an address"),
                     ("0x7F00", "more than lie between 0x7F00 and the end of RAM")):
        bench.expect(2, [says], "testrom", SELVANE, "--load-at", at)


def roms(bench):
    """Another ROM: the sums of its pages, what those hold that differ; and all of one that no image says anything of."""
    image, profile, log, result = (bench.path(n) for n in ("r.bin", "r.yaml", "r.txt", "r.json"))
    stars = os.path.join(bench.project, "demo/images/selvane-stars.bin")

    def heard(board, faults, status, texts, *more, passes="2"):
        with open(log, "w", encoding="ascii", newline="") as file:
            file.write(bench.machine(board, faults, "--passes", passes))
        bench.expect(0, ["a ROM that tests it"], "testrom", board, "--write", image, "--profile", profile, "--force")
        bench.expect(status, texts, "log", board, "--profile", profile, log, "--json", result, "--force", *more)
        with open(result, encoding="utf-8") as file:
            return json.load(file)["heard"]["roms"]

    fading = "demo/faults/selvane-fading.yaml"
    with open(os.path.join(bench.project, "demo/logs/selvane-stars.txt"), encoding="ascii", newline="") as file:
        if file.read().replace("\r\n", "\n") != bench.machine(SELVANE, fading, "--passes", "2"):
            raise Failed("demo/logs/selvane-stars.txt is not what the machine tells")
    folder = bench.path("roms")
    os.mkdir(folder)
    heard(SELVANE, fading, 1, ["U8: 1 bit is wrong", "No fault of RAM was reported"], "--roms", folder)
    for n in (1, 2):
        with open(os.path.join(folder, f"stars-{n}.bin"), "rb") as one, open(stars, "rb") as good:
            differ = [(i, a, b) for i, (a, b) in enumerate(zip(one.read(), good.read(), strict=True)) if a != b]
        if differ != [(0x14, 0x7B, 0x3B)]:
            raise Failed(f"reading {n} differs at {differ}")
    with open(os.path.join(folder, "stars-1.bin"), "wb") as file:
        file.write(b"somebody else's")
    bench.expect(2, ["one of ours; --force replaces it"], "log", SELVANE, "--profile", profile, log, "--roms", folder)
    found = heard(SELVANE, "-", 0, ["The sums of all pages are those of the board file's images"], passes="1")
    if found != [{"region": "stars", "known": True, "passes": 1, "pages": 8, "pages_wrong": 0, "pages_unsteady": 0,
                  "wrong_bits": None, "suspects": []}]:
        raise Failed(f"of a good one: {found}")
    unknown = bench.changed(SELVANE, ", image: ../images/selvane-stars.bin", "")
    found = heard(unknown, "-", 0, ["There is no image to compare with"], "--roms", folder, "--force", passes="1")
    if found[0]["known"] or found[0]["passes"] != 1 or found[0]["suspects"]:
        raise Failed(f"of an unknown one: {found}")
    stuck = bench.path("stuck.yaml")
    with open(stuck, "w", encoding="utf-8") as file:
        file.write("faults: [{kind: output stuck, socket: U8, bit: D5, level: 0}]\n")
    heard(unknown, stuck, 1, ["D5 (U8 pin 15)"], passes="1")
    found = heard(SELVANE, stuck, 1, ["stars: D5 (U8 pin 15) always reads 0"], passes="1")
    if found[0]["pages_wrong"] != 8 or found[0]["suspects"][0]["confidence"] < 0.9:
        raise Failed(f"of an output: {found}")
    with open(stuck, "w", encoding="utf-8") as file:
        file.write("faults: [{kind: data pin open, socket: U8, bit: D5, one-in: 3000}]\n")
    found = heard(SELVANE, stuck, 1, ["pages gave the right sums now and then only"], passes="3")
    if not found[0]["pages_unsteady"]:
        raise Failed(f"of an output at times: {found}")
    blinks = bench.machine(SELVANE, fading, "--blinks").split()
    if blinks[:2] != ["7", "2"]:
        raise Failed(f"the lamp blinks {blinks}")
    bench.expect(1, ["Look at U8"], "log", SELVANE, "--blinks", "7 2")
    slot = "at: slot\n  origin: 0xB000\n  size: 4096\n"
    own = bench.changed(bench.changed(SELVANE, "socket: U7\n", slot), "roms: stars", "roms: [program, stars]")
    found = heard(own, "-", 0, ["program (U7): 16 pages", "stars (U8): 8 pages"], passes="1")
    if [rom["known"] for rom in found] != [False, True]:
        raise Failed(f"from a slot: {found}")
    bench.expect(2, ["program is where the test ROM itself sits, in U7"], "testrom",
                 bench.changed(SELVANE, "roms: stars", "roms: program"))


def of_8080(bench):
    """An 8080 and an 8085: first memory by registers alone, wherever it lies; then all as of the others."""
    board, faults, profile, image, log = (bench.path(n) for n in ("i.yaml", "if.yaml", "ip.yaml", "i.bin", "i.txt"))
    rows = (("{kind: output stuck, socket: U2, bit: D3, level: 0}", 1, "0DBa ---- 00 08 --", "Look at U2"),
            ("{kind: output stuck, socket: U1, bit: D3, level: 0}", 1, "0MA+ 08", "Look at U1"),
            ("{kind: chip missing, socket: U2}", 1, "0DBa ---- 00", "U2"),
            ("{kind: cell stuck, socket: U2, cell: 0x21, bit: D6, level: 1}", 1, "0FBa ---- 00 40 --", "U2"),
            ("", 0, "0CA. 00", "No fault: the test ROM reported none in 2 whole passes"))
    for processor, clock in (("8080", 2000000), ("8085", 3000000)):
        with open(board, "w", encoding="utf-8") as file:
            file.write(INTEL.replace("PROJECT", bench.project).replace("PROCESSOR", processor).replace("CLOCK", str(clock)))
        bench.expect(0, [f"Processor   {processor} at"], "testrom", board, "--write", image, "--profile", profile, "--force")
        for fault, status, line, says in rows:
            with open(faults, "w", encoding="utf-8") as file:
                file.write(f"faults: [{fault}]\n")
            told = bench.machine(board, faults, "--passes", "2")
            with open(log, "w", encoding="ascii") as file:
                file.write(told)
            if line not in told:
                raise Failed(f"{processor}, {fault}:\n{told}")
            bench.expect(status, [says], "log", board, "--profile", profile, log)
        shown = bench.changed(board, "march: March C-,", "march: MATS+, screen: {at: 0x9000, columns: 33, rows: 12, letters: 1},")
        for more, rows_shown in (((), "|DA! 00001000|AA.|DB. 00000000|AB.|XB.|MA! 00001000|MB. 00000000|CA.|||1!"),
                                 (("--screen-loses", "0x01"), "! ! ! !|DA! 00001000! ! !")):
            with open(faults, "w", encoding="utf-8") as file:
                file.write(f"faults: [{rows[1][0].replace('level: 0', 'level: 1')}]\n")
            told = bench.machine(shown, faults, "--screen", "--passes", "2", *more).splitlines()
            if not all(row.strip().startswith(other.strip()) for row, other in zip(told, rows_shown.split("|"), strict=False)):
                raise Failed(f"{processor} shows\n" + "\n".join(told))
        for clock_hz, status, says in (("200000", 2, "too slow for this rate"), ("1000000", 0, "comes out as")):
            bench.expect(status, [says], "testrom", bench.changed(board, f"clock: {clock}", f"clock: {clock_hz}"))
    with open(image, "rb") as file:
        code = file.read()[:1800]
    with open(bench.path("i.part"), "wb") as file:
        file.write(code)
    bench.run("z80dasm", "-g", "0x0", "-o", bench.path("i.s"), bench.path("i.part"))
    bench.run("z80asm", "-o", bench.path("i.back"), bench.path("i.s"))
    if not filecmp.cmp(bench.path("i.part"), bench.path("i.back"), shallow=False):
        raise Failed("disassembled and assembled it is something else")


def catalogued(bench):
    """A chip with a test ROM in it is known again."""
    catalogue, image = bench.path("catalogue.yaml"), bench.path("known.bin")
    words = ("testrom", HALVORN, "--catalogue", catalogue)
    bench.expect(0, ["Added to", "test ROM of Halvorn 64"], *words, "--write", image)
    bench.expect(0, ["test ROM of Halvorn 64 operator console, U5"], "identify", image, "--catalogue", catalogue)
    bench.expect(2, ["already"], *words)
    bench.expect(0, ["U3", "U2"], "testrom", "demo/boards/ostrel16.yaml", "--catalogue", catalogue)


def core(bench):
    """Our own 6502 ends with the same result, after as many clocks, as another; which does not count the jump
    that ends a program."""
    for name in ("arithmetic", "addressing", "shifts", "stack"):
        program = bench.path(f"{name}.prg")
        source = bench.path(f"{name}.s")  # what is made of it lies beside it
        shutil.copy(os.path.join(bench.project, f"tests/rom/6502/{name}.s"), source)
        bench.run("cl65", "-t", "sim6502", "-o", program, source)
        other = bench.run("sim65", "-c", program, status=None)
        clocks = int(re.search(r"(\d+) cycles", other.stdout + other.stderr).group(1))
        ours = bench.run(os.path.join(bench.build, "tests/test-run-6502"), program).stdout.split()
        if [other.returncode, clocks + 3] != [int(n) for n in ours]:
            raise Failed(f"{name}: {other.returncode} after {clocks}, ours {ours}")


def core_6809(bench):
    """Each instruction that ran in our own 6809 is one to a disassembler of others, and as long; the chip of U35
    is found through it, whatever the baud rate, by a march with long elements, too."""
    decoder = capstone.Cs(capstone.CS_ARCH_M680X, capstone.CS_MODE_M680X_6809)
    names = set()
    for faults, *more in (("-",), ("demo/faults/selvane-u35.yaml", "--blinks"),
                          ("demo/faults/selvane-u35.yaml", "--march", LONG, "--lines", "31", "--baud", "300")):
        ran = bench.machine(SELVANE, faults, "--instructions", *more)
        for line in ran.splitlines():
            at, code = line.split()
            code = bytes.fromhex(code)
            known = list(decoder.disasm(code, int(at, 16)))
            if len(known) != 1 or known[0].size != len(code) or known[0].mnemonic.startswith("."):
                raise Failed(f"{at}: {code.hex()} is {known or 'no instruction'} to a disassembler")
            names.add(known[0].mnemonic)
    if len(names) < 40:
        raise Failed(f"only {sorted(names)} ran")
    image, log = bench.path("selvane.bin"), bench.path("selvane.txt")
    for more in ((), ("--march", LONG, "--lines", "31", "--baud", "19200")):
        with open(log, "w", encoding="ascii") as file:
            file.write(bench.machine(SELVANE, "demo/faults/selvane-u35.yaml", *more))
        profile = bench.path("selvane.yaml")
        bench.expect(0, ["Written"], "testrom", SELVANE, "--write", image, "--profile", profile, "--force", *more)
        bench.expect(1, ["Look at U35"], "log", SELVANE, "--profile", profile, log)
    with open(image, "rb") as file:
        if file.read()[-16:] != bytes((0xF0, 0x00)) * 8:
            raise Failed("the vectors of the 6809 are not the first byte")
    bench.expect(2, ["a 6809 has no I/O addresses"], "testrom", bench.changed(SELVANE, "{at: 0xA001", "{port: 0x01"))


def costs(bench):
    """What the document says of bytes and clocks is what the program that measures them prints."""
    printed = bench.run(os.path.join(bench.build, "bench-testrom")).stdout
    rows = {re.sub(", three banks", "", line[:20]).strip(): re.findall(r"(\d+) B, +(\d+) clocks|(\+\d+) B", line)
            for line in printed.splitlines()[1:] if "lines alone" not in line}
    with open(os.path.join(bench.project, "docs/test-rom.md"), encoding="utf-8") as file:
        told = {name: re.findall(r"(\d+) B, (\d+) clocks|(\+\d+) B", line)
                for name, line in re.findall(r"^\| (\w+) (\| \d+ B.*)$", file.read(), re.M)}
    if told != rows or any(len(row) != 4 for row in rows.values()):
        raise Failed(f"the document says {told}\nmeasured: {rows}")


def characters(bits):
    """What a receiver makes of a file of levels, a byte each bit."""
    if not os.path.exists(bits):
        return ""
    with open(bits, "rb") as file:
        stream = [b & 1 for b in file.read()]
    text, at = "", 0
    while at + 10 <= len(stream):
        if stream[at]:
            at += 1
            continue
        text += chr(sum(b << i for i, b in enumerate(stream[at + 1:at + 9])))
        at += 10
    return text


def boots(bench):
    """A whole machine boots the 8086's image; its bits go to a port that writes them down."""
    board, image, bits = bench.path("isapc.yaml"), bench.path("isapc.bin"), bench.path("bits")
    with open(board, "w", encoding="utf-8") as file:
        file.write(ISAPC)
    bench.expect(0, [], "testrom", board, "--write", image, "--profile", bench.path("isapc-profile.yaml"))
    with subprocess.Popen(["qemu-system-i386", "-M", "isapc", "-m", "16", "-display", "none", "-bios", image,
                           "-debugcon", f"file:{bits}"], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE) as qemu:
        text = ""
        for _ in range(60):  # until two passes are over
            time.sleep(0.5)
            text = characters(bits)
            if text.count("\n1E") or qemu.poll() is not None:
                break
        qemu.kill()
    log = bench.path("isapc.txt")
    with open(log, "w", encoding="latin-1") as file:
        file.write(text[:text.rfind("\n") + 1])
    bench.expect(0, ["No fault: the test ROM reported none"], "log", board, "--profile",
                 bench.path("isapc-profile.yaml"), log)


def elements(bench):
    """Routines for march elements, in emulated processors."""
    done = bench.run(os.path.join(bench.build, "tests/test-upload"), "120", "3", status=None)
    if done.returncode:
        raise Failed(done.stdout + done.stderr)
    return done.stdout.strip()


def main():
    tests = {"-".join(case): (random_faults, case) for case in RANDOM}
    tests.update({test.__name__: (test,) for test in (story, noise, blinks, sums_and_ends, refusals, images, slots, screens, loaded, roms, of_8080,
                                                      catalogued, core, core_6809, elements, costs, boots)})
    if os.environ.get("RMG_TEST_LIST"):
        print("\n".join(tests))
        return 0
    if os.environ.get("RMG_TEST_ONE"):
        tests = {os.environ["RMG_TEST_ONE"]: tests[os.environ["RMG_TEST_ONE"]]}
    bench = Bench(sys.argv[1], sys.argv[2])
    failed = 0
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        jobs = [pool.submit(test[0], bench, *test[1:]) for test in tests.values()]
        for job in jobs:
            try:
                done = job.result()
                if done:
                    print(done)
            except Failed as why:
                print(why)
                failed += 1
    shutil.rmtree(bench.folder, ignore_errors=True)
    print(f"{len(jobs)} tests, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
