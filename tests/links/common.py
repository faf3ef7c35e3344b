"""What the tests of ways to a board share: calls of the tool, results without what differs by nature, a
cable, ten faults, and a memory that is the simulated board behind a far end."""
import json
import os
import subprocess
import sys
import tempfile

LAMP = "demo/boards/lampdriver.yaml"  # RAM at 0x000-0x3FF, U2 D0-D3, U3 D4-D7
# what differs by nature: clocks, the name of the target, and what is said of the way there
OTHER = ("target", "seconds_target", "seconds_wall", "not_reached")
FAULTS = (  # of the lamp driver
    "{kind: output stuck, socket: U3, bit: D5, level: 1}",
    "{kind: cell stuck, socket: U2, bit: D1, address: 0x23, level: 0}",
    "{kind: transition, socket: U3, bit: D7, address: 0x11, level: 1}",
    "{kind: address pin open, socket: U2, pin: A3}",
    "{kind: data pin open, socket: U3, bit: D6}",
    "{kind: data line stuck, line: D2, level: 0}",
    "{kind: chip missing, socket: U2}",
    "{kind: never written, socket: U3}",
    "{kind: lines touch, line: D1, with: D2}",
    "{kind: address line stuck, bank: lamp, line: A4, level: 0}",
)


class Failed(Exception):
    pass


class Bench:
    def __init__(self, build):
        self.build, self.folder = os.path.abspath(build), tempfile.mkdtemp()
        self.tool = os.path.join(self.build, "rimeglass")
        for number, fault in enumerate(FAULTS):  # once, for the tests run side by side
            with open(self.fault_file(number), "w", encoding="utf-8") as file:
                file.write(f"faults:\n  - {fault}\n")

    def call(self, *words):
        return subprocess.run([self.tool, *words], capture_output=True, text=True, check=False, timeout=240)

    def expect(self, words, status, *texts):
        done = self.call(*words)
        if done.returncode != status or any(t not in done.stdout + done.stderr for t in texts):
            raise Failed(f"{words}: status {done.returncode}, expected {status} and {texts}\n"
                         f"{done.stdout}\n{done.stderr}")
        return done

    def result(self, board, on, *more):
        """What a run says, as JSON, but for what differs by nature."""
        done = self.call("test", board, "--on", on, *more, "--json", "-")
        if done.returncode not in (0, 1):
            raise Failed(f"{board} on {on}: {done.returncode}\n{done.stderr}")
        result = json.loads(done.stdout)
        for key in OTHER:
            result.pop(key, None)
        for each in result["passes"]["each"]:
            each.pop("ended_seconds_wall", None)
            each.pop("ended_seconds_target", None)
        return result

    def same(self, board, one, other, *more, conditions=True):
        """Both targets give the same; `conditions`: both can tell clock, supply and temperature."""
        first, second = self.result(board, one, *more), self.result(board, other, *more)
        for result in (first, second) if not conditions else ():
            result.pop("conditions")
            for each in result["passes"]["each"]:
                each.pop("temperature_c", None)
        for key in sorted(set(first) | set(second)):
            if first.get(key) != second.get(key):
                raise Failed(f"{board}, {one} and {other}: {key} differs\n{first.get(key)}\n{second.get(key)}")

    def fault_file(self, number):
        """One of the faults as a file."""
        return os.path.join(self.folder, f"fault-{number}.yaml")

    def far_end(self, board, faults):
        return f"{self.build}/example-far-end {board} sim:{faults}"


class SimulatedMemory:
    """The simulated board as a far end shows it, word by word."""

    def __init__(self, command, last):
        self.last, self.number = last, 0
        self.child = subprocess.Popen(command.split(), stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
                                      bufsize=1)
        self.digits = len(self.ask("hello").split("last=")[1].split()[0])

    def ask(self, request):
        self.number = self.number + 1 & 255
        self.child.stdin.write(f"{self.number:02X} {request}\n")
        return self.child.stdout.readline().strip()[3:]

    def has(self, address):
        return 0 <= address <= self.last

    def read(self, address):
        return int(self.ask(f"read {address:0{self.digits}X}").split()[1], 16)

    def write(self, address, value):
        self.ask(f"write {address:0{self.digits}X} {value & 255:02X}")


def noisy(seed, one_in, cut=0):
    """A cable that loses, doubles or changes one byte in so many, or is cut after so many."""
    return f"{sys.executable} tests/links/noisy.py {seed} {one_in} {cut} -- "
