#!/usr/bin/env python3
"""A board behind a prompt: monitors of three manners behind a pseudo terminal, with the simulated board
for their memory; one that loses characters, ones that misbehave.

Usage: prompt.py BUILD SOURCE [CUT-LINES]
       prompt.py monitor COMMAND-OF-A-FAR-END MANNER [KEY=VALUE...]   a monitor over standard input and output"""
import collections
import concurrent.futures
import json
import os
import pty
import random
import shutil
import subprocess
import sys
import tty

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))
sys.path.insert(0, os.path.join(os.path.dirname(os.path.abspath(__file__)), "../../demo/prompts"))
import monitor  # noqa: E402
from common import FAULTS, LAMP, Bench, Failed, SimulatedMemory, noisy  # noqa: E402

SMALL = ("--range", "0x000-0x02F", "--passes", "1", "--march", "March C-")
MANNERS = ("look", "words", "open")


class Terminal:
    """A monitor behind a pseudo terminal."""

    def __init__(self, *words):
        outer, inner = pty.openpty()
        tty.setraw(inner)
        self.name, self.inner = os.ttyname(inner), inner  # held open: the tool may come and go
        self.child = subprocess.Popen([sys.executable, *words], stdin=outer, stdout=outer)
        os.close(outer)

    def __enter__(self):
        return self.name

    def __exit__(self, *_):
        self.child.kill()
        self.child.wait()
        os.close(self.inner)


def on(manner, stream):
    return f"prompt:demo/prompts/{manner}.yaml,{stream}"


def same(bench, number):
    """The same places and confidences as of the simulated board by itself."""
    faults, manner = bench.fault_file(number), MANNERS[number % 3]
    with Terminal("tests/links/prompt.py", "monitor", bench.far_end(LAMP, faults), manner) as name:
        bench.same(LAMP, f"sim:{faults}", on(manner, name), *SMALL, conditions=False)


def loses_characters(bench, manner, seed):
    """The same verdict, and nothing written but what was asked for."""
    record = os.path.join(bench.folder, f"record-{manner}-{seed}")
    with Terminal("demo/prompts/monitor.py", manner, "loses=200", f"seed={seed}", f"record={record}",
                  "stuck=0-3FF:4") as name:
        bench.expect(["test", LAMP, "--on", on(manner, name), "--range", "0x100-0x10F", "--march", "MATS+",
                      "--passes", "1"], 1, "U2", "typed again")
    with open(record, encoding="ascii") as file:
        written = collections.Counter(int(line, 16) for line in file)
    if not set(written) <= set(range(0x100, 0x110)):
        raise Failed(f"{manner}, seed {seed}: written elsewhere: {sorted(written)}")


def cut_off(bench, seed):
    """The line ends at a random moment: what was found is kept, and --resume reaches the same result."""
    faults, run = bench.fault_file(3), os.path.join(bench.folder, f"cut-{seed}.run")
    direct = bench.result(LAMP, f"sim:{faults}", *SMALL)
    cable = noisy(1, 0, random.Random(seed).randrange(1500, 9000))
    command = f"{sys.executable} tests/links/prompt.py monitor '{bench.far_end(LAMP, faults)}' look"
    bench.expect(["test", LAMP, "--on", on("look", f"run:{cable}{command}"), *SMALL, "--record", run], 3,
                 "the line to the prompt was closed", f"test --resume {run}")
    with open(run, encoding="utf-8") as file:
        text = file.read()
    with open(run, "w", encoding="utf-8") as file:  # the cable is whole again
        file.write(text.replace(cable, noisy(1, 0, 0)))
    result = json.loads(bench.expect(["test", "--resume", run, "--json", "-"], 1).stdout)
    if result["suspects"] != direct["suspects"]:
        raise Failed(f"after --resume: {result['suspects']}\n{direct['suspects']}")


def other_commands(bench):
    with Terminal("demo/prompts/monitor.py", "look", "last=FFF", "stuck=0-3FF:20") as name:
        bench.expect(["probe", LAMP, "0x100", "--on", on("look", name)], 1, "U3")
        image = os.path.join(bench.folder, "image")
        bench.expect(["dump", LAMP, "U1", "--on", on("look", name), "--readings", "1", "--write", image], 0)
        with open(image, "rb") as file:
            if file.read() != bytes(a * 0x9E3779B1 >> 13 & 255 for a in range(0x800, 0x1000)):
                raise Failed("the image is not what the monitor holds")


