#!/bin/sh
# Installs to a folder of its own and builds a small program against that copy; a program built for
# other widths must not link. $1: folder of the build, $2: folder of the project.
set -eu
to=$1/installed
rm -rf "$to"
cmake --install "$1" --prefix "$to" >/dev/null
for file in bin/rimeglass include/rimeglass/rimeglass.h include/rimeglass/config.h; do
    [ -e "$to/$file" ] || { echo "install: $file is missing" >&2; exit 1; }
done
pc=$(dirname "$(find "$to" -name rimeglass.pc)")
export PKG_CONFIG_PATH=$pc
# as they stand: no prefix is given here, and no --static
flags=$(pkg-config --cflags --libs rimeglass)
core=$(pkg-config --cflags --libs rimeglass-core)
case $flags in *-L"$to"*) ;; *) echo "install: rimeglass.pc leads elsewhere: $flags" >&2; exit 1 ;; esac
cc -std=c11 -Wall -Werror "$2/examples/test_a_board.c" -o "$to/board" $flags
cc -std=c11 -Wall -Werror "$2/examples/test_and_report.c" -o "$to/report" $flags
cc -std=c11 -Wall -Werror "$2/examples/minimal_port.c" -o "$to/port" $core
"$to/report" "$2/demo/boards/halvorn64.yaml" sim: "$to/result.json"
grep -q '"verdict": "pass"' "$to/result.json"
# the porting guide shows that very program
sed -n '/^```c$/,/^```$/p' "$2/docs/porting.md" | sed '1,/^\/\* Tests a board on any/{/^\/\* Tests a board on any/!d}' |
    sed '/^```/,$d' | diff - "$2/examples/test_and_report.c" ||
    { echo "install: docs/porting.md does not show examples/test_and_report.c as it is" >&2; exit 1; }
"$to/board" "$2/demo/boards/halvorn64.yaml"
"$to/port" && { echo "install: the example's stuck bit was not found" >&2; exit 1; }
"$to/bin/rimeglass" --version
mkdir -p "$to/narrow/rimeglass"
cp "$1/tests/narrow/rimeglass/config.h" "$to/narrow/rimeglass/"
if cc -std=c11 -I"$to/narrow" "$2/examples/minimal_port.c" -o "$to/mixed" $core 2>"$to/mixed.txt"; then
    echo "install: a program for narrow widths was linked with the wide library" >&2
    exit 1
fi
grep -q 'undefined reference.*rmg_' "$to/mixed.txt"
