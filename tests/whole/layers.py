#!/usr/bin/env python3
"""No include that cmake/rooms.txt does not allow, and no circle between files.

Call: layers.py PROJECT           every include, and the core's own rules
      layers.py PROJECT try       ... and in a copy a forbidden include of every folder is refused
      layers.py PROJECT graph     prints which folder includes which, and how often
      layers.py PROJECT circles BUILD   who calls whom, by the objects of a build: no circle

A folder may include its own headers, the public headers and the internal.h of the rooms that its
line names, and of the system what is listed here."""
import collections
import os
import re
import shutil
import subprocess
import sys
import tempfile

INCLUDE = re.compile(r'^\s*#\s*include\s+(["<])([^">]+)[">]', re.M)
FREESTANDING = {"stdint.h", "stddef.h", "stdbool.h", "limits.h", "string.h"}
C_LIBRARY = FREESTANDING | {"errno.h", "fcntl.h", "glib.h", "math.h", "signal.h", "stdio.h",
                            "stdlib.h", "time.h", "unistd.h", "sys/file.h", "sys/stat.h", "sys/types.h"}
SYSTEM = {  # room: system headers that it may include
    "core": FREESTANDING,
    "sim": FREESTANDING,
    "testrom": FREESTANDING,
    "deadboard": C_LIBRARY,
    "hostram": FREESTANDING | {"errno.h", "fcntl.h", "pthread.h", "stdio.h", "stdlib.h", "unistd.h",
                               "sys/mman.h", "sys/resource.h", "immintrin.h", "emmintrin.h",
                               "stdatomic.h", "dirent.h", "inttypes.h",
                               "stdarg.h", "cpuid.h"},
    "stream": FREESTANDING | {"errno.h", "fcntl.h", "grp.h", "netdb.h", "netinet/in.h",
                              "netinet/tcp.h", "poll.h", "signal.h", "stdarg.h", "stdio.h",
                              "stdlib.h", "time.h", "unistd.h", "termios.h", "sys/ioctl.h",
                              "sys/socket.h", "sys/stat.h", "sys/types.h", "sys/wait.h",
                              "asm/termbits.h"},
    "link": FREESTANDING | {"inttypes.h", "stdio.h", "stdlib.h", "time.h"},
    "base": C_LIBRARY | {"yaml.h", "jansson.h", "zlib.h", "pthread.h", "sys/mman.h"},
    "part": C_LIBRARY | {"stdarg.h"},
    "chip": C_LIBRARY | {"jansson.h"},
    "image": C_LIBRARY | {"zlib.h"},
    "live": C_LIBRARY | {"curses.h"},
    "report": C_LIBRARY | {"unistd.h", "jansson.h", "cairo.h", "cairo-pdf.h", "cairo-svg.h"},
    "run": C_LIBRARY | {"jansson.h"},
    "job": C_LIBRARY | {"sqlite3.h", "unistd.h"},
    "rom": C_LIBRARY | {"jansson.h", "zlib.h"},
    "cli": C_LIBRARY | {"glib/gstdio.h", "poll.h", "sys/ioctl.h", "sys/resource.h", "sys/select.h",
                        "sys/wait.h", "wchar.h",
                        "termios.h", "sys/time.h", "locale.h"},
    "examples": C_LIBRARY | {"inttypes.h"},
}


def rooms(project):
    """{room: (folder, [public headers], [rooms it may include])}, the lowest first."""
    table = {}
    for line in open(os.path.join(project, "cmake/rooms.txt"), encoding="utf-8"):
        if line.strip() and not line.startswith("#"):
            room, folder, headers, sees = re.split(r"  +", line.strip())
            table[room] = (folder, headers.split(), [] if sees == "-" else sees.split())
    return table


KNOWN = {}  # of files that do not change while forbidden ones are tried


def once(find, path):
    """What `find` makes of a file's text, worked out once; but of the file that is tried each time."""
    if os.path.basename(path) == "forbidden.c":
        return find(open(path, encoding="utf-8").read())
    if (find, path) not in KNOWN:
        KNOWN[find, path] = find(open(path, encoding="utf-8").read())
    return KNOWN[find, path]


def calculates(text):
    """Numbers of the lines that multiply or divide."""
    return [number for number, line in enumerate(text.split("\n"), 1)
            if re.search(r"[\])A-Za-z0-9_] (\*|/|%) [A-Za-z0-9_(]", line) and
            not re.match(r"\s*(/\*|\*)", line) and not re.search(r"/\*.*\*/$|sizeof", line)]


