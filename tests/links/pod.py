#!/usr/bin/env python3
"""A chip in the pod: the firmware under simavr, a chip with faults at its pins (tests/pod), the tool as a
user calls it. The bench judges the firmware: no rule of a data sheet broken, no supply that a check should
have stopped, no row without refresh for longer than its period.

Call: pod.py BUILD PROJECT [long | sweep COUNT SEED | seconds]: the cases that take long; chips with one random fault
each, or none, what was told wrongly is printed; or how long the pod itself takes."""
import concurrent.futures
import os
import pty
import random
import select
import shutil
import subprocess
import sys
import time

from common import Bench, Failed, noisy

PERIOD_US = {"4027": 2000, "4116": 2000, "4164": 2000, "41256": 4000, "4416": 4000}
CASES = (  # part, options of the tool, what sits in the socket, status, verdict, text
    ("4027", "", "", 0, "GOOD", "All 4K cells right in 2 passes."),
    ("4116", "--march MATS+ --passes 1", "", 0, "GOOD", "All 16K cells right"),
    ("4027", "", "missing", 3, "EMPTY", "nothing is in the socket"),
    ("4164", "", "missing", 3, "EMPTY", "4.94 V"),
    ("4116", "", "reversed", 1, "WRONG WAY ROUND", "no supply was given"),
    ("4164", "", "reversed", 1, "WRONG WAY ROUND", "0.61 V"),
    ("4164", "", "short", 1, "SHORTED", "no supply was given"),
    ("4116", "", "short", 1, "SHORTED", "no supply was given"),
    ("4116", "", "low12", 1, "BAD", "the +12 V rail does not come up"),
    ("4116", "", "no-minus5", 1, "BAD", "the -5 V rail does not come up"),
    ("4027", "--march MATS+ --passes 1", "stuck=0", 1, "BAD", "pin 14, Q) always reads 0"),
    ("4027", "--march MATS+ --passes 1", "row=17", 1, "BAD", "1 whole row fails; the first at row 17"),
    ("4027", "--march MATS+ --passes 1", "wide half=5:1", 1, "HALF GOOD", "A5 at row time high"),
    ("4027", "--march MATS+ --passes 1", "stuck-cell=5:9:1", 1, "BAD", "1 cell fails; the first at row 5, column 9; all read 1 for 0"),
    ("4027", "--passes 1", "wide no-rise=10:3", 1, "BAD", "1 cell fails; the first at row 10, column 3"),
    ("4027", "--passes 1", "wide coupled=7:9:1:8:9", 1, "BAD", "1 cell fails; the first at row 7, column 9"),
    ("4027", "--passes 1", "wide slow=900", 1, "BAD", ""),
    ("6116", "", "", 0, "GOOD", "All 2K words right in 2 passes."),
    ("2114", "", "", 0, "GOOD", "All 1K words right in 2 passes."),
    ("6116", "", "missing", 3, "EMPTY", "no supply was given"),
    ("6116", "", "reversed", 1, "WRONG WAY ROUND", "no supply was given"),
    ("6116", "", "short", 1, "SHORTED", "no supply was given"),
    ("6116", "", "stuck=3:1", 1, "BAD", "pin 13, D3) always reads 1"),
    ("6116", "", "open=10", 1, "NOT AS MARKED", "it answers like a part of 1K x 8"),
    ("6116", "", "cell=123:5:0", 1, "BAD", "1 word fails; the first at address 0x123; all read 0 for 1"),
    ("6116", "--passes 9", "pull=1.6", 3, "NOT TESTED", "the chip is no longer in the socket"),
    ("4027", "--march MATS+ --passes 1", "wide", 0, "GOOD", "All 4K cells right"),
    ("4027", "--march MATS+ --passes 1", "wide open=3", 1, "BAD", "address pin A3 (pin 12) does nothing"),
    ("4416", "--passes 1", "", 0, "GOOD", "All 16K words right in 1 pass."),
    ("4416", "--passes 1", "stuck=1", 1, "BAD", "pin 2, DQ1) always reads 1"),
    ("2102", "", "", 0, "GOOD", "All 1K cells right in 2 passes."),
    ("2102", "", "cell=155:0:1", 1, "BAD", "1 word fails; the first at address 0x155"),
    ("93422", "", "", 0, "GOOD", "All 256 words right"),
    ("93422", "", "stuck=2:0", 1, "BAD", "Q3) always reads 0"),
    ("7489", "", "", 0, "GOOD", "All 16 words right"),
    ("6116", "", "chip=2114", 1, "NOT AS MARKED", "it answers like a part of 1K x 4"),
    ("6116", "--grade --passes 1", "slow=190", 0, "GOOD", "data are there 313 ns after its select"),
    # a clock more than the chip takes: the simulator reads the pin in the first of two clocks, the AVR in the second
    ("4027", "--grade", "wide weak=9:2.1 slow=150", 0, "GOOD",
     "holds 2 ms without refresh, three times over", "data are there 188 ns after cas, not yet after 125 ns"),
    ("4116", "--passes 1", "sag=0.6", 1, "BAD", "a supply left its window"),
    ("4116", "--passes 9", "reset=0.8", 3, "NOT TESTED", "the far end has started anew"),
)
LONG = (
    ("4027", "--march MATS+ --passes 1", "column=40", 1, "BAD", "1 whole column fails; the first at row 0, column 40"),
    ("4027", "--passes 1", "weak=33:0.7", 1, "BAD", "1 whole row fails; the first at row 33"),
    ("4416", "--passes 1", "row=200", 1, "BAD", "1 whole row fails; the first at row 200"),
    ("6116", "", "open=4", 1, "BAD", "address pin A4 (pin 4) does nothing"),
    ("4027", "--march MATS+ --passes 1", "half=5:1", 1, "HALF GOOD", "A5 at row time high"),
    ("4027", "--march MATS+ --passes 1", "open=3", 1, "BAD", "address pin A3 (pin 12) does nothing"),
    ("4027", "--passes 1", "no-rise=10:3", 1, "BAD", "1 cell fails; the first at row 10, column 3"),
    ("4027", "--passes 1", "coupled=7:9:1:8:9", 1, "BAD", "1 cell fails; the first at row 7, column 9"),
    ("4027", "--passes 1", "slow=900", 1, "BAD", ""),
    ("4027", "--grade", "weak=9:2.1 slow=150", 0, "GOOD",
     "holds 2 ms without refresh, three times over", "data are there 125 ns after cas, not yet after 62 ns"),
    ("4164", "--march MATS+ --passes 1", "", 0, "GOOD", "All 64K cells right in 1 pass."),
    ("4027", "--march MATS+ --passes 1", "stuck=1", 1, "BAD", "pin 14, Q) always reads 1"),
    ("4027", "--march MATS+ --passes 1", "half=14:0", 1, "HALF GOOD", "A5 at column time low"),
    ("4027", "--passes 1", "no-fall=63:63", 1, "BAD", "row 63, column 63"),
    ("41256", "", "chip=4164", 1, "NOT AS MARKED", "it answers like a part of 64K x 1"),
    ("4027", "--march MATS++ --passes 1", "", 0, "GOOD", "MATS++, 1 pass"),
    ("4027", "--grade", "weak=9:1.8", 1, "BAD", "it does not hold its 2 ms without"),
    ("4116", "--passes 9", "pull=0.8", 3, "NOT TESTED", "the chip is no longer in the socket"),
)


