#!/usr/bin/env python3
"""A board behind the link: the same answers as without it, over clean and noisy lines, whatever the far
end does.

Usage: link.py BUILD SOURCE [CUT-STREAMS]"""
import collections
import concurrent.futures
import json
import os
import random
import shutil
import socket
import subprocess
import sys
import threading

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
import far  # noqa: E402
from common import LAMP, Bench, Failed, noisy  # noqa: E402

HALVORN = "demo/boards/halvorn64.yaml"
SHAPES = ("even-and-odd", "paged", "interleaved", "twelve-bit-words")
FAULTS = ("a5", "contact", "drag", "fading", "select", "short", "u19", "u20", "u5", "night")


def judge(**options):
    """A far end that shares nothing with ours."""
    return f"link:run:{sys.executable} tests/links/far.py " + " ".join(f"{k}={v}" for k, v in options.items())


def same(bench, board, faults, cable="", more=()):
    """The link gives what the simulated board gives by itself."""
    bench.same(board, f"sim:{faults}", f"link:run:{cable}{bench.far_end(board, faults)}", *more)


def untouched(bench):
    """With a noisy line, nothing is written but what was asked for, and as often as over a clean one."""
    counts = []
    for seed in (0, 1, 2, 3):
        record = os.path.join(bench.folder, "record")
        command = f"{sys.executable} tests/links/far.py record={record} last=FFF stuck=100-1FF:20"
        bench.expect(["test", LAMP, "--on", f"link:run:{noisy(seed, 200 if seed else 0)}{command}",
                      "--passes", "1", "--plan", "quick"], 1, "U3", *["asked for again"][:seed])
        with open(record, encoding="ascii") as file:
            counts.append(collections.Counter(int(line, 16) for line in file))
        if not set(counts[-1]) <= set(range(0x400)):
            raise Failed(f"seed {seed}: written outside: {sorted(set(counts[-1]) - set(range(0x400)))[:4]}")
        if counts[-1] != counts[0]:
            raise Failed(f"seed {seed}: words were written oftener or more seldom than over a clean line")


def cut_off(bench, cuts):
    """The stream ends at a random moment: what was found is kept, and --resume reaches the same result."""
    faults = "demo/faults/halvorn64-contact.yaml"
    run = os.path.join(bench.folder, "cut.run")
    direct = bench.result(HALVORN, f"sim:{faults}")
    dice = random.Random(5)
    for _ in range(cuts):
        after = dice.randrange(2000, 90000)
        cable = noisy(1, 0, after)
        done = bench.call("test", HALVORN, "--on", f"link:run:{cable}{bench.far_end(HALVORN, faults)}",
                          "--record", run, "--force")
        if done.returncode == 1:
            continue  # it was done before
        if done.returncode == 2 and "closed the link" in done.stderr:
            continue  # it had not begun
        if done.returncode != 3 or "the far end closed the link" not in done.stderr or \
                f"test --resume {run}" not in done.stderr:
            raise Failed(f"cut after {after}: {done.returncode}\n{done.stdout}\n{done.stderr}")
        with open(run, encoding="utf-8") as file:
            text = file.read()
        with open(run, "w", encoding="utf-8") as file:  # the cable is whole again
            file.write(text.replace(cable, noisy(1, 0, 0)))
        done = bench.expect(["test", "--resume", run, "--json", "-"], 1)
        result = json.loads(done.stdout)
        for key in ("suspects", "tally", "banks"):
            if result.get(key) != direct.get(key):
                raise Failed(f"cut after {after}: {key} differs after --resume\n{result.get(key)}\n{direct.get(key)}")


def bad_far_ends(bench):
    quick = ["--passes", "1", "--plan", "quick"]

    def on(status, *texts, **options):
        calls.append(pool.submit(bench.expect, ["test", LAMP, "--on", judge(**options), *quick], status,
                                 *texts))

    pool, calls = concurrent.futures.ThreadPoolExecutor(8), []  # most of their time is waiting
    on(0, "No fault found", last="FFF")
    on(0, "carry no check", kind="plain", last="FFF")
    on(0, "each access is made by itself", can="block", last="FFF")
    on(1, "U3", can="block,element", stuck="0-3FF:20")  # short checks only
    on(1, "U3", stuck="0-3FF:20")
    on(2, "the far end's words are F at most, those of the board file FF", kind="narrow")
    on(3, 'expected 4 digits, for its words are FFFF at most', kind="lies", can="block")
    on(3, "the far end has started anew; what its memory held may be gone", kind="restarts")
    on(3, "the far end closed the link", kind="dies")
    on(3, '"no port the wire fell off"', kind="fails")
    on(3, "is not of it: expected ADDRESS.OPERATION.EXPECTED.ACTUAL", kind="elsewhere")
    on(3, "is not of it: ", kind="stands")
    on(2, "the far end does not answer", kind="mute")
    on(2, "the far end sends, but no answer to what was asked", kind="megabyte")
    for kind in ("forever", "nonsense", "zeros"):
        on(2, "link:", kind=kind)
    on(3, "address 0x3FF is beyond the last one of the far end, 0x1FF", last="1FF")
    for call in calls:
        call.result()
    done = bench.expect(["test", LAMP, "--on", judge(kind="fails"), *quick, "--json", "-"], 3)
    if "the wire fell off" not in json.loads(done.stdout)["port_said"]:
        raise Failed(f"port_said: {done.stdout[:400]}")
    bench.expect(["test", LAMP, "--on", "link:", *quick], 2, "link:HOST:PORT")
    bench.expect(["test", LAMP, "--on", "link:run:true", *quick], 2, "the far end closed the link")


