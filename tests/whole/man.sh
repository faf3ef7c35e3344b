#!/bin/sh
# Man pages and completion: of every command and option, without a warning; and what completion
# offers. $1: folder of the build, $2: folder of the project.
set -eu
cd "$2"
to=$1/man-test
rm -rf "$to"
"$2/scripts/man" "$1/rimeglass" "$to"
count=0
for name in $("$1/rimeglass" --help | sed -n '/^Commands/,/^$/s/^  \([a-z]*\) .*/\1/p'); do
    page=$to/man1/rimeglass-$name.1
    [ -s "$page" ] || { echo "man: no page of $name" >&2; exit 1; }
    wrong=$(LC_ALL=C.UTF-8 groff -Kutf8 -man -Tutf8 -ww "$page" 2>&1 >/dev/null)
    [ -z "$wrong" ] || { echo "man: $wrong" >&2; exit 1; }
    plain=$(LC_ALL=C.UTF-8 groff -Kutf8 -man -Tutf8 -P-cbou "$page")
    for option in $("$1/rimeglass" "$name" --help | sed -n 's/^  \(--[a-z-]*\).*/\1/p'); do
        case $plain in *"$option"*) ;; *)
            echo "man: the page of $name lacks $option" >&2
            exit 1 ;;
        esac
    done
    count=$((count + 1))
done
[ "$count" -ge 13 ] || { echo "man: only $count commands" >&2; exit 1; }
complete() { # $1: what is to be offered, then the words
    wanted=$1
    shift
    got=$(bash -c 'source "$0/rimeglass.bash"; COMP_WORDS=("$@"); COMP_CWORD=$(($# - 1))
        _rimeglass; echo "${COMPREPLY[*]}"' "$to" "$tool" "$@")
    case " $got " in *" $wanted "*) ;; *)
        echo "man: \"$*\" is completed with \"$got\", expected $wanted" >&2
        exit 1 ;;
    esac
}
tool=$1/rimeglass
complete identify id
complete --replacement= image --repl
complete U19 verify demo/boards/halvorn64.yaml U1
complete demo/boards/ostrel16.yaml test demo/boards/ost
complete image help im
