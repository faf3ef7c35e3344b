#include "tell.h"

#include <stdio.h>

void bench_tell_suspects(const rmg_suspects *suspects)
{
    for (size_t i = 0; i < suspects->count; i++) {
        const rmg_suspect *s = &suspects->list[i];

        printf("  %5.1f %% kind %d of %d: %s | %s\n", 100 * s->confidence, (int)s->finding.kind,
               (int)s->finding.of, s->site, s->headline);
        for (size_t n = 0; n < s->reason_count; n++)
            printf("          %s\n", s->because[n]);
        for (size_t n = 0; n < s->replay_count && n < 4; n++)
            printf("          %s%s: %llu left %llu unseen %llu\n",
                   s->replays[n].same ? "the same: " : "", s->replays[n].fault,
                   (unsigned long long)s->replays[n].explained,
                   (unsigned long long)s->replays[n].left,
                   (unsigned long long)s->replays[n].unseen);
    }
}
