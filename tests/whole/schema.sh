#!/bin/sh
# Results keep to the schemas in docs/. $1: folder of the build, $2: folder of the project.
set -eu
cd "$2"
tool=$1/rimeglass
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT INT TERM
calls=0
keeps() { # $1: name of the schema; the rest is a call, whose JSON is kept for the check below
    calls=$((calls + 1))
    schema=$1
    shift
    echo "$*" >"$work/call-$calls-$schema"
    "$tool" "$@" --json "$work/result-$calls-$schema" >/dev/null 2>&1 || true
}
check() {
    keeps result test "$@"
}
check demo/boards/halvorn64.yaml --on sim:
check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml --passes 1
check demo/boards/ostrel16.yaml --on sim:demo/faults/ostrel16-two.yaml --passes 3 --range 0x40000-0x40FFF
for fault in a5 short select; do
    check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-$fault.yaml --passes 1
done
check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-night.yaml --plan full --passes 6
check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml --passes 1
check --on ram:1M --march MATS --passes 1
keeps result log demo/boards/halvorn64.yaml --profile demo/profiles/columns.yaml demo/logs/columns.txt
keeps result log demo/boards/vessary.yaml --profile demo/profiles/frame-status.yaml demo/logs/frame-status.txt
keeps result log demo/boards/ostrel16.yaml --profile demo/profiles/bad-bits.yaml demo/logs/bad-bits.txt
u5=sim:demo/faults/halvorn64-u5.yaml
warm=sim:demo/faults/halvorn64-warm.yaml
keeps rom dump demo/boards/halvorn64.yaml U5 --on sim:
keeps rom dump demo/boards/halvorn64.yaml U5 --on $u5
keeps rom verify demo/boards/halvorn64.yaml U5 --both --on $u5 --supply-mv 4500-5500/500 --clock-hz 1000000-2000000/500000
keeps rom verify demo/boards/ostrel16.yaml "program ROM" --on sim:demo/faults/ostrel16-swapped.yaml
keeps rom verify demo/boards/halvorn64.yaml U5 --on sim:demo/faults/halvorn64-fading.yaml --catalogue demo/catalogue.yaml
keeps rom dump demo/boards/halvorn64.yaml U52 --bare --watch --every 60s --for 80m --on $warm
keeps part part list
keeps part part show 4532
keeps part part fits demo/boards/halvorn64.yaml U18 4164-20
keeps part part find demo/boards/halvorn64.yaml U5
keeps testrom testrom demo/boards/halvorn64.yaml
keeps testrom testrom demo/boards/merrow.yaml
keeps result log demo/boards/halvorn64.yaml --profile demo/profiles/halvorn-rom.yaml demo/logs/dead-1.txt
keeps identify identify demo/images/halvorn64-system-2.1.bin --catalogue demo/catalogue.yaml
keeps identify identify demo/boards/halvorn64.yaml U5 --on sim:demo/faults/halvorn64-fading.yaml --catalogue demo/catalogue.yaml
keeps image image demo/images/gauge.hex
keeps image image demo/images/halvorn64-characters-1.bin --compare demo/images/halvorn64-characters-2.bin
keeps board board show demo/boards/halvorn64.yaml
keeps board board show demo/boards/ostrel16.yaml
keeps board board show demo/boards/halvorn64-d.yaml --differs demo/boards/halvorn64.yaml
keeps probe probe demo/boards/halvorn64.yaml 0x9C40 --on sim:demo/faults/halvorn64-u19.yaml
keeps probe probe demo/boards/halvorn64.yaml --reports 16384
keeps explain explain --all
keeps explain explain "any(w0); up(r0,w1)"
keeps explain explain deep --board demo/boards/halvorn64.yaml
for clock in 2000000 2500000 3000000; do
    "$tool" test demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-slow.yaml,clock=$clock --passes 1 \
        --record "$work/$clock.run" >/dev/null 2>&1 || [ $? = 1 ]
done
keeps grades chip grades "$work"/*00000.run
"$tool" job new "$work/a.job" demo/boards/halvorn64.yaml >/dev/null
keeps job job show "$work/a.job"
for socket in u19 u20; do
    "$tool" test demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-$socket.yaml --job "$work/a.job" \
        --record "$work/$socket.run" >/dev/null || [ $? -eq 1 ]
    "$tool" job changed "$work/a.job" swap U19 U20 >/dev/null
done
keeps job job show "$work/a.job"
for bare in "" --bare; do
    "$tool" verify demo/boards/halvorn64.yaml U5 $bare --on sim:demo/faults/halvorn64-u5.yaml \
        --job "$work/a.job" >/dev/null || [ $? -eq 1 ]
done
keeps job job show "$work/a.job"
keeps job diagnose "$work/u20.run" --before "$work/u19.run" --changed "swap U19 U20"
# each keeps to its schema
python3 - "$work" "$calls" <<'END'
import glob, json, sys
import jsonschema

checks = {}
for call in sorted(glob.glob(sys.argv[1] + "/call-*")):
    name = call.rsplit("-", 1)[1]
    if name not in checks:
        schema = json.load(open("docs/" + name + ".schema.json"))
        jsonschema.Draft7Validator.check_schema(schema)
        checks[name] = jsonschema.Draft7Validator(schema)
    with open(call, encoding="utf-8") as file:
        words = file.read().strip()
    try:
        checks[name].validate(json.load(open(call.replace("/call-", "/result-"))))
    except (OSError, ValueError, jsonschema.ValidationError) as error:
        sys.exit(f"schema: {words}: {error}")
assert len(glob.glob(sys.argv[1] + "/call-*")) == int(sys.argv[2]) > 40
END
# every field of every form says what it is
python3 - <<'END'
import glob, json, sys

def look(part, path):
    if isinstance(part, dict):
        for name, field in (part.get("properties") or {}).items():
            if not (isinstance(field, dict) and field.get("description")):
                sys.exit(f"schema: {path}: nothing is said of {name}")
        for value in part.values():
            look(value, path)
    elif isinstance(part, list):
        for value in part:
            look(value, path)

files = sorted(glob.glob("docs/*.schema.json"))
assert len(files) > 10, files
for path in files:
    look(json.load(open(path)), path)
END
# and the check itself can fail
if echo '{}' | python3 -c '
import json, sys, jsonschema
jsonschema.validate(json.load(sys.stdin), json.load(open("docs/result.schema.json")))' 2>/dev/null; then
    echo "schema: accepts anything" >&2
    exit 1
fi
