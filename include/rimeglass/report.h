/* Results as JSON and as pictures. */
#ifndef RIMEGLASS_REPORT_H
#define RIMEGLASS_REPORT_H

#include "chip.h"
#include "grade.h"
#include "catalogue.h"
#include "deadboard.h"
#include "probe.h"
#include "job.h"
#include "replay.h"
#include "verify.h"

#ifdef __cplusplus
extern "C" {
#endif

/* Puts suspects into words, whatever was found or replayed since: their `char *` fields. Of a run,
 * and of a chip that was read. */
void rmg_suspects_word(const rmg_run *run, rmg_suspects *suspects);
void rmg_rom_suspects_word(const rmg_rom_case *rom_case, rmg_suspects *suspects);

/* One explanation in a few words: "A13 (U5 pin 26) is seen as 0". To be freed with rmg_text_free.
 */
char *rmg_explanation_text(const rmg_rom *rom, const rmg_explanation *e,
                           const char *const *other_names);

/* A test ROM for a board, in text: what it does and finds; what its lines and blinks mean; and what
 * one code does (RMG_TESTROM_CODE_...; NULL: the plan has none like it). To be freed with
 * rmg_text_free. */
char *rmg_testrom_text(const rmg_board *board, const rmg_board_rom *how,
                       const rmg_testrom_plan *plan, const rmg_testrom_left *left,
                       unsigned left_count, const rmg_dead_image *image);
char *rmg_testrom_legend(const rmg_board *board, const rmg_testrom_plan *plan);
char *rmg_testrom_code_text(const rmg_board *board, const rmg_testrom_plan *plan, uint8_t code);

/* The same as JSON, docs/testrom.schema.json; and the meanings of its blinks as a picture, to a
 * file whose name ends in .png, .svg or .pdf. Errors as of rmg_draw_part. */
char *rmg_testrom_json(const rmg_board *board, const rmg_board_rom *how,
                       const rmg_testrom_plan *plan, const rmg_testrom_left *left,
                       unsigned left_count, const rmg_dead_image *image);
rmg_status rmg_draw_testrom(const rmg_board *board, const rmg_testrom_plan *plan, const char *file,
                            rmg_error *error);

/* The run as JSON text, to be freed with rmg_text_free; NULL: no memory, or a name in it that is
 * not UTF-8. Its form: docs/result.schema.json. */
char *rmg_run_json(const rmg_run *run, const rmg_suspects *suspects);

/* The board as JSON text: regions, banks with their places, sockets. To be freed likewise. */
char *rmg_board_json(const rmg_board *board);
/* What differs between two boards: `here`, `there`, and in `differences` what, name, and how it is
 * in each; null: not there. */
char *rmg_board_differences_json(const rmg_board *here, const rmg_board *there,
                                 const rmg_board_differences *found);

/* What a spot check means, in sentences, the first names the sockets; NULL at the end. To be freed
 * with rmg_texts_free. */
char **rmg_probe_advice(const rmg_probe *probe);

/* What a number of the board's start-up means, in sentences; and as JSON: `number`, `healthy`,
 * `causes`, `try_first`. To be freed likewise, and with rmg_text_free. */
char **rmg_reckoning_advice(const rmg_reckoning *reckoning);
char *rmg_reckoning_json(const rmg_reckoning *reckoning);

/* What a trial says (trial.h), the outcome first, then the likeliest cause, then the rest; NULL at
 * the end; to be freed with rmg_texts_free. The suspects need their words (rmg_suspects_word). A
 * cause, with where its chip is after `changes` since the run (NULL: nothing was moved), and what
 * to change next with the results it may have, in words; to be freed with rmg_text_free. */
char **rmg_trial_lines(const rmg_trial *trial, const rmg_suspects *suspects);

/* Of several faults at once: where that one is, "U32", and whether it is gone by what was changed.
 * NULL: there is only one. To be freed with rmg_text_free. */
char *rmg_fault_text(const rmg_suspects *suspects, const rmg_hypothesis *list, size_t count,
                     unsigned fault);
char *rmg_hypothesis_text(const rmg_board *board, const rmg_suspects *suspects,
                          const rmg_changes *changes, const rmg_hypothesis *hypothesis);
char *rmg_advice_text(const rmg_board *board, const rmg_advice *advice);

/* The trial as JSON: `changes`, `outcome`, `sockets`, `causes`, `next`. To be freed likewise. */
char *rmg_trial_json(const rmg_trial *trial, const rmg_suspects *suspects, const rmg_advice *advice,
                     size_t advice_count);

/* A job: what follows from all of it, how sure, what next, in sentences; the causes need their
 * words. Its timeline, causes and advice as JSON. The sheet: one page of HTML for the owner, and
 * below it the bench's record; it needs nothing from elsewhere, and has no script. To be freed
 * likewise. */
char **rmg_job_lines(const rmg_job *job, const rmg_job_state *state);

/* Said of a test, by its step, with which the diagnosis began again: why. Constant; NULL: it did
 * not. */
const char *rmg_job_begins_again(const rmg_job_state *state, size_t step);

/* The same of one of its ROMs; what followed from a reading of it, in a line ("" of the base); what
 * to do next, in a sentence. To be freed with rmg_texts_free, and rmg_text_free. */
char **rmg_job_rom_lines(const rmg_board *board, const rmg_job_rom *rom);
char *rmg_job_reading_text(const rmg_board *board, const rmg_job_rom *rom, size_t reading);
char *rmg_job_rom_advice_text(const rmg_board *board, const rmg_advice *advice);

/* Makes the words of all suspects of a job; without them its sentences lack the causes. */
void rmg_job_word(rmg_job_state *state);
char *rmg_job_json(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                   size_t count);
char *rmg_job_html(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                   size_t count);

/* A chip and a place that are not right together, in two sentences; the next trial and what it may
 * show, or what mends it. And what was seen of a chip outside the board: "lot 7 passes in console
 * 4". To be freed with rmg_text_free. */
char *rmg_job_combination_text(const rmg_board *board, const rmg_job_combination *c);
char *rmg_job_combination_next(const rmg_board *board, const rmg_job_combination *c);
char *rmg_job_elsewhere_text(const rmg_job_elsewhere *elsewhere);

/* The same sheet as a PDF file, A4. RMG_ERR_FILE: *error, to be freed with rmg_error_free, says
 * more.
 */
rmg_status rmg_job_pdf(const rmg_job *job, const rmg_job_state *state, const rmg_entry *entries,
                       size_t count, const char *file, rmg_error *error);

/* The probe as JSON text, to be freed with rmg_text_free: `pairs`, `bits`, `advice`, `verdict`,
 * `complete`, `not_restored`. */
char *rmg_probe_json(const rmg_probe *probe);

/* The image as JSON: pieces, and checksums of its bytes with gaps filled; `equal` says what a
 * comparison found, NULL: none was made. To be freed with rmg_text_free. Its form:
 * docs/image.schema.json. */
char *rmg_image_json(const rmg_image *image, uint8_t fill, const char *file, const bool *equal);

/* The result as JSON, to be freed with rmg_text_free; its form: docs/identify.schema.json. */
char *rmg_identity_json(const rmg_identity *identity, const rmg_catalogue *catalogue,
                        const char *what);

/* Results of reading ROMs as JSON; their form: docs/rom.schema.json. */

/* A series at steps of one condition, for the result. */
typedef struct rmg_series {
    rmg_condition which;          /* the condition that was stepped */
    const rmg_verify_step *steps; /* [count] */
    size_t count;
} rmg_series;

/* All that is reported of one reading. What is NULL or 0 was not done. */
typedef struct rmg_rom_result {
    const rmg_board *board;      /* the chip's own */
    const char *target;          /* as the user named it */
    const char *action;          /* "dump", "verify" or "watch" */
    const char *image;           /* file that was compared with */
    bool complete;               /* all that was asked for was done */
    const rmg_rom *rom;          /* the chip, or region */
    const rmg_verify *verify;    /* readings, and what came of them; or NULL */
    const rmg_verify *bare;      /* the same chip on its own pins */
    const rmg_rom_passes *watch; /* the passes of a watch; or NULL */
    const rmg_series *series;    /* [series_count] */
    size_t series_count;
    const char *const *other_names; /* of the images that were offered as well */
    const rmg_suspects *suspects;   /* what to look at; or NULL */
} rmg_rom_result;

/* To be freed with rmg_text_free. */
char *rmg_rom_json(const rmg_rom_result *result);

/* The board as a picture: its sockets in their places, the failing ones standing out. */

/* Can the board be drawn? RMG_ERR_ARGUMENT: its file places no socket; *error, to be freed with
 * rmg_error_free, says what it lacks. */
rmg_status rmg_draw_check(const rmg_board *board, rmg_error *error);

/* Draws a board as it is fitted, from the component side or turned over to the solder side: where
 * each socket sits, its pin 1, part and data bits, and its banks. A PDF has both sides, the one
 * asked for first. Errors as of rmg_draw_run. */
rmg_status rmg_draw_board(const rmg_board *board, bool solder_side, const char *file,
                          rmg_error *error);

/* Draws a run's board, 1280 by 800, to a file whose name ends in .png, .svg or .pdf.
 * RMG_ERR_ARGUMENT: another ending, or a board whose file places no socket. RMG_ERR_FILE: it could
 * not be written. In both cases *error, to be freed with rmg_error_free, says more. */
rmg_status rmg_draw_run(const rmg_run *run, const rmg_suspects *suspects, const char *file,
                        rmg_error *error);

/* Both runs of a trial side by side, and failing bits by socket before and after. The suspects of
 * both need their words. Errors as of rmg_draw_run. */
rmg_status rmg_draw_trial(const rmg_trial *trial, const rmg_suspects *before,
                          const rmg_suspects *after, const char *file, rmg_error *error);

/* Has the board a bank or a socket with memory of that name? RMG_ERR_ARGUMENT: *error, to be freed
 * with rmg_error_free, says what there is. */
rmg_status rmg_draw_failures_check(const rmg_board *board, const char *what, rmg_error *error);

/* The failures of a socket's chip, or of each chip of a bank, by row and column address; parts
 * without rows by their lower and upper address lines. And failing reads over the passes, with the
 * temperature where the port reported it. Errors as above; RMG_ERR_ARGUMENT too where the board has
 * no such bank or socket, or the run no whole pass. */
rmg_status rmg_draw_failures(const rmg_run *run, const char *what, const char *file,
                             rmg_error *error);
rmg_status rmg_draw_course(const rmg_run *run, const char *file, rmg_error *error);

/* Pictures of 1280 by 800, to a file whose name ends in .png, .svg or .pdf. Glyphs that would be
 * too small on one page take several of a PDF, at most 128; a picture shows the first, where there
 * is no room for a pixel each. RMG_ERR_ARGUMENT: another ending, no whole glyph, or more pages.
 * RMG_ERR_FILE. In both cases *error, to be freed with rmg_error_free, says more. */
rmg_status rmg_draw_glyphs(const rmg_rom_view *view, const rmg_glyph_form *form, const char *title,
                           const char *file, rmg_error *error);
rmg_status rmg_draw_map(const rmg_rom_view *view, rmg_map_by by, const char *title,
                        const char *file, rmg_error *error);

/* Parts. Texts are to be freed with rmg_text_free. */

/* "DRAM, 16K x 1"; what a pin does: "row strobe, active low". */
char *rmg_part_text(const rmg_part *part);
char *rmg_pin_text(const rmg_part *part, uint8_t pin);

/* The pod that holds the part (docs/pod.md), "ATmega328P", or NULL: none does; and what of that pod
 * goes to a pin: "PC0", "+5 V rail". */
const char *rmg_pod_for(const rmg_part *part);
char *rmg_pod_pin_text(const rmg_part *part, uint8_t pin);

/* Why a part fits or not, and where a pin's wire goes, each a part of a sentence. `here` is the
 * part that the socket was made for. */
char *rmg_fit_reason_text(const rmg_part *here, const rmg_part *there,
                          const rmg_fit_reason *reason);
char *rmg_wire_text(const rmg_part *here, const rmg_part *there, const rmg_wire *wire);

/* JSON of parts, and of how they fit a socket; their form: docs/part.schema.json. */
char *rmg_parts_json(const rmg_part *const *parts, size_t count);
char *rmg_fittings_json(const char *socket, const rmg_part *here, const rmg_part *const *parts,
                        const rmg_fitting *fittings, size_t count);

/* The verdict on a chip: one word or two ("GOOD"), and sentences: what was found, what follows. */
const char *rmg_chip_verdict(const rmg_chip *chip);
char *rmg_chip_text(const rmg_chip *chip);
char *rmg_chip_advice(const rmg_chip *chip);
char *rmg_chip_grade_text(const rmg_chip *chip); /* NULL: it was not graded */

/* One line of JSON, as stock files keep it; its form: docs/chip.schema.json. `label` and `lot`: ""
 * where there is none; `when`: ISO 8601. */
char *rmg_chip_line(const rmg_chip *chip, const char *label, const char *lot, const char *when);

/* Grades. "4.50 V"; "4 MHz" or "125 ns"; "clean up to 4 MHz in 8 passes (fails in fewer than 32 %
 * of passes), fails at 4.5 MHz"; how far from there the board runs (own: rmg_grade_own_clock), or
 * NULL: not known. To be freed with rmg_text_free. */
char *rmg_grade_supply_text(int32_t supply_mv);
char *rmg_grade_step_text(rmg_grade_axis axis, int32_t at);
char *rmg_grade_limit_text(const rmg_grade_chart *chart, int32_t supply_mv);
char *rmg_grade_margin_text(const rmg_grade_chart *chart, int32_t supply_mv, int32_t own);

/* JSON of a board's grades, docs/grades.schema.json; and a chart as a picture, the step at which
 * the board runs (or RMG_NOT_KNOWN) marked. Errors as of rmg_draw_run, and RMG_ERR_MEMORY. */
char *rmg_grades_json(const rmg_grades *grades);
rmg_status rmg_draw_grades(const rmg_grade_chart *chart, const char *title, const char *under,
                           int32_t own, const char *file, rmg_error *error);

/* The pinout seen from above; `pod`: with the pod's lines (rmg_pod_for is one) in the place of what
 * the pins do. Errors as of rmg_draw_run. */
rmg_status rmg_draw_part(const rmg_part *part, bool pod, const char *file, rmg_error *error);

#ifdef __cplusplus
}
#endif
#endif
