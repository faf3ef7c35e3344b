/* The suites of the host library's test program. */
#ifndef RMG_TESTS_HOST_SUITES_H
#define RMG_TESTS_HOST_SUITES_H

#include <CUnit/CUnit.h>

extern CU_TestInfo edge_tests[];
extern CU_TestInfo sim_tests[];
extern CU_TestInfo force_tests[];
extern CU_TestInfo part_tests[];
extern CU_TestInfo board_tests[];
extern CU_TestInfo fault_tests[];
extern CU_TestInfo probe_tests[];
extern CU_TestInfo run_tests[];
extern CU_TestInfo reach_tests[];
extern CU_TestInfo port_fault_tests[];
extern CU_TestInfo bounds_tests[];
extern CU_TestInfo suspect_tests[];
extern CU_TestInfo line_tests[];
extern CU_TestInfo coverage_tests[];
extern CU_TestInfo shares_tests[];
extern CU_TestInfo living_tests[];
extern CU_TestInfo plan_tests[];
extern CU_TestInfo long_tests[];
extern CU_TestInfo ram_tests[];
extern CU_TestInfo image_tests[];
extern CU_TestInfo replay_tests[];
extern CU_TestInfo beside_tests[];
extern CU_TestInfo picture_tests[];
extern CU_TestInfo rom_tests[];
extern CU_TestInfo job_rom_tests[];
extern CU_TestInfo verify_tests[];
extern CU_TestInfo compare_tests[];
extern CU_TestInfo rom_board_tests[];
extern CU_TestInfo imagework_tests[];
extern CU_TestInfo catalogue_tests[];
extern CU_TestInfo result_tests[];
extern CU_TestInfo failset_tests[];
extern CU_TestInfo fact_tests[];
extern CU_TestInfo meter_tests[];
extern CU_TestInfo again_tests[];
extern CU_TestInfo diagnosis_tests[];
extern CU_TestInfo boundary_tests[];
extern CU_TestInfo shared_tests[];
extern CU_TestInfo same_words_tests[];
extern CU_TestInfo wired_tests[];
extern CU_TestInfo chance_tests[];
extern CU_TestInfo causes_tests[];
extern CU_TestInfo heard_tests[];
extern CU_TestInfo line_rule_tests[];
extern CU_TestInfo stream_tests[];
extern CU_TestInfo based_tests[];
extern CU_TestInfo author_tests[];
extern CU_TestInfo shape_tests[];
extern CU_TestInfo trial_tests[];
extern CU_TestInfo at_once_tests[];
extern CU_TestInfo since_tests[];
extern CU_TestInfo astray_tests[];
extern CU_TestInfo untested_tests[];
extern CU_TestInfo job_tests[];
extern CU_TestInfo link_tests[];
extern CU_TestInfo chip_tests[];
extern CU_TestInfo grade_tests[];
extern CU_TestInfo limit_tests[];
extern CU_TestInfo testrom_tests[];
extern CU_TestInfo prompt_tests[];
extern CU_TestInfo search_tests[];
extern CU_TestInfo within_tests[];
extern CU_TestInfo neighbours_tests[];
extern CU_TestInfo moving_tests[];
extern CU_TestInfo noise_tests[];

#endif
