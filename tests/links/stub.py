#!/usr/bin/env python3
"""Far ends over standard input and output, for calls that a program starts by itself.

Usage: stub.py gdb [FIRST-LAST:MASK]      a debug link's far end; these bytes read ones there
       stub.py pod [KEY=VALUE...]         a pod with an 8-bit SRAM in its socket, from docs/pod.md alone;
                                          keys as of far.py, and feel=LOW,PULLED power=ANSWER"""
import os
import sys

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
import far  # noqa: E402
import gdb  # noqa: E402


class Pod(far.FarEnd):
    """Before `fit` and `power on` it has no memory to give."""

    def __init__(self, options, out):
        super().__init__({"last": "7F", "can": "pod,element,crc32", **options}, out)
        self.feels = options.get("feel", "A28,A28")
        self.answer_to_power = options.get("power", "ok plus5=1388").replace("_", " ")
        self.powered = False

    def carry_out(self, words):
        if words[0] == "hello":
            self.greeted = True
        if words[0] == "pod":
            return "ok kind=sram,rom data=8 lines=13 rails=plus5 stub"
        if words[0] == "fit":
            self.bits = f"{int(words[3], 16):b}".count("1") if words[1] != "dram" else 1
            self.last = (1 << int(words[2], 16)) - 1
            self.digits, self.word_digits = len(f"{self.last:X}"), (self.bits + 3) // 4
            return "ok"
        if words[0] == "feel":
            return f"ok plus5={self.feels}"
        if words[0] == "power" and words[1:] == ["on"]:
            self.powered = self.answer_to_power.startswith("ok")
            return self.answer_to_power
        if words[0] == "power":
            self.powered = self.powered and words[1:] != ["off"]
            return "ok on plus5=1388" if self.powered else "ok off plus5=0"
        if words[0] == "lamp":
            return "ok"
        if words[0] in ("read", "write", "element") and not self.powered:
            return "no lost"
        return super().carry_out(words)


class StandardStreams:
    """What a far end of gdb.py takes for its connection."""
    sendall = staticmethod(lambda data: os.write(1, data))
    recv = staticmethod(lambda count: os.read(0, count))


class Debug(gdb.FarEnd):
    def start(self):
        """No thread: standard input is served until it ends."""


def main():
    if sys.argv[1] == "pod":
        sys.stdin.reconfigure(encoding="latin-1")
        Pod(dict(word.split("=", 1) for word in sys.argv[2:]), sys.stdout).serve(sys.stdin)
        return
    where, _, mask = (sys.argv[2:] + ["1-0:0"])[0].partition(":")
    try:
        Debug("noack", tuple(int(x, 16) for x in where.split("-")) + (int(mask, 16),)).serve(StandardStreams)
    except EOFError:
        pass


if __name__ == "__main__":
    try:
        main()
    except BrokenPipeError:
        os._exit(0)
