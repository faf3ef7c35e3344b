#!/usr/bin/env python3
"""A board behind a debug link: far ends of several kinds, written here from the protocol's description
alone, with a memory that has a fault or none, or is the simulated board; and real ones.

Usage: gdb.py BUILD SOURCE [CUT-LINKS]"""

import concurrent.futures
import json
import os
import random
import re
import shutil
import socket
import subprocess
import sys
import threading
import time

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
from common import FAULTS, LAMP, Bench, Failed, SimulatedMemory  # noqa: E402

WIDE = "demo/shapes/even-and-odd.yaml"  # 16-bit words, the byte with D8 first


class FarEnd(threading.Thread):
    """Listens, serves one connection after the other."""

    def __init__(self, kind, stuck=None, lost_after=3000):
        super().__init__(daemon=True)
        self.lost_after = lost_after
        self.kind, self.stuck = kind, stuck
        self.memory = bytearray(random.Random(3).randbytes(0x10000))
        self.touched = set()
        self.woken = False
        self.acks = True
        self.served = 0
        self.dice = random.Random(9)
        self.listener = socket.create_server(("127.0.0.1", 0))
        self.port = self.listener.getsockname()[1]
        self.start()

    def run(self):
        while True:
            link, _ = self.listener.accept()
            link.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            self.acks, self.woken = True, False
            try:
                self.serve(link)
            except (ConnectionError, EOFError):
                pass
            link.close()

    def serve(self, link):
        self.link, self.buffer = link, b""
        while True:
            byte = self.take()
            if byte == b"\x03" and "hangs" in self.kind and "deaf" not in self.kind:
                self.say("T02thread:1;")
            if byte != b"$":
                continue
            body = b""
            while (byte := self.take()) != b"#":
                body += byte
            check = int(self.take() + self.take(), 16)
            if sum(body) & 255 != check:
                link.sendall(b"-")
                continue
            self.served += 1
            if "damaged" in self.kind and self.served % 97 == 0:
                link.sendall(b"-")  # as if it had arrived damaged
                continue
            if self.acks:
                link.sendall(b"+")
            if "lost" in self.kind and self.served > self.lost_after:
                raise EOFError
            if "unasked" in self.kind and self.served % 50 == 0:
                self.say("T05thread:1;")
            self.say(self.answer(body.decode()))

    def take(self):
        if not self.buffer:
            self.buffer = self.link.recv(4096)
            if not self.buffer:
                raise EOFError
        byte, self.buffer = self.buffer[:1], self.buffer[1:]
        return byte

    def say(self, text):
        if text is None:
            return  # silence
        if "runs" in self.kind:
            packed, i = "", 0
            while i < len(text):
                n = 1
                while i + n < len(text) and text[i + n] == text[i] and n < 90:
                    n += 1
                packed += text[i]
                more = n - 1
                if more >= 3 and chr(more + 29) not in "#$":
                    packed += "*" + chr(more + 29)
                else:
                    packed += text[i] * more
                i += n
            text = packed
        packet = f"${text}#{sum(text.encode()) & 255:02x}".encode()
        if "split" in self.kind and self.dice.random() < 0.05:
            self.link.sendall(packet[:3])
            self.link.sendall(packet[3:])
        else:
            self.link.sendall(packet)

    def read(self, address):
        self.touched.add(address)
        value = self.memory[address]
        if self.stuck and self.stuck[0] <= address <= self.stuck[1]:
            value |= self.stuck[2]
        return value

    def answer(self, body):
        if body.startswith("qSupported"):
            return "PacketSize=80;swbreak-" if "small" in self.kind else "swbreak-"
        if body == "QStartNoAckMode":
            if "noack" in self.kind:
                self.acks = False
                return "OK"
            return ""
        if body == "?":
            self.woken = True
            return "S05"
        if "asleep" in self.kind and not self.woken:
            return "E01"
        if body[0] == "H":
            return "OK"
        if body[0] == "m":
            address, count = (int(x, 16) for x in body[1:].split(","))
            if "small" in self.kind and 2 * count > 0x80 - 4:
                return None
            if address + count > len(self.memory):
                return "E14"
            return "".join(f"{self.read(a):02x}" for a in range(address, address + count))
        if body[0] == "M":
            where, data = body[1:].split(":")
            address, count = (int(x, 16) for x in where.split(","))
            if "readonly" in self.kind:
                return "E22"
            for i in range(count):
                self.touched.add(address + i)
                self.memory[address + i] = int(data[2 * i:2 * i + 2], 16)
            return "OK"
        return ""


