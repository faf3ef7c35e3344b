# Read by the scripts: how a parser is fuzzed. Which words it is helped with; $1: the parser.
fuzz_words() {
    case $1 in
    job) echo tests/fuzz/words/job.dict ;;
    pod) echo tests/fuzz/words/pod.dict ;;
    board | fault | plan | catalogue | lines | prompt) echo tests/fuzz/words/yaml.dict ;;
    run | reading) echo tests/fuzz/words/json.dict ;;
    *) echo tests/fuzz/words/$1.dict ;;
    esac
}
fuzz_parsers="march far job pod board fault plan run image catalogue reading lines prompt"
# short inputs, simple choice of the next one: many runs a second
fuzz_options="-max_len=256 -len_control=10 -entropic=0 -reload=0 -timeout=8 -rss_limit_mb=1024 -verbosity=0"
export ASAN_OPTIONS=malloc_context_size=8:quarantine_size_mb=16:max_malloc_fill_size=0
