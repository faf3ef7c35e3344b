#!/bin/sh
# Results keep to docs/result.schema.json. $1: folder of the build, $2: folder of the project.
set -eu
cd "$2"
tool=$1/rimeglass
check() { # the rest is a call of "test"; its JSON on standard input of the check
    "$tool" test "$@" --json - 2>/dev/null | python3 -c '
import json, sys
import jsonschema
schema = json.load(open("docs/result.schema.json"))
jsonschema.Draft7Validator.check_schema(schema)
jsonschema.validate(json.load(sys.stdin), schema)
'
}
check demo/boards/halvorn64.yaml --on sim:
check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-u19.yaml --passes 1
check demo/boards/ostrel16.yaml --on sim:demo/faults/ostrel16-two.yaml --passes 3 --range 0x40000-0x40FFF
for fault in a5 short select; do
    check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-$fault.yaml --passes 1
done
check demo/boards/halvorn64.yaml --on sim:demo/faults/halvorn64-night.yaml --plan full --passes 6
check --on ram:1M --march MATS --passes 1
# and the check itself can fail
if echo '{}' | python3 -c '
import json, sys, jsonschema
jsonschema.validate(json.load(sys.stdin), json.load(open("docs/result.schema.json")))' 2>/dev/null; then
    echo "schema: accepts anything" >&2
    exit 1
fi