def takes_internal(text):
    return re.search(r'#include "\w+/internal\.h"', text)


def check(project, say=print):
    """[complaint]; says each."""
    table = rooms(project)
    owner = {header: room for room, (_, headers, _) in table.items() for header in headers}
    owner["config"] = "core"
    wrong = []

    def complain(file, text, why):
        wrong.append("layers: %s includes %s: %s" % (os.path.relpath(file, project), text, why))
        say(wrong[-1])

    def look(file, room, sees, folder, public):
        for kind, text in once(INCLUDE.findall, file):
            name = re.sub(r"\.h$", "", text)
            if kind == "<":
                if text not in SYSTEM.get(room, C_LIBRARY):
                    complain(file, text, "%s has no use for this system header" % room)
            elif name.startswith("rimeglass/") or (public and name in owner):
                other = owner.get(name.split("/")[-1])
                if other is None:
                    complain(file, text, "cmake/rooms.txt names no room for it")
                elif other != room and other not in sees:
                    complain(file, text, "%s may not include %s" % (room, other))
            elif "/" not in name:
                if public or not os.path.exists(os.path.join(folder, text)):
                    complain(file, text, "no header of %s" % (folder if not public else "its"))
            else:
                other, rest = name.split("/", 1)
                if rest != "internal" or other not in table:
                    complain(file, text, "only the internal.h of a room may be included")
                elif other not in sees:
                    complain(file, text, "%s may not include %s" % (room, other))

    for at, (room, (folder, headers, sees)) in enumerate(table.items()):
        for other in sees:
            if list(table).index(other) >= at:
                wrong.append("layers: cmake/rooms.txt: %s stands below %s" % (room, other))
                say(wrong[-1])
        files = sorted(os.listdir(os.path.join(project, folder)))
        for file in files:
            if file.endswith((".c", ".h")):
                path = os.path.join(project, folder, file)
                look(path, room, sees, os.path.join(project, folder), False)
        for header in headers:
            look(os.path.join(project, "include/rimeglass", header + ".h"), room, sees, folder, True)
    known = set(owner)
    for file in sorted(os.listdir(os.path.join(project, "include/rimeglass"))):
        if file.endswith(".h") and file[:-2] not in known:
            wrong.append("layers: include/rimeglass/%s: cmake/rooms.txt names no room for it" % file)
            say(wrong[-1])
    table_text = open(os.path.join(project, "include/rimeglass/rimeglass.h"), encoding="utf-8").read()
    for header in known - {"rimeglass"}:
        if not re.search(r"^ \*  %s\.h " % header, table_text, re.M):
            wrong.append("layers: include/rimeglass/rimeglass.h does not list %s.h" % header)
            say(wrong[-1])
    # the tool and the examples stand on the public headers alone
    for folder in ("cli", "examples"):
        for file in sorted(os.listdir(os.path.join(project, folder))):
            path = os.path.join(project, folder, file)
            if file.endswith((".c", ".h")):
                look(path, folder, list(table), os.path.join(project, folder), False)
                if once(takes_internal, path):
                    complain(path, "an internal.h", "only public headers")
    # folders that no room owns
    for parent in ("host", "ports"):
        for folder in sorted(os.listdir(os.path.join(project, parent))):
            path = parent + "/" + folder
            if path not in [f for f, _, _ in table.values()]:
                wrong.append("layers: %s: cmake/rooms.txt names no room for it" % path)
                say(wrong[-1])
    # the core, its hash apart, multiplies and divides by shift and add only
    for file in sorted(os.listdir(os.path.join(project, "core"))):
        if file == "hash.c":
            continue
        for number in once(calculates, os.path.join(project, "core", file)):
            wrong.append("layers: core/%s:%d multiplies or divides" % (file, number))
            say(wrong[-1])
    return wrong