NARROW = ("4027", "4116", "4164", "41256")  # in the pod with an ATmega328P, unless "wide"


class PodBench(Bench):
    def __init__(self, build):
        super().__init__(build)
        self.program = os.path.join(self.folder, "pod-bench")
        subprocess.run(["cc", "-O2", "tests/pod/bench.c", "tests/pod/dram_model.c", "tests/pod/static_model.c", "-o",
                        self.program, "-lsimavr", "-lelf"], check=True)
        self.stats_count = 0

    def firmware(self, part, sits):
        name = "pod-328p" if part in NARROW and "wide" not in sits else "pod-2560"
        return os.path.join(self.build, name, "cross/pod.elf")

    def build_firmware(self):
        for name in ("pod-328p", "pod-2560"):
            folder = os.path.join(self.build, name)
            subprocess.run(["cmake", "-S", ".", "-B", folder, "-G", "Ninja", "-DRMG_CORE_ONLY=ON",
                            "-DCMAKE_TOOLCHAIN_FILE=" + os.path.abspath(f"cmake/{name}.cmake")],
                           check=True, stdout=subprocess.DEVNULL)
            subprocess.run(["cmake", "--build", folder, "--target", "pod"], check=True, stdout=subprocess.DEVNULL)

    def bench(self, part, sits):
        """The bench as a command, and the file of what it saw."""
        self.stats_count += 1
        stats = os.path.join(self.folder, f"stats-{self.stats_count}")
        chip = "" if "chip=" in sits else f"chip={part}"
        return f"exec {self.program} {self.firmware(part, sits)} {chip} {sits} stats={stats}", stats

    def chip(self, part, options, sits):
        """What the tool says, and what the bench saw."""
        command, stats = self.bench(part, sits)
        done = self.call("chip", part, "--unchecked-pinout", *options.split(), "--on", "link:run:" + command)
        for _ in range(50):
            if os.path.exists(stats) and "lamps" in open(stats, encoding="ascii").read():
                break
            time.sleep(0.05)
        if not os.path.exists(stats):
            raise Failed(f"{part} {options} {sits}: the bench was not asked\n{done.stdout}{done.stderr}")
        seen = dict(line.split() for line in open(stats, encoding="ascii"))
        if int(seen["broken"]):
            raise Failed(f"{part} {sits}: the firmware broke {seen['broken']} rules\n{done.stderr}")
        fitted = sits.split("chip=")[1].split()[0] if "chip=" in sits else part
        if "--grade" not in options and float(seen["longest_row_us"]) > PERIOD_US.get(fitted, 0):
            raise Failed(f"{part} {sits}: a row had no refresh for {seen['longest_row_us']} us")
        return done, seen


