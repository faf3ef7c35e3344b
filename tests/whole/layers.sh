#!/bin/sh
# No include points upwards: core < model < ports < host < cli. And the core takes in nothing but
# its own headers and the freestanding ones.
set -eu
cd "$1"
fail=0
forbid() { # folder, pattern of includes it must not have
    if grep -nE "#include [\"<]($2)" -r "$1"; then
        echo "layers: $1 must not include the above" >&2
        fail=1
    fi
}
core='rimeglass/(sim|ram|coverage|part|board|fault|failset|plan|probe|run|runfile|rate|image|checksum|suspect|result|draw)\.h'
forbid core "$core|glib|stdio|stdlib|\.\./"
forbid model 'rimeglass/(ram|part|board|fault|failset|plan|probe|run|runfile|rate|image|checksum|suspect|result|draw)\.h|glib|stdio|stdlib|\.\./'
forbid ports 'rimeglass/(coverage|part|board|fault|failset|plan|probe|run|runfile|rate|image|checksum|suspect|result|draw)\.h|glib|yaml|\.\./|model/|host/|cli/'
forbid host '\.\./|cli|core/|model/'
forbid cli '\.\./|core/|model/|host/|ports/|cairo|yaml|jansson'
# what the core includes from outside
if grep -rhE '#include <' core include/rimeglass/types.h include/rimeglass/bus.h \
    include/rimeglass/march.h include/rimeglass/tally.h include/rimeglass/place.h \
    include/rimeglass/wiring.h include/rimeglass/finding.h include/rimeglass/status.h |
    grep -vE '<(stdint|stddef|stdbool|limits|string)\.h>'; then
    echo "layers: the core includes more than the freestanding headers" >&2
    fail=1
fi
# the core, its hash apart, multiplies and divides by shift and add only, and builds no structures on the fly
if grep -nE '[])A-Za-z0-9_] (\*|/|%) [A-Za-z0-9_(]' $(ls core/*.c core/*.h | grep -v core/hash.c) | grep -vE '^[^:]*:[0-9]+: *(/\*|\*)|/\*.*\*/$|sizeof'; then
    echo "layers: the core multiplies or divides" >&2
    fail=1
fi
exit $fail
