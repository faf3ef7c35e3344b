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
for form in board fault plan profile prompt part catalogue job run link; do
    page=$to/man5/rimeglass-$form.5
    [ -s "$page" ] || { echo "man: no page of the form $form" >&2; exit 1; }
    # tables may be too wide for a page: their words are paths and commands
    wrong=$(LC_ALL=C.UTF-8 groff -Kutf8 -t -man -Tutf8 -ww -W break "$page" 2>&1 >/dev/null |
        grep -v "table\|^warning: file" || :)
    [ -z "$wrong" ] || { echo "man: $page: $wrong" >&2; exit 1; }
done
complete_zsh() { # the same
    wanted=$1
    shift
    got=$(zsh -f -c 'compdef() {}; compadd() { local a=("$@"); print -r -- ${a[${a[(i)--]}+1,-1]}; }
        _describe() { print -r -- ${${(P)2}%%:*}; }; _files() { :; }
        to=$1; shift; source $to/_rimeglass; words=("$@"); CURRENT=$#; _rimeglass' zsh "$to" "$tool" "$@" |
        tr '\n' ' ')
    case " $got " in *" $wanted "*) ;; *)
        echo "man: zsh completes \"$*\" with \"$got\", expected $wanted" >&2
        exit 1 ;;
    esac
}
complete_zsh identify id
complete_zsh --replacement= image --repl
complete_zsh U19 verify demo/boards/halvorn64.yaml U1
complete_zsh image help im