def case(bench, part, options, sits, status, verdict, *texts):
    done, seen = bench.chip(part, options, sits)
    said = " ".join(done.stdout.split()).lower()
    if done.returncode != status or f"{part}: {verdict}\n" not in done.stdout or \
            any(text.lower() not in said for text in texts):
        raise Failed(f"{part} {options} {sits}: {done.returncode}, expected {status}, {verdict}, {texts}\n"
                     f"{done.stdout}{done.stderr}")
    lamp = {0: "good", 1: "bad", 3: "off"}[status]
    if seen["lamps"] != lamp and not sits.startswith("reset"):
        raise Failed(f"{part} {sits}: the lamp is {seen['lamps']}, expected {lamp}")


def as_a_terminal(bench):
    """Through a pseudo terminal, and a tube of two chips into a stock file."""
    command, _ = bench.bench("4027", "wide pty=" + bench.folder + "/tty")
    stock = os.path.join(bench.folder, "tube.stock")
    with subprocess.Popen(command.split()[1:], stdout=subprocess.DEVNULL) as child:
        while not os.path.exists(bench.folder + "/tty") or not open(bench.folder + "/tty", encoding="ascii").read():
            time.sleep(0.05)
        name = open(bench.folder + "/tty", encoding="ascii").read().strip()
        done = subprocess.run([bench.tool, "chip", "4027", "--unchecked-pinout", "--march", "MATS+", "--passes", "1",
                               "--queue", "--label", "T", "--lot", "8432", "--stock", stock, "--on", f"link:{name},baud=1000000"], input="\n\nq\n",
                              capture_output=True, text=True, check=False, timeout=60)
        child.terminate()
    if done.returncode or "4027, T2: GOOD" not in done.stdout or "2 good, 0 not." not in done.stdout:
        raise Failed(f"a tube of chips: {done.returncode}\n{done.stdout}{done.stderr}")
    bench.expect(["chip", "stock", stock], 0, "T1", "T2", "good         2 ###")
    bench.expect(["chip", "stock", stock, "--best", "2"], 0, "2 good of 2 asked for: T1, T2")
    bench.expect(["chip", "stock", stock, "--best", "3"], 1, "2 good of 3")
    bench.expect(["chip", "stock", stock, "--best", "0"], 2, "expected a number from 1")
    bench.expect(["chip", "stock", stock, "--part", "4164"], 0, "no chip of part 4164 yet")
    with open(stock, encoding="utf-8") as file:
        mixed = file.read()
    with open(stock + "2", "w", encoding="utf-8") as file:
        file.write(mixed + mixed.replace("4027", "4164"))
    bench.expect(["chip", "stock", stock + "2", "--best", "2"], 2, "several parts: say which with --part")
    bench.expect(["chip", "stock", stock + "2", "--best", "2", "--part", "4164"], 0, "2 good of 2")
    with open(stock, "a", encoding="utf-8") as file:
        file.write("{}\n")
    bench.expect(["chip", "stock", stock], 2, "tube.stock:3: expected a chip's verdict")
    mine = os.path.join(bench.folder, "mine")
    with open(mine, "w", encoding="utf-8") as file:
        file.write("my own notes\n")
    command, _ = bench.bench("4027", "missing")
    bench.expect(["chip", "4027", "--unchecked-pinout", "--stock", mine, "--on", "link:run:" +
                  bench.bench("4027", "stuck=1")[0]], 2, "is left as it is")
    if open(mine, encoding="utf-8").read() != "my own notes\n":
        raise Failed("a file that is no stock file was changed")


