/* A test ROM as JSON; its form: docs/testrom.schema.json. */
#include "internal.h"
#include "rimeglass/report.h"

static json_t *range_json(const rmg_board *board, const rmg_range *range)
{
    char text[40];

    return json_string(rmg_board_range_text(board, range, text, sizeof text));
}

static json_t *steps_json(const rmg_board *board, const rmg_testrom_plan *plan)
{
    static const char *const kinds[RMG_TESTROM_KINDS] = {
        [RMG_TESTROM_DATA] = "data lines",     [RMG_TESTROM_LINES] = "address lines",
        [RMG_TESTROM_ACROSS] = "across banks", [RMG_TESTROM_FIRST] = "first memory",
        [RMG_TESTROM_MARCH] = "march",         [RMG_TESTROM_ROM] = "ROM",
    };
    json_t *list = json_array();

    for (unsigned i = 0; i < plan->step_count; i++) {
        const rmg_testrom_step *s = &plan->steps[i];
        const bool across = s->kind == RMG_TESTROM_ACROSS;
        const uint8_t bank = rmg_dead_bank(board, s->range.first);

        rmg_json_append(
            list, json_pack("{s:s, s:o, s:o}", "step", kinds[s->kind], "bank",
                            across || bank == RMG_NO_BANK ? json_null()
                                                          : json_string(board->banks[bank].name),
                            "range", across ? json_null() : range_json(board, &s->range)));
    }
    return list;
}

static json_t *codes_json(const rmg_board *board, const rmg_testrom_plan *plan)
{
    json_t *list = json_array();

    for (unsigned bank = 1; bank <= plan->bank_count; bank++)
        for (unsigned bit = 1; bit <= rmg_testrom_code_last(plan, (uint8_t)(bank - 1u)); bit++) {
            char *means = rmg_testrom_code_text(board, plan, (uint8_t)(bank << 5 | bit));

            rmg_json_append(list, json_pack("{s:i, s:i, s:s}", "first", (int)bank, "then", (int)bit,
                                            "means", means));
            rmg_text_free(means);
        }
    for (unsigned bit = 1;
         rmg_testrom_code_shared(plan) && bit <= RMG_TESTROM_CODE_ALL(plan->word_bits); bit++) {
        const unsigned bank = rmg_testrom_code_shared(plan);
        char *means = rmg_testrom_code_text(board, plan, (uint8_t)(bank << 5 | bit));

        if (means)
            rmg_json_append(list, json_pack("{s:i, s:i, s:s}", "first", (int)bank, "then", (int)bit,
                                            "means", means));
        rmg_text_free(means);
    }
    for (uint8_t rom = 0; rom < plan->rom_count; rom++) {
        const uint8_t code = (uint8_t)RMG_TESTROM_CODE_ROM(rom);
        char *means = rmg_testrom_code_text(board, plan, code);

        if (means)
            rmg_json_append(list,
                            json_pack("{s:i, s:i, s:s}", "first", (int)RMG_TESTROM_CODE_BANK(code),
                                      "then", (int)RMG_TESTROM_CODE_BIT(code), "means", means));
        rmg_text_free(means);
    }
    return list;
}

static json_t *slot_json(const rmg_board_rom *how, const rmg_testrom_plan *plan)
{
    json_t *header = json_array();

    for (unsigned i = 0; i < how->header_count; i++)
        rmg_json_append(header, json_integer(how->header[i]));
    return json_pack("{s:I, s:o, s:I, s:s}", "first_byte", (json_int_t)how->origin, "header",
                     header, "started_at",
                     (json_int_t)plan->origin + rmg_testrom_rows[plan->processor].front, "disables",
                     how->disables);
}

char *rmg_testrom_json(const rmg_board *board, const rmg_board_rom *how,
                       const rmg_testrom_plan *plan, const rmg_testrom_left *left,
                       unsigned left_count, const rmg_dead_image *image)
{
    json_t *root = json_object(), *sockets = json_array(), *not_tested = json_array();

    for (unsigned i = 0; i < how->socket_count; i++)
        rmg_json_append(sockets, json_string(board->sockets[how->sockets[i]].name));
    for (unsigned i = 0; i < left_count; i++)
        rmg_json_append(not_tested,
                        json_pack("{s:o, s:s}", "range", range_json(board, &left[i].range), "why",
                                  left[i].why));
    rmg_json_set(root, "rimeglass_testrom", json_integer(1));
    rmg_json_set(root, "board", json_string(board->name));
    rmg_json_set(root, "processor", json_string(rmg_testrom_rows[plan->processor].name));
    rmg_json_set(root, "clock_hz", json_integer(plan->clock_hz));
    rmg_json_set(root, "sockets", sockets);
    rmg_json_set(root, "origin", json_integer(plan->origin));
    if (how->slot_size)
        rmg_json_set(root, "slot", slot_json(how, plan));
    rmg_json_set(root, "id", json_integer(plan->id));
    rmg_json_set(root, "bytes_used", json_integer((json_int_t)image->used));
    rmg_json_set(root, "bytes", json_integer((json_int_t)image->size));
    rmg_json_set(root, "baud", plan->serial.fitted ? json_integer(plan->baud) : json_null());
    rmg_json_set(root, "baud_comes_out",
                 plan->serial.fitted ? json_real(image->baud) : json_null());
    rmg_json_set(root, "march", json_string(how->march_text));
    rmg_json_set(root, "clocks_a_word", json_integer(image->march_clocks));
    rmg_json_set(root, "seconds_a_pass",
                 json_real(rmg_dead_pass_clocks(plan, image) / plan->clock_hz));
    rmg_json_set(root, "lines_a_step", json_integer(plan->lines));
    rmg_json_set(root, "steps", steps_json(board, plan));
    rmg_json_set(root, "not_tested", not_tested);
    rmg_json_set(root, "blinks", plan->lamp.fitted ? codes_json(board, plan) : json_array());
    return rmg_json_text(root);
}
