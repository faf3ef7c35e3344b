#!/bin/sh
# Installs to a folder of its own and builds a small program against that copy; a program built for
# other widths must not link. $1: folder of the build, $2: folder of the project.
set -eu
to=$1/installed
rm -rf "$to"
cmake --install "$1" --prefix "$to" >/dev/null
for file in bin/rimeglass include/rimeglass/rimeglass.h include/rimeglass/config.h \
    share/man/man1/rimeglass-verify.1 share/bash-completion/completions/rimeglass \
    share/zsh/site-functions/_rimeglass share/man/man5/rimeglass-board.5 \
    share/doc/rimeglass/LICENSE share/doc/rimeglass/board-file.md \
    share/doc/rimeglass/rom.schema.json share/rimeglass/demo/boards/halvorn64.yaml; do
    [ -e "$to/$file" ] || { echo "install: $file is missing" >&2; exit 1; }
done
pc=$(dirname "$(find "$to" -name rimeglass.pc)")
export PKG_CONFIG_PATH=$pc
export LD_LIBRARY_PATH="$(dirname "$pc")" # of the shared library, where there is one
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
version=$(sed -n 's/^#define RMG_VERSION  *"\(.*\)"$/\1/p' "$to/include/rimeglass/config.h")
[ "$("$to/bin/rimeglass" --version)" = "rimeglass $version" ] || {
    echo "install: the tool is not of version \"$version\", as the headers are" >&2
    exit 1
}
# the same by its CMake package, the shared library too where it was built
mkdir -p "$to/package"
cat >"$to/package/CMakeLists.txt" <<END
cmake_minimum_required(VERSION 3.25)
project(user LANGUAGES C)
find_package(Rimeglass 0.1 REQUIRED)
add_executable(board $2/examples/test_a_board.c)
target_link_libraries(board Rimeglass::host)
add_executable(port $2/examples/minimal_port.c)
target_link_libraries(port Rimeglass::core)
if(TARGET Rimeglass::shared)
  add_executable(shared $2/examples/test_and_report.c)
  target_link_libraries(shared Rimeglass::shared)
endif()
END
{ cmake -S "$to/package" -B "$to/package/build" -DCMAKE_PREFIX_PATH="$to" &&
    cmake --build "$to/package/build"; } >"$to/package.log" 2>&1 || {
    cat "$to/package.log" >&2
    exit 1
}
"$to/package/build/board" "$2/demo/boards/halvorn64.yaml"
if [ -e "$to/package/build/shared" ]; then
    "$to/package/build/shared" "$2/demo/boards/halvorn64.yaml" sim: "$to/result.json"
    library=$(find "$to" -name 'librimeglass.so.*.*.*')
    if nm -D --defined-only "$library" | grep -v ' rmg_' >&2; then
        echo "install: the shared library shows names that are not its own" >&2
        exit 1
    fi
    # what no public header declares is hidden
    nm "$library" | grep -q ' t rmg_rule_out$' || {
        echo "install: the shared library shows what is private" >&2
        exit 1
    }
    case $(objdump -p "$library") in *"SONAME"*librimeglass.so.0.1*) ;; *)
        echo "install: the shared library has no soname" >&2
        exit 1 ;;
    esac
fi
if sed 's/Rimeglass 0.1/Rimeglass 9.0/' "$to/package/CMakeLists.txt" >"$to/package/other.txt" &&
    mkdir -p "$to/other" && mv "$to/package/other.txt" "$to/other/CMakeLists.txt" &&
    cmake -S "$to/other" -B "$to/other/build" -DCMAKE_PREFIX_PATH="$to" >/dev/null 2>&1; then
    echo "install: the package passes for version 9.0" >&2
    exit 1
fi
mkdir -p "$to/narrow/rimeglass"
cp "$1/tests/narrow/rimeglass/config.h" "$to/narrow/rimeglass/"
if cc -std=c11 -I"$to/narrow" "$2/examples/minimal_port.c" -o "$to/mixed" $core 2>"$to/mixed.txt"; then
    echo "install: a program for narrow widths was linked with the wide library" >&2
    exit 1
fi
grep -q 'undefined reference.*rmg_' "$to/mixed.txt"