def on_a_screen(bench):
    """A queue on a terminal shows its verdict in letters of five lines."""
    command = bench.bench("4027", "row=3")[0]
    child, terminal = pty.fork()
    if not child:
        os.environ.update(TERM="xterm", NO_COLOR="1")
        os.execv(bench.tool, [bench.tool, "chip", "4027", "--unchecked-pinout", "--march", "MATS+", "--passes", "1", "--queue", "--on", "link:run:" + command])
    seen, typed = b"", [b"\n", b"q\n"]
    while select.select([terminal], [], [], 30)[0]:
        try:
            seen += os.read(terminal, 65536)
        except OSError:
            break
        if seen.count(b"(q: end)") == 3 - len(typed) and typed:
            os.write(terminal, typed.pop(0))
    os.waitpid(child, 0)
    if b"####   ###  ####" not in seen or b"0 good, 1 not." not in seen:
        raise Failed(f"a queue on a terminal: {seen!r}")


def in_a_job(bench):
    """The chip in its board, and the same chip on its own pins, in one job."""
    board, job = "demo/boards/halvorn64.yaml", os.path.join(bench.folder, "one.job")
    bench.expect(["job", "new", job, board], 0)
    bench.expect(["verify", board, "U5", "--on", "sim:demo/faults/halvorn64-u5.yaml", "--job", job], 1)
    system = "image=demo/images/halvorn64-system-2.1.bin"
    bench.expect(["verify", board, "U5", "--bare", "--readings", "1", "--job", job, "--on", "link:run:" + bench.bench("27128", system)[0]],
                 0, "It equals")
    bench.expect(["chip", "4027", "--unchecked-pinout", "--label", "spare", "--job", job, "--on", "link:run:" +
                  bench.bench("4027", "row=3")[0]], 1, "1 whole row")
    bench.expect(["job", "show", job], 0, "4027 spare, out of the board: BAD, 1 whole row fails", "verify")
    bench.expect(["chip", "4027", "--unchecked-pinout", "--job", "/none.job", "--on", "link:run:true"], 2, "none.job")