def in_a_microcontroller(bench):
    """The firmware of examples/socket under simavr, a memory chip with faults on its pins."""
    program = os.path.join(bench.folder, "avr-bench")
    firmware = os.path.join(bench.build, "avr-250000-baud")  # fewer cycles a character than at 38,400
    subprocess.run(["cc", "-O2", "tests/links/avr_bench.c", "-o", program, "-lsimavr", "-lelf"], check=True)
    subprocess.run(["cmake", "-S", ".", "-B", firmware, "-G", "Ninja", "-DRMG_CORE_ONLY=ON",
                    "-DCMAKE_TOOLCHAIN_FILE=" + os.path.abspath("cmake/avr.cmake"),
                    "-DCMAKE_C_FLAGS=-mmcu=atmega328p -mcall-prologues -mrelax -DBAUD=250000ul"],
                   check=True, stdout=subprocess.DEVNULL)
    subprocess.run(["cmake", "--build", firmware, "--target", "socket"], check=True, stdout=subprocess.DEVNULL)
    for fault, status, text in (("", 0, "No fault found"), ("stuck=2:1", 1, "D2 always reads 1"),
                                ("cell=0x123:1:0", 1, "one cell fails, at 0x123"),
                                ("open=3", 1, "does not follow address line A3")):
        bench.expect(["test", "examples/socket/socket.yaml", "--passes", "1", "--on",
                      f"link:run:{program} {firmware}/cross/socket.elf {fault}"], status, text)


def over_tcp(bench):
    listener = socket.create_server(("127.0.0.1", 0))

    def serve():
        while True:
            link, _ = listener.accept()
            with link, link.makefile("rw", encoding="latin-1", newline="\n") as file:
                try:
                    far.FarEnd({"stuck": "0-3FF:1", "last": "FFF"}, file).serve(file)
                except OSError:
                    pass

    threading.Thread(target=serve, daemon=True).start()
    on = f"link:127.0.0.1:{listener.getsockname()[1]}"
    bench.expect(["test", LAMP, "--on", on, "--passes", "1", "--plan", "quick"], 1, "U2")
    bench.expect(["probe", LAMP, "0x100", "--on", on], 1, "U2")
    image = os.path.join(bench.folder, "image")
    bench.expect(["dump", LAMP, "U1", "--on", on, "--write", image], 0)
    with open(image, "rb") as file:
        if file.read() != bytes(far.fill(a) & 255 for a in range(0x800, 0x1000)):
            raise Failed("the image is not what the far end holds")
    bench.expect(["verify", LAMP, "U1", image, "--on", on], 0)
    catalogue = os.path.join(bench.folder, "catalogue.yaml")
    bench.expect(["identify", image, "--add", "--name", "bench ROM", "--catalogue", catalogue], 0)
    bench.expect(["identify", LAMP, "U1", "--on", on, "--catalogue", catalogue], 0, "bench ROM")


def main():
    bench = Bench(sys.argv[1])
    cuts = int(sys.argv[3]) if len(sys.argv) > 3 else 12
    os.chdir(sys.argv[2])
    calls = [(same, HALVORN, f"demo/faults/halvorn64-{fault}.yaml") for fault in FAULTS]
    calls += [(same, f"demo/shapes/{shape}.yaml", "", "", ("--passes", "1")) for shape in SHAPES]
    calls += [(same, HALVORN, f"demo/faults/halvorn64-{fault}.yaml", noisy(seed, 200))
              for seed, fault in enumerate(("u19", "contact"))]
    calls += [(in_a_microcontroller,), (bad_far_ends,), (untouched,), (cut_off, cuts), (over_tcp,)]
    with concurrent.futures.ThreadPoolExecutor(6) as pool:  # much of their time is waiting
        for done in [pool.submit(call[0], bench, *call[1:]) for call in reversed(calls)]:
            done.result()
    for example, status, text in (("", 0, "No fault found"), (" stuck", 1, "D5 always reads 1")):
        bench.expect(["test", LAMP, "--on", f"link:run:examples/far_end.py{example}", "--passes", "1", "--plan",
                      "quick"], status, text)
    shutil.rmtree(bench.folder)


if __name__ == "__main__":
    main()
