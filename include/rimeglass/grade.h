/* Grades: at which step of clock, time or supply a chip begins to fail. Points of measurement, the
 * limit between clean and failing steps, and grades of a board's chips from its runs. */
#ifndef RIMEGLASS_GRADE_H
#define RIMEGLASS_GRADE_H

#include "run.h"

#ifdef __cplusplus
extern "C" {
#endif

/* What is stepped beside the supply. */
typedef enum rmg_grade_axis {
    RMG_GRADE_CLOCK, /* of a board, in Hz: higher is harder */
    RMG_GRADE_TIME   /* until data are sampled, in nanoseconds: less is harder */
} rmg_grade_axis;

/* One step, and what came of it. */
typedef struct rmg_grade_point {
    int32_t supply_mv; /* or RMG_NOT_KNOWN */
    int32_t at;        /* Hz or nanoseconds; or RMG_NOT_KNOWN */
    uint64_t tests;    /* made there: passes, or readings of all words */
    uint64_t failed;   /* of these, tests (of a board: runs) in which something failed */
} rmg_grade_point;

/* Points, by supply and then by `at`, both rising, no two alike. */
typedef struct rmg_grade_chart {
    rmg_grade_axis axis;     /* what `at` is */
    rmg_grade_point *points; /* [count], its own */
    size_t count;
} rmg_grade_chart;

/* Adds to the point of these steps, which is made if need be. */
void rmg_grade_add(rmg_grade_chart *chart, int32_t supply_mv, int32_t at, uint64_t tests,
                   uint64_t failed);
void rmg_grade_free(rmg_grade_chart *chart);

/* The limit at one supply: the hardest step at which nothing failed, with no failing step milder
 * than it, and the mildest at which something did; NULL where there is none. */
void rmg_grade_limit(const rmg_grade_chart *chart, int32_t supply_mv, const rmg_grade_point **clean,
                     const rmg_grade_point **failing);

/* The supplies of a chart, rising; to be freed with free(). *count: how many. */
int32_t *rmg_grade_supplies(const rmg_grade_chart *chart, size_t *count);

/* A chip of a board. */
typedef struct rmg_grade_chip {
    uint16_t socket;       /* where it sits */
    rmg_grade_chart chart; /* its steps */
} rmg_grade_chip;

/* The chips of a board. */
typedef struct rmg_grades {
    const rmg_board *board; /* of the first run, which must outlive this */
    rmg_grade_chart all;    /* of the whole memory */
    rmg_grade_chip *chips;  /* [chip_count]: those that failed at some step, by socket */
    size_t chip_count;
    size_t sound;      /* chips that never failed */
    int32_t own_clock; /* see rmg_grade_own_clock */
} rmg_grades;

/* Grades of the chips that all these runs tested, by the clock and supply that were measured or
 * told. RMG_ERR_ARGUMENT: the runs are of different boards, or one knows neither clock nor supply,
 * or ended no pass; *error, to be freed with rmg_error_free, names it by `names` ([count]). */
rmg_status rmg_grades_of_runs(const rmg_run *const *runs, const char *const *names, size_t count,
                              rmg_grades *grades, rmg_error *error);
void rmg_grades_free(rmg_grades *grades);

/* The clock at which the board runs, by its file, in Hz; RMG_NOT_KNOWN. The clock of a simulated
 * board is that of its accesses. */
int32_t rmg_grade_own_clock(const rmg_board *board, bool simulated);

#ifdef __cplusplus
}
#endif
#endif