def paced(bench):
    """At 9600 baud the time is told beforehand, and a stop takes no long."""
    with Terminal("demo/prompts/monitor.py", "look", "baud=9600") as name:
        child = subprocess.Popen([bench.tool, "test", LAMP, "--on", on("look", name)], stderr=subprocess.PIPE,
                                 stdout=subprocess.DEVNULL, text=True)
        line = child.stderr.readline()
        if "this takes about" not in line or "20480 accesses" not in line:
            raise Failed(f"time beforehand: {line}")
        child.terminate()
        if child.wait(timeout=2) != 3:
            raise Failed(f"stopped: {child.returncode}")


def misbehaviour(bench):
    def program(text):
        return f"run:{sys.executable} -c \"import os, sys, time; {text}\""

    small = ("--plan", "quick", "--passes", "1")
    bench.expect(["test", LAMP, "--on", on("look", program("time.sleep(30)")), *small], 2,
                 "no prompt came, nor anything else")
    bench.expect(["test", LAMP, "--on", on("look", program("os.write(1, b'Ready' * 9); time.sleep(30)")), *small], 2,
                 'no prompt came that matches "^- $", but "ReadyReady')
    bench.expect(["test", LAMP, "--on", on("look", program("[os.write(1, b'x' * 99) for i in iter(int, 1)]")),
                  *small], 2, "no prompt came")
    bench.expect(["test", LAMP, "--on", on("look", "run:true"), *small], 2, "the line to the prompt was closed")
    # a board that has less than the board file says answers an error, in its own words
    with Terminal("demo/prompts/monitor.py", "look", "last=FF") as name:
        bench.expect(["test", LAMP, "--on", on("look", name), *small], 3, 'the prompt answers "what? ')
    bench.expect(["test", LAMP, "--on", "prompt:demo/prompts/look.yaml", *small], 2, "prompt:PROFILE,STREAM")
    bench.expect(["test", LAMP, "--on", "prompt:none.yaml,run:true", *small], 2, "none.yaml")


def bad_profiles(bench):
    with open("demo/prompts/look.yaml", encoding="utf-8") as file:
        good = file.read()
    rows = (("ready: '^- $'", "ready: '^(- $'", ":3: ready: ", "is no regular expression"),
            ("(?<value>", "(", ":4: read: ", "expected an answer with (?<value>...)"),
            ("put {address}", "put", ":5: write: ", "expected a send with {address}"),
            ("put {address} {value}", "put {address} {valeu}", ":5: send: ", "expected {address}"),
            ("width: 4", "width: -4", ":8: width: ", "expected"),
            ("digits: hex, width: 2", "digits: roman, width: 2", ":9: digits: ", "hex"),
            ('cancel: "\\x18"', "", "cancel: ", "gives up a line"),
            ("errors: ['^what\\?']", "errors: ['(']", ":10: errors: ", "is no regular expression"),
            ("block-words: 64", "blok-words: 64", ":7: ", "block-words"))
    for old, new, *texts in rows:
        if old not in good:
            raise Failed(f"look.yaml has no {old}")
        name = os.path.join(bench.folder, "bad.yaml")
        with open(name, "w", encoding="utf-8") as file:
            file.write(good.replace(old, new))
        bench.expect(["test", LAMP, "--on", f"prompt:{name},run:true"], 2, *texts)


# boards with a processor, and where a routine may lie
LOADED = (("selvane", "6809", "0x0100-0x02FF", ""), ("merrow", "6502", "0x4200-0x43FF", "zero-page: 0xFB"),
          ("halvorn64", "Z80", "0x8400-0x85FF", ""), ("ostrel16", "68000", "0x40000-0x403FF", ""),
          ("quarle", "8086", "0x00600-0x009FF", ""), ("halvorn64-8080", "8080", "0x8400-0x85FF", ""))
