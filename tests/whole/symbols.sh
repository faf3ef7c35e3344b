#!/bin/sh
# Every symbol that a library exports begins with rmg_; the core's needs nothing but the
# memory functions. $1: folder of the build.
set -eu
fail=0
for library in "$1"/librimeglass-core.a "$1"/librimeglass-sim.a "$1"/librimeglass.a; do
    symbols=$(nm -g --defined-only "$library" | awk 'NF==3 {print $3}')
    count=$(echo "$symbols" | grep -c '^rmg_' || true)
    others=$(echo "$symbols" | grep -vE '^(rmg_|__x86\.get_pc_thunk)' || true)
    [ -z "$others" ] || { echo "symbols: $library exports: $others" >&2; fail=1; }
    [ "$count" -gt 10 ] || { echo "symbols: $library: only $count symbols found" >&2; fail=1; }
done
needs=$(nm -u "$1"/librimeglass-core.a | awk 'NF==2 && $1=="U" {print $2}' | sort -u |
    grep -vE '^(rmg_.*|memset|memcpy|memmove|memcmp|__stack_chk_fail|_GLOBAL_OFFSET_TABLE_|__x86\.get_pc_thunk.*|__asan.*|__ubsan.*)$' || true)
[ -z "$needs" ] || { echo "symbols: the core needs: $needs" >&2; fail=1; }
exit $fail
