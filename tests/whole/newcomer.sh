#!/bin/sh
# What a newcomer adds stays small: a kind of fault in at most four files (row, behaviour, document,
# test), a target, a command, an image form in at most three. Each is a patch in tests/newcomer; all are
# applied to a copy, which is built, and used. $1: folder of the build, $2: folder of the project.
set -eu
copy=$1/newcomer
rm -rf "$copy"
mkdir -p "$copy"
(cd "$2" && tar -cf - --exclude=./build --exclude=./.git .) | tar -xf - -C "$copy"
fail=0
apply() { # $1: name of the patch, $2: the project, $3: most files
    files=$(grep -c '^+++ ' "$2/tests/newcomer/$1.patch")
    [ "$files" -le "$3" ] || { echo "newcomer: $1 takes $files files, more than $3" >&2; fail=1; }
    echo "newcomer: $1: $files files"
    (cd "$copy" && patch -s -p1 <"$2/tests/newcomer/$1.patch")
}
apply fault-kind "$2" 4
apply target "$2" 3
apply verb "$2" 3
apply image-form "$2" 3
cmake -S "$copy" -B "$copy/build" -G Ninja -DRMG_TESTS=ON -DRMG_PRECOMPILED=ON \
    -DCMAKE_BUILD_TYPE=None -DCMAKE_C_FLAGS=-O0 >"$copy/log" &&
    cmake --build "$copy/build" --target rimeglass test-newcomer test-cli example-test-and-report \
        example-minimal-port example-test-a-board >>"$copy/log" 2>&1 || {
    grep -E 'error|warning' "$copy/log" >&2 || cat "$copy/log" >&2
    exit 1
}
cd "$copy"
try() { # $1: what must be reported; the rest is a call
    wanted=$1
    shift
    "$@" >log 2>&1 || true
    grep -qF -- "$wanted" log || { echo "newcomer: $*: expected \"$wanted\"" >&2; cat log >&2; fail=1; }
}
echo 'faults: [{kind: output inverted, socket: U20}]' >inverted.yaml
try 'Look at U20' build/rimeglass test demo/boards/halvorn64.yaml --on sim:inverted.yaml --passes 1 --no-replay
try 'expected sim:, sim:FAULTS.yaml, ram:SIZE, gdb:HOST:PORT, prompt:PROFILE,STREAM, link:STREAM, pod:FILE,STREAM or flat:LEVEL' build/rimeglass test demo/boards/halvorn64.yaml --on nix:
try 'nothing answers' build/rimeglass test demo/boards/halvorn64.yaml --on flat:0 --no-replay
try '18 sockets' build/rimeglass sockets demo/boards/halvorn64.yaml
try 'sockets  how many sockets' build/rimeglass --help
build/rimeglass image demo/images/halvorn64-characters-1.bin --as plain --write characters.ph >/dev/null
try 'It equals' build/rimeglass image characters.ph --compare demo/images/halvorn64-characters-1.bin
scripts/fault-table --check || fail=1
python3 tests/whole/layers.py . || fail=1
build/tests/test-newcomer >log 2>&1 &&
    RMG_TEST_SUITE=programs build/tests/test-cli >log 2>&1 || { cat log >&2; fail=1; }
exit $fail
