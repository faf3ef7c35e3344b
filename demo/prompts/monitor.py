#!/usr/bin/env python3
"""A made-up board that boots to a prompt, on standard input and output, to try prompt: with.

Usage: monitor.py MANNER [KEY=VALUE...]
  look     commands and hexadecimal numbers (look.yaml)
  words    sentences and decimal numbers, capitals only (words.yaml)
  open     an address opens a word, a number is put into it (open.yaml)

  last=ADDRESS           the last address (3FF)
  stuck=FIRST-LAST:MASK  these words read ones there
  loses=N SEED=N         one character in N is lost, on the way there and back
  baud=N                 sends no faster than that
  record=FILE            every address that is written, a line each"""
import os
import random
import re
import sys
import time


class Memory:
    def __init__(self, options):
        self.last = int(options.get("last", "3FF"), 16)
        where, _, mask = options.get("stuck", "1-0:0").partition(":")
        self.stuck = tuple(int(x, 16) for x in where.split("-")) + (int(mask, 16),)
        self.words = [i * 0x9E3779B1 >> 13 & 255 for i in range(self.last + 1)]
        self.record = open(options.get("record", os.devnull), "w", encoding="ascii", buffering=1)

    def has(self, address):
        return 0 <= address <= self.last

    def read(self, address):
        first, last, mask = self.stuck
        return self.words[address] | (mask if first <= address <= last else 0)

    def write(self, address, value):
        self.record.write(f"{address:X}\n")
        self.words[address] = value & 255


class Look:
    """look A; put A V; show A B"""
    prompt, end = "- ", "\r\n"

    def line(self, text, memory):
        words = text.split()
        try:
            numbers = [int(w, 16) for w in words[1:]]
            if not numbers or not all(memory.has(a) for a in numbers[:1]):
                raise ValueError
            if words[0] == "look" and len(numbers) == 1:
                return [f"{numbers[0]:04X} holds {memory.read(numbers[0]):02X}"]
            if words[0] == "put" and len(numbers) == 2:
                memory.write(*numbers)
                return []
            if words[0] == "show" and len(numbers) == 2 and memory.has(numbers[1]):
                return [f"{a:04X}: " + " ".join(f"{memory.read(b):02X}" for b in range(a, min(a + 16, numbers[1] + 1)))
                        for a in range(numbers[0], numbers[1] + 1, 16)]
        except (ValueError, IndexError):
            pass
        return [f"what? {text}"] if text else []


class Words:
    """TELL 32768; LET 32768 HOLD 85"""
    prompt, end = "READY.\r\n", "\r\n"

    def line(self, text, memory):
        if not text:
            return []
        tell = re.fullmatch(r"TELL (\d+)", text)
        let = re.fullmatch(r"LET (\d+) HOLD (\d+)", text)
        if tell and memory.has(int(tell.group(1))):
            return [f" {memory.read(int(tell.group(1)))}"]
        if let and memory.has(int(let.group(1))):
            memory.write(int(let.group(1)), int(let.group(2)))
            return []
        return ["NOT UNDERSTOOD"]


class Open:
    """8000 opens; a number stores and opens the next; a full stop closes."""
    prompt, end = "> ", "\n"

    def __init__(self):
        self.at = None

    def line(self, text, memory):
        try:
            if text == ".":
                self.at = None
            elif self.at is not None and text:
                memory.write(self.at, int(text, 16))
                self.at = self.at + 1 if memory.has(self.at + 1) else None
            elif text:
                self.at = int(text, 16) if memory.has(int(text, 16)) else None
        except ValueError:
            return ["?"]
        return []

    def waits_at(self, memory):
        return self.prompt if self.at is None else f"{self.at:04X} {memory.read(self.at):02X} = "


def main():
    options = dict(word.split("=", 1) for word in sys.argv[2:])
    monitor = {"look": Look, "words": Words, "open": Open}[sys.argv[1]]()
    memory, dice = Memory(options), random.Random(int(options.get("seed", 1)))
    loses, pace = int(options.get("loses", 0)), 10 / int(options["baud"]) if "baud" in options else 0
    due = [time.monotonic()]

    def lost():
        return loses and dice.randrange(loses) == 0

    def say(text):
        data = bytes(ord(c) | (128 if sys.argv[1] == "open" and bin(ord(c)).count("1") % 2 else 0)
                     for c in text if not lost())
        for i in range(len(data)):
            if pace:
                due[0] = max(due[0] + pace, time.monotonic())
                time.sleep(max(0, due[0] - time.monotonic()))
            os.write(1, data[i:i + 1] if pace else data)
            if not pace:
                break

    def rest():
        say(monitor.waits_at(memory) if hasattr(monitor, "waits_at") else monitor.prompt)

    say(f"{monitor.end}made-up board, {memory.last + 1} words{monitor.end}")
    rest()
    line = ""
    while data := os.read(0, 256):
        for byte in data:
            char = chr(byte & 127)
            if pace:  # a character takes its time on the way in, too
                due[0] = max(due[0], time.monotonic())
            if lost():
                continue
            if char == "\x18":  # what cancels
                line = ""
                if isinstance(monitor, Open):
                    monitor.at = None
                say(monitor.end)
                rest()
            elif char == "\r":
                say(monitor.end)
                for answer in monitor.line(line.strip(), memory):
                    say(answer + monitor.end)
                line = ""
                rest()
            elif char >= " ":
                if isinstance(monitor, Words):
                    char = char.upper()
                line += char
                say(char)


if __name__ == "__main__":
    try:
        main()
    except (BrokenPipeError, OSError):
        pass
