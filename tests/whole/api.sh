#!/bin/sh
# The reference of the library's calls is made without a complaint; and a public name that nothing
# is said of is one.
# Call: api.sh BUILD PROJECT
set -eu
build=$1 project=$2
work=$(mktemp -d "$build/api-XXXXXX")
trap 'rm -rf "$work"' EXIT INT TERM

"$project/scripts/api" "$work/pages" >"$work/said"
for page in march_8h structrmg__suspect; do
    [ -s "$work/pages/$page.html" ] || { echo "api: no page $page"; exit 1; }
done
grep -q "that the fault is at this site: 0..1" "$work/pages/structrmg__suspect.html"
grep -q "how many of them" "$work/pages/structrmg__suspects.html"

# a folder with something else in it is left alone
mkdir "$work/mine"
echo precious >"$work/mine/warnings.txt"
if "$project/scripts/api" "$work/mine" >"$work/said" 2>&1 || [ "$(cat "$work/mine/warnings.txt")" != precious ]; then
    echo "api: a folder of somebody else's was taken"
    exit 1
fi

mkdir -p "$work/include/rimeglass" "$work/scripts"
cp "$project/scripts/api" "$work/scripts/"
cat >"$work/include/rimeglass/mine.h" <<'END'
/* A header of its own. */
typedef struct mine {
    int told;       /* something */
    int left, more; /* both of them */
    int silent;
} mine;

/* Does something. And something else. */
void mine_one(mine *m);
void mine_two(mine *m);

void mine_silent(mine *m);
END
if "$work/scripts/api" "$work/few" >"$work/said" 2>&1; then
    echo "api: names without a word were let pass"
    exit 1
fi
for name in silent mine_silent "mine is"; do
    grep -q "$name" "$work/said" || { echo "api: nothing was said of $name:"; cat "$work/said"; exit 1; }
done
for name in told left more mine_one mine_two; do
    if grep -q "Member $name" "$work/said"; then
        echo "api: $name is documented:"; cat "$work/said"; exit 1
    fi
done
