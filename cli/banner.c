/* A few words in letters that can be read from across the bench. */
#include <string.h>

#include "cli.h"

#define ROWS 5u

/* Five rows of five cells a letter, drawn for this. */
static const struct {
    char letter;
    const char *rows[ROWS];
} letters[] = {
    {'A', {" ### ", "#   #", "#####", "#   #", "#   #"}},
    {'B', {"#### ", "#   #", "#### ", "#   #", "#### "}},
    {'D', {"#### ", "#   #", "#   #", "#   #", "#### "}},
    {'E', {"#####", "#    ", "###  ", "#    ", "#####"}},
    {'F', {"#####", "#    ", "###  ", "#    ", "#    "}},
    {'G', {" ####", "#    ", "#  ##", "#   #", " ### "}},
    {'H', {"#   #", "#   #", "#####", "#   #", "#   #"}},
    {'K', {"#  # ", "# #  ", "##   ", "# #  ", "#  # "}},
    {'L', {"#    ", "#    ", "#    ", "#    ", "#####"}},
    {'M', {"#   #", "## ##", "# # #", "#   #", "#   #"}},
    {'N', {"#   #", "##  #", "# # #", "#  ##", "#   #"}},
    {'O', {" ### ", "#   #", "#   #", "#   #", " ### "}},
    {'P', {"#### ", "#   #", "#### ", "#    ", "#    "}},
    {'R', {"#### ", "#   #", "#### ", "#  # ", "#   #"}},
    {'S', {" ####", "#    ", " ### ", "    #", "#### "}},
    {'T', {"#####", "  #  ", "  #  ", "  #  ", "  #  "}},
    {'U', {"#   #", "#   #", "#   #", "#   #", " ### "}},
    {'W', {"#   #", "#   #", "# # #", "## ##", "#   #"}},
    {'Y', {"#   #", " # # ", "  #  ", "  #  ", "  #  "}},
};

static const char *row_of(char letter, unsigned row)
{
    for (size_t i = 0; i < G_N_ELEMENTS(letters); i++)
        if (letters[i].letter == letter)
            return letters[i].rows[row];
    return "  ";
}

void print_banner(FILE *to, const char *words, bool good)
{
    const bool colour = colour_on(to);

    fputc('\n', to);
    for (unsigned row = 0; row < ROWS; row++) {
        fputs("  ", to);
        for (const char *c = words; *c; c++) {
            /* filled cells, so that it does not depend on a font; good ones and others differ in
             * their words first of all */
            for (const char *cell = row_of(*c, row); *cell; cell++)
                if (*cell == ' ')
                    fputc(' ', to);
                else if (colour)
                    fprintf(to, "\033[%sm \033[0m", good ? "42" : "41");
                else
                    fputc('#', to);
            fputc(' ', to);
        }
        fputc('\n', to);
    }
    fputc('\n', to);
}
