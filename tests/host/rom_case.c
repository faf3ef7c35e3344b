/* A chip of a demo board under simulation. */
#include "rom_case.h"

#include <glib.h>
#include <string.h>

#include "../check.h"
#include "temporary.h"

const char *fault_file(const char *faults)
{
    gchar *text = g_strdup_printf("faults: [%s]\nworld-seed: 3\n", faults);
    const char *file = temporary_file("rom-faults.yaml", text);

    g_free(text);
    return file;
}

void open_case(chip_case *c, const rmg_board *board, const char *what, bool bare,
               const char *faults)
{
    rmg_errors found = {0};
    rmg_error error = {0};
    const uint16_t socket = rmg_board_socket(board, what);
    rmg_status status;

    memset(c, 0, sizeof *c);
    status = bare ? rmg_sim_bare_begin(&c->bench, board, socket, fault_file(faults), &found)
                  : rmg_sim_board_begin(&c->bench, board, fault_file(faults), &found);
    CHECK(status == RMG_OK, "%s: %s", faults, found.count ? found.list[0].what : "");
    rmg_errors_free(&found);
    if (bare)
        rmg_rom_of_adapter(c->bench.adapter, &c->rom);
    else
        CHECK(rmg_rom_find(board, what, &c->rom, &error) == RMG_OK, "%s: %s", what,
              error.what ? error.what : "");
    rmg_error_free(&error);
    if (socket != RMG_NO_SOCKET && *board->sockets[socket].image) {
        rmg_rom_good good;

        CHECK(rmg_rom_good_load(&c->rom, board->sockets[socket].image, NULL, &good, &error) ==
                  RMG_OK,
              "its image");
        c->good = good.bytes;
        good.bytes = NULL;
        rmg_rom_good_free(&good);
    }
}

void find_suspects(chip_case *c, const rmg_board *board, rmg_bare_result bare)
{
    const rmg_rom_case rc = {.rom = &c->rom,
                             .board = board,
                             .quality = &c->v.quality,
                             .comparison = c->v.compared ? &c->v.comparison : NULL,
                             .bare = bare};

    rmg_rom_suspects(&rc, &c->suspects);
    rmg_rom_suspects_word(&rc, &c->suspects);
}

void verify_case(chip_case *c, const rmg_board *board, const char *what, bool bare,
                 uint32_t readings, const char *faults)
{
    open_case(c, board, what, bare, faults);
    CHECK(rmg_verify_run(&c->v, &c->rom, &c->bench.target, readings, c->good, NULL, 0, NULL,
                         NULL) == RMG_OK,
          "%s: read", faults);
    find_suspects(c, board, RMG_BARE_UNKNOWN);
}

void end_case(chip_case *c)
{
    rmg_suspects_free(&c->suspects);
    rmg_verify_end(&c->v);
    rmg_text_free(c->good);
    rmg_sim_board_end(&c->bench);
}
