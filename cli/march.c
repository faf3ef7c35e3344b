/* A march by name or notation, as the command line takes it. */
#include "cli.h"
#include "rimeglass/march.h"

static const char *nearest_name(const char *text)
{
    const char **names = g_new0(const char *, rmg_march_name_count + 1u);
    const char *near;

    for (uint8_t i = 0; i < rmg_march_name_count; i++)
        names[i] = rmg_march_names[i].name;
    near = rmg_nearest(text, names);
    g_free(names);
    return near;
}

const uint8_t *find_march(const char *command_name, const char *text, uint8_t *room,
                          const char **name)
{
    rmg_march_error error = {0, ""};
    rmg_status status;

    for (uint8_t i = 0; i < rmg_march_name_count; i++)
        if (rmg_march_by_name(text) == rmg_march_names[i].code) {
            *name = rmg_march_names[i].name;
            return rmg_march_names[i].code;
        }
    *name = text;
    status = rmg_march_parse(text, room, RMG_MARCH_BYTES, &error);
    if (status == RMG_ERR_NOTATION) {
        const char *near = nearest_name(text);

        wrong_call(command_name,
                   "\"%s\": neither a march known by name (docs/marches.md) nor notation: at "
                   "\"%s\" (place %u) expected %s%s%s%s",
                   text, text + error.offset, error.offset + 1u, error.expected,
                   near ? "; did you mean " : "", near ? near : "", near ? "?" : "");
    } else if (status != RMG_OK)
        wrong_call(command_name, "\"%s\": %s", text, rmg_status_text(status));
    return status == RMG_OK ? room : NULL;
}