LOADED_FAULTS = (("selvane", "U33", "{kind: cell stuck, socket: U33, cell: 0x2345, level: 1}"), ("selvane", None, ""),
                 ("merrow", "U15", "{kind: transition, socket: U15, bit: D2, address: 0x9A00, level: 1}"),
                 ("halvorn64", "U12", "{kind: address pin open, socket: U12, pin: A6}"),
                 ("ostrel16", "U37", "{kind: cell stuck, socket: U37, bit: D9, cell: 0x155, level: 0}"), ("ostrel16", None, ""),
                 ("quarle", "U35", "{kind: output stuck, socket: U35, bit: D4, level: 0}"),
                 ("halvorn64-8080", "U12", "{kind: transition, socket: U12, bit: D6, address: 0x2123, level: 0}"))
PROFILE = """prompt: silent
ready: '^- $'
read:  {send: 'look {address}', answer: '^(?<address>[0-9A-F]+) holds (?<value>[0-9A-F]+)$'}
write: {send: 'put {address} {value}'}
block: {send: 'show {address} {last}', answer: '^(?<address>[0-9A-F]+): (?<values>[0-9A-F ]+)$'}
block-words: 64
address: {digits: hex, width: 4}
value: {digits: hex, width: %d}
echo: no
errors: ['^what']
load-and-run: {send: 'run {address}', processor: "%s", memory: %s%s}
"""


def loadable(bench, board, fault, number, memory=None, change=lambda text: text):
    """A target whose monitor can start a routine, and the same board simulated."""
    name, processor, where, more = next(row for row in LOADED if row[0] == board)
    faults, profile = (os.path.join(bench.folder, f"loaded-{board}-{number}.{e}") for e in ("faults", "yaml"))
    with open(faults, "w", encoding="utf-8") as file:
        file.write(f"world-seed: 5\nfaults: [{fault}]\n")
    with open(profile, "w", encoding="utf-8") as file:
        file.write(change(PROFILE % (4 if name == "ostrel16" else 2, processor, memory or where, f", {more}" if more else "")))
    path = f"demo/boards/{name.split('-')[0]}.yaml"
    return path, f"prompt:{profile},run:{bench.build}/tests/test-monitor {path} {faults} {processor} silent", f"sim:{faults}"


def loaded(bench, number, board, socket, fault):
    """Elements that run in the board's own processor find what the simulated board shows by itself."""
    path, on, simulated = loadable(bench, board, fault, number)
    more = ("--march", "March C-", "--passes", "1")
    if board == "merrow":  # zero page and stack are the monitor's
        more += ("--range", "0x0200-0xBFFF")
    if board == "quarle":  # its stack lies in the first bank
        more += ("--range", "0x10000-0x1FFFF")
    one, other = bench.result(path, on, "--load", *more), bench.result(path, simulated, *more)
    left = [r["reason"] for r in one["not_tested"] if "routine" in r["reason"]]
    if len(left) != (board != "quarle") or [s["site"] for s in one["suspects"]] != [s["site"] for s in other["suspects"]]:
        raise Failed(f"{board} with {fault}: {one['suspects']}\n{other['suspects']}\n{left}")
    if (one["suspects"][0]["site"] if one["suspects"] else None) != socket:
        raise Failed(f"{board} with {fault}: {one['suspects']}")


def loaded_again(bench):
    """A run that is gone on with: by a routine if it began so, and else not."""
    path, on, _ = loadable(bench, "selvane", "", "again")
    run = os.path.join(bench.folder, "again.run")
    bench.expect(["test", path, "--on", on, "--load", "--passes", "1", "--record", run], 0)
    bench.expect(["test", "--resume", run, "--load", "--passes", "2"], 0, "2 of 2 passes", "the routine that runs the elements")
    os.unlink(run)
    bench.expect(["test", path, "--on", on, "--range", "0x400-0x40F", "--passes", "1", "--record", run], 0)
    bench.expect(["test", "--resume", run, "--load", "--passes", "2"], 2, "was begun without --load")


def loaded_within(bench):
    """Nothing is written but the routine's memory and what the run was asked to test."""
    path, on, _ = loadable(bench, "selvane", "", "within")
    record = os.path.join(bench.folder, "within.record")
    bench.expect(["test", path, "--on", f"{on} {record}", "--load", "--passes", "1", "--range", "0x4000-0x47FF"], 0,
                 "No fault found")
    with open(record, encoding="ascii") as file:
        written = {int(line, 16) for line in file}
    if not set(range(0x4000, 0x4800)) <= written <= set(range(0x4000, 0x4800)) | set(range(0x100, 0x300)):
        raise Failed(f"written elsewhere: {sorted(written - set(range(0x4000, 0x4800)))[:20]}")


