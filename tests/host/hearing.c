/* Lines heard by a profile, on a board. */
#include <glib.h>
#include <string.h>

#include "../check.h"
#include "bench_board.h"
#include "hearing.h"
#include "rimeglass/report.h"

void hear(heard *h, const char *board, const char *profile, const char *bytes, size_t count)
{
    rmg_errors errors = {0};
    rmg_listener *l;

    memset(h, 0, sizeof *h);
    h->board = bench_load(board);
    CHECK(rmg_profile_load_text("made.yaml", profile, h->board, &h->profile, &errors) == RMG_OK,
          "%s", errors.count ? errors.list[0].what : "");
    rmg_errors_free(&errors);
    CHECK(rmg_run_begin_heard(&h->run, h->board, "made", rmg_profile_name(h->profile),
                              rmg_profile_steps(h->profile)) == RMG_OK,
          "begins");
    l = rmg_listen_begin(h->profile, &h->run);
    for (size_t at = 0; at < count; at += 1 + at % 7)
        CHECK(rmg_listen_bytes(l, bytes + at, MIN(count - at, 1 + at % 7)) == RMG_OK, "heard");
    h->status = rmg_listen_end(l, false, &h->error);
    rmg_listen_free(l);
    rmg_suspects_find(&h->run, NULL, &h->suspects);
    rmg_suspects_word(&h->run, &h->suspects);
}

void hear_text(heard *h, const char *board, const char *profile, const char *text)
{
    hear(h, board, profile, text, strlen(text));
}

void forget(heard *h)
{
    rmg_suspects_free(&h->suspects);
    rmg_run_end(&h->run);
    rmg_profile_free(h->profile);
    rmg_board_free(h->board);
    rmg_error_free(&h->error);
}