def shmoo(bench, long=False):
    """Supply against time: slower at a low supply, and a pod that cannot step its own."""
    picture = os.path.join(bench.folder, "shmoo.svg")
    rows = (("slow=260 steps late=0.4", "4.39 V"), ("", "the +5 V rail stood still"))
    for sits, text in rows if long else [("wide " + rows[0][0], rows[0][1])]:
        command, stats = bench.bench("4027", sits)
        bench.expect(["chip", "4027", "--unchecked-pinout", "--march", "MATS+", "--passes", "1", "--shmoo", picture, "--on",
                      "link:run:" + command], 0, "4027: GOOD", "+: clean, x: fails, .: not tried", text)
        if "broken 0\n" not in open(stats, encoding="ascii").read():
            raise Failed(f"rules were broken as the supply was stepped: {sits}")
        with open(picture, encoding="utf-8") as file:
            if "<svg" not in file.read(2000):
                raise Failed("the chart is no picture")


def ask(child, line):
    """The answer to a line, which is sent again while none comes: a pod that only just starts hears nothing."""
    seen = b""
    for _ in range(60):
        child.stdin.write(line.encode() + b"\n")
        while select.select([child.stdout], [], [], 0.5)[0]:
            seen += os.read(child.stdout.fileno(), 4096)
            for answer in seen.split(b"\n")[:-1]:  # the simulator speaks first
                if answer.startswith(line[:3].encode()):
                    return answer.decode().strip()
    raise Failed(f"no answer to {line}: {seen!r}")


def wide_roms(bench):
    """EPROMs of three supplies; and, by a talk with the pod alone, of sixteen data lines."""
    image, written = os.path.join(bench.folder, "own.bin"), os.path.join(bench.folder, "read.bin")
    contents = random.Random(5).randbytes(1024)
    with open(image, "wb") as file:
        file.write(contents)
    command, stats = bench.bench("2708", f"image={image}")
    bench.expect(["dump", "2708", "--bare", "--force", "--write", written, "--on", "link:run:" + command], 0,
                 "All 3 readings agree.")
    with open(written, "rb") as file:
        if file.read() != contents:
            raise Failed("2708: what was read is not what the chip holds")
    if "broken 0\n" not in open(stats, encoding="ascii").read():
        raise Failed("2708: rules were broken")
    command = bench.bench("2708", "no-minus5")[0]
    bench.expect(["dump", "2708", "--bare", "--on", "link:run:" + command], 2, "the -5 V rail does not come up")
    said = ["01 hello", "02 fit rom 6 FFFF FA 1", "03 power on", "04 hello", "05 read 00 8", "06 read 3F 1", "07 power off"]
    command, stats = bench.bench("27210", f"image={image}")
    with subprocess.Popen(["sh", "-c", command], stdin=subprocess.PIPE, stdout=subprocess.PIPE, bufsize=0) as child:
        answers = [ask(child, line) for line in said]
        child.stdin.close()
    words = [f"{contents[i + 1]:02X}{contents[i]:02X}" for i in range(0, 128, 2)]
    if answers[4] != "05 ok " + "".join(words[:8]) or answers[5] != "06 ok " + words[0x3F]:
        raise Failed(f"27210: {answers}, expected {words[:8]} and {words[0x3F]}")
    if "broken 0\n" not in open(stats, encoding="ascii").read():
        raise Failed("27210: rules were broken")


def bad_cable(bench):
    """A noisy line costs time only; one that is cut is said, and says nothing of the chip."""
    for cable, status, text in ((noisy(3, 400), 0, "4027: GOOD"), (noisy(4, 0, 3000), 3, "The far end closed the link."),
                                (noisy(5, 0, 700), 3, "the far end closed the link")):
        command = bench.bench("4027", "")[0].replace("exec ", "")
        bench.expect(["chip", "4027", "--unchecked-pinout", "--on", "link:run:" + cable + command], status, text)