def try_all(project):
    """Puts forbidden includes into a copy, each in a file of its own: each must be refused."""
    let_pass = 0
    with tempfile.TemporaryDirectory() as copy:
        for part in ("cmake", "core", "sim", "testrom", "ports", "host", "cli", "examples", "include"):
            shutil.copytree(os.path.join(project, part), os.path.join(copy, part))
        table = rooms(copy)
        cases = []
        for room, (folder, _, sees) in table.items():
            for other, (_, theirs, _) in table.items():
                if other != room and other not in sees:
                    cases.append((folder, '"rimeglass/%s.h"' % theirs[0]))
                    cases.append((folder, '"%s/internal.h"' % other))
                elif other != room:  # no way around through another header of a room that it may see
                    cases.append((folder, '"../%s/internal.h"' % other))
            cases.append((folder, '"../../cli/cli.h"'))
            cases.append((folder, "<sys/%s.h>" % ("inotify" if room == "stream" else "socket")))  # of the system
        for room in table:
            cases.append(("cli", '"%s/internal.h"' % room))
        for number, (folder, text) in enumerate(cases):
            with open(os.path.join(copy, folder, "forbidden-%d.c" % number), "w", encoding="utf-8") as f:
                f.write("#include %s\n" % text)
        said = []
        check(copy, said.append)
        refused = {number for line in said for number in re.findall(r"/forbidden-([0-9]+)[.]c", line)}
        for number, (folder, text) in enumerate(cases):
            if str(number) not in refused:
                let_pass += 1
                print("layers: %s: an include of %s passes" % (folder, text))
    print("layers: %d forbidden includes tried, %d pass" % (len(cases), let_pass))
    return let_pass


def graph(project):
    table = rooms(project)
    owner = {header: room for room, (_, headers, _) in table.items() for header in headers}
    for room, (folder, headers, sees) in reversed(table.items()):
        count = collections.Counter()
        paths = [os.path.join(project, folder, f) for f in os.listdir(os.path.join(project, folder))]
        paths += [os.path.join(project, "include/rimeglass", h + ".h") for h in headers]
        for path in paths:
            if path.endswith((".c", ".h")):
                for _, text in INCLUDE.findall(open(path, encoding="utf-8").read()):
                    name = text[:-2]
                    other = owner.get(name.split("/")[-1]) if "internal" not in name else name.split("/")[0]
                    if other and other != room and other in table:
                        count[other] += 1
        print("%-9s %2d files  -> %s" % (room, len([p for p in paths if p.endswith(".c")]),
              ", ".join("%s %d" % (r, count[r]) for r in reversed(table) if count[r]) or "nothing"))


def circles(project, build):
    """Strongly connected parts of the graph of object files, by their symbols."""
    folders = tuple(os.path.join(".dir", f, "") for f, _, _ in rooms(project).values())
    objects = {}
    for root, _, files in os.walk(os.path.join(build, "CMakeFiles")):
        for file in files:
            path = os.path.join(root, file)
            if file.endswith(".c.o") and any(f in path for f in folders):
                source = path.split(".dir/", 1)[1][:-2]
                if os.path.exists(os.path.join(project, source)):
                    objects[source] = path
    defined, used = {}, {}
    for source, path in objects.items():
        used[source] = set()
        for line in subprocess.run(["nm", path], capture_output=True, text=True, check=True).stdout.splitlines():
            cells = line.split()
            if len(cells) == 3 and cells[1] in "TDRB":
                defined[cells[2]] = source
            elif len(cells) == 2 and cells[0] == "U":
                used[source].add(cells[1])
    calls = {s: {defined[n] for n in names if defined.get(n, s) != s} for s, names in used.items()}
    found = 0
    left = dict(calls)
    while left:  # takes away what calls nothing that is left; what stays is in a circle or above one
        ends = [s for s, to in left.items() if not any(t in left for t in to)]
        if not ends:
            break
        for s in ends:
            del left[s]
    # of these, the ones in a circle: those that can be reached from themselves
    for s in sorted(left):
        seen, work = set(), [t for t in left[s] if t in left]
        while work:
            t = work.pop()
            if t not in seen:
                seen.add(t)
                work += [u for u in left[t] if u in left]
        if s in seen:
            found += 1
            print("layers: a circle: %s calls %s, which leads back to it" %
                  (s, ", ".join(sorted(t for t in left[s] if t in left))))
    print("layers: %d files, %d calls between them, %d files in circles" %
          (len(calls), sum(map(len, calls.values())), found))
    return found if len(calls) > 100 else 1


def main():
    project, what = sys.argv[1], sys.argv[2:]
    if what[:1] == ["graph"]:
        return graph(project)
    if what[:1] == ["circles"]:
        return 1 if circles(project, what[1]) else 0
    if check(project):
        return 1
    return 1 if what == ["try"] and try_all(project) else 0


sys.exit(main())
