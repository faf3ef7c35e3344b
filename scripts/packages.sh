# Read by the other scripts: installs Debian packages that are missing, as root or with sudo.
# Asks no question, and says nothing where nothing is missing.

build_packages="gcc libc6-dev cmake ninja-build pkg-config libglib2.0-dev libyaml-dev libjansson-dev zlib1g-dev binutils
    libcairo2-dev libncurses-dev libsqlite3-dev fonts-dejavu-core"
test_packages="patch groff-base lowdown zsh doxygen libcunit1-dev clang clang-format gcc-avr avr-libc gcc-arm-none-eabi
    libnewlib-arm-none-eabi libclang-rt-14-dev python3 python3-jsonschema chromium
    libsimavr-dev libelf-dev gdbserver qemu-system-x86 kicad-symbols
    libz80ex-dev libunicorn-dev cc65 z80dasm z80asm nasm binutils-m68k-linux-gnu python3-capstone"
long_packages="valgrind"
package_packages="dpkg-dev debhelper lintian fakeroot mmdebstrap git lowdown gcc-avr avr-libc"
picture_packages="xvfb xterm imagemagick chromium"

need() {
    missing=
    for package in "$@"; do
        dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' ||
            missing="$missing $package"
    done
    [ -n "$missing" ] || return 0
    as_root=
    [ "$(id -u)" = 0 ] || as_root=sudo
    echo "Installing:$missing"
    export DEBIAN_FRONTEND=noninteractive
    # shellcheck disable=SC2086
    { $as_root apt-get -qq update &&
        $as_root apt-get -qq install -y --no-install-recommends $missing; } >/dev/null || {
        echo "These packages could not be installed:$missing" >&2
        exit 1
    }
}

# A package's files below a folder, without installing it: of a program only its data are wanted.
unpack() { # $1: package, $2: folder
    [ -e "$2/$1.unpacked" ] && return 0
    echo "Unpacking: $1"
    mkdir -p "$2"
    as_root=
    [ "$(id -u)" = 0 ] || as_root=sudo
    (cd "$2" && { apt-get -qq download "$1" 2>/dev/null ||
        { $as_root apt-get -qq update && apt-get -qq download "$1"; }; } >/dev/null 2>&1 &&
        dpkg-deb -x "$1"_*.deb . && rm "$1"_*.deb && touch "$1.unpacked") || {
        echo "This package could not be fetched: $1" >&2
        exit 1
    }
}

# Configures and builds into a folder, quietly unless something goes wrong. $1: folder, then options.
# $targets: what to build, all of it where that is empty.
build() {
    folder=$1
    mkdir -p "$folder"
    shift
    cmake -S . -B "$folder" -G Ninja -DRMG_WERROR=ON "$@" >"$folder/build.log" 2>&1 &&
        cmake --build "$folder" ${targets:+--target $targets} >>"$folder/build.log" 2>&1 || {
        grep -E 'error|warning|FAILED|CMake Error' "$folder/build.log" >&2 || tail -n 40 "$folder/build.log" >&2
        echo "The build in $folder failed; all of it: $folder/build.log" >&2
        exit 1
    }
}