def refused(bench):
    on = "link:run:" + bench.bench("4164", "")[0]
    bench.expect(["chip", "4116", "--on", on], 2, "--unchecked-pinout")
    bench.expect(["chip", "27080", "--on", on], 2, "is a ROM, and is read")
    bench.expect(["chip", "2114", "--unchecked-pinout", "--on", on], 2, "2114 is an SRAM")
    bench.expect(["chip", "4416", "--unchecked-pinout", "--on", on], 2, "has 4 data lines, this pod 1")
    bench.expect(["chip", "511000", "--unchecked-pinout", "--on", on], 2, "has 10 address pins, this pod 9")
    bench.expect(["chip", "4117", "--on", on], 2, "did you mean 4116?")
    bench.expect(["chip", "4164"], 2, "say where the pod is")
    bench.expect(["chip", "4164", "--on", "sim:"], 2, "say where the pod is")
    bench.expect(["chip", "4164", "--passes", "0", "--on", on], 2, "from 1 to 1000000")
    bench.expect(["chip", "4164", "--best", "2", "--on", on], 2, "--best goes with stock")
    bench.expect(["chip", "4164", "--queue", "--json", "-", "--on", on], 2, "--json is of one chip")
    bench.expect(["chip", "4164", "--on", "link:run:examples/far_end.py"], 2, "is no pod")
    bench.expect(["chip", "4164", "--on", "link:run:true"], 3, "the far end closed the link")
    bench.expect(["chip", "stock", "/none/stock"], 2, "No such file")


def read_bare(bench):
    """ROMs on their own pins: dump, verify and identify as in a board."""
    board, images = "demo/boards/halvorn64.yaml", "demo/images/halvorn64-"
    written = os.path.join(bench.folder, "u52.bin")

    def on(part, sits):
        command, stats = bench.bench(part, sits)
        return "link:run:" + command, stats

    pod, stats = on("2716", f"image={images}characters-2.bin")
    bench.expect(["dump", board, "U52", "--bare", "--on", pod, "--write", written], 0, "All 3 readings agree.")
    with open(written, "rb") as one, open(images + "characters-2.bin", "rb") as other:
        if one.read() != other.read():
            raise Failed("what was read is not what the chip holds")
    if "broken 0\n" not in open(stats, encoding="ascii").read():
        raise Failed("rules were broken as a ROM was read")
    system = f"image={images}system-2.1.bin"
    once = ["--bare", "--readings", "1"]
    bench.expect(["verify", board, "U5", *once, "--on", on("27128", system)[0]], 0, "It equals")
    bench.expect(["verify", board, "U5", *once, "--on", on("27128", system + " stuck=3:1")[0]], 1,
                 "D3 (U5 pin 15) always reads 1")
    bench.expect(["verify", board, "U5", *once, "--on", on("27128", system + " open=6")[0]], 1, "A6 (U5 pin 4)")
    bench.expect(["identify", board, "U5", "--bare", "--catalogue", "demo/catalogue.yaml", "--on",
                  on("27128", system)[0]], 0, "version 2.1")
    bench.expect(["verify", "27C128-25", images + "system-2.1.bin", *once, "--on", on("27128", system)[0]], 0, "It equals", "X1 (27128)")
    bench.expect(["verify", "27128", images + "system-2.0.bin", *once, "--on", on("27128", system)[0]], 1, "503 of")
    bench.expect(["identify", "27128", "--bare", "--catalogue", "demo/catalogue.yaml", "--on", on("27128", system)[0]], 0,
                 "version 2.1")
    bench.expect(["dump", "27129", "--bare", "--on", "link:run:true"], 2, "expected a board file and a socket")
    for sits, text in (("missing", "nothing is in the socket"), ("reversed", "wrong way round"),
                       ("short", "supply pin is shorted")):
        bench.expect(["dump", board, "U5", "--bare", "--on", on("27128", sits)[0]], 2, text)
    bench.expect(["dump", board, "U5", "--bare", "--on", on("4164", "")[0]], 2, "this pod's socket is for others")
    bench.expect(["dump", board, "U18", "--bare", "--on", on("27128", "")[0]], 2, "loses its contents when it is pulled")
    bench.expect(["dump", board, "U5", "--bare", "--on", "link:run:examples/far_end.py"], 2, "is no pod")
    bench.expect(["chip", "27128", "--on", "link:run:true"], 2, "is a ROM, and is read")


