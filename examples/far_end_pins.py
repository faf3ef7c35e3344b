#!/usr/bin/env python3
"""A far end of the link (docs/link.md) that sets lines one by one: a test socket of your own, described by
a file like demo/pods/plank.yaml (docs/pod.md).

    rimeglass chip 6116 --on pod:demo/pods/plank.yaml,run:examples/far_end_pins.py

In place of the class Lines stands whatever sets your lines. This one has a made-up chip of 24 pins in its
socket, wired as that file says: an SRAM of 2K x 8, or with image=FILE an EPROM with these contents. Other
arguments: missing, reversed, short, stuck=LINE (a line that always reads 0)."""
import sys

OPTIONS = dict(word.partition("=")[::2] for word in sys.argv[1:])


class Lines:
    """Lines by number. Each is driven high or low, or let go, with or without a weak pull-up."""
    ADDRESS, DATA, CE, OE, WE, POWER, FEED = range(2, 13), range(16, 24), 24, 25, 26, 30, 31

    def __init__(self):
        self.rom = "image" in OPTIONS
        self.cells = bytearray(open(OPTIONS["image"], "rb").read(2048) if self.rom else b"\x5A" * 2048)
        self.state = {}

    def set(self, number, state):
        """state: "h", "l", "z" let go, "u" pulled up."""
        self.state[number] = state
        on = self.state.get(self.POWER) == "h" and "missing" not in OPTIONS
        if on and not self.rom and self.low(self.CE) and self.low(self.WE):
            for bit, line in enumerate(self.DATA):
                if self.state.get(line) in ("h", "l"):
                    self.cells[self.address()] &= ~(1 << bit)
                    self.cells[self.address()] |= (self.state[line] == "h") << bit

    def low(self, number):
        return self.state.get(number) == "l"

    def address(self):
        return sum((self.state.get(line) == "h") << bit for bit, line in enumerate(self.ADDRESS))

    def read(self, number):
        if str(number) == OPTIONS.get("stuck"):
            return 0
        driven = self.state.get(self.POWER) == "h" and "missing" not in OPTIONS and self.low(self.CE) and \
            self.low(self.OE) and (self.rom or not self.low(self.WE))
        if driven and number in self.DATA:
            return self.cells[self.address()] >> number - self.DATA[0] & 1
        return 0 if self.low(number) else 1

    def millivolts(self):
        """Of the +5 V rail."""
        if "short" in OPTIONS:
            return 20
        if self.state.get(self.POWER) == "h":
            return 5010
        if self.state.get(self.FEED) != "h":
            return 0
        if "missing" in OPTIONS:
            return 4950
        if "reversed" in OPTIONS:
            return 620 if self.low(self.ADDRESS[0]) else 4300
        return 2600


def pins(lines, steps):
    read = ""
    for step in steps:
        if step[0] == "r":
            read += str(lines.read(int(step[1:], 16)))
        elif step[0] in "hlzu":
            lines.set(int(step[1:], 16), step[0])
        elif step[0] != "w":  # a step takes longer than any wait
            return "no argument"
    return f"ok {read}".strip()


def main():
    lines, greeted, latest = Lines(), False, ""
    for line in sys.stdin:
        number, _, request = line.split("*")[0].strip().partition(" ")
        words = request.split() or [""]
        if words[0] != "hello" and latest.startswith(number + " "):
            print(latest, flush=True)  # asked for again: not carried out twice
            continue
        answer = "no intent"
        if words[0] == "hello":
            greeted, answer = True, "ok link=1 word=1 last=0 can=pins name=plank"
        elif not greeted:
            answer = "no hello"
        elif words[0] == "pins":
            answer = pins(lines, words[1:])
        elif words[0] == "volts" and words[1:] == ["00"]:
            answer = f"ok {lines.millivolts():X}"
        latest = f"{number} {answer}"
        print(latest, flush=True)


main()
