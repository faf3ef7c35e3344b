/* The suites that a newcomer's fault kind and image form have their tests in, without the others.
 */
#include "../check.h"
#include "../host/suites.h"

int main(void)
{
    const CU_SuiteInfo suites[] = {{"simulated board", NULL, NULL, NULL, NULL, sim_tests},
                                   {"images", NULL, NULL, NULL, NULL, image_tests},
                                   CU_SUITE_INFO_NULL};

    return check_main(suites);
}