def seconds(bench):
    """What the pod itself needs: a march on 64K x 1, and one reading of 8 KiB. Lines as the tool sends them."""
    def run(part, asks):
        command, stats = bench.bench(part, "")
        with subprocess.Popen(command.split()[1:], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as child:
            time.sleep(0.3)
            for number, ask in enumerate(["hello", "hello"] + asks):
                child.stdin.write(f"\n{number:02X} {ask}\n")
                child.stdin.flush()
                while not child.stdout.readline().startswith(f"{number:02X} ok") and number:
                    pass
        return float(dict(line.split() for line in open(stats, encoding="ascii"))["seconds"])

    def more(part, fit, asks):
        begin = [fit, "power on", "hello"]
        return run(part, begin + asks) - run(part, begin)

    elements = [f"element 0000 FFFF {'FFFF' if order == 'down' else '0000'} 0 {order} {ops} 0 1 10000 6"
                for order, ops in (("up", "w0"), ("up", "r0,w1"), ("up", "r1,w0"), ("down", "r0,w1"),
                                   ("down", "r1,w0"), ("up", "r0"))]
    march = more("4164", "fit dram 10 8 80 1", elements)
    reading = more("2764", "fit rom D FF FA 1", [f"read {a:04X} 40" for a in range(0, 8192, 64)])
    print(f"64K x 1, March C-: {march:.2f} s of pod time (aim 3.5)\n8 KiB EPROM, one reading: {reading:.2f} s (aim 1)")
    return 0 if march <= 3.5 and reading <= 1 else 1


def random_static(random_, part):
    """The same of an SRAM."""
    lines, bits = {"2102": (10, 1), "93422": (8, 4), "2114": (10, 4), "6116": (11, 8)}[part]
    bit, level = random_.randrange(bits), random_.randrange(2)
    return random_.choice((
        ("", ("GOOD",)), ("", ("GOOD",)), ("missing", ("EMPTY",)), ("reversed", ("WRONG WAY ROUND",)),
        ("short", ("SHORTED",)), (f"stuck={bit}:{level}", ("BAD",)), (f"open={random_.randrange(lines - 1)}", ("BAD",)),
        (f"open={lines - 1}", ("NOT AS MARKED",)),
        (f"cell={random_.randrange(1 << lines):x}:{bit}:{level}", ("BAD",)),
        (f"slow={random_.randrange(9000, 20000)}", ("BAD",)), (f"slow={random_.randrange(20, 45)}", ("GOOD",))))


def random_wide(random_):
    """The same of a DRAM of four bits; faults of its first."""
    row, column, level = random_.randrange(256), random_.randrange(64), random_.randrange(2)
    return random_.choice((
        ("", ("GOOD",)), ("missing", ("EMPTY",)), ("reversed", ("WRONG WAY ROUND",)), (f"stuck={level}", ("BAD",)),
        (f"open={random_.randrange(1, 6)}", ("BAD",)), (f"row={row}", ("BAD",)), (f"column={column}", ("BAD",)),
        (f"stuck-cell={row}:{column}:{level}", ("BAD",)), (f"no-rise={row}:{column}", ("BAD",)),
        (f"coupled={row}:{column}:{level}:{(row + 1) % 256}:{column}", ("BAD",)),
        (f"weak={row}:{random_.uniform(0.1, 2):.2f}", ("BAD",))))


def random_chip(random_, part):
    """A fault, and the verdicts that are right."""
    if part == "4416":
        return random_wide(random_)
    if part not in NARROW:
        return random_static(random_, part)
    rows = {"4027": 64, "4116": 128}[part]
    row, column, level = random_.randrange(rows), random_.randrange(rows), random_.randrange(2)
    lines = {"4027": 6, "4116": 7}[part]
    choices = (
        ("", ("GOOD",)), ("", ("GOOD",)), ("", ("GOOD",)), ("missing", ("EMPTY",)), ("reversed", ("WRONG WAY ROUND",)),
        ("short", ("SHORTED",)), ("no-minus5", ("BAD",)), ("low12", ("BAD",)), (f"stuck={level}", ("BAD",)),
        (f"open={random_.randrange(lines - 1)}", ("BAD",)), (f"open={lines - 1}", ("NOT AS MARKED",)),
        (f"row={row}", ("BAD",)), (f"column={column}", ("BAD",)),
        (f"half={random_.randrange(lines)}:{level}", ("HALF GOOD",)),
        (f"half={9 + random_.randrange(lines)}:{level}", ("HALF GOOD",)),
        (f"stuck-cell={row}:{column}:{level}", ("BAD",)), (f"no-rise={row}:{column}", ("BAD",)),
        (f"no-fall={row}:{column}", ("BAD",)),
        (f"coupled={row}:{column}:{level}:{(row + 1) % rows}:{column}", ("BAD",)),
        (f"weak={row}:{random_.uniform(0.1, 0.7 if part == '4027' else 1.5):.2f}", ("BAD",)),
        (f"slow={random_.randrange(700, 2000)}", ("BAD",)),
        (f"slow={random_.randrange(80, 220)}", ("GOOD",)),
    )
    return random_.choice(choices)


def sweep(bench, count, seed):
    random_ = random.Random(seed)
    chips = [(part, *random_chip(random_, part)) for part in
             (random_.choice(("4027", "4027", "4116", "2102", "93422", "2114", "6116", "4416")) for _ in range(count))]
    wrong = good_failed = 0

    def one(chip):
        part, sits, right = chip
        done, _ = bench.chip(part, "", sits)
        return chip, done.stdout.split("\n", maxsplit=1)[0].split(": ")[-1], done.stdout

    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        for (part, sits, right), verdict, text in pool.map(one, chips):
            if verdict not in right:
                wrong += 1
                good_failed += right == ("GOOD",)
                print(f"{part} {sits}: {verdict}, right is {right}\n{text}")
    print(f"{count} chips: {count - wrong} right verdicts; {good_failed} good chips failed; no rule broken, no supply "
          "given that a check should have stopped, no row without refresh longer than its period")
    return 1 if wrong > count / 300 or good_failed else 0


def main():
    os.chdir(sys.argv[2])
    bench = PodBench(sys.argv[1])
    bench.build_firmware()
    if sys.argv[3:4] == ["seconds"]:
        sys.exit(seconds(bench))
    if sys.argv[3:] == ["long"]:
        for row in LONG:
            case(bench, *row)
        shmoo(bench, True)
        shutil.rmtree(bench.folder)
        return
    if len(sys.argv) > 3:
        sys.exit(sweep(bench, int(sys.argv[4]), int(sys.argv[5])))
    with concurrent.futures.ThreadPoolExecutor(3) as pool:
        for done in [pool.submit(case, bench, *row) for row in CASES] + [pool.submit(as_a_terminal, bench),
                                                                         pool.submit(on_a_screen, bench),
                                                                         pool.submit(in_a_job, bench),
                                                                         pool.submit(shmoo, bench),
                                                                         pool.submit(wide_roms, bench),
                                                                         pool.submit(bad_cable, bench),
                                                                         pool.submit(read_bare, bench),
                                                                         pool.submit(refused, bench)]:
            done.result()
    shutil.rmtree(bench.folder)


if __name__ == "__main__":
    main()
