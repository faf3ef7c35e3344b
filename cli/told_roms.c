/* ROMs that a test ROM has read, reported; and what was read of them, into files. */
#include <string.h>

#include "rimeglass/file.h"
#include "rimeglass/heard.h"
#include "rom.h"
#include "test.h"

/* One of them, judged. */
typedef struct judged {
    rmg_told_rom rom;
    rom_others others;
    rmg_verify verify;
    rmg_suspects suspects;
    rmg_status status;
} judged;

struct told_roms {
    judged list[RMG_TESTROM_ROMS];
    size_t count;
};

static void judge(judged *j, const rmg_board *board, const char *catalogue)
{
    rmg_rom_case rc = {.rom = &j->rom.rom, .board = board, .quality = &j->verify.quality};

    j->status = rom_others_load(catalogue, &j->rom.rom, &j->others)
                    ? rmg_told_rom_judge(&j->rom, j->others.words, j->others.count, &j->verify,
                                         &j->suspects)
                    : RMG_ERR_FILE; /* that was said */
    rc.comparison = j->verify.compared ? &j->verify.comparison : NULL;
    rc.other_names = (const char *const *)j->others.names;
    rmg_rom_suspects_word(&rc, &j->suspects);
}

told_roms *told_roms_judge(const rmg_run *run, const char *catalogue)
{
    const rmg_told *told = run->heard ? run->heard->told : NULL;
    told_roms *roms = g_new0(told_roms, 1);

    for (uint8_t n = 0; told && n < told->plan.rom_count && !told->blinks; n++) {
        judged *j = &roms->list[roms->count];

        if (rmg_told_rom_read(run, n, &j->rom) != RMG_OK)
            continue;
        roms->count++;
        if (rmg_told_rom_differs(&j->rom))
            judge(j, run->board, catalogue);
    }
    return roms;
}

void told_roms_free(told_roms *roms)
{
    for (size_t i = 0; i < roms->count; i++) {
        judged *j = &roms->list[i];

        rmg_suspects_free(&j->suspects);
        rmg_verify_end(&j->verify);
        rom_others_free(&j->others);
        rmg_told_rom_free(&j->rom);
    }
    g_free(roms);
}

bool told_roms_accused(const told_roms *roms)
{
    for (size_t i = 0; i < roms->count; i++)
        if (roms->list[i].suspects.count)
            return true;
    return false;
}

void print_told_heads(FILE *to, const told_roms *roms)
{
    for (size_t i = 0; i < roms->count; i++)
        if (roms->list[i].suspects.count)
            print_heads(to, &roms->list[i].suspects);
}

static void print_judged(FILE *to, const judged *j)
{
    if (j->rom.unsteady)
        fprintf(to,
                "  %" G_GUINT64_FORMAT " of %" G_GUINT64_FORMAT
                " pages gave the right sums now and then only.\n",
                j->rom.unsteady, j->rom.pages);
    if (j->status != RMG_OK) {
        if (j->status != RMG_ERR_FILE)
            fprintf(to, "  What was read could not be compared: %s.\n", rmg_status_text(j->status));
        return;
    }
    print_quality(to, &j->verify);
    if (!j->rom.good)
        print_wrapped(to, "", 2,
                      "There is no image to compare with: --roms FOLDER keeps what was read, for "
                      "identify and verify --read.");
    print_comparison(to, &j->verify, "the board file's images",
                     (const char *const *)j->others.names);
    print_rom_suspects(to, &j->suspects);
}

void print_told_roms(FILE *to, const told_roms *roms, bool heads)
{
    for (size_t i = 0; i < roms->count; i++) {
        const judged *j = &roms->list[i];
        char name[160];

        fprintf(to, "\nThe test ROM read %s: %" G_GUINT64_FORMAT " pages, in %u whole pass%s\n",
                rmg_rom_name(&j->rom.rom, name, sizeof name), j->rom.pages, j->rom.readings,
                j->rom.readings == 1 ? "" : "es");
        if (heads && j->suspects.count)
            print_heads(to, &j->suspects);
        if (rmg_told_rom_differs(&j->rom))
            print_judged(to, j);
        else if (j->rom.readings)
            fprintf(to, "  The sums of all pages are those of the board file's images.\n");
    }
}

bool write_told_roms(const char *verb, const rmg_run *run, const char *folder)
{
    const rmg_told *told = run->heard ? run->heard->told : NULL;
    bool good = true;

    for (uint8_t n = 0; good && told && n < told->plan.rom_count; n++) {
        rmg_told_rom rom;
        rmg_error error = {0};

        if (rmg_told_rom_read(run, n, &rom) != RMG_OK)
            continue;
        for (uint32_t i = 0; good && i < rom.readings; i++) {
            gchar *base = g_strdup_printf("%s-%u.bin", rom.rom.region->name, i + 1u);
            gchar *file = g_build_filename(folder, g_strdelimit(base, "/ ", '-'), NULL);
            const size_t size = (size_t)rmg_rom_bytes(&rom.rom);

            good = may_replace(verb, "roms", file, rom.images[i], size);
            if (good && rmg_file_write(file, rom.images[i], size, &error) != RMG_OK) {
                wrong_call(verb, "--roms %s: %s", folder, error.what);
                rmg_error_free(&error);
                good = false;
            }
            g_free(base);
            g_free(file);
        }
        if (good && !rom.readings)
            fprintf(stderr, "rimeglass %s: nothing of %s was heard whole.\n", verb,
                    rom.rom.region->name);
        rmg_told_rom_free(&rom);
    }
    return good;
}
