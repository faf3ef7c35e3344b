#!/usr/bin/env python3
"""A board behind a debug link: far ends of several kinds, written here from the protocol's description
alone, with a memory that has a fault or none.

Usage: gdb.py BUILD SOURCE"""

import json
import os
import random
import socket
import subprocess
import sys
import threading

LAMP = "demo/boards/lampdriver.yaml"  # RAM at 0x000-0x3FF, U2 D0-D3, U3 D4-D7
WIDE = "demo/shapes/even-and-odd.yaml"  # 16-bit words, the byte with D8 first


class FarEnd(threading.Thread):
    """Listens, serves one connection after the other."""

    def __init__(self, kind, stuck=None):
        super().__init__(daemon=True)
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
            if "lost" in self.kind and self.served > 3000:
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


def main():
    tool = os.path.join(sys.argv[1], "rimeglass")
    os.chdir(sys.argv[2])
    quick = ["--passes", "1", "--plan", "quick"]

    for kind in ("plain", "noack", "asleep", "runs", "unasked", "split", "damaged", "small noack runs"):
        end = FarEnd(kind)
        expect(call(tool, "test", LAMP, "--on", f"gdb:127.0.0.1:{end.port}", *quick), 0, "No fault found")
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
    print("gdb: 8 kinds of far end, healthy and not")


main()
