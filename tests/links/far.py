#!/usr/bin/env python3
"""A far end of the link, written from docs/link.md alone, with a memory that has a fault or none; and
far ends that behave badly.

Usage: far.py [KEY=VALUE...]
  words=N last=A      bits of a word, last address
  stuck=FIRST-LAST:MASK   these words read ones there
  record=FILE         every address that is written, a line each
  can=WORD,...        what it says it can
  kind=KIND           plain (no checks), or what goes wrong: see below"""
import binascii
import os
import sys
import time


def check(text, digits=4):
    if digits == 8:
        return f"{binascii.crc32(text.encode()):08X}"
    return f"{binascii.crc_hqx(text.encode(), 0xFFFF):04X}"


def fill(address):
    """What a word holds before anybody writes it."""
    return address * 0x9E3779B1 >> 13


class FarEnd:
    def __init__(self, options, out):
        self.out, self.kind = out, options.get("kind", "")
        self.bits, self.last = int(options.get("words", 8)), int(options.get("last", "3FF"), 16)
        self.can = options.get("can", "block,element,crc32,wait")
        self.digits, self.word_digits = len(f"{self.last:X}"), (self.bits + 3) // 4
        self.memory = {}
        where, _, mask = options.get("stuck", "1-0:0").partition(":")
        self.stuck = tuple(int(x, 16) for x in where.split("-")) + (int(mask, 16),)
        self.record = open(options.get("record", os.devnull), "w", encoding="ascii", buffering=1)
        self.served = 0
        self.greeted, self.checked, self.latest = False, 0, ("", "")

    def read(self, address):
        value = self.memory.get(address, fill(address) & (1 << self.bits) - 1)
        first, last, mask = self.stuck
        return value | mask if first <= address <= last else value

    def write(self, address, value):
        self.record.write(f"{address:X}\n")
        self.memory[address] = value

    def say(self, text):
        if self.checked and self.kind != "plain":
            text += "*" + check(text, self.checked)
        self.out.write(text + "\n")
        self.out.flush()
        return text

    def element(self, words):
        first, last, address, at = (int(x, 16) for x in words[:4])
        down, ops = words[4] == "down", words[5].split(",")
        background, mask, most, tell = (int(x, 16) for x in words[6:10])
        if not first <= address <= last <= self.last or at >= len(ops):
            return "no argument"
        found, end = [], first if down else last
        while True:
            while at < len(ops):
                value = background ^ (mask if ops[at][1] == "1" else 0)
                if ops[at][0] == "w":
                    self.write(address, value)
                else:
                    if len(found) == tell:
                        return f"ok more {address:0{self.digits}X} {at:X}" + "".join(found)
                    actual = self.read(address) & mask
                    if actual != value:
                        found.append(f" {address:0{self.digits}X}.{at:X}.{value:0{self.word_digits}X}"
                                     f".{actual:0{self.word_digits}X}")
                at += 1
            if address == end:
                return "ok done" + "".join(found)
            address, at, most = address + (-1 if down else 1), 0, most - 1
            if not most:
                return f"ok more {address:0{self.digits}X} 0" + "".join(found)

    def carry_out(self, words):
        if words[0] == "hello":
            self.greeted = True
            highest = (1 << (16 if self.kind == "lies" else 4 if self.kind == "narrow" else self.bits)) - 1
            return f"ok link=1 word={highest:X} last={self.last:X} line=60 can={self.can} name=judge"
        if not self.greeted or self.kind == "restarts" and self.served == 60:
            self.greeted = False
            return "no hello"
        if self.kind == "fails" and self.served > 60:
            return "no port the wire fell off"
        if self.kind == "dies" and self.served > 60:
            os._exit(0)
        if words[0] == "read":
            first, count = int(words[1], 16), int((words + ["1"])[2], 16)
            return "ok " + "".join(f"{self.read(a):0{self.word_digits}X}" for a in range(first, first + count))
        if words[0] == "write":
            first, size = int(words[1], 16), self.word_digits
            for i in range(0, len(words[2]), size):
                self.write(first + i // size, int(words[2][i:i + size], 16))
            return "ok"
        if words[0] == "element" and "element" in self.can:
            answer = self.element(words[1:])
            if self.kind == "elsewhere":  # a finding that lies outside what was asked
                answer += f" {self.last:0{self.digits}X}.0.00.01"
            if self.kind == "stands" and self.served > 60:  # more, but not a step further
                answer = f"ok more {words[3]} {words[4]}"
            return answer
        if words[0] == "wait":
            time.sleep(int(words[1], 16) / 1e6)
            return "ok"
        return "no intent"

    def take(self, line):
        line = line.strip("\r\n")
        if not line:
            return
        text, digits = line, 0
        for size in (4, 8) if "crc32" in self.can else (4,):
            if line[-size - 1:-size] == "*":
                text, digits = line[:-size - 1], size
        words = text.split()
        if (digits and check(text, digits) != line[-digits:]) or len(words) < 2 or len(words[0]) != 2:
            self.out.write("-- no check\n")
            self.out.flush()
            return
        if words[1] == "hello":
            self.checked = digits
        elif self.checked and self.checked != digits:
            self.out.write("-- no check\n")
            self.out.flush()
            return
        if words[1] != "hello" and words[0] == self.latest[0]:
            self.out.write(self.latest[1] + "\n")
            self.out.flush()
            return
        self.served += 1
        self.latest = (words[0], self.say(f"{words[0]} {self.carry_out(words[1:])}"))

    def misbehave(self):
        """For far ends that never say hello."""
        if self.kind == "mute":
            time.sleep(30)
        while self.kind == "forever":
            self.out.write("xyz")
        if self.kind == "megabyte":
            self.out.write("A" * (1 << 20))
            self.out.flush()
            time.sleep(30)
        while self.kind == "nonsense":
            self.out.write("Ready.\n")
            self.out.flush()
            time.sleep(0.001)
        while self.kind == "zeros":
            self.out.write("00 ok link=1 word=0 last=0\n" * 1000)

    def serve(self, lines):
        self.misbehave()
        for line in lines:
            self.take(line)


if __name__ == "__main__":
    sys.stdin.reconfigure(encoding="latin-1")
    try:
        FarEnd(dict(word.split("=", 1) for word in sys.argv[1:]), sys.stdout).serve(sys.stdin)
    except BrokenPipeError:
        os._exit(0)