def call(tool, *words):
    return subprocess.run([tool, *words], capture_output=True, text=True, check=False, timeout=120)


def expect(done, status, *texts):
    if done.returncode != status or any(t not in done.stdout + done.stderr for t in texts):
        sys.exit(f"{done.args}: status {done.returncode}, expected {status} and {texts}\n"
                 f"{done.stdout}\n{done.stderr}")


class SimulatedFarEnd(FarEnd):
    """A far end whose memory is the simulated board."""

    def __init__(self, bench, faults, kind="", lost_after=0):
        self.board = SimulatedMemory(bench.far_end(LAMP, faults), 0xFFF)
        super().__init__(kind, lost_after=lost_after)

    def answer(self, body):
        if body[0] == "m":
            address, count = (int(x, 16) for x in body[1:].split(","))
            return "".join(f"{self.board.read(a):02x}" for a in range(address, address + count))
        if body[0] == "M":
            where, data = body[1:].split(":")
            for i, address in enumerate(range(int(where.split(",")[0], 16), int(where.split(",")[0], 16) + len(data) // 2)):
                self.board.write(address, int(data[2 * i:2 * i + 2], 16))
            return "OK"
        return super().answer(body)


# processor: bytes of all registers; where the program counter, the stack and, of some, what keeps
# interrupts off lie among them, how many bytes, in which order, the bits that keep them off, and as they must be
PROCESSORS = {"68000": (180, 68, 60, 64, 4, "big", 0x700, 0x700), "8086": (128, 32, 16, 36, 4, "little", 0x300, 0),
              "Z80": (26, 10, 8, None, 2, "little", 0, 0)}


class RunningFarEnd(FarEnd):
    """A far end with a processor that runs what lies in its memory, up to a breakpoint."""

    def __init__(self, bench, board, faults, processor, kind="noack"):
        self.child = subprocess.Popen([f"{bench.build}/tests/test-monitor", board, faults, processor, "silent"],
                                      stdin=subprocess.PIPE, stdout=subprocess.PIPE)
        self.ask("")
        self.processor, self.breakpoint, self.runs = PROCESSORS[processor], None, 0
        self.registers = random.Random(5).randbytes(self.processor[0])
        self.before = self.registers
        super().__init__(kind)

    def ask(self, command):
        self.child.stdin.write(command.encode() + b"\r" if command else b"")
        self.child.stdin.flush()
        answer = b""
        while not answer.endswith(b"- "):
            answer += self.child.stdout.read1(4096)
        return answer[:-2].decode()

    def register(self, offset):
        return int.from_bytes(self.registers[offset:offset + self.processor[4]], self.processor[5])

    def answer(self, body):
        if body[0] == "m":
            address, count = body[1:].split(",")
            return self.ask(f"bytes {address} {count}")
        if body[0] == "M":
            where, data = body[1:].split(":")
            for i in range(len(data) // 2):
                self.ask(f"poke {int(where.split(',')[0], 16) + i:x} {data[2 * i:2 * i + 2]}")
            return "OK"
        if body == "g":
            return "" if "bare" in self.kind else self.registers.hex()
        if body[0] == "G":
            self.registers = bytes.fromhex(body[1:])
            return "E07" if "kept" in self.kind else "OK"
        if body[0] in "Zz":
            self.breakpoint = int(body[3:].split(",")[0], 16)
            return "" if "unknown" in self.kind else "OK"
        if body == "c" and "hangs" in self.kind:
            self.runs += 1
            return None  # it runs on, and says nothing
        if body == "c":
            _, pc, stack, flags, _, _, bits, off = self.processor
            if flags and self.register(flags) & bits != off:
                return "X0b"  # an interrupt came
            self.runs += 1
            answer = self.ask(f"jump {self.register(pc):x} {self.register(stack):x} {self.breakpoint:x}")
            self.registers = bytearray(self.registers)
            ends = (self.breakpoint + ("astray" in self.kind) * 9).to_bytes(self.processor[4], self.processor[5])
            self.registers[pc:pc + len(ends)] = ends
            return "X0b" if answer or "dies" in self.kind else "T05thread:1;"
        return super().answer(body)


RUNNING = (("ostrel16", "68000", "0x40000-0x403FF", "U37", "{kind: cell stuck, socket: U37, bit: D9, cell: 0x155, level: 0}"),
           ("quarle", "8086", "0x00600-0x009FF", "U35", "{kind: data pin open, socket: U35, bit: D4}"),
           ("halvorn64", "Z80", "0x8400-0x87FF", "U12", "{kind: transition, socket: U12, bit: D6, address: 0x2123, level: 0}"))


def loaded(bench, name, processor, memory, socket, fault):
    """Elements that the far end's processor runs find what the simulated board shows; its registers are put back."""
    board, faults = os.path.join(bench.folder, f"{name}.yaml"), os.path.join(bench.folder, f"loaded-{name}.faults")
    with open(faults, "w", encoding="utf-8") as file:
        file.write(f"world-seed: 5\nfaults: [{fault}]\n")
    with open(f"demo/boards/{name}.yaml", encoding="utf-8") as old, open(board, "w", encoding="utf-8") as new:
        new.write(old.read().replace("../images/", os.path.abspath("demo/images") + "/"))
        if processor == "68000":
            new.write("byte-order: high first\n")
    end, more = RunningFarEnd(bench, board, faults, processor), ("--passes", "1")
    one, other = bench.result(board, f"gdb:memory={memory},127.0.0.1:{end.port}", "--load", *more), \
        bench.result(board, f"sim:{faults}", *more)
    left = [r["reason"] for r in one["not_tested"] if "routine" in r["reason"]]
    if len(left) != 1 or [s["site"] for s in one["suspects"]] != [s["site"] for s in other["suspects"]] or \
            one["suspects"][0]["site"] != socket:
        raise Failed(f"{name}: {[[s['site'] for s in r['suspects']] for r in (one, other)]}, {left}")
    if end.registers != end.before or not 10 < end.runs < 1000:
        raise Failed(f"{name}: {end.runs} runs, registers {end.registers.hex()}")


def not_loaded(bench):
    """What the far end cannot do, what was not named, and what is named wrongly."""
    board, memory = "demo/boards/halvorn64.yaml", "memory=0x8400-0x87FF,"

    def refused(kind, options, status, *texts):
        end = RunningFarEnd(bench, board, "-", "Z80", f"noack {kind}")
        bench.expect(["test", board, "--on", f"gdb:{options}127.0.0.1:{end.port}", "--load", "--passes", "1",
                      "--range", "0x9000-0x9FFF"], status, *texts)
        if end.registers != end.before and "kept" not in kind and "deaf" not in kind:
            raise Failed(f"{kind}: registers {end.registers.hex()}")

    refused("", "", 2, "name memory for it: gdb:memory=FIRST-LAST,HOST:PORT")
    refused("", "memory=8400-,", 2, "gdb:memory=FIRST-LAST,... like")
    refused("", "memory=0x8400-0x84FF,", 2, "0x8400-0x84FF, which memory= names, is less than 512 bytes")
    refused("", "memory=0x5000-0x53FF,", 2, "0x5000-0x53FF, which memory= names, is no RAM of the board")
    refused("", memory + "processor=6502,", 2, "gdb:processor=NAME,... with Z80, 68000 or 8086")
    refused("", memory + "processor=68000,", 2, "test-rom section says that its processor is a Z80")
    refused("bare", memory, 3, 'answers "" to the question for its registers')
    refused("kept", memory, 3, 'answers "E07" to the setting of its registers')
    refused("astray", memory, 3, "what was started stopped at 0x", "not at its end")
    refused("dies", memory, 3, 'answers "X0b" to going on')
    refused("hangs", memory + "wait=300,", 3, "what was started did not come to its end within 0.3 s")
    refused("hangs deaf", "wait=300," + memory, 3, "not complete", "the far end does not answer")
    refused("", memory + "wait=5,", 2, "gdb:wait=MS,... with 100 to 3600000 milliseconds")
    refused("", "wait=0x200," + memory, 2, "gdb:wait=MS,...")
    refused("unknown", "wait=60000,processor=Z80," + memory, 0, "No fault found")  # the instruction there is a breakpoint
    bench.expect(["test", LAMP, "--on", f"gdb:memory=0-0x1FF,{SimulatedFarEnd(bench, bench.fault_file(1)).port}",
                  "--load"], 2, "gdb:HOST:PORT")
    end = SimulatedFarEnd(bench, bench.fault_file(1), "noack")
    bench.expect(["test", LAMP, "--on", f"gdb:memory=0-0x1FF,127.0.0.1:{end.port}", "--load"], 2, "name the processor")


def same(bench, number):
    """The same places and confidences as of the simulated board by itself; the far end damages packets."""
    faults = bench.fault_file(number)
    end = SimulatedFarEnd(bench, faults, "damaged")
    bench.same(LAMP, f"sim:{faults}", f"gdb:127.0.0.1:{end.port}", "--range", "0x000-0x0FF", "--passes", "1",
               conditions=False)


def cut_off(bench, seed):
    """The link ends at a random moment: what was found is kept, and --resume reaches the same result."""
    faults, run = bench.fault_file(3), os.path.join(bench.folder, f"cut-{seed}.run")
    small = ("--range", "0x000-0x0FF", "--passes", "2")
    direct = bench.result(LAMP, f"sim:{faults}", *small)
    end = SimulatedFarEnd(bench, faults, "lost", random.Random(seed).randrange(30, 5000))
    bench.expect(["test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", *small, "--record", run], 3,
                 "the far end closed the link", f"test --resume {run}")
    end.kind = ""  # it is mended
    result = json.loads(bench.expect(["test", "--resume", run, "--json", "-"], 1).stdout)
    if result["suspects"] != direct["suspects"]:
        raise Failed(f"after --resume: {result['suspects']}\n{direct['suspects']}")


def by_blocks(bench):
    """--blocks asks far less often, finds what stays, and says what it no longer finds."""
    served = []
    for more in ((), ("--blocks",)):
        end = SimulatedFarEnd(bench, bench.fault_file(1), "noack")
        done = bench.expect(["test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", "--passes", "1", *more], 1,
                            "one cell fails, at 0x023")
        served.append(end.served)
    if served[1] * 8 > served[0] or "CFid 100 to 50 %" not in " ".join(done.stdout.split()):
        raise Failed(f"packets {served}\n{done.stdout}")


BOARD = """board: bench
word: 8
address-lines: 24
regions:
  - {name: ram, range: FIRST-LAST, kind: ram}
  - {name: bios, range: 0x0F0000-0x0FFFFF, kind: rom}
banks:
  - {name: ram, range: FIRST-LAST, part: 2114, lines: A0-A9, data: {U2: D0-D3, U3: D4-D7}}
  - {name: bios, range: 0x0F0000-0x0FFFFF, part: 27512, lines: A0-A15, data: {U1: D0-D7}}
sockets:
  - {names: U1-U3, mount: socket, at: [20, 30], step: [20, 0]}
drawing: {width: 90, height: 60}
"""


WIDE_BOARD = """board: bench
word: 16
addresses: bytes
address-lines: 20
regions: [{name: ram, range: 0x00000-0x1FFFF, kind: ram}]
banks:
  - {name: one, range: 0x00000-0x0FFFF, part: 62256, lines: A1-A15, data: {U2: D0-D7, U3: D8-D15}}
  - {name: two, range: 0x10000-0x1FFFF, part: 62256, lines: A1-A15, data: {U4: D0-D7, U5: D8-D15}}
sockets: [{names: U2-U5, mount: socket, at: [20, 30], step: [20, 0]}]
drawing: {width: 90, height: 60}
"""


def board_file(bench, first):
    name = os.path.join(bench.folder, f"board-{first:X}.yaml")
    with open(name, "w", encoding="utf-8") as file:
        file.write(BOARD.replace("FIRST", f"0x{first:06X}").replace("LAST", f"0x{first + 0x3FF:06X}"))
    return name


def debug_server(bench):
    """gdbserver, on a program whose array is the board."""
    program = os.path.join(bench.folder, "board")
    subprocess.run(["cc", "-no-pie", "-static", "tests/links/gdb_board.c", "-o", program,
                    "-Wl,--section-start=.board=0x600000"], check=True)
    server = subprocess.Popen(["gdbserver", "--once", "127.0.0.1:0", program], stderr=subprocess.PIPE,
                              stdout=subprocess.DEVNULL, text=True)
    try:
        port = next(m.group(1) for m in (re.search(r"on port (\d+)", line) for line in server.stderr) if m)
        bench.expect(["test", board_file(bench, 0x600000), "--on", f"gdb:127.0.0.1:{port}", "--passes", "1"], 0,
                     "No fault found")
    finally:
        server.terminate()
        server.wait()


def emulator(bench):
    """QEMU's stub on a PC with an ISA bus: RAM, a hole that says OK to every write, its BIOS, and nothing."""
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    child = subprocess.Popen(["qemu-system-i386", "-M", "isapc", "-m", "1", "-S", "-display", "none", "-gdb",
                              f"tcp:127.0.0.1:{port}"], stderr=subprocess.DEVNULL)
    try:
        for _ in range(100):
            try:
                socket.create_connection(("127.0.0.1", port), 1).close()
                break
            except OSError:
                time.sleep(0.1)
        on, board = f"gdb:127.0.0.1:{port}", board_file(bench, 0x020000)
        bench.expect(["test", board, "--on", on, "--passes", "1"], 0, "No fault found")
        image = os.path.join(bench.folder, "bios")
        bench.expect(["dump", board, "U1", "--on", on, "--readings", "1", "--write", image], 0)
        with open(image, "rb") as one, open("/usr/share/seabios/bios.bin", "rb") as other:
            if one.read() != other.read()[-0x10000:]:
                raise Failed("the image is not the BIOS that the emulator was given")
        # its processor runs elements, over more than one segment
        wide = os.path.join(bench.folder, "wide.yaml")
        with open(wide, "w", encoding="utf-8") as file:
            file.write(WIDE_BOARD)
        bench.expect(["test", wide, "--on", f"gdb:processor=8086,memory=0x08000-0x083FF,127.0.0.1:{port}", "--load",
                      "--passes", "1"], 0, "No fault found", "by a routine at 0x08000-0x083FF")
        # a hole takes every write and keeps none; beyond the memory there is an error
        bench.expect(["test", board_file(bench, 0x0A0000), "--on", on, "--passes", "1"], 1,
                     "no chip of the ram bank answers")
        bench.expect(["test", board_file(bench, 0x800000), "--on", on, "--passes", "1"], 3, 'answers "E14"')
    finally:
        child.kill()
        child.wait()


def main():
    tool = os.path.join(sys.argv[1], "rimeglass")
    os.chdir(sys.argv[2])
    quick = ["--passes", "1", "--plan", "quick"]

    for kind in ("plain", "noack", "asleep", "runs", "unasked", "split", "damaged", "small noack runs"):
        end = FarEnd(kind)
        expect(call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", *quick), 0, "No fault found",
               "Through a debug link (about ", "cache")
        if not end.touched <= set(range(0x400)):
            sys.exit(f"{kind}: it touched {sorted(end.touched - set(range(0x400)))[:4]}")

    end = FarEnd("noack", stuck=(0, 0x3FF, 0x20))
    done = call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", *quick, "--json", "-")
    if json.loads(done.stdout)["suspects"][0]["site"] != "U3":
        sys.exit("U3 is not named: " + done.stdout[:400])
    expect(call(tool, "probe", LAMP, "0x100", "--on", f"gdb:127.0.0.1:{end.port}"), 1, "U3")

    # words of 16 bits, the high byte first: D12 is bit 4 of the byte at the even address
    end = FarEnd("noack", stuck=None)
    base = end.read
    end.read = lambda a: base(a) | (0x10 if a < 0x4000 and a % 2 == 0 else 0)
    done = call(tool, "test", WIDE, "--on", f"gdb:127.0.0.1:{end.port}", "--range", "0x0000-0x03FF",
                *quick, "--json", "-")
    if json.loads(done.stdout)["suspects"][0]["site"] != "U6":
        sys.exit("U6 is not named: " + done.stdout[:400])

    # a ROM is read in blocks, to what the far end holds
    end = FarEnd("small")
    image = os.path.join(os.environ.get("TMPDIR", "/tmp"), f"gdb-{os.getpid()}.bin")
    expect(call(tool, "dump", LAMP, "U1", "--on", f"gdb:127.0.0.1:{end.port}", "--write", image), 0)
    with open(image, "rb") as file:
        if file.read() != end.memory[0x800:0x1000]:
            sys.exit("the image is not what the far end holds")
    os.unlink(image)

    # what goes wrong is said, and is no fault of the memory
    end = FarEnd("readonly")
    expect(call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", *quick), 3, "not complete",
           'the last error of the link: the far end answers "E22" to ')
    end = FarEnd("lost")
    expect(call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", *quick), 3, "not complete",
           "the last error of the link: ")
    expect(call(tool, "test", LAMP, "--on", "gdb:127.0.0.1:1", *quick), 2, "gdb:127.0.0.1:1")
    expect(call(tool, "test", LAMP, "--on", "gdb:", *quick), 2, "gdb:HOST:PORT")
    mute = socket.create_server(("127.0.0.1", 0))
    expect(call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{mute.getsockname()[1]}", *quick), 2,
           "does not answer")

    def flood(server):
        link, _ = server.accept()
        try:
            while True:
                link.sendall(b"$" * 4096)
        except OSError:
            link.close()

    babble = socket.create_server(("127.0.0.1", 0))
    threading.Thread(target=flood, args=(babble,), daemon=True).start()
    expect(call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{babble.getsockname()[1]}", *quick), 2,
           "the far end sends, but no answer to what was asked")
    bench = Bench(sys.argv[1])
    with concurrent.futures.ThreadPoolExecutor(3) as pool:
        calls = [pool.submit(same, bench, n) for n in range(len(FAULTS))]
        calls += [pool.submit(cut_off, bench, seed) for seed in range(int((sys.argv + ["6"])[3]))]
        calls += [pool.submit(by_blocks, bench), pool.submit(not_loaded, bench), pool.submit(debug_server, bench), pool.submit(emulator, bench)]
        calls += [pool.submit(loaded, bench, *row) for row in RUNNING]
        for done in calls:
            done.result()
    shutil.rmtree(bench.folder)
    print("gdb: 8 kinds of far end, healthy and not; ten faults; cut links; a debug server; an emulator")


if __name__ == "__main__":
    main()
