#!/bin/sh
# Every command in a document runs: lines "$ rimeglass ..." in README.md and docs/. Status 0 or 1
# and nothing on stderr is right; a line that ends in "# status N" must end with that one. What stands in
# tests/same/calls as it is runs there; what ends in "# some seconds" runs with RMG_TEST_ALL=1, for other tests
# make these calls too.
# $1: folder of the build, $2: folder of the project.
set -eu
cd "$2"
PATH=$(cd "$1" && pwd):$PATH
export PATH
out=$(mktemp -d)
trap 'rm -rf "$out"' EXIT
count=0
# what an earlier time wrote would not be replaced without --force
grep -ohE 'build/[a-z0-9.-]+\.(bin|hex|s19|png|svg|pdf|run|json|yaml|job|html)' README.md docs/*.md | sort -u | xargs rm -f
grep -hE '^ *\$ (rimeglass|example-)' README.md docs/*.md | sed 's/^ *\$ //' |
    awk '!seen[$0]++' >"$out/list" # what two documents show is run once
while read -r line; do
    grep -qxF -- "${line#rimeglass }" tests/same/calls && continue
    [ "${line%# some seconds}" = "$line" ] || [ -n "${RMG_TEST_ALL:-}" ] || continue
    wanted=$(echo "$line" | sed -nE 's/.*# status ([0-9]).*/\1/p')
    status=0
    (cd "$2" && sh -c "${line%%#*}" >"$out/out" 2>"$out/err" </dev/null) || status=$?
    # on a busy machine an echo or an answer may come late: it is said, and asked for again
    sed -i -E "/(was|were) spoilt on the way, and (typed|asked for) again\\.$/d" "$out/err"
    if [ -n "$wanted" ] && [ "$status" != "$wanted" ] ||
        [ -z "$wanted" ] && { [ "$status" -gt 1 ] || [ -s "$out/err" ]; }; then
        echo "documents: status $status: $line" >&2
        cat "$out/err" >&2
        exit 1
    fi
    count=$((count + 1))
done <"$out/list"
[ "$count" -ge 5 ] || { echo "documents: found only $count commands" >&2; exit 1; }
echo "documents: $count commands run"
# the manual has all of them, and each link of it leads somewhere
scripts/manual --page "$out/manual" >/dev/null
