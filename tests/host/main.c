/* Tests of the simulated board and of the host library, through their public headers. */
#include "../check.h"
#include "suites.h"

int main(void)
{
    const CU_SuiteInfo suites[] = {
        {"simulated board", NULL, NULL, NULL, NULL, sim_tests},
        {"forced levels", NULL, NULL, NULL, NULL, force_tests},
        {"parts", NULL, NULL, NULL, NULL, part_tests},
        {"board files", NULL, NULL, NULL, NULL, board_tests},
        {"fault files", NULL, NULL, NULL, NULL, fault_tests},
        {"spot checks", NULL, NULL, NULL, NULL, probe_tests},
        {"edges", NULL, NULL, NULL, NULL, edge_tests},
        {"runs", NULL, NULL, NULL, NULL, run_tests},
        {"permitted words", NULL, NULL, NULL, NULL, reach_tests},
        {"a port that fails", NULL, NULL, NULL, NULL, port_fault_tests},
        {"bounds", NULL, NULL, NULL, NULL, bounds_tests},
        {"suspects", NULL, NULL, NULL, NULL, suspect_tests},
        {"wiring faults", NULL, NULL, NULL, NULL, line_tests},
        {"coverage", NULL, NULL, NULL, NULL, coverage_tests},
        {"shares in the simulator", NULL, NULL, NULL, NULL, shares_tests},
        {"plans", NULL, NULL, NULL, NULL, plan_tests},
        {"living faults", NULL, NULL, NULL, NULL, living_tests},
        {"long runs", NULL, NULL, NULL, NULL, long_tests},
        {"own memory", NULL, NULL, NULL, NULL, ram_tests},
        {"images", NULL, NULL, NULL, NULL, image_tests},
        {"image work", NULL, NULL, NULL, NULL, imagework_tests},
        {"catalogue", NULL, NULL, NULL, NULL, catalogue_tests},
        {"pictures", NULL, NULL, NULL, NULL, picture_tests},
        {"replay", NULL, NULL, NULL, NULL, replay_tests},
        {"ROMs of other boards", NULL, NULL, NULL, NULL, rom_board_tests},
        {"chips verified", NULL, NULL, NULL, NULL, verify_tests},
        {"chips read", NULL, NULL, NULL, NULL, rom_tests},
        {"failure set", NULL, NULL, NULL, NULL, failset_tests},
        {"facts", NULL, NULL, NULL, NULL, fact_tests},
        {"meter and probe", NULL, NULL, NULL, NULL, meter_tests},
        {"started again", NULL, NULL, NULL, NULL, again_tests},
        {"diagnosis of every kind", NULL, NULL, NULL, NULL, diagnosis_tests},
        {"now and then", NULL, NULL, NULL, NULL, chance_tests},
        {"what sockets share", NULL, NULL, NULL, NULL, shared_tests},
        {"boundaries", NULL, NULL, NULL, NULL, boundary_tests},
        {"rules for lines", NULL, NULL, NULL, NULL, line_rule_tests},
        {"lines of others", NULL, NULL, NULL, NULL, heard_tests},
        {"link", NULL, NULL, NULL, NULL, link_tests},
        {"chips on a pod", NULL, NULL, NULL, NULL, chip_tests},
        {"prompts", NULL, NULL, NULL, NULL, prompt_tests},
        {"streams", NULL, NULL, NULL, NULL, stream_tests},
        {"boards based on others", NULL, NULL, NULL, NULL, based_tests},
        {"boards by question", NULL, NULL, NULL, NULL, author_tests},
        {"shapes", NULL, NULL, NULL, NULL, shape_tests},
        {"trials", NULL, NULL, NULL, NULL, trial_tests},
        {"jobs", NULL, NULL, NULL, NULL, job_tests},
        {"results", NULL, NULL, NULL, NULL, result_tests},
        CU_SUITE_INFO_NULL,
    };

    return check_main(suites);
}