def not_loaded(bench):
    """Where no routine can be put, and why."""
    def refused(number, board, fault, text, *more, memory=None, change=lambda text: text):
        path, on, _ = loadable(bench, board, fault, f"refused-{number}", memory, change)
        bench.expect(["test", path, "--on", on, "--load", *more], 2, text)

    refused(1, "selvane", "{kind: cell stuck, socket: U22, cell: 0x180, level: 1}", "does not hold what is written (March C-)")
    refused(2, "selvane", "{kind: address line stuck, bank: dusk, line: A11, level: 0}",
            "what is written to 0x0900 arrives at 0x0100, too")
    refused(3, "selvane", "", "0xA000-0xA1FF, which load-and-run names, is no RAM of the board", memory="0xA000-0xA1FF")
    refused(4, "selvane", "", "expected FIRST-LAST, 512 bytes or more", memory="0x0100-0x01FF")
    refused(5, "selvane", "", "its profile has no load-and-run", change=lambda text: text[:text.index("load-and-run")])
    refused(6, "selvane", "", "only a 6502 needs two bytes there", change=lambda text: text.replace('"6809"', '"6809", zero-page: 3'))
    refused(7, "merrow", "", "zero-page: is missing here", change=lambda text: text.replace(", zero-page: 0xFB", ""))
    refused(8, "selvane", "", "expected {address}", change=lambda text: text.replace("run {address}", "run"))
    refused(9, "selvane", "", "one of Z80, 6502, 68000", change=lambda text: text.replace('"6809"', '"68020"'))
    refused(11, "selvane", "", "says that its processor is a 6809", change=lambda text: text.replace('"6809"', '"8080"'))
    refused(12, "selvane", "", "a routine for a 6809 cannot end with a breakpoint",
            change=lambda text: text.replace('"6809"', '"6809", ends-with: breakpoint'))
    refused(13, "quarle", "", "within 0x0000-0xFFFF", memory="0x18000-0x183FF")
    refused(14, "ostrel16", "", "0x40000-0x40101, which load-and-run names, is less than 512 bytes", memory="0x40000-0x40101")
    refused(10, "selvane", "", "give --load or --blocks, not both", "--blocks")
    bench.expect(["test", "demo/boards/selvane.yaml", "--on", "sim:", "--load"], 2, "no routine can be loaded")
    # one that is started, and does not come back; and one that is not started at all
    path, on, _ = loadable(bench, "selvane", "", "hangs", change=lambda text: text.replace(
        "run {address}", "look {address}").replace('"6809"', '"6809", wait: 500'))
    bench.expect(["test", path, "--on", on, "--load", "--passes", "1"], 3, "was started, and did not run")
    path, on, _ = loadable(bench, "selvane", "", "late", change=lambda text: text.replace(
        "ready: '^- $'\n", "ready: '^- $'\n", 1).replace('"6809"', '"6809", ready: "^never$", wait: 500'))
    bench.expect(["test", path, "--on", on, "--load", "--passes", "1"], 3, "no prompt came back within 500 ms")


def main():
    if sys.argv[1] == "monitor":
        memory = SimulatedMemory(sys.argv[2], 0xFFF)
        monitor.Memory = lambda options: memory
        sys.argv[1:] = sys.argv[3:]
        monitor.main()
        return
    bench = Bench(sys.argv[1])
    os.chdir(sys.argv[2])
    calls = [(same, n) for n in range(len(FAULTS))]
    calls += [(loses_characters, manner, seed) for manner in MANNERS for seed in (1,)]
    calls += [(cut_off, seed) for seed in range(int((sys.argv + ["3"])[3]))]
    calls += [(other_commands,), (paced,), (misbehaviour,), (bad_profiles,)]
    calls += [(not_loaded,), (loaded_again,), (loaded_within,)]
    with concurrent.futures.ThreadPoolExecutor(8) as pool:  # much of their time is waiting
        for done in [pool.submit(call[0], bench, *call[1:]) for call in reversed(calls)]:
            done.result()
    with concurrent.futures.ThreadPoolExecutor(2) as pool:  # these work
        for done in [pool.submit(loaded, bench, n, *row) for n, row in enumerate(LOADED_FAULTS)]:
            done.result()
    shutil.rmtree(bench.folder)


if __name__ == "__main__":
    main()
